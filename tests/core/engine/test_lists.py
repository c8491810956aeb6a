"""Lists of members, by hand on the star, and random ones against members that SQLite found."""

from __future__ import annotations

import random
import re
from dataclasses import replace
from fractions import Fraction
from math import ceil

import pytest
from hypothesis import HealthCheck, given, seed, settings
from hypothesis import strategies as st

from dastan.core.analysis.document import Analysis, MadeMeasure, PlacedMeasure, Question
from dastan.core.engine.answer import answer
from dastan.core.engine.rights import rights_of_roles
from dastan.core.errors import InputError, LimitError
from dastan.core.model import member_lists
from dastan.core.model.conditions import (
    AttributeFilter,
    Condition,
    FilterGroup,
    LevelName,
    MeasureFilter,
    MemberFilter,
    PeriodFilter,
)
from dastan.core.model.document import MemberList, Ranking
from dastan.core.model.expression import MeasureOf, Only
from tests.core.asked import STAR, ask, by, question, table
from tests.core.engine import oracle_sql as sql
from tests.core.engine.examples import EXAMPLES, IS_FUZZING
from tests.core.engine.oracle_cells import natural
from tests.core.engine.oracle_sql import COLUMN, LEVELS, MEASURES
from tests.core.engine.random_model import random_rows, source_of
from tests.core.engine.test_oracle import (
    REACHED_BY,
    analyses,
    cells,
    chance,
    dimension,
    paths,
    roles_of_reader,
)
from tests.core.star import TODAY

KEEP = MemberFilter(dimension="line", hierarchy="line", list="mine")
AT_LINES = LevelName(dimension="line", hierarchy="line", level="line")


def listing(document: Analysis, **made: object) -> Analysis:
    made = {"caption": "Mine", "dimension": "line", "hierarchy": "line", **made}
    return replace(document, lists=(MemberList(name="mine", **made),))  # type: ignore[arg-type]


def kept(*filters: Condition, **made: object) -> list[tuple[str, ...]]:
    """The lines that a list leaves in the table: L1 has 2 boardings, L2 has 1, L3 has 4, and 1 has no line."""
    asked = question("boardings", rows=(by("line", "line"),), filters=filters or (KEEP,))
    return sorted(table(ask(listing(asked, **made)))[:-1])


def test_a_list_keeps_the_members_that_are_on_it_and_leaves_them_out() -> None:
    both = (("bus",), ("tram", 1, "L1"))
    assert kept(members=both) == [("L1", "2"), ("L3", "4")]
    out = replace(KEEP, action="leave_out")
    assert kept(out, members=both) == [("L2", "1"), ("without a line", "1")]
    either = FilterGroup(
        join="any", parts=(KEEP, MemberFilter(dimension="line", hierarchy="line", members=(("tram", 2),)))
    )
    assert kept(either, members=(("bus",),)) == [("L2", "1"), ("L3", "4")]


def test_a_rule_finds_the_members_that_come_first_whatever_the_table_shows() -> None:
    largest = Ranking(measure="boardings", amount=2)
    assert kept(level="line", ranked=largest) == [("L1", "2"), ("L3", "4")]
    assert kept(level="line", ranked=replace(largest, amount=1, side="smallest")) == [("L2", "1")]
    assert kept(level="line", ranked=replace(largest, count="percent_of_measure", amount=50)) == [("L3", "4")]
    below = {"level": "line", "members": (("tram",),), "ranked": replace(largest, amount=1)}
    assert kept(**below) == [("L1", "2")]
    # A limit would look at what the filter leaves; a list does not.
    cheap = MemberFilter(dimension="fare", hierarchy="fare", members=(("a",),))
    assert kept(KEEP, cheap, level="line", ranked=largest) == [("L1", "2")]
    over_cheap = {"level": "line", "ranked": replace(largest, amount=1), "over": (cheap,)}
    assert kept(**over_cheap) == [("L1", "2")]


