"""What is different between two models, in words and by name: what a publication would change."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, fields, replace
from typing import Any, Literal

from dastan.core.model.document import Dimension, Relationship, SemanticModel
from dastan.core.model.named import Name, named_in, with_renames
from dastan.core.model.proposing.naming import table_caption
from dastan.core.model.widening import widened

PartKind = Literal["table", "tie", "dimension", "measure", "filter", "list", "joint", "prompt", "role", "model"]
What = Literal["new", "gone", "changed", "renamed"]


@dataclass(frozen=True, slots=True)
class Difference:
    """One part that is not what it was. `fields` are what changed of it; `became` is its new name, of one renamed."""

    part: PartKind
    name: str
    what: What
    words: str
    fields: tuple[str, ...] = ()
    became: str = ""
    ends: tuple[str, ...] = ()
    """Of a tie: its two tables."""


_SECTIONS: tuple[tuple[PartKind, str], ...] = (
    ("dimension", "dimensions"), ("measure", "measures"), ("filter", "filters"), ("list", "lists"),
    ("joint", "joints"), ("prompt", "prompts"), ("role", "roles"),
)  # fmt: skip
_CALLED = {
    "filter": "The filter ", "list": "The list ", "joint": "The joint member ", "prompt": "The question ",
    "role": "The role ",
}  # fmt: skip
_FIELDS = {
    "caption": "what it is called", "caption_column": "its captions", "aggregate": "how it is taken together",
    "expression": "what is taken", "where": "its condition", "format": "its format", "all": "what its top is called",
    "without": "what belongs nowhere is called", "attributes": "its attributes", "hierarchies": "its ways down",
    "key": "its key", "table": "its table", "formula": "its formula", "roles": "its roles", "unit": "its unit",
    "folder": "its folder", "description": "its description", "synonyms": "its other names",
    "conditions": "what it lets people see", "condition": "its condition", "alternatives": "whether it is added up",
    "default": "what it begins with", "favourable": "what is good", "members": "its members", "time": "its time",
    "over_time": "how it is taken over time", "numerator": "what is divided", "denominator": "what it is divided by",
    "percentile": "which percentile", "weight": "its weight", "how": "how it is joined",
}  # fmt: skip
_HARMLESS = {
    "caption", "description", "synonyms", "folder", "format", "unit", "favourable", "all", "without", "default",
    "records", "assumed",
}  # fmt: skip
"""Fields of which no number depends."""


def differences(before: SemanticModel, after: SemanticModel) -> tuple[Difference, ...]:
    """Every part that is new, gone, changed or called otherwise, in document order."""
    return (
        *_of_model(before, after), *_of_tables(before, after), *_of_ties(before, after), *_of_parts(before, after),
        *(Difference("role", "", "changed", each, ("conditions",)) for each in widened(before, after)),
    )  # fmt: skip


def _of_model(before: SemanticModel, after: SemanticModel) -> Iterator[Difference]:
    if before.caption != after.caption:
        yield Difference("model", after.name, "changed", f"The model is called {after.caption}.", ("caption",))
    if before.description != after.description:
        yield Difference("model", after.name, "changed", "The model is described otherwise.", ("description",))
    count = len(set(before.assumed) - set(after.assumed))
    if count:
        said = "1 thing is" if count == 1 else f"{count} things are"
        yield Difference("model", after.name, "changed", f"{said} confirmed or settled.", ("assumed",))


def _of_tables(before: SemanticModel, after: SemanticModel) -> Iterator[Difference]:
    for name in (*before.tables, *(each for each in after.tables if each not in before.tables)):
        caption = table_caption(name)
        if name not in after.tables:
            yield Difference("table", name, "gone", f"Table {caption} is gone.")
        elif name not in before.tables:
            yield Difference("table", name, "new", f"Table {caption} is new.")
        elif before.tables[name] != after.tables[name]:
            changed = tuple(_changed(before.tables[name], after.tables[name]))
            columns = _changed_columns(before.tables[name].columns, after.tables[name].columns)
            said = f": {', '.join(columns)}" if columns and changed == ("columns",) else ""
            yield Difference("table", name, "changed", f"Table {caption} is read otherwise{said}.", changed)


def _changed_columns(before: dict[str, Any], after: dict[str, Any]) -> list[str]:
    return [each for each in {**before, **after} if before.get(each) != after.get(each)]


def _of_ties(before: SemanticModel, after: SemanticModel) -> Iterator[Difference]:
    old, new = set(before.relationships), set(after.relationships)
    for each in before.relationships:
        if each not in new:
            yield _tie(each, "gone", "is not tied any more by")
    for each in after.relationships:
        if each not in old:
            yield _tie(each, "new", "is tied by")


def _tie(tie: Relationship, what: What, verb: str) -> Difference:
    words = f"{table_caption(tie.from_table)} {verb} {tie.from_column} to {table_caption(tie.to_table)}."
    return Difference("tie", tie.role, what, words, ends=(tie.from_table, tie.to_table))


def _of_parts(before: SemanticModel, after: SemanticModel) -> Iterator[Difference]:
    renames = _renames(before, after)
    became = {(part, new) for (part, _), new in renames.items()}
    for part, section in _SECTIONS:
        # What only names something by its new name is what it was.
        old = {each.name: with_renames(each, renames) for each in getattr(before, section)}
        new = {each.name: each for each in getattr(after, section)}
        called = _CALLED.get(part, "")
        for name, each in old.items():
            if (part, name) in renames:
                words = f"{called}{each.caption} is now named {renames[part, name]}."
                yield Difference(part, name, "renamed", words, became=renames[part, name])
            elif name not in new:
                yield Difference(part, name, "gone", f"{called}{each.caption} is gone.")
            elif new[name] != each:
                changed = tuple(_changed(each, new[name]))
                if changed == ("caption",):
                    words = f"{called}{each.caption} is called {new[name].caption}."
                else:
                    said = ", ".join(_FIELDS.get(one, one.replace("_", " ")) for one in changed)
                    words = f"{called}{each.caption} is changed: {said}."
                yield Difference(part, name, "changed", words, changed)
        for name, each in new.items():
            if name not in old and (part, name) not in became:
                yield Difference(part, name, "new", f"{called}{each.caption} is new.")


def _renames(before: SemanticModel, after: SemanticModel) -> dict[Name, str]:
    """The new names of parts that are the same but for what they are called; those that name one another included."""
    found: dict[Name, str] = {}
    more = True
    while more:
        more = False
        for part, section in _SECTIONS:
            if part == "joint":  # its name stands in the paths of members
                continue
            known = {each.name for each in getattr(before, section)}
            there = {each.name for each in getattr(after, section)}
            taken = {new for (kind, _), new in found.items() if kind == part}
            new = [each for each in getattr(after, section) if each.name not in known | taken]
            for each in getattr(before, section):
                if each.name in there or (part, each.name) in found:
                    continue
                same = [other for other in new if _is_same(with_renames(each, found), other)]
                if len(same) == 1:
                    found[part, each.name] = same[0].name
                    new.remove(same[0])
                    more = True
    return found


def _changed(before: Any, after: Any) -> Iterator[str]:
    for each in fields(before):
        if getattr(before, each.name) != getattr(after, each.name):
            yield each.name


def _is_same(one: Any, other: Any) -> bool:
    return bool(replace(one, name=other.name, caption=other.caption) == other)


@dataclass(frozen=True, slots=True)
class Touched:
    """What a publication touches: the parts by which numbers may be others, and the ties."""

    parts: frozenset[Name]
    ties: frozenset[tuple[str, ...]]
    """Pairs of tables: a measure of the one by a dimension of the other may be others."""


def touched(before: SemanticModel, after: SemanticModel) -> Touched:
    """The parts of `before` by which numbers may be others in `after`, and those that are made of them; not what is
    only called or written otherwise, nor what is merely there besides."""
    found = differences(before, after)
    names = {(each.part, each.name) for each in found if each.what == "changed" and _matters(each, before, after)}
    tables = {name for part, name in names if part == "table"}
    parts: set[Name] = {each for each in names if each[0] != "table"}
    for part, section in _SECTIONS[:2]:
        parts |= {(part, each.name) for each in getattr(before, section) if each.table in tables}
    made_of = {
        (part, each.name): frozenset(named_in(each)) for part, section in _SECTIONS for each in getattr(before, section)
    }
    more = parts
    while more:
        more = {each for each, its in made_of.items() if each not in parts and its & parts}
        parts = parts | more
    return Touched(frozenset(parts), frozenset(each.ends for each in found if each.part == "tie"))


def _matters(found: Difference, before: SemanticModel, after: SemanticModel) -> bool:
    """Whether a number may depend on what changed."""
    changed = set(found.fields) - _HARMLESS
    if found.part == "dimension" and changed <= {"attributes", "hierarchies"}:
        return _are_other(before.dimension(found.name), after.dimension(found.name))
    return bool(changed)


def _are_other(one: Dimension, other: Dimension) -> bool:
    """Whether an attribute or a way down that both have holds other records, whatever it is called or ordered by."""
    keys = {each.name: (each.key, each.table) for each in one.attributes}
    ways = {each.name: replace(each, caption=None) for each in one.hierarchies}
    return any(
        keys.get(each.name, (each.key, each.table)) != (each.key, each.table) for each in other.attributes
    ) or any(
        ways.get(each.name, replace(each, caption=None)) != replace(each, caption=None) for each in other.hierarchies
    )
