"""Random analyses over random stars, against SQLite, to the cent."""

from __future__ import annotations

import random
from contextlib import suppress
from dataclasses import replace
from decimal import Decimal

import pytest
from hypothesis import HealthCheck, given, seed, settings
from hypothesis import strategies as st

from dastan.core.analysis.document import (
    Analysis,
    HeaderPath,
    Limit,
    Opening,
    Order,
    PlacedDimension,
    PlacedMeasure,
    PlacedMember,
    Question,
    Under,
)
from dastan.core.engine import plan
from dastan.core.engine.answer import Answer, answer
from dastan.core.engine.axes import Axis
from dastan.core.engine.cache import GroupCache
from dastan.core.engine.rights import rights_of_roles
from dastan.core.errors import AppError, InputError
from dastan.core.model.conditions import (
    AttributeFilter,
    Condition,
    FilterGroup,
    KeyFilter,
    LevelName,
    MeasureFilter,
    MemberFilter,
    PeriodFilter,
    PromptAnswer,
    PromptRef,
    ReadyFilter,
)
from dastan.core.values import Values
from tests.core.engine.examples import EXAMPLES, IS_FUZZING
from tests.core.engine.oracle import Oracle
from tests.core.engine.oracle_conditions import Header, dimension
from tests.core.engine.oracle_sql import LEVELS, MEASURES, RATIOS, REACHED
from tests.core.engine.random_model import random_rows, source_of
from tests.core.star import TODAY

KEYS = {
    "mode": ["bus", "ferry", "tram", None], "team": [1, 2, None], "line": ["L0", "L1", "L2", None],
    "family": ["a", "b", None], "product": [0, 1, 2, None], "band": ["x", "y", None], "colour": ["red", "Blue", None],
    "year": [2023, 2024, 2025, None], "month": [1, 2, 12, None], "day": ["2024-01-01", "2024-02-29", None],
    "region": ["east", "west", None], "depot": [0, 1, None], "week_year": [2024, 2025, None], "week": [1, 2, 52, None],
    "picks": ["rails", "first", "east", None], "tree_1": ["A0", "A4", None], "tree_2": ["A1", "A5", None],
    "tree_3": ["A2", None], "tree_4": ["A3", None],
}  # fmt: skip
MEASURE_NAMES = sorted([*MEASURES, *RATIOS])
EXACT = ["boardings", "revenue", "taps", "cards", "repairs", "boardings_most", "repair_cost", "debit"]
AGGREGATES = ["average", "median", "min", "max", "distinct", "count_values", "sum", "last"]


def chance(draw: st.DrawFn, one_in: int) -> bool:
    return draw(st.integers(1, one_in)) == 1


@st.composite
def paths(draw: st.DrawFn, hierarchy: str, deepest: int | None = None) -> tuple:
    levels = LEVELS[hierarchy]
    length = draw(st.integers(1, len(levels) if deepest is None else deepest))
    return tuple(draw(st.sampled_from(KEYS[level])) for level in levels[:length])


@st.composite
def openings(draw: st.DrawFn, hierarchy: str) -> Opening:
    levels = LEVELS[hierarchy]
    some = st.lists(paths(hierarchy, max(len(levels) - 1, 1)), max_size=3, unique=True)
    return Opening(
        dimension=dimension(hierarchy),
        hierarchy=hierarchy,
        levels=tuple(each for each in levels[:-1] if draw(st.booleans())),
        open=tuple(draw(some)) if len(levels) > 1 else (),
        closed=tuple(draw(some)) if len(levels) > 1 else (),
    )


