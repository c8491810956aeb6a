"""What an analysis makes, moved into its model, so that every analysis has it."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

from dastan.core.analysis.document import Analysis, Joint
from dastan.core.analysis.joints import find_joint
from dastan.core.analysis.layouts import find_layout
from dastan.core.analysis.list_names import measures_of_list
from dastan.core.analysis.made import find_made, with_made
from dastan.core.analysis.taken_joints import as_of_model, with_joints_of_model
from dastan.core.errors import InputError, NotFoundError
from dastan.core.model.document import Hierarchy, SemanticModel
from dastan.core.model.expression import measures_named
from dastan.core.model.gestures import ModelGesture, PutHierarchy, PutJoint, PutMeasure, PutMemberList

MovedKind = Literal["measure", "list", "layout", "joint member"]


def moved(document: Analysis, model: SemanticModel, kind: MovedKind, name: str) -> tuple[ModelGesture, ...]:
    """The gestures that put something into the model: first the made measures that it stands on.

    Args: `model` is the one that it goes into. Raises: NotFoundError; InputError where that has another of its name.
    """
    if kind == "layout":
        return (_layout(document, model, name),)
    if kind == "joint member":
        return (_joint(find_joint(document, name), model),)
    if kind == "measure":
        return _measures(document, model, (name,))
    found = next((each for each in document.lists if each.name == name), None)
    if found is None:
        raise NotFoundError(f"No list “{name}” was made here.", "Look at what is made again.")
    if any(each.name == name and each != found for each in model.lists):
        raise _taken("list", found.caption)
    own = {each.name for each in document.made}
    stands_on = tuple(each for each in measures_of_list(found) if each in own)
    return (*_measures(document, model, stands_on), PutMemberList(list=found))


def _measures(document: Analysis, model: SemanticModel, names: tuple[str, ...]) -> tuple[ModelGesture, ...]:
    own = {each.name for each in document.made}
    ordered: list[str] = []

    def add(name: str) -> None:
        for each in measures_named(find_made(document, name).formula):
            if each in own and each not in ordered and each != name:
                add(each)
        if name not in ordered:
            ordered.append(name)

    for each in names:
        add(each)
    whole = with_made(model, document)
    known = {each.name: each for each in model.measures}
    found: list[ModelGesture] = []
    for name in ordered:
        made = find_made(document, name)
        if name in known:
            if known[name].formula != made.formula:
                raise _taken("measure", made.caption)
            continue
        found.append(PutMeasure(measure=whole.measure(name)))
    return tuple(found)


def _layout(document: Analysis, model: SemanticModel, name: str) -> ModelGesture:
    made = find_layout(document, name)
    dimension = model.dimension(made.dimension)
    known = next((each for each in dimension.hierarchies if each.name == name), None)
    if known is not None and known.layout != made.layout:
        raise _taken("layout", made.caption)
    return PutHierarchy(
        dimension=made.dimension, hierarchy=Hierarchy(name=name, caption=made.caption, layout=made.layout)
    )


def _joint(joint: Joint, model: SemanticModel) -> ModelGesture:
    known = next((each for each in model.joints if each.name == joint.name), None)
    wanted = as_of_model(joint)
    if known not in (None, wanted):
        raise _taken("joint member", joint.caption)
    return PutJoint(joint=wanted)


def _taken(kind: str, caption: str) -> InputError:
    return InputError(
        f"The model has another {kind} of the name of “{caption}”.", "Make it here by another name first."
    )


def without_shared(document: Analysis, model: SemanticModel) -> Analysis:
    """The document without what it makes that its model has by now, just as it is: it is the model's from then on.
    Joint members that are the model's are what it says that they are."""
    measures = {each.name: each.formula for each in model.measures}
    made = tuple(each for each in document.made if measures.get(each.name) != each.formula)
    lists = tuple(each for each in document.lists if each not in model.lists)
    own = {(each.name, way.name): way.layout for each in model.dimensions for way in each.hierarchies}
    layouts = tuple(each for each in document.layouts if own.get((each.dimension, each.name)) != each.layout)
    if (len(made), len(lists), len(layouts)) != (len(document.made), len(document.lists), len(document.layouts)):
        document = replace(document, made=made, lists=lists, layouts=layouts)
    return with_joints_of_model(document, model)
