"""Flat numbers in open formats of columns: read back they are the engine's, to the last digit."""

from __future__ import annotations

from decimal import Decimal
from pathlib import Path
from typing import get_args

import numpy as np
import pyarrow as pa
import pyarrow.ipc
import pyarrow.parquet
import pytest

from dastan.core.analysis.document import Analysis, Opening
from dastan.core.engine.watch import Watch
from dastan.core.errors import CancelledError
from dastan.core.values import Values
from dastan.exports.arrow import arrow_table, as_arrow, write_arrow
from dastan.exports.flat import FlatTable
from dastan.exports.kinds import ArrowKind
from tests.core.asked import ask, by, question

TEAMS_OPEN = (Opening(dimension="line", hierarchy="line", levels=("mode",)),)


def flat(document: Analysis) -> FlatTable:
    answer = ask(document)
    return FlatTable(answer, [each.caption for each in answer.measures])


@pytest.mark.parametrize("kind", get_args(ArrowKind))
def test_a_file_reads_back_as_the_innermost_numbers(tmp_path: Path, kind: ArrowKind) -> None:
    document = question(
        "boardings", "revenue", rows=(by("line", "mode"),), columns=(by("fare", "family"),), openings=TEAMS_OPEN
    )
    file = tmp_path / f"table.{kind}"
    write_arrow(arrow_table(flat(document), {"sentence": "Boardings and Revenue by Mode"}, Watch()), file, kind)
    if kind == "parquet":
        table = pyarrow.parquet.read_table(file)
    else:
        with pa.memory_map(str(file)) as source:
            table = (pyarrow.ipc.open_stream if kind == "arrows" else pyarrow.ipc.open_file)(source).read_all()
    assert table.schema.metadata[b"sentence"] == b"Boardings and Revenue by Mode"
    assert table.to_pylist() == [
        {"Mode": "bus", "Team": 1, "Family": "b", "Boardings": 4, "Revenue": Decimal("10.00")},
        {"Mode": "tram", "Team": 1, "Family": "a", "Boardings": 2, "Revenue": Decimal("5.00")},
        {"Mode": "tram", "Team": 2, "Family": "a", "Boardings": 1, "Revenue": Decimal("2.50")},
        {"Mode": "without a line", "Team": None, "Family": "b", "Boardings": 1, "Revenue": Decimal("1.25")},
    ]
    assert pa.types.is_dictionary(table.schema.field("Mode").type)
    assert table.schema.field("Revenue").type == pa.decimal128(19, 2)


def test_decimals_of_every_size_are_exact_on_both_sides_of_nothing() -> None:
    data = np.array([2**63 - 1, -(2**63), -1, 0, 5])
    present = np.array([True, True, True, True, False])
    found = as_arrow(Values(data, 3, present))
    found.validate(full=True)
    assert found.to_pylist() == [
        Decimal("9223372036854775.807"), Decimal("-9223372036854775.808"), Decimal("-0.001"), Decimal("0.000"), None
    ]  # fmt: skip
    assert as_arrow(Values(data, 0, present)).to_pylist() == [2**63 - 1, -(2**63), -1, 0, None]
    assert as_arrow(Values(np.array([0.1, 0.2]), None, np.array([True, False]))).to_pylist() == [0.1, None]


def test_columns_of_one_name_are_told_apart() -> None:
    answer = ask(question("boardings", rows=(by("line", "mode"),)))
    assert arrow_table(FlatTable(answer, ["Mode"]), {}, Watch()).column_names == ["Mode", "Mode (2)"]


def test_a_total_alone_and_nothing_at_all_are_tables_too() -> None:
    assert arrow_table(flat(question("boardings")), {}, Watch()).to_pylist() == [{"Boardings": 8}]
    assert arrow_table(flat(question(rows=(by("line", "mode"),))), {}, Watch()).column_names == ["Mode"]


def test_one_that_was_taken_back_is_not_made() -> None:
    watch = Watch()
    watch.cancel()
    with pytest.raises(CancelledError):
        arrow_table(flat(question("boardings", rows=(by("line", "mode"),))), {}, watch)
