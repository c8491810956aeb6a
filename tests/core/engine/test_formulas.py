"""Formulas in random analyses, against SQLite: each measure asked by itself, slices by a predicate of their own, and
everything that is made of them worked out in plain Python."""

from __future__ import annotations

import random
from dataclasses import replace
from decimal import Decimal
from fractions import Fraction
from math import floor
from typing import NamedTuple

import pytest
from hypothesis import HealthCheck, Phase, given, seed, settings
from hypothesis import strategies as st

from dastan.core.analysis.document import AXES, Analysis, MadeMeasure, PlacedDimension, PlacedMeasure
from dastan.core.analysis.formula_words import aloud
from dastan.core.analysis.made import with_made
from dastan.core.analysis.views import Rank, RunningTotal, Share
from dastan.core.engine.answer import answer
from dastan.core.engine.cache import GroupCache
from dastan.core.engine.rights import rights_of_roles
from dastan.core.errors import FormulaError, InputError, LimitError
from dastan.core.language.reading import read_formula
from dastan.core.language.writing import write_formula
from dastan.core.model.conditions import LevelName, MemberFilter
from dastan.core.model.expression import (
    Arithmetic,
    Before,
    Branch,
    Brought,
    Call,
    Case,
    Comparison,
    Expression,
    IsNull,
    Logic,
    MeasureOf,
    Negative,
    NumberOf,
    Only,
    Opposite,
    Over,
    Runs,
    StandsAt,
    UpToDate,
    all_parts,
    measures_named,
    parts_of_expression,
)
from dastan.core.words.vocabulary import Vocabulary
from tests.core.engine import oracle_sql as sql
from tests.core.engine.examples import EXAMPLES, IS_FUZZING
from tests.core.engine.oracle_conditions import Header, dimension, is_others
from tests.core.engine.oracle_sql import LEVELS, MEASURES, RATIOS, REACHED
from tests.core.engine.oracle_views import DAYS, UNSURE, Viewing, rows_of
from tests.core.engine.random_model import source_of
from tests.core.engine.test_oracle import analyses, cells, headers, roles_of_reader
from tests.core.engine.test_views import REFUSED, _is_told_by_records
from tests.core.star import TODAY

EXACT = ["boardings", "revenue", "taps", "worth", "debit", "repairs", "repair_cost", "tram_boardings", "cards"]
ANY = [*EXACT, "delay_average", "fare_each", "cost_each", "delays", "arrivals"]
ADDED = ["boardings", "revenue", "taps", "repairs", "repair_cost"]
TO_DATE = [*ADDED, "worth", "tram_boardings", "fare_each", "cost_each", "boardings_most"]
SLICES = [("line", ("tram",)), ("line", ("bus", 1)), ("fare", ("a",)), ("calendar", (2024,)), ("area", ("east",))]
Number = int | Fraction | float | None


def slices(measure: str) -> list[tuple[str, tuple]]:
    facts = [MEASURES[each][0] for each in RATIOS.get(measure, (measure,))]
    return [each for each in SLICES if all(dimension(each[0]) in REACHED[fact] for fact in facts)]


class SomeBefore(NamedTuple):
    """As the views' oracle takes a change that shows what was earlier, several periods or years before."""

    on: str
    dimension: str
    count: int
    shows: str = "earlier"


