"""An independent answer to an analysis: one question to SQLite for each cell, sharing no code with the engine.

A header is a list of members, one for each placement, outermost first: `(hierarchy, path)`, or for the rest that
a limit leaves `(hierarchy, ("others", depth, *parent))`.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from fractions import Fraction
from functools import cache
from math import ceil

from dastan.core.analysis.document import Analysis, AxisName, Limit, Order, PlacedDimension, PlacedMeasure
from dastan.core.model.conditions import (
    AttributeFilter,
    Condition,
    FilterGroup,
    KeyFilter,
    LevelName,
    MeasureFilter,
    MemberFilter,
    PeriodFilter,
    PromptRef,
    ReadyFilter,
)
from dastan.core.model.parts import Key, MemberPath
from tests.core.engine import oracle_sql as sql
from tests.core.engine.oracle_sql import COLUMN, DIMENSION_OF, LEVELS, MEASURES, RATIOS, REACHED, Value

Header = tuple[tuple[str, MemberPath], ...]
AXES: tuple[AxisName, AxisName] = ("rows", "columns")
OTHERS = "others"


@dataclass(frozen=True)
class Expected:
    """The headers in reading order, and the value of each cell by (row, column, measure's name)."""

    rows: list[Header]
    columns: list[Header]
    cells: dict[tuple[Header, Header, str], Value]


def dimension(hierarchy: str) -> str:
    return DIMENSION_OF.get(hierarchy, hierarchy)


def is_others(path: MemberPath) -> bool:
    return bool(path) and path[0] == OTHERS


def name_of(placed: PlacedMeasure) -> str:
    return placed.measure if placed.aggregate is None else f"{placed.measure}:{placed.aggregate}"


class Oracle:
    """Answers analyses over some rows, for one reader."""

    def __init__(self, tables: dict[str, list[dict[str, object]]], today: date, roles: tuple[str, ...] = ()) -> None:
        self.connection = sql.database(tables)
        self.today = today
        self.roles = roles
        self.query = cache(self._query)

    def answer(self, document: Analysis) -> Expected:
        self.document = document
        self.facts = list(
            dict.fromkeys(MEASURES[part][:2] for each in document.question.measures for part in self._parts(each))
        )
        self.has_open = any(fact == "open" for fact, _ in self.facts)
        self.plain = [each for each in document.question.filters if not _is_measured(each)]
        self.kept = cache(self._kept)
        self.predicate = cache(self._predicate)
        self.value = cache(self._value)
        self.has_records = cache(self._has_records)
        self.edges = cache(self._edges)
        rows, columns = (self._arranged(axis) for axis in AXES)
        cells = {}
        for row, row_has_figures in rows:
            for column, _ in columns:
                for each in document.question.measures:
                    value = self.value(each, row, column) if row_has_figures else None
                    cells[row, column, name_of(each)] = value
        return Expected([row for row, _ in rows], [column for column, _ in columns], cells)

    # -- what is asked of SQLite ------------------------------------------------------------------------------

    def _query(self, text: str) -> list[tuple]:  # type: ignore[type-arg]
        return self.connection.execute(text).fetchall()

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
        rows = self.query(f"SELECT {argument}, days.day, {weight} FROM {sql.FACTS[fact]} WHERE {condition}")
        return sql.aggregate(kind, rows, scale)

    def _balance(self, kind: str, condition: str, period: str) -> Value:
        """Adds up the records of the period's last (first) loaded day, which other filters do not move."""
        in_time = self._filters("fleet", only="calendar", rights=False)
        fleet = sql.FACTS["fleet"]
        days = [
            day
            for (day,) in self.query(
                f"SELECT DISTINCT days.day FROM {fleet} WHERE {in_time} AND {period} AND days.day IS NOT NULL ORDER BY 1"
            )
        ]
        if kind == "balance_mean":
            dated = "days.day IS NOT NULL" if days else "1"
            total = self.query(f"SELECT SUM(available) FROM {fleet} WHERE {condition} AND {dated}")[0][0]
            return None if total is None else total / max(len(days), 1)
        day = None if not days else days[-1] if kind == "balance_last" else days[0]
        found: int | None = self.query(
            f"SELECT SUM(available) FROM {fleet} WHERE {condition} AND days.day IS {sql.literal(day)}"
        )[0][0]
        return found

    def _open(self, filters: str, scope: str) -> int:
        """How many repairs are open on the last day that the calendar's part of headers and filters leaves.

        A predicate that looks at the calendar chooses days; any other chooses records.
        """
        in_time, of_records = [], []
        for part in (*_conjuncts(filters), *_conjuncts(scope)):
            (in_time if "days." in part else of_records).append(part)
        last = self.query(f"SELECT MAX(days.day) FROM days WHERE {sql.joined(in_time, 'AND', '1')}")[0][0]
        if last is None:
            return 0
        where = sql.joined(of_records, "AND", "1")
        count: int = self.query(
            f"SELECT COUNT(*) FROM {sql.FACTS['open']} WHERE {where} AND started <= '{last}' "
            f"AND (ended IS NULL OR ended > '{last}')"
        )[0][0]
        return count

    # -- filters ----------------------------------------------------------------------------------------------

    def _filters(self, fact: str, only: str = "", rights: bool = True, measured: bool = True) -> str:
        """The filters that reach a fact, and the reader's rights; the others leave it alone."""
        parts = []
        for each in self.document.question.filters if measured else self.plain:
            dimensions = self._dimensions(each)
            if dimensions <= REACHED[fact] and (not only or dimensions == {only}):
                found = self._condition(each, fact)
                if found is not None:
                    parts.append(found)
        if rights and self.roles:
            allowed = []
            for role in self.roles:
                name, condition, elsewhere = sql.ROLES[role]
                if name in REACHED[fact]:
                    allowed.append(f"({condition})")
                elif elsewhere == "everything":
                    allowed.append("(1)")
            parts.append(sql.joined(allowed, "OR", "(0)"))
        return " AND ".join(parts) or "1"

    def _dimensions(self, condition: Condition) -> set[str]:
        match condition:
            case FilterGroup(parts=parts):
                return {name for each in parts for name in self._dimensions(each)}
            case MeasureFilter(at=at):
                return {each.dimension for each in at}
            case ReadyFilter(name=name):
                return sql.FILTER_DIMENSIONS[name]
            case _:
                return {condition.dimension}  # type: ignore[union-attr]

    def _condition(self, condition: Condition, fact: str) -> str | None:
        found = self._kept_by(condition, fact)
        if found is not None and condition.action == "leave_out":
            return f"(NOT {found})"
        return found

    def _kept_by(self, condition: Condition, fact: str) -> str | None:
        match condition:
            case MemberFilter(hierarchy=hierarchy, members=members, level=level):
                below = sql.joined(
                    [sql.path_predicate(hierarchy, each) for each in members], "OR", "1" if level else "(0)"
                )
                return f"({below} AND {COLUMN[level]} IS NOT NULL)" if level else below
            case AttributeFilter(attribute=attribute, operator=operator, values=values):
                filled = [key for each in values for key in self._answered(each)]
                return sql.compared(COLUMN[attribute], operator, filled)
            case PeriodFilter():
                anchor = self.today if condition.anchor == "today" else self._newest()
                days = [day for (day,) in self.query("SELECT day FROM days")]
                found = (
                    []
                    if anchor is None
                    else sql.days_in_period(
                        condition.unit, condition.first, condition.last, condition.to_date, anchor, days
                    )
                )
                return f"(days.day IS NOT NULL AND days.day IN ({', '.join(map(sql.literal, found))}))"
            case KeyFilter(dimension=name, state=state):
                pointer, key = sql.POINTER[fact][name], sql.KEY_OF[name]
                if fact == "open" and name == "calendar":
                    return "(days.day IS NULL)"  # no day belongs nowhere, and the calendar never chooses records
                return f"({pointer} IS NULL)" if state == "left_blank" else f"({pointer} IS NOT NULL AND {key} IS NULL)"
            case MeasureFilter():
                return self._fulfilling(condition)
            case ReadyFilter(name="busy"):
                level = LevelName(dimension="line", hierarchy="line", level="team")
                return self._fulfilling(MeasureFilter(measure="taps", at=(level,), operator="more", values=(2.37,)))
            case ReadyFilter(name=name):
                return f"({sql.FILTERS[name]})"
            case FilterGroup(join=join, parts=parts):
                texts = [text for each in parts if (text := self._condition(each, fact)) is not None]
                return sql.joined(texts, "AND" if join == "all" else "OR", "1") if texts else None

    def _answered(self, value: Key | PromptRef) -> tuple[Key, ...]:
        if not isinstance(value, PromptRef):
            return (value,)
        given = [each.values for each in self.document.question.answers if each.prompt == value.prompt]
        return given[0] if given else (1,)

    def _newest(self) -> date | None:
        found = []
        for fact, _ in self.facts:
            table = sql.FACTS[fact].split()[0]
            found.append(self.query(f"SELECT MAX({sql.POINTER[fact]['calendar']}) FROM {table}")[0][0])
        latest = max((each for each in found if each is not None), default=None)
        return date.fromisoformat(latest) if latest else None

    def _fulfilling(self, condition: MeasureFilter) -> str:
        """The members at the condition's grain whose value, under all other filters, fulfils it."""
        fact, where, kind, argument, scale = MEASURES[condition.measure]
        filters = self._filters(fact, measured=False)
        at = [(each.hierarchy, LEVELS[each.hierarchy].index(each.level) + 1) for each in condition.at]
        source = f"FROM {sql.FACTS[fact]} WHERE {where} AND {filters}"
        kept = []
        for group in self._groups(at, source):
            scope = " AND ".join(sql.path_predicate(*each) for each in group)
            values = []
            inner = [()]
            if condition.per is not None:
                depth = LEVELS[condition.per.hierarchy].index(condition.per.level) + 1
                inner = self._groups([(condition.per.hierarchy, depth)], f"{source} AND {scope}")
            for each in inner:
                more = " AND ".join(sql.path_predicate(*one) for one in each) or "1"
                rows = self.query(f"SELECT {argument}, NULL, NULL {source} AND {scope} AND {more}")
                value = sql.aggregate(kind, rows, scale)
                if value is not None:
                    values.append(Fraction(value))
            if values and _fulfils(sum(values) / len(values), condition.operator, condition.values):
                kept.append(f"({scope})")
        return sql.joined(kept, "OR", "(0)")

    def _groups(self, at: list[tuple[str, int]], source: str) -> list[Header]:
        """The combinations of members that have records."""
        columns = [COLUMN[level] for hierarchy, depth in at for level in LEVELS[hierarchy][:depth]]
        found = []
        for row in self.query(f"SELECT DISTINCT {', '.join(columns)} {source}"):
            keys = list(row)
            found.append(tuple((hierarchy, tuple(keys.pop(0) for _ in range(depth))) for hierarchy, depth in at))
        return found

    # -- limits -----------------------------------------------------------------------------------------------

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
        rows = self.query(f"SELECT {argument}, NULL, NULL FROM {sql.FACTS[fact]} WHERE {' AND '.join(parts)}")
        return sql.aggregate(kind, rows, scale)

    def _members_in(
        self, axis: AxisName, place: int, depth: int, outer: Header, measure: str, upto: tuple[AxisName, int, int]
    ) -> list[MemberPath]:
        """The members of a level that have records of a measure's fact under an outer header, in natural order."""
        fact, where = MEASURES[measure][:2]
        hierarchy = self.document.question.axis(axis)[place].hierarchy
        scope = self.predicate(fact, outer, (), upto) if axis == "rows" else self.predicate(fact, (), outer, upto)
        if scope is None or dimension(hierarchy) not in REACHED[fact]:
            return []
        condition = f"{where} AND {self._filters(fact)} AND {scope}"
        return sorted(self._distinct(fact, hierarchy, depth, condition), key=lambda path: _natural(hierarchy, path))

    def _distinct(self, fact: str, hierarchy: str, depth: int, condition: str) -> set[MemberPath]:
        source = f"FROM {sql.FACTS[fact]} WHERE {condition}"
        if hierarchy == "picks":
            keys = [*sql.PICKS, None]
            return {
                (each,)
                for each in keys
                if self.query(f"SELECT 1 {source} AND {sql.path_predicate('picks', (each,))} LIMIT 1")
            }
        levels = ", ".join(COLUMN[each] for each in LEVELS[hierarchy][: depth + 1])
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
        hidden = "NOT " + sql.joined([sql.path_predicate(hierarchy, each) for each in kept], "OR", "(0)")
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
                    hidden = sql.joined([sql.path_predicate(hierarchy, each) for each in rest], "OR", "(0)")
                    parts.append(sql.joined([*inside, f"(NOT {hidden})"], "AND", "1"))
        return sql.joined(parts, "OR", "(0)")

    def _edges(self, axis: AxisName, count: int) -> list[Header]:
        """Every header of the first placements under which something of the next one could stand."""
        return [header for header in self._candidates(axis, count) if len(header) == count and self._is_edge(header)]

    def _is_edge(self, header: Header) -> bool:
        hierarchy, path = header[-1]
        return is_others(path) or not self._is_open(hierarchy, path)

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

    # -- headers ----------------------------------------------------------------------------------------------

    def _arranged(self, axis: AxisName) -> list[tuple[Header, bool]]:
        """The headers in reading order, each with whether it has figures."""
        question = self.document.question
        placed = question.axis(axis)
        tree = self._branches(axis, (), 0)
        if placed and placed[-1].order.across:
            natural = self._in_order(axis, tree, Order())
            body = self._across(axis, [each for each in _leaves(natural) if len(each) == len(placed)])
        else:
            body = self._read(axis, tree)
        grand = question.row_total if axis == "rows" else question.column_total
        if grand == "none" and placed:
            return body
        return [((), True), *body] if grand == "before" else [*body, ((), True)]

    def _read(self, axis: AxisName, tree: list[Node]) -> list[tuple[Header, bool]]:
        found: list[tuple[Header, bool]] = []
        for node in self._sorted(axis, tree, None):
            inner = self._read(axis, node.below)
            header = node.header
            totals = self.document.question.axis(axis)[len(header) - 1].totals
            totals = totals or ("before" if axis == "rows" else "after")
            if not inner:
                found.append((header, True))
            elif totals == "none":
                found += [(header, False), *inner] if axis == "rows" else inner
            else:
                found += [(header, True), *inner] if totals == "before" else [*inner, (header, True)]
        return found

    def _in_order(self, axis: AxisName, tree: list[Node], order: Order) -> list[Node]:
        """The whole tree with one order at every level, passed over members gone."""
        nodes = self._sorted(axis, tree, order)
        return [Node(each.header, self._in_order(axis, each.below, order)) for each in nodes]

    def _branches(self, axis: AxisName, outer: Header, place: int) -> list[Node]:
        placed = self.document.question.axis(axis)
        if place == len(placed):
            return []
        return self._children(axis, outer, place, (), LEVELS[placed[place].hierarchy].index(placed[place].level))

    def _children(self, axis: AxisName, outer: Header, place: int, path: MemberPath, depth: int) -> list[Node]:
        """What stands below a path, in no order: members, the rest, and passed over members with what they hold."""
        placed = self.document.question.axis(axis)[place]
        hierarchy, levels = placed.hierarchy, LEVELS[placed.hierarchy]
        paths = [path]
        while levels[depth] in placed.skipped:
            paths = [each for one in paths for each in self._members(axis, outer, place, one, depth)]
            depth += 1
        found: list[Node] = []
        for member in [each for one in paths for each in self._members(axis, outer, place, one, depth)]:
            header = (*outer, (hierarchy, member))
            if hierarchy == "tour" and member[-1] is None and self._has_keys_below(hierarchy, member):
                found.append(Node(header, self._children(axis, outer, place, member, depth + 1), True))
                continue
            if not self._is_allowed(axis, header):
                continue
            if self._is_open(hierarchy, member):
                inner = self._children(axis, outer, place, member, depth + 1)
            else:
                inner = self._branches(axis, header, place + 1)
            # What is below an open member brings it in. What is broken down has to stand by itself, or by records.
            holds = _has_records(inner) or (self._is_open(hierarchy, member) and _has_any(inner))
            is_real = self._is_real(axis, header) or _has_records(inner)
            if is_real or holds or self._is_forced(placed, member):
                found.append(Node(header, inner, has_records=is_real))
        if any((at, at_depth) == (place, depth) and limit.others for at, at_depth, limit in self._limits(axis)):
            rest = (*outer, (hierarchy, (OTHERS, depth, *path)))
            inner = self._branches(axis, rest, place + 1)
            if self._is_allowed(axis, rest) and self._is_real(axis, rest):
                found.append(Node(rest, inner, has_records=True))
        return found

    def _sorted(self, axis: AxisName, nodes: list[Node], order: Order | None) -> list[Node]:
        """Siblings in the order of their placement, passed over ones replaced by what they hold."""
        if not nodes:
            return []
        placed = self.document.question.axis(axis)[len(nodes[0].header) - 1]
        order = order or placed.order
        nodes = sorted(nodes, key=lambda each: _natural(placed.hierarchy, each.header[-1][1]))
        rest = [each for each in nodes if is_others(each.header[-1][1])]
        own = [each for each in nodes if not is_others(each.header[-1][1])]
        if order.by != "natural" or order.descending:
            members = [each for each in own if not each.is_passed]
            ranked = [members[at] for at in self._ranked_headers(axis, order, [each.header for each in members])]
            if order.by == "measure" and self._by_value(axis, order):
                own = [*ranked, *(each for each in own if each.is_passed)]
            elif order.by != "measure":
                known = [each for each in ranked if each.header[-1][1][-1] is not None]
                own = [*known, *(each for each in own if each.header[-1][1][-1] is None)]
        flat = [
            inner for each in own for inner in (self._sorted(axis, each.below, order) if each.is_passed else [each])
        ]
        return [*flat, *rest]

    def _by_value(self, axis: AxisName, order: Order) -> bool:
        return self._column(axis, order) is not None and order.measure in self.document.question.measures

    def _ranked_headers(self, axis: AxisName, order: Order, headers: list[Header]) -> list[int]:
        """Places of the headers, given in natural order, as an order puts them."""
        places = list(range(len(headers)))
        keys = [header[-1][1][-1] for header in headers]
        if order.by == "measure":
            across = self._column(axis, order)
            if across is None or order.measure not in self.document.question.measures:
                return places
            values = []
            for header in headers:
                row, column = (header, across) if axis == "rows" else (across, header)
                value = self.value(order.measure, row, column)
                values.append(None if value is None else Fraction(value))
            sign = -1 if order.descending else 1
            return sorted(places, key=lambda at: (values[at] is None, sign * (values[at] or 0)))
        if order.by == "natural" and not order.descending:
            return places
        known = [at for at in places if keys[at] is not None]
        if order.by == "caption":
            captions = {each: sql.captions(each) for each in set(keys)}
            known.sort(key=lambda at: captions[keys[at]].casefold(), reverse=order.descending)
        elif order.by == "key":
            known.sort(key=lambda at: (isinstance(keys[at], str), keys[at]), reverse=order.descending)
        elif order.descending:
            known.reverse()
        return [*known, *(at for at in places if keys[at] is None)]

    def _across(self, axis: AxisName, headers: list[Header]) -> list[tuple[Header, bool]]:
        order = self.document.question.axis(axis)[-1].order
        members = [each for each in headers if not is_others(each[-1][1])]
        rest = [each for each in headers if is_others(each[-1][1])]
        if order.by != "natural" or order.descending:
            members = [members[at] for at in self._ranked_headers(axis, order, members)]
        if order.by == "measure":
            rest = [rest[at] for at in self._ranked_headers(axis, order, rest)]
        return [(each, True) for each in (*members, *rest)]

    def _column(self, axis: AxisName, order: Order) -> Header | None:
        """The header of the other axis at which an order looks, where it stands there."""
        other: AxisName = "columns" if axis == "rows" else "rows"
        placed = self.document.question.axis(other)
        if len(order.column.members) > len(placed):
            return None
        header = tuple((each.hierarchy, path) for each, path in zip(placed, order.column.members, strict=False))
        if not header:
            return ()
        return header if header in _all(self._branches(other, (), 0)) else None

    def _is_forced(self, placed: PlacedDimension, path: MemberPath) -> bool:
        """Whether a member is shown without records."""
        return placed.all_members and path[-1] is not None and path in self._forced(placed, len(path) - 1)

    def _is_real(self, axis: AxisName, header: Header) -> bool:
        """Whether a header has records of its own."""
        return any(self.has_records(fact, where, axis, header) for fact, where in self.facts)

    def _has_records(self, fact: str, where: str, axis: AxisName, header: Header) -> bool:
        if any(dimension(hierarchy) not in REACHED[fact] for hierarchy, _ in header):
            return False
        if fact == "open":
            other: AxisName = "columns" if axis == "rows" else "rows"
            across = [each for each in self._candidates(other) if self._is_allowed(other, each)]
            placed = PlacedMeasure(measure="open_repairs")
            return any(self.value(placed, *((header, each) if axis == "rows" else (each, header))) for each in across)
        scope = self.predicate(fact, header, ()) if axis == "rows" else self.predicate(fact, (), header)
        return bool(
            self.query(f"SELECT 1 FROM {sql.FACTS[fact]} WHERE {where} AND {self._filters(fact)} AND {scope} LIMIT 1")
        )

    def _members(self, axis: AxisName, outer: Header, place: int, path: MemberPath, depth: int) -> list[MemberPath]:
        """Every member that could stand below a path, in natural order."""
        placed = self.document.question.axis(axis)[place]
        hierarchy = placed.hierarchy
        found: set[MemberPath] = set()
        for fact, where in self.facts:
            if any(dimension(each) not in REACHED[fact] for each in (hierarchy, *(name for name, _ in outer))):
                continue
            if fact == "open":
                found |= self._all_members(hierarchy, depth)
            else:
                inside = [self._item(axis, outer, at) for at in range(len(outer))]
                condition = " AND ".join([where, self._filters(fact), *inside])
                found |= self._distinct(fact, hierarchy, depth, condition)
        if placed.all_members:
            # A blank brings in what it holds, and stands where that does.
            deeper = range(depth, len(LEVELS[hierarchy]))
            found |= {each[: depth + 1] for level in deeper for each in self._forced(placed, level)}
        below = [each for each in found if each[: len(path)] == path]
        return sorted(below, key=lambda each: _natural(hierarchy, each))

    def _forced(self, placed: PlacedDimension, depth: int) -> set[MemberPath]:
        """The members that stand without records, as the filters and rights on their own dimension leave them."""
        own = dimension(placed.hierarchy)
        parts = []
        for each in self.document.question.filters:
            if self._dimensions(each) == {own} and not _is_measured(each) and not isinstance(each, KeyFilter):
                parts.append(self._condition(each, "") or "1")
            elif self._dimensions(each) == {own} and isinstance(each, KeyFilter):
                parts.append("0" if each.action == "keep" else "1")
        allowed = [f"({sql.ROLES[role][1]})" if sql.ROLES[role][0] == own else "1" for role in self.roles]
        parts.append(sql.joined(allowed, "OR", "1"))
        table = sql.TABLE_OF[own]
        if placed.hierarchy == "picks":
            where = " AND ".join(parts)
            return {
                (key,)
                for key in sql.PICKS
                if self.query(f"SELECT 1 FROM {table} WHERE {where} AND {sql.path_predicate('picks', (key,))}")
            }
        levels = ", ".join(COLUMN[each] for each in LEVELS[placed.hierarchy][: depth + 1])
        rows = self.query(f"SELECT DISTINCT {levels} FROM {table} WHERE {' AND '.join(parts)}")
        return {tuple(row) for row in rows if row[-1] is not None}

    def _candidates(self, axis: AxisName, count: int = 99) -> list[Header]:
        """Every header that could be seen on an axis, whether anything is there or not; the total first."""
        found: list[Header] = [()]
        placements = self.document.question.axis(axis)[:count]

        def walk(outer: Header, place: int, path: MemberPath, depth: int) -> None:
            placed = placements[place]
            hierarchy, levels = placed.hierarchy, LEVELS[placed.hierarchy]
            for at, at_depth, limit in self._limits(axis):
                if (at, at_depth) == (place, depth) and limit.others:
                    rest = (*outer, (hierarchy, (OTHERS, depth, *path[: _parent_depth(placed, depth) + 1])))
                    if rest not in found:
                        found.append(rest)
                        below(rest, place + 1)
            for member in sorted(self._all_members(hierarchy, depth), key=lambda each: _natural(hierarchy, each)):
                if member[: len(path)] != path:
                    continue
                header = (*outer, (hierarchy, member))
                is_passed = hierarchy == "tour" and member[-1] is None and self._has_keys_below(hierarchy, member)
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
        levels = [COLUMN[each] for each in LEVELS[hierarchy][: depth + 1]]
        rows = self.query(f"SELECT DISTINCT {', '.join(levels)} FROM {sql.TABLE_OF[dimension(hierarchy)]}")
        return {*(tuple(row) for row in rows), (None,) * (depth + 1)}

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
        table, deeper = sql.TABLE_OF[dimension(hierarchy)], LEVELS[hierarchy][len(path) :]
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


@dataclass(frozen=True)
class Node:
    """A header and what stands below it; or a passed over member, whose children stand in its place."""

    header: Header
    below: list[Node]
    is_passed: bool = False
    has_records: bool = False


def _has_records(nodes: list[Node]) -> bool:
    return any(each.has_records or _has_records(each.below) for each in nodes)


def _has_any(nodes: list[Node]) -> bool:
    return any(not each.is_passed or _has_any(each.below) for each in nodes)


def _leaves(tree: list[Node]) -> list[Header]:
    return [leaf for node in tree for leaf in (_leaves(node.below) if _has_any(node.below) else [node.header])]


def _all(tree: list[Node]) -> list[Header]:
    return [each for node in tree for each in ([] if node.is_passed else [node.header]) + _all(node.below)]


def _shown_depths(placed: PlacedDimension) -> list[int]:
    levels = LEVELS[placed.hierarchy]
    return [each for each in range(levels.index(placed.level), len(levels)) if levels[each] not in placed.skipped]


def _parent_depth(placed: PlacedDimension, depth: int) -> int:
    above = [each for each in _shown_depths(placed) if each < depth]
    return above[-1] if above else -1


def _natural(hierarchy: str, keys: MemberPath) -> list[tuple[bool, object]]:
    """Keys ascending, blanks last; sets as they are listed."""
    if is_others(keys):
        return [*_natural(hierarchy, keys[2:]), (2, 0)] if len(keys) > 2 else [(2, 0)]  # type: ignore[list-item]
    if hierarchy == "picks":
        return [(keys[0] is None, list(sql.PICKS).index(str(keys[0])) if keys[0] is not None else 0)]
    return [(key is None, key if key is not None else 0) for key in keys]


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


def _fulfils(value: Fraction, operator: str, wanted: tuple[object, ...]) -> bool:
    first, last = Fraction(str(wanted[0])), Fraction(str(wanted[-1]))
    return {
        "less": value < first, "at_most": value <= first, "more": value > first, "at_least": value >= first,
        "between": first <= value <= last, "equal": value == first, "not_equal": value != first,
    }[operator]  # fmt: skip


def _is_measured(condition: Condition) -> bool:
    if isinstance(condition, FilterGroup):
        return any(_is_measured(each) for each in condition.parts)
    return isinstance(condition, MeasureFilter) or (isinstance(condition, ReadyFilter) and condition.name == "busy")


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
