"""Finds every fault of a model document that can be seen without its data."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

from dastan.core.errors import FormulaError, InputError, did_you_mean
from dastan.core.formula.columns import columns_named, parse_column
from dastan.core.formula.rows import parse_rows
from dastan.core.model.complete import complete_model
from dastan.core.model.condition_faults import condition_faults, prompt_faults
from dastan.core.model.conditions import (
    AttributeFilter,
    Condition,
    MeasureFilter,
    MemberFilter,
    PromptRef,
    ReadyFilter,
    leaves_of,
)
from dastan.core.model.document import Dimension, Hierarchy, Measure, RecordList, SemanticModel, Table, next_named
from dastan.core.model.expression_check import check_expression
from dastan.core.model.financial_layouts import layout_faults
from dastan.core.model.member_lists import list_faults
from dastan.core.model.model_joints import joint_faults
from dastan.core.model.pattern import is_number_pattern
from dastan.core.model.reach import (
    grain_of,
    path_to_table,
    reaches,
    ways_to,
)

Place = tuple[str | int, ...]

_NAME = re.compile(r"^[a-z][a-z0-9_]*$")
_COLUMN = re.compile(r"[^{}.\[\]]+")


@dataclass(frozen=True, slots=True)
class Fault:
    """One thing wrong: where in the document, what, and what to do."""

    place: Place
    message: str
    hint: str


def check_model(model: SemanticModel) -> list[Fault]:
    """All faults, in document order; an empty list for a sound model."""
    return [
        *_names(model), *_tables(model), *_relationships(model), *_dimensions(model), *_measures(model),
        *_conditions(model),
    ]  # fmt: skip


def _names(model: SemanticModel) -> Iterator[Fault]:
    groups: list[tuple[Place, list[str]]] = [
        (("dimensions",), [each.name for each in model.dimensions]),
        (("measures",), [each.name for each in model.measures]),
        (("filters",), [each.name for each in model.filters]),
        (("lists",), [each.name for each in model.lists]),
        (("joints",), [each.name for each in model.joints]),
        (("prompts",), [each.name for each in model.prompts]),
        (("roles",), [each.name for each in model.roles]),
    ]
    for number, dimension in enumerate(model.dimensions):
        groups.append((("dimensions", number, "attributes"), [each.name for each in dimension.attributes]))
        groups.append((("dimensions", number, "hierarchies"), [each.name for each in dimension.hierarchies]))
    for place, names in groups:
        for number, name in enumerate(names):
            if name in names[:number]:
                yield Fault((*place, number, "name"), f"The name “{name}” is taken already.", "Choose another name.")
            if not _NAME.match(name):
                hint = 'Use small letters, digits and _, beginning with a letter, as in "fare_revenue".'
                yield Fault((*place, number, "name"), f"“{name}” cannot be a name.", hint)


def _tables(model: SemanticModel) -> Iterator[Fault]:
    for name, table in model.tables.items():
        if table.records.page is not None:
            yield from _page(table.records, ("tables", name, "records", "page"))
        if (table.file is None) == (table.calendar is None):
            hint = "Give either `file` (a CSV or Parquet file) or `calendar`, and not both."
            yield Fault(("tables", name), f"Table “{name}” does not say where its rows come from.", hint)
        if table.calendar is not None and not 1 <= table.calendar.financial_year_starts <= 12:
            place: Place = ("tables", name, "calendar", "financial_year_starts")
            yield Fault(place, "A financial year starts in a month from 1 to 12.", "Write 4 for April.")
        yield from _worked_out(name, table)
        if table.numbers is not None and table.numbers.decimal == table.numbers.thousands:
            hint = "Let one of them be another."
            yield Fault(("tables", name, "numbers"), "One sign cannot part both thousands and fractions.", hint)
        if table.footer < 0:
            message = "Lines at the end that are no records are counted from 0."
            yield Fault(("tables", name, "footer"), message, "Write how many there are.")
        if table.header < 0:
            hint = "Write the line of the column names, or 0 where there is none."
            yield Fault(("tables", name, "header"), "Lines are counted from 1.", hint)
        if len(table.delimiter) != 1:
            yield Fault(("tables", name, "delimiter"), "A delimiter is one character.", 'Write ";" or "\\t".')


def _worked_out(name: str, table: Table) -> Iterator[Fault]:
    """The faults of a table's columns that are worked out, and of those of which nothing is said."""
    reads: dict[str, list[str]] = {}
    for column, declared in table.columns.items():
        place: Place = ("tables", name, "columns", column)
        if declared.formula is None:
            if declared.type is None and not declared.is_key and not declared.day_forms:
                hint = "Give it a `type`, or a `formula` that works it out."
                yield Fault(place, f"Nothing is said of column “{column}”.", hint)
            continue
        try:
            formula = parse_column(declared.formula)
        except FormulaError as error:
            yield Fault((*place, "formula"), error.message, error.hint)
            continue
        reads[column] = [each.name for each in columns_named(formula) if each.of is None]
    for column in reads:
        path = _circle(column, reads)
        if path:
            message = f"Column “{column}” is worked out from itself: {' → '.join(path)}."
            yield Fault(("tables", name, "columns", column, "formula"), message, "Take another column.")


