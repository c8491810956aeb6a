"""Random financial layouts: each row against the same question of its members alone, and formulas by hand."""

from __future__ import annotations

import random
from collections.abc import Callable
from contextlib import suppress
from dataclasses import replace
from decimal import Decimal
from fractions import Fraction
from functools import partial

import pytest
from hypothesis import HealthCheck, given, seed, settings
from hypothesis import strategies as st

from dastan.core.analysis.document import AXES, Analysis, MadeLayout, Order, PlacedDimension, PlacedMeasure
from dastan.core.analysis.views import Change, Share
from dastan.core.engine.answer import answer
from dastan.core.engine.rights import rights_of_roles
from dastan.core.errors import InputError
from dastan.core.model.conditions import FilterGroup, MeasureFilter, MemberFilter, ReadyFilter
from dastan.core.model.document import FinancialLayout, LayoutRow
from dastan.core.model.expression import Arithmetic, Expression, MeasureOf, NumberOf
from tests.core.engine.examples import EXAMPLES, IS_FUZZING
from tests.core.engine.oracle_conditions import Header
from tests.core.engine.random_model import random_rows, source_of
from tests.core.engine.test_oracle import analyses, cells, chance, headers, paths, roles_of_reader
from tests.core.star import TODAY

Exact = Fraction | float | None
Number = int | float | Decimal | None
LAID_OUT = ("line", "area", "week", "colour")
DIFFERENCE = Arithmetic(operator="-", left=MeasureOf(measure="now"), right=MeasureOf(measure="before"))
YEAR = Change(on="year", dimension="calendar", shows="earlier")


@st.composite
def formulas(draw: st.DrawFn, names: list[str]) -> Expression:
    left: Expression = MeasureOf(measure=draw(st.sampled_from(names)))
    for _ in range(draw(st.integers(1, 2))):
        operator = draw(st.sampled_from(["+", "-", "+", "-", "/", "*"]))
        right: Expression = MeasureOf(measure=draw(st.sampled_from(names)))
        if operator == "*":
            right = NumberOf(digits="2")
        left = Arithmetic(operator=operator, left=left, right=right)
    return left


@st.composite
def laid_out(draw: st.DrawFn) -> tuple[Analysis, MadeLayout, int]:
    """An analysis without the layout, the layout, and at which place of which axis it goes in."""
    document = draw(analyses())
    question = document.question
    hierarchy = draw(st.sampled_from(LAID_OUT))
    rows = [LayoutRow(name="head", kind="heading", caption="Head")]
    for at in range(draw(st.integers(1, 3))):
        members = tuple(draw(st.lists(paths(hierarchy), min_size=1, max_size=3, unique=True)))
        turned = draw(st.booleans())
        rows.append(LayoutRow(name=f"m{at}", kind="members", caption=f"M{at}", members=members, is_turned=turned))
    for at in range(draw(st.integers(1, 2))):
        names = [each.name for each in rows if each.kind != "heading"]
        turned = chance(draw, 4)
        formula = draw(formulas(names))
        rows.insert(
            draw(st.integers(0, len(rows))),
            LayoutRow(name=f"f{at}", kind="formula", caption=f"F{at}", formula=formula, is_turned=turned),
        )
    made = MadeLayout(
        name="made", caption="Made", dimension="line", layout=FinancialLayout(hierarchy=hierarchy, rows=tuple(rows))
    )
    axes = {
        axis: tuple(
            replace(each, order=Order(), limits=(), totals=None, all_members=False) for each in question.axis(axis)
        )
        for axis in AXES
    }
    plain = tuple(each for each in question.measures if each.measure != "cost_each")[:2]
    filters = tuple(
        each for each in question.filters if not isinstance(each, MeasureFilter | ReadyFilter | FilterGroup)
    )
    question = replace(
        question, measures=plain or (PlacedMeasure(measure="boardings"),), filters=filters, rows=axes["rows"],
        columns=axes["columns"], totals_of_one="shown", row_total="after", column_total="after", empty_rows="shown",
        empty_columns="shown",
    )  # fmt: skip
    return replace(document, question=question), made, draw(st.integers(0, len(axes["rows"])))


def fraction(value: Number) -> Exact:
    return value if isinstance(value, float) or value is None else Fraction(value)


def worked_out(formula: Expression, known: Callable[[str], Exact]) -> Exact:
    """The contract for what is empty: skipped in + and −, unless all are; empty in × and ÷, and over zero."""
    match formula:
        case MeasureOf(measure=name):
            return known(name)
        case NumberOf(digits=digits):
            return Fraction(digits)
        case Arithmetic(operator=operator, left=left, right=right):
            one, other = worked_out(left, known), worked_out(right, known)
            if operator in "+-":
                if one is None or other is None:
                    return one if other is None else (other if operator == "+" else -other)
                return one + other if operator == "+" else one - other
            if one is None or other is None or (operator == "/" and not other):
                return None
            return one * other if operator == "*" else one / other
    raise AssertionError(formula)


