"""What views of measures come to, worked out cell by cell from single questions to SQLite."""

from __future__ import annotations

import random
from calendar import monthrange
from collections.abc import Callable
from dataclasses import replace
from datetime import date
from decimal import Decimal
from fractions import Fraction

from dastan.core.analysis.document import AXES, Analysis, AxisName, PlacedDimension, PlacedMeasure
from dastan.core.analysis.views import (
    Balance,
    Beside,
    Change,
    CumulativeShare,
    Index,
    Moving,
    Rank,
    RunningTotal,
    Share,
    Step,
    View,
)
from dastan.core.model.conditions import KeyFilter, MemberFilter
from tests.core.engine import oracle_sql as sql
from tests.core.engine.oracle import Oracle, _all
from tests.core.engine.oracle_cells import natural
from tests.core.engine.oracle_conditions import Header, dimension, is_others
from tests.core.engine.oracle_sql import LEVELS, MEASURES, REACHED, Value
from tests.core.engine.random_model import random_rows
from tests.core.star import TODAY

DAYS = (
    "2023-12-31", "2024-01-01", "2024-02-28", "2024-02-29", "2024-03-31", "2024-12-31", "2025-01-01", "2025-02-28",
    "2025-03-31",
)  # fmt: skip
"""Some have a counterpart a year later, one lands with the day before it, and some have none."""
Rows = dict[str, list[dict[str, object]]]


def rows_of(number: int) -> Rows:
    """Random rows whose dates are among `DAYS`."""
    rows = random_rows(number)
    draw = random.Random(number)
    dated = [*DAYS, "2031-01-01", None]
    rows["days"] = [{"day": day, "year": int(day[:4]), "month": int(day[5:7])} for day in draw.sample(DAYS, len(DAYS))]
    for table, column in (("taps", "day"), ("repairs", "started"), ("fleet", "day")):
        for each in rows[table]:
            each[column] = draw.choice(dated)
    return rows


def years_on(day: str, years: int = 1) -> tuple[str, bool]:
    """The counterpart a year or several later, and whether it is the very same day."""
    own = date.fromisoformat(day)
    last = monthrange(own.year + years, own.month)[1]
    return own.replace(year=own.year + years, day=min(own.day, last)).isoformat(), own.day <= last


def next_period(day: str, depth: int, count: int = 1) -> tuple[str, bool]:
    """The day at the same distance from the beginning of the period after, or so many after, at a depth of the
    calendar."""
    length = (4, 7, 10)[depth]
    periods = sorted({each[:length] for each in DAYS})
    at = periods.index(day[:length])
    if at + count >= len(periods):
        return "none", False
    own, after = ([each for each in sorted(DAYS) if each[:length] == periods[place]] for place in (at, at + count))
    wanted = date.fromisoformat(after[0]) + (date.fromisoformat(day) - date.fromisoformat(own[0]))
    landed = min(wanted.isoformat(), after[-1])
    return landed, landed == wanted.isoformat()


def later(rows: Rows, move: Callable[[str], tuple[str, bool]], exact: bool) -> Rows:
    """The rows with every record at the day that it lands on; those without one are gone."""
    found = dict(rows)
    for table, column in (("taps", "day"), ("repairs", "started"), ("fleet", "day")):
        kept = []
        for each in rows[table]:
            day = each[column]
            landed, is_exact = move(str(day)) if day in DAYS else ("none", False)
            if landed in DAYS and (is_exact or not exact):
                kept.append({**each, column: landed})
        found[table] = kept
    return found


