"""The oracle's cells: one question to SQLite each, under headers, filters, rights and limits."""

from __future__ import annotations

from fractions import Fraction
from math import ceil

from dastan.core.analysis.document import AxisName, Limit, PlacedDimension, PlacedMeasure
from dastan.core.model.parts import Key, MemberPath
from tests.core.engine import oracle_sql as sql
from tests.core.engine.oracle_conditions import OTHERS, Conditions, Header, dimension, is_others
from tests.core.engine.oracle_sql import COLUMN, LEVELS, RATIOS, REACHED, Value


class Cells(Conditions):
    """The value of any cell, and the members that limits leave."""

    def _parts(self, placed: PlacedMeasure) -> list[str]:
        if placed.measure in RATIOS:
            return [part for each in RATIOS[placed.measure] for part in self._parts(PlacedMeasure(measure=each))]
        return [placed.measure]

    def _value(
        self, placed: PlacedMeasure, row: Header, column: Header, upto: tuple[AxisName, int, int] | None = None
    ) -> Value:
        """A cell: headers, filters, rights, and what limits leave. `upto`: only limits before that place count."""
        if placed.measure in RATIOS:
            above, below = (
                self.value(PlacedMeasure(measure=each), row, column, upto) for each in RATIOS[placed.measure]
            )
            if above is None or below is None or below == 0:
                return None
            return float(Fraction(above) / Fraction(below))
        fact, where, kind, argument, scale = sql.kind_of(placed)
        scope = self.predicate(fact, row, column, upto)
        if scope is None:
            return None
        if kind == "open":
            return self._open(self._filters(fact), scope) or None
        filters = self._filters(fact)
        condition = f"{where} AND {filters} AND {scope}"
        if kind.startswith("balance"):
            period = sql.joined([each for each in _conjuncts(scope) if _is_of_days(each)], "AND", "1")
            return self._balance(kind, condition, period)
        weight = "boardings" if fact == "taps" else "NULL"
        rows = self.query(sql.values_of(fact, argument, condition, weight=weight))
        return self._counted(placed, sql.aggregate(kind, rows, scale), f"{filters} AND {scope}")

    def _counted(self, placed: PlacedMeasure, found: Value, scope: str) -> Value:
        """A value, or zero where records of a scope are there and none fits the condition of what counts them."""
        others = sql.among(placed)
        if found is not None or others is None:
            return found
        fact = sql.facts(sql.kind_of(placed)[0])
        nothing: Value = self.query(f"SELECT MIN(0) FROM {fact} WHERE {others} AND {scope}")[0][0]
        return nothing

    def _balance(self, kind: str, condition: str, period: str) -> Value:
        """Adds up the records of the period's last (first) loaded day, which other filters do not move."""
        in_time = self._filters("fleet", only="calendar", rights=False)
        fleet = sql.facts("fleet")
        days = [
            day
            for (day,) in self.query(
                f"SELECT DISTINCT days.day FROM {fleet} WHERE {in_time} AND {period} AND days.day IS NOT NULL ORDER BY 1"
            )
        ]
        if kind == "balance_mean":
            dated = "days.day IS NOT NULL" if days else "1"
            held = sql.values_of("fleet", "available", f"{condition} AND {dated}")
            total = self.query(f"SELECT SUM(a) FROM ({held})")[0][0]
            return None if total is None else total / max(len(days), 1)
        day = None if not days else days[-1] if kind == "balance_last" else days[0]
        held = sql.values_of("fleet", "available", f"{condition} AND days.day IS {sql.literal(day)}")
        found: int | None = self.query(f"SELECT SUM(a) FROM ({held})")[0][0]
        return found

    def _open(self, filters: str, scope: str) -> int:
        """How many repairs are open on the last day that the calendar's part of headers and filters leaves.

        A predicate that looks at the calendar chooses days; any other chooses records.
        """
        in_time: list[str] = []
        of_records: list[str] = []
        for part in (*_conjuncts(filters), *_conjuncts(scope)):
            (in_time if "days." in part else of_records).append(part)
        last = self.query(
            f"SELECT MAX(days.day) FROM {sql.table_of('calendar')} WHERE {sql.joined(in_time, 'AND', '1')}"
        )[0][0]
        if last is None:
            return 0
        where = sql.joined(of_records, "AND", "1")
        count: int = self.query(
            f"SELECT COUNT(DISTINCT repairs.rowid) FROM {sql.facts('open')} WHERE {where} AND started <= '{last}' "
            f"AND (ended IS NULL OR ended > '{last}')"
        )[0][0]
        return count

    def _limits(self, axis: AxisName) -> list[tuple[int, int, Limit]]:
        """Place, depth and limit, outermost first."""
        found = []
        for place, placed in enumerate(self.document.question.axis(axis)):
            shown = _shown_depths(placed)
            depths = {LEVELS[placed.hierarchy][depth]: depth for depth in shown}
            found += [(place, depths[each.level], each) for each in placed.limits if each.level in depths]
        return sorted(found, key=lambda each: each[:2])

    def _kept(self, axis: AxisName, place: int, depth: int, outer: Header) -> list[MemberPath]:
        """The members that a limit leaves under an outer header; under every one, of a limit over all."""
        limit = next(each for p, d, each in self._limits(axis) if (p, d) == (place, depth))
        placed = self.document.question.axis(axis)[place]
        hierarchy = placed.hierarchy
        outer = outer if limit.per == "parent" else ()
        fact = self._parts(limit.by)[0]
        candidates = []
        for path in self._members_in(axis, place, depth, outer, fact, (axis, place, depth)):
            if limit.per == "parent" and not self._is_allowed(axis, (*outer, (hierarchy, path)), depth - 1):
                continue
            value = self._ranked(axis, limit, (*outer, (hierarchy, path)), (axis, place, depth))
            if value is not None and (limit.count != "percent_of_measure" or value > 0):
                candidates.append((path, value))
        parents = [each for each in _shown_depths(placed) if each < depth]
        by_parent: dict[MemberPath, list[tuple[MemberPath, Fraction]]] = {}
        for path, value in candidates:
            parent = path[: parents[-1] + 1] if parents and limit.per == "parent" else ()
            by_parent.setdefault(parent, []).append((path, value))
        return [path for each in by_parent.values() for path in _first_few(each, limit)]

    def _ranked(self, axis: AxisName, limit: Limit, header: Header, upto: tuple[AxisName, int, int]) -> Fraction | None:
        if limit.per == "whole":
            # Ranked alone, over everything that the limits before leave.
            value = self._alone(axis, header[-1], limit.by, upto)
        else:
            row, column = (header, ()) if axis == "rows" else ((), header)
            value = self.value(limit.by, row, column, upto)
        return None if value is None else Fraction(value)

    def _alone(
        self, axis: AxisName, member: tuple[str, MemberPath], by: PlacedMeasure, upto: tuple[AxisName, int, int]
    ) -> Value:
        fact, where, kind, argument, scale = sql.kind_of(by)
        if dimension(member[0]) not in REACHED[fact]:
            return None
        parts = [where, self._filters(fact), sql.path_predicate(*member)]
        for place, depth, limit in self._limits(axis):
            if (place, depth) < upto[1:] and not limit.others and self._reaches(axis, place, depth, limit, fact):
                parts.append(self._shown_by(axis, place, depth, ()))
        rows = self.query(sql.values_of(fact, argument, " AND ".join(parts), "NULL"))
        return self._counted(by, sql.aggregate(kind, rows, scale), " AND ".join(parts[1:]))

    def _members_in(
        self, axis: AxisName, place: int, depth: int, outer: Header, measure: str, upto: tuple[AxisName, int, int]
    ) -> list[MemberPath]:
        """The members of a level that have records of a measure's fact under an outer header, in natural order."""
        fact, where = sql.asked_by(PlacedMeasure(measure=measure))[-1]
        hierarchy = self.document.question.axis(axis)[place].hierarchy
        scope = self.predicate(fact, outer, (), upto) if axis == "rows" else self.predicate(fact, (), outer, upto)
        if scope is None or dimension(hierarchy) not in REACHED[fact]:
            return []
        condition = f"{where} AND {self._filters(fact)} AND {scope}"
        return sorted(self._distinct(fact, hierarchy, depth, condition), key=lambda path: natural(hierarchy, path))

    def _distinct(self, fact: str, hierarchy: str, depth: int, condition: str) -> set[MemberPath]:
        source = f"FROM {sql.facts(fact)} WHERE {condition}"
        if hierarchy == "picks":
            keys = [*sql.PICKS, None]
            return {
                (each,)
                for each in keys
                if self.query(f"SELECT 1 {source} AND {sql.path_predicate('picks', (each,))} LIMIT 1")
            }
        levels = ", ".join(sql.column(hierarchy, each) for each in LEVELS[hierarchy][: depth + 1])
        return {tuple(row) for row in self.query(f"SELECT DISTINCT {levels} {source}")}

    def _is_allowed(self, axis: AxisName, header: Header, deepest: int = 99) -> bool:
        """Whether every limit leaves a header; of the last place, only limits down to a depth."""
        for place, depth, _ in self._limits(axis):
            if place >= len(header) or (place == len(header) - 1 and depth > deepest):
                continue
            path = header[place][1]
            own = path[1] if is_others(path) else len(path) - 1
            if own < depth or (is_others(path) and own == depth):
                continue
            ancestor = (path[2:] if is_others(path) else path)[: depth + 1]
            if ancestor not in self.kept(axis, place, depth, header[:place]):
                return False
        return True

    def _item(self, axis: AxisName, header: Header, at: int) -> str:
        """Records of the header's member at a place."""
        hierarchy, path = header[at]
        if not is_others(path):
            return sql.path_predicate(hierarchy, path)
        depth, parent = int(path[1]), path[2:]  # type: ignore[arg-type]
        kept = self.kept(axis, at, depth, header[:at])
        hidden = "NOT " + sql.joined([sql.record_predicate(hierarchy, each) for each in kept], "OR", "(0)")
        return f"({sql.path_predicate(hierarchy, parent)} AND {hidden})" if parent else f"({hidden})"

    def _reaches(self, axis: AxisName, place: int, depth: int, limit: Limit, fact: str) -> bool:
        """Whether a limit bears on a fact: what it is ranked in reaches it too."""
        placements = self.document.question.axis(axis)
        within = placements[place : place + 1] if limit.per == "whole" else placements[: place + 1]
        names = {dimension(each.hierarchy) for each in within}
        for upper_place, upper_depth, upper in self._limits(axis):
            if upper_place == place and upper_depth < depth and upper.others and upper.per == "parent":
                names |= {dimension(each.hierarchy) for each in placements[: place + 1]}
        return names <= REACHED[fact]

    def _shown_by(self, axis: AxisName, place: int, depth: int, header: Header) -> str:
        """Records that a limit shows, inside a header that does not go down to it."""
        hierarchy = self.document.question.axis(axis)[place].hierarchy
        limit = next(each for p, d, each in self._limits(axis) if (p, d) == (place, depth))
        if len(header) > place or (len(header) == place and (not header or self._is_edge(header))):
            outers = [header[:place]]
        else:
            outers = [each for each in self.edges(axis, place) if _stands_under(each, header)]
        contexts = outers
        if limit.per == "whole":
            outers = [()]
        parts = []
        for outer in outers:
            inside = [self._item(axis, outer, at) for at in range(len(outer))]
            kept = sql.joined(
                [sql.path_predicate(hierarchy, each) for each in self.kept(axis, place, depth, outer)], "OR", "(0)"
            )
            parts.append(sql.joined([*inside, kept], "AND", "1"))
        for upper_place, upper_depth, upper in self._limits(axis):
            if upper_place == place and upper_depth < depth and upper.others:
                for outer in contexts if upper.per == "parent" else [()]:
                    inside = [self._item(axis, outer, at) for at in range(len(outer))]
                    rest = self.kept(axis, place, upper_depth, outer)
                    hidden = sql.joined([sql.record_predicate(hierarchy, each) for each in rest], "OR", "(0)")
                    parts.append(sql.joined([*inside, f"(NOT {hidden})"], "AND", "1"))
        return sql.joined(parts, "OR", "(0)")

    def _predicate(
        self, fact: str, row: Header, column: Header, upto: tuple[AxisName, int, int] | None = None
    ) -> str | None:
        """Records of a cell as far as its headers and the limits say; None where a header does not reach them."""
        parts = []
        for axis, header in (("rows", row), ("columns", column)):
            if any(dimension(hierarchy) not in REACHED[fact] for hierarchy, _ in header):
                return None
            parts += [self._item(axis, header, at) for at in range(len(header))]  # type: ignore[arg-type]
            for place, depth, limit in self._limits(axis):  # type: ignore[arg-type]
                if upto is not None and (axis != upto[0] or (place, depth) >= upto[1:]):
                    continue
                path = header[place][1] if place < len(header) else ()
                is_above = not is_others(path) and len(path) - 1 < depth
                shows_part = self.document.question.totals_over == "shown" and not limit.others
                if is_above and shows_part and self._reaches(axis, place, depth, limit, fact):  # type: ignore[arg-type]
                    parts.append(self._shown_by(axis, place, depth, header))  # type: ignore[arg-type]
        return " AND ".join(parts) or "1"

    def _edges(self, axis: AxisName, count: int) -> list[Header]:
        """Every header of the first placements under which something of the next one could stand."""
        return [header for header in self._candidates(axis, count) if len(header) == count and self._is_edge(header)]

    def _is_edge(self, header: Header) -> bool:
        hierarchy, path = header[-1]
        return is_others(path) or not self._is_open(hierarchy, path)

    def _candidates(self, axis: AxisName, count: int = 99) -> list[Header]:
        """Every header that could be seen on an axis, whether anything is there or not; the total first."""
        found: list[Header] = [()]
        placements = self.document.question.axis(axis)[:count]

        def walk(outer: Header, place: int, path: MemberPath, depth: int) -> None:
            placed = placements[place]
            hierarchy, levels = placed.hierarchy, LEVELS[placed.hierarchy]
            for at, at_depth, limit in self._limits(axis):
                if (at, at_depth) == (place, depth) and limit.others:
                    rest = (*outer, (hierarchy, (OTHERS, depth, *path[: parent_depth(placed, depth) + 1])))
                    if rest not in found:
                        found.append(rest)
                        below(rest, place + 1)
            for member in sorted(self._all_members(hierarchy, depth), key=lambda each: natural(hierarchy, each)):
                if member[: len(path)] != path:
                    continue
                header = (*outer, (hierarchy, member))
                is_passed = hierarchy == "tour" and member[-1] is None and self._has_keys_below(hierarchy, member)
                is_passed = is_passed or sql.is_on_the_way(hierarchy, member)
                if levels[depth] in placed.skipped or is_passed:
                    walk(outer, place, member, depth + 1)
                    continue
                found.append(header)
                if self._is_open(hierarchy, member):
                    walk(outer, place, member, depth + 1)
                else:
                    below(header, place + 1)

        def below(outer: Header, place: int) -> None:
            if place < len(placements):
                placed = placements[place]
                walk(outer, place, (), LEVELS[placed.hierarchy].index(placed.level))

        below((), 0)
        return found

    def _all_members(self, hierarchy: str, depth: int) -> set[MemberPath]:
        if hierarchy == "picks":
            return {(key,) for key in (*sql.PICKS, None)}
        levels = [sql.column(hierarchy, each) for each in LEVELS[hierarchy][: depth + 1]]
        rows = self.query(f"SELECT DISTINCT {', '.join(levels)} FROM {sql.table_of(dimension(hierarchy))}")
        return {*(tuple(row) for row in rows), (None,) * (depth + 1), *self._of_nothing(hierarchy, depth)}

    def _of_nothing(self, hierarchy: str, depth: int) -> set[MemberPath]:
        """The joint members that hold what belongs nowhere, as they stand at a level."""
        own = [each for each in sql.of_hierarchy(hierarchy) if any(set(path) == {None} for path in each.members)]
        paths = [sql.joint_path(each) for each in own]
        return {(*path, *[None] * (depth + 1 - len(path))) for path in paths if len(path) <= depth + 1}

    def _is_open(self, hierarchy: str, path: MemberPath) -> bool:
        levels = LEVELS[hierarchy]
        if len(path) == len(levels):
            return False
        opening = next((each for each in self.document.openings if each.hierarchy == hierarchy), None)
        if opening is None:
            return False
        wanted = path in opening.open or (levels[len(path) - 1] in opening.levels and path not in opening.closed)
        return wanted and self._has_keys_below(hierarchy, path)

    def _has_keys_below(self, hierarchy: str, path: MemberPath) -> bool:
        table, deeper = sql.table_of(dimension(hierarchy)), LEVELS[hierarchy][len(path) :]
        has = " OR ".join(f"{COLUMN[each]} IS NOT NULL" for each in deeper) or "0"
        return bool(
            self.query(f"SELECT 1 FROM {table} WHERE {sql.path_predicate(hierarchy, path)} AND ({has}) LIMIT 1")
        )


