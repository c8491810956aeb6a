"""The way in: a document becomes an answer."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date

import numpy as np

from dastan.core.analysis.checks import check_document
from dastan.core.analysis.document import AXES, Analysis
from dastan.core.analysis.made import with_made
from dastan.core.analysis.placed import shown_measure
from dastan.core.analysis.views import is_itself
from dastan.core.engine.arranging import Cells, arranged, without_empty_headers
from dastan.core.engine.axes import Axis
from dastan.core.engine.cache import GroupCache
from dastan.core.engine.cells_on_rows import filled_on_rows, seen_alone
from dastan.core.engine.cube import build_cube
from dastan.core.engine.differing import NEITHER, Both, with_differences
from dastan.core.engine.facts import Fact, ask_facts, plan_facts, size_of_plans
from dastan.core.engine.ground import OnCube
from dastan.core.engine.layout import Lines, lay_out
from dastan.core.engine.limits import AxisLimits, find_limits
from dastan.core.engine.neighbours import GOES_ON, filled_along
from dastan.core.engine.plan import Shape
from dastan.core.engine.questioner import Questioner
from dastan.core.engine.size import Budget, refuse_beyond, shown_levels
from dastan.core.engine.standing import placements_on, standing_on
from dastan.core.engine.waist import Groups, Request, Rights, Source
from dastan.core.engine.watch import Watch
from dastan.core.formula.formula import Formula, adds_up, along_of, calculate
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
    question, watch = document.question, watch or Watch()
    group = group or GroupCache(source.group, source.members).group
    questioner = Questioner(document, model, source, rights, today, group, budget, watch)
    measures = tuple(shown_measure(each, model, questioner.seen.members) for each in question.measures)
    formulas = tuple(questioner.formula_of(each) for each in question.measures)
    facts, shape = _grouped(questioner, formulas)
    watch.check()
    rows, columns = (standing_on(axis, facts, shape, questioner) for axis in AXES)
    cube = build_cube(facts, rows, columns)
    for along in (each for formula in formulas for each in along_of(formula) if each.kind in GOES_ON):
        cube = filled_along(cube, rows if along.axis == "rows" else columns, along.axis, questioner.budget.cells)
    cube = filled_on_rows(cube, formulas, rows, columns) if questioner.is_laid_out else cube
    watch.check()
    ground = OnCube(cube, facts, rows, columns, shape, questioner)
    values = tuple(calculate(each, ground) for each in formulas)
    divides = tuple(is_itself(each.view) for each in question.measures)
    cells = with_differences(Cells(rows, columns, cube.rows, cube.columns, values), divides)
    cells = arranged(seen_alone(cells) if questioner.is_laid_out else cells, question)
    watch.check()
    cells = without_empty_headers(cells, question)
    count = len(formulas)
    values, both = cells.values[:count], Both(cells.values[count : 2 * count], cells.values[2 * count :])
    spans = [span for fact in facts if (span := questioner.seen.span(fact.grain)) is not None]
    oldest = min((each.first for each in spans), default=None)
    newest = max((each.last for each in spans), default=None)
    lines = [lay_out(each, axis, question) for each, axis in ((cells.rows, AXES[0]), (cells.columns, AXES[1]))]
    return Answer(
        measures, tuple(adds_up(each) for each in formulas), cells.rows, cells.columns, cells.cell_rows,
        cells.cell_columns, values, oldest, newest, lines[0], lines[1], both,
    )  # fmt: skip


def _grouped(questioner: Questioner, formulas: tuple[Formula, ...]) -> tuple[list[Fact], Shape]:
    """Everything that is asked of the source, once it is known not to be too much; and the axes with their limits."""
    bare = shape_of(questioner)
    plans = plan_facts(questioner, formulas, bare)
    size = size_of_plans(plans, bare, questioner)
    refuse_beyond(size, questioner.budget, shown_levels(bare), questioner.seen.is_all)
    questioner.watch.admit(size.memory_bytes)
    shape = limited(bare, questioner)
    return ask_facts(plans, shape, questioner), shape


def shape_of(questioner: Questioner) -> Shape:
    """The two axes as they are seen, without their limits."""
    over = questioner.document.question.totals_over
    return Shape(*(AxisLimits(placements_on(axis, questioner), over) for axis in AXES))


def limited(bare: Shape, questioner: Questioner) -> Shape:
    """The axes with the members of every limited level ranked."""
    found = [find_limits(each, questioner.table) for each in (bare.rows, bare.columns)]
    return bare if found == [bare.rows, bare.columns] else Shape(*found)


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
    questioner = Questioner(document, model, source, rights, today, group, budget, Watch())
    return questioner, limited(shape_of(questioner), questioner)