@st.composite
def leaf_conditions(draw: st.DrawFn, in_group: bool) -> Condition:
    action = draw(st.sampled_from(["keep", "leave_out"]))
    kinds = ["members", "members", "attribute", "period", "ready"] + ([] if in_group else ["members", "key", "measure"])
    match draw(st.sampled_from(kinds)):
        case "members":
            hierarchy = draw(st.sampled_from(sorted(LEVELS)))
            level = draw(st.sampled_from(LEVELS[hierarchy])) if hierarchy != "picks" and chance(draw, 5) else None
            members = tuple(draw(st.lists(paths(hierarchy), min_size=0 if level else 1, max_size=3)))
            return MemberFilter(
                dimension=dimension(hierarchy), hierarchy=hierarchy, action=action, members=members, level=level
            )
        case "attribute":
            name, attribute = draw(
                st.sampled_from(
                    [
                        ("line", "mode"),
                        ("line", "team"),
                        ("line", "colour"),
                        ("line", "line"),
                        ("fare", "product"),
                        ("fare", "family"),
                        ("line", "week"),
                        ("calendar", "month"),
                    ]
                )
            )
            keys = [each for each in KEYS[attribute] if each is not None]
            ordered = ["less", "at_most", "more", "at_least", "between", "equal", "not_equal"]
            texts = ["contains", "begins_with", "ends_with"] if isinstance(keys[0], str) else []
            operator = draw(st.sampled_from(ordered + texts))
            if operator == "between":
                values: tuple = tuple(sorted(draw(st.lists(st.sampled_from(keys), min_size=2, max_size=2))))
            elif operator in texts:
                values = tuple(draw(st.lists(st.sampled_from(["l", "R", "us", "e", "1", "a"]), min_size=1, max_size=2)))
            else:
                values = tuple(
                    draw(st.lists(st.sampled_from(keys), min_size=1, max_size=2 if "equal" in operator else 1))
                )
            if attribute == "team" and chance(draw, 3) and operator != "between":
                values = (PromptRef(prompt="which_team"),)
            return AttributeFilter(dimension=name, attribute=attribute, operator=operator, values=values, action=action)
        case "period":
            first = draw(st.integers(-6, 1))
            return PeriodFilter(
                dimension="calendar", unit=draw(st.sampled_from(["day", "week", "month", "quarter", "year", "financial_year"])),
                first=first * draw(st.sampled_from([1, 1, 40])) if first < 0 else first, last=draw(st.integers(max(first, -2), 2)),
                anchor=draw(st.sampled_from(["today", "newest"])), to_date=draw(st.booleans()), action=action,
            )  # fmt: skip
        case "key":
            return KeyFilter(
                dimension=draw(st.sampled_from(["line", "fare", "calendar", "account"])),
                state=draw(st.sampled_from(["left_blank", "key_unknown"])),
                action=action,
            )
        case "ready":
            return ReadyFilter(name=draw(st.sampled_from(["rails_only", "cheap_or_east", "busy"])), action=action)
        case _:
            measure = draw(st.sampled_from(["boardings", "taps", "cards", "delay_average", "repairs"]))
            one, other = draw(
                st.sampled_from(
                    [("line", "calendar"), ("area", "calendar"), ("calendar", "line"), ("week", "calendar")]
                )
            )
            at = LevelName(dimension=dimension(one), hierarchy=one, level=draw(st.sampled_from(LEVELS[one])))
            per = LevelName(dimension=dimension(other), hierarchy=other, level=draw(st.sampled_from(LEVELS[other])))
            operator = draw(st.sampled_from(["less", "at_most", "more", "at_least", "between"]))
            return MeasureFilter(
                measure=measure, at=(at, per) if chance(draw, 4) else (at,), per=per if chance(draw, 2) else None,
                operator=operator, values=(1.13, 7.37) if operator == "between" else (draw(st.sampled_from([0.31, 2.37, 5.41])),), action=action,
            )  # fmt: skip


@st.composite
def conditions(draw: st.DrawFn) -> Condition:
    if not chance(draw, 5):
        return draw(leaf_conditions(False))
    parts = tuple(draw(st.lists(leaf_conditions(True), min_size=1, max_size=3)))
    if chance(draw, 3):
        parts = (
            *parts,
            FilterGroup(join="all", parts=tuple(draw(st.lists(leaf_conditions(True), min_size=1, max_size=2)))),
        )
    return FilterGroup(
        join=draw(st.sampled_from(["all", "any"])), parts=parts, action=draw(st.sampled_from(["keep", "leave_out"]))
    )


@st.composite
def limits(draw: st.DrawFn, hierarchy: str, level: str) -> Limit:
    count = draw(st.sampled_from(["members", "members", "percent_of_members", "percent_of_measure"]))
    return Limit(
        level=level,
        count=count,
        amount=draw(st.sampled_from([1, 2, 3] if count == "members" else [20, 50, 80, 100])),
        side=draw(st.sampled_from(["largest", "smallest"])),
        by=PlacedMeasure(
            measure=draw(st.sampled_from([each for each in EXACT if hierarchy in REACHED_BY[each]] or EXACT))
        ),
        per=draw(st.sampled_from(["parent", "parent", "whole"])),
        others=draw(st.booleans()),
    )


