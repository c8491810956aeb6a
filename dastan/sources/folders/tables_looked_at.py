"""The tables of a model that is being changed, looked at as it reads them now: what each column holds, what does not
fit, and how many records each tie finds. Tables are opened once, however many steps are taken."""

from __future__ import annotations

import os
from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from pathlib import Path
from threading import RLock

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from dastan.core.engine.watch import Watch
from dastan.core.errors import AppError, SourceError
from dastan.core.model.document import Dimension, Relationship, SemanticModel, Table
from dastan.core.model.proposing.profile import ColumnProfile, Pointer, TableProfile
from dastan.sources.columnar.column_source import ColumnSource
from dastan.sources.columnar.dimension_rows import duplicate_keys, match_keys
from dastan.sources.files.looking.folder import propose_dimension, propose_of_tables
from dastan.sources.files.looking.profiled import column_profile
from dastan.sources.files.snapshot import Snapshot, State
from dastan.sources.files.tables import TableData, files_of, open_table
from dastan.sources.files.written import WrittenModel
from dastan.sources.folders.check import check_data
from dastan.sources.folders.folder import OpenModel, files_of_model, linked_tables

FIRST_ROWS = 40
_MOST_COMMON = 6


@dataclass(frozen=True, slots=True)
class ColumnLook:
    """A column: what it holds, or why it cannot be read as the model says. `profile` is none then."""

    name: str
    profile: ColumnProfile | None
    trouble: str
    first: tuple[str, ...]
    """Its first values, as they are written."""


@dataclass(frozen=True, slots=True)
class TableLook:
    """A table as it is read now; `trouble` says why it cannot be."""

    name: str
    records: int
    columns: tuple[ColumnLook, ...]
    trouble: str = ""


@dataclass(frozen=True, slots=True)
class TieLook:
    """How many records of a table find what they point at."""

    from_table: str
    role: str
    records: int = 0
    found: int = 0
    blank: int = 0
    unknown: int = 0
    examples: tuple[str, ...] = ()
    """Keys that are not there."""
    repeated: tuple[str, ...] = ()
    """Keys that stand in several rows there: a record cannot tell which of them it means."""
    trouble: str = ""


@dataclass(frozen=True, slots=True)
class CommonValue:
    """A value of a column, and how many records have it."""

    value: str
    records: int


@dataclass(frozen=True, slots=True)
class _Opened:
    """A table, and all that it was opened by."""

    declared: Table
    states: dict[Path, State]
    ties: tuple[Relationship, ...]
    """Of a table whose columns are worked out: what they may follow."""
    table: TableData


