"""Offers to go down and across: from a level, from members, from a cell."""

from __future__ import annotations

from collections.abc import Iterator

from dastan.core.analysis.captions import (
    Members,
    hierarchy_caption,
    level_caption,
    listed,
    member_caption,
    placed_caption,
    plural,
)
from dastan.core.analysis.document import (
    AXES,
    Analysis,
    AxisName,
    HeaderPath,
    Order,
    PlacedMeasure,
    PlacedMember,
    Under,
)
from dastan.core.analysis.gestures import (
    BreakDown,
    CloseAll,
    CloseLevel,
    CloseMember,
    FilterMembers,
    ForgetJoint,
    ForgetLayout,
    GoInto,
    OpenAll,
    OpenLevel,
    OpenMember,
    SetOrder,
    ShowLevel,
    StopBreakingDown,
)
from dastan.core.analysis.gestures.filters import plain_filter
from dastan.core.analysis.going import way_back
from dastan.core.analysis.joints import joining_of, left_out_by
from dastan.core.analysis.offer import Offer, Thing, in_menu
from dastan.core.analysis.openness import is_member_open, shown_levels
from dastan.core.analysis.placing import placed_in
from dastan.core.analysis.resolve import find_dimension, find_hierarchy
from dastan.core.analysis.sentence import under_caption
from dastan.core.model.document import Hierarchy, SemanticModel
from dastan.core.model.joints import joint_named
from dastan.core.model.members import HierarchyMembers
from dastan.core.model.parts import MemberPath
from dastan.core.model.reach import shown_hierarchies

Own = tuple[str, str]
"""A hierarchy by its dimension and its own name."""


def level_offers(document: Analysis, own: Own, model: SemanticModel) -> Iterator[Offer]:
    """Opening the next level or all, closing what is open, and one level alone, of this hierarchy or another."""
    dimension = find_dimension(model, own[0])
    hierarchy = find_hierarchy(dimension, own[1])
    placed = placed_in(document.question, *own)
    if placed is None:
        return
    shown = shown_levels(document, placed, hierarchy)
    opening = document.opening(*own)
    for level in shown:
        at = hierarchy.levels.index(level)
        if at + 1 < len(hierarchy.levels) and not (level in opening.levels and not opening.closed):
            words = f"Open every {level_caption(dimension, level).lower()}"
            yield Offer(
                words, "menu", None, OpenLevel(dimension=own[0], hierarchy=own[1], level=level), under="Open and close"
            )
    for level in reversed(shown[:-1]):
        words = f"Close every {level_caption(dimension, level).lower()}"
        yield Offer(
            words, "menu", None, CloseLevel(dimension=own[0], hierarchy=own[1], level=level), under="Open and close"
        )
    if len(hierarchy.levels) > 1:
        caption = hierarchy_caption(dimension, hierarchy)
        yield Offer(
            f"Open all of {caption}", "menu", None, OpenAll(dimension=own[0], hierarchy=own[1]), under="Open and close"
        )
        if len(shown) > 1:
            yield Offer(
                f"Close all of {caption}",
                "menu",
                None,
                CloseAll(dimension=own[0], hierarchy=own[1]),
                under="Open and close",
            )
    offered = set(shown) if len(shown) == 1 else set()
    named = {plural(level_caption(dimension, each)).capitalize() for each in offered}
    for other in (hierarchy, *(each for each in shown_hierarchies(dimension) if each != hierarchy)):
        if other.parent_child is not None or (
            other.name != own[1] and placed_in(document.question, own[0], other.name)
        ):
            continue
        for level in other.levels:
            # Days are the same days in every hierarchy that goes down to them.
            if level in offered:
                continue
            offered.add(level)
            instead = None if other.name == own[1] else own[1]
            gesture = ShowLevel(dimension=own[0], hierarchy=other.name, level=level, instead_of=instead)
            words = plural(level_caption(dimension, level)).capitalize()
            # Two levels of one name are told apart by their hierarchies.
            words = f"{words} of {hierarchy_caption(dimension, other)}" if words in named else words
            named.add(words)
            yield in_menu(words, gesture, "Only")


