"""What the oracle knows of the star: its facts and levels in SQL, its measures, and conditions as predicates.

A predicate is a text of SQL over a fact joined to everything it reaches. Values are written into it: they are
the tests' own.
"""

from __future__ import annotations

import math
import sqlite3
import statistics
from collections.abc import Callable, Sequence
from datetime import date, timedelta
from decimal import Decimal
from fractions import Fraction

from dastan.core.analysis.document import Joint, PlacedMeasure
from dastan.core.model.parts import Key, MemberPath
from tests.core.engine.random_model import SCHEMA

Value = int | float | Decimal | None

LEVELS = {
    "line": ("mode", "team", "line"),
    "tour": ("mode", "team", "line"),
    "colour": ("colour",),
    "picks": ("picks",),
    "tree": ("tree_1", "tree_2", "tree_3", "tree_4"),
    "fare": ("family", "product"),
    "band": ("band",),
    "week": ("week_year", "week"),
    "area": ("region", "depot", "line"),
    "calendar": ("year", "month", "day"),
}
DIMENSION_OF = {"tour": "line", "colour": "line", "picks": "line", "tree": "account", "week": "line", "area": "line"}
COLUMN = {
    "mode": "lines.mode", "team": "lines.team", "line": "lines.line", "colour": "lines.colour",
    "family": "fares.family", "product": "fares.product", "band": "taps.band", "week_year": "lines.week_year",
    "week": "lines.week", "region": "depots.region", "depot": "depots.depot", "year": "days.year",
    "month": "days.month", "day": "days.day", "tree_1": "paths.a1", "tree_2": "paths.a2", "tree_3": "paths.a3",
    "tree_4": "paths.a4",
}  # fmt: skip
PICKS = {
    "rails": "lines.mode IS 'tram'",
    "first": "(lines.mode IS 'tram' AND lines.team IS 1) OR (lines.mode IS 'bus' AND (lines.team IS 1 OR lines.team IS 2))",
    "east": "depots.region IS 'east'",
}
_DEPOT = "LEFT JOIN depots ON depots.depot = lines.depot_id"
LINES = f"lines {_DEPOT}"
FACTS = {
    "taps": f"taps LEFT JOIN lines ON lines.line = taps.line_id {_DEPOT} LEFT JOIN fares ON "
    "fares.product = taps.product_id LEFT JOIN days ON days.day = taps.day LEFT JOIN paths ON paths.account = "
    "taps.account_id",
    "open": f"repairs LEFT JOIN lines ON lines.line = repairs.from_line {_DEPOT}",
    "fleet": f"fleet LEFT JOIN lines ON lines.line = fleet.line_id {_DEPOT} LEFT JOIN days ON days.day = fleet.day",
    "from": f"repairs LEFT JOIN lines ON lines.line = repairs.from_line {_DEPOT} LEFT JOIN days ON "
    "days.day = repairs.started",
    "to": f"repairs LEFT JOIN lines ON lines.line = repairs.to_line {_DEPOT} LEFT JOIN days ON "
    "days.day = repairs.started",
}
"""The records that measures count, each joined by its roles to what it reaches."""
TABLE_OF = {"line": LINES, "fare": "fares", "band": "taps", "account": "paths", "calendar": "days"}
REACHED = {
    "taps": {"line", "fare", "band", "account", "calendar"},
    "fleet": {"line", "calendar"},
    "from": {"line", "calendar"},
    "to": {"line", "calendar"},
    "open": {"line", "calendar"},
}
"""The dimensions that reach each fact."""
POINTER = {
    "taps": {"line": "taps.line_id", "fare": "taps.product_id", "calendar": "taps.day", "account": "taps.account_id"},
    "fleet": {"line": "fleet.line_id", "calendar": "fleet.day"},
    "from": {"line": "repairs.from_line", "calendar": "repairs.started"},
    "to": {"line": "repairs.to_line", "calendar": "repairs.started"},
    "open": {"line": "repairs.from_line", "calendar": "repairs.started"},
}
KEY_OF = {"line": "lines.line", "fare": "fares.product", "calendar": "days.day", "account": "paths.account"}

