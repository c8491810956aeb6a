"""Whether what was written can be asked, before anybody asks it."""

from __future__ import annotations

from dataclasses import replace

from dastan.core.analysis.document import Analysis
from dastan.core.analysis.gestures import Rewrite, apply_gesture
from dastan.core.errors import AppError
from dastan.core.model.document import SemanticModel
from dastan.core.words.reading import Reading


def tried(reading: Reading, document: Analysis, model: SemanticModel) -> Reading:
    """The reading, with the reason why it could not be asked in place of the document's question, if there is one."""
    if reading.question is None:
        return reading
    asked = Rewrite(question=reading.question, levels_seen=reading.levels_seen, numbers=reading.numbers)
    try:
        apply_gesture(document, asked, model)
    except AppError as refused:
        return replace(reading, refusal=str(refused))
    return reading
