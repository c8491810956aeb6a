"""What every gesture is: one step that a person takes, as the web sends it and a menu offers it."""

from __future__ import annotations

from abc import ABC, abstractmethod
from typing import ClassVar

from dastan.core.analysis.captions import Members, hierarchy_caption, placed_caption
from dastan.core.analysis.document import Analysis
from dastan.core.analysis.placing import placed_in, waiting_in
from dastan.core.analysis.resolve import find_dimension, find_hierarchy
from dastan.core.model.document import SemanticModel
from dastan.core.model.parts import Part


class Step(Part, ABC):
    """A pure function from document to document, with the words that stand on the trail.

    `model` and `members` know what the document makes. A family adds fields, and a `kind` that tells it on the wire.
    """

    __slots__ = ()
    is_dress: ClassVar[bool] = False
    """Whether it changes only how the table looks, so that nothing has to be asked."""
    is_looking: ClassVar[bool] = False
    """Whether it is for those too who may look at an analysis and not rearrange it."""
    says_what_it_keeps: ClassVar[bool] = False
    """Whether its filters are as somebody wrote them, so that no default among them is lifted."""
    may_name_what_is_gone: ClassVar[bool] = False
    """Whether it is for a document that names what its model no longer has."""
    may_leave_some_gone: ClassVar[bool] = False
    """Whether others of such things may be left, to be made up for one after the other."""

    @abstractmethod
    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        """The document after it. Raises NotFoundError, InputError."""

    def check_members(self, members: Members) -> None:
        """Raises InputError for what only the model's members tell. Args: `members` as the person may see them."""

    @abstractmethod
    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        """What it did to the document `before` it."""


class HierarchyStep(Step):
    """A gesture about one hierarchy, whose names it holds."""

    __slots__ = ()
    dimension: str
    hierarchy: str

    @property
    def own(self) -> tuple[str, str]:
        """The names of its dimension and hierarchy."""
        return (self.dimension, self.hierarchy)

    def caption(self, model: SemanticModel) -> str:
        """What people call its hierarchy."""
        dimension = find_dimension(model, self.dimension)
        return hierarchy_caption(dimension, find_hierarchy(dimension, self.hierarchy))

    def placed_caption(self, document: Analysis, model: SemanticModel, level: str | None = None) -> str:
        """What people call its hierarchy where it stands in the table or waits; from a level down where one is said."""
        dimension = find_dimension(model, self.dimension)
        placed = placed_in(document.question, *self.own) or waiting_in(document.question, *self.own)
        level = level or (placed.level if placed is not None else None)
        return placed_caption(dimension, find_hierarchy(dimension, self.hierarchy), level)
