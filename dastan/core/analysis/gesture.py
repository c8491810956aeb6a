"""What a gesture says: one step that a person takes, as the web sends it and a menu offers it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from dastan.core.analysis.document import (
    AxisName,
    Chart,
    Frozen,
    LabelDress,
    Limit,
    MadeMeasure,
    NumberDress,
    Order,
    PlacedMeasure,
    Question,
    RowForm,
    TableLook,
    Under,
)
from dastan.core.analysis.views import View
from dastan.core.model.conditions import Condition, PromptAnswer
from dastan.core.model.document import Aggregate
from dastan.core.model.parts import MemberPath, Part


@dataclass(frozen=True, slots=True, kw_only=True)
class PutMeasure(Part):
    """Puts a measure in, or moves it, so that it stands before the measure now at `at` (last without)."""

    measure: str
    aggregate: Aggregate | None = None
    percentile: float | None = None
    view: View | None = None
    at: int | None = None
    kind: Literal["put_measure"] = "put_measure"


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeMeasure(Part):
    """Takes a measure away."""

    measure: str
    aggregate: Aggregate | None = None
    percentile: float | None = None
    view: View | None = None
    kind: Literal["take_measure"] = "take_measure"


@dataclass(frozen=True, slots=True, kw_only=True)
class SetAggregate(Part):
    """Shows a placed measure by another aggregate, in its place; by its own without one."""

    placed: PlacedMeasure
    aggregate: Aggregate | None = None
    percentile: float | None = None
    kind: Literal["set_aggregate"] = "set_aggregate"


@dataclass(frozen=True, slots=True, kw_only=True)
class ShowView(Part):
    """Shows a placed measure by a view of it, in its place; as the measure itself without one."""

    placed: PlacedMeasure
    view: View | None = None
    kind: Literal["show_view"] = "show_view"


@dataclass(frozen=True, slots=True, kw_only=True)
class PutViews(Part):
    """Puts several views of a placed measure in, one after the other beside it."""

    placed: PlacedMeasure
    views: tuple[View, ...]
    kind: Literal["put_views"] = "put_views"


@dataclass(frozen=True, slots=True, kw_only=True)
class PutDimension(Part):
    """Puts a hierarchy on an axis, or moves it there, from `level` down (from its top without)."""

    dimension: str
    hierarchy: str
    level: str | None = None
    axis: AxisName
    at: int | None = None
    kind: Literal["put_dimension"] = "put_dimension"


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeDimension(Part):
    """Takes a hierarchy off its axis. What was open in it waits."""

    dimension: str
    hierarchy: str
    kind: Literal["take_dimension"] = "take_dimension"


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenMember(Part):
    dimension: str
    hierarchy: str
    path: MemberPath
    kind: Literal["open_member"] = "open_member"


@dataclass(frozen=True, slots=True, kw_only=True)
class CloseMember(Part):
    dimension: str
    hierarchy: str
    path: MemberPath
    kind: Literal["close_member"] = "close_member"


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenLevel(Part):
    """Opens every member of a level."""

    dimension: str
    hierarchy: str
    level: str
    kind: Literal["open_level"] = "open_level"


@dataclass(frozen=True, slots=True, kw_only=True)
class CloseLevel(Part):
    """Closes every member of a level."""

    dimension: str
    hierarchy: str
    level: str
    kind: Literal["close_level"] = "close_level"


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenAll(Part):
    """Opens every member of a hierarchy that has others below it."""

    dimension: str
    hierarchy: str
    kind: Literal["open_all"] = "open_all"


@dataclass(frozen=True, slots=True, kw_only=True)
class CloseAll(Part):
    """Closes every member of a hierarchy."""

    dimension: str
    hierarchy: str
    kind: Literal["close_all"] = "close_all"


@dataclass(frozen=True, slots=True, kw_only=True)
class ShowLevel(Part):
    """Shows one level of a placed hierarchy and nothing above or below it.

    With `instead_of`, in place of another hierarchy of the same dimension: months, now weeks.
    """

    dimension: str
    hierarchy: str
    level: str
    instead_of: str | None = None
    kind: Literal["show_level"] = "show_level"


@dataclass(frozen=True, slots=True, kw_only=True)
class GoInto(Part):
    """Keeps only one member of a placed hierarchy and shows what is below it; everything again without a path."""

    dimension: str
    hierarchy: str
    path: MemberPath = ()
    kind: Literal["go_into"] = "go_into"


@dataclass(frozen=True, slots=True, kw_only=True)
class BreakDown(Part):
    """Breaks headers of an axis down by another hierarchy: those named by `under`, or all of them."""

    dimension: str
    hierarchy: str
    level: str | None = None
    axis: AxisName
    under: Under | None = None
    kind: Literal["break_down"] = "break_down"


@dataclass(frozen=True, slots=True, kw_only=True)
class StopBreakingDown(Part):
    """No longer breaks some headers down; takes the hierarchy away where it broke down no others."""

    dimension: str
    hierarchy: str
    under: Under
    kind: Literal["stop_breaking_down"] = "stop_breaking_down"


@dataclass(frozen=True, slots=True, kw_only=True)
class MakeWayDown(Part):
    """Makes one way down of the hierarchies nested on an axis; they close. Named after its levels without a caption."""

    axis: AxisName
    caption: str = ""
    kind: Literal["make_way_down"] = "make_way_down"


@dataclass(frozen=True, slots=True, kw_only=True)
class PutWayDown(Part):
    """Puts a way down on an axis, closed, so that its steps stand together before the hierarchy now at `at`."""

    caption: str
    axis: AxisName
    at: int | None = None
    kind: Literal["put_way_down"] = "put_way_down"


@dataclass(frozen=True, slots=True, kw_only=True)
class ForgetWayDown(Part):
    """Forgets a way down. What stands in the table stays."""

    caption: str
    kind: Literal["forget_way_down"] = "forget_way_down"


@dataclass(frozen=True, slots=True, kw_only=True)
class SetAside(Part):
    """Keeps a hierarchy at hand, on neither axis: just as it stood, to be put back so."""

    dimension: str
    hierarchy: str
    kind: Literal["set_aside"] = "set_aside"


@dataclass(frozen=True, slots=True, kw_only=True)
class PlaceMeasures(Part):
    """Moves the measures, as one group, to an axis: with `at` of its hierarchies outside them (all without)."""

    axis: AxisName
    at: int | None = None
    kind: Literal["place_measures"] = "place_measures"


@dataclass(frozen=True, slots=True, kw_only=True)
class AskOnOpening(Part):
    """Makes a filter's members or values an answer: whoever opens the analysis is asked for them."""

    at: int
    caption: str
    required: bool = True
    many: bool = True
    kind: Literal["ask_on_opening"] = "ask_on_opening"


