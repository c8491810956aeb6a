"""An independent answer to an analysis: SQL over the same rows in SQLite, sharing no code with the engine.

Decimals are kept as whole numbers of their smallest unit, so that sums are exact there too.
"""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from decimal import Decimal

from dastan.core.analysis.document import Analysis, PlacedDimension
from dastan.core.model.document import MemberPath

LEVELS = {
    "line": ("mode", "team", "line"),
    "fare": ("family", "product"),
    "band": ("band",),
    "week": ("week_year", "week"),
    "area": ("region", "depot", "line"),
}
COLUMN = {
    "mode": "lines.mode", "team": "lines.team", "line": "lines.line", "family": "fares.family",
    "product": "fares.product", "band": "taps.band", "week_year": "lines.week_year", "week": "lines.week", "region": "depots.region", "depot": "depots.depot",
}  # fmt: skip
LINES = "lines LEFT JOIN depots ON depots.depot = lines.depot_id"
JOINED = (
    "taps LEFT JOIN lines ON lines.line = taps.line_id LEFT JOIN depots ON depots.depot = lines.depot_id "
    "LEFT JOIN fares ON fares.product = taps.product_id"
)
TABLE_OF = {"line": LINES, "fare": "fares", "band": "taps", "week": LINES, "area": LINES}
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
}
SCALE = {"revenue": 2, "revenue_least": 2, "worth": 2}

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
        where, values = self._filters(document)
        rows = self._headers(document, document.question.rows, where, values, totals_first=True)
        columns = self._headers(document, document.question.columns, where, values, totals_first=False)
        cells: dict[tuple[Header, Header, str], int | float | Decimal | None] = {}
        measures = [each.measure for each in document.question.measures]
        chosen = ", ".join(SQL[each] for each in measures)
        for row in rows:
            for column in columns:
                scope, more = _scope((*row, *column))
                sql = f"SELECT COUNT(*), {chosen} FROM {JOINED} WHERE {where} AND {scope}"
                found = self.connection.execute(sql, [*values, *more]).fetchone()
                for measure, value in zip(measures, found[1:], strict=True):
                    cells[row, column, measure] = None if found[0] == 0 else _read(measure, value)
        return Expected(rows, columns, cells)

    def _filters(self, document: Analysis) -> tuple[str, list[object]]:
        parts, values = ["1"], []
        for each in document.question.filters:
            scopes = [_scope(((each.hierarchy, path),)) for path in each.members]
            joined = " OR ".join(f"({sql})" for sql, _ in scopes) or "0"
            parts.append(f"({joined})" if each.action == "keep" else f"NOT ({joined})")
            values += [value for _, more in scopes for value in more]
        return " AND ".join(parts), values

    def _headers(
        self,
        document: Analysis,
        placed: tuple[PlacedDimension, ...],
        where: str,
        values: list[object],
        totals_first: bool,
    ) -> list[Header]:
        def below(above: Header, place: int) -> list[Header]:
            if place == len(placed):
                return []
            start = LEVELS[placed[place].hierarchy].index(placed[place].level)
            return [each for path in self._members(above, placed[place].hierarchy, (), start, where, values)
                    for each in branch(above, place, path)]  # fmt: skip

        def branch(above: Header, place: int, path: MemberPath) -> list[Header]:
            hierarchy = placed[place].hierarchy
            own = (*above, (hierarchy, path))
            if self._is_open(document, hierarchy, path):
                inner = [
                    each
                    for child in self._members(above, hierarchy, path, len(path), where, values)
                    for each in branch(above, place, child)
                ]
            else:
                inner = below(own, place + 1)
            return [own, *inner] if totals_first else [*inner, own]

        return [*below((), 0), ()]

    def _members(
        self, above: Header, hierarchy: str, path: MemberPath, depth: int, where: str, values: list[object]
    ) -> list[MemberPath]:
        """The members with records at a depth below a path, in natural order: keys ascending, blanks last."""
        levels = [COLUMN[each] for each in LEVELS[hierarchy][: depth + 1]]
        scope, more = _scope((*above, (hierarchy, path)) if path else above)
        order = ", ".join(f"{each} IS NULL, {each}" for each in levels)
        sql = f"SELECT DISTINCT {', '.join(levels)} FROM {JOINED} WHERE {where} AND {scope} ORDER BY {order}"
        return [tuple(row) for row in self.connection.execute(sql, [*values, *more])]

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