@st.composite
def numbers(draw: st.DrawFn, depth: int, elsewhere: str, known: list[str]) -> Expression:
    """An expression of numbers: of exact ones alone, where `known` are exact measures."""
    kinds = ["measure", "measure", "only", elsewhere, "brought"]
    if depth:
        kinds += ["arithmetic", "arithmetic", "call", "case", "negative"]
    match draw(st.sampled_from(kinds)):
        case "only" | "everywhere" as kind:
            measure = draw(st.sampled_from([each for each in known if slices(each)]))
            hierarchy, path = draw(st.sampled_from(slices(measure)))
            action = draw(st.sampled_from(["keep", "keep", "leave_out"]))
            kept = MemberFilter(dimension=dimension(hierarchy), hierarchy=hierarchy, members=(path,), action=action)
            return Only(of=MeasureOf(measure=measure), conditions=(kept,), everywhere=kind == "everywhere")
        case "over":
            measure = MeasureOf(measure=draw(st.sampled_from(known)))
            reach = draw(st.sampled_from(["dimension", "dimension", "whole", "row", "column", "parent"]))
            name = draw(st.sampled_from(["line", "fare", "calendar"])) if reach == "dimension" else None
            return Over(of=measure, reach=reach, dimension=name)
        case "before":
            measure = MeasureOf(measure=draw(st.sampled_from(known)))
            if measure.measure in TO_DATE and draw(st.booleans()):
                level = draw(st.sampled_from(["year", "month"]))
                return UpToDate(of=measure, level=LevelName(dimension="calendar", hierarchy="calendar", level=level))
            by, count = draw(st.sampled_from(["year", "period"])), draw(st.sampled_from([1, 1, 2, 3]))
            return Before(of=measure, by=by, dimension="calendar", count=count)
        case "brought":
            hierarchy = draw(st.sampled_from(["line", "calendar"]))
            level = LevelName(
                dimension=hierarchy, hierarchy=hierarchy, level=draw(st.sampled_from(LEVELS[hierarchy][:2]))
            )
            how = draw(st.sampled_from(["sum", "count", "least", "greatest", *(["average"] if known == ANY else [])]))
            inner = draw(numbers(0, "measure", known)) if depth else MeasureOf(measure=draw(st.sampled_from(known)))
            if any(isinstance(each, Brought) for each in all_parts(inner)):
                inner = MeasureOf(measure=draw(st.sampled_from(known)))
            return Brought(of=inner, how=how, level=level)
        case "arithmetic":
            operator = draw(st.sampled_from(["+", "-", "*", *(["/"] if known == ANY else [])]))
            left = draw(numbers(depth - 1, elsewhere, known))
            right = draw(st.one_of(numbers(depth - 1, elsewhere, known), digits()))
            return Arithmetic(operator=operator, left=left, right=right)
        case "negative":
            return Negative(of=draw(numbers(depth - 1, elsewhere, known)))
        case "call":
            of = draw(numbers(depth - 1, elsewhere, EXACT))
            other = draw(st.one_of(numbers(depth - 1, elsewhere, EXACT), digits()))
            match draw(
                st.sampled_from(["abs", "round", "floor", "ceiling", "coalesce", "nullif", "least", "greatest"])
            ):
                case "round":
                    places = draw(st.sampled_from([(), (NumberOf(digits="1"),), (Negative(of=NumberOf(digits="1")),)]))
                    return Call(function="round", of=(of, *places))
                case "abs" | "floor" | "ceiling" as function:
                    return Call(function=function, of=(of,))
                case function:
                    return Call(function=function, of=(of, other))
        case "case":
            branch = Branch(when=draw(truths(depth - 1, elsewhere)), then=draw(numbers(depth - 1, elsewhere, known)))
            otherwise = draw(st.one_of(st.none(), digits(), numbers(0, elsewhere, known)))
            return Case(branches=(branch,), otherwise=otherwise)
        case _:
            return MeasureOf(measure=draw(st.sampled_from(known)))


@st.composite
def digits(draw: st.DrawFn) -> Expression:
    return NumberOf(digits=draw(st.sampled_from(["0", "1", "2", "7", "0.5", "12.25"])))


@st.composite
def truths(draw: st.DrawFn, depth: int, elsewhere: str) -> Expression:
    if depth > 0 and draw(st.booleans()):
        some = tuple(draw(truths(depth - 1, elsewhere)) for _ in range(2))
        return draw(st.sampled_from([Logic(join="and", of=some), Logic(join="or", of=some), Opposite(of=some[0])]))
    if draw(st.integers(0, 4)) == 0:
        hierarchy = draw(st.sampled_from(["line", "area", "fare", "calendar"]))
        level = LevelName(
            dimension=dimension(hierarchy), hierarchy=hierarchy, level=draw(st.sampled_from(LEVELS[hierarchy]))
        )
        return StandsAt(level=level, or_below=draw(st.booleans()))
    own = draw(numbers(0, elsewhere, EXACT))
    if draw(st.integers(0, 3)) == 0:
        return IsNull(of=own)
    operator = draw(st.sampled_from(["=", "<>", "<", "<=", ">", ">="]))
    return Comparison(operator=operator, left=own, right=draw(st.one_of(digits(), numbers(0, elsewhere, EXACT))))


