"""Units of measure carried through arithmetic: crowns by people are crowns each, and do not add to people."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

_NONE = ("", "%")
"""What a number without a unit is written with."""


@dataclass(frozen=True, slots=True)
class Unit:
    """Symbols and their powers, `("cr", 1), ("people", -1)`; none for a plain number."""

    powers: tuple[tuple[str, int], ...] = ()

    @property
    def text(self) -> str:
        """As it is written: "cr / people", "km · people"."""
        above = [_power(each, count) for each, count in self.powers if count > 0]
        below = [_power(each, -count) for each, count in self.powers if count < 0]
        whole = " · ".join(above) or ("1" if below else "")
        return f"{whole} / {' / '.join(below)}" if below else whole


PLAIN = Unit()


def unit_of(text: str) -> Unit:
    """The unit that a text writes, "cr / people"."""
    above, *below = [each.strip() for each in text.split(" / ")]
    found = Counter({each: 1 for each in above.split(" · ") if each not in (*_NONE, "1")})
    found.subtract(each for each in below if each not in _NONE)
    return _unit(found)


def times(one: Unit, other: Unit, sign: int = 1) -> Unit:
    """The unit of a product; of a quotient with a `sign` of -1."""
    found = Counter(dict(one.powers))
    for symbol, power in other.powers:
        found[symbol] += sign * power
    return _unit(found)


def _unit(powers: Counter[str]) -> Unit:
    return Unit(tuple(sorted((each, count) for each, count in powers.items() if count)))


def _power(symbol: str, count: int) -> str:
    return symbol if count == 1 else f"{symbol}{''.join('⁰¹²³⁴⁵⁶⁷⁸⁹'[int(each)] for each in str(count))}"
