"""Gestures on a model: each is one step, a pure function from model to model, with its words. One file a family.

`apply_to_model` either returns a model without a fault that can be seen without its data, or raises and changes
nothing.
"""

from __future__ import annotations

from dastan.core.errors import InputError
from dastan.core.model.check import check_model
from dastan.core.model.document import SemanticModel
from dastan.core.model.gestures.calendars import MakeCalendar, SetCalendar
from dastan.core.model.gestures.dimensions import (
    DescribeDimension,
    LeaveOutAttribute,
    LeaveOutDimension,
    LeaveOutHierarchy,
    PlaceDimension,
    PutAttribute,
    PutDimension,
    PutHierarchy,
)
from dastan.core.model.gestures.measures import LeaveOutMeasure, PlaceMeasure, PutMeasure
from dastan.core.model.gestures.narrowing import (
    LeaveOutJoint,
    LeaveOutMemberList,
    LeaveOutReadyMade,
    LeaveOutRole,
    PutJoint,
    PutMemberList,
    PutReadyMade,
    PutRole,
)
from dastan.core.model.gestures.relations import NameRole, Tie, Untie
from dastan.core.model.gestures.tables import (
    LeaveOutColumn,
    LeaveOutTable,
    NameSomething,
    ReadTable,
    TypeColumn,
    WorkOutColumn,
)
from dastan.core.model.gestures.whole import Confirm, DescribeModel
from dastan.core.model.widening import widened

__all__ = [
    "Confirm", "DescribeDimension", "DescribeModel", "LeaveOutAttribute", "LeaveOutColumn", "LeaveOutDimension",
    "LeaveOutHierarchy", "LeaveOutJoint", "LeaveOutMeasure", "LeaveOutMemberList", "LeaveOutReadyMade", "LeaveOutRole",
    "LeaveOutTable", "MakeCalendar", "ModelGesture", "NameRole", "NameSomething", "PlaceDimension", "PlaceMeasure",
    "PutAttribute", "PutDimension", "PutHierarchy", "PutJoint", "PutMeasure", "PutMemberList", "PutReadyMade",
    "PutRole", "ReadTable", "SetCalendar", "Tie", "TypeColumn", "Untie", "WorkOutColumn", "apply_to_model",
]  # fmt: skip

ModelGesture = (
    ReadTable | TypeColumn | NameSomething | WorkOutColumn | LeaveOutColumn | LeaveOutTable
    | Tie | Untie | NameRole
    | PutDimension | DescribeDimension | LeaveOutDimension | PlaceDimension
    | PutAttribute | LeaveOutAttribute | PutHierarchy | LeaveOutHierarchy
    | MakeCalendar | SetCalendar
    | PutMeasure | LeaveOutMeasure | PlaceMeasure
    | PutReadyMade | LeaveOutReadyMade | PutMemberList | LeaveOutMemberList
    | PutJoint | LeaveOutJoint | PutRole | LeaveOutRole
    | DescribeModel | Confirm
)  # fmt: skip


def apply_to_model(model: SemanticModel, gesture: ModelGesture) -> SemanticModel:
    """The model after a gesture.

    Raises: InputError where the gesture names what is not there, would leave a model with a fault, or would let the
        people of a role see more; it says which.
    """
    changed = gesture.applied(model)
    faults = check_model(changed)
    if faults:
        raise InputError(faults[0].message, faults[0].hint)
    for words in widened(model, changed):
        raise InputError(words, "Change that role first: what people may see does not change by the way.")
    return changed
