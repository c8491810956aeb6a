"""Builds the application from its settings."""

from __future__ import annotations

import asyncio
import inspect
import linecache
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager, suppress
from functools import partial
from pathlib import Path

from anyio.to_thread import current_default_thread_limiter
from fastapi import APIRouter, FastAPI
from fastapi.middleware.gzip import GZipMiddleware
from fastapi.responses import FileResponse
from fastapi.routing import APIRoute
from fastapi.staticfiles import StaticFiles
from starlette.concurrency import run_in_threadpool
from starlette.middleware.body_limit import RequestBodyLimitMiddleware
from starlette.types import Scope

from dastan.core.errors import AppError, NotFoundError
from dastan.records.database import connect, make_private, migrate
from dastan.server.admission import Admission
from dastan.server.answers import Answers
from dastan.server.bodies import LARGEST_BODY, PatientBodies, TooLargeIsAProblem
from dastan.server.bringing import Bringing
from dastan.server.clock import now
from dastan.server.context import Connections, Server
from dastan.server.doorway import Doorway
from dastan.server.entry import Entry
from dastan.server.errors import install_errors
from dastan.server.frozen import FrozenCopies
from dastan.server.headers import SafeHeaders
from dastan.server.jobs import Jobs
from dastan.server.keeper import Keeper
from dastan.server.lanes import SHORT_AT_ONCE
from dastan.server.memory import collect, is_left_behind, keep_still, trim
from dastan.server.modelling.workbench import Workbench
from dastan.server.pulse import Pulse
from dastan.server.questions import Questions
from dastan.server.readings import keeping
from dastan.server.reused import ReusedModels
from dastan.server.routes import (
    administration,
    analyses,
    answers,
    bringing,
    comments,
    data_connections,
    description,
    drafts,
    feeds,
    frozen,
    holders,
    layouts,
    library,
    links,
    lists,
    modelling,
    models,
    numbers,
    odata,
    questions,
    schedules,
    session,
    sharing,
    sign_on,
    taking,
    tokens,
    welcome,
)
from dastan.server.sealed import Sealer
from dastan.server.settings import Settings
from dastan.server.shelf import Shelf
from dastan.server.sign_on.exchange import SignOn
from dastan.server.working import take_up_jobs
from dastan.server.writing import Writing
from dastan.sources.folders.folder import open_folder
from dastan.version import __version__

_SHARE_BROUGHT = 4
"""Of the memory for all questions, this part may be brought as files at once: to read them takes several times that."""
_LOOK_S, _LOOKS_A_MINUTE = 2.0, 30
"""So often it is looked whether nobody asks anything just now: after a large question, and each minute in any case."""
_MOST_LOOKS = 20 * _LOOKS_A_MINUTE
"""After so many looks it is collected although people ask: what is left in circles does not grow for ever."""