_TRAMS = "lines.mode IS 'tram'"
_OTHERS = "NOT (taps.band IS 'x') AND (fares.family IS 'a' OR (fares.family IS 'b' AND fares.product IS 1))"
# Per measure: its fact, its own condition, its aggregate, the argument, and the argument's decimals (None: float).
MEASURES: dict[str, tuple[str, str, str, str, int | None]] = {
    "boardings": ("taps", "1", "sum", "boardings", 0),
    "revenue": ("taps", "1", "sum", "revenue", 2),
    "taps": ("taps", "1", "count", "1", 0),
    "delays": ("taps", "1", "count_values", "delay", 0),
    "delay_average": ("taps", "1", "average", "delay", None),
    "delay_total": ("taps", "1", "sum", "delay", None),
    "revenue_least": ("taps", "1", "min", "revenue", 2),
    "boardings_most": ("taps", "1", "max", "boardings", 0),
    "revenue_average": ("taps", "1", "average", "revenue", 2),
    "cards": ("taps", "1", "distinct", "card", 0),
    "worth": ("taps", "1", "sum", "boardings * revenue", 2),
    "delay_median": ("taps", "1", "median", "delay", None),
    "revenue_tenth": ("taps", "1", "tenth", "revenue", 2),
    "delay_variance": ("taps", "1", "variance", "delay", None),
    "boardings_deviation": ("taps", "1", "deviation", "boardings", 0),
    "last_delay": ("taps", "1", "last", "delay", None),
    "first_revenue": ("taps", "1", "first", "revenue", 2),
    "debit": ("taps", "1", "debit", "revenue", 2),
    "credit": ("taps", "1", "credit", "revenue", 2),
    "weighed_delay": ("taps", "1", "weighed", "delay", None),
    "tram_boardings": ("taps", _TRAMS, "sum", "boardings", 0),
    "other_taps": ("taps", _OTHERS, "count", "1", 0),
    "repairs": ("from", "1", "count", "1", 0),
    "repair_cost": ("from", "1", "sum", "cost", 2),
    "arrivals": ("to", "1", "count", "1", 0),
    "closing": ("fleet", "1", "balance_last", "available", 0),
    "first_held": ("fleet", "1", "balance_first", "available", 0),
    "mean_held": ("fleet", "1", "balance_mean", "available", 0),
    "open_repairs": ("open", "1", "open", "1", 0),
}
AMONG = {"tram_boardings": "1", "other_taps": "1"}
"""Of measures with a condition of their own, which records stand without it: a count is zero where they do."""
RATIOS = {"fare_each": ("revenue", "boardings"), "cost_each": ("repair_cost", "taps")}
FILTER_DIMENSIONS = {"busy": {"line"}, "rails_only": {"line"}, "cheap_or_east": {"line", "fare"}}
ROLES = {
    "rails": ("line", "(lines.mode IS 'tram' OR lines.mode IS NULL)", "nothing"),
    "east": ("line", "depots.region IS 'east'", "everything"),
    "cheap": ("fare", "NOT (fares.family IS 'b')", "nothing"),
}


def database(tables: dict[str, list[dict[str, object]]]) -> sqlite3.Connection:
    """The rows in SQLite, decimals as whole numbers of their smallest unit, so that sums are exact there too."""
    connection = sqlite3.connect(":memory:")
    for name, rows in tables.items():
        columns = list(rows[0]) if rows else SCHEMA[name].names
        connection.execute(f"CREATE TABLE {name} ({', '.join(columns)})")
        marks = ", ".join("?" * len(columns))
        values = [
            [int(row[each].scaleb(2)) if isinstance(row[each], Decimal) else row[each] for each in columns]
            for row in rows
        ]  # type: ignore[union-attr]
        connection.executemany(f"INSERT INTO {name} VALUES ({marks})", values)
    connection.execute("CREATE TABLE branches AS SELECT 0 AS branch UNION ALL VALUES (1), (2), (3), (4)")
    connection.execute(
        "CREATE TABLE paths AS WITH RECURSIVE tree (account, path) AS ("
        "SELECT account, json_array(account) FROM accounts WHERE parent IS NULL "
        "OR parent NOT IN (SELECT account FROM accounts) "
        "UNION ALL SELECT accounts.account, json_insert(tree.path, '$[#]', accounts.account) "
        "FROM accounts JOIN tree ON accounts.parent = tree.account) "
        "SELECT account, path ->> 0 AS a1, path ->> 1 AS a2, path ->> 2 AS a3, path ->> 3 AS a4 FROM tree"
    )
    return connection