def row_value(layout: FinancialLayout, name: str, of_members: Callable[[str], Exact]) -> Exact:
    row = next(each for each in layout.rows if each.name == name)
    if row.kind == "members":
        value = of_members(name)
    else:
        assert row.formula is not None
        value = worked_out(row.formula, lambda other: row_value(layout, other, of_members))
    return None if value is None else -value if row.is_turned else value


def of_members(alone: dict[str, dict], rows: Header, columns: Header, measure: str, name: str) -> Exact:
    """What the members of a row come to by themselves, at a place of the table."""
    return fraction(alone[name].get((rows, columns, measure)))


def without_row(header: Header) -> tuple[str | None, Header]:
    name = next((path[0] for hierarchy, path in header if hierarchy == "made"), None)
    return name, tuple(each for each in header if each[0] != "made")


def viewed(document: Analysis, *views: Change | Share | None) -> Analysis:
    measures = tuple(replace(each, view=view) for each in document.question.measures for view in views)
    return replace(document, question=replace(document.question, measures=measures))


def compare(number: int, plain: Analysis, made: MadeLayout, at: int, roles: tuple[str, ...]) -> None:
    source = source_of(random_rows(number))
    rights = rights_of_roles("tester", roles, source.model, TODAY, lambda _: None)
    views = (None, YEAR, replace(YEAR, shows="difference"), Share(of="row"))
    placed = PlacedDimension(dimension="line", hierarchy="made", level="made")
    rows = plain.question.rows
    with_rows = replace(plain, layouts=(made,), question=replace(plain.question, rows=(*rows[:at], placed, *rows[at:])))
    with suppress(InputError):
        # What a view cannot be taken of is refused for rows as for members.
        answer(viewed(plain, *views), source.model, source, rights, TODAY)
    try:
        result = answer(viewed(with_rows, *views), source.model, source, rights, TODAY)
    except InputError:
        return
    alone = {}
    for row in made.layout.rows:
        if row.kind == "members":
            own = MemberFilter(dimension="line", hierarchy=made.layout.hierarchy, members=row.members)
            asked = replace(plain, question=replace(plain.question, filters=(*plain.question.filters, own)))
            alone[row.name] = cells(answer(viewed(asked, None, YEAR), source.model, source, rights, TODAY))
    found = cells(result)
    names = [each.name for each in result.measures]
    for first in range(0, len(names), len(views)):
        own, earlier, difference, share = names[first : first + len(views)]
        for row_header, column_header, _ in {(rows, columns, "") for rows, columns, name in found if name == own}:
            name, rest = without_row(row_header)
            if name is None:
                continue
            now, before, total = (
                row_value(made.layout, name, partial(of_members, alone, rest, column, measure))
                for measure, column in ((own, column_header), (earlier, column_header), (own, ()))
            )
            cell = row_header, column_header
            same(found[*cell, own], now, cell)
            same(found[*cell, earlier], before, cell)
            changed = found[*cell, difference]
            if changed is not None or (now is not None and before is not None):
                wanted = {"now": now, "before": before}.__getitem__
                same(changed, worked_out(DIFFERENCE, wanted), cell)
            same(found[*cell, share], None if now is None or not total else now / total, cell)
    shown, standing = {(rows, columns) for rows, columns, _ in found}, set(headers(result.rows))
    for name, own_cells in alone.items():
        for (rows, columns, _), value in own_cells.items():
            header = (*rows[:at], ("made", (name,)), *rows[at:])
            if value is not None and header in standing:
                assert (header, columns) in shown


def same(got: Number, wanted: Exact, at: object) -> None:
    if got is None or wanted is None:
        assert got is wanted, at
    elif isinstance(got, float) or isinstance(wanted, float):
        assert float(got) == pytest.approx(float(wanted), rel=1e-9, abs=1e-9), at
    else:
        assert Fraction(got) == wanted, at


@pytest.mark.parametrize("shard", range(4))
def test_every_row_of_a_layout_is_what_its_members_come_to(shard: int) -> None:
    @seed(random.randrange(2**32) if IS_FUZZING else shard)
    @settings(max_examples=EXAMPLES // 10, deadline=None, suppress_health_check=list(HealthCheck))
    @given(rows=st.integers(0, 2**32), drawn=laid_out(), roles=roles_of_reader)
    def run(rows: int, drawn: tuple[Analysis, MadeLayout, int], roles: tuple[str, ...]) -> None:
        compare(rows, *drawn, roles)

    run()
