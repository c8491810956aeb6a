"""Measures made in an analysis: they are measures like the model's own, wherever one is named."""

from __future__ import annotations

from dataclasses import replace

import pytest

from dastan.core.analysis.differences import differences
from dastan.core.analysis.document import Analysis, HeaderPath, Limit, MadeMeasure, Order, PlacedMeasure
from dastan.core.analysis.gestures import (
    ChangeMade,
    ForgetMade,
    MakeMeasure,
    PutFilter,
    PutMeasure,
    PutViews,
    SetLimit,
    SetOrder,
    apply_gesture,
    step_words,
)
from dastan.core.analysis.lost import fitted
from dastan.core.analysis.made import with_made
from dastan.core.analysis.offer import Thing
from dastan.core.analysis.offers import offers_for
from dastan.core.analysis.sentence import sentence_of
from dastan.core.analysis.views import Rank, Share
from dastan.core.errors import InputError, NotFoundError
from dastan.core.language.reading import read_formula
from dastan.core.model.conditions import LevelName, MeasureFilter
from dastan.core.words.reading import read_question
from dastan.core.words.vocabulary import Vocabulary
from dastan.core.words.writing import write_words
from dastan.documents.read import read_analysis, write_analysis
from tests.core.asked import STAR, ask, by, question
from tests.core.engine.test_oracle import cells

MODEL = STAR.model


def formula(text: str, document: Analysis | None = None):  # type: ignore[no-untyped-def]
    model = MODEL if document is None else with_made(MODEL, document)
    return read_formula(text, Vocabulary(model, STAR.members)).expression


def making(caption: str, text: str, document: Analysis | None = None, **more: object) -> MakeMeasure:
    return MakeMeasure(made=MadeMeasure(caption=caption, formula=formula(text, document), **more))  # type: ignore[arg-type]


def by_mode() -> Analysis:
    """Boardings 3, 4 and 1 of trams, buses and none; revenue 7.50, 10.00 and 1.25."""
    return question("boardings", rows=(by("line", "mode"),))


def made(*pairs: tuple[str, str]) -> Analysis:
    document = by_mode()
    for caption, text in pairs:
        document = apply_gesture(document, making(caption, text, document), MODEL)
    return document


def column(document: Analysis, name: str) -> list[object]:
    """A measure's values by mode, natural order, and in all."""
    found = cells(ask(document, STAR))
    rows = {row[0][1][0] if row else "all": value for (row, _, own), value in found.items() if own == name}
    return [rows.get(each) for each in ("tram", "bus", None, "all")]


def test_a_made_measure_is_put_in_named_and_worked_out_at_every_total() -> None:
    document = made(("Fare of two", "2 * revenue / boardings"))
    (own,) = document.made
    assert own.name == "made_fare_of_two"
    assert sentence_of(document, MODEL, STAR.members).text == (
        "Boardings and Fare of two by Mode, where Fare of two is (2 times Revenue) per Boardings"
    )
    assert column(document, own.name) == [5.0, 5.0, 2.5, pytest.approx(37.5 / 8)]
    shown = with_made(MODEL, document).measure(own.name)
    assert (shown.format, shown.aggregate) == ("#,##0.00", "formula")


def test_one_is_made_of_another_and_a_rename_follows_through() -> None:
    document = made(("Twice", "boardings * 2"), ("Thrice", '"Twice" + boardings'))
    twice, thrice = document.made
    assert sentence_of(document, MODEL, STAR.members).text == (
        "Boardings, Twice and Thrice by Mode, where Twice is Boardings times 2; and Thrice is Twice plus Boardings"
    )
    assert column(document, thrice.name) == [9, 12, 3, 24]
    renamed = apply_gesture(document, ChangeMade(made=replace(twice, caption="Double")), MODEL)
    assert (
        step_words(document, ChangeMade(made=replace(twice, caption="Double")), MODEL, STAR.members)
        == "called Twice Double"
    )
    assert column(renamed, thrice.name) == [9, 12, 3, 24]
    again = apply_gesture(renamed, ChangeMade(made=replace(twice, formula=formula("boardings * 3"))), MODEL)
    found = differences(renamed, again, MODEL, STAR.members)
    assert ("made", "Twice by another formula") in [(each.part, each.text) for each in found]
    assert column(again, thrice.name) == [12, 16, 4, 32]


