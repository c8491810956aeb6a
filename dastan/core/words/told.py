"""Reads conditions on attributes, keys and measures as the sentence says them: "colour “red” or “blue” (line)",
"line left blank", "lines with at least 10 Boardings a month on average"."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from dastan.core.analysis.condition_words import COMPARES
from dastan.core.model.conditions import Action, AttributeFilter, KeyFilter, LevelName, MeasureFilter
from dastan.core.words.names import NameReader
from dastan.core.words.scanner import MissError

_OPERATORS = {words.strip(): operator for operator, words in COMPARES.items() if words}
_TRUTH = {"yes": True, "no": False}


@dataclass
class ToldReader:
    """Reads conditions in the words of the sentence. Each method raises MissError."""

    names: NameReader

    def attribute(self, action: Action) -> AttributeFilter:
        """Of several attributes of one name, that of the dimension which the note names, or the first."""
        scan = self.names.scanner
        start = scan.skip()
        for dimension in self.names.vocabulary.model.dimensions:
            scan.at = start
            try:
                name = scan.name(self.names.vocabulary.attributes_of(dimension.name), "an attribute")
                operator, values = self._compared()
            except MissError:
                continue
            if not self._is_of_another(dimension.name):
                return AttributeFilter(
                    dimension=dimension.name, attribute=name, operator=operator, values=values, action=action  # type: ignore[arg-type]
                )  # fmt: skip
        scan.at = start
        raise MissError

    def key(self, action: Action) -> KeyFilter:
        dimension = self.names.dimension()
        state = self.names.scanner.any_of({"left blank": "left_blank", "not known": "key_unknown"})
        self.names.scanner.pass_brackets()
        return KeyFilter(dimension=dimension, state=state, action=action)  # type: ignore[arg-type]

    def of_measure(self, action: Action) -> MeasureFilter:
        scan = self.names.scanner
        at = [self._level()]
        while scan.has_quietly(",") or scan.has_quietly("and"):
            at.append(self._level())
        scan.take("with")
        operator, values = self._compared()
        if any(isinstance(each, bool) or not isinstance(each, int | float) for each in values):
            raise scan.miss()
        measure = self.names.measure()
        per = self._per()
        scan.pass_brackets()
        return MeasureFilter(
            measure=measure, at=tuple(at), per=per, operator=operator, values=values, action=action  # type: ignore[arg-type]
        )  # fmt: skip

    def _level(self) -> LevelName:
        dimension, hierarchy, level = self.names.level_near()
        return LevelName(dimension=dimension, hierarchy=hierarchy, level=level)

    def _per(self) -> LevelName | None:
        scan, start = self.names.scanner, self.names.scanner.at
        if not (scan.has_quietly("a") or scan.has_quietly("an")):
            return None
        try:
            found = self._level()
            scan.take("on average")
        except MissError:
            scan.at = start
            return None
        return found

    def _compared(self) -> tuple[str, tuple[Any, ...]]:
        """How values are compared and which: "other than A, B or C", "from 2 to 5"; nothing said is equality."""
        scan = self.names.scanner
        if scan.has_quietly("from"):
            first = self._value()
            scan.take("to")
            return "between", (first, self._value())
        words = sorted(_OPERATORS, key=len, reverse=True)
        operator = next((_OPERATORS[each] for each in words if scan.has_quietly(each)), "equal")
        values = [self._value()]
        while True:
            start = scan.at
            try:
                if not scan.has_quietly(","):
                    scan.take("or")
                values.append(self._value())
            except MissError:
                scan.at = start
                return operator, tuple(values)

    def _value(self) -> str | int | float | bool:
        scan = self.names.scanner
        text = scan.quoted()
        if text is not None:
            return text
        truth = next((value for words, value in _TRUTH.items() if scan.has_quietly(words)), None)
        return scan.number() if truth is None else truth

    def _is_of_another(self, dimension: str) -> bool:
        """Whether a note follows that names something else."""
        scan = self.names.scanner
        start = scan.at
        if not scan.has("("):
            return False
        try:
            is_other = self.names.dimension() != dimension
            scan.close_note()
        except MissError:
            is_other = True
        if is_other:
            scan.at = start
        return is_other
