"""Gestures: each is one step, a pure function from document to document.

`apply_gesture` either returns a document that the model can answer, or raises and changes nothing.
"""

from __future__ import annotations

from dataclasses import replace
from typing import assert_never

from dastan.core.analysis.checks import check_document, check_reach, grains_of_question
from dastan.core.analysis.document import (
    Analysis,
    AxisName,
    PlacedDimension,
    PlacedMeasure,
)
from dastan.core.analysis.dress import dressed, dressed_table, with_width
from dastan.core.analysis.gesture import (
    AnswerPrompt,
    AskOnOpening,
    BreakDown,
    ChangeMade,
    CloseAll,
    CloseLevel,
    CloseMember,
    DressLabels,
    DressNumbers,
    DressTable,
    DropMissing,
    FilterMembers,
    ForgetMade,
    ForgetWayDown,
    Gesture,
    GoInto,
    HideEmpty,
    MakeMeasure,
    MakeWayDown,
    OpenAll,
    OpenLevel,
    OpenMember,
    PlaceMeasures,
    PutDimension,
    PutFilter,
    PutMeasure,
    PutViews,
    PutWayDown,
    Rewrite,
    SetAggregate,
    SetAside,
    SetChart,
    SetGrandTotal,
    SetLimit,
    SetOrder,
    SetTotals,
    SetTotalsOfOne,
    SetTotalsOver,
    SetView,
    SetWidth,
    ShowAllMembers,
    ShowLevel,
    ShowView,
    Silence,
    SkipLevel,
    StopAsking,
    StopBreakingDown,
    SwapAxes,
    TakeDimension,
    TakeFilter,
    TakeMeasure,
    UseInstead,
)
from dastan.core.analysis.going import go
from dastan.core.analysis.lost import drop_missing, with_instead
from dastan.core.analysis.made import change_made, forget_made, make_measure, with_made
from dastan.core.analysis.names import check_names
from dastan.core.analysis.openness import close_level, close_member, open_level, open_member, with_opening
from dastan.core.analysis.placed import shown_measure, viewed_measure
from dastan.core.analysis.placing import (
    axis_of,
    find_placed,
    hierarchy_of,
    is_same_hierarchy,
    moved,
    placed_in,
    replace_placed,
    waiting_in,
    with_question,
    without_dimension,
)
from dastan.core.analysis.prompting import ask_or_fix
from dastan.core.analysis.prompts import Answers
from dastan.core.analysis.resolve import check_level, find_dimension, find_measure
from dastan.core.analysis.viewing import put_views, show_view, turned_views
from dastan.core.analysis.ways import change_ways
from dastan.core.errors import InputError
from dastan.core.model.conditions import Condition, MemberFilter, leaves_of
from dastan.core.model.document import SemanticModel
from dastan.core.model.parts import is_veiled
from dastan.core.model.reach import Grain, reaches


def apply_gesture(document: Analysis, gesture: Gesture, model: SemanticModel) -> Analysis:
    """The document after one gesture.

    Raises: NotFoundError for a name that the model or document does not have; InputError where the result
    could not be answered. What is used instead of a name that is gone leaves others that may be gone as they are.
    """
    if isinstance(gesture, UseInstead):
        return with_instead(document, gesture)  # of several things that are gone, one after the other
    own, model = model, with_made(model, document)
    if not isinstance(gesture, DropMissing):  # which is for a document that names what is gone
        check_names(gesture, model)
        check_names(document, model)
    after = _apply(document, gesture, model)
    check_document(after, own)
    return after