def _circle(start: str, reads: dict[str, list[str]]) -> list[str]:
    """A way from a column back to itself; none where there is none."""
    waiting, seen = [[start]], set[str]()
    while waiting:
        path = waiting.pop()
        for each in reads.get(path[-1], ()):
            if each == start:
                return [*path, each]
            if each not in seen:
                seen.add(each)
                waiting.append([*path, each])
    return []


def _page(records: RecordList, place: Place) -> Iterator[Fault]:
    page = records.page or ""
    if not page.startswith(("/", "https://", "http://")):
        yield Fault(place, f"“{page}” is no address of a page.", "Begin it with https://, http:// or /.")
    try:
        columns = records.page_columns()
    except ValueError:
        columns = ("",)
    if not all(_COLUMN.fullmatch(each) for each in columns):
        hint = "Write each column once in braces, as in https://desk.example/incident/{incident_id}."
        yield Fault(place, f"The braces of “{page}” do not name columns.", hint)


def _relationships(model: SemanticModel) -> Iterator[Fault]:
    for number, each in enumerate(model.relationships):
        for field in ("from_table", "to_table"):
            table = getattr(each, field)
            if table not in model.tables:
                yield _unknown_table(("relationships", number, field), table, model)
        for other in model.relationships[:number]:
            if (other.from_table, other.role) == (each.from_table, each.role):
                message = f"Table “{each.from_table}” has two relationships with the role “{each.role}”."
                yield Fault(("relationships", number, "role"), message, "Name each role of a table differently.")


def _dimensions(model: SemanticModel) -> Iterator[Fault]:
    if not model.dimensions:
        yield Fault(("dimensions",), "The model has no dimension.", "Describe at least one.")
    for number, each in enumerate(model.dimensions):
        place: Place = ("dimensions", number)
        if each.table not in model.tables:
            yield _unknown_table((*place, "table"), each.table, model)
        yield from _hierarchies(place, each)
        yield from _attribute_tables(place, each, model)
        if each.key is None and any(path.to_table == each.table for path in model.relationships):
            hint = "Give `key`, the column that records point at."
            yield Fault(place, f"Dimension “{each.caption}” lies on a table that others point at.", hint)
        depth = len(each.hierarchies[0].levels) if each.hierarchies else 0
        for at, path in enumerate(each.default):
            is_tree = bool(each.hierarchies) and each.hierarchies[0].parent_child is not None
            if not path or (len(path) > max(depth, 1) and not is_tree):
                message = f"A default member of {each.caption} has {len(path)} keys."
                hint = "Write one key per level of the first hierarchy, from the top down."
                yield Fault((*place, "default", at), message, hint)