def test_a_definition_in_a_circle_is_refused_with_its_path() -> None:
    document = made(("Twice", "boardings * 2"), ("Thrice", '"Twice" + boardings'))
    own = replace(document.made[0], formula=formula('"Thrice" - 1', document))
    with pytest.raises(InputError, match="circle: Twice → Thrice → Twice"):
        apply_gesture(document, ChangeMade(made=own), MODEL)


def test_a_name_that_exists_and_one_that_is_missing_are_refused() -> None:
    with pytest.raises(InputError, match="already"):
        made(("boardings", "taps"))
    with pytest.raises(InputError, match="no name"):
        made((" ", "taps"))
    with pytest.raises(NotFoundError, match="nothing_here"):
        apply_gesture(by_mode(), ForgetMade(name="nothing_here"), MODEL)


def test_what_stands_on_a_made_measure_is_named_before_it_is_forgotten() -> None:
    document = made(("Twice", "boardings * 2"), ("Thrice", '"Twice" + boardings'))
    twice, thrice = document.made
    with pytest.raises(InputError, match="used by the table, “Thrice”"):
        apply_gesture(document, ForgetMade(name=twice.name), MODEL)
    bare = replace(document, question=by_mode().question)
    without = apply_gesture(bare, ForgetMade(name=thrice.name), MODEL)
    assert [each.name for each in without.made] == [twice.name]
    offers = [
        each.words for each in offers_for(without, Thing(kind="measure", measure=twice.name), MODEL, STAR.members)
    ]
    assert {"Change its formula…", "Forget it"} <= set(offers)


def test_orders_limits_conditions_and_views_take_it() -> None:
    document = made(("Fare of two", "2 * revenue / boardings"))
    own = PlacedMeasure(measure=document.made[0].name)
    for gesture in (
        SetOrder(
            dimension="line",
            hierarchy="line",
            order=Order(by="measure", measure=own, descending=True, column=HeaderPath()),
        ),
        SetLimit(dimension="line", hierarchy="line", level="mode", limit=Limit(level="mode", amount=2, by=own)),
        PutViews(placed=own, views=(Share(of="whole"), Rank(along="rows"))),
        PutFilter(
            condition=MeasureFilter(
                measure=own.measure,
                at=(LevelName(dimension="line", hierarchy="line", level="mode"),),
                operator="more",
                values=(3,),
            )
        ),
    ):
        document = apply_gesture(document, gesture, MODEL)
    # Trams and buses have 5 each and what has no line 2.5: two are left, and the condition leaves the same two.
    assert column(document, own.measure) == [5.0, 5.0, None, 5.0]
    assert "the 2 largest modes by Fare of two" in sentence_of(document, MODEL, STAR.members).text


def test_what_looks_beyond_its_own_records_has_no_share_and_what_runs_along_a_table_ranks_nothing() -> None:
    document = made(("Part", "boardings / (boardings over the whole)"))
    own = PlacedMeasure(measure=document.made[0].name)
    assert column(document, own.measure) == [0.375, 0.5, 0.125, 1.0]
    limit = SetLimit(dimension="line", hierarchy="line", level="mode", limit=Limit(level="mode", amount=1, by=own))
    assert column(apply_gesture(document, limit, MODEL), own.measure) == [None, 0.5, None, 1.0]
    runs = made(("Place", "boardings rank among the rows"))
    by_it = Limit(level="mode", amount=1, by=PlacedMeasure(measure=runs.made[0].name))
    with pytest.raises(InputError, match="“Place” runs along a table"):
        apply_gesture(runs, replace(limit, limit=by_it), MODEL)
    with pytest.raises(InputError, match="looks beyond"):
        apply_gesture(document, PutViews(placed=own, views=(Share(of="whole"),)), MODEL)


def test_slices_stand_where_they_apply_or_everywhere() -> None:
    document = made(
        ("Of trams", 'boardings only "Mode" = "tram"'), ("Beside trams", 'boardings only "Mode" = "tram" everywhere'),
        ("All but trams", 'boardings only "Mode" <> "tram"'),
    )  # fmt: skip
    one, other, rest = (column(document, each.name) for each in document.made)
    assert one == [3, None, None, 3]
    assert other == [3, 3, 3, 3]
    # Leaving out keeps what has no line; the slices over all add to the whole.
    assert rest == [None, 4, 1, 5]


