"""Frozen copies as they are asked: a model as it was, over the replies that were kept."""

from __future__ import annotations

import sqlite3
from collections import OrderedDict
from dataclasses import dataclass
from datetime import date
from threading import Lock

import orjson

from dastan.core.engine.waist import Groups, Request
from dastan.core.model.document import SemanticModel
from dastan.documents.read import MODEL
from dastan.records.frozen import FrozenCopy, frozen_of
from dastan.sources.frozen.source import FrozenSource
from dastan.sources.frozen.writing import read_replies

OPEN_KEPT = 16
"""So many frozen copies stay open: to open one is to read its file once."""


@dataclass(frozen=True, slots=True, eq=False, weakref_slot=True)
class FrozenModel:
    """A model as a frozen copy holds it: it can be asked for what is held, and is never anything else."""

    id: str
    model: SemanticModel
    source: FrozenSource
    today: date
    seen_as: tuple[str, ...]
    """The roles by which its author saw the records, as whoever reads it does now."""

    @property
    def version(self) -> str:
        return f"frozen {self.id}"

    def group(self, request: Request) -> Groups:
        return self.source.group(request)


def open_frozen(id: str, copy: FrozenCopy) -> FrozenModel:
    """A frozen copy that can be asked. Raises SourceError for one that is damaged."""
    model = MODEL.validate_json(copy.model_document)
    source = FrozenSource(read_replies(copy.numbers))
    return FrozenModel(id, model, source, date.fromisoformat(copy.frozen_at[:10]), tuple(orjson.loads(copy.seen_as)))


class FrozenCopies:
    """The frozen copies that were opened last. Safe for threads, under its lock."""

    def __init__(self) -> None:
        self._open: OrderedDict[str, FrozenModel] = OrderedDict()
        self._lock = Lock()

    def find(self, connection: sqlite3.Connection, id: str) -> FrozenModel:
        """The frozen copy of that id, whoever asks. Raises NotFoundError, SourceError."""
        with self._lock:
            found = self._open.get(id)
            if found is not None:
                self._open.move_to_end(id)
                return found
        found = open_frozen(id, frozen_of(connection, id))
        with self._lock:
            found = self._open.setdefault(id, found)
            while len(self._open) > OPEN_KEPT:
                self._open.popitem(last=False)
        return found
