"""What the numbers themselves give rise to: records that belong nowhere, a period that is not finished."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from dastan.core.analysis.document import Analysis, Joint, PlacedMeasure
from dastan.core.analysis.gestures import Silence, apply_gesture
from dastan.core.analysis.sentence import sentence_of
from dastan.core.analysis.views import Change
from dastan.core.analysis.warnings import Warning
from dastan.core.engine.answer import answer
from dastan.core.model.document import LayoutRow
from dastan.core.reading.remarks import remarks_of
from dastan.core.words.reading import read_question
from dastan.core.words.vocabulary import Vocabulary
from dastan.sources.folders.folder import open_folder
from tests.core.asked import EVERYTHING, STAR, ask, by, question
from tests.core.engine.random_model import source_of
from tests.core.engine.test_financial_layouts import laid_out, of
from tests.core.star import ROWS, TODAY


def remarks(document: Analysis) -> tuple[Warning, ...]:
    return remarks_of(document, ask(document), STAR.model, STAR)


def test_a_share_of_records_without_a_line_is_said_with_its_remedy_and_silenced() -> None:
    document = question("boardings", rows=(by("line", "mode"),))
    # One of eight boardings has no line.
    (found,) = remarks(document)
    assert found.text.startswith("12.5 % of ")
    assert found.text.endswith(" is without a line: left blank, or not known.")
    assert found.gesture is not None
    lifted = apply_gesture(document, found.gesture, STAR.model)
    assert remarks(lifted) == ()
    silenced = apply_gesture(document, Silence(warning=found.key), STAR.model)
    assert remarks(silenced) == ()
    assert silenced.question == document.question


def test_it_is_said_without_totals_deeper_down_and_inside_other_dimensions() -> None:
    lower = question("boardings", rows=(by("line", "line"),), row_total="none", column_total="none")
    nested = question("boardings", rows=(by("fare", "family"), by("line", "mode")), row_total="none")
    for document in (lower, nested):
        (found,) = remarks(document)
        assert found.text.endswith("12.5 % of Boardings is without a line: left blank, or not known."), found
        assert remarks(apply_gesture(document, found.gesture, STAR.model)) == ()  # type: ignore[arg-type]
    left = apply_gesture(lower, found.gesture, STAR.model)  # type: ignore[arg-type]
    assert sentence_of(left, STAR.model, STAR.members).text.endswith(
        ", without those without a line (line), no grand total row"
    )


def test_joint_members_beside_their_own_count_once_in_it() -> None:
    joint = Joint(name="all", caption="All", dimension="line", hierarchy="line", members=(("tram",), ("bus",)))
    document = replace(question("boardings", rows=(by("line", "mode"), by("fare", "family"))), joints=(joint,))
    assert [each.text for each in remarks(document)] == [
        "12.5 % of Boardings is without a line: left blank, or not known."
    ]


def test_sets_that_overlap_say_so_and_what_is_in_none_is_not_called_unknown() -> None:
    # Rails 3, first teams 6 and east 3 of 8 boardings; one is in none of them.
    document = question("boardings", rows=(by("picks", "picks", "line"),))
    nowhere, overlap = remarks(document)
    assert nowhere.text == "12.5 % of Boardings is in no picks."
    assert overlap.text == (
        "What is told by Picks overlaps: added up, it comes to 162 % of the total, which counts each record once."
    )
    assert nowhere.gesture is not None
    left = apply_gesture(document, nowhere.gesture, STAR.model)
    text = sentence_of(left, STAR.model, STAR.members).text
    assert text == "Boardings by Picks, without those in no picks (picks)"
    named = Vocabulary(STAR.model, STAR.members)
    assert read_question("boardings by picks without those in no picks (picks)", named).question.filters == (  # type: ignore[union-attr]
        left.question.filters
    )
    assert [each.text for each in remarks(left)] == [overlap.text.replace("162", "171")]


def test_a_share_of_what_has_both_signs_is_not_said() -> None:
    taps = [each | {"boardings": count} for each, count in zip(ROWS["taps"], (3, 1, -6, 1), strict=True)]
    source = source_of(ROWS | {"taps": taps})
    document = question("boardings", rows=(by("line", "mode"),))
    assert remarks_of(document, ask(document, source), source.model, source) == ()


def test_nothing_is_said_where_every_record_belongs_somewhere() -> None:
    assert remarks(question("boardings", columns=(by("fare", "family"),))) == ()


MODEL = """dastan: model/1
name: taps
caption: Taps
tables:
  taps: {file: taps.csv}
  days: {calendar: {}}
relationships:
  - {role: day, from_table: taps, from_column: day, to_table: days, to_column: date}
dimensions:
  - name: calendar
    caption: Calendar
    table: days
    key: date
    attributes: [{name: year, key: year}, {name: month, key: month}]
    hierarchies: [{name: calendar, levels: [year, month]}]
measures:
  - {name: taps, caption: Taps, table: taps, aggregate: count}