def test_what_is_elsewhere_stands_in_every_cell_that_has_a_record_of_any_measure() -> None:
    """Found by its working paper: no bus was repaired, so that nothing stood beside the boardings of buses."""
    document = made(
        ("Of trams", 'repairs only "Mode" = "tram" everywhere'), ("Whole", "repairs over the whole"),
        ("All", 'repairs over all "Line"'),
    )  # fmt: skip
    trams, whole, every = (column(document, each.name) for each in document.made)
    assert trams == [2, 2, 2, 2]
    assert whole == every == [3, 3, 3, 3]
    # A dimension that does not reach the repairs leaves them at the total alone.
    families = replace(document, question=replace(document.question, rows=(by("fare", "family"),)))
    found = cells(ask(families, STAR))
    assert {value for (row, _, name), value in found.items() if row and name != "boardings"} == {None}


def test_members_are_brought_together() -> None:
    document = made(
        ("A line", 'boardings average over "Line"'), ("Lines", 'boardings count over "Line"'),
        ("Largest", 'boardings greatest over "Line"'), ("Whole", 'boardings sum over "Line"'),
    )  # fmt: skip
    mean, count, most, whole = (column(document, each.name) for each in document.made)
    # Lines 1 and 2 have 2 and 1, line 3 has 4, and one tap has no line.
    assert mean == [1.5, 4.0, 1.0, 2.0]
    assert count == [2, 1, 1, 4]
    assert most == [2, 4, 1, 4]
    assert whole == column(document, "boardings")


def test_a_choice_and_a_number_that_is_written_make_no_value_where_nothing_is() -> None:
    document = made(("More", "revenue + 5"), ("Large", "case when boardings >= 3 then 1 else 0 end"))
    more, large = (column(document, each.name) for each in document.made)
    assert [float(str(each)) for each in more] == [12.5, 15.0, 6.25, 23.75]
    assert large == [1, 1, 0, 1]
    narrow = apply_gesture(document, PutMeasure(measure="closing"), MODEL)
    assert column(narrow, document.made[0].name)[:2] == more[:2]


def test_the_sentence_with_a_made_measure_is_read_back() -> None:
    document = made(("Fare of two", "2 * revenue / boardings"))
    vocabulary = Vocabulary(with_made(MODEL, document), STAR.members)
    text = write_words(document, vocabulary)
    assert "Fare of two" in text
    assert read_question(text, vocabulary).question == document.question


def test_a_document_with_formulas_is_kept_and_opened_the_same() -> None:
    document = made(
        ("Odd", 'case when not boardings is null and taps <> 2 then round(revenue / boardings, 1) else coalesce(cards, 0) end'),
        ("Other", '(boardings only "Mode" in ("tram", "bus") or "Family" = "a") over the row'),
        ("Mean line", 'boardings average over "Line"'), ("Rank", "boardings rank among the rows"), ("Ago", "-boardings in the year before"),
    )  # fmt: skip
    assert read_analysis(write_analysis(document)) == document


def test_a_formula_of_what_is_gone_leaves_the_rest_open() -> None:
    document = made(("Twice", "boardings * 2"), ("Thrice", '"Twice" + boardings'), ("Worth of it", "worth * 2"))
    poorer = replace(MODEL, measures=tuple(each for each in MODEL.measures if each.name != "worth"))
    left, lost = fitted(document, poorer)
    assert [each.caption for each in left.made] == ["Twice", "Thrice"]
    assert [each.measure for each in left.question.measures] == ["boardings", "made_twice", "made_thrice"]
    assert any("worth" in each.text for each in lost)


def test_what_is_brought_together_is_empty_where_the_rest_of_a_level_does_not_reach_it() -> None:
    """Found by the random analyses: the rest of a first level is no group, and its dimension was not looked at."""
    limit = Limit(level="family", amount=1, by=PlacedMeasure(measure="boardings"), others=True)
    document = question("boardings", rows=(replace(by("fare", "family"), limits=(limit,)),))
    document = apply_gesture(document, making("Repaired", 'repairs sum over "Mode"'), MODEL)
    found = cells(ask(document, STAR))
    own = {row: value for (row, _, name), value in found.items() if name == "made_repaired"}
    assert {value for row, value in own.items() if row} == {None}
    assert own[()] == 3
