"""What people call the parts of a model and of an analysis."""

from __future__ import annotations

import re
from calendar import month_abbr
from collections.abc import Callable, Container, Sequence
from datetime import date
from itertools import chain, count

from dastan.core.model.document import Dimension, Hierarchy
from dastan.core.model.members import HierarchyMembers
from dastan.core.model.parts import MemberPath, is_veiled

HIDDEN_MEMBER = "a member that you do not see"

Members = Callable[[str, str], HierarchyMembers]
"""Gives a hierarchy's members by dimension and hierarchy name."""


def level_caption(dimension: Dimension, level: str) -> str:
    """What people call a level."""
    return dimension.attribute(level).caption or level.replace("_", " ").capitalize()


def hierarchy_caption(dimension: Dimension, hierarchy: Hierarchy) -> str:
    """What people call a hierarchy: the dimension's caption for its first, which needs no name of its own."""
    if hierarchy == dimension.hierarchies[0]:
        return dimension.caption
    return hierarchy.caption or hierarchy.name.replace("_", " ").capitalize()


def placed_caption(dimension: Dimension, hierarchy: Hierarchy, level: str | None = None) -> str:
    """What people call a hierarchy that stands in a table from a level down, its top unless said: that level, as the
    sentence says it. One of parents and children goes by its own name, and so does one that would be called like
    another before it."""
    if hierarchy.parent_child is not None:
        return hierarchy_caption(dimension, hierarchy)
    caption = level_caption(dimension, level or hierarchy.levels[0])
    before = (each for each in dimension.hierarchies[: dimension.hierarchies.index(hierarchy)] if each.levels)
    is_taken = any(placed_caption(dimension, each) == caption for each in before)
    return hierarchy_caption(dimension, hierarchy) if is_taken else caption


def member_caption(path: MemberPath, members: HierarchyMembers) -> str:
    """A member's caption; its keys, and that it has no records, when the data no longer has it."""
    if is_veiled(path):
        return HIDDEN_MEMBER
    code = members.find(path)
    if code is None:
        return " › ".join(str(key) for key in path) + " (not in the data)"
    return members.levels[len(path) - 1].captions[code]


def those_of(path: MemberPath, members: HierarchyMembers) -> str:
    """A member as it stands after "for" and "without": of records that belong nowhere "those without a line"."""
    caption = member_caption(path, members)
    is_nowhere = path[-1] is None and caption.casefold().startswith(("without ", "in no "))
    return f"those {caption}" if is_nowhere else caption


def listed(captions: Sequence[str], more: int = 0, last: str = "and") -> str:
    """ "Tram", "Tram and Bus", "Tram, Bus and Ferry", "Tram, Bus and 7 more"; "nothing" without any."""
    texts = [*captions, *([f"{more} more"] if more else [])]
    if len(texts) < 2:
        return "".join(texts) or "nothing"
    return ", ".join(texts[:-1]) + f" {last} " + texts[-1]


def plural(caption: str) -> str:
    """Several of a level's members in small letters: "lines", "families", "passenger groups", "members of level 2"."""
    word = caption.lower()
    if word[-1:].isdigit():
        return f"members of {word}"
    if word.endswith("y") and word[-2:-1] not in "aeiou":
        return word[:-1] + "ies"
    return word + ("es" if word.endswith(("s", "x", "ch", "sh")) else "s")


def free_name(caption: str, taken: Container[str], prefix: str, without: str) -> str:
    """A name made of a caption, or of `without` where it has no letters, that is not taken yet."""
    stem = prefix + ("_".join(re.findall(r"[a-z0-9]+", caption.lower())) or without)
    names = chain((stem[:60],), (f"{stem[:56]}_{number}" for number in count(2)))
    return next(each for each in names if each not in taken)


def day_words(day: str) -> str:
    """A day, given as ISO text, as people write it: "22 Aug 2025"."""
    found = date.fromisoformat(day)
    return f"{found.day} {month_abbr[found.month]} {found.year}"


def number_words(number: float) -> str:
    """A number as it stands in a sentence: "10,000", "2.5", "−3"."""
    text = f"{number:,.0f}" if float(number).is_integer() else f"{number:,}"
    return text.replace("-", "−")
