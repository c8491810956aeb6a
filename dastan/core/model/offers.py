"""What the tables speak for and a model does not have yet: offered one by one, each as a gesture with its evidence."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from dastan.core.model.document import Dimension, Hierarchy, Measure, SemanticModel
from dastan.core.model.gestures import (
    MakeCalendar,
    ModelGesture,
    NameSomething,
    PutDimension,
    PutHierarchy,
    PutMeasure,
    Tie,
)
from dastan.core.model.gestures.measures import AGGREGATE_WORDS
from dastan.core.model.proposing.levels import lies_words, way_words
from dastan.core.model.proposing.naming import caption_of, name_of, table_caption


@dataclass(frozen=True, slots=True)
class ModelOffer:
    """Something that may be done to a model. `key` stays the same as long as the same is meant."""

    key: str
    about: str
    """The table, or its column as "table.column"."""
    says: str
    because: str
    gesture: ModelGesture


def offers(model: SemanticModel, proposed: SemanticModel) -> tuple[ModelOffer, ...]:
    """What is in a proposal and not in the model, for tables that both have.

    Args: `proposed` is what was proposed of the same tables, with their names.
    """
    found = (
        *_ties(model, proposed),
        *_names(model, proposed),
        *_dimensions(model, proposed),
        *_measures(model, proposed),
    )
    return tuple({each.key: each for each in found}.values())


def _why(proposed: SemanticModel, about: str, says: str = "") -> str:
    """What was seen that speaks for it."""
    return next((each.because for each in proposed.assumed if each.about == about and each.says.startswith(says)), "")


def _ties(model: SemanticModel, proposed: SemanticModel) -> Iterator[ModelOffer]:
    tied = {(each.from_table, each.from_column) for each in model.relationships}
    for each in proposed.relationships:
        about = f"{each.from_table}.{each.from_column}"
        declared = proposed.tables[each.to_table]
        if (each.from_table, each.from_column) in tied or each.from_table not in model.tables:
            continue
        if declared.calendar is not None:
            known = model.tables[each.from_table].columns.get(each.from_column)
            if known is not None or each.from_column not in proposed.tables[each.from_table].columns:
                gesture: ModelGesture = MakeCalendar(table=each.from_table, column=each.from_column)
                says = f"{each.from_column} is a day of the calendar"
                yield ModelOffer(f"tie:{about}:calendar", about, says, "its values are dates", gesture)
            continue
        # A copy of a table in a second role is the table itself, as far as what is tied goes.
        to_table = each.to_table if each.to_table in model.tables else _same(model, proposed, each.to_table)
        if to_table is None:
            continue
        dimension = next((one for one in proposed.dimensions if one.table == each.to_table), None)
        is_described = any(one.table == to_table for one in model.dimensions)
        gesture = Tie(
            from_table=each.from_table, from_column=each.from_column, to_table=to_table, to_column=each.to_column,
            dimension=None if is_described or dimension is None else _fresh(replace(dimension, table=to_table), model),
        )  # fmt: skip
        says = f"{each.from_column} points at {table_caption(to_table)}"
        because = _why(proposed, about, f"{each.from_table}.{each.from_column} points")
        yield ModelOffer(f"tie:{about}:{to_table}", about, says, because, gesture)


def _same(model: SemanticModel, proposed: SemanticModel, copy: str) -> str | None:
    """The table of the model that is read from the same files as a copy of it."""
    wanted = proposed.tables[copy]
    return next((name for name, each in model.tables.items() if each.file and each.file == wanted.file), None)


def _names(model: SemanticModel, proposed: SemanticModel) -> Iterator[ModelOffer]:
    for name, table in proposed.tables.items():
        if name not in model.tables:
            continue
        for column, declared in table.columns.items():
            known = model.tables[name].columns.get(column)
            is_tied = any((each.from_table, each.from_column) == (name, column) for each in model.relationships)
            if declared.is_key and not is_tied and known is None:
                about = f"{name}.{column}"
                says = f"{column} names something: it is counted, never added up"
                gesture = NameSomething(table=name, column=column, is_key=True)
                yield ModelOffer(f"name:{about}", about, says, _why(proposed, about, f"{column} names"), gesture)


def _dimensions(model: SemanticModel, proposed: SemanticModel) -> Iterator[ModelOffer]:
    for each in proposed.dimensions:
        if each.table not in model.tables or model.tables[each.table].calendar is not None:
            continue
        own = [one for one in model.dimensions if one.table == each.table]
        same = next((one for one in own if one.key == each.key and each.key is not None), None)
        if same is not None:
            yield from _ways(same, each)
            continue
        used = {attribute.key for one in own for attribute in one.attributes}
        if any(attribute.key in used for attribute in each.attributes):
            continue
        made = _fresh(each, model)
        keys = [attribute.key for attribute in each.attributes]
        way = way_words([each.attribute(level) for level in each.hierarchies[0].levels])
        because = lies_words(each.attributes) if len(each.hierarchies[0].levels) > 1 else ""
        yield ModelOffer(
            f"dimension:{each.table}:{','.join(keys)}", each.table if each.key else f"{each.table}.{keys[-1]}",
            f"{table_caption(each.table)} can be seen by {way or made.caption}", because, PutDimension(dimension=made),
        )  # fmt: skip


def _ways(own: Dimension, proposed: Dimension) -> Iterator[ModelOffer]:
    """Ways down that the data speaks for, in a dimension that is there."""
    by_key = {each.key: each.name for each in own.attributes if each.table is None}
    known = {each.levels for each in own.hierarchies}
    for each in proposed.hierarchies:
        keys = [proposed.attribute(level).key for level in each.levels]
        if len(keys) < 2 or any(key not in by_key for key in keys):
            continue
        levels = tuple(by_key[key] for key in keys)
        if levels in known or any(_goes_through(way, levels) for way in known):
            continue
        attributes = [own.attribute(level) for level in levels]
        names = [one.name for one in own.hierarchies]
        hierarchy = Hierarchy(name=name_of(levels[0], names), caption=attributes[0].caption, levels=levels)
        yield ModelOffer(
            f"way:{own.name}:{','.join(keys)}", proposed.table, f"{way_words(attributes)} is a way down",
            lies_words(attributes), PutHierarchy(dimension=own.name, hierarchy=hierarchy),
        )  # fmt: skip


def _goes_through(way: Sequence[str], levels: Sequence[str]) -> bool:
    """Whether a way has these levels among its own, in their order."""
    rest = iter(way)
    return all(each in rest for each in levels)


def _measures(model: SemanticModel, proposed: SemanticModel) -> Iterator[ModelOffer]:
    def counted(each: Measure) -> tuple[str, str | None]:
        return each.table, each.expression

    used = {counted(each) for each in model.measures}
    calendars = {each.name for each in proposed.dimensions if proposed.tables[each.table].calendar is not None}
    known = {each.name for each in model.dimensions if model.tables[each.table].calendar is not None}
    for each in proposed.measures:
        if each.table not in model.tables or counted(each) in used or set(each.roles) - known:
            continue
        if each.time in calendars - known:
            continue
        column = (each.expression or "").strip('"')
        about = f"{each.table}.{column}" if column else each.table
        captions = [one.caption for one in model.measures]
        made = replace(
            each,
            name=name_of(each.name, [one.name for one in model.measures]),
            caption=caption_of(each.caption, captions),
        )
        says = f"{column or table_caption(each.table)}: {AGGREGATE_WORDS[each.aggregate]}"
        yield ModelOffer(
            f"measure:{about}:{each.aggregate}", about, says, _why(proposed, about, column), PutMeasure(measure=made)
        )


def _fresh(dimension: Dimension, model: SemanticModel) -> Dimension:
    """A dimension under a name and a caption that no other has."""
    names, captions = [each.name for each in model.dimensions], [each.caption for each in model.dimensions]
    return replace(dimension, name=name_of(dimension.name, names), caption=caption_of(dimension.caption, captions))
