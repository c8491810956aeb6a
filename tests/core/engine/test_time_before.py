"""What there is to compare a total over several periods with: the same total a year before, where all of it is known."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from dastan.core.analysis.document import Analysis, Joint, PlacedMeasure
from dastan.core.analysis.views import Change
from dastan.core.model.conditions import MemberFilter
from dastan.sources.columnar.column_source import ColumnSource
from dastan.sources.folders.folder import open_folder
from tests.core.asked import ask, by, question
from tests.core.engine.test_oracle import cells
from tests.core.reading.test_remarks import MODEL

VIEW = Change(on="year", dimension="calendar", shows="difference")


def source_of_years(folder: Path) -> ColumnSource:
    """One tap in 2022, two in 2023, four in 2024; none before May 2022."""
    (folder / "model.yaml").write_text(MODEL)
    days = ["2022-05-01", "2023-02-01", "2023-05-01", "2024-01-31", "2024-05-01", "2024-06-01", "2024-12-31"]
    (folder / "taps.csv").write_text("\n".join(["day", *days]))
    return open_folder(folder).source


def change(*years: int) -> Analysis:
    """The change on the year before by year, of those years or of all."""
    asked = question("taps", columns=(by("calendar", "year"),))
    kept = MemberFilter(dimension="calendar", hierarchy="calendar", members=tuple((year,) for year in years))
    changed = replace(asked.question, measures=(PlacedMeasure(measure="taps", view=VIEW),))
    return replace(asked, model="taps", question=replace(changed, filters=(kept,) if years else ()))


def values(source: ColumnSource, document: Analysis) -> dict[object, object]:
    """By year, and in all."""
    found = cells(ask(document, source))
    return {column[0][1][0] if column else "all": value for (_, column, _), value in found.items()}


def test_a_total_from_the_first_year_on_has_nothing_before_it(tmp_path: Path) -> None:
    # Three years against the two that are known of would be 4 more: all of 2024, which is no change at all.
    assert values(source_of_years(tmp_path), change()) == {2022: None, 2023: 1, 2024: 2, "all": None}


def test_a_total_of_later_years_is_compared_with_the_same_years_before(tmp_path: Path) -> None:
    assert values(source_of_years(tmp_path), change(2023, 2024)) == {2023: 1, 2024: 2, "all": 3}


def test_a_filter_that_keeps_part_of_the_first_year_leaves_its_total_without_a_change(tmp_path: Path) -> None:
    assert values(source_of_years(tmp_path), change(2022, 2024)) == {2022: None, 2024: 2, "all": None}


def joined(*years: int) -> Joint:
    members = tuple((year,) for year in years)
    return Joint(name="both", caption="Both", dimension="calendar", hierarchy="calendar", members=members)


def test_joined_periods_are_compared_with_what_their_own_are_compared_with(tmp_path: Path) -> None:
    # 2023 and 2024 have six taps, the years before them three.
    document = replace(change(), joints=(joined(2023, 2024),))
    assert values(source_of_years(tmp_path), document) == {
        2022: None, 2023: 1, 2024: 2, "joint:both": 3, "all": None,
    }  # fmt: skip


def test_joined_periods_with_nothing_before_one_of_them_have_nothing_before(tmp_path: Path) -> None:
    document = replace(change(), joints=(joined(2022, 2023),))
    assert values(source_of_years(tmp_path), document)["joint:both"] is None
