"""Tables of a model that came from a database: where each is from, kept beside its file, to be fetched again."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass
from pathlib import Path

from dastan.sources.postgres.asked import Wanted

FETCHED = ".fetched.json"
"""The file of a folder that says so. It holds no secret."""


@dataclass(frozen=True, slots=True)
class FetchedTable:
    """A file of a model, the connection that it came by, and what was asked of it; when, how many records came, and how
    many there were by the database; how many columns add up to what it said then, and which do not. Files that were
    fetched before that was asked say none."""

    file: str
    connection: str
    wanted: Wanted
    at: str
    records: int
    records_there: int | None = None
    sums: int = 0
    differing: tuple[str, ...] = ()


def fetched_in(folder: Path) -> tuple[FetchedTable, ...]:
    """What of a folder came from a database."""
    try:
        found = json.loads((folder / FETCHED).read_text(encoding="utf-8"))
    except FileNotFoundError:
        return ()
    return tuple(FetchedTable(**{**each, "wanted": Wanted(**each["wanted"])}) for each in found)


def note_fetched(folder: Path, tables: tuple[FetchedTable, ...]) -> None:
    """Says so, in place of what was said before."""
    (folder / FETCHED).write_text(json.dumps([asdict(each) for each in tables], indent=1), encoding="utf-8")
