"""A table that others start from: asked by all that it holds, it says again what it was made of."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace
from datetime import date
from pathlib import Path

import pytest

from dastan.core.analysis.document import Analysis, Joint, Opening, PlacedDimension, PlacedMeasure, Question
from dastan.core.analysis.made import with_made
from dastan.core.analysis.one_grain import opened_evenly
from dastan.core.engine.answer import Answer, answer
from dastan.core.engine.waist import DataSpan, Rights
from dastan.core.engine.watch import Watch
from dastan.core.errors import AppError
from dastan.core.reading.as_table import as_table
from dastan.core.words.asked import document_of
from dastan.core.words.vocabulary import Vocabulary
from dastan.demo.generate import generate
from dastan.exports.arrow import as_arrow
from dastan.exports.flat import FlatTable, Label
from dastan.sources.answered import AnsweredSource, open_answered
from dastan.sources.folders.folder import OpenModel, open_folder

TODAY = date(2026, 1, 1)
EVERYTHING = Rights("ines")
Row = tuple[tuple[Label, ...], tuple[float | None, ...]]


@pytest.fixture(scope="module")
def opened(tmp_path_factory: pytest.TempPathFactory) -> OpenModel:
    folder = tmp_path_factory.mktemp("answered") / "demo"
    generate(folder, 20_000, show_progress=False)
    return open_folder(folder)


def started_from(document: Analysis, opened: OpenModel) -> tuple[Answer, AnsweredSource]:
    """What a document comes to once it is opened evenly, and the model that its table is."""
    made = with_made(opened.model, document)
    found = answer(opened_evenly(document, made), opened.model, opened.source, EVERYTHING, TODAY)
    table = as_table(found)
    days = DataSpan(found.oldest, found.newest) if found.oldest and found.newest else None
    numbers = [as_arrow(each) for each in table.values]
    return found, open_answered(table, numbers, days, made, "table_1", "The table", "")


def of_all(source: AnsweredSource, like: Answer, *measures: str) -> Analysis:
    """Every dimension of a table on its rows, from the level on at which it began, open to the last."""
    began = [each.placed for each in (*like.rows.placements, *like.columns.placements)]
    placed = [
        (each.name, each.hierarchies[0], own) for each, own in zip(source.declared.dimensions, began, strict=True)
    ]
    rows = tuple(
        PlacedDimension(dimension=name, hierarchy=one.name, level=own.level, skipped=own.skipped)
        for name, one, own in placed
    )
    openings = tuple(Opening(dimension=name, hierarchy=one.name, levels=one.levels[:-1]) for name, one, _ in placed)
    asked = tuple(PlacedMeasure(measure=each) for each in measures)
    return Analysis(model="table_1", question=Question(measures=asked, rows=rows), openings=openings)


def asked_of(source: AnsweredSource, document: Analysis) -> Answer:
    return answer(document, source.model, source, EVERYTHING, TODAY)


def rows_of(found: Answer) -> Counter[Row]:
    """The flat rows, each value to six digits."""
    rows = FlatTable(found, [each.caption for each in found.measures]).rows(Watch())
    return Counter(
        (tuple(str(each) for each in labels), tuple(None if each is None else round(float(each), 6) for each in values))
        for labels, values in rows
    )


def test_asked_by_all_that_it_holds_it_is_the_table_again(opened: OpenModel) -> None:
    """For whatever the documents ask in words: the same members, the same numbers, and sums that add up."""
    text = (Path(__file__).parents[2] / "docs" / "sentence.md").read_text(encoding="utf-8")
    vocabulary = Vocabulary(opened.model, opened.source.members)
    compared = 0
    for words in (line for block in text.split("```")[1::2] for line in block.strip().splitlines()):
        try:
            document = document_of(words, vocabulary)
            found, source = started_from(document, opened)
        except AppError:  # it asks something first
            continue
        first = {each.expression: each.name for each in reversed(source.declared.measures) if each.expression}
        asked = asked_of(source, of_all(source, found, *reversed(first.values())))
        assert rows_of(asked) == rows_of(found), words
        compared += 1
    assert compared > 25


def test_what_adds_up_adds_up_and_what_overlaps_is_never_added(opened: OpenModel) -> None:
    vocabulary = Vocabulary(opened.model, opened.source.members)
    words = "boardings and fare per boarding by mode › line, the 2 largest lines in each mode by boardings, the rest as others"
    found, source = started_from(document_of(words, vocabulary), opened)
    whole = answer(document_of("boardings", vocabulary), opened.model, opened.source, EVERYTHING, TODAY)
    total = asked_of(source, of_all(source, found, "boardings"))
    assert total.values[0].at(len(total.cell_rows) - 1) == whole.values[0].at(0)
    # A ratio has no sum: what may be asked of it is its average, its least and its greatest, over the rows.
    assert [each.aggregate for each in source.declared.measures] == ["sum", "average", "min", "max", "count"]
    assert not source.declared.dimensions[0].alternatives
    # A joint member holds the records of others: no total stands over it and them.
    rail = Joint(name="rail", caption="Rail", dimension="line", hierarchy="line", members=(("tram",), ("metro",)))
    document = replace(document_of("boardings by mode", vocabulary), joints=(rail,))
    found, source = started_from(document, opened)
    line = source.declared.dimensions[0]
    assert (line.alternatives, line.default) == (True, (("tram",),))
    shown = asked_of(source, of_all(source, found, "boardings"))
    assert rows_of(shown) == rows_of(found)
    assert ("Rail",) in {labels for labels, _ in rows_of(shown)}
    assert shown.rows.total is None
