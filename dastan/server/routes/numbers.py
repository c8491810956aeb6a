"""Questions to a number: how it was computed, the records behind it, why it is empty, whether the source agrees."""

from __future__ import annotations

import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from itertools import chain
from typing import Annotated

from fastapi import APIRouter, Depends, Query
from fastapi import Request as HttpRequest
from fastapi.responses import StreamingResponse

from dastan.core.engine.answer import Answer
from dastan.core.engine.plan import Shape
from dastan.core.engine.questioner import Questioner
from dastan.core.engine.waist import RecordPage, RecordsRequest, Request
from dastan.core.engine.watch import Watch
from dastan.core.errors import InputError
from dastan.core.model.document import Measure, SemanticModel
from dastan.core.model.formulas import base_aggregates
from dastan.core.reading.account import Account, account_of, captions_of
from dastan.core.reading.backing import Backing, CellPlace, backings_of, place_of
from dastan.core.reading.why_empty import WhyEmpty, why_empty
from dastan.exports.csv import csv_texts
from dastan.exports.spreadsheet_text import harmless
from dastan.records.database import transaction
from dastan.records.events import note_event
from dastan.server.access import OwnAnswer, OwnAnswerDep, require_no_limits
from dastan.server.answers import Asked
from dastan.server.asked_model import on_shelf
from dastan.server.bodies import BoundedRoute
from dastan.server.clock import now
from dastan.server.context import ConnectionDep, ServerDep
from dastan.server.lanes import QUESTIONS, in_lane
from dastan.server.record_columns import RecordColumn, columns_of, page_address, text_of
from dastan.server.routes.session import address_of
from dastan.sources.folders.recount import Recount, recount

router = APIRouter(prefix="/api/answers", tags=["numbers"], route_class=BoundedRoute)
LARGEST_PAGE = 500
STREAMED = 20_000
"""So many records at a time go into a download."""


@dataclass(frozen=True, slots=True)
class ListedRecord:
    """A record: what is shown in each column, and its page in the system it came from."""

    texts: tuple[str, ...]
    page: str | None


@dataclass(frozen=True, slots=True)
class ListedRecords:
    """A page of the records behind a cell. `columns` are all there are, those shown first and in order."""

    total: int
    found: int
    columns: tuple[RecordColumn, ...]
    records: tuple[ListedRecord, ...]


@dataclass(frozen=True, slots=True)
class WorkingPaper:
    """How a cell was computed, and how long it took to work it out anew."""

    account: Account
    request: str
    took_ms: float


@dataclass(frozen=True, slots=True)
class _Cell:
    answer: Answer
    place: CellPlace
    questioner: Questioner
    shape: Shape
    asked: Asked

    def backing(self, part: str) -> Backing:
        found = backings_of(self.answer, self.place, self.questioner, self.shape)
        for each in found:
            if part in ("", each.name):
                return each
        raise InputError("The number has no such part.", "Choose one of its parts.")


Line = Annotated[int, Query(ge=0)]


@contextmanager
def _cell(own: OwnAnswer, row: int, column: int, server: ServerDep) -> Iterator[_Cell]:
    """A cell of an answer to ask further questions about, once there is room for them."""
    asked, watch = own.asked, Watch()
    answer = server.answers.again(asked)
    with server.admission.running(asked.rights.reader, watch, asked.shelved.model.caption):
        questioner, shape = asked.questioner(server.settings.budget)
        yield _Cell(answer, place_of(answer, row, column), questioner, shape, asked)


@router.get("/{handle}/paper")
@in_lane(QUESTIONS)
def paper(row: Line, column: Line, own: OwnAnswerDep, server: ServerDep) -> WorkingPaper:
    with _cell(own, row, column, server) as cell:
        reader = own.reader
        members = reader.members_of(cell.asked.document)
        account = account_of(cell.answer, cell.place, cell.questioner, cell.shape, members, reader.seen_as)
        backings = backings_of(cell.answer, cell.place, cell.questioner, cell.shape)
        requests = [each for each in map(_asked_anew, backings) if each]
        started = time.perf_counter()
        for each in requests:
            cell.questioner.source.group(each)
        took = (time.perf_counter() - started) * 1000
        return WorkingPaper(account, "; ".join(_words_of(each) for each in requests), took)


def _asked_anew(backing: Backing) -> Request | None:
    """The grouped request that computes a part of the cell alone; what is open has none of its own."""
    found = backing.request
    if found is None or found.open_at is not None:
        return None
    return Request(found.grain, (), base_aggregates(backing.part), found.condition, found.rights)


def _words_of(request: Request) -> str:
    wanted = ", ".join(f"{each.kind} of {each.argument}" if each.argument else each.kind for each in request.aggregates)
    count = len(request.condition)
    under = f"under {count or 'no'} condition{'' if count <= 1 else 's'}"
    return f"{wanted} of {request.grain.table} in one group, {under}"


