"""The benches of models that are being changed, and each as it would be, to be asked before it is published."""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass, field
from pathlib import Path
from threading import Lock

from dastan.core.engine.cache import GroupCache
from dastan.core.engine.watch import Watch
from dastan.core.model.document import SemanticModel
from dastan.server.bringing import told_of_input
from dastan.server.shelf import ShelvedModel
from dastan.sources.files.folder import files_of_model
from dastan.sources.files.looking.bench import Bench
from dastan.sources.files.snapshot import Snapshot

_MOST = 4
"""So many models are kept at hand; the one that was not used for longest goes."""


@dataclass(slots=True)
class _Place:
    """A bench, and the last model that was opened on it. `tried` is replaced whole, under `lock`."""

    bench: Bench
    lock: Lock = field(default_factory=Lock)
    tried: tuple[SemanticModel, ShelvedModel] | None = None


class Workbench:
    """Safe for threads: the places are changed under the lock, and a model is tried under its place's own."""

    def __init__(self) -> None:
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

    def forget(self, folder: Path) -> None:
        """Lets go of a folder's tables."""
        with self._lock:
            self._places.pop(folder, None)

    def _place(self, folder: Path) -> _Place:
        with self._lock:
            found = self._places.pop(folder, None) or _Place(Bench(folder))
            self._places[folder] = found
            while len(self._places) > _MOST:
                self._places.popitem(last=False)
            return found


def _is_current(shelved: ShelvedModel, folder: Path) -> bool:
    return bool(Snapshot(files_of_model(folder, shelved.model)).files == shelved.opened.states)
