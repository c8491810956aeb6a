"""Views of a measure: put by gesture, named, turned with the table, offered and accounted for. Values by hand."""

from __future__ import annotations

from dataclasses import replace

import pytest

from dastan.core.analysis.document import Analysis, Joint, NumberDress, Opening, Order, PlacedMeasure
from dastan.core.analysis.gestures import (
    DropMissing,
    PutMeasure,
    PutViews,
    SetOrder,
    ShowView,
    SwapAxes,
    apply_gesture,
    step_words,
)
from dastan.core.analysis.offer import Thing
from dastan.core.analysis.offers import offers_for
from dastan.core.analysis.sentence import sentence_of
from dastan.core.analysis.view_captions import heading_of
from dastan.core.analysis.views import (
    Beside,
    Change,
    CumulativeShare,
    Index,
    Moving,
    Rank,
    RunningTotal,
    Share,
    ToDate,
    View,
)
from dastan.core.engine.answer import questioner_of
from dastan.core.engine.size import Budget
from dastan.core.errors import InputError, NotFoundError
from dastan.core.model.conditions import LevelName, MemberFilter
from dastan.core.reading.account import Account, account_of
from dastan.core.reading.backing import place_of
from dastan.core.reading.remarks import remarks_of
from dastan.sources.columnar.column_source import ColumnSource
from tests.core.asked import EVERYTHING, STAR, ask, by, limited, question, table
from tests.core.engine.random_model import source_of
from tests.core.star import ROWS, TODAY

MODEL = STAR.model
DAYS = ["2023-01-31", "2024-01-01", "2024-01-31", "2024-02-28", "2024-02-29", "2025-01-01", "2025-01-31", "2025-02-28"]
YEAR = Change(on="year", dimension="calendar", shows="earlier")
MODE = Share(of="level", level=LevelName(dimension="line", hierarchy="line", level="mode"))


def dated(*taps: tuple[str, str | None, int]) -> ColumnSource:
    """A star of taps of so many boardings on days, by lines; the calendar has the days of `DAYS`."""
    first = ROWS["taps"][0]
    days = [{"day": day, "year": int(day[:4]), "month": int(day[5:7])} for day in DAYS]
    found = [{**first, "day": day, "line_id": line, "boardings": boardings} for day, line, boardings in taps]
    return source_of({**ROWS, "days": days, "taps": found})


def values(document: Analysis, source: ColumnSource = STAR, measure: int = -1) -> list[list[float | None]]:
    """The numbers of one measure, rows by columns."""
    result = ask(document, source)
    found: list[list[float | None]] = [[None] * len(result.columns) for _ in range(len(result.rows))]
    for at, (row, column) in enumerate(zip(result.cell_rows, result.cell_columns, strict=True)):
        value = result.values[measure].at(at)
        found[row][column] = None if value is None else round(float(value), 6)
    return found


def viewing(view: View, document: Analysis, measure: str = "boardings") -> Analysis:
    placed = (PlacedMeasure(measure=measure), PlacedMeasure(measure=measure, view=view))
    return replace(document, question=replace(document.question, measures=placed))


def by_mode(**more: object) -> Analysis:
    return question("boardings", rows=(by("line", "mode"),), columns=(by("fare", "family"),), **more)


def test_shares_divide_by_what_stands_above() -> None:
    # Boardings: bus 4 of b; tram 3 of a; without a line 1 of b; 8 in all.
    assert values(viewing(Share(of="whole"), by_mode())) == [
        [None, 0.5, 0.5], [0.375, None, 0.375], [None, 0.125, 0.125], [0.375, 0.625, 1],
    ]  # fmt: skip
    assert values(viewing(Share(of="column"), by_mode())) == [
        [None, 0.8, 0.5], [1, None, 0.375], [None, 0.2, 0.125], [1, 1, 1],
    ]  # fmt: skip
    assert values(viewing(Share(of="row"), by_mode())) == [[None, 1, 1], [1, None, 1], [None, 1, 1], [0.375, 0.625, 1]]


