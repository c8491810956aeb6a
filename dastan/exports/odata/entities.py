"""A flat answer as entities: a property for each level and each measure, and a number for each row."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np

from dastan.core.errors import InputError, did_you_mean
from dastan.core.values import Values
from dastan.exports.flat import FlatTable

EdmType = Literal["Edm.String", "Edm.Int64", "Edm.Decimal", "Edm.Double"]
ROW = "Row"
"""The key of each entity: which row of the answer it is."""


@dataclass(frozen=True, slots=True)
class Property:
    """A property of the entities: `name` as programs write it, `caption` as people call it."""

    name: str
    caption: str
    type: EdmType
    scale: int = 0


KEY = Property(ROW, "", "Edm.Int64")


@dataclass(frozen=True, slots=True, eq=False)
class Vector:
    """One value for each row: `data` holds strings as objects, or numbers; `present` is False where there is none."""

    data: np.ndarray
    present: np.ndarray


class Entities:
    """The rows of a flat table, by the names of their properties: those of levels, then of measures, are made of their
    captions where none are given."""

    def __init__(self, table: FlatTable, names: Sequence[str] | None = None) -> None:
        self._table = table
        self._labels = [table.label_codes(at) for at in range(len(table.labels))]
        names = names or identifiers([ROW, *table.labels, *table.measures])
        self.properties = [KEY]
        for name, caption, (labels, _) in zip(names[1:], table.labels, self._labels, strict=False):
            self.properties.append(Property(name, caption, "Edm.Int64" if _are_numbers(labels) else "Edm.String"))
        for at, (name, caption) in enumerate(zip(names[1 + len(table.labels) :], table.measures, strict=True)):
            scale = self.values(at).scale
            kind: EdmType = "Edm.Double" if scale is None else "Edm.Decimal" if scale else "Edm.Int64"
            self.properties.append(Property(name, caption, kind, scale or 0))

    def __len__(self) -> int:
        return len(self._table)

    @cached_property
    def _known(self) -> dict[str, int]:
        return {each.name: at for at, each in enumerate(self.properties)}

    def place(self, name: str) -> int:
        """Where a property stands. Raises InputError for one that is not there."""
        if name not in self._known:
            hint = did_you_mean(name, self._known) or f"There are {', '.join(self._known)}."
            raise InputError(f"There is no property “{name}”.", hint)
        return self._known[name]

    def values(self, measure: int) -> Values:
        """A measure's exact values."""
        return self._table.values_of(measure)

    def vector(self, place: int) -> Vector:
        """A property's values, to be compared: numbers as they are or as floats."""
        if place == 0:
            return Vector(np.arange(len(self)), np.ones(len(self), np.bool_))
        at = place - 1
        if at >= len(self._labels):
            values = self.values(at - len(self._labels))
            return Vector(values.data if values.scale == 0 else values.as_float(), values.present)
        labels, codes = self._labels[at]
        present = np.array([each is not None for each in labels], np.bool_)[codes]
        if _are_numbers(labels):
            return Vector(np.array([each or 0 for each in labels], np.int64)[codes], present)
        return Vector(np.array(["" if each is None else str(each) for each in labels], object)[codes], present)

    def exact(self, place: int, rows: np.ndarray) -> list[object]:
        """A property's values at some rows, with all their digits: text, whole numbers, decimals or floats."""
        if place == 0:
            return list(rows.tolist())
        at = place - 1
        if at >= len(self._labels):
            values = self.values(at - len(self._labels))
            return [values.at(int(row)) for row in rows]
        labels, codes = self._labels[at]
        is_number = _are_numbers(labels)
        return [each if each is None or is_number else str(each) for each in (labels[code] for code in codes[rows])]


def _are_numbers(labels: Iterable[object]) -> bool:
    found = [each for each in labels if each is not None]
    return bool(found) and all(isinstance(each, int) for each in found)


def identifiers(captions: Iterable[str]) -> list[str]:
    """Names that OData takes, each of them once: letters, digits and low lines, beginning with a letter of ASCII."""
    found: list[str] = []
    for caption in captions:
        name = re.sub(r"\W+", "_", caption).strip("_")
        if not re.match(r"[A-Za-z_]", name):
            name = f"_{name}"
        name = name[:120]
        known, plain, number = {each.casefold() for each in found}, name, 2
        while name.casefold() in known:
            name, number = f"{plain}_{number}", number + 1
        found.append(name)
    return found
