"""A packed file is read as what is in it; one that is damaged, or made to fill the memory, is refused by name."""

from __future__ import annotations

import gzip
from pathlib import Path

import pytest

from dastan.core.errors import ModelError, SourceError
from dastan.sources.files import packed
from dastan.sources.folders.folder import OpenModel, open_folder
from tests.sources.folder import MODEL, SALES, write_folder


def folder_of(tmp_path: Path, sales: bytes, name: str = "sales.csv.gz") -> Path:
    tmp_path.mkdir(exist_ok=True)
    folder = write_folder(tmp_path, model=MODEL.replace("{file: sales.csv}", f"{{file: {name}}}"))
    (folder / "sales.csv").unlink()
    (folder / name).write_bytes(sales)
    return folder


def sales_of(opened: OpenModel) -> list[tuple[object, ...]]:
    table = opened.source.tables["sales"]
    return list(zip(*(table.column(each).to_pylist() for each in table.names), strict=True))


def test_it_is_read_as_what_is_in_it_and_a_fault_is_told_by_its_line(tmp_path: Path) -> None:
    (tmp_path / "plain").mkdir()
    plain = open_folder(write_folder(tmp_path / "plain"))
    found = open_folder(folder_of(tmp_path / "packed", gzip.compress(SALES.encode())))
    assert sales_of(found) == sales_of(plain)
    tabs = SALES.replace(",", "\t").encode()
    assert sales_of(open_folder(folder_of(tmp_path / "tabs", gzip.compress(tabs), "sales.tsv.gz"))) == sales_of(plain)
    broken = gzip.compress(SALES.replace("Kiosk,1,5.00", "Kiosk,one,5.00").encode())
    with pytest.raises(ModelError) as error:
        open_folder(folder_of(tmp_path / "broken", broken))
    assert "sales.csv.gz, line 6 has “one”" in str(error.value.details["faults"])


def test_one_that_is_damaged_or_holds_no_table_is_refused(tmp_path: Path) -> None:
    whole = gzip.compress(SALES.encode() * 50)
    for at, sales in enumerate((whole[:-20], b"day,line\n", whole[:30] + b"\0\0\0" + whole[33:])):
        with pytest.raises(SourceError, match=r"sales\.csv\.gz cannot be unpacked: it is damaged or cut short"):
            open_folder(folder_of(tmp_path / str(at), sales))
    with pytest.raises(SourceError, match="is no file that tables are read from"):
        open_folder(folder_of(tmp_path / "parquet", whole, "sales.parquet.gz"))


def test_one_that_unpacks_to_far_more_than_data_does_is_refused(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(packed, "LARGE_BYTES", 2**20)
    bomb = gzip.compress(b"day,line\n" + b"\n" * 2**22)
    with pytest.raises(SourceError, match=r"would unpack to more than \d+ MiB, which no data does") as error:
        open_folder(folder_of(tmp_path, bomb))
    assert "Unpack it yourself" in error.value.hint
