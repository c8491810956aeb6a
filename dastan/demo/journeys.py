"""The largest fact: taps by day, hour, line, stop, fare product, passenger group and card.

The story in it: a strike in the week of 16 October 2023, a new fare (Coast saver) from July 2024 that draws
people from month passes, ferries that swell in summer, and card numbers that look like amounts.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
import pyarrow as pa

from dastan.demo.dimensions import FARE_PRODUCTS, LINES, PASSENGER_GROUPS, TAP_STATUSES, days, stop_rows

LARGEST_PART = 500_000
"""Records made at a time, so that memory stays bounded however many are asked for."""

STRIKE = (np.datetime64("2023-10-16"), np.datetime64("2023-10-22"))
STRIKE_MODES = ("Tram", "Bus")
BLANK_STOP, UNKNOWN_STOP, BLANK_LINE, NO_DELAY = 0.011, 0.003, 0.004, 0.17
_HOURS = np.array(
    [0.4, 0.2, 0.1, 0.1, 0.5, 1.8, 4.8, 9.6, 9.9, 5.6, 4.2, 4.3, 4.9,
     4.8, 5.0, 6.4, 8.9, 9.7, 7.2, 4.4, 3.0, 2.1, 1.4, 0.7]
)  # fmt: skip


def rows_per_day(total: int) -> np.ndarray:
    """How many of `total` taps fall on each day, `(n_days,) int64`; they add up to `total` exactly."""
    day = days()
    month = day.astype("datetime64[M]").astype(int) % 12
    weekday = (day.astype(int) + 3) % 7
    season = 1 + 0.07 * np.cos((month - 9) / 12 * 2 * np.pi)
    growth = 1 + 0.045 * (day - day[0]).astype(int) / 365.25
    weight = season * growth * np.array([1.06, 1.1, 1.1, 1.09, 1.12, 0.82, 0.68])[weekday]
    weight[(day >= STRIKE[0]) & (day <= STRIKE[1])] *= 0.46
    upto = np.floor(np.cumsum(weight) / weight.sum() * total + 0.5).astype(np.int64)
    upto[-1] = total
    return np.asarray(np.diff(upto, prepend=0))


def journey_parts(total: int, seed: int) -> Iterator[pa.Table]:
    """The taps in order of day, at most `LARGEST_PART` at a time, one or more parts a month."""
    per_day = rows_per_day(total)
    day = days()
    month = day.astype("datetime64[M]")
    for number, each in enumerate(np.unique(month)):
        places = np.flatnonzero(month == each)
        dates = np.repeat(day[places], per_day[places])
        for start in range(0, len(dates), LARGEST_PART):
            generator = np.random.default_rng([seed, number, start])
            yield _taps(dates[start : start + LARGEST_PART], generator)


def _taps(date: np.ndarray, random: np.random.Generator) -> pa.Table:
    count = len(date)
    line = _lines(date, random)
    product = _products(date, random)
    group = _pick([each[2] for each in PASSENGER_GROUPS], count, random)
    status = _pick([each[2] for each in TAP_STATUSES], count, random)
    people = 1 + (random.random(count) < 0.04) * random.integers(1, 4, count)
    boardings = people * np.array([1, 0, -1])[status]
    price = np.array([each.price_cents for each in FARE_PRODUCTS])[product]
    share = np.array([100, 70, 50, 60, 0])[group]
    revenue = boardings * (price * share // 100)
    late = np.array([each.late_min for each in LINES])[line]
    delay = np.round(random.gamma(1.4, late / 1.4), 1)
    stop = _stops(line, random)
    arrays = {
        "date": pa.array(date.astype("datetime64[D]")),
        "hour": pa.array(_pick(_HOURS, count, random).astype(np.int8)),
        "line_id": _text([each.key for each in LINES], line, random.random(count) < BLANK_LINE),
        "stop_id": pa.array(stop, mask=random.random(count) < BLANK_STOP),
        "fare_product_id": _text([each.key for each in FARE_PRODUCTS], product),
        "passenger_group_id": _text([each[0] for each in PASSENGER_GROUPS], group),
        "tap_status_id": _text([each[0] for each in TAP_STATUSES], status),
        "card_number": pa.array(_cards(date, random)),
        "boardings": pa.array(boardings.astype(np.int16)),
        "fare_revenue": _decimal(revenue, 2),
        "distance_km": _decimal((random.gamma(2.2, 2.6, count) * 10).astype(np.int64), 1),
        "delay_min": pa.array(delay, mask=random.random(count) < NO_DELAY),
    }
    return pa.table(arrays)


def _lines(date: np.ndarray, random: np.random.Generator) -> np.ndarray:
    """One line per tap. Ferries swell in summer; in the strike week trams and buses hardly run."""
    line = _pick([each.weight for each in LINES], len(date), random)
    is_ferry = np.array([each.mode == "Ferry" for each in LINES])
    month = date.astype("datetime64[M]").astype(int) % 12
    is_winter = (month < 3) | (month > 9)
    metro = np.flatnonzero([each.mode == "Metro" for each in LINES])
    stays_ashore = is_ferry[line] & is_winter & (random.random(len(date)) < 0.45)
    struck = np.array([each.mode in STRIKE_MODES for each in LINES])[line]
    struck &= (date >= STRIKE[0]) & (date <= STRIKE[1]) & (random.random(len(date)) < 0.9)
    moved = stays_ashore | struck
    line[moved] = metro[random.integers(0, len(metro), int(moved.sum()))]
    return line


def _products(date: np.ndarray, random: np.random.Generator) -> np.ndarray:
    """One fare product per tap; a new one is sold only from its first day."""
    product = _pick([each.weight for each in FARE_PRODUCTS], len(date), random)
    first = np.array([each.available_from for each in FARE_PRODUCTS], "datetime64[D]")
    too_early = date < first[product]
    others = [each.weight if each.key == "month" else each.weight / 4 for each in FARE_PRODUCTS[:-1]]
    product[too_early] = _pick(others, int(too_early.sum()), random)
    return product


def _stops(line: np.ndarray, random: np.random.Generator) -> np.ndarray:
    """A stop of the tap's line; now and then one that no table knows."""
    ids = np.array([row["stop_id"] for row in stop_rows()], np.int32)
    islands = np.array([row["zone"] == "Islands" for row in stop_rows()])
    mainland = np.flatnonzero(~islands)
    served = []
    for number, each in enumerate(LINES):
        local = np.random.default_rng(1000 + number)
        own = local.choice(mainland, 22, replace=False)
        served.append(local.choice(np.flatnonzero(islands), 22) if each.mode == "Ferry" else own)
    # Squared, so that each line has busy stops and quiet ones.
    place = (random.random(len(line)) ** 2 * 22).astype(np.int64)
    stop = ids[np.array(served)[line, place]]
    unknown = random.random(len(line)) < UNKNOWN_STOP
    stop[unknown] = random.integers(9000, 9012, int(unknown.sum()))
    return np.asarray(stop)