def _apply(document: Analysis, gesture: Gesture, model: SemanticModel) -> Analysis:
    match gesture:
        case PutMeasure():
            return _put_measure(document, gesture, model)
        case TakeMeasure():
            taken = with_question(document, measures=_without_measure(document, gesture, model))
            return _with_defaults(taken, grains_of_question(document, model), model)
        case PutDimension():
            return _put_dimension(document, gesture, model)
        case TakeDimension():
            return replace(
                document, question=without_dimension(document.question, gesture.dimension, gesture.hierarchy)
            )
        case OpenMember() | CloseMember():
            change = open_member if isinstance(gesture, OpenMember) else close_member
            hierarchy = hierarchy_of(model, gesture.dimension, gesture.hierarchy)
            if not 0 < len(gesture.path) < len(hierarchy.levels):
                raise InputError("There is nothing below this member.", "Open a member of a level above the last.")
            opening = document.opening(gesture.dimension, gesture.hierarchy)
            return with_opening(document, change(opening, hierarchy, gesture.path))
        case OpenLevel() | CloseLevel():
            return _turn_level(document, gesture, model)
        case OpenAll() | CloseAll() | ShowLevel() | GoInto() | BreakDown() | StopBreakingDown():
            return go(document, gesture, model)
        case MakeWayDown() | PutWayDown() | ForgetWayDown():
            return change_ways(document, gesture, model)
        case SetAside():
            return _set_aside(document, gesture, model)
        case PlaceMeasures(axis=axis, at=at):
            return with_question(document, measures_on=axis, measures_at=at)
        case AskOnOpening() | StopAsking():
            return ask_or_fix(document, gesture, model)
        case FilterMembers():
            return _filter_members(document, gesture, model)
        case PutFilter() | TakeFilter():
            return _change_filter(document, gesture)
        case SetAggregate():
            return _set_aggregate(document, gesture, model)
        case ShowView():
            return show_view(document, gesture)
        case PutViews():
            return put_views(document, gesture)
        case SetLimit():
            placed = _own(document, gesture, model)
            others = tuple(each for each in placed.limits if each.level != gesture.level)
            return replace_placed(
                document, replace(placed, limits=(*others, gesture.limit) if gesture.limit else others)
            )
        case SetOrder():
            return replace_placed(document, replace(_own(document, gesture, model), order=gesture.order))
        case SetTotals():
            return replace_placed(document, replace(_own(document, gesture, model), totals=gesture.totals))
        case SetGrandTotal():
            field = "row_total" if gesture.axis == "rows" else "column_total"
            return with_question(document, **{field: gesture.totals})
        case SetTotalsOfOne():
            return with_question(document, totals_of_one=gesture.totals)
        case SetTotalsOver():
            return with_question(document, totals_over=gesture.over)
        case SkipLevel():
            placed = _own(document, gesture, model)
            kept = tuple(each for each in placed.skipped if each != gesture.level)
            skipped = (*kept, gesture.level) if gesture.is_skipped else kept
            return replace_placed(document, replace(placed, skipped=skipped))
        case ShowAllMembers():
            placed = _own(document, gesture, model)
            shown = replace_placed(document, replace(placed, all_members=gesture.is_shown))
            on = axis_of(document.question, placed)
            return _with_empty(shown, on, "shown") if on and gesture.is_shown else shown
        case HideEmpty(axis=axis, is_hidden=is_hidden):
            return _with_empty(document, axis, "hidden" if is_hidden else "shown")
        case DressLabels(labels=labels):
            hierarchy_of(model, labels.dimension, labels.hierarchy)
            own = (labels.dimension, labels.hierarchy)
            rest = tuple(each for each in document.dress.labels if (each.dimension, each.hierarchy) != own)
            kept_labels = rest if labels.shows == "captions" else (*rest, labels)
            return replace(document, dress=replace(document.dress, labels=kept_labels))
        case DressTable():
            return dressed_table(document, gesture)
        case SetWidth(measure=measure, width=width):
            return with_width(document, measure, width)
        case DressNumbers(numbers=numbers):
            return dressed(document, numbers)
        case Silence(warning=warning):
            silenced = tuple(dict.fromkeys((*document.dress.silenced, warning)))
            return replace(document, dress=replace(document.dress, silenced=silenced))
        case SetView(view=view):
            return replace(document, dress=replace(document.dress, view=view))
        case SetChart(chart=chart):
            return replace(document, dress=replace(document.dress, chart=chart))
        case AnswerPrompt():
            Answers(document.question, model).prompt(gesture.answer.prompt)
            kept_answers = tuple(each for each in document.question.answers if each.prompt != gesture.answer.prompt)
            return with_question(document, answers=(*kept_answers, gesture.answer))
        case MakeMeasure():
            after = make_measure(document, gesture, model)
            return (
                after
                if not gesture.is_put
                else _with_defaults(after, grains_of_question(document, model), with_made(model, after))
            )
        case ChangeMade():
            return change_made(document, gesture, model)
        case ForgetMade():
            return forget_made(document, gesture)
        case SwapAxes():
            document = turned_views(document)
            question = document.question
            return with_question(
                document,
                measures_on="columns" if question.measures_on == "rows" else "rows",
                rows=question.columns,
                columns=question.rows,
                row_total=question.column_total,
                column_total=question.row_total,
                empty_rows=question.empty_columns,
                empty_columns=question.empty_rows,
            )
        case Rewrite(question=question):
            rewritten = replace(document, question=question)
            for placed in (*question.rows, *question.columns):
                check_reach(rewritten, find_dimension(model, placed.dimension), model)
            return _with_defaults(rewritten, grains_of_question(document, model), model)
        case DropMissing():
            return drop_missing(document, model)
        case UseInstead():
            return with_instead(document, gesture)
        case _:
            assert_never(gesture)


