"""All that is made, in one list: what an analysis makes and what its model offers, each with what it is, where it is
used, and what is wrong with it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from dastan.core.analysis.captions import Members, hierarchy_caption, listed, member_caption
from dastan.core.analysis.condition_words import condition_words, list_words
from dastan.core.analysis.document import Analysis, Question
from dastan.core.analysis.formula_words import aloud
from dastan.core.analysis.joints import joining_of, joint_used_by
from dastan.core.analysis.layouts import layout_used_by
from dastan.core.analysis.lists import list_used_by
from dastan.core.analysis.made import used_by, with_made
from dastan.core.analysis.made_members import with_made_members
from dastan.core.analysis.prompts import prompts_named
from dastan.core.analysis.taken_joints import joint_words
from dastan.core.language.writing import write_formula
from dastan.core.model.conditions import ReadyFilter, leaves_of
from dastan.core.model.document import Measure, MemberList, SemanticModel
from dastan.core.model.expression import measures_named
from dastan.core.model.joints import told_joined
from dastan.core.model.parts import MemberPath
from dastan.core.reading.account import definition_of, formula_of
from dastan.core.words.vocabulary import Vocabulary

Kind = Literal["measure", "joint member", "way down", "question", "filter", "list", "sets", "layout"]


@dataclass(frozen=True, slots=True)
class MadeThing:
    """One thing that was made. `of` says where; `says` is what it is, in words, and `text` its formula as it is
    written, where it has one. The rest names it, as a menu asks for it."""

    kind: Kind
    name: str
    caption: str
    of: Literal["analysis", "model"]
    says: str
    text: str = ""
    used_by: tuple[str, ...] = ()
    fault: str = ""
    dimension: str = ""
    hierarchy: str = ""
    path: MemberPath = ()
    at: int | None = None


def everything_made(document: Analysis, model: SemanticModel, members: Members) -> tuple[MadeThing, ...]:
    """All of it, the analysis's own first."""
    own, known = model, with_made_members(members, document)
    model = with_made(model, document)
    vocabulary = Vocabulary(model, known)
    return (
        *_made_measures(document, vocabulary),
        *_joints(document, members, model),
        *_made_layouts(document),
        *_lists(document, document.lists, model, known, "analysis"),
        *_ways(document),
        *_prompts(document, model, known),
        *_model_measures(document, own, vocabulary),
        *_filters(document, own, known),
        *_lists(document, own.lists, model, known, "model"),
        *_joints_of_model(document, own, members),
        *_further_hierarchies(own),
    )


def _made_measures(document: Analysis, vocabulary: Vocabulary) -> Iterator[MadeThing]:
    for each in document.made:
        says = aloud(each.formula, vocabulary.model, vocabulary.members)
        text = write_formula(each.formula, vocabulary)
        yield MadeThing("measure", each.name, each.caption, "analysis", says, text, tuple(used_by(document, each.name)))


def _joints(document: Analysis, members: Members, model: SemanticModel) -> Iterator[MadeThing]:
    for each in document.joints:
        known = members(each.dimension, each.hierarchy)
        gone = sum(known.find(path) is None for path in each.members)
        yield MadeThing(
            "joint member", each.name, each.caption, "model" if each.of_model else "analysis",
            told_joined([member_caption(path, known) for path in each.members], each.how),
            used_by=_where_joint(document, each.name, model),
            fault=f"{gone} of {len(each.members)} are not in the data" if gone else "",
            dimension=each.dimension, hierarchy=each.hierarchy, path=joining_of(each).path,
        )  # fmt: skip


def _joints_of_model(document: Analysis, model: SemanticModel, members: Members) -> Iterator[MadeThing]:
    """Those that were not taken in."""
    taken_in = {each.name for each in document.joints if each.of_model}
    for each in model.joints:
        if each.name not in taken_in:
            yield MadeThing("joint member", each.name, each.caption, "model", joint_words(each, members))


def _where_joint(document: Analysis, name: str, model: SemanticModel) -> tuple[str, ...]:
    joint = next(each for each in document.joints if each.name == name)
    placed = (*document.question.rows, *document.question.columns)
    stands = any((each.dimension, each.hierarchy) == (joint.dimension, joint.hierarchy) for each in placed)
    return (*(["the table"] if stands else []), *joint_used_by(document, name, model))


