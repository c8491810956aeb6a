"""Errors as RFC 9457 problem documents: the one table from class to status."""

from __future__ import annotations

import logging
import sqlite3
from contextlib import suppress
from math import ceil
from typing import Any
from uuid import uuid4

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from starlette.exceptions import HTTPException

from dastan.core.errors import (
    AppError,
    CancelledError,
    ConflictError,
    ForbiddenError,
    InputError,
    LimitError,
    NotFoundError,
    SourceError,
)
from dastan.records.database import connect, transaction, trouble_of
from dastan.records.events import note_event
from dastan.server.clock import now
from dastan.server.doorway import SlowDownError, TokenNeededError

log = logging.getLogger(__name__)

STATUS: dict[type[AppError], int] = {
    InputError: 422,
    NotFoundError: 404,
    ConflictError: 409,
    ForbiddenError: 403,
    LimitError: 413,
    SourceError: 503,
    CancelledError: 409,
    SlowDownError: 429,
    TokenNeededError: 401,
}


PROBLEM = "application/problem+json"


class Problem(BaseModel):
    """An RFC 9457 problem document. `detail` says what happened, `hint` what to do next."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    hint: str = ""
    code: str
    details: dict[str, Any] = {}


ODATA = "/feeds/odata/"
"""Where addresses of OData begin."""


_TEXT = {"type": "string"}
_ODATA_ERROR = {
    "type": "object", "required": ["error"],
    "properties": {"error": {
        "type": "object", "required": ["code", "message"], "properties": {"code": _TEXT, "message": _TEXT},
    }},
}  # fmt: skip
"""How its clients read what went wrong (OData JSON 4.01, 21.1)."""


def status_of(error: AppError) -> int:
    """The HTTP status for an error, by its nearest class in the table."""
    return next((STATUS[kind] for kind in type(error).__mro__ if kind in STATUS), 500)


def problem(status: int, title: str, detail: str, hint: str, code: str, details: dict[str, Any]) -> JSONResponse:
    body = Problem(title=title, status=status, detail=detail, hint=hint, code=code, details=details)
    return JSONResponse(body.model_dump(), status, media_type=PROBLEM)


def install_errors(app: FastAPI) -> None:
    """Turns every failure into a problem document; unexpected ones are logged in full and shown without internals."""
    describe = app.openapi

    def described() -> dict[str, Any]:
        """The server's description, which says of problems by which type they go out; the framework says JSON."""
        document = describe()
        for path, operation in ((path, each) for path, own in document["paths"].items() for each in own.values()):
            default = operation["responses"]["default"]
            default["content"] = {PROBLEM: next(iter(default["content"].values()))}
            if path.startswith(ODATA):
                default["content"]["application/json"] = {"schema": _ODATA_ERROR}
        return document

    app.openapi = described  # type: ignore[method-assign]

    @app.exception_handler(AppError)
    def expected(request: Request, error: AppError) -> JSONResponse:
        if request.url.path.startswith(ODATA) and not isinstance(error, TokenNeededError):
            told = {"code": error.code, "message": str(error)}  # as its clients read it
            return JSONResponse({"error": told}, status_of(error), headers={"odata-version": "4.01"})
        title = type(error).__name__.removesuffix("Error")
        reply = problem(status_of(error), title, error.message, error.hint, error.code, error.details)
        if isinstance(error, TokenNeededError):  # spreadsheets then ask for a name and a password
            reply.headers["www-authenticate"] = 'Basic realm="Dastan", charset="UTF-8"'
        if "wait_s" in error.details:
            reply.headers["retry-after"] = str(ceil(error.details["wait_s"]))
        return reply

    @app.exception_handler(sqlite3.Error)
    def records(request: Request, error: sqlite3.Error) -> JSONResponse:
        log.error("The records failed at %s", request.url.path, exc_info=error)
        return expected(request, trouble_of(error))

    @app.exception_handler(RequestValidationError)
    def invalid(_: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        where = ".".join(str(each) for each in first["loc"])
        return problem(422, "Input", f"{where}: {first['msg']}.", "Check what was sent.", "invalid-request", {})

    @app.exception_handler(HTTPException)
    def http(request: Request, error: HTTPException) -> JSONResponse:
        told = {
            404: (f"There is nothing at {request.url.path}.", "Open the library at /."),
            405: (f"{request.url.path} does not take {request.method}.", "See /docs for what it takes."),
        }
        detail, hint = told.get(error.status_code, (str(error.detail), ""))
        return problem(error.status_code, "HTTP", detail, hint, f"http-{error.status_code}", {})

    @app.exception_handler(Exception)
    def unexpected(request: Request, error: Exception) -> JSONResponse:
        reference = uuid4().hex[:10]
        log.error("Unexpected error %s at %s", reference, request.url.path, exc_info=error)
        _tell_administrators(app, reference, request.url.path, type(error).__name__)
        detail = "Something went wrong that should not have. Your draft is kept."
        return problem(
            500, "Unexpected", detail, f"Try again; if it stays, report reference {reference}.", "unexpected", {}
        )


def _tell_administrators(app: FastAPI, reference: str, path: str, kind: str) -> None:
    with suppress(sqlite3.Error, AppError):  # it is in the log in any case
        connection = connect(app.state.server.settings.records)
        try:
            with transaction(connection):
                note_event(connection, now(), "unexpected_error", None, f"{reference}: {kind} at {path}")
        finally:
            connection.close()
