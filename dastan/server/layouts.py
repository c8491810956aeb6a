"""Financial layouts being made: rows read as they are written, and what is wrong with them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from dastan.core.analysis.captions import hierarchy_caption, member_caption
from dastan.core.analysis.document import Analysis, MadeLayout
from dastan.core.analysis.drafted_layout import drafted_layout
from dastan.core.analysis.layouts import layout_used_by
from dastan.core.analysis.made import with_made
from dastan.core.analysis.resolve import find_dimension, find_hierarchy
from dastan.core.errors import FormulaError
from dastan.core.language.layout_rows import read_held, read_row_formula, write_held, write_row_formula
from dastan.core.model.document import LayoutRow
from dastan.core.model.financial_layouts import layout_faults
from dastan.core.words.vocabulary import Vocabulary
from dastan.server.readers import Reader


@dataclass(frozen=True, slots=True)
class ShownLayout:
    """A layout as it is listed: its name, its dimension, how many rows it has, and where it is used."""

    name: str
    caption: str
    dimension: str
    rows: int
    used_by: tuple[str, ...]


def layouts_in(document: Analysis) -> tuple[ShownLayout, ...]:
    """The layouts that a document makes."""
    return tuple(
        ShownLayout(
            each.name, each.caption, each.dimension, len(each.layout.rows), tuple(layout_used_by(document, each))
        )
        for each in document.layouts
    )


@dataclass(frozen=True, slots=True)
class RowFault:
    """What is wrong with a row of a layout, by its place (None for the layout as a whole), and what to do."""

    row: int | None
    message: str
    hint: str


@dataclass(frozen=True, slots=True)
class DraftedLayout:
    """A layout as somebody is writing it: as far as it could be read, each row's text, and what is wrong with it."""

    made: MadeLayout
    texts: tuple[str, ...]
    faults: tuple[RowFault, ...]


def begun_layout(document: Analysis, dimension: str, hierarchy: str, reader: Reader) -> DraftedLayout:
    """A layout to begin with: one that was made here, a copy of the model's, or what a hierarchy's members suggest."""
    model = with_made(reader.shelved.model, document)
    found = find_dimension(model, dimension)
    own = find_hierarchy(found, hierarchy)
    made = next((each for each in document.layouts if (each.dimension, each.name) == (dimension, hierarchy)), None)
    if made is None and own.layout is not None:
        caption = f"{hierarchy_caption(found, own)}, my own"
        made = MadeLayout(caption=caption, dimension=dimension, layout=own.layout)
    made = made or drafted_layout(found, own, reader.members(dimension, hierarchy))
    return read_layout(document, made, [None] * len(made.layout.rows), reader)


def read_layout(document: Analysis, made: MadeLayout, texts: Sequence[str | None], reader: Reader) -> DraftedLayout:
    """A layout with its rows read from their texts; those of None are written as the rows are now."""
    model = with_made(reader.shelved.model, document)
    vocabulary = Vocabulary(model, reader.members)  # a layout is of the model's own members
    own = (made.dimension, made.layout.hierarchy)
    find_hierarchy(find_dimension(model, own[0]), own[1])
    rows, faults = list(made.layout.rows), dict[int | None, RowFault]()
    wanted = [*texts, *[None] * len(rows)][: len(rows)]
    for at, (row, text) in enumerate(zip(rows, wanted, strict=True)):
        if row.kind == "members" and text is None and not row.caption and len(row.members) == 1:
            rows[at] = replace(row, caption=member_caption(row.members[0], vocabulary.members(*own)))
        if row.kind != "members" or text is None:
            continue
        try:
            held = read_held(text, *own, vocabulary) if text.strip() else None
            rows[at] = replace(row, members=held.members if held else (), ranges=held.ranges if held else ())
        except FormulaError as error:
            faults[at] = RowFault(at, error.message, error.hint)
    layout = replace(made.layout, rows=tuple(rows))
    for at, (row, text) in enumerate(zip(rows, wanted, strict=True)):
        if row.kind != "formula" or text is None:
            continue
        try:
            rows[at] = replace(row, formula=read_row_formula(text, row.name, layout) if text.strip() else None)
        except FormulaError as error:
            faults[at] = RowFault(at, error.message, error.hint)
    layout = replace(made.layout, rows=tuple(rows))
    for each in layout_faults(layout):
        faults.setdefault(each.row, RowFault(each.row, each.message, each.hint))
    shown = tuple(
        text if text is not None else _text(row, made, vocabulary) for row, text in zip(rows, wanted, strict=True)
    )
    in_order = sorted(faults.values(), key=lambda each: -1 if each.row is None else each.row)
    return DraftedLayout(replace(made, layout=layout), shown, tuple(in_order))


def _text(row: LayoutRow, made: MadeLayout, vocabulary: Vocabulary) -> str:
    if row.kind == "members":
        return write_held(row, made.dimension, made.layout.hierarchy, vocabulary)
    return write_row_formula(row, made.layout) if row.kind == "formula" else ""
