"""A table that an analysis comes to, as a model of its own: each row of it is a record, each column of members a
dimension, each column of numbers a measure."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import pyarrow as pa

from dastan.core.analysis.captions import hierarchy_caption
from dastan.core.engine.waist import DataSpan
from dastan.core.model.document import (
    Aggregate,
    Attribute,
    Dimension,
    Hierarchy,
    Measure,
    RecordList,
    Relationship,
    SemanticModel,
    Table,
)
from dastan.core.model.parts import MemberPath
from dastan.core.model.reach import Grain
from dastan.core.reading.as_table import AnswerTable, TableDimension
from dastan.sources.columnar.column_source import ColumnSource
from dastan.sources.files.tables import TableData, table_of_arrow

ROWS = "rows"
"""The fact: what the rows of the table are called in the model."""
_NO_NAME = re.compile(r"[^a-z0-9]+")
_OF_ROWS: tuple[tuple[Aggregate, str], ...] = (("average", "Average of"), ("min", "Least"), ("max", "Greatest"))
"""What may be asked of numbers that do not add up."""


class AnsweredSource(ColumnSource):
    """The rows of a table. They are of the `days` of what the table was asked of, whatever its own members are."""

    def __init__(self, model: SemanticModel, tables: dict[str, TableData], days: DataSpan | None) -> None:
        super().__init__(model, tables)
        self._days = days

    def span(self, grain: Grain, dimension: str | None = None) -> DataSpan | None:
        return self._days if dimension is None else super().span(grain, dimension)


def open_answered(
    table: AnswerTable, numbers: Sequence[pa.Array], days: DataSpan | None, before: SemanticModel, name: str,
    caption: str, description: str,
) -> AnsweredSource:  # fmt: skip
    """A source over the rows of a table.

    Args: `numbers` are each measure's exact values, null where there is none; `before` is the model that was asked,
        with what was made in the analysis.
    """
    tables, columns, captions = {}, {}, {}
    dimensions, relationships = [], []
    names: list[str] = []
    for each in table.dimensions:
        found = _dimension(each, table, before, names)
        names.append(found.name)
        dimensions.append(found)
        relationships.append(
            Relationship(
                from_table=ROWS, from_column=found.name, to_table=found.table, to_column="number", role=found.name
            )
        )
        tables[found.table] = table_of_arrow(found.table, Table(), _members(each))
        columns[found.name] = pa.array(each.codes, mask=each.codes < 0)
        label = f"{found.name}_called"
        columns[label], captions[label] = _labels(each), found.caption
    measures: list[Measure] = []
    about = f"As {caption[:1].lower()}{caption[1:]} has it."
    for measure, values, adds_up in zip(table.measures, numbers, table.adds_up, strict=True):
        column = _unlike(_plain(measure), [*columns, *tables])
        columns[column], captions[column] = values, measure.caption
        own = replace(measure, description=f"{about} {measure.description}".strip())
        measures += _measures(own, column, adds_up, [one.name for one in measures])
    count = Measure(
        name=_unlike("rows", [each.name for each in measures]),
        caption="Rows of the table",
        table=ROWS,
        aggregate="count",
        unit="rows",
    )
    rows = pa.table(columns) if columns else pa.table({})
    listed = RecordList(columns=tuple(captions), captions=captions)
    model = SemanticModel(
        dastan="model/1", name=name, caption=caption, description=description,
        tables={ROWS: Table(records=listed), **{each: Table() for each in tables}}, relationships=tuple(relationships),
        dimensions=tuple(dimensions), measures=(*measures, count),
    )  # fmt: skip
    data: dict[str, TableData] = {ROWS: table_of_arrow(ROWS, Table(), rows), **tables}
    return AnsweredSource(model, data, days)


def _dimension(each: TableDimension, table: AnswerTable, before: SemanticModel, taken: list[str]) -> Dimension:
    placed = each.placed.placed
    own = before.dimension(placed.dimension)
    hierarchy = own.hierarchy(placed.hierarchy)
    is_alone = [one.placed.placed.dimension for one in table.dimensions].count(own.name) == 1
    attributes = tuple(
        Attribute(
            name=level.name, caption=level.caption, key=f"key_{at}", caption_column=f"caption_{at}",
            sort_column=f"order_{at}", without=level.without,
        )
        for at, level in enumerate(each.levels)
    )  # fmt: skip
    # A branch that ends early has blanks below, which say nothing.
    blanks = "pass" if hierarchy.parent_child is not None else hierarchy.blanks
    top = each.levels[0].without if each.levels else None
    is_apart = own.alternatives or each.overlaps
    return Dimension(
        name=_unlike(own.name if is_alone else f"{own.name}_{hierarchy.name}", taken),
        caption=own.caption if is_alone else f"{own.caption}, {hierarchy_caption(own, hierarchy)}",
        table=f"members_{len(taken) + 1}", key="number", attributes=attributes,
        hierarchies=(
            Hierarchy(
                name=hierarchy.name, caption=hierarchy.caption, levels=tuple(one.name for one in attributes),
                blanks=blanks,
            ),
        ),
        all=own.all, without=top or own.without, alternatives=is_apart,
        default=_first_member(each, own) if is_apart else (), description=own.description, synonyms=own.synonyms,
    )  # fmt: skip


def _first_member(each: TableDimension, own: Dimension) -> tuple[MemberPath, ...]:
    """One of those that are never added up, the usual one where it is there: without, a number would be of them all."""
    if not each.levels or not each.levels[0].keys:
        return ()
    keys, order = each.levels[0].keys, each.levels[0].order
    usual = tuple(path for path in own.default if len(path) == 1 and path[0] in keys)
    return usual or ((keys[min(range(len(keys)), key=order.__getitem__)],),)


def _members(each: TableDimension) -> pa.Table:
    """A dimension's rows: the key, caption and order of each level."""
    columns: dict[str, pa.Array] = {}
    for at, level in enumerate(each.levels):
        is_blank = all(key is None for key in level.keys)
        columns[f"key_{at}"] = pa.array(level.keys, pa.string() if is_blank else None)
        columns[f"caption_{at}"] = pa.array(level.captions, pa.string())
        columns[f"order_{at}"] = pa.array(level.order, pa.int64())
    count = len(each.levels[0].keys) if each.levels else 0
    return pa.table({"number": pa.array(np.arange(count)), **columns})