def _hierarchies(place: Place, dimension: Dimension) -> Iterator[Fault]:
    names = [each.name for each in dimension.attributes]
    if not dimension.hierarchies:
        hint = "List at least one, with its levels."
        yield Fault((*place, "hierarchies"), f"Dimension “{dimension.caption}” has no hierarchy.", hint)
    for number, hierarchy in enumerate(dimension.hierarchies):
        at: Place = (*place, "hierarchies", number)
        ways = (hierarchy.levels, hierarchy.parent_child, hierarchy.sets, hierarchy.layout)
        if sum(bool(each) for each in ways) != 1:
            hint = "Give `levels`, coarsest first, or `parent_child`, `sets` or a `layout`, and only one of them."
            yield Fault(at, f"Hierarchy “{hierarchy.name}” has no way down, or several.", hint)
        yield from _layout(at, dimension, hierarchy)
        for place_of_set, each in enumerate(hierarchy.sets):
            own: Place = (*at, "sets", place_of_set)
            below = [one for one in dimension.hierarchies if one.name == each.hierarchy and not one.is_list]
            if not below:
                known = did_you_mean(each.hierarchy, (one.name for one in dimension.hierarchies if not one.is_list))
                yield Fault((*own, "hierarchy"), f"Set “{each.caption}” is of no hierarchy of its dimension.", known)
            elif not each.members:
                yield Fault((*own, "members"), f"Set “{each.caption}” names no member.", "Name at least one.")
            if each.name in [one.name for one in hierarchy.sets[:place_of_set]]:
                yield Fault((*own, "name"), f"The name “{each.name}” is taken already.", "Choose another name.")
        for depth, level in enumerate(hierarchy.levels):
            if level not in names:
                message = f"Level “{level}” is not an attribute of “{dimension.caption}”."
                yield Fault((*at, "levels", depth), message, did_you_mean(level, names))
            elif level in hierarchy.levels[:depth]:
                yield Fault((*at, "levels", depth), f"Level “{level}” stands twice.", "Keep one of the two.")


def _layout(at: Place, dimension: Dimension, hierarchy: Hierarchy) -> Iterator[Fault]:
    layout = hierarchy.layout
    if layout is None:
        return
    own: Place = (*at, "layout")
    known = [each.name for each in dimension.hierarchies if not each.is_list]
    if layout.hierarchy not in known:
        message = f"The layout is of “{layout.hierarchy}”, which is no hierarchy with levels of its dimension."
        yield Fault((*own, "hierarchy"), message, did_you_mean(layout.hierarchy, known))
    if any(each.name == hierarchy.name for each in dimension.attributes):
        yield Fault((*at, "name"), f"“{hierarchy.name}” is an attribute already.", "Give the layout another name.")
    for fault in layout_faults(layout):
        place: Place = (*own, fault.field) if fault.row is None else (*own, "rows", fault.row, fault.field)
        yield Fault(place, fault.message, fault.hint)


def _attribute_tables(place: Place, dimension: Dimension, model: SemanticModel) -> Iterator[Fault]:
    for number, each in enumerate(dimension.attributes):
        at: Place = (*place, "attributes", number, "table")
        if each.table is None:
            continue
        if each.table not in model.tables:
            yield _unknown_table(at, each.table, model)
        elif path_to_table(model, dimension.table, each.table) is None:
            message = f"Table “{dimension.table}” does not lead on to “{each.table}” by one clear way."
            yield Fault(at, message, "Add the relationship that leads there, or leave `table` out.")


def _measures(model: SemanticModel) -> Iterator[Fault]:
    if not model.measures:
        yield Fault(("measures",), "The model has no measure.", "Describe at least one, such as a count.")
    for number, each in enumerate(model.measures):
        place: Place = ("measures", number)
        if each.table not in model.tables:
            yield _unknown_table((*place, "table"), each.table, model)
        yield from _argument(place, each)
        yield from _roles(place, each, model)
        yield from _ratio(place, each, model)
        yield from _formula(place, each, model)
        yield from _balance(place, each, model)
        yield from _where(place, each, model)
        if not is_number_pattern(each.format):
            hint = 'Use a CLDR number pattern such as "#,##0" or "#,##0.00".'
            yield Fault((*place, "format"), f"“{each.format}” is not a number pattern.", hint)


