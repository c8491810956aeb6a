"""The server's OpenAPI description, from which the front end's client is generated."""

from __future__ import annotations

from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from dastan.server.app import create_app
from dastan.server.settings import Settings


def openapi_document() -> dict[str, Any]:
    """The description, the same whatever models are served."""
    with TemporaryDirectory() as folder:
        app = create_app(Settings(records=Path(folder) / "records.db", models=()))
        document: dict[str, Any] = app.openapi()
        app.state.server.close()
    return document