@router.get("/{handle}/why-empty")
@in_lane(QUESTIONS)
def why(row: Line, column: Line, own: OwnAnswerDep, server: ServerDep) -> WhyEmpty:
    with _cell(own, row, column, server) as cell:
        reader = own.reader
        members = reader.members_of(cell.asked.document)
        return why_empty(cell.answer, cell.place, cell.questioner, cell.shape, members)


@dataclass(frozen=True)
class Listing:
    """Which records of a number, in which order, and what of them."""

    part: str = ""
    order: str | None = None
    descending: bool = False
    search: str = ""
    columns: Annotated[list[str] | None, Query()] = None


ListingDep = Annotated[Listing, Depends()]


@router.get("/{handle}/records")
@in_lane(QUESTIONS)
def records(
    row: Line, column: Line, own: OwnAnswerDep, server: ServerDep, listing: ListingDep,
    start: Line = 0, count: Annotated[int, Query(ge=0, le=LARGEST_PAGE)] = 100,
) -> ListedRecords:  # fmt: skip
    with _cell(own, row, column, server) as cell:
        part, known, wanted = _listing(cell, listing)
        if wanted is None:
            return ListedRecords(0, 0, known, ())
        model = cell.asked.shelved.model
        wanted = replace(wanted, also=model.tables[part.table].records.page_columns(), start=start, count=count)
        found = cell.questioner.source.records(wanted)
        return ListedRecords(found.total, found.found, known, tuple(_listed(found, known, model, part.table)))


@router.get("/{handle}/records.csv", response_class=StreamingResponse)
@in_lane(QUESTIONS)
def download(
    row: Line, column: Line, own: OwnAnswerDep, server: ServerDep, connection: ConnectionDep, listing: ListingDep,
    request: HttpRequest,
) -> StreamingResponse:  # fmt: skip
    with _cell(own, row, column, server) as cell:
        part, known, wanted = _listing(cell, listing)
        pages = cell.questioner.source.record_pages(replace(wanted, count=STREAMED)) if wanted else iter(())
        name = " ".join((part.caption, *captions_of(cell.answer, cell.place)))
        with transaction(connection):
            about = f"the records of {name}, {cell.asked.shelved.model.caption}"
            note_event(connection, now(), "exported", own.reader.person.id, about, address_of(request))
        plain = "".join(letter if letter.isascii() and (letter.isalnum() or letter in " -") else "-" for letter in name)
        return StreamingResponse(
            _csv([each.name for each in known if each.is_shown], pages),
            media_type="text/csv; charset=utf-8",
            headers={"content-disposition": f'attachment; filename="{plain.strip()[:80]}.csv"'},
        )


@router.get("/{handle}/source")
@in_lane(QUESTIONS)
def source(row: Line, column: Line, own: OwnAnswerDep, server: ServerDep) -> tuple[Recount, ...]:
    with _cell(own, row, column, server) as cell:
        require_no_limits(own.reader, "The source's own totals")
        found = backings_of(cell.answer, cell.place, cell.questioner, cell.shape)
        # A view has the same part in several scopes: the source is asked for it once.
        parts = {each.part.name: each.part for each in found}
        opened = on_shelf(cell.asked.shelved).opened
        return tuple(recount(opened, each) for each in parts.values())


def _listing(cell: _Cell, listing: Listing) -> tuple[Measure, tuple[RecordColumn, ...], RecordsRequest | None]:
    """A part of the number, the columns of its records, and the request for them; None where nothing reaches them."""
    backing = cell.backing(listing.part)
    chosen = tuple(listing.columns or ())
    known = columns_of(cell.asked.shelved.model, backing.part, cell.questioner.source, chosen)
    if listing.order is not None and listing.order not in [each.name for each in known]:
        raise InputError(f"There is no column “{listing.order}” in these records.", "Order by one that is listed.")
    if backing.request is None:
        return backing.part, known, None
    shown = tuple(each.name for each in known if each.is_shown)
    wanted = replace(
        backing.request, columns=shown, order=listing.order, descending=listing.descending, search=listing.search
    )
    return backing.part, known, wanted


def _listed(
    found: RecordPage, known: tuple[RecordColumn, ...], model: SemanticModel, table: str
) -> Iterator[ListedRecord]:
    for at, values in enumerate(found.rows):
        raw = dict(zip(found.columns, values, strict=True))
        page = page_address(model, table, raw)
        texts = tuple(text_of(raw[each.name], found.captions.get(each.name, ()), at) for each in known if each.is_shown)
        yield ListedRecord(texts, page)


def _cell_text(value: object) -> object:
    if value is None:
        return ""
    return harmless(value) if isinstance(value, str) else value


def _csv(columns: list[str], pages: Iterator[RecordPage]) -> Iterator[str]:
    """Raw values, a batch of records at a time."""
    records = ([_cell_text(value) for value in values] for found in pages for values in found.rows)
    return csv_texts(chain([[harmless(each) for each in columns]], records))
