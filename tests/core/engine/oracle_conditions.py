"""The oracle's reading of conditions and rights: predicates over one fact, asked of SQLite where they compare."""

from __future__ import annotations

import sqlite3
from datetime import date
from fractions import Fraction

from dastan.core.analysis.document import Analysis, AxisName, PlacedMeasure
from dastan.core.model.conditions import (
    AttributeFilter,
    Condition,
    FilterGroup,
    KeyFilter,
    LevelName,
    MeasureFilter,
    MemberFilter,
    PeriodFilter,
    PromptRef,
    ReadyFilter,
)
from dastan.core.model.parts import Key, MemberPath
from tests.core.engine import oracle_sql as sql
from tests.core.engine.oracle_sql import COLUMN, DIMENSION_OF, LEVELS, MEASURES, REACHED

Header = tuple[tuple[str, MemberPath], ...]
AXES: tuple[AxisName, AxisName] = ("rows", "columns")
OTHERS = "others"


def dimension(hierarchy: str) -> str:
    return DIMENSION_OF.get(hierarchy, hierarchy)


def is_others(path: MemberPath) -> bool:
    return bool(path) and path[0] == OTHERS


class Conditions:
    """What one reader's document asks of the records of a fact."""

    connection: sqlite3.Connection
    document: Analysis
    today: date
    roles: tuple[str, ...]
    facts: list[tuple[str, str]]
    _fulfilled: dict[MeasureFilter, str]
    _fulfilled_in: Analysis | None = None

    def _query(self, text: str) -> list[tuple]:  # type: ignore[type-arg]
        return self.connection.execute(text).fetchall()

    def _filters(self, fact: str, only: str = "", rights: bool = True, measured: bool = True) -> str:
        """The filters that reach a fact, and the reader's rights; the others leave it alone."""
        parts = []
        for each in self.document.question.filters if measured else self.plain:
            dimensions = self._dimensions(each)
            if dimensions <= REACHED[fact] and (not only or dimensions == {only}):
                found = self._condition(each, fact)
                if found is not None:
                    parts.append(found)
        if rights and self.roles:
            parts.append(self._rights(fact))
        return " AND ".join(parts) or "1"

    def _rights(self, fact: str) -> str:
        """What the reader's roles let be seen of a fact."""
        allowed = []
        for role in self.roles:
            name, condition, elsewhere = sql.ROLES[role]
            if name in REACHED[fact]:
                allowed.append(f"({condition})")
            elif elsewhere == "everything":
                allowed.append("(1)")
        return sql.joined(allowed, "OR", "(0)")

    def _dimensions(self, condition: Condition) -> set[str]:
        match condition:
            case FilterGroup(parts=parts):
                return {name for each in parts for name in self._dimensions(each)}
            case MeasureFilter(at=at):
                return {each.dimension for each in at}
            case ReadyFilter(name=name):
                return sql.FILTER_DIMENSIONS[name]
            case _:
                return {condition.dimension}  # type: ignore[union-attr]

    def _condition(self, condition: Condition, fact: str) -> str | None:
        found = self._kept_by(condition, fact)
        if found is not None and condition.action == "leave_out":
            return f"(NOT {found})"
        return found

    def _kept_by(self, condition: Condition, fact: str) -> str | None:
        match condition:
            case MemberFilter(hierarchy=hierarchy, members=members, level=level):
                below = sql.joined(
                    [sql.path_predicate(hierarchy, each) for each in members], "OR", "1" if level else "(0)"
                )
                return f"({below} AND {COLUMN[level]} IS NOT NULL)" if level else below
            case AttributeFilter(attribute=attribute, operator=operator, values=values):
                filled = [key for each in values for key in self._answered(each)]
                return sql.compared(COLUMN[attribute], operator, filled)
            case PeriodFilter():
                anchor = self.today if condition.anchor == "today" else self._newest()
                days = [day for (day,) in self.query("SELECT day FROM days")]
                found = (
                    []
                    if anchor is None
                    else sql.days_in_period(
                        condition.unit, condition.first, condition.last, condition.to_date, anchor, days
                    )
                )
                return f"(days.day IS NOT NULL AND days.day IN ({', '.join(map(sql.literal, found))}))"
            case KeyFilter(dimension=name, state=state):
                pointer, key = sql.POINTER[fact][name], sql.KEY_OF[name]
                if fact == "open" and name == "calendar":
                    return "(days.day IS NULL)"  # no day belongs nowhere, and the calendar never chooses records
                return f"({pointer} IS NULL)" if state == "left_blank" else f"({pointer} IS NOT NULL AND {key} IS NULL)"
            case MeasureFilter():
                return self._fulfilling(condition)
            case ReadyFilter(name="busy"):
                level = LevelName(dimension="line", hierarchy="line", level="team")
                return self._fulfilling(MeasureFilter(measure="taps", at=(level,), operator="more", values=(2.37,)))
            case ReadyFilter(name=name):
                return f"({sql.filter_text(name)})"
            case FilterGroup(join=join, parts=parts):
                texts = [text for each in parts if (text := self._condition(each, fact)) is not None]
                return sql.joined(texts, "AND" if join == "all" else "OR", "1") if texts else None

    def _answered(self, value: Key | PromptRef) -> tuple[Key, ...]:
        if not isinstance(value, PromptRef):
            return (value,)
        given = [each.values for each in self.document.question.answers if each.prompt == value.prompt]
        return given[0] if given else (1,)

    def _newest(self) -> date | None:
        found = []
        for fact, _ in self.facts:
            table = sql.FACTS[fact].split()[0]
            text = f"SELECT MAX({sql.POINTER[fact]['calendar']}) FROM {table}"
            if self.roles:
                dated = "from" if fact == "open" else fact
                text = f"SELECT MAX(days.day) FROM {sql.FACTS[dated]} WHERE {self._rights(fact)}"
            found.append(self.query(text)[0][0])
        latest = max((each for each in found if each is not None), default=None)
        return date.fromisoformat(latest) if latest else None

    def _fulfilling(self, condition: MeasureFilter) -> str:
        """The members at the condition's grain whose value, under all other filters, fulfils it. Asked for each cell,
        and the same in all cells of a document."""
        if self._fulfilled_in is not self.document:
            self._fulfilled_in, self._fulfilled = self.document, {}
        if condition not in self._fulfilled:
            self._fulfilled[condition] = self._looked_for(condition)
        return self._fulfilled[condition]

    def _looked_for(self, condition: MeasureFilter) -> str:
        fact, where, kind, argument, scale = MEASURES[condition.measure]
        filters = self._filters(fact, measured=False)
        at = [(each.hierarchy, LEVELS[each.hierarchy].index(each.level) + 1) for each in condition.at]
        others = sql.among(PlacedMeasure(measure=condition.measure))
        of_any = where if others is None else others
        source = f"FROM {sql.facts(fact)} WHERE {of_any} AND {filters}"
        condition_text = f"{where} AND {filters}"
        kept = []
        for group in self._groups(at, source):
            scope = " AND ".join(sql.path_predicate(*each) for each in group)
            values = []
            inner: list[Header] = [()]
            if condition.per is not None:
                depth = LEVELS[condition.per.hierarchy].index(condition.per.level) + 1
                inner = self._groups([(condition.per.hierarchy, depth)], f"{source} AND {scope}")
            for each in inner:
                more = " AND ".join(sql.path_predicate(*one) for one in each) or "1"
                rows = self.query(sql.values_of(fact, argument, f"{condition_text} AND {scope} AND {more}", "NULL"))
                value = sql.aggregate(kind, rows, scale)
                value = 0 if value is None and others is not None else value
                if value is not None:
                    values.append(Fraction(value))
            if values and _fulfils(sum(values) / len(values), condition.operator, condition.values):
                kept.append(f"({scope})")
        return sql.joined(kept, "OR", "(0)")

    def _groups(self, at: list[tuple[str, int]], source: str) -> list[Header]:
        """The combinations of members that have records."""
        columns = [sql.column(hierarchy, level) for hierarchy, depth in at for level in LEVELS[hierarchy][:depth]]
        found = []
        for row in self.query(f"SELECT DISTINCT {', '.join(columns)} {source}"):
            keys = list(row)
            found.append(tuple((hierarchy, tuple(keys.pop(0) for _ in range(depth))) for hierarchy, depth in at))
        return found


def _fulfils(value: Fraction, operator: str, wanted: tuple[object, ...]) -> bool:
    first, last = Fraction(str(wanted[0])), Fraction(str(wanted[-1]))
    return {
        "less": value < first, "at_most": value <= first, "more": value > first, "at_least": value >= first,
        "between": first <= value <= last, "equal": value == first, "not_equal": value != first,
    }[operator]  # fmt: skip


def is_measured(condition: Condition) -> bool:
    if isinstance(condition, FilterGroup):
        return any(is_measured(each) for each in condition.parts)
    return isinstance(condition, MeasureFilter) or (isinstance(condition, ReadyFilter) and condition.name == "busy")
