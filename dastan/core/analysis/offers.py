"""Offers: everywhere that a thing may land, each with its gesture and the words for it.

Asked once, when a drag or a menu starts. Menus list the offers, drop targets are the offers with a place.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from itertools import islice

from dastan.core.analysis.arranging import empty_offer, group_offers, measure_arranging, placed_arranging
from dastan.core.analysis.captions import Members, hierarchy_caption, level_caption, placed_caption
from dastan.core.analysis.document import Analysis, AxisName, Joint, PlacedMeasure
from dastan.core.analysis.gestures import (
    FilterList,
    ForgetList,
    ForgetMade,
    ForgetWayDown,
    MakeJoint,
    PutList,
    PutMeasure,
    PutWayDown,
    SetAside,
    TakeDimension,
    TakeMeasure,
    apply_gesture,
)
from dastan.core.analysis.landing import landing_words, landings
from dastan.core.analysis.lists import find_list, list_used_by
from dastan.core.analysis.made import used_by, with_made
from dastan.core.analysis.made_members import with_made_members
from dastan.core.analysis.offer import Offer, Thing, in_menu
from dastan.core.analysis.offers_down import cell_offers, layout_offers, level_offers, member_offers
from dastan.core.analysis.offers_of_phrases import filter_offers, limit_offers, order_offers
from dastan.core.analysis.placed import shown_measure
from dastan.core.analysis.placing import placed_in, waiting_in
from dastan.core.analysis.resolve import find_dimension, find_hierarchy
from dastan.core.analysis.view_captions import caption_after
from dastan.core.analysis.viewing import member_offers_of
from dastan.core.analysis.ways import find_way
from dastan.core.errors import AppError
from dastan.core.model.document import MemberList, SemanticModel

PREVIEW_LENGTH = 3


def offers_for(document: Analysis, thing: Thing, model: SemanticModel, members: Members) -> tuple[Offer, ...]:
    """All offers for a thing, in the order in which a menu lists them; only such as would succeed."""
    model, members = with_made(model, document), with_made_members(members, document)
    if thing.kind == "measure":
        found = _measure_offers(document, thing, model, members)
    elif thing.kind == "dimension":
        found = _dimension_offers(document, thing, model, members)
    elif thing.kind == "filter":
        found = filter_offers(document, thing.at or 0, model)
    elif thing.kind == "limit":
        found = limit_offers(document, thing, model)
    elif thing.kind == "order":
        found = order_offers(document, thing, model)
    elif thing.kind == "measures":
        found = group_offers(document, model)
    elif thing.kind == "way":
        found = way_offers(document, thing, model)
    elif thing.kind == "list":
        found = list_offers(document, find_list(model, thing.list or ""), model, members)
    elif thing.kind == "axis":
        found = iter((empty_offer(document, thing.axis or "rows"),))
    elif thing.kind == "cell":
        found = cell_offers(document, thing, model, members)
    else:
        found = member_offers(document, thing, model, members)
    return tuple(each for each in found if _succeeds(document, each, model))


def _succeeds(document: Analysis, offer: Offer, model: SemanticModel) -> bool:
    if offer.gesture is None:
        return True
    try:
        apply_gesture(document, offer.gesture, model)
    except AppError:
        return False
    return True


def _measure_offers(document: Analysis, thing: Thing, model: SemanticModel, members: Members) -> Iterator[Offer]:
    own = PlacedMeasure(
        measure=thing.measure or "", aggregate=thing.aggregate, percentile=thing.percentile, view=thing.view
    )
    measure = shown_measure(own, model, members)
    yield from _made_offers(document, own, measure.caption)
    placed = list(document.question.measures)
    captions = [caption_after(own if each != own else None, each, model, members) for each in placed]
    for at in range(len(placed) + 1):
        if own in placed and at in (placed.index(own), placed.index(own) + 1):
            continue
        if at < len(placed):
            words = f"{measure.caption} before {captions[at]}"
        else:
            words = f"{measure.caption} after {captions[-1]}" if placed else f"Show {measure.caption}"
        gesture = PutMeasure(
            measure=own.measure, aggregate=own.aggregate, percentile=own.percentile, view=own.view, at=at
        )
        yield Offer(words, "measures", at, gesture, preview=(measure.caption,))
    if own in placed:
        yield from measure_arranging(document, own, model)
        yield from member_offers_of(document, own, model, members)
        if len(placed) > 1:
            yield from group_offers(document, model)
        yield Offer(f"Dress the numbers of {measure.caption}…", "menu", asks="numbers")
        away = TakeMeasure(measure=own.measure, aggregate=own.aggregate, percentile=own.percentile, view=own.view)
        yield Offer(f"Take {measure.caption} away", "away", None, away)


def _made_offers(document: Analysis, own: PlacedMeasure, caption: str) -> Iterator[Offer]:
    """What can be done with a measure that was made here; one can be made of any other."""
    if all(each.name != own.measure for each in document.made):
        if own.view is None and own.aggregate is None:
            yield Offer(f"Make a measure of {caption}…", "menu", asks="formula")
        return
    yield Offer("Change its formula…", "menu", asks="formula")
    if not list(used_by(document, own.measure)):
        yield in_menu("Forget it", ForgetMade(name=own.measure))


def _dimension_offers(document: Analysis, thing: Thing, model: SemanticModel, members: Members) -> Iterator[Offer]:
    dimension = find_dimension(model, thing.dimension or "")
    hierarchy = find_hierarchy(dimension, thing.hierarchy or dimension.hierarchies[0].name)
    preview = _preview(thing, model, members)
    own = (dimension.name, hierarchy.name)
    present = placed_in(document.question, *own) or waiting_in(document.question, *own)
    caption = placed_caption(dimension, hierarchy, thing.level or (present.level if present else None))
    is_placed = placed_in(document.question, *own) is not None
    for landing in landings(document, thing, model):
        yield replace(landing, preview=preview)
    if hierarchy.layout is None:
        yield Offer(f"Choose members of {hierarchy_caption(dimension, hierarchy)}…", "menu", asks="members")
        yield Offer("Keep by a condition…", "menu", asks="condition")
    if not hierarchy.is_list:
        yield Offer("Make a list by a rule…", "menu", asks="list")
    yield from layout_offers(document, own, hierarchy)
    is_waiting = waiting_in(document.question, *own) is not None
    if not is_waiting:
        yield Offer(f"Keep {caption} at hand", "waiting", 0, SetAside(dimension=own[0], hierarchy=own[1]))
    if is_placed:
        yield from level_offers(document, own, model)
        yield from placed_arranging(document, own, model)
    if is_placed or is_waiting:
        yield Offer(f"Take {caption} away", "away", None, TakeDimension(dimension=own[0], hierarchy=own[1]))


def way_offers(document: Analysis, thing: Thing, model: SemanticModel) -> Iterator[Offer]:
    """Where a way down may be put: inside or outside of what is there."""
    way = find_way(document, thing.way or "")
    own = [(each.dimension, each.hierarchy) for each in way.steps]
    axes: tuple[tuple[AxisName, str], ...] = (("rows", "by"), ("columns", "against"))
    for axis, joining in axes:
        others = [each for each in document.question.axis(axis) if (each.dimension, each.hierarchy) not in own]
        for at in range(len(others) + 1):
            words = landing_words(way.caption, joining, tuple(others), at, model, own[0])
            place = document.question.axis(axis).index(others[at]) if at < len(others) else None
            gap = len(document.question.axis(axis)) if place is None else place
            yield Offer(words, axis, gap, PutWayDown(caption=way.caption, axis=axis, at=at), preview=(way.caption,))
    yield in_menu(f"Forget {way.caption}", ForgetWayDown(caption=way.caption))


def list_offers(document: Analysis, made: MemberList, model: SemanticModel, members: Members) -> Iterator[Offer]:
    """What can be done with a list: keep its members or leave them out, put them on an axis, tell it anew."""
    own = (made.dimension, made.hierarchy)
    preview = _preview(Thing(kind="dimension", dimension=own[0], hierarchy=own[1]), model, members)
    actions = {each.action for each in document.question.filters if getattr(each, "list", None) == made.name}
    if "keep" not in actions:
        yield in_menu(f"Keep only {made.caption}", FilterList(name=made.name, action="keep"))
    if "leave_out" not in actions:
        yield in_menu(f"Leave out {made.caption}", FilterList(name=made.name, action="leave_out"))
    if actions:
        yield Offer(f"Lift {made.caption}", "away", None, FilterList(name=made.name, action=None))
    axes: tuple[tuple[AxisName, str], ...] = (("rows", "by"), ("columns", "against"))
    for axis, joining in axes:
        placed = document.question.axis(axis)
        stands = [at for at, each in enumerate(placed) if (each.dimension, each.hierarchy) == own]
        for at in stands or range(len(placed) + 1):
            words = landing_words(made.caption, joining, placed, at, model, own)
            yield Offer(words, axis, at, PutList(name=made.name, axis=axis, at=at), preview=preview)
    yield Offer(f"Make a measure only for {made.caption}…", "menu", asks="formula")
    if not made.is_rule and len(made.members) > 1:
        joint = Joint(caption=made.caption, dimension=own[0], hierarchy=own[1], members=made.members)
        yield in_menu(f"Join them into one member, {made.caption}", MakeJoint(joint=joint, alone=True))
    if made in document.lists:
        yield Offer("Change the list…", "menu", asks="list")
        if not list(list_used_by(document, made.name)):
            yield in_menu(f"Forget {made.caption}", ForgetList(name=made.name))
    else:
        yield Offer("Make a list like it…", "menu", asks="list")


def _preview(thing: Thing, model: SemanticModel, members: Members) -> tuple[str, ...]:
    """The header and first members that would be seen."""
    dimension = find_dimension(model, thing.dimension or "")
    hierarchy = find_hierarchy(dimension, thing.hierarchy or dimension.hierarchies[0].name)
    level = thing.level or hierarchy.levels[0]
    found = members(dimension.name, hierarchy.name)
    depth = hierarchy.levels.index(level)
    captions = (each for code, each in enumerate(found.levels[depth].captions) if found.is_visible(depth, code))
    return (level_caption(dimension, level), *islice(captions, PREVIEW_LENGTH))
