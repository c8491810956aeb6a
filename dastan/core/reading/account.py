"""The account of one number: what it counts, under which filters, and what its parts come to there."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial

from dastan.core.analysis.captions import Members
from dastan.core.analysis.condition_words import condition_words
from dastan.core.analysis.document import PlacedMeasure, Question
from dastan.core.analysis.sentence import untouched_by
from dastan.core.analysis.view_terms import Exact, Term, depends_on_others, formula_words, view_terms, worked_out
from dastan.core.engine.answer import Answer
from dastan.core.engine.axes import Axis
from dastan.core.engine.neighbours import beside_others
from dastan.core.engine.plan import Shape
from dastan.core.engine.questioner import Questioner
from dastan.core.engine.stands_at import entries_standing
from dastan.core.formula.formula import Standing
from dastan.core.formula.scopes import Earlier
from dastan.core.language.writing import write_formula
from dastan.core.model.document import Measure, SemanticModel
from dastan.core.model.financial_layouts import pattern_of_row
from dastan.core.model.joints import how_joined, told_of_two
from dastan.core.model.meaning import leaves_of_measure
from dastan.core.reading.backing import (
    Backing,
    CellPlace,
    agree,
    backings_by_term,
    cell_at,
    cell_value,
    is_comparable,
    record_count,
    value_of_records,
)
from dastan.core.reading.one_cell import NotByItselfError, value_of_leaves
from dastan.core.reading.row_account import LaidOutCell, laid_out_cell
from dastan.core.reading.window import MemberHeader, member_header
from dastan.core.words.vocabulary import Vocabulary

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
    records: int
    value: str | None
    note: str


@dataclass(frozen=True, slots=True)
class OtherRow:
    """A row of a financial layout that another is of, and its number in the same place, as exact digits."""

    caption: str
    value: str | None


@dataclass(frozen=True, slots=True)
class Account:
    """How a cell was computed.

    `value` is the cell's, as exact digits; `from_records` what its records come to by themselves; `agrees` whether
    the two are the same, None where they cannot be compared: `why_not_compared` says why. `why_no_value` says what
    emptied a cell whose records are there.
    """

    caption: tuple[str, ...]
    measure: str
    description: str
    formula: str
    value: str | None
    from_records: str | None
    agrees: bool | None
    why_not_compared: str
    operands: tuple[Operand, ...]
    filters: tuple[str, ...]
    why_no_value: str
    joins: tuple[str, ...] = ()
    """What each joint member joins in which the cell stands."""
    in_percent: bool = False
    """Whether the value is shown as hundredths."""
    row: str = ""
    """Of a row of a financial layout that is worked out from others: how."""
    row_parts: tuple[OtherRow, ...] = ()
    """The rows that this names, each with its number in the same place."""


def account_of(
    answer: Answer, place: CellPlace, questioner: Questioner, shape: Shape, members: Members, seen_as: tuple[str, ...]
) -> Account:
    """The account of a cell. Args: `seen_as` are the captions of the reader's roles, where these hide records."""
    placed, model = questioner.document.question.measures[place.measure], questioner.model
    terms, measure = view_terms(placed, model, members), answer.measures[place.measure]

    def told_at(where: CellPlace) -> _Told:
        return _told(
            terms,
            backings_by_term(answer, where, questioner, shape),
            questioner,
            members,
            partial(_stands, answer, where),
        )

    told, laid_out = told_at(place), laid_out_cell(answer, place)
    values: Sequence[Exact] = told.values
    is_by_itself = not depends_on_others(placed) and told.is_by_itself
    if laid_out is not None:
        in_row = laid_out.worked_out(terms, told.values, lambda where: told_at(where).values)
        is_by_itself, values = is_by_itself and in_row is not None, in_row or told.values
    shown = cell_value(answer, place)
    own = worked_out(placed, values, shown is not None)
    is_bare = cell_at(answer, place) is None
    if is_bare or (shown is None and _hangs_on_unknown(terms, told.exacts, model)):
        own = None
    if isinstance(shown, float) and own is not None and not isinstance(own, float) and agree(shown, own):
        shown = own  # beside a row that divides others, all of a layout's are floats
    difference = _difference(answer, place)
    own = None if difference else own
    is_told = is_by_itself and not difference and told.is_comparable
    why = (
        _why_no_cell(is_bare, measure)
        or _why_beside(placed, shown, answer, place)
        or _why_empty_row(shown, laid_out)
        or _why_empty(placed, measure, shown, told.operands, terms, values)
    )
    return Account(
        captions_of(answer, place), measure.caption, measure.description,
        formula_words(placed, terms) or formula_of(measure, model, members), _digits(shown), _digits(own),
        agree(shown, own) if is_told else None, difference or _why_not_compared(is_by_itself, is_told), told.operands,
        (*_filter_words(questioner, model, members), *(f"as far as {each} may see" for each in seen_as)),
        why, _joins(answer, place), _in_percent(measure, answer, place, laid_out),
        laid_out.formula if laid_out is not None else "",
        tuple(OtherRow(each.caption, _digits(each.value)) for each in laid_out.parts) if laid_out is not None else (),
    )  # fmt: skip