def _argument(place: Place, measure: Measure) -> Iterator[Fault]:
    if measure.is_of_others:
        return
    if measure.aggregate == "open":
        if measure.started is None or measure.ended is None:
            hint = "Give `started` and `ended`, columns with dates."
            yield Fault(place, f"“{measure.caption}” does not say when a record is open.", hint)
        return
    if measure.aggregate == "weighted_average":
        try:
            parse_rows(measure.weight or "")
        except FormulaError as error:
            hint = "Give `weight`: a column, or a row formula."
            yield Fault((*place, "weight"), error.message if measure.weight else "A weight is missing.", hint)
    percentile = -1 if measure.percentile is None else measure.percentile
    if measure.aggregate == "percentile" and not 0 <= percentile <= 100:
        hint = "Give `percentile`, from 0 to 100."
        yield Fault(place, f"“{measure.caption}” does not say which percentile.", hint)
    if measure.aggregate == "count":
        if measure.expression is not None:
            hint = "Leave `expression` out, or use count_values to count records with a value."
            yield Fault((*place, "expression"), f"“{measure.caption}” counts records and needs no column.", hint)
    elif measure.expression is None:
        hint = "Give `expression`: a column, or a row formula such as quantity * price."
        yield Fault(place, f"“{measure.caption}” does not say what to aggregate.", hint)
    else:
        try:
            parse_rows(measure.expression)
        except FormulaError as error:
            yield Fault((*place, "expression"), error.message, error.hint)


def _ratio(place: Place, measure: Measure, model: SemanticModel) -> Iterator[Fault]:
    if measure.aggregate != "ratio":
        return
    for field in ("numerator", "denominator"):
        name = getattr(measure, field)
        found = [each for each in model.measures if each.name == name]
        if not found:
            known = did_you_mean(name or "", (each.name for each in model.measures))
            yield Fault((*place, field), f"The {field} of “{measure.caption}” is not in the model.", known)
        elif found[0].aggregate == "ratio" and _goes_round(measure, model):
            message = f"“{measure.caption}” is divided by itself, over other ratios."
            yield Fault((*place, field), message, "Let one of them be a plain measure.")
    if measure.where or measure.roles:
        message = f"“{measure.caption}” is a ratio: its operands say which records count, and by which roles."
        yield Fault(place, message, "Put `where` and `roles` on the measures above and below the line.")


def _formula(place: Place, measure: Measure, model: SemanticModel) -> Iterator[Fault]:
    if (measure.formula is None) == (measure.aggregate == "formula"):
        message = f"“{measure.caption}” has a `formula` where its aggregate is “formula”, and only there."
        yield Fault(place, message, "Give both, or neither.")
    elif measure.formula is not None:
        try:
            check_expression(measure.formula, model, measure.name)
        except InputError as error:
            yield Fault((*place, "formula"), error.message, error.hint)
        if measure.where or measure.roles:
            message = f"“{measure.caption}” is a formula: its measures say which records count, and by which roles."
            yield Fault(place, message, "Put `where` and `roles` on the measures that it is made of.")


def _goes_round(measure: Measure, model: SemanticModel) -> bool:
    """Whether a ratio leads back to itself."""
    named = {each.name: each for each in model.measures}
    visited: set[str] = set()
    to_visit = [measure.numerator, measure.denominator]
    while to_visit:
        name = to_visit.pop() or ""
        found = named.get(name)
        if name == measure.name:
            return True
        if found is not None and found.aggregate == "ratio" and name not in visited:
            visited.add(name)
            to_visit += [found.numerator, found.denominator]
    return False


def _where(place: Place, measure: Measure, model: SemanticModel) -> Iterator[Fault]:
    for number, each in enumerate(measure.where):
        at: Place = (*place, "where", number)
        faults = list(_condition(at, each, model))
        yield from faults
        for leaf in leaves_of(each) if not faults else ():
            if isinstance(leaf, MeasureFilter | ReadyFilter):
                message = f"The condition of “{measure.caption}” cannot look at measures or ready-made filters."
                yield Fault(at, message, "Write out what holds for the records themselves.")
                continue
            if isinstance(leaf, MemberFilter) and leaf.list is not None:
                if next_named(model.lists, leaf.list).is_rule:
                    message = f"The condition of “{measure.caption}” stands on a list that has a rule."
                    yield Fault((*at, "list"), message, "Make a formula of the measure, only for that list.")
            elif isinstance(leaf, MemberFilter) and not leaf.members and leaf.level is None:
                message = f"The condition of “{measure.caption}” names no member."
                yield Fault((*at, "members"), message, "Name at least one.")
            found = model.dimension(leaf.dimension)  # type: ignore[union-attr]
            if not reaches(model, grain_of(measure), found):
                known = [one.name for one in model.dimensions if reaches(model, grain_of(measure), one)]
                message = f"Dimension “{found.name}” does not reach the records of “{measure.caption}”."
                yield Fault((*at, "dimension"), message, did_you_mean(found.name, known))


