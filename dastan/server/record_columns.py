"""The columns of a fact's records as people see them, and the address of a record's page."""

from __future__ import annotations

from dataclasses import dataclass
from urllib.parse import quote

from dastan.core.engine.waist import Source
from dastan.core.errors import InputError, did_you_mean
from dastan.core.formula.rows import columns_of as columns_of_formula
from dastan.core.formula.rows import parse_rows
from dastan.core.model.document import Measure, SemanticModel


@dataclass(frozen=True, slots=True)
class RecordColumn:
    """A column that can be shown of some records; `is_own` where the measure is computed from it."""

    name: str
    caption: str
    is_shown: bool
    is_own: bool


def columns_of(
    model: SemanticModel, part: Measure, source: Source, wanted: tuple[str, ...]
) -> tuple[RecordColumn, ...]:
    """Those wanted first, in that order; as the model's author chose where none are. Raises InputError."""
    names = source.table_columns(part.table)
    declared = model.tables[part.table].records
    for each in wanted:
        if each not in names:
            raise InputError(f"There is no column “{each}” in these records.", did_you_mean(each, names))
    shown = wanted or declared.columns or names
    ordered = (*shown, *(each for each in names if each not in shown))
    captions = {each.from_column: _pointed_at(model, each.to_table, each.role) for each in model.relationships
                if each.from_table == part.table}  # fmt: skip
    formulas = [each for each in (part.expression, part.weight) if each]
    own = {column for each in formulas for column in columns_of_formula(parse_rows(each))}
    return tuple(
        RecordColumn(
            each, declared.captions.get(each) or captions.get(each) or _plain(each), each in shown, each in own
        )
        for each in ordered
    )


def page_address(model: SemanticModel, table: str, record: dict[str, object]) -> str | None:
    """The address of a record's page; None where the model names none, or a column of it is blank.

    Args: `record` has the columns that the address is made of.
    """
    declared = model.tables[table].records
    if declared.page is None or any(record[each] is None for each in declared.page_columns()):
        return None
    return declared.page.format(**{each: quote(str(record[each]), safe="") for each in declared.page_columns()})


def _pointed_at(model: SemanticModel, table: str, role: str) -> str:
    """What a column that points at a dimension is called: after it, or after its role where it has several."""
    roles = [each.role for each in model.relationships if each.to_table == table]
    named = next((each.caption for each in model.dimensions if each.table == table), _plain(role))
    return named if len(set(roles)) == 1 else _plain(role)


def _plain(name: str) -> str:
    return name.replace("_", " ").capitalize()