@dataclass(frozen=True, slots=True)
class _Told:
    """What the terms of a measure come to over the records of one cell, and what they stand on."""

    operands: tuple[Operand, ...]
    values: list[Exact]
    exacts: list[Exact]
    is_by_itself: bool
    is_comparable: bool


def _told(
    terms: Sequence[Term],
    by_term: Sequence[tuple[Backing, ...]],
    questioner: Questioner,
    members: Members,
    stands: Callable[[Standing], bool],
) -> _Told:
    operands: list[Operand] = []
    values: list[Exact] = []
    exacts: list[Exact] = []
    model, is_by_itself = questioner.model, True
    for term, backings in zip(terms, by_term, strict=True):
        exact: list[Exact] = []
        for each in backings:
            count = record_count(each, questioner.source)
            value = value_of_records(each, count, questioner.source)
            exact.append(value)
            operands.append(
                Operand(
                    each.name, each.caption, definition_of(each.part, model, members), each.part.table, count,
                    _digits(value), _note(each),
                )
            )  # fmt: skip
        exacts += exact
        try:
            values.append(value_of_leaves(term.measure, model, exact, stands))
        except NotByItselfError:
            values.append(None)
            is_by_itself = False
    comparable = all(is_comparable(each) for each in by_term)
    return _Told(tuple(operands), values, exacts, is_by_itself, comparable)


def _stands(answer: Answer, place: CellPlace, standing: Standing) -> bool:
    return any(bool(entries_standing(standing, axis)[entry]) for axis, entry in _ends(answer, place))


def _in_percent(measure: Measure, answer: Answer, place: CellPlace, laid_out: LaidOutCell | None) -> bool:
    if laid_out is None:
        headers = (member_header(axis, each) for axis, entry in _ends(answer, place) for each in axis.chain(entry))
        return any("%" in (each or "") for each in (measure.format, *(one.format for one in headers)))
    pattern = pattern_of_row(laid_out.members.layout, laid_out.row)
    return "%" in (pattern or measure.format)


def _hangs_on_unknown(terms: Sequence[Term], values: Sequence[Exact], model: SemanticModel) -> bool:
    """Whether an earlier value is empty: if anything is known of that time, its own records do not tell."""
    leaves = [leaf for term in terms for leaf in leaves_of_measure(term.measure, model)]
    return any(isinstance(leaf.scope, Earlier) and value is None for leaf, value in zip(leaves, values, strict=True))


def _why_no_cell(is_bare: bool, measure: Measure) -> str:
    """Of a formula, which may look beyond the cell: that nothing stands in it."""
    return "No measure of the table has a record here." if is_bare and measure.is_of_others else ""


def _joins(answer: Answer, place: CellPlace) -> tuple[str, ...]:
    """What joint members join in which a cell stands: "Rail joins Tram and Metro"."""
    headers = [member_header(axis, each) for axis, entry in _ends(answer, place) for each in axis.chain(entry)]
    return tuple(told for each in headers if each.says and (told := _told_header(each)) != each.caption)


def _told_header(header: MemberHeader) -> str:
    """A joint member with what it is: "Rail joins Tram and Metro"; its name alone where that says it."""
    return header.caption if header.says == f"is {header.caption}" else f"{header.caption} {header.says}"


