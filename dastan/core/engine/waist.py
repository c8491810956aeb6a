"""The narrow waist: what the engine asks of a source, and what it gets.

Everything above is the same for every source; a source implements `Source` and nothing else.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, replace
from typing import Literal, NamedTuple, Protocol

import numpy as np

from dastan.core.formula.bases import BaseAggregate
from dastan.core.model.conditions import Operator
from dastan.core.model.members import HierarchyMembers
from dastan.core.model.parts import Key, MemberPath
from dastan.core.model.reach import Grain
from dastan.core.values import Values


class LevelRef(NamedTuple):
    """One level of one hierarchy, to group by."""

    dimension: str
    hierarchy: str
    level: str


@dataclass(frozen=True, slots=True)
class MemberSet:
    """Records whose dimension lies below one of the members; or, where not `is_kept`, below none.

    With a `level`, only such as have a member there that is not blank.
    """

    dimension: str
    hierarchy: str
    members: tuple[MemberPath, ...]
    is_kept: bool = True
    level: str | None = None


@dataclass(frozen=True, slots=True)
class AttributeTest:
    """Records whose member has an attribute that compares so. Blanks and records that belong nowhere never do."""

    dimension: str
    attribute: str
    operator: Operator
    values: tuple[Key, ...]
    on: Literal["key", "caption"] = "key"


@dataclass(frozen=True, slots=True)
class DayRange:
    """Records of the days from `first` to `last`, both included, ISO."""

    dimension: str
    first: str
    last: str


@dataclass(frozen=True, slots=True)
class KeyState:
    """Records that belong nowhere in a dimension, by the reason."""

    dimension: str
    state: Literal["left_blank", "key_unknown"]


@dataclass(frozen=True, slots=True)
class GroupSet:
    """Records whose members at some levels stand together in a list of groups.

    `packed` holds the groups' codes, `(n_groups, n_levels) int32`, as bytes, so that equal sets are equal.
    """

    levels: tuple[LevelRef, ...]
    packed: bytes

    @property
    def codes(self) -> np.ndarray:
        """`(n_groups, n_levels) int32`."""
        return np.frombuffer(self.packed, np.int32).reshape(-1, len(self.levels))


def group_set(levels: tuple[LevelRef, ...], codes: np.ndarray) -> GroupSet:
    """The set of those groups. Args: `codes` are `(n_groups, n_levels)`."""
    return GroupSet(levels, np.ascontiguousarray(codes, np.int32).tobytes())


@dataclass(frozen=True, slots=True)
class Joined:
    """Records for which all of the parts hold, or any of them. No parts: all hold, and none does."""

    join: Literal["all", "any"]
    parts: tuple[Condition, ...]


@dataclass(frozen=True, slots=True)
class Not:
    """Records for which the part does not hold.

    Where a record belongs to several members, each of them is looked at by itself; but of the hierarchy `rest_of`, by
    its dimension and name, all together: the part holds for none.
    """

    part: Condition
    rest_of: tuple[str, str] | None = None


Condition = MemberSet | AttributeTest | DayRange | KeyState | GroupSet | Joined | Not
Conditions = tuple[Condition, ...]
"""Every one of them holds: they are joined by *and*."""


def dimensions_of(condition: Condition) -> set[str]:
    """The dimensions that a condition looks at."""
    match condition:
        case GroupSet(levels):
            return {each.dimension for each in levels}
        case Joined(_, parts):
            return {name for each in parts for name in dimensions_of(each)}
        case Not(part):
            return dimensions_of(part)
        case _:
            return {condition.dimension}


def has_groups(condition: Condition) -> bool:
    """Whether a condition looks at groups of members."""
    match condition:
        case GroupSet():
            return True
        case Joined(_, parts):
            return any(has_groups(each) for each in parts)
        case Not(part):
            return has_groups(part)
        case _:
            return False


@dataclass(frozen=True, slots=True)
class RowRule:
    """The records that a role lets its people see: those for which every condition holds.

    `elsewhere` is what they see of records that a condition's dimension does not reach.
    """

    rows: Conditions
    elsewhere: Literal["nothing", "everything"] = "nothing"


@dataclass(frozen=True, slots=True)
class Rights:
    """Who is asking, and the records that this person may see. There is no request without.

    A record is seen where any of the rules lets it; without rules every record is.
    """

    reader: str
    rules: tuple[RowRule, ...] = ()

    @property
    def alone(self) -> Rights:
        """The same rights, whoever has them: what they let be seen is the same for all of those."""
        return replace(self, reader="")

    def conditions(self, reached: Callable[[str], bool]) -> Conditions:
        """What holds for every record that may be seen, of records that some dimensions reach."""
        allowed: list[Condition] = []
        for rule in self.rules:
            far = [each for each in rule.rows if not all(reached(name) for name in dimensions_of(each))]
            if far and rule.elsewhere == "nothing":
                continue
            near = tuple(each for each in rule.rows if each not in far)
            if not near:
                return ()
            allowed.append(near[0] if len(near) == 1 else Joined("all", near))
        if not self.rules:
            return ()
        return (allowed[0] if len(allowed) == 1 else Joined("any", tuple(allowed)),)

    def about(self, dimension: str) -> Conditions:
        """What holds for a dimension's own rows, so that lists of its members show only what may be seen."""
        allowed: list[Condition] = []
        for rule in self.rules:
            own = tuple(each for each in rule.rows if dimensions_of(each) <= {dimension})
            if not own:
                return ()
            allowed.append(Joined("all", own))
        return (Joined("any", tuple(allowed)),) if allowed else ()


