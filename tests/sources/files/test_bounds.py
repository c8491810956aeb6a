"""Whatever lies in a folder is read within bounds, and belongs to one state of its files."""

from __future__ import annotations

import os
import subprocess
import sys
import textwrap
from contextlib import suppress
from datetime import date
from pathlib import Path

import pyarrow as pa
import pyarrow.parquet as pq
import pytest

from dastan.core.engine.waist import Request, Rights
from dastan.core.errors import AppError, FormulaError, ModelError, SourceError
from dastan.core.formula.bases import BaseAggregate
from dastan.core.formula.rows import parse_rows
from dastan.core.model.reach import Grain
from dastan.documents.read import read_model
from dastan.sources.folders.folder import open_folder
from dastan.sources.folders.recount import recount
from tests.sources.folder import MODEL, SALES, write_folder

SOLD = Request(Grain("sales"), (), (BaseAggregate("sum", "quantity"),), (), Rights("tester"))


def test_references_that_make_much_of_little_are_refused() -> None:
    levels = "\n".join(f"l{n}: &l{n} [{', '.join([f'*l{n - 1}'] * 9)}]" for n in range(1, 12))
    with pytest.raises(ModelError, match="references"):
        read_model(f"dastan: model/1\nl0: &l0 [x, x, x]\n{levels}\n")
    for text in ("a: &a [*a]", "a: &a {b: *a}"):
        with pytest.raises(ModelError):
            read_model(f"dastan: model/1\n{text}\n")


def test_lists_inside_lists_without_end_are_refused() -> None:
    with pytest.raises(ModelError):
        read_model("dastan: model/1\ntables: " + "[" * 5000 + "]" * 5000)
    with pytest.raises(ModelError, match="characters"):
        read_model("#" * 4_000_001)


def test_a_row_formula_of_very_many_terms_is_refused() -> None:
    for text in (" + ".join(["quantity"] * 20_000), "(" * 1000 + "quantity" + ")" * 1000, "-" * 900 + "quantity"):
        with pytest.raises(FormulaError, match="are the most"):
            parse_rows(text)
    assert parse_rows(" + ".join(["q"] * 200))


@pytest.mark.parametrize("encoding", ["undefined", "rot13", "zip", "no-such", "", "idna", "punycode", "unicode_escape"])
def test_an_encoding_that_reads_no_text_is_told(tmp_path: Path, encoding: str) -> None:
    model = MODEL.replace("sales: {file: sales.csv}", f'sales: {{file: sales.csv, encoding: "{encoding}"}}')
    with suppress(AppError):  # any other error is none that was foreseen
        open_folder(write_folder(tmp_path, model=model))


def test_a_small_file_that_would_fill_the_memory_is_refused(tmp_path: Path) -> None:
    folder = write_folder(tmp_path, model=MODEL.replace("sales.csv", "sales.parquet"))
    count = 60_000_000
    zeros = pa.chunked_array([pa.array([0] * 1_000_000, pa.int8())] * (count // 1_000_000))
    pq.write_table(
        pa.table({"day": zeros, "line": zeros, "quantity": zeros}), folder / "sales.parquet", compression="zstd"
    )
    assert (folder / "sales.parquet").stat().st_size < 2**20
    with pytest.raises(SourceError, match="unpack"):
        open_folder(folder)


@pytest.fixture
def parquet(tmp_path: Path) -> Path:
    """The shop with its sales as Parquet, whose columns are read when they are first asked for."""
    folder = write_folder(tmp_path, model=MODEL.replace("sales.csv", "sales.parquet"))
    write_sales(folder, [3, 1, 2])
    return folder


def write_sales(folder: Path, quantities: list[int]) -> None:
    table = pa.table({
        "day": [date(2024, 1, 5)] * len(quantities), "line": ["T1"] * len(quantities), "seller": ["Kiosk"] * len(quantities),
        "quantity": quantities, "price": [1.0] * len(quantities), "unread": [f"{each}" for each in quantities],
    })  # fmt: skip
    making = folder / "sales.making"
    pq.write_table(table, making)
    making.replace(folder / "sales.parquet")


def test_a_file_that_is_replaced_is_not_mixed_with_what_was_read(parquet: Path) -> None:
    opened = open_folder(parquet)
    assert opened.is_current()
    assert opened.source.group(SOLD).values[0].at(0) == 6
    write_sales(parquet, [100, 100, 100])
    assert not opened.is_current()
    with pytest.raises(SourceError, match="was replaced") as caught:
        opened.source.tables["sales"].column("unread")
    assert caught.value.code == "source-changed"
    assert open_folder(parquet).source.group(SOLD).values[0].at(0) == 300


def test_the_source_check_compares_values_and_not_sums_alone(parquet: Path) -> None:
    opened = open_folder(parquet)
    part = next(each for each in opened.model.measures if each.name == "sold")
    assert recount(opened, part).agrees
    write_sales(parquet, [2, 1, 3])  # as many records, and as much in all
    found = recount(opened, part)
    assert (found.source_sum, found.own_sum) == ("6", "6")
    assert not found.agrees
    assert "quantity" in found.differing


def test_a_vanished_or_changed_document_is_noticed(parquet: Path) -> None:
    opened = open_folder(parquet)
    (parquet / "model.yaml").write_text((parquet / "model.yaml").read_text() + "\n# changed\n")
    assert not opened.is_current()
    (parquet / "model.yaml").unlink()
    assert not opened.is_current()


CUT = """
    import os, sys
    from pathlib import Path
    from dastan.core.errors import SourceError
    from dastan.sources.columnar.cut_short import CUT_SHORT
    from dastan.sources.folders import folder as folders
    from tests.sources.files.test_bounds import SOLD
    CUT_SHORT.watch()
    folders.PREPARE_FROM = 0
    folder = Path(sys.argv[1])
    folders.open_folder(folder).source.warm()
    opened = folders.open_folder(folder)
    opened.source.takes_shortcuts = False
    print("whole", opened.source.group(SOLD).values[0].at(0))
    for each in (folder / ".dastan" / "prepared").rglob("*.npy"):
        os.truncate(each, 0)
    for each in (folder / ".dastan" / "prepared").rglob("*.arrow"):
        os.truncate(each, 0)
    try:
        print("mixed", opened.source.group(SOLD).values[0].at(0))
    except SourceError as error:
        print("told", error.code)
    print("anew", opened.source.group(SOLD).values[0].at(0))
"""


def test_a_prepared_file_that_is_cut_short_while_it_is_mapped_ends_nothing(tmp_path: Path) -> None:
    lines = "".join(f"2024-01-{1 + at % 28:02},T1,Kiosk,{at % 7},1.00\n" for at in range(200_000))
    folder = write_folder(tmp_path, sales=SALES.splitlines()[0] + "\n" + lines)
    expected = sum(at % 7 for at in range(200_000))
    ran = subprocess.run(
        [sys.executable, "-c", textwrap.dedent(CUT), str(folder)], capture_output=True, text=True, timeout=300,
        cwd=Path(__file__).parents[2], env=os.environ | {"PYTHONPATH": "."}, check=False,
    )  # fmt: skip
    assert ran.stdout.splitlines() == [f"whole {expected}", "told source-changed", f"anew {expected}"], ran.stderr