def _difference(answer: Answer, place: CellPlace) -> str:
    """Of a cell of a difference or ratio of members, the two numbers that it is of; nothing of others."""
    for axis, entry in _ends(answer, place):
        for each in axis.chain(entry):
            members = axis.placements[each.place].members
            how = "together" if each.is_others else how_joined(members, each.depth, each.code)
            if how == "together":
                continue
            header, cell = member_header(axis, each), cell_at(answer, place)
            if cell is None or not answer.both.firsts:
                numbers = told_of_two(("one member's number", "another's"), how)
                return f"It is {numbers}; behind it are the records of both."
            first, second = (each[place.measure].at(cell) for each in answer.both)
            numbers = told_of_two([_digits(first) or "nothing", _digits(second) or "nothing"], how)
            why = ""
            if how == "ratio" and first is not None and second is not None and cell_value(answer, place) is None:
                why = " There is none by zero." if not second else " A ratio of such a view says nothing."
            return f"{_told_header(header)}: {numbers}.{why} Behind it are the records of both."
    return ""


def _ends(answer: Answer, place: CellPlace) -> tuple[tuple[Axis, int], tuple[Axis, int]]:
    return ((answer.rows, place.row), (answer.columns, place.column))


def _why_beside(placed: PlacedMeasure, shown: Exact, answer: Answer, place: CellPlace) -> str:
    """Of what runs along the table: that a joint member takes no part in it beside those that it joins."""
    along = getattr(placed.view, "along", None)
    if shown is not None or along is None:
        return ""
    axis, entry = _ends(answer, place)[0 if along == "rows" else 1]
    if not beside_others(axis, bool(getattr(placed.view, "restarts", False)))[entry]:
        return ""
    caption = member_header(axis, axis.chain(entry)[-1]).caption
    return f"{caption} stands beside what it joins, which is counted in the row already."


def _why_empty_row(shown: Exact, laid_out: LaidOutCell | None) -> str:
    """Of a row that is worked out from others, which of them leaves it empty."""
    if shown is not None or laid_out is None or not laid_out.parts:
        return ""
    empty = [each.caption for each in laid_out.parts if each.value is None]
    zero = [each.caption for each in laid_out.parts if each.value == 0]
    if empty:
        return f"{' and '.join(empty)} {'is' if len(empty) == 1 else 'are'} empty here."
    return f"{zero[0]} is 0 here, and nothing can be divided by it." if zero else ""


def _why_empty(
    placed: PlacedMeasure,
    measure: Measure,
    shown: Exact,
    operands: Sequence[Operand],
    terms: Sequence[Term],
    values: Sequence[Exact],
) -> str:
    return _why_no_value(measure, shown, tuple(operands)) if placed.view is None else _why_no_view(shown, terms, values)


def _why_not_compared(is_by_itself: bool, is_told: bool) -> str:
    if not is_by_itself:
        return "It depends on other cells as well; behind it are the records of its own cell."
    return "" if is_told else "One record's value: there is nothing to add up."


def _why_no_view(shown: Exact, terms: Sequence[Term], values: Sequence[Exact]) -> str:
    if shown is not None:
        return ""
    for term, value in zip(terms[1:], values[1:], strict=True):
        if value is None:
            return f"{term.caption} is empty here, so there is nothing to compare with."
        if value == 0:
            return f"{term.caption} is 0 here, and nothing can be divided by it."
    return f"{terms[0].caption} is empty here."


def captions_of(answer: Answer, place: CellPlace) -> tuple[str, ...]:
    """Where a cell stands: its row and its column."""
    found = []
    for axis, entry in _ends(answer, place):
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


def formula_of(measure: Measure, model: SemanticModel, members: Members) -> str:
    if measure.formula is not None:
        return write_formula(measure.formula, Vocabulary(model, members))
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
    if measure.is_of_others:
        below = next((each for each in operands if each.value is not None and float(each.value) == 0), None)
        if below is not None and measure.denominator in (None, below.name):
            return f"{below.caption} is 0 here, and nothing can be divided by it."
        empty = [each.caption for each in operands if each.value is None]
        return f"{' and '.join(empty)} {'is' if len(empty) == 1 else 'are'} empty here." if empty else ""
    count = operands[0].records
    if count:
        return f"There are {count:,} records, and none of them has a value of {measure.expression or measure.caption}."
    return "There are no records here."


def _digits(value: Exact) -> str | None:
    return None if value is None else repr(value) if isinstance(value, float) else str(value)