def _condition(place: Place, condition: Condition, model: SemanticModel) -> Iterator[Fault]:
    """The faults of a condition that the model itself makes."""
    names = {each.name for each in model.prompts}
    for fault in condition_faults(condition, complete_model(model, {}), names.__contains__):
        yield Fault((*place, fault.field), fault.message, fault.hint)


def _conditions(model: SemanticModel) -> Iterator[Fault]:
    """Ready-made filters, questions and roles."""
    for number, prompt in enumerate(model.prompts):
        for fault in prompt_faults(prompt, complete_model(model, {})):
            yield Fault(("prompts", number, fault.field), fault.message, fault.hint)
    for number, ready in enumerate(model.filters):
        place: Place = ("filters", number, "condition")
        yield from _condition(place, ready.condition, model)
        if any(isinstance(leaf, ReadyFilter) for leaf in leaves_of(ready.condition)):
            message = f"The ready-made filter “{ready.caption}” stands on another ready-made filter."
            yield Fault(place, message, "Write the condition out.")
    whole = complete_model(model, {})
    for number, each in enumerate(model.lists):
        for fault in list_faults(each, whole):
            yield Fault(("lists", number, fault.field), fault.message, fault.hint)
    for number, joint in enumerate(model.joints):
        for fault in joint_faults(joint, whole):
            yield Fault(("joints", number, fault.field), fault.message, fault.hint)
    for number, role in enumerate(model.roles):
        for part, condition in enumerate(role.conditions):
            place = ("roles", number, "conditions", part)
            yield from _condition(place, condition, model)
            if any(isinstance(leaf, MeasureFilter | ReadyFilter) or _asks(leaf) for leaf in leaves_of(condition)):
                message = f"What role “{role.caption}” may see depends on a measure, a list or an answer."
                yield Fault(place, message, "Let it depend on members, attributes and periods alone.")
        if not role.conditions:
            hint = "Give it conditions, or leave the role out: people without a role see everything."
            yield Fault(("roles", number), f"Role “{role.caption}” hides nothing.", hint)


def _asks(leaf: Condition) -> bool:
    if isinstance(leaf, MemberFilter):
        return leaf.prompt is not None or leaf.list is not None
    return isinstance(leaf, AttributeFilter) and any(isinstance(each, PromptRef) for each in leaf.values)


def _balance(place: Place, measure: Measure, model: SemanticModel) -> Iterator[Fault]:
    if measure.aggregate not in ("balance", "open", "first", "last") and measure.time is None:
        return
    found = [each for each in model.dimensions if each.name == measure.time]
    if not found or not reaches(model, grain_of(measure), found[0]):
        hint = "Give `time`, the name of the calendar dimension that reaches its table."
        yield Fault((*place, "time"), f"“{measure.caption}” does not say by which calendar it is taken.", hint)


def _roles(place: Place, measure: Measure, model: SemanticModel) -> Iterator[Fault]:
    for name, role in measure.roles.items():
        at: Place = (*place, "roles", name)
        found = [each for each in model.dimensions if each.name == name]
        if not found:
            known = did_you_mean(name, (each.name for each in model.dimensions))
            yield Fault(at, f"Dimension “{name}” is not in the model.", known)
            continue
        roles = [each[-1].role for each in ways_to(model, measure.table, found[0]) if each]
        if role not in roles:
            message = f"Table “{measure.table}” has no relationship to {found[0].caption} with the role “{role}”."
            yield Fault(at, message, did_you_mean(role, roles))


def _unknown_table(place: Place, table: str, model: SemanticModel) -> Fault:
    return Fault(place, f"Table “{table}” is not in the model.", did_you_mean(table, model.tables))
