"""What could stand where somebody is writing a formula: measures, dimensions, levels, members and words."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from lark import Token, UnexpectedInput

from dastan.core.analysis.captions import level_caption
from dastan.core.analysis.views import calendars_of
from dastan.core.formula.names import quoted, unquoted
from dastan.core.language.naming import FormulaNames, Named, NameMissError
from dastan.core.language.reading import accepted, grammar
from dastan.core.language.words import CLAUSES, FUNCTIONS, SCALARS
from dastan.core.model.members import fold
from dastan.core.model.reach import shown_hierarchies
from dastan.core.words.vocabulary import MOST_COMPARED, Vocabulary

Kind = Literal["measure", "dimension", "level", "member", "list", "function", "word"]
MOST = 40
_HOW = ("AVERAGE", "SUM", "COUNT", "LEAST", "GREATEST")
_OPEN_QUOTE = re.compile(r'"((?:""|[^"])*)$')
_WORD = re.compile(r"[^\W\d]\w*$")


@dataclass(frozen=True, slots=True)
class Completion:
    """What could be put in, `text`, in place of what stands from `start` to the cursor."""

    kind: Kind
    caption: str
    text: str
    note: str


@dataclass(frozen=True, slots=True)
class Completions:
    """From which character on, and with what the text could go on there."""

    start: int
    found: tuple[Completion, ...]


def complete(text: str, cursor: int, vocabulary: Vocabulary) -> Completions:
    """What could stand at a cursor, those that begin as it was begun first."""
    before = text[:cursor]
    quote = _OPEN_QUOTE.search(before) if _is_quote_open(before) else None
    word = None if quote else _WORD.search(before)
    start = quote.start() if quote else word.start() if word else cursor
    begun = fold(quote.group(1) if quote else word.group(0) if word else "")
    kinds = accepted(before[:start])
    found: list[Completion] = []
    if "QUOTED" in kinds or "WORD" in kinds or "TEXT" in kinds:
        found += _names(_tokens(before[:start]), begun, vocabulary)
    if not quote:
        found += _words(kinds, _is_value_wanted(kinds))
    fitting = [each for each in found if _fits(each, begun)]
    first = ("everywhere", "in each group", "and", "or") if "EVERYWHERE" in kinds or "IN_EACH_GROUP" in kinds else ()
    fitting.sort(key=lambda each: (each.text.strip() not in first, not fold(each.caption).startswith(begun)))
    return Completions(start, tuple(fitting[:MOST]))


def _fits(each: Completion, begun: str) -> bool:
    caption = fold(each.caption)
    return caption.startswith(begun) or any(one.startswith(begun) for one in caption.split())


def _is_quote_open(text: str) -> bool:
    return text.count('"') % 2 == 1


def _is_value_wanted(kinds: set[str]) -> bool:
    return "_CASE" in kinds


def _words(kinds: set[str], wants_value: bool) -> Iterator[Completion]:
    for each in (*CLAUSES, *SCALARS):
        if each.terminal in kinds and not (wants_value and each in CLAUSES):
            is_of_members = each in SCALARS
            if each.terminal == "_IN" and is_of_members == ("_LIKE" not in kinds):
                continue
            yield Completion("word", each.text, f"{each.text} " if each.text[-1] != "(" else each.text, each.note)
    if wants_value:
        for name, note in FUNCTIONS.items():
            yield Completion("function", name, f"{name}(", note)


def _names(tokens: list[Token], begun: str, vocabulary: Vocabulary) -> Iterator[Completion]:
    names = FormulaNames(vocabulary)
    types = [each.type for each in tokens]
    if types[-2:] == ["_OVER", "_ALL"]:
        for each in vocabulary.model.dimensions:
            yield Completion("dimension", each.caption, names.write_dimension(each.name), each.description)
    elif types[-1:] == ["_ALONG"]:
        for name in calendars_of(vocabulary.model):
            yield Completion("dimension", vocabulary.model.dimension(name).caption, names.write_dimension(name), "")
    elif _is_of_level(types):
        yield from _levels(vocabulary)
    elif (place := _slice(types)) is not None:
        if types[-1] in ("_ONLY", "_AND", "_OR", "_NOT") or (types[-1] == "LPAR" and types[-2:-1] != ["_IN"]):
            yield from _levels(vocabulary)
        elif types[-1] == "_IN":
            yield from _lists(tokens[place:], names)
        else:
            yield from _members(tokens[place:], begun, names)
    else:
        for measure in vocabulary.model.measures:
            yield Completion("measure", measure.caption, names.write_measure(measure.name), measure.unit)


def _is_of_level(types: list[str]) -> bool:
    """Whether a level is named next: over the …, average over …, to date in …."""
    is_brought = types[-1:] == ["_OVER"] and types[-2:-1] and types[-2] in _HOW
    return bool(is_brought) or types[-2:] == ["_OVER", "_THE"] or types[-3:] == ["_TO", "_DATE", "_IN"]


def _levels(vocabulary: Vocabulary) -> Iterator[Completion]:
    names, seen = FormulaNames(vocabulary), set()
    for dimension in vocabulary.model.dimensions:
        for hierarchy in shown_hierarchies(dimension):
            for level in hierarchy.levels:
                caption = level_caption(dimension, level)
                if fold(caption) not in seen and vocabulary.levels.get(fold(caption)):
                    seen.add(fold(caption))
                    yield Completion("level", caption, quoted(caption), f"of {dimension.caption}")
    for caption, (dimension_name, hierarchy_name) in vocabulary.hierarchies.items():
        if caption not in seen:
            text = names.write_place((dimension_name, hierarchy_name))
            yield Completion("level", unquoted(text), text, "at any level")


def _slice(types: list[str]) -> int | None:
    """Where the slice begins that is being written; None outside of one."""
    depth = 0
    for at in range(len(types) - 1, -1, -1):
        if types[at] == "RPAR":
            depth += 1
        elif types[at] == "LPAR":
            depth -= 1
        elif types[at] == "_ONLY" and depth <= 0:
            return at
        elif types[at] in ("PLUS", "MINUS", "STAR", "SLASH", "EVERYWHERE", "_THEN", "_ELSE", "_WHEN") and depth <= 0:
            return None
    return None


def _compared(tokens: list[Token]) -> str:
    """The name of what is compared; none where nothing is."""
    at = next((at for at in range(len(tokens) - 1, -1, -1) if tokens[at].type in ("COMPARATOR", "_IN")), 0)
    return unquoted(str(tokens[at - 1] if tokens[at - 1].type != "_NOT" else tokens[at - 2])) if at else ""


def _named(compared: str, names: FormulaNames) -> Named | None:
    try:
        return names.named(compared, None) if compared else None
    except NameMissError:
        return None


def _lists(tokens: list[Token], names: FormulaNames) -> Iterator[Completion]:
    """The lists of what is compared."""
    named = _named(_compared(tokens), names)
    for each in names.vocabulary.model.lists:
        if named is not None and each.dimension == named.dimension:
            yield Completion("list", each.caption, names.write_list(each.name), "a list")


def _members(tokens: list[Token], begun: str, names: FormulaNames) -> Iterator[Completion]:
    """The members of what is compared, with such a beginning."""
    compared = _compared(tokens)
    named = _named(compared, names)
    if named is None:
        return
    found = names.vocabulary.members(named.dimension, named.hierarchy)
    depths = [found.depth_of(named.level)] if named.level is not None else []
    if named.level is None or fold(compared) in names.vocabulary.hierarchies:
        depths += [each for each in range(len(found.levels)) if each not in depths]
    count = 0
    for depth in depths:
        # Their names are folded once for all; where there are many, only their beginnings are looked at.
        is_many = len(found.levels[depth]) > MOST_COMPARED
        for name, codes in found.names(depth).items():
            if count == MOST:
                return
            is_begun = name.startswith(begun) or (not is_many and any(one.startswith(begun) for one in name.split()))
            for code in codes if is_begun else ():
                if found.is_visible(depth, code) and count < MOST:
                    count += 1
                    text = names.write_member(named, found.path_of(depth, code))
                    yield Completion("member", found.levels[depth].captions[code], text, "")


def _tokens(text: str) -> list[Token]:
    try:
        return list(grammar().lex(text, dont_ignore=False))
    except UnexpectedInput:
        return []
