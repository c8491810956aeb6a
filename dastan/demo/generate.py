"""Writes the demo's folder: Parquet tables, the model, and a stamp that tells what was made."""

from __future__ import annotations

import json
import shutil
from importlib import resources
from pathlib import Path

import pyarrow as pa
import pyarrow.parquet as pq
from tqdm import tqdm

from dastan.demo.dimensions import small_tables
from dastan.demo.journeys import journey_parts
from dastan.demo.operations import fleet, incidents, ledger
from dastan.progress_bar import FORM

VERSION = 6
"""Raised when the generator makes other data, so that an older folder is made anew."""

_STAMP = "made.json"


def generate(folder: Path, journeys: int, seed: int = 7, show_progress: bool = True) -> bool:
    """Makes the demo's folder; returns False when it was current already.

    The folder is written beside its place and moved there when whole: nothing is ever half-made.
    """
    wanted = {"version": VERSION, "journeys": journeys, "seed": seed}
    if is_current(folder, wanted):
        write_model(folder)
        return False
    making = folder.with_name(folder.name + ".making")
    shutil.rmtree(making, ignore_errors=True)
    (making / "journeys").mkdir(parents=True)
    for name, table in small_tables().items():
        _write(making / f"{name}.parquet", table)
    for name, make in (("incidents", incidents), ("ledger", ledger), ("fleet", fleet)):
        _write(making / f"{name}.parquet", make(seed))
    drawn = None if show_progress else True  # None: where somebody looks on
    with tqdm(total=journeys, disable=drawn, desc="Making the demo's journeys", bar_format=FORM) as bar:
        # One file a year, one row group for each part of it: parts are written as they are made.
        writers: dict[str, pq.ParquetWriter] = {}
        for part in journey_parts(journeys, seed):
            year = str(part.column("date")[0].as_py())[:4]
            if year not in writers:
                for writer in writers.values():
                    writer.close()
                path = making / "journeys" / f"{year}.parquet"
                writers = {year: pq.ParquetWriter(path, part.schema, compression="zstd")}
            writers[year].write_table(part)
            bar.update(part.num_rows)
        for writer in writers.values():
            writer.close()
    write_model(making)
    (making / _STAMP).write_text(json.dumps(wanted), encoding="utf-8")
    shutil.rmtree(folder, ignore_errors=True)
    making.rename(folder)
    return True


def is_current(folder: Path, wanted: dict[str, int]) -> bool:
    """Whether the folder holds just what is wanted."""
    try:
        return bool(json.loads((folder / _STAMP).read_text(encoding="utf-8")) == wanted)
    except (OSError, ValueError):
        return False


def write_model(folder: Path) -> None:
    """Puts the demo's model document beside its tables."""
    text = resources.files("dastan.demo").joinpath("varrow_bay.yaml").read_text(encoding="utf-8")
    (folder / "model.yaml").write_text(text, encoding="utf-8")


def _write(path: Path, table: pa.Table) -> None:
    pq.write_table(table, path, compression="zstd")
