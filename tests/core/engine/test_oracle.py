"""Random analyses over random stars, against SQLite, to the cent."""

from __future__ import annotations

import os
from decimal import Decimal

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from dastan.core.analysis.document import Analysis, Opening, PlacedDimension, PlacedMeasure, Question
from dastan.core.engine import plan
from dastan.core.engine.answer import Answer, answer
from dastan.core.engine.axes import Axis
from dastan.core.engine.waist import Rights
from dastan.core.model.conditions import MemberFilter
from dastan.core.values import Values
from tests.core.engine.oracle import LEVELS, SQL, Header, Oracle
from tests.core.engine.random_model import random_rows, source_of
from tests.core.star import TODAY

EXAMPLES = int(os.environ.get("DASTAN_EXAMPLES", "400"))
# The same analyses on every run of the tests; others each time when more are asked for.
IS_FUZZING = "DASTAN_EXAMPLES" in os.environ
DIMENSION_OF = {"line": "line", "fare": "fare", "band": "band", "week": "line", "area": "line", "calendar": "calendar"}
KEYS = {
    "mode": ["bus", "ferry", "tram", None], "team": [1, 2, None], "line": ["L0", "L1", "L2", None],
    "family": ["a", "b", None], "product": [0, 1, 2, None], "band": ["x", "y", None],
    "year": [2023, 2024, 2025, None], "month": [1, 2, 12, None], "day": ["2024-01-01", "2024-02-29", None],
    "region": ["east", "west", None], "depot": [0, 1, None], "week_year": [2024, 2025, None], "week": [1, 2, 52, None],
}  # fmt: skip


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
        dimension=DIMENSION_OF[hierarchy],
        hierarchy=hierarchy,
        levels=tuple(each for each in levels[:-1] if draw(st.booleans())),
        open=tuple(draw(some)) if len(levels) > 1 else (),
        closed=tuple(draw(some)) if len(levels) > 1 else (),
    )


@st.composite
def analyses(draw: st.DrawFn) -> Analysis:
    hierarchies = draw(st.permutations(sorted(LEVELS)))
    on_rows, on_columns = draw(st.integers(0, 2)), draw(st.integers(0, 2))
    placed = [
        PlacedDimension(dimension=DIMENSION_OF[each], hierarchy=each, level=draw(st.sampled_from(LEVELS[each])))
        for each in hierarchies
    ]
    filters = [
        MemberFilter(
            dimension=DIMENSION_OF[each],
            hierarchy=each,
            action=draw(st.sampled_from(["keep", "leave_out"])),
            members=tuple(draw(st.lists(paths(each), min_size=1, max_size=3))),
        )
        for each in draw(st.lists(st.sampled_from(sorted(LEVELS)), max_size=2))
    ]
    measures = draw(st.lists(st.sampled_from(sorted(SQL)), min_size=1, max_size=4, unique=True))
    return Analysis(
        model="star",
        question=Question(
            measures=tuple(PlacedMeasure(measure=each) for each in measures),
            rows=tuple(placed[:on_rows]),
            columns=tuple(placed[on_rows : on_rows + on_columns]),
            filters=tuple(filters),
        ),
        openings=tuple(draw(openings(each)) for each in sorted(LEVELS) if draw(st.booleans())),
    )


def headers(axis: Axis) -> list[Header]:
    """An axis of the answer as the oracle writes headers: the member of each hierarchy, outermost first."""
    found = []
    for entry in range(len(axis)):
        deepest: dict[int, tuple] = {}
        for each in axis.chain(entry):
            members = axis.placements[each.place].members
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


def compare(seed: int, document: Analysis) -> None:
    rows = random_rows(seed)
    source = source_of(rows)
    expected = Oracle(rows).answer(document)
    result = answer(document, source.model, source, Rights("tester"), TODAY)
    assert headers(result.rows) == expected.rows
    assert headers(result.columns) == expected.columns
    found = cells(result)
    for at, value in expected.cells.items():
        got = found.get(at)
        if isinstance(value, float) and got is not None:
            assert got == pytest.approx(value, rel=1e-9, abs=1e-9), at
        else:
            assert got == value, at
            assert type(got) is type(value), at


@given(seed=st.integers(0, 2**32), document=analyses())
@settings(max_examples=EXAMPLES, derandomize=not IS_FUZZING, deadline=None, suppress_health_check=list(HealthCheck))
def test_every_cell_agrees_with_sqlite(seed: int, document: Analysis) -> None:
    compare(seed, document)


@given(seed=st.integers(0, 2**32), document=analyses())
@settings(
    max_examples=EXAMPLES // 4, derandomize=not IS_FUZZING, deadline=None, suppress_health_check=list(HealthCheck)
)
def test_grouping_only_below_open_members_changes_no_cell(seed: int, document: Analysis) -> None:
    """The restricted way, taken for large questions, is forced on small ones."""
    before, plan.WHOLE_LIMIT = plan.WHOLE_LIMIT, 0
    try:
        compare(seed, document)
    finally:
        plan.WHOLE_LIMIT = before
