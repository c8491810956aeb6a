"""What an analysis makes stands beside the model's own, and is the same to everything that names it: measures, and the
rows of financial layouts."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from functools import lru_cache

from dastan.core.analysis.captions import free_name
from dastan.core.analysis.document import Analysis, MadeLayout, MadeMeasure, PlacedMeasure
from dastan.core.analysis.layouts import has_layouts, with_layouts
from dastan.core.analysis.list_names import has_lists, measures_of_list, with_lists
from dastan.core.errors import AppError, InputError, NotFoundError
from dastan.core.formula.units import PLAIN
from dastan.core.model.document import Measure, MemberList, SemanticModel
from dastan.core.model.expression import Arithmetic, Brought, Call, Expression, Runs, all_parts, measures_named
from dastan.core.model.expression_check import check_expression, unit_of_expression
from dastan.core.model.meaning import leaves_of_expression
from dastan.core.model.members import fold
from dastan.core.model.pattern import is_number_pattern

_KEPT = 256
_FRACTIONS = ("sqrt", "ln", "exp", "power")
MOST_MADE = 100


def with_made(model: SemanticModel, document: Analysis) -> SemanticModel:
    """The model with the measures, layouts and lists that a document makes; as it is where it has them already, or none
    is made."""
    if not has_lists(model, document.lists):
        model = _listed(_Same(model), document.lists)
    known = {each.name: each for each in model.measures}
    if not all(each.name in known and known[each.name].formula == each.formula for each in document.made):
        model = _extended(_Same(model), document.made)
    return model if has_layouts(model, document.layouts) else _laid_out(_Same(model), document.layouts)


class _Same:
    """A model as a key: the same one, not one that is alike."""

    def __init__(self, model: SemanticModel) -> None:
        self.model = model

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Same) and other.model is self.model

    def __hash__(self) -> int:
        return id(self.model)


@lru_cache(_KEPT)
def _listed(same: _Same, lists: tuple[MemberList, ...]) -> SemanticModel:
    return with_lists(same.model, lists)


@lru_cache(_KEPT)
def _laid_out(same: _Same, layouts: tuple[MadeLayout, ...]) -> SemanticModel:
    return with_layouts(same.model, layouts)


@lru_cache(_KEPT)
def _extended(same: _Same, made: tuple[MadeMeasure, ...]) -> SemanticModel:
    model, names = same.model, {each.name for each in same.model.measures}
    waiting = [each for each in made if each.name not in names]
    while waiting:
        still = {each.name for each in waiting}
        # One after those that it is made of, so that its unit is known; what goes in a circle comes last.
        at = next((at for at, each in enumerate(waiting) if not still & set(measures_named(each.formula))), 0)
        model = replace(model, measures=(*model.measures, _measure(waiting.pop(at), model)))
    return model


def _measure(made: MadeMeasure, model: SemanticModel) -> Measure:
    table, unit, pattern = model.measures[0].table, PLAIN, "#,##0"
    try:
        leaves = leaves_of_expression(made.formula, model)
        table = leaves[0].measure.table if leaves else table
        unit, pattern = unit_of_expression(made.formula, model), _pattern(made.formula, model)
    except (AppError, KeyError):
        pass  # a faulty one still has a place: whoever asks is told what is wrong with it
    return Measure(
        name=made.name, caption=made.caption, table=table, aggregate="formula", formula=made.formula,
        format=made.format or pattern, unit=unit.text, favourable=made.favourable, folder=made.folder,
        description=made.description,
    )  # fmt: skip


def _pattern(formula: Expression, model: SemanticModel) -> str:
    """How its numbers are written unless said: with as many digits as those that it is made of, two of a quotient."""
    if isinstance(formula, Runs) and formula.how in ("rank", "cumulative", "index"):
        return {"rank": "#,##0", "cumulative": "0.0 %"}.get(formula.how, "#,##0.0")
    for each in all_parts(formula):
        is_mean = isinstance(each, Brought) and each.how == "average"
        if is_mean or (isinstance(each, Arithmetic) and each.operator == "/"):
            return "#,##0.00"
        if isinstance(each, Call) and each.function in _FRACTIONS:
            return "#,##0.00"
    patterns = [model.measure(each).format.split(";")[0] for each in measures_named(formula)]
    return max(patterns, key=lambda each: len(each.partition(".")[2]), default="#,##0")


def check_made(document: Analysis, model: SemanticModel) -> None:
    """Raises InputError for the first measure that a document makes and that has no meaning. Args: `model` has them."""
    names = [each.name for each in document.made]
    if len(names) > MOST_MADE:
        raise InputError(f"An analysis makes at most {MOST_MADE} measures.", "Forget some that are not used.")
    if len(set(names)) < len(names):
        raise InputError("Two made measures have the same name.", "Give one another name.")
    for each in document.made:
        if model.measure(each.name).formula != each.formula:
            raise InputError(
                f"The model has a measure “{each.name}” of its own by now.", "Make the measure again by another name."
            )
        if each.format is not None and not is_number_pattern(each.format):
            raise InputError(f"“{each.format}” is not a number pattern.", "Use one such as #,##0.00.")
        check_expression(each.formula, model, each.name)


def find_made(document: Analysis, name: str) -> MadeMeasure:
    """The made measure of that name. Raises NotFoundError."""
    for each in document.made:
        if each.name == name:
            return each
    raise NotFoundError(f"No measure “{name}” was made here.", "Look at the catalogue for those there are.")


def used_by(document: Analysis, name: str) -> Iterator[str]:
    """What in a document stands on a measure, in words."""
    question = document.question
    if any(name in _names_in(each) for each in question.measures):
        yield "the table"
    for each in document.made:
        if each.name != name and name in measures_named(each.formula):
            yield f"“{each.caption}”"
    axes = (*question.rows, *question.columns, *question.waiting)
    if any(one.by.measure == name for each in axes for one in each.limits):
        yield "a limit"
    if any(each.order.measure is not None and name in _names_in(each.order.measure) for each in axes):
        yield "an order"
    if any(getattr(each, "measure", None) == name for each in question.filters):
        yield "a filter"
    yield from (f"the list “{each.caption}”" for each in document.lists if name in measures_of_list(each))


def _names_in(placed: PlacedMeasure) -> tuple[str, ...]:
    return (placed.measure, getattr(placed.view, "measure", ""))


def named(made: MadeMeasure, model: SemanticModel) -> MadeMeasure:
    """With a name of its own, made of its caption where it has none."""
    if made.name:
        if any(each.name == made.name for each in model.measures):
            raise InputError(f"There is a measure “{made.name}” already.", "Give this one another name.")
        return made
    return replace(made, name=free_name(made.caption, {each.name for each in model.measures}, "made_", "measure"))


def check_caption(made: MadeMeasure, model: SemanticModel) -> None:
    """Raises InputError where a made measure has no name, or one that another has."""
    if not made.caption.strip():
        raise InputError("The measure has no name.", "Give it one.")
    if any(fold(each.caption) == fold(made.caption) and each.name != made.name for each in model.measures):
        raise InputError(f"There is a measure called “{made.caption.strip()}” already.", "Give this one another name.")