class Viewing:
    """What views of measures come to in the cells of one document."""

    def __init__(self, rows: Rows, document: Analysis, roles: tuple[str, ...]) -> None:
        self.rows, self.document, self.roles = rows, document, roles
        shown = document.question.measures
        named = [each.measure for each in shown] + [
            each.view.measure for each in shown if isinstance(each.view, Beside)
        ]
        bare = tuple(PlacedMeasure(measure=each) for each in dict.fromkeys(named))
        self.plain = replace(document, question=replace(document.question, measures=bare))
        self.oracle = self._oracle(rows, self.plain)
        self.expected = self.oracle.answer(self.plain)
        self.known: dict[object, Oracle] = {}

    def _oracle(self, rows: Rows, document: Analysis) -> Oracle:
        found = Oracle(rows, TODAY, self.roles)
        found.answer(replace(document, question=replace(document.question, measures=document.question.measures[:1])))
        found.document = document
        found.answer(document) if rows is self.rows else None
        return found

    def value(self, placed: PlacedMeasure, row: Header, column: Header) -> Value:
        bare = PlacedMeasure(measure=placed.measure)
        own = self.oracle.value(bare, row, column)
        match placed.view:
            case None:
                return own
            case Beside():
                other = self.oracle.value(PlacedMeasure(measure=placed.view.measure), row, column)
                if placed.view.shows == "difference":
                    return None if own is None and other is None else minus(own, other)
                return divided(own, other)
            case Share():
                return divided(own, self._above(placed.view, bare, row, column))
            case Change():
                earlier = self._elsewhere(placed.view, bare, row, column)
                if placed.view.shows == "earlier":
                    return earlier
                if own is None and earlier is None:
                    return None
                difference = minus(own, earlier)
                if placed.view.shows == "difference":
                    return difference if self._is_known(placed.view, bare, row, column) else None
                return divided(difference, None if earlier is None else abs(earlier))
            case Balance():
                return self._balance(placed.view, bare, row, column)
            case _:
                return self._along(placed.view, bare, row, column)

    def _balance(self, view: Balance, bare: PlacedMeasure, row: Header, column: Header) -> Value:
        """What was there at the last day with records before the first day of a cell's time, and what is there since."""
        fact = MEASURES[bare.measure][0]
        at_end = bare if fact == "open" else PlacedMeasure(measure="closing")
        closing = self.oracle.value(at_end, row, column)
        if view.shows == "closing":
            return closing
        day = self._day_before(fact, row, column)
        if day is None:
            return None
        if ("at", day) not in self.known:
            path = (int(day[:4]), int(day[5:7]), day)
            kept = MemberFilter(dimension="calendar", hierarchy="calendar", members=(path,))
            others = [each for each in self.plain.question.filters if self.oracle._dimensions(each) != {"calendar"}]
            question = replace(self.plain.question, filters=(*others, kept))
            self.known["at", day] = self._oracle(self.rows, replace(self.plain, question=question))
        there = self.known["at", day]
        apart = [tuple(each for each in header if each[0] != "calendar") for header in (row, column)]
        opening = there.value(at_end, *apart)
        if view.shows == "opening":
            return opening
        if not (there.value(at_end, (), ()) if fact == "open" else self._has_records_at(there, day)):
            return None
        return None if closing is None and opening is None else minus(closing, opening)

    def _has_records_at(self, there: Oracle, day: str) -> bool:
        where = f"{there._filters('fleet')} AND days.day = '{day}'"
        return bool(there.query(f"SELECT 1 FROM {sql.facts('fleet')} WHERE {where} LIMIT 1"))

    def _day_before(self, fact: str, row: Header, column: Header) -> str | None:
        stands = [path for hierarchy, path in (*row, *column) if hierarchy == "calendar"]
        if len(stands) > 1 or any(None in path or any("joint" in str(key) for key in path) for path in stands):
            return None
        starts = "".join(f"-{key:02}" if len(str(key)) < 4 else f"{key}" for key in stands[0][:2]) if stands else ""
        starts = str(stands[0][2]) if stands and len(stands[0]) == 3 else starts
        first = min((each for each in self._days() if each.startswith(starts)), default=None)
        loaded = "SELECT day FROM days"
        if fact == "fleet":
            loaded = f"SELECT days.day FROM {sql.facts('fleet')} WHERE days.day IS NOT NULL"
        known = [each for (each,) in self.oracle.query(loaded) if first is not None and each < first]
        return max(known, default=None)

    def _above(self, view: Share, bare: PlacedMeasure, row: Header, column: Header) -> Value:
        above = [self._header("rows", row, view), self._header("columns", column, view)]
        if view.of == "level" and not any(
            each.hierarchy == view.level.hierarchy for axis in ("rows", "columns") for each in self._axis(axis)
        ):
            return None
        if view.of == "level":
            owns = [
                any(each.hierarchy == view.level.hierarchy for each in self._axis(axis)) for axis in ("rows", "columns")
            ]
            above = [each if has else own for each, has, own in zip(above, owns, (row, column), strict=True)]
        if any(each is None for each in above):
            return None
        axes = [axis for axis, own, up in zip(("rows", "columns"), (row, column), above, strict=True) if own != up]
        if any(is_others(path) for up in above for _, path in up):
            # The rest of a level stands only where its limit does.
            whole = replace(self.plain, question=replace(self.plain.question, totals_over="scope"))
            return self._oracle(self.rows, whole).value(bare, *above) if self._is_sure(axes) else UNSURE
        return self._without_limits(axes).value(bare, *above)

    def _is_sure(self, axes: list[AxisName]) -> bool:
        """Whether totals over everything in scope say the same on the axis that is not looked up."""
        others = [axis for axis in ("rows", "columns") if axis not in axes]
        has_limits = any(each.limits for axis in others for each in self._axis(axis))
        return not has_limits or self.document.question.totals_over == "scope"

    def _axis(self, axis: AxisName) -> tuple[PlacedDimension, ...]:
        return self.document.question.axis(axis)

    def _header(self, axis: AxisName, own: Header, view: Share) -> Header | None:
        changed = {
            "whole": ("rows", "columns"),
            "row": ("columns",),
            "column": ("rows",),
            "parent": ("rows",),
            "parent_column": ("columns",),
            "level": ("rows", "columns"),
        }
        if axis not in changed[view.of]:
            return own
        if view.of in ("whole", "row", "column"):
            return ()
        if view.of == "level":
            depth = LEVELS[view.level.hierarchy].index(view.level.level)
            for place, (hierarchy, path) in enumerate(own):
                if hierarchy == view.level.hierarchy:
                    rest = is_others(path)
                    keys = path[2:] if rest else path
                    if rest and path[1] <= depth:
                        return None
                    return (*own[:place], (hierarchy, keys[: depth + 1])) if len(keys) > depth else None
            return None
        if not own:
            return None
        hierarchy, path = own[-1]
        shown = [
            depth
            for depth, level in enumerate(LEVELS[hierarchy])
            if depth >= LEVELS[hierarchy].index(self._axis(axis)[len(own) - 1].level)
            and level not in self._axis(axis)[len(own) - 1].skipped
        ]
        depth = path[1] if is_others(path) else len(path) - 1
        keys = path[2:] if is_others(path) else path
        for up in reversed([each for each in shown if each < depth]):
            above = keys[: up + 1]
            is_passed = hierarchy == "tour" and above[-1] is None and self.oracle._has_keys_below(hierarchy, above)
            if not is_passed and not sql.is_on_the_way(hierarchy, above):
                return (*own[:-1], (hierarchy, above))
        return own[:-1]

    def _without_limits(self, axes: list[AxisName]) -> Oracle:
        if not axes:
            return self.oracle
        if tuple(axes) not in self.known:
            question = self.plain.question
            for axis in axes:
                question = question.with_axis(axis, tuple(replace(each, limits=()) for each in question.axis(axis)))
            self.known[tuple(axes)] = self._oracle(self.rows, replace(self.plain, question=question))
        return self.known[tuple(axes)]

    def _instead(
        self, view: Change, bare: PlacedMeasure, row: Header, column: Header
    ) -> tuple[Oracle, Header, Header] | None:
        """The same question for a member in place of all others of its dimension, and the cell's headers there."""
        if any(view.dimension not in REACHED[MEASURES[part][0]] for part in self.oracle._parts(bare)):
            return None
        own = [each for each in (*row, *column) if dimension(each[0]) == view.dimension]
        if not own and any(each.dimension == view.dimension for axis in AXES for each in self._axis(axis)):
            return None
        for hierarchy, path in own:
            if hierarchy != view.hierarchy or is_others(path) or len(path) > len(view.path):
                return None
        if view not in self.known:
            kept = MemberFilter(dimension=view.dimension, hierarchy=view.hierarchy, members=(view.path,))
            others = [each for each in self.plain.question.filters if self.oracle._dimensions(each) != {view.dimension}]
            question = replace(self.plain.question, filters=(*others, kept))
            self.known[view] = self._oracle(self.rows, replace(self.plain, question=question))

        def against(header: Header) -> Header:
            return tuple(
                (name, view.path[: len(path)]) if dimension(name) == view.dimension else (name, path)
                for name, path in header
            )

        return self.known[view], against(row), against(column)

    def _elsewhere(self, view: Change, bare: PlacedMeasure, row: Header, column: Header) -> Value:
        if view.on != "member":
            return self._earlier(view, bare, row, column)
        found = self._instead(view, bare, row, column)
        return None if found is None else found[0].value(bare, found[1], found[2])

    def _earlier(self, view: Change, bare: PlacedMeasure, row: Header, column: Header) -> Value:
        redated = [self._earlier_oracle(view, part, row, column) for part in self.oracle._parts(bare)]
        return redated[0].value(bare, row, column) if redated[0] is not None and all(redated) else None

    def _earlier_oracle(self, view: Change, part: str, row: Header, column: Header) -> Oracle | None:
        stands = [path for hierarchy, path in (*row, *column) if hierarchy == "calendar"]
        if any(path[-1] is None or None in path for path in stands):
            return None
        is_placed = any(each.hierarchy == "calendar" for axis in ("rows", "columns") for each in self._axis(axis))
        by_day = bool(stands) and len(stands[0]) == 3
        count = getattr(view, "count", 1)  # of a formula, which may go back further
        if view.on == "year":
            if not stands and self._reaches_first_years(MEASURES[part][0], count):
                return None
            return self._redated(("year", count, by_day), lambda day: years_on(day, count), by_day)
        depth = len(stands[0]) - 1 if stands else None if is_placed else self._one_period()
        if depth is None:
            return None
        return self._redated((depth, count, by_day), lambda day: next_period(day, depth, count), by_day)

    def _is_known(self, view: Change, bare: PlacedMeasure, row: Header, column: Header) -> bool:
        """Whether any record is of the earlier time, whatever else the cell's headers say."""
        fact, where = sql.asked_by(PlacedMeasure(measure=self.oracle._parts(bare)[0]))[-1]
        if view.on == "member":
            found = self._instead(view, bare, row, column)
            if found is None:
                return False
            redated, row, column = found
        else:
            redated = self._earlier_oracle(view, self.oracle._parts(bare)[0], row, column)
        if redated is None:
            return False
        times = [sql.path_predicate(*each) for each in (*row, *column) if each[0] == "calendar"]
        condition = " AND ".join([where, redated._filters(fact), *times])
        return bool(redated.query(f"SELECT 1 FROM {sql.facts(fact)} WHERE {condition} LIMIT 1"))

    def _reaches_first_years(self, fact: str, years: int) -> bool:
        """Whether days are asked for before which nothing is known of a fact."""
        seen = self.oracle._rights(fact) if self.roles else "1"
        [(first,)] = self.oracle.query(f"SELECT min(days.day) FROM {sql.facts(fact)} WHERE {seen}")
        return first is None or min(self._days(), default="9") < f"{int(first[:4]) + years}"

    def _one_period(self) -> int | None:
        """The depth at which the filters on days leave exactly one period, whole."""
        days = self._days()
        for depth, length in enumerate((4, 7, 10)):
            held = {day[:length] for day in days}
            if len(held) == 1 and days == {day for day in DAYS if day[:length] in held}:
                return depth
        return None

    def _days(self) -> set[str]:
        """The days that the filters on days leave."""
        where = " AND ".join(
            {"keep": "0", "leave_out": "1"}[each.action]
            if isinstance(each, KeyFilter)
            else self.oracle._condition(each, "") or "1"
            for each in self.document.question.filters
            if self.oracle._dimensions(each) == {"calendar"}
        )
        return {day for (day,) in self.oracle.query(f"SELECT day FROM days WHERE {where or '1'}")}

    def _redated(self, key: object, move: Callable[[str], tuple[str, bool]], exact: bool) -> Oracle:
        if key not in self.known:
            self.known[key] = self._oracle(later(self.rows, move, exact), self.plain)
        return self.known[key]

    def _along(self, view: View, bare: PlacedMeasure, row: Header, column: Header) -> Value:
        own = row if view.along == "rows" else column
        if not own:
            alone = self.oracle.value(bare, row, column)
            return alone if isinstance(view, RunningTotal) else None
        standing = _all(self.oracle._branches(view.along, (), 0))
        if self._is_beside(view, own, standing):
            return None
        beside = [
            each
            for each in standing
            if not self._is_beside(view, each, standing)
            and len(each) == len(own)
            and each[:-1] == own[:-1]
            and depth_of(each) == depth_of(own)
            and is_others(each[-1][1]) == is_others(own[-1][1])
        ]
        if view.restarts:
            share = Share(of="parent" if view.along == "rows" else "parent_column")
            beside = [
                each for each in beside if self._header(view.along, each, share) == self._header(view.along, own, share)
            ]
        values = {
            each: self.oracle.value(bare, *((each, column) if view.along == "rows" else (row, each))) for each in beside
        }
        if isinstance(view, Step):
            standing = natural_order(beside)
            here = standing.index(own)
            if not here:
                return None
            before = values[standing[here - 1]]
            if view.shows == "earlier":
                return before
            step = None if values[own] is None and before is None else minus(values[own], before)
            return step if view.shows == "difference" else divided(step, None if before is None else abs(before))
        if isinstance(view, Moving):
            standing = natural_order(beside)
            here = standing.index(own)
            few = [values[each] for each in standing[max(here - view.count + 1, 0) : here + 1]]
            known = [Fraction(each) for each in few if each is not None]
            if here < view.count - 1 or not known:
                return None
            if view.shows == "sum":
                return like(next(each for each in few if each is not None), sum(known))
            return float(sum(known) / len(known))
        if values[own] is None and not isinstance(view, RunningTotal):
            return None
        if isinstance(view, Index):
            first = next(values[each] for each in natural_order(beside) if values[each] is not None)
            return float(100 * Fraction(values[own]) / Fraction(first)) if first else None
        if isinstance(view, CumulativeShare):
            order = natural_order(beside)
            known = {each: Fraction(value) for each, value in values.items() if value is not None}
            before = [
                value
                for each, value in known.items()
                if value > known[own] or (value == known[own] and order.index(each) <= order.index(own))
            ]
            whole = sum(known.values())
            return float(sum(before) / whole) if whole else None
        if isinstance(view, Rank):
            return 1 + sum(value is not None and Fraction(value) > Fraction(values[own]) for value in values.values())
        order = {each: place for place, each in enumerate(natural_order(beside))}
        met = [value for each, value in values.items() if order[each] <= order[own] and value is not None]
        if not met:
            return None
        return float(sum(map(Fraction, met))) if isinstance(met[0], float) else sum(met[1:], met[0])

    def _is_beside(self, view: View, own: Header, standing: list[Header]) -> bool:
        """Whether a header is of a joint member whose records stand in the same sequence without it as well."""
        hierarchy, path = own[-1]
        joint = next((each for each in sql.of_hierarchy(hierarchy) if sql.joint_path(each)[-1] in path), None)
        if joint is None or is_others(path) or (view.restarts and len(path) > len(sql.joint_path(joint))):
            return False
        alike = [each[-1][1] for each in standing if grain(each) == grain(own)]
        table = sql.TABLE_OF[dimension(hierarchy)]
        taken: list[str] = []
        has_nowhere = False
        for path in alike:
            if not any(str(key).startswith("joint:") for key in path):
                taken.append(sql._plain(hierarchy, path))
                has_nowhere = has_nowhere or set(path) == {None}
        for each in sql.of_hierarchy(hierarchy):
            if not any(sql.joint_path(each)[-1] in path for path in alike):
                continue
            holds_nowhere = any(set(path) == {None} for path in each.members)
            text = f"SELECT 1 FROM {table} WHERE {sql.records_of(each)} AND {sql.joined(taken, 'OR', '0')}"
            is_shared = bool(self.oracle.query(text)) or (has_nowhere and holds_nowhere)
            if each == joint:
                return is_shared
            if not is_shared:
                taken.append(sql.records_of(each))
                has_nowhere = has_nowhere or holds_nowhere
        raise AssertionError(own)


def grain(header: Header) -> list[tuple[bool, int]]:
    return [(is_others(path), path[1] if is_others(path) else len(path)) for _, path in header]  # type: ignore[misc]


def like(one: Value, exact: Fraction) -> Value:
    """An exact number of the same kind as another."""
    if isinstance(one, float):
        return float(exact)
    return int(exact) if isinstance(one, int) else Decimal(exact.numerator) / Decimal(exact.denominator)


def natural_order(beside: list[Header]) -> list[Header]:
    return sorted(beside, key=lambda each: natural(*each[-1]))


def depth_of(header: Header) -> int:
    path = header[-1][1]
    return path[1] if is_others(path) else len(path) - 1


def minus(one: Value, other: Value) -> Value:
    if other is None:
        return one
    if one is None:
        return -other
    return float(Fraction(one) - Fraction(other)) if isinstance(one, float) or isinstance(other, float) else one - other


UNSURE = Decimal("1.5e-300")
"""Stands for what the oracle cannot tell."""


def divided(above: Value, below: Value) -> Value:
    if below is UNSURE:
        return UNSURE
    return None if above is None or not below else float(Fraction(above) / Fraction(below))
