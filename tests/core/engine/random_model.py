"""A small star with every difficulty: blanks, unknown keys, uneven branches, decimals, huge and negative values."""

from __future__ import annotations

from decimal import Decimal
from functools import cache

import numpy as np
import pyarrow as pa

from dastan.core.model.document import SemanticModel, Table
from dastan.documents.read import read_model
from dastan.sources.columnar.column_source import ColumnSource
from dastan.sources.files.tables import table_of_arrow

MODEL = """
dastan: model/1
name: star
caption: Star
tables:
  taps: {file: taps.parquet}
  lines: {file: lines.parquet}
  fares: {file: fares.parquet}
  depots: {file: depots.parquet}
  repairs: {file: repairs.parquet}
  days: {file: days.parquet}
  fleet: {file: fleet.parquet}
  accounts: {file: accounts.parquet}
relationships:
  - {from_table: taps, from_column: account_id, to_table: accounts, to_column: account, role: account}
  - {from_table: repairs, from_column: started, to_table: days, to_column: day, role: started}
  - {from_table: taps, from_column: day, to_table: days, to_column: day, role: day}
  - {from_table: fleet, from_column: day, to_table: days, to_column: day, role: day}
  - {from_table: fleet, from_column: line_id, to_table: lines, to_column: line, role: line}
  - {from_table: repairs, from_column: from_line, to_table: lines, to_column: line, role: from}
  - {from_table: repairs, from_column: to_line, to_table: lines, to_column: line, role: to}
  - {from_table: lines, from_column: depot_id, to_table: depots, to_column: depot, role: depot}
  - {from_table: taps, from_column: line_id, to_table: lines, to_column: line, role: line}
  - {from_table: taps, from_column: product_id, to_table: fares, to_column: product, role: fare}
dimensions:
  - name: line
    caption: Line
    table: lines
    key: line
    attributes:
      - {name: mode, key: mode}
      - {name: team, key: team}
      - {name: line, key: line}
      - {name: week_year, key: week_year}
      - {name: week, key: week}
      - {name: region, key: region, table: depots}
      - {name: depot, key: depot, table: depots}
      - {name: colour, key: colour}
    hierarchies:
      - {name: line, levels: [mode, team, line]}
      - {name: week, levels: [week_year, week]}
      - {name: area, levels: [region, depot, line]}
      - {name: tour, levels: [mode, team, line], blanks: pass}
      - name: picks
        sets:
          - {name: rails, caption: Rails, hierarchy: line, members: [[tram]]}
          - {name: first, caption: First teams, hierarchy: line, members: [[tram, 1], [bus, 1], [bus, 2]]}
          - {name: east, caption: East, hierarchy: area, members: [[east]]}
  - name: fare
    caption: Fare
    table: fares
    key: product
    attributes: [{name: family, key: family}, {name: product, key: product}]
    hierarchies: [{name: fare, levels: [family, product]}]
  - name: band
    caption: Band
    table: taps
    attributes: [{name: band, key: band}]
    hierarchies: [{name: band, levels: [band]}]
  - name: account
    caption: Account
    table: accounts
    key: account
    attributes: [{name: account, key: account}]
    hierarchies: [{name: tree, parent_child: {key: account, parent: parent}}]
  - name: calendar
    caption: Calendar
    table: days
    key: day
    attributes: [{name: year, key: year}, {name: month, key: month}, {name: day, key: day}]
    hierarchies: [{name: calendar, levels: [year, month, day]}]
filters:
  - {name: rails_only, caption: rails, condition: {dimension: line, hierarchy: line, members: [[tram]]}}
  - name: busy
    caption: busy
    condition:
      kind: measure
      measure: taps
      at: [{dimension: line, hierarchy: line, level: team}]
      operator: more
      values: [{prompt: busy_from}]
  - name: cheap_or_east
    caption: cheap or east
    condition:
      kind: group
      join: any
      parts:
        - {dimension: fare, hierarchy: fare, members: [[a]]}
        - {dimension: line, hierarchy: area, members: [[east]]}
prompts:
  - {name: busy_from, caption: How many?, type: number, values: [2.37]}
  - {name: which_team, caption: Which team?, type: number, values: [1]}
roles:
  - {name: rails, caption: Rails, conditions: [{dimension: line, hierarchy: line, members: [[tram], [null]]}]}
  - {name: east, caption: East, elsewhere: everything, conditions: [{dimension: line, hierarchy: area, members: [[east]]}]}
  - {name: cheap, caption: Cheap, conditions: [{dimension: fare, hierarchy: fare, action: leave_out, members: [[b]]}]}
measures:
  - {name: boardings, caption: Boardings, table: taps, aggregate: sum, expression: boardings}
  - {name: revenue, caption: Revenue, table: taps, aggregate: sum, expression: revenue}
  - {name: taps, caption: Taps, table: taps, aggregate: count}
  - {name: delays, caption: Delays, table: taps, aggregate: count_values, expression: delay}
  - {name: delay_average, caption: Average, table: taps, aggregate: average, expression: delay}
  - {name: delay_total, caption: Total delay, table: taps, aggregate: sum, expression: delay}
  - {name: revenue_least, caption: Least, table: taps, aggregate: min, expression: revenue}
  - {name: boardings_most, caption: Most, table: taps, aggregate: max, expression: boardings}
  - {name: revenue_average, caption: Average revenue, table: taps, aggregate: average, expression: revenue}
  - {name: cards, caption: Cards, table: taps, aggregate: distinct, expression: card}
  - {name: worth, caption: Worth, table: taps, aggregate: sum, expression: boardings * revenue}
  - {name: delay_median, caption: Median, table: taps, aggregate: median, expression: delay}
  - {name: revenue_tenth, caption: Tenth, table: taps, aggregate: percentile, percentile: 10, expression: revenue}
  - {name: delay_variance, caption: Variance, table: taps, aggregate: variance, expression: delay}
  - {name: boardings_deviation, caption: Deviation, table: taps, aggregate: deviation, expression: boardings}
  - {name: fare_each, caption: Fare each, table: taps, aggregate: ratio, numerator: revenue, denominator: boardings}
  - {name: last_delay, caption: Last delay, table: taps, aggregate: last, expression: delay, time: calendar}
  - {name: first_revenue, caption: First revenue, table: taps, aggregate: first, expression: revenue, time: calendar}
  - {name: debit, caption: Debit, table: taps, aggregate: debit, expression: revenue}
  - {name: credit, caption: Credit, table: taps, aggregate: credit, expression: revenue}
  - {name: weighed_delay, caption: Weighed delay, table: taps, aggregate: weighted_average, expression: delay, weight: boardings}
  - {name: cost_each, caption: Cost each, table: repairs, aggregate: ratio, numerator: repair_cost, denominator: taps}
  - {name: closing, caption: Closing, table: fleet, aggregate: balance, expression: available, time: calendar}
  - {name: first_held, caption: First, table: fleet, aggregate: balance, expression: available, time: calendar, over_time: first}
  - {name: mean_held, caption: Mean, table: fleet, aggregate: balance, expression: available, time: calendar, over_time: average}
  - {name: tram_boardings, caption: Tram boardings, table: taps, aggregate: sum, expression: boardings, where: [{dimension: line, hierarchy: line, members: [[tram]]}]}
  - {name: other_taps, caption: Other taps, table: taps, aggregate: count, where: [{dimension: band, hierarchy: band, action: leave_out, members: [[x]]}, {dimension: fare, hierarchy: fare, members: [[a], [b, 1]]}]}
  - {name: open_repairs, caption: Open, table: repairs, aggregate: open, started: started, ended: ended, time: calendar, roles: {line: from}}
  - {name: repairs, caption: Repairs, table: repairs, aggregate: count, roles: {line: from}}
  - {name: repair_cost, caption: Repair cost, table: repairs, aggregate: sum, expression: cost, roles: {line: from}}
  - {name: arrivals, caption: Arrivals, table: repairs, aggregate: count, roles: {line: to}}
"""