REACHED_BY = {
    each: {hierarchy for hierarchy in LEVELS if dimension(hierarchy) in REACHED[MEASURES[each][0]]} for each in EXACT
}


@st.composite
def orders(draw: st.DrawFn, measures: list[PlacedMeasure], across: list[PlacedDimension], is_last: bool) -> Order:
    by = draw(st.sampled_from(["natural", "caption", "key", "measure", "measure"]))
    column = HeaderPath()
    if across and draw(st.booleans()):
        column = HeaderPath(
            members=tuple(draw(paths(each.hierarchy)) for each in across[: draw(st.integers(1, len(across)))])
        )
    exact = [
        each
        for each in measures
        if each.measure in MEASURES
        and MEASURES[each.measure][2] in ("sum", "count", "distinct", "max")
        and each.aggregate is None
        and MEASURES[each.measure][4] is not None
    ]
    if by == "measure" and not exact:
        by = "caption"
    return Order(
        by=by, descending=draw(st.booleans()), measure=draw(st.sampled_from(exact)) if by == "measure" else None,
        column=column, across=is_last and chance(draw, 4),
    )  # fmt: skip


@st.composite
def analyses(draw: st.DrawFn) -> Analysis:
    hierarchies = draw(st.permutations(sorted(LEVELS)))
    on_rows, on_columns = draw(st.integers(0, 2)), draw(st.integers(0, 2))
    # At most one hierarchy of many small things is enough to keep the oracle's cells few.
    placed = []
    for each in hierarchies[: on_rows + on_columns]:
        level = draw(st.sampled_from(LEVELS[each][: 2 if each == "tree" else None]))
        shown = LEVELS[each][LEVELS[each].index(level) :]
        skipped = tuple(one for one in shown[1:-1] if chance(draw, 6))
        limited = (
            draw(st.lists(st.sampled_from([one for one in shown if one not in skipped]), max_size=2, unique=True))
            if chance(draw, 3)
            else []
        )
        placed.append(
            PlacedDimension(
                dimension=dimension(each),
                hierarchy=each,
                level=level,
                skipped=skipped,
                all_members=chance(draw, 8),
                limits=tuple(draw(limits(each, one)) for one in limited),
                totals=draw(st.sampled_from(["before", "after", "none"])) if chance(draw, 4) else None,
            )
        )
    names = draw(st.lists(st.sampled_from(MEASURE_NAMES), min_size=1, max_size=4, unique=True))
    measures = [PlacedMeasure(measure=each) for each in names]
    if chance(draw, 4):
        other = PlacedMeasure(
            measure=draw(st.sampled_from(["boardings", "delay_total", "revenue"])),
            aggregate=draw(st.sampled_from(AGGREGATES)),
        )
        if other.aggregate != "sum" and other.aggregate != "last":
            measures.append(other)
    rows, columns = placed[:on_rows], placed[on_rows:]
    for axis in (rows, columns):
        if len(axis) > 1 and chance(draw, 4):
            own = axis[0]
            some = draw(st.lists(paths(own.hierarchy), max_size=2, unique=True))
            members = [PlacedMember(dimension=own.dimension, hierarchy=own.hierarchy, path=each) for each in some]
            axis[1] = replace(axis[1], only_under=tuple(Under(members=(each,)) for each in members))
    for axis, across in ((rows, columns), (columns, rows)):
        for at, each in enumerate(axis):
            if chance(draw, 3):
                order = draw(orders(measures, across, at == len(axis) - 1))
                axis[at] = replace(each, order=order)
    return Analysis(
        model="star",
        question=Question(
            measures=tuple(measures),
            rows=tuple(rows),
            columns=tuple(columns),
            filters=tuple(draw(st.lists(conditions(), max_size=2))),
            totals_over=draw(st.sampled_from(["scope", "shown"])),
            row_total=draw(st.sampled_from(["after", "after", "after", "before", "none"])),
            column_total=draw(st.sampled_from(["after", "after", "after", "before", "none"])),
            totals_of_one=draw(st.sampled_from(["hidden", "hidden", "shown"])),
            empty_rows="hidden" if chance(draw, 5) else "shown",
            empty_columns="hidden" if chance(draw, 5) else "shown",
            answers=(PromptAnswer(prompt="which_team", values=(2,)),) if chance(draw, 3) else (),
        ),
        openings=tuple(draw(openings(each)) for each in sorted(LEVELS) if draw(st.booleans())),
    )


