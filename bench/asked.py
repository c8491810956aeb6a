"""Questions asked of a source whose requests are counted, each time as if it were the first."""

from __future__ import annotations

import argparse
import statistics
import time
from datetime import date
from pathlib import Path
from typing import NamedTuple

from dastan.core.analysis.document import Analysis
from dastan.core.engine.answer import answer
from dastan.core.engine.cache import GroupCache
from dastan.core.engine.waist import Groups, Request, Rights
from dastan.sources.columnar import load_kernels
from dastan.sources.folders.folder import OpenModel, open_folder

ROUNDS = 9
TODAY = date(2026, 1, 1)


class Took(NamedTuple):
    """The median milliseconds of a question, those of them in which the source was asked, and how often it was."""

    ms: float
    asked_ms: float
    requests: int


class Asked:
    """A model in a folder, ready to be asked."""

    def __init__(self, opened: OpenModel) -> None:
        load_kernels()
        self.opened = opened
        self._requests, self._asked_s = 0, 0.0

    def took(self, document: Analysis) -> Took:
        """What a few rounds took."""
        times, asked = [], []
        for _ in range(ROUNDS):
            self._requests, self._asked_s = 0, 0.0
            cache = GroupCache(self._group, self.opened.source.members)
            started = time.perf_counter()
            answer(document, self.opened.model, self.opened.source, Rights("bench"), TODAY, cache.group)
            times.append(time.perf_counter() - started)
            asked.append(self._asked_s)
        return Took(1000 * statistics.median(times), 1000 * statistics.median(asked), self._requests)

    def _group(self, request: Request) -> Groups:
        self._requests += 1
        started = time.perf_counter()
        found = self.opened.source.group(request)
        self._asked_s += time.perf_counter() - started
        return found


def from_command_line(description: str | None) -> Asked:
    """The folder that the command line names."""
    parser = argparse.ArgumentParser(description=description)
    parser.add_argument("folder", type=Path, help="a folder with the demo's data")
    return Asked(open_folder(parser.parse_args().folder))
