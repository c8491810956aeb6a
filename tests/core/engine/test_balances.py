"""What a balance is when a time begins, and how it moves until it ends, worked out by hand."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

from dastan.core.analysis.document import Analysis, PlacedMeasure
from dastan.core.analysis.sentence import sentence_of
from dastan.core.analysis.views import Balance, View
from dastan.core.engine.answer import questioner_of
from dastan.core.engine.size import Budget
from dastan.core.errors import InputError
from dastan.core.model.conditions import AttributeFilter, Condition
from dastan.core.reading.account import account_of
from dastan.core.reading.backing import place_of
from dastan.sources.columnar.column_source import ColumnSource
from dastan.sources.folders.folder import open_folder
from tests.core.asked import EVERYTHING, ask, by, question
from tests.core.engine.test_oracle import cells
from tests.core.star import TODAY

MODEL = """dastan: model/1
name: stock
caption: Stock
tables:
  stock: {file: stock.csv}
  works: {file: works.csv}
  days: {calendar: {}}
relationships:
  - {role: day, from_table: stock, from_column: day, to_table: days, to_column: date}
  - {role: begun, from_table: works, from_column: begun, to_table: days, to_column: date}
dimensions:
  - name: calendar
    caption: Calendar
    table: days
    key: date
    attributes: [{name: year, key: year}, {name: month, key: month}, {name: day, key: date}]
    hierarchies: [{name: calendar, levels: [year, month, day]}]
  - name: depot
    caption: Depot
    table: stock
    attributes: [{name: depot, key: depot}]
    hierarchies: [{name: depot, levels: [depot]}]
measures:
  - {name: held, caption: Held, table: stock, aggregate: balance, expression: held, time: calendar}
  - {name: at_first, caption: At first, table: stock, aggregate: balance, expression: held, time: calendar, over_time: first}
  - {name: rows, caption: Rows, table: stock, aggregate: count}
  - {name: open, caption: Open works, table: works, aggregate: open, started: begun, ended: done, time: calendar}