@st.composite
def runs(draw: st.DrawFn) -> Expression:
    how = draw(st.sampled_from(["running", "rank"]))
    of = MeasureOf(measure=draw(st.sampled_from(ADDED)))
    return Runs(of=of, how=how, along=draw(st.sampled_from(["rows", "columns"])), restarts=draw(st.booleans()))


@st.composite
def made(draw: st.DrawFn) -> Analysis:
    """A random analysis with one or two made measures beside a plain one."""
    document = draw(analyses())
    elsewhere = draw(st.sampled_from(["over", "before", "everywhere", "measure", "measure"]))
    question = document.question
    if elsewhere == "before" and not any(each.dimension == "calendar" for each in (*question.rows, *question.columns)):
        own = PlacedDimension(
            dimension="calendar", hierarchy="calendar", level=draw(st.sampled_from(LEVELS["calendar"]))
        )
        question = replace(question, columns=(*question.columns[:1], own))
    chosen = []
    for number in range(draw(st.integers(1, 2))):
        known = draw(st.sampled_from([EXACT, ANY]))
        formula = draw(runs()) if elsewhere == "measure" and draw(st.integers(0, 4)) == 0 else None
        formula = formula or draw(numbers(draw(st.integers(0, 2)), elsewhere, known))
        if not measures_named(formula):
            formula = MeasureOf(measure="taps")
        chosen.append(MadeMeasure(name=f"made_{number}", caption=f"Made {number}", formula=formula))
    axes = {
        axis: tuple(
            replace(each, order=type(each.order)(), only_under=None, totals=None) for each in question.axis(axis)
        )
        for axis in AXES
    }
    if elsewhere in ("before", "everywhere", "over"):
        axes = {axis: tuple(replace(each, limits=()) for each in placed) for axis, placed in axes.items()}
    if elsewhere == "before":
        question = replace(question, filters=tuple(each for each in question.filters if _is_told_by_records(each)))
    question = replace(
        question, measures=(PlacedMeasure(measure="taps"), *(PlacedMeasure(measure=each.name) for each in chosen)),
        rows=axes["rows"], columns=axes["columns"], totals_of_one="shown", empty_rows="shown", empty_columns="shown",
        row_total="after", column_total="after",
    )  # fmt: skip
    return replace(document, question=question, made=tuple(chosen))


def sliced(measure: str, predicate: str) -> str:
    """A measure of the oracle's that counts such records alone."""
    name = f"{measure} where {predicate}"
    if measure in RATIOS:
        RATIOS.setdefault(name, tuple(sliced(each, predicate) for each in RATIOS[measure]))
    else:
        fact, where, *rest = MEASURES[measure]
        MEASURES.setdefault(name, (fact, f"{where} AND {predicate}", *rest))
        if measure in sql.AMONG:
            sql.AMONG.setdefault(name, f"{sql.AMONG[measure]} AND {predicate}")
    return name


def predicate_of(condition: MemberFilter) -> str:
    found = sql.path_predicate(condition.hierarchy, condition.members[0])
    return found if condition.action == "keep" else f"(NOT {found})"


