"""A table on pages (PDF): portrait, or landscape where it is wide; its heads on every page, its rows kept together."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from io import BytesIO
from pathlib import Path

import font_source_sans_pro as sans
import font_source_serif_pro as serif
from fpdf import FPDF

from dastan.core.engine.watch import Watch
from dastan.core.errors import LimitError
from dastan.core.reading.marks import Mark
from dastan.exports.seen import STEP, SeenRow, SeenTable
from dastan.exports.setting import Head, Tone, heads_of, number_text, tone_of

MOST_CELLS = 150_000
"""Some two hundred pages: nobody reads more, and a file of another kind takes any number."""
# Millimetres, on A4.
SHORT_SIDE, LONG_SIDE = 210.0, 297.0
MARGIN, FOOT = 14.0, 8.0
LINE, INDENT, BETWEEN = 4.6, 3.2, 3.0
_LABELS_WIDEST, _FIGURES_WIDEST = 70.0, 45.0
_SIZE, _SMALL, _TITLE = 8.5, 7.0, 14.0
_INK, _SOFT, _RULE = (43, 32, 48), (109, 96, 112), (217, 207, 189)
_MEANINGS = {"favourable": (31, 111, 99), "unfavourable": (156, 42, 60), "noted": (201, 133, 0)}
_FEWEST = 2
"""So many rows stand with the last one, or with the one that heads them, on a page."""


@dataclass(frozen=True, slots=True)
class _Line:
    """A row as it is printed: its labels with how far they step in, and its figures."""

    labels: tuple[tuple[str, int], ...]
    figures: tuple[str, ...]
    marks: tuple[Mark | None, ...] | None
    tone: Tone
    heads_others: bool
    """Whether rows below it stand in it, so that it does not end a page."""


def write_pdf(table: SeenTable, title: str, about: str, file: Path, watch: Watch) -> None:
    """Writes the pages: all rows of as many columns as fit beside each other, then those of the next columns.

    Raises: LimitError before anything is written; CancelledError; OSError where the disk does not take it.
    """
    cells = table.row_count * max(table.column_count, 1)
    if cells > MOST_CELLS:
        raise LimitError(
            f"The table has {cells:,} cells; pages take {MOST_CELLS:,}.",
            "Take it as a workbook, or narrow it before you print it.",
        )
    _Pages(table, title, about, watch).write(file)


class _Pages:
    def __init__(self, table: SeenTable, title: str, about: str, watch: Watch) -> None:
        self._table, self._title, self._about = table, title, about
        lines = table.heads()
        self._labels = len(lines[0]) - table.column_count
        self._label_heads = [line[: self._labels] for line in lines]
        self._heads = heads_of([line[self._labels :] for line in lines])
        self._lines = list(_lines(table, watch))
        self._pdf = _sheet(title)
        self._widths = self._measured(lines)
        self._is_wide = sum(self._widths) > SHORT_SIDE - 2 * MARGIN
        self._sets = list(self._column_sets())
        self._columns = self._sets[0]

    def write(self, file: Path) -> None:
        is_drawn = self._table.view != "table" and self._write_chart()
        for columns in self._sets if self._table.view != "chart" or not is_drawn else ():
            self._columns = columns
            self._write_set()
        self._pdf.output(str(file))

    def _write_chart(self) -> bool:
        """Draws the chart's panels, each whole on its page. Says whether there is anything to draw."""
        # What draws it takes its time to be read in, which most pages do without.
        from dastan.exports.chart_drawing import HEIGHT, WIDTH, pictures_of

        pdf, pictures = self._pdf, pictures_of(self._table)
        for at, picture in enumerate(pictures):
            if not at or pdf.get_y() + pdf.epw * HEIGHT / WIDTH > pdf.h - MARGIN - FOOT:
                if at:
                    self._close_page()
                self._open_page(is_first=not at)
            top = pdf.get_y()
            pdf.image(BytesIO(picture), x=MARGIN, y=top, w=pdf.epw)
            pdf.set_y(top + pdf.epw * HEIGHT / WIDTH + BETWEEN)
        if pictures:
            self._close_page()
        return bool(pictures)

    def _measured(self, heads: Sequence[Sequence[str]]) -> list[float]:
        """How wide each column is, labels first."""
        self._font("bold")
        found = [max(self._pdf.get_string_width(line[at]) for line in heads[-1:]) for at in range(len(heads[0]))]
        for line in self._lines:
            self._font("bold" if line.tone.is_strong else "")
            for at, (text, steps) in enumerate(line.labels):
                found[at] = max(found[at], self._pdf.get_string_width(text) + steps * INDENT)
            for at, text in enumerate(line.figures, start=self._labels):
                found[at] = max(found[at], self._pdf.get_string_width(text))
        most = [_LABELS_WIDEST if at < self._labels else _FIGURES_WIDEST for at in range(len(found))]
        return [min(width, own) + BETWEEN for width, own in zip(found, most, strict=True)]

    def _column_sets(self) -> Iterator[range]:
        """The columns of figures that stand beside each other on a page, beside the labels."""
        # Where it can be, a page ends between two of the outermost heads, not within one.
        begins = {each.start for each in self._heads[0]} if len(self._heads) > 1 else set()
        room = (LONG_SIDE if self._is_wide else SHORT_SIDE) - 2 * MARGIN - sum(self._widths[: self._labels])
        start, end, count = 0, 0, len(self._widths) - self._labels
        figures = self._widths[self._labels :]
        if not count:
            yield range(0)  # the labels alone
        while end < count:
            end = start + 1
            while end < count and sum(figures[start : end + 1]) <= room:
                end += 1
            if end < count:
                end = max((each for each in begins if start < each <= end), default=end)
            yield range(start, end)
            start = end

    def _write_set(self) -> None:
        """All rows of some columns, on as many pages as they need."""
        self._begin_page(is_first=self._columns.start == 0)
        above: list[tuple[tuple[str, int], ...]] = []
        for at, line in enumerate(self._lines):
            depth = line.labels[0][1] if line.labels else 0
            del above[depth:]
            if self._pdf.get_y() + LINE * self._needed(at) > self._pdf.h - MARGIN - FOOT:
                self._close_page()
                self._begin_page()
                for labels in above:  # what the rows at the head of a page stand in
                    self._write_line(_Line(labels, (), None, Tone(is_italic=True), False), goes_on=True)
            self._write_line(line)
            above += [line.labels] * (depth + 1 - len(above))
        self._close_page()

    def _needed(self, at: int) -> int:
        """How many rows must have room for one to stand here: it and those that it heads, or that the last needs."""
        ahead = 1
        while self._lines[at].heads_others and ahead <= _FEWEST and at + ahead < len(self._lines):
            ahead += 1
            if not self._lines[at + ahead - 1].heads_others:
                break
        left = len(self._lines) - at
        return max(ahead, left if left <= _FEWEST else 1)

    def _begin_page(self, is_first: bool = False) -> None:
        """A page with the heads of the table."""
        pdf = self._pdf
        self._open_page(is_first and not pdf.page_no())
        for depth, heads in enumerate(self._heads):
            self._write_heads(self._label_heads[depth], heads, is_last=depth == len(self._heads) - 1)
        self._rule(pdf.get_y(), _INK)

    def _open_page(self, is_first: bool) -> None:
        pdf = self._pdf
        pdf.add_page(orientation="landscape" if self._is_wide else "portrait")
        if is_first:
            pdf.set_font("serif", "I", _TITLE)
            pdf.multi_cell(0, 6.2, self._title, new_x="LMARGIN", new_y="NEXT")
            self._font("", _SMALL, _SOFT)
            pdf.multi_cell(0, 4.2, self._about, new_x="LMARGIN", new_y="NEXT")
        else:
            pdf.set_font("serif", "I", _SIZE)
            pdf.set_text_color(*_SOFT)
            pdf.cell(0, 4.2, self._fitted(self._title, self._pdf.epw), new_x="LMARGIN", new_y="NEXT")
        pdf.ln(2.5)

    def _close_page(self) -> None:
        pdf = self._pdf
        many = f" · columns {self._columns.start + 1} to {self._columns.stop}" if len(self._sets) > 1 else ""
        self._font("", _SMALL, _SOFT)
        pdf.set_xy(MARGIN, pdf.h - MARGIN)
        pdf.cell(0, 4, f"{self._about.split(' · ')[0]}{many}")
        pdf.set_xy(MARGIN, pdf.h - MARGIN)
        pdf.cell(0, 4, f"{pdf.page_no()} of {{nb}}", align="R")

    def _write_heads(self, labels: Sequence[str], heads: Sequence[Head], is_last: bool) -> None:
        y, x = self._pdf.get_y(), MARGIN
        self._font("bold")
        for at, text in enumerate(labels):
            self._text(text, x, y, self._widths[at] - BETWEEN)
            x += self._widths[at]
        for head in heads:
            start, end = max(head.start, self._columns.start), min(head.end, self._columns.stop)
            if start >= end:
                continue
            width = sum(self._widths[self._labels + start : self._labels + end])
            is_over = head.end - head.start > 1 and not is_last
            if is_over and head.caption:
                self._rule(y + LINE, _RULE, x + BETWEEN, x + width)
            self._text(head.caption, x + BETWEEN, y, width - BETWEEN, "L" if is_over else "R")
            x += width
        self._pdf.set_xy(MARGIN, y + LINE)

    def _write_line(self, line: _Line, goes_on: bool = False) -> None:
        y, x = self._pdf.get_y(), MARGIN
        tone = line.tone
        if tone.above != "none":
            self._rule(y, _INK)
        self._font("bold" if tone.is_strong else "I" if tone.is_italic else "", colour=_SOFT if goes_on else _INK)
        for at, (text, steps) in enumerate(line.labels):
            own = f"{text}, continued" if goes_on else text
            self._text(own, x + steps * INDENT, y, self._widths[at] - BETWEEN - steps * INDENT)
            x += self._widths[at]
        for at in self._columns if line.figures else ():
            width = self._widths[self._labels + at]
            mark = line.marks[at] if line.marks is not None else None
            if mark is not None and mark.meaning is not None:
                self._font("bold", colour=_MEANINGS[mark.meaning])
            self._text(line.figures[at], x + BETWEEN, y, width - BETWEEN, "R")
            if mark is not None and mark.meaning is not None:
                self._font("bold" if tone.is_strong else "")
            x += width
        if tone.below != "none":
            self._rule(y + LINE, _INK)
        if tone.below == "double":
            self._rule(y + LINE + 0.7, _INK)
        self._pdf.set_xy(MARGIN, y + LINE)

    def _text(self, text: str, x: float, y: float, width: float, align: str = "L") -> None:
        if text:
            self._pdf.set_xy(x, y)
            self._pdf.cell(width, LINE, self._fitted(text, width), align=align)

    def _fitted(self, text: str, width: float) -> str:
        """The text as far as it has room, with a sign where it has not."""
        if self._pdf.get_string_width(text) <= width + 0.1:
            return text
        while text and self._pdf.get_string_width(f"{text}…") > width:
            text = text[:-1]
        return f"{text.rstrip()}…"

    def _rule(self, y: float, colour: tuple[int, int, int], start: float = MARGIN, end: float | None = None) -> None:
        columns = self._widths[self._labels + self._columns.start : self._labels + self._columns.stop]
        self._pdf.set_draw_color(*colour)
        self._pdf.set_line_width(0.2)
        self._pdf.line(start, y, end or MARGIN + sum(self._widths[: self._labels]) + sum(columns), y)

    def _font(self, style: str = "", size: float = _SIZE, colour: tuple[int, int, int] = _INK) -> None:
        self._pdf.set_font("sans", {"bold": "B"}.get(style, style), size)
        self._pdf.set_text_color(*colour)


