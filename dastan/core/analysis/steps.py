"""A gesture in a few words, as it stands on the trail."""

from __future__ import annotations

from dataclasses import replace
from typing import assert_never

from dastan.core.analysis.captions import Members, hierarchy_caption, level_caption, listed, member_caption, plural
from dastan.core.analysis.condition_words import condition_words
from dastan.core.analysis.document import Analysis, Chart, Order, PlacedMeasure
from dastan.core.analysis.dress import look_words
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
from dastan.core.analysis.limit_words import limit_words
from dastan.core.analysis.made import with_made
from dastan.core.analysis.placed import shown_measure
from dastan.core.analysis.prompts import Answers
from dastan.core.analysis.resolve import find_dimension, find_hierarchy, find_measure
from dastan.core.analysis.sentence import under_caption
from dastan.core.analysis.view_words import plain_names, view_words
from dastan.core.analysis.ways import way_caption
from dastan.core.model.document import SemanticModel
from dastan.core.model.parts import MemberPath

FORM_WORDS: dict[str, str] = {
    "bars": "bars", "stacked": "stacked bars", "shares": "bars to 100 %", "lines": "lines", "areas": "areas",
    "points": "points", "ring": "a ring", "heat": "a heat table",
}  # fmt: skip
_MEMBERS_NAMED = 2