def test_a_rule_looks_at_names_and_at_measures_of_its_members() -> None:
    blue = AttributeFilter(dimension="line", attribute="colour", operator="contains", values=("blu",), on="caption")
    many = MeasureFilter(measure="boardings", at=(AT_LINES,), operator="at_least", values=(2,))
    assert kept(level="line", where=(blue,)) == [("L3", "4")]
    assert kept(level="line", where=(replace(blue, action="leave_out"),)) == [("L1", "2"), ("L2", "1")]
    assert kept(level="line", where=(many,)) == [("L1", "2"), ("L3", "4")]
    either = FilterGroup(join="any", parts=(replace(many, values=(4,)), replace(blue, values=("red",))))
    assert kept(level="line", where=(either, replace(many, action="leave_out"))) == [("L2", "1")]
    assert kept(level="line") == [("L1", "2"), ("L2", "1"), ("L3", "4")]  # a blank is on no list by a rule


def test_a_period_of_a_rule_is_counted_from_the_newest_data_of_its_own_measures() -> None:
    # Boardings end on 2024-01-01, in the year of which all of them lie; repairs have no day at all.
    year = PeriodFilter(dimension="calendar", unit="year", first=0, last=0, anchor="newest")
    made = {"level": "line", "ranked": Ranking(measure="boardings", amount=2), "over": (year,)}
    asked = question("repairs", rows=(by("line", "line"),), filters=(KEEP,))
    assert table(ask(listing(asked, **made)))[:-1] == [("L1", "2")]
    gone = replace(year, first=-1, last=-1)
    assert table(ask(listing(asked, **made | {"over": (gone,)})))[:-1] == []


def test_a_measure_is_of_the_members_of_a_list_alone() -> None:
    sliced = Only(of=MeasureOf(measure="boardings"), conditions=(KEEP,))
    asked = question("boardings", "first", rows=(by("line", "mode"),))
    document = replace(asked, made=(MadeMeasure(name="first", caption="First", formula=sliced),))
    largest = listing(document, level="line", ranked=Ranking(measure="boardings", amount=2))
    result = ask(largest)
    assert [[_whole(result, at, each) for each in (0, 1)] for at in range(len(result.cell_rows))] == [
        [4, 4], [3, 2], [1, None], [8, 6],
    ]  # fmt: skip


def _whole(result: object, cell: int, measure: int) -> object:
    return result.values[measure].at(cell)  # type: ignore[attr-defined]


@pytest.mark.parametrize(
    ("made", "says"),
    [
        ({}, "lists no members"),
        ({"members": (("tram", 1, "L1", 2),)}, "one key per level"),
        ({"members": (("tram",),), "ranked": Ranking(measure="boardings", amount=1)}, "is of no level"),
        ({"level": "line", "ranked": Ranking(measure="boardings", amount=0)}, "has no members"),
        ({"level": "line", "where": (KEEP,)}, "of another name"),
        ({"level": "line", "over": (MeasureFilter(measure="boardings", at=(AT_LINES,), operator="more", values=(1,)),)}, "told by a measure"),
        ({"level": "mode", "where": (MeasureFilter(measure="boardings", at=(AT_LINES,), operator="more", values=(1,)),)}, "not about its members"),
        ({"level": "line", "ranked": Ranking(measure="own", amount=1)}, "stands on a measure that stands on"),
    ],
)  # fmt: skip
def test_a_list_that_makes_no_sense_is_refused_in_words(made: dict[str, object], says: str) -> None:
    own = MadeMeasure(name="own", caption="Own", formula=Only(of=MeasureOf(measure="boardings"), conditions=(KEEP,)))
    asked = replace(question("boardings"), made=(own,))
    with pytest.raises(InputError, match=says):
        ask(listing(asked, **made))


