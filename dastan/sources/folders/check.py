"""Holds a model against its data: what is wrong is an error, what is merely so is a note."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import pyarrow as pa
from pydantic import TypeAdapter

from dastan.core.engine.watch import Watch
from dastan.core.errors import AppError, ModelError
from dastan.core.formula.rows import columns_of as columns_of_formula
from dastan.core.formula.rows import parse_rows
from dastan.core.model.conditions import AttributeFilter, Condition, PromptRef, leaves_of
from dastan.core.model.document import Measure, SemanticModel
from dastan.core.model.formulas import base_aggregates
from dastan.core.model.parent_child import unknown_parents
from dastan.core.model.reach import grain_of, reaches, shown_hierarchies, ways_to
from dastan.core.values import Values
from dastan.sources.columnar.added import ADDED, added_up
from dastan.sources.columnar.column_source import ColumnSource
from dastan.sources.columnar.conditions import values_like
from dastan.sources.columnar.dimension_rows import duplicate_keys
from dastan.sources.columnar.open_records import day_numbers
from dastan.sources.files.columns import keys_of, numbers
from dastan.sources.folders.day_notes import day_notes


@dataclass(frozen=True, slots=True)
class MatchNote:
    """How many records of a table point nowhere through one relationship."""

    table: str
    column: str
    to_table: str
    records: int
    blank: int
    unknown: int
    unknown_examples: tuple[str, ...]
    near: tuple[str, ...] = ()
    """For each example the key that it is but for case, blanks or a `.0`; "" where there is none."""

    def __str__(self) -> str:
        parts = []
        if self.blank:
            parts.append(f"{self.blank:,} of {self.records:,} records have no {self.column}")
        if self.unknown:
            known = (*self.near, *[""] * len(self.unknown_examples))
            some = ", ".join(
                f"“{each}”, where that has “{near}”" if near else each
                for each, near in zip(self.unknown_examples, known, strict=False)
            )
            parts.append(f"{self.unknown:,} have one that is not in {self.to_table} (such as {some})")
        return f"{self.table}: " + " and ".join(parts)


Note = MatchNote | str
"""What is to be noticed of the data, to be read as it is written."""


_NOTES = TypeAdapter(tuple[Note, ...])
_CHECKED = ("checked",)


def checked_data(source: ColumnSource, watch: Watch) -> tuple[Note, ...]:
    """What `check_data` finds; where it is known of these very files already, without looking at them again."""
    if source.prepared is None:
        return check_data(source, watch)
    known = source.prepared.get(_CHECKED)
    if isinstance(known, list):
        return _NOTES.validate_python(known)
    found = check_data(source, watch)
    source.prepared.put(_CHECKED, _NOTES.dump_python(found, mode="json"))
    return found


def check_data(source: ColumnSource, watch: Watch | None = None) -> tuple[Note, ...]:
    """Checks columns, keys and relationships.

    Args: `watch` hears how far it is.
    Raises: ModelError with every fault found: a column that is not there or holds no numbers, a key that
    stands in several rows of the one side.
    """
    watch = watch or Watch()
    watch.expect(len(source.model.relationships))
    faults = _column_faults(source, watch) + _key_faults(source)
    if faults:
        raise ModelError(
            f"Model “{source.model.caption}” does not fit its tables.",
            "Mend each of these, then open the folder again.",
            details={"faults": faults},
        )
    return (
        *_reach_notes(source.model),
        *_year_notes(source.model),
        *match_notes(source, watch),
        *_table_notes(source),
        *_total_notes(source),
        *day_notes(source),
    )


_MOST_KEYS = 200_000


def _near(examples: tuple[str, ...], keys: pa.ChunkedArray) -> tuple[str, ...]:
    """The keys that differ from some that match nothing by their writing alone."""
    if not examples or len(keys) > _MOST_KEYS:
        return ()
    known = {_folded(str(each)): str(each) for each in keys_of(keys) if each is not None}
    return tuple(known.get(_folded(each), "") for each in examples)


def _folded(key: str) -> str:
    plain = "".join(key.split()).casefold()
    return plain.removesuffix(".0") if plain.removesuffix(".0").isdigit() else plain


def _reach_notes(model: SemanticModel) -> list[str]:
    """Dimensions that several ways lead to, of which a measure does not say which it means: it is empty by them."""
    notes = []
    for dimension in (each for each in model.dimensions if each.key is not None):
        unsaid: dict[str, list[Measure]] = {}
        for each in model.measures:
            is_told = each.is_of_others or reaches(model, grain_of(each), dimension)
            if not is_told and len(ways_to(model, each.table, dimension)) > 1:
                unsaid.setdefault(each.table, []).append(each)
        for table, measures in unsaid.items():
            ways = ways_to(model, table, dimension)
            roles = list(dict.fromkeys(each[-1].role for each in ways))
            empty = ", ".join(f"“{each.caption}”" for each in measures)
            told = f"{table} leads to {dimension.caption} in {len(ways)} ways, so that by it {empty} would be empty"
            if len(roles) == len(ways):
                said = " or ".join(f"{{{dimension.name}: {each}}}" for each in roles)
                notes.append(f"{told}; say which is meant by its `roles`: {said}")
            else:
                notes.append(f"{told}; give the relationships that lead there roles of their own, or leave one out")
    return notes


_YEAR = re.compile(r"(^|[\W_])year($|[\W_])", re.IGNORECASE)
_AMOUNT = "#,##0"
"""How a measure is written unless it is said."""
_ONE_OF_THEM = ("min", "max", "median", "percentile", "first", "last")


def _year_notes(model: SemanticModel) -> list[str]:
    """Measures that are a year, to all appearance, and would be written as an amount is."""
    return [
        f'“{each.caption}” is a year by its column, and would be written 2,025: say `format: "0"` at the measure'
        for each in model.measures
        if each.aggregate in _ONE_OF_THEM and each.format == _AMOUNT and _YEAR.search(each.expression or "")
    ]


def _table_notes(source: ColumnSource) -> list[str]:
    return [words for each in source.tables.values() for words in each.noticed()]


_FEWEST, _MOST_BY_HAND = 4, 1_000_000
"""So many records a table has that somebody may have put together by hand."""


def _total_notes(source: ColumnSource) -> list[str]:
    """Tables whose last record holds the sums of all others, as a total does: it would count twice."""
    found = []
    for name, table in source.tables.items():
        if not _FEWEST <= table.row_count <= _MOST_BY_HAND:
            continue
        added = [each.expression for each in source.declared.measures if (each.table, each.aggregate) == (name, "sum")]
        columns = [each for each in dict.fromkeys(added) if each in table.names]
        sums = [_is_sum_of_others(numbers(table.column(each), table.place(each))) for each in columns]
        if any(sums) and None not in sums and all(sums):
            last = " and ".join(str(each) for each in columns)
            words = f"{name}: the last record has in {last} the sum of all others"
            found.append(f"{words}; if it is a total, leave it out, for it counts twice: `footer: 1` at the table")
    return found


def _is_sum_of_others(values: Values) -> bool | None:
    """Whether the last value is what the others add up to; None where there is none, or it is 0."""
    if not values.present[-1] or not values.data[-1]:
        return None
    own = values.data[:-1][values.present[:-1]]
    last = values.data[-1]
    if values.scale is None:
        return bool(np.isclose(own.sum(), last, rtol=1e-9, atol=0.0))
    return int(own.astype(object).sum()) == int(last)


def match_notes(source: ColumnSource, watch: Watch) -> tuple[MatchNote, ...]:
    """One note per relationship through which some records point nowhere."""
    notes = []
    for each in source.model.relationships:
        watch.begin(f"{each.from_table}: {each.from_column}")
        found = source.pointers(each.from_table, each.from_column, each.to_table, each.to_column)
        if found.blank_count or found.unknown_count:
            notes.append(
                MatchNote(
                    each.from_table,
                    each.from_column,
                    each.to_table,
                    len(found.rows),
                    found.blank_count,
                    found.unknown_count,
                    found.unknown_examples,
                    _near(found.unknown_examples, source.tables[each.to_table].column(each.to_column)),
                )
            )
        watch.note_done()
    for dimension in source.model.dimensions:
        for hierarchy in dimension.hierarchies:
            if (tree := hierarchy.parent_child) is not None:
                table = source.tables[dimension.table]
                parents = keys_of(table.column(tree.parent))
                unknown_keys = unknown_parents(keys_of(table.column(tree.key)), parents)
                count = sum(each in unknown_keys for each in parents)
                if count:
                    some = tuple(str(each) for each in unknown_keys[:3])
                    notes.append(MatchNote(dimension.table, tree.parent, dimension.table, len(parents), 0, count, some))
    return tuple(notes)


def _column_faults(source: ColumnSource, watch: Watch) -> list[dict[str, str]]:
    faults: list[dict[str, str]] = []
    named = [*_named_columns(source)]
    watch.expect(len(named))
    for place, table, column in named:
        watch.begin(f"{table}: {column}")
        try:
            source.tables[table].column(column)
        except AppError as error:
            faults.append({"place": place, "message": error.message, "hint": error.hint})
        watch.note_done()
    return faults or _value_faults(source, watch)


def _named_columns(source: ColumnSource) -> Iterator[tuple[str, str, str]]:
    """Every column that the model names: where it does, the table and the column."""
    model = source.declared
    for name, declared in model.tables.items():
        for said in declared.columns:
            if said not in source.tables[name].names:  # one that is there is read where it is used
                yield f"tables.{name}.columns.{said}", name, said
        for worked_out in source.tables[name].formulas:
            yield f"tables.{name}.columns.{worked_out}.formula", name, worked_out
        records = declared.records
        for listed in (*records.columns, *records.captions, *records.page_columns()):
            yield f"tables.{name}.records", name, listed
    for number, each in enumerate(model.relationships):
        yield f"relationships[{number}].from_column", each.from_table, each.from_column
        yield f"relationships[{number}].to_column", each.to_table, each.to_column
    for number, dimension in enumerate(model.dimensions):
        for place, attribute in enumerate(dimension.attributes):
            for field in ("key", "caption_column", "sort_column"):
                column = getattr(attribute, field)
                if column is not None:
                    table = attribute.table or dimension.table
                    yield f"dimensions[{number}].attributes[{place}].{field}", table, column
    for number, measure in enumerate(model.measures):
        for column in columns_of_formula(parse_rows(measure.expression)) if measure.expression else ():
            yield f"measures[{number}].expression", measure.table, column
        for column in (measure.started, measure.ended):
            if measure.aggregate == "open" and column is not None:
                yield f"measures[{number}]", measure.table, column


def _value_faults(source: ColumnSource, watch: Watch) -> list[dict[str, str]]:
    """Measures whose column holds no numbers, and hierarchies that cannot be put in order."""
    faults = []
    watch.expect(len(source.model.measures) + len(source.model.dimensions))
    for number, measure in enumerate(source.model.measures):
        watch.begin(measure.caption)
        watch.note_done()
        if measure.aggregate == "open":
            for column in (measure.started or "", measure.ended or ""):
                try:
                    day_numbers(source.tables[measure.table], column)
                except AppError as error:
                    faults.append({"place": f"measures[{number}]", "message": error.message, "hint": error.hint})
        if measure.aggregate in ("count", "distinct", "ratio", "formula", "open"):
            continue
        kinds = base_aggregates(measure)
        for aggregate in added_up(kinds) or kinds:
            try:
                # What is added up is all that most questions read; the numbers themselves need not be kept as well.
                read = source.summand if aggregate.kind in ADDED else source.argument_values
                read(measure.table, aggregate)
            except AppError as error:
                place = f"measures[{number}].expression"
                faults.append({"place": place, "message": error.message, "hint": error.hint})
    for place, condition in _conditions(source.model):
        for each in leaves_of(condition):
            if isinstance(each, AttributeFilter):
                plain = tuple(value for value in each.values if not isinstance(value, PromptRef))
                try:
                    keys = source.attribute_keys(each.dimension, each.attribute, each.on)
                    values_like(keys, each.operator, plain, each.attribute)
                except AppError as error:
                    faults.append({"place": place, "message": error.message, "hint": error.hint})
    for number, dimension in enumerate(source.model.dimensions):
        watch.begin(dimension.caption)
        for hierarchy in shown_hierarchies(dimension):
            try:
                source.members(dimension.name, hierarchy.name)
            except AppError as error:
                faults.append({"place": f"dimensions[{number}]", "message": error.message, "hint": error.hint})
        watch.note_done()
    return faults


def _conditions(model: SemanticModel) -> Iterator[tuple[str, Condition]]:
    """Every condition that the model writes, with its place."""
    for number, each in enumerate(model.filters):
        yield f"filters[{number}].condition", each.condition
    for number, measure in enumerate(model.measures):
        for at, condition in enumerate(measure.where):
            yield f"measures[{number}].where[{at}]", condition
    for number, role in enumerate(model.roles):
        for at, condition in enumerate(role.conditions):
            yield f"roles[{number}].conditions[{at}]", condition


def _key_faults(source: ColumnSource) -> list[dict[str, str]]:
    faults = []
    for number, each in enumerate(source.model.relationships):
        table = source.tables[each.to_table]
        if each.to_column not in table.names:
            continue
        for key, count in duplicate_keys(table.column(each.to_column)):
            faults.append(
                {
                    "place": f"relationships[{number}].to_column",
                    "message": f"Key “{key}” stands in {count} rows of “{each.to_table}”, so records that point at it "
                    "would count twice.",
                    "hint": f"Leave one row for each {each.to_column}, or point at another column.",
                }
            )
    return faults
