"""Files that are read as they are, or unpacked where their name says that they are packed (gzip, RFC 1952)."""

from __future__ import annotations

import gzip
import io
import zlib
from pathlib import Path
from typing import IO

from dastan.core.errors import SourceError

PACKED = ".gz"
TEXTS = (".csv", ".txt", ".tsv")
SHEETS = (".xlsx", ".xlsm", ".ods", ".xls")
JSON_LINES = (".jsonl", ".ndjson")
DATABASES = (".sqlite", ".sqlite3", ".db")
TABLES = (".parquet", *TEXTS, *SHEETS, *JSON_LINES, *DATABASES)
"""What a table is read from, by the ending of its name."""
MOST_UNPACKED = 400
"""So many times its size a large file may unpack to: more is not found in data, but made to fill the memory."""
LARGE_BYTES = 64 * 2**20
_PART = 2**20


def kind_of(path: Path) -> str:
    """What a file is by its name, ".csv": of text and JSON lines, whether it is packed or not."""
    if path.suffix.lower() == PACKED and path.with_suffix("").suffix.lower() in (*TEXTS, *JSON_LINES):
        return path.with_suffix("").suffix.lower()
    return path.suffix.lower()


def bytes_of(path: Path) -> bytes:
    """All that a file holds. Raises SourceError for one that is damaged, or unpacks to too much."""
    if path.suffix.lower() != PACKED:
        return path.read_bytes()
    most = max(LARGE_BYTES, MOST_UNPACKED * path.stat().st_size)
    found = io.BytesIO()
    try:
        with gzip.open(path) as file:
            while part := file.read(_PART):
                found.write(part)
                if found.tell() > most:
                    raise SourceError(
                        f"{path.name} would unpack to more than {most / 2**20:,.0f} MiB, which no data does.",
                        "Unpack it yourself, and look whether it is what it is said to be.",
                    )
    except (OSError, EOFError, zlib.error) as error:
        raise SourceError(f"{path.name} cannot be unpacked: it is damaged or cut short.", "Fetch it again.") from error
    return found.getvalue()


def opened_text(path: Path, encoding: str) -> IO[str]:
    """A file to be read as text, line by line."""
    if path.suffix.lower() == PACKED:
        return gzip.open(path, "rt", encoding=encoding, newline="")
    return path.open(encoding=encoding, newline="")
