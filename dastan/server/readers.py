"""Who reads a model, and which of its records: one that lies on the shelf, one as it was frozen, or the table of an
analysis. Whatever is asked of a model is asked by a reader, and a reader is made here alone.

A person sees nothing of a model that nobody granted them, not even that it is there.
"""

from __future__ import annotations

import asyncio
import sqlite3
from collections.abc import Sequence
from concurrent.futures import Future
from dataclasses import dataclass, replace
from datetime import date
from typing import Protocol

from starlette.concurrency import run_in_threadpool

from dastan.core.analysis.captions import Members
from dastan.core.analysis.document import Analysis
from dastan.core.analysis.made_members import with_made_members
from dastan.core.engine.rights import rights_of_roles
from dastan.core.engine.seen import Seen
from dastan.core.engine.waist import Rights
from dastan.core.errors import NotFoundError, did_you_mean
from dastan.core.model.document import SemanticModel
from dastan.core.model.members import HierarchyMembers
from dastan.core.model.reach import grain_of
from dastan.records.analyses import SavedAnalysis, analysis_seen_by
from dastan.records.grants import models_granted, roles_granted
from dastan.records.people import Person
from dastan.server.asked_model import AskedModel, ShelvedModel
from dastan.server.context import Server
from dastan.server.model_as_seen import model_as_seen
from dastan.server.place import Place
from dastan.server.reused import ReusedModel, Start, analysis_of, make_reused, model_name_of


@dataclass(frozen=True, slots=True)
class Reader:
    """A person who asks one model: the records they may see, and what their roles are called."""

    person: Person
    shelved: AskedModel
    rights: Rights
    seen_as: tuple[str, ...]
    is_limited: bool = False
    """Of the table of an analysis: whether it would hold more for others."""
    is_behind: bool = False
    """Whether the model's files have changed since, and could not be read as they are."""

    @property
    def sees_all(self) -> bool:
        """Whether no record of the model is hidden from them, nor anything that its records were made of."""
        return not self.rights.rules and not self.is_limited

    @property
    def model(self) -> SemanticModel:
        """The model as they may know it: of its joint members only what is joined of what they see."""
        model = self.shelved.model
        return model if self.sees_all or not model.joints else model_as_seen(self.shelved, self.rights, self.members)

    def members_of(self, document: Analysis | None) -> Members:
        """The members that this person may see, with the joint ones that a document makes."""
        return self.members if document is None else with_made_members(self.members, document)

    def members(self, dimension: str, hierarchy: str) -> HierarchyMembers:
        """The members of the model that this person may see."""
        shelved = self.shelved
        return Seen(shelved.model, shelved.source, self.rights, shelved.group).members(dimension, hierarchy)


def places_for(person: Person, server: Server, connection: sqlite3.Connection) -> list[Place]:
    """The models that were granted to a person, open by now or not."""
    granted = models_granted(connection, person.rights_of)
    return [each for each in server.shelf.places() if each.name in granted]


def place_for(person: Person, server: Server, connection: sqlite3.Connection, model: str) -> Place:
    """A model that was granted to a person. Raises NotFoundError, the same whether there is none of that name."""
    known = places_for(person, server, connection)
    for each in known:
        if each.name == model:
            return server.shelf.current(each)
    raise _missing_model(model, did_you_mean(model, (each.name for each in known)))


def model_behind(person: Person, connection: sqlite3.Connection, model: str) -> str:
    """The model that holds the records: of an analysis's table the one that it was asked of, over all such tables.

    Raises: NotFoundError where one of these analyses is not the person's to see.
    """
    while (analysis := analysis_of(model)) is not None:
        try:
            model = analysis_seen_by(connection, person.id, analysis).model
        except NotFoundError as error:
            raise NotFoundError(
                "The analysis whose table this starts from is not here any more, or not shared with you.",
                "Ask its owner to share it, or to restore it.",
                code="missing-model",
            ) from error
    return model


def require_model(person: Person, connection: sqlite3.Connection, model: str) -> None:
    """Raises NotFoundError unless a model, or what lies behind it, was granted to a person."""
    if model_behind(person, connection, model) not in models_granted(connection, person.rights_of):
        raise _missing_model(model)


def _missing_model(model: str, hint: str = "") -> NotFoundError:
    """The error for a model that is not there, or not for this person: which of the two is not said."""
    return NotFoundError(
        f"There is no model “{model}” here, or none that you may open.",
        hint or "Ask an administrator to let you open one.",
        code="missing-model",
    )


