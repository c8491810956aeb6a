"""A formula by itself in a table that is told in words."""

from __future__ import annotations

from dataclasses import replace

from dastan.core.analysis.document import Analysis, MadeMeasure, PlacedMeasure
from dastan.core.errors import InputError
from dastan.core.language.reading import Formula, read_formula
from dastan.core.model.expression import measures_named
from dastan.core.words.reading import read_question
from dastan.core.words.vocabulary import Vocabulary

_NAME = "made_on_trial"


def on_trial(text: str, shown: str, vocabulary: Vocabulary) -> tuple[Analysis, Formula]:
    """The analysis that shows a formula alone. Args: `shown` is a table in words, "by mode against year".

    Raises: FormulaError for the formula; InputError for the words.
    """
    read = read_formula(text, vocabulary)
    model = vocabulary.model
    first = model.measure(measures_named(read.expression)[0])
    question = read_question(f"“{first.caption}” {shown}", vocabulary)
    if question.question is None:
        raise InputError(
            f"“{shown}” cannot be read: {question.fault.message if question.fault else ''}",
            "Write it as in the sentence: by mode against year for 2025.",
        )
    made = MadeMeasure(name=_NAME, caption="Formula", formula=read.expression)
    asked = replace(question.question, measures=(PlacedMeasure(measure=_NAME),))
    return Analysis(model=model.name, question=asked, made=(made,)), read