@dataclass(frozen=True, slots=True)
class Request:
    """One grouped request: one fact, the levels to group by, what to compute, and over which records."""

    grain: Grain
    levels: tuple[LevelRef, ...]
    aggregates: tuple[BaseAggregate, ...]
    condition: Conditions
    rights: Rights
    along: tuple[tuple[LevelRef, ...], ...] = field(default=(), compare=False)
    """Levels by which the same will be asked for next: a source may answer some of them along with it."""


@dataclass(frozen=True, slots=True, eq=False)
class Groups:
    """One row per group that has records, in ascending order of its codes.

    `codes` holds one `(n_groups,) int32` array of member codes per level of the request, `values` one
    `Values` per aggregate. Without levels there is one group, or none when no record is in scope.
    """

    codes: tuple[np.ndarray, ...]
    values: tuple[Values, ...]
    along: dict[tuple[LevelRef, ...], Groups] = field(default_factory=dict)
    """What was answered along with it, by its levels."""

    def __len__(self) -> int:
        if self.codes:
            return len(self.codes[0])
        return len(self.values[0]) if self.values else 0


@dataclass(frozen=True, slots=True)
class OpenAt:
    """Records that began by a day, ISO, and had not ended by then; `started` and `ended` are columns."""

    started: str
    ended: str
    day: str


@dataclass(frozen=True, slots=True)
class RecordsRequest:
    """Asks for the records behind a cell: `count` of them from number `start` on.

    In the table's own order, or in order of a column, blanks last. `search` keeps those with such a text in one
    of the `columns`, which are all without; those in `also` come along unsearched.
    """

    grain: Grain
    condition: Conditions
    rights: Rights
    start: int = 0
    count: int = 100
    open_at: OpenAt | None = None
    columns: tuple[str, ...] = ()
    also: tuple[str, ...] = ()
    order: str | None = None
    descending: bool = False
    search: str = ""


@dataclass(frozen=True, slots=True)
class RecordPage:
    """Some records as they stand in their table: `total` fulfil the condition, `found` of these the search.

    `belongs` tells, per dimension that reaches them by a key, why a record belongs nowhere in it; "" where it
    does belong. `captions` names, per column that points at a dimension, the member that it means, "" for none.
    """

    total: int
    columns: tuple[str, ...]
    rows: tuple[tuple[object, ...], ...]
    belongs: dict[str, tuple[Literal["", "left_blank", "key_unknown"], ...]]
    found: int = 0
    captions: dict[str, tuple[str, ...]] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class DataSpan:
    """The first and the last date of a fact's records, ISO."""

    first: str
    last: str


@dataclass(frozen=True, slots=True)
class LoadedDays:
    """The first and the last day, ISO, that have records, and how many have."""

    first: str
    last: str
    count: int


class Source(Protocol):
    """Where rows come from."""

    def group(self, request: Request) -> Groups:
        """Groups the records. Raises LimitError when an exact sum does not fit."""
        ...

    def members(self, dimension: str, hierarchy: str) -> HierarchyMembers:
        """All members of a hierarchy with levels."""
        ...

    def span(self, grain: Grain, dimension: str | None = None) -> DataSpan | None:
        """The dates of a fact's records: by that calendar, or by the first that reaches it."""
        ...

    def allowed_rows(self, dimension: str, condition: Conditions) -> np.ndarray:
        """`(n_rows + 2,) bool`: the rows of a dimension for which conditions that look at it alone hold."""
        ...

    def record_count(self, grain: Grain) -> int:
        """How many records a fact has, whoever asks."""
        ...

    def records(self, request: RecordsRequest) -> RecordPage:
        """The records themselves. Raises SourceError for a column that is not there."""
        ...

    def record_pages(self, request: RecordsRequest) -> Iterator[RecordPage]:
        """All of the records, `count` at a time, chosen and put in order once."""
        ...

    def record_values(self, request: RecordsRequest, aggregate: BaseAggregate) -> Values:
        """What an aggregate is computed from, one value for each record that fulfils the condition.

        Of what is counted distinct, equal numbers stand for equal values.
        """
        ...

    def loaded_days(self, grain: Grain, time: str, condition: Conditions) -> LoadedDays | None:
        """The days of a calendar for which records are loaded, whoever asks; None where there are none."""
        ...

    def days(self, dimension: str) -> np.ndarray:
        """`(n_rows,) int64`: the day of each row of a calendar, counted from 1970."""
        ...

    def last_day(self, time: str, condition: Conditions) -> str | None:
        """The last day of a calendar for which conditions on it alone hold, loaded or not."""
        ...

    def table_columns(self, table: str) -> tuple[str, ...]:
        """The columns of a fact's records."""
        ...
