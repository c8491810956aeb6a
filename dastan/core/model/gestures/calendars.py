"""Gestures on calendars, which are made and read from no file."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from dastan.core.errors import InputError
from dastan.core.model.document import GeneratedCalendar, Relationship, SemanticModel, Table
from dastan.core.model.gestures.step import ModelStep, settled, table_of, with_dimension, with_table
from dastan.core.model.proposing.dimensions import CALENDAR, calendar
from dastan.core.model.proposing.naming import name_of, table_caption

_MONTHS = (
    "January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November",
    "December",
)  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class MakeCalendar(ModelStep):
    """Lets a column of dates point at a calendar: the one that is there, or one that is made for it."""

    table: str
    column: str
    kind: Literal["make_calendar"] = "make_calendar"

    def applied(self, model: SemanticModel) -> SemanticModel:
        table_of(model, self.table)
        made = next((name for name, each in model.tables.items() if each.calendar is not None), None)
        if made is None:
            made = name_of(CALENDAR, model.tables)
            model = with_table(model, made, Table(calendar=GeneratedCalendar()))
            model = with_dimension(model, calendar(made, {each.name for each in model.dimensions}))
        own = [each for each in model.relationships if each.from_table == self.table]
        if any((each.from_column, each.to_table) == (self.column, made) for each in own):
            raise InputError(f"“{self.column}” points at the calendar already.", "Nothing is to be done.")
        tie = Relationship(
            from_table=self.table, from_column=self.column, to_table=made, to_column="date",
            role=name_of(self.column, [each.role for each in own]),
        )  # fmt: skip
        roles = [each.role for each in own if each.to_table == made]
        if len(roles) == 1:
            # Until now there was one way to the calendar; those that took it go on doing so.
            name = next(each.name for each in model.dimensions if each.table == made)
            measures = tuple(
                replace(each, roles={name: roles[0], **each.roles})
                if each.table == self.table and not each.is_of_others
                else each
                for each in model.measures
            )
            model = replace(model, measures=measures)
        return settled(replace(model, relationships=(*model.relationships, tie)), f"{self.table}.{self.column}")

    def words(self, before: SemanticModel) -> str:
        is_there = any(each.calendar is not None for each in before.tables.values())
        if is_there:
            return f"{table_caption(self.table)} points at the calendar by {self.column}"
        return f"made a calendar for {self.column}"


@dataclass(frozen=True, slots=True, kw_only=True)
class SetCalendar(ModelStep):
    """Says from when to when a calendar runs, and when its financial year starts."""

    table: str
    calendar: GeneratedCalendar
    kind: Literal["set_calendar"] = "set_calendar"

    def applied(self, model: SemanticModel) -> SemanticModel:
        known = table_of(model, self.table)
        if known.calendar is None:
            raise InputError(f"“{self.table}” is read from a file.", "Change its file.")
        return with_table(model, self.table, replace(known, calendar=self.calendar))

    def words(self, before: SemanticModel) -> str:
        known = table_of(before, self.table).calendar
        starts = self.calendar.financial_year_starts
        if known is not None and known.financial_year_starts != starts and 1 <= starts <= 12:
            return f"the financial year starts in {_MONTHS[starts - 1]}"
        first, last = self.calendar.first or "the first date", self.calendar.last or "the last"
        return f"the calendar runs from {first} to {last}"