"""
STOCK = """day,depot,held
2024-10-31,north,10
2024-10-31,south,5
2024-11-10,north,12
2024-11-10,south,5
2024-11-30,north,11
2024-12-31,north,14
2024-12-31,south,2
2025-01-05,north,20
2025-01-31,north,17
2025-01-31,south,4
"""
"""South counts nothing at the end of November."""
WORKS = "begun,done\n2024-10-02,2024-12-05\n2024-11-15,\n2024-12-20,2025-01-04\n2025-01-10,\n"


@pytest.fixture
def source(tmp_path: Path) -> ColumnSource:
    for name, text in (("model.yaml", MODEL), ("stock.csv", STOCK), ("works.csv", WORKS)):
        (tmp_path / name).write_text(text)
    return open_folder(tmp_path).source


def asked(shows: str, *filters: Condition, measure: str = "held", level: str | None = "month", by_depot: bool = False):  # type: ignore[no-untyped-def]
    view: View = Balance(shows=shows)  # type: ignore[arg-type]
    opened = () if level is None else (by("calendar", level),)
    found = question(rows=opened, columns=(by("depot", "depot"),) if by_depot else (), filters=filters)
    placed = PlacedMeasure(measure=measure, view=view)
    return replace(found, model="stock", question=replace(found.question, measures=(placed,)))


def since(day: str) -> Condition:
    return AttributeFilter(dimension="calendar", attribute="day", operator="at_least", values=(day,))


def values(document: Analysis, source: ColumnSource) -> dict[str, object]:
    """By row and, where there are columns, column."""
    found = cells(ask(document, source))
    return {
        " ".join(str(key) for header in (row, column) for _, path in header for key in path) or "all": value
        for (row, column, _), value in found.items()
        if value is not None
    }


def test_a_period_opens_with_what_the_one_before_it_closed_with(source: ColumnSource) -> None:
    # October has nothing before it, so that it has no opening, and no movement.
    assert values(asked("opening"), source) == {"2024 11": 15, "2024 12": 11, "2025 1": 16}
    assert values(asked("closing"), source) == {"2024 10": 15, "2024 11": 11, "2024 12": 16, "2025 1": 21, "all": 21}
    assert values(asked("movement"), source) == {"2024 11": -4, "2024 12": 5, "2025 1": 5}


def test_whoever_has_nothing_at_either_end_moves_by_the_other(source: ColumnSource) -> None:
    found = values(asked("movement", by_depot=True), source)
    assert (found["2024 11 north"], found["2024 11 south"], found["2024 11"]) == (1, -5, -4)
    assert (found["2024 12 north"], found["2024 12 south"], found["2024 12"]) == (3, 2, 5)


def test_the_movements_of_periods_add_up_to_that_of_their_whole(source: ColumnSource) -> None:
    found = values(asked("movement", since("2024-11-01")), source)
    assert found == {"2024 11": -4, "2024 12": 5, "2025 1": 5, "all": 6}
    assert values(asked("opening", since("2024-11-01")), source)["all"] == 15


def test_a_period_that_a_filter_cuts_short_opens_before_its_first_day_that_is_left(source: ColumnSource) -> None:
    # From the 15th of November on: 17 were held on the 10th; the month opens with these, though it is its own day.
    kept = since("2024-11-15")
    assert values(asked("opening", kept), source) == {"2024 11": 17, "2024 12": 11, "2025 1": 16, "all": 17}
    assert values(asked("movement", kept), source) == {"2024 11": -6, "2024 12": 5, "2025 1": 5, "all": 4}
    assert values(asked("movement", kept, level="year"), source) == {"2024": -1, "2025": 5, "all": 4}


def test_without_a_calendar_on_the_table_its_filter_is_the_time(source: ColumnSource) -> None:
    assert values(asked("opening", since("2025-01-02"), level=None), source) == {"all": 16}
    assert values(asked("movement", since("2025-01-02"), level=None), source) == {"all": 5}
    assert values(asked("opening", level=None), source) == {}


def test_what_is_taken_at_the_first_day_opens_and_closes_like_any_balance(source: ColumnSource) -> None:
    assert values(asked("closing", measure="at_first"), source)["2025 1"] == 21
    assert values(asked("movement", measure="at_first"), source)["2025 1"] == 5


def test_what_is_open_opens_with_what_was_open_the_evening_before(source: ColumnSource) -> None:
    # Days without records count, too: the calendar goes on to the end of its year.
    found = values(asked("opening", since("2024-11-01"), measure="open"), source)
    assert [found[each] for each in ("2024 11", "2024 12", "2025 1", "2025 2", "all")] == [1, 2, 2, 2, 1]
    found = values(asked("movement", since("2024-11-01"), measure="open"), source)
    assert [found[each] for each in ("2024 11", "2024 12", "2025 1", "2025 2", "all")] == [1, 0, 0, 0, 1]


@pytest.mark.parametrize("measure", ["held", "at_first", "open"])
@pytest.mark.parametrize("shows", ["opening", "movement", "closing"])
def test_every_one_agrees_with_its_records(shows: str, measure: str, source: ColumnSource) -> None:
    document = asked(shows, since("2024-11-15"), measure=measure, by_depot=measure != "open")
    result = ask(document, source)
    looked = questioner_of(document, source.model, source, EVERYTHING, TODAY, source.group, Budget())
    accounts = [account_of(result, place_of(result, at, 0), *looked, source.members, ()) for at in range(4)]
    assert all(each.agrees for each in accounts), accounts
    assert all(each.value is not None for each in accounts)


def test_the_sentence_says_it_by_its_name(source: ColumnSource) -> None:
    text = sentence_of(asked("opening"), source.model, source.members).text
    assert text == "Opening balance of Held by Month"


def test_what_is_added_up_along_time_has_no_opening(source: ColumnSource) -> None:
    with pytest.raises(InputError, match="Rows is no balance, so it has no opening and no movement"):
        ask(asked("opening", measure="rows"), source)