def reader_of(person: Person, shelved: ShelvedModel, connection: sqlite3.Connection) -> Reader:
    """Which records of a model a person may see; every request to the engine carries it.

    Raises: NotFoundError for a model that was not granted to them.
    """
    roles = roles_granted(connection, person.rights_of, shelved.model.name)
    if roles is None:
        raise _missing_model(shelved.model.name)
    rights = rights_in_roles(person, roles, shelved)
    known = {each.name: each.caption for each in shelved.model.roles}
    return Reader(person, shelved, rights, tuple(known.get(each, each) for each in roles))


def rights_in_roles(person: Person, roles: Sequence[str], shelved: ShelvedModel) -> Rights:
    """What a person may see of a model in some roles of it; without roles, everything."""

    def newest(dimension: str) -> str | None:
        grains = {grain_of(each) for each in shelved.model.measures if not each.is_of_others}
        return max((span.last for grain in grains if (span := shelved.source.span(grain, dimension))), default=None)

    return rights_of_roles(person.id, roles, shelved.model, date.today(), newest)


async def reader_for(person: Person, server: Server, connection: sqlite3.Connection, model: str) -> Reader:
    """A person as the reader of a model, once it is open. Raises NotFoundError, and what kept it from opening."""
    found = await run_in_threadpool(reader_or_opening, person, server, connection, model)
    while not isinstance(found, Reader):
        await found.opened()
        found = await run_in_threadpool(reader_or_opening, person, server, connection, model)
    return found


def reader_at_once(person: Person, server: Server, connection: sqlite3.Connection, model: str) -> Reader:
    """The same on a thread that may wait for it."""
    found = reader_or_opening(person, server, connection, model)
    while not isinstance(found, Reader):
        found.wait()
        found = reader_or_opening(person, server, connection, model)
    return found


class Opening(Protocol):
    """A model that is not open yet: it is waited for, and asked for again then. Both raise what keeps it shut."""

    def wait(self) -> object: ...

    async def opened(self) -> object: ...


@dataclass(frozen=True, slots=True, eq=False)
class _Making:
    """A table that is being made of an analysis."""

    made: Future[ReusedModel]

    def wait(self) -> ReusedModel:
        return self.made.result()

    async def opened(self) -> ReusedModel:
        await asyncio.wait([asyncio.wrap_future(self.made)])  # whoever stops waiting takes it from nobody
        return self.made.result()


def reader_of_frozen(person: Person, server: Server, connection: sqlite3.Connection, id: str) -> Reader:
    """A person as the reader of a frozen copy that is theirs or shared with them: they see what its author saw.

    Raises: NotFoundError where it is not theirs to see, or its model was not granted to them; SourceError.
    """
    saved = analysis_seen_by(connection, person.id, id)
    require_model(person, connection, saved.model)
    frozen = server.frozen.find(connection, id)
    # All that is held is what its author could see.
    return Reader(person, frozen, Rights(person.id), frozen.seen_as)


async def reader_for_saved(
    person: Person, server: Server, connection: sqlite3.Connection, saved: SavedAnalysis
) -> Reader:
    """A person as the reader of what a saved analysis is asked of: its model as it is now, or as it was frozen."""
    if saved.frozen is not None:
        return await run_in_threadpool(reader_of_frozen, person, server, connection, saved.id)
    return await reader_for(person, server, connection, saved.model)


def reader_or_opening(person: Person, server: Server, connection: sqlite3.Connection, model: str) -> Reader | Opening:
    """The reader of a model that is open; else what is to be waited for."""
    analysis = analysis_of(model)
    if analysis is not None:
        return _reader_of_table(person, server, connection, analysis)
    place = place_for(person, server, connection, model)
    if not place.is_open:
        return place
    return replace(reader_of(person, place.wait(), connection), is_behind=place.behind is not None)


def _reader_of_table(person: Person, server: Server, connection: sqlite3.Connection, analysis: str) -> Reader | Opening:
    """The reader of the table that an analysis comes to for them: what they may not see there is not in it."""
    require_model(person, connection, model_name_of(analysis))
    saved = analysis_seen_by(connection, person.id, analysis)
    if saved.frozen is not None:
        found: Reader | Opening = reader_of_frozen(person, server, connection, saved.id)
    else:
        found = reader_or_opening(person, server, connection, saved.model)
    if not isinstance(found, Reader):
        return found
    start = Start(saved, found.shelved, found.rights)
    made = server.reused.find(start.version, lambda: make_reused(start, server.answers))
    if not made.done() or made.exception() is not None:
        return _Making(made)
    return Reader(person, made.result(), Rights(person.id), found.seen_as, not found.sees_all)
