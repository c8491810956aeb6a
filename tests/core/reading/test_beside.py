"""What stands beside members in a picker, and how many a step would leave."""

from __future__ import annotations

from dataclasses import replace

from dastan.core.analysis.document import Analysis, Limit, PlacedMeasure
from dastan.core.analysis.views import Share
from dastan.core.engine.size import Budget
from dastan.core.model.conditions import MemberFilter
from dastan.core.reading.beside import Asking, beside, count_shown
from tests.core.asked import EVERYTHING, STAR, by, limited, question
from tests.core.star import TODAY

ASKING = Asking(STAR.model, STAR, EVERYTHING, TODAY, STAR.group, Budget())
MODES = by("line", "mode")


def left(document: Analysis, level: str, hierarchy: str = "line") -> int | None:
    return count_shown(document, "line", hierarchy, level, ASKING)


def test_a_limit_in_each_parent_is_counted_under_each_parent() -> None:
    # Trams have two teams, buses one; what belongs nowhere has no team.
    assert left(question("boardings", rows=(MODES,)), "team") == 3
    best = limited(MODES, level="team", amount=1)
    assert left(question("boardings", rows=(best,)), "team") == 2
    whole = limited(MODES, level="team", amount=1, per="whole")
    assert left(question("boardings", rows=(whole,)), "team") == 1


def test_a_limit_on_the_level_above_holds_below_it() -> None:
    best = limited(MODES, level="mode", amount=1)
    assert (left(question("boardings", rows=(best,)), "mode"), left(question("boardings", rows=(best,)), "team")) == (
        1,
        1,
    )


def test_a_limit_inside_another_hierarchy_is_ranked_in_each_of_its_members() -> None:
    best = limited(MODES, level="mode", amount=1)
    # Family a: trams carry most; family b: buses.
    assert left(question("boardings", rows=(by("fare", "family"), best)), "mode") == 2
    assert left(question("boardings", columns=(best,), rows=(by("fare", "family"),)), "mode") == 1


def test_a_hierarchy_that_is_not_placed_is_counted_by_its_records() -> None:
    trams = MemberFilter(dimension="line", hierarchy="line", members=(("tram",),))
    assert left(question("boardings"), "mode") == 3
    assert left(question("boardings", filters=(trams,)), "line") == 2
    assert left(question(), "mode") is None


def test_the_measure_stands_beside_under_the_other_filters_only() -> None:
    trams = MemberFilter(dimension="line", hierarchy="line", members=(("tram",),))
    family_a = MemberFilter(dimension="fare", hierarchy="fare", members=(("a",),))
    found = beside(question("boardings", filters=(trams, family_a)), "line", "line", "mode", ASKING)
    assert found is not None
    captions = STAR.members("line", "line").levels[0].captions
    values = {each: found.values.at(place) for place, each in enumerate(captions)}
    assert values == {"bus": None, "tram": 3, "without a line": None}
    assert dict(zip(captions, found.has_records.tolist(), strict=True)) == {
        "bus": False,
        "tram": True,
        "without a line": False,
    }
    unreached = replace(question("boardings"), model="star")
    by_repairs = replace(unreached.question, measures=(PlacedMeasure(measure="repair_cost"),))
    assert beside(replace(unreached, question=by_repairs), "fare", "fare", "family", ASKING) is None


def test_a_limit_s_measure_need_not_be_shown() -> None:
    cards = Limit(level="mode", amount=2, by=PlacedMeasure(measure="cards"))
    assert left(question("boardings", rows=(replace(MODES, limits=(cards,)),)), "mode") == 2


def test_beside_members_stands_the_measure_itself_whatever_view_of_it_the_table_shows() -> None:
    plain = question("boardings")
    shared = PlacedMeasure(measure="boardings", view=Share(of="whole"))
    viewed = replace(plain, question=replace(plain.question, measures=(shared,)))
    one, other = (beside(each, "line", "line", "mode", ASKING) for each in (plain, viewed))
    assert one is not None
    assert other is not None
    assert other.measure == one.measure
    assert other.values.data.tolist() == one.values.data.tolist()
