"""A proposed model as the document that stands beside its files from then on."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from dastan.core.engine.watch import Watch
from dastan.core.errors import SourceError
from dastan.core.model.document import SemanticModel
from dastan.documents.write import written
from dastan.sources.files.looking.folder import propose_model
from dastan.sources.files.packed import TABLES, kind_of
from dastan.sources.files.written import MODEL_NAMES

PROPOSED = """\
# Proposed by Dastan from what the files tell. It is yours to change: docs/model.md explains every field.
# What nobody has confirmed yet stands at the end, under `assumed`: take away what is right, and mend what is not.
"""


@dataclass(frozen=True, slots=True)
class Proposed:
    """A document that was made."""

    file: Path
    model: SemanticModel


def document_beside(where: Path) -> Path:
    """Where the document of a folder lies, or would; of a file with data, the one beside it of the same name."""
    if where.is_dir():
        return next((where / each for each in MODEL_NAMES if (where / each).is_file()), where / MODEL_NAMES[0])
    is_data = kind_of(where) in TABLES
    return where.with_name(f"{where.name.split('.')[0]}.yaml") if is_data else where


def propose_beside(where: Path, watch: Watch | None = None) -> Proposed:
    """Proposes a model for a folder, or for one file, and writes it beside. One that is there is never written over.

    Raises: SourceError where there is a document already, nothing to read, or no right to write.
    """
    file = document_beside(where)
    if file.exists():
        raise SourceError(f"{file} is there already.", "Take it away, or give it another name, to have one proposed.")
    model = propose_model(where, watch)
    try:
        with file.open("x", encoding="utf-8") as opened:
            opened.write(written(model, PROPOSED))
    except OSError as error:
        raise SourceError(
            f"{file} cannot be written: {error.strerror}.", "Copy the files into a folder that you may write to."
        ) from error
    return Proposed(file, model)
