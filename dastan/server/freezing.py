"""Freezing an analysis: its numbers are asked once more, and every reply is kept, with those it can be opened to."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import date

import orjson

from dastan.core.analysis.document import Analysis
from dastan.core.analysis.gestures import OpenLevel, apply_gesture
from dastan.core.analysis.made import with_made
from dastan.core.analysis.sentence import sentence_of
from dastan.core.engine.size import Budget
from dastan.core.engine.waist import Groups, Request, Rights
from dastan.core.engine.watch import Watch
from dastan.core.errors import InputError, LimitError
from dastan.core.model.document import SemanticModel
from dastan.documents.read import MODEL, write_analysis
from dastan.records.analyses import put_analysis
from dastan.records.events import note_event
from dastan.records.frozen import FrozenCopy, put_frozen
from dastan.server.answers import Answers
from dastan.server.clock import now
from dastan.server.context import Server
from dastan.server.readers import Reader
from dastan.server.workspace import show
from dastan.sources.frozen.recorder import Recorder
from dastan.sources.frozen.writing import write_replies

MOST_GROUPS = 400_000
"""No further level is kept once so many groups are held."""
MOST_BYTES = 32 * 2**20
_DEEPER = Budget(cells=1_000_000, seconds=20.0)
"""The largest question that is asked only so that what is shown can be opened further."""


@dataclass(frozen=True, slots=True, eq=False, weakref_slot=True)
class _Recorded:
    """A model whose replies are kept as they come."""

    model: SemanticModel
    source: Recorder
    version: str
    today: date

    def group(self, request: Request) -> Groups:
        return self.source.group(request)


def freeze(document: Analysis, of: str | None, reader: Reader, server: Server, watch: Watch) -> FrozenCopy:
    """An analysis as it is now, with its numbers as its reader sees them.

    Raises: InputError for one without numbers, or that still asks something; LimitError for one that is too large.
    """
    if not document.question.measures:
        raise InputError("There are no numbers yet to freeze.", "Choose a measure first.")
    shelved = reader.shelved
    recorder = Recorder(shelved.model, shelved.source, reader.rights, shelved.group)
    recorded = _Recorded(shelved.model, recorder, f"being frozen {id(recorder)}", shelved.today)
    own = replace(reader, shelved=recorded, rights=Rights(reader.person.id))
    answers = Answers(server.settings.budget, server.admission, 0)
    shown = show(document, "", own, answers, watch)
    deeper = Answers(_DEEPER, server.admission, 0)
    for each in _opened_further(shown.document, recorded.model):
        if recorder.replies.group_count > MOST_GROUPS:
            break
        try:
            deeper.ask(each, recorded, own.rights, watch)
        except LimitError:
            break
    numbers = write_replies(recorder.replies.without_repeats())
    if len(numbers) > MOST_BYTES:
        raise LimitError(
            f"These numbers come to {len(numbers) / 2**20:.0f} MB; a frozen copy holds {MOST_BYTES // 2**20} at most.",
            "Keep fewer members, or take the table away as a file.",
        )
    return FrozenCopy(
        of, now(), reader.person.name, shown.answered.newest if shown.answered is not None else None,
        orjson.dumps(list(reader.seen_as)).decode(), MODEL.dump_json(shelved.model).decode(), numbers,
    )  # fmt: skip


def keep_frozen(
    copy: FrozenCopy, document: Analysis, reader: Reader, connection: sqlite3.Connection, *, id: str, name: str,
    description: str, folder: str | None,
) -> None:  # fmt: skip
    """Keeps a frozen copy as an item of its reader's own, within a transaction."""
    text = sentence_of(document, reader.shelved.model, reader.members_of(document), reader.seen_as).text
    put_analysis(
        connection, id=id, model=reader.shelved.model.name, owner=reader.person.id, name=name, description=description,
        folder=folder, document=write_analysis(document).decode(), sentence=text, now=now(),
    )  # fmt: skip
    put_frozen(connection, id, copy)
    note_event(connection, now(), "froze", reader.person.id, f"“{name}”", item=id)


def _opened_further(document: Analysis, model: SemanticModel) -> Iterator[Analysis]:
    """The document with one level more open each time, along all hierarchies in turn."""
    made = with_made(model, document)
    placed = [*document.question.rows, *document.question.columns]
    ways = []
    for each in placed:
        levels = made.dimension(each.dimension).hierarchy(each.hierarchy).levels
        ways.append([(each, level) for level in levels[levels.index(each.level) : -1]])
    for depth in range(max(map(len, ways), default=0)):
        for way in ways:
            if depth < len(way):
                own, level = way[depth]
                opened = OpenLevel(dimension=own.dimension, hierarchy=own.hierarchy, level=level)
                document = apply_gesture(document, opened, model)
                yield document
