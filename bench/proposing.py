"""How long it takes until a model is proposed: for twenty tables of a million rows, a large CSV file, a large sheet.

`python -m bench.proposing FOLDER`: the files are made there on the first run, from a seed.
"""

from __future__ import annotations

import resource
import sys
import time
from pathlib import Path

import numpy as np
import pyarrow as pa
import pyarrow.csv
import pyarrow.parquet as pq
import xlsxwriter

from dastan.sources.files.looking.folder import propose_model

TABLES, RECORDS, CSV_RECORDS, SHEET_ROWS = 20, 1_000_000, 1_000_000, 500_000


def records_of(seed: int, count: int) -> pa.Table:
    """A fact: three pointers, a card, a day, two amounts, a text."""
    draw = np.random.default_rng(seed)
    days = np.datetime64("2023-01-01") + draw.integers(0, 1000, count)
    return pa.table(
        {
            "day": pa.array(days.astype("datetime64[D]")),
            "line_id": np.char.add("L", draw.integers(0, 400, count).astype(str)),
            "stop_id": draw.integers(0, 12_000, count),
            "status": np.array(["accepted", "refused", "corrected"])[draw.integers(0, 3, count)],
            "card_number": draw.integers(10_000_000, 99_999_999, count),
            "people": draw.integers(1, 5, count),
            "fare": np.round(draw.random(count) * 90, 2),
            "remark": np.char.add("seen ", draw.integers(0, count // 2, count).astype(str)),
        }
    )


def make(folder: Path) -> None:
    """The files, where they are not there yet."""
    many, text, sheet = folder / "many", folder / "text", folder / "sheet"
    if (sheet / "taps.xlsx").exists():
        return
    for each in (many, text, sheet):
        each.mkdir(parents=True, exist_ok=True)
    pq.write_table(
        pa.table(
            {"line_id": [f"L{n}" for n in range(400)], "mode": ["Tram" if n % 3 else "Ferry" for n in range(400)]}
        ),
        many / "lines.parquet",
    )
    stops = pa.table({"stop_id": range(12_000), "district": [f"D{n % 200}" for n in range(12_000)]})
    pq.write_table(stops, many / "stops.parquet")
    for number in range(TABLES - 2):
        pq.write_table(records_of(number, RECORDS), many / f"{'abcdefghijklmnopqrst'[number]}taps.parquet")
    pa.csv.write_csv(records_of(99, CSV_RECORDS), text / "taps.csv")
    book = xlsxwriter.Workbook(sheet / "taps.xlsx", {"constant_memory": True})
    page, form = book.add_worksheet("Taps"), book.add_format({"num_format": "yyyy-mm-dd"})
    rows = records_of(98, SHEET_ROWS)
    page.write_row(0, 0, rows.column_names)
    for at, record in enumerate(zip(*(rows.column(each).to_pylist() for each in rows.column_names), strict=True), 1):
        page.write_datetime(at, 0, record[0], form)
        page.write_row(at, 1, record[1:])
    book.close()


def main() -> None:
    """Prints seconds, and what the process took at the most by then."""
    folder = Path(sys.argv[1])
    make(folder)
    for name, count in (("many", TABLES * RECORDS), ("text", CSV_RECORDS), ("sheet", SHEET_ROWS)):
        started = time.perf_counter()
        model = propose_model(folder / name)
        took = time.perf_counter() - started
        peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
        print(
            f"{name:<6}{took:8.1f} s {count / took:12,.0f} records a second, {len(model.tables)} tables, "
            f"{len(model.relationships)} relationships, {len(model.dimensions)} dimensions; {peak:,.0f} MB at the most"
        )


if __name__ == "__main__":
    main()