class Making:
    """What made measures come to in the cells of one document."""

    def __init__(self, rows: dict, document: Analysis, roles: tuple[str, ...]) -> None:
        bases = ["taps"]
        for each in document.made:
            for part in all_parts(each.formula):
                bases += [self._sliced_as_told(part)] if isinstance(part, Only) else []
            bases += bare_measures(each.formula)
        measures = tuple(PlacedMeasure(measure=each) for each in dict.fromkeys(bases))
        plain = replace(document, made=(), question=replace(document.question, measures=measures))
        self.viewing = Viewing(rows, plain, roles)
        self.oracle = self.viewing.oracle
        self.document = document

    def _sliced_as_told(self, part: Only) -> str:
        assert isinstance(part.of, MeasureOf)
        return part.of.measure if part.everywhere else sliced(part.of.measure, predicate_of(part.conditions[0]))

    def number(self, part: Expression, row: Header, column: Header, under: str = "") -> Number:
        """A part's value. Args: `under` is a predicate that holds around it."""
        match part:
            case NumberOf():
                return Fraction(part.digits)
            case MeasureOf():
                return self._plain(sliced(part.measure, under) if under else part.measure, row, column)
            case Negative():
                own = self.number(part.of, row, column, under)
                return None if own is None else -own
            case Arithmetic():
                return self._arithmetic(part, row, column, under)
            case Call():
                return called(part, [self.number(each, row, column, under) for each in part.of])
            case Case():
                for branch in part.branches:
                    if self.truth(branch.when, row, column, under):
                        return self.number(branch.then, row, column, under)
                return None if part.otherwise is None else self.number(part.otherwise, row, column, under)
            case Only():
                condition = part.conditions[0]
                if part.everywhere:
                    return self._outside(part.of.measure, {condition.dimension}, predicate_of(condition), row, column)
                both = [each for each in (under, predicate_of(condition)) if each]
                return self._plain(sliced(part.of.measure, " AND ".join(both)), row, column)
            case Over(reach="dimension"):
                return self._outside(part.of.measure, {part.dimension}, "", row, column)
            case Over() if not self._is_reached(part.of.measure, row, column):
                return None  # never repeated on members that do not reach its records
            case Over():
                return exact(
                    self.viewing._above(Share(of=part.reach), PlacedMeasure(measure=part.of.measure), row, column)
                )
            case Before():
                view = SomeBefore(part.by, part.dimension, part.count)
                return exact(self.viewing._elsewhere(view, PlacedMeasure(measure=part.of.measure), row, column))
            case UpToDate():
                return self._to_date(part.of.measure, part.level.level, row, column)
            case Brought():
                return self._brought(part, row, column, under)
            case Runs():
                kind = RunningTotal if part.how == "running" else Rank
                view = kind(along=part.along, restarts=part.restarts)
                return exact(self.viewing._along(view, PlacedMeasure(measure=part.of.measure), row, column))
            case _:
                raise AssertionError(part)

    def _is_reached(self, measure: str, row: Header, column: Header) -> bool:
        facts = [MEASURES[each][0] for each in RATIOS.get(measure, (measure,))]
        return all(dimension(each[0]) in REACHED[fact] for each in (*row, *column) for fact in facts)

    def truth(self, part: Expression, row: Header, column: Header, under: str) -> bool | None:
        match part:
            case Comparison():
                own, other = (self.number(each, row, column, under) for each in (part.left, part.right))
                if own is None or other is None:
                    return None
                return {
                    "=": own == other, "<>": own != other, "<": own < other, "<=": own <= other, ">": own > other,
                    ">=": own >= other,
                }[part.operator]  # fmt: skip
            case Logic():
                found = [self.truth(each, row, column, under) for each in part.of]
                stops = part.join == "or"
                return stops if stops in found else None if None in found else not stops
            case Opposite():
                own = self.truth(part.of, row, column, under)
                return None if own is None else not own
            case IsNull():
                return self.number(part.of, row, column, under) is None
            case StandsAt(level=level):
                for hierarchy, path in (*row, *column):
                    if dimension(hierarchy) == level.dimension and level.level in LEVELS[hierarchy]:
                        depth, wanted = (
                            path[1] if is_others(path) else len(path) - 1,
                            LEVELS[hierarchy].index(level.level),
                        )
                        if depth == wanted or (part.or_below and depth > wanted):
                            return True
                return False
            case _:
                raise AssertionError(part)

    def _arithmetic(self, part: Arithmetic, row: Header, column: Header, under: str) -> Number:
        own, other = (self.number(each, row, column, under) for each in (part.left, part.right))
        is_written = [not measures_named(each) for each in (part.left, part.right)]
        if part.operator in "+-":
            for each in befores(part):
                view = SomeBefore(each.by, each.dimension, each.count)
                for measure in self.oracle._parts(PlacedMeasure(measure=each.of.measure)):
                    if not self.viewing._is_known(view, PlacedMeasure(measure=measure), row, column):
                        return None
            if is_written[0] and not is_written[1] and other is None:
                return None
            if is_written[1] and not is_written[0] and own is None:
                return None
            if own is None or other is None:
                left = own if other is None else (other if part.operator == "+" else -other)
                return left
            return own + other if part.operator == "+" else own - other
        if own is None or other is None:
            return None
        if part.operator == "*":
            return own * other
        return None if not other else float(Fraction(own) / Fraction(other))

    def _plain(self, measure: str, row: Header, column: Header) -> Number:
        return exact(self.oracle.value(PlacedMeasure(measure=measure), row, column))

    def _outside(self, measure: str, dimensions: set[str], predicate: str, row: Header, column: Header) -> Number:
        """Whatever the members of some dimensions; of a slice, whatever the filters on them too."""
        if measure in RATIOS:
            parts = RATIOS[measure]
            above, below = (self._outside(each, dimensions, predicate, row, column) for each in parts)
            return None if above is None or not below else float(Fraction(above) / Fraction(below))
        fact, where, kind, argument, scale = MEASURES[measure]
        question = self.oracle.document.question
        if any(dimension(each[0]) not in REACHED[fact] for each in (*row, *column)):
            return None
        if predicate:
            kept = tuple(each for each in question.filters if not self.oracle._dimensions(each) <= dimensions)
            question = replace(question, filters=kept)
        before = self.oracle.document
        self.oracle.document = replace(before, question=question)
        filters = self.oracle._filters(fact)
        self.oracle.document = before
        items = [sql.path_predicate(*each) for each in (*row, *column) if dimension(each[0]) not in dimensions]
        condition = " AND ".join([where, filters, *items, *([predicate] if predicate else [])])
        weight = "boardings" if fact == "taps" else "NULL"
        rows = self.oracle.query(f"SELECT {argument}, days.day, {weight} FROM {sql.FACTS[fact]} WHERE {condition}")
        return exact(sql.aggregate(kind, rows, scale))

    def _to_date(self, measure: str, level: str, row: Header, column: Header) -> Number:
        length = {"year": 4, "month": 7}[level]
        stands = [path for hierarchy, path in (*row, *column) if hierarchy == "calendar"]
        question = self.oracle.document.question
        if not stands and any(each.hierarchy == "calendar" for axis in AXES for each in question.axis(axis)):
            return None
        if stands and (None in stands[0] or is_others(stands[0])):
            return None
        days = self.viewing._days()
        if stands:
            year, *rest = stands[0]
            own = rest[1] if len(rest) == 2 else f"{year}-{rest[0]:02d}" if rest else f"{year}"
            days = {each for each in DAYS if each.startswith(own)}
        if len({each[:length] for each in days}) != 1:
            return None
        chosen = [each for each in DAYS if each[:length] == max(days)[:length] and each <= max(days)]
        predicate = f"days.day IN ({', '.join(map(sql.literal, chosen))})"
        return self._outside(measure, {"calendar"}, predicate, row, column)

    def _brought(self, part: Brought, row: Header, column: Header, under: str) -> Number:
        level = part.level
        columns = [
            sql.COLUMN[each] for each in LEVELS[level.hierarchy][: LEVELS[level.hierarchy].index(level.level) + 1]
        ]
        paths = set()
        for measure in measures_named(part.of):
            for one in self.oracle._parts(PlacedMeasure(measure=measure)):
                fact = MEASURES[one][0]
                paths |= set(self.oracle.query(f"SELECT DISTINCT {', '.join(columns)} FROM {sql.FACTS[fact]}"))
        values = []
        for path in paths:
            inner = " AND ".join(each for each in (under, sql.path_predicate(level.hierarchy, path)) if each)
            own = self.number(part.of, row, column, inner)
            values += [own] if own is not None else []
        if not values:
            return None
        match part.how:
            case "sum":
                return sum(values)
            case "count":
                return Fraction(len(values))
            case "least":
                return min(values)
            case "greatest":
                return max(values)
            case _:
                return float(sum(map(Fraction, values)) / len(values))