def test_a_share_divides_by_the_value_before_limits() -> None:
    rows = (limited(by("line", "mode"), level="mode", amount=1),)
    for over in ("scope", "shown"):
        document = viewing(Share(of="column"), question("boardings", rows=rows, totals_over=over))
        assert values(document)[0] == [0.5]


def test_a_share_of_what_a_row_stands_in_and_of_a_level() -> None:
    opened = (Opening(dimension="line", hierarchy="line", levels=("mode",)),)
    document = question("boardings", rows=(by("line", "mode"),), openings=opened)
    # bus 4: team 1 4; tram 3: team 1 2, team 2 1; without a line 1.
    assert values(viewing(Share(of="parent"), document)) == [
        [0.5], [1], [0.375], [pytest.approx(2 / 3, abs=1e-6)], [pytest.approx(1 / 3, abs=1e-6)], [0.125], [None],
    ]  # fmt: skip
    assert values(viewing(MODE, document)) == [
        [1], [1], [1], [pytest.approx(2 / 3, abs=1e-6)], [pytest.approx(1 / 3, abs=1e-6)], [1], [None],
    ]  # fmt: skip
    # Where the mode itself is not shown it is what lines are a share of all the same.
    lines = question("boardings", rows=(by("line", "line"),))
    assert values(viewing(MODE, lines))[:2] == [[1], [pytest.approx(2 / 3, abs=1e-6)]]


def test_the_year_before_is_the_same_place_and_whole_months_are_whole() -> None:
    source = dated(
        ("2024-01-01", "L1", 5),
        ("2024-02-28", "L1", 3),
        ("2024-02-29", "L1", 4),
        ("2025-01-01", "L1", 7),
        ("2025-02-28", "L2", 9),
    )
    kept = MemberFilter(dimension="calendar", hierarchy="calendar", members=((2025,),))
    months = question("boardings", columns=(by("calendar", "month"),), filters=(kept,))
    # February had 29 days: all of them stand against the 28 of 2025; the total is over 2024.
    assert values(viewing(YEAR, months), source) == [[5, 7, 12]]
    days = question("boardings", columns=(by("calendar", "day"),), filters=(kept,))
    assert values(viewing(YEAR, days), source) == [[5, 3, 12]]
    alone = question("boardings", filters=(kept,))
    assert values(viewing(YEAR, alone), source) == [[12]]
    percent = Change(on="year", dimension="calendar")
    assert values(viewing(percent, alone), source) == [[pytest.approx(4 / 12, abs=1e-6)]]


def test_a_change_on_what_is_not_there_is_none_but_on_nothing_of_a_known_time_is_all_of_it() -> None:
    source = dated(("2024-01-01", "L1", 5), ("2025-01-01", "L1", 7), ("2025-01-01", "L3", 2))
    difference = Change(on="year", dimension="calendar", shows="difference")
    document = question("boardings", rows=(by("line", "mode"),), columns=(by("calendar", "year"),))
    # Nothing is known of 2023, so neither 2024 nor both years together have one before; in 2024 there was no bus.
    assert values(viewing(difference, document), source) == [[None, 2, None], [None, 2, None], [None, 4, None]]


def test_to_date_is_from_the_beginning_of_the_year_whatever_is_kept() -> None:
    source = dated(("2024-01-01", "L1", 5), ("2024-02-28", "L1", 3), ("2024-02-29", "L3", 2), ("2025-01-01", "L3", 7))
    to_date = ToDate(level=LevelName(dimension="calendar", hierarchy="calendar", level="year"))
    opened = (Opening(dimension="calendar", hierarchy="calendar", levels=("year",)),)
    document = question("boardings", columns=(by("calendar", "year"),), openings=opened)
    # January and February 2024, the year itself, January 2025, that year, and a total of both, which has no date.
    assert values(viewing(to_date, document), source) == [[5, 10, 10, 7, 7, None]]
    kept = MemberFilter(dimension="calendar", hierarchy="calendar", members=((2024, 2),))
    months = question("boardings", columns=(by("calendar", "month"),), filters=(kept,))
    assert values(viewing(to_date, months), source) == [[10, None]]
    assert values(viewing(to_date, question("boardings", filters=(kept,))), source) == [[10]]
    rows = question("boardings", rows=(by("line", "mode"),), columns=(by("calendar", "day"),))
    # Buses first: none on the first two days. Trams had none on the third, and have their eight of the year so far.
    assert [each[:3] for each in values(viewing(to_date, rows), source)[:2]] == [[None, None, 2], [5, 8, 8]]
    with pytest.raises(InputError, match="cannot be added up to a date"):
        ask(viewing(to_date, question("cards"), "cards"), source)


