"""The smaller facts: incidents, the ledger and the fleet.

The story in them: line 14's incidents stay open, the Quarry Lane depot runs over plan, the ferry F2 costs
more than it earns.
"""

from __future__ import annotations

import numpy as np
import pyarrow as pa

from dastan.demo.dimensions import (
    CAUSES,
    DEPOTS,
    ENERGY,
    FARE_PRODUCTS,
    FIRST_DAY,
    LEAF_ACCOUNTS,
    LINES,
    MODES,
    SEVERITIES,
    SOLD_AS,
    TEAMS,
    days,
)
from dastan.demo.journeys import _decimal, _pick, _text

INCIDENT_COUNT = 14_000
OPEN_LINE = "14"
OVER_PLAN_DEPOT, OVER_PLAN = "quarry_lane", 1.13
LOSING_LINE = "f2"
CREW = "511"
FOREIGN_PER_CROWN = 0.137
"""The second currency, which is made up as well."""


def incidents(seed: int) -> pa.Table:
    """One row per incident: opened on, resolved on (blank while open), and what it was about."""
    random = np.random.default_rng([seed, 1])
    day = days()
    opened = np.sort(random.integers(0, len(day), INCIDENT_COUNT))
    line = _pick([each.weight * (1 + each.late_min / 3) for each in LINES], INCIDENT_COUNT, random)
    cause = _pick([5, 3, 3, 4, 2, 2, 1, 1], INCIDENT_COUNT, random)
    severity = _pick([6, 4, 2, 0.5], INCIDENT_COUNT, random)
    took = np.ceil(random.gamma(1.2, 4.0, INCIDENT_COUNT)).astype(np.int64)
    resolved = opened + took
    is_stuck = np.array([each.key == OPEN_LINE for each in LINES])[line] & (random.random(INCIDENT_COUNT) < 0.55)
    is_open = is_stuck | (resolved >= len(day))
    depots = [each[0] for each in DEPOTS]
    depot = np.array([depots.index(each.depot) for each in LINES])[line]
    handler = 100 * random.integers(1, len(TEAMS) + 1, INCIDENT_COUNT) + random.integers(0, 5, INCIDENT_COUNT)
    number = np.arange(INCIDENT_COUNT)
    return pa.table(
        {
            "incident_id": pa.array(number + 100_000),
            "opened_on": pa.array(day[opened]),
            "resolved_on": pa.array(day[np.minimum(resolved, len(day) - 1)], mask=is_open),
            "severity_id": _text([each[0] for each in SEVERITIES], severity),
            "cause_id": _text([each.lower().replace(" ", "_") for each in CAUSES], cause),
            "line_id": _text([each.key for each in LINES], line, random.random(INCIDENT_COUNT) < 0.03),
            "depot_id": _text(depots, depot, random.random(INCIDENT_COUNT) < 0.05),
            "handler_id": pa.array(handler, mask=random.random(INCIDENT_COUNT) < 0.06),
            "page": pa.array([f"/incidents/{100_000 + each}" for each in number]),
        }
    )


def ledger(seed: int) -> pa.Table:
    """One row per posting: account, depot, line, fare product, version, debit and credit. Energy is posted to the lines
    that run on it, fares by what was sold."""
    random = np.random.default_rng([seed, 2])
    months = np.unique(days().astype("datetime64[M]"))
    accounts = list(LEAF_ACCOUNTS)
    depots = [each[0] for each in DEPOTS]
    versions = ["actual", "plan", "forecast"]
    grid = np.indices((len(months), len(accounts), len(depots), len(LINES), len(versions))).reshape(5, -1)
    fits = np.array([depots.index(each.depot) for each in LINES])[grid[3]] == grid[2]
    runs_on = np.array([[each.mode in ENERGY.get(account, MODES) for account in accounts] for each in LINES])
    fits &= runs_on[grid[3], grid[1]]
    month, account, depot, line, version = grid[:, fits]
    count = len(month)
    is_revenue = np.array([LEAF_ACCOUNTS[each][2] > 0 for each in accounts])[account]
    weight = np.array([each.weight for each in LINES])[line]
    amount = weight * np.where(is_revenue, 280, 80) * (1 + 0.003 * month) * random.normal(1, 0.06, count)
    amount *= np.where((depot == depots.index(OVER_PLAN_DEPOT)) & (version == 0) & ~is_revenue, OVER_PLAN, 1)
    # One account has a line's energy where each of them would: it comes to as much.
    amount *= np.where(np.isin(account, [accounts.index(each) for each in ENERGY]), len(ENERGY), 1)
    losing = [each.key for each in LINES].index(LOSING_LINE)
    amount *= np.where((line == losing) & ~is_revenue, 6.5, 1)
    cents = np.round(np.maximum(amount, 1) * 100).astype(np.int64)
    day = months[month].astype("datetime64[D]") + random.integers(0, 28, count)
    closing = _closing(months, accounts)
    parts = pa.table(
        {
            "date": pa.array(day),
            "account_id": _text([*accounts, CREW], _some_to_crew(accounts, account, random)),
            "depot_id": _text(depots, depot, random.random(count) < 0.18),
            "line_id": _text([each.key for each in LINES], line, random.random(count) < 0.27),
            "fare_product_id": _sold(accounts, account, day, random),
            "version_id": _text(versions, version),
            "kind": _text(["posting", "closing"], np.zeros(count, np.int64)),
            "debit": _decimal(np.where(is_revenue, 0, cents), 2),
            "credit": _decimal(np.where(is_revenue, cents, 0), 2),
            "amount_foreign": _decimal(np.round(cents * FOREIGN_PER_CROWN).astype(np.int64), 2),
        }
    )
    whole = pa.concat_tables([parts, closing.cast(parts.schema)]).combine_chunks()
    return whole.sort_by("date")


