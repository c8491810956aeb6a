"""Models as questions are asked of them, wherever their numbers come from."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, date, datetime
from typing import Protocol

from dastan.core.engine.cache import GroupCache
from dastan.core.engine.waist import Groups, Request, Source
from dastan.core.errors import InputError
from dastan.core.model.document import SemanticModel
from dastan.sources.columnar.column_source import ColumnSource
from dastan.sources.folders.folder import OpenModel


class AskedModel(Protocol):
    """A model as questions are asked of it: one that lies open on the shelf, or one as a frozen copy holds it."""

    @property
    def model(self) -> SemanticModel: ...

    @property
    def source(self) -> Source: ...

    @property
    def version(self) -> str:
        """Of all that is read: another one means that no answer from before holds."""
        ...

    @property
    def today(self) -> date:
        """What moving periods are counted from."""
        ...

    def group(self, request: Request) -> Groups:
        """Answers a request, from memory where it is there."""
        ...


@dataclass(frozen=True, slots=True, eq=False, weakref_slot=True)
class ShelvedModel:
    """An open model with the cache of its groups."""

    opened: OpenModel
    cache: GroupCache

    @property
    def model(self) -> SemanticModel:
        return self.opened.model

    @property
    def source(self) -> ColumnSource:
        return self.opened.source

    @property
    def version(self) -> str:
        return self.opened.version

    @property
    def today(self) -> date:
        return date.today()

    def group(self, request: Request) -> Groups:
        return self.cache.group(request)


def files_since(model: AskedModel) -> str | None:
    """When the newest of a model's files was written, ISO in UTC; none for a model that has no files."""
    if not isinstance(model, ShelvedModel) or not model.opened.states:
        return None
    newest = max(changed for _, changed, *_ in model.opened.states.values()) / 1e9
    return datetime.fromtimestamp(newest, UTC).isoformat(timespec="seconds")


def on_shelf(model: AskedModel) -> ShelvedModel:
    """A model with the files that it reads. Raises InputError for a frozen copy and a table, which have none."""
    if not isinstance(model, ShelvedModel):
        raise InputError(
            "These numbers were worked out by an analysis, and are in no file to be held against.",
            "Look at them in that analysis.",
        )
    return model
