"""The model that the files of a folder speak for."""

from __future__ import annotations

import gzip
import re
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import orjson
import pyarrow.parquet as pq

from dastan.core.engine.watch import Watch
from dastan.core.errors import SourceError
from dastan.core.model.document import Dimension, SemanticModel, Table
from dastan.core.model.proposing.dimensions import of_pointed
from dastan.core.model.proposing.facts import attribute_columns, own_levels
from dastan.core.model.proposing.levels import Nested
from dastan.core.model.proposing.naming import caption_of, name_of
from dastan.core.model.proposing.pointers import candidates, decided, parent_candidates
from dastan.core.model.proposing.profile import Pointer, TableProfile
from dastan.core.model.proposing.proposal import propose
from dastan.sources.files.csv_file import CsvTable, form_of, read_csv
from dastan.sources.files.database_file import table_names
from dastan.sources.files.looking.profiled import measured, nestings_of, profile_of
from dastan.sources.files.looking.text_form import TextForm, look_at_sheet, look_at_text
from dastan.sources.files.looking.values_form import with_values
from dastan.sources.files.packed import DATABASES, JSON_LINES, PACKED, SHEETS, TABLES, TEXTS, kind_of
from dastan.sources.files.sheets import cells_of, read_cells, sheet_names
from dastan.sources.files.tables import TableData, open_table
from dastan.sources.files.text_table import read_text

_MOST_TABLES = 60
_PART = re.compile(r"[-_. ]*\d[\d\-_. ]*$")
"""What tells files of one table apart: a year, a number, a date at the end."""


def propose_model(where: Path, watch: Watch | None = None) -> SemanticModel:
    """Looks at the files of a folder, or at one file, and proposes a model.

    Raises: SourceError where there is nothing to read, or a file cannot be.
    """
    watch = watch or Watch()
    folder = where.parent if where.is_file() else where
    groups = _groups([where] if where.is_file() else _files_in(folder), folder)
    if not groups:
        raise SourceError(
            f"{where} holds no table: no CSV (.csv, .tsv, .txt), spreadsheet (.xlsx, .ods), JSON lines, SQLite or "
            "Parquet file.",
            "Put the files with your data there, then open it again.",
        )
    watch.expect(2 * len(groups))
    tables: dict[str, TableData] = {}
    profiles: list[TableProfile] = []
    for name, group in groups.items():
        watch.begin(f"reading {group.pattern}")
        looked = _looked_at(name, group)
        watch.note_done()
        if looked is None:
            continue
        tables[name] = open_table(folder, name, looked.form.table, whole=looked.whole)
        watch.begin(f"looking at {group.pattern}")
        profiles.append(profile_of(tables[name], looked.form.assumed))
        if looked.whole is None:
            tables[name].forget()  # what is needed once more is quickly read
        watch.note_done()
    about = where.name.split(".")[0] if where.is_file() else where.resolve().name
    return propose_of_tables(name_of(about, otherwise="model"), caption_of(about), tables, profiles)


def propose_of_tables(
    name: str, caption: str, tables: dict[str, TableData], profiles: Sequence[TableProfile]
) -> SemanticModel:
    """The model that tables speak for, however they are read. Args: `profiles` are what was seen of them."""
    pointers = decided(profiles, [measured(each, tables) for each in candidates(profiles)])
    nestings = [one for each in profiles for one in nestings_of(tables[each.name], _level_columns(each, pointers))]
    return propose(name, caption, profiles, pointers, _parents(profiles, pointers, tables), nestings)


def propose_dimension(
    profile: TableProfile, key: str, pointers: Sequence[Pointer], table: TableData, taken: set[str]
) -> Dimension:
    """The dimension that a table speaks for, by its key. Args: `taken` are names of other dimensions."""
    columns = attribute_columns(profile, key, pointers, set())
    return of_pointed(profile, key, pointers, Nested(nestings_of(table, columns)), None, taken)[0]


@dataclass(frozen=True, slots=True)
class _Looked:
    """How a table is to be read, and what was read of it already, by that form."""

    form: TextForm
    whole: CsvTable | None = None


