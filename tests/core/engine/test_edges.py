"""The edges: no rows, one row, blanks alone, very many groups, numbers and dates at the ends of their ranges."""

from __future__ import annotations

import tracemalloc
from dataclasses import replace
from decimal import Decimal
from functools import partial

import numpy as np
import pyarrow as pa
import pytest

from dastan.core.analysis.document import Analysis, Limit, PlacedDimension, PlacedMeasure, Question
from dastan.core.engine.aggregates import reduce_values
from dastan.core.engine.answer import answer
from dastan.core.engine.grouping import find_rows, group_rows
from dastan.core.engine.size import Budget
from dastan.core.engine.waist import Request, Rights
from dastan.core.engine.watch import Watch
from dastan.core.errors import CancelledError, LimitError
from dastan.core.model.conditions import LevelName, MeasureFilter
from dastan.core.model.document import Table
from dastan.core.values import Values
from dastan.documents.read import read_model
from dastan.sources.columnar.column_source import ColumnSource
from dastan.sources.files.tables import table_of_arrow
from dastan.sources.folders.folder import open_tables
from tests.core.asked import STAR, ask, by, question, table
from tests.core.engine.random_model import SCHEMA, source_of
from tests.core.star import ROWS, TODAY

EVERYTHING = ("boardings", "revenue", "delay_average", "delay_median", "delay_variance", "cards", "closing", "open_repairs", "last_delay", "weighed_delay", "fare_each")  # fmt: skip


def emptied(*names: str) -> ColumnSource:
    tables = {
        name: table_of_arrow(name, Table(file="x"), pa.Table.from_pylist([] if name in names else rows, SCHEMA[name]))
        for name, rows in ROWS.items()
    }
    return ColumnSource(STAR.declared, tables)


def test_empty_facts_answer_with_an_empty_total() -> None:
    source = emptied("taps", "fleet", "repairs")
    result = ask(question(*EVERYTHING, rows=(by("line", "line"),), columns=(by("calendar", "year"),)), source)
    assert table(result) == [("All of Line", "")]


def test_empty_dimensions_leave_everything_without_a_member() -> None:
    source = emptied("lines", "fares", "days", "accounts", "depots")
    result = ask(question(*EVERYTHING, rows=(by("line", "line"),)), source)
    assert table(result) == [("without a line", "8"), ("All of Line", "8")]


def test_one_record_and_one_member() -> None:
    source = source_of(ROWS | {"taps": ROWS["taps"][:1], "lines": ROWS["lines"][:1]})
    assert table(ask(question("boardings", rows=(by("line", "line"),)), source)) == [("L1", "2"), ("All of Line", "2")]


def test_blanks_alone_are_empty_and_not_zero() -> None:
    blank = [dict.fromkeys(each) for each in ROWS["taps"]]
    source = source_of(ROWS | {"taps": blank})
    result = ask(question("taps", "cards", "boardings", "delay_median", "delays", "debit", "last_delay"), source)
    assert [each.at(0) for each in result.values] == [4, 0, None, None, 0, None, None]


def test_more_than_2_to_the_31_possible_groups_are_told_apart() -> None:
    random = np.random.default_rng(3)
    sizes = [50_000, 50_000, 3]
    codes = [random.integers(0, size, 5_000).astype(np.int32) for size in sizes]
    levels = [(each, np.arange(size, dtype=np.int32), size) for each, size in zip(codes, sizes, strict=True)]
    found = group_rows(levels, 5_000)
    assert set(zip(*(each.tolist() for each in found.codes), strict=True)) == set(
        zip(*(each.tolist() for each in codes), strict=True)
    )


def test_rows_are_found_among_others_whatever_the_room() -> None:
    rows = np.array([[2**20, 5], [1, 1], [7, 2]])
    among = np.array([[7, 2], [2**20, 5]])
    assert find_rows(rows, among, [2**21, 2**30]).tolist() == [1, -1, 0]
    assert find_rows(rows, among[:0], [2**21, 10]).tolist() == [-1, -1, -1]


def test_whole_numbers_beyond_64_bits_are_detected_on_either_side() -> None:
    for sign in (1, -1):
        values = Values(np.array([sign * 2**62] * 3), 0, np.ones(3, np.bool_))
        with pytest.raises(LimitError):
            reduce_values("sum", values, np.zeros(3, np.int64), 1, "revenue")


