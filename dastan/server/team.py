"""A team's data folder: models, records, the first administrator, and copies of it all."""

from __future__ import annotations

import re
import sqlite3
import tempfile
import zipfile
from contextlib import closing
from pathlib import Path

from dastan.core.errors import ConflictError, InputError, SourceError
from dastan.records.database import connect, make_private, migrate, transaction
from dastan.records.events import note_event
from dastan.records.identities import let_sign_on
from dastan.records.people import SIGN_IN_PATTERN, Person, all_people, put_person, set_administrator
from dastan.server.clock import now
from dastan.server.routes.welcome import make_link
from dastan.sources.files.written import MODEL_NAMES, folders_in

FIRST = Person("administrator", "administrator", "Administrator", is_administrator=True)
_RECORDS_NAME = "records.db"
MODELS_FOLDER = "models"
"""Of a team's data folder: a folder each."""


def opened(records: Path) -> sqlite3.Connection:
    """The records, made or brought up to date where that is needed. Raises SourceError."""
    make_private(records)
    connection = connect(records)
    try:
        migrate(connection)
    except BaseException:
        connection.close()
        raise
    return connection


def first_link(records: Path) -> str | None:
    """The path of a link that makes its holder the administrator; None where somebody can administer already."""
    with closing(opened(records)) as connection, transaction(connection):
        people = [each for each in all_people(connection) if each.is_administrator and not each.is_disabled]
        known = connection.execute("SELECT count(*) FROM people WHERE is_administrator AND password_hash IS NOT NULL")
        if people and known.fetchone()[0]:
            return None
        if not people:
            put_person(connection, FIRST, None)
            set_administrator(connection, FIRST.id, True)
            people = [FIRST]
        return make_link(connection, people[0].id)


def add_person(records: Path, sign_in: str, name: str, is_administrator: bool, signs_on: bool = False) -> str:
    """Adds a person; returns the path by which they come in: a link to choose a password, or the page to sign on from.

    Raises: InputError, ConflictError.
    """
    id = sign_in.strip().lower()
    if not re.match(SIGN_IN_PATTERN, id) or not name.strip():
        raise InputError(
            f"Nobody can sign in as “{sign_in}”.", "Take letters, digits, dots and dashes, and give a name."
        )
    with closing(opened(records)) as connection, transaction(connection):
        if any(id in (each.id, each.sign_in) for each in all_people(connection)):
            raise ConflictError(f"There is somebody who signs in as “{id}”.", "Choose another name.")
        put_person(connection, Person(id, id, name.strip()), None)
        set_administrator(connection, id, is_administrator)
        note_event(connection, now(), "person_added", None, f"{id}, on the command line")
        if signs_on:
            let_sign_on(connection, id)
            return "/sign-in"
        return make_link(connection, id)


def back_up(data: Path, file: Path) -> str:
    """Copies the records, as of one moment, and the model documents; returns what was done. Raises SourceError."""
    records, models = data / _RECORDS_NAME, data / MODELS_FOLDER
    if not records.is_file():
        raise SourceError(f"There are no records in {data}.", "Name the data folder of a server that has run.")
    if file.exists():
        raise SourceError(f"{file} is there already.", "Name another file; none is written over.")
    with tempfile.TemporaryDirectory(dir=file.parent) as folder:
        copy = Path(folder) / _RECORDS_NAME
        try:
            with closing(connect(records)) as source, closing(sqlite3.connect(copy)) as target:
                source.backup(target)
            making = Path(folder) / "backup"
            with zipfile.ZipFile(making, "w", zipfile.ZIP_DEFLATED) as archive:
                archive.write(copy, _RECORDS_NAME)
                for model in folders_in(models):
                    for name in MODEL_NAMES:
                        if (model / name).is_file():
                            archive.write(model / name, f"models/{model.name}/{name}")
            making.chmod(0o600)
            making.rename(file)
        except (OSError, sqlite3.Error) as exc:
            raise SourceError(f"The backup could not be written: {exc}.", "Check the disk; nothing was kept.") from exc
    return f"{file} holds the records and the documents of {len(folders_in(models))} models, not their tables."


def restore_from(data: Path, file: Path) -> str:
    """Puts a backup's records in place of those that are there, all at once. Raises SourceError."""
    with tempfile.TemporaryDirectory() as folder:
        copy = Path(folder) / _RECORDS_NAME
        try:
            with zipfile.ZipFile(file) as archive:
                copy.write_bytes(archive.read(_RECORDS_NAME))
            with closing(sqlite3.connect(copy)) as source:
                if source.execute("PRAGMA integrity_check").fetchone()[0] != "ok":
                    raise SourceError(f"The records in {file.name} are damaged.", "Take another backup.")
                with closing(opened(data / _RECORDS_NAME)) as target:
                    source.backup(target)
                    migrate(target)
                    with transaction(target):
                        # Sessions and links of that time have been ended or used since.
                        target.execute("DELETE FROM sessions")
                        target.execute("DELETE FROM invites")
        except (OSError, KeyError, zipfile.BadZipFile, sqlite3.Error) as exc:
            raise SourceError(
                f"{file} could not be restored: {exc}.", "Name a file that `dastan backup` wrote."
            ) from exc
    return f"The records of {file} are in place; everybody signs in again."
