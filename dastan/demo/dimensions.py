"""The small tables of Varrow Bay Transit: who, where and what there is."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date

import numpy as np
import pyarrow as pa

FIRST_DAY = date(2021, 1, 1)
LAST_DAY = date(2025, 12, 31)

DEPOTS = (
    ("north_quay", "North Quay"), ("quarry_lane", "Quarry Lane"), ("saltmarsh", "Saltmarsh"),
    ("mill_road", "Mill Road"), ("harbour", "Harbour"), ("uplands", "Uplands"),
)  # fmt: skip
VEHICLE_TYPES = (("tram", "Tram set"), ("metro", "Metro unit"), ("bus", "Bus"), ("ferry", "Ferry boat"))
PASSENGER_GROUPS = (
    ("adult", "Adult", 0.61), ("youth", "Youth", 0.14), ("child", "Child", 0.08),
    ("senior", "Senior", 0.13), ("staff", "Staff", 0.04),
)  # fmt: skip
TAP_STATUSES = (("accepted", "Accepted", 0.962), ("refused", "Refused", 0.027), ("corrected", "Corrected", 0.011))
CAUSES = (
    "Vehicle fault", "Signal fault", "Road works", "Passenger incident", "Weather", "Staff shortage",
    "Track obstruction", "Power failure",
)  # fmt: skip
SEVERITIES = (("low", "Low"), ("medium", "Medium"), ("high", "High"), ("critical", "Critical"))
TEAMS = ("Control room", "Rolling stock", "Infrastructure", "Passenger care")


@dataclass(frozen=True, slots=True)
class FareProduct:
    key: str
    caption: str
    family: str
    price_cents: int
    weight: float
    available_from: date = FIRST_DAY


FARE_PRODUCTS = (
    FareProduct("single", "Single ticket", "Tickets", 310, 0.23),
    FareProduct("short_hop", "Short hop", "Tickets", 180, 0.09),
    FareProduct("transfer", "Transfer ticket", "Tickets", 370, 0.07),
    FareProduct("day", "Day pass", "Passes", 225, 0.10),
    FareProduct("week", "Week pass", "Passes", 190, 0.09),
    FareProduct("month", "Month pass", "Passes", 165, 0.21),
    FareProduct("year", "Year pass", "Passes", 140, 0.08),
    FareProduct("school", "School pass", "Concessions", 60, 0.06),
    FareProduct("senior_off_peak", "Senior off-peak", "Concessions", 90, 0.05),
    FareProduct("visitor_day", "Visitor day", "Visitors", 420, 0.02),
    FareProduct("island", "Island return", "Visitors", 890, 0.01),
    FareProduct("coast_saver", "Coast saver", "Passes", 130, 0.16, date(2024, 7, 1)),
)
FAMILIES = ("Tickets", "Passes", "Concessions", "Visitors")


@dataclass(frozen=True, slots=True)
class Line:
    key: str
    caption: str
    group: str
    mode: str
    livery: str
    depot: str
    weight: float
    """Share of all boardings, not yet made to add up to one."""
    late_min: float
    """Mean delay in minutes."""


def _lines() -> tuple[Line, ...]:
    lines: list[Line] = []

    def add(mode: str, group: str, depot: str, late: float, each: dict[str, float], livery: str) -> None:
        for caption, weight in each.items():
            lines.append(Line(caption.lower().replace(" ", "_"), caption, group, mode, livery, depot, weight, late))

    add("Tram", "North shore", "north_quay", 1.9, {"Line 1": 3.4, "Line 2": 3.9, "Line 4": 4.4}, "Cream")
    add("Tram", "Old town", "north_quay", 2.6, {"Line 3": 5.6, "Line 6": 5.2}, "Cream")
    add("Tram", "Hill", "uplands", 2.1, {"Line 8": 5.0}, "Slate")
    add("Metro", "Cross-bay", "saltmarsh", 0.8, {"M1": 7.7, "M2": 12.6}, "Slate")
    add("Metro", "Airport", "saltmarsh", 0.7, {"M5": 13.6}, "Copper")
    add("Bus", "City", "mill_road", 4.1, {"10": 1.6, "11": 1.4, "12": 0.9, "14": 0.7}, "Moss")
    add("Bus", "Coast road", "quarry_lane", 3.4, {"20": 3.1, "21": 2.7, "22": 2.0, "25": 1.6}, "Moss")
    add("Bus", "Night services", "mill_road", 2.2, {"N1": 2.1, "N2": 1.6, "N7": 1.3}, "Ink")
    add("Bus", "Valley", "quarry_lane", 4.6, {"30": 2.4, "31": 1.9, "33": 1.5, "36": 1.4}, "Moss")
    add("Bus", "Schools", "quarry_lane", 3.0, {"S1": 3.4, "S2": 3.1, "S3": 2.3, "S4": 1.4}, "Copper")
    add("Ferry", "Inner harbour", "harbour", 1.2, {"F1": 0.8}, "Cream")
    add("Ferry", "Outer islands", "harbour", 5.8, {"F2": 0.6, "F3": 1.1}, "Cream")
    return tuple(lines)


LINES = _lines()
MODES = ("Tram", "Metro", "Bus", "Ferry")
ZONES = {
    "Centre": ("Harbourside", "Old town", "Exchange", "University"),
    "North": ("Northgate", "Fairhaven", "Lamplight Hill", "Kelp Row", "Signal Point"),
    "East": ("Millbrook", "Tanners Field", "Quarry End", "Eastmarsh", "Copper Vale"),
    "South": ("Saltings", "Gull Terrace", "Southmere", "Longsands", "Brackwater"),
    "Islands": ("Varrow Holm", "Little Skerry", "Tern Island"),
}
_CORNERS = (
    "Square", "Cross", "Bridge", "Market", "Gardens", "Station", "Quay", "Chapel", "Lane", "Works", "Park",
    "School", "Green", "Steps", "Mill", "Arches", "Gate", "Baths",
)  # fmt: skip


def stop_rows() -> list[dict[str, object]]:
    """All stops, in zones and districts."""
    rows: list[dict[str, object]] = []
    for zone_order, (zone, districts) in enumerate(ZONES.items(), 1):
        for district in districts:
            corners = _CORNERS[: 9 if zone == "Islands" else 18]
            for corner in corners:
                rows.append(
                    {
                        "stop_id": 1000 + len(rows), "stop_name": f"{district} {corner}", "district": district,
                        "zone": zone, "zone_order": zone_order,
                    }
                )  # fmt: skip
    return rows


def small_tables() -> dict[str, pa.Table]:
    """Every dimension table by name. The calendar is made by the model itself."""
    groups = list(dict.fromkeys(each.group for each in LINES))
    tables: dict[str, list[dict[str, object]]] = {
        "lines": [
            {
                "line_id": each.key, "line_name": each.caption, "line_order": place,
                "group_id": each.group.lower().replace(" ", "_").replace("-", "_"), "group_name": each.group,
                "group_order": groups.index(each.group), "mode_id": each.mode.lower(), "mode_name": each.mode,
                "mode_order": MODES.index(each.mode), "livery": each.livery, "depot_id": each.depot,
            }
            for place, each in enumerate(LINES)
        ],
        "stops": stop_rows(),
        "fare_products": [
            {
                "fare_product_id": each.key, "fare_product_name": each.caption, "fare_product_order": place,
                "family_id": each.family.lower(), "family_name": each.family,
                "family_order": FAMILIES.index(each.family),
            }
            for place, each in enumerate(FARE_PRODUCTS)
        ],
        "passenger_groups": _keyed("passenger_group", [(key, caption) for key, caption, _ in PASSENGER_GROUPS]),
        "tap_statuses": _keyed("tap_status", [(key, caption) for key, caption, _ in TAP_STATUSES]),
        "depots": _keyed("depot", DEPOTS),
        "vehicle_types": _keyed("vehicle_type", VEHICLE_TYPES),
        "versions": _keyed("version", (("actual", "Actual"), ("plan", "Plan"), ("forecast", "Forecast"))),
        "causes": _keyed("cause", [(each.lower().replace(" ", "_"), each) for each in CAUSES]),
        "severities": _keyed("severity", SEVERITIES),
        "handlers": [
            {
                "handler_id": 100 * team + person, "handler_name": f"{name} desk {person + 1}",
                "team_id": team, "team_name": name,
            }
            for team, name in enumerate(TEAMS, 1)
            for person in range(5)
        ],
        "accounts": _accounts(),
    }  # fmt: skip
    return {name: pa.Table.from_pylist(rows) for name, rows in tables.items()}


def _keyed(name: str, pairs: Iterable[tuple[str, str]]) -> list[dict[str, object]]:
    return [
        {f"{name}_id": key, f"{name}_name": caption, f"{name}_order": place}
        for place, (key, caption) in enumerate(pairs)
    ]


LEAF_ACCOUNTS = {
    "4110": ("Fare receipts", "41", 1), "4120": ("Pass sales", "41", 1), "4200": ("Concession grants", "40", 1),
    "5110": ("Drivers", "511", -1), "5120": ("Stewards", "511", -1), "5200": ("Workshop pay", "51", -1),
    "6100": ("Traction power", "60", -1), "6200": ("Diesel", "60", -1), "6300": ("Ferry fuel", "60", -1),
    "7100": ("Spare parts", "70", -1), "7200": ("Contract repairs", "70", -1),
}  # fmt: skip
ENERGY = {"6100": ("Tram", "Metro"), "6200": ("Bus",), "6300": ("Ferry",)}
"""The modes that an account of energy is for."""
SOLD_AS = {"4110": ("Tickets", "Visitors"), "4120": ("Passes",), "4200": ("Concessions",)}
"""The families of fare products whose sales are posted to an account."""
_ACCOUNT_NODES = {
    "R": ("Revenue", None), "40": ("Operating revenue", "R"), "41": ("Fares", "40"), "C": ("Cost", None),
    "51": ("Staff", "C"), "511": ("Crew", "51"), "60": ("Energy", "C"), "70": ("Maintenance", "C"),
}  # fmt: skip


def _accounts() -> list[dict[str, object]]:
    """A tree of uneven depth; `sign` turns a posting into its effect on the result."""
    rows: list[dict[str, object]] = [
        {"account_id": key, "account_name": name, "parent_id": parent, "sign": 1 if key in ("R", "40", "41") else -1}
        for key, (name, parent) in _ACCOUNT_NODES.items()
    ]
    rows += [
        {"account_id": key, "account_name": name, "parent_id": parent, "sign": sign}
        for key, (name, parent, sign) in LEAF_ACCOUNTS.items()
    ]
    return rows


def days() -> np.ndarray:
    """Every day of the demo, `datetime64[D]`, in order."""
    return np.arange(np.datetime64(FIRST_DAY), np.datetime64(LAST_DAY) + 1)
