"""Whether a model can answer a document: every name is there, and every part makes sense."""

from __future__ import annotations

from collections.abc import Iterable

from dastan.core.analysis.captions import hierarchy_caption
from dastan.core.analysis.document import AXES, Analysis, PlacedDimension, PlacedMeasure
from dastan.core.analysis.dress import check_numbers
from dastan.core.analysis.joints import check_joints
from dastan.core.analysis.layouts import check_layouts, check_not_laid_out
from dastan.core.analysis.lists import check_lists
from dastan.core.analysis.made import check_made, with_made
from dastan.core.analysis.names import check_names
from dastan.core.analysis.placed import check_ranks, shown_formula, shown_measure
from dastan.core.analysis.prompts import Answers
from dastan.core.analysis.resolve import check_level, find_dimension, find_hierarchy, find_measure
from dastan.core.analysis.ways import check_way
from dastan.core.errors import InputError, NotFoundError
from dastan.core.model.condition_faults import ConditionFault, condition_faults, prompt_faults
from dastan.core.model.conditions import Condition, MeasureFilter, leaves_of
from dastan.core.model.document import Dimension, SemanticModel
from dastan.core.model.meaning import parts_of
from dastan.core.model.reach import Grain, grain_of, reaches, shown_hierarchies


def check_document(document: Analysis, model: SemanticModel) -> None:
    """Raises NotFoundError or InputError for the first thing in the document that the model cannot answer."""
    model = with_made(model, document)
    check_names(document, model)
    check_made(document, model)
    check_joints(document, model)
    check_layouts(document, model)
    check_lists(document, model)
    check_not_laid_out(document, model)
    question = document.question
    shown = [shown_measure(each, model).name for each in question.measures]
    for each in question.measures:
        shown_formula(each, model)
    if len(set(shown)) < len(shown):
        raise InputError("A measure stands twice in the table.", "Keep one, or show one by another aggregate.")
    places = [*(each for axis in AXES for each in question.axis(axis)), *question.waiting]
    for at, placed in enumerate(places):
        if (placed.dimension, placed.hierarchy) in ((one.dimension, one.hierarchy) for one in places[:at]):
            dimension = find_dimension(model, placed.dimension)
            caption = hierarchy_caption(dimension, find_hierarchy(dimension, placed.hierarchy))
            raise InputError(f"{caption} stands twice in the table.", "Keep one of the two.")
    for placed in places:
        _check_placed(placed, model)
    if question.measures_at is not None and question.measures_at < 0:
        raise InputError("The measures cannot stand before the first place.", "Count places from 0.")
    if len({each.caption for each in document.ways_down}) < len(document.ways_down):
        raise InputError("Two ways down have the same name.", "Give one another name.")
    for way in document.ways_down:
        check_way(way, model)
    for numbers in document.dress.numbers:
        check_numbers(numbers, model)
    answers = Answers(question, model)
    for prompt in question.prompts:
        _raise_first(prompt_faults(prompt, model))
    for condition in question.filters:
        check_condition(condition, model, answers)


def grains_of_question(document: Analysis, model: SemanticModel) -> tuple[Grain, ...]:
    """The different records that the placed measures count, in the order of the measures. Raises NotFoundError."""
    return tuple(
        dict.fromkeys(grain for placed in document.question.measures for grain in grains_of(placed.measure, model))
    )


def grains_of(measure: str, model: SemanticModel) -> tuple[Grain, ...]:
    """The records that a measure counts; a ratio's operands may count different ones. Raises NotFoundError."""
    return tuple(dict.fromkeys(grain_of(each) for each in parts_of(find_measure(model, measure), model)))


def check_reach(document: Analysis, dimension: Dimension, model: SemanticModel) -> None:
    """Raises InputError where a dimension reaches none of the records that the placed measures count."""
    if not _reaches_any(dimension, grains_of_question(document, model), model):
        raise InputError(_unreached_words(document, dimension, model), "Put in a measure that it reaches first.")


def _reaches_any(dimension: Dimension, grains: tuple[Grain, ...], model: SemanticModel) -> bool:
    return not grains or any(reaches(model, grain, dimension) for grain in grains)


