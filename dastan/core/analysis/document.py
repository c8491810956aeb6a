"""The analysis document: a question, the members that are open, and the dress.

Frozen: a gesture makes a new document, so an earlier one is never lost. `dastan.documents` reads and writes
it as JSON, version `analysis/1`.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

from dastan.core.analysis.views import View
from dastan.core.model.conditions import Condition, Prompt, PromptAnswer
from dastan.core.model.document import Aggregate, FinancialLayout, MemberList, ModelJoint
from dastan.core.model.expression import Expression
from dastan.core.model.parts import MemberPath, Part

AxisName = Literal["rows", "columns"]
AXES: tuple[AxisName, AxisName] = ("rows", "columns")


@dataclass(frozen=True, slots=True, kw_only=True)
class PlacedMeasure(Part):
    """A measure of the model, shown; by another aggregate than its own where one is chosen."""

    measure: str
    aggregate: Aggregate | None = None
    percentile: float | None = None
    """Of the aggregate `percentile`: between 0 and 100."""
    view: View | None = None
    """The same measure as a share, a change, a running total or a rank."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Limit(Part):
    """Shows only some members of a level: those that rank first, by a measure.

    Members rank by their value over everything in scope, whatever the other axis shows; equal ones by their
    natural order. A member for which the measure is empty is never among them.
    """

    level: str
    count: Literal["members", "percent_of_members", "percent_of_measure"] = "members"
    """How `amount` counts: members, per cent of the members, or those that together make so much of the measure."""
    amount: float
    side: Literal["largest", "smallest"] = "largest"
    by: PlacedMeasure
    per: Literal["parent", "whole"] = "parent"
    """Ranked among the members under the same header, or among all of the level."""
    others: bool = False
    """Shows the rest as one member, *others*, under each header."""


