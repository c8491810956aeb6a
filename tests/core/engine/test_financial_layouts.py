"""Rows of a financial layout, worked out by hand on the star."""

from __future__ import annotations

from dataclasses import replace

import pytest

from dastan.core.analysis.document import (
    Analysis,
    Chart,
    Limit,
    MadeLayout,
    MadeMeasure,
    Order,
    PlacedMeasure,
    PlacedMember,
    Under,
)
from dastan.core.analysis.views import Share
from dastan.core.errors import InputError
from dastan.core.model.conditions import MemberFilter
from dastan.core.model.document import FinancialLayout, KeyRange, LayoutRow
from dastan.core.model.expression import Arithmetic, MeasureOf, NumberOf, Over
from dastan.core.model.financial_layouts import favour_of_row, pattern_of_row
from dastan.core.reading.chart import chart_of
from tests.core.asked import STAR, ask, by, heads, question, table


def of(operator: str, left: str, right: str) -> Arithmetic:
    return Arithmetic(operator=operator, left=MeasureOf(measure=left), right=MeasureOf(measure=right))  # type: ignore[arg-type]


# L1 has 2 boardings, L2 has 1, L3 has 4, and one tap of 1 has no line.
ROWS = (
    LayoutRow(name="head", kind="heading", caption="What was carried"),
    LayoutRow(name="red", kind="members", caption="Red lines", members=(("tram",),), indent=1),
    LayoutRow(
        name="rest", kind="members", caption="The rest", ranges=(KeyRange(first="L3", last="L9"),), is_turned=True
    ),
    LayoutRow(name="gap", kind="blank"),
    LayoutRow(name="net", kind="formula", caption="Net", formula=of("+", "red", "rest")),
    LayoutRow(name="part", kind="formula", caption="Part", formula=of("/", "net", "red")),
)


def laid_out(*measures: str, rows_of: tuple[LayoutRow, ...] = ROWS, **parts: object) -> Analysis:
    layout = FinancialLayout(hierarchy="line", rows=rows_of)
    made = MadeLayout(name="statement", caption="Statement", dimension="line", layout=layout)
    parts.setdefault("rows", (by("statement", "statement", "line"),))
    document = question(*measures, **parts)
    return Analysis(model="star", question=document.question, openings=document.openings, layouts=(made,))


def test_rows_stand_as_they_are_laid_out_without_a_total() -> None:
    result = ask(laid_out("boardings"))
    assert table(result) == [
        ("What was carried", ""), (" Red lines", "3"), ("The rest", "-4"), ("", ""), ("Net", "-1"),
        ("Part", "-0.333333"), ("not in Statement", "1"),
    ]  # fmt: skip


def test_a_row_is_of_each_of_its_records_once_and_of_a_formula_the_records_are_those_of_its_rows() -> None:
    # Card 1 paid for both trams, card 2 for the bus: a distinct count is asked row by row.
    result = ask(laid_out("cards"))
    assert [each[1] for each in table(result)] == ["", "1", "-1", "", "0", "0", "1"]


def test_rows_stand_under_each_header_and_against_columns() -> None:
    result = ask(
        laid_out(
            "boardings",
            rows=(by("fare", "family"), by("statement", "statement", "line")),
            columns=(by("line", "mode"),),
        )
    )
    assert heads(result) == ["bus", "tram", "without a line", "All of Line"]
    assert table(result)[:8] == [
        # Nothing stands for the family as a whole: no total stands over the rows of a layout.
        ("a", "", "", "", ""), (" What was carried", "", "", "", ""), ("  Red lines", "", "3", "", "3"),
        (" The rest", "", "", "", ""), (" ", "", "", "", ""), (" Net", "", "3", "", "3"), (" Part", "", "1", "", "1"),
        ("b", "", "", "", ""),
    ]  # fmt: skip


def test_a_row_opens_into_the_members_of_which_it_is_made() -> None:
    under = Under(members=(PlacedMember(dimension="line", hierarchy="statement", path=("net",)),))
    lines = by("line", "line", only_under=(under,))
    result = ask(laid_out("boardings", rows=(by("statement", "statement", "line"), lines)))
    assert table(result)[4:9] == [("Net", "-1"), (" L3", "-4"), (" L1", "2"), (" L2", "1"), ("Part", "-0.333333")]


def test_a_change_of_a_row_is_of_what_the_row_comes_to() -> None:
    # A share of a formula's row is of its own total, and never the formula of shares.
    share = PlacedMeasure(measure="boardings", view=Share(of="row"))
    document = laid_out(columns=(by("fare", "family"),))
    result = ask(replace(document, question=replace(document.question, measures=(share,))))
    assert heads(result) == ["a", "b", "All of Fare"]
    assert table(result)[4] == ("Net", "-3", "4", "1")


def test_filters_are_of_records_and_a_layout_stands_as_it_is_laid_out() -> None:
    trams = MemberFilter(dimension="line", hierarchy="line", members=(("tram", 1),))
    assert [each[1] for each in table(ask(laid_out("boardings", filters=(trams,))))] == ["", "2", "", "", "2", "1"]
    kept = ask(laid_out("boardings", filters=(trams,), empty_rows="hidden"))
    assert [each[0] for each in table(kept)] == ["What was carried", " Red lines", "", "Net", "Part"]


