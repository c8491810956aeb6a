"""What the columns of a file are called, where its line of names does not call each one something of its own."""

from __future__ import annotations

from collections.abc import Sequence


def column_names(written: Sequence[str], where: str) -> tuple[list[str], list[str]]:
    """Names of their own for all columns, and what is to be noticed of those that were made.

    A column without a name is called after its place, "column_3", and one whose name stands there already has a number
    behind it, "line_2". Blanks around a name do not belong to it. Args: `where` says where the names stand.
    """
    names: list[str] = []
    notes: list[str] = []
    plain = [each.strip() for each in written]
    for place, name in enumerate(plain, 1):
        if not name:
            own = _free(f"column_{place}", [*plain, *names])
            notes.append(f"{where}: column {place} has no name, and is called {own}")
        elif name in names:
            own = _free(f"{name}_{plain[:place].count(name)}", [*plain, *names])
            notes.append(f"{where}: “{name}” stands there twice; column {place} is called {own}")
        else:
            own = name
        names.append(own)
    return names, notes


def _free(name: str, taken: Sequence[str]) -> str:
    stem, number = name, 2
    while name in taken:
        name, number = f"{stem}_{number}", number + 1
    return name