def member_offers(document: Analysis, thing: Thing, model: SemanticModel, members: Members) -> Iterator[Offer]:
    """What can be done with one member, or with several of one hierarchy."""
    dimension = find_dimension(model, thing.dimension or "")
    hierarchy = find_hierarchy(dimension, thing.hierarchy or "")
    found = members(dimension.name, hierarchy.name)
    own = (dimension.name, hierarchy.name)
    paths = tuple(dict.fromkeys((thing.path, *thing.more)))
    caption = _named(paths, found)
    if len(paths) == 1:
        yield from _one_member(document, thing, own, found, model)
    if hierarchy.layout is not None:
        yield from _across(document, thing, model, members)
        yield from layout_offers(document, own, hierarchy)
        return
    for action, words in (("keep", f"Keep only {caption}"), ("leave_out", f"Leave out {caption}")):
        yield in_menu(words, _narrowed(document, own, paths, action))
    if document.question.measures:
        yield Offer(f"Make a measure only for {caption}…", "menu", asks="formula")
    if not hierarchy.is_list:
        yield Offer("Name them as a list…" if len(paths) > 1 else "Begin a list with it…", "menu", asks="list")
    yield from _joint_offers(document, paths, caption, hierarchy)
    if len(paths) == 1:
        yield from _across(document, thing, model, members)
    yield from level_offers(document, own, model)
    yield Offer(f"Choose members of {hierarchy_caption(dimension, hierarchy)}…", "menu", asks="members")
    yield Offer("Keep by a condition…", "menu", asks="condition")


def layout_offers(document: Analysis, own: Own, hierarchy: Hierarchy) -> Iterator[Offer]:
    """Laying out a hierarchy's members as a statement; of a layout, laying it out anew."""
    made = next((each for each in document.layouts if (each.dimension, each.name) == own), None)
    if made is not None:
        yield Offer("Change the layout…", "menu", asks="layout")
        yield in_menu(f"Forget {made.caption}", ForgetLayout(name=made.name))
    elif hierarchy.layout is not None:
        yield Offer("Lay out a copy of it…", "menu", asks="layout")
    elif not hierarchy.is_list:
        yield Offer("Lay out a statement…", "menu", asks="layout")


def _joint_offers(
    document: Analysis, paths: tuple[MemberPath, ...], caption: str, hierarchy: Hierarchy
) -> Iterator[Offer]:
    """Joining members into one; and of a joint member, what it joins."""
    if len(paths) > 1 and not hierarchy.is_list:
        yield Offer(f"Join {caption}…", "menu", asks="joint")
    name = joint_named(paths[0]) if len(paths) == 1 else None
    joint = next((each for each in document.joints if each.name == name), None)
    if joint is None or paths[0] != joining_of(joint).path:
        return
    change = "Make another of it…" if joint.of_model else "Change what it joins…"
    yield Offer(change, "menu", asks="joint", under="Joint member")
    left_out = {path for each in document.question.filters for path in left_out_by(each, joint)}
    own = (joint.dimension, joint.hierarchy)
    others = tuple(path for path in left_out if path not in joint.members)
    is_out = left_out >= set(joint.members)
    wanted = others if is_out else tuple(dict.fromkeys((*left_out, *joint.members)))
    words = "Show those that it joins beside it" if is_out else "Leave out those that it joins"
    beside = FilterMembers(dimension=own[0], hierarchy=own[1], action="leave_out", members=wanted)
    yield in_menu(words, beside, "Joint member")
    part = f"Take {caption} out" if joint.of_model else f"Part {caption} again"
    yield in_menu(part, ForgetJoint(name=joint.name), "Joint member")


def cell_offers(document: Analysis, thing: Thing, model: SemanticModel, members: Members) -> Iterator[Offer]:
    """What can be done from a number: question it, narrow to where it stands, break it down, order by it."""
    if document.question.measures:
        if thing.is_empty:
            yield Offer("Why is it empty?", "menu", asks="empty")
        yield Offer("How was it computed?", "menu", asks="paper")
        yield Offer("The records behind it", "menu", asks="records")
    for header in (thing.row, thing.column):
        for each in header[-1:]:
            caption = member_caption(each.path, members(each.dimension, each.hierarchy))
            gesture = _narrowed(document, (each.dimension, each.hierarchy), (each.path,), "keep")
            yield in_menu(f"Keep only {caption}", gesture)
    yield from _across(document, thing, model, members)
    measure = PlacedMeasure(
        measure=thing.measure or "", aggregate=thing.aggregate, percentile=thing.percentile, view=thing.view
    )
    if measure in document.question.measures:
        for axis, header in (("rows", thing.column), ("columns", thing.row)):
            for placed in reversed(document.question.axis(axis)):  # type: ignore[arg-type]
                at = HeaderPath(members=tuple(each.path for each in header))
                where = " › ".join(
                    member_caption(each.path, members(each.dimension, each.hierarchy)) for each in header
                )
                what = plural(level_caption(find_dimension(model, placed.dimension), placed.level)).capitalize()
                for descending, words in ((True, "largest first"), (False, "smallest first")):
                    order = Order(by="measure", measure=measure, descending=descending, column=at)
                    gesture_order = SetOrder(dimension=placed.dimension, hierarchy=placed.hierarchy, order=order)
                    text = f"{what} {words} in {where}" if where else f"{what} {words}"
                    yield in_menu(text, gesture_order, "Order by it")


