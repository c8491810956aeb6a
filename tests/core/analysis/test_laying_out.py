"""Gestures on financial layouts, what is offered of them, and what they leave standing."""

from __future__ import annotations

from dataclasses import replace

import pytest

from dastan.core.analysis.captions import Members
from dastan.core.analysis.document import Analysis, MadeLayout
from dastan.core.analysis.drafted_layout import drafted_layout
from dastan.core.analysis.gestures import (
    ChangeLayout,
    FilterMembers,
    ForgetLayout,
    Gesture,
    MakeLayout,
    TakeDimension,
    apply_gesture,
    step_words,
)
from dastan.core.analysis.lost import fitted
from dastan.core.analysis.offer import Thing
from dastan.core.analysis.offers import offers_for
from dastan.core.analysis.sentence import sentence_of
from dastan.core.engine.answer import questioner_of
from dastan.core.engine.rights import rights_of_roles
from dastan.core.engine.size import Budget
from dastan.core.errors import InputError, NotFoundError
from dastan.core.model.document import FinancialLayout, LayoutRow
from dastan.core.reading.account import Account, account_of
from dastan.core.reading.backing import place_of
from dastan.core.reading.everything_made import everything_made
from dastan.core.words.reading import read_question
from dastan.core.words.vocabulary import Vocabulary
from tests.core.asked import EVERYTHING, STAR, ask, by, question, table
from tests.core.engine.test_financial_layouts import ROWS, laid_out, of
from tests.core.star import TODAY

MADE = MadeLayout(caption="Our lines", dimension="line", layout=FinancialLayout(hierarchy="line", rows=ROWS))
MEMBERS: Members = STAR.members


def after(document: Analysis, *gestures: Gesture) -> Analysis:
    for each in gestures:
        document = apply_gesture(document, each, STAR.model)
    return document


def offered(document: Analysis, **thing: object) -> list[str]:
    return [each.words for each in offers_for(document, Thing(**thing), STAR.model, MEMBERS)]  # type: ignore[arg-type]


def test_a_layout_stands_in_place_of_the_hierarchy_that_it_lays_out() -> None:
    start = question("boardings", rows=(by("fare", "family"),), columns=(by("line", "mode"),))
    document = after(start, MakeLayout(made=MADE))
    assert [each.hierarchy for each in document.question.columns] == ["layout_our_lines"]
    assert sentence_of(document, STAR.model, MEMBERS).text == "Boardings by Family against Our lines"
    assert step_words(start, MakeLayout(made=MADE), STAR.model, MEMBERS) == "laid out Our lines"
    other = after(document, MakeLayout(made=replace(MADE, caption="Others")))
    assert [each.hierarchy for each in other.question.columns] == ["layout_others"]
    elsewhere = after(question("boardings", rows=(by("fare", "family"),)), MakeLayout(made=MADE))
    assert [each.hierarchy for each in elsewhere.question.rows] == ["fare", "layout_our_lines"]


def test_a_layout_is_told_anew_and_forgotten_once_it_stands_nowhere() -> None:
    document = after(question("boardings"), MakeLayout(made=MADE))
    own = document.layouts[0]
    called = replace(own, caption="Their lines", layout=replace(own.layout, rows=ROWS[:2]))
    changed = after(document, ChangeLayout(made=called))
    assert table(ask(changed)) == [("What was carried", ""), (" Red lines", "3"), ("not in Their lines", "5")]
    assert step_words(document, ChangeLayout(made=called), STAR.model, MEMBERS) == "called Our lines Their lines"
    with pytest.raises(InputError, match="“Our lines” is used by the table"):
        after(document, ForgetLayout(name=own.name))
    taken = TakeDimension(dimension="line", hierarchy=own.name)
    assert after(document, taken, ForgetLayout(name=own.name)).layouts == ()


@pytest.mark.parametrize(
    ("made", "message"),
    [
        (replace(MADE, caption=" "), "The layout has no name."),
        (replace(MADE, caption="line"), "There is a “line” already."),
        (replace(MADE, name="area"), "Line has a “area” already."),
        (replace(MADE, layout=replace(MADE.layout, hierarchy="picks")), "is laid out by a list"),
        (replace(MADE, layout=replace(MADE.layout, rows=())), "The layout has no row with figures."),
    ],
)
def test_a_layout_that_cannot_be_is_refused(made: MadeLayout, message: str) -> None:
    with pytest.raises(InputError, match=message):
        after(question("boardings"), MakeLayout(made=made))


