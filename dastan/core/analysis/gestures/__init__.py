"""Gestures: each is one step, a pure function from document to document, with its words. One file a family.

`apply_gesture` either returns a document that the model can answer, or raises and changes nothing.
"""

from __future__ import annotations

from dastan.core.analysis.alternatives import with_fitting_defaults
from dastan.core.analysis.captions import Members
from dastan.core.analysis.checks import check_document
from dastan.core.analysis.document import Analysis
from dastan.core.analysis.gestures.arranging import (
    HideEmpty,
    SetGrandTotal,
    SetLimit,
    SetOrder,
    SetTotals,
    SetTotalsOfOne,
    SetTotalsOver,
    ShowAllMembers,
    SkipLevel,
)
from dastan.core.analysis.gestures.asking import AnswerPrompt, AskOnOpening, StopAsking
from dastan.core.analysis.gestures.dimensions import PutDimension, SetAside, SwapAxes, TakeDimension
from dastan.core.analysis.gestures.dressing import (
    DressLabels,
    DressNumbers,
    DressTable,
    SetChart,
    SetView,
    SetWidth,
    Silence,
)
from dastan.core.analysis.gestures.filters import FilterMembers, PutFilter, TakeFilter
from dastan.core.analysis.gestures.going import BreakDown, GoInto, ShowLevel, StopBreakingDown
from dastan.core.analysis.gestures.joining import ChangeJoint, ForgetJoint, MakeJoint, TakeInJoint
from dastan.core.analysis.gestures.laying_out import ChangeLayout, ForgetLayout, MakeLayout
from dastan.core.analysis.gestures.listing import ChangeList, FilterList, ForgetList, MakeList, PutList
from dastan.core.analysis.gestures.making import ChangeMade, ForgetMade, MakeMeasure
from dastan.core.analysis.gestures.measures import (
    PlaceMeasures,
    PutMeasure,
    PutViews,
    SetAggregate,
    ShowView,
    TakeMeasure,
)
from dastan.core.analysis.gestures.opening import CloseAll, CloseLevel, CloseMember, OpenAll, OpenLevel, OpenMember
from dastan.core.analysis.gestures.rewriting import DropMissing, Rewrite, UseInstead
from dastan.core.analysis.gestures.ways import ForgetWayDown, MakeWayDown, PutWayDown
from dastan.core.analysis.made import with_made
from dastan.core.analysis.made_members import with_made_members
from dastan.core.analysis.names import check_names
from dastan.core.model.document import SemanticModel

__all__ = [
    "AnswerPrompt", "AskOnOpening", "BreakDown", "ChangeJoint", "ChangeLayout", "ChangeList", "ChangeMade",
    "CloseAll", "CloseLevel", "CloseMember", "DressLabels", "DressNumbers", "DressTable", "DropMissing",
    "FilterList", "FilterMembers", "ForgetJoint", "ForgetLayout", "ForgetList", "ForgetMade", "ForgetWayDown",
    "Gesture", "GoInto", "HideEmpty", "MakeJoint", "MakeLayout", "MakeList", "MakeMeasure", "MakeWayDown",
    "OpenAll", "OpenLevel", "OpenMember", "PlaceMeasures", "PutDimension", "PutFilter", "PutList", "PutMeasure",
    "PutViews", "PutWayDown", "Rewrite", "SetAggregate", "SetAside", "SetChart", "SetGrandTotal", "SetLimit",
    "SetOrder", "SetTotals", "SetTotalsOfOne", "SetTotalsOver", "SetView", "SetWidth", "ShowAllMembers",
    "ShowLevel", "ShowView", "Silence", "SkipLevel", "StopAsking", "StopBreakingDown", "SwapAxes",
    "TakeDimension", "TakeFilter", "TakeInJoint", "TakeMeasure", "UseInstead", "apply_gesture", "step_words",
]  # fmt: skip

Gesture = (
    PutMeasure | TakeMeasure | SetAggregate | ShowView | PutViews | PlaceMeasures
    | PutDimension | TakeDimension | SetAside | SwapAxes
    | OpenMember | CloseMember | OpenLevel | CloseLevel | OpenAll | CloseAll
    | ShowLevel | GoInto | BreakDown | StopBreakingDown
    | MakeWayDown | PutWayDown | ForgetWayDown
    | FilterMembers | PutFilter | TakeFilter
    | AskOnOpening | StopAsking | AnswerPrompt
    | SetLimit | SetOrder | SetTotals | SetGrandTotal | SetTotalsOfOne | SetTotalsOver | SkipLevel
    | ShowAllMembers | HideEmpty
    | DressNumbers | DressLabels | DressTable | SetWidth | Silence | SetView | SetChart
    | MakeMeasure | ChangeMade | ForgetMade
    | MakeJoint | TakeInJoint | ChangeJoint | ForgetJoint
    | MakeLayout | ChangeLayout | ForgetLayout
    | MakeList | ChangeList | ForgetList | FilterList | PutList
    | Rewrite | DropMissing | UseInstead
)  # fmt: skip


def apply_gesture(document: Analysis, gesture: Gesture, model: SemanticModel) -> Analysis:
    """The document after one gesture.

    Raises: NotFoundError for a name that the model or document does not have; InputError where the result
    could not be answered.
    """
    extended = with_made(model, document)
    if not gesture.may_name_what_is_gone:
        check_names(gesture, extended)
        check_names(document, extended)
    after = gesture.applied(document, extended)
    if not gesture.says_what_it_keeps:
        after = with_fitting_defaults(after, document, model)
    if not gesture.may_leave_some_gone:
        check_document(after, model)
    return after


def step_words(before: Analysis, gesture: Gesture, model: SemanticModel, members: Members) -> str:
    """What a gesture did to the document `before` it, as it stands on the trail."""
    return gesture.words(before, with_made(model, before), with_made_members(members, before))
