"""The look that a person's new analyses begin with."""

from __future__ import annotations

import sqlite3
from dataclasses import replace

from pydantic import TypeAdapter

from dastan.core.analysis.document import Analysis
from dastan.core.analysis.gestures import DressTable
from dastan.records.database import transaction
from dastan.records.people import look_of, put_look

_LOOK = TypeAdapter(DressTable)


def keep_look(connection: sqlite3.Connection, person: str, look: DressTable) -> None:
    """Keeps it as the person's own."""
    with transaction(connection):
        put_look(connection, person, _LOOK.dump_json(look).decode())


def begun(model: str, connection: sqlite3.Connection, person: str) -> Analysis:
    """An empty analysis of a model, in the person's own look."""
    found = look_of(connection, person)
    document = Analysis(model=model)
    return document if found is None else replace(document, dress=_LOOK.validate_json(found).of(document.dress))
