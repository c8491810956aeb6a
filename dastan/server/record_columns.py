"""The columns of a fact's records as people see them, and the address of a record's page."""

from __future__ import annotations

import re
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass, replace
from datetime import date
from urllib.parse import quote

from dastan.core.engine.plan import Shape
from dastan.core.engine.questioner import Questioner
from dastan.core.engine.waist import RecordsRequest, Source
from dastan.core.errors import InputError, did_you_mean
from dastan.core.formula.rows import columns_of as columns_of_formula
from dastan.core.formula.rows import parse_rows
from dastan.core.model.document import Measure, SemanticModel
from dastan.core.reading.backing import backings_of_all
from dastan.exports.record_sheet import BATCH, RecordSheet

_ISO_DAY = re.compile(r"\d{4}-\d{2}-\d{2}")


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


def text_of(value: object, captions: tuple[str, ...], at: int) -> str:
    """A value as people read it: what it points at by its name, with the key behind where it says more."""
    if value is None:
        return ""
    caption, key = captions[at] if captions else "", str(value)
    if not caption or isinstance(value, date) or _ISO_DAY.fullmatch(key):
        return key
    is_alike = caption.casefold().replace(" ", "_") == key.casefold().replace(" ", "_")
    return caption if is_alike else f"{caption} ({key})"


def record_sheets(questioner: Questioner, shape: Shape) -> tuple[RecordSheet, ...]:
    """The records behind a whole table, for a workbook: the columns that the model shows, what points at a member by
    its name."""
    return tuple(
        _sheet(each.part, each.request, questioner) for each in backings_of_all(questioner, shape) if each.request
    )


def _sheet(part: Measure, request: RecordsRequest, questioner: Questioner) -> RecordSheet:
    source = questioner.source
    shown = [each for each in columns_of(questioner.model, part, source, ()) if each.is_shown]
    wanted = replace(request, columns=tuple(each.name for each in shown), count=BATCH)

    def rows() -> Iterator[list[object]]:
        for page in source.record_pages(wanted):
            for at, values in enumerate(page.rows):
                raw = dict(zip(page.columns, values, strict=True))
                yield [_held(raw[each.name], page.captions.get(each.name, ()), at) for each in shown]

    total = source.records(replace(wanted, count=0)).total
    return RecordSheet(part.caption, [each.caption for each in shown], total, rows)


def _held(value: object, captions: tuple[str, ...], at: int) -> object:
    if isinstance(value, str) and _ISO_DAY.fullmatch(value):
        with suppress(ValueError):  # such as 2025-02-30, which somebody wrote
            return date.fromisoformat(value)
    return text_of(value, captions, at) if captions and not isinstance(value, date) else value
