"""Opens a folder: a model document and its tables."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from functools import partial
from pathlib import Path
from threading import RLock

import pyarrow as pa
import pyarrow.compute as pc

from dastan.core.engine.watch import Watch
from dastan.core.errors import AppError, SourceError, did_you_mean
from dastan.core.model.document import SemanticModel, Table
from dastan.sources.columnar.column_source import ColumnSource
from dastan.sources.columnar.kept import ROOM
from dastan.sources.columnar.prepared import Prepared, fingerprint
from dastan.sources.files.calendar import calendar_table
from dastan.sources.files.day_forms import told
from dastan.sources.files.snapshot import Snapshot, State
from dastan.sources.files.tables import TableData, files_of, open_table, table_of_arrow
from dastan.sources.files.written import WrittenModel, find_written
from dastan.sources.folders.check import Note, checked_data

_LONGEST_CALENDAR_YEARS = 400


@dataclass(frozen=True, slots=True, eq=False)
class OpenModel:
    """A model that can be asked, with what was noticed about its data."""

    model: SemanticModel
    source: ColumnSource
    notes: tuple[Note, ...]
    written: WrittenModel
    """The document, and where its files lie."""
    version: str
    """Of the model and of all that it reads: another one means that no answer from before holds."""
    states: Mapping[Path, State]
    """Of the files that were read."""

    def is_current(self) -> bool:
        """Whether the document and all files are what they were when they were read."""
        try:
            files = Snapshot(files_of_model(self.written.folder, self.model)).files
            return files == self.states and self.written.is_current()
        except (OSError, AppError):
            return False


def open_folder(folder: Path, watch: Watch | None = None, room: float = ROOM) -> OpenModel:
    """Reads and checks the model of a folder and its tables.

    Args: `watch` hears how far it is; `room` is how much is kept beside a large folder of what is worked out from its
    coded columns, times their size.

    Raises: SourceError (files), ModelError (the document, or its fit to the data).
    """
    written = find_written(folder)
    model = written.read()
    # Taken before anything is read: what is read later is held against it.
    snapshot = Snapshot(files_of_model(written.folder, model))
    version = fingerprint(list(snapshot.files), written.text)
    known = Prepared(written.folder / ".dastan" / "prepared", version)
    is_new = not known.is_filled
    tables = _read_tables(model, written.folder, snapshot, known)
    prepared = known if not is_new or _are_many(tables) else None
    if prepared is not None:
        for table in tables.values():
            table.keep_in(prepared)
    _add_leads(model, tables)
    _add_calendars(model, tables, prepared)
    source = ColumnSource(model, tables, prepared, room)
    notes = checked_data(source, watch or Watch())
    snapshot.check()
    if prepared is not None and is_new:
        # Only now is it sure that the new state can be asked.
        prepared.forget_others()
    return OpenModel(source.model, source, notes, written, version, snapshot.files)


def _are_many(tables: dict[str, TableData]) -> bool:
    return max((each.row_count for each in tables.values()), default=0) >= PREPARE_FROM


PREPARE_FROM = 100_000
"""Records of a folder from which on what is worked out from them is kept beside them."""


def files_of_model(folder: Path, model: SemanticModel) -> list[Path]:
    """The files that a model's tables are read from. Raises SourceError where one has none."""
    read = {name: table for name, table in model.tables.items() if table.calendar is None}
    return [file for name, table in read.items() for file in files_of(folder, name, table)]


def open_tables(model: SemanticModel, folder: Path) -> dict[str, TableData]:
    """All tables of a model: files first, then the calendars, which may follow the files' dates."""
    tables = _read_tables(model, folder)
    _add_leads(model, tables)
    _add_calendars(model, tables)
    return tables


def linked_tables(
    model: SemanticModel, tables: dict[str, TableData], troubles: dict[str, AppError]
) -> dict[str, TableData]:
    """Tables that were opened, with those that are made, each knowing what it leads to. A calendar that cannot be made
    is told among the troubles."""
    _add_leads(model, tables)
    for name, table in model.tables.items():
        if table.calendar is not None:
            try:
                tables[name] = _calendar(model, name, table, tables, None)
            except AppError as error:
                troubles[name] = error
    return tables


def _read_tables(
    model: SemanticModel, folder: Path, snapshot: Snapshot | None = None, prepared: Prepared | None = None
) -> dict[str, TableData]:
    read = {name: table for name, table in model.tables.items() if table.calendar is None}
    return {name: open_table(folder, name, table, snapshot, prepared) for name, table in read.items()}


