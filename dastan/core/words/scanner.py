"""Reads words from a text, remembering what would have gone on from the furthest place that was reached."""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Mapping
from typing import Any, Literal, TypeVar

from dastan.core.formula.names import unquoted
from dastan.core.model.members import fold

Value = TypeVar("Value")
Expected = Literal["name", "word", "kind"]
"""A name that is known, a fixed word, or a kind of thing, which cannot itself be written."""
LONGEST_NAME = 10
"""Names of more words than this stand in quotes."""
_SPACE = re.compile(r"\s*")
_WORD = re.compile(r"[^\s,;()›“”\"#]+")
_PUNCTUATION = ",;()"
_INSIDE = re.compile(r"[,;()]+")
_QUOTED = re.compile(r"“[^”]*”|\"(\"\"|[^\"])*\"")
_NUMBER = re.compile(r"[-−]?\d{1,3}(,\d{3})+|[-−]?\d+(\.\d+)?")


def _no_constant(text: str) -> object:
    """NaN and Infinity are no JSON, whatever Python's own reader thinks."""
    raise ValueError(text)


_JSON = json.JSONDecoder(parse_constant=_no_constant)


def _in_quotes(text: str) -> str:
    return unquoted(text) if text[0] == '"' else text[1:-1]


class MissError(Exception):
    """What was tried does not stand here; something else may."""


