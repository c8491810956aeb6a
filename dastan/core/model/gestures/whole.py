"""Gestures on the model as a whole: what it is called, and what was taken to be so."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from dastan.core.errors import InputError
from dastan.core.model.document import SemanticModel
from dastan.core.model.gestures.step import ModelStep, check_caption


@dataclass(frozen=True, slots=True, kw_only=True)
class DescribeModel(ModelStep):
    """Changes what the model is called, or what is said of it."""

    caption: str | None = None
    description: str | None = None
    kind: Literal["describe_model"] = "describe_model"

    def applied(self, model: SemanticModel) -> SemanticModel:
        if self.caption is not None:
            check_caption(self.caption, "A model")
        caption = model.caption if self.caption is None else self.caption
        return replace(
            model,
            caption=caption,
            description=model.description if self.description is None else self.description,
        )

    def words(self, before: SemanticModel) -> str:
        if self.caption is not None and self.caption != before.caption:
            return f"called it “{self.caption}”"
        return "described it"


@dataclass(frozen=True, slots=True, kw_only=True)
class Confirm(ModelStep):
    """Confirms what was taken to be so: one thing, or all without naming any."""

    about: str | None = None
    says: str | None = None
    kind: Literal["confirm"] = "confirm"

    def applied(self, model: SemanticModel) -> SemanticModel:
        kept = tuple(
            each for each in model.assumed if self.about is not None and not self._is_meant(each.about, each.says)
        )
        if len(kept) == len(model.assumed):
            raise InputError("This is confirmed already.", "Nothing is to be done.")
        return replace(model, assumed=kept)

    def _is_meant(self, about: str, says: str) -> bool:
        return self.about is None or (about == self.about and self.says in (None, says))

    def words(self, before: SemanticModel) -> str:
        if self.about is None:
            return f"confirmed all {len(before.assumed)} things"
        return f"confirmed {self.says or self.about}"