def _add_leads(model: SemanticModel, tables: dict[str, TableData]) -> None:
    """Lets the columns that are worked out read those of tables that their own lead to."""

    def lead(table: str, wanted: str) -> tuple[str, TableData, str]:
        own = [each for each in model.relationships if each.from_table == table and each.to_table in tables]
        found = [each for each in own if each.role == wanted] or [each for each in own if each.to_table == wanted]
        if len(found) == 1:
            return found[0].from_column, tables[found[0].to_table], found[0].to_column
        if found:
            roles = " or ".join(each.role for each in found)
            raise SourceError(f"Table “{table}” leads to “{wanted}” in several roles.", f"Name the role: {roles}.")
        known = [name for each in own for name in (each.role, each.to_table)]
        raise SourceError(f"Table “{table}” leads to no “{wanted}”.", did_you_mean(wanted, known))

    working = RLock()
    for name, table in tables.items():
        table.leads_to, table.working = partial(lead, name), working


def _add_calendars(model: SemanticModel, tables: dict[str, TableData], prepared: Prepared | None = None) -> None:
    for name, table in model.tables.items():
        if table.calendar is not None:
            tables[name] = _calendar(model, name, table, tables, prepared)


def _calendar(
    model: SemanticModel, name: str, declared: Table, tables: dict[str, TableData], prepared: Prepared | None
) -> TableData:
    wanted = declared.calendar
    assert wanted is not None
    first, last = _day(wanted.first, name), _day(wanted.last, name)
    if first is None or last is None:
        dates = _ends_of_dates(model, name, tables, prepared)
        if not dates:
            raise SourceError(
                f"Calendar “{name}” has no dates to follow.", "Give it `first` and `last`, or a relationship to it."
            )
        first = first or date(min(dates).year, 1, 1)
        last = last or date(max(dates).year, 12, 31)
    if not first <= last or last.year - first.year > _LONGEST_CALENDAR_YEARS:
        raise SourceError(
            f"Calendar “{name}” would run from {first} to {last}.", "Give it a sensible `first` and `last`."
        )
    return table_of_arrow(name, declared, calendar_table(first, last, wanted.financial_year_starts))


def _day(text: str | None, name: str) -> date | None:
    try:
        return date.fromisoformat(text) if text is not None else None
    except ValueError as exc:
        raise SourceError(f"Calendar “{name}”: “{text}” is not a date.", "Write YYYY-MM-DD.") from exc


def _first_without_day(table: TableData, column: str) -> str:
    """Where the first value stands that is no day, where it is text."""
    values = table.column(column)
    if not pa.types.is_string(values.type):
        return ""
    for text in values.drop_null().unique().to_pylist():  # in the order in which they come
        try:
            date.fromisoformat(text[:10].replace("/", "-"))
        except ValueError:
            return f": {table.place(column).locate(pc.index(values, text).as_py())} has “{text}”"
    return ""


def _how_to_say_days(values: pa.ChunkedArray, column: str) -> str:
    fitting = told(values, column)
    if fitting:
        return f"Say at the table how they are written: {fitting}."
    example = f'`columns: {{{column}: {{type: date, date_format: "%d.%m.%Y"}}}}`'
    return f"Write its dates as YYYY-MM-DD, or say at the table how they are written: {example}."


_ZONED = re.compile(r"\d{4}-\d{2}-\d{2}[T ][\d:.]+ ?(Z|[+-]\d{2}:?\d{2})")


def _ends_of_dates(
    model: SemanticModel, name: str, tables: dict[str, TableData], prepared: Prepared | None
) -> list[date]:
    """The first and the last day that point at a calendar; none where nothing does."""
    known = prepared.get(("dates", name)) if prepared is not None else None
    if isinstance(known, list):
        return [date.fromisoformat(each) for each in known]
    found = _dates_pointing_at(model, name, tables)
    ends = [min(found), max(found)] if found else []
    if prepared is not None:
        prepared.put(("dates", name), [each.isoformat() for each in ends])
    return ends


def _dates_pointing_at(model: SemanticModel, name: str, tables: dict[str, TableData]) -> list[date]:
    dates: list[date] = []
    for each in model.relationships:
        if each.to_table == name and each.from_table in tables:
            extremes = pc.min_max(tables[each.from_table].column(each.from_column)).as_py()
            found = [extremes["min"], extremes["max"]]
            if isinstance(found[0], str) and _ZONED.fullmatch(found[0]):
                raise SourceError(
                    f"Column “{each.from_column}” of table “{each.from_table}” holds times with a zone, such as "
                    f"{found[0]}: which day that is depends on the place.",
                    "Work the day out by `cast(cast(… as timestamp) at time zone '…' as date)`; or declare it a "
                    "`date`, for the day of its own zone.",
                )
            if any(isinstance(value, str | int | float) for value in found):
                raise SourceError(
                    f"Column “{each.from_column}” of table “{each.from_table}” points at the calendar “{name}” but "
                    f"does not hold dates{_first_without_day(tables[each.from_table], each.from_column)}.",
                    _how_to_say_days(tables[each.from_table].column(each.from_column), each.from_column),
                )
            dates += [value if type(value) is date else value.date() for value in found if value is not None]
    return dates
