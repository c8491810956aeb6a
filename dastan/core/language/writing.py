"""Writes a formula as text that reads back as the same, and says it aloud."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import assert_never

from dastan.core.analysis.captions import member_caption
from dastan.core.analysis.view_words import OF_WORDS
from dastan.core.analysis.views import calendars_of
from dastan.core.language.naming import FormulaNames, Named
from dastan.core.model.conditions import AttributeFilter, Condition, FilterGroup, LevelName, MemberFilter
from dastan.core.model.expression import (
    Arithmetic,
    Before,
    Brought,
    Call,
    Case,
    Clause,
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
    UpToDate,
)
from dastan.core.words.vocabulary import Vocabulary

_OR, _AND, _NOT, _TEST, _SUM, _PRODUCT, _SIGN, _VALUE = range(8)
"""How tightly things hold together, loosest first."""
_ALONG = {"rows": "down the rows", "columns": "across the columns"}
_AMONG = {"rows": "among the rows", "columns": "among the columns"}
_OPERATORS = {"less": "<", "at_most": "<=", "more": ">", "at_least": ">=", "equal": "=", "not_equal": "<>"}


def write_formula(expression: Expression, vocabulary: Vocabulary) -> str:
    """A formula as text."""
    return _Writer(FormulaNames(vocabulary)).text(expression, _OR)


def write_condition(condition: Condition, vocabulary: Vocabulary) -> str:
    """A slice as text, as it stands after `only`."""
    return _Writer(FormulaNames(vocabulary)).condition(condition)


@dataclass(frozen=True, slots=True)
class _Writer:
    names: FormulaNames

    def text(self, part: Expression, least: int) -> str:
        """A part's text, in brackets where it holds together less than it must.

        What is said after a value stands in brackets wherever something else follows or goes before: a slice would take
        an "and" behind it for its own, and of several values it could be meant of each.
        """
        own, text = self._written(part)
        return text if own >= least and not (isinstance(part, Clause) and least > _OR) else f"({text})"

    def _written(self, part: Expression) -> tuple[int, str]:
        match part:
            case NumberOf(digits=digits):
                return _VALUE, digits
            case MeasureOf(measure=measure):
                return _VALUE, self.names.write_measure(measure)
            case Arithmetic(operator=operator, left=left, right=right):
                own = _SUM if operator in "+-" else _PRODUCT
                return own, f"{self.text(left, own)} {operator} {self.text(right, own + 1)}"
            case Negative(of=of):
                return _SIGN, f"-{self.text(of, _VALUE)}"  # two signs together begin a comment
            case Comparison(operator=operator, left=left, right=right):
                return _TEST, f"{self.text(left, _SUM)} {operator} {self.text(right, _SUM)}"
            case Logic(join=join, of=of):
                own = _OR if join == "or" else _AND
                return own, f" {join} ".join(self.text(each, own + 1) for each in of)
            case Opposite(of=IsNull(of=of)):
                return _TEST, f"{self.text(of, _SUM)} is not null"
            case Opposite(of=of):
                return _NOT, f"not {self.text(of, _TEST)}"
            case IsNull(of=of):
                return _TEST, f"{self.text(of, _SUM)} is null"
            case Case(branches=branches, otherwise=otherwise):
                whens = [f"when {self.text(each.when, _OR)} then {self.text(each.then, _OR)}" for each in branches]
                ending = f" else {self.text(otherwise, _OR)}" if otherwise is not None else ""
                return _VALUE, f"case {' '.join(whens)}{ending} end"
            case Call(function=function, of=of):
                return _VALUE, f"{function}({', '.join(self.text(each, _OR) for each in of)})"
            case Only() | Over() | Before() | UpToDate() | Runs() | Brought():
                value = self._written(part.of)[1] if isinstance(part.of, Clause) else self.text(part.of, _VALUE)
                return _VALUE, f"{value} {self.clause(part)}"
            case _:
                assert_never(part)

    def clause(self, part: Clause) -> str:
        """What is said after a value."""
        match part:
            case Only(conditions=conditions, everywhere=everywhere):
                text = " and ".join(self.condition(each, len(conditions) > 1) for each in conditions)
                return f"only {text}{' everywhere' if everywhere else ''}"
            case Over(level=LevelName() as level):
                return f"over the {self.names.write_level(level)}"
            case Over(reach="dimension"):
                return f"over all {self.names.write_dimension(part.dimension or '')}"
            case Over():
                return f"over {OF_WORDS[part.reach]}"  # type: ignore[index]
            case Before():
                known = calendars_of(self.names.vocabulary.model)[:1]
                along = "" if known == [part.dimension] else f" along {self.names.write_dimension(part.dimension)}"
                return f"in the {'same part of the ' if part.same_part else ''}{part.by} before{along}"
            case UpToDate(level=level):
                return f"to date in {self.names.write_level(level)}"
            case Runs():
                starts = {
                    "running": "running total", "moving_mean": f"moving average of {part.count}",
                    "moving_sum": f"moving sum of {part.count}", "index": "index", "rank": "rank",
                    "cumulative": "cumulative share",
                }  # fmt: skip
                where = (_AMONG if part.how in ("rank", "cumulative") else _ALONG)[part.along]
                return f"{starts[part.how]} {where}{' in each group' if part.restarts else ''}"
            case Brought():
                return f"{part.how} over {self.names.write_level(part.level)}"

    def condition(self, each: Condition, is_inner: bool = False) -> str:
        """A condition of a slice."""
        match each:
            case FilterGroup(join=join, parts=parts):
                text = f" {'and' if join == 'all' else 'or'} ".join(self.condition(one, True) for one in parts)
                return f"({text})" if is_inner else text
            case MemberFilter():
                return self._member_condition(each)
            case AttributeFilter():
                return self._attribute_condition(each)
            case _:
                return "nothing"

    def _member_condition(self, each: MemberFilter) -> str:
        depths = {len(path) for path in each.members}
        place = (each.dimension, each.hierarchy)
        is_out = each.action == "leave_out"
        _, hierarchy = self.names.vocabulary.hierarchy(place)
        named, name = Named(*place, None), self.names.write_place(place)
        if len(depths) == 1:
            level = hierarchy.levels[min(depths.pop(), len(hierarchy.levels)) - 1]
            named = Named(*place, level)
            name = self.names.write_level(LevelName(dimension=place[0], hierarchy=place[1], level=level))
        if each.members == ((None,),):
            return f"{name} is {'not ' if is_out else ''}null"
        members = [self.names.write_member(named, path) for path in each.members]
        if len(members) == 1:
            return f"{name} {'<>' if is_out else '='} {members[0]}"
        return f"{name} {'not ' if is_out else ''}in ({', '.join(members)})"

    def _attribute_condition(self, each: AttributeFilter) -> str:
        vocabulary = self.names.vocabulary
        dimension = vocabulary.model.dimension(each.dimension)
        hierarchy = next((one for one in dimension.hierarchies if each.attribute in one.levels), None)
        place = (each.dimension, (hierarchy or dimension.hierarchies[0]).name)
        level = LevelName(dimension=place[0], hierarchy=place[1], level=each.attribute)
        name = self.names.write_level(level)
        values = [_key(one) for one in each.values if not hasattr(one, "prompt")]
        is_out = each.action == "leave_out"
        if each.operator == "between":
            return f"{name} {'not ' if is_out else ''}between {values[0]} and {values[1]}"
        if each.operator in ("contains", "begins_with", "ends_with"):
            text = str(each.values[0]).replace("'", "''")
            pattern = {"contains": f"%{text}%", "begins_with": f"{text}%", "ends_with": f"%{text}"}[each.operator]
            return f"{name} {'not ' if is_out else ''}like '{pattern}'"
        return f"{name} {_OPERATORS[each.operator]} {values[0]}"


def _key(value: object) -> str:
    if isinstance(value, int | float) and not isinstance(value, bool):
        return str(value)
    return "'" + str(value).replace("'", "''") + "'"


def aloud(expression: Expression, vocabulary: Vocabulary) -> str:
    """A formula as somebody would say it."""
    return _Speaker(FormulaNames(vocabulary)).said(expression)


@dataclass(frozen=True, slots=True)
class _Speaker:
    names: FormulaNames

    def said(self, part: Expression, is_inner: bool = False) -> str:
        """A part in words. Args: `is_inner` puts what is joined into brackets, so that it is heard as one."""
        match part:
            case NumberOf(digits=digits):
                return digits
            case MeasureOf(measure=measure):
                return self._caption(measure)
            case Arithmetic(operator=operator, left=left, right=right):
                word = {"+": "plus", "-": "less", "*": "times", "/": "per"}[operator]
                if operator == "/" and (isinstance(right, NumberOf) or isinstance(left, NumberOf)):
                    word = "divided by"
                text = f"{self.said(left, True)} {word} {self.said(right, True)}"
                return f"({text})" if is_inner else text
            case Negative(of=of):
                return f"minus {self.said(of, True)}"
            case Comparison(operator=operator, left=left, right=right):
                word = {
                    "=": "is", "<>": "is not", "<": "is less than", "<=": "is at most", ">": "is more than",
                    ">=": "is at least",
                }[operator]  # fmt: skip
                return f"{self.said(left, True)} {word} {self.said(right, True)}"
            case Logic(join=join, of=of):
                text = f" {join} ".join(self.said(each, True) for each in of)
                return f"({text})" if is_inner else text
            case Opposite(of=IsNull(of=of)):
                return f"{self.said(of, True)} is there"
            case Opposite(of=of):
                return f"not {self.said(of, True)}"
            case IsNull(of=of):
                return f"{self.said(of, True)} is empty"
            case Case(branches=branches, otherwise=otherwise):
                parts = [f"{self.said(each.then)} where {self.said(each.when)}" for each in branches]
                parts.append(f"else {self.said(otherwise)}" if otherwise is not None else "else empty")
                return "; ".join(parts)
            case Call(function="coalesce", of=of):
                return ", or where that is empty ".join(self.said(each) for each in of)
            case Call(function="round", of=(value, NumberOf(digits=places))):
                return f"{self.said(value, True)}, rounded to {places} digit{'' if places == '1' else 's'}"
            case Call(function=function, of=of):
                return f"{_SPOKEN.get(function, function)} {' and '.join(self.said(each, True) for each in of)}"
            case Only() | Over() | Before() | UpToDate() | Runs() | Brought():
                return self._clause(part)
            case _:
                assert_never(part)

    def _clause(self, part: Clause) -> str:
        of = self.said(part.of, True)
        if isinstance(part, Only):
            where = " and ".join(self._slice(each) for each in part.conditions)
            return f"{of}, {where}{', whatever the table shows' if part.everywhere else ''}"
        if isinstance(part, Brought):
            word = {"average": "the average", "sum": "the sum", "count": "how many", "least": "the least"}
            level = self._bare(replace(part, of=part.of))
            return f"{word.get(part.how, 'the greatest')} over each {level} of {of}"
        if isinstance(part, UpToDate):
            return f"{of} to date in the {self.names.write_level(part.level).replace(chr(34), '').lower()}"
        return f"{of} {_Writer(self.names).clause(part).replace(chr(34), '')}"

    def _slice(self, each: Condition) -> str:
        text = _Writer(self.names).condition(each)
        is_out = isinstance(each, MemberFilter) and each.action == "leave_out"
        if isinstance(each, MemberFilter) and each.members != ((None,),):
            found = self.names.vocabulary.members(each.dimension, each.hierarchy)
            captions = [member_caption(path, found) for path in each.members]
            return f"{'without' if is_out else 'of'} {' and '.join(captions)}{'' if is_out else ' only'}"
        return f"only where {text.replace(chr(34), '')}"

    def _bare(self, part: Brought) -> str:
        return self.names.write_level(part.level).replace('"', "").lower()

    def _caption(self, measure: str) -> str:
        known = self.names.vocabulary.model.measures
        return next((each.caption for each in known if each.name == measure), measure)


_SPOKEN = {
    "abs": "the size of", "sqrt": "the square root of", "round": "rounded", "least": "the least of",
    "greatest": "the greatest of", "ln": "the logarithm of",
}  # fmt: skip
