"""A whole model from what was seen of its tables, with every assumption that it rests on."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from dastan.core.model.document import (
    Assumption,
    Column,
    Dimension,
    GeneratedCalendar,
    Measure,
    Relationship,
    SemanticModel,
    Table,
)
from dastan.core.model.proposing.dimensions import (
    CALENDAR,
    calendar,
    in_role,
    of_any_column,
    of_own_columns,
    of_pointed,
)
from dastan.core.model.proposing.facts import days_of, facts_of, is_name, pointing
from dastan.core.model.proposing.levels import Nested
from dastan.core.model.proposing.measures import measures_of
from dastan.core.model.proposing.naming import name_of, without_id
from dastan.core.model.proposing.profile import ColumnProfile, Nesting, Pointer, TableProfile


def propose(
    name: str, caption: str, tables: Sequence[TableProfile], pointers: Sequence[Pointer],
    parents: Sequence[Pointer] = (), nestings: Sequence[Nesting] = (),
) -> SemanticModel:  # fmt: skip
    """The model that the tables speak for.

    Args: `pointers` are decided upon, one for a column at the most; `parents` point at the key of their own table;
        `nestings` are what was found of the columns that a level may be made of.
    """
    work = _Work(tables, pointers)
    for each in pointers:
        work.relate(each)
    work.add_calendar()
    keys = {each.to_table: each.to_column for each in pointers}
    for table in tables:
        if table.name in keys:
            parent = next((one.column for one in parents if one.table == table.name), None)
            found = of_pointed(table, keys[table.name], pointers, _nested(nestings, table), parent, work.taken)
            work.add_dimension(*found)
            work.add_copies(table.name, found[0])
    for table in (each for each in work.facts if each.name not in keys):
        for found in of_own_columns(table, pointers, _nested(nestings, table), work.taken):
            work.add_dimension(*found)
    if not work.dimensions:
        for found in of_any_column(work.facts[0]):
            work.add_dimension(*found)
    for table in work.facts:
        made, assumed = measures_of(table, pointers, work.roles.get(table.name, ()), work.calendar_name, work.measures)
        work.measures += made
        work.assumed += assumed
    return SemanticModel(
        dastan="model/1", name=name, caption=caption, tables=work.tables, relationships=tuple(work.relationships),
        dimensions=tuple(work.dimensions), measures=tuple(work.measures),
        assumed=tuple(sorted(work.assumed, key=lambda each: not each.is_unsure)),
    )  # fmt: skip


def _nested(nestings: Sequence[Nesting], table: TableProfile) -> Nested:
    return Nested(each for each in nestings if each.table == table.name)


class _Work:
    """A proposal while it is put together."""

    def __init__(self, tables: Sequence[TableProfile], pointers: Sequence[Pointer]) -> None:
        self.pointers = pointers
        self.facts = facts_of(tables, pointers)
        self.tables: dict[str, Table] = {each.name: _declared(each, self._named(each)) for each in tables}
        self.relationships: list[Relationship] = []
        self.dimensions: list[Dimension] = []
        self.measures: list[Measure] = []
        self.assumed: list[Assumption] = [one for each in tables for one in each.assumed]
        self.roles: dict[str, list[str]] = {}
        """Per fact, the roles by which it reaches the calendar, its main one first."""
        self.calendar_name = ""
        self._copies: list[tuple[str, str, str]] = []
        """Tables that stand for another in a second role: the table, its copy and the role."""

    def _named(self, table: TableProfile) -> set[str]:
        """Numbers of a fact that name something which no other table tells of."""
        own = pointing(table, self.pointers)
        is_fact = any(each.name == table.name for each in self.facts)
        return {each.name for each in table.columns if is_fact and is_name(each) and each.name not in own}

    @property
    def taken(self) -> set[str]:
        """The names of dimensions so far."""
        return {each.name for each in self.dimensions}

    def relate(self, pointer: Pointer) -> None:
        """A relationship; to a copy of the table where another column of the same points there already."""
        own = [each for each in self.relationships if each.from_table == pointer.table]
        role = name_of(without_id(pointer.column), [each.role for each in own])
        to_table = pointer.to_table
        if any(each.to_table == to_table for each in own):
            known = next((copy for table, copy, one in self._copies if (table, one) == (to_table, role)), None)
            to_table = known or name_of(f"{role} {pointer.to_table}", self.tables)
            if known is None:
                self.tables[to_table] = self.tables[pointer.to_table]
                self._copies.append((pointer.to_table, to_table, role))
        self.relationships.append(
            Relationship(
                from_table=pointer.table,
                from_column=pointer.column,
                to_table=to_table,
                to_column=pointer.to_column,
                role=role,
            )
        )
        self.assumed.append(_of_pointer(pointer))

    def add_calendar(self) -> None:
        """A made calendar for the days of facts, where there are any."""
        dated = [(each, self._days_of(each)) for each in self.facts]
        dated = [(each, days) for each, days in dated if days]
        if not dated:
            return
        table = name_of(CALENDAR, self.tables)
        self.tables[table] = Table(calendar=GeneratedCalendar())
        made = calendar(table, self.taken)
        self.calendar_name = made.name
        self.dimensions.append(made)
        for fact, days in dated:
            for day in days:
                column = day.name
                if day.kind == "moment":
                    column = self._day_column(fact, day.name)
                role = name_of(day.name, self.roles.get(fact.name, ()))
                self.roles.setdefault(fact.name, []).append(role)
                self.relationships.append(
                    Relationship(from_table=fact.name, from_column=column, to_table=table, to_column="date", role=role)
                )
            if len(days) > 1:
                self.assumed.append(_of_days(fact.name, [each.name for each in days]))

    def _days_of(self, fact: TableProfile) -> list[ColumnProfile]:
        """The columns with a day of a fact, but for those with which a calendar would run on without end."""
        found = days_of(fact, self.pointers)
        far = [each for each in found if not _FIRST_DAY <= str(each.least) <= str(each.greatest) <= _LAST_DAY]
        for each in far:
            says = f"{each.name} is left out of the calendar"
            because = f"its days run from {each.least} to {each.greatest}, as where one stands for no end"
            self.assumed.append(
                Assumption(about=f"{fact.name}.{each.name}", says=says, because=because, is_unsure=True)
            )
        return [each for each in found if all(each is not one for one in far)]

    def _day_column(self, fact: TableProfile, moment: str) -> str:
        """A column with the day of a moment."""
        declared = self.tables[fact.name]
        known = [*(each.name for each in fact.columns), *declared.columns]
        name = name_of(f"{moment} day", known)
        quoted = '"' + moment.replace('"', '""') + '"'
        columns = {**declared.columns, name: Column(formula=f"cast({quoted} as date)")}
        self.tables[fact.name] = replace(declared, columns=columns)
        return name

    def add_dimension(self, dimension: Dimension, assumed: list[Assumption]) -> None:
        self.dimensions.append(dimension)
        self.assumed += assumed

    def add_copies(self, table: str, dimension: Dimension) -> None:
        """A dimension for each copy of a table."""
        for own, copy, role in self._copies:
            if own == table:
                self.dimensions.append(in_role(dimension, copy, role, self.taken))


_FIRST_DAY, _LAST_DAY = "1800-01-01", "2199-12-31"
"""Other days are hardly meant: one stands for no end, or for none known."""


def _declared(table: TableProfile, named: set[str]) -> Table:
    """A table as it is to be read, with its numbers that name something told."""
    more = {each.name: Column(type="integer", is_key=True) for each in table.columns if each.name in named}
    more |= {each.name: Column(type="float") for each in table.columns if _is_measured(each)}
    return replace(table.declared, columns={**more, **table.declared.columns})


_MOST_PLACES = 6


def _is_measured(column: ColumnProfile) -> bool:
    """Whether decimals have more places than anything that is counted or paid: exact sums would take more digits than
    there are, and say nothing."""
    return column.kind == "decimal" and column.scale > _MOST_PLACES


def _of_days(fact: str, days: Sequence[str]) -> Assumption:
    says = f"{days[0]} is the day that {fact} are counted on"
    because = f"it stands before {' and '.join(days[1:])}, by which they can be counted too"
    return Assumption(about=f"{fact}.{days[0]}", says=says, because=because, is_unsure=True)


def _of_pointer(pointer: Pointer) -> Assumption:
    seen = f"{pointer.found:,} of its {pointer.distinct:,} values are found there"
    if pointer.found == pointer.distinct:
        seen = f"all of its {pointer.distinct:,} values are found there"
    if pointer.unknown:
        seen += f"; {_records(pointer.unknown)} one that is not"
    if pointer.blank:
        seen += f"; {_records(pointer.blank)} none"
    return Assumption(
        about=f"{pointer.table}.{pointer.column}",
        says=f"{pointer.table}.{pointer.column} points at {pointer.to_table}.{pointer.to_column}",
        because=seen, is_unsure=pointer.found < pointer.distinct * 0.9,
    )  # fmt: skip


def _records(count: int) -> str:
    return "1 record has" if count == 1 else f"{count:,} records have"
