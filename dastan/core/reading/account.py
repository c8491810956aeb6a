"""The account of one number: what it counts, under which filters, and what its parts come to there."""

from __future__ import annotations

from dataclasses import dataclass, replace

from dastan.core.analysis.captions import Members
from dastan.core.analysis.condition_words import condition_words
from dastan.core.analysis.document import Question
from dastan.core.analysis.placed import shown_formula, viewed_measure
from dastan.core.analysis.sentence import untouched_by
from dastan.core.analysis.viewing import count_formula, view_formula, view_terms
from dastan.core.engine.answer import Answer, answer_with
from dastan.core.engine.axes import Axis
from dastan.core.engine.plan import Shape
from dastan.core.engine.questioner import Questioner
from dastan.core.model.document import Measure, SemanticModel
from dastan.core.model.reach import parts_of
from dastan.core.reading.backing import (
    Backing,
    CellPlace,
    Exact,
    agree,
    backings_of,
    cell_value,
    is_comparable,
    record_count,
    value_of_records,
)
from dastan.core.reading.window import member_header

_AGGREGATE_WORDS = {
    "sum": "the sum of", "count": "the number of records", "count_values": "the number of records with",
    "distinct": "the number of different values of", "min": "the least", "max": "the greatest",
    "average": "the average of", "median": "the median of", "percentile": "a percentile of",
    "variance": "the variance of", "deviation": "the standard deviation of", "balance": "the balance of",
    "open": "what is open at the end of the period", "first": "the first", "last": "the last",
    "debit": "the amounts above zero of", "credit": "the amounts below zero, turned, of",
    "weighted_average": "the weighted average of",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Operand:
    """A part of a measure at the cell: how it is counted, over how many records, and what it comes to."""

    name: str
    caption: str
    definition: str
    table: str
    records: int | None
    """None where what it counts is told by its dates alone."""
    value: str | None
    note: str


@dataclass(frozen=True, slots=True)
class Account:
    """How a cell was computed.

    `value` is the cell's, as exact digits; `from_records` what its records come to by themselves; `agrees` whether
    the two are the same, None where they cannot be compared. `why_no_value` says what emptied a cell whose
    records are there.
    """

    caption: tuple[str, ...]
    measure: str
    description: str
    formula: str
    value: str | None
    from_records: str | None
    agrees: bool | None
    operands: tuple[Operand, ...]
    filters: tuple[str, ...]
    why_no_value: str
    in_percent: bool = False
    """Whether the value is shown as hundredths."""


def account_of(
    answer: Answer, place: CellPlace, questioner: Questioner, shape: Shape, members: Members, seen_as: tuple[str, ...]
) -> Account:
    """The account of a cell. Args: `seen_as` are the captions of the reader's roles, where these hide records."""
    placed, model = questioner.document.question.measures[place.measure], questioner.model
    if placed.view is not None:
        return _account_of_view(answer, place, questioner, shape, members, seen_as)
    measure = answer.measures[place.measure]
    backings = backings_of(answer, place, questioner, shape)
    counts = [record_count(each, questioner.source) for each in backings]
    values = [value_of_records(each, count, questioner.source) for each, count in zip(backings, counts, strict=True)]
    by_name = {each.part.name: value for each, value in zip(backings, values, strict=True)}
    shown, own = cell_value(answer, place), _combined(measure, model, by_name)
    operands = tuple(
        Operand(
            each.part.name, each.part.caption, definition_of(each.part, model, members), each.part.table, count,
            _digits(value), _note(each),
        )
        for each, count, value in zip(backings, counts, values, strict=True)
    )  # fmt: skip
    return Account(
        captions_of(answer, place), measure.caption, measure.description, _formula(measure, model), _digits(shown),
        _digits(own), agree(shown, own) if is_comparable(backings) else None, operands,
        (*_filter_words(questioner, model, members), *(f"as far as {each} may see" for each in seen_as)),
        _why_no_value(measure, shown, operands),
    )  # fmt: skip


def _account_of_view(
    answer: Answer, place: CellPlace, questioner: Questioner, shape: Shape, members: Members, seen_as: tuple[str, ...]
) -> Account:
    """The account of a view: what the measure itself comes to in the cell, and what it is compared with."""
    placed, model = questioner.document.question.measures[place.measure], questioner.model
    shown, itself = answer.measures[place.measure], replace(placed, view=None)
    terms = view_terms(placed, model)
    measures = tuple(replace(shown, name=f"{shown.name}|{number}") for number in range(len(terms)))
    counting = [count_formula(each.formula) for each in terms[1:]]
    formulas = (*(each.formula for each in terms), *(each for each in counting if each is not None))
    measures = tuple(replace(shown, name=f"{shown.name}|{number}") for number in range(len(formulas)))
    worked = answer_with(questioner, measures, formulas)
    row = _same_entry(answer.rows, worked.rows, place.row)
    column = _same_entry(answer.columns, worked.columns, place.column)
    found = [
        None if row is None or column is None else cell_value(worked, CellPlace(row, column, number))
        for number in range(len(formulas))
    ]
    measure = viewed_measure(itself, model)
    backings = backings_of(answer, place, questioner, shape)
    own_count = sum(record_count(each, questioner.source) for each in backings)
    values = [value_of_records(each, record_count(each, questioner.source), questioner.source) for each in backings]
    parts = [each.name for each in parts_of(measure, model)]
    own = _combined(measure, model, dict(zip(parts, values, strict=True)))
    further = iter(found[len(terms) :])
    counts = [own_count, *(None if each is None else int(next(further) or 0) for each in counting)]
    definition = definition_of(measure, model, members) if measure.aggregate != "ratio" else _formula(measure, model)
    operands = tuple(
        Operand(f"{measure.name}|{number}", each.caption, definition, measure.table, count, _digits(value), each.note)
        for number, (each, value, count) in enumerate(zip(terms, found, counts, strict=False))
    )
    is_own_first = terms[0].formula == shown_formula(itself, model)
    value = cell_value(answer, place)
    return Account(
        captions_of(answer, place), shown.caption, shown.description, view_formula(placed, model), _digits(value),
        _digits(own), agree(found[0], own) if is_own_first and is_comparable(backings) else None, operands,
        (*_filter_words(questioner, model, members), *(f"as far as {each} may see" for each in seen_as)),
        _why_view_is_empty(value, operands), "%" in shown.format,
    )  # fmt: skip


def _same_entry(axis: Axis, other: Axis, entry: int) -> int | None:
    """The entry of another arrangement of an axis that is the same header; None where it does not stand there."""
    grain = axis.grains[int(axis.grain[entry])]
    found = int(other.entries_of(grain, axis.codes[entry : entry + 1, : len(grain.depths)])[0])
    return found if found >= 0 else None


def _why_view_is_empty(value: Exact, operands: tuple[Operand, ...]) -> str:
    if value is not None:
        return ""
    for each in operands[1:]:
        if each.value is None:
            return f"{each.caption} is empty here, so there is nothing to compare with."
        if float(each.value) == 0:
            return f"{each.caption} is 0 here, and nothing can be divided by it."
    return f"{operands[0].caption} is empty here."


def captions_of(answer: Answer, place: CellPlace) -> tuple[str, ...]:
    """Where a cell stands: its row and its column."""
    found = []
    for axis, entry in ((answer.rows, place.row), (answer.columns, place.column)):
        if axis.placements:
            chain = [member_header(axis, each).caption for each in axis.chain(entry)]
            found.append(" › ".join(chain) or axis.all_caption)
    return tuple(found)


def definition_of(part: Measure, model: SemanticModel, members: Members) -> str:
    """How a measure that is not a ratio is counted, in words."""
    words = _AGGREGATE_WORDS[part.aggregate]
    if part.aggregate == "percentile":
        words = f"percentile {part.percentile:g} of"
    text = f"{words} {part.expression}" if part.expression else words
    if part.aggregate == "balance":
        text += {"last": " on the last loaded day", "first": " on the first loaded day"}.get(
            part.over_time, ", averaged over the loaded days"
        )
    elif part.aggregate == "open":
        text += f": begun by {part.started}, and not yet {part.ended}"
    elif part.weight:
        text += f", weighted by {part.weight}"
    text += f" in {part.table}"
    for each in part.where:
        found = condition_words(each, Question(), model, members)
        text += f", {'for' if each.action == 'keep' else 'without'} {found.text} {found.note}".rstrip()
    return text


def _combined(measure: Measure, model: SemanticModel, values: dict[str, Exact]) -> Exact:
    if measure.aggregate != "ratio":
        return values[measure.name]
    above, below = (
        _combined(model.measure(name or ""), model, values) for name in (measure.numerator, measure.denominator)
    )
    return None if above is None or not below else float(above) / float(below)


def _formula(measure: Measure, model: SemanticModel) -> str:
    if measure.aggregate != "ratio":
        return ""
    names = [model.measure(name or "").caption for name in (measure.numerator, measure.denominator)]
    return " ÷ ".join(names)


def _note(backing: Backing) -> str:
    if backing.request is None:
        return "what it stands under does not reach these records"
    if backing.part.aggregate == "open":
        return f"open at the end of {backing.day}"
    if backing.part.aggregate == "balance":
        return f"on {backing.day}" if backing.day else f"over {backing.days} loaded days"
    return ""


def _filter_words(questioner: Questioner, model: SemanticModel, members: Members) -> list[str]:
    document = questioner.document
    found = []
    for each in document.question.filters:
        words = condition_words(each, document.question, model, members)
        note = f" ({words.note})" if words.note else ""
        untouched = untouched_by(each, document, model)
        alone = f"; it leaves {' and '.join(untouched)} alone" if untouched else ""
        found.append(f"{'for' if each.action == 'keep' else 'without'} {words.text}{note}{alone}")
    return found


def _why_no_value(measure: Measure, shown: Exact, operands: tuple[Operand, ...]) -> str:
    if shown is not None:
        return ""
    if measure.aggregate == "ratio":
        below = next((each for each in operands if each.name == measure.denominator), None)
        if below is not None and below.value is not None and float(below.value) == 0:
            return f"{below.caption} is 0 here, and nothing can be divided by it."
        empty = [each.caption for each in operands if each.value is None]
        return f"{' and '.join(empty)} {'is' if len(empty) == 1 else 'are'} empty here." if empty else ""
    count = operands[0].records
    if count:
        return f"There are {count:,} records, and none of them has a value of {measure.expression or measure.caption}."
    return "There are no records here."


def _digits(value: Exact) -> str | None:
    return None if value is None else repr(value) if isinstance(value, float) else str(value)
