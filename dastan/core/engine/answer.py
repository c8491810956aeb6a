"""The way in: a document becomes an answer."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import date

import numpy as np

from dastan.core.analysis.alternatives import without_totals_over_alternatives
from dastan.core.analysis.checks import check_document
from dastan.core.analysis.document import AXES, Analysis
from dastan.core.analysis.made import with_made
from dastan.core.analysis.placed import shown_measure
from dastan.core.analysis.views import is_itself
from dastan.core.engine.arranging import Cells, arranged, without_empty_headers
from dastan.core.engine.axes import Axis
from dastan.core.engine.cache import GroupCache
from dastan.core.engine.cells_on_rows import seen_alone
from dastan.core.engine.differing import NEITHER, Both, with_differences
from dastan.core.engine.layout import Lines, lay_out
from dastan.core.engine.margins import Margin, margins_of
from dastan.core.engine.part_filled import with_part_filled
from dastan.core.engine.plan import Shape
from dastan.core.engine.questioner import Questioner
from dastan.core.engine.size import Budget
from dastan.core.engine.waist import Groups, Request, Rights, Source
from dastan.core.engine.watch import Watch
from dastan.core.engine.worked_out import limited, questioner_for, shape_of, worked_out
from dastan.core.formula.formula import adds_up
from dastan.core.model.document import Measure, SemanticModel
from dastan.core.values import Values


@dataclass(frozen=True, slots=True, eq=False)
class Answer:
    """Two axes and the cells that exist, in order of row and then column.

    `cell_rows` and `cell_columns` are `(n_cells,) int64` entries of the axes; `values` holds one `Values`
    of that length per measure. A cell that is not listed is empty.
    """

    measures: tuple[Measure, ...]
    adds_up: tuple[bool, ...]
    """Per measure, whether the values of members make up that of what they stand in."""
    rows: Axis
    columns: Axis
    cell_rows: np.ndarray
    cell_columns: np.ndarray
    values: tuple[Values, ...]
    oldest: str | None
    newest: str | None
    """The first and the last day that the question's facts have records of, as the reader sees them."""
    row_lines: Lines
    column_lines: Lines
    """How the headers stand in the table, the measures among them."""
    margins: tuple[Margin, ...] = ()
    """What the members of each hierarchy come to by themselves, whatever totals are shown."""
    both: Both = NEITHER
    """At cells of a difference or ratio of members what each of the two comes to."""

    @property
    def size_bytes(self) -> int:
        """How much memory it takes, but for what it shares with others."""
        arrays = [self.cell_rows, self.cell_columns]
        arrays += [array for each in (self.rows, self.columns) for array in (each.grain, each.codes, each.is_heading)]
        arrays += [
            array
            for each in (*self.values, *self.both.firsts, *self.both.seconds)
            for array in (each.data, each.present)
        ]
        return sum(each.nbytes for each in arrays) + self.row_lines.size_bytes + self.column_lines.size_bytes


def answer(
    document: Analysis,
    model: SemanticModel,
    source: Source,
    rights: Rights,
    today: date,
    group: Callable[[Request], Groups] | None = None,
    *,
    budget: Budget = Budget(),
    watch: Watch | None = None,
) -> Answer:
    """Answers a document: resolve, plan, group, cube, calculate, arrange, hide, lay out.

    Args:
        today: what moving periods are counted from.
        group: answers requests, as a cache does that outlives the question; one is made for it without.
        budget: the largest question that is answered.
        watch: follows the question, and may take it back.
    Raises: NotFoundError, InputError (the document does not fit the model), LimitError (before anything is
        grouped, where the question is too large), CancelledError.
    """
    check_document(document, model)
    model = with_made(model, document)
    document = without_totals_over_alternatives(document, model)
    question, watch = document.question, watch or Watch()
    group = group or GroupCache(source.group, source.members).group
    questioner = questioner_for(document, model, source, rights, today, group, budget, watch)
    measures = tuple(shown_measure(each, model, questioner.seen.members) for each in question.measures)
    formulas = tuple(questioner.formula_of(each) for each in question.measures)
    found = worked_out(questioner, formulas)
    divides = tuple(is_itself(each.view) for each in question.measures)
    cells = with_differences(
        Cells(found.rows, found.columns, found.cube.rows, found.cube.columns, found.values), divides
    )
    cells = arranged(seen_alone(cells) if questioner.is_laid_out else cells, question)
    watch.check()
    cells = without_empty_headers(cells, question)
    count = len(formulas)
    values, both = cells.values[:count], Both(cells.values[count : 2 * count], cells.values[2 * count :])
    spans = [span for fact in found.facts if (span := questioner.seen.span(fact.grain)) is not None]
    oldest = min((each.first for each in spans), default=None)
    newest = max((each.last for each in spans), default=None)
    rows, columns = (with_part_filled(each, model, oldest, newest) for each in (cells.rows, cells.columns))
    cells = replace(cells, rows=rows, columns=columns)
    lines = [lay_out(each, axis, question) for each, axis in ((cells.rows, AXES[0]), (cells.columns, AXES[1]))]
    adding = tuple(adds_up(each) for each in formulas)
    return Answer(
        measures, adding, cells.rows, cells.columns, cells.cell_rows,
        cells.cell_columns, values, oldest, newest, lines[0], lines[1], margins_of(found, adding), both,
    )  # fmt: skip


def questioner_of(
    document: Analysis,
    model: SemanticModel,
    source: Source,
    rights: Rights,
    today: date,
    group: Callable[[Request], Groups],
    budget: Budget,
) -> tuple[Questioner, Shape]:
    """What a document asks with, and its two axes with their limits: to look at one cell of its answer again."""
    model = with_made(model, document)
    questioner = questioner_for(document, model, source, rights, today, group, budget, Watch())
    return questioner, limited(shape_of(questioner), questioner)
