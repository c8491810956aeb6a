"""What a database has, and its tables and queries as Parquet files: batch by batch, so that little is in memory."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pyarrow as pa
import pyarrow.parquet as pq
import sqlglot
from adbc_driver_manager.dbapi import Connection, Cursor
from sqlglot import exp
from sqlglot.errors import ParseError

from dastan.core.engine.watch import Watch
from dastan.core.errors import InputError, LimitError, SourceError
from dastan.sources.postgres.asked import DatabaseTable, Wanted
from dastan.sources.postgres.fetched_column import DIALECT, FetchedColumn, postgres_type
from dastan.sources.postgres.held_against import Arrived, held_against
from dastan.sources.postgres.patience import patiently
from dastan.sources.postgres.server import own_words

_TABLES = """
SELECT n.nspname, c.relname, CASE WHEN c.relkind IN ('v', 'm') THEN 'view' ELSE 'table' END,
    GREATEST(c.reltuples, 0)::bigint, COALESCE(pg_catalog.obj_description(c.oid, 'pg_class'), '')
FROM pg_catalog.pg_class AS c JOIN pg_catalog.pg_namespace AS n ON n.oid = c.relnamespace
WHERE c.relkind IN ('r', 'p', 'v', 'm', 'f') AND NOT c.relispartition
    AND n.nspname NOT IN ('pg_catalog', 'information_schema') AND n.nspname !~ '^pg_'
    AND pg_catalog.has_table_privilege(c.oid, 'SELECT')
ORDER BY n.nspname, c.relname
"""


def tables_of(connection: Connection) -> tuple[DatabaseTable, ...]:
    """What there is to read."""
    with connection.cursor() as cursor:
        cursor.execute(_TABLES)
        return tuple(DatabaseTable(*row) for row in cursor.fetchall())


@contextmanager
def at_one_moment(connection: Connection) -> Iterator[None]:
    """Whatever is fetched inside is of one moment, however long it takes: tables that belong together still fit."""
    with connection.cursor() as cursor:
        cursor.execute("BEGIN ISOLATION LEVEL REPEATABLE READ READ ONLY")
        yield
        cursor.execute("COMMIT")  # where something went wrong the connection ends, and all that is open with it


def fetch(connection: Connection, wanted: Wanted, file: Path, watch: Watch, most_bytes: int = 2**40) -> Arrived:
    """Writes a table as a Parquet file, and holds it against the database.

    Raises: InputError for a query that is none; LimitError for a file of more than `most_bytes`; CancelledError, which
        ends the statement on the server too.
    """
    with connection.cursor() as cursor:
        base = _base(wanted)
        schema = cursor.adbc_execute_schema(base.sql(DIALECT))
        names = [each.name for each in schema]
        for each in names:
            if names.count(each) > 1:
                raise InputError(f"Two columns of {wanted.name} are called “{each}”.", "Name one otherwise: AS …")
        places = _places(cursor, base, schema)
        columns = [
            FetchedColumn(each, places.get(each.name)) for each in schema if not pa.types.is_binary(_plain(each))
        ]
        if not columns:
            raise InputError(f"{wanted.name} has no column that could be read.", "Choose another table.")
        chosen = exp.select(*(each.chosen() for each in columns)).from_(base.subquery("wanted"))
        _write(_batches(cursor, chosen.sql(DIALECT), watch), columns, file, watch, most_bytes)
        return held_against(cursor, base, columns, file, watch)


def _base(wanted: Wanted) -> exp.Query:
    if not wanted.query:
        return exp.select("*").from_(exp.table_(wanted.name, db=wanted.schema, quoted=True))
    try:
        found = sqlglot.parse(wanted.query, read=DIALECT)
    except ParseError as error:
        first = error.errors[0] if error.errors else {}
        line, said = first.get("line", 1), first.get("description", "it ends too soon")
        raise InputError(f"{wanted.name}: this is no SQL, at line {line}: {said}.", "Write one SELECT.") from error
    if len(found) != 1 or not isinstance(found[0], exp.Query):
        raise InputError(f"{wanted.name}: a query is one SELECT, and nothing else.", "Leave out the rest.")
    return found[0]


def _plain(field: pa.Field) -> pa.DataType:
    """The type that a field's values are stored in; of one that the driver does not know the bytes are text."""
    is_text = isinstance(field.type, pa.OpaqueType)
    return pa.string() if is_text else field.type


def _places(cursor: Cursor, base: exp.Query, schema: pa.Schema) -> dict[str, int]:
    """The decimal places of numeric columns: as declared or, where any may stand, the most that stand there."""
    found, unsaid = {}, []
    for each in schema:
        if postgres_type(each) == "numeric":
            modifier = int((each.metadata or {}).get(b"POSTGRESQL:typmod", b"-1"))
            if modifier >= 0:
                found[each.name] = (modifier - 4) & 0x7FF
            else:
                unsaid.append(each.name)
    if unsaid:
        scales = [exp.Max(this=exp.func("scale", exp.column(each, quoted=True))) for each in unsaid]
        cursor.execute(exp.select(*scales).from_(base.subquery("wanted")).sql(DIALECT))
        row = cursor.fetchone() or ()
        found |= {name: int(scale or 0) for name, scale in zip(unsaid, row, strict=True)}
    return found


def _batches(cursor: Cursor, statement: str, watch: Watch) -> Iterator[pa.RecordBatch]:
    """What a statement comes to, batch by batch."""
    with patiently(cursor, watch) as done:
        done(lambda: cursor.execute(statement))
        reader = done(cursor.fetch_record_batch)
        while (batch := done(lambda: _next(reader))) is not None:
            watch.check()
            yield batch


def _next(reader: pa.RecordBatchReader) -> pa.RecordBatch | None:
    try:
        return next(reader, None)
    except OSError as error:  # so the driver says that the statement, or the server, came to its end
        raise SourceError(f"The database broke off: {own_words(str(error))}.", "Try again.") from None


def _write(
    batches: Iterator[pa.RecordBatch], columns: list[FetchedColumn], file: Path, watch: Watch, most_bytes: int
) -> None:
    schema = pa.schema([pa.field(each.field.name, each.type) for each in columns])
    count = 0
    try:
        with pq.ParquetWriter(file, schema) as writer:
            for batch in batches:
                arrays = [each.kept(batch.column(at)) for at, each in enumerate(columns)]
                writer.write_batch(pa.record_batch(arrays, schema=schema))
                count += batch.num_rows
                if file.stat().st_size > most_bytes:
                    most = f"{most_bytes / 1e6:,.0f} MB"
                    raise LimitError(f"{file.stem} comes to more than {most}.", "Fetch a part of it, by a query.")
                watch.begin(f"{count:,} records of {file.stem}")
    except BaseException:
        file.unlink(missing_ok=True)
        raise
