"""What a reader may see, from the roles that the model describes."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import date

from dastan.core.analysis.document import Question
from dastan.core.analysis.prompts import Answers
from dastan.core.engine.filters import Circumstances, condition_of
from dastan.core.engine.waist import GroupSet, Joined, Rights, RowRule
from dastan.core.model.conditions import MeasureFilter
from dastan.core.model.document import SemanticModel
from dastan.core.model.parts import MemberPath

_NO_RECORD = (Joined("any", ()),)


def rights_of_roles(
    reader: str, roles: Sequence[str], model: SemanticModel, today: date, newest: Callable[[str], str | None]
) -> Rights:
    """The rights that roles give: what any of them lets be seen; without roles, everything.

    A role that the model no longer has lets nothing be seen.
    """
    around = Circumstances(model, today, Answers(Question(), model), newest, _unmeasured, _unlisted)
    known = {each.name: each for each in model.roles}
    rules = []
    for name in roles:
        if name not in known:
            rules.append(RowRule(_NO_RECORD))
            continue
        written = (condition_of(each, around) for each in known[name].conditions)
        rules.append(RowRule(tuple(each for each in written if each is not None), known[name].elsewhere))
    return Rights(reader, tuple(rules))


def _unlisted(name: str) -> tuple[MemberPath, ...]:
    raise AssertionError(f"a role cannot depend on a list ({name})")


def _unmeasured(written: MeasureFilter) -> GroupSet:
    raise AssertionError(f"a role cannot depend on a measure ({written.measure})")
