"""Who may do what: the one place where that is decided."""

from __future__ import annotations

from dastan.core.errors import ForbiddenError
from dastan.records.analyses import SavedAnalysis
from dastan.records.people import Person


def require_change(analysis: SavedAnalysis) -> None:
    """Raises ForbiddenError unless the person it was read for may change it."""
    if not analysis.may_change:
        raise ForbiddenError(
            f'"{analysis.name}" belongs to {analysis.owner_name}, who lets you read it but not change it.',
            "Save a copy of your own.",
        )


def require_owner(analysis: SavedAnalysis, person: Person) -> None:
    """Raises ForbiddenError unless the person owns it: only owners share and remove."""
    if analysis.owner != person.id:
        raise ForbiddenError(
            f'"{analysis.name}" belongs to {analysis.owner_name}, and only they can share or remove it.',
            "Save a copy of your own.",
        )
