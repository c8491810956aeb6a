"""A document of a written sentence: what the workspace begins with when the first thing done there is to write it."""

from __future__ import annotations

from dastan.core.analysis.document import Analysis
from dastan.core.analysis.gestures import Rewrite, apply_gesture
from dastan.core.errors import InputError
from dastan.core.words.reading import read_question
from dastan.core.words.vocabulary import Vocabulary


def document_of(text: str, vocabulary: Vocabulary) -> Analysis:
    """The analysis that a sentence asks for, with the model's defaults. Raises InputError for what is not understood,
    AppError for what cannot be asked."""
    found = read_question(text, vocabulary)
    if found.question is None:
        fault = found.fault
        near = " or ".join(f"“{each}”" for each in fault.near) if fault is not None else ""
        could = ", ".join(f"“{each}”" for each in found.completions[:3])
        hint = f"Did you mean {near}?" if near else f"It could go on: {could}." if could else "Begin with a measure."
        raise InputError(fault.message if fault is not None else "This is not understood.", hint)
    asked = Rewrite(question=found.question, levels_seen=found.levels_seen, numbers=found.numbers)
    return apply_gesture(Analysis(model=vocabulary.model.name), asked, vocabulary.model)
