"""An independent answer to an analysis: SQL over the same rows in SQLite, sharing no code with the engine.

Decimals are kept as whole numbers of their smallest unit, so that sums are exact there too.
"""

from __future__ import annotations

import sqlite3
import statistics
from dataclasses import dataclass
from decimal import Decimal

from dastan.core.analysis.document import Analysis, PlacedDimension
from dastan.core.model.parts import MemberPath

LEVELS = {
    "line": ("mode", "team", "line"),
    "fare": ("family", "product"),
    "band": ("band",),
    "week": ("week_year", "week"),
    "area": ("region", "depot", "line"),
    "calendar": ("year", "month", "day"),
}
COLUMN = {
    "mode": "lines.mode", "team": "lines.team", "line": "lines.line", "family": "fares.family",
    "product": "fares.product", "band": "taps.band", "week_year": "lines.week_year", "week": "lines.week", "region": "depots.region", "depot": "depots.depot", "year": "days.year", "month": "days.month", "day": "days.day",
}  # fmt: skip
LINES = "lines LEFT JOIN depots ON depots.depot = lines.depot_id"
_LINES = "LEFT JOIN depots ON depots.depot = lines.depot_id"
FACTS = {
    "taps": f"taps LEFT JOIN lines ON lines.line = taps.line_id {_LINES} LEFT JOIN fares ON fares.product = taps.product_id "
    "LEFT JOIN days ON days.day = taps.day",
    "open": f"repairs LEFT JOIN lines ON lines.line = repairs.from_line {_LINES}",
    "fleet": f"fleet LEFT JOIN lines ON lines.line = fleet.line_id {_LINES} LEFT JOIN days ON days.day = fleet.day",
    "from": f"repairs LEFT JOIN lines ON lines.line = repairs.from_line {_LINES} LEFT JOIN days ON days.day = repairs.started",
    "to": f"repairs LEFT JOIN lines ON lines.line = repairs.to_line {_LINES} LEFT JOIN days ON days.day = repairs.started",
}
"""The records that measures count, each joined by its roles to what it reaches."""
REACHED = {
    "taps": {"line", "fare", "band", "week", "area", "calendar"},
    "fleet": {"line", "week", "area", "calendar"},
    "from": {"line", "week", "area", "calendar"},
    "to": {"line", "week", "area", "calendar"},
    "open": {"line", "week", "area", "calendar"},
}
WHERE_OF = {
    "tram_boardings": "lines.mode IS 'tram'",
    "other_taps": "NOT (taps.band IS 'x') AND (fares.family IS 'a' OR (fares.family IS 'b' AND fares.product IS 1))",
}
FACT_OF = {
    "open_repairs": "open",
    "repairs": "from",
    "repair_cost": "from",
    "arrivals": "to",
    "closing": "fleet",
    "first_held": "fleet",
    "mean_held": "fleet",
}
TABLE_OF = {"line": LINES, "fare": "fares", "band": "taps", "week": LINES, "area": LINES, "calendar": "days"}
SQL = {
    "boardings": "SUM(boardings)",
    "revenue": "SUM(revenue)",
    "taps": "COUNT(*)",
    "delays": "COUNT(delay)",
    "delay_average": "AVG(delay)",
    "delay_total": "SUM(delay)",
    "revenue_least": "MIN(revenue)",
    "boardings_most": "MAX(boardings)",
    "revenue_average": "AVG(revenue) / 100.0",
    "cards": "COUNT(DISTINCT card)",
    "worth": "SUM(boardings * revenue)",
    "repairs": "COUNT(*)",
    "repair_cost": "SUM(cost)",
    "arrivals": "COUNT(*)",
    "tram_boardings": "SUM(boardings)",
    "other_taps": "COUNT(*)",
    "fare_each": "SUM(revenue) / 100.0 / NULLIF(SUM(boardings), 0)",
    # Worked out from the values themselves, below.
    "delay_median": "NULL",
    "revenue_tenth": "NULL",
    "delay_variance": "NULL",
    "boardings_deviation": "NULL",
    "closing": "NULL",
    "first_held": "NULL",
    "mean_held": "NULL",
    "open_repairs": "COUNT(*)",
}


