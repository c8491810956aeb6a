"""A model document as it is found on the disk: its text, and the folder that its tables lie in."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from dastan.core.errors import SourceError
from dastan.core.model.document import SemanticModel
from dastan.documents.read import read_model

MODEL_NAMES = ("model.yaml", "model.yml")


@dataclass(frozen=True, slots=True)
class WrittenModel:
    """What was read of a document, and where it was."""

    file: Path
    text: str

    @property
    def folder(self) -> Path:
        """Where its tables lie."""
        return self.file.parent

    def read(self) -> SemanticModel:
        """What it says. Raises ModelError."""
        return read_model(self.text, self.file.name)

    def is_current(self) -> bool:
        """Whether it still says the same. Raises OSError, SourceError."""
        return _text_of(self.file) == self.text


def find_written(where: Path) -> WrittenModel:
    """The document of a folder, or the file itself where one is named. Raises SourceError where there is none."""
    file = find_model(where)
    return WrittenModel(file, _text_of(file))


def find_model(where: Path) -> Path:
    """Where the document of a folder lies, or the file itself where one is named. Raises SourceError."""
    if where.is_file():
        return where
    if not where.exists():
        raise SourceError(f"There is no folder {where}.", "Check the path.")
    for name in MODEL_NAMES:
        if (where / name).is_file():
            return where / name
    raise SourceError(
        f"{where} holds no model.yaml.",
        "`dastan propose` makes one from what the files there tell; docs/model.md explains every field.",
    )


def folders_in(folder: Path) -> tuple[Path, ...]:
    """The folders of a folder that hold a model document, by name."""
    folders = sorted(folder.iterdir()) if folder.is_dir() else []
    return tuple(each for each in folders if any((each / name).is_file() for name in MODEL_NAMES))


def _text_of(file: Path) -> str:
    try:
        return file.read_text(encoding="utf-8")
    except UnicodeDecodeError as exc:
        raise SourceError(f"{file.name} is not UTF-8 text.", "Save it as UTF-8.") from exc
