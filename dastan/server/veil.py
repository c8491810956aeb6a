"""What a colleague shares names members that its reader may not see: such keys are veiled on the way to the reader, and
put back when the reader saves. So nothing hidden is shown, and nothing hidden is rewritten.

One that is not in the data at all is veiled alike: else a guess, saved and opened again, would tell which members there
are. A veiled member stands in no list that the reader sees, and a filter on it keeps or leaves out just what one on the
member itself would for this reader: nothing.
"""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass, field

from dastan.core.analysis.document import Analysis
from dastan.core.analysis.member_paths import with_member_paths
from dastan.core.errors import AppError
from dastan.core.model.joints import joint_named
from dastan.core.model.members import HierarchyMembers
from dastan.core.model.parts import Key, MemberPath, token_of, veiled
from dastan.records.secrets import secret_of
from dastan.records.veils import keys_behind, token_for
from dastan.server.readers import Reader


def veil(document: Analysis, reader: Reader, connection: sqlite3.Connection) -> tuple[Analysis, dict[str, Key]]:
    """The document as its reader may see it, and what its veils stand for, which is to be kept with it."""
    if reader.sees_all:
        return document, {}
    veiling = _Veiling(reader, secret_of(connection, "veils"))
    return with_member_paths(document, reader.shelved.model, veiling.change), veiling.kept


def unveil(document: Analysis, reader: Reader, connection: sqlite3.Connection) -> Analysis:
    """The document with what stands behind its veils."""
    tokens: list[str] = []

    def note(_: str, __: str, path: MemberPath) -> MemberPath:
        tokens.extend(token for key in path if (token := token_of(key)) is not None)
        return path

    with_member_paths(document, reader.shelved.model, note)
    if not tokens:
        return document
    behind = keys_behind(connection, tokens)

    def change(_: str, __: str, path: MemberPath) -> MemberPath:
        return tuple(behind.get(token_of(key) or "", key) for key in path)

    return with_member_paths(document, reader.shelved.model, change)


@dataclass
class _Veiling:
    reader: Reader
    secret: bytes
    kept: dict[str, Key] = field(default_factory=dict)
    _known: dict[tuple[str, str], HierarchyMembers | None] = field(default_factory=dict)

    def change(self, dimension: str, hierarchy: str, path: MemberPath) -> MemberPath:
        seen = self._members(dimension, hierarchy)
        if seen is None or seen.find(path) is not None:
            return path
        at_joint = next((at for at in range(len(path)) if joint_named(path[: at + 1]) is not None), None)
        if at_joint is not None:
            # A joint member is the analysis's own; what it stands under, or holds, may be hidden.
            above, key = path[:at_joint], path[at_joint]
            return (*(self.change(dimension, hierarchy, above) if above else ()), key, *path[at_joint + 1 :])
        # The nearest member above that may be seen keeps its keys; those below it are veiled.
        shown = next((at for at in range(len(path) - 1, 0, -1) if seen.find(path[:at]) is not None), 0)
        keys: list[Key] = list(path[:shown])
        for at in range(shown, len(path)):
            about = (self.reader.shelved.model.name, dimension, hierarchy, *map(repr, path[:at]))
            token = token_for(self.secret, about, path[at])
            self.kept[token] = path[at]
            keys.append(veiled(token))
        return tuple(keys)

    def _members(self, dimension: str, hierarchy: str) -> HierarchyMembers | None:
        own = (dimension, hierarchy)
        if own not in self._known:
            try:
                self._known[own] = self.reader.members(*own)
            except (AppError, KeyError):
                self._known[own] = None  # the model has it no more
        return self._known[own]
