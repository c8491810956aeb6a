"""Names and captions from what columns and tables are called."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable

_PARTS = re.compile(r"[^\W_]+", re.UNICODE)
_HUMPS = re.compile(r"(?<=[a-z0-9])(?=[A-Z])|(?<=[A-Z])(?=[A-Z][a-z])")
_BRACKETS = re.compile(r"[\[(]([^\])]{1,12})[\])]\s*$")
_UNITS = {
    "km": "km", "m": "m", "mi": "mi", "kg": "kg", "t": "t", "l": "l", "min": "min", "mins": "min", "minutes": "min",
    "h": "h", "hours": "h", "s": "s", "sec": "s", "secs": "s", "seconds": "s", "ms": "ms", "eur": "EUR", "usd": "USD",
    "gbp": "GBP", "chf": "CHF", "jpy": "JPY", "cr": "cr", "kwh": "kWh", "mwh": "MWh", "kw": "kW", "mw": "MW",
    "pct": "%", "percent": "%",
}  # fmt: skip
_NAMES_SOMETHING = ("id", "ids", "key", "no", "nr", "num", "number", "code", "uuid", "guid", "ref")


def words_of(name: str) -> list[str]:
    """The words that a name is made of, in small letters: "FareProduct_id" is fare, product and id."""
    return [each.lower() for part in _PARTS.findall(name) for each in _HUMPS.split(part)]


def name_of(text: str, taken: Iterable[str] = (), otherwise: str = "part") -> str:
    """A name by which analyses refer to something; another one than those that are taken."""
    plain = unicodedata.normalize("NFKD", " ".join(words_of(text)).casefold()).encode("ascii", "ignore").decode()
    found = re.sub(r"[^a-z0-9]+", "_", plain).strip("_") or otherwise
    found = found if found[0].isalpha() else f"{otherwise}_{found}"
    return _another(found, set(taken), "{}_{}")


def caption_of(text: str, taken: Iterable[str] = ()) -> str:
    """What people read; another one than those that are taken."""
    words = " ".join(words_of(text)) or text.strip()
    return _another(words[:1].upper() + words[1:], set(taken), "{} ({})")


def table_caption(name: str) -> str:
    """What people read of a table, which has no caption of its own."""
    return caption_of(name)


def unit_of(name: str) -> tuple[str, str]:
    """A name without the unit that stands at its end, and the unit; "" where it has none."""
    bracket = _BRACKETS.search(name)
    if bracket:
        unit = bracket[1].strip()
        return name[: bracket.start()], _UNITS.get(unit.lower(), unit)
    if name.rstrip().endswith("%"):
        return name.rstrip().rstrip("%"), "%"
    words = words_of(name)
    if len(words) > 1 and words[-1] in _UNITS:
        return " ".join(words[:-1]), _UNITS[words[-1]]
    return name, ""


def names_something(name: str) -> bool:
    """Whether a column is called like one that tells things apart: a number of a card, an id."""
    words = words_of(name)
    return bool(words) and (words[-1] in _NAMES_SOMETHING or words[0] in ("id", "uuid"))


def without_id(name: str) -> str:
    """What a column of keys is about: "line_id" is about a line."""
    words = words_of(name)
    while len(words) > 1 and words[-1] in _NAMES_SOMETHING:
        words.pop()
    return " ".join(words)


def singular(name: str) -> str:
    """One of what a table's name tells many of."""
    words = words_of(name)
    if not words:
        return name
    last = words[-1]
    if last.endswith("ies") and len(last) > 4:
        last = f"{last[:-3]}y"
    elif last.endswith(("sses", "shes", "ches", "xes", "uses")) and not last.endswith(("auses", "ouses")):
        last = last[:-2]
    elif last.endswith("s") and not last.endswith(("ss", "us", "is")):
        last = last[:-1]
    return " ".join([*words[:-1], last])


def plural(name: str) -> str:
    """Many of what a name tells one of."""
    words = words_of(name)
    last = words[-1] if words else ""
    if last.endswith("y") and last[-2:-1] not in "aeiou":
        last = f"{last[:-1]}ies"
    elif last.endswith(("s", "x", "ch", "sh")):
        last = f"{last}es"
    else:
        last = f"{last}s"
    return " ".join([*words[:-1], last])


def are_alike(column: str, to_table: str, to_column: str) -> bool:
    """Whether a column is called like the key that it may point at, or like the table of it."""
    own, key, table = without_id(column), without_id(to_column), singular(to_table)
    if own == key and own not in _NAMES_SOMETHING:
        return True
    last = table.split()
    return own == table or own.split()[-len(last) :] == last or (own == key and words_of(column) == words_of(to_column))


def _another(found: str, taken: set[str], form: str) -> str:
    if found not in taken:
        return found
    return next(each for number in range(2, len(taken) + 3) if (each := form.format(found, number)) not in taken)
