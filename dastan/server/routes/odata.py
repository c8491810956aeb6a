"""Saved analyses as OData 4.01 (OASIS): an entity set each, of its innermost numbers, read by a token as feeds are."""

from __future__ import annotations

from collections.abc import Iterable

import orjson
from fastapi import APIRouter, Request
from fastapi.responses import Response

from dastan.core.analysis.made import with_made
from dastan.core.analysis.sentence import sentence_of
from dastan.core.engine.watch import Watch
from dastan.exports.odata.entities import Entities
from dastan.exports.odata.metadata import metadata_of
from dastan.exports.odata.page import check_options, chosen, page_of
from dastan.records.database import transaction
from dastan.records.events import note_event
from dastan.server.access import FedAnalysis, FedAnalysisDep, Reader, reader_for_saved
from dastan.server.bodies import BoundedRoute
from dastan.server.context import ConnectionDep, Server, ServerDep
from dastan.server.lanes import QUESTIONS
from dastan.server.parts import table_of
from dastan.server.routes.feeds import fed_document
from dastan.server.routes.session import address_of
from dastan.server.settings import now

router = APIRouter(prefix="/feeds/odata/analyses/{id}", tags=["odata"], route_class=BoundedRoute)

SET = "Numbers"
JSON = "application/json;odata.metadata=minimal;charset=utf-8"
_VERSION = {"odata-version": "4.01"}


@router.get("/", response_class=Response)
async def service(fed: FedAnalysisDep, server: ServerDep, request: Request) -> Response:
    """What there is: one entity set."""
    value = [{"name": SET, "kind": "EntitySet", "url": SET, "title": fed.saved.name}]
    return _reply([orjson.dumps({"@odata.context": f"{_root(request, fed, server)}/$metadata", "value": value})])


@router.get("/$metadata", response_class=Response)
async def metadata(fed: FedAnalysisDep, server: ServerDep, connection: ConnectionDep, request: Request) -> Response:
    """What the properties are called and of which type they are (CSDL, as XML)."""
    reader = await reader_for_saved(fed.person, server, connection, fed.saved)
    return await QUESTIONS.run(_metadata, fed, reader, server, connection, request)


def _metadata(
    fed: FedAnalysis, reader: Reader, server: Server, connection: ConnectionDep, request: Request
) -> Response:
    document = fed_document(fed, reader, connection, request, beside="$")
    entities = Entities(table_of(document, reader, server, Watch()).flat())
    model = with_made(reader.shelved.model, document)
    text = sentence_of(document, model, reader.members_of(document), reader.seen_as).text
    return Response(metadata_of(SET, entities.properties, text), media_type="application/xml", headers=_VERSION)


@router.get(f"/{SET}", response_class=Response)
async def entities(fed: FedAnalysisDep, server: ServerDep, connection: ConnectionDep, request: Request) -> Response:
    """The innermost numbers of an analysis as it is now, some at a time: `$select`, `$filter`, `$orderby`, `$top`,
    `$skip`, `$count`. What the analysis asks is answered beside them, as in `?name=answer`."""
    reader = await reader_for_saved(fed.person, server, connection, fed.saved)
    return await QUESTIONS.run(_entities, fed, reader, server, connection, request)


def _entities(
    fed: FedAnalysis, reader: Reader, server: Server, connection: ConnectionDep, request: Request
) -> Response:
    options = _options(request)
    document = fed_document(fed, reader, connection, request, beside="$")
    found = Entities(table_of(document, reader, server, Watch()).flat())
    asked = chosen(found, options)
    if not asked.start:
        with transaction(connection):
            about = f"“{fed.saved.name}”, OData"
            note_event(connection, now(), "fed", fed.person.id, about, address_of(request), item=fed.saved.id)
    root = _root(request, fed, server)
    return _reply(page_of(found, asked, f"{root}/$metadata#{SET}", f"{root}/{SET}", request.query_params.multi_items()))


@router.get(f"/{SET}/$count", response_class=Response)
async def count(fed: FedAnalysisDep, server: ServerDep, connection: ConnectionDep, request: Request) -> Response:
    """How many entities a filter leaves."""
    reader = await reader_for_saved(fed.person, server, connection, fed.saved)
    return await QUESTIONS.run(_count, fed, reader, server, connection, request)


def _count(fed: FedAnalysis, reader: Reader, server: Server, connection: ConnectionDep, request: Request) -> Response:
    options = _options(request)
    document = fed_document(fed, reader, connection, request, beside="$")
    found = chosen(Entities(table_of(document, reader, server, Watch()).flat()), options)
    return Response(str(len(found.rows)), media_type="text/plain", headers=_VERSION)


def _options(request: Request) -> dict[str, str]:
    options = {name: value for name, value in request.query_params.items() if name.startswith("$")}
    check_options(options)
    return options


def _root(request: Request, fed: FedAnalysis, server: Server) -> str:
    """The address of the service, as people open it."""
    return f"{server.settings.address or str(request.base_url)}".rstrip("/") + f"/feeds/odata/analyses/{fed.saved.id}"


def _reply(parts: Iterable[bytes]) -> Response:
    return Response(b"".join(parts), media_type=JSON, headers=_VERSION)
