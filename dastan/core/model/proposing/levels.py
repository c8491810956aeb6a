"""Levels from columns: which say the same in another way, and what lies in what."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise

from dastan.core.model.document import Attribute, Hierarchy
from dastan.core.model.proposing.naming import caption_of, name_of, names_something, without_id, words_of
from dastan.core.model.proposing.profile import ColumnProfile, Nesting

_CAPTIONS = ("name", "caption", "title", "label", "description", "desc", "text")
ORDERS = ("order", "sort", "rank", "position", "sequence", "seq", "index")
_FEWEST_IN_ONE = 1.5
"""What lies in something has so many times as many values: else that it does says little."""


@dataclass(frozen=True, slots=True)
class Level:
    """Columns that are one to one: the key, perhaps what people call its members, and what puts them in order."""

    key: ColumnProfile
    caption: ColumnProfile | None = None
    order: ColumnProfile | None = None

    @property
    def about(self) -> str:
        """What its members are, in words."""
        named = self.caption or self.key
        words = [each for each in words_of(without_id(named.name)) if each not in _CAPTIONS]
        return " ".join(words) or without_id(self.key.name)

    @property
    def columns(self) -> set[str]:
        return {each.name for each in (self.key, self.caption, self.order) if each is not None}


class Nested:
    """What lies in what within a table."""

    def __init__(self, nestings: Iterable[Nesting]) -> None:
        self._pairs = {(each.inner, each.outer) for each in nestings}

    def lies_in(self, inner: ColumnProfile, outer: ColumnProfile) -> bool:
        return (inner.name, outer.name) in self._pairs

    def is_same(self, one: ColumnProfile, other: ColumnProfile) -> bool:
        """Whether the two are one to one."""
        return one.distinct == other.distinct and self.lies_in(one, other) and self.lies_in(other, one)


def levels_of(columns: Sequence[ColumnProfile], nested: Nested, key: str | None = None) -> list[Level]:
    """Each group of columns that are one to one, as a level; the one of `key` has that as its key."""
    found: list[Level] = []
    left = list(columns)
    while left:
        first = next((each for each in left if each.name == key), left[0])
        group = [first, *(each for each in left if each is not first and nested.is_same(first, each))]
        found.append(_level(group, key))
        left = [each for each in left if each.name not in found[-1].columns]
    return found


def _level(group: list[ColumnProfile], key: str | None) -> Level:
    own = next((each for each in group if each.name == key), None)
    keys = [each for each in group if names_something(each.name)]
    others = [each for each in group if each is not own and each not in keys[:1]]
    order = next((each for each in others if each.is_number and words_of(each.name)[-1] in ORDERS), None)
    texts = [each for each in others if each.kind == "text" and each is not order]
    own = own or (keys or texts or group)[0]
    texts = [each for each in texts if each is not own]
    called = [each for each in texts if set(words_of(each.name)) & set(_CAPTIONS)]
    # Two names of one thing, such as a district and its mayor, are two levels; a name of a key is its caption.
    is_bare = own.name == key or own in keys
    caption = next(iter(called or (texts if is_bare else ())), None)
    return Level(own, caption, order if order is not own else None)


def chain_to(level: Level, levels: Sequence[Level], nested: Nested) -> list[Level]:
    """The longest way down to a level through those that it lies in, coarsest first; of two that are as long, the one
    through levels that have keys and captions of their own."""
    whole = _chain(level, levels, nested)
    keyed = _chain(level, [each for each in levels if each.caption is not None], nested)
    return keyed if len(keyed) >= len(whole) else whole


def _chain(level: Level, levels: Sequence[Level], nested: Nested) -> list[Level]:
    chain = [level]
    for each in sorted(levels, key=lambda one: -one.key.distinct):
        inner = chain[0]
        is_coarser = 1 < each.key.distinct * _FEWEST_IN_ONE <= inner.key.distinct and each.key.distinct > 1
        if each is not level and is_coarser and nested.lies_in(inner.key, each.key):
            chain.insert(0, each)
    return chain


def attribute_of(level: Level, taken: Iterable[str], table: str | None = None, about: str = "") -> Attribute:
    """A level as an attribute of a dimension."""
    about = about or level.about
    return Attribute(
        name=name_of(about, taken, "level"), caption=caption_of(about), key=level.key.name, table=table,
        caption_column=level.caption.name if level.caption is not None else None,
        sort_column=level.order.name if level.order is not None else None,
    )  # fmt: skip


def hierarchies_of(
    chain: Sequence[Attribute], others: Sequence[Attribute], lowest: Attribute | None
) -> tuple[Hierarchy, ...]:
    """The way down that was found, and one through each other attribute down to the lowest level."""
    name = chain[-1].name
    found = [Hierarchy(name=name, levels=tuple(each.name for each in chain))]
    for each in others:
        below = (lowest.name,) if lowest is not None and lowest is not each else ()
        own = name_of(each.name, [one.name for one in found])
        found.append(Hierarchy(name=own, caption=each.caption, levels=(each.name, *below)))
    return tuple(found)


def way_words(chain: Sequence[Attribute]) -> str:
    """A way down as it is read: Mode › Group › Line."""
    return " › ".join(each.caption or each.name for each in chain)


def lies_words(chain: Sequence[Attribute]) -> str:
    """Why it is one: "each line lies in one group, and each group in one mode"."""
    pairs = [
        f"each {(inner.caption or '').lower()} lies in one {(outer.caption or '').lower()}"
        for outer, inner in pairwise(chain)
    ]
    return " and ".join(reversed(pairs))