def _put_measure(document: Analysis, gesture: PutMeasure, model: SemanticModel) -> Analysis:
    own = _placed_measure(gesture, model)
    before = document.question.measures
    at = len(before) if gesture.at is None else gesture.at
    measures = moved(before, own, at, lambda each: each == own)
    return _with_defaults(with_question(document, measures=measures), grains_of_question(document, model), model)


def _placed_measure(gesture: PutMeasure | TakeMeasure, model: SemanticModel) -> PlacedMeasure:
    """The placement that a gesture means; without an aggregate where it is the measure's own."""
    find_measure(model, gesture.measure)
    own = PlacedMeasure(
        measure=gesture.measure, aggregate=gesture.aggregate, percentile=gesture.percentile, view=gesture.view
    )
    plain = PlacedMeasure(measure=gesture.measure, view=gesture.view)
    return plain if shown_measure(own, model) == shown_measure(plain, model) else own


def _set_aggregate(document: Analysis, gesture: SetAggregate, model: SemanticModel) -> Analysis:
    if gesture.placed not in document.question.measures:
        raise InputError("This measure is not in the table.", "Put it in first.")
    changed = replace(gesture.placed, aggregate=gesture.aggregate, percentile=gesture.percentile)
    if viewed_measure(changed, model).name == gesture.placed.measure:
        changed = PlacedMeasure(measure=gesture.placed.measure, view=gesture.placed.view)
    measures = tuple(changed if each == gesture.placed else each for each in document.question.measures)
    return with_question(document, measures=measures)


def _change_filter(document: Analysis, gesture: PutFilter | TakeFilter) -> Analysis:
    filters = list(document.question.filters)
    if gesture.at is not None and not 0 <= gesture.at < len(filters):
        raise InputError("There is no such filter any more.", "Look at the sentence, then try again.")
    if isinstance(gesture, TakeFilter):
        del filters[gesture.at]
    elif gesture.at is None:
        filters.append(gesture.condition)
    else:
        filters[gesture.at] = gesture.condition
    return with_question(document, filters=tuple(filters))


def _with_empty(document: Analysis, axis: AxisName, empty: str) -> Analysis:
    """With the empty headers of an axis shown or hidden; hiding them takes back that members stand without records."""
    question = document.question
    if empty == "hidden":
        question = question.with_axis(axis, tuple(replace(each, all_members=False) for each in question.axis(axis)))
    return with_question(replace(document, question=question), **{f"empty_{axis}": empty})


def _with_defaults(document: Analysis, before: tuple[Grain, ...], model: SemanticModel) -> Analysis:
    """New records bring the model's default members in, as visible filters; such as reach nothing are lifted.

    Args: `before` are the records counted so far: a default that reached them is there, or was lifted on purpose.
    """
    after = grains_of_question(document, model)
    filters = list(document.question.filters)
    for dimension in model.dimensions:
        if not dimension.default:
            continue
        own = MemberFilter(
            dimension=dimension.name, hierarchy=dimension.hierarchies[0].name, action="keep", members=dimension.default
        )
        reached, was_reached = (any(reaches(model, grain, dimension) for grain in grains) for grains in (after, before))
        if not reached:
            filters = [each for each in filters if each != own]
        elif not was_reached and not any(_is_about(each, dimension.name) for each in filters):
            filters.append(own)
    return with_question(document, filters=tuple(filters))


def _is_about(condition: Condition, dimension: str) -> bool:
    """Whether a condition says something of a dimension's members."""
    return any(isinstance(leaf, MemberFilter) and leaf.dimension == dimension for leaf in leaves_of(condition))