@dataclass(frozen=True, slots=True, kw_only=True)
class HeaderPath(Part):
    """A header on an axis: the deepest member of each hierarchy, outermost first; none for the grand total."""

    members: tuple[MemberPath, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Order(Part):
    """In which order the members of a placed hierarchy stand. Equal ones keep their natural order; empty last."""

    by: Literal["natural", "caption", "key", "measure"] = "natural"
    descending: bool = False
    measure: PlacedMeasure | None = None
    """With `measure`: one of those that are shown."""
    column: HeaderPath = field(default_factory=HeaderPath)
    """With `measure`: the header of the other axis whose numbers are compared. Left out, it is the grand total."""
    across: bool = False
    """Orders the innermost members through, across their parents, whose subtotals are then not shown."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PlacedMember(Part):
    """A member of a hierarchy, wherever the hierarchy stands."""

    dimension: str
    hierarchy: str
    path: MemberPath


@dataclass(frozen=True, slots=True, kw_only=True)
class Under(Part):
    """The headers in which all of these members stand; each is the deepest of its hierarchy there.

    Told by members and not by places, so that it outlives every turn of the table. Where one of the hierarchies
    does not stand outside on the same axis, it holds for no header: it waits.
    """

    members: tuple[PlacedMember, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class PlacedDimension(Part):
    """A hierarchy on an axis, shown from `level` down as far as its members are open."""

    dimension: str
    hierarchy: str
    level: str
    skipped: tuple[str, ...] = ()
    """Levels that are passed over: what is below them stands under what is above."""
    all_members: bool = False
    """Shows members without records too, such as the filters on their own dimension leave."""
    limits: tuple[Limit, ...] = ()
    totals: Literal["before", "after", "none"] | None = None
    """Where an open member, or one that is broken down, stands beside what is below it. Before on rows, after on
    columns unless said; without, a row keeps its heading and has no figures."""
    order: Order = field(default_factory=Order)
    only_under: tuple[Under, ...] | None = None
    """Only these headers are broken down by it. Left out, all are."""

    def shown(self, levels: Sequence[str]) -> list[str]:
        """Of the hierarchy's levels, coarsest first, those from the first shown down that are not passed over."""
        return [each for each in levels[levels.index(self.level) :] if each not in self.skipped]

    def limits_in_force(self, levels: Sequence[str]) -> list[Limit]:
        """The limits on such levels, outermost first. One on another level waits until it is shown."""
        shown = self.shown(levels)
        return sorted((each for each in self.limits if each.level in shown), key=lambda each: shown.index(each.level))


@dataclass(frozen=True, slots=True, kw_only=True)
class Question(Part):
    """What is asked. The first placement on an axis is the outermost; all filters hold together."""

    measures: tuple[PlacedMeasure, ...] = ()
    measures_on: AxisName = "columns"
    """The axis on which the measures stand, as one group."""
    measures_at: int | None = None
    """How many hierarchies of that axis stand outside the measures. Left out, all do."""
    rows: tuple[PlacedDimension, ...] = ()
    columns: tuple[PlacedDimension, ...] = ()
    waiting: tuple[PlacedDimension, ...] = ()
    """Hierarchies at hand that are on neither axis, as they will stand when they are put there."""
    filters: tuple[Condition, ...] = ()
    totals_over: Literal["scope", "shown"] = "scope"
    """Whether totals are over everything in scope, or over what the limits show."""
    row_total: Literal["before", "after", "none"] = "after"
    """Where the grand total's row stands."""
    column_total: Literal["before", "after", "none"] = "after"
    totals_of_one: Literal["hidden", "shown"] = "hidden"
    """Whether a total stands that has one child only, and says the same again."""
    empty_rows: Literal["shown", "hidden"] = "shown"
    """Whether rows stand that have no value in any column."""
    empty_columns: Literal["shown", "hidden"] = "shown"
    prompts: tuple[Prompt, ...] = ()
    """Questions that this analysis asks on opening."""
    answers: tuple[PromptAnswer, ...] = ()
    """What was answered, to its own prompts and to the model's."""

    def axis(self, name: AxisName) -> tuple[PlacedDimension, ...]:
        """The placements on one axis, outermost first."""
        return self.rows if name == "rows" else self.columns

    @property
    def outside_measures(self) -> int:
        """How many hierarchies stand outside the measures on their axis."""
        count = len(self.axis(self.measures_on))
        return count if self.measures_at is None else min(self.measures_at, count)

    def hides_empty(self, axis: AxisName) -> bool:
        """Whether the axis leaves out headers without any value."""
        return (self.empty_rows if axis == "rows" else self.empty_columns) == "hidden"

    def with_axis(self, name: AxisName, placed: tuple[PlacedDimension, ...]) -> Question:
        """The question with one axis set anew."""
        return replace(self, rows=placed) if name == "rows" else replace(self, columns=placed)


@dataclass(frozen=True, slots=True, kw_only=True)
class Opening(Part):
    """Which members of one hierarchy are open, wherever it stands.

    Kept by path and not by place in the table: turning or nesting the table keeps every branch as it was,
    and a path that does not apply now waits. `levels` are open as a whole, but for the paths in `closed`;
    a path in `open` is open in any case.
    """

    dimension: str
    hierarchy: str
    levels: tuple[str, ...] = ()
    open: tuple[MemberPath, ...] = ()
    closed: tuple[MemberPath, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class WayStep(Part):
    """A hierarchy through which a way down goes, from a level on."""

    dimension: str
    hierarchy: str
    level: str


@dataclass(frozen=True, slots=True, kw_only=True)
class WayDown(Part):
    """A hierarchy made on the spot: members of each step open into the next one."""

    caption: str
    steps: tuple[WayStep, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class MadeMeasure(Part):
    """A measure that was made in this analysis: it is named and placed like the model's own."""

    name: str = ""
    """Made of the caption where it is left out."""
    caption: str
    formula: Expression
    format: str | None = None
    """CLDR number pattern. Left out, it is one that fits the formula."""
    favourable: Literal["more", "less"] | None = None
    folder: str = ""
    description: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Joint(ModelJoint):
    """A joint member of this analysis: it has the records of others, each once.

    It stands beside them, under what they all stand under.
    """

    name: str = ""
    """Made of the caption where it is left out."""
    of_model: bool = False
    """Whether it is the model's, taken in here: it is what the model says that it is."""


@dataclass(frozen=True, slots=True, kw_only=True)
class MadeLayout(Part):
    """A financial layout that was made in this analysis: it is placed like a hierarchy of its dimension."""

    name: str = ""
    """Made of the caption where it is left out."""
    caption: str
    dimension: str
    layout: FinancialLayout


ChartForm = Literal["bars", "stacked", "shares", "lines", "areas", "points", "ring", "heat"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Chart(Part):
    """How the analysis is drawn. It follows the table: what is not said is chosen to fit what the table shows."""

    form: ChartForm | None = None
    """The form of the drawing. Left out, it is the one that fits best."""
    along: AxisName | None = None
    """The axis whose members are the categories. Left out, it is that of time, or else the rows."""
    multiples: bool = False
    """A small chart for each outermost member."""
    one_scale: bool = False
    """Whether measures of one unit stand on one scale, as series. Otherwise each has a scale of its own."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Threshold(Part):
    """Marks cells that are at least, or at most, so much; or so many times another measure in the same place."""

    side: Literal["at_least", "at_most"]
    amount: float
    times: PlacedMeasure | None = None
    """The measure that `amount` multiplies. Left out, cells are compared with `amount` itself."""
    meaning: Literal["favourable", "unfavourable", "noted"]


@dataclass(frozen=True, slots=True, kw_only=True)
class NumberDress(Part):
    """How the numbers of one measure are written and marked. The numbers themselves stay as they are."""

    measure: PlacedMeasure
    pattern: str | None = None
    """CLDR number pattern. Left out, it is the measure's own."""
    scale: Literal["one", "thousands", "millions"] = "one"
    is_turned: bool = False
    """Whether the numbers are written with the other sign."""
    in_cell: Literal["number", "bar", "shade"] = "number"
    """What stands behind each number: nothing, a bar as long as it is large, or a shade as deep."""
    thresholds: tuple[Threshold, ...] = ()
    """The marks of its cells. Where several hold, the first one marks the cell."""
    width: int | None = None
    """The width of its columns in pixels. Left out, they are as wide as its numbers need."""


@dataclass(frozen=True, slots=True, kw_only=True)
class LabelDress(Part):
    """How the members of a hierarchy are called in their headers."""

    dimension: str
    hierarchy: str
    shows: Literal["captions", "keys", "both"]


TableLook = Literal["ruled", "striped", "open", "tight"]
RowForm = Literal["stepped", "full_paths", "levels"]
Frozen = Literal["both", "rows", "columns", "none"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Dress(Part):
    """How it looks. Nothing of it changes a number."""

    numbers: tuple[NumberDress, ...] = ()
    labels: tuple[LabelDress, ...] = ()
    """How members are called, by hierarchy. Those of others are called by their captions."""
    look: TableLook = "ruled"
    rows: RowForm = "stepped"
    """Whether rows are stepped in below what they stand under, name all of it, or have a column for each level."""
    repeats_labels: bool = False
    """With a column for each level: names outer members again in every row."""
    frozen: Frozen = "both"
    """Which headers stay in view while the table is scrolled."""
    label_width: int | None = None
    """The width of the row headers in pixels. Left out, they are as wide as they need to be."""
    silenced: tuple[str, ...] = ()
    """Warnings that are not wanted here any more, by their keys."""
    view: Literal["table", "chart", "both"] = "table"
    chart: Chart = field(default_factory=Chart)


@dataclass(frozen=True, slots=True, kw_only=True)
class Analysis(Part):
    """The whole analysis document."""

    dastan: Literal["analysis/1"] = "analysis/1"
    model: str
    question: Question = field(default_factory=Question)
    openings: tuple[Opening, ...] = ()
    ways_down: tuple[WayDown, ...] = ()
    """Hierarchies that were made in this analysis."""
    made: tuple[MadeMeasure, ...] = ()
    """Measures that were made in this analysis."""
    joints: tuple[Joint, ...] = ()
    """Joint members that were made in this analysis, or taken in from its model."""
    layouts: tuple[MadeLayout, ...] = ()
    """Financial layouts that were made in this analysis."""
    lists: tuple[MemberList, ...] = ()
    """Lists of members that were made in this analysis."""
    dress: Dress = field(default_factory=Dress)

    def dress_of(self, placed: PlacedMeasure) -> NumberDress:
        """How the numbers of a placed measure are dressed."""
        return next((each for each in self.dress.numbers if each.measure == placed), NumberDress(measure=placed))

    def opening(self, dimension: str, hierarchy: str) -> Opening:
        """What is open in a hierarchy; nothing when it was never opened."""
        for each in self.openings:
            if (each.dimension, each.hierarchy) == (dimension, hierarchy):
                return each
        return Opening(dimension=dimension, hierarchy=hierarchy)