roles_of_reader = st.sampled_from(
    [(), (), (), (), ("rails",), ("east",), ("rails", "cheap"), ("cheap",), ("east", "cheap")]
)


def headers(axis: Axis) -> list[Header]:
    """An axis of the answer as the oracle writes headers: the member of each hierarchy, outermost first."""
    found = []
    for entry in range(len(axis)):
        deepest: dict[int, tuple] = {}
        for each in axis.chain(entry):
            placement = axis.placements[each.place]
            members = placement.members
            path: tuple = ()
            if each.is_others:
                parent = placement.parent_depth(each.depth)
                if parent is not None:
                    path = members.path_of(parent, each.code - len(members.levels[each.depth]))
                deepest[each.place] = (members.hierarchy, ("others", each.depth, *path))
            else:
                deepest[each.place] = (members.hierarchy, members.path_of(each.depth, each.code))
        found.append(tuple(deepest[place] for place in sorted(deepest)))
    return found


def cells(result: Answer) -> dict:
    rows, columns = headers(result.rows), headers(result.columns)
    found = {}
    for cell in range(len(result.cell_rows)):
        for measure, values in zip(result.measures, result.values, strict=True):
            at = rows[result.cell_rows[cell]], columns[result.cell_columns[cell]], measure.name
            assert at not in found, "a cell stands twice"
            found[at] = _value(values, cell)
    return found


def _value(values: Values, cell: int) -> int | float | Decimal | None:
    return values.at(cell)


REFUSED = ("cannot be taken where one condition or limit joins", "two limits of one dimension inside a list")


def compare(number: int, document: Analysis, roles: tuple[str, ...] = ()) -> None:
    rows = random_rows(number)
    source = source_of(rows)
    rights = rights_of_roles("tester", roles, source.model, TODAY, lambda _: None)
    cache = GroupCache(source.group, source.members)
    try:
        if number % 2:
            # The same without filters first, so that what it asks is added up from what is known, where that is right.
            wider = replace(document, question=replace(document.question, filters=()))
            with suppress(AppError):
                answer(wider, source.model, source, rights, TODAY, cache.group)
        result = answer(document, source.model, source, rights, TODAY, cache.group if number % 3 else None)
    except InputError as error:
        if not any(each in error.message for each in REFUSED):
            raise
        return
    expected = Oracle(rows, TODAY, roles).answer(document)
    assert headers(result.rows) == expected.rows
    assert headers(result.columns) == expected.columns
    found = cells(result)
    for at, value in expected.cells.items():
        got = found.get(at)
        if isinstance(value, float) and got is not None:
            assert got == pytest.approx(value, rel=1e-9, abs=1e-9), at
        else:
            assert got == value, (at, got, value)
            assert type(got) is type(value), at


def compare_many(examples: int, shard: int) -> None:
    """Random analyses, the same ones for a shard on every run unless more are asked for."""

    @seed(random.randrange(2**32) if IS_FUZZING else shard)
    @settings(max_examples=examples, deadline=None, suppress_health_check=list(HealthCheck))
    @given(rows=st.integers(0, 2**32), document=analyses(), roles=roles_of_reader)
    def run(rows: int, document: Analysis, roles: tuple[str, ...]) -> None:
        compare(rows, document, roles)

    run()


@pytest.mark.parametrize("shard", range(8))
def test_every_cell_agrees_with_sqlite(shard: int) -> None:
    compare_many(EXAMPLES // 10, shard)


@pytest.mark.parametrize("shard", range(8, 10))
def test_grouping_only_below_open_members_changes_no_cell(shard: int, monkeypatch: pytest.MonkeyPatch) -> None:
    """The restricted way, taken for large questions, is forced on small ones."""
    monkeypatch.setattr(plan, "WHOLE_LIMIT", 0)
    compare_many(EXAMPLES // 10, shard)