@dataclass(frozen=True, slots=True, kw_only=True)
class StopAsking(Part):
    """Makes what is answered now a filter's own again, and asks no more."""

    at: int
    kind: Literal["stop_asking"] = "stop_asking"


@dataclass(frozen=True, slots=True, kw_only=True)
class FilterMembers(Part):
    """Keeps the members, or leaves them out, in place of the hierarchy's filter of that kind.

    Without members that filter is lifted. `is_alone` lifts the hierarchy's filter of the other kind as well.
    """

    dimension: str
    hierarchy: str
    action: Literal["keep", "leave_out"]
    members: tuple[MemberPath, ...]
    is_alone: bool = False
    kind: Literal["filter_members"] = "filter_members"


@dataclass(frozen=True, slots=True, kw_only=True)
class PutFilter(Part):
    """Puts a condition in; in place of the filter at `at` where one is named."""

    condition: Condition
    at: int | None = None
    kind: Literal["put_filter"] = "put_filter"


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeFilter(Part):
    """Lifts the filter at a place."""

    at: int
    kind: Literal["take_filter"] = "take_filter"


@dataclass(frozen=True, slots=True, kw_only=True)
class SetLimit(Part):
    """Limits a level of a placed hierarchy, in place of the limit that it had; lifts it without one."""

    dimension: str
    hierarchy: str
    level: str
    limit: Limit | None = None
    kind: Literal["set_limit"] = "set_limit"


@dataclass(frozen=True, slots=True, kw_only=True)
class SetOrder(Part):
    """Orders the members of a placed hierarchy."""

    dimension: str
    hierarchy: str
    order: Order
    kind: Literal["set_order"] = "set_order"


@dataclass(frozen=True, slots=True, kw_only=True)
class SetTotals(Part):
    """Says where a placed hierarchy's subtotals stand; as is usual on its axis without."""

    dimension: str
    hierarchy: str
    totals: Literal["before", "after", "none"] | None = None
    kind: Literal["set_totals"] = "set_totals"


@dataclass(frozen=True, slots=True, kw_only=True)
class SetGrandTotal(Part):
    """Says where an axis's grand total stands."""

    axis: AxisName
    totals: Literal["before", "after", "none"]
    kind: Literal["set_grand_total"] = "set_grand_total"


@dataclass(frozen=True, slots=True, kw_only=True)
class SetTotalsOfOne(Part):
    """Shows the totals of one child too, which say the same again, or leaves them out."""

    totals: Literal["hidden", "shown"]
    kind: Literal["set_totals_of_one"] = "set_totals_of_one"


@dataclass(frozen=True, slots=True, kw_only=True)
class SetTotalsOver(Part):
    """Says what totals are over where limits hide members."""

    over: Literal["scope", "shown"]
    kind: Literal["set_totals_over"] = "set_totals_over"


@dataclass(frozen=True, slots=True, kw_only=True)
class SkipLevel(Part):
    """Passes over a level of a placed hierarchy, or shows it again."""

    dimension: str
    hierarchy: str
    level: str
    is_skipped: bool
    kind: Literal["skip_level"] = "skip_level"


@dataclass(frozen=True, slots=True, kw_only=True)
class ShowAllMembers(Part):
    """Shows members without records too, or no longer."""

    dimension: str
    hierarchy: str
    is_shown: bool
    kind: Literal["show_all_members"] = "show_all_members"