def test_a_list_of_too_many_members_says_so(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("dastan.core.engine.listed.MOST_LISTED", 2)
    assert member_lists.MOST_LISTED > 2
    with pytest.raises(LimitError, match="has 3 members"):
        kept(level="line")


# Random lists: the members that SQLite finds, kept by their paths, give the same table as the list.
LISTED = ("line", "area", "week", "colour", "fare", "calendar")
RANKED = ("boardings", "revenue", "taps", "cards", "boardings_most", "repair_cost")


@st.composite
def random_lists(draw: st.DrawFn) -> tuple[Analysis, MemberList, Condition]:
    document = draw(analyses())
    hierarchy = draw(st.sampled_from(LISTED))
    own = dimension(hierarchy)
    level = draw(st.sampled_from(LEVELS[hierarchy]))
    members = tuple(draw(st.lists(paths(hierarchy, LEVELS[hierarchy].index(level) + 1), max_size=2, unique=True)))
    fitting = [each for each in RANKED if hierarchy in REACHED_BY.get(each, ())]
    where: list[Condition] = []
    at = (LevelName(dimension=own, hierarchy=hierarchy, level=level),)
    if fitting and chance(draw, 2):
        measure, action = draw(st.sampled_from(fitting)), draw(st.sampled_from(["keep", "leave_out"]))
        number = draw(st.sampled_from([0.5, 1.5, 3.5]))
        where.append(MeasureFilter(measure=measure, at=at, operator="more", values=(number,), action=action))
    ranked = None
    if fitting and chance(draw, 2):
        count = draw(st.sampled_from(["members", "percent_of_members"]))
        amount = draw(st.sampled_from([1, 2] if count == "members" else [20, 50]))
        side = draw(st.sampled_from(["largest", "smallest"]))
        ranked = Ranking(measure=draw(st.sampled_from(fitting)), count=count, amount=amount, side=side)
    over: tuple[Condition, ...] = ()
    if chance(draw, 2):
        family = MemberFilter(dimension="fare", hierarchy="fare", members=(("a",),))
        mode = MemberFilter(dimension="line", hierarchy="line", action="leave_out", members=(("bus",),))
        over = (draw(st.sampled_from([family, mode])),)
    made = MemberList(
        name="mine", caption="Mine", dimension=own, hierarchy=hierarchy, level=level, members=members,
        where=tuple(where), ranked=ranked, over=over,
    )  # fmt: skip
    action = draw(st.sampled_from(["keep", "leave_out"]))
    filters = tuple(each for each in document.question.filters if not isinstance(each, MeasureFilter))
    document = replace(document, question=replace(document.question, filters=filters))
    return document, made, MemberFilter(dimension=own, hierarchy=hierarchy, action=action, list="mine")


class Found:
    """What a list's rule finds, asked of SQLite."""

    def __init__(self, rows: dict[str, list[dict[str, object]]], made: MemberList, roles: tuple[str, ...]) -> None:
        self.connection = sql.database(rows)
        sql.use_joints(self.connection, ())
        self.made, self.roles = made, roles
        self.depth = LEVELS[made.hierarchy].index(made.level or "") + 1

    def paths(self) -> list[tuple[object, ...]]:
        made = self.made
        levels = LEVELS[made.hierarchy][: self.depth]
        columns = ", ".join(COLUMN[each] for each in levels)
        table = {"line": sql.LINES, "fare": "fares", "calendar": "days"}[made.dimension]
        below = sql.joined([sql.path_predicate(made.hierarchy, each) for each in made.members], "OR", "1")
        text = f"SELECT DISTINCT {columns} FROM {table} WHERE {COLUMN[levels[-1]]} IS NOT NULL AND {below}"
        found = sorted(self.connection.execute(text).fetchall(), key=lambda each: natural(made.hierarchy, each))
        for each in made.where:
            assert isinstance(each, MeasureFilter)
            more = [path for path in found if _is_more(self.value(each.measure, path), each.values[0])]
            found = more if each.action == "keep" else [path for path in found if path not in more]
        return self.first(found) if made.ranked is not None else found

    def first(self, found: list[tuple[object, ...]]) -> list[tuple[object, ...]]:
        ranked = self.made.ranked
        assert ranked is not None
        with_value = [
            (value, at) for at, path in enumerate(found) if (value := self.value(ranked.measure, path)) is not None
        ]
        sign = -1 if ranked.side == "largest" else 1
        in_order = [at for _, at in sorted(with_value, key=lambda each: (sign * each[0], each[1]))]
        many = ranked.amount if ranked.count == "members" else ceil(Fraction(len(in_order)) * int(ranked.amount) / 100)
        return [found[at] for at in sorted(in_order[: int(many)])]

    def value(self, measure: str, path: tuple[object, ...]) -> Fraction | None:
        fact, where, kind, argument, scale = MEASURES[measure]
        parts = [where, sql.path_predicate(self.made.hierarchy, path)]  # type: ignore[arg-type]
        for each in self.made.over:
            assert isinstance(each, MemberFilter)
            if each.dimension in sql.REACHED[fact]:
                text = sql.joined([sql.path_predicate(each.hierarchy, one) for one in each.members], "OR", "0")
                parts.append(f"NOT {text}" if each.action == "leave_out" else text)
        allowed = []
        for role in self.roles:
            name, condition, elsewhere = sql.ROLES[role]
            reached = name in sql.REACHED[fact]
            allowed += [f"({condition})"] if reached else ["1"] if elsewhere == "everything" else []
        if self.roles:
            parts.append(sql.joined(allowed, "OR", "0"))
        rows = self.connection.execute(sql.values_of(fact, argument, " AND ".join(parts), "NULL")).fetchall()
        value = sql.aggregate(kind, rows, scale)
        return None if value is None else Fraction(value)


def _is_more(value: Fraction | None, than: object) -> bool:
    return value is not None and value > Fraction(str(than))


def compare(number: int, document: Analysis, made: MemberList, asked: Condition, roles: tuple[str, ...]) -> None:
    rows = random_rows(number)
    source = source_of(rows)
    rights = rights_of_roles("tester", roles, source.model, TODAY, lambda _: None)
    found = tuple(Found(rows, made, roles).paths())
    explicit = replace(asked, list=None, members=found)  # type: ignore[type-var]

    def answered(condition: Condition, lists: tuple[MemberList, ...]) -> dict:  # type: ignore[type-arg]
        filters = (*document.question.filters, condition)
        own = replace(document, lists=lists, question=replace(document.question, filters=filters))
        return cells(answer(own, source.model, source, rights, TODAY))

    try:
        wanted = answered(explicit, ())
    except InputError as error:
        # What cannot be asked of members cannot be asked of a list either.
        with pytest.raises(InputError, match=re.escape(error.message)):
            answered(asked, (made,))
        return
    assert answered(asked, (made,)) == wanted


@pytest.mark.parametrize("shard", range(4))
def test_a_list_has_the_members_that_its_rule_is_of(shard: int) -> None:
    @seed(random.randrange(2**32) if IS_FUZZING else shard)
    @settings(max_examples=EXAMPLES // 10, deadline=None, suppress_health_check=list(HealthCheck))
    @given(rows=st.integers(0, 2**32), drawn=random_lists(), roles=roles_of_reader)
    def run(rows: int, drawn: tuple[Analysis, MemberList, Condition], roles: tuple[str, ...]) -> None:
        compare(rows, *drawn, roles)

    run()


def test_the_star_knows_no_list() -> None:
    asked = Analysis(model="star", question=Question(measures=(PlacedMeasure(measure="boardings"),), filters=(KEEP,)))
    with pytest.raises(Exception, match=r"List “mine” is not in the model"):
        answer(asked, STAR.model, STAR, rights_of_roles("x", (), STAR.model, TODAY, lambda _: None), TODAY)
