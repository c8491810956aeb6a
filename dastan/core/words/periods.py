"""Reads moving periods: "this year so far", "the last 4 quarters", "the months from 3 months ago to this month"."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from dastan.core.model.conditions import Action, PeriodFilter, Unit
from dastan.core.words.names import NameReader
from dastan.core.words.scanner import MissError
from dastan.core.words.terms import UNITS

_SEVERAL: dict[str, Unit] = {f"{words}s": unit for words, unit in UNITS.items()}
_ANY: dict[str, Unit] = UNITS | _SEVERAL
_SAME_PART = "as far as the same part of the last"
_NEWEST = "counted from the newest data"


@dataclass
class PeriodReader:
    """Reads periods. Each method raises MissError."""

    names: NameReader

    def period(self, action: Action) -> PeriodFilter:
        """A period, as it is written exactly or as people and the sentence say it."""
        return self.names.scanner.first_of(lambda: self._exact(action), lambda: self.said(action))

    def _exact(self, action: Action) -> PeriodFilter:
        scan = self.names.scanner
        scan.take("the")
        unit = scan.any_of(_SEVERAL)
        first = int(scan.number())
        scan.take("to")
        last = int(scan.number())
        scan.take("of")
        dimension = self.names.dimension()
        to_date = scan.has("to date")
        return self._made(action, dimension, unit, first, last, to_date, scan.has(_NEWEST))

    def said(self, action: Action) -> PeriodFilter:
        """A period in words; the model's first calendar where the note after it names none."""
        scan = self.names.scanner
        unit, first, last, to_date = scan.longest_of(self._same_part, self._one, self._several, self._span)
        is_newest = scan.has_quietly(f", {_NEWEST}") or scan.has_quietly(_NEWEST)
        return self._made(action, self._calendar(), unit, first, last, to_date, is_newest)

    def _same_part(self) -> tuple[Unit, int, int, bool]:
        """The same part of last year."""
        if not self.names.scanner.has_quietly("the same part of"):
            raise MissError
        unit, first, last, _ = self._one()
        return unit, first, last, True

    def _one(self) -> tuple[Unit, int, int, bool]:
        """This year, or so far; last month; 3 years ago."""
        scan, start = self.names.scanner, self.names.scanner.at
        try:
            count = int(scan.number())
            unit = self._unit(_ANY)
            which = scan.any_of({"ago": -count, "ahead": count})
            return unit, which, which, False
        except MissError:
            scan.at = start
        scan.has_quietly("the")
        which = scan.any_of({"this": 0, "last": -1, "next": 1})
        unit = scan.any_of(UNITS)
        return unit, which, which, self._so_far()

    def _several(self) -> tuple[Unit, int, int, bool]:
        """The last 4 quarters, and this quarter so far; the next 2 weeks; the 500 days up to now."""
        scan = self.names.scanner
        scan.has_quietly("the")
        start = scan.at
        try:
            count = int(scan.number())
            if not scan.has_quietly("days up to now"):
                raise MissError
            return "day", -count, 0, False
        except MissError:
            scan.at = start
        which = scan.any_of({"last": -1, "next": 1})
        count = int(scan.number())
        unit = scan.any_of(_ANY)
        first, last = (-count, -1) if which < 0 else (1, count)
        start = scan.at
        if which < 0 and scan.has_quietly("and this"):
            if self._unit(UNITS) == unit:
                last = 0
            else:
                scan.at = start
        return unit, first, last, scan.has_quietly(_SAME_PART) or self._so_far()

    def _span(self) -> tuple[Unit, int, int, bool]:
        """The months from 3 months ago to this month."""
        scan = self.names.scanner
        scan.take("the")
        unit = self._unit(_SEVERAL)
        if not scan.has_quietly("from"):
            raise MissError
        first = self._offset(unit)
        scan.take("to")
        return unit, first, self._offset(unit), scan.has_quietly(_SAME_PART)

    def _offset(self, unit: Unit) -> int:
        own, first, _, _ = self._one()
        if own != unit:
            raise self.names.scanner.miss()
        return first

    def _unit(self, known: Mapping[str, Unit]) -> Unit:
        """A unit where no word need stand: it is not offered."""
        for each in sorted(known, key=len, reverse=True):
            if self.names.scanner.has_quietly(each):
                return known[each]
        raise MissError

    def _so_far(self) -> bool:
        return self.names.scanner.has_quietly("to date") or self.names.scanner.has("so far")

    def _made(
        self, action: Action, dimension: str, unit: Unit, first: int, last: int, to_date: bool, is_newest: bool
    ) -> PeriodFilter:
        anchor = "newest" if is_newest else "today"
        return PeriodFilter(
            dimension=dimension, unit=unit, first=first, last=last, anchor=anchor, to_date=to_date, action=action  # type: ignore[arg-type]
        )  # fmt: skip

    def _calendar(self) -> str:
        """The calendar that the note names, as after every filter of the sentence; else the first that is made."""
        scan, start = self.names.scanner, self.names.scanner.at
        if scan.has_quietly("("):
            try:
                found = self.names.dimension()
                scan.close_note()
                return found
            except MissError:
                scan.at = start
                raise
        model = self.names.vocabulary.model
        for each in model.dimensions:
            table = model.tables.get(each.table) if each.table is not None else None
            if table is not None and table.calendar is not None:
                return each.name
        times = [each.time for each in model.measures if each.time is not None]
        if not times:
            raise scan.miss()
        return times[0]