FOLDER_MODEL = """
dastan: model/1
name: edges
caption: Edges
tables:
  rows: {file: rows.csv, columns: {amount: {type: float}}}
  days: {calendar: {}}
relationships: [{from_table: rows, from_column: day, to_table: days, to_column: date, role: day}]
dimensions:
  - name: calendar
    caption: Calendar
    table: days
    key: date
    attributes:
      - {name: year, key: year}
      - {name: month, key: month}
      - {name: day, key: date}
      - {name: iso_year, key: iso_year}
      - {name: week, key: week}
    hierarchies: [{name: calendar, levels: [year, month, day]}, {name: week, levels: [iso_year, week]}]
measures:
  - {name: amount, caption: Amount, table: rows, aggregate: sum, expression: amount}
  - {name: mixed, caption: Mixed, table: rows, aggregate: sum, expression: small + large}
"""


def folder(tmp_path: object, rows: str) -> ColumnSource:
    (tmp_path / "rows.csv").write_text(rows)  # type: ignore[operator]
    model = read_model(FOLDER_MODEL)
    return ColumnSource(model, open_tables(model, tmp_path))  # type: ignore[arg-type]


def total(source: ColumnSource, measure: str, hierarchy: str = "calendar", level: str = "day") -> list[tuple[str, ...]]:
    placed = PlacedDimension(dimension="calendar", hierarchy=hierarchy, level=level)
    document = Analysis(model="edges", question=Question(measures=(PlacedMeasure(measure=measure),), rows=(placed,)))
    return table(answer(document, source.model, source, Rights("tester"), TODAY))


def test_dates_before_1970_after_2100_on_leap_days_and_in_week_53(tmp_path: object) -> None:
    days = ("1969-12-31", "1970-01-01", "2000-02-29", "2100-02-28", "2104-02-29", "2021-01-03", "2020-12-31")
    source = folder(tmp_path, "day,amount,small,large\n" + "".join(f"{day},1,1,1\n" for day in days))
    assert [caption for caption, _ in total(source, "amount")[:-1]] == sorted(days)
    weeks = total(source, "amount", "week", "iso_year")
    # 3 January 2021 belongs, with 31 December 2020, to week 53 of 2020.
    assert ("2020", "2") in weeks
    assert "2021" not in [caption for caption, _ in weeks]


def test_nan_and_infinity_in_the_source_are_blanks(tmp_path: object) -> None:
    source = folder(
        tmp_path,
        "day,amount,small,large\n2024-01-01,NaN,1,1\n2024-01-01,inf,1,1\n2024-01-01,2.5,1,1\n2024-01-01,-inf,1,1\n",
    )
    assert total(source, "amount")[-1][1] == "2.5"


def test_decimals_of_different_scale_add_up_exactly(tmp_path: object) -> None:
    source = folder(tmp_path, "day,amount,small,large\n2024-01-01,1,0.001,10000000000.1\n2024-01-01,1,0.002,0.2\n")
    document = Analysis(model="edges", question=Question(measures=(PlacedMeasure(measure="mixed"),)))
    result = answer(document, source.model, source, Rights("tester"), TODAY)
    assert result.values[0].at(0) == Decimal("10000000000.303")


SPARSE_MODEL = """
dastan: model/1
name: sparse
caption: Sparse
tables: {taps: {file: taps.parquet}, stops: {file: s.parquet}, days: {file: d.parquet}, products: {file: p.parquet}}
relationships:
  - {from_table: taps, from_column: stop, to_table: stops, to_column: key, role: stop}
  - {from_table: taps, from_column: day, to_table: days, to_column: key, role: day}
  - {from_table: taps, from_column: product, to_table: products, to_column: key, role: product}
dimensions:
  - {name: stop, caption: Stop, table: stops, key: key, attributes: [{name: stop, key: key}], hierarchies: [{name: stop, levels: [stop]}]}
  - {name: day, caption: Day, table: days, key: key, attributes: [{name: day, key: key}], hierarchies: [{name: day, levels: [day]}]}
  - {name: product, caption: Product, table: products, key: key, attributes: [{name: product, key: key}], hierarchies: [{name: product, levels: [product]}]}
measures: [{name: boardings, caption: Boardings, table: taps, aggregate: sum, expression: boardings}]
"""
SIZES = {"stop": 12_000, "day": 1_826, "product": 60}