"""


def test_a_period_that_is_not_finished_is_said_beside_those_that_are(tmp_path: Path) -> None:
    (tmp_path / "model.yaml").write_text(MODEL)
    (tmp_path / "taps.csv").write_text("day\n2024-05-01\n2024-12-31\n2025-03-10\n")
    source = open_folder(tmp_path).source
    document = Analysis(model="taps", question=question("taps", columns=(by("calendar", "year"),)).question)

    def said(asked: Analysis) -> tuple[Warning, ...]:
        return remarks_of(asked, answer(asked, source.model, source, EVERYTHING, TODAY), source.model, source)

    (found,) = said(document)
    assert found.text == "2025 is not finished: the data goes to 10 Mar 2025, and the period to 31 Dec 2025."
    # A joint member stands after it, and is no period.
    joint = Joint(name="both", caption="Both", dimension="calendar", hierarchy="calendar", members=((2024,), (2025, 3)))
    joined = replace(document, joints=(joint,))
    assert remarks_of(joined, ask(joined, source), source.model, source)[0].text == found.text
    assert found.gesture is not None
    assert said(apply_gesture(document, found.gesture, source.model)) == ()


def test_a_change_on_a_whole_period_is_said_and_the_same_part_compared(tmp_path: Path) -> None:
    (tmp_path / "model.yaml").write_text(MODEL)
    (tmp_path / "taps.csv").write_text("day\n2024-02-01\n2024-05-01\n2024-12-31\n2025-03-10\n")
    source = open_folder(tmp_path).source
    view = Change(on="year", dimension="calendar", shows="earlier")
    asked = question("taps", columns=(by("calendar", "year"),)).question
    document = Analysis(model="taps", question=replace(asked, measures=(PlacedMeasure(measure="taps", view=view),)))

    def in_2025(one: Analysis) -> object:
        found = answer(one, source.model, source, EVERYTHING, TODAY)
        at = [int(each) for each in found.cell_columns].index(1)
        return found.values[0].at(at)

    # By 10 March the year before had one tap of its three.
    assert in_2025(document) == 3
    (found,) = remarks_of(document, answer(document, source.model, source, EVERYTHING, TODAY), source.model, source)
    assert found.text == "2025 is not finished: the data goes to 10 Mar 2025, and its changes are on whole periods."
    assert found.gesture is not None
    after = apply_gesture(document, found.gesture, source.model)
    assert in_2025(after) == 1
    words = sentence_of(after, source.model, source.members).text
    assert words == "Value in the same part of the year before of Taps against Year"


def test_a_first_period_that_the_data_begins_inside_of_is_said_where_others_are_compared_with_it(
    tmp_path: Path,
) -> None:
    (tmp_path / "model.yaml").write_text(MODEL)
    (tmp_path / "taps.csv").write_text("day\n2023-05-01\n2024-05-01\n2024-12-31\n2025-12-31\n")
    source = open_folder(tmp_path).source
    by_year = question("taps", columns=(by("calendar", "year"),)).question
    change = PlacedMeasure(measure="taps", view=Change(on="year", dimension="calendar"))

    def said(*measures: PlacedMeasure) -> list[str]:
        asked = Analysis(model="taps", question=replace(by_year, measures=measures))
        return [
            each.text
            for each in remarks_of(asked, answer(asked, source.model, source, EVERYTHING, TODAY), source.model, source)
        ]

    assert said(PlacedMeasure(measure="taps")) == []
    (found,) = said(PlacedMeasure(measure="taps"), change)
    assert found == (
        "2023 is known in part: the data begins on 2023-05-01, and what is compared with it is compared with that part."
    )
    # A first week without records, or a month of which the end is counted, is no part of a year.
    (tmp_path / "taps.csv").write_text("day\n2023-01-31\n2024-05-01\n2025-12-31\n")
    source = open_folder(tmp_path).source
    assert said(PlacedMeasure(measure="taps"), change) == []


def test_a_formula_that_adds_up_rows_with_members_in_common_is_told_and_a_part_taken_from_its_whole_is_not() -> None:
    rows = (
        LayoutRow(name="tram", kind="members", caption="Trams", members=(("tram",),)),
        LayoutRow(name="l1", kind="members", caption="Line 1", members=(("tram", 1, "L1"),)),
        LayoutRow(name="bus", kind="members", caption="Buses", members=(("bus",),)),
        LayoutRow(name="other", kind="formula", caption="Other trams", formula=of("-", "tram", "l1")),
        LayoutRow(name="road", kind="formula", caption="All", formula=of("+", "other", "bus")),
        LayoutRow(name="twice", kind="formula", caption="Twice", formula=of("+", "road", "tram")),
        LayoutRow(name="again", kind="formula", caption="Again", formula=of("+", "twice", "bus")),
    )
    asked = laid_out("boardings", rows_of=rows)
    found = [each.text for each in remarks_of(asked, ask(asked), STAR.model, STAR)]
    assert found == ["“Twice” counts “Trams” twice."]
