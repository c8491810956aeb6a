"""Rows of a financial layout as members: each has the records of some members, or is worked out from other rows.

A row of a formula stands wherever one of those that it is of does, so that its records are theirs. A heading and a
blank have none.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from functools import cache, lru_cache

import numpy as np

from dastan.core.errors import did_you_mean
from dastan.core.formula.bases import BaseAggregate, Counted
from dastan.core.formula.formula import Base, Formula
from dastan.core.formula.units import PLAIN
from dastan.core.model.document import FinancialLayout, Hierarchy, KeyRange, LayoutRow, Measure, SemanticModel, Table
from dastan.core.model.expression import Arithmetic, Expression, MeasureOf, Negative, NumberOf, measures_named
from dastan.core.model.expression_check import check_expression, unit_of_expression
from dastan.core.model.expression_shape import ExpressionError
from dastan.core.model.joints import joint_named
from dastan.core.model.meaning import Leaf, worked_out
from dastan.core.model.members import HierarchyMembers, build_list, fold, rank_of_key
from dastan.core.model.parts import Key, MemberPath
from dastan.core.model.pattern import is_number_pattern

MOST_ROWS, MOST_INDENT = 300, 8
_KEPT = 32
_AMOUNT = "amount"
"""The unit of all rows that have records: where they divide each other none is left."""


@dataclass(frozen=True, slots=True, eq=False)
class LaidOutMembers(HierarchyMembers):
    """The rows of a layout, in the order in which they stand; what belongs to none comes last."""

    base: HierarchyMembers = field(kw_only=True)
    """The members of which the rows are made."""
    layout: FinancialLayout = field(kw_only=True)

    def row(self, code: int) -> LayoutRow | None:
        """The row of a code; None for what belongs to no row."""
        return self.layout.rows[code] if code < len(self.layout.rows) else None

    def base_paths(self, codes: np.ndarray) -> tuple[MemberPath, ...]:
        """The members, at the last level of their hierarchy, whose records some rows have together."""
        chosen = np.zeros(len(self.levels[0]), np.bool_)
        chosen[codes] = True
        last = len(self.base.levels) - 1
        held = self.base.codes_in(self.rows_of(chosen, 0), last)
        return tuple(self.base.path_of(last, each) for each in held.tolist())

    def rows_by_base(self) -> tuple[np.ndarray, np.ndarray]:
        """Which rows hold each of the members at the last level: of member m `codes[starts[m]:starts[m + 1]]`.

        `starts` is `(n_members + 1,) int64`, `codes` int32.
        """
        assert self.spread is not None
        last = len(self.base.levels) - 1
        by_row, starts = self.base.code_by_row[last], self.spread.starts
        member = np.repeat(by_row, np.diff(starts))
        pairs = np.unique(np.column_stack([member, self.spread.codes]), axis=0)
        counts = np.bincount(pairs[:, 0], minlength=len(self.base.levels[last]))
        return np.append(0, np.cumsum(counts)), pairs[:, 1].astype(np.int32)


@lru_cache(_KEPT)
def laid_out(base: HierarchyMembers, hierarchy: Hierarchy) -> LaidOutMembers:
    """The rows of a hierarchy's layout over the members of which they are made. A member that is gone adds nothing."""
    layout = hierarchy.layout
    assert layout is not None
    rows = {each.name: each for each in layout.rows}
    own_keys = _own_keys(base) if any(each.ranges for each in layout.rows) else []

    @cache
    def held(name: str) -> np.ndarray:
        row = rows[name]
        if row.kind == "members":
            mask = base.row_mask(row.members)
            for wanted in row.ranges:
                mask[[at for at, key in enumerate(own_keys) if _lies_in(key, wanted)]] = True
            return mask
        mask = np.zeros(len(base.code_by_row[0]), np.bool_)
        for each in rows_under(layout, name) if row.kind == "formula" else ():
            mask = mask | held(each)
        return mask

    caption = hierarchy.caption or hierarchy.name
    found = build_list(
        base.dimension, hierarchy.name, caption, [(each.name, each.caption, held(each.name)) for each in layout.rows],
        len(base.code_by_row[0]) - 2, f"not in {caption}",
    )  # fmt: skip
    return LaidOutMembers(
        found.dimension, found.hierarchy, found.levels, found.code_by_row, found.spread, base=base, layout=layout
    )


def _own_keys(base: HierarchyMembers) -> list[Key]:
    """Each dimension row's own key: that of the lowest level at which it has one."""
    found: list[Key] = [None] * (len(base.code_by_row[0]) - 2)
    for level, codes in zip(base.levels, base.code_by_row, strict=True):
        for at, code in enumerate(codes[:-2].tolist()):
            key = level.keys[code]
            found[at] = key if key is not None else found[at]
    return found


def _lies_in(key: Key, wanted: KeyRange) -> bool:
    ranks = [rank_of_key(each) for each in (wanted.first, key, wanted.last)]
    return key is not None and len({each[0] for each in ranks}) == 1 and ranks[0] <= ranks[1] <= ranks[2]