def _one_member(
    document: Analysis, thing: Thing, own: Own, found: HierarchyMembers, model: SemanticModel
) -> Iterator[Offer]:
    dimension = find_dimension(model, own[0])
    hierarchy = find_hierarchy(dimension, own[1])
    caption = member_caption(thing.path, found)
    code = found.find(thing.path)
    placed = placed_in(document.question, *own)
    if code is not None and found.levels[len(thing.path) - 1].can_open[code]:
        if is_member_open(document.opening(*own), hierarchy, thing.path):
            yield Offer(
                f"Close {caption}", "menu", None, CloseMember(dimension=own[0], hierarchy=own[1], path=thing.path)
            )
        else:
            yield Offer(
                f"Open {caption}", "menu", None, OpenMember(dimension=own[0], hierarchy=own[1], path=thing.path)
            )
        if placed is not None:
            yield in_menu(f"Go into {caption}", GoInto(dimension=own[0], hierarchy=own[1], path=thing.path))
    if placed is not None and (path := way_back(document, placed, hierarchy)):
        above = member_caption(path[:-1], found) if len(path) > 1 else hierarchy_caption(dimension, hierarchy)
        words = f"Come back to {above}" if len(path) > 1 else f"Come back to all of {above}"
        yield in_menu(words, GoInto(dimension=own[0], hierarchy=own[1], path=path[:-1]))


def _across(document: Analysis, thing: Thing, model: SemanticModel, members: Members) -> Iterator[Offer]:
    """Breaking down by any other dimension, here only or everywhere."""
    headers: tuple[tuple[AxisName, tuple[PlacedMember, ...]], ...] = (("rows", thing.row), ("columns", thing.column))
    axis, header = next(((axis, each) for axis, each in headers if each), (None, ()))
    if axis is None:
        return
    under = Under(members=header)
    caption = under_caption(under, members)
    for here in (under, None):
        heading = f"Break {caption} down by" if here is not None else "Break all down by"
        for dimension in model.dimensions:
            for hierarchy in shown_hierarchies(dimension):
                gesture = BreakDown(dimension=dimension.name, hierarchy=hierarchy.name, axis=axis, under=here)
                words = placed_caption(dimension, hierarchy)
                present = placed_in(document.question, dimension.name, hierarchy.name)
                if present is None or (present.only_under is not None and here not in present.only_under):
                    yield in_menu(words, gesture, heading)
    for each_axis in AXES:
        for placed in document.question.axis(each_axis):
            if placed.only_under is not None and under in placed.only_under:
                dimension = find_dimension(model, placed.dimension)
                by = placed_caption(dimension, find_hierarchy(dimension, placed.hierarchy), placed.level)
                stop = StopBreakingDown(dimension=placed.dimension, hierarchy=placed.hierarchy, under=under)
                yield in_menu(f"No longer break {caption} down by {by}", stop)


def _named(paths: tuple[MemberPath, ...], found: HierarchyMembers) -> str:
    captions = [member_caption(path, found) for path in paths[:2]]
    return listed(captions, len(paths) - len(captions)) if len(paths) < 4 else f"these {len(paths)}"


def _narrowed(document: Analysis, own: Own, paths: tuple[MemberPath, ...], action: str) -> FilterMembers:
    """Keeping goes down to these members; leaving out takes them from what is kept, or adds to what is left out."""
    plain = [found for each in document.question.filters if (found := plain_filter(each, own)) is not None]
    present = {each.action: each.members for each in plain}
    kept, left_out = present.get("keep", ()), present.get("leave_out", ())
    if action == "keep":
        return FilterMembers(dimension=own[0], hierarchy=own[1], action="keep", members=paths)
    others = tuple(each for each in kept if each not in paths)
    if set(paths) <= set(kept) and others:
        return FilterMembers(dimension=own[0], hierarchy=own[1], action="keep", members=others)
    return FilterMembers(dimension=own[0], hierarchy=own[1], action="leave_out", members=(*left_out, *paths))
