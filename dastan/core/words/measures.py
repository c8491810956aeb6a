"""Reads measures from words: by their own aggregate or another, as a view, and how their numbers are written."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Literal, get_args

from dastan.core.analysis.document import NumberDress, PlacedMeasure
from dastan.core.analysis.dress import SCALE_WORDS, TURNED
from dastan.core.analysis.views import View
from dastan.core.model.conditions import MemberFilter
from dastan.core.model.document import Aggregate
from dastan.core.words.names import NameReader
from dastan.core.words.scanner import MissError
from dastan.core.words.terms import AGGREGATES
from dastan.core.words.views import read_view

_AGGREGATES = {words: name for name, words in AGGREGATES.items()}
_SCALES: dict[str, Literal["thousands", "millions"]] = {words: name for name, words in SCALE_WORDS.items()}


@dataclass
class MeasureReader:
    """Reads measures. Args: `member` reads one member, for a view that is a change on it."""

    names: NameReader
    member: Callable[[], MemberFilter]
    numbers: list[NumberDress] = field(default_factory=list)
    """How the numbers of measures are written, where something is said of it."""
    _named: PlacedMeasure | None = None
    """The measure that was named last: what "its" means."""

    def shown(self) -> PlacedMeasure:
        """A measure as it stands in the table. Raises MissError."""
        scan, placed = self.names.scanner, self.measure()
        scale = next((name for words, name in _SCALES.items() if scan.has_quietly(words)), None)
        is_turned = scan.has_quietly(TURNED)
        if scale is not None or is_turned:
            self.numbers.append(NumberDress(measure=placed, scale=scale or "one", is_turned=is_turned))
        return placed

    def measure(self) -> PlacedMeasure:
        """A measure. Raises MissError."""
        found = self.names.scanner.longest_of(self._plain, self._aggregated, self._viewed, self._its)
        self._named = replace(found, view=None)
        return found

    def _plain(self) -> PlacedMeasure:
        return PlacedMeasure(measure=self.names.measure())

    def _aggregated(self) -> PlacedMeasure:
        scan = self.names.scanner
        percentile, start = None, scan.at
        try:
            percentile = scan.number()
            scan.has("th") or scan.has("st") or scan.has("nd") or scan.has("rd")
        except MissError:
            scan.at = start
        aggregate = scan.first_of(lambda: scan.any_of(_AGGREGATES), lambda: self.names.technical(get_args(Aggregate)))
        name = self.names.measure()
        share = float(percentile) if percentile is not None else None
        return PlacedMeasure(measure=name, aggregate=aggregate, percentile=share)  # type: ignore[arg-type]

    def _viewed(self) -> PlacedMeasure:
        view = self._view()
        self.names.scanner.take("of")
        return replace(self.names.scanner.longest_of(self._plain, self._aggregated), view=view)

    def _its(self) -> PlacedMeasure:
        if self._named is None:
            raise MissError
        if not self.names.scanner.has("its"):
            self.names.scanner.take("their")
        return replace(self._named, view=self._view())

    def _view(self) -> View:
        return read_view(self.names, self.member)