def _looked_at(name: str, group: _Group) -> _Looked | None:
    """Looks at a table's first file; None for a sheet that holds no table."""
    file = group.files[0]
    if kind_of(file) in SHEETS:
        cells = cells_of(file, group.sheet)
        form = look_at_sheet(cells, name, group.pattern)
        if form is None:
            return None
        read = read_cells(cells, form_of(file, form.table))
    elif kind_of(file) in TEXTS:
        form = look_at_text(file, name, group.pattern)
        read = read_csv(file, form_of(file, form.table))
    elif kind_of(file) == ".parquet":
        return _Looked(TextForm(Table(file=group.pattern), ()))
    else:
        form = TextForm(Table(file=group.pattern, sheet=group.sheet), ())
        read = read_text(file, form_of(file, form.table))
    found = with_values(form, read.table, name)
    is_whole = len(group.files) == 1 and not found.table.blanks
    return _Looked(found, read if is_whole else None)


def _level_columns(table: TableProfile, pointers: Sequence[Pointer]) -> list[Any]:
    key = next((each.to_column for each in pointers if each.to_table == table.name), None)
    own = own_levels(table, pointers)
    more = attribute_columns(table, key, pointers, set()) if key is not None else []
    return [*more, *(each for each in own if each not in more)]


def _parents(
    profiles: Sequence[TableProfile], pointers: Sequence[Pointer], tables: dict[str, TableData]
) -> list[Pointer]:
    keys = {each.to_table: each.to_column for each in pointers}
    found = [
        measured(each, tables)
        for table in profiles
        if table.name in keys
        for each in parent_candidates(table, table.column(keys[table.name]))
    ]
    return [each for each in found if each.share >= 0.8]


def _files_in(folder: Path) -> list[Path]:
    if not folder.is_dir():
        raise SourceError(f"There is no folder {folder}.", "Check the path.")
    found = [each for each in sorted(folder.rglob("*")) if each.is_file() and kind_of(each) in TABLES]
    return [each for each in found if not any(part.startswith(".") for part in each.relative_to(folder).parts)]


@dataclass(frozen=True, slots=True)
class _Group:
    """A table's files, and the pattern that names them; of a spreadsheet, the sheet."""

    pattern: str
    files: list[Path]
    sheet: str | None = None


def _groups(files: Sequence[Path], folder: Path) -> dict[str, _Group]:
    """Tables by name. Files that differ by a number at the end are one; each sheet of a spreadsheet is one."""
    by_stem: dict[tuple[Path, str, str], list[Path]] = {}
    for each in (each for each in files if kind_of(each) not in (*SHEETS, *DATABASES)):
        stem = each.name[: -len("".join(each.suffixes[-2:] if each.suffix == ".gz" else each.suffixes[-1:]))]
        ending = each.name[len(stem) :]
        by_stem.setdefault((each.parent, _PART.sub("", stem), ending), []).append(each)
    found: dict[str, _Group] = {}
    for (parent, stem, ending), group in by_stem.items():
        inside = parent.relative_to(folder)
        is_one = len(group) > 1 and _are_one(group)
        for one in [group] if is_one else [[each] for each in group]:
            own, pattern = one[0].name[: -len(ending)], one[0].name
            if is_one:
                # Files that are called by numbers alone are what their folder is called.
                own, pattern = (stem, f"{stem}*{ending}") if stem else (inside.name or own, f"*{ending}")
            name = name_of(own, found, "table")
            found[name] = _Group((inside / pattern).as_posix(), one)
    for each in (each for each in files if kind_of(each) in (*SHEETS, *DATABASES)):
        names = sheet_names(each) if kind_of(each) in SHEETS else table_names(each)
        for sheet in names:
            name = name_of(each.stem if len(names) == 1 else sheet, found, "table")
            pattern = each.relative_to(folder).as_posix()
            found[name] = _Group(pattern, [each], sheet)
    if len(found) > _MOST_TABLES:
        raise SourceError(
            f"{folder} holds {len(found)} tables; a model is proposed for {_MOST_TABLES} at the most.",
            "Put those that belong together into a folder of their own.",
        )
    return found


def _are_one(files: Sequence[Path]) -> bool:
    """Whether files have the same columns."""
    return len({_columns(each) for each in files}) == 1


def _columns(file: Path) -> tuple[str, ...]:
    """What tells the columns of a file, without reading it: their names, or its first line."""
    if kind_of(file) == ".parquet":
        return tuple(pq.read_schema(file).names)
    with gzip.open(file) if file.suffix.lower() == PACKED else file.open("rb") as opened:
        line = opened.readline(2**16)
    if kind_of(file) in JSON_LINES:
        with suppress(orjson.JSONDecodeError):
            return tuple(orjson.loads(line))
    return (line.decode("utf-8", "replace").strip(),)
