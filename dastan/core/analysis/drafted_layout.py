"""A financial layout to begin with: what a hierarchy's members suggest."""

from __future__ import annotations

from functools import reduce

from dastan.core.analysis.captions import hierarchy_caption
from dastan.core.analysis.document import MadeLayout
from dastan.core.model.document import Dimension, FinancialLayout, Hierarchy, LayoutRow
from dastan.core.model.expression import Arithmetic, Expression, MeasureOf
from dastan.core.model.members import HierarchyMembers, fold
from dastan.core.model.parts import MemberPath

MOST_PARTS, MOST_BELOW = 12, 20


def drafted_layout(dimension: Dimension, hierarchy: Hierarchy, members: HierarchyMembers) -> MadeLayout:
    """Each of the topmost members as a section: a heading, what is just below it, and its total; the sum of all last.

    A member with nothing below it is one row.
    """
    rows: list[LayoutRow] = []
    totals: list[str] = []
    taken: set[str] = set()

    def caption(text: str) -> str:
        found = text
        while fold(found) in taken:
            found += "’"
        taken.add(fold(found))
        return found

    def held(path: MemberPath, text: str, indent: int) -> LayoutRow:
        row = LayoutRow(name=_name(rows), kind="members", caption=caption(text), members=(path,), indent=indent)
        rows.append(row)
        return row

    for code in members.children(())[:MOST_PARTS].tolist():
        level = members.levels[0]
        path, text = members.path_of(0, code), level.captions[code]
        if level.keys[code] is None:
            continue
        inside = members.children(path)[:MOST_BELOW].tolist() if level.can_open[code] else []
        below = [each for each in inside if members.levels[1].keys[each] is not None]
        if len(below) < 2:
            totals.append(held(path, text, 0).name)
            continue
        rows.append(LayoutRow(name=_name(rows), kind="heading", caption=text))
        inner = [held(members.path_of(1, each), members.levels[1].captions[each], 1).name for each in below]
        total = LayoutRow(
            name=_name(rows),
            kind="formula",
            caption=caption(f"Total {text.lower()}"),
            formula=_sum(inner),
            is_strong=True,
            rule_above="single",
        )
        rows += [total, LayoutRow(name=f"{_name(rows)}_gap", kind="blank")]
        totals.append(total.name)
    if len(totals) > 1:
        rows.append(
            LayoutRow(
                name=_name(rows),
                kind="formula",
                caption=caption("Result"),
                formula=_sum(totals),
                is_strong=True,
                rule_above="single",
                rule_below="double",
            )
        )
    named = f"{hierarchy_caption(dimension, hierarchy)} statement"
    return MadeLayout(
        caption=named, dimension=dimension.name, layout=FinancialLayout(hierarchy=hierarchy.name, rows=tuple(rows))
    )


def _name(rows: list[LayoutRow]) -> str:
    return f"row_{len(rows) + 1}"


def _sum(names: list[str]) -> Expression:
    first, *others = (MeasureOf(measure=each) for each in names)
    return reduce(lambda left, right: Arithmetic(operator="+", left=left, right=right), others, first)  # type: ignore[arg-type,return-value]
