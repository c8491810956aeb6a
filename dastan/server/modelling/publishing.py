"""Publishing a model: what would change by it, and the one moment in which it does."""

from __future__ import annotations

import hashlib
import sqlite3
from dataclasses import dataclass
from pathlib import Path

from dastan.core.analysis.following import Effect, EffectKind, effect_on, renames_of
from dastan.core.engine.watch import Watch
from dastan.core.errors import AppError, ConflictError, InputError, SourceError
from dastan.core.model.differences import Difference, differences, touched
from dastan.core.model.document import SemanticModel
from dastan.core.model.named import with_renames
from dastan.documents.read import read_analysis, read_model, write_analysis
from dastan.records.analyses import change_analysis
from dastan.records.database import transaction
from dastan.records.events import note_event
from dastan.records.modelling import (
    analyses_of_model,
    discard_model_draft,
    model_draft,
    model_versions,
    put_model_version,
)
from dastan.records.models import rename_model
from dastan.records.people import Person
from dastan.server.clock import now
from dastan.server.modelling.drafts import OpenDraft, reread
from dastan.server.modelling.workbench import Workbench
from dastan.sources.files.written import WrittenModel

_DRAFT = ".changed.yaml"


@dataclass(frozen=True, slots=True)
class AffectedAnalysis:
    """A saved analysis that does not go on as it was. Its name and owner; whoever shapes a model is told of all."""

    name: str
    owner: str
    kind: EffectKind
    words: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Changes:
    """What would change: in the model, and in what analyses."""

    differences: tuple[Difference, ...]
    analyses: tuple[AffectedAnalysis, ...]
    untouched: int
    """So many analyses go on as they were."""
    in_use: str
    """Tells the document that is in use: whoever publishes says which one it takes the place of."""


def mark_of(written: WrittenModel) -> str:
    """What tells a document from others."""
    return hashlib.sha256(written.text.encode()).hexdigest()[:16]


def changes_of(connection: sqlite3.Connection, draft: OpenDraft) -> Changes:
    """What the publication of a draft would change."""
    after = draft.model()
    try:
        before = draft.written.read()
    except AppError:  # what is in use cannot be opened: everything is new
        return Changes((), (), 0, mark_of(draft.written))
    found = differences(before, after)
    touches = touched(before, after)
    affected, untouched = [], 0
    for each in analyses_of_model(connection, after.name):
        try:
            effect = effect_on(read_analysis(each.document), before, after, found, touches)
        except AppError as error:  # a document that cannot be read was so before
            effect = Effect("breaks", (error.message,)) if found else None
        if effect is None:
            untouched += 1
        else:
            affected.append(AffectedAnalysis(each.name, each.owner_name, effect.kind, effect.words))
    order: tuple[EffectKind, ...] = ("breaks", "changes", "follows", "mended")
    affected.sort(key=lambda each: order.index(each.kind))
    return Changes(found, tuple(affected), untouched, mark_of(draft.written))


def publish(
    connection: sqlite3.Connection, draft: OpenDraft, in_use: str, person: Person, workbench: Workbench, watch: Watch
) -> SemanticModel:
    """Puts a draft in place of the document that is in use, once it has been opened with its files; analyses follow
    what is renamed. All of it, or nothing.

    Raises: InputError where nothing would change; ConflictError where another document is in use than was looked at;
        SourceError, ModelError where the draft does not fit its files, or nothing can be written.
    """
    model, text = draft.model(), draft.text()
    written = reread(draft.written)
    if mark_of(written) != in_use:
        raise ConflictError("The model that is in use was changed meanwhile.", "Look again at what would change.")
    if text == written.text:
        raise InputError("Nothing would change.", "Change something first.")
    workbench.tried(written.folder, model, watch)
    found = _differences(written, model)
    words = " ".join(each.words for each in found)[:2_000] or "Comments, or how it is written."
    beside = written.file.with_name(f"{written.file.stem}{_DRAFT}")
    try:
        beside.write_text(text, encoding="utf-8")
    except OSError as error:
        raise _unwritable(written.file, error) from error
    try:
        if read_model(text, written.file.name) != model:
            raise SourceError("The model could not be written so that it says the same.", "Change it in the text.")
        with transaction(connection):
            kept = model_draft(connection, model.name)
            if kept is None or kept.shown_step != draft.shown:
                raise ConflictError(
                    "Somebody else has changed the draft meanwhile.", "Look at what they did; then publish it again."
                )
            if not model_versions(connection, model.name):
                put_model_version(connection, model.name, written.text, "as it was before", None, now())
            put_model_version(connection, model.name, text, words, person.id, now())
            _carry_renames(connection, model, found, person)
            rename_model(connection, model.name, model.caption)
            discard_model_draft(connection, model.name)
            note_event(connection, now(), "model_changed", person.id, f"{model.caption}: {words}")
            # The last thing that may fail: where it does, the records say nothing of it either.
            beside.replace(written.file)
    except OSError as error:
        raise _unwritable(written.file, error) from error
    finally:
        beside.unlink(missing_ok=True)
    return model


def _differences(written: WrittenModel, after: SemanticModel) -> tuple[Difference, ...]:
    try:
        return differences(written.read(), after)
    except AppError:
        return ()


def _carry_renames(
    connection: sqlite3.Connection, model: SemanticModel, found: tuple[Difference, ...], person: Person
) -> None:
    """Lets saved analyses name what they name as it is called now, each as a version of its own."""
    renames = renames_of(found)
    for each in analyses_of_model(connection, model.name) if renames else ():
        try:
            document = read_analysis(each.document)
        except AppError:  # it could not be read before either
            continue
        followed = with_renames(document, renames)
        if followed is not document:
            change_analysis(
                connection, id=each.id, version=each.version, person=person.id, name=each.name,
                description=each.description, document=write_analysis(followed).decode(), sentence=each.sentence,
                now=now(),
            )  # fmt: skip


def _unwritable(file: Path, error: OSError) -> SourceError:
    return SourceError(
        f"{file.name} cannot be written: {error.strerror}.",
        "Let the server write to the model's folder, or take the text and put it there yourself.",
    )
