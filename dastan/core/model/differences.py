"""What is different between two models, in words and by name: what a publication would change."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, fields, replace
from typing import Any, Literal

from dastan.core.model.document import Measure, Relationship, SemanticModel
from dastan.core.model.expression import measures_named
from dastan.core.model.gestures.step import table_caption

PartKind = Literal["table", "tie", "dimension", "measure", "filter", "list", "prompt", "role", "model"]
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
    ("prompt", "prompts"), ("role", "roles"),
)  # fmt: skip
_CALLED = {"filter": "The filter ", "list": "The list ", "prompt": "The question ", "role": "The role "}
_FIELDS = {
    "caption": "what it is called", "caption_column": "its captions", "aggregate": "how it is taken together",
    "expression": "what is taken", "where": "its condition", "format": "its format", "all": "what its top is called",
    "without": "what belongs nowhere is called", "attributes": "its attributes", "hierarchies": "its ways down",
    "key": "its key", "table": "its table", "formula": "its formula", "roles": "its roles", "unit": "its unit",
    "folder": "its folder", "description": "its description", "synonyms": "its other names",
    "conditions": "what it lets people see", "condition": "its condition", "alternatives": "whether it is added up",
    "default": "what it begins with", "favourable": "what is good", "members": "its members", "time": "its time",
    "over_time": "how it is taken over time", "numerator": "what is divided", "denominator": "what it is divided by",
    "percentile": "which percentile", "weight": "its weight",
}  # fmt: skip
_HARMLESS = {"caption", "description", "synonyms", "folder", "format", "unit", "favourable", "all", "without"}
"""Fields of which no number depends."""


def differences(before: SemanticModel, after: SemanticModel) -> tuple[Difference, ...]:
    """Every part that is new, gone, changed or called otherwise, in document order."""
    return (*_of_model(before, after), *_of_tables(before, after), *_of_ties(before, after), *_of_parts(before, after))


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
    for part, section in _SECTIONS:
        old = {each.name: each for each in getattr(before, section)}
        new = {each.name: each for each in getattr(after, section)}
        renamed = _renamed(
            {k: v for k, v in old.items() if k not in new}, {k: v for k, v in new.items() if k not in old}
        )
        called = _CALLED.get(part, "")
        for name, each in old.items():
            if name in renamed:
                words = f"{called}{each.caption} is now named {renamed[name]}."
                yield Difference(part, name, "renamed", words, became=renamed[name])
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
            if name not in old and name not in renamed.values():
                yield Difference(part, name, "new", f"{called}{each.caption} is new.")


def _changed(before: Any, after: Any) -> Iterator[str]:
    for each in fields(before):
        if getattr(before, each.name) != getattr(after, each.name):
            yield each.name


def _renamed(gone: dict[str, Any], new: dict[str, Any]) -> dict[str, str]:
    """Of parts that are gone, those that are there under another name and are the same but for what they are called."""
    found: dict[str, str] = {}
    for name, each in gone.items():
        same = [other for other, its in new.items() if _is_same(each, its) and other not in found.values()]
        if len(same) == 1:
            found[name] = same[0]
    return found


def _is_same(one: Any, other: Any) -> bool:
    return bool(replace(one, name=other.name, caption=other.caption) == other)


@dataclass(frozen=True, slots=True)
class Touched:
    """What a publication touches: the measures and dimensions whose numbers may be others, and the ties."""

    measures: frozenset[str]
    dimensions: frozenset[str]
    ties: frozenset[tuple[str, ...]]
    """Pairs of tables: a measure of the one by a dimension of the other may be others."""


def touched(before: SemanticModel, after: SemanticModel) -> Touched:
    """The parts of `before` whose numbers may be others in `after`; not what is only called or written otherwise."""
    found = differences(before, after)
    names: dict[str, set[str]] = {"measure": set(), "dimension": set(), "table": set()}
    for each in found:
        if each.part in names and each.what == "changed" and set(each.fields) - _HARMLESS - {"records"}:
            names[each.part].add(each.name)
    dimensions = names["dimension"] | {each.name for each in before.dimensions if each.table in names["table"]}
    measures = names["measure"] | {each.name for each in before.measures if each.table in names["table"]}
    more = measures
    while more:
        rest = (each for each in before.measures if each.name not in measures)
        more = {each.name for each in rest if _made_of(each) & measures}
        measures = measures | more
    ties = frozenset(each.ends for each in found if each.part == "tie")
    return Touched(frozenset(measures), frozenset(dimensions), ties)


def _made_of(measure: Measure) -> set[str]:
    """The measures that one is worked out from."""
    named = measures_named(measure.formula) if measure.formula is not None else ()
    return {each for each in (measure.numerator, measure.denominator, *named) if each is not None}