def literal(value: Key) -> str:
    if value is None:
        return "NULL"
    return f"'{value}'" if isinstance(value, str) else str(value)


JOINTS: list[Joint] = []
"""The joint members of the analysis that is answered. A record stands once for itself, in branch 0, and once in the
branch of each joint member that holds it: there the levels from the joint member's own down are told anew."""


BELOW: dict[str, dict[MemberPath, MemberPath]] = {}
"""Of each joint member, the paths of what stands below it, and the model's own path of each."""


THERE: dict[str, list[MemberPath]] = {}
"""Of each joint member, those of its members that there are."""


def use_joints(connection: sqlite3.Connection, joints: Sequence[Joint]) -> None:
    """Answers with these joint members from now on."""
    JOINTS[:] = joints
    BELOW.clear()
    THERE.clear()
    for joint in joints:
        levels, own = LEVELS[joint.hierarchy], joint_path(joint)
        table = TABLE_OF[DIMENSION_OF.get(joint.hierarchy, joint.hierarchy)]
        THERE[joint.name] = [
            each
            for each in joint.members
            if set(each) == {None}
            or connection.execute(f"SELECT 1 FROM {table} WHERE {_plain(joint.hierarchy, each)}").fetchone()
        ]
        BELOW[joint.name] = {}
        here: dict[MemberPath, MemberPath] = {}
        for length in range(len(own), len(levels) + 1):
            columns = ", ".join(COLUMN[each] for each in levels[:length])
            rows = connection.execute(f"SELECT DISTINCT {columns} FROM {table} WHERE {records_of(joint)}").fetchall()
            paths = {tuple(row) for row in rows}
            if any(set(path) == {None} for path in joint.members):
                paths.add((None,) * length)
            if length == len(own):
                here = dict.fromkeys(paths, own)
                continue
            pairs = [(here[path[:-1]], path[-1]) for path in paths]
            for path in paths:
                pair = (here[path[:-1]], path[-1])
                is_told = pairs.count(pair) > 1
                above = next(place for place, key in enumerate(own) if str(key).startswith("joint:"))
                key = " / ".join(str(each) for each in path[above:]) if is_told else path[-1]
                here[path] = (*pair[0], key)
                BELOW[joint.name][here[path]] = path


def of_hierarchy(hierarchy: str) -> list[Joint]:
    return [each for each in JOINTS if each.hierarchy == hierarchy]


def joint_path(joint: Joint) -> MemberPath:
    """Where a joint member stands: under the longest beginning that the paths above its members share."""
    above = [path[:-1] for path in joint.members]
    shared = 0
    while all(len(path) > shared and path[shared] == above[0][shared] for path in above):
        shared += 1
    # It stands as high as the highest of its members, with nothing but itself on the way there.
    return (*above[0][:shared], *[f"joint:{joint.name}"] * (min(map(len, joint.members)) - shared))


def is_on_the_way(hierarchy: str, path: MemberPath) -> bool:
    """Whether a path leads to a joint member that stands further down."""
    return any(
        len(path) < len(own) and path == own[: len(path)] and str(path[-1]).startswith("joint:")
        for own in map(joint_path, of_hierarchy(hierarchy))
    )


def column(hierarchy: str, level: str) -> str:
    """A level's key in the branch that is looked at."""
    depth, cases = LEVELS[hierarchy].index(level), []
    for number, joint in enumerate(of_hierarchy(hierarchy), 1):
        path = joint_path(joint)
        if depth < len(path) and str(path[depth]).startswith("joint:"):
            cases.append(f"WHEN {number} THEN '{path[-1]}'")
        told = {own: base for own, base in BELOW[joint.name].items() if len(own) == depth + 1 and own[-1] != base[-1]}
        if told:
            inner = [f"WHEN {_plain(hierarchy, base)} THEN '{own[-1]}'" for own, base in told.items()]
            cases.append(f"WHEN {number} THEN (CASE {' '.join(inner)} ELSE {COLUMN[level]} END)")
    if not cases:
        return COLUMN[level]
    return f"(CASE b_{hierarchy}.branch {' '.join(cases)} ELSE {COLUMN[level]} END)"


