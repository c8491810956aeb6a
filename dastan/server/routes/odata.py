"""Saved analyses and models as OData 4.01 (OASIS), an entity set each, read by a token as other feeds are."""

from __future__ import annotations

from collections.abc import Iterable

import orjson
from fastapi import APIRouter, Request
from fastapi.responses import Response

from dastan.core.analysis.checks import check_document
from dastan.core.analysis.made import with_made
from dastan.core.analysis.sentence import sentence_of
from dastan.core.engine.watch import Watch
from dastan.core.errors import InputError
from dastan.exports.odata.applying import Vocabulary, applied
from dastan.exports.odata.entities import KEY, Entities
from dastan.exports.odata.metadata import metadata_of
from dastan.exports.odata.page import Chosen, check_options, chosen, page_of
from dastan.records.database import transaction
from dastan.records.events import note_event
from dastan.server.access import FedAnalysis, FedAnalysisDep, FedModelDep
from dastan.server.bodies import BoundedRoute
from dastan.server.clock import now
from dastan.server.context import ConnectionDep, Server, ServerDep
from dastan.server.lanes import QUESTIONS
from dastan.server.parts import table_of
from dastan.server.readers import Reader, reader_for_saved
from dastan.server.routes.feeds import fed_document
from dastan.server.routes.session import address_of

router = APIRouter(prefix="/feeds/odata", tags=["odata"], route_class=BoundedRoute)

SET = "Numbers"
CELLS = "Cells"
JSON = "application/json;odata.metadata=minimal;charset=utf-8"
_VERSION = {"odata-version": "4.01"}


@router.get("/analyses/{id}/", response_class=Response)
async def service(fed: FedAnalysisDep, server: ServerDep, request: Request) -> Response:
    """What there is: one entity set."""
    value = [{"name": SET, "kind": "EntitySet", "url": SET, "title": fed.saved.name}]
    return _reply(
        [
            orjson.dumps(
                {"@odata.context": f"{_root(request, f'analyses/{fed.saved.id}', server)}/$metadata", "value": value}
            )
        ]
    )


@router.get("/analyses/{id}/$metadata", response_class=Response)
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


@router.get(f"/analyses/{{id}}/{SET}", response_class=Response)
async def entities(fed: FedAnalysisDep, server: ServerDep, connection: ConnectionDep, request: Request) -> Response:
    """The innermost numbers of an analysis as it is now, some at a time: `$select`, `$filter`, `$orderby`, `$top`,
    `$skip`, `$count`. What the analysis asks is answered beside them, as in `?name=answer`."""
    reader = await reader_for_saved(fed.person, server, connection, fed.saved)
    return await QUESTIONS.run(_entities, fed, reader, server, connection, request)


def _entities(
    fed: FedAnalysis, reader: Reader, server: Server, connection: ConnectionDep, request: Request
) -> Response:
    found, asked = _chosen(fed, reader, server, connection, request)
    if not asked.start:
        with transaction(connection):
            about = f"“{fed.saved.name}”, OData"
            note_event(connection, now(), "fed", fed.person.id, about, address_of(request), item=fed.saved.id)
    root = _root(request, f"analyses/{fed.saved.id}", server)
    return _reply(page_of(found, asked, f"{root}/$metadata#{SET}", f"{root}/{SET}", request.query_params.multi_items()))


@router.get(f"/analyses/{{id}}/{SET}/$count", response_class=Response)
async def count(fed: FedAnalysisDep, server: ServerDep, connection: ConnectionDep, request: Request) -> Response:
    """How many entities a filter leaves."""
    reader = await reader_for_saved(fed.person, server, connection, fed.saved)
    return await QUESTIONS.run(_count, fed, reader, server, connection, request)


def _count(fed: FedAnalysis, reader: Reader, server: Server, connection: ConnectionDep, request: Request) -> Response:
    _, asked = _chosen(fed, reader, server, connection, request)
    return Response(str(len(asked.rows)), media_type="text/plain", headers=_VERSION)


def _chosen(
    fed: FedAnalysis, reader: Reader, server: Server, connection: ConnectionDep, request: Request
) -> tuple[Entities, Chosen]:
    """The entities of an analysis, and what the address asks of them."""
    options = _options(request)
    document = fed_document(fed, reader, connection, request, beside="$")
    found = Entities(table_of(document, reader, server, Watch()).flat())
    return found, chosen(found, options)


@router.get("/models/{model}/", response_class=Response)
async def service_of_model(reader: FedModelDep, server: ServerDep, request: Request) -> Response:
    """What there is of a model: one entity set, which is asked by `$apply`."""
    model = reader.shelved.model
    value = [{"name": CELLS, "kind": "EntitySet", "url": CELLS, "title": model.caption}]
    context = f"{_root(request, f'models/{model.name}', server)}/$metadata"
    return _reply([orjson.dumps({"@odata.context": context, "value": value})])


@router.get("/models/{model}/$metadata", response_class=Response)
async def metadata_of_model(reader: FedModelDep) -> Response:
    """The levels to group by, and the measures, which are worked out for each group."""
    vocabulary = Vocabulary(reader.shelved.model)
    text = metadata_of(CELLS, [KEY, *vocabulary.properties], reader.shelved.model.caption, [*vocabulary.measures])
    return Response(text, media_type="application/xml", headers=_VERSION)


@router.get(f"/models/{{model}}/{CELLS}", response_class=Response)
async def cells(reader: FedModelDep, server: ServerDep, request: Request) -> Response:
    """Measures of a model by levels: `$apply=filter(Mode eq 'Ferry')/groupby((Year),aggregate(Boardings))`, and then
    `$filter`, `$orderby` and the rest on what comes of it."""
    return await QUESTIONS.run(_cells, reader, server, request)


def _cells(reader: Reader, server: Server, request: Request) -> Response:
    options = _options(request)
    if unknown := [each for each in request.query_params if not each.startswith("$")]:
        raise InputError(f"A model asks nothing that is called “{unknown[0]}”.", "Say it in $apply.")
    if "$apply" not in options:
        hint = "Write $apply=groupby((Mode),aggregate(Boardings)), with names of $metadata."
        raise InputError("A model is asked for measures by levels.", hint)
    asked_for = applied(options["$apply"], Vocabulary(reader.shelved.model), reader.members)
    check_document(asked_for.document, reader.shelved.model)
    watch = Watch()
    with server.admission.running(reader.person.id, watch, f"OData of {reader.shelved.model.caption}"):
        found = Entities(table_of(asked_for.document, reader, server, watch).flat(), asked_for.names)
    asked = chosen(found, options)
    root = _root(request, f"models/{reader.shelved.model.name}", server)
    return _reply(
        page_of(found, asked, f"{root}/$metadata#{CELLS}", f"{root}/{CELLS}", request.query_params.multi_items())
    )


def _options(request: Request) -> dict[str, str]:
    options = {name: value for name, value in request.query_params.items() if name.startswith("$")}
    check_options(options)
    return options


def _root(request: Request, of: str, server: Server) -> str:
    """The address of a service, as people open it."""
    return (server.settings.address or str(request.base_url)).rstrip("/") + f"/feeds/odata/{of}"


def _reply(parts: Iterable[bytes]) -> Response:
    return Response(b"".join(parts), media_type=JSON, headers=_VERSION)