def _tenth(values: list[float]) -> float:
    if len(values) == 1:
        return values[0] / 100
    return statistics.quantiles(values, n=10, method="inclusive")[0] / 100


OF_VALUES = {
    "delay_median": ("delay", statistics.median),
    "revenue_tenth": ("revenue", _tenth),
    "delay_variance": ("delay", statistics.variance),
    "boardings_deviation": ("boardings", statistics.stdev),
}
BALANCES = ("closing", "first_held", "mean_held")
SCALE = {"revenue": 2, "revenue_least": 2, "worth": 2, "repair_cost": 2}

Header = tuple[tuple[str, MemberPath], ...]


@dataclass(frozen=True)
class Expected:
    """The headers in reading order, and the value of each cell by (row, column, measure)."""

    rows: list[Header]
    columns: list[Header]
    cells: dict[tuple[Header, Header, str], int | float | Decimal | None]


class Oracle:
    """Answers analyses by asking SQLite for one cell at a time."""

    def __init__(self, tables: dict[str, list[dict[str, object]]]) -> None:
        self.connection = sqlite3.connect(":memory:")
        for name, rows in tables.items():
            columns = list(rows[0])
            self.connection.execute(f"CREATE TABLE {name} ({', '.join(columns)})")
            marks = ", ".join("?" * len(columns))
            self.connection.executemany(
                f"INSERT INTO {name} VALUES ({marks})", [[_stored(row[each]) for each in columns] for row in rows]
            )

    def answer(self, document: Analysis) -> Expected:
        measures = [each.measure for each in document.question.measures]
        facts = list(dict.fromkeys(_records(each) for each in measures))
        question = document.question
        rows = self._headers(document, question.rows, question.columns, facts, totals_first=True)
        columns = self._headers(document, question.columns, question.rows, facts, totals_first=False)
        cells: dict[tuple[Header, Header, str], int | float | Decimal | None] = {}
        for fact, condition in facts:
            if fact == "open":
                for row in rows:
                    for column in columns:
                        is_reached = all(hierarchy in REACHED[fact] for hierarchy, _ in (*row, *column))
                        count = self._open_count(document, (*row, *column)) if is_reached else 0
                        cells[row, column, "open_repairs"] = count or None
                continue
            own = [each for each in measures if _records(each) == (fact, condition)]
            where, values = self._filters(document, fact)
            where = f"{where} AND {condition}"
            chosen = ", ".join(SQL[each] for each in own)
            for row in rows:
                for column in columns:
                    scope, more = _scope((*row, *column))
                    if any(hierarchy not in REACHED[fact] for hierarchy, _ in (*row, *column)):
                        cells.update({(row, column, measure): None for measure in own})
                        continue
                    sql = f"SELECT COUNT(*), {chosen} FROM {FACTS[fact]} WHERE {where} AND {scope}"
                    found = self.connection.execute(sql, [*values, *more]).fetchone()
                    for measure, value in zip(own, found[1:], strict=True):
                        if measure in OF_VALUES:
                            value = self._of_values(
                                measure, f"{FACTS[fact]} WHERE {where} AND {scope}", [*values, *more]
                            )
                        elif measure in BALANCES:
                            period = tuple(each for each in (*row, *column) if each[0] == "calendar")
                            value = self._balance(document, measure, period, f"{where} AND {scope}", [*values, *more])
                        cells[row, column, measure] = None if found[0] == 0 else _read(measure, value)
        return Expected(rows, columns, cells)

    def _open_count(self, document: Analysis, header: Header) -> int:
        """How many repairs are open on the last day that the calendar's part of the header and filters leave."""
        in_time, values = self._filters(document, "open", only="calendar")
        scope, more = _scope(tuple(each for each in header if each[0] == "calendar"))
        sql = f"SELECT MAX(days.day) FROM days WHERE {in_time} AND {scope}"
        last = self.connection.execute(sql, [*values, *more]).fetchone()[0]
        if last is None:
            return 0
        where, values = self._filters(document, "open", never="calendar")
        scope, more = _scope(tuple(each for each in header if each[0] != "calendar"))
        sql = (
            f"SELECT COUNT(*) FROM {FACTS['open']} WHERE {where} AND {scope} "
            "AND started <= ? AND (ended IS NULL OR ended > ?)"
        )
        count: int = self.connection.execute(sql, [*values, *more, last, last]).fetchone()[0]
        return count

    def _of_values(self, measure: str, source: str, parameters: list[object]) -> float | None:
        column, compute = OF_VALUES[measure]
        rows = self.connection.execute(f"SELECT {column} FROM {source}", parameters)
        found = [value for (value,) in rows if value is not None]
        return (
            compute(found) if len(found) >= (2 if compute in (statistics.variance, statistics.stdev) else 1) else None
        )

    def _balance(
        self, document: Analysis, measure: str, period: Header, where: str, parameters: list[object]
    ) -> int | float | None:
        """Adds up the records of the period's last (first) loaded day, which other filters do not move."""
        in_time, more = self._filters(document, "fleet", only="calendar")
        scope, own = _scope(period)
        sql = f"SELECT DISTINCT days.day FROM {FACTS['fleet']} WHERE {in_time} AND {scope} AND days.day IS NOT NULL"
        days = sorted(day for (day,) in self.connection.execute(sql, [*more, *own]))
        if measure == "mean_held":
            dated = "days.day IS NOT NULL" if days else "1"
            sql = f"SELECT SUM(available) * 1.0 FROM {FACTS['fleet']} WHERE {where} AND {dated}"
            total = self.connection.execute(sql, parameters).fetchone()[0]
            return None if total is None else total / max(len(days), 1)
        day = None if not days else days[-1] if measure == "closing" else days[0]
        sql = f"SELECT SUM(available) FROM {FACTS['fleet']} WHERE {where} AND days.day IS ?"
        found: int | None = self.connection.execute(sql, [*parameters, day]).fetchone()[0]
        return found

    def _filters(self, document: Analysis, fact: str, only: str = "", never: str = "") -> tuple[str, list[object]]:
        """The filters that reach a fact; the others leave it alone."""
        parts, values = ["1"], []
        for each in document.question.filters:
            if each.hierarchy not in REACHED[fact] or only not in ("", each.hierarchy) or each.hierarchy == never:
                continue
            scopes = [_scope(((each.hierarchy, path),)) for path in each.members]
            joined = " OR ".join(f"({sql})" for sql, _ in scopes) or "0"
            parts.append(f"({joined})" if each.action == "keep" else f"NOT ({joined})")
            values += [value for _, more in scopes for value in more]
        return " AND ".join(parts), values

    def _headers(
        self,
        document: Analysis,
        placed: tuple[PlacedDimension, ...],
        across: tuple[PlacedDimension, ...],
        facts: list[tuple[str, str]],
        totals_first: bool,
    ) -> list[Header]:
        others = self._candidates(document, across) if ("open", "1") in facts else []

        def members(above: Header, hierarchy: str, path: MemberPath, depth: int) -> list[tuple[MemberPath, bool]]:
            """The members that could stand there, and whether each has anything of its own."""
            found = set(self._members(document, above, hierarchy, path, depth, facts, others))
            is_reached = all(each in REACHED["open"] for each in (hierarchy, *(one for one, _ in above)))
            possible = found | (set(self._all_members(hierarchy, path, depth)) if others and is_reached else set())
            return [(each, each in found) for each in sorted(possible, key=_natural)]

        def below(above: Header, place: int) -> list[Header]:
            if place == len(placed):
                return []
            start = LEVELS[placed[place].hierarchy].index(placed[place].level)
            found = members(above, placed[place].hierarchy, (), start)
            return [each for path, has_own in found for each in branch(above, place, path, has_own)]

        def branch(above: Header, place: int, path: MemberPath, has_own: bool) -> list[Header]:
            hierarchy = placed[place].hierarchy
            own = (*above, (hierarchy, path))
            if self._is_open(document, hierarchy, path):
                found = members(above, hierarchy, path, len(path))
                inner = [each for child, has in found for each in branch(above, place, child, has)]
            else:
                inner = below(own, place + 1)
            if not inner and not has_own:
                return []
            return [own, *inner] if totals_first else [*inner, own]

        return [*below((), 0), ()]

    def _candidates(self, document: Analysis, placed: tuple[PlacedDimension, ...]) -> list[Header]:
        """Every header that could be seen on an axis, whether anything is there or not; the total first."""
        found: list[Header] = [()]

        def walk(above: Header, place: int, hierarchy: str, path: MemberPath, depth: int) -> None:
            for member in self._all_members(hierarchy, path, depth):
                own = (*above, (hierarchy, member))
                found.append(own)
                if self._is_open(document, hierarchy, member):
                    walk(above, place, hierarchy, member, len(member))
                else:
                    below(own, place + 1)

        def below(above: Header, place: int) -> None:
            if place < len(placed):
                hierarchy = placed[place].hierarchy
                if hierarchy in REACHED["open"]:
                    walk(above, place, hierarchy, (), LEVELS[hierarchy].index(placed[place].level))

        below((), 0)
        return found

    def _all_members(self, hierarchy: str, path: MemberPath, depth: int) -> list[MemberPath]:
        levels = [COLUMN[each] for each in LEVELS[hierarchy][: depth + 1]]
        source = "days" if hierarchy == "calendar" else FACTS["open"]
        scope, values = _scope(((hierarchy, path),)) if path else ("1", [])
        rows = self.connection.execute(f"SELECT DISTINCT {', '.join(levels)} FROM {source} WHERE {scope}", values)
        return [tuple(row) for row in rows]

    def _members(
        self,
        document: Analysis,
        above: Header,
        hierarchy: str,
        path: MemberPath,
        depth: int,
        facts: list[tuple[str, str]],
        others: list[Header],
    ) -> list[MemberPath]:
        """The members for which any fact has something, in no order."""
        levels = [COLUMN[each] for each in LEVELS[hierarchy][: depth + 1]]
        found: set[MemberPath] = set()
        for fact, condition in facts:
            if any(each not in REACHED[fact] for each in (hierarchy, *(one for one, _ in above))):
                continue
            if fact == "open":
                found |= {
                    member
                    for member in self._all_members(hierarchy, path, depth)
                    if any(self._open_count(document, (*above, (hierarchy, member), *other)) for other in others)
                }
                continue
            where, values = self._filters(document, fact)
            scope, more = _scope((*above, (hierarchy, path)) if path else above)
            sql = f"SELECT DISTINCT {', '.join(levels)} FROM {FACTS[fact]} WHERE {where} AND {condition} AND {scope}"
            found |= {tuple(row) for row in self.connection.execute(sql, [*values, *more])}
        return list(found)

    def _is_open(self, document: Analysis, hierarchy: str, path: MemberPath) -> bool:
        levels = LEVELS[hierarchy]
        if len(path) == len(levels):
            return False
        opening = next((each for each in document.openings if each.hierarchy == hierarchy), None)
        if opening is None:
            return False
        wanted = path in opening.open or (levels[len(path) - 1] in opening.levels and path not in opening.closed)
        table = TABLE_OF[hierarchy]
        scope, values = _scope(((hierarchy, path),))
        deeper = " OR ".join(f"{COLUMN[each]} IS NOT NULL" for each in levels[len(path) :])
        has = self.connection.execute(f"SELECT 1 FROM {table} WHERE {scope} AND ({deeper}) LIMIT 1", values).fetchone()
        return wanted and has is not None


def _natural(keys: MemberPath) -> list[tuple[bool, object]]:
    """Keys ascending, blanks last."""
    return [(key is None, key if key is not None else 0) for key in keys]


def _records(measure: str) -> tuple[str, str]:
    """The records that a measure counts: a fact, and the measure's own condition."""
    return FACT_OF.get(measure, "taps"), WHERE_OF.get(measure, "1")


def _scope(header: Header) -> tuple[str, list[object]]:
    parts, values = ["1"], []
    for hierarchy, path in header:
        for level, key in zip(LEVELS[hierarchy], path, strict=False):
            parts.append(f"{COLUMN[level]} IS ?")
            values.append(key)
    return " AND ".join(parts), values


def _stored(value: object) -> object:
    return int(value.scaleb(2)) if isinstance(value, Decimal) else value


def _read(measure: str, value: int | float | None) -> int | float | Decimal | None:
    if value is None or measure not in SCALE:
        return value
    return Decimal(value).scaleb(-SCALE[measure])