def with_branches(table: str, dimensions: set[str]) -> str:
    """Some rows, each once for every branch that holds it."""
    for hierarchy in dict.fromkeys(each.hierarchy for each in JOINTS):
        if DIMENSION_OF.get(hierarchy, hierarchy) in dimensions:
            held = [f"b_{hierarchy}.branch = 0"]
            for number, joint in enumerate(of_hierarchy(hierarchy), 1):
                held.append(f"(b_{hierarchy}.branch = {number} AND {records_of(joint)})")
            table += f" JOIN branches b_{hierarchy} ON {joined(held, 'OR', '0')}"
    return table


def records_of(joint: Joint) -> str:
    """The records of a joint member's members."""
    return joined([_plain(joint.hierarchy, each) for each in joint.members], "OR", "(0)")


def facts(fact: str) -> str:
    return with_branches(FACTS[fact], REACHED[fact] - ({"calendar"} if fact == "open" else set()))


def table_of(name: str) -> str:
    return with_branches(TABLE_OF[name], {name})


def values_of(fact: str, argument: str, condition: str, day: str = "days.day", weight: str = "NULL") -> str:
    """An argument, a day and a weight of each record, once."""
    own = FACTS[fact].split()[0]
    return (
        f"SELECT a, d, w FROM (SELECT DISTINCT {own}.rowid, {argument} AS a, {day} AS d, {weight} AS w "
        f"FROM {facts(fact)} WHERE {condition})"
    )


def filter_text(name: str) -> str:
    """A ready-made filter."""
    if name == "rails_only":
        return path_predicate("line", ("tram",))
    return f"({path_predicate('fare', ('a',))} OR {path_predicate('area', ('east',))})"


def path_predicate(hierarchy: str, path: MemberPath) -> str:
    """Records below a member, as the branch that is looked at shows them."""
    if hierarchy == "picks":
        if path[0] is None:
            return "NOT (" + " OR ".join(f"({each})" for each in PICKS.values()) + ")"
        return f"({PICKS[str(path[0])]})" if path[0] in PICKS else "0"
    levels = zip(LEVELS[hierarchy], path, strict=False)
    return "(" + (" AND ".join(f"{column(hierarchy, level)} IS {literal(key)}" for level, key in levels) or "1") + ")"


def record_predicate(hierarchy: str, path: MemberPath) -> str:
    """Records of a member, whichever branch is looked at."""
    if hierarchy == "picks":
        return path_predicate(hierarchy, path)
    parts = []
    for joint in of_hierarchy(hierarchy):
        own = joint_path(joint)
        if path[: len(own)] == own or (is_on_the_way(hierarchy, path) and own[: len(path)] == path):
            parts.append(
                records_of(joint) if len(path) <= len(own) else _plain(hierarchy, BELOW[joint.name].get(path, ("?",)))
            )
    return joined(parts, "OR", "0") if parts else _plain(hierarchy, path)


def _plain(hierarchy: str, path: MemberPath) -> str:
    levels = zip(LEVELS[hierarchy], path, strict=False)
    return joined([f"{COLUMN[level]} IS {literal(key)}" for level, key in levels], "AND", "1")


def joined(parts: Sequence[str], operator: str, without: str) -> str:
    """Predicates joined by AND or OR."""
    return "(" + f" {operator} ".join(parts) + ")" if parts else without


def compared(column: str, operator: str, values: Sequence[Key]) -> str:
    """A comparison that never holds for a blank. Texts compare whatever their case."""
    text = f"lower({column})" if all(isinstance(each, str) for each in values) else column
    wanted = [literal(each.lower() if isinstance(each, str) else each) for each in values]
    match operator:
        case "equal":
            found = f"{text} IN ({', '.join(wanted)})"
        case "not_equal":
            found = f"{text} NOT IN ({', '.join(wanted)})"
        case "between":
            found = f"{text} BETWEEN {wanted[0]} AND {wanted[1]}"
        case "contains":
            found = " OR ".join(f"instr({text}, {each}) > 0" for each in wanted)
        case "begins_with":
            found = " OR ".join(f"instr({text}, {each}) = 1" for each in wanted)
        case "ends_with":
            found = " OR ".join(f"substr({text}, -length({each})) = {each}" for each in wanted)
        case _:
            sign = {"less": "<", "at_most": "<=", "more": ">", "at_least": ">="}[operator]
            found = f"{text} {sign} {wanted[0]}"
    return f"({column} IS NOT NULL AND ({found}))"


