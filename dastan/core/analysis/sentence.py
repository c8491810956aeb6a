"""The report as a sentence: every part of the question, in words.

The same phrases are shown above the table, head the exports, describe an analysis in the library and are
what a screen reader reads. Nothing that is in force is left out.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from dastan.core.analysis.captions import (
    Members,
    level_caption,
    listed,
    member_caption,
    placed_caption,
)
from dastan.core.analysis.checks import grains_of
from dastan.core.analysis.condition_words import MEMBERS_IN_FULL, condition_words
from dastan.core.analysis.document import (
    AXES,
    Analysis,
    AxisName,
    HeaderPath,
    Joint,
    NumberDress,
    PlacedDimension,
    Under,
)
from dastan.core.analysis.dress import number_words_of, written
from dastan.core.analysis.formula_words import aloud
from dastan.core.analysis.joints import in_place_of, joining_of, joints_named
from dastan.core.analysis.limit_words import limit_words
from dastan.core.analysis.made import with_made
from dastan.core.analysis.made_members import with_made_members
from dastan.core.analysis.names import parts_in
from dastan.core.analysis.openness import shown_levels
from dastan.core.analysis.placed import shown_measure
from dastan.core.analysis.prompts import prompts_named
from dastan.core.analysis.resolve import find_dimension, find_hierarchy
from dastan.core.analysis.view_captions import caption_after
from dastan.core.analysis.views import View, calendars_of
from dastan.core.model.conditions import (
    Action,
    Condition,
    FilterGroup,
    MeasureFilter,
    MemberFilter,
    ReadyFilter,
    leaves_of,
)
from dastan.core.model.document import Aggregate, Hierarchy, SemanticModel, next_named
from dastan.core.model.expression import measures_named
from dastan.core.model.joints import How, told_joined
from dastan.core.model.parts import MemberPath
from dastan.core.model.reach import reaches


@dataclass(frozen=True, slots=True)
class Phrase:
    """A part of the sentence: joining words, or a thing that can be taken hold of.

    `levels_shown` of `levels_all` are the dots of a dimension. `note` is a measure's unit or a filter's
    dimension, set small. `details` are a filter's members, all of them. `at` is a filter's place in the
    document, `level` that of a limit, `prompts` the questions whose answers stand in it.
    """

    kind: Literal[
        "words", "measure", "dimension", "filter", "limit", "order", "empty", "layout", "waiting", "rights", "made",
        "joint", "hint",
    ]  # fmt: skip
    text: str
    note: str = ""
    written: str = ""
    """What the plain text says behind it, where the screen shows it otherwise: how the numbers are written."""
    levels_shown: int = 0
    levels_all: int = 0
    measure: str | None = None
    aggregate: Aggregate | None = None
    percentile: float | None = None
    view: View | None = None
    dimension: str | None = None
    hierarchy: str | None = None
    axis: AxisName | None = None
    action: Action | None = None
    details: tuple[str, ...] = ()
    at: int | None = None
    level: str | None = None
    prompts: tuple[str, ...] = ()
    path: MemberPath = ()
    """Of a joint member."""


@dataclass(frozen=True, slots=True)
class Sentence:
    """The phrases in order, and all of them as plain text."""

    phrases: tuple[Phrase, ...]

    @property
    def text(self) -> str:
        parts: list[str] = []
        for each in self.phrases:
            if each.kind == "hint":
                continue
            note = f"({each.note})" if each.kind == "filter" and each.note else each.written
            shown = f"{each.text} {note}" if note else each.text
            parts.append(shown if not parts or shown.startswith((",", ";", ".")) else f" {shown}")
        return "".join(parts)


_LONGEST_NAME = 90


def name_of(sentence: Sentence) -> str:
    """What an analysis may be called: its measures, dimensions and filters, as many as a name has room for."""
    named = joining = ""
    for each in sentence.phrases:
        if each.kind == "words":
            joining += each.text if each.text.startswith(",") else f" {each.text}"
        elif each.kind in ("measure", "dimension", "filter") and len(f"{named}{joining} {each.text}") <= _LONGEST_NAME:
            named, joining = f"{named}{joining} {each.text}", ""
        else:
            break
    return named.strip()


@dataclass(frozen=True, slots=True)
class NameWords:
    """What a name may be made of, where a folder says of which of it: what is shown, for whom or what, and when."""

    what: str
    where: str
    when: str


def name_words(sentence: Sentence, model: SemanticModel) -> NameWords:
    """The measures and dimensions of a sentence, the members that it keeps, and the time that it is about."""
    what = joining = ""
    filters: tuple[list[str], list[str]] = ([], [])
    calendars = calendars_of(model)
    for each in sentence.phrases:
        if each.kind == "words":
            joining += each.text if each.text.startswith(",") else f" {each.text}"
            continue
        if each.kind in ("measure", "dimension"):
            what += f"{joining} {each.text}"
        elif each.kind == "filter":
            # What is kept says where and when by itself; "without" and the like have to be said.
            word = joining.strip(" ,;").removeprefix("for").strip()
            filters[each.dimension in calendars].append(f"{word} {each.text}".strip())
        joining = ""
    return NameWords(what.strip(), ", ".join(filters[0]), ", ".join(filters[1]))


def sentence_of(document: Analysis, model: SemanticModel, members: Members, seen_as: tuple[str, ...] = ()) -> Sentence:
    """The document in words. Raises NotFoundError for a name that the model does not have.

    Args: `seen_as` are the captions of the reader's roles, where these hide records.
    """
    model, members = with_made(model, document), with_made_members(members, document)
    phrases = [
        *_measure_phrases(document, model, members),
        *_axis_phrases(document, model, members),
        *_filter_phrases(document, model, members),
        *_limit_phrases(document, model),
        *_order_phrases(document, model, members),
        *_empty_phrases(document),
        *_total_phrases(document),
        *_layout_phrases(document, model),
        *_waiting_phrases(document, model),
    ]
    phrases += _told_phrases([*_made_phrases(document, model, members), *_joint_phrases(document, members)])
    if seen_as and document.question.measures:
        phrases += [_words(","), Phrase("rights", f"as far as {listed(seen_as)} may see")]
    if not document.question.measures:
        hint = "Begin with a number: drag a measure here, or click one."
        if phrases:
            hint = "No number yet: drag a measure here, or click one."
        phrases.append(Phrase("hint", hint))
    return Sentence(tuple(phrases))


def _made_phrases(document: Analysis, model: SemanticModel, members: Members) -> Iterator[Phrase]:
    """What each made measure is that has a part in what the table shows."""
    named = {each.measure for each in parts_in(document.question) if isinstance(getattr(each, "measure", None), str)}  # type: ignore[attr-defined]
    formulas = {each.name: measures_named(each.formula) for each in document.made}
    while further := {one for name in named for one in formulas.get(name, ())} - named:
        named |= further
    for each in document.made:
        if each.name in named:
            yield Phrase("made", f"{each.caption} is {aloud(each.formula, model, members)}", measure=each.name)


def _joint_phrases(document: Analysis, members: Members) -> Iterator[Phrase]:
    """What each joint member joins that stands in the table, or is named by a filter."""
    placed = {(each.dimension, each.hierarchy) for each in (*document.question.rows, *document.question.columns)}
    told = {one.name for each in document.question.filters for one in in_place_of(document, each)}
    for each in document.joints:
        own = (each.dimension, each.hierarchy)
        if each.name not in told and (own in placed or each.name in joints_named(document.question)):
            known = members(*own)
            joined = tuple(member_caption(path, known) for path in each.members)
            words = joined_words(joined, each.how)
            if words == f"is {each.caption}":
                continue  # its name says it
            words = f"{each.caption} {words}"
            yield Phrase("joint", words, dimension=own[0], hierarchy=own[1], path=joining_of(each).path, details=joined)


def joined_words(captions: tuple[str, ...], how: How) -> str:
    """What a joint member is of members of these names, the first few of many."""
    return told_joined(captions, how) if how != "together" else f"joins {_shortly(captions)}"


def _shortly(captions: tuple[str, ...]) -> str:
    """Captions as they stand in a sentence: the first few of many."""
    shown = captions if len(captions) <= MEMBERS_IN_FULL + 1 else captions[:MEMBERS_IN_FULL]
    return listed(shown, len(captions) - len(shown))


def _told_phrases(told: Sequence[Phrase]) -> Iterator[Phrase]:
    for number, each in enumerate(told):
        yield _words(", where" if not number else "; and")
        yield each


def untouched_by(condition: Condition, document: Analysis, model: SemanticModel) -> list[str]:
    """The captions of the measures that a condition leaves alone, for it does not reach their records."""
    dimensions = [find_dimension(model, name) for name in sorted(_dimensions_of(condition, model))]
    return [
        shown_measure(placed, model).caption
        for placed in document.question.measures
        if not any(
            all(reaches(model, grain, each) for each in dimensions) for grain in grains_of(placed.measure, model)
        )
    ]


def _dimensions_of(condition: Condition, model: SemanticModel) -> set[str]:
    found: set[str] = set()
    for leaf in leaves_of(condition):
        if isinstance(leaf, ReadyFilter):
            found |= _dimensions_of(next_named(model.filters, leaf.name).condition, model)
        elif isinstance(leaf, MeasureFilter):
            found |= {each.dimension for each in leaf.at}
        elif not isinstance(leaf, FilterGroup):
            found.add(leaf.dimension)
    return found


def _hierarchy(placed: PlacedDimension, model: SemanticModel) -> Hierarchy:
    return find_hierarchy(find_dimension(model, placed.dimension), placed.hierarchy)


def _levels(placed: PlacedDimension, model: SemanticModel) -> tuple[str, ...]:
    return _hierarchy(placed, model).levels


WITHOUT_RECORDS = "those without records too"
"""Of a hierarchy that shows all its members."""
WHERE_OPENED = "where opened"
"""Of a hierarchy that breaks down no header yet."""
NO_TOTAL = {"row_total": "no grand total row", "column_total": "no grand total column"}
"""Of an axis without a grand total, by the part of the question that says so."""


def _words(text: str) -> Phrase:
    return Phrase("words", text)


def _measure_phrases(document: Analysis, model: SemanticModel, members: Members) -> Iterator[Phrase]:
    placed = document.question.measures
    dressed = {each.measure: each for each in document.dress.numbers}
    for place, each in enumerate(placed):
        if place:
            yield _words("and" if place == len(placed) - 1 else ",")
        before = placed[place - 1] if place else None
        dress = dressed.get(each, NumberDress(measure=each))
        yield Phrase(
            "measure",
            caption_after(before, each, model, members),
            note=written(dress, model).unit,
            written=number_words_of(dress),
            measure=each.measure,
            aggregate=each.aggregate,
            percentile=each.percentile,
            view=each.view,
        )


def _axis_phrases(document: Analysis, model: SemanticModel, members: Members) -> Iterator[Phrase]:
    axes: tuple[tuple[AxisName, str], ...] = (("rows", "by"), ("columns", "against"))
    for axis, joining in axes:
        for place, placed in enumerate(document.question.axis(axis)):
            yield _words(joining if place == 0 else "then")
            yield _dimension_phrase(document, placed, axis, model)
            if placed.all_members:
                yield _words(f"({WITHOUT_RECORDS})")
            if placed.only_under is not None and place:
                yield _words(under_words(placed, members))


def under_words(placed: PlacedDimension, members: Members) -> str:
    """Which headers a hierarchy breaks down, where it is not all of them: "under Tram and 2025 › Bus only"."""
    if not placed.only_under:
        return WHERE_OPENED
    captions = [under_caption(each, members) for each in placed.only_under]
    shown = captions if len(captions) <= MEMBERS_IN_FULL + 1 else captions[:MEMBERS_IN_FULL]
    return f"under {listed(shown, len(captions) - len(shown))} only"


def under_caption(under: Under, members: Members) -> str:
    """The headers that are meant, by their members: "2025 › Bus"."""
    return " › ".join(member_caption(each.path, members(each.dimension, each.hierarchy)) for each in under.members)


def _empty_phrases(document: Analysis) -> Iterator[Phrase]:
    """That headers without values are left out."""
    for axis in AXES:
        if document.question.hides_empty(axis):
            yield _words(",")
            yield Phrase("empty", f"without empty {axis}", axis=axis)


def _total_phrases(document: Analysis) -> Iterator[Phrase]:
    """That an axis has no grand total, where it would have one."""
    question = document.question
    for placed, where, text in (
        (question.rows, question.row_total, NO_TOTAL["row_total"]),
        (question.columns, question.column_total, NO_TOTAL["column_total"]),
    ):
        if placed and where == "none":
            yield _words(f", {text}")


def _layout_phrases(document: Analysis, model: SemanticModel) -> Iterator[Phrase]:
    """Where the measures stand, when there are several and they do not stand inside the columns."""
    text = layout_words(document, model)
    if text and len(document.question.measures) > 1:
        yield _words(",")
        yield Phrase("layout", text)


def layout_words(document: Analysis, model: SemanticModel) -> str:
    """Where the measures stand: "the measures on rows outside Line"; empty for inside the columns."""
    question = document.question
    axis, outside = question.axis(question.measures_on), question.outside_measures
    if question.measures_on == "columns" and outside == len(axis):
        return ""
    text = f"the measures on {question.measures_on}"
    if outside < len(axis):
        inner = axis[outside]
        dimension = find_dimension(model, inner.dimension)
        text += f" outside {placed_caption(dimension, find_hierarchy(dimension, inner.hierarchy), inner.level)}"
    return text


def _waiting_phrases(document: Analysis, model: SemanticModel) -> Iterator[Phrase]:
    for place, placed in enumerate(document.question.waiting):
        dimension = find_dimension(model, placed.dimension)
        hierarchy = find_hierarchy(dimension, placed.hierarchy)
        yield _words(("; at hand" if document.question.measures else "at hand") if place == 0 else ",")
        yield Phrase(
            "waiting", placed_caption(dimension, hierarchy, placed.level), levels_all=len(hierarchy.levels),
            dimension=placed.dimension, hierarchy=placed.hierarchy,
        )  # fmt: skip


def _dimension_phrase(document: Analysis, placed: PlacedDimension, axis: AxisName, model: SemanticModel) -> Phrase:
    levels = _levels(placed, model)
    shown = shown_levels(document, placed, _hierarchy(placed, model))
    return Phrase(
        "dimension",
        dimension_words(document, placed, model),
        levels_shown=levels.index(shown[-1]) + 1,
        levels_all=len(levels),
        dimension=placed.dimension,
        hierarchy=placed.hierarchy,
        axis=axis,
    )


def dimension_words(document: Analysis, placed: PlacedDimension, model: SemanticModel) -> str:
    """A hierarchy in the table, by the levels that are seen of it: "Mode › Line"."""
    dimension, hierarchy = find_dimension(model, placed.dimension), _hierarchy(placed, model)
    shown = shown_levels(document, placed, hierarchy)
    text = placed_caption(dimension, hierarchy, shown[0])
    if hierarchy.parent_child is None:
        return " › ".join((text, *(level_caption(dimension, each) for each in shown[1:])))
    return f"{text} from {level_caption(dimension, shown[0]).lower()}" if placed.level != hierarchy.levels[0] else text


def _filter_phrases(document: Analysis, model: SemanticModel, members: Members) -> Iterator[Phrase]:
    has_words = bool(document.question.measures or document.question.rows or document.question.columns)
    kinds: tuple[tuple[str, Action], ...] = (("for", "keep"), ("without", "leave_out"))
    for joining, action in kinds:
        is_first = True
        for at, each in enumerate(document.question.filters):
            if each.action != action:
                continue
            comma = ", " if has_words and (action == "leave_out" or not is_first) else ""
            own = "with" if in_place_of(document, each) else joining
            yield _words(f"{comma}{own if is_first else 'and ' + own}")
            yield _filter_phrase(each, at, document, model, members)
            is_first, has_words = False, True


def _filter_phrase(each: Condition, at: int, document: Analysis, model: SemanticModel, members: Members) -> Phrase:
    words = condition_words(each, document.question, model, members)
    untouched = untouched_by(each, document, model)
    alone = f"not for {listed(untouched)}" if untouched else ""
    is_members = isinstance(each, MemberFilter) and each.list is None
    own = {prompt.name for prompt in document.question.prompts}
    asked = "asked on opening" if own & set(prompts_named(each, model)) else ""
    joints = in_place_of(document, each)
    return Phrase(
        "filter",
        in_place_words(joints, words.text) if joints else words.text,
        note="; ".join(part for part in (words.note, alone, asked) if part),
        dimension=each.dimension if is_members else None,  # type: ignore[union-attr]
        hierarchy=each.hierarchy if is_members else None,  # type: ignore[union-attr]
        action=each.action,
        details=words.details,
        at=at,
        prompts=tuple(prompts_named(each, model)),
    )


def in_place_words(joints: Sequence[Joint], left_out: str) -> str:
    """Joint members that stand in the table in favour of what they join: "Rails in place of Tram and Metro"."""
    return f"{listed([one.caption for one in joints])} in place of {left_out}"


def _limit_phrases(document: Analysis, model: SemanticModel) -> Iterator[Phrase]:
    hides = False
    for axis in AXES:
        for placed in document.question.axis(axis):
            for limit in placed.limits_in_force(_levels(placed, model)):
                yield _words(",")
                yield Phrase(
                    "limit",
                    limit_words(limit, placed, document, model),
                    dimension=placed.dimension,
                    hierarchy=placed.hierarchy,
                    level=limit.level,
                )
                hides = hides or not limit.others
    if hides:
        over = "everything in scope" if document.question.totals_over == "scope" else "what is shown"
        yield _words(f", totals over {over}")


def _order_phrases(document: Analysis, model: SemanticModel, members: Members) -> Iterator[Phrase]:
    for axis in AXES:
        for placed in document.question.axis(axis):
            text = order_words(placed, axis, document, model, members)
            if text:
                yield _words(",")
                yield Phrase("order", text, dimension=placed.dimension, hierarchy=placed.hierarchy)


def order_words(
    placed: PlacedDimension, axis: AxisName, document: Analysis, model: SemanticModel, members: Members
) -> str:
    """How the members of a placed hierarchy are ordered: "Line ordered by Boardings in 2025, largest first"; empty
    for their natural order."""
    order = placed.order
    across = order.across and placed is document.question.axis(axis)[-1]
    if order.by == "natural" and not order.descending and not across:
        return ""
    what = placed_caption(find_dimension(model, placed.dimension), _hierarchy(placed, model), placed.level)
    if order.by == "measure" and order.measure is not None:
        other = document.question.axis("columns" if axis == "rows" else "rows")
        by = f"by {caption_after(None, order.measure, model, members)}"
        by += _column_words(order.column, other, members)
        by += ", largest first" if order.descending else ", smallest first"
    else:
        by = {"natural": "in natural order", "caption": "by name", "key": "by key"}[order.by]
        by += " reversed" if order.descending else ""
    return f"{what} ordered {by}{' across all' if across else ''}"


def _column_words(path: HeaderPath, placed: tuple[PlacedDimension, ...], members: Members) -> str:
    captions = [
        member_caption(each, members(one.dimension, one.hierarchy))
        for each, one in zip(path.members, placed, strict=False)
    ]
    return f" in {' › '.join(captions)}" if captions else ""
