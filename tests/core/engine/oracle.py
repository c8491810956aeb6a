"""An independent answer to an analysis: one question to SQLite for each cell, sharing no code with the engine.

A header is a list of members, one for each placement, outermost first: `(hierarchy, path)`, or for the rest that
a limit leaves `(hierarchy, ("others", depth, *parent))`.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import date
from fractions import Fraction
from functools import cache

from dastan.core.analysis.document import Analysis, AxisName, Order, PlacedDimension, PlacedMeasure
from dastan.core.model.conditions import KeyFilter
from dastan.core.model.parts import MemberPath
from tests.core.engine import oracle_sql as sql
from tests.core.engine.oracle_cells import Cells, natural
from tests.core.engine.oracle_conditions import AXES, OTHERS, Header, dimension, is_measured, is_others
from tests.core.engine.oracle_sql import LEVELS, REACHED, Value


@dataclass(frozen=True)
class Expected:
    """The headers in reading order, and the value of each cell by (row, column, measure's name)."""

    rows: list[Header]
    columns: list[Header]
    cells: dict[tuple[Header, Header, str], Value]


def name_of(placed: PlacedMeasure) -> str:
    return placed.measure if placed.aggregate is None else f"{placed.measure}:{placed.aggregate}"


class Oracle(Cells):
    """Answers analyses over some rows, for one reader."""

    def __init__(self, tables: dict[str, list[dict[str, object]]], today: date, roles: tuple[str, ...] = ()) -> None:
        self.connection = sql.database(tables)
        self.today = today
        self.roles = roles
        self.query = cache(self._query)

    def answer(self, document: Analysis) -> Expected:
        self.document = document
        sql.use_joints(self.connection, document.joints)
        self.facts = list(
            dict.fromkeys(
                each
                for placed in document.question.measures
                for part in self._parts(placed)
                for each in sql.asked_by(placed if placed.measure == part else PlacedMeasure(measure=part))
            )
        )
        self.has_open = any(fact == "open" for fact, _ in self.facts)
        self.plain = [each for each in document.question.filters if not is_measured(each)]
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
        found = Expected([row for row, _ in rows], [column for column, _ in columns], cells)
        question = document.question
        full_rows = {row for (row, _, _), value in cells.items() if value is not None}
        full_columns = {column for (_, column, _), value in cells.items() if value is not None}
        if question.empty_rows == "hidden":
            found = replace(found, rows=_without_empty(found.rows, full_rows))
        if question.empty_columns == "hidden":
            found = replace(found, columns=_without_empty(found.columns, full_columns))
        kept = {at: value for at, value in cells.items() if at[0] in found.rows and at[1] in found.columns}
        return replace(found, cells=kept)

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
        is_across = bool(placed) and placed[-1].order.across
        if not is_across and self._repeats(axis, (), self._sorted(axis, tree, None)):
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
            elif totals == "none" or self._repeats(axis, header, self._sorted(axis, node.below, None)):
                found += [(header, False), *inner] if axis == "rows" else inner
            else:
                found += [(header, True), *inner] if totals == "before" else [*inner, (header, True)]
        return found

    def _repeats(self, axis: AxisName, header: Header, below: list[Node]) -> bool:
        """Whether the only child of a header, or one below that, shows the very same figures."""
        if self.document.question.totals_of_one == "shown" or len(below) != 1:
            return False
        child = below[0]
        other: AxisName = "columns" if axis == "rows" else "rows"
        across = [*_all(self._branches(other, (), 0)), ()]
        parts = {
            part: each if part == each.measure else PlacedMeasure(measure=part)
            for each in self.document.question.measures
            for part in self._parts(each)
        }
        for one in across:
            for each in parts.values():
                ends = ((at, one) if axis == "rows" else (one, at) for at in (header, child.header))
                if len({self.value(each, *end) for end in ends}) > 1:
                    return False
        inner = self._sorted(axis, child.below, None)
        hides = self.document.question.axis(axis)[len(child.header) - 1].totals == "none"
        return not inner or not hides or self._repeats(axis, child.header, inner)

    def _in_order(self, axis: AxisName, tree: list[Node], order: Order) -> list[Node]:
        """The whole tree with one order at every level, passed over members gone."""
        nodes = self._sorted(axis, tree, order)
        return [Node(each.header, self._in_order(axis, each.below, order)) for each in nodes]

    def _branches(self, axis: AxisName, outer: Header, place: int) -> list[Node]:
        placed = self.document.question.axis(axis)
        if place == len(placed) or not _breaks_down(placed[place], outer):
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
            is_blank = hierarchy == "tour" and member[-1] is None and self._has_keys_below(hierarchy, member)
            if is_blank or sql.is_on_the_way(hierarchy, member):
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
        nodes = sorted(nodes, key=lambda each: natural(placed.hierarchy, each.header[-1][1]))
        rest = [each for each in nodes if is_others(each.header[-1][1])]
        own = [each for each in nodes if not is_others(each.header[-1][1])]
        if order.by != "natural" or order.descending:
            # One that is passed over has no value to be ranked by; a blank one comes last in any case.
            has_place = order.by != "measure"
            members = [each for each in own if not each.is_passed or (has_place and each.header[-1][1][-1] is not None)]
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
            self.query(f"SELECT 1 FROM {sql.facts(fact)} WHERE {where} AND {self._filters(fact)} AND {scope} LIMIT 1")
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
        return sorted(below, key=lambda each: natural(hierarchy, each))

    def _forced(self, placed: PlacedDimension, depth: int) -> set[MemberPath]:
        """The members that stand without records, as the filters and rights on their own dimension leave them."""
        own = dimension(placed.hierarchy)
        parts = []
        for each in self.document.question.filters:
            if self._dimensions(each) == {own} and not is_measured(each) and not isinstance(each, KeyFilter):
                parts.append(self._condition(each, "") or "1")
            elif self._dimensions(each) == {own} and isinstance(each, KeyFilter):
                parts.append("0" if each.action == "keep" else "1")
        allowed = [f"({sql.ROLES[role][1]})" if sql.ROLES[role][0] == own else "1" for role in self.roles]
        parts.append(sql.joined(allowed, "OR", "1"))
        table = sql.table_of(own)
        if own == "band" and self.roles:
            # It is made of the fact's own column: there by the records alone, and by such as may be seen.
            table = sql.facts("taps")
            parts.append(self._rights("taps"))
        if placed.hierarchy == "picks":
            where = " AND ".join(parts)
            return {
                (key,)
                for key in sql.PICKS
                if self.query(f"SELECT 1 FROM {table} WHERE {where} AND {sql.path_predicate('picks', (key,))}")
            }
        levels = ", ".join(sql.column(placed.hierarchy, each) for each in LEVELS[placed.hierarchy][: depth + 1])
        rows = self.query(f"SELECT DISTINCT {levels} FROM {table} WHERE {' AND '.join(parts)}")
        return {tuple(row) for row in rows if row[-1] is not None}


@dataclass(frozen=True)
class Node:
    """A header and what stands below it; or a passed over member, whose children stand in its place."""

    header: Header
    below: list[Node]
    is_passed: bool = False
    has_records: bool = False


def _without_empty(headers: list[Header], full: set[Header]) -> list[Header]:
    """Those with a value, or with one below them; and the grand total."""
    return [each for each in headers if not each or any(_stands_in(one, each) for one in full)]


def _stands_in(header: Header, outer: Header) -> bool:
    """Whether a header is another, or lies below it."""
    if len(header) < len(outer) or header[: len(outer) - 1] != outer[:-1]:
        return False
    own, path = header[len(outer) - 1], outer[-1][1]
    if own == outer[-1]:
        return True
    if is_others(path) or own[0] != outer[-1][0]:
        return False
    inner = own[1][2:] if is_others(own[1]) else own[1]
    return inner[: len(path)] == path and (len(inner) > len(path) or is_others(own[1]))


def _has_records(nodes: list[Node]) -> bool:
    return any(each.has_records or _has_records(each.below) for each in nodes)


def _has_any(nodes: list[Node]) -> bool:
    return any(not each.is_passed or _has_any(each.below) for each in nodes)


def _leaves(tree: list[Node]) -> list[Header]:
    return [leaf for node in tree for leaf in (_leaves(node.below) if _has_any(node.below) else [node.header])]


def _all(tree: list[Node]) -> list[Header]:
    return [each for node in tree for each in ([] if node.is_passed else [node.header]) + _all(node.below)]


def _breaks_down(placed: PlacedDimension, outer: Header) -> bool:
    """Whether a hierarchy breaks this header down."""
    if placed.only_under is None or not outer:
        return True
    stands = dict(outer)
    return any(all(stands.get(each.hierarchy) == each.path for each in one.members) for one in placed.only_under)