def bare_measures(formula: Expression) -> list[str]:
    """The measures that a formula names outside of slices: those in a slice count other records."""
    if isinstance(formula, Only):
        return []
    if isinstance(formula, MeasureOf):
        return [formula.measure]
    return [name for each in parts_of_expression(formula) for name in bare_measures(each)]


def befores(part: Expression) -> list[Before]:
    """The earlier values that a sum hangs on, where nothing says what an empty one stands for."""
    if isinstance(part, Before):
        return [part]
    if isinstance(part, Case | IsNull | Brought) or (
        isinstance(part, Call) and part.function in ("coalesce", "nullif")
    ):
        return []
    return [each for one in parts_of_expression(part) for each in befores(one)]


def called(part: Call, values: list[Number]) -> Number:
    own = values[0]
    if part.function == "coalesce":
        return next((each for each in values if each is not None), None)
    if own is None:
        return None
    match part.function:
        case "abs":
            return abs(own)
        case "floor":
            return Fraction(floor(own))
        case "ceiling":
            return Fraction(-floor(-own))
        case "round":
            step = (
                Fraction(1)
                if len(values) == 1
                else Fraction(1, 10 ** int(values[1]))
                if values[1] > 0
                else Fraction(10)
            )
            sign = -1 if own < 0 else 1
            return sign * floor(abs(Fraction(own)) / step + Fraction(1, 2)) * step
        case "nullif":
            return None if values[1] is not None and own == values[1] else own
        case function:
            return None if values[1] is None else (min if function == "least" else max)(values)


