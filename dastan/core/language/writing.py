"""Writes a formula as text that reads back as the same."""

from __future__ import annotations

from dataclasses import dataclass
from typing import assert_never

from dastan.core.analysis.view_words import OF_WORDS, run_words
from dastan.core.analysis.views import calendars_of
from dastan.core.language.naming import FormulaNames, Named, NameMissError
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
    StandsAt,
    UpToDate,
)
from dastan.core.words.vocabulary import Vocabulary

_OR, _AND, _NOT, _TEST, _SUM, _PRODUCT, _SIGN, _VALUE = range(8)
"""How tightly things hold together, loosest first."""
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
            case StandsAt(level=level, or_below=or_below):
                return _TEST, f"{'within' if or_below else 'at'} {self.names.write_level(level)}"
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
                if part.count > 1:
                    return f"{part.count} {part.by}s before{along}"
                return f"in the {'same part of the ' if part.same_part else ''}{part.by} before{along}"
            case UpToDate(level=level):
                return f"to date in {self.names.write_level(level)}"
            case Runs():
                return run_words(part).removeprefix("value ")
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
        if each.list is not None:
            return f"{name} {'not ' if is_out else ''}in {self.names.write_list(each.list)}"
        if len(depths) == 1:
            level = hierarchy.levels[min(depths.pop(), len(hierarchy.levels)) - 1]
            named = Named(*place, level)
            name = self.names.write_level(LevelName(dimension=place[0], hierarchy=place[1], level=level))
        if self._are_blanks(each, named):
            return f"{name} is {'not ' if is_out else ''}null"
        members = [self.names.write_member(named, path) for path in each.members]
        if len(members) == 1:
            return f"{name} {'<>' if is_out else '='} {members[0]}"
        return f"{name} {'not ' if is_out else ''}in ({', '.join(members)})"

    def _are_blanks(self, each: MemberFilter, named: Named) -> bool:
        """Whether members are all of their level that are left blank."""
        if any(path[-1] is not None for path in each.members):
            return False
        try:
            return set(each.members) == set(self.names.blanks(named))
        except NameMissError:
            return False

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
