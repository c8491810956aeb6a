"""Rights: what a role hides is in no cell, no list of members, no record and no caption."""

from __future__ import annotations

from dataclasses import replace

from dastan.core.analysis.document import Opening
from dastan.core.analysis.offer import Thing
from dastan.core.analysis.offers import offers_for
from dastan.core.analysis.sentence import sentence_of
from dastan.core.engine.answer import answer
from dastan.core.engine.cache import GroupCache
from dastan.core.engine.rights import rights_of_roles
from dastan.core.engine.seen import Seen
from dastan.core.engine.waist import Groups, RecordsRequest, Request, Rights
from dastan.core.model.conditions import MemberFilter
from dastan.core.model.reach import Grain
from tests.core.asked import STAR, ask, by, limited, question, table
from tests.core.star import TODAY


def rights(*roles: str) -> Rights:
    return rights_of_roles("reader", roles, STAR.model, TODAY, lambda _: None)


def seen_by(of: Rights) -> Seen:
    return Seen(STAR.model, STAR, of, STAR.group)


def total(document: object, of: Rights) -> object:
    result = ask(document, rights=of)  # type: ignore[arg-type]
    return result.values[0].at(len(result.cell_rows) - 1) if len(result.cell_rows) else None


def test_a_role_sees_only_its_records_and_without_one_a_person_sees_all() -> None:
    # Rails: trams and what has no mode. East: lines at the eastern depot, and every fact without lines.
    assert [total(question("boardings"), rights(*roles)) for roles in ((), ("rails",), ("east",))] == [8, 4, 3]


def test_several_roles_let_be_seen_what_any_of_them_does() -> None:
    # Cheap: all but family b, that is what product 1 sold, on L1 and L2; rails add the one without a line.
    assert total(question("boardings"), rights("cheap")) == 3
    assert total(question("boardings"), rights("rails", "cheap")) == 4


def test_records_that_a_role_does_not_reach_are_hidden_unless_it_says_otherwise() -> None:
    assert total(question("repairs"), rights("cheap")) is None
    assert total(question("repairs"), rights("east")) == 2


def test_a_role_that_the_model_no_longer_has_shows_nothing() -> None:
    assert total(question("boardings"), rights("gone")) is None


def test_limits_rank_only_what_may_be_seen() -> None:
    rows = (limited(by("line", "line"), level="line", amount=1),)
    assert table(ask(question("boardings", rows=rows), rights=rights("rails")))[0] == ("L1", "2")


def test_lists_of_members_show_only_those_of_the_records_that_may_be_seen() -> None:
    seen = seen_by(rights("rails")).members("line", "line")
    assert [seen.levels[0].captions[code] for code in seen.children(())] == ["tram", "without a line"]
    assert seen.find(("bus",)) is None
    assert seen.find(("tram", 1, "L1")) is not None
    everything = seen_by(rights("rails")).members("fare", "fare")
    assert len(everything.children(())) == 3
    picks = seen_by(rights("rails")).members("line", "picks")
    assert [picks.levels[0].captions[code] for code in picks.children(())] == [
        "Rails",
        "First teams",
        "East",
        "in no picks",
    ]


def test_a_lost_role_shows_no_member_either() -> None:
    for roles in (("gone",), ("gone", "rails")):
        seen = seen_by(rights(*roles)).members("line", "line")
        shown = [seen.levels[0].captions[code] for code in seen.children(())]
        assert shown == (["tram", "without a line"] if "rails" in roles else [])


def test_what_is_offered_previews_no_hidden_member() -> None:
    mine = rights("rails")
    thing = Thing(kind="dimension", dimension="line", hierarchy="line")
    offers = offers_for(question("boardings"), thing, STAR.model, seen_by(mine).members)
    assert offers[0].preview == ("Mode", "tram", "without a line")


def test_members_without_records_are_not_shown_to_who_may_not_see_them() -> None:
    rows = (by("line", "mode", all_members=True),)
    opened = (Opening(dimension="line", hierarchy="line"),)
    found = table(ask(question("boardings", rows=rows, openings=opened), rights=rights("rails")))
    assert [caption for caption, _ in found] == ["tram", "without a line", "All of Line"]


def test_records_are_those_that_may_be_seen_and_tell_why_they_belong_nowhere() -> None:
    request = RecordsRequest(Grain("taps"), (), rights("rails"))
    found = STAR.records(request)
    column = found.columns.index("line_id")
    assert (found.total, [row[column] for row in found.rows]) == (3, ["L1", "L2", None])
    assert found.belongs["line"] == ("", "", "left_blank")
    assert STAR.records(RecordsRequest(Grain("taps"), (), rights(), start=3, count=1)).rows[0][column] is None


def test_a_filter_names_no_member_that_may_not_be_seen_and_the_sentence_says_as_who() -> None:
    buses = MemberFilter(dimension="line", hierarchy="line", members=(("bus",),))
    document = question("boardings", filters=(buses,))
    mine = rights("rails")
    said = sentence_of(document, STAR.model, seen_by(mine).members, ("Rails",)).text
    assert said == "Boardings for bus (not in the data) (line), as far as Rails may see"


def test_no_cached_answer_serves_another_readers_rights() -> None:
    cache = GroupCache(STAR.group, STAR.members)
    document = question("boardings")
    found = [
        answer(document, STAR.model, STAR, each, TODAY, cache.group).values[0].at(0)
        for each in (rights(), rights("rails"), rights("east"), rights())
    ]
    assert found == [8, 4, 3, 8]


def test_readers_with_the_very_same_rights_are_answered_from_what_one_of_them_asked() -> None:
    asked: list[Rights] = []

    def group(request: Request) -> Groups:
        asked.append(request.rights)
        return STAR.group(request)

    cache = GroupCache(group, STAR.members)

    def ask(reader: str, *roles: str) -> object:
        own = replace(rights(*roles), reader=reader)
        return answer(question("boardings"), STAR.model, STAR, own, TODAY, cache.group).values[0].at(0)

    assert [ask("ines"), ask("oda", "rails")] == [8, 4]
    before = len(asked)
    assert {len(each.rules) for each in asked} == {0, 1}
    assert [ask("tomas"), ask("mara", "rails")] == [8, 4]
    assert len(asked) == before
    assert {each.reader for each in asked} == {""}  # what is kept belongs to nobody