def _stands_under(outer: Header, header: Header) -> bool:
    """Whether an outer header stands under another one, whose last member may be open."""
    for at, (_, path) in enumerate(header):
        own = outer[at][1]
        if own == path:
            continue
        below = own[2:] if is_others(own) else own
        if at < len(header) - 1 or is_others(path) or below[: len(path)] != path:
            return False
    return True


def _shown_depths(placed: PlacedDimension) -> list[int]:
    levels = LEVELS[placed.hierarchy]
    return [each for each in range(levels.index(placed.level), len(levels)) if levels[each] not in placed.skipped]


def parent_depth(placed: PlacedDimension, depth: int) -> int:
    above = [each for each in _shown_depths(placed) if each < depth]
    return above[-1] if above else -1


def _place_of(key: Key) -> tuple[object, ...]:
    return (key is None, isinstance(key, str), key if key is not None else 0)


def natural(hierarchy: str, keys: MemberPath) -> list[tuple[object, ...]]:
    """Keys ascending, blanks last; sets as they are listed."""
    if is_others(keys):
        return [*natural(hierarchy, keys[2:]), (2, 0)] if len(keys) > 2 else [(2, 0)]  # type: ignore[list-item]
    if hierarchy == "picks":
        return [(keys[0] is None, list(sql.PICKS).index(str(keys[0])) if keys[0] is not None else 0)]
    found = [_place_of(key) for key in keys]
    for number, joint in enumerate(sql.of_hierarchy(hierarchy)):
        path = sql.joint_path(joint)
        at = next(place for place, key in enumerate(path) if str(key).startswith("joint:"))
        if len(keys) > at and keys[: len(path)] == path[: len(keys)]:
            # After the last of its members, as they stand at its own level.
            last = max(_place_of(each[at]) for each in sql.THERE[joint.name])
            found[at] = (*last, 1, number)  # type: ignore[assignment]
            if len(keys) > len(path):
                # Below it everything stands as it does where it comes from.
                base = sql.BELOW[joint.name].get(keys, keys)
                found[len(path) :] = [_place_of(key) for key in base[len(path) - 1 :]]
    return found


