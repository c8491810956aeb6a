"""The journeys that the engines are compared on: made up, in order of date, as Parquet files beside a model."""

from __future__ import annotations

import argparse
import json
import shutil
from pathlib import Path

import numpy as np
import pyarrow as pa
import pyarrow.parquet as pq
from tqdm import tqdm

LINES, REGIONS, PRODUCTS, CATEGORIES, STOPS, AREAS, CARDS = 60, 8, 40, 8, 12_000, 400, 2_000_000
FIRST, LAST = np.datetime64("2021-01-01"), np.datetime64("2025-12-31")
PART = 1_000_000
MODEL = """
dastan: model/1
name: star
caption: Journeys
tables:
  journeys: {file: journeys/*.parquet}
  lines: {file: lines.parquet}
  products: {file: products.parquet}
  stops: {file: stops.parquet}
  days: {calendar: {first: "2021-01-01", last: "2025-12-31"}}
relationships:
  - {from_table: journeys, from_column: line, to_table: lines, to_column: line, role: line}
  - {from_table: journeys, from_column: product, to_table: products, to_column: product, role: product}
  - {from_table: journeys, from_column: stop, to_table: stops, to_column: stop, role: stop}
  - {from_table: journeys, from_column: date, to_table: days, to_column: date, role: date}
dimensions:
  - name: line
    caption: Line
    table: lines
    key: line
    attributes: [{name: line, caption: Line, key: line}, {name: region, caption: Region, key: region}]
    hierarchies:
      - {name: line, caption: Line, levels: [region, line]}
      - {name: region, caption: Region, levels: [region]}
  - name: product
    caption: Product
    table: products
    key: product
    attributes: [{name: product, caption: Product, key: product}, {name: category, caption: Category, key: category}]
    hierarchies: [{name: product, caption: Product, levels: [category, product]}]
  - name: stop
    caption: Stop
    table: stops
    key: stop
    attributes: [{name: stop, caption: Stop, key: stop}, {name: area, caption: Area, key: area}]
    hierarchies: [{name: stop, caption: Stop, levels: [area, stop]}]
  - name: calendar
    caption: Calendar
    table: days
    key: date
    attributes:
      - {name: year, caption: Year, key: year}
      - {name: quarter, caption: Quarter, key: quarter, caption_column: quarter_caption}
      - {name: month, caption: Month, key: month, caption_column: month_caption}
      - {name: day, caption: Day, key: date, caption_column: date_caption}
    hierarchies: [{name: calendar, caption: Calendar, levels: [year, quarter, month, day]}]
measures:
  - {name: boardings, caption: Boardings, table: journeys, aggregate: sum, expression: boardings}
  - {name: fare, caption: Fare, table: journeys, aggregate: sum, expression: fare}
  - {name: delay, caption: Delay, table: journeys, aggregate: average, expression: delay}
  - {name: cards, caption: Cards, table: journeys, aggregate: distinct, expression: card}
  - {name: median, caption: Median delay, table: journeys, aggregate: median, expression: delay}
  - {name: least, caption: Least fare, table: journeys, aggregate: min, expression: fare}
  - {name: greatest, caption: Greatest fare, table: journeys, aggregate: max, expression: fare}
  - {name: deviation, caption: Deviation of the delay, table: journeys, aggregate: deviation, expression: delay}
"""


def make(folder: Path, count: int, *, shuffled: bool = False) -> None:
    """Makes the folder, unless it is there and as wanted; whole or not at all."""
    wanted = {"count": count, "shuffled": shuffled, "version": 1}
    stamp = folder / "made.json"
    if stamp.is_file() and json.loads(stamp.read_text()) == wanted:
        (folder / "model.yaml").write_text(MODEL)
        return
    making = folder.with_name(folder.name + ".making")
    shutil.rmtree(making, ignore_errors=True)
    (making / "journeys").mkdir(parents=True)
    random = np.random.default_rng(7)
    tables = (
        ("line", LINES, "region", REGIONS), ("product", PRODUCTS, "category", CATEGORIES),
        ("stop", STOPS, "area", AREAS),
    )  # fmt: skip
    for name, size, upper, parents in tables:
        table = pa.table({name: np.arange(size, dtype=np.int32), upper: (np.arange(size) % parents).astype(np.int32)})
        pq.write_table(table, making / f"{name}s.parquet")
    with tqdm(total=count, unit=" journeys", unit_scale=True, desc="Journeys") as bar:
        for number, start in enumerate(range(0, count, PART)):
            size = min(PART, count - start)
            pq.write_table(_part(start, size, count, shuffled, random), making / "journeys" / f"{number:04}.parquet")
            bar.update(size)
    (making / "model.yaml").write_text(MODEL)
    (making / "made.json").write_text(json.dumps(wanted))
    shutil.rmtree(folder, ignore_errors=True)
    making.rename(folder)


def _part(start: int, size: int, count: int, shuffled: bool, random: np.random.Generator) -> pa.Table:
    days = int((LAST - FIRST).astype(int)) + 1
    place = random.integers(0, count, size) if shuffled else np.arange(start, start + size)
    date = FIRST + (place * days // count).astype("timedelta64[D]")
    fare = random.integers(0, 900, size)
    words = np.column_stack([fare, np.zeros_like(fare)])
    delay = np.round(random.gamma(1.4, 2.0, size), 1)
    columns = {
        "date": pa.array(date.astype("datetime64[D]")),
        # Busy lines and quiet ones.
        "line": (random.random(size) ** 1.5 * LINES).astype(np.int32),
        "product": (random.random(size) ** 2 * PRODUCTS).astype(np.int32),
        "stop": random.integers(0, STOPS, size, dtype=np.int32),
        "card": (random.random(size) ** 1.3 * CARDS).astype(np.int32) + 60_000_000,
        "boardings": random.integers(1, 4, size).astype(np.int16),
        "fare": pa.Array.from_buffers(pa.decimal128(18, 2), size, [None, pa.py_buffer(words.tobytes())]),
        "delay": pa.array(delay, mask=random.random(size) < 0.17),
    }
    return pa.table(columns)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--journeys", type=int, default=10_000_000)
    parser.add_argument("--shuffled", action="store_true")
    asked = parser.parse_args()
    make(asked.folder, asked.journeys, shuffled=asked.shuffled)


if __name__ == "__main__":
    main()
