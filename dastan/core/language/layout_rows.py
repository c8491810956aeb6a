"""Rows of a financial layout as text: what a row has the records of, and what it is worked out from."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from pathlib import Path

from lark import Lark, Tree, UnexpectedInput

from dastan.core.errors import FormulaError, did_you_mean
from dastan.core.formula.names import quoted, unquoted
from dastan.core.language.naming import FormulaNames, Named, NameMissError
from dastan.core.language.reading import read_formula
from dastan.core.language.writing import write_formula
from dastan.core.model.document import FinancialLayout, KeyRange, LayoutRow, MemberList
from dastan.core.model.expression import Expression
from dastan.core.model.financial_layouts import rows_as_measures
from dastan.core.model.members import HierarchyMembers, fold
from dastan.core.model.parts import Key, MemberPath
from dastan.core.words.vocabulary import Vocabulary

MOST_CHARACTERS = 4_000


@cache
def _grammar() -> Lark:
    text = (Path(__file__).parent / "layout_rows.lark").read_text(encoding="utf-8")
    return Lark(text, parser="lalr", propagate_positions=True)


@dataclass(frozen=True, slots=True)
class HeldRecords:
    """The members and the ranges of keys that a text names."""

    members: tuple[MemberPath, ...]
    ranges: tuple[KeyRange, ...]


def read_held(text: str, dimension: str, hierarchy: str, vocabulary: Vocabulary) -> HeldRecords:
    """What a row has the records of: `"Fares", 4200, 5110 to 5200`. Raises FormulaError with its `span`."""
    if len(text) > MOST_CHARACTERS:
        raise _fault((0, len(text)), f"A row's members have at most {MOST_CHARACTERS:,} characters.", "Use a range.")
    try:
        tree = _grammar().parse(text)
    except UnexpectedInput as error:
        at = min(max(error.pos_in_stream or 0, 0), len(text))
        message = "A member, or a range of keys, is wanted here."
        raise _fault((at, len(text)), message, 'Write "Fares", or 5110 to 5200, with commas between.') from error
    names, named = FormulaNames(vocabulary), Named(dimension, hierarchy, None)
    keys = _keys_by_text(vocabulary.members(dimension, hierarchy))
    members: list[MemberPath] = []
    ranges: list[KeyRange] = []
    for node in (each for each in tree.children if isinstance(each, Tree)):
        span = (node.meta.start_pos, node.meta.end_pos)
        texts: list[str | int | float] = [
            unquoted(str(each.children[0])) for each in node.children if isinstance(each, Tree)
        ]
        if node.data == "keys":
            first, last = (keys.get(str(each), _as_key(str(each), keys)) for each in texts)
            ranges.append(KeyRange(first=first, last=last))
            continue
        try:
            members += names.members(named, texts)
        except NameMissError as error:
            listed = _listed(texts, named, vocabulary)
            if listed is None:
                raise _fault(span, error.message, error.hint) from error
            if listed.is_rule:
                message = f"“{listed.caption}” has a rule, and a row has the same members tomorrow."
                raise _fault(span, message, "Name members, a range of keys, or a list without a rule.") from error
            members += listed.members
    return HeldRecords(tuple(dict.fromkeys(members)), tuple(dict.fromkeys(ranges)))


def _listed(texts: list[str | int | float], named: Named, vocabulary: Vocabulary) -> MemberList | None:
    """The list of that name, of the same hierarchy: a row has the members that are on it now."""
    name = vocabulary.lists.get(fold(str(texts[0]))) if len(texts) == 1 else None
    own = (named.dimension, named.hierarchy)
    found = (each for each in vocabulary.model.lists if each.name == name and (each.dimension, each.hierarchy) == own)
    return next(found, None)


def _keys_by_text(members: HierarchyMembers) -> dict[str, Key]:
    return {str(key): key for level in members.levels for key in level.keys if key is not None}


def _as_key(text: str, keys: dict[str, Key]) -> Key:
    """A key that no member has, of the kind that all of them are."""
    if keys and all(isinstance(each, int | float) for each in keys.values()):
        try:
            return int(text)
        except ValueError:
            return text
    return text


def write_held(row: LayoutRow, dimension: str, hierarchy: str, vocabulary: Vocabulary) -> str:
    """What a row has the records of, as text that reads back as the same."""
    names, named = FormulaNames(vocabulary), Named(dimension, hierarchy, None)
    found = [names.write_member(named, path) for path in row.members]
    found += [f"{_bare(each.first)} to {_bare(each.last)}" for each in row.ranges]
    return ", ".join(found)


def _bare(key: Key) -> str:
    text = str(key)
    return text if text and not set(text) & set(" ,\"'›") and fold(text) != "to" else quoted(text)


def read_row_formula(text: str, name: str, layout: FinancialLayout) -> Expression:
    """What a row is worked out from: `"Revenue" - "Costs"`, of rows by what they are called. Raises FormulaError."""
    vocabulary = _vocabulary(layout)
    return read_formula(text, vocabulary, name, _RowNames(vocabulary)).expression


def write_row_formula(row: LayoutRow, layout: FinancialLayout) -> str:
    """What a row is worked out from, as text that reads back as the same."""
    return "" if row.formula is None else write_formula(row.formula, _vocabulary(layout))


def _vocabulary(layout: FinancialLayout) -> Vocabulary:
    return Vocabulary(rows_as_measures(layout), _no_members)


def _no_members(dimension: str, hierarchy: str) -> HierarchyMembers:
    raise AssertionError(f"{dimension}/{hierarchy}: rows have no members of their own")


@dataclass(frozen=True, slots=True)
class _RowNames(FormulaNames):
    """The measures of a formula are rows."""

    def measure(self, text: str) -> str:
        known = self.vocabulary.model.measures
        found = self.vocabulary.measures.get(fold(text)) or next(
            (each.name for each in known if each.name == text), None
        )
        if found is None:
            hint = did_you_mean(text, [each.caption for each in known])
            raise NameMissError(f"There is no row “{text}” with figures.", hint)
        return found


def _fault(span: tuple[int, int], message: str, hint: str) -> FormulaError:
    return FormulaError(message, hint, details={"span": list(span), "fixes": []})
