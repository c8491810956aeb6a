"""The pages of single incidents, as the system that they came from would serve them."""

from __future__ import annotations

from functools import cache
from html import escape
from pathlib import Path
from typing import Annotated

import pyarrow.parquet as pq
from fastapi import APIRouter, Depends
from fastapi.responses import HTMLResponse

from dastan.core.engine.waist import RecordsRequest
from dastan.core.model.reach import Grain
from dastan.demo.people import DEMO_MODEL
from dastan.server.access import PersonDep
from dastan.server.asked_model import on_shelf
from dastan.server.context import ConnectionDep, ServerDep
from dastan.server.readers import Reader, reader_for

_OPENED = Grain("incidents", (("calendar", "opened"),))
"""Each incident once, by the day on which it was opened."""

_PAGE = """<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>{title}</title>
<style>body{{font:16px/1.5 Georgia,serif;max-width:40rem;margin:3rem auto;color:#2b2030;background:#faf6ec}}
dt{{float:left;clear:left;width:11rem;color:#6d6070}}dd{{margin:0 0 .3rem 11rem}}p{{color:#6d6070}}</style></head>
<body><p>Varrow Bay Transit, incident desk</p><h1>{title}</h1>{body}</body></html>"""


async def _reader(server: ServerDep, connection: ConnectionDep, person: PersonDep) -> Reader:
    return await reader_for(person, server, connection, DEMO_MODEL)


_ReaderDep = Annotated[Reader, Depends(_reader)]


def incident_pages(folder: Path) -> APIRouter:
    """Serves `/incidents/…` from the demo's incidents, to whoever may see the record."""
    router = APIRouter(include_in_schema=False)

    @cache
    def incidents() -> dict[int, dict[str, object]]:
        rows = pq.read_table(folder / "incidents.parquet").to_pylist()
        return {int(each["incident_id"]): {"row": row, **each} for row, each in enumerate(rows)}

    @router.get("/incidents/{number}", response_class=HTMLResponse)
    def incident(number: int, reader: _ReaderDep) -> HTMLResponse:
        found = incidents().get(number)
        seen = on_shelf(reader.shelved).source.record_rows(RecordsRequest(_OPENED, (), reader.rights))
        if found is None or found["row"] not in seen:
            missing = _PAGE.format(title=f"No incident {number}", body="<p>There is none of that number.</p>")
            return HTMLResponse(missing, status_code=404)
        lines = "".join(
            f"<dt>{escape(name.removesuffix('_id').replace('_', ' ').capitalize())}</dt>"
            f"<dd>{escape(str(value)) if value is not None else 'left blank'}</dd>"
            for name, value in found.items()
            if name not in ("page", "incident_id", "row")
        )
        return HTMLResponse(_PAGE.format(title=f"Incident {number}", body=f"<dl>{lines}</dl>"))

    return router