def _sold(accounts: list[str], account: np.ndarray, day: np.ndarray, random: np.random.Generator) -> pa.Array:
    """The fare product that a posting of revenue is for, of the families that its account takes; none of a cost."""
    product, is_sold = np.zeros(len(account), np.int64), np.zeros(len(account), np.bool_)
    for key, families in SOLD_AS.items():
        own = np.flatnonzero(account == accounts.index(key))
        product[own] = random.choice([at for at, each in enumerate(FARE_PRODUCTS) if each.family in families], len(own))
        is_sold[own] = True
    # What is new was not sold before its first day: the first of its family was.
    for at, each in enumerate(FARE_PRODUCTS):
        if each.available_from > FIRST_DAY:
            first = next(one for one, other in enumerate(FARE_PRODUCTS) if other.family == each.family)
            product[(product == at) & (day < np.datetime64(each.available_from))] = first
    return _text([each.key for each in FARE_PRODUCTS], product, ~is_sold)


def _some_to_crew(accounts: list[str], account: np.ndarray, random: np.random.Generator) -> np.ndarray:
    """Some of what the drivers cost is posted to the account above, which so has records beside its children's."""
    drivers = account == accounts.index("5110")
    return np.where(drivers & (random.random(len(account)) < 0.06), len(accounts), account)


def _closing(months: np.ndarray, accounts: list[str]) -> pa.Table:
    """The entries that close each account at the year's end: no depot, no line."""
    ends = np.array([f"{year}-12-31" for year in sorted({str(each)[:4] for each in months})], "datetime64[D]")
    day, account = (each.ravel() for each in np.meshgrid(ends, np.arange(len(accounts)), indexing="ij"))
    count = len(day)
    nothing = np.ones(count, np.bool_)
    is_revenue = np.array([LEAF_ACCOUNTS[each][2] > 0 for each in accounts])[account]
    cents = (200_00 + 40_00 * account).astype(np.int64)
    return pa.table(
        {
            "date": pa.array(day),
            "account_id": _text(accounts, account),
            "depot_id": _text(["harbour"], np.zeros(count, np.int64), nothing),
            "line_id": _text(["f1"], np.zeros(count, np.int64), nothing),
            "fare_product_id": _text(["single"], np.zeros(count, np.int64), nothing),
            "version_id": _text(["actual"], np.zeros(count, np.int64)),
            "kind": _text(["closing"], np.zeros(count, np.int64)),
            "debit": _decimal(np.where(is_revenue, cents, 0), 2),
            "credit": _decimal(np.where(is_revenue, 0, cents), 2),
            "amount_foreign": _decimal(np.round(cents * FOREIGN_PER_CROWN).astype(np.int64), 2),
        }
    )


def fleet(seed: int) -> pa.Table:
    """One row per day, depot and vehicle type: vehicles available that evening. A balance."""
    random = np.random.default_rng([seed, 3])
    day = days()
    held = {
        "north_quay": {"tram": 46}, "quarry_lane": {"bus": 118}, "saltmarsh": {"metro": 38},
        "mill_road": {"bus": 84}, "harbour": {"ferry": 9, "bus": 6}, "uplands": {"tram": 17, "bus": 22},
    }  # fmt: skip
    parts = []
    for depot, vehicles in held.items():
        for vehicle, count in vehicles.items():
            away = random.binomial(count, 0.07, len(day))
            parts.append(
                pa.table(
                    {
                        "date": pa.array(day),
                        "depot_id": pa.array([depot] * len(day)),
                        "vehicle_type_id": pa.array([vehicle] * len(day)),
                        "vehicles_available": pa.array(count - away),
                    }
                )
            )
    return pa.concat_tables(parts).combine_chunks().sort_by("date")
