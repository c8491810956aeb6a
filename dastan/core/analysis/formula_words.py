"""A formula as somebody would say it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import assert_never

from dastan.core.analysis.captions import Members, level_caption, listed, member_caption
from dastan.core.analysis.condition_words import condition_words
from dastan.core.analysis.document import Question
from dastan.core.analysis.resolve import find_dimension, find_measure
from dastan.core.analysis.view_words import EARLIER_WORDS, OF_WORDS, SAME_PART, run_words
from dastan.core.analysis.views import calendars_of
from dastan.core.model.conditions import Condition, FilterGroup, LevelName, MemberFilter
from dastan.core.model.document import SemanticModel, with_article
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

_SPOKEN = {
    "abs": "the size of", "sqrt": "the square root of", "round": "rounded", "least": "the least of",
    "greatest": "the greatest of", "ln": "the logarithm of",
}  # fmt: skip
_COMPARED = {
    "=": "is", "<>": "is not", "<": "is less than", "<=": "is at most", ">": "is more than", ">=": "is at least",
}  # fmt: skip
_BROUGHT = {
    "average": "the average", "sum": "the sum", "count": "how many", "least": "the least", "greatest": "the greatest",
}  # fmt: skip


def aloud(expression: Expression, model: SemanticModel, members: Members) -> str:
    """A formula in words. Args: `model` has the measures that it names."""
    return _Speaker(model, members).said(expression)


@dataclass(frozen=True, slots=True)
class _Speaker:
    model: SemanticModel
    members: Members

    def said(self, part: Expression, is_inner: bool = False) -> str:
        """A part in words. Args: `is_inner` puts what is joined into brackets, so that it is heard as one."""
        match part:
            case NumberOf(digits=digits):
                return digits
            case MeasureOf(measure=measure):
                return find_measure(self.model, measure).caption
            case Arithmetic(operator=operator, left=left, right=right):
                word = {"+": "plus", "-": "less", "*": "times", "/": "per"}[operator]
                if operator == "/" and (isinstance(right, NumberOf) or isinstance(left, NumberOf)):
                    word = "divided by"
                text = f"{self.said(left, True)} {word} {self.said(right, True)}"
                return f"({text})" if is_inner else text
            case Negative(of=of):
                return f"minus {self.said(of, True)}"
            case Comparison(operator=operator, left=left, right=right):
                return f"{self.said(left, True)} {_COMPARED[operator]} {self.said(right, True)}"
            case Logic(join=join, of=of):
                text = f" {join} ".join(self.said(each, True) for each in of)
                return f"({text})" if is_inner else text
            case Opposite(of=IsNull(of=of)):
                return f"{self.said(of, True)} is there"
            case Opposite(of=of):
                return f"not {self.said(of, True)}"
            case IsNull(of=of):
                return f"{self.said(of, True)} is empty"
            case StandsAt(level=level, or_below=or_below):
                return f"it stands at {with_article(self._level(level))}{' or below' if or_below else ''}"
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
        match part:
            case Only(conditions=conditions, everywhere=everywhere):
                where = " and ".join(self._slice(each) for each in conditions)
                return f"{of}, {where}{', whatever the table shows' if everywhere else ''}"
            case Over(level=LevelName() as level):
                return f"{of} over the {self._level(level)}"
            case Over(reach="dimension"):
                whole = find_dimension(self.model, part.dimension or "").all_caption
                return f"{of} over {whole[:1].lower()}{whole[1:]}"
            case Over():
                return f"{of} over {OF_WORDS[part.reach]}"  # type: ignore[index]
            case Before(by=by, dimension=dimension, same_part=same_part, count=count):
                is_usual = calendars_of(self.model)[:1] == [dimension]
                along = "" if is_usual else f" along {find_dimension(self.model, dimension).caption}"
                if count > 1:
                    return f"{of} {count} {by}s before{along}"
                return f"{of} in {f'{SAME_PART} ' if same_part else ''}{EARLIER_WORDS[by]}{along}"
            case UpToDate(level=level):
                return f"{of} to date in the {self._level(level)}"
            case Runs():
                return f"{of}, its {run_words(part)}"
            case Brought(how=how, level=level):
                return f"{_BROUGHT[how]} over each {self._level(level)} of {of}"

    def _slice(self, each: Condition) -> str:
        if isinstance(each, FilterGroup):
            text = (" and " if each.join == "all" else " or ").join(self._slice(one) for one in each.parts)
            return f"not ({text})" if each.action == "leave_out" else text
        if isinstance(each, MemberFilter) and each.list is not None:
            caption = condition_words(each, Question(), self.model, self.members).text
            return f"without {caption}" if each.action == "leave_out" else f"of {caption} only"
        if isinstance(each, MemberFilter) and each.members:
            found = self.members(each.dimension, each.hierarchy)
            captions = listed([member_caption(path, found) for path in each.members])
            return f"without {captions}" if each.action == "leave_out" else f"of {captions} only"
        words = condition_words(each, Question(), self.model, self.members)
        return f"only {'without' if each.action == 'leave_out' else 'with'} {words.text}"

    def _level(self, level: LevelName) -> str:
        return level_caption(find_dimension(self.model, level.dimension), level.level).lower()
