"""Views of measures in a document: put in a measure's place, turned with the table, and offered."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import Literal

from dastan.core.analysis.captions import Members
from dastan.core.analysis.document import AXES, Analysis, AxisName, PlacedMeasure
from dastan.core.analysis.gestures import PutMeasure, PutViews, ShowView
from dastan.core.analysis.offer import Offer, in_menu
from dastan.core.analysis.openness import shown_levels
from dastan.core.analysis.placed import shown_formula, viewed_measure
from dastan.core.analysis.resolve import find_dimension, find_hierarchy, find_measure
from dastan.core.analysis.view_words import plain_names, view_words
from dastan.core.analysis.views import (
    Balance,
    Beside,
    Change,
    CumulativeShare,
    Index,
    Moving,
    Rank,
    RunningTotal,
    Share,
    Step,
    ToDate,
    View,
    calendars_of,
    can_run,
    has_balance,
)
from dastan.core.formula.formula import bases_of, is_own, rolls_up
from dastan.core.model.conditions import LevelName, leaves_of
from dastan.core.model.document import SemanticModel
from dastan.core.model.meaning import parts_of
from dastan.core.model.reach import grain_of, reaches, shown_hierarchies

_MOST_AGAINST = 8
_AGAINST: tuple[Literal["earlier", "difference", "percent"], ...] = ("earlier", "difference", "percent")
_HEADINGS = {
    "share": "Its share, beside it", "change": "Its change, beside it", "running": "Its run along the table",
    "moving": "Its run along the table", "index": "Its run along the table", "rank": "Its rank, beside it",
    "cumulative": "Its rank, beside it", "beside": "With another measure",
    "step": "Its change, beside it", "balance": "Its balance, beside it",
    "to_date": "Its run along the table",
}  # fmt: skip


def view_offers(document: Analysis, placed: PlacedMeasure, model: SemanticModel) -> Iterator[Offer]:
    """Views of a measure in the table: beside it, or of a view that is shown, others in its place."""
    measure = viewed_measure(placed, model)
    if placed.view is not None:
        itself = ShowView(placed=placed)
        if replace(placed, view=None) not in document.question.measures:
            yield in_menu(f"{measure.caption} itself", itself, "In its place")
    at = document.question.measures.index(placed) + 1
    in_its_place = []
    for view in fitting_views(document, placed, model):
        other = replace(placed, view=view)
        if other in document.question.measures:
            continue
        words = view_words(view, plain_names(model))
        words = words[:1].upper() + words[1:]
        if placed.view is None:
            beside = PutMeasure(
                measure=placed.measure, aggregate=placed.aggregate, percentile=placed.percentile, view=view, at=at
            )
            yield in_menu(words, beside, _HEADINGS[view.kind])
        in_its_place.append(in_menu(words, ShowView(placed=placed, view=view), "In its place"))
    yield from in_its_place


def member_offers_of(
    document: Analysis, placed: PlacedMeasure, model: SemanticModel, members: Members
) -> Iterator[Offer]:
    """The measure against other members of a dimension of which a new analysis keeps some: actual against plan."""
    if placed.view is not None:
        return
    grains = [grain_of(part) for part in parts_of(viewed_measure(placed, model), model)]
    for dimension in model.dimensions:
        hierarchy = next((each for each in shown_hierarchies(dimension) if not each.is_list), None)
        if not dimension.default or hierarchy is None or not any(reaches(model, each, dimension) for each in grains):
            continue
        found = members(dimension.name, hierarchy.name)
        for code in found.children(()).tolist()[:_MOST_AGAINST]:
            path, caption = found.path_of(0, code), found.levels[0].captions[code]
            if path in dimension.default or path[0] is None:
                continue
            views = tuple(
                Change(on="member", dimension=dimension.name, hierarchy=hierarchy.name, path=path, shows=shows)
                for shows in _AGAINST
            )
            if any(replace(placed, view=each) not in document.question.measures for each in views):
                yield in_menu(
                    f"{caption}, and its change on it", PutViews(placed=placed, views=views),
                    f"Against another {dimension.caption.lower()}",
                )  # fmt: skip


def fitting_views(document: Analysis, placed: PlacedMeasure, model: SemanticModel) -> Iterator[View]:
    """The views that say something in the table as it stands."""
    question = document.question
    yield from _shares(document, model)
    own = viewed_measure(placed, model)
    for other in question.measures:
        if other.view is None and other.aggregate is None and other.measure != placed.measure:
            if find_measure(model, other.measure).unit == own.unit:
                yield Beside(measure=other.measure)
                yield Beside(measure=other.measure, shows="percent")
            else:
                yield Beside(measure=other.measure, shows="ratio")
    grains = [grain_of(part) for part in parts_of(own, model)]
    own_formula = shown_formula(replace(placed, view=None), model)
    if has_balance(own_formula) and _has_beginning(document, bases_of(own_formula)[0].aggregate.time):
        yield Balance(shows="opening")
        yield Balance(shows="movement")
        if any(each.aggregate.over_time != "last" for each in bases_of(own_formula)):
            yield Balance(shows="closing")
    for name in calendars_of(model):
        calendar = model.dimension(name)
        if not any(reaches(model, grain, calendar) for grain in grains):
            continue
        for shows in ("percent", "difference", "earlier"):
            yield Change(on="year", dimension=name, shows=shows)
        if rolls_up(own_formula) and is_own(own_formula):
            yield from _to_date(document, name, model)
        if any(each.dimension == name for axis in AXES for each in question.axis(axis)):
            yield Change(on="period", dimension=name, shows="percent")
            yield Change(on="period", dimension=name, shows="difference")
        break
    for axis in AXES:
        if not question.axis(axis):
            continue
        is_nested = (
            any(len(levels) > 1 for levels in _levels_shown(document, axis, model)) or len(question.axis(axis)) > 1
        )
        runs = can_run(shown_formula(replace(placed, view=None), model))
        ways = (False, True) if is_nested else (False,)
        if runs:
            yield from (RunningTotal(along=axis, restarts=each) for each in ways)
        if any(each.dimension in calendars_of(model) for each in question.axis(axis)):
            yield Moving(along=axis, count=3)
            yield Moving(along=axis, count=12)
            yield Index(along=axis)
        if axis == "columns":
            yield from (Step(along=axis, shows=each) for each in ("percent", "difference"))
        yield from (Rank(along=axis, restarts=each) for each in ways)
        if runs:
            yield from (CumulativeShare(along=axis, restarts=each) for each in ways)


def _has_beginning(document: Analysis, calendar: str) -> bool:
    """Whether a time that begins somewhere stands in the table, or is kept by a filter."""
    question = document.question
    placed = any(each.dimension == calendar for axis in AXES for each in question.axis(axis))
    leaves = [leaf for each in question.filters for leaf in leaves_of(each)]
    return placed or any(getattr(each, "dimension", None) == calendar for each in leaves)


def _to_date(document: Analysis, calendar: str, model: SemanticModel) -> Iterator[View]:
    """To date in each level above the finest that is shown of a calendar."""
    for axis in AXES:
        for placed, shown in zip(document.question.axis(axis), _levels_shown(document, axis, model), strict=True):
            levels = (
                find_hierarchy(model.dimension(calendar), placed.hierarchy).levels
                if placed.dimension == calendar
                else ()
            )
            for level in levels[: levels.index(shown[-1])] if levels and shown else ():
                yield ToDate(level=LevelName(dimension=calendar, hierarchy=placed.hierarchy, level=level))


def _shares(document: Analysis, model: SemanticModel) -> Iterator[View]:
    question = document.question
    if not question.rows and not question.columns:
        return
    is_cross = bool(question.rows and question.columns)
    yield Share(of="whole")
    if is_cross:
        yield Share(of="column")
        yield Share(of="row")
    sides: tuple[tuple[AxisName, Literal["parent", "parent_column"]], ...] = (
        ("rows", "parent"),
        ("columns", "parent_column"),
    )
    for axis, of in sides:
        levels = _levels_shown(document, axis, model)
        if sum(len(each) for each in levels) > 1:
            yield Share(of=of)
        for placed, own in zip(question.axis(axis), levels, strict=True):
            # The members of the last level have no others of its kind below them, but stand under outer ones.
            for level in own[:-1] if len(levels) == 1 else own:
                name = LevelName(dimension=placed.dimension, hierarchy=placed.hierarchy, level=level)
                yield Share(of="level", level=name)


def _levels_shown(document: Analysis, axis: AxisName, model: SemanticModel) -> list[list[str]]:
    """The levels that are shown of each hierarchy on an axis."""
    found = []
    for placed in document.question.axis(axis):
        hierarchy = find_hierarchy(find_dimension(model, placed.dimension), placed.hierarchy)
        found.append(list(shown_levels(document, placed, hierarchy)))
    return found
