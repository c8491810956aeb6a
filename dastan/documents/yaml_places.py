"""Reads YAML and remembers on which line everything stands."""

from __future__ import annotations

from collections.abc import Callable
from io import StringIO
from typing import Any

from ruamel.yaml import YAML
from ruamel.yaml.error import MarkedYAMLError, YAMLError

from dastan.core.errors import ModelError
from dastan.core.model.check import Place

LONGEST_TEXT = 4_000_000
MOST_PARTS = 200_000


def read_yaml(text: str, file: str) -> tuple[Any, Callable[[Place], int]]:
    """The document, and a function from a place in it (keys and numbers from the top) to its line.

    Raises: ModelError with the line where the text stops being YAML.
    """
    if len(text) > LONGEST_TEXT:
        raise ModelError(f"{file} has {len(text):,} characters, where {LONGEST_TEXT:,} are the most.", "Is it a model?")
    try:
        document = YAML(typ="rt", pure=True).load(StringIO(text))
    except MarkedYAMLError as exc:
        line = exc.problem_mark.line + 1 if exc.problem_mark is not None else 1
        raise ModelError(
            f"{file}, line {line}: this is not YAML: {exc.problem}.",
            "Check indentation, colons and quotes there and on the line above.",
            details={"faults": [{"place": f"line {line}", "message": str(exc.problem), "hint": ""}]},
        ) from exc
    except RecursionError as exc:
        raise ModelError(f"{file} has too many parts inside one another.", "Write it flatter.") from exc
    except YAMLError as exc:
        raise ModelError(f"{file} is not YAML: {exc}.", "Check that the file is plain text.") from exc
    try:
        plain = _plain(document, [MOST_PARTS])
    except RecursionError as exc:
        raise ModelError(f"{file} refers to itself.", "Write out what it refers to.") from exc
    except _TooManyError as exc:
        raise ModelError(
            f"{file} has more than {MOST_PARTS:,} parts once its references are followed.",
            "Write out what is meant in place of references to references.",
        ) from exc
    return plain, lambda place: _line_of(document, place)


def _line_of(node: Any, place: Place) -> int:
    """The line of the deepest part of `place` that is there."""
    line = 1
    for step in place:
        position = getattr(node, "lc", None)
        try:
            if position is not None:
                found = position.item(step) if isinstance(step, int) else position.key(step)
                line = found[0] + 1
            node = node[step]
        except (KeyError, IndexError, TypeError):
            break
    return line


class _TooManyError(Exception):
    """References that refer to references make very many parts of a short text."""


def _plain(node: Any, left: list[int]) -> Any:
    """The node as plain Python. Args: `left` holds how many more parts may be made."""
    left[0] -= 1
    if left[0] < 0:
        raise _TooManyError
    if isinstance(node, dict):
        return {key: _plain(value, left) for key, value in node.items()}
    if isinstance(node, list):
        return [_plain(value, left) for value in node]
    if isinstance(node, bool) or node is None:
        return node
    for kind in (int, float, str):
        if isinstance(node, kind):
            return kind(node)
    return node.isoformat() if hasattr(node, "isoformat") else node
