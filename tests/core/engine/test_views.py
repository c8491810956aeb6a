"""Views of measures in random analyses, against what `oracle_views` works out with SQLite."""

from __future__ import annotations

import random
from dataclasses import replace

import pytest
from hypothesis import HealthCheck, Phase, given, seed, settings
from hypothesis import strategies as st

from dastan.core.analysis.document import Analysis, PlacedDimension, PlacedMeasure
from dastan.core.analysis.placed import shown_measure
from dastan.core.analysis.views import (
    Balance,
    Beside,
    Change,
    CumulativeShare,
    Index,
    Moving,
    Rank,
    RunningTotal,
    Share,
    Step,
    View,
)
from dastan.core.engine.answer import answer
from dastan.core.engine.cache import GroupCache
from dastan.core.engine.rights import rights_of_roles
from dastan.core.errors import InputError
from dastan.core.model.conditions import (
    Condition,
    LevelName,
    MeasureFilter,
    PeriodFilter,
    ReadyFilter,
    leaves_of,
)
from tests.core.engine.examples import EXAMPLES, IS_FUZZING
from tests.core.engine.oracle_conditions import dimension
from tests.core.engine.oracle_sql import LEVELS
from tests.core.engine.oracle_views import UNSURE, Viewing, rows_of
from tests.core.engine.random_model import source_of
from tests.core.engine.test_joints import JOINED, joints
from tests.core.engine.test_oracle import analyses, cells, chance, headers, roles_of_reader
from tests.core.star import TODAY

ADDED = ["boardings", "revenue", "taps", "delays", "worth", "debit", "repairs", "repair_cost", "tram_boardings"]
PLAIN = [*ADDED, "cards", "delay_average", "boardings_most", "fare_each", "cost_each", "other_taps", "arrivals"]
BALANCES = ["closing", "first_held", "mean_held", "open_repairs"]
MEMBERS = [
    ("line", ("tram",)), ("line", ("bus", 1)), ("fare", ("a",)), ("band", ("x",)), ("calendar", (2024,)),
    ("calendar", (2025, 1)),
]  # fmt: skip


@st.composite
def views(draw: st.DrawFn, document: Analysis) -> View:
    along = draw(st.sampled_from(["rows", "columns"]))
    placed = [*document.question.rows, *document.question.columns]
    match draw(
        st.sampled_from(["share", "share", "change", "change", "moving", "step", "balance", "along", "along", "beside"])
    ):
        case "share":
            of = draw(st.sampled_from(["whole", "row", "column", "parent", "parent_column", "level"]))
            named = [each for each in placed if each.hierarchy not in ("picks", "tour")]
            if of == "level" and named:
                own = draw(st.sampled_from(named))
                level = draw(st.sampled_from(LEVELS[own.hierarchy]))
                return Share(of="level", level=LevelName(dimension=own.dimension, hierarchy=own.hierarchy, level=level))
            return Share(of="whole" if of == "level" else of)
        case "change":
            shows = draw(st.sampled_from(["earlier", "difference", "percent"]))
            if draw(st.booleans()):
                hierarchy, path = draw(st.sampled_from(MEMBERS))
                return Change(on="member", dimension=dimension(hierarchy), hierarchy=hierarchy, path=path, shows=shows)
            return Change(on=draw(st.sampled_from(["period", "year"])), dimension="calendar", shows=shows)
        case "beside":
            shows = draw(st.sampled_from(["difference", "ratio", "percent"]))
            return Beside(
                measure=draw(st.sampled_from(["taps", "revenue", "repair_cost", "cards", "mean_held"])), shows=shows
            )
        case "balance":
            return Balance(shows=draw(st.sampled_from(["opening", "movement", "movement", "closing"])))
        case "step":
            shows = draw(st.sampled_from(["earlier", "difference", "percent"]))
            return Step(along=along, shows=shows, restarts=draw(st.booleans()))
        case "moving":
            count, shows = draw(st.integers(2, 3)), draw(st.sampled_from(["average", "sum"]))
            return Moving(along=along, count=count, shows=shows, restarts=draw(st.booleans()))
        case _:
            kind = draw(st.sampled_from([RunningTotal, RunningTotal, Rank, Rank, Index, CumulativeShare]))
            return kind(along=along, restarts=draw(st.booleans()))


