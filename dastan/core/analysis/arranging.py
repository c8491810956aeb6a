"""Offers to arrange what is in the table: aggregates, limits, order, subtotals, levels passed over."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from dastan.core.analysis.captions import level_caption, placed_caption, plural
from dastan.core.analysis.document import (
    AXES,
    Analysis,
    AxisName,
    LabelDress,
    Limit,
    Order,
    PlacedDimension,
    PlacedMeasure,
)
from dastan.core.analysis.gestures import (
    DressLabels,
    DressTable,
    HideEmpty,
    MakeWayDown,
    PlaceMeasures,
    PutMeasure,
    SetAggregate,
    SetGrandTotal,
    SetLimit,
    SetOrder,
    SetTotals,
    SetTotalsOfOne,
    ShowAllMembers,
    SkipLevel,
)
from dastan.core.analysis.limit_words import limit_words
from dastan.core.analysis.offer import Offer
from dastan.core.analysis.offers_of_phrases import limit_in_force
from dastan.core.analysis.openness import shown_levels
from dastan.core.analysis.placed import CHOICES, DATED, argument_of, shown_measure
from dastan.core.analysis.placing import axis_of
from dastan.core.analysis.resolve import find_dimension, find_hierarchy, find_measure
from dastan.core.analysis.viewing import view_offers
from dastan.core.analysis.warnings import makes_no_sense
from dastan.core.analysis.ways import leads_on, way_caption
from dastan.core.model.document import SemanticModel

NINE_IN_TEN = 90.0
"""The percentile that a menu offers; a document may ask for any."""

_ROW_FORMS = (
    ("stepped", "Rows stepped in"), ("full_paths", "Each row with its full path"),
    ("levels", "A column for each level"),
)  # fmt: skip
_LABELS = (("captions", "By their captions"), ("keys", "By their keys"), ("both", "By captions and keys"))
_TOTALS = (("before", "before what is below"), ("after", "after what is below"), ("none", "none"))


def measure_arranging(document: Analysis, placed: PlacedMeasure, model: SemanticModel) -> Iterator[Offer]:
    """Other aggregates for a measure in the table, and orders by it."""
    for axis in AXES:
        for each in reversed(document.question.axis(axis)):
            what = plural(shown_caption(document, each, model))
            for descending, words in ((True, "largest first"), (False, "smallest first")):
                order = Order(by="measure", measure=placed, descending=descending)
                if each.order != order:
                    gesture = SetOrder(dimension=each.dimension, hierarchy=each.hierarchy, order=order)
                    yield Offer(f"{what.capitalize()} {words}", "menu", None, gesture, under="Order by it")
    yield from view_offers(document, placed, model)
    measure = find_measure(model, placed.measure)
    if argument_of(measure, model) is None or placed.view is not None:
        return
    if placed.aggregate is not None:
        yield Offer(f"Show {measure.caption} itself", "menu", None, SetAggregate(placed=placed), under="Show it as")
    for aggregate in CHOICES:
        if aggregate in (placed.aggregate, measure.aggregate) or (aggregate in DATED and measure.time is None):
            continue
        percentile = NINE_IN_TEN if aggregate == "percentile" else None
        other = PlacedMeasure(measure=placed.measure, aggregate=aggregate, percentile=percentile)
        caption = shown_measure(other, model).caption
        under = "Show it as" if makes_no_sense(other, model) is None else "Show it as, though it says little"
        change = SetAggregate(placed=placed, aggregate=aggregate, percentile=percentile)
        yield Offer(caption, "menu", None, change, under=under)
        if makes_no_sense(other, model) is None and other not in document.question.measures:
            at = document.question.measures.index(placed) + 1
            beside = PutMeasure(measure=placed.measure, aggregate=aggregate, percentile=percentile, at=at)
            yield Offer(caption, "menu", None, beside, under="Show beside it")


def group_offers(document: Analysis, model: SemanticModel) -> Iterator[Offer]:
    """Everywhere that the measures may stand as a group: on either axis, at any depth."""
    question = document.question
    now = (question.measures_on, question.outside_measures)
    for axis in AXES:
        placed = question.axis(axis)
        for at in range(len(placed) + 1):
            if now == (axis, at):
                continue
            where = f"outside {shown_caption(document, placed[at], model)}" if at < len(placed) else ""
            words = f"Measures on {axis} {where}".rstrip()
            gesture = PlaceMeasures(axis=axis, at=at if at < len(placed) else None)
            yield Offer(words, axis, at, gesture, preview=_measure_captions(document, model), under="Measures")


def _measure_captions(document: Analysis, model: SemanticModel) -> tuple[str, ...]:
    return ("Measures", *(shown_measure(each, model).caption for each in document.question.measures))


def placed_arranging(document: Analysis, own: tuple[str, str], model: SemanticModel) -> Iterator[Offer]:
    """Limits, order, subtotals and levels of a hierarchy in the table."""
    axis, placed = next(
        (axis, each)
        for axis in AXES
        for each in document.question.axis(axis)
        if (each.dimension, each.hierarchy) == own
    )
    if find_hierarchy(find_dimension(model, own[0]), own[1]).layout is not None:
        return  # it stands as it is laid out
    yield from _limit_offers(document, placed, model)
    yield from _order_offers(placed)
    yield from _total_offers(document, axis, placed)
    yield from _level_offers(document, placed, model)
    yield from _label_offers(document, axis, placed)


def shown_caption(document: Analysis, placed: PlacedDimension, model: SemanticModel) -> str:
    """The caption of the deepest level that is shown of a placed hierarchy."""
    dimension = find_dimension(model, placed.dimension)
    return level_caption(dimension, shown_levels(document, placed, find_hierarchy(dimension, placed.hierarchy))[-1])


def _limit_offers(document: Analysis, placed: PlacedDimension, model: SemanticModel) -> Iterator[Offer]:
    if not document.question.measures:
        return
    dimension = find_dimension(model, placed.dimension)
    hierarchy = find_hierarchy(dimension, placed.hierarchy)
    level = shown_levels(document, placed, hierarchy)[-1]
    by = replace(document.question.measures[0], view=None)
    for count, amount, side, others in (
        ("members", 5, "largest", False), ("members", 5, "largest", True), ("members", 5, "smallest", False),
        ("percent_of_measure", 80, "largest", True),
    ):  # fmt: skip
        limit = Limit(level=level, count=count, amount=amount, side=side, by=by, others=others)  # type: ignore[arg-type]
        words = limit_words(limit, placed, document, model)
        if limit not in placed.limits:
            gesture = SetLimit(dimension=placed.dimension, hierarchy=placed.hierarchy, level=level, limit=limit)
            yield Offer(words[:1].upper() + words[1:], "menu", None, gesture, under="Show only")
    yield Offer("Others, by choice…", "menu", asks="limit", under="Show only")
    for limit in placed.limits_in_force(hierarchy.levels):
        yield from limit_in_force(document, placed, limit, model)


def _order_offers(placed: PlacedDimension) -> Iterator[Offer]:
    orders = (
        ("In natural order", Order()), ("In natural order reversed", Order(descending=True)),
        ("By name", Order(by="caption")), ("By name reversed", Order(by="caption", descending=True)),
        ("By key", Order(by="key")),
    )  # fmt: skip
    for words, order in orders:
        if order != placed.order:
            gesture = SetOrder(dimension=placed.dimension, hierarchy=placed.hierarchy, order=order)
            yield Offer(words, "menu", None, gesture, under="Order")


def _total_offers(document: Analysis, axis: AxisName, placed: PlacedDimension) -> Iterator[Offer]:
    usual = "before" if axis == "rows" else "after"
    for where, words in _TOTALS:
        if where != (placed.totals or usual):
            gesture = SetTotals(dimension=placed.dimension, hierarchy=placed.hierarchy, totals=where)  # type: ignore[arg-type]
            caption = "No subtotals" if where == "none" else f"Subtotals {words}"
            yield Offer(caption, "menu", None, gesture, under="Totals")
    grand = document.question.row_total if axis == "rows" else document.question.column_total
    name = "row" if axis == "rows" else "column"
    for where, words in (("before", f"first {name}"), ("after", f"last {name}"), ("none", "")):
        if where != grand:
            text = f"Grand total in the {words}" if words else "No grand total"
            yield Offer(text, "menu", None, SetGrandTotal(axis=axis, totals=where), under="Totals")  # type: ignore[arg-type]
    is_hidden = document.question.totals_of_one == "hidden"
    words = "Totals of one child too" if is_hidden else "No totals of one child"
    yield Offer(words, "menu", None, SetTotalsOfOne(totals="shown" if is_hidden else "hidden"), under="Totals")


def _label_offers(document: Analysis, axis: AxisName, placed: PlacedDimension) -> Iterator[Offer]:
    own = (placed.dimension, placed.hierarchy)
    now = next((each.shows for each in document.dress.labels if (each.dimension, each.hierarchy) == own), "captions")
    for shows, words in _LABELS:
        if shows != now:
            labels = LabelDress(dimension=own[0], hierarchy=own[1], shows=shows)  # type: ignore[arg-type]
            yield Offer(words, "menu", None, DressLabels(labels=labels), under="Labels")
    if axis == "rows":
        for form, words in _ROW_FORMS:
            if form != document.dress.rows:
                yield Offer(words, "menu", None, DressTable(rows=form), under="Labels")  # type: ignore[arg-type]


def _level_offers(document: Analysis, placed: PlacedDimension, model: SemanticModel) -> Iterator[Offer]:
    dimension = find_dimension(model, placed.dimension)
    hierarchy = find_hierarchy(dimension, placed.hierarchy)
    start = hierarchy.levels.index(placed.level)
    for level in hierarchy.levels[start + 1 : -1]:
        caption = plural(level_caption(dimension, level))
        is_skipped = level in placed.skipped
        words = f"Show {caption} again" if is_skipped else f"Pass over {caption}"
        gesture = SkipLevel(
            dimension=placed.dimension, hierarchy=placed.hierarchy, level=level, is_skipped=not is_skipped
        )
        yield Offer(words, "menu", None, gesture, under="Levels")
    what = plural(placed_caption(dimension, hierarchy, placed.level))
    words = f"Hide {what} that have no records" if placed.all_members else f"Show {what} that have no records, too"
    show = ShowAllMembers(dimension=placed.dimension, hierarchy=placed.hierarchy, is_shown=not placed.all_members)
    yield Offer(words, "menu", None, show, under="Levels")
    axis = axis_of(document.question, placed)
    if axis is None:
        return
    yield empty_offer(document, axis)
    on_axis = document.question.axis(axis)
    if len(on_axis) > 1 and on_axis[0].only_under is None and not leads_on(document, *on_axis[:2]):
        words = f"Make a way down of {way_caption(on_axis, model)}"
        yield Offer(words, "menu", None, MakeWayDown(axis=axis), under="Levels")


def empty_offer(document: Analysis, axis: AxisName) -> Offer:
    """Hides what is empty on an axis, or shows it again."""
    is_hidden = document.question.hides_empty(axis)
    words = f"Show empty {axis} again" if is_hidden else f"Hide empty {axis}"
    return Offer(
        words, "menu", None, HideEmpty(axis=axis, is_hidden=not is_hidden), under="" if is_hidden else "Levels"
    )
