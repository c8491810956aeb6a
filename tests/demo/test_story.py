"""The story of the demo is found by one written sentence each: well within the four gestures that it may take."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from pathlib import Path

import pytest

from dastan.core.analysis.document import Analysis
from dastan.core.analysis.gestures import Rewrite, apply_gesture
from dastan.core.engine.answer import answer
from dastan.core.engine.waist import Rights
from dastan.core.reading.window import window_of
from dastan.core.words.reading import read_question
from dastan.core.words.tried import tried
from dastan.core.words.vocabulary import Vocabulary
from dastan.demo.generate import generate
from dastan.sources.folders.folder import OpenModel, open_folder

Grid = dict[tuple[str, str], float]
Ask = Callable[[str], Grid]


@pytest.fixture(scope="module")
def opened(tmp_path_factory: pytest.TempPathFactory) -> OpenModel:
    folder = tmp_path_factory.mktemp("story") / "demo"
    generate(folder, 40_000, show_progress=False)
    return open_folder(folder)


@pytest.fixture(scope="module")
def ask(opened: OpenModel) -> Ask:
    vocabulary = Vocabulary(opened.model, opened.source.members)

    def asked(text: str) -> Grid:
        """The cells of a written question on a new analysis, each by its row and column."""
        reading = read_question(text, vocabulary)
        assert reading.question is not None, (text, reading.fault)
        gesture = Rewrite(question=reading.question, levels_seen=reading.levels_seen, numbers=reading.numbers)
        document = apply_gesture(Analysis(model=opened.model.name), gesture, opened.model)
        shown = answer(document, opened.model, opened.source, Rights("ines"), date(2026, 1, 1))
        window = window_of(shown, 0, 99, 0, 99)
        heads = [column.members[-1].caption if column.members else "total" for column in window.columns]
        return {
            (row.caption, head): float(value)
            for row, values in zip(window.rows, window.values, strict=True)
            for head, value in zip(heads, values, strict=True)
            if value is not None
        }

    return asked


def test_a_ferry_line_loses_money(ask: Ask) -> None:
    net = {row: value for (row, _), value in ask("net by line").items()}
    lines = {row: value for row, value in net.items() if not row.startswith(("All", "without"))}
    assert [line for line, value in lines.items() if value < 0] == ["F2"]
    assert len(lines) == 31


def test_a_depot_is_over_plan(ask: Ask) -> None:
    cost = ask("operating cost by depot, actual against plan")
    over = {depot: cost[depot, "Actual"] / cost[depot, "Plan"] for depot, version in cost if version == "Plan"}
    assert max(over, key=lambda depot: over[depot]) == "Quarry Lane"


def test_a_week_of_strike(ask: Ask) -> None:
    weeks = {
        week: value for (week, _), value in ask("boardings by week for tram in 2023").items() if week[-1].isdigit()
    }
    full = sorted(weeks.values())
    assert min(weeks, key=lambda week: weeks[week]) == "W42 2023"
    assert full[0] < full[len(full) // 2] / 3


def test_a_fare_is_new(ask: Ask) -> None:
    revenue = ask("fare revenue by fare product against year")
    assert [year for fare, year in revenue if fare == "Coast saver" and year.isdigit()] == ["2024", "2025"]


def test_a_lines_incidents_stay_open(ask: Ask) -> None:
    (line, *_) = ask("incidents open by line for 2025, top 1 lines")
    assert line[0] == "14"


def test_what_the_documentation_writes_is_understood_and_can_be_asked(opened: OpenModel) -> None:
    text = (Path(__file__).parents[2] / "docs" / "sentence.md").read_text(encoding="utf-8")
    examples = [line for block in text.split("```")[1::2] for line in block.strip().splitlines()]
    assert len(examples) > 30
    vocabulary = Vocabulary(opened.model, opened.source.members)
    empty = Analysis(model=opened.model.name)
    for each in examples:
        reading = tried(read_question(each, vocabulary), empty, opened.model)
        assert (reading.fault, reading.refusal) == (None, ""), each