def test_the_five_largest_stand_inside_each_row_by_what_they_come_to_there() -> None:
    limit = Limit(level="line", amount=1, by=PlacedMeasure(measure="boardings"))
    lines = by("line", "line", limits=(limit,))
    result = ask(laid_out("boardings", rows=(by("statement", "statement", "line"), lines)))
    assert [each for each in table(result) if each[0].startswith((" L", "  L"))] == [
        ("  L1", "2"), (" L3", "-4"), (" L1", "2"), (" L1", "1"),
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("change", "message"),
    [
        ({"limits": (Limit(level="statement", amount=1, by=PlacedMeasure(measure="boardings")),)}, "limited"),
        ({"order": Order(by="caption")}, "put in another order"),
    ],
)
def test_the_rows_of_a_layout_are_neither_limited_nor_put_in_another_order(
    change: dict[str, object], message: str
) -> None:
    with pytest.raises(InputError, match=f"The rows of “Statement” cannot be {message}."):
        ask(laid_out("boardings", rows=(by("statement", "statement", "line", **change),)))


def test_the_rows_of_a_layout_are_not_narrowed() -> None:
    kept = MemberFilter(dimension="line", hierarchy="statement", members=(("red",),))
    with pytest.raises(InputError, match="cannot be narrowed"):
        ask(laid_out("boardings", filters=(kept,)))


@pytest.mark.parametrize(
    ("row", "message"),
    [
        (LayoutRow(name="x", kind="members", caption="X"), "“X” has no members."),
        (LayoutRow(name="x", kind="formula", caption="X"), "“X” has no formula."),
        (LayoutRow(name="x", kind="members", caption="X", members=(("joint:rail",),)), "“X” names a joint member."),
        (LayoutRow(name="x", kind="formula", caption="X", formula=of("+", "red", "gone")), "“gone”, which is no row"),
        (LayoutRow(name="x", kind="formula", caption="X", formula=of("+", "red", "x")), "goes in a circle: X → X"),
        (LayoutRow(name="x", kind="formula", caption="X", formula=of("+", "red", "part")), "cannot be added to"),
        (
            LayoutRow(name="x", kind="formula", caption="Net", formula=of("+", "red", "rest")),
            "Two rows are called “Net”",
        ),
        (LayoutRow(name="red", kind="blank"), "“red” is taken already"),
        (LayoutRow(name="x", kind="heading"), "A row has no name."),
        (LayoutRow(name="x", kind="members", caption="X", ranges=(KeyRange(first="L3", last="L1"),)), "is no range"),
        (LayoutRow(name="x", kind="formula", caption="X", formula=NumberOf(digits="5")), "of no other row"),
    ],
)
def test_a_row_without_a_meaning_is_told_with_its_place(row: LayoutRow, message: str) -> None:
    with pytest.raises(InputError) as caught:
        ask(laid_out("boardings", rows_of=(*ROWS, row)))
    assert message in caught.value.message
    assert "“Statement”, row 7: " in caught.value.message


def test_more_of_a_cost_shown_above_zero_is_worse_and_more_of_a_result_is_better() -> None:
    rows = (
        LayoutRow(name="revenue", kind="members", caption="R", members=(("tram",),)),
        LayoutRow(name="cost", kind="members", caption="C", members=(("bus",),), is_turned=True),
        LayoutRow(name="costs", kind="formula", caption="Costs", formula=of("+", "cost", "cost")),
        LayoutRow(name="result", kind="formula", caption="Result", formula=of("-", "revenue", "costs")),
        LayoutRow(name="ratio", kind="formula", caption="Ratio", formula=of("/", "revenue", "costs")),
    )
    layout = FinancialLayout(hierarchy="line", rows=rows)
    assert [favour_of_row(layout, each) for each in rows] == [1, -1, -1, 1, 0]
    assert [pattern_of_row(layout, each) for each in rows] == [None, None, None, None, "0.0 %"]


def test_a_row_keeps_its_figures_beside_the_one_member_below_it() -> None:
    rows = (LayoutRow(name="only", kind="members", caption="Only", members=(("bus",),)),)
    document = laid_out("boardings", rows_of=rows, rows=(by("statement", "statement", "line"), by("line", "mode")))
    result = ask(replace(document, question=replace(document.question, totals_of_one="hidden")))
    assert table(result)[:2] == [("Only", "4"), (" bus", "4")]


def test_a_chart_stacks_no_rows_and_leaves_out_what_divides_others() -> None:
    document = laid_out("boardings", rows_of=(ROWS[1], ROWS[2], *ROWS[4:]), columns=(by("fare", "family"),))
    drawn = chart_of(ask(document), Chart(), STAR.model)
    assert [each.captions[-1] for each in drawn.categories] == ["Red lines", "The rest", "Net", "not in Statement"]
    assert "stacked" not in drawn.forms
    assert "Part is a number of another kind: in the table." in drawn.notes


def test_a_made_measure_that_looks_above_itself_is_of_rows_like_any_other() -> None:
    # Each row's part of all 8 boardings: 3 on trams, 4 on the bus with the sign turned, and what is left of these.
    whole = Over(of=MeasureOf(measure="boardings"), reach="whole")
    part = Arithmetic(operator="/", left=MeasureOf(measure="boardings"), right=whole)
    made = MadeMeasure(name="made_part", caption="Its part", formula=part)
    result = ask(replace(laid_out("made_part"), made=(made,)))
    assert [each[1] for each in table(result)][:5] == ["", "0.375", "-0.5", "", "-0.125"]
