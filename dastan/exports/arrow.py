"""An answer flat as Apache Arrow: labels coded by a dictionary, whole numbers and decimals exact. As a file of columns
(Parquet) or as Arrow's own (IPC)."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pyarrow as pa
import pyarrow.ipc
import pyarrow.parquet

from dastan.core.engine.watch import Watch
from dastan.core.values import Values
from dastan.exports.flat import FlatTable, Label
from dastan.exports.kinds import ArrowKind

DIGITS = 19
"""Of a decimal: as many as 64 bits hold."""


def arrow_table(flat: FlatTable, about: dict[str, str], watch: Watch) -> pa.Table:
    """Columns of levels, then of measures; what `about` says is told in the schema, and each measure's unit beside it.
    Raises CancelledError."""
    names = _unlike([*flat.labels, *flat.measures])
    watch.expect(len(names))
    arrays, fields = [], []
    for at, name in enumerate(names):
        watch.check()
        watch.note_done()
        measure = at - len(flat.labels)
        array = _coded(*flat.label_codes(at)) if measure < 0 else as_arrow(flat.values_of(measure))
        unit = flat.units[measure] if measure >= 0 else ""
        arrays.append(array)
        fields.append(pa.field(name, array.type, metadata={"unit": unit} if unit else None))
    return pa.table(arrays, schema=pa.schema(fields, metadata=about))


def write_arrow(table: pa.Table, file: Path, kind: ArrowKind) -> None:
    """Writes the whole file. Raises OSError where the disk does not take it."""
    if kind == "parquet":
        pyarrow.parquet.write_table(table, file, compression="zstd")
        return
    make = pyarrow.ipc.new_stream if kind == "arrows" else pyarrow.ipc.new_file
    with pa.OSFile(str(file), "wb") as sink, make(sink, table.schema) as writer:
        writer.write_table(table)


def as_arrow(values: Values) -> pa.Array:
    """Numbers as int64, as decimals with their digits after the point, or as float64; null where there is none."""
    missing = ~values.present
    if values.scale is None or values.scale == 0:
        return pa.array(values.data, mask=missing)
    # A decimal is 128 bits, the lower half first: what 64 bits hold, and its sign.
    halves = np.stack([values.data.astype(np.int64), values.data.astype(np.int64) >> 63], axis=1)
    valid = pa.array(values.present).buffers()[1]
    kind = pa.decimal128(DIGITS, values.scale)
    return pa.Array.from_buffers(kind, len(values), [valid, pa.py_buffer(np.ascontiguousarray(halves))])


def _coded(labels: list[Label], codes: np.ndarray) -> pa.Array:
    """Labels by their codes. A level whose members are not all numbers has texts."""
    is_whole = all(isinstance(each, int) for each in labels if each is not None)
    known: dict[Label, int] = {}
    own = np.array([-1 if each is None else known.setdefault(each, len(known)) for each in labels], np.int32)
    found = own[codes] if len(labels) else np.zeros(0, np.int32)
    dictionary = pa.array(list(known), pa.int64()) if is_whole and known else pa.array(map(str, known), pa.string())
    return pa.DictionaryArray.from_arrays(pa.array(found, mask=found < 0), dictionary)


def _unlike(names: list[str]) -> list[str]:
    """Names of which no two are alike, for readers that know a column by its name."""
    found: list[str] = []
    for name in names:
        own, number = name, 2
        while own in found:
            own, number = f"{name} ({number})", number + 1
        found.append(own)
    return found