def _cards(date: np.ndarray, random: np.random.Generator) -> np.ndarray:
    """Card numbers: whole numbers of eight digits, which a careless import could add up like money."""
    years = (date - np.datetime64("2021-01-01")).astype(int) / 365.25
    known = 26_000 + 6_000 * years
    return (60_000_000 + random.random(len(date)) ** 1.6 * known).astype(np.int64)


def _pick(weights: Sequence[float] | np.ndarray, count: int, random: np.random.Generator) -> np.ndarray:
    """`(count,) int64`: places drawn by weight."""
    upto = np.cumsum(np.asarray(weights, np.float64))
    return np.asarray(np.searchsorted(upto / upto[-1], random.random(count), side="right"))


def _text(values: list[str], codes: np.ndarray, blank: np.ndarray | None = None) -> pa.Array:
    return pa.DictionaryArray.from_arrays(pa.array(codes.astype(np.int32), mask=blank), pa.array(values))


def _decimal(digits: np.ndarray, scale: int) -> pa.Array:
    """Exact decimals from whole numbers of their smallest unit."""
    words = np.empty((len(digits), 2), np.int64)
    words[:, 0] = digits
    words[:, 1] = digits >> 63
    return pa.Array.from_buffers(pa.decimal128(18, scale), len(digits), [None, pa.py_buffer(words.tobytes())])