def _made_layouts(document: Analysis) -> Iterator[MadeThing]:
    for each in document.layouts:
        yield MadeThing(
            "layout", each.name, each.caption, "analysis", f"lays out {len(each.layout.rows)} rows",
            used_by=tuple(layout_used_by(document, each)), dimension=each.dimension, hierarchy=each.name,
        )  # fmt: skip


def _ways(document: Analysis) -> Iterator[MadeThing]:
    for each in document.ways_down:
        yield MadeThing(
            "way down", each.caption, each.caption, "analysis", f"goes through {len(each.steps)} hierarchies"
        )


def _prompts(document: Analysis, model: SemanticModel, members: Members) -> Iterator[MadeThing]:
    for each in document.question.prompts:
        places = [at for at, one in enumerate(document.question.filters) if each.name in prompts_named(one, model)]
        words = [
            condition_words(document.question.filters[at], document.question, model, members).text for at in places
        ]
        yield MadeThing(
            "question", each.name, each.caption, "analysis", "asked on opening",
            used_by=tuple(f"the filter on {text}" for text in words), at=places[0] if places else None,
        )  # fmt: skip


def _model_measures(document: Analysis, model: SemanticModel, vocabulary: Vocabulary) -> Iterator[MadeThing]:
    for each in model.measures:
        if each.formula is not None:
            says = aloud(each.formula, model, vocabulary.members)
        else:
            words = formula_of if each.is_of_others else definition_of
            says = words(each, model, vocabulary.members)
        text = write_formula(each.formula, vocabulary) if each.formula is not None else ""
        further = [f"“{one.caption}”" for one in model.measures if each.name in _made_of(one)]
        yield MadeThing(
            "measure", each.name, each.caption, "model", says, text, (*used_by(document, each.name), *further)
        )


def _made_of(measure: Measure) -> tuple[str, ...]:
    """The measures that one is made of."""
    ratio = [each for each in (measure.numerator, measure.denominator) if each]
    return (*ratio, *(measures_named(measure.formula) if measure.formula is not None else ()))


def _filters(document: Analysis, model: SemanticModel, members: Members) -> Iterator[MadeThing]:
    named = {
        leaf.name for each in document.question.filters for leaf in leaves_of(each) if isinstance(leaf, ReadyFilter)
    }
    for each in model.filters:
        found = condition_words(each.condition, Question(), model, members)
        says = f"{'for' if each.condition.action == 'keep' else 'without'} {found.text} {found.note}".rstrip()
        yield MadeThing(
            "filter", each.name, each.caption, "model", says, used_by=("a filter",) if each.name in named else ()
        )


def _lists(
    document: Analysis,
    lists: tuple[MemberList, ...],
    model: SemanticModel,
    members: Members,
    of: Literal["analysis", "model"],
) -> Iterator[MadeThing]:
    for each in lists:
        found = members(each.dimension, each.hierarchy)
        gone = sum(found.find(path) is None for path in each.members)
        yield MadeThing(
            "list", each.name, each.caption, of, f"lists {list_words(each, model, members)}",
            used_by=tuple(list_used_by(document, each.name)),
            fault=f"{gone} of {len(each.members)} are not in the data" if gone and of == "analysis" else "",
            dimension=each.dimension, hierarchy=each.hierarchy,
        )  # fmt: skip


def _further_hierarchies(model: SemanticModel) -> Iterator[MadeThing]:
    for dimension in model.dimensions:
        for each in dimension.hierarchies:
            if each.layout is not None:
                yield MadeThing(
                    "layout", each.name, hierarchy_caption(dimension, each), "model",
                    f"lays out {len(each.layout.rows)} rows", dimension=dimension.name, hierarchy=each.name,
                )  # fmt: skip
            if each.sets:
                yield MadeThing(
                    "sets", each.name, hierarchy_caption(dimension, each), "model",
                    f"of {listed([one.caption for one in each.sets])}", dimension=dimension.name, hierarchy=each.name,
                )  # fmt: skip
