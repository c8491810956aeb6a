"""Financial layouts that an analysis makes: to everything that names a hierarchy they are hierarchies like others."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from dastan.core.analysis.captions import free_name, hierarchy_caption
from dastan.core.analysis.document import Analysis, MadeLayout
from dastan.core.analysis.resolve import find_dimension, find_hierarchy
from dastan.core.errors import InputError, NotFoundError
from dastan.core.model.conditions import MeasureFilter, leaves_of
from dastan.core.model.document import Attribute, Dimension, Hierarchy, SemanticModel
from dastan.core.model.financial_layouts import layout_faults
from dastan.core.model.members import fold

MOST_LAYOUTS = 40


def has_layouts(model: SemanticModel, layouts: tuple[MadeLayout, ...]) -> bool:
    """Whether a model has some layouts already, just as they are."""
    known = {each.name: each for each in model.dimensions}
    return all(each.dimension in known and hierarchy_of(each) in known[each.dimension].hierarchies for each in layouts)


def with_layouts(model: SemanticModel, layouts: tuple[MadeLayout, ...]) -> SemanticModel:
    """The model with some layouts as hierarchies of their dimensions. One of no dimension has no place."""
    return replace(model, dimensions=tuple(_with_layouts(each, layouts) for each in model.dimensions))


def _with_layouts(dimension: Dimension, layouts: tuple[MadeLayout, ...]) -> Dimension:
    own = [each for each in layouts if each.dimension == dimension.name]
    known = {each.name for each in dimension.hierarchies} | {each.name for each in dimension.attributes}
    further = [each for each in own if each.name not in known]
    if not further:
        return dimension
    attributes = tuple(Attribute(name=each.name, key="", caption=each.caption) for each in further)
    return replace(
        dimension,
        attributes=(*dimension.attributes, *attributes),
        hierarchies=(*dimension.hierarchies, *(hierarchy_of(each) for each in further)),
    )


def hierarchy_of(made: MadeLayout) -> Hierarchy:
    """A layout as its dimension has it."""
    return Hierarchy(name=made.name, caption=made.caption, levels=(made.name,), layout=made.layout)


def find_layout(document: Analysis, name: str) -> MadeLayout:
    """The layout of that name. Raises NotFoundError."""
    for each in document.layouts:
        if each.name == name:
            return each
    raise NotFoundError(f"No layout “{name}” was made here.", "Look at the catalogue for those there are.")


def named_layout(made: MadeLayout, model: SemanticModel) -> MadeLayout:
    """With a name of its own, made of its caption where it has none. Raises InputError for a name that is taken.

    Args: `model` has what the document makes.
    """
    dimension = find_dimension(model, made.dimension)
    taken = {each.name for each in dimension.hierarchies} | {each.name for each in dimension.attributes}
    if made.name and made.name in taken:
        raise InputError(f"{dimension.caption} has a “{made.name}” already.", "Give this layout another name.")
    return made if made.name else replace(made, name=free_name(made.caption, taken, "layout_", "made"))


def check_layout_name(made: MadeLayout, model: SemanticModel) -> None:
    """Raises InputError where a layout has no name, or one that another hierarchy of the model has."""
    if not made.caption.strip():
        raise InputError("The layout has no name.", "Give it one.")
    for dimension in model.dimensions:
        for each in dimension.hierarchies:
            is_itself = (dimension.name, each.name) == (made.dimension, made.name)
            if not is_itself and fold(hierarchy_caption(dimension, each)) == fold(made.caption):
                raise InputError(f"There is a “{made.caption.strip()}” already.", "Give this layout another name.")


def check_layouts(document: Analysis, model: SemanticModel) -> None:
    """Raises InputError or NotFoundError for the first layout that a document makes and that makes no sense.

    Args: `model` has them.
    """
    if len(document.layouts) > MOST_LAYOUTS:
        raise InputError(f"An analysis makes at most {MOST_LAYOUTS} layouts.", "Forget some that are not used.")
    if len({(each.dimension, each.name) for each in document.layouts}) < len(document.layouts):
        raise InputError("Two layouts have the same name.", "Give one another name.")
    for made in document.layouts:
        dimension = find_dimension(model, made.dimension)
        if hierarchy_of(made) not in dimension.hierarchies:
            raise InputError(
                f"{dimension.caption} has a hierarchy “{made.name}” of its own by now.",
                "Make the layout again by another name.",
            )
        if find_hierarchy(dimension, made.layout.hierarchy).is_list:
            raise InputError(
                f"“{made.caption}” is laid out by a list, whose members may hold the same records already.",
                "Lay out a hierarchy with levels.",
            )
        for fault in layout_faults(made.layout):
            where = f", row {fault.row + 1}" if fault.row is not None else ""
            raise InputError(f"“{made.caption}”{where}: {fault.message}", fault.hint)


def check_not_laid_out(document: Analysis, model: SemanticModel) -> None:
    """Raises InputError where a limit, an order or a condition on a measure is of the rows of a layout, which stand as
    they are laid out."""
    question = document.question
    for condition in question.filters:
        for leaf in leaves_of(condition):
            levels = (
                (*leaf.at, *([leaf.per] if leaf.per is not None else [])) if isinstance(leaf, MeasureFilter) else ()
            )
            for each in levels:
                hint = "Take the measure at what they are made of."
                _refuse(model, each.dimension, each.hierarchy, "compared one by one", hint)
    for placed in (*question.rows, *question.columns, *question.waiting):
        order = placed.order
        if placed.limits:
            _refuse(model, placed.dimension, placed.hierarchy, "limited", "Limit what stands beside it.")
        if order.by != "natural" or order.descending or order.across:
            _refuse(model, placed.dimension, placed.hierarchy, "put in another order", "Change the layout.")


def _refuse(model: SemanticModel, dimension: str, hierarchy: str, done: str, hint: str) -> None:
    own = find_dimension(model, dimension)
    found = find_hierarchy(own, hierarchy)
    if found.layout is not None:
        raise InputError(f"The rows of “{hierarchy_caption(own, found)}” cannot be {done}.", hint)


def layout_used_by(document: Analysis, made: MadeLayout) -> Iterator[str]:
    """What in a document stands on a layout, in words."""
    own = (made.dimension, made.name)
    if any((each.dimension, each.hierarchy) == own for each in (*document.question.rows, *document.question.columns)):
        yield "the table"
    if any((each.dimension, each.hierarchy) == own for each in document.question.waiting):
        yield "what is at hand"
    if any((step.dimension, step.hierarchy) == own for each in document.ways_down for step in each.steps):
        yield "a way down"