class Bench:
    """The tables of one folder. Safe for threads: what is kept is changed under the lock alone."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._lock = RLock()
        self._tables: dict[str, _Opened] = {}
        self._looks: dict[str, tuple[TableData, TableLook]] = {}
        self._ties: dict[Relationship, tuple[tuple[TableData, TableData], TieLook]] = {}
        self._proposed: tuple[tuple[TableData, ...], SemanticModel] | None = None

    @property
    def bytes(self) -> int:
        """How much memory the columns take that were read by now; whoever asks waits for nobody."""
        return sum(each.table.bytes for each in tuple(self._tables.values()))

    def tables(self, model: SemanticModel) -> tuple[dict[str, TableData], dict[str, AppError]]:
        """The tables of a model, each that can be read; and what keeps the others from being read."""
        with self._lock:
            found: dict[str, TableData] = {}
            troubles: dict[str, AppError] = {}
            for name, declared in model.tables.items():
                if declared.calendar is None:
                    try:
                        found[name] = self._table(name, declared, model.relationships)
                    except AppError as error:
                        troubles[name] = error
            for name in set(self._tables) - set(model.tables):
                del self._tables[name]
        return linked_tables(model, found, troubles), troubles

    def _table(self, name: str, declared: Table, ties: tuple[Relationship, ...]) -> TableData:
        states = Snapshot(files_of(self._folder, name, declared)).files
        is_worked_out = any(each.formula is not None for each in declared.columns.values())
        followed = ties if is_worked_out else ()
        known = self._tables.get(name)
        if known is None or (known.declared, known.states, known.ties) != (declared, states, followed):
            made = open_table(self._folder, name, declared, Snapshot(list(states)))
            self._tables[name] = known = _Opened(declared, states, followed, made)
        return known.table if is_worked_out else known.table.twin()

    def looks(self, model: SemanticModel, watch: Watch) -> tuple[TableLook, ...]:
        """Every table of a model, as it is read now."""
        tables, troubles = self.tables(model)
        watch.expect(len(model.tables))
        found = []
        for name in model.tables:
            watch.begin(f"looking at {name}")
            if name in tables:
                found.append(self._look(tables[name]))
            else:
                found.append(TableLook(name, 0, (), _told(troubles.get(name))))
            watch.note_done()
        return tuple(found)

    def _look(self, table: TableData) -> TableLook:
        known = self._looks.get(table.name)
        if known is not None and known[1].columns and known[0].is_same(table):
            return known[1]
        with ThreadPoolExecutor(os.cpu_count()) as threads:
            columns = tuple(threads.map(lambda name: _look_at(table, name), table.names))
        look = TableLook(table.name, table.row_count, columns)
        with self._lock:
            self._looks[table.name] = (table, look)
        return look

    def ties(self, model: SemanticModel, watch: Watch) -> tuple[TieLook, ...]:
        """Every tie of a model, counted over all records."""
        tables, _ = self.tables(model)
        watch.expect(len(model.relationships))
        found = []
        for each in model.relationships:
            watch.begin(f"{each.from_table}: {each.from_column}")
            found.append(self._counted(each, tables))
            watch.note_done()
        return tuple(found)

    def _counted(self, tie: Relationship, tables: Mapping[str, TableData]) -> TieLook:
        if tie.from_table not in tables or tie.to_table not in tables:
            return TieLook(tie.from_table, tie.role, trouble="One of its tables cannot be read.")
        ends = tables[tie.from_table], tables[tie.to_table]
        with self._lock:
            known = self._ties.get(tie)
        if known is None or not _are_same(known[0], ends):
            known = ends, _counted(tie, *ends)
            with self._lock:
                self._ties[tie] = known
        return known[1]

    def proposed(self, model: SemanticModel, watch: Watch) -> SemanticModel:
        """What the tables speak for, as they are read now. Raises SourceError where one cannot be read."""
        tables, troubles = self.tables(model)
        for error in troubles.values():
            raise error
        own = {name: each for name, each in tables.items() if model.tables[name].calendar is None}
        with self._lock:
            known = self._proposed
        if known is not None and _are_same(known[0], tuple(own.values())):
            return known[1]
        looks = {each.name: each for each in self.looks(model, watch)}
        profiles = [_profile(looks[name], each) for name, each in own.items()]
        # One with a column that cannot be read says so where it is looked at; the others speak all the same.
        readable = [each for each in profiles if each is not None]
        made = propose_of_tables(model.name, model.caption, {each.name: own[each.name] for each in readable}, readable)
        with self._lock:
            self._proposed = (tuple(own.values()), made)
        return made

    def described(self, model: SemanticModel, table: str, key: str, watch: Watch) -> Dimension | None:
        """The dimension that a table speaks for which others point at by a key; none where it cannot be read."""
        tables, _ = self.tables(model)
        look = next((each for each in self.looks(model, watch) if each.name == table), None)
        profile = _profile(look, tables[table]) if look is not None and table in tables else None
        if profile is None or all(each.name != key for each in profile.columns):
            return None
        pointers = [
            Pointer(each.from_table, each.from_column, each.to_table, each.to_column) for each in model.relationships
        ]
        taken = {each.name for each in model.dimensions if each.table != table or each.key is not None}
        return propose_dimension(profile, key, pointers, tables[table], taken)

    def common_values(self, model: SemanticModel, table: str, column: str) -> tuple[CommonValue, ...]:
        """The values of a column that most records have. Raises SourceError where it cannot be read."""
        tables, troubles = self.tables(model)
        if table not in tables:
            raise troubles.get(table) or SourceError(f"There is no table “{table}”.", "Load the page anew.")
        counted = pc.value_counts(tables[table].column(column).drop_null())
        order = np.argsort(-np.asarray(counted.field("counts")), kind="stable")[:_MOST_COMMON]
        return tuple(CommonValue(str(counted[int(at)]["values"]), counted[int(at)]["counts"].as_py()) for at in order)

    def open(self, model: SemanticModel, watch: Watch) -> OpenModel:
        """A model over these tables, to be asked. Raises SourceError, ModelError where it does not fit them."""
        tables, troubles = self.tables(model)
        for error in troubles.values():
            raise error
        states = Snapshot(files_of_model(self._folder, model)).files
        source = ColumnSource(model, tables)
        notes = check_data(source, watch)
        return OpenModel(source.model, source, notes, WrittenModel(self._folder / "draft", ""), "draft", states)


def _are_same(one: tuple[TableData, ...], other: tuple[TableData, ...]) -> bool:
    return len(one) == len(other) and all(own.is_same(its) for own, its in zip(one, other, strict=True))


def _profile(look: TableLook, table: TableData) -> TableProfile | None:
    columns = [each.profile for each in look.columns if each.profile is not None]
    if len(columns) < len(look.columns):
        return None
    return TableProfile(look.name, table.declared, look.records, tuple(columns))


def _look_at(table: TableData, name: str) -> ColumnLook:
    first: list[str] = []
    try:
        first = table.as_written(name, FIRST_ROWS)
        values = table.column(name)
    except AppError as error:
        return ColumnLook(name, None, _told(error), tuple(first))
    shown = first or ["" if each is None else str(each) for each in values[:FIRST_ROWS].to_pylist()]
    return ColumnLook(name, column_profile(name, values), "", tuple(shown))


def _counted(tie: Relationship, table: TableData, other: TableData) -> TieLook:
    bare = TieLook(tie.from_table, tie.role)
    try:
        pointing, keys = table.column(tie.from_column), other.column(tie.to_column)
        found, repeated = match_keys(pointing, keys), duplicate_keys(keys)
    except AppError as error:
        return replace(bare, trouble=_told(error))
    except pa.ArrowInvalid:
        return replace(bare, trouble="The two columns hold values of different kinds.")
    records = len(pointing)
    return replace(
        bare, records=records, found=records - found.blank_count - found.unknown_count, blank=found.blank_count,
        unknown=found.unknown_count, examples=tuple(found.unknown_examples),
        repeated=tuple(key for key, _ in repeated),
    )  # fmt: skip


def _told(error: AppError | None) -> str:
    return "" if error is None else f"{error.message} {error.hint}".strip()
