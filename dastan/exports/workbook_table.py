"""The first sheet of a workbook: the table as it is seen."""

from __future__ import annotations

from typing import Any

import xlsxwriter
from xlsxwriter.format import Format

from dastan.core.analysis.document import Dress
from dastan.core.engine.watch import Watch
from dastan.exports.cell_format import cell_format, cell_value
from dastan.exports.seen import STEP, SeenRow, SeenTable
from dastan.exports.setting import Tone, heads_of, tone_of

TABLE_STARTS = 3
"""The rows above the table's heads: the sentence, what it is of, and a blank one."""
_DEEPEST_OUTLINE, _DEEPEST_INDENT = 7, 15
_SAMPLE = 300
"""So many rows say how wide the columns are."""
_NARROWEST, _WIDEST, _LABELS_WIDEST = 9.0, 32.0, 48.0
_SOFT = "#6B6470"
_RULES = {"none": 0, "single": 1, "double": 6}


class TableSheet:
    """Args: `dress` is how the table looks now."""

    def __init__(self, book: xlsxwriter.Workbook, table: SeenTable, dress: Dress) -> None:
        self.sheet = book.add_worksheet("Table")
        self.table, self.dress = table, dress
        self._book = book
        self._formats: dict[tuple[tuple[str, Any], ...], Format] = {}
        self._heads, self._columns = table.heads(), table.columns
        self.labels = len(self._heads[0]) - len(self._columns)
        """How many columns hold the labels."""
        self.first_row = TABLE_STARTS + len(self._heads)
        self.last_row = self.first_row + table.row_count - 1
        self.innermost: list[tuple[int, int]] = []
        """From where to where rows stand below which there are none."""
        self._widths = [_NARROWEST] * len(self._heads[0])

    def write(self, title: str, about: str, watch: Watch) -> None:
        """All of it, row after row. Raises CancelledError."""
        frozen = self.dress.frozen
        down, across = frozen in ("both", "columns"), frozen in ("both", "rows")
        self.sheet.freeze_panes(self.first_row if down else 0, self.labels if across else 0)
        self.sheet.outline_settings(True, self.table.sums_below, True, False)
        self.sheet.hide_gridlines(2)
        self.sheet.set_landscape()
        self.sheet.set_paper(9)  # A4
        self.sheet.fit_to_pages(1, 0)
        self.sheet.repeat_rows(TABLE_STARTS, self.first_row - 1)
        self.sheet.write_string(0, 0, title, self._format(bold=True, font_size=14))
        self.sheet.write_string(1, 0, about, self._format(font_color=_SOFT))
        self._write_heads()
        for at, row in enumerate(self.table.rows(watch), start=self.first_row):
            is_total = at - self.first_row in self.table.total_rows
            self._write_row(at, row, is_total)
            if row.is_innermost and not is_total:
                self._note_innermost(at)
        for at, width in enumerate(self._widths):
            self.sheet.set_column(at, at, min(width, _LABELS_WIDEST if at < self.labels else _WIDEST))

    def _note_innermost(self, row: int) -> None:
        if self.innermost and self.innermost[-1][1] == row - 1:
            self.innermost[-1] = (self.innermost[-1][0], row)
        else:
            self.innermost.append((row, row))

    def _write_heads(self) -> None:
        """A caption that heads several columns stands once over all of them."""
        spans = heads_of([line[self.labels :] for line in self._heads])
        for depth, line in enumerate(self._heads):
            row, is_last = TABLE_STARTS + depth, depth == len(self._heads) - 1
            rule = 1 if is_last else 0
            for at in range(self.labels):
                self._write_head(row, at, line[at], self._format(bold=True, bottom=rule))
            for head in spans[depth]:
                place = self.labels + head.start
                if head.end - head.start > 1 and head.caption:
                    self.sheet.merge_range(
                        row, place, row, self.labels + head.end - 1, head.caption, self._format(bold=True, align="left")
                    )
                    continue
                for at in range(place, self.labels + head.end):
                    self._write_head(row, at, head.caption, self._format(bold=True, bottom=rule, align="right"))

    def _write_head(self, row: int, at: int, caption: str, look: Format) -> None:
        if caption:
            self.sheet.write_string(row, at, caption, look)
            self._widen(at, caption)
        else:
            self.sheet.write_blank(row, at, None, look)

    def _write_row(self, at: int, row: SeenRow, is_total: bool) -> None:
        header = row.header
        tone = _format_of(tone_of(row, is_total))
        is_sampled = is_total or at < self.first_row + _SAMPLE
        if header.indent:
            self.sheet.set_row(at, None, None, {"level": min(header.indent, _DEEPEST_OUTLINE)})
        # What was said of the rows before is written: a million of them are not held.
        self.sheet.row_info.pop(at - 2, None)
        self.sheet.row_sizes.pop(at - 2, None)
        for place, text in enumerate(row.labels):
            steps = header.indent if self.dress.rows == "stepped" else 0
            own = text.removeprefix(STEP * steps)
            self.sheet.write_string(at, place, own, self._format(**tone, indent=min(steps, _DEEPEST_INDENT)))
            if is_sampled:
                self._widen(place, own, steps)
        for place, (value, column) in enumerate(zip(row.values, self._columns, strict=True), start=self.labels):
            if value is None:
                self.sheet.write_blank(at, place, None, self._format(**tone))
                continue
            look = self.table.look(header, column)
            held = cell_value(value, look)
            dressed = self._format(
                **tone, num_format=cell_format(look, self.table.money(header, column)), align="right"
            )
            if isinstance(held, str):
                self.sheet.write_string(at, place, held, dressed)
            else:
                self.sheet.write_number(at, place, held, dressed)
            if is_sampled:
                self._widen(place, held if isinstance(held, str) else f"{held / look.divisor:,.2f}")

    def _widen(self, at: int, text: str, steps: int = 0) -> None:
        self._widths[at] = max(self._widths[at], len(text) * 1.05 + 2 + steps * 1.5)

    def _format(self, **parts: Any) -> Format:
        """One format for all cells that look alike."""
        key = tuple(parts.items())
        found = self._formats.get(key)
        if found is None:
            found = self._formats[key] = self._book.add_format({name: value for name, value in key if value})
        return found


def _format_of(tone: Tone) -> dict[str, Any]:
    """A row's tone as the spreadsheet's own."""
    return {
        "bold": tone.is_strong, "italic": tone.is_italic, "top": _RULES[tone.above], "bottom": _RULES[tone.below],
    }  # fmt: skip
