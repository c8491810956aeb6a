"""Answers under their handles: windows, jumps, pages of columns, charts."""

from __future__ import annotations

from typing import Annotated

import orjson
from fastapi import APIRouter, Query, Response
from pydantic import BaseModel, Field

from dastan.core.analysis.document import Chart, NumberDress
from dastan.core.reading.chart import ChartData, chart_of
from dastan.core.reading.find import FoundLine, find_line
from dastan.core.reading.marks import WindowMarks, marks_of
from dastan.core.reading.sections import Section, column_sections
from dastan.core.reading.window import Window, window_of
from dastan.server.access import OwnAnswerDep
from dastan.server.bodies import BoundedRoute
from dastan.server.context import ServerDep
from dastan.server.lanes import LOOKS, in_lane

router = APIRouter(prefix="/api/answers", tags=["answers"], route_class=BoundedRoute)
LARGEST_WINDOW = 400


@router.get("/{handle}/window", response_model=Window)
@in_lane(LOOKS)
def window(
    own: OwnAnswerDep,
    server: ServerDep,
    row_start: Annotated[int, Query(ge=0)] = 0,
    rows: Annotated[int, Query(ge=0, le=LARGEST_WINDOW)] = 100,
    column_start: Annotated[int, Query(ge=0)] = 0,
    columns: Annotated[int, Query(ge=0, le=LARGEST_WINDOW)] = 50,
) -> Response:
    answer = server.answers.again(own.asked)
    return Response(
        orjson.dumps(window_of(answer, row_start, rows, column_start, columns)), media_type="application/json"
    )


class MarksIn(BaseModel):
    numbers: tuple[NumberDress, ...]
    row_start: int = Field(ge=0)
    rows: int = Field(ge=0, le=LARGEST_WINDOW)
    column_start: int = Field(ge=0)
    columns: int = Field(ge=0, le=LARGEST_WINDOW)


@router.post("/{handle}/marks", response_model=WindowMarks | None)
@in_lane(LOOKS)
def marks(asked: MarksIn, own: OwnAnswerDep, server: ServerDep) -> Response:
    """The marks of a window as its numbers are dressed; the answer itself knows no dress."""
    answer = server.answers.again(own.asked)
    shown = own.asked.document.question.measures
    lines = (
        range(min(start, len(along)), min(start + count, len(along)))
        for start, count, along in (
            (asked.row_start, asked.rows, answer.row_lines),
            (asked.column_start, asked.columns, answer.column_lines),
        )
    )
    return Response(orjson.dumps(marks_of(answer, shown, asked.numbers, *lines)), media_type="application/json")


@router.get("/{handle}/sections")
@in_lane(LOOKS)
def sections(own: OwnAnswerDep, server: ServerDep) -> tuple[Section, ...]:
    return column_sections(server.answers.again(own.asked))


@router.get("/{handle}/jump")
@in_lane(LOOKS)
def jump(words: str, own: OwnAnswerDep, server: ServerDep, start: Annotated[int, Query(ge=0)] = 0) -> FoundLine:
    return find_line(server.answers.again(own.asked), words, start)


class ChartIn(BaseModel):
    chart: Chart


@router.post("/{handle}/chart", response_model=ChartData)
@in_lane(LOOKS)
def chart(asked: ChartIn, own: OwnAnswerDep, server: ServerDep) -> Response:
    answer = server.answers.again(own.asked)
    drawn = chart_of(answer, asked.chart, own.asked.shelved.model)
    return Response(orjson.dumps(drawn), media_type="application/json")
