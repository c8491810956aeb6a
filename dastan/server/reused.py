"""Analyses whose tables others start from: each is a model of its own, made when it is asked for.

Its rows are what the analysis comes to for one reader, with the rights that this reader has in its own model; so nobody
sees more through it than they see there. It is made anew when the analysis, its data or those rights are other ones.
"""

from __future__ import annotations

import re
import sqlite3
from collections import OrderedDict
from collections.abc import Callable, Hashable
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from datetime import date
from threading import Lock

from dastan.core.analysis.lost import fitted
from dastan.core.analysis.made import with_made
from dastan.core.analysis.one_grain import opened_evenly
from dastan.core.engine.cache import GroupCache
from dastan.core.engine.waist import DataSpan, Groups, Request, Rights
from dastan.core.engine.watch import Watch
from dastan.core.errors import InputError, LimitError
from dastan.core.model.document import SemanticModel
from dastan.core.reading.as_table import as_table
from dastan.documents.read import read_analysis
from dastan.exports.arrow import as_arrow
from dastan.records.analyses import SavedAnalysis, model_asked_by
from dastan.server.answers import Answers
from dastan.server.asked_model import AskedModel
from dastan.sources.answered import open_answered
from dastan.sources.columnar.column_source import ColumnSource

MOST_ROWS = 2_000_000
KEPT = 16
"""So many tables stay open, the last ones that were asked."""
_CACHE_BYTES = 32 * 2**20
_MAKERS = 4
_PREFIX = "table_"
_NAMED = re.compile(rf"{_PREFIX}[0-9a-f]{{32}}")


def model_name_of(analysis: str) -> str:
    """The name of the model that an analysis's table is."""
    return _PREFIX + analysis


def analysis_of(model: str) -> str | None:
    """The id of the analysis whose table a model of that name is; none for any other model."""
    return model[len(_PREFIX) :] if _NAMED.fullmatch(model) else None


def tables_behind(connection: sqlite3.Connection, model: str) -> list[str]:
    """The ids of the analyses whose tables lie behind a model of that name, the nearest first.

    There is no circle: an analysis never changes its model, and is there before its table can be another's.
    """
    found = []
    while (analysis := analysis_of(model)) is not None:
        found.append(analysis)
        model = model_asked_by(connection, analysis) or ""
    return found


@dataclass(frozen=True, slots=True, eq=False, weakref_slot=True)
class ReusedModel:
    """The table of an analysis, as one reader's rights let it be."""

    source: ColumnSource
    version: str
    today: date
    cache: GroupCache

    @property
    def model(self) -> SemanticModel:
        return self.source.model

    def group(self, request: Request) -> Groups:
        return self.cache.group(request)


class ReusedModels:
    """The tables that were asked last. Safe for threads, under its lock; one is made by one thread, once."""

    def __init__(self) -> None:
        self._made: OrderedDict[Hashable, Future[ReusedModel]] = OrderedDict()
        self._lock = Lock()
        self._makers = ThreadPoolExecutor(_MAKERS, thread_name_prefix="reusing")

    def find(self, key: Hashable, make: Callable[[], ReusedModel]) -> Future[ReusedModel]:
        """The table of that key, there or being made. One that could not be made is tried again."""
        with self._lock:
            found = self._made.get(key)
            if found is None or (found.done() and found.exception() is not None):
                found = self._made[key] = self._makers.submit(make)
            self._made.move_to_end(key)
            ended = [each for each, made in self._made.items() if made.done()]
            for each in ended[: max(len(self._made) - KEPT, 0)]:  # one that is waited for stays until it is there
                del self._made[each]
        return found

    def close(self) -> None:
        self._makers.shutdown(cancel_futures=True)


@dataclass(frozen=True, slots=True)
class Start:
    """What a table is made of: an analysis, the model that it asks, and the rights of whoever starts from it."""

    saved: SavedAnalysis
    asked: AskedModel
    rights: Rights

    @property
    def version(self) -> str:
        """Another one where the analysis, its data, the day or the rights are others."""
        return repr((self.saved.id, self.saved.version, self.asked.version, self.asked.today, self.rights.alone))


def make_reused(start: Start, answers: Answers) -> ReusedModel:
    """Asks an analysis and makes a model of its table, opened evenly, without its totals.

    Raises: InputError for one without numbers or rows, LimitError for one that is too large, and what asking it raises.
    """
    saved, asked = start.saved, start.asked
    document, _ = fitted(read_analysis(saved.document), asked.model)
    question = document.question
    if not question.measures or not (question.rows or question.columns):
        raise InputError(
            f"“{saved.name}” is no table yet, so nothing starts from it.",
            "Give it a measure and something to see it by.",
        )
    made = with_made(asked.model, document)
    try:
        _, answer = answers.ask(opened_evenly(document, made), asked, start.rights, Watch())
    except InputError as error:
        if error.code != "prompt-unanswered":
            raise
        hint = "Save it with an answer, then start from it."
        raise InputError(f"“{saved.name}” asks something first: {error.message}", hint) from error
    table = as_table(answer)
    if len(table) > MOST_ROWS:
        raise LimitError(
            f"“{saved.name}” comes to {len(table):,} rows; a table to start from has {MOST_ROWS:,} at most.",
            "Keep fewer members in it, or close a level.",
        )
    days = DataSpan(answer.oldest, answer.newest) if answer.oldest and answer.newest else None
    source = open_answered(
        table, [as_arrow(each) for each in table.values], days, made, model_name_of(saved.id),
        f"The table of “{saved.name}”", saved.description,
    )  # fmt: skip
    cache = GroupCache(source.group, source.members, _CACHE_BYTES)
    return ReusedModel(source, start.version, asked.today, cache)