def _sheet(title: str) -> FPDF:
    pdf = FPDF(format="A4")
    pdf.set_margins(MARGIN, MARGIN)
    pdf.set_auto_page_break(False)
    pdf.set_title(title)
    pdf.set_creator("Dastan")
    for name, style, path in (
        ("sans", "", sans.SourceSansPro), ("sans", "B", sans.SourceSansProSemibold),
        ("sans", "I", sans.SourceSansProIt), ("serif", "I", serif.SourceSerifProIt),
    ):  # fmt: skip
        pdf.add_font(name, style, Path(path).with_suffix(".ttf"))
    return pdf


def _lines(table: SeenTable, watch: Watch) -> Iterator[_Line]:
    totals = table.total_rows
    rows = list(table.marked_rows(watch))
    for at, (row, marks) in enumerate(rows):
        below = rows[at + 1][0].header.indent if at + 1 < len(rows) and at + 1 not in totals else 0
        yield _Line(
            tuple(_stepped(each) for each in row.labels),
            _figures(table, row),
            marks,
            tone_of(row, at in totals),
            below > row.header.indent,
        )


def _figures(table: SeenTable, row: SeenRow) -> tuple[str, ...]:
    return tuple(
        "" if value is None else number_text(value, table.look(row.header, column), table.money(row.header, column))
        for value, column in zip(row.values, table.columns, strict=True)
    )


def _stepped(label: str) -> tuple[str, int]:
    own = label.lstrip(" ")
    return " ".join(own.split()), (len(label) - len(own)) // len(STEP)
