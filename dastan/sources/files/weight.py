"""How much a file is once it is unpacked: what reading it takes of the memory, before it is read."""

from __future__ import annotations

import gzip
import zipfile
import zlib
from pathlib import Path

import pyarrow as pa
import pyarrow.parquet as pq

from dastan.sources.files.packed import PACKED, SHEETS, kind_of

_PART = 2**20
_VALUE_BYTES = 8
"""A value of a Parquet file takes so much at the least once it is read, however often it is repeated."""


def unpacked_bytes(path: Path, most: int) -> int:
    """The bytes of a file when it is unpacked; of one that is packed no further than a little over `most`. What is
    damaged has the size of its file: reading it says what is wrong."""
    size = path.stat().st_size
    try:
        if path.suffix.lower() == PACKED:
            return _unpacked(path, most)
        if kind_of(path) in SHEETS and zipfile.is_zipfile(path):
            with zipfile.ZipFile(path) as packed:
                return max(size, sum(each.file_size for each in packed.infolist()))
        if kind_of(path) == ".parquet":
            found = pq.read_metadata(path)
            parts = sum(int(found.row_group(at).total_byte_size) for at in range(found.num_row_groups))
            return max(size, parts, int(found.num_rows * found.num_columns) * _VALUE_BYTES)
    except (OSError, EOFError, zlib.error, zipfile.BadZipFile, pa.ArrowInvalid):
        return size
    return size


def _unpacked(path: Path, most: int) -> int:
    count = 0
    with gzip.open(path) as file:
        while count <= most and (part := file.read(_PART)):
            count += len(part)
    return count