def _put_dimension(document: Analysis, gesture: PutDimension, model: SemanticModel) -> Analysis:
    hierarchy = hierarchy_of(model, gesture.dimension, gesture.hierarchy)
    before = document.question
    present = placed_in(before, gesture.dimension, gesture.hierarchy)
    present = present or waiting_in(before, gesture.dimension, gesture.hierarchy)
    level = gesture.level or (present.level if present else hierarchy.levels[0])
    dimension = find_dimension(model, gesture.dimension)
    check_level(dimension, hierarchy, level)
    if present is None:
        check_reach(document, dimension, model)
    placed = PlacedDimension(dimension=gesture.dimension, hierarchy=gesture.hierarchy, level=level)
    if present is not None:
        # A level that is now above the first shown, or is it, is no longer passed over.
        start = hierarchy.levels.index(level)
        skipped = tuple(each for each in present.skipped if hierarchy.levels.index(each) > start)
        placed = replace(present, level=level, skipped=skipped)
    target = before.axis(gesture.axis)
    at = len(target) if gesture.at is None else gesture.at
    question = without_dimension(before, gesture.dimension, gesture.hierarchy)
    if question.measures_on == gesture.axis and question.measures_at is not None:
        stood = sum(not is_same_hierarchy(each, placed) for each in target[:at])
        question = replace(question, measures_at=question.measures_at + (stood < question.measures_at))
    return replace(
        document,
        question=question.with_axis(
            gesture.axis, moved(target, placed, at, lambda each: is_same_hierarchy(each, placed))
        ),
    )


def _turn_level(document: Analysis, gesture: OpenLevel | CloseLevel, model: SemanticModel) -> Analysis:
    hierarchy = hierarchy_of(model, gesture.dimension, gesture.hierarchy)
    check_level(find_dimension(model, gesture.dimension), hierarchy, gesture.level)
    if gesture.level == hierarchy.levels[-1]:
        raise InputError("There is nothing below this level.", "Open a level above it.")
    change = open_level if isinstance(gesture, OpenLevel) else close_level
    opening = document.opening(gesture.dimension, gesture.hierarchy)
    return with_opening(document, change(opening, hierarchy, gesture.level))


def _filter_members(document: Analysis, gesture: FilterMembers, model: SemanticModel) -> Analysis:
    hierarchy = hierarchy_of(model, gesture.dimension, gesture.hierarchy)
    if any(not 0 < len(path) <= len(hierarchy.levels) for path in gesture.members):
        raise InputError("A member's path has one key per level, from the top down.", "Pick the member again.")
    own = MemberFilter(
        dimension=gesture.dimension,
        hierarchy=gesture.hierarchy,
        action=gesture.action,
        members=tuple(dict.fromkeys(gesture.members)),
    )
    filters = [
        each
        for each in document.question.filters
        if not (gesture.is_alone and _is_plain(each, own) and each.action != own.action)
    ]
    places = [place for place, each in enumerate(filters) if _is_plain(each, own) and each.action == own.action]
    at = places[0] if places else len(filters)
    if places and gesture.members:
        # What the person may not see was not theirs to take out.
        hidden = [path for path in filters[at].members if is_veiled(path)]  # type: ignore[union-attr]
        own = replace(own, members=tuple(dict.fromkeys((*own.members, *hidden))))
    filters[at : at + 1] = [own] if gesture.members else []
    return with_question(document, filters=tuple(filters))


def _without_measure(document: Analysis, gesture: TakeMeasure, model: SemanticModel) -> tuple[PlacedMeasure, ...]:
    own = _placed_measure(gesture, model)
    return tuple(each for each in document.question.measures if each != own)


def _is_plain(one: Condition, own: MemberFilter) -> bool:
    """Whether a condition is a plain filter to members of the same hierarchy."""
    is_plain = isinstance(one, MemberFilter) and one.level is None and one.prompt is None
    return is_plain and (one.dimension, one.hierarchy) == (own.dimension, own.hierarchy)  # type: ignore[union-attr]


def _own(
    document: Analysis, gesture: SetLimit | SetOrder | SetTotals | SkipLevel | ShowAllMembers, model: SemanticModel
) -> PlacedDimension:
    """The placement that a gesture means. Raises NotFoundError; InputError where it is not in the table."""
    found = find_placed(document.question, gesture.dimension, gesture.hierarchy, model)
    if isinstance(gesture, SetLimit | SkipLevel):
        hierarchy = hierarchy_of(model, gesture.dimension, gesture.hierarchy)
        check_level(find_dimension(model, gesture.dimension), hierarchy, gesture.level)
    return found


def _set_aside(document: Analysis, gesture: SetAside, model: SemanticModel) -> Analysis:
    hierarchy = hierarchy_of(model, gesture.dimension, gesture.hierarchy)
    own = (gesture.dimension, gesture.hierarchy)
    placed = placed_in(document.question, *own) or waiting_in(document.question, *own)
    if placed is None:
        placed = PlacedDimension(dimension=own[0], hierarchy=own[1], level=hierarchy.levels[0])
    question = without_dimension(document.question, *own)
    return replace(document, question=replace(question, waiting=(*question.waiting, placed)))