def test_the_period_before_is_of_the_header_s_own_level() -> None:
    source = dated(("2024-01-01", "L1", 5), ("2024-02-28", "L1", 3), ("2025-01-01", "L1", 7))
    before = Change(on="period", dimension="calendar", shows="earlier")
    opened = (Opening(dimension="calendar", hierarchy="calendar", levels=("year",)),)
    document = question("boardings", columns=(by("calendar", "year"),), openings=opened)
    # Jan and Feb 2024, 2024, Jan 2025, 2025, and the total, which has no time before it.
    assert values(viewing(before, document), source) == [[None, 5, None, 3, 8, None]]
    kept = MemberFilter(dimension="calendar", hierarchy="calendar", members=((2025, 1),))
    assert values(viewing(before, question("boardings", filters=(kept,))), source) == [[3]]


def test_a_balance_is_compared_with_that_of_the_year_before() -> None:
    fleet = [
        {"day": day, "line_id": "L1", "available": count}
        for day, count in (("2024-01-01", 3), ("2024-01-31", 5), ("2025-01-01", 8))
    ]
    days = [{"day": day, "year": int(day[:4]), "month": int(day[5:7])} for day in DAYS]
    source = source_of({**ROWS, "days": days, "fleet": fleet})
    document = question("closing", columns=(by("calendar", "year"),))
    assert values(viewing(YEAR, document, "closing"), source)[0][:2] == [None, 5]


def test_running_totals_and_ranks() -> None:
    rows = question("boardings", rows=(by("line", "mode"),))
    assert values(viewing(RunningTotal(along="rows"), rows)) == [[4], [7], [8], [8]]
    assert values(viewing(Rank(along="rows"), rows)) == [[1], [2], [3], [None]]
    # Where there is no record, the total so far goes on.
    assert values(viewing(RunningTotal(along="columns"), by_mode()))[1] == [3, 3, 3]
    opened = (Opening(dimension="line", hierarchy="line", levels=("mode",)),)
    nested = question("boardings", rows=(by("line", "mode"),), openings=opened)
    anew = RunningTotal(along="rows", restarts=True)
    assert values(viewing(anew, nested)) == [[4], [4], [7], [2], [3], [8], [8]]


def test_what_does_not_add_up_has_no_running_total() -> None:
    with pytest.raises(InputError, match="Cards cannot be added up"):
        ask(viewing(RunningTotal(along="rows"), question("cards", rows=(by("line", "mode"),)), "cards"))
    # A ratio has one: of what it divides. Revenue 10 of 4 boardings on the bus, 7.50 of 3 on the trams.
    ratio = viewing(RunningTotal(along="rows"), question("fare_each", rows=(by("line", "mode"),)), "fare_each")
    assert values(ratio)[:2] == [[2.5], [2.5]]


def test_a_view_is_put_beside_and_in_place_and_back() -> None:
    document = by_mode()
    beside = apply_gesture(document, PutMeasure(measure="boardings", view=Share(of="row"), at=1), MODEL)
    assert sentence_of(beside, MODEL, STAR.members).text == "Boardings and its share of the row by Mode against Family"
    assert heading_of(1, beside.question, MODEL, STAR.members) == "of the row"
    alone = apply_gesture(document, ShowView(placed=PlacedMeasure(measure="boardings"), view=YEAR), MODEL)
    assert sentence_of(alone, MODEL, STAR.members).text.startswith("Value in the year before of Boardings by")
    assert heading_of(0, alone.question, MODEL, STAR.members) == "Value in the year before of Boardings"
    back = ShowView(placed=alone.question.measures[0])
    assert apply_gesture(alone, back, MODEL) == document
    assert step_words(alone, back, MODEL, STAR.members) == "showed Boardings"
    with pytest.raises(InputError, match="not in the table"):
        apply_gesture(document, ShowView(placed=PlacedMeasure(measure="taps"), view=YEAR), MODEL)
    with pytest.raises(InputError, match="stands twice"):
        apply_gesture(beside, ShowView(placed=PlacedMeasure(measure="boardings"), view=Share(of="row")), MODEL)


