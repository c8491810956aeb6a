"""A model's draft: the document that is in use, and the steps that were taken from it."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass, replace
from uuid import uuid4

import orjson

from dastan.core.analysis.document import Analysis
from dastan.core.analysis.moving import MovedKind, moved
from dastan.core.errors import ConflictError, FormulaError, InputError
from dastan.core.language.of_models import read_formula_of_model
from dastan.core.model.document import SemanticModel
from dastan.core.model.gestures import ModelGesture, PutMeasure, apply_to_model
from dastan.documents.read import MODEL, plain_model, read_model
from dastan.documents.write import rewritten
from dastan.records.modelling import (
    ModelDraft,
    ModelStepKept,
    begin_model_draft,
    keep_model_step,
    model_draft,
    show_model_step,
)
from dastan.server.clock import now
from dastan.sources.files.written import WrittenModel, find_written


@dataclass(frozen=True, slots=True)
class OpenDraft:
    """A model's draft as it is shown, or the model as it is in use where nobody has changed it."""

    written: WrittenModel
    kept: ModelDraft | None

    @property
    def base(self) -> str:
        """The text that its first step was taken from."""
        return self.kept.base if self.kept is not None else self.written.text

    @property
    def shown(self) -> str | None:
        return self.kept.shown_step if self.kept is not None else None

    @property
    def is_stale(self) -> bool:
        """Whether another document is in use than the one that it was begun from."""
        return self.base != self.written.text

    @property
    def steps(self) -> tuple[ModelStepKept, ...]:
        return self.kept.steps if self.kept is not None else ()

    def step(self) -> ModelStepKept | None:
        """The step that is shown."""
        return next((each for each in self.steps if each.id == self.shown), None)

    def model(self) -> SemanticModel:
        """The model that is shown. Raises ModelError where what is in use has a fault."""
        step = self.step()
        if step is None:
            return read_model(self.base, self.written.file.name)
        return MODEL.validate_python(orjson.loads(step.document))

    def text(self) -> str:
        """The model that is shown as text: what somebody wrote last, changed by the steps after it."""
        step = self.step()
        by_id = {each.id: each for each in self.steps}
        while step is not None and step.text is None:
            step = by_id.get(step.parent) if step.parent is not None else None
        start = step.text if step is not None and step.text is not None else self.base
        return start if step is not None and step is self.step() else rewritten(start, self.model())


def open_draft(connection: sqlite3.Connection, written: WrittenModel) -> OpenDraft:
    """The draft of a model. Raises ModelError where its document cannot be read, and it has no draft."""
    return OpenDraft(written, model_draft(connection, name_in(written)))


def name_in(written: WrittenModel) -> str:
    """What a model is called by its document. Raises ModelError."""
    return written.read().name


def take_step(
    connection: sqlite3.Connection, draft: OpenDraft, gesture: ModelGesture, from_step: str | None, person: str
) -> None:
    """Takes a step from the one that is shown, and keeps it.

    Raises: InputError where the gesture cannot be; ConflictError where another step is shown by now.
    """
    check_shown(draft, from_step)
    before = draft.model()
    after = apply_to_model(before, gesture)
    if after == before:
        raise InputError("That is so already.", "Nothing was changed.")
    keep(connection, draft, after, gesture.words(before), person)


def take_moved(
    connection: sqlite3.Connection, draft: OpenDraft, document: Analysis, kind: MovedKind, name: str, person: str
) -> None:
    """Puts what an analysis makes into a model's draft, as one step. Called in a transaction."""
    before = draft.model()
    gestures = moved(document, before, kind, name)
    after, words = before, ""
    for each in gestures:
        words = each.words(after)
        after = apply_to_model(after, each)
    if after == before:
        raise InputError("The model has it already.", "Publish the model's draft, and everybody has it.")
    keep(connection, draft, after, words, person)


def with_formula_text(draft: OpenDraft, gesture: PutMeasure, text: str) -> PutMeasure:
    """A measure with the formula that somebody wrote. Raises InputError where it cannot be read."""
    model = draft.model()
    rest = tuple(each for each in model.measures if each.name != gesture.measure.name)
    try:
        formula = read_formula_of_model(text, gesture.measure.name, replace(model, measures=rest))
    except FormulaError as error:
        raise InputError(error.message, error.hint) from error
    return replace(gesture, measure=replace(gesture.measure, aggregate="formula", formula=formula, expression=None))


def take_text(
    connection: sqlite3.Connection, draft: OpenDraft, text: str, from_step: str | None, person: str, words: str = ""
) -> None:
    """Takes what somebody wrote as a step. Raises ModelError with every fault; InputError where its name is another."""
    check_shown(draft, from_step)
    model, known = read_model(text, draft.written.file.name), draft.model()
    if model.name != known.name:
        raise InputError(
            f"The model is called “{model.name}” there, and was “{known.name}”.",
            f"Leave `name: {known.name}`, by which analyses find it; its caption may be another.",
        )
    if text == draft.text():
        raise InputError("That is what it says already.", "Nothing was changed.")
    words = words or ("wrote in the text" if model != known else "wrote comments in the text")
    keep(connection, draft, model, words, person, text)


def check_shown(draft: OpenDraft, step: str | None) -> None:
    """Raises ConflictError unless that step is shown."""
    if draft.shown != step:
        raise ConflictError(
            "Somebody else has changed the model meanwhile.", "Look at what they did; then take your step again."
        )


def keep(
    connection: sqlite3.Connection, draft: OpenDraft, model: SemanticModel, words: str, person: str,
    text: str | None = None,
) -> None:  # fmt: skip
    """Keeps a step. Called in a transaction."""
    if draft.kept is None:
        begin_model_draft(connection, model.name, draft.written.text, now())
    document = orjson.dumps(plain_model(model)).decode()
    keep_model_step(
        connection, model.name, id=uuid4().hex, parent=draft.shown, words=words, document=document, text=text,
        person=person, now=now(),
    )  # fmt: skip


def show(connection: sqlite3.Connection, draft: OpenDraft, step: str | None) -> None:
    """Shows another step. Called in a transaction."""
    if draft.kept is not None:
        show_model_step(connection, name_in(draft.written), step, now())


def reread(written: WrittenModel) -> WrittenModel:
    """A document as it is now."""
    return find_written(written.file)
