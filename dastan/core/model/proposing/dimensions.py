"""Dimensions: one for each table that is pointed at, the calendar, and those of a fact's own columns."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from dastan.core.model.document import (
    Assumption,
    Attribute,
    Dimension,
    Hierarchy,
    ParentChild,
)
from dastan.core.model.proposing.facts import attribute_columns, own_levels
from dastan.core.model.proposing.levels import (
    Level,
    Nested,
    attribute_of,
    chain_to,
    hierarchies_of,
    levels_of,
    lies_words,
    way_words,
)
from dastan.core.model.proposing.naming import caption_of, name_of, plural, singular, without_id, words_of
from dastan.core.model.proposing.profile import Pointer, TableProfile

Found = tuple[Dimension, list[Assumption]]
_ALTERNATIVES = ("version", "scenario")
_FEWEST_TIMES = 5
"""So often each value stands, on average, before what goes with it says that it lies there."""


def of_pointed(
    table: TableProfile, key: str, pointers: Sequence[Pointer], nested: Nested, parent: str | None, taken: set[str]
) -> Found:
    """The dimension of a table that others point at by its key."""
    left_out = {parent} if parent is not None else set()
    columns = attribute_columns(table, key, pointers, left_out)
    levels = levels_of(columns, nested, key)
    lowest, rest = levels[0], levels[1:]
    about = singular(table.name)
    chain, others = _parted(lowest, rest, nested)
    # Two levels of one name would not be told apart: then the lowest is called after its key.
    called = "" if any(each.about == about for each in (*chain, *others) if each is not lowest) else about
    names: list[str] = []
    attributes: dict[int, Attribute] = {}
    for each in (*chain, *others):
        attributes[id(each)] = attribute_of(each, names, about=called if each is lowest else "")
        names.append(attributes[id(each)].name)
    way = [attributes[id(each)] for each in chain]
    more = [attributes[id(each)] for each in others if each.key.distinct * 2 <= table.records]
    hierarchies = hierarchies_of(way, more, attributes[id(lowest)])
    if parent is not None:
        name = name_of("tree", [each.name for each in hierarchies])
        tree = ParentChild(key=key, parent=parent, caption_column=way[-1].caption_column)
        hierarchies = (Hierarchy(name=name, caption=f"{caption_of(about)} tree", parent_child=tree), *hierarchies)
    are_alternatives = bool(set(words_of(about)) & set(_ALTERNATIVES))
    caption = caption_of(about, [caption_of(each) for each in taken])
    found = Dimension(
        name=name_of(about, taken), caption=caption, table=table.name, key=key, all=f"All {plural(about)}",
        attributes=tuple(attributes.values()), hierarchies=hierarchies, alternatives=are_alternatives,
    )  # fmt: skip
    assumed = _of_way(table.name, way)
    if are_alternatives:
        says = f"members of {found.caption} are alternatives, such as actual and plan: they are never added up"
        assumed.append(Assumption(about=table.name, says=says, because="it is called like them", is_unsure=True))
    return found, assumed


def _parted(lowest: Level, rest: Sequence[Level], nested: Nested) -> tuple[list[Level], list[Level]]:
    chain = chain_to(lowest, rest, nested)
    return chain, [each for each in rest if all(each is not one for one in chain)]


def of_own_columns(table: TableProfile, pointers: Sequence[Pointer], nested: Nested, taken: set[str]) -> list[Found]:
    """The dimensions of a fact's own columns: ways down where one lies in another, else one for each."""
    return _of_levels(table, levels_of(own_levels(table, pointers), nested), nested, taken)


def of_any_column(table: TableProfile) -> list[Found]:
    """A dimension of the one column that tells records apart best, where nothing else does: a model needs one."""
    held = [each for each in table.columns if each.distinct]
    texts = [each for each in held if each.kind in ("text", "boolean")]
    return _of_levels(table, [Level(each) for each in (texts or held or table.columns)[:1]], Nested(()), set())


def _of_levels(table: TableProfile, levels: list[Level], nested: Nested, taken: set[str]) -> list[Found]:
    found: list[Found] = []
    names = set(taken)
    while levels:
        lowest = max(levels, key=lambda each: (len(_sure_chain(each, levels, nested)), each.key.distinct))
        chain = _sure_chain(lowest, levels, nested)
        attributes: list[Attribute] = []
        for each in chain:
            attributes.append(attribute_of(each, [one.name for one in attributes]))
        about = attributes[-1].name
        name = name_of(about, names)
        names.add(name)
        caption = caption_of(attributes[-1].caption or about)
        caption = caption if name == name_of(about) else f"{caption} of {table.name}"
        top = f"All {plural(about)}" if chain[-1].key.kind == "text" else None
        dimension = Dimension(
            name=name, caption=caption, table=table.name, all=top,
            attributes=tuple(attributes),
            hierarchies=hierarchies_of(attributes, (), None),
        )  # fmt: skip
        found.append((dimension, _of_way(table.name, attributes)))
        levels = [each for each in levels if all(each is not one for one in chain)]
    order = [each.name for each in table.columns]
    return sorted(found, key=lambda each: order.index(each[0].attributes[0].key))


def _sure_chain(level: Level, levels: Sequence[Level], nested: Nested) -> list[Level]:
    is_sure = level.key.records >= _FEWEST_TIMES * level.key.distinct
    return chain_to(level, levels, nested) if is_sure else [level]


def _of_way(table: str, way: Sequence[Attribute]) -> list[Assumption]:
    if len(way) < 2:
        return []
    return [Assumption(about=table, says=f"{way_words(way)} is a way down", because=lies_words(way))]


CALENDAR = "days"


def calendar(table: str, taken: set[str]) -> Dimension:
    """The dimension of a made calendar."""

    def level(name: str, caption: str, key: str, caption_column: str | None = None) -> Attribute:
        return Attribute(name=name, caption=caption, key=key, caption_column=caption_column)

    attributes = (
        level("year", "Year", "year"), level("quarter", "Quarter", "quarter", "quarter_caption"),
        level("month", "Month", "month", "month_caption"), level("day", "Day", "date", "date_caption"),
        level("iso_year", "Week year", "iso_year"), level("week", "Week", "week", "week_caption"),
        level("weekday", "Weekday", "weekday", "weekday_caption"),
    )  # fmt: skip
    return Dimension(
        name=name_of("calendar", taken), caption="Calendar", table=table, key="date", all="All dates",
        without="without a date", attributes=attributes,
        hierarchies=(
            Hierarchy(name="calendar", levels=("year", "quarter", "month", "day")),
            Hierarchy(name="week", caption="Week", levels=("iso_year", "week", "day")),
            Hierarchy(name="weekday", caption="Weekday", levels=("weekday", "day")),
        ),
    )  # fmt: skip


def in_role(dimension: Dimension, table: str, role: str, taken: set[str]) -> Dimension:
    """A dimension over another copy of its table, for a second column that points there: the line changed to."""
    about = without_id(role)
    return replace(dimension, name=name_of(about, taken), caption=caption_of(about), table=table)