def step_words(before: Analysis, gesture: Gesture, model: SemanticModel, members: Members) -> str:
    """What a gesture did to the document `before` it."""
    model = with_made(model, before)
    match gesture:
        case PutMeasure() | TakeMeasure():
            own = PlacedMeasure(
                measure=gesture.measure, aggregate=gesture.aggregate, percentile=gesture.percentile, view=gesture.view
            )
            caption = shown_measure(own, model, members).caption
            if isinstance(gesture, TakeMeasure):
                return f"took {caption} away"
            moved = any(shown_measure(each, model, members).caption == caption for each in before.question.measures)
            return f"moved {caption}" if moved else caption
        case PutDimension():
            joining = "by" if gesture.axis == "rows" else "against"
            if gesture.level is not None:
                return f"{joining} {level_caption(find_dimension(model, gesture.dimension), gesture.level)}"
            return f"{joining} {_hierarchy(model, gesture.dimension, gesture.hierarchy)}"
        case TakeDimension():
            return f"took {_hierarchy(model, gesture.dimension, gesture.hierarchy)} away"
        case OpenMember():
            return f"opened {member_caption(gesture.path, members(gesture.dimension, gesture.hierarchy))}"
        case CloseMember():
            return f"closed {member_caption(gesture.path, members(gesture.dimension, gesture.hierarchy))}"
        case OpenLevel() | CloseLevel():
            verb = "opened" if isinstance(gesture, OpenLevel) else "closed"
            return f"{verb} every {level_caption(find_dimension(model, gesture.dimension), gesture.level).lower()}"
        case OpenAll() | CloseAll():
            verb = "opened" if isinstance(gesture, OpenAll) else "closed"
            return f"{verb} all of {_hierarchy(model, gesture.dimension, gesture.hierarchy)}"
        case ShowLevel():
            return f"only {plural(level_caption(find_dimension(model, gesture.dimension), gesture.level))}"
        case GoInto():
            if not gesture.path:
                return f"came back to all of {_hierarchy(model, gesture.dimension, gesture.hierarchy)}"
            return f"went into {member_caption(gesture.path, members(gesture.dimension, gesture.hierarchy))}"
        case BreakDown() | StopBreakingDown():
            by = _hierarchy(model, gesture.dimension, gesture.hierarchy)
            what = under_caption(gesture.under, members) if gesture.under is not None else "all"
            verb = "broke" if isinstance(gesture, BreakDown) else "no longer broke"
            return f"{verb} {what} down by {by}"
        case MakeWayDown(axis=axis, caption=caption):
            return f"made the way down {caption or way_caption(before.question.axis(axis), model)}"
        case PutWayDown(caption=caption, axis=axis):
            return f"{'by' if axis == 'rows' else 'against'} {caption}"
        case ForgetWayDown(caption=caption):
            return f"forgot the way down {caption}"
        case SetAside():
            return f"kept {_hierarchy(model, gesture.dimension, gesture.hierarchy)} at hand"
        case PlaceMeasures():
            return f"measures on {gesture.axis}"
        case AskOnOpening():
            return f"asks “{gesture.caption.strip()}” on opening"
        case StopAsking():
            return "no longer asks"
        case FilterMembers():
            if not gesture.members:
                return f"lifted the filter on {_hierarchy(model, gesture.dimension, gesture.hierarchy)}"
            verb = "kept" if gesture.action == "keep" else "left out"
            return f"{verb} {_members(gesture.members, members, gesture)}"
        case PutFilter(condition=condition, at=at):
            verb = "kept" if condition.action == "keep" else "left out"
            verb = "changed a filter to" if at is not None else verb
            return f"{verb} {condition_words(condition, before.question, model, members).text}"
        case TakeFilter(at=at):
            filters = before.question.filters
            words = condition_words(filters[at], before.question, model, members).text if 0 <= at < len(filters) else ""
            return f"lifted the filter on {words}"
        case SetAggregate():
            changed = replace(gesture.placed, aggregate=gesture.aggregate, percentile=gesture.percentile)
            return f"showed {shown_measure(changed, model).caption}"
        case PutViews(views=views):
            words = listed([view_words(each, plain_names(model, members)) for each in views])
            return f"{shown_measure(gesture.placed, model, members).caption}, its {words}"
        case ShowView(view=view):
            return f"showed {shown_measure(replace(gesture.placed, view=view), model, members).caption}"
        case SetLimit():
            caption = plural(level_caption(find_dimension(model, gesture.dimension), gesture.level))
            axes = (*before.question.rows, *before.question.columns)
            placed = [
                each for each in axes if (each.dimension, each.hierarchy) == (gesture.dimension, gesture.hierarchy)
            ]
            if gesture.limit is None or not placed:
                return f"showed all {caption} again"
            return f"showed {limit_words(gesture.limit, placed[0], before, model)}"
        case SetOrder(order=order):
            by = shown_measure(order.measure, model, members).caption if order.measure is not None else order.by
            return f"ordered {_hierarchy(model, gesture.dimension, gesture.hierarchy)} by {_order_words(by, order)}"
        case SetTotals():
            where = {"none": "no subtotals of", "before": "subtotals first of", "after": "subtotals last of"}
            words = where.get(gesture.totals or "", "the usual subtotals of")
            return f"{words} {_hierarchy(model, gesture.dimension, gesture.hierarchy)}"
        case SetGrandTotal():
            name = "row" if gesture.axis == "rows" else "column"
            where = {"none": f"no grand total {name}", "before": f"grand total {name} first"}
            return where.get(gesture.totals, f"grand total {name} last")
        case SetTotalsOfOne(totals=totals):
            return "totals of one child too" if totals == "shown" else "no totals of one child"
        case SetTotalsOver(over=over):
            return "totals over everything in scope" if over == "scope" else "totals over what is shown"
        case SkipLevel():
            caption = plural(level_caption(find_dimension(model, gesture.dimension), gesture.level))
            return f"passed over {caption}" if gesture.is_skipped else f"showed {caption} again"
        case ShowAllMembers():
            caption = _hierarchy(model, gesture.dimension, gesture.hierarchy)
            return f"{'showed' if gesture.is_shown else 'hid'} members of {caption} without records"
        case HideEmpty(axis=axis, is_hidden=is_hidden):
            return f"{'hid' if is_hidden else 'showed'} empty {axis}"
        case DressLabels(labels=labels):
            words = {"captions": "captions", "keys": "keys", "both": "captions and keys"}[labels.shows]
            return f"{words} of {_hierarchy(model, labels.dimension, labels.hierarchy)}"
        case DressTable():
            return look_words(gesture)
        case SetWidth(measure=measure):
            return (
                f"width of {shown_measure(measure, model, members).caption}" if measure else "width of the row headers"
            )
        case DressNumbers(numbers=numbers):
            return f"dressed {shown_measure(numbers.measure, model, members).caption}"
        case Silence():
            return "silenced a remark"
        case SetView(view=view):
            return {"table": "showed the table", "chart": "showed the chart", "both": "showed table and chart"}[view]
        case SetChart(chart=chart):
            return _chart_words(before.dress.chart, chart)
        case AnswerPrompt(answer=answer):
            return f"answered “{Answers(before.question, model).prompt(answer.prompt).caption}”"
        case MakeMeasure(made=made):
            return f"made {made.caption}"
        case ChangeMade(made=made):
            was = find_measure(model, made.name).caption
            return f"changed {made.caption}" if was == made.caption else f"called {was} {made.caption}"
        case ForgetMade(name=name):
            return f"forgot {find_measure(model, name).caption}"
        case SwapAxes():
            return "turned"
        case Rewrite():
            return "wrote the sentence"
        case UseInstead(name=name, instead=instead):
            return f"used {instead} in place of {name}"
        case DropMissing():
            return "took away what is missing"
        case _:
            assert_never(gesture)


def _members(paths: tuple[MemberPath, ...], members: Members, gesture: FilterMembers) -> str:
    found = members(gesture.dimension, gesture.hierarchy)
    shown = paths if len(paths) <= _MEMBERS_NAMED + 1 else paths[:_MEMBERS_NAMED]
    return listed([member_caption(path, found) for path in shown], len(paths) - len(shown))


def _chart_words(before: Chart, after: Chart) -> str:
    if before.form != after.form:
        return f"drew {FORM_WORDS[after.form] if after.form else 'what fits best'}"
    if before.multiples != after.multiples:
        return "drew small charts" if after.multiples else "drew one chart"
    return f"drew along {after.along}" if after.along else "drew along what fits best"


def _order_words(by: str, order: Order) -> str:
    if order.by == "measure":
        return f"{by}, {'largest' if order.descending else 'smallest'} first"
    words = {"natural": "natural order", "caption": "name", "key": "key"}[order.by]
    return f"{words}, reversed" if order.descending else words


def _hierarchy(model: SemanticModel, dimension: str, hierarchy: str) -> str:
    found = find_dimension(model, dimension)
    return hierarchy_caption(found, find_hierarchy(found, hierarchy))