def layout_of(members: HierarchyMembers) -> FinancialLayout | None:
    """The layout whose rows some members are; None for others."""
    return members.layout if isinstance(members, LaidOutMembers) else None


def base_of_row(name: str) -> Base:
    """What a formula over rows stands on: the value of a row with records, as it stands in the table."""
    return Base(Counted("rows"), BaseAggregate("sum", name))


def formula_of_row(layout: FinancialLayout, name: str) -> Formula:
    """What a row of a formula is worked out from: the values of rows that have records, by `base_of_row`."""
    return worked_out(MeasureOf(measure=name), rows_as_measures(layout), _of_leaf)


def _of_leaf(leaf: Leaf) -> Formula:
    return base_of_row(leaf.measure.name)


def rows_under(layout: FinancialLayout, name: str, inside: tuple[str, ...] = ()) -> Iterator[str]:
    """The rows with records that a formula stands on; of one that goes in a circle those outside of it."""
    row = next((each for each in layout.rows if each.name == name), None)
    if row is None or name in inside or row.kind not in ("members", "formula"):
        return
    if row.kind == "members":
        yield name
    elif row.formula is not None:
        for each in measures_named(row.formula):
            yield from rows_under(layout, each, (*inside, name))


@lru_cache(_KEPT)
def rows_as_measures(layout: FinancialLayout) -> SemanticModel:
    """The rows with figures as measures of a small model of their own: formulas over rows are read, checked and worked
    out as others are."""
    measures = []
    for each in layout.rows:
        own = Measure(name=each.name, caption=each.caption, table="rows", aggregate="sum", unit=_AMOUNT)
        if each.kind == "members":
            measures.append(replace(own, expression=each.name))
        elif each.kind == "formula" and each.formula is not None:
            formula = Negative(of=each.formula) if each.is_turned else each.formula
            measures.append(replace(own, aggregate="formula", formula=formula))
    bare = SemanticModel(
        dastan="model/1", name="rows", caption="this layout", tables={"rows": Table()}, dimensions=(),
        measures=tuple(measures),
    )  # fmt: skip
    # A formula has the unit that follows from those that it is of, one after another.
    for _ in measures:
        units = tuple(_unit(each, bare) for each in bare.measures)
        if units == tuple(each.unit for each in bare.measures):
            break
        bare = replace(
            bare, measures=tuple(replace(each, unit=unit) for each, unit in zip(bare.measures, units, strict=True))
        )
    return bare


def _unit(measure: Measure, model: SemanticModel) -> str:
    if measure.formula is None:
        return measure.unit
    try:
        return unit_of_expression(measure.formula, model).text
    except ExpressionError:
        return measure.unit


def pattern_of_row(layout: FinancialLayout, row: LayoutRow) -> str | None:
    """How a row's numbers are written where it is not as the measure says: a share of other rows in per cent."""
    if row.format is not None or row.kind != "formula" or row.formula is None:
        return row.format
    own = next(each for each in rows_as_measures(layout).measures if each.name == row.name)
    return "0.0 %" if own.unit == PLAIN.text else None


def favour_of_row(layout: FinancialLayout, row: LayoutRow, inside: tuple[str, ...] = ()) -> int:
    """Whether more of a row is what more of the measure is: 1; the opposite: -1; neither: 0.

    A cost that is shown above zero, its sign turned, is one of which less is better; what it is taken from is not.
    """
    own = -1 if row.is_turned else 1
    if row.kind == "members":
        return own
    if row.formula is None or row.name in inside:
        return 0
    rows = {each.name: each for each in layout.rows}

    def of(part: Expression) -> set[int]:
        match part:
            case MeasureOf(measure=name) if name in rows:
                return {favour_of_row(layout, rows[name], (*inside, row.name))}
            case Negative(of=inner):
                return {-each for each in of(inner)}
            case Arithmetic(operator="+", left=left, right=right):
                return of(left) | of(right)
            case Arithmetic(operator="-", left=left, right=right):
                return of(left) | {-each for each in of(right)}
            case Arithmetic(operator="*" | "/", left=left, right=NumberOf()):
                return of(left)
            case Arithmetic(operator="*", left=NumberOf(), right=right):
                return of(right)
            case _:
                return {0}

    found = of(row.formula)
    return own * found.pop() if len(found) == 1 else 0


def rows_counted_twice(members: LaidOutMembers) -> Iterator[tuple[LayoutRow, LayoutRow, LayoutRow]]:
    """Each formula that adds up two rows which have members in common, with these two: their records count twice in it.

    Taking a part from its whole is no such case. Of one formula the first two are told, and of those that are of such a
    formula nothing.
    """
    layout = members.layout
    held = {row.name: members.rows_of(np.arange(len(members.levels[0])) == at, 0) for at, row in enumerate(layout.rows)}
    rows = {each.name: each for each in layout.rows}
    told: set[str] = set()
    for row in layout.rows:
        if row.kind != "formula" or row.formula is None or told & set(rows_inside(layout, row.name)):
            continue
        added = _added(layout, row.formula, -1 if row.is_turned else 1)
        for at, (one, sign) in enumerate(added):
            twice = next(
                (name for name, own in added[at + 1 :] if own == sign and (held[one] & held[name]).any()), None
            )
            if twice is not None:
                told.add(row.name)
                yield row, rows[one], rows[twice]
                break