def _first_few(members: list[tuple[MemberPath, Fraction]], limit: Limit) -> list[MemberPath]:
    """Of members in natural order."""
    ranked = sorted(members, key=lambda each: -each[1] if limit.side == "largest" else each[1])
    if limit.count == "members":
        return [path for path, _ in ranked if ranked.index((path, _)) < limit.amount]
    share = Fraction(str(limit.amount)) / 100
    if limit.count == "percent_of_members":
        return [path for path, _ in ranked[: ceil(len(ranked) * share)]]
    total, so_far, kept = sum(value for _, value in ranked), Fraction(0), []
    for path, value in ranked:
        if so_far >= total * share:
            break
        kept.append(path)
        so_far += value
    return kept


def _is_of_days(predicate: str) -> bool:
    """Whether a predicate looks at the calendar alone."""
    return "days." in predicate and not any(
        f"{each}." in predicate for each in ("lines", "fares", "taps", "depots", "paths")
    )


def _conjuncts(predicate: str) -> list[str]:
    """The parts of a predicate that AND joins at its top."""
    parts, depth, start = [], 0, 0
    for at, letter in enumerate(predicate):
        depth += (letter == "(") - (letter == ")")
        if depth == 0 and predicate.startswith(" AND ", at):
            parts.append(predicate[start:at])
            start = at + 5
    return [*parts, predicate[start:]]
