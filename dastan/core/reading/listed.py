"""Who is on a list just now."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import date

from dastan.core.analysis.captions import member_caption
from dastan.core.analysis.document import Analysis, Question
from dastan.core.analysis.made import with_made
from dastan.core.engine.size import Budget
from dastan.core.engine.waist import Groups, Request, Rights, Source
from dastan.core.engine.watch import Watch
from dastan.core.engine.worked_out import questioner_for
from dastan.core.model.document import MemberList, SemanticModel

SHOWN = 12


@dataclass(frozen=True, slots=True)
class Listed:
    """How many members a list has just now, and what the first of them are called."""

    count: int
    captions: tuple[str, ...]


def listed_now(
    made: MemberList,
    document: Analysis,
    model: SemanticModel,
    source: Source,
    rights: Rights,
    today: date,
    group: Callable[[Request], Groups],
    budget: Budget,
    watch: Watch,
) -> Listed:
    """The members of a list, as its reader may see them, whatever the document asks.

    Args: `made` has a name that is its own.
    """
    bare = replace(document, question=Question(), lists=(*document.lists, made))
    questioner = questioner_for(bare, with_made(model, bare), source, rights, today, group, budget, watch)
    paths = questioner.listed(made.name)
    known = questioner.seen.members(made.dimension, made.hierarchy)
    there = [path for path in paths if known.find(path) is not None]
    return Listed(len(there), tuple(member_caption(path, known) for path in there[:SHOWN]))
