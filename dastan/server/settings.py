"""What a server is started with."""

from __future__ import annotations

import hashlib
import os
from dataclasses import dataclass, field, replace
from functools import cache
from pathlib import Path
from typing import Literal

from dastan.core.engine.size import Budget
from dastan.server.memory import machine_bytes
from dastan.server.sign_on.provider import Provider
from dastan.sources.columnar.kept import ROOM
from dastan.sources.files.written import folders_in


@dataclass(frozen=True, slots=True)
class Settings:
    """`models` are folders with a model document, `models_folder` one whose folders are such, looked at while the
    server runs; `entry` is a pass by which a local person signs in, once."""

    records: Path
    models: tuple[Path, ...] = ()
    site: Path = Path(__file__).parent / "site"
    models_folder: Path | None = None
    entry: str | None = None
    entry_person: str = "you"
    entry_minutes: int = 10
    """How long the pass holds from the server's start on."""
    session_hours: int = 24 * 14
    address: str = ""
    """The address that people open, where it is not the one that requests name."""
    provider: Provider | None = None
    """By which people may sign on, besides by a password."""
    proxies: tuple[str, ...] = ()
    """Addresses of proxies whose word is taken for who asks and whether by TLS; nobody's without."""
    memory_bytes: int = field(default_factory=lambda: machine_bytes() // 4)
    """For all questions that run at once, and for the answers that are kept."""
    at_once: int = field(default_factory=lambda: (os.cpu_count() or 1) + 2)
    """So many questions run at a time; the others wait in a queue."""
    kept_room: float = ROOM
    """How much is kept beside a large folder of what is worked out from its coded columns, times their size."""
    files_at_once: int = field(default_factory=lambda: max((os.cpu_count() or 1) // 2, 1))
    """So many files are written at a time, each in a process of its own; and as many short ones beside them."""

    bring: Literal["everybody", "administrators"] = "everybody"
    """Who may bring files, of which models are made."""

    @property
    def kept_models(self) -> Path:
        """The folder that models are put into."""
        return self.models_folder if self.models_folder is not None else self.records.parent / "models"

    def folders(self) -> tuple[Path, ...]:
        """The folders that hold a model just now."""
        named = {each.resolve() for each in self.models}
        return (*self.models, *(each for each in folders_in(self.kept_models) if each.resolve() not in named))

    @property
    def made_folder(self) -> Path:
        """Where files lie that are made at set times."""
        return self.records.with_name(f"{self.records.name}.made")

    @property
    def mail_folder(self) -> Path:
        """Where mail lies that is to go out."""
        return self.records.with_name(f"{self.records.name}.mail")

    @property
    def budget(self) -> Budget:
        """The largest question that is answered."""
        usual = Budget()
        return replace(usual, memory_bytes=min(usual.memory_bytes, self.memory_bytes))

    @property
    def kept_bytes(self) -> int:
        """So much of the answers is kept for looking at them again."""
        return self.memory_bytes // 24

    @property
    def cookie(self) -> str:
        """The name of the session's cookie: browsers do not tell ports apart, so that each server has its own."""
        return _cookie_of(self.records)


@cache
def _cookie_of(records: Path) -> str:
    """Asked of every request: where a path lies is asked of the system once."""
    return f"dastan_{hashlib.sha256(str(records.absolute()).encode()).hexdigest()[:10]}"