@st.composite
def viewed(draw: st.DrawFn) -> Analysis:
    """A random analysis with views of its measures, its orders and what is empty left as they would be without."""
    document = draw(analyses())
    question = document.question
    if draw(st.booleans()) and not any(each.dimension == "calendar" for each in (*question.rows, *question.columns)):
        level = draw(st.sampled_from(LEVELS["calendar"]))
        own = PlacedDimension(dimension="calendar", hierarchy="calendar", level=level)
        question = replace(question, columns=(*question.columns[:1], own))
    chosen = draw(st.lists(views(replace(document, question=question)), min_size=1, max_size=2, unique=True))
    measures = [PlacedMeasure(measure=draw(st.sampled_from(PLAIN)))]
    for each in chosen:
        known = ADDED if isinstance(each, RunningTotal | Moving | CumulativeShare) else PLAIN
        known = BALANCES if isinstance(each, Balance) else known
        other = each.measure if isinstance(each, Beside) else ""
        names = [name for name in known if name != other]
        measures.append(PlacedMeasure(measure=draw(st.sampled_from(names)), view=each))
    axes = {
        axis: tuple(
            replace(each, order=type(each.order)(), only_under=None, totals=None) for each in question.axis(axis)
        )
        for axis in ("rows", "columns")
    }
    if any(isinstance(each, Change | Balance) for each in chosen):
        # The oracle tells earlier records by another date: what ranks them must not be told so as well.
        axes = {axis: tuple(replace(each, limits=()) for each in placed) for axis, placed in axes.items()}
        question = replace(question, filters=tuple(each for each in question.filters if _is_told_by_records(each)))
    placed = [each.hierarchy for axis in axes.values() for each in axis]
    known = [each for each in placed if each in JOINED and each != "calendar"]
    made = (
        tuple(draw(joints(f"{at}", draw(st.sampled_from(known)))) for at in range(2))
        if known and chance(draw, 3)
        else ()
    )
    return replace(
        document,
        joints=made,
        question=replace(
            question, measures=tuple(measures), rows=axes["rows"], columns=axes["columns"], totals_of_one="shown",
            empty_rows="shown", empty_columns="shown", row_total="after", column_total="after",
        ),
    )  # fmt: skip


def _is_told_by_records(condition: Condition) -> bool:
    return not any(
        isinstance(each, MeasureFilter)
        or (isinstance(each, ReadyFilter) and each.name == "busy")
        or (isinstance(each, PeriodFilter) and each.anchor == "newest")
        for each in leaves_of(condition)
    )


REFUSED = (
    "nothing else can be put in its place",
    "two limits of one dimension inside a list",
    "cannot be taken where one",
)


def compare(number: int, document: Analysis, roles: tuple[str, ...]) -> None:
    rows = rows_of(number)
    source = source_of(rows)
    rights = rights_of_roles("reader", roles, source.model, TODAY, lambda _: None)
    cache = GroupCache(source.group, source.members)
    names = [shown_measure(each, source.model).name for each in document.question.measures]
    try:
        result = answer(document, source.model, source, rights, TODAY, cache.group if number % 3 else None)
    except InputError as error:
        if not any(each in error.message for each in REFUSED):
            raise
        return
    expected = Viewing(rows, document, roles)
    assert headers(result.rows) == expected.expected.rows
    assert headers(result.columns) == expected.expected.columns
    found = cells(result)
    for row in expected.expected.rows:
        for column in expected.expected.columns:
            for placed, name in zip(document.question.measures, names, strict=True):
                wanted, got = expected.value(placed, row, column), found.get((row, column, name))
                if wanted is UNSURE:
                    continue
                if isinstance(wanted, float) or isinstance(got, float):
                    assert (got is None) == (wanted is None), (row, column, name, got, wanted)
                    assert got is None or got == pytest.approx(float(wanted), rel=1e-9, abs=1e-9), (row, column, name)
                else:
                    assert got == wanted, (row, column, name, got, wanted)


@pytest.mark.parametrize("shard", range(4))
def test_every_view_agrees_with_sqlite(shard: int) -> None:
    @seed(random.randrange(2**32) if IS_FUZZING else shard)
    @settings(
        max_examples=EXAMPLES // 10, deadline=None, suppress_health_check=list(HealthCheck), phases=[Phase.generate]
    )
    @given(rows=st.integers(0, 2**32), document=viewed(), roles=roles_of_reader)
    def run(rows: int, document: Analysis, roles: tuple[str, ...]) -> None:
        compare(rows, document, roles)

    run()
