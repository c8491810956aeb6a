"""Parents and children as levels: each row's path from its top down."""

from __future__ import annotations

from collections.abc import Sequence

from dastan.core.errors import ModelError
from dastan.core.model.members import LevelColumn
from dastan.core.model.parts import Key


def paths_from_top(keys: Sequence[Key], parents: Sequence[Key], dimension: str) -> list[list[int]]:
    """Per row, the rows from its top down to itself. A parent that no row has makes its row a top one.

    Raises: ModelError where rows go round in a circle.
    """
    row_of = {key: row for row, key in enumerate(keys) if key is not None}
    paths: list[list[int] | None] = [None] * len(keys)
    for row in range(len(keys)):
        trail: list[int] = []
        at: int | None = row
        while at is not None and paths[at] is None:
            if at in trail:
                circle = [*trail[trail.index(at) :], at]
                raise ModelError(
                    f'In dimension “{dimension}” parents go round in a circle: '
                    + " is below ".join(f'“{keys[each]}”' for each in circle) + ".",
                    "Give one of these rows another parent, or none.",
                )  # fmt: skip
            trail.append(at)
            parent = parents[at]
            at = row_of.get(parent) if parent is not None else None
        above = [] if at is None else paths[at] or []
        for each in reversed(trail):
            above = [*above, each]
            paths[each] = above
    return [each or [] for each in paths]


def unknown_parents(keys: Sequence[Key], parents: Sequence[Key]) -> list[Key]:
    """The parents that no row has, in order of appearance."""
    known = set(keys)
    return list(dict.fromkeys(each for each in parents if each is not None and each not in known))


def parent_child_columns(
    paths: Sequence[Sequence[int]],
    names: Sequence[tuple[str, str]],
    keys: Sequence[Key],
    captions: Sequence[str],
    sort: Sequence[Key],
) -> list[LevelColumn]:
    """One column per level. Where a row's path has ended, its key is blank: there stand its own records.

    Args: `names` hold each level's name and caption, coarsest first.
    """
    columns = []
    for depth, (name, caption) in enumerate(names):
        at = [path[depth] if depth < len(path) else None for path in paths]
        columns.append(
            LevelColumn(
                name,
                caption,
                [None if row is None else keys[row] for row in at],
                ["" if row is None else captions[row] for row in at],
                [None if row is None else sort[row] for row in at],
                None,
            )
        )
    return columns