def _unreached_words(document: Analysis, dimension: Dimension, model: SemanticModel) -> str:
    names = " or ".join(f"“{find_measure(model, each.measure).caption}”" for each in document.question.measures)
    return f"Dimension “{dimension.caption}” does not reach the records of {names}."


def unreached(document: Analysis, model: SemanticModel) -> dict[tuple[str, str], str]:
    """The hierarchies that cannot be put into the document as it is, each with the reason: no placed measure counts
    records that their dimension reaches. One that stands there already may be moved."""
    question, model = document.question, with_made(model, document)
    placed = {(each.dimension, each.hierarchy) for each in (*question.rows, *question.columns, *question.waiting)}
    found: dict[tuple[str, str], str] = {}
    grains = grains_of_question(document, model)
    for dimension in model.dimensions:
        if not _reaches_any(dimension, grains, model):
            own = ((dimension.name, each.name) for each in shown_hierarchies(dimension))
            found |= {each: _unreached_words(document, dimension, model) for each in own if each not in placed}
    return found


def check_condition(condition: Condition, model: SemanticModel, answers: Answers) -> None:
    """Raises NotFoundError or InputError for the first fault of a condition."""
    _raise_first(condition_faults(condition, model, answers.knows))
    for leaf in leaves_of(condition):
        if isinstance(leaf, MeasureFilter):
            grains = grains_of(leaf.measure, model)
            check_ranks(PlacedMeasure(measure=leaf.measure), find_measure(model, leaf.measure).caption, model)
            for each in (*leaf.at, *([leaf.per] if leaf.per is not None else [])):
                dimension = find_dimension(model, each.dimension)
                if not any(reaches(model, grain, dimension) for grain in grains):
                    caption = find_measure(model, leaf.measure).caption
                    raise InputError(
                        f"Dimension “{dimension.caption}” does not reach the records of “{caption}”.",
                        "Take the measure at a level of a dimension that does.",
                    )


def _raise_first(faults: Iterable[ConditionFault]) -> None:
    for fault in faults:
        if fault.name is not None:
            raise NotFoundError(fault.message, fault.hint, code="missing-name", details={"name": fault.name})
        raise InputError(fault.message, fault.hint)


def _check_placed(placed: PlacedDimension, model: SemanticModel) -> None:
    dimension = find_dimension(model, placed.dimension)
    hierarchy = find_hierarchy(dimension, placed.hierarchy)
    check_level(dimension, hierarchy, placed.level)
    start = hierarchy.levels.index(placed.level)
    for level in placed.skipped:
        check_level(dimension, hierarchy, level)
        if not start < hierarchy.levels.index(level) < len(hierarchy.levels) - 1:
            raise InputError(
                "Only levels between the first shown and the last can be passed over.",
                "Show from another level down instead.",
            )
    for limit in placed.limits:
        check_level(dimension, hierarchy, limit.level)
        if not limit.amount > 0:
            raise InputError("A limit shows at least one member.", "Give an amount above zero.")
        measure = shown_measure(limit.by, model)
        if limit.by.view is not None:
            raise InputError(
                f"Members cannot be ranked by “{measure.caption}” yet.", "Rank them by the measure itself."
            )
        check_ranks(limit.by, measure.caption, model)
        if not any(reaches(model, grain, dimension) for grain in grains_of(limit.by.measure, model)):
            raise InputError(
                f"“{measure.caption}” cannot rank {dimension.caption}, which does not reach its records.",
                "Rank by another measure.",
            )
    if len({each.level for each in placed.limits}) < len(placed.limits):
        raise InputError("A level has two limits.", "Keep one of the two.")
    for under in placed.only_under or ():
        for member in under.members:
            levels = find_hierarchy(find_dimension(model, member.dimension), member.hierarchy).levels
            if not 0 < len(member.path) <= len(levels):
                raise InputError("A member's path has one key per level, from the top down.", "Pick the member again.")
    order = placed.order
    if order.measure is not None:
        shown_measure(order.measure, model)
    if order.by == "measure" and order.measure is None:
        raise InputError("An order by a measure does not say which.", "Name one that is shown.")