def days_in_period(unit: str, first: int, last: int, to_date: bool, anchor: date, days: Sequence[str]) -> list[str]:
    """The days, of those given, that lie in a moving period: found by numbering units, one day at a time."""

    def number(day: date) -> int:
        if unit == "day":
            return day.toordinal()
        if unit == "week":
            return (day.toordinal() - date(1, 1, 1).toordinal()) // 7
        length = {"month": 1, "quarter": 3, "financial_quarter": 3}.get(unit, 12)
        return (day.year * 12 + day.month - 1) // length

    def place(day: date) -> tuple[int, int]:
        if unit in ("day", "week"):
            return (0, day.toordinal() - (day - timedelta(day.weekday())).toordinal() if unit == "week" else 0)
        length = {"month": 1, "quarter": 3, "financial_quarter": 3}.get(unit, 12)
        return ((day.year * 12 + day.month - 1) % length, day.day)

    found = []
    for text in days:
        day = date.fromisoformat(text)
        offset = number(day) - number(anchor)
        is_in = first <= offset <= last
        if to_date and offset == last:
            is_in = is_in and place(day) <= place(anchor)
        if is_in:
            found.append(text)
    return found


def aggregate(
    kind: str, rows: Sequence[tuple[float | int | None, str | None, float | None]], scale: int | None
) -> Value:
    """A measure's value over (argument, day, boardings) of its records, none for no records."""
    if not rows:
        return None
    found = [value for value, _, _ in rows if value is not None]
    exact: Callable[[int], Value] = lambda value: Decimal(value).scaleb(-scale) if scale else value  # noqa: E731
    unit = 10 ** (scale or 0)
    match kind:
        case "count":
            return len(rows)
        case "count_values":
            return len(found)
        case "distinct":
            return len(set(found))
        case "sum" | "debit" | "credit":
            parts = found if kind == "sum" else [max(each if kind == "debit" else -each, 0) for each in found]
            if not parts:
                return None
            return math.fsum(parts) if scale is None else exact(sum(parts))  # type: ignore[arg-type]
        case "min" | "max":
            best = (min if kind == "min" else max)(found, default=None)
            return best if best is None or scale is None else exact(best)  # type: ignore[arg-type]
        case "average":
            return float(Fraction(sum(map(Fraction, found)), len(found) * unit)) if found else None
        case "median":
            return statistics.median(found) / unit if found else None
        case "tenth":
            if len(found) < 2:
                return found[0] / unit if found else None
            return statistics.quantiles(found, n=10, method="inclusive")[0] / unit
        case "variance" | "deviation":
            if len(found) < 2:
                return None
            return (statistics.variance if kind == "variance" else statistics.stdev)(found) / (
                unit**2 if kind == "variance" else unit
            )
        case "weighed":
            pairs = [(value, weight) for value, _, weight in rows if value is not None and weight is not None]
            total = sum(weight for _, weight in pairs)
            return (
                float(sum(Fraction(value) * Fraction(weight) for value, weight in pairs) / Fraction(total))
                if total
                else None
            )
        case "first" | "last":
            dated = [(day, value) for value, day, _ in rows if value is not None and day is not None]
            if not dated:
                return None
            wanted = (min if kind == "first" else max)(day for day, _ in dated)
            best = max(value for day, value in dated if day == wanted)
            return best if scale is None else exact(best)  # type: ignore[arg-type]
    raise AssertionError(kind)


def kind_of(placed: PlacedMeasure) -> tuple[str, str, str, str, int | None]:
    """A placed measure as an entry of MEASURES, by the aggregate chosen for it."""
    fact, where, kind, argument, scale = MEASURES[placed.measure]
    return fact, where, placed.aggregate or kind, argument, scale


def asked_by(placed: PlacedMeasure) -> list[tuple[str, str]]:
    """The records that a measure needs: a fact and its own condition, and all of it where it counts some of that."""
    fact, where = kind_of(placed)[:2]
    others = among(placed)
    return [(fact, where)] if others is None else [(fact, where), (fact, others)]


def among(placed: PlacedMeasure) -> str | None:
    """Where a count is zero and not empty that no record fits."""
    is_count = kind_of(placed)[2] in ("count", "count_values", "distinct")
    return AMONG.get(placed.measure) if is_count else None


def captions(key: Key) -> str:
    """A member's caption in the star: its key, or a set's own."""
    own = {f"joint:{each.name}": each.caption for each in JOINTS}
    known = {"rails": "Rails", "first": "First teams", "east": "East"} | own
    return known.get(str(key), str(key).split(" / ")[-1])