@dataclass(frozen=True, slots=True, kw_only=True)
class HideEmpty(Part):
    """Hides the rows, or columns, that have no value at all, or shows them again."""

    axis: AxisName
    is_hidden: bool
    kind: Literal["hide_empty"] = "hide_empty"


@dataclass(frozen=True, slots=True, kw_only=True)
class DressNumbers(Part):
    """Writes and marks the numbers of a measure in another way."""

    numbers: NumberDress
    kind: Literal["dress_numbers"] = "dress_numbers"


@dataclass(frozen=True, slots=True, kw_only=True)
class DressLabels(Part):
    """Calls the members of a hierarchy by their captions, keys or both."""

    labels: LabelDress
    kind: Literal["dress_labels"] = "dress_labels"


@dataclass(frozen=True, slots=True, kw_only=True)
class DressTable(Part):
    """Gives the whole table another look; what is not said stays as it is."""

    look: TableLook | None = None
    rows: RowForm | None = None
    repeats_labels: bool | None = None
    frozen: Frozen | None = None
    kind: Literal["dress_table"] = "dress_table"


@dataclass(frozen=True, slots=True, kw_only=True)
class SetWidth(Part):
    """Makes the columns of a measure so wide, or the row headers without one; as wide as they need without a width."""

    measure: PlacedMeasure | None = None
    width: int | None = None
    kind: Literal["set_width"] = "set_width"


@dataclass(frozen=True, slots=True, kw_only=True)
class Silence(Part):
    """Takes a warning away for good, in this analysis."""

    warning: str
    kind: Literal["silence"] = "silence"


@dataclass(frozen=True, slots=True, kw_only=True)
class SetView(Part):
    """Shows the table, the chart of it, or both side by side."""

    view: Literal["table", "chart", "both"]
    kind: Literal["set_view"] = "set_view"


@dataclass(frozen=True, slots=True, kw_only=True)
class SetChart(Part):
    """Draws the chart in another way."""

    chart: Chart
    kind: Literal["set_chart"] = "set_chart"


@dataclass(frozen=True, slots=True, kw_only=True)
class AnswerPrompt(Part):
    """Answers a question that the analysis or its model asks."""

    answer: PromptAnswer
    kind: Literal["answer_prompt"] = "answer_prompt"


@dataclass(frozen=True, slots=True, kw_only=True)
class SwapAxes(Part):
    """Turns the table: rows become columns and columns rows. Nothing else changes."""

    kind: Literal["swap_axes"] = "swap_axes"


@dataclass(frozen=True, slots=True, kw_only=True)
class Rewrite(Part):
    """Asks another question, as it was written in words. What is open stays so."""

    question: Question
    kind: Literal["rewrite"] = "rewrite"


@dataclass(frozen=True, slots=True, kw_only=True)
class DropMissing(Part):
    """Takes away whatever the model no longer has, so that the rest can be answered."""

    kind: Literal["drop_missing"] = "drop_missing"


@dataclass(frozen=True, slots=True, kw_only=True)
class MakeMeasure(Part):
    """Makes a measure of others, and puts it into the table."""

    made: MadeMeasure
    is_put: bool = True
    kind: Literal["make_measure"] = "make_measure"


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeMade(Part):
    """Tells a made measure anew: what it is, what it is called, how it is written."""

    made: MadeMeasure
    kind: Literal["change_made"] = "change_made"


@dataclass(frozen=True, slots=True, kw_only=True)
class ForgetMade(Part):
    """Forgets a made measure that nothing stands on."""

    name: str
    kind: Literal["forget_made"] = "forget_made"


LostKind = Literal["measure", "dimension", "hierarchy", "level", "attribute", "filter"]


@dataclass(frozen=True, slots=True, kw_only=True)
class UseInstead(Part):
    """Names another thing wherever one is named that the model no longer has."""

    thing: LostKind
    name: str
    instead: str
    kind: Literal["use_instead"] = "use_instead"


Gesture = (
    PutMeasure
    | TakeMeasure
    | PutDimension
    | TakeDimension
    | OpenMember
    | CloseMember
    | OpenLevel
    | CloseLevel
    | OpenAll
    | CloseAll
    | ShowLevel
    | GoInto
    | BreakDown
    | StopBreakingDown
    | MakeWayDown
    | PutWayDown
    | ForgetWayDown
    | SetAside
    | PlaceMeasures
    | AskOnOpening
    | StopAsking
    | FilterMembers
    | PutFilter
    | TakeFilter
    | SetAggregate
    | ShowView
    | PutViews
    | SetLimit
    | SetOrder
    | SetTotals
    | SetGrandTotal
    | SetTotalsOver
    | SetTotalsOfOne
    | SkipLevel
    | ShowAllMembers
    | HideEmpty
    | DressNumbers
    | DressLabels
    | DressTable
    | SetWidth
    | Silence
    | SetView
    | SetChart
    | AnswerPrompt
    | SwapAxes
    | Rewrite
    | MakeMeasure
    | ChangeMade
    | ForgetMade
    | DropMissing
    | UseInstead
)
