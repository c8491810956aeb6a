"""Asks the star, and reads the answer as people read a table."""

from __future__ import annotations

from dataclasses import replace

from dastan.core.analysis.document import Analysis, Limit, PlacedDimension, PlacedMeasure, Question
from dastan.core.engine.answer import Answer, answer
from dastan.core.engine.waist import Rights
from dastan.core.model.conditions import Condition
from dastan.core.reading.window import Number, window_of
from dastan.sources.columnar.column_source import ColumnSource
from tests.core.star import TODAY, star

STAR = star()
EVERYTHING = Rights("tester")


def by(hierarchy: str, level: str, dimension: str | None = None, **more: object) -> PlacedDimension:
    return PlacedDimension(dimension=dimension or hierarchy, hierarchy=hierarchy, level=level, **more)  # type: ignore[arg-type]


def question(*measures: str, **parts: object) -> Analysis:
    """An analysis of the star. Its members have few records, so that totals of one child are shown unless said."""
    parts.setdefault("totals_of_one", "shown")
    placed = tuple(PlacedMeasure(measure=each) for each in measures)
    openings = parts.pop("openings", ())
    return Analysis(model="star", question=Question(measures=placed, **parts), openings=openings)  # type: ignore[arg-type]


def ask(document: Analysis, source: ColumnSource = STAR, rights: Rights = EVERYTHING) -> Answer:
    return answer(document, source.model, source, rights, TODAY)


def table(result: Answer) -> list[tuple[str, ...]]:
    """The rows: indented caption, then the cells of the first measure's columns as text."""
    window = window_of(result, 0, 99, 0, 99)
    shown = [place for place, each in enumerate(window.columns) if not each.measure]
    return [
        (" " * row.indent + row.caption, *(_text(values[place]) for place in shown if result.measures))
        for row, values in zip(window.rows, window.values, strict=True)
    ]


def _text(number: Number) -> str:
    return "" if number is None else f"{number:g}"


def heads(result: Answer) -> list[str]:
    """The columns: captions from the outermost down."""
    columns = window_of(result, 0, 1, 0, 99).columns
    return [
        " › ".join(each.caption for each in column.members) or column.caption
        for column in columns
        if not column.measure
    ]


def filtered(*conditions: Condition, measure: str = "boardings") -> object:
    """A measure's grand total under some conditions."""
    result = ask(question(measure, filters=conditions))
    return result.values[0].at(0) if len(result.cell_rows) else None


def limited(placed: PlacedDimension, **limit: object) -> PlacedDimension:
    limit.setdefault("by", PlacedMeasure(measure="boardings"))
    return replace(placed, limits=(*placed.limits, Limit(**limit)))  # type: ignore[arg-type]