def _labels(each: TableDimension) -> pa.Array:
    """What each row's member is called, with what it stands under as far as that was shown."""
    shown = each.levels[each.placed.start :]
    called = [
        " › ".join(level.captions[at] for level in shown if level.keys[at] is not None) or (shown[0].captions[at])
        for at in range(len(shown[0].keys))
    ]
    return pa.array([called[code] if code >= 0 else "" for code in each.codes.tolist()], pa.string())


def _measures(of: Measure, column: str, adds_up: bool, taken: list[str]) -> list[Measure]:
    """What may be asked of a column of numbers: what it adds up to; else its average, and its ends."""
    name = _plain(of)
    asked: tuple[tuple[Aggregate, str], ...] = (("sum", ""),) if adds_up else _OF_ROWS
    found: list[Measure] = []
    for aggregate, words in asked:
        own = name if adds_up else f"{name}_{aggregate}"
        caption = f"{words} {of.caption[:1].lower()}{of.caption[1:]}" if words else of.caption
        found.append(
            Measure(
                name=_unlike(own, [*taken, *(each.name for each in found)]), caption=caption, table=ROWS,
                aggregate=aggregate, expression=column, format=of.format, unit=of.unit, favourable=of.favourable,
                folder="" if adds_up else of.caption, description=of.description,
            )
        )  # fmt: skip
    return found


def _plain(of: Measure) -> str:
    """A name for a measure, or for the column of its numbers: that of its caption where it has none of its own."""
    name = _NO_NAME.sub("_", (of.name if of.name.isidentifier() else of.caption).lower()).strip("_")
    return name if name[:1].isalpha() else f"number_{name}".rstrip("_")


def _unlike(name: str, taken: list[str]) -> str:
    return next(each for each in (name, *(f"{name}_{at}" for at in range(2, len(taken) + 3))) if each not in taken)