def test_headings_are_short_beside_their_measure() -> None:
    def heading(view: View) -> str:
        return heading_of(1, viewing(view, by_mode()).question, MODEL, STAR.members)

    assert heading(MODE) == "of the mode"
    assert heading(Change(on="year", dimension="calendar")) == "on the year before"
    assert heading(Change(on="year", dimension="calendar", same_part=True)) == "on the year before, in part"
    assert heading(Moving(along="rows", count=3)) == "moving average of 3"
    on_plan = Change(on="member", dimension="line", hierarchy="line", path=("tram",), shows="difference")
    assert heading(on_plan) == "more than tram"
    assert heading_of(0, viewing(MODE, by_mode()).question, MODEL, STAR.members) == "Boardings"


def test_turning_the_table_turns_its_views_and_all_that_names_them() -> None:
    own = PlacedMeasure(measure="boardings", view=Share(of="row"))
    document = apply_gesture(by_mode(), ShowView(placed=PlacedMeasure(measure="boardings"), view=own.view), MODEL)
    order = SetOrder(dimension="line", hierarchy="line", order=Order(by="measure", measure=own))
    document = apply_gesture(document, order, MODEL)
    dress = replace(document.dress, numbers=(NumberDress(measure=own, scale="thousands"),))
    document = replace(document, dress=dress)
    turned = apply_gesture(document, SwapAxes(), MODEL)
    column = PlacedMeasure(measure="boardings", view=Share(of="column"))
    assert turned.question.measures == (column,)
    assert turned.question.columns[0].order.measure == column
    assert turned.dress.numbers[0].measure == column
    assert apply_gesture(turned, SwapAxes(), MODEL) == document
    assert values(turned) == [list(each) for each in zip(*values(document), strict=True)]


def test_offers_are_those_that_say_something() -> None:
    def offered(document: Analysis, under: str) -> list[str]:
        thing = Thing(kind="measure", measure="boardings", view=document.question.measures[0].view)
        return [each.words for each in offers_for(document, thing, MODEL, STAR.members) if each.under == under]

    assert offered(question("boardings"), "Its share, beside it") == []
    assert offered(by_mode(), "Its share, beside it") == [
        "Share of the whole",
        "Share of the column",
        "Share of the row",
    ]
    assert "Change on the period before" not in offered(by_mode(), "Its change, beside it")
    timed = question("boardings", columns=(by("calendar", "year"),))
    assert "Change on the period before" in offered(timed, "Its change, beside it")
    opened = replace(by_mode(), openings=(Opening(dimension="line", hierarchy="line", levels=("mode",)),))
    assert offered(opened, "Its share, beside it")[3:] == ["Share of what it stands in", "Share of the mode"]
    placed = PlacedMeasure(measure="boardings", view=YEAR)
    shown = replace(by_mode(), question=replace(by_mode().question, measures=(placed,)))
    assert offered(shown, "In its place")[0] == "Boardings itself"
    assert offered(shown, "Its share, beside it") == []


def test_every_offer_of_a_view_can_be_taken() -> None:
    document = question("boardings", rows=(by("line", "mode"), by("fare", "family")), columns=(by("calendar", "year"),))
    thing = Thing(kind="measure", measure="boardings")
    taken = [each.gesture for each in offers_for(document, thing, MODEL, STAR.members) if each.gesture is not None]
    assert sum(isinstance(each, ShowView) for each in taken) > 8
    for each in taken:
        ask(apply_gesture(document, each, MODEL))


