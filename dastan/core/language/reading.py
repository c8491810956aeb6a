"""Reads a formula that a person wrote. What is wrong is told with its place, what was expected, and what to do."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cache
from pathlib import Path
from typing import Any, NamedTuple

from lark import Lark, Token, Tree, UnexpectedCharacters, UnexpectedInput, UnexpectedToken

from dastan.core.analysis.views import calendars_of
from dastan.core.errors import FormulaError, did_you_mean
from dastan.core.formula.names import unquoted
from dastan.core.formula.units import Unit
from dastan.core.language.naming import FormulaNames, Named, NameMissError
from dastan.core.language.words import EXPECTED
from dastan.core.model.conditions import Action, AttributeFilter, Condition, FilterGroup, MemberFilter
from dastan.core.model.expression import (
    MOST_BEFORE,
    MOST_MOVING,
    Arithmetic,
    Before,
    Branch,
    Brought,
    Call,
    Case,
    Comparison,
    Expression,
    IsNull,
    Logic,
    MeasureOf,
    Negative,
    NumberOf,
    Only,
    Opposite,
    Over,
    Runs,
    StandsAt,
    UpToDate,
)
from dastan.core.model.expression_check import check_expression
from dastan.core.model.expression_shape import FUNCTION_NAMES, ExpressionError
from dastan.core.model.parts import MemberPath
from dastan.core.words.vocabulary import Vocabulary

MOST_CHARACTERS, MOST_DEPTH = 4_000, 60
_PARTS = "Make measures of its parts, and name them."
Node = Tree[Token] | Token
_PLACES: dict[str, str] = {
    "the whole": "whole", "the row": "row", "the column": "column", "what it stands in": "parent",
    "what its column stands in": "parent_column",
}  # fmt: skip


@cache
def grammar() -> Lark:
    """The grammar, read once."""
    text = (Path(__file__).parent / "formula.lark").read_text(encoding="utf-8")
    return Lark(text, parser="lalr", propagate_positions=True, maybe_placeholders=True)


class Fix(NamedTuple):
    """A way out of a fault: the text that would be written in its place."""

    caption: str
    text: str


@dataclass(frozen=True, slots=True)
class Formula:
    """A formula that was read: what it says, and the unit of its values."""

    expression: Expression
    unit: Unit


def read_formula(text: str, vocabulary: Vocabulary, name: str = "", names: FormulaNames | None = None) -> Formula:
    """The formula that a text writes.

    Args: `name` is the measure that it defines, where it is known already; `names` find what is named, where it is not
        to be found in the vocabulary's members.
    Raises: FormulaError; `details` has its `span` in characters, and `fixes` that can be taken at once.
    """
    if len(text) > MOST_CHARACTERS:
        raise _fault((0, len(text)), f"A formula has at most {MOST_CHARACTERS:,} characters.", _PARTS)
    try:
        tree = grammar().parse(text)
    except UnexpectedInput as error:
        raise _unexpected(error, text) from error
    if _depth(tree) > MOST_DEPTH:
        raise _fault((0, len(text)), f"More than {MOST_DEPTH} steps inside one another.", _PARTS)
    reader = _Reader(text, names or FormulaNames(vocabulary))
    expression = reader.expression(tree.children[0])
    try:
        return Formula(expression, check_expression(expression, vocabulary.model, name))
    except ExpressionError as error:
        raise _fault(reader.span_of(error.part), error.message, error.hint) from error


@dataclass
class _Reader:
    text: str
    names: FormulaNames
    spans: list[tuple[Expression, tuple[int, int]]] = field(default_factory=list)

    def span_of(self, part: Expression) -> tuple[int, int]:
        """Where a part of the formula is written."""
        return next((span for each, span in self.spans if each is part), (0, len(self.text)))

    def expression(self, node: Any) -> Expression:
        if node.data == "bracketed":
            return self.expression(node.children[0])
        found: Expression = getattr(self, f"_{node.data}")(node)
        self.spans.append((found, _span(node)))
        return found

    def _many(self, node: Any) -> tuple[Expression, ...]:
        return tuple(self.expression(each) for each in node.children)

    def _either(self, node: Any) -> Expression:
        return Logic(join="or", of=self._many(node))

    def _both(self, node: Any) -> Expression:
        return Logic(join="and", of=self._many(node))

    def _opposite(self, node: Any) -> Expression:
        return Opposite(of=self.expression(node.children[0]))

    def _comparison(self, node: Any) -> Expression:
        left, operator, right = node.children
        return Comparison(operator=str(operator), left=self.expression(left), right=self.expression(right))  # type: ignore[arg-type]

    def _stands_at(self, node: Any) -> Expression:
        return StandsAt(level=self._level(node.children[0]))

    def _stands_within(self, node: Any) -> Expression:
        return StandsAt(level=self._level(node.children[0]), or_below=True)

    def _is_null(self, node: Any) -> Expression:
        return IsNull(of=self.expression(node.children[0]))

    def _is_not_null(self, node: Any) -> Expression:
        return Opposite(of=self._is_null(node))

    def _between(self, node: Any) -> Expression:
        own, low, high = self._many(node)
        least = Comparison(operator=">=", left=own, right=low)
        return Logic(join="and", of=(least, Comparison(operator="<=", left=own, right=high)))

    def _not_between(self, node: Any) -> Expression:
        return Opposite(of=self._between(node))

    def _add(self, node: Any) -> Expression:
        return self._arithmetic("+", node)

    def _subtract(self, node: Any) -> Expression:
        return self._arithmetic("-", node)

    def _multiply(self, node: Any) -> Expression:
        return self._arithmetic("*", node)

    def _divide(self, node: Any) -> Expression:
        return self._arithmetic("/", node)

    def _arithmetic(self, operator: str, node: Any) -> Expression:
        left, right = node.children
        if right.data == "said":
            self._refuse_unclear(node, left, right)
        return Arithmetic(operator=operator, left=self.expression(left), right=self.expression(right))  # type: ignore[arg-type]

    def _refuse_unclear(self, node: Any, left: Any, right: Any) -> None:
        """What is said after the last of several values could be meant of it alone, or of all: a number would hang on
        a guess."""
        start, end = _span(node)
        said_from, _ = _span(right)
        value = right
        while value.data == "said":
            value = value.children[0]
        _, value_end = _span(value)
        words = self.text[value_end:end].strip()
        whole = f"({self.text[start:value_end]}) {words}"
        last = f"{self.text[start:said_from]}({self.text[said_from:end]})"
        first_word = words.split()[0]
        of = self.text[_span(left)[0] : _span(left)[1]]
        raise _fault(
            (value_end, end),
            f"“{first_word} …” could be meant of {self.text[said_from:value_end]} alone, or of all from "
            f"{_short(of)} on.",
            "Put brackets around what it holds for.",
            [
                Fix("of all of it", self.text[:start] + whole + self.text[end:]),
                Fix("of the last alone", self.text[:start] + last + self.text[end:]),
            ],
        )

    def _negative(self, node: Any) -> Expression:
        return Negative(of=self.expression(node.children[0]))

    def _number(self, node: Any) -> Expression:
        return NumberOf(digits=str(node.children[0]))

    def _measure(self, node: Any) -> Expression:
        name = node.children[0]
        text, hierarchy = self._name(name)
        if hierarchy is not None:
            raise _fault(_span(name), "A measure is named by its own name alone.", "Leave out what follows “of”.")
        return MeasureOf(measure=self._found(name, lambda: self.names.measure(text)))

    def _call(self, node: Any) -> Expression:
        function, *arguments = node.children
        name = str(function).casefold()
        if name not in FUNCTION_NAMES:
            raise _fault(_token_span(function), f"There is no function {function}.", did_you_mean(name, FUNCTION_NAMES))
        of = tuple(self.expression(each) for each in arguments if each is not None)
        return Call(function=name, of=of)  # type: ignore[arg-type]

    def _case(self, node: Any) -> Expression:
        parts = [each for each in node.children if each is not None]
        branches = tuple(
            Branch(when=self.expression(each.children[0]), then=self.expression(each.children[1]))
            for each in parts
            if each.data == "when"
        )
        has_else = parts[-1].data != "when"
        return Case(branches=branches, otherwise=self.expression(parts[-1]) if has_else else None)

    def _said(self, node: Any) -> Expression:
        value, clause = node.children
        of = self.expression(value)
        found: Expression = getattr(self, f"_{clause.data}")(of, clause)
        return found

    def _only(self, of: Expression, clause: Any) -> Expression:
        condition, everywhere = clause.children
        return Only(of=of, conditions=(self._condition(condition),), everywhere=everywhere is not None)

    def _over_all(self, of: Expression, clause: Any) -> Expression:
        name = clause.children[0]
        text, _ = self._name(name)
        return Over(of=of, reach="dimension", dimension=self._found(name, lambda: self.names.dimension(text)))

    def _over_place(self, of: Expression, clause: Any) -> Expression:
        words = " ".join(str(each).casefold() for each in clause.children[0].children)
        return Over(of=of, reach=_PLACES[words])  # type: ignore[arg-type]

    def _over_level(self, of: Expression, clause: Any) -> Expression:
        return Over(of=of, reach="level", level=self._level(clause.children[0]))

    def _before(self, of: Expression, clause: Any) -> Expression:
        same_part, unit, calendar = clause.children
        if calendar is not None:
            text, _ = self._name(calendar)
            dimension = self._found(calendar, lambda: self.names.dimension(text))
        else:
            dimension = self._calendar(clause)
        by = str(unit).casefold()
        return Before(of=of, by=by, dimension=dimension, same_part=same_part is not None)  # type: ignore[arg-type]

    def _many_before(self, of: Expression, clause: Any) -> Expression:
        number, unit, calendar = clause.children
        if "." in number or not 1 <= int(number) <= MOST_BEFORE:
            what = f"Nothing is {number} {str(unit).casefold()} before."
            raise _fault(_token_span(number), what, f"Take 1 to {MOST_BEFORE}.")
        dimension = self._calendar(clause)
        if calendar is not None:
            text, _ = self._name(calendar)
            dimension = self._found(calendar, lambda: self.names.dimension(text))
        by = str(unit).casefold().rstrip("s")
        return Before(of=of, by=by, dimension=dimension, count=int(number))  # type: ignore[arg-type]

    def _to_date(self, of: Expression, clause: Any) -> Expression:
        return UpToDate(of=of, level=self._level(clause.children[0]))

    def _calendar(self, clause: Any) -> str:
        known = calendars_of(self.names.vocabulary.model)
        if not known:
            raise _fault(_span(clause), "The model has no calendar, so nothing lies before.", "Leave it out.")
        return known[0]

    def _runs(self, of: Expression, clause: Any) -> Expression:
        tokens = {each.type: each for each in clause.children if each is not None}
        how, count = "running", 1
        if "INDEX" in tokens:
            how = "index"
        elif "MOVING" in tokens:
            how, count = ("moving_mean" if "AVERAGE" in tokens else "moving_sum"), int(float(tokens["NUMBER"]))
            if not 1 < count <= MOST_MOVING or "." in tokens["NUMBER"]:
                what = f"Nothing moves over {tokens['NUMBER']}."
                raise _fault(_token_span(tokens["NUMBER"]), what, f"Take 2 to {MOST_MOVING}.")
        along = "rows" if "DOWN" in tokens else "columns"
        return Runs(of=of, how=how, along=along, restarts="IN_EACH_GROUP" in tokens, count=count)  # type: ignore[arg-type]

    def _ranks(self, of: Expression, clause: Any) -> Expression:
        tokens = {each.type for each in clause.children if each is not None}
        along = "rows" if "AMONG_ROWS" in tokens else "columns"
        how = "rank" if "RANK" in tokens else "cumulative"
        return Runs(of=of, how=how, along=along, restarts="IN_EACH_GROUP" in tokens)  # type: ignore[arg-type]

    def _one_before(self, of: Expression, clause: Any) -> Expression:
        tokens = {each.type for each in clause.children if each is not None}
        along = "rows" if "DOWN" in tokens else "columns"
        return Runs(of=of, how="before", along=along, restarts="IN_EACH_GROUP" in tokens)  # type: ignore[arg-type]

    def _brought(self, of: Expression, clause: Any) -> Expression:
        how, name = clause.children
        return Brought(of=of, how=str(how).casefold(), level=self._level(name))  # type: ignore[arg-type]

    def _level(self, name: Any) -> Any:
        text, hierarchy = self._name(name)
        return self._found(name, lambda: self.names.level(text, hierarchy))

    def _condition(self, node: Any) -> Condition:
        if node.data in ("any_of", "all_of"):
            parts = tuple(self._condition(each) for each in node.children)
            return FilterGroup(join="any" if node.data == "any_of" else "all", parts=parts)
        name, *rest = node.children
        text, hierarchy = self._name(name)
        named = self._found(name, lambda: self.names.named(text, hierarchy))
        match node.data:
            case "equals":
                return self._compared(named, str(rest[0]), rest[1])
            case "one_of" | "not_one_of":
                paths = [path for each in rest for path in self._members(named, each)]
                return self._of_members(named, paths, "keep" if node.data == "one_of" else "leave_out")
            case "listed" | "not_listed":
                return self._of_list(named, rest[0], "keep" if node.data == "listed" else "leave_out")
            case "ranges" | "not_ranges":
                values = tuple(self._key(each) for each in rest)
                return self._attribute(named, "between", values, node.data == "not_ranges")
            case "blank" | "not_blank":
                blanks = self._found(name, lambda: self.names.blanks(named))
                return self._of_members(named, blanks, "keep" if node.data == "blank" else "leave_out")
            case _:
                return self._like(named, rest[0], node.data == "not_like")

    def _compared(self, named: Named, operator: str, member: Any) -> Condition:
        if operator in ("=", "<>"):
            return self._of_members(named, self._members(named, member), "keep" if operator == "=" else "leave_out")
        words = {"<": "less", "<=": "at_most", ">": "more", ">=": "at_least"}[operator]
        return self._attribute(named, words, (self._key(member),), False)

    def _of_members(self, named: Named, paths: list[MemberPath], action: Action) -> Condition:
        return MemberFilter(
            dimension=named.dimension, hierarchy=named.hierarchy, action=action, members=tuple(dict.fromkeys(paths))
        )

    def _of_list(self, named: Named, name: Any, action: Action) -> Condition:
        text, _ = self._name(name)
        found = self._found(name, lambda: self.names.listed(text))
        if found.dimension != named.dimension:
            model = self.names.vocabulary.model
            own, other = (model.dimension(each).caption for each in (named.dimension, found.dimension))
            raise _fault(_span(name), f"“{found.caption}” lists members of {other}, not of {own}.", f"Name {other}.")
        return MemberFilter(dimension=found.dimension, hierarchy=found.hierarchy, action=action, list=found.name)

    def _attribute(self, named: Named, operator: str, values: tuple[Any, ...], is_left_out: bool) -> Condition:
        level = named.level
        if level is None:
            _, hierarchy = self.names.vocabulary.hierarchy((named.dimension, named.hierarchy))
            level = hierarchy.levels[-1]
        is_text = operator in ("contains", "begins_with", "ends_with")
        return AttributeFilter(
            dimension=named.dimension, attribute=level, operator=operator, values=values,  # type: ignore[arg-type]
            on="caption" if is_text else "key", action="leave_out" if is_left_out else "keep",
        )  # fmt: skip

    def _like(self, named: Named, pattern: Token, is_left_out: bool) -> Condition:
        text = unquoted(str(pattern))
        inner = text.strip("%")
        ways = {(True, True): "contains", (False, True): "begins_with", (True, False): "ends_with"}
        way = ways.get((text.startswith("%"), text.endswith("%")))
        if way is None or not inner or "%" in inner or "_" in inner:
            raise _fault(
                _token_span(pattern), "“like” finds a text at the beginning, at the end or anywhere.",
                "Write 'Harbour%', '%pier' or '%old%'.",
            )  # fmt: skip
        return self._attribute(named, way, (inner,), is_left_out)

    def _members(self, named: Named, node: Any) -> list[MemberPath]:
        captions = [_value(each) for each in node.children]
        paths: list[MemberPath] = self._found(node, lambda: self.names.members(named, captions))
        return paths

    def _key(self, node: Any) -> str | int | float:
        if len(node.children) > 1:
            raise _fault(_span(node), "One value is compared, not a path.", "Write a number, a date or a text.")
        return _value(node.children[0])

    def _name(self, node: Any) -> tuple[str, str | None]:
        own, hierarchy = node.children
        return unquoted(str(own)), None if hierarchy is None else unquoted(str(hierarchy))

    def _found(self, node: Any, find: Callable[[], Any]) -> Any:
        try:
            return find()
        except NameMissError as error:
            raise _fault(_span(node), error.message, error.hint) from error


def _value(token: Token) -> str | int | float:
    if token.type in ("NUMBER", "NEGATIVE"):
        text = str(token).replace(" ", "")
        return float(text) if "." in text else int(text)
    return unquoted(str(token))


def _span(node: Any) -> tuple[int, int]:
    return node.meta.start_pos, node.meta.end_pos


def _token_span(token: Token) -> tuple[int, int]:
    return token.start_pos or 0, token.end_pos or 0


def _depth(tree: Node) -> int:
    """How deep a tree is, told without going down into it: it may be as deep as its text is long."""
    deepest, waiting = 0, [(tree, 1)]
    while waiting:
        node, depth = waiting.pop()
        deepest = max(deepest, depth)
        if isinstance(node, Tree):
            waiting.extend((each, depth + 1) for each in node.children if each is not None)
    return deepest


def _short(text: str) -> str:
    return text if len(text) <= 24 else text[:23] + "…"


def _fault(span: tuple[int, int], message: str, hint: str, fixes: list[Fix] | None = None) -> FormulaError:
    found = [{"caption": each.caption, "text": each.text} for each in fixes or []]
    return FormulaError(message, hint, details={"span": list(span), "fixes": found})


def _unexpected(error: UnexpectedInput, text: str) -> FormulaError:
    if isinstance(error, UnexpectedCharacters):
        at = error.pos_in_stream or 0
        quote = text[at] in "\"'"
        message = "A quote is not closed." if quote else f"“{text[at]}” is not expected here."
        return _fault((at, at + 1), message, expected_words(text[:at]) if not quote else f"Close it with {text[at]}.")
    token = error.token if isinstance(error, UnexpectedToken) else None
    is_at_end = token is None or token.type == "$END"
    at = len(text.rstrip()) if is_at_end or token is None else (token.start_pos or 0)
    end = len(text) if is_at_end or token is None else (token.end_pos or at + 1)
    before = text[:at]
    message = "The formula is not finished." if is_at_end else f"“{text[at:end]}” is not expected here."
    return _fault((min(at, max(len(text) - 1, 0)), max(end, at + 1)), message, expected_words(before))


def accepted(text: str) -> set[str]:
    """The kinds of words with which a text may go on; none where it cannot be read so far."""
    parser = grammar().parse_interactive(text)
    try:
        parser.exhaust_lexer()
        return set(parser.accepts())  # type: ignore[no-untyped-call]
    except UnexpectedInput:
        return set()


def expected_words(text: str) -> str:
    """What could stand after a text, in words."""
    found = [EXPECTED[each] for each in sorted(accepted(text)) if each in EXPECTED]
    words = list(dict.fromkeys(found))
    return f"Expected here: {', '.join(words)}." if words else ""
