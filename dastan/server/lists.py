"""Lists of members: those there are, and one as it is being made."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import date

from dastan.core.analysis.checks import check_document
from dastan.core.analysis.condition_words import list_words, told_of_records
from dastan.core.analysis.document import Analysis
from dastan.core.analysis.drafted_list import drafted_list, suggested_name
from dastan.core.analysis.lists import check_list_name, find_list, list_used_by
from dastan.core.analysis.made import with_made
from dastan.core.analysis.offer import Thing
from dastan.core.analysis.resolve import find_dimension, find_hierarchy
from dastan.core.engine.size import Budget
from dastan.core.engine.watch import Watch
from dastan.core.errors import InputError, LimitError, NotFoundError
from dastan.core.model.document import MemberList
from dastan.core.reading.listed import listed_now
from dastan.server.readers import Reader

_ON_TRIAL = "list_on_trial"


@dataclass(frozen=True, slots=True)
class ShownList:
    """A list of members as the catalogue has it: what it is in words, and where it is used."""

    name: str
    caption: str
    dimension: str
    hierarchy: str
    of: str
    says: str
    description: str
    used_by: tuple[str, ...]


def lists_for(document: Analysis, reader: Reader) -> tuple[ShownList, ...]:
    """The lists that a document may name: its own, then its model's."""
    model, members = with_made(reader.shelved.model, document), reader.members_of(document)
    both = [("analysis", each) for each in document.lists]
    both += [("model", each) for each in reader.shelved.model.lists]
    return tuple(
        ShownList(
            each.name, each.caption, each.dimension, each.hierarchy, of, list_words(each, model, members),
            each.description, tuple(list_used_by(document, each.name)),
        )
        for of, each in both
    )  # fmt: skip


@dataclass(frozen=True, slots=True)
class DraftedList:
    """A list as somebody is making it: in words, how many members it has just now and what some are called, and what
    each condition on its records is called; what it may be called; or what is wrong with it."""

    made: MemberList
    says: str
    count: int
    captions: tuple[str, ...]
    over: tuple[str, ...]
    suggested: str
    fault: str
    hint: str


def begun_list(document: Analysis, thing: Thing, reader: Reader, budget: Budget, watch: Watch) -> DraftedList:
    """A list to begin with: one that was made here, a copy of the model's, or what a thing suggests."""
    model, members = with_made(reader.shelved.model, document), reader.members_of(document)
    filters = document.question.filters
    filtered = filters[thing.at] if thing.at is not None and 0 <= thing.at < len(filters) else None
    name = thing.list if thing.kind == "list" else getattr(filtered, "list", None)
    if name is None:
        paths = (thing.path, *thing.more) if thing.path else ()
        dimension = find_dimension(model, thing.dimension or "")
        hierarchy = find_hierarchy(dimension, thing.hierarchy or dimension.hierarchies[0].name)
        own = (dimension.name, hierarchy.name)
        made = drafted_list(document, *own, tuple(dict.fromkeys(paths)), model, members)
    else:
        made = find_list(model, name)
        if made not in document.lists:
            known = members(made.dimension, made.hierarchy)
            seen = tuple(path for path in made.members if known.find(path) is not None)
            made = replace(made, name="", caption=f"{made.caption}, my own", members=seen)
    return read_list(document, made, reader, budget, watch)


def read_list(document: Analysis, made: MemberList, reader: Reader, budget: Budget, watch: Watch) -> DraftedList:
    """A list with what it has just now, or what is wrong with it."""
    shelved, members = reader.shelved, reader.members_of(document)
    model = with_made(shelved.model, document)
    others = replace(document, lists=tuple(each for each in document.lists if each.name != made.name))
    tried = replace(made, name=made.name or _ON_TRIAL, caption=made.caption.strip() or "This list")
    says, suggested, fault, hint, count = "", "", "", "", 0
    captions: tuple[str, ...] = ()
    over: tuple[str, ...] = ()
    try:
        check_document(replace(others, lists=(*others.lists, tried)), shelved.model)
        says = list_words(tried, model, members)
        suggested = suggested_name(tried, model, members)
        over = tuple(told_of_records(each, model, members) for each in made.over)
        found = listed_now(
            tried, others, shelved.model, shelved.source, reader.rights, date.today(), shelved.group,
            budget, watch,
        )  # fmt: skip
        count, captions = found.count, found.captions
        check_list_name(made, model)
    except (InputError, NotFoundError, LimitError) as error:
        fault, hint = error.message, error.hint
    return DraftedList(made, says, count, captions, over, suggested, fault, hint)