def sparse(records: int) -> tuple[ColumnSource, dict[str, np.ndarray]]:
    random = np.random.default_rng(5)
    columns = {name: random.integers(0, size, records) for name, size in SIZES.items()}
    tables = {f"{name}s": pa.table({"key": np.arange(size)}) for name, size in SIZES.items()}
    tables["taps"] = pa.table(columns | {"boardings": np.ones(records, np.int64)})
    source = ColumnSource(
        read_model(SPARSE_MODEL), {n: table_of_arrow(n, Table(file="x"), t) for n, t in tables.items()}
    )
    return source, columns


SPARSE = Analysis(
    model="sparse",
    question=Question(
        measures=(PlacedMeasure(measure="boardings"),),
        rows=tuple(PlacedDimension(dimension=each, hierarchy=each, level=each) for each in ("stop", "day")),
        columns=(PlacedDimension(dimension="product", hierarchy="product", level="product"),),
    ),
)


def test_a_sparse_crosstab_of_1_3_billion_possible_cells_takes_memory_for_the_groups_that_exist() -> None:
    records = 50_000
    source, columns = sparse(records)
    ask_once = partial(answer, SPARSE, source.model, source, Rights("tester"), TODAY)
    ask_once()  # makes ready what is kept
    tracemalloc.start()
    result = ask_once()
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    expected = len(np.unique(np.stack(list(columns.values())), axis=1).T)
    finest = (result.cell_columns < SIZES["product"]) & np.isin(
        result.cell_rows, np.flatnonzero(result.rows.codes[:, 1] >= 0)
    )
    assert int(finest.sum()) == expected
    assert int(result.values[0].data[-1]) == records
    # A cell for every possible combination would take 10 GB; what exists takes well under a kilobyte a record.
    assert peak < records * 1_000


def test_a_question_too_large_is_refused_before_anything_is_grouped() -> None:
    source, _ = sparse(20_000)
    asked: list[Request] = []

    def group(request: Request) -> object:
        asked.append(request)
        return source.group(request)

    with pytest.raises(LimitError) as error:
        answer(SPARSE, source.model, source, Rights("tester"), TODAY, group, budget=Budget(cells=10_000))  # type: ignore[arg-type]
    assert asked == []
    ranked = replace(
        SPARSE.question.rows[0], limits=(Limit(level="stop", amount=5, by=PlacedMeasure(measure="boardings")),)
    )
    limited = replace(SPARSE, question=replace(SPARSE.question, rows=(ranked, *SPARSE.question.rows[1:])))
    with pytest.raises(LimitError):
        answer(limited, source.model, source, Rights("tester"), TODAY, group, budget=Budget(cells=10_000))  # type: ignore[arg-type]
    assert asked == []
    stop, day = (LevelName(dimension=each, hierarchy=each, level=each) for each in ("stop", "day"))
    busy = MeasureFilter(measure="boardings", at=(stop, day), operator="more", values=(1,))
    alone = Analysis(model="sparse", question=Question(measures=SPARSE.question.measures, filters=(busy,)))
    with pytest.raises(LimitError, match="10,000 are the most"):
        answer(alone, source.model, source, Rights("tester"), TODAY, group, budget=Budget(cells=10_000))  # type: ignore[arg-type]
    assert asked == []
    assert error.value.code == "too-large"
    assert "10,000 are the most" in error.value.message
    assert "Stop (12,000 members) or Day (1,826 members)" in error.value.hint.replace("12,001", "12,000").replace(
        "1,827", "1,826"
    )
    with pytest.raises(LimitError, match="GiB of memory"):
        answer(SPARSE, source.model, source, Rights("tester"), TODAY, budget=Budget(memory_bytes=1_000))
    with pytest.raises(LimitError, match="seconds"):
        answer(SPARSE, source.model, source, Rights("tester"), TODAY, budget=Budget(seconds=1e-6))


def test_a_running_question_tells_how_far_it_is_and_can_be_taken_back() -> None:
    watch = Watch()
    seen: list[tuple[int, int]] = []

    def group(request: Request) -> object:
        progress = watch.progress
        seen.append((progress.done, progress.total))
        if len(seen) == 2:
            watch.cancel()
        return STAR.group(request)

    document = question("boardings", "cards", rows=(by("line", "mode"),), columns=(by("fare", "family"),))
    with pytest.raises(CancelledError, match="taken back"):
        answer(document, STAR.model, STAR, Rights("tester"), TODAY, group, watch=watch)  # type: ignore[arg-type]
    assert len(seen) == 2
    assert all(0 < done <= total for done, total in seen)
    assert seen[0] < seen[1]