DAYS = ("2023-12-31", "2024-01-01", "2024-01-02", "2024-02-29", "2025-01-05", "2025-03-01")
MODES = ("bus", "ferry", "tram", None)


def random_rows(seed: int) -> dict[str, list[dict[str, object]]]:
    """The rows of all three tables, the same for the same seed."""
    random = np.random.default_rng(seed)

    def pick(values: tuple[object, ...], blank: float = 0.0) -> object:
        return None if random.random() < blank else values[int(random.integers(len(values)))]

    depots = [{"depot": number, "region": pick(("east", "west"), 0.2)} for number in range(int(random.integers(1, 4)))]
    lines = [
        {
            "line": f"L{number}", "mode": pick(MODES), "team": pick((1, 2, 3), 0.15),
            "week_year": pick((2024, 2025), 0.1), "week": pick((1, 2, 52), 0.1),
            "depot_id": pick((*(each["depot"] for each in depots), 77), 0.15), "colour": pick(("red", "Blue"), 0.2),
        }
        for number in range(int(random.integers(1, 9)))
    ]  # fmt: skip
    fares = [{"product": number, "family": pick(("a", "b"), 0.2)} for number in range(int(random.integers(1, 5)))]
    huge = 10 ** int(random.integers(0, 15))
    taps = [
        {
            "line_id": pick((*(each["line"] for each in lines), "unknown"), 0.1),
            "product_id": pick((*(each["product"] for each in fares), 99), 0.1),
            "band": pick(("x", "y"), 0.2),
            "boardings": None if random.random() < 0.15 else int(random.integers(-3, 9)),
            "revenue": None if random.random() < 0.2 else Decimal(int(random.integers(-huge, huge + 1))).scaleb(-2),
            "delay": None if random.random() < 0.3 else float(np.round(random.normal(3, 40), 3)),
            "card": None if random.random() < 0.1 else int(random.integers(0, 6)),
        }
        for _ in range(int(random.integers(1, 60)))
    ]
    known = (*(each["line"] for each in lines), "unknown")
    repairs = [
        {
            "from_line": pick(known, 0.2),
            "to_line": pick(known, 0.2),
            "cost": Decimal(int(random.integers(-999, 9999))).scaleb(-2),
        }
        for _ in range(int(random.integers(1, 30)))
    ]
    # A chain keeps the tree four levels deep; the other accounts hang anywhere, some below nothing that is there.
    accounts: list[dict[str, object]] = [
        {"account": f"A{number}", "parent": f"A{number - 1}" if number else None} for number in range(4)
    ]
    for number in range(4, 4 + int(random.integers(0, 5))):
        accounts.append(
            {
                "account": f"A{number}",
                "parent": pick(("A0", "A1", "A2", *(f"A{each}" for each in range(4, number) if each < 6), "Z"), 0.2),
            }
        )
    accounts = _shallow(accounts)
    for tap in taps:
        tap["account_id"] = pick((*(each["account"] for each in accounts), "Y"), 0.1)
    days = [{"day": day, "year": int(day[:4]), "month": int(day[5:7])} for day in random.permutation(DAYS).tolist()]
    dated = (*DAYS, "2031-01-01")
    for tap in taps:
        tap["day"] = pick(dated, 0.1)
    around = (*dated, "2020-05-05", "2024-01-15")
    for repair in repairs:
        repair["started"], repair["ended"] = pick(around, 0.1), pick(around, 0.4)
    fleet = [
        {
            "day": pick(dated, 0.1),
            "line_id": pick(known, 0.1),
            "available": None if random.random() < 0.1 else int(random.integers(-5, 50)),
        }
        for _ in range(int(random.integers(1, 40)))
    ]
    return {
        "days": days,
        "accounts": accounts,
        "fleet": fleet,
        "repairs": repairs,
        "lines": lines,
        "fares": fares,
        "taps": taps,
        "depots": depots,
    }


