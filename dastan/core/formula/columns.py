"""Columns of records that are worked out from others: standard SQL's scalar expressions, read and their kinds checked.

`case when hour < 9 then 'early' else 'late' end`, `extract(month from day)`, `first_name || ' ' || name`,
`livery of lines`: columns by name, of the record itself or of a table that it leads to. Who reads the records works
them out, once.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from datetime import date
from functools import cache, lru_cache
from pathlib import Path
from typing import Any, Literal, NoReturn
from zoneinfo import available_timezones

from lark import Lark, Token, Tree, UnexpectedCharacters, UnexpectedInput, UnexpectedToken

from dastan.core.errors import FormulaError, did_you_mean
from dastan.core.formula.functions import FUNCTIONS
from dastan.core.formula.names import unquoted

Kind = Literal["number", "text", "date", "timestamp", "truth", "nothing"]
Span = tuple[int, int]
MOST_CHARACTERS, MOST_DEPTH = 4_000, 60
PARTS_OF_DAYS = ("year", "quarter", "month", "day", "week", "weekday", "week_year")
PARTS_OF_TIMES = (*PARTS_OF_DAYS, "hour", "minute", "second")
TYPES: dict[str, Kind] = {
    "text": "text", "integer": "number", "decimal": "number", "float": "number", "date": "date",
    "timestamp": "timestamp", "boolean": "truth",
}  # fmt: skip
_CASTS: dict[Kind, tuple[Kind, ...]] = {
    "text": ("number", "text", "date", "timestamp", "truth"), "number": ("text", "number", "truth"),
    "date": ("text", "date", "timestamp"), "timestamp": ("text", "date", "timestamp"), "truth": ("truth", "text"),
}  # fmt: skip
_ALIKE = ("coalesce", "nullif", "least", "greatest")
TEXT_FUNCTIONS = {"upper": 1, "lower": 1, "trim": 1, "char_length": 1, "substring": 3, "replace": 3, "part": 3}
BANDS = ("band", "band_number")
_KNOWN = (*FUNCTIONS, *TEXT_FUNCTIONS, *BANDS, "date")


@dataclass(frozen=True, slots=True)
class Written:
    """A value as it is written: a number by its digits, a text, a day in ISO, a truth, or nothing."""

    kind: Kind
    value: str
    span: Span = field(default=(0, 0), compare=False)


@dataclass(frozen=True, slots=True)
class ColumnOf:
    """A column of the record; of another table that the record leads to, by that table or by its role, where `of` is
    said."""

    name: str
    of: str | None
    span: Span = field(default=(0, 0), compare=False)


@dataclass(frozen=True, slots=True)
class Apply:
    """An operator or function of values: `+`, `||`, `and`, `extract` (`detail` says which part), `upper`…"""

    name: str
    values: tuple[ColumnFormula, ...]
    detail: str = ""
    span: Span = field(default=(0, 0), compare=False)


@dataclass(frozen=True, slots=True)
class Choice:
    """The value of the first branch whose truth holds: pairs of a truth and a value."""

    branches: tuple[tuple[ColumnFormula, ColumnFormula], ...]
    otherwise: ColumnFormula | None
    span: Span = field(default=(0, 0), compare=False)


ColumnFormula = Written | ColumnOf | Apply | Choice
KindOf = Callable[[ColumnOf], Kind]


@cache
def _grammar() -> Lark:
    text = (Path(__file__).parent / "columns.lark").read_text(encoding="utf-8")
    return Lark(text, parser="lalr", propagate_positions=True, maybe_placeholders=True)


@lru_cache(maxsize=1024)
def parse_column(text: str) -> ColumnFormula:
    """The formula that `text` writes. Raises FormulaError with the place of what cannot be read."""
    if len(text) > MOST_CHARACTERS:
        _refuse((0, len(text)), f"A formula has at most {MOST_CHARACTERS:,} characters.", "Work out parts of it first.")
    try:
        tree = _grammar().parse(text)
    except UnexpectedInput as error:
        raise _unexpected(error, text) from error
    if _depth(tree) > MOST_DEPTH:
        _refuse((0, len(text)), f"More than {MOST_DEPTH} steps inside one another.", "Work out parts of it first.")
    return _Reader().read(tree.children[0])


def _depth(tree: Tree[Token]) -> int:
    """How deep it is nested; looked at level by level, so that none is too deep for it."""
    depth, level = 0, [tree]
    while level:
        depth += 1
        level = [each for one in level for each in one.children if isinstance(each, Tree)]
    return depth


def _unexpected(error: UnexpectedInput, text: str) -> FormulaError:
    is_end = isinstance(error, UnexpectedToken) and error.token.type == "$END"
    at = len(text) if is_end or error.pos_in_stream is None else error.pos_in_stream
    if at >= len(text.rstrip()):
        what = "The formula ends too soon."
    elif isinstance(error, UnexpectedCharacters):
        what = f"“{text[at]}” is not expected here."
    else:
        what = f"“{error.token}” is not expected here."  # type: ignore[attr-defined]
    hint = "Write columns, numbers, 'texts', operators, functions, or case when … then … else … end."
    return FormulaError(f"{what} (Character {at + 1}.)", hint, details={"span": [at, min(at + 1, len(text))]})


def _refuse(span: Span, message: str, hint: str) -> NoReturn:
    raise FormulaError(f"{message} (Character {span[0] + 1}.)", hint, details={"span": list(span)})


class _Reader:
    """From what the grammar found to a formula."""

    def read(self, node: Any) -> ColumnFormula:
        if node.data == "bracketed":
            return self.read(node.children[0])
        span = (node.meta.start_pos, node.meta.end_pos) if not node.meta.empty else (0, 0)
        found: ColumnFormula = getattr(self, f"_{node.data}")(node.children, span)
        return found

    def _many(self, children: list[Any]) -> tuple[ColumnFormula, ...]:
        return tuple(self.read(each) for each in children if each is not None)

    def __getattr__(self, name: str) -> Callable[[list[Any], Span], ColumnFormula]:
        own = _OPERATORS.get(name[1:])
        if own is None:
            raise AttributeError(name)
        return lambda children, span: Apply(own, self._many(children), span=span)

    def _number(self, children: list[Token], span: Span) -> ColumnFormula:
        return Written("number", str(children[0]), span)

    def _text(self, children: list[Token], span: Span) -> ColumnFormula:
        return Written("text", unquoted(children[0]), span)

    def _truth(self, children: list[Token], span: Span) -> ColumnFormula:
        return Written("truth", str(children[0]).casefold(), span)

    def _nothing(self, children: list[Token], span: Span) -> ColumnFormula:  # noqa: ARG002
        return Written("nothing", "", span)

    def _day(self, children: list[Token], span: Span) -> ColumnFormula:
        text = unquoted(children[1])
        try:
            return Written("date", date.fromisoformat(text).isoformat(), span)
        except ValueError:
            _refuse(span, f"“{text}” is not a date.", "Write date '2025-01-31'.")

    def _made_day(self, children: list[Any], span: Span) -> ColumnFormula:
        return Apply("date", self._many(children[1:]), span=span)

    def _column(self, children: list[Token | None], span: Span) -> ColumnFormula:
        name, of = children
        return ColumnOf(unquoted(name or ""), unquoted(of) if of is not None else None, span)

    def _comparison(self, children: list[Any], span: Span) -> ColumnFormula:
        left, operator, right = children
        return Apply(str(operator), (self.read(left), self.read(right)), span=span)

    def _is_not_null(self, children: list[Any], span: Span) -> ColumnFormula:
        return Apply("not", (Apply("is null", self._many(children), span=span),), span=span)

    def _between(self, children: list[Any], span: Span) -> ColumnFormula:
        own, low, high = self._many(children)
        return Apply("and", (Apply(">=", (own, low), span=span), Apply("<=", (own, high), span=span)), span=span)

    def _not_between(self, children: list[Any], span: Span) -> ColumnFormula:
        return Apply("not", (self._between(children, span),), span=span)

    def _not_one_of(self, children: list[Any], span: Span) -> ColumnFormula:
        return Apply("not", (Apply("in", self._many(children), span=span),), span=span)

    def _like(self, children: list[Any], span: Span) -> ColumnFormula:
        return Apply("like", (self.read(children[0]),), unquoted(children[1]), span)

    def _not_like(self, children: list[Any], span: Span) -> ColumnFormula:
        return Apply("not", (self._like(children, span),), span=span)

    def _zoned(self, children: list[Any], span: Span) -> ColumnFormula:
        zone = unquoted(children[1])
        if not available_timezones():
            _refuse(span, "This machine knows no time zones.", "Install its tzdata package, then try again.")
        if zone not in available_timezones():
            hint = did_you_mean(zone, available_timezones()) or "Name one as in 'Etc/UTC'."
            _refuse(span, f"There is no time zone “{zone}”.", hint)
        return Apply("zone", (self.read(children[0]),), zone, span)

    def _extract(self, children: list[Any], span: Span) -> ColumnFormula:
        part = str(children[0]).casefold()
        if part not in PARTS_OF_TIMES:
            _refuse(span, f"“{children[0]}” is no part of a time.", did_you_mean(part, PARTS_OF_TIMES))
        return Apply("extract", (self.read(children[1]),), part, span)

    def _cast(self, children: list[Any], span: Span) -> ColumnFormula:
        kind = str(children[1]).casefold()
        if kind not in TYPES:
            _refuse(span, f"“{children[1]}” is no type.", did_you_mean(kind, TYPES) or f"Take {', '.join(TYPES)}.")
        return Apply("cast", (self.read(children[0]),), kind, span)

    def _call(self, children: list[Any], span: Span) -> ColumnFormula:
        name = str(children[0]).casefold()
        if name not in _KNOWN:
            _refuse(span, f"There is no function {children[0]}.", did_you_mean(name, _KNOWN))
        return Apply(name, self._many(children[1:]), span=span)

    def _case(self, children: list[Any], span: Span) -> ColumnFormula:
        parts = [each for each in children if each is not None]
        branches = [each for each in parts if each.data == "when"]
        pairs = tuple((self.read(each.children[0]), self.read(each.children[1])) for each in branches)
        return Choice(pairs, self.read(parts[-1]) if parts[-1].data != "when" else None, span)


_OPERATORS = {
    "either": "or", "both": "and", "opposite": "not", "add": "+", "subtract": "-", "joined": "||", "multiply": "*",
    "divide": "/", "negative": "negative", "is_null": "is null", "one_of": "in",
}  # fmt: skip


def parts_of_formula(formula: ColumnFormula) -> tuple[ColumnFormula, ...]:
    """What a formula is made of, from left to right."""
    match formula:
        case Apply(values=values):
            return values
        case Choice(branches=branches, otherwise=otherwise):
            found = tuple(part for pair in branches for part in pair)
            return found if otherwise is None else (*found, otherwise)
        case _:
            return ()


def columns_named(formula: ColumnFormula) -> Iterator[ColumnOf]:
    """The columns that a formula reads, in order of appearance."""
    if isinstance(formula, ColumnOf):
        yield formula
    for each in parts_of_formula(formula):
        yield from columns_named(each)


def kind_of(formula: ColumnFormula, column: KindOf) -> Kind:
    """The kind of a formula's values. Args: `column` tells the kind of a column.

    Raises: FormulaError where kinds do not go together, with its place.
    """
    match formula:
        case Written(kind=kind):
            return kind
        case ColumnOf():
            return column(formula)
        case Choice(branches=branches, otherwise=otherwise):
            for truth, _ in branches:
                _expect(truth, kind_of(truth, column), "truth")
            values = [value for _, value in branches] + ([otherwise] if otherwise is not None else [])
            return _one_kind(formula, [(each, kind_of(each, column)) for each in values])
        case Apply():
            return _kind_of_apply(formula, [(each, kind_of(each, column)) for each in formula.values])


_Found = list[tuple[ColumnFormula, Kind]]


def _kind_of_apply(formula: Apply, found: _Found) -> Kind:
    kinds = [kind for _, kind in found]
    match formula.name:
        case "+" | "-" if kinds[0] == "date" and (kinds[1] == "number" or (formula.name == "-" and kinds[1] == "date")):
            return "date" if kinds[1] == "number" else "number"
        case "+" | "-" | "*" | "/" | "negative":
            return _all(found, "number")
        case "||":
            return _all(found, "text")
        case "and" | "or" | "not":
            return _all(found, "truth")
        case "=" | "<>" | "<" | "<=" | ">" | ">=" | "in":
            _one_kind(formula, found)
            return "truth"
        case "is null":
            return "truth"
        case "like":
            _all(found, "text")
            return "truth"
        case "extract":
            known = PARTS_OF_TIMES if kinds[0] in ("timestamp", "nothing") else PARTS_OF_DAYS
            if kinds[0] not in ("date", "timestamp", "nothing") or formula.detail not in known:
                what = "a day" if kinds[0] == "date" else _told(kinds[0])
                _refuse(formula.span, f"There is no {formula.detail} in {what}.", "Take a date or a timestamp.")
            return "number"
        case "cast":
            own = TYPES[formula.detail]
            if kinds[0] not in (*_CASTS[own], "nothing"):
                _refuse(formula.span, f"{_told(kinds[0]).capitalize()} cannot be made {_told(own)}.", "Go by text.")
            return own
        case "zone":
            return _all(found, "timestamp")
        case name if name in _ALIKE:
            _count(formula, FUNCTIONS[name].least, FUNCTIONS[name].most)
            return _one_kind(formula, found)
        case name if name in FUNCTIONS:
            _count(formula, FUNCTIONS[name].least, FUNCTIONS[name].most)
            return _all(found, "number")
        case name if name in TEXT_FUNCTIONS:
            return _kind_of_text(formula, found)
        case "date":
            _count(formula, 3, 3)
            _all(found, "number")
            return "date"
        case _:
            _count(formula, 2, 40)
            _all(found, "number")
            limits = [_written_number(each) for each in formula.values[1:]]
            if limits != sorted(set(limits)):
                _refuse(formula.span, "The limits of bands do not rise.", "Write them from the least to the greatest.")
            return "text" if formula.name == "band" else "number"


def _kind_of_text(formula: Apply, found: _Found) -> Kind:
    most = TEXT_FUNCTIONS[formula.name]
    _count(formula, 2 if formula.name == "substring" else most, most)
    _all(found[:1], "text")
    if formula.name == "replace":
        _all(found, "text")
    elif formula.name == "part":
        _all(found[:2], "text")
    for at, each in enumerate(formula.values[1:]):
        if not isinstance(each, Written):
            _refuse(each.span, f"What {formula.name} cuts by is written out.", "Write a number or a 'text'.")
        may_be_none = formula.name == "substring" and at == 1
        if each.kind == "number" and (not each.value.isdigit() or (each.value == "0" and not may_be_none)):
            _refuse(each.span, "This is a whole number from 1 on.", "Characters and parts are counted from 1.")
    if formula.name == "substring":
        _all(found[1:], "number")
    if formula.name == "part":
        _all(found[2:], "number")
    return "number" if formula.name == "char_length" else "text"


def _written_number(each: ColumnFormula) -> float:
    is_negative = isinstance(each, Apply) and each.name == "negative"
    inner = each.values[0] if isinstance(each, Apply) and is_negative else each
    if not isinstance(inner, Written) or inner.kind != "number":
        _refuse(each.span, "The limits of bands are written out.", "Write numbers.")
    return -float(inner.value) if is_negative else float(inner.value)


def _told(kind: Kind) -> str:
    return {"number": "a number", "text": "a text", "date": "a date", "timestamp": "a timestamp",
            "truth": "true or false", "nothing": "nothing"}[kind]  # fmt: skip


def _expect(formula: ColumnFormula, kind: Kind, wanted: Kind) -> None:
    if kind not in (wanted, "nothing"):
        _refuse(formula.span, f"This is {_told(kind)}, where {_told(wanted)} is wanted.", "Cast it, or take another.")


def _all(found: _Found, wanted: Kind) -> Kind:
    for formula, kind in found:
        _expect(formula, kind, wanted)
    return wanted


def _one_kind(formula: ColumnFormula, found: _Found) -> Kind:
    kinds = list(dict.fromkeys(kind for _, kind in found if kind != "nothing"))
    if len(kinds) > 1:
        message = f"{_told(kinds[0]).capitalize()} and {_told(kinds[1])} stand where one kind is wanted."
        _refuse(formula.span, message, "Cast one of them.")
    return kinds[0] if kinds else "nothing"


def _count(formula: Apply, least: int, most: int) -> None:
    if not least <= len(formula.values) <= most:
        many = f"{least}" if least == most else f"{least} to {most}"
        _refuse(
            formula.span, f"{formula.name} takes {many} values, not {len(formula.values)}.", "Look at docs/model.md."
        )
