"""Offers for the phrases that narrow and order: a filter, a limit, an order, each by itself.

Each has a short menu of its own; dragged out of the sentence it is lifted, and a filter that is dragged onto an axis
lets its dimension stand there.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from dastan.core.analysis.captions import level_caption, plural
from dastan.core.analysis.document import Analysis, Limit, Order, PlacedDimension
from dastan.core.analysis.gestures import PutFilter, SetLimit, SetOrder, SetTotalsOver, StopAsking, TakeFilter
from dastan.core.analysis.landing import landings
from dastan.core.analysis.offer import Offer, Thing, in_menu
from dastan.core.analysis.placing import find_placed
from dastan.core.analysis.prompts import Answers, can_be_asked, prompts_named
from dastan.core.analysis.resolve import find_dimension
from dastan.core.model.conditions import AttributeFilter, KeyFilter, MeasureFilter, MemberFilter, PeriodFilter
from dastan.core.model.document import SemanticModel


def filter_offers(document: Analysis, at: int, model: SemanticModel) -> Iterator[Offer]:
    """What can be done with a filter of any kind."""
    if not 0 <= at < len(document.question.filters):
        return
    condition = document.question.filters[at]
    names = tuple(dict.fromkeys(prompts_named(condition, model)))
    if names:
        caption = Answers(document.question, model).prompt(names[0]).caption
        yield Offer(f"Answer “{caption}” anew…", "menu", asks="prompts", prompts=names)
    if isinstance(condition, MemberFilter) and condition.list is not None:
        is_own = any(each.name == condition.list for each in document.lists)
        yield Offer("Change the list…" if is_own else "Make a list like it…", "menu", asks="list")
    elif isinstance(condition, MemberFilter) and not names:
        yield Offer("Choose members…", "menu", asks="members")
    if not names and isinstance(condition, AttributeFilter | MeasureFilter | PeriodFilter | KeyFilter):
        yield Offer("Change this filter…", "menu", asks="condition")
    turned = replace(condition, action="leave_out" if condition.action == "keep" else "keep")
    words = "Leave these out instead" if condition.action == "keep" else "Keep only these instead"
    yield in_menu(words, PutFilter(condition=turned, at=at))
    if can_be_asked(condition):
        yield Offer("Ask for it on opening…", "menu", asks="opening")
    if set(names) & {each.name for each in document.question.prompts}:
        yield in_menu("No longer ask on opening", StopAsking(at=at))
    yield Offer("Lift this filter", "away", None, TakeFilter(at=at))
    if isinstance(condition, MemberFilter):
        thing = Thing(kind="dimension", dimension=condition.dimension, hierarchy=condition.hierarchy)
        for each in landings(document, thing, model):
            yield replace(each, is_drop_only=True)


def limit_offers(document: Analysis, thing: Thing, model: SemanticModel) -> Iterator[Offer]:
    """What can be done with a limit. Raises NotFoundError, InputError where there is none."""
    placed = find_placed(document.question, thing.dimension or "", thing.hierarchy or "", model)
    for limit in placed.limits:
        if limit.level == thing.level:
            yield Offer("Change this limit…", "menu", asks="limit")
            *others, lift = limit_in_force(document, placed, limit, model)
            yield from (*others, replace(lift, place="away"))


def limit_in_force(document: Analysis, placed: PlacedDimension, limit: Limit, model: SemanticModel) -> Iterator[Offer]:
    """What the totals beside a limit are over; and last, to lift it."""
    if not limit.others:
        is_scope = document.question.totals_over == "scope"
        words = "Totals over what is shown" if is_scope else "Totals over everything in scope"
        yield in_menu(words, SetTotalsOver(over="shown" if is_scope else "scope"))
    lift = SetLimit(dimension=placed.dimension, hierarchy=placed.hierarchy, level=limit.level)
    caption = level_caption(find_dimension(model, placed.dimension), limit.level)
    yield in_menu(f"Show all {plural(caption)} again", lift)


def order_offers(document: Analysis, thing: Thing, model: SemanticModel) -> Iterator[Offer]:
    """What can be done with an order. Raises NotFoundError, InputError where its hierarchy does not stand."""
    placed = find_placed(document.question, thing.dimension or "", thing.hierarchy or "", model)
    order = placed.order
    turned = replace(order, descending=not order.descending)
    if order.by == "measure":
        words = "Smallest first" if order.descending else "Largest first"
    else:
        words = "The other way round"
    yield in_menu(words, SetOrder(dimension=placed.dimension, hierarchy=placed.hierarchy, order=turned))
    natural = SetOrder(dimension=placed.dimension, hierarchy=placed.hierarchy, order=Order())
    yield Offer("In natural order again", "away", None, natural)
