"""The server's own description, for whoever is signed in and writes a script."""

from __future__ import annotations

from html import escape
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, JSONResponse

from dastan.server.access import PersonDep
from dastan.server.bodies import BoundedRoute

router = APIRouter(include_in_schema=False, route_class=BoundedRoute)

_PAGE = """<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>Dastan: the server's routes</title>
<style>
body {{ font: 15px/1.5 Georgia, serif; max-width: 46rem; margin: 2.5rem auto; color: #2b2030; background: #faf6ec }}
table {{ border-collapse: collapse; width: 100% }}
td {{ padding: .2rem .8rem .2rem 0; border-bottom: 1px solid #ebe3d3; vertical-align: top }}
code {{ font: 13px/1.5 ui-monospace, monospace }}
h2 {{ margin: 1.6rem 0 .3rem; font-size: 1.2rem }}
a {{ color: #9c2a3c }}
</style></head><body><h1>The server's routes</h1>
<p>Described in full by <a href="/openapi.json">openapi.json</a>. Send the session's cookie; what changes something
also carries the header <code>x-dastan-csrf</code> with the token that signing in gives.</p>{body}</body></html>"""
_LINE = "<tr><td><code>{method}</code></td><td><code>{path}</code></td><td>{words}</td></tr>"


@router.get("/openapi.json")
def openapi(request: Request, person: PersonDep) -> JSONResponse:
    return JSONResponse(request.app.openapi())


@router.get("/docs", response_class=HTMLResponse)
def docs(request: Request, person: PersonDep) -> HTMLResponse:
    by_tag: dict[str, list[str]] = {}
    document: dict[str, Any] = request.app.openapi()
    for path, methods in document["paths"].items():
        for method, operation in methods.items():
            words = escape(operation.get("description") or operation.get("summary") or "")
            line = (
                f"<tr><td><code>{method.upper()}</code></td><td><code>{escape(path)}</code></td><td>{words}</td></tr>"
            )
            by_tag.setdefault(operation.get("tags", ["other"])[0], []).append(line)
    body = "".join(f"<h2>{escape(tag)}</h2><table>{''.join(lines)}</table>" for tag, lines in by_tag.items())
    return HTMLResponse(_PAGE.format(body=body))
