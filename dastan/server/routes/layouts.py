"""Financial layouts of a model's hierarchies, as they are being made."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field, StringConstraints

from dastan.core.analysis.document import Analysis, MadeLayout
from dastan.core.model.financial_layouts import MOST_ROWS
from dastan.server.access import ReaderDep
from dastan.server.bodies import BoundedRoute
from dastan.server.lanes import QUESTIONS, in_lane
from dastan.server.layouts import DraftedLayout, begun_layout, read_layout

router = APIRouter(prefix="/api/models", tags=["layouts"], route_class=BoundedRoute)

RowText = Annotated[str, StringConstraints(max_length=4_000)]


class LayoutOfIn(BaseModel):
    """A hierarchy to lay out, or a layout to go on from."""

    document: Analysis
    dimension: str
    hierarchy: str


class LayoutIn(BaseModel):
    """A layout as it is being written: each row's text, None where it stands as it was read."""

    document: Analysis
    made: MadeLayout
    texts: Annotated[list[RowText | None], Field(max_length=MOST_ROWS + 1)]


@router.post("/{model}/layouts/begin")
@in_lane(QUESTIONS)
def begin(asked: LayoutOfIn, reader: ReaderDep) -> DraftedLayout:
    return begun_layout(asked.document, asked.dimension, asked.hierarchy, reader)


@router.post("/{model}/layouts/read")
@in_lane(QUESTIONS)
def read(asked: LayoutIn, reader: ReaderDep) -> DraftedLayout:
    return read_layout(asked.document, asked.made, asked.texts, reader)