def create_app(settings: Settings, more: tuple[APIRouter, ...] = ()) -> FastAPI:
    """The application: records migrated, models being opened, routes and the front end in place.

    Args: `more` are routes of somebody else's, such as the demo's own pages.
    Raises: SourceError when the records cannot be used.
    """
    make_private(settings.records)
    connection = connect(settings.records)
    try:
        migrate(connection)
    finally:
        connection.close()
    connections = Connections(settings.records)
    admission = Admission(settings.memory_bytes, settings.at_once)
    writing = Writing(settings.memory_bytes, settings.files_at_once)
    server = Server(
        settings=settings,
        shelf=Shelf(
            settings.folders,
            partial(open_folder, room=settings.kept_room),
            keeping(connections.using),
            settings.records,
        ),
        admission=admission,
        answers=Answers(settings.budget, admission, settings.kept_bytes),
        questions=Questions(admission, *writing.queues),
        writing=writing,
        keeper=Keeper(settings.records),
        connections=connections,
        doorway=Doorway(),
        entry=Entry(settings.entry_minutes),
        sign_on=SignOn(settings.provider) if settings.provider is not None else None,
        pulse=Pulse(),
        frozen=FrozenCopies(),
        reused=ReusedModels(),
        jobs=Jobs(),
        bringing=Bringing(settings.kept_models, settings.memory_bytes // _SHARE_BROUGHT),
        workbench=Workbench(settings.memory_bytes // _SHARE_BROUGHT),
        sealer=Sealer(settings.records.with_suffix(".key")),
    )

    @asynccontextmanager
    async def lifespan(_: FastAPI) -> AsyncIterator[None]:
        current_default_thread_limiter().total_tokens = SHORT_AT_ONCE
        server.bringing.mend()
        server.shelf.places()
        take_up_jobs(server)
        await _begin_at_once(app)
        coming = (server.pulse.beat(), _settle(server.shelf), _collect_when_quiet(server))
        tasks = [asyncio.create_task(each) for each in coming]
        yield
        for each in tasks:
            each.cancel()
        server.close()

    app = FastAPI(
        separate_input_output_schemas=False,
        title="Dastan",
        docs_url=None,
        redoc_url=None,
        openapi_url=None,
        telemetry={"tracing": False, "metrics": False, "logs": False},
        version=__version__,
        lifespan=lifespan,
    )
    app.state.server = server
    install_errors(app)
    app.add_middleware(GZipMiddleware, minimum_size=2_000, compresslevel=4)
    app.add_middleware(RequestBodyLimitMiddleware, max_body_size=LARGEST_BODY)
    app.add_middleware(PatientBodies)
    app.add_middleware(TooLargeIsAProblem)
    app.add_middleware(SafeHeaders)
    # What is asked most often is looked for first.
    ours = (
        drafts, answers, session, models, layouts, lists, questions, numbers, taking, frozen, analyses, library,
        schedules, comments, links, sharing, tokens, feeds, odata, sign_on, welcome, administration, description,
        bringing, modelling, holders, data_connections,
    )  # fmt: skip
    for each in ours:
        app.router.routes.extend(each.router.routes)
    for router in more:
        app.include_router(router)
    _serve_site(app, settings.site)
    return app


async def _settle(shelf: Shelf) -> None:
    """Waits until every model is open, or cannot be opened."""
    for each in shelf.places():
        with suppress(AppError):
            await each.opened()
    await run_in_threadpool(keep_still)


async def _collect_when_quiet(server: Server) -> None:
    """Collects once a minute, and after large questions, when nobody asks; where somebody always does, seldom."""
    looks = since = 0
    while True:
        await asyncio.sleep(_LOOK_S)
        looks, since = looks + 1, since + 1
        is_time = looks % _LOOKS_A_MINUTE == 0
        if is_time:
            server.workbench.let_go()
        if server.answers.let_go():
            await run_in_threadpool(trim)
        wants = (is_time or is_left_behind()) and server.admission.is_quiet()
        if wants or since > _MOST_LOOKS:
            since = 0
            await run_in_threadpool(collect)


async def _begin_at_once(app: FastAPI) -> None:
    """Does what the framework would do at the first requests, while everybody waits: it works out the routes that it
    includes, loads its threads, and reads the source of whatever answers, to name it in its errors."""
    nowhere: Scope = {
        "type": "http", "method": "GET", "path": "/api/nowhere", "headers": [], "query_string": b"", "app": app,
    }  # fmt: skip
    for route in app.router.routes:
        route.matches(nowhere)
        if isinstance(route, APIRoute):
            linecache.getlines(inspect.getsourcefile(route.endpoint) or "")
    await run_in_threadpool(now)


_LONGEST_NAME = 200
"""No file of the front end has a longer one, and none may be looked for by one that a file system refuses."""


def _serve_site(app: FastAPI, site: Path) -> None:
    """The built front end: its files as they are, its page for every other address."""
    if (site / "assets").is_dir():
        app.mount("/assets", StaticFiles(directory=site / "assets"), name="assets")

    @app.api_route("/{path:path}", methods=["GET", "HEAD"], include_in_schema=False)
    def page(path: str) -> FileResponse:
        if path.startswith("api/") or not (site / "index.html").is_file():
            raise NotFoundError(f"There is nothing at /{path}.", "Open the library at /.")
        if len(path) < _LONGEST_NAME and "\0" not in path:
            named = site / path
            if path and named.is_file() and named.resolve().is_relative_to(site.resolve()):
                return FileResponse(named)
        return FileResponse(site / "index.html", headers={"cache-control": "no-cache"})
