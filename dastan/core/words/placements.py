"""Reads what stands on an axis from words: a hierarchy and its levels, its limits, its order, and where it stands."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace

from dastan.core.analysis.captions import level_caption
from dastan.core.analysis.document import (
    HeaderPath,
    Limit,
    Order,
    PlacedDimension,
    PlacedMeasure,
    PlacedMember,
    Under,
)
from dastan.core.analysis.sentence import WHERE_OPENED, WITHOUT_RECORDS
from dastan.core.model.members import fold
from dastan.core.model.parts import MemberPath
from dastan.core.words import shapes
from dastan.core.words.names import NameReader
from dastan.core.words.scanner import MissError
from dastan.core.words.vocabulary import Place

_ORDERS = {"natural order": "natural", "name": "caption", "key": "key", "measure": "measure"}


@dataclass
class PlacementReader:
    """Reads placements of the question that `names` has. Args: `measure` reads a measure."""

    names: NameReader
    measure: Callable[[], PlacedMeasure]
    seen: dict[Place, str] = field(default_factory=dict)
    """The finest level that is seen of each hierarchy that was read."""

    def nested(self, outer: Sequence[PlacedDimension] = ()) -> list[PlacedDimension]:
        """Dimensions one inside another. "And" and a comma are as good as "then", but what is no dimension may follow
        a comma too. Args: `outer` are those that stand outside already."""
        scan = self.names.scanner
        found = [self.placed(outer)]
        while True:
            start, seen = scan.at, dict(self.seen)
            if scan.has("then"):
                found.append(self.placed((*outer, *found)))
                continue
            try:
                if not scan.has("and"):
                    scan.take(",")
                placed = self.placed((*outer, *found))
                if scan.has("ordered"):
                    raise MissError  # what follows says how one of them is ordered
                found.append(placed)
            except MissError:
                scan.at, self.seen = start, seen
                return found

    def placed(self, outer: Sequence[PlacedDimension] = ()) -> PlacedDimension:
        scan = self.names.scanner
        dimension, name, level = self.names.placeable()
        own = (dimension, name)
        placed = PlacedDimension(dimension=dimension, hierarchy=name, level=level)
        _, hierarchy = self.names.vocabulary.hierarchy(own)
        if hierarchy.parent_child is not None:
            if scan.has_quietly("from"):
                placed = replace(placed, level=self.names.level(own))
        else:
            placed = self._opened(placed, own, hierarchy.levels)
        while scan.has("("):
            placed = self._with_part(placed, own)
            while scan.has(";"):
                placed = self._with_part(placed, own)
            scan.take(")")
        if outer:
            placed = self._where_it_stands(placed, outer)
        return placed

    def _opened(self, placed: PlacedDimension, own: Place, levels: Sequence[str]) -> PlacedDimension:
        """The placement with the levels that are seen below its first one; those between are passed over."""
        scan, last = self.names.scanner, placed.level
        skipped: list[str] = []
        while scan.has("›") or scan.has_quietly(">"):
            below = self.names.level(own)
            if levels.index(below) <= levels.index(last):
                raise scan.miss()
            skipped += levels[levels.index(last) + 1 : levels.index(below)]
            last = below
        self.seen[own] = last
        return replace(placed, skipped=tuple(skipped))

    def _with_part(self, placed: PlacedDimension, own: Place) -> PlacedDimension:
        """The placement with one more thing said of it."""
        scan = self.names.scanner
        if scan.has("passing over"):
            levels = self._levels(own)
            return replace(placed, skipped=(*placed.skipped, *(each for each in levels if each not in placed.skipped)))
        if scan.has(WITHOUT_RECORDS) or scan.has_quietly("with those without records"):
            return replace(placed, all_members=True)
        if scan.has("subtotals"):
            where = scan.any_of({"before": "before", "after": "after", "none": "none"})
            return replace(placed, totals=where)  # type: ignore[arg-type]
        if scan.has("ordered by"):
            return replace(placed, order=self._exact_order())
        if scan.has("only under"):
            return replace(placed, only_under=self._exact_unders())
        return replace(placed, limits=(*placed.limits, self.limit(lambda: self.names.level(own))))

    def _levels(self, own: Place) -> list[str]:
        found = [self.names.level(own)]
        while self.names.scanner.has("and"):
            found.append(self.names.level(own))
        return found

    def _exact_order(self) -> Order:
        scan = self.names.scanner
        by = scan.any_of(_ORDERS)
        order = Order(by=by, measure=self.measure() if by == "measure" else None)  # type: ignore[arg-type]
        if scan.has("reversed") or scan.has("largest first"):
            order = replace(order, descending=True)
        if scan.has("at"):
            order = replace(order, column=scan.part(shapes.header_path))
        return replace(order, across=scan.has("across all"))

    def _exact_unders(self) -> tuple[Under, ...]:
        scan = self.names.scanner
        found: list[Under] = []
        while True:
            start = scan.at
            try:
                found.append(scan.part(shapes.under))
            except MissError:
                scan.at = start
                return tuple(found)

    def _where_it_stands(self, placed: PlacedDimension, outer: Sequence[PlacedDimension]) -> PlacedDimension:
        """Which headers it breaks down, as the sentence says it: "where opened", "under Tram and 2025 › Bus only"."""
        scan = self.names.scanner
        if scan.has_quietly(WHERE_OPENED):
            return replace(placed, only_under=())
        start = scan.at
        if not scan.has_quietly("under"):
            return placed
        try:
            found = [self._under(outer)]
            while scan.has(",") or scan.has("and"):
                found.append(self._under(outer))
            scan.take("only")
        except MissError:
            scan.at = start
            return placed
        return replace(placed, only_under=tuple(found))

    def _under(self, outer: Sequence[PlacedDimension]) -> Under:
        """Some headers, by the members that stand in them, outermost first."""
        members: list[PlacedMember] = []
        rest = list(outer)
        while True:
            for at, each in enumerate(rest):
                path = self.member_called((each.dimension, each.hierarchy))
                if path is not None:
                    members.append(PlacedMember(dimension=each.dimension, hierarchy=each.hierarchy, path=path))
                    rest = rest[at + 1 :]
                    break
            else:
                raise self.names.scanner.miss()
            if not self.names.scanner.has("›"):
                return Under(members=tuple(members))

    def member_called(self, own: Place) -> MemberPath | None:
        """The member of a hierarchy that is called so, whatever it stands in."""
        return self.names.scanner.name_by(lambda span: self.names.vocabulary.member(own, [span]))

    def limit(self, level_name: Callable[[], str]) -> Limit:
        """The 5 largest lines; the largest 10 % of lines; the largest lines that make 80 %; each by a measure. Or as
        people say it: the top 5 lines, the bottom 10 %."""
        scan = self.names.scanner
        scan.has_quietly("the")
        count, amount = "members", self._number_or_none()
        side = "largest" if scan.has_quietly("top") else "smallest" if scan.has_quietly("bottom") else ""
        side = side or scan.any_of({"largest": "largest", "smallest": "smallest"})
        if amount is None:
            amount = self._number_or_none()
            if amount is not None and scan.has("%"):
                count = "percent_of_members"
                scan.has("of")
            elif amount is None and scan.has("of the"):
                amount = 1  # the largest of the lines
        level = level_name()
        if amount is None:
            scan.take("that make")
            amount, count = scan.number(), "percent_of_measure"
            scan.take("%")
        is_of_all = scan.has("of all")
        if scan.has("in each"):
            self._each_of(level)
        by = self._measure_to_rank_by()
        is_of_all = scan.has("of all") or is_of_all
        if scan.has_quietly("in each"):
            self._each_of(level)
        others = scan.has("with others") or scan.has(", the rest as others")
        per = "whole" if is_of_all else "parent"
        return Limit(level=level, count=count, amount=amount, side=side, by=by, per=per, others=others)  # type: ignore[arg-type]

    def _measure_to_rank_by(self) -> PlacedMeasure:
        """By Boardings; or "of Boardings", as the sentence says it. The only measure of a question needs no mention."""
        scan, measures = self.names.scanner, self.names.question.measures
        if scan.has("of") or scan.has("by"):
            return self.measure()
        if len(measures) != 1:
            raise MissError
        return measures[0]

    def _number_or_none(self) -> int | float | None:
        start = self.names.scanner.at
        try:
            return self.names.scanner.number()
        except MissError:
            self.names.scanner.at = start
            return None

    def _each_of(self, level: str) -> None:
        """The members in each of which a limit holds, as the sentence says them: of a level above its own, or of what
        stands outside. It says no more than "parent" does, and nothing else may be meant."""
        vocabulary, question = self.names.vocabulary, self.names.question
        placed = (*question.rows, *question.columns)
        levels = [(each, vocabulary.hierarchy((each.dimension, each.hierarchy))) for each in placed]
        known: dict[str, str] = {}
        for at, (_, (dimension, hierarchy)) in enumerate(levels):
            own = hierarchy.levels.index(level) if level in hierarchy.levels else len(hierarchy.levels)
            if level in hierarchy.levels or at < len(levels) - 1:
                known |= {fold(level_caption(dimension, each)): each for each in hierarchy.levels[:own]}
        self.names.scanner.name(known, "a level")
        while self.names.scanner.has(", ") or self.names.scanner.has("or"):
            self.names.scanner.name(known, "a level")

    def order(self, across_what: Sequence[PlacedDimension]) -> Order:
        """An order as the sentence says it: "by name reversed", "by Boardings in 2025, largest first".

        Args: `across_what` stands on the other axis.
        """
        scan = self.names.scanner
        told = {"in natural order": "natural", "by name": "caption", "by key": "key"}
        for words, by in told.items():
            if scan.has(words):
                is_reversed = scan.has("reversed")
                return Order(by=by, descending=is_reversed, across=scan.has("across all"))  # type: ignore[arg-type]
        scan.take("by")
        measure = self.measure()
        if measure not in self.names.question.measures:
            raise scan.miss()  # nothing would be ordered by what does not stand in the table
        column = self._header(across_what)
        is_smallest = scan.has(", smallest first") or scan.has("smallest first")
        _ = is_smallest or scan.has(", largest first") or scan.has("largest first")
        across = scan.has("across all")
        return Order(by="measure", measure=measure, column=column, descending=not is_smallest, across=across)

    def _header(self, placed: Sequence[PlacedDimension]) -> HeaderPath:
        """A header of the other axis, "in 2025 › Adult"; that of its grand total where none is named."""
        scan, start = self.names.scanner, self.names.scanner.at
        if not placed or not scan.has_quietly("in"):
            return HeaderPath()
        members: list[MemberPath] = []
        for each in placed:
            path = self.member_called((each.dimension, each.hierarchy))
            if path is None:
                scan.at = start
                return HeaderPath()
            members.append(path)
            if not scan.has("›"):
                break
        return HeaderPath(members=tuple(members))
