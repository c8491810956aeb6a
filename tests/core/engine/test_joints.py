"""Joint members: random analyses with some against SQLite, and what they mean worked out by hand."""

from __future__ import annotations

import random
from dataclasses import replace

import pytest
from hypothesis import HealthCheck, given, seed, settings
from hypothesis import strategies as st

from dastan.core.analysis.document import AXES, Analysis, Joint, Order
from dastan.core.engine import plan
from dastan.core.model.conditions import MemberFilter
from dastan.core.model.parts import MemberPath
from tests.core.engine.examples import EXAMPLES, IS_FUZZING
from tests.core.engine.oracle_conditions import dimension
from tests.core.engine.oracle_sql import LEVELS, joint_path
from tests.core.engine.test_oracle import KEYS, analyses, chance, compare, paths, roles_of_reader

JOINED = ("line", "area", "fare", "band", "week", "calendar", "tree", "colour")


@st.composite
def joints(draw: st.DrawFn, name: str, hierarchy: str) -> Joint:
    depth = draw(st.integers(1, len(LEVELS[hierarchy])))
    above = draw(paths(hierarchy, depth - 1)) if depth > 1 else ()
    keys = draw(st.lists(st.sampled_from(KEYS[LEVELS[hierarchy][len(above)]]), min_size=1, max_size=3, unique=True))
    members: list[MemberPath] = [(*above, key) for key in keys]
    if chance(draw, 3):
        members.append(draw(paths(hierarchy)))  # perhaps of another parent, or of another level
    apart = [each for each in members if not any(each[:at] in members for at in range(1, len(each)))]
    return Joint(
        name=name, caption=f"joint {name}", dimension=dimension(hierarchy), hierarchy=hierarchy,
        members=tuple(dict.fromkeys(apart)),
    )  # fmt: skip


@st.composite
def analyses_with_joints(draw: st.DrawFn) -> Analysis:
    document = draw(analyses())
    placed = [each.hierarchy for each in (*document.question.rows, *document.question.columns)]
    likely = [each for each in placed if each in JOINED] or list(JOINED)
    made = tuple(draw(joints(f"{number}", draw(st.sampled_from(likely)))) for number in range(draw(st.integers(1, 3))))
    filters = list(document.question.filters)
    for each in made:
        if chance(draw, 2):
            others = draw(st.lists(paths(each.hierarchy), max_size=2))
            wanted = draw(st.sampled_from([each.members, (joint_path(each), *others)]))
            action = draw(st.sampled_from(["keep", "leave_out"]))
            filters.append(
                MemberFilter(dimension=each.dimension, hierarchy=each.hierarchy, action=action, members=wanted)
            )
    own = {each.hierarchy for each in made}
    axes = {
        axis: tuple(
            # What blanks below a joint member are called depends on what they stood under.
            replace(each, order=Order()) if each.hierarchy in own and each.order.by == "caption" else each
            for each in document.question.axis(axis)
        )
        for axis in AXES
    }
    return replace(document, joints=made, question=replace(document.question, filters=tuple(filters), **axes))


def compare_many(examples: int, shard: int) -> None:
    @seed(random.randrange(2**32) if IS_FUZZING else shard)
    @settings(max_examples=examples, deadline=None, suppress_health_check=list(HealthCheck))
    @given(rows=st.integers(0, 2**32), document=analyses_with_joints(), roles=roles_of_reader)
    def run(rows: int, document: Analysis, roles: tuple[str, ...]) -> None:
        compare(rows, document, roles)

    run()


@pytest.mark.parametrize("shard", range(4))
def test_every_cell_of_joint_members_agrees_with_sqlite(shard: int) -> None:
    compare_many(EXAMPLES // 10, shard)


def test_grouping_only_below_open_members_changes_no_cell(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(plan, "WHOLE_LIMIT", 0)
    compare_many(EXAMPLES // 10, 8)