def _shallow(accounts: list[dict[str, object]]) -> list[dict[str, object]]:
    """Leaves out accounts that would make the tree deeper than four levels."""
    parent = {each["account"]: each["parent"] for each in accounts}

    def depth(account: object) -> int:
        return 0 if account not in parent else 1 + depth(parent[account])

    return [each for each in accounts if depth(each["account"]) <= 4]


SCHEMA = {
    "accounts": pa.schema([("account", pa.string()), ("parent", pa.string())]),
    "lines": pa.schema([("line", pa.string()), ("mode", pa.string()), ("team", pa.int64()), ("week_year", pa.int64()),
                        ("week", pa.int64()), ("depot_id", pa.int64()), ("colour", pa.string())]),
    "depots": pa.schema([("depot", pa.int64()), ("region", pa.string())]),
    "repairs": pa.schema([("from_line", pa.string()), ("to_line", pa.string()), ("cost", pa.decimal128(9, 2)), ("started", pa.string()), ("ended", pa.string())]),
    "days": pa.schema([("day", pa.string()), ("year", pa.int64()), ("month", pa.int64())]),
    "fleet": pa.schema([("day", pa.string()), ("line_id", pa.string()), ("available", pa.int64())]),
    "fares": pa.schema([("product", pa.int64()), ("family", pa.string())]),
    "taps": pa.schema([("line_id", pa.string()), ("product_id", pa.int64()), ("band", pa.string()),
                       ("boardings", pa.int64()), ("revenue", pa.decimal128(20, 2)), ("delay", pa.float64()),
                       ("card", pa.int64()), ("day", pa.string()), ("account_id", pa.string())]),
}  # fmt: skip


def source_of(rows: dict[str, list[dict[str, object]]]) -> ColumnSource:
    """The engine's source over those rows."""
    tables = {
        name: table_of_arrow(name, Table(file=f"{name}.parquet"), pa.Table.from_pylist(each, SCHEMA[name]))
        for name, each in rows.items()
    }
    return ColumnSource(_model(), tables)


@cache
def _model() -> SemanticModel:
    return read_model(MODEL)