def rows_inside(layout: FinancialLayout, name: str) -> Iterator[str]:
    """The rows of formulas that one stands on, however deep."""
    row = next((each for each in layout.rows if each.name == name), None)
    for each in measures_named(row.formula) if row is not None and row.formula is not None else ():
        if any(one.name == each and one.kind == "formula" for one in layout.rows):
            yield each
            yield from rows_inside(layout, each)


def _added(layout: FinancialLayout, part: Expression, sign: int) -> list[tuple[str, int]]:
    """The rows with records that are added up in a formula, each with the sign by which its records count."""
    rows = {each.name: each for each in layout.rows}
    match part:
        case MeasureOf(measure=name) if name in rows:
            own = sign * (-1 if rows[name].is_turned else 1)
            inner = rows[name].formula
            return [(name, own)] if inner is None else _added(layout, inner, own)
        case Negative(of=inner):
            return _added(layout, inner, -sign)
        case Arithmetic(operator="+" | "-", left=left, right=right):
            return [
                *_added(layout, left, sign), *_added(layout, right, sign if part.operator == "+" else -sign),
            ]  # fmt: skip
        case _:
            return []


@dataclass(frozen=True, slots=True)
class LayoutFault:
    """What is wrong with a layout: in which of its rows (by place, None for the whole), with which field, and what to
    do."""

    row: int | None
    field: str
    message: str
    hint: str


def layout_faults(layout: FinancialLayout) -> Iterator[LayoutFault]:
    """Everything in a layout that makes no sense by itself, whatever the data."""
    if not any(each.kind in ("members", "formula") for each in layout.rows):
        yield LayoutFault(None, "rows", "The layout has no row with figures.", "Add a row of members.")
    if len(layout.rows) > MOST_ROWS:
        yield LayoutFault(None, "rows", f"A layout has at most {MOST_ROWS} rows.", "Part it into two.")
        return
    names: set[str] = set()
    captions: set[str] = set()
    for at, each in enumerate(layout.rows):
        if not each.name or each.name in names:
            yield LayoutFault(at, "name", f"The name “{each.name}” is taken already.", "Give each row one of its own.")
        names.add(each.name)
        yield from _row_faults(at, each, layout, captions)


def _row_faults(at: int, row: LayoutRow, layout: FinancialLayout, captions: set[str]) -> Iterator[LayoutFault]:
    if row.kind == "blank":
        return
    if not row.caption.strip():
        yield LayoutFault(at, "caption", "A row has no name.", "Give it one.")
    elif row.kind in ("members", "formula"):
        if fold(row.caption) in captions:
            yield LayoutFault(at, "caption", f"Two rows are called “{row.caption}”.", "Give one another name.")
        captions.add(fold(row.caption))
    if not 0 <= row.indent <= MOST_INDENT:
        yield LayoutFault(at, "indent", f"A row stands in by 0 to {MOST_INDENT} steps.", "Take one of these.")
    if row.format is not None and not is_number_pattern(row.format):
        yield LayoutFault(at, "format", f"“{row.format}” is not a number pattern.", "Use one such as #,##0.00.")
    if row.kind == "members":
        if not row.members and not row.ranges:
            yield LayoutFault(at, "members", f"“{row.caption}” has no members.", "Choose one or several.")
        if any(joint_named(each) is not None for each in row.members):
            message = f"“{row.caption}” names a joint member."
            yield LayoutFault(at, "members", message, "Name the members that it joins.")
        for each in row.ranges:
            low, high = rank_of_key(each.first), rank_of_key(each.last)
            if None in (each.first, each.last) or low[0] != high[0] or low > high:
                message = f"“{each.first}” to “{each.last}” is no range."
                yield LayoutFault(at, "ranges", message, "Give its first and its last key, the lower one first.")
    if row.kind == "formula":
        yield from _formula_faults(at, row, layout)


def _formula_faults(at: int, row: LayoutRow, layout: FinancialLayout) -> Iterator[LayoutFault]:
    if row.formula is None:
        yield LayoutFault(at, "formula", f"“{row.caption}” has no formula.", "Write one of other rows.")
        return
    model = rows_as_measures(layout)
    if not measures_named(row.formula):
        yield LayoutFault(at, "formula", f"“{row.caption}” is of no other row.", "Name one.")
        return
    for name in measures_named(row.formula):
        if not any(each.name == name for each in model.measures):
            hint = did_you_mean(name, (each.name for each in model.measures))
            yield LayoutFault(at, "formula", f"“{row.caption}” is of “{name}”, which is no row with figures.", hint)
            return
    try:
        check_expression(row.formula, model, row.name)
    except ExpressionError as error:
        yield LayoutFault(at, "formula", error.message, error.hint)
