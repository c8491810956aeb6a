"""Why a cell, or the whole table, has no records: which of what holds there empties it, alone or with another."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations

from dastan.core.analysis.captions import Members, member_caption
from dastan.core.analysis.condition_words import condition_words
from dastan.core.engine.answer import Answer
from dastan.core.engine.filters import reached_by
from dastan.core.engine.plan import Shape
from dastan.core.engine.questioner import Questioner
from dastan.core.engine.waist import Conditions, RecordsRequest
from dastan.core.model.formulas import counted_by
from dastan.core.model.meaning import parts_of
from dastan.core.reading.backing import CellPlace, header_conditions, limit_conditions

MOST_PAIRS = 45


@dataclass(frozen=True, slots=True)
class Cause:
    """Something that holds for the cell: `alone` records fulfil it by itself, `without` are left when it is lifted.

    `at` is the filter's place in the document; None for a header or a limit, which no click lifts.
    """

    words: str
    at: int | None
    alone: int
    without: int


@dataclass(frozen=True, slots=True)
class CausePair:
    """Two filters that empty it only together: `without` are left when both are lifted."""

    words: str
    at: tuple[int, ...]
    without: int


@dataclass(frozen=True, slots=True)
class WhyEmpty:
    """`all_records` are those that may be seen at all, `left` those that everything together leaves."""

    all_records: int
    left: int
    causes: tuple[Cause, ...]
    pairs: tuple[CausePair, ...]


@dataclass(frozen=True, slots=True)
class _Held:
    words: str
    at: int | None
    condition: Conditions


def why_empty(answer: Answer, place: CellPlace, questioner: Questioner, shape: Shape, members: Members) -> WhyEmpty:
    """What leaves a cell's measure without records. The whole table is its grand total."""
    part = parts_of(answer.measures[place.measure], questioner.model)[0]
    records = questioner.records_of(counted_by(part))
    reached = questioner.reached(records.grain)
    held: list[_Held] = []
    document = questioner.document
    for at, each in enumerate(document.question.filters):
        condition = reached_by(questioner.condition_of(each), reached)
        if condition:
            words = condition_words(each, document.question, questioner.model, members).text
            held.append(_Held(f"{'for' if each.action == 'keep' else 'without'} {words}", at, condition))
    for axis, entry in ((answer.rows, place.row), (answer.columns, place.column)):
        for header in header_conditions(axis, entry):
            caption = member_caption(header.members[0], members(header.dimension, header.hierarchy))
            held.append(_Held(f"under {caption}", None, (header,)))
    limits = reached_by(limit_conditions(answer, place, shape), reached)
    if limits:
        held.append(_Held("what the limits leave", None, limits))

    def count(among: list[_Held]) -> int:
        condition = records.condition + tuple(one for each in among for one in each.condition)
        request = RecordsRequest(records.grain, condition, questioner.rights, count=0)
        return questioner.source.records(request).total

    causes = tuple(
        Cause(each.words, each.at, count([each]), count([other for other in held if other is not each]))
        for each in held
    )
    filters = [each for each in held if each.at is not None]
    pairs = []
    if not any(each.without for each in causes if each.at is not None):
        for one, other in list(combinations(filters, 2))[:MOST_PAIRS]:
            left = count([each for each in held if each not in (one, other)])
            if left:
                pairs.append(CausePair(f"{one.words}, and {other.words}", (one.at or 0, other.at or 0), left))
    return WhyEmpty(count([]), count(held), causes, tuple(pairs))
