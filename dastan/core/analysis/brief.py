"""An analysis in brief, as a list shows it: what it uses, and the outline of its table or chart. Of numbers and members
there is nothing in it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from dastan.core.analysis.document import Analysis, ChartForm
from dastan.core.analysis.names import parts_in
from dastan.core.analysis.views import calendars_of
from dastan.core.model.document import SemanticModel


@dataclass(frozen=True, slots=True)
class Outline:
    """How many hierarchies stand on the rows and on the columns, how many measures on which axis, and what is drawn."""

    rows: int
    columns: int
    measures: int
    measures_on: Literal["rows", "columns"]
    view: Literal["table", "chart", "both"]
    form: ChartForm


@dataclass(frozen=True, slots=True)
class Brief:
    """`uses` are the captions and synonyms of measures and dimensions that it names, each once."""

    uses: tuple[str, ...]
    outline: Outline


def brief_of(document: Analysis, model: SemanticModel) -> Brief:
    """Says what a document uses of a model. What the model no longer has is left out."""
    question, dress = document.question, document.dress
    along_time = {each.dimension for each in (*question.rows, *question.columns)} & set(calendars_of(model))
    outline = Outline(
        len(question.rows), len(question.columns), len(question.measures), question.measures_on, dress.view,
        dress.chart.form or ("lines" if along_time else "bars"),
    )  # fmt: skip
    return Brief(tuple(dict.fromkeys(_uses(document, model))), outline)


def _uses(document: Analysis, model: SemanticModel) -> Iterator[str]:
    named = list(parts_in(document.question))
    measures = {str(getattr(each, "measure", "")) for each in named}
    dimensions = {str(getattr(each, "dimension", "")) for each in named}
    for known, names in ((model.measures, measures), (model.dimensions, dimensions)):
        for each in known:
            if each.name in names:
                yield each.caption
                yield from each.synonyms
    yield from (made.caption for made in document.made if made.name in measures)