def test_what_a_view_cannot_be_is_said() -> None:
    with pytest.raises(InputError, match="Fare is not a calendar"):
        ask(viewing(Change(on="year", dimension="fare"), by_mode()))
    with pytest.raises(NotFoundError):
        ask(viewing(Change(on="year", dimension="gone"), by_mode()))
    with pytest.raises(InputError, match="does not say of which"):
        ask(viewing(Share(of="level"), by_mode()))
    rows = (limited(by("line", "mode"), level="mode", amount=1, by=PlacedMeasure(measure="boardings", view=YEAR)),)
    with pytest.raises(InputError, match="cannot be ranked"):
        ask(question("boardings", rows=rows))


def test_a_view_of_what_is_gone_leaves_the_rest() -> None:
    gone = Share(of="level", level=LevelName(dimension="line", hierarchy="line", level="gone"))
    document = viewing(gone, by_mode())
    assert apply_gesture(document, DropMissing(), MODEL).question.measures == (PlacedMeasure(measure="boardings"),)


def accounted(document: Analysis, row: int, column: int, source: ColumnSource) -> Account:
    asked = questioner_of(document, source.model, source, EVERYTHING, TODAY, source.group, Budget())
    found = ask(document, source)
    return account_of(found, place_of(found, row, column), *asked, source.members, ())


def test_the_working_paper_has_each_term_with_its_records() -> None:
    source = dated(("2024-01-01", "L1", 5), ("2024-01-31", "L2", 3), ("2025-01-01", "L1", 6))
    document = viewing(
        Change(on="year", dimension="calendar"), question("boardings", columns=(by("calendar", "year"),))
    )
    found = accounted(document, 0, 3, source)
    assert [(each.caption, each.records, each.value) for each in found.operands] == [
        ("Boardings", 1, "6"), ("Boardings in the year before", 2, "8"),
    ]  # fmt: skip
    assert (found.value, found.in_percent, found.agrees) == ("-0.25", True, True)
    assert found.formula.startswith("(Boardings − Boardings in the year before) ÷")
    empty = accounted(document, 0, 1, source)
    assert empty.why_no_value == "Boardings in the year before is empty here, so there is nothing to compare with."
    share = accounted(viewing(Share(of="column"), by_mode()), 0, 3, STAR)
    assert [(each.caption, each.value) for each in share.operands] == [
        ("Boardings", "4"),
        ("Boardings of the column", "5"),
    ]


def test_a_member_in_place_of_all_others_of_its_dimension() -> None:
    on_tram = Change(on="member", dimension="line", hierarchy="line", path=("tram",), shows="earlier")
    kept = MemberFilter(dimension="line", hierarchy="line", members=(("bus",),))
    # Boardings: 4 on the bus, all of family b; 3 on trams, all of family a. Each stands against the trams.
    families = question("boardings", rows=(by("fare", "family"),), filters=(kept,))
    assert values(viewing(on_tram, families)) == [[None], [3]]
    assert values(viewing(replace(on_tram, shows="difference"), families)) == [[4], [1]]
    modes = question("boardings", rows=(by("line", "mode"),))
    assert values(viewing(on_tram, modes)) == [[3], [3], [3], [None]]
    assert sentence_of(viewing(on_tram, modes), MODEL, STAR.members).text == "Boardings and its value in tram by Mode"
    with pytest.raises(InputError, match="does not say on which"):
        ask(viewing(Change(on="member", dimension="line"), modes))
    # A total over a list of the same dimension is a total over its members too: it stands against none of them.
    picks = question("boardings", rows=(by("picks", "picks", "line"),))
    assert values(viewing(on_tram, picks)) == [[None]] * 5


def test_several_views_are_put_in_at_once_and_none_twice() -> None:
    own = PlacedMeasure(measure="boardings")
    wanted = (Share(of="whole"), YEAR)
    document = apply_gesture(by_mode(), PutViews(placed=own, views=wanted), MODEL)
    assert [each.view for each in document.question.measures] == [None, *wanted]
    words = step_words(by_mode(), PutViews(placed=own, views=wanted), MODEL, STAR.members)
    assert words == "Boardings, its share of the whole and value in the year before"
    more = PutViews(placed=own, views=(YEAR, Rank(along="rows")))
    assert [each.view for each in apply_gesture(document, more, MODEL).question.measures] == [
        None, Rank(along="rows"), *wanted,
    ]  # fmt: skip
    with pytest.raises(InputError, match="not in the table"):
        apply_gesture(document, PutViews(placed=PlacedMeasure(measure="taps"), views=wanted), MODEL)
    with pytest.raises(InputError, match="No view is named"):
        apply_gesture(document, PutViews(placed=own, views=()), MODEL)