class Scanner:
    """A place in a text. Every `take` either goes on behind what it found, or raises MissError and stays."""

    def __init__(self, text: str) -> None:
        self.text = text
        self.at = 0
        self.furthest = 0
        self.expected: dict[str, Expected] = {}
        """What could stand at the furthest place, each with what it is."""

    def skip(self) -> int:
        """Goes on behind white space."""
        found = _SPACE.match(self.text, self.at)
        self.at = found.end() if found else self.at
        return self.at

    def is_done(self) -> bool:
        return self.skip() == len(self.text)

    def miss(self, *expected: str, are: Expected = "name") -> MissError:
        """Notes what was expected here, for telling it if this is as far as the text can be read."""
        if self.at > self.furthest:
            self.furthest, self.expected = self.at, {}
        if self.at == self.furthest:
            self.expected |= dict.fromkeys(expected, are)
        return MissError()

    def take(self, words: str) -> None:
        """Some fixed words or a sign, whatever their case."""
        end = self._end_of(words)
        if end is None:
            raise self.miss(words, are="word")
        self.at = end

    def has(self, words: str) -> bool:
        """Takes the words if they stand here."""
        try:
            self.take(words)
        except MissError:
            return False
        return True

    def has_quietly(self, words: str) -> bool:
        """As `has`, for another way to say what is offered already: it is understood, and not offered."""
        end = self._end_of(words)
        self.at = self.at if end is None else end
        return end is not None

    def _end_of(self, words: str) -> int | None:
        """Where some fixed words end that stand here; None where they do not."""
        at = self.skip()
        for word in words.split():
            found = _SPACE.match(self.text, at)
            at = found.end() if found else at
            if self.text[at : at + len(word)].casefold() != word:
                return None
            at += len(word)
        goes_on = words[-1].isalnum() and at < len(self.text) and (self.text[at].isalnum() or self.text[at] == "_")
        return None if goes_on else at

    def name(self, known: Mapping[str, Value], kind: str) -> Value:
        """The thing with the longest name that stands here. Args: `kind` tells what is missed where there is none."""
        found = self.name_by(lambda span: known.get(fold(span)))
        if found is None:
            raise self.miss(*known) if known else self.miss(kind, are="kind")
        return found

    def name_by(self, find: Callable[[str], Value | None]) -> Value | None:
        """What `find` knows of the longest name that stands here; None, without going on, where it knows none."""
        self.skip()
        quoted = _QUOTED.match(self.text, self.at)
        if quoted:
            value = find(_in_quotes(quoted.group()))
            if value is not None:
                self.at = quoted.end()
            return value
        ends: list[int] = []
        at, words = self.at, 0
        while words < LONGEST_NAME and (
            found := _WORD.match(self.text, at) or (_INSIDE.match(self.text, at) if words else None)
        ):
            # A name may have a comma or brackets in it: what is known by the longer name is meant.
            ends.append(found.end())
            words += found.group()[-1] not in _PUNCTUATION
            space = _SPACE.match(self.text, found.end())
            at = space.end() if space else found.end()
        for end in reversed(ends):
            value = find(self.text[self.at : end])
            if value is not None:
                self.at = end
                return value
        return None

    def technical(self) -> str:
        """A technical name: in quotes like any other, or behind a `#` where something else is called so."""
        self.skip()
        found = _QUOTED.match(self.text, self.at + self.text.startswith("#", self.at))
        if not found:
            raise self.miss()
        self.at = found.end()
        return _in_quotes(found.group())

    def quoted(self) -> str | None:
        """A text in quotes; None, without going on, where none stands here."""
        self.skip()
        found = _QUOTED.match(self.text, self.at)
        if not found:
            return None
        self.at = found.end()
        return _in_quotes(found.group())

    def close_note(self) -> None:
        """The end of a note in brackets, and what else it says behind a semicolon."""
        end = self._closing(1) if self.has_quietly(";") else None
        if end is not None:
            self.at = end
        else:
            self.take(")")

    def pass_brackets(self) -> None:
        """Goes on behind a note in brackets, whatever it says, where one stands here."""
        start = self.at
        end = self._closing(0) if self.skip() < len(self.text) and self.text[self.at] == "(" else None
        self.at = start if end is None else end

    def _closing(self, depth: int) -> int | None:
        """The place behind the bracket that closes so many, and those that open from here on."""
        for at in range(self.at, len(self.text)):
            depth += {"(": 1, ")": -1}.get(self.text[at], 0)
            if not depth:
                return at + 1
        return None

    def json(self, mark: str = "") -> object:
        """A JSON value, behind a mark where there is one."""
        self.skip()
        start = self.at
        if mark:
            self.take(mark)
        try:
            value, end = _JSON.raw_decode(self.text, self.skip())
        except ValueError:
            self.at = start
            raise self.miss() from None
        self.at = end
        return value

    def part(self, shape: Callable[[Any], Value]) -> Value:
        """What a JSON value behind a `#` means. Args: `shape` makes it, and raises where the value does not fit."""
        start = self.at
        raw = self.json("#")
        try:
            return shape(raw)
        except (TypeError, ValueError, KeyError, AttributeError):
            self.at = start
            raise self.miss() from None

    def number(self) -> int | float:
        """A number in digits; thousands may have commas."""
        self.skip()
        found = _NUMBER.match(self.text, self.at)
        if not found:
            raise self.miss("a number", are="kind")
        self.at = found.end()
        digits = found.group(0).replace(",", "").replace("−", "-")
        return float(digits) if "." in digits else int(digits)

    def first_of(self, *choices: Callable[[], Value]) -> Value:
        """The first of several that stands here."""
        start = self.at
        for each in choices:
            try:
                return each()
            except MissError:
                self.at = start
        raise MissError

    def longest_of(self, *choices: Callable[[], Value]) -> Value:
        """Of several that stand here, the one that goes furthest; the first of equal ones."""
        start = self.at
        best: tuple[int, Value] | None = None
        for each in choices:
            self.at = start
            try:
                found = each()
            except MissError:
                continue
            if best is None or self.at > best[0]:
                best = (self.at, found)
        self.at = start
        if best is None:
            raise MissError
        self.at = best[0]
        return best[1]

    def any_of(self, words: Mapping[str, Value]) -> Value:
        """The value of the longest of several fixed words that stands here."""
        for each in sorted(words, key=len, reverse=True):
            if self.has(each):
                return words[each]
        raise MissError
