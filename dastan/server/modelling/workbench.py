"""The benches of models that are being changed, and each as it would be, to be asked before it is published."""

from __future__ import annotations

import time
from collections import OrderedDict
from dataclasses import dataclass, field
from pathlib import Path
from threading import Lock

from dastan.core.engine.cache import GroupCache
from dastan.core.engine.watch import Watch
from dastan.core.model.document import SemanticModel
from dastan.server.asked_model import ShelvedModel
from dastan.server.bringing import told_of_input
from dastan.sources.files.snapshot import Snapshot
from dastan.sources.folders.folder import files_of_model
from dastan.sources.folders.tables_looked_at import Bench

_MOST = 4
"""So many models are kept at hand at most; the one that was not used for longest goes."""
_IDLE_S = 600.0
"""One that nobody has looked at for so long goes too."""
_TIMES_READ = 3
"""A model that is tried takes so many times what was read of its tables."""


@dataclass(slots=True)
class _Place:
    """A bench, and the last model that was opened on it. `tried` is replaced whole, under `lock`."""

    bench: Bench
    lock: Lock = field(default_factory=Lock)
    tried: tuple[SemanticModel, ShelvedModel] | None = None
    used: float = field(default_factory=time.monotonic)


class Workbench:
    """Safe for threads: the places are changed under the lock, and a model is tried under its place's own."""

    def __init__(self, most_bytes: int) -> None:
        """Args: `most_bytes` is how much all of them may take, but for the one that is looked at."""
        self._most_bytes = most_bytes
        self._lock = Lock()
        self._places: OrderedDict[Path, _Place] = OrderedDict()

    def bench(self, folder: Path) -> Bench:
        """The tables of a folder."""
        return self._place(folder).bench

    def tried(self, folder: Path, model: SemanticModel, watch: Watch) -> ShelvedModel:
        """A model over the tables of a folder, opened so that it can be asked.

        Raises: InputError, ModelError where it does not fit them.
        """
        place = self._place(folder)
        with place.lock:
            known = place.tried
            if known is not None and known[0] == model and _is_current(known[1], folder):
                return known[1]
            with told_of_input():
                opened = place.bench.open(model, watch)
            shelved = ShelvedModel(opened, GroupCache(opened.source.group, opened.source.members))
            place.tried = model, shelved
            return shelved

    def _place(self, folder: Path) -> _Place:
        with self._lock:
            found = self._places.pop(folder, None) or _Place(Bench(folder))
            self._places[folder] = found
            found.used = time.monotonic()
            while len(self._places) > 1 and (len(self._places) > _MOST or self._bytes() > self._most_bytes):
                self._places.popitem(last=False)
            return found

    def _bytes(self) -> int:
        return sum(_TIMES_READ * each.bench.bytes for each in self._places.values())

    def let_go(self, idle_s: float = _IDLE_S) -> None:
        """Lets go of what nobody has looked at for a while."""
        until = time.monotonic() - idle_s
        with self._lock:
            for folder in [folder for folder, each in self._places.items() if each.used <= until]:
                del self._places[folder]


def _is_current(shelved: ShelvedModel, folder: Path) -> bool:
    return bool(Snapshot(files_of_model(folder, shelved.model)).files == shelved.opened.states)