def test_what_moves_along_the_table() -> None:
    source = dated(("2024-01-01", "L1", 4), ("2024-02-28", "L1", 2), ("2025-01-01", "L1", 6))
    months = question("boardings", columns=(by("calendar", "month"),))
    # January and February 2024, January 2025, and the total, which stands alone.
    assert values(viewing(Moving(along="columns", count=2), months), source) == [[None, 3, 4, None]]
    assert values(viewing(Moving(along="columns", count=2, shows="sum"), months), source) == [[None, 6, 8, None]]
    assert values(viewing(Index(along="columns"), months), source) == [[100, 50, 150, None]]
    for count in (0, 1, 367):
        with pytest.raises(InputError, match=f"Nothing moves over {count}"):
            ask(viewing(Moving(along="rows", count=count), months), source)


def test_a_joint_member_that_stands_further_down_stands_in_the_total() -> None:
    # Two teams of different modes, 2 and 4 of 8 boardings: on the way down to them nothing stands but themselves.
    joint = Joint(name="both", caption="Both", dimension="line", hierarchy="line", members=(("tram", 1), ("bus", 1)))
    opened = (Opening(dimension="line", hierarchy="line", levels=("mode",)),)
    modes = replace(question("boardings", rows=(by("line", "mode"),), openings=opened), joints=(joint,))
    shared = viewing(Share(of="parent"), modes)
    alone = replace(shared, question=replace(shared.question, measures=shared.question.measures[1:]))
    assert [row for row in table(ask(alone)) if row[0].strip() == "Both"] == [("Both", "0.75")]


def test_a_cumulative_share_counts_the_largest_first() -> None:
    modes = question("boardings", rows=(by("line", "mode"),))
    # bus 4, tram 3, without a line 1; of 8.
    assert values(viewing(CumulativeShare(along="rows"), modes)) == [[0.5], [0.875], [1], [None]]
    with pytest.raises(InputError, match="cannot be added up"):
        ask(viewing(CumulativeShare(along="rows"), question("cards", rows=(by("line", "mode"),)), "cards"))


def test_a_chart_adds_up_no_views() -> None:
    document = viewing(Rank(along="rows"), question("boardings", rows=(by("line", "mode"),)))
    assert ask(document).adds_up == (True, False)
    assert ask(viewing(YEAR, by_mode())).adds_up == (True, True)
    alone = replace(document, question=replace(document.question, measures=document.question.measures[1:]))
    # Nor is there a remark of how much of a rank belongs nowhere.
    assert remarks_of(alone, ask(alone), MODEL, STAR) == ()


def test_a_measure_beside_another() -> None:
    modes = question("boardings", rows=(by("line", "mode"),))
    # Boardings 4, 3, 1; taps 1, 2, 1. Three repairs, of a tram twice and of no line.
    assert values(viewing(Beside(measure="taps"), modes)) == [[3], [1], [0], [4]]
    assert values(viewing(Beside(measure="taps", shows="ratio"), modes)) == [[4], [1.5], [1], [2]]
    assert values(viewing(Beside(measure="repairs"), modes)) == [[4], [1], [0], [5]]
    document = viewing(Beside(measure="taps", shows="percent"), modes)
    assert sentence_of(document, MODEL, STAR.members).text == "Boardings and its percentage of Taps by Mode"
    with pytest.raises(InputError, match="beside itself"):
        ask(viewing(Beside(measure="boardings"), modes))
    with pytest.raises(NotFoundError):
        ask(viewing(Beside(measure="gone"), modes))
    two = question("boardings", "taps", rows=(by("line", "mode"),))
    offered = offers_for(two, Thing(kind="measure", measure="boardings"), MODEL, STAR.members)
    assert [each.words for each in offered if each.under == "With another measure"] == [
        "Difference from Taps", "Percentage of Taps",
    ]  # fmt: skip
