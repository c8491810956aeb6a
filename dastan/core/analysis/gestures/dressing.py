"""Gestures on how the table looks. None of them changes a number, so nothing has to be asked."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar, Literal

from dastan.core.analysis.captions import Members, hierarchy_caption
from dastan.core.analysis.document import (
    Analysis,
    Chart,
    Dress,
    Frozen,
    LabelDress,
    NumberDress,
    PlacedMeasure,
    RowForm,
    TableLook,
)
from dastan.core.analysis.dress import NARROWEST, WIDEST
from dastan.core.analysis.gestures.step import Step
from dastan.core.analysis.placed import shown_measure
from dastan.core.analysis.placing import hierarchy_of
from dastan.core.analysis.resolve import find_dimension
from dastan.core.errors import InputError
from dastan.core.model.document import SemanticModel

_FORMS: dict[str, str] = {
    "bars": "bars", "stacked": "stacked bars", "shares": "bars to 100 %", "lines": "lines", "areas": "areas",
    "points": "points", "ring": "a ring", "heat": "a heat table",
}  # fmt: skip
_ROWS = {"stepped": "rows stepped in", "full_paths": "rows with their full path", "levels": "a column for each level"}
_FROZEN = {
    "both": "all headers in view",
    "rows": "row headers in view",
    "columns": "column headers in view",
    "none": "no headers held in view",
}
_LABELS = {"captions": "captions", "keys": "keys", "both": "captions and keys"}
_VIEWS = {"table": "showed the table", "chart": "showed the chart", "both": "showed table and chart"}


class DressStep(Step):
    """A gesture that leaves every number as it is."""

    __slots__ = ()
    is_dress: ClassVar[bool] = True


@dataclass(frozen=True, slots=True, kw_only=True)
class DressNumbers(DressStep):
    """Writes and marks the numbers of a measure in another way."""

    numbers: NumberDress
    kind: Literal["dress_numbers"] = "dress_numbers"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        return _with_numbers(document, self.numbers)

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return f"dressed {shown_measure(self.numbers.measure, model, members).caption}"


@dataclass(frozen=True, slots=True, kw_only=True)
class DressLabels(DressStep):
    """Calls the members of a hierarchy by their captions, keys or both."""

    labels: LabelDress
    kind: Literal["dress_labels"] = "dress_labels"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        hierarchy_of(model, self.labels.dimension, self.labels.hierarchy)
        own = (self.labels.dimension, self.labels.hierarchy)
        rest = tuple(each for each in document.dress.labels if (each.dimension, each.hierarchy) != own)
        return _with_dress(document, labels=rest if self.labels.shows == "captions" else (*rest, self.labels))

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        hierarchy = hierarchy_of(model, self.labels.dimension, self.labels.hierarchy)
        caption = hierarchy_caption(find_dimension(model, self.labels.dimension), hierarchy)
        return f"{_LABELS[self.labels.shows]} of {caption}"


@dataclass(frozen=True, slots=True, kw_only=True)
class DressTable(DressStep):
    """Gives the whole table another look; what is not said stays as it is."""

    look: TableLook | None = None
    rows: RowForm | None = None
    repeats_labels: bool | None = None
    frozen: Frozen | None = None
    kind: Literal["dress_table"] = "dress_table"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        return replace(document, dress=self.of(document.dress))

    def of(self, dress: Dress) -> Dress:
        """A dress with this look."""
        said = {name: getattr(self, name) for name in ("look", "rows", "repeats_labels", "frozen")}
        return replace(dress, **{name: value for name, value in said.items() if value is not None})

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        parts = []
        if self.look is not None:
            parts.append(f"{'an' if self.look == 'open' else 'a'} {self.look} look")
        if self.rows is not None:
            parts.append(_ROWS[self.rows])
        if self.repeats_labels is not None:
            parts.append("labels in every row" if self.repeats_labels else "labels once")
        if self.frozen is not None:
            parts.append(_FROZEN[self.frozen])
        return ", ".join(parts) or "the same look"


@dataclass(frozen=True, slots=True, kw_only=True)
class SetWidth(DressStep):
    """Makes the columns of a measure so wide, or the row headers without one; as wide as they need without a width."""

    measure: PlacedMeasure | None = None
    width: int | None = None
    kind: Literal["set_width"] = "set_width"
    is_looking: ClassVar[bool] = True

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        if self.width is not None and not NARROWEST <= self.width <= WIDEST:
            raise InputError(f"A column cannot be {self.width} wide.", f"Take {NARROWEST} to {WIDEST}, in pixels.")
        if self.measure is None:
            return _with_dress(document, label_width=self.width)
        return _with_numbers(document, replace(document.dress_of(self.measure), width=self.width))

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        what = shown_measure(self.measure, model, members).caption if self.measure else "the row headers"
        return f"width of {what}"


@dataclass(frozen=True, slots=True, kw_only=True)
class Silence(DressStep):
    """Takes a warning away for good, in this analysis."""

    warning: str
    kind: Literal["silence"] = "silence"
    is_looking: ClassVar[bool] = True

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        return _with_dress(document, silenced=tuple(dict.fromkeys((*document.dress.silenced, self.warning))))

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return "silenced a remark"


@dataclass(frozen=True, slots=True, kw_only=True)
class SetView(DressStep):
    """Shows the table, the chart of it, or both side by side."""

    view: Literal["table", "chart", "both"]
    kind: Literal["set_view"] = "set_view"
    is_looking: ClassVar[bool] = True

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        return _with_dress(document, view=self.view)

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return _VIEWS[self.view]


@dataclass(frozen=True, slots=True, kw_only=True)
class SetChart(DressStep):
    """Draws the chart in another way."""

    chart: Chart
    kind: Literal["set_chart"] = "set_chart"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        return _with_dress(document, chart=self.chart)

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        was, chart = before.dress.chart, self.chart
        if was.form != chart.form:
            return f"drew {_FORMS[chart.form] if chart.form else 'what fits best'}"
        if was.multiples != chart.multiples:
            return "drew small charts" if chart.multiples else "drew one chart"
        if was.one_scale != chart.one_scale:
            return "drew the measures on one scale" if chart.one_scale else "drew each measure on its own scale"
        return f"drew along {chart.along}" if chart.along else "drew along what fits best"


def _with_dress(document: Analysis, **changes: object) -> Analysis:
    return replace(document, dress=replace(document.dress, **changes))  # type: ignore[arg-type]


def _with_numbers(document: Analysis, numbers: NumberDress) -> Analysis:
    """The document with a measure's numbers dressed so. Raises InputError where it is not in the table."""
    if numbers.measure not in document.question.measures:
        raise InputError("This measure is not in the table.", "Put it in first.")
    others = tuple(each for each in document.dress.numbers if each.measure != numbers.measure)
    return _with_dress(
        document, numbers=others if numbers == NumberDress(measure=numbers.measure) else (*others, numbers)
    )