def exact(value: object) -> Number:
    if value is UNSURE:
        raise NotImplementedError
    return Fraction(value) if isinstance(value, int | Decimal) else value  # type: ignore[return-value]


def compare(number: int, document: Analysis, roles: tuple[str, ...]) -> None:
    rows = rows_of(number)
    source = source_of(rows)
    vocabulary = Vocabulary(with_made(source.model, document), source.members)
    for each in document.made:
        text = write_formula(each.formula, vocabulary)
        assert aloud(each.formula, vocabulary.model, vocabulary.members)
        try:
            assert read_formula(text, vocabulary, each.name).expression == each.formula, text
        except FormulaError as error:
            if "There is no" not in error.message:  # a member that the rows do not have
                raise
    rights = rights_of_roles("reader", roles, source.model, TODAY, lambda _: None)
    cache = GroupCache(source.group, source.members)
    try:
        result = answer(document, source.model, source, rights, TODAY, cache.group if number % 3 else None)
    except (InputError, LimitError) as error:
        if not any(each in error.message for each in (*REFUSED, "18 digits")):
            raise
        return
    expected = Making(rows, document, roles)
    shown = expected.viewing.expected
    assert headers(result.rows) == shown.rows
    assert headers(result.columns) == shown.columns
    found = cells(result)
    for row in shown.rows:
        for column in shown.columns:
            if not any((row, column, name) in found for name in ("taps",)):
                continue
            for each in document.made:
                try:
                    wanted = expected.number(each.formula, row, column)
                except NotImplementedError:
                    continue
                got = found[row, column, each.name]
                about = (row, column, write_formula(each.formula, vocabulary), got, wanted)
                assert (got is None) == (wanted is None), about
                if isinstance(wanted, float) or isinstance(got, float):
                    assert got is None or float(got) == pytest.approx(float(wanted), rel=1e-9, abs=1e-9), about
                else:
                    assert got is None or Fraction(got) == wanted, about


@pytest.mark.parametrize("shard", range(4))
def test_every_formula_agrees_with_sqlite(shard: int) -> None:
    @seed(random.randrange(2**32) if IS_FUZZING else shard)
    @settings(
        max_examples=EXAMPLES // 10, deadline=None, suppress_health_check=list(HealthCheck), phases=[Phase.generate]
    )
    @given(rows=st.integers(0, 2**32), document=made(), roles=roles_of_reader)
    def run(rows: int, document: Analysis, roles: tuple[str, ...]) -> None:
        compare(rows, document, roles)

    run()
