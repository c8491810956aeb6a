"""Views of measures in a document: put in a measure's place, turned with the table, and offered."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from typing import Literal, assert_never

from dastan.core.analysis.captions import Members
from dastan.core.analysis.document import AXES, Analysis, AxisName, PlacedDimension, PlacedMeasure, Question
from dastan.core.analysis.gesture import PutMeasure, PutViews, ShowView
from dastan.core.analysis.offer import Offer, in_menu
from dastan.core.analysis.openness import shown_levels
from dastan.core.analysis.placed import shown_formula, shown_measure, viewed_measure
from dastan.core.analysis.placing import with_question
from dastan.core.analysis.resolve import find_dimension, find_hierarchy, find_measure
from dastan.core.analysis.views import (
    Beside,
    Change,
    CumulativeShare,
    Index,
    Moving,
    Rank,
    RunningTotal,
    Share,
    View,
    above_of,
    calendars_of,
    can_run,
    elsewhere_of,
    elsewhere_words,
    heading_words,
    turned,
    view_words,
)
from dastan.core.errors import InputError
from dastan.core.formula.bases import BaseAggregate
from dastan.core.formula.formula import Formula, bases_of, of_scope
from dastan.core.model.conditions import LevelName
from dastan.core.model.document import SemanticModel
from dastan.core.model.formulas import formula_of
from dastan.core.model.reach import grain_of, parts_of, reaches, shown_hierarchies

_MOST_AGAINST = 8
_AGAINST: tuple[Literal["earlier", "difference", "percent"], ...] = ("earlier", "difference", "percent")
_HEADINGS = {
    "share": "Its share, beside it", "change": "Its change, beside it", "running": "Its run along the table",
    "moving": "Its run along the table", "index": "Its run along the table", "rank": "Its rank, beside it",
    "cumulative": "Its rank, beside it", "beside": "With another measure",
}  # fmt: skip


def show_view(document: Analysis, gesture: ShowView) -> Analysis:
    """A placed measure by a view of it, everywhere in the document. Raises InputError where it is not placed."""
    if gesture.placed not in document.question.measures:
        raise InputError("This measure is not in the table.", "Put it in first.")
    shown = replace(gesture.placed, view=gesture.view)
    return with_measures(document, lambda each: shown if each == gesture.placed else each)


def put_views(document: Analysis, gesture: PutViews) -> Analysis:
    """The document with views of a placed measure after it. Raises InputError where it is not placed."""
    measures = document.question.measures
    if gesture.placed not in measures:
        raise InputError("This measure is not in the table.", "Put it in first.")
    wanted = [replace(gesture.placed, view=each) for each in gesture.views]
    new = [each for each in dict.fromkeys(wanted) if each not in measures]
    at = measures.index(gesture.placed) + 1
    return with_question(document, measures=(*measures[:at], *new, *measures[at:]))


def turned_views(document: Analysis) -> Analysis:
    """The document with views of the rows as views of the columns, and the other way round."""
    return with_measures(document, lambda each: replace(each, view=turned(each.view)))


def with_measures(document: Analysis, change: Callable[[PlacedMeasure], PlacedMeasure]) -> Analysis:
    """The document with another placed measure wherever one is named: in the table, its orders and its dress."""

    def placed(each: PlacedDimension) -> PlacedDimension:
        if each.order.measure is None:
            return each
        return replace(each, order=replace(each.order, measure=change(each.order.measure)))

    question = document.question
    after = with_question(
        document,
        measures=tuple(change(each) for each in question.measures),
        rows=tuple(placed(each) for each in question.rows),
        columns=tuple(placed(each) for each in question.columns),
        waiting=tuple(placed(each) for each in question.waiting),
    )
    numbers = tuple(
        replace(
            each,
            measure=change(each.measure),
            thresholds=tuple(
                replace(one, times=None if one.times is None else change(one.times)) for one in each.thresholds
            ),
        )
        for each in document.dress.numbers
    )
    return replace(after, dress=replace(after.dress, numbers=numbers))


@dataclass(frozen=True, slots=True)
class Term:
    """What a view is worked out from: a formula with its name, and where it is taken."""

    caption: str
    formula: Formula
    note: str = ""


def view_terms(placed: PlacedMeasure, model: SemanticModel) -> tuple[Term, ...]:
    """What a view of a measure compares, the measure itself in the cell first."""
    measure, formula = viewed_measure(placed, model), shown_formula(replace(placed, view=None), model)
    own = Term(measure.caption, formula, "in this cell")
    match placed.view:
        case Share() as view:
            return own, Term(f"{measure.caption} {heading_words(view, model)}", of_scope(formula, above_of(view)))
        case Change() as view:
            there = of_scope(formula, elsewhere_of(view))
            return own, Term(f"{measure.caption} in {elsewhere_words(view)}", there)
        case Beside() as view:
            other = find_measure(model, view.measure)
            return own, Term(other.caption, formula_of(other, model), "in this cell")
        case _:
            return (own,)


def count_formula(formula: Formula) -> Formula | None:
    """How many records a formula stands on, in its own scope; None where that is told by dates alone."""
    first = bases_of(formula)[0]
    return None if first.counted.alone else replace(first, aggregate=BaseAggregate("count"))


def view_formula(placed: PlacedMeasure, model: SemanticModel) -> str:
    """How a view is worked out from its terms, in words."""
    names = [each.caption for each in view_terms(placed, model)]
    match placed.view:
        case Share() | Beside(shows="ratio") | Beside(shows="percent"):
            return " ÷ ".join(names)
        case Beside():
            return " − ".join(names)
        case Change(shows="percent"):
            return f"({names[0]} − {names[1]}) ÷ {names[1]}, whatever its sign"
        case Change(shows="difference"):
            return f"{names[0]} − {names[1]}"
        case Change():
            return names[1]
        case RunningTotal():
            return f"{names[0]}, added up so far in natural order"
        case Moving(count=count, shows=shows):
            what = "the mean" if shows == "average" else "the sum"
            return f"{what} of {names[0]} here and of those before it, {count} together"
        case Index():
            return f"100 × {names[0]} ÷ the first {names[0]}"
        case Rank():
            return f"1 and one more for each that has more {names[0]}"
        case CumulativeShare():
            return f"{names[0]} of this and of all that have more, ÷ that of all"
        case None:
            return names[0]
        case _:
            assert_never(placed.view)


def heading_of(at: int, question: Question, model: SemanticModel) -> str:
    """What heads the numbers of a placed measure: of a view beside its own measure, only the view."""
    own = question.measures[at]
    if own.view is not None and at and replace(question.measures[at - 1], view=None) == replace(own, view=None):
        return heading_words(own.view, model)
    return shown_measure(own, model).caption


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
        words = view_words(view, model)
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
        hierarchy = next((each for each in shown_hierarchies(dimension) if not each.sets), None)
        if not dimension.default or hierarchy is None or not any(reaches(model, each, dimension) for each in grains):
            continue
        found = members(dimension.name, hierarchy.name)
        for code in found.children(()).tolist()[:_MOST_AGAINST]:
            path, caption = found.path_of(0, code), found.levels[0].captions[code]
            if path in dimension.default or path[0] is None:
                continue
            views = tuple(
                Change(
                    on="member", dimension=dimension.name, hierarchy=hierarchy.name, path=path, caption=caption,
                    shows=shows,
                )
                for shows in _AGAINST
            )  # fmt: skip
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
    for name in calendars_of(model):
        calendar = model.dimension(name)
        if not any(reaches(model, grain, calendar) for grain in grains):
            continue
        for shows in ("percent", "difference", "earlier"):
            yield Change(on="year", dimension=name, shows=shows)
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
        yield from (Rank(along=axis, restarts=each) for each in ways)
        if runs:
            yield from (CumulativeShare(along=axis, restarts=each) for each in ways)


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
