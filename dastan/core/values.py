"""Numbers in arrays: exact where they can be, empty where there are none."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

import numpy as np


@dataclass(frozen=True, slots=True, eq=False)
class Values:
    """One number or emptiness per place.

    `scale` is the count of digits after the point of `data` as int64 (0 for whole numbers), or None when
    `data` is float64. `present` is False where there is no number; `data` there is without meaning.
    """

    data: np.ndarray
    scale: int | None
    present: np.ndarray

    def __post_init__(self) -> None:
        self.data.flags.writeable = False
        self.present.flags.writeable = False

    def __len__(self) -> int:
        return len(self.data)

    def as_float(self) -> np.ndarray:
        """`(n,) float64`; places without a number hold whatever they hold."""
        if self.scale is None:
            return self.data
        if self.scale == 0:
            return self.data.astype(np.float64)
        return self.data / np.float64(10**self.scale)

    def take(self, rows: np.ndarray) -> Values:
        """The values at those places, in that order."""
        return Values(self.data[rows], self.scale, self.present[rows])

    def at(self, place: int) -> int | float | Decimal | None:
        """One value: a whole number, an exact decimal, a float, or None where empty."""
        if not self.present[place]:
            return None
        if self.scale is None:
            return float(self.data[place])
        if self.scale == 0:
            return int(self.data[place])
        return Decimal(int(self.data[place])).scaleb(-self.scale)

    def listed(self, start: int, stop: int) -> list[int | float | Decimal | None]:
        """The values at some places, as `at` gives each."""
        plain: list[int | float] = self.data[start:stop].tolist()
        present = self.present[start:stop].tolist()
        if self.scale:
            scale = self.scale
            return [
                Decimal(each).scaleb(-scale) if is_there else None
                for each, is_there in zip(plain, present, strict=True)
            ]
        return [each if is_there else None for each, is_there in zip(plain, present, strict=True)]


def empty_values(size: int, scale: int | None) -> Values:
    """`size` places without a number."""
    return Values(np.zeros(size, np.float64 if scale is None else np.int64), scale, np.zeros(size, np.bool_))


def widened(values: Values, places: np.ndarray, size: int) -> Values:
    """The values put at those places of `size`, empty elsewhere."""
    data, present = np.zeros(size, values.data.dtype), np.zeros(size, np.bool_)
    data[places], present[places] = values.data, values.present
    return Values(data, values.scale, present)


def joined(parts: Sequence[Values]) -> Values:
    """One after another; they have one scale wherever any is present."""
    scale = next((each.scale for each in parts if each.present.any()), 0)
    filled = [each if each.present.any() else empty_values(len(each), scale) for each in parts if len(each)]
    filled = filled or [empty_values(0, scale)]
    return Values(
        np.concatenate([each.data for each in filled]), scale, np.concatenate([each.present for each in filled])
    )


def put_at(parts: Sequence[tuple[np.ndarray, Values]], size: int) -> Values:
    """Values at some places of `size` and others at others, empty elsewhere: of one scale, or floats."""
    filled = [(places, own) for places, own in parts if own.present.any()]
    if not filled:
        return empty_values(size, 0)
    scales = {own.scale for _, own in filled}
    scale = None if None in scales else max(each for each in scales if each is not None)
    data, present = np.zeros(size, np.float64 if scale is None else np.int64), np.zeros(size, np.bool_)
    for places, own in filled:
        data[places] = own.as_float() if scale is None else own.data * 10 ** (scale - (own.scale or 0))
        present[places] = own.present
    return Values(data, scale, present)
