"""Measures: records counted, amounts added up, rates averaged, and what is named counted once each."""

from __future__ import annotations

from collections.abc import Sequence

from dastan.core.model.document import Assumption, Measure
from dastan.core.model.proposing.facts import amounts_of, is_name, is_rate, is_stock, is_surely_rate, pointing
from dastan.core.model.proposing.naming import caption_of, name_of, plural, unit_of, without_id
from dastan.core.model.proposing.profile import ColumnProfile, Pointer, TableProfile


def measures_of(
    fact: TableProfile, pointers: Sequence[Pointer], days: Sequence[str], calendar: str, taken: Sequence[Measure]
) -> tuple[list[Measure], list[Assumption]]:
    """The measures of a fact.

    Args: `days` are the roles by which the calendar is reached, the main one first; `calendar` is that dimension.
    """
    made, assumed = list(taken), list[Assumption]()
    roles = {calendar: days[0]} if len(days) > 1 else {}
    folder = caption_of(fact.name)

    def add(about: str, otherwise: str, **more: object) -> None:
        names, captions = [each.name for each in made], [each.caption for each in made]
        caption = caption_of(about)
        if caption in captions:
            caption = caption_of(otherwise, captions)
        name = name_of(about if caption == caption_of(about) else otherwise, names)
        made.append(Measure(name=name, caption=caption, table=fact.name, folder=folder, **{"roles": roles, **more}))  # type: ignore[arg-type]

    add(fact.name, f"{fact.name} records", aggregate="count", unit="records")
    for role in days[1:]:
        about = f"{fact.name} {role}"
        add(about, about, aggregate="count", unit="records", roles={calendar: role})
    for each in amounts_of(fact, pointers):
        plain, unit = unit_of(each.name)
        averages = is_rate(each) or unit == "%"
        is_balance = bool(days) and not averages and is_stock(each)
        more = {"aggregate": "average" if averages else "balance" if is_balance else "sum"}
        if is_balance:
            more["time"] = calendar
        form = _format(each, averages)
        add(plain, f"{plain} of {fact.name}", expression=_quoted(each.name), unit=unit, format=form, **more)
        if is_balance:
            says = f"{each.name} is a balance: over time it is not added up, but taken at the end"
            assumed.append(_said(fact, each, says, "it is called like something that is there on a day", True))
        if averages:
            says = f"{each.name} is averaged, not added up"
            because = "it is called like a rate, of which a sum says nothing"
            assumed.append(_said(fact, each, says, because, unit != "%" and not is_surely_rate(each)))
    own = pointing(fact, pointers)
    for each in fact.columns:
        if is_name(each) and each.name not in own:
            if not each.is_unique and each.distinct > 1:
                about = plural(without_id(each.name))
                add(about, f"{about} of {fact.name}", aggregate="distinct", expression=_quoted(each.name))
            says = f"{each.name} names something: it is counted, never added up"
            assumed.append(_said(fact, each, says, _why_a_name(each)))
    return made[len(taken) :], assumed


def _why_a_name(column: ColumnProfile) -> str:
    seen = f"{column.distinct:,} different values in {column.records:,} records"
    return f"{seen}, each of {column.longest} digits" if column.shortest == column.longest else seen


def _said(fact: TableProfile, column: ColumnProfile, says: str, because: str, is_unsure: bool = False) -> Assumption:
    return Assumption(about=f"{fact.name}.{column.name}", says=says, because=because, is_unsure=is_unsure)


def _format(column: ColumnProfile, averages: bool) -> str:
    if column.kind == "float":
        return "#,##0.00"
    digits = column.scale if not averages else max(column.scale, 1)
    return "#,##0" + (f".{'0' * min(digits, 4)}" if digits else "")


def _quoted(column: str) -> str:
    """A column as a row formula names it."""
    is_plain = column.isascii() and column.isidentifier() and column == column.lower()
    return column if is_plain else '"' + column.replace('"', '""') + '"'
