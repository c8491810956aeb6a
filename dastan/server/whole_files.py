"""Files that are written whole before they leave, and are gone once they have left."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from tempfile import TemporaryDirectory

from fastapi.responses import FileResponse
from starlette.background import BackgroundTask


def whole_file(name: str, media: str, write: Callable[[Path], None]) -> FileResponse:
    """What `write` writes to the file that it is given; nothing is left of it where that raises."""
    folder = TemporaryDirectory(prefix="dastan-")
    file = Path(folder.name) / name
    try:
        write(file)
    except BaseException:
        folder.cleanup()
        raise
    return FileResponse(file, media_type=media, background=BackgroundTask(folder.cleanup))
