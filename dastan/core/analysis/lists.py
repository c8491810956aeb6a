"""Lists of members that an analysis makes: to everything that names a list they are lists like the model's."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from dastan.core.analysis.captions import free_name
from dastan.core.analysis.document import Analysis, PlacedMeasure
from dastan.core.analysis.list_names import measures_of_list
from dastan.core.analysis.placed import check_ranks
from dastan.core.analysis.resolve import find_dimension, find_hierarchy, find_measure
from dastan.core.errors import InputError, NotFoundError
from dastan.core.model.document import MemberList, SemanticModel
from dastan.core.model.expression import Only, all_parts
from dastan.core.model.joints import joint_named
from dastan.core.model.meaning import parts_of
from dastan.core.model.member_lists import list_faults, lists_named
from dastan.core.model.members import fold
from dastan.core.model.reach import grain_of, reaches

MOST_LISTS = 100


def find_list(model: SemanticModel, name: str) -> MemberList:
    """The list of that name. Raises NotFoundError."""
    for each in model.lists:
        if each.name == name:
            return each
    raise NotFoundError(f"There is no list “{name}” any more.", "Look at the catalogue for those there are.")


def find_own_list(document: Analysis, name: str) -> MemberList:
    """The list of that name that was made here. Raises NotFoundError."""
    for each in document.lists:
        if each.name == name:
            return each
    raise NotFoundError(f"No list “{name}” was made here.", "Look at the catalogue for those there are.")


def named_list(made: MemberList, model: SemanticModel) -> MemberList:
    """With a name of its own, made of its caption where it has none. Raises InputError for a name that is taken.

    Args: `model` has what the document makes.
    """
    taken = {each.name for each in model.lists}
    if made.name and made.name in taken:
        raise InputError(f"There is a list “{made.name}” already.", "Give this one another name.")
    made = made if made.name else replace(made, name=free_name(made.caption, taken, "list_", "made"))
    if made.is_rule:
        return made
    return replace(made, members=tuple(dict.fromkeys(made.members)))


def check_list_name(made: MemberList, model: SemanticModel) -> None:
    """Raises InputError where a list has no name, or one that another list has."""
    if not made.caption.strip():
        raise InputError("The list has no name.", "Give it one.")
    if any(fold(each.caption) == fold(made.caption) and each.name != made.name for each in model.lists):
        raise InputError(f"There is a list “{made.caption.strip()}” already.", "Give this one another name.")


def check_lists(document: Analysis, model: SemanticModel) -> None:
    """Raises InputError or NotFoundError for the first list that a document makes and that makes no sense.

    Args: `model` has them.
    """
    if len(document.lists) > MOST_LISTS:
        raise InputError(f"An analysis makes at most {MOST_LISTS} lists.", "Forget some that are not used.")
    if len({each.name for each in document.lists}) < len(document.lists):
        raise InputError("Two lists have the same name.", "Give one another name.")
    for made in document.lists:
        if made not in model.lists:
            raise InputError(
                f"The model has a list “{made.name}” of its own by now.", "Make the list again by another name."
            )
        check_list(made, model)


def check_list(made: MemberList, model: SemanticModel) -> None:
    """Raises InputError or NotFoundError for the first thing wrong with a list. Args: `model` has it."""
    dimension = find_dimension(model, made.dimension)
    find_hierarchy(dimension, made.hierarchy)
    for fault in list_faults(made, model):
        if fault.name is not None:
            raise NotFoundError(fault.message, fault.hint, code="missing-name", details={"name": fault.name})
        raise InputError(fault.message, fault.hint)
    if made.is_rule and any(joint_named(path) is not None for path in made.members):
        raise InputError(f"“{made.caption}” has members of a joint member.", "Name the members that this one joins.")
    for name in measures_of_list(made):
        measure = find_measure(model, name)
        check_ranks(PlacedMeasure(measure=name), measure.caption, model)
        if not any(reaches(model, grain_of(each), dimension) for each in parts_of(measure, model)):
            raise InputError(
                f"“{measure.caption}” does not reach {dimension.caption}, so no members of it can be found by it.",
                "Take another measure.",
            )


def list_used_by(document: Analysis, name: str) -> Iterator[str]:
    """What in a document stands on a list, in words."""
    if any(name in lists_named(each) for each in document.question.filters):
        yield "a filter"
    for made in document.made:
        slices = [part for part in all_parts(made.formula) if isinstance(part, Only)]
        if any(name in lists_named(each) for part in slices for each in part.conditions):
            yield f"“{made.caption}”"
