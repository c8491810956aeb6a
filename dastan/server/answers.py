"""Answers under handles: kept while there is room, and computed again when asked for later."""

from __future__ import annotations

import hashlib
from collections import OrderedDict
from dataclasses import dataclass, replace
from datetime import date
from threading import Lock
from time import monotonic
from weakref import ref

from dastan.core.analysis.document import Analysis, Dress
from dastan.core.engine.answer import Answer, answer, questioner_of
from dastan.core.engine.plan import Shape
from dastan.core.engine.questioner import Questioner
from dastan.core.engine.size import Budget
from dastan.core.engine.waist import Rights
from dastan.core.engine.watch import Watch
from dastan.documents.read import write_analysis
from dastan.server.admission import Admission
from dastan.server.asked_model import AskedModel

QUESTIONS_KEPT = 4_000
LARGE_BYTES, LARGE_FOR_S = 2**22, 60.0
"""An answer of so many bytes is kept for so long after somebody looked at it, and small ones while there is room."""


@dataclass(frozen=True, slots=True)
class Asked:
    """A question that was answered: enough to answer it again."""

    document: Analysis
    shelved: AskedModel
    rights: Rights
    today: date
    content: str
    """The same for everybody who asks this with the very same rights."""

    def questioner(self, budget: Budget) -> tuple[Questioner, Shape]:
        """What it is asked with, to ask further questions about its answer."""
        shelved = self.shelved
        return questioner_of(
            self.document, shelved.model, shelved.source, self.rights, self.today, shelved.group, budget
        )  # fmt: skip


@dataclass(frozen=True, slots=True)
class _Remembered:
    """A question that was answered, which does not keep its model: one whose files have changed is let go."""

    document: Analysis
    shelved: ref[AskedModel]
    rights: Rights
    today: date
    content: str


class Answers:
    """Answers by handle. A handle tells who asked, so that no one reads another's; the answer itself is kept once for
    all who see the same records. Safe for threads: what is kept is
    looked at and changed under the lock, and answers themselves never change."""

    def __init__(self, budget: Budget, admission: Admission, kept_bytes: int) -> None:
        """Args: answers are kept up to `kept_bytes` together; the last one in any case."""
        self._budget = budget
        self._admission = admission
        self._kept_bytes = kept_bytes
        self._answers: OrderedDict[str, Answer] = OrderedDict()
        self._looked_at: dict[str, float] = {}
        """When somebody last looked at each of the large ones, by the clock that only goes on."""
        self._size = 0
        self._asked: OrderedDict[str, _Remembered] = OrderedDict()
        self._lock = Lock()

    def ask(self, document: Analysis, shelved: AskedModel, rights: Rights, watch: Watch) -> tuple[str, Answer]:
        """Answers a document and keeps the answer; returns its handle."""
        # Dress changes no number: the same answer serves however it looks.
        bare = replace(document, dress=Dress())
        today = shelved.today
        about = (rights.alone, today, shelved.version)
        content = hashlib.sha256(write_analysis(bare) + repr(about).encode()).hexdigest()
        handle = hashlib.sha256(f"{content} {rights.reader}".encode()).hexdigest()[:24]
        asked = Asked(bare, shelved, rights, today, content)
        with self._lock:
            self._asked[handle] = _Remembered(bare, ref(shelved), rights, today, content)
            if len(self._asked) > QUESTIONS_KEPT:
                self._asked.popitem(last=False)
        return handle, self._answer(asked, watch)

    def again(self, asked: Asked, watch: Watch | None = None) -> Answer:
        """The answer to a question, computed again where it is no longer kept."""
        return self._answer(asked, watch or Watch())

    def question(self, handle: str) -> Asked | None:
        """The question that a handle answers, while it is remembered and its model is open; `access` says who may
        have it."""
        with self._lock:
            found = self._asked.get(handle)
        shelved = found.shelved() if found is not None else None
        if found is None or shelved is None:
            return None
        return Asked(found.document, shelved, found.rights, found.today, found.content)

    @property
    def size_bytes(self) -> int:
        """How much the answers take that are kept."""
        with self._lock:
            return self._size

    def let_go(self, at: float | None = None) -> bool:
        """Lets go of large answers that nobody has looked at for a while: what they took is the machine's again, and
        whoever comes back to one has it from the groups that are kept.

        Args: `at` is the moment, by `time.monotonic`; now, if none is given.
        Returns: whether there were any.
        """
        oldest = (monotonic() if at is None else at) - LARGE_FOR_S
        with self._lock:
            old = [content for content, looked_at in self._looked_at.items() if looked_at < oldest]
            for content in old:
                self._forget(content)
        return bool(old)

    def _forget(self, content: str) -> None:
        self._size -= self._answers.pop(content).size_bytes
        self._looked_at.pop(content, None)

    def _answer(self, asked: Asked, watch: Watch) -> Answer:
        with self._lock:
            found = self._answers.get(asked.content)
            if found is not None:
                self._answers.move_to_end(asked.content)
                if asked.content in self._looked_at:
                    self._looked_at[asked.content] = monotonic()
                return found
        source, model = asked.shelved.source, asked.shelved.model
        with self._admission.running(asked.rights.reader, watch, model.caption):
            made = answer(
                asked.document, model, source, asked.rights, asked.today, asked.shelved.group,
                budget=self._budget, watch=watch,
            )  # fmt: skip
        with self._lock:
            if asked.content not in self._answers:
                self._answers[asked.content] = made
                self._size += made.size_bytes
                if made.size_bytes >= LARGE_BYTES:
                    self._looked_at[asked.content] = monotonic()
            while len(self._answers) > 1 and self._size > self._kept_bytes:
                self._forget(next(iter(self._answers)))
        return made
