"""Periods that the data's ends cut are told from those that are short by nature."""

from __future__ import annotations

from pathlib import Path

import pytest

from dastan.core.analysis.document import Analysis, PlacedDimension, PlacedMeasure, Question
from dastan.core.engine.answer import answer
from dastan.core.engine.part_filled import part_filled
from dastan.core.engine.waist import Rights
from dastan.core.model.members import HierarchyMembers
from dastan.core.reading.window import window_of
from dastan.sources.folders.folder import open_folder
from tests.core.star import TODAY
from tests.sources.folder import MODEL, write_folder

HIERARCHY = "    hierarchies:\n      - {name: calendar, levels: [year, month]}\n"
MORE = """\
      - {name: day, caption: Day, key: date}
      - {name: iso_year, caption: Week year, key: iso_year}
      - {name: week, caption: Week, key: week, caption_column: week_caption}
      - {name: weekday, caption: Weekday, key: weekday}
    hierarchies:
      - {name: calendar, levels: [year, month, day]}
      - {name: week, levels: [iso_year, week, day]}
      - {name: weekday, levels: [weekday]}
"""


@pytest.fixture(scope="module")
def calendars(tmp_path_factory: pytest.TempPathFactory) -> dict[str, HierarchyMembers]:
    folder = write_folder(tmp_path_factory.mktemp("calendar"))
    calendar = MODEL.replace("calendar: {}", 'calendar: {first: "2021-01-01", last: "2023-12-31"}')
    (folder / "model.yaml").write_text(calendar.replace(HIERARCHY, MORE))
    source = open_folder(folder).source
    return {each: source.members("calendar", each) for each in ("calendar", "week", "weekday")}


def told(members: HierarchyMembers, oldest: str, newest: str) -> dict[str, list[str]]:
    """The captions of the periods that are filled in part, by level."""
    found = part_filled(members, oldest, newest)
    return {
        level.name: [caption for caption, cut in zip(level.captions, own.tolist(), strict=True) if cut]
        for level, own in zip(members.levels, found, strict=True)
        if own.any()
    }


def test_weeks_at_the_ends_of_a_calendar_are_cut_though_it_knows_nothing_beyond(
    calendars: dict[str, HierarchyMembers],
) -> None:
    # 1 January 2021 is the Friday of a week that began on Monday; 31 December 2023 is a Sunday.
    assert told(calendars["week"], "2021-01-01", "2023-12-31") == {"iso_year": ["2020"], "week": ["W53 2020"]}


def test_months_and_years_are_cut_where_the_data_is_and_february_is_not(calendars: dict[str, HierarchyMembers]) -> None:
    calendar = calendars["calendar"]
    assert told(calendar, "2021-01-01", "2023-12-31") == {}
    assert told(calendar, "2021-02-01", "2023-02-28") == {"year": ["2023"]}  # eleven months of twelve are nearly whole
    assert told(calendar, "2021-03-20", "2023-09-10") == {
        "year": ["2021", "2023"], "month": ["Mar 2021", "Sep 2023"],
    }  # fmt: skip


def test_what_is_not_made_of_days_is_not_told(calendars: dict[str, HierarchyMembers]) -> None:
    assert part_filled(calendars["weekday"], "2021-03-20", "2023-09-10") == ()


def test_headers_of_a_table_say_which_periods_are_filled_in_part(tmp_path: Path) -> None:
    folder = write_folder(tmp_path)
    (folder / "model.yaml").write_text(MODEL.replace(HIERARCHY, MORE))
    opened = open_folder(folder)
    document = Analysis(
        model="tickets",
        question=Question(
            measures=(PlacedMeasure(measure="sold"),),
            rows=(PlacedDimension(dimension="calendar", hierarchy="calendar", level="month"),),
            columns=(PlacedDimension(dimension="line", hierarchy="line", level="mode"),),
        ),
    )
    shown = answer(document, opened.model, opened.source, Rights("ines"), TODAY)
    window = window_of(shown, 0, 50, 0, 50)
    # The sales are of 5 January 2024 to 2 March 2025.
    rows = {each.caption: each.members[-1].is_part_filled for each in window.rows if each.members}
    assert rows == {"Jan 2024": True, "Feb 2024": False, "Feb 2025": False, "Mar 2025": True}
    assert not any(member.is_part_filled for each in window.columns for member in each.members)