def test_a_layout_of_a_hierarchy_that_is_gone_leaves_the_rest_open() -> None:
    gone = replace(MADE, name="gone", layout=replace(MADE.layout, hierarchy="nowhere"))
    document = replace(question("boardings", rows=(by("line", "mode"), by("gone", "gone", "line"))), layouts=(gone,))
    found, lost = fitted(document, STAR.model)
    assert lost
    assert [each.hierarchy for each in found.question.rows] == ["line"]
    with pytest.raises(NotFoundError):
        ask(document)


def test_rows_are_offered_what_can_be_done_with_them_and_no_more() -> None:
    document = after(question("boardings"), MakeLayout(made=MADE))
    name = document.layouts[0].name
    own = offered(document, kind="dimension", dimension="line", hierarchy=name)
    assert own == [
        "against Our lines",
        "Change the layout…",
        "Keep Our lines at hand",
        "Mode",
        "Take Our lines away",
    ] or {"Change the layout…", "Take Our lines away"} <= set(own)
    assert not {"Choose members of Our lines…", "Keep by a condition…"} & set(own)
    member = offered(document, kind="member", dimension="line", hierarchy=name, path=("net",))
    assert not [each for each in member if each.startswith(("Keep", "Leave", "Make a measure"))]
    with pytest.raises(InputError, match="cannot be narrowed"):
        after(document, FilterMembers(dimension="line", hierarchy=name, action="keep", members=(("net",),)))


def test_a_member_that_is_named_in_words_is_never_a_row() -> None:
    rows = (LayoutRow(name="bus", kind="members", caption="bus", members=(("tram",),)),)
    document = after(question("boardings"), MakeLayout(made=replace(MADE, layout=replace(MADE.layout, rows=rows))))
    model = questioner_of(document, STAR.model, STAR, EVERYTHING, TODAY, STAR.group, Budget())[0].model
    read = read_question("boardings by our lines for bus", Vocabulary(model, MEMBERS))
    assert read.question is not None
    assert [(each.hierarchy, each.members) for each in read.question.filters] == [("line", (("bus",),))]  # type: ignore[union-attr]


def test_a_drafted_layout_has_a_section_for_each_of_the_topmost_and_comes_to_the_whole() -> None:
    dimension = STAR.model.dimension("line")
    made = drafted_layout(dimension, dimension.hierarchy("line"), STAR.members("line", "line"))
    document = after(question("boardings"), MakeLayout(made=made))
    assert table(ask(document)) == [
        ("bus", "4"), ("tram", ""), (" 1", "2"), (" 2", "1"), ("Total tram", "3"), ("", ""), ("Result", "7"),
        ("not in Line statement", "1"),
    ]  # fmt: skip


def account(document: Analysis, row: int) -> Account:
    asked = questioner_of(document, STAR.model, STAR, EVERYTHING, TODAY, STAR.group, Budget())
    found = ask(document)
    return account_of(found, place_of(found, row, 0), *asked, MEMBERS, ())


def test_the_working_paper_of_a_row_names_the_rows_that_it_is_of_and_their_records_agree() -> None:
    turned, net, part = (account(laid_out("boardings"), at) for at in (2, 4, 5))
    assert (turned.value, turned.from_records, turned.agrees) == ("-4", "-4", True)
    assert turned.row == "the value of its records, with the other sign"
    assert (net.value, net.agrees, net.row) == ("-1", True, '"Red lines" + "The rest"')
    assert [(each.caption, each.value) for each in net.row_parts] == [("Red lines", "3"), ("The rest", "-4")]
    assert net.operands[0].records == 3
    assert (part.agrees, part.in_percent) == (True, True)


def test_an_empty_row_says_which_of_its_rows_leaves_it_so() -> None:
    rows = (
        LayoutRow(name="red", kind="members", caption="Red", members=(("tram",),)),
        LayoutRow(name="none", kind="members", caption="None", members=(("ferry",),)),
        LayoutRow(name="part", kind="formula", caption="Part", formula=of("/", "red", "none")),
    )
    told = account(laid_out("boardings", rows_of=rows), 2)
    assert (told.value, told.why_no_value) == (None, "None is empty here.")


def test_a_layout_is_listed_with_all_that_is_made() -> None:
    document = after(question("boardings"), MakeLayout(made=MADE))
    found = next(each for each in everything_made(document, STAR.model, MEMBERS) if each.kind == "layout")
    assert (found.caption, found.says, found.used_by) == ("Our lines", "lays out 6 rows", ("the table",))


def test_a_reader_sees_of_a_row_what_their_rights_let_them_see() -> None:
    from dastan.core.engine.answer import answer

    rights = rights_of_roles("tester", ("rails",), STAR.model, TODAY, lambda _: None)
    result = answer(laid_out("boardings"), STAR.model, STAR, rights, TODAY)
    assert [each[1] for each in table(result)] == ["", "3", "", "", "3", "1", "1"]
