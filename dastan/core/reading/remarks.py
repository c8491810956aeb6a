"""Quiet warnings that the numbers themselves give rise to: records that belong nowhere, a period not finished."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from dastan.core.analysis.captions import Members, day_words, hierarchy_caption
from dastan.core.analysis.document import Analysis, PlacedMeasure
from dastan.core.analysis.gestures import FilterMembers, ShowView
from dastan.core.analysis.made import with_made
from dastan.core.analysis.placed import shown_formula
from dastan.core.analysis.views import Change
from dastan.core.analysis.warnings import Warning, warning_key
from dastan.core.engine.answer import Answer
from dastan.core.engine.grains import Placement
from dastan.core.engine.margins import Margin
from dastan.core.engine.waist import MemberSet, Source
from dastan.core.formula.formula import bases_of
from dastan.core.formula.scopes import Earlier
from dastan.core.model.conditions import MemberFilter, leaves_of
from dastan.core.model.document import SemanticModel
from dastan.core.model.financial_layouts import LaidOutMembers, rows_counted_twice
from dastan.core.model.joints import own_members
from dastan.core.model.parts import MemberPath, is_veiled
from dastan.core.model.reach import is_calendar

LEAST_SHARE = 0.01
"""Fewer records that belong nowhere than this share are not worth a word."""


def remarks_of(document: Analysis, answer: Answer, model: SemanticModel, source: Source) -> tuple[Warning, ...]:
    """What the answer gives rise to, without what was silenced."""
    model = with_made(model, document)
    found = (
        *_nowhere(answer, model), *_overlapping(answer, model), *_unfinished(document, answer, model, source),
        *_known_in_part(document, answer, model, source), *_counted_twice(answer),
    )  # fmt: skip
    return tuple(each for each in found if each.key not in document.dress.silenced)


def missing_members(document: Analysis, members: Members) -> tuple[Warning, ...]:
    """A warning for each condition that names members which are not there, without what was silenced.

    Args: `members` are those that the reader may see, so that it says no more of others than that.
    """
    found = []
    for each in (leaf for condition in document.question.filters for leaf in leaves_of(condition)):
        if not isinstance(each, MemberFilter) or each.prompt is not None or each.list is not None:
            continue
        known = members(each.dimension, each.hierarchy)
        gone = [path for path in each.members if not is_veiled(path) and known.find(path) is None]
        if gone:
            said = ", ".join(" › ".join("blank" if key is None else str(key) for key in path) for path in gone[:3])
            more = f" and {len(gone) - 3} more" if len(gone) > 3 else ""
            text = f"{said}{more} {'is' if len(gone) == 1 else 'are'} not in the data: the filter finds nothing there."
            key = warning_key("missing", f"{each.dimension}/{each.hierarchy}/{said}")
            found.append(Warning("", text, "", None, key))
    return tuple(each for each in found if each.key not in document.dress.silenced)


def _nowhere(answer: Answer, model: SemanticModel) -> Iterator[Warning]:
    """Members of records that belong nowhere, where they hold more than a little of an additive measure."""
    for margin in answer.margins:
        placement = _placement(answer, margin)
        placed, members = placement.placed, placement.members
        if placement.layout is not None:
            continue
        code = members.levels[margin.depth].nowhere
        own = margin.values[margin.codes == code].sum()
        # A share says something only of numbers with one sign.
        if margin.values.min() < 0 or own < LEAST_SHARE * margin.whole or margin.whole <= 0:
            continue
        dimension, is_list = model.dimension(placed.dimension), members.spread is not None
        caption = members.levels[margin.depth].captions[code]
        why = "" if is_list else ": left blank, or not known"
        share = f"{own / margin.whole:.1%}".replace("%", " %")
        yield Warning(
            answer.measures[margin.measure].name,
            f"{share} of {answer.measures[margin.measure].caption} is {caption}{why}.",
            "Leave them out",
            FilterMembers(
                dimension=dimension.name, hierarchy=placed.hierarchy, action="leave_out",
                members=(members.path_of(margin.depth, code),),
            ),
            warning_key("nowhere", f"{dimension.name}/{placed.hierarchy}" if is_list else dimension.name),
        )  # fmt: skip


def _overlapping(answer: Answer, model: SemanticModel) -> Iterator[Warning]:
    """Sets that hold records in common: added up, they come to more than there is."""
    for margin in answer.margins:
        placement = _placement(answer, margin)
        if placement.members.spread is None or placement.layout is not None:
            continue
        if margin.values.min() < 0 or margin.whole <= 0:
            continue
        much = margin.values.sum() / margin.whole
        if much > 1 + LEAST_SHARE / 10:
            dimension = model.dimension(placement.placed.dimension)
            caption = hierarchy_caption(dimension, dimension.hierarchy(placement.placed.hierarchy))
            yield Warning(
                answer.measures[margin.measure].name,
                f"What is told by {caption} overlaps: added up, it comes to {much:.0%} of the total, which counts "
                "each record once.".replace("%", " %"),
                "", None, warning_key("overlapping", f"{placement.placed.dimension}/{placement.placed.hierarchy}"),
            )  # fmt: skip


def _placement(answer: Answer, margin: Margin) -> Placement:
    axis = answer.rows if margin.axis == "rows" else answer.columns
    return axis.placements[margin.place]


def _counted_twice(answer: Answer) -> Iterator[Warning]:
    """Formulas over the rows of a layout that add up two rows with members in common."""
    for axis in (answer.rows, answer.columns):
        for placement in axis.placements:
            members = placement.members
            if not isinstance(members, LaidOutMembers):
                continue
            for formula, one, other in rows_counted_twice(members):
                why = f"“{one.caption}” and “{other.caption}” have members in common"
                text = f"counts “{one.caption}” twice" if one == other else f"counts records twice: {why}"
                key = warning_key("counted twice", f"{members.hierarchy}/{formula.name}")
                yield Warning("", f"“{formula.caption}” {text}.", "", None, key)


def _is_whole_change(placed: PlacedMeasure) -> bool:
    """Whether a placed measure is a change on an earlier period, however much of its own there is."""
    return isinstance(placed.view, Change) and placed.view.on != "member" and not placed.view.same_part


@dataclass(frozen=True, slots=True)
class _Period:
    """A period that stands on an axis with others beside it."""

    dimension: str
    hierarchy: str
    path: MemberPath
    caption: str

    @property
    def members(self) -> MemberSet:
        return MemberSet(self.dimension, self.hierarchy, (self.path,))


def _periods(answer: Answer, model: SemanticModel) -> Iterator[tuple[_Period, _Period]]:
    """The first and the last period that are shown of each calendar, at the finest level that is open."""
    for axis in (answer.rows, answer.columns):
        for place, placement in enumerate(axis.placements):
            placed, members = placement.placed, placement.members
            if not is_calendar(model, model.dimension(placed.dimension)):
                continue
            depth, dated = 0, list[int]()
            for seen in placement.seen_depths:
                here = [at for at, each in enumerate(axis.grains) if each.depths[place : place + 1] == (seen,)]
                here = [at for at in here if place not in axis.grains[at].others]
                codes = np.unique(axis.codes[np.isin(axis.grain, here), place]).tolist()
                # A joint member is no period among others.
                keys = own_members(members).levels[seen].keys
                found = [code for code in codes if code < len(keys) and keys[code] is not None]
                depth, dated = (seen, found) if found else (depth, dated)
            level = members.levels[depth]
            if len(dated) > 1:
                first, last = (
                    _Period(placed.dimension, placed.hierarchy, members.path_of(depth, code), level.captions[code])
                    for code in (dated[0], dated[-1])
                )
                yield first, last


def _unfinished(document: Analysis, answer: Answer, model: SemanticModel, source: Source) -> Iterator[Warning]:
    """The last period shown, where the data ends before it does and others stand beside it, or it is compared with a
    whole one."""
    for _, own in _periods(answer, model) if answer.newest is not None else ():
        last = source.last_day(own.dimension, (own.members,))
        if last is None or answer.newest is None or last <= answer.newest:
            continue
        ends = f"{own.caption} is not finished: the data goes to {day_words(answer.newest)}"
        compared = next((each for each in document.question.measures if _is_whole_change(each)), None)
        if compared is not None and isinstance(compared.view, Change):
            yield Warning(
                "",
                f"{ends}, and its changes are on whole periods.",
                "Compare the same part",
                ShowView(placed=compared, view=replace(compared.view, same_part=True)),
                warning_key("unfinished change", own.caption),
            )
            continue
        yield Warning(
            "",
            f"{ends}, and the period to {day_words(last)}.",
            f"Leave out {own.caption}",
            FilterMembers(
                dimension=own.dimension, hierarchy=own.hierarchy, action="leave_out", members=(own.path,)
            ),
            warning_key("unfinished", own.caption),
        )  # fmt: skip


def _known_in_part(document: Analysis, answer: Answer, model: SemanticModel, source: Source) -> Iterator[Warning]:
    """The first period that is shown, where the data begins well inside of it and others are compared with it."""
    if answer.oldest is None or not any(_looks_back(each, model) for each in document.question.measures):
        return
    begins = int(np.datetime64(answer.oldest, "D").astype(np.int64))
    for own, _ in _periods(answer, model):
        days = source.days(own.dimension)
        days = days[source.allowed_rows(own.dimension, (own.members,))[: len(days)]]
        # Who counts by weeks or at the ends of months has no record of the first days, and the whole all the same.
        if len(days) and days.min() <= begins <= days.max() and 10 * (begins - days.min()) > len(days):
            yield Warning(
                "",
                f"{own.caption} is known in part: the data begins on {answer.oldest}, and what is compared with it is "
                "compared with that part.",
                "", None, warning_key("known in part", own.caption),
            )  # fmt: skip


def _looks_back(placed: PlacedMeasure, model: SemanticModel) -> bool:
    """Whether a placed measure looks at an earlier period."""
    return any(isinstance(each.scope, Earlier) for each in bases_of(shown_formula(placed, model)))
