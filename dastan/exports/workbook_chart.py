"""The chart of a workbook: what is drawn stands on a sheet of its own, and the spreadsheet's own chart beside it."""

from __future__ import annotations

from typing import Any

import xlsxwriter
from xlsxwriter.worksheet import Worksheet

from dastan.core.analysis.document import ChartForm
from dastan.core.reading.chart import ChartData, ChartHeader, ChartPanel
from dastan.exports.cell_format import cell_format, cell_value
from dastan.exports.seen import SeenTable
from dastan.exports.setting import PIGMENTS

SHEET = "Chart"
_KINDS: dict[ChartForm, dict[str, str]] = {
    "bars": {"type": "column"},
    "stacked": {"type": "column", "subtype": "stacked"},
    "shares": {"type": "column", "subtype": "percent_stacked"},
    "lines": {"type": "line"},
    "areas": {"type": "area", "subtype": "stacked"},
    "points": {"type": "scatter"},
    "ring": {"type": "doughnut"},
}
_WIDTH, _HEIGHT = 760, 360
_ROWS_OF_CHART = 20
_BETWEEN = 2


def add_chart(book: xlsxwriter.Workbook, table: SeenTable, title: str) -> None:
    """Adds the sheet; nothing where there is nothing to draw."""
    data = table.chart()
    if not data.categories or not data.panels:
        return
    sheet = book.add_worksheet(SHEET)
    sheet.hide_gridlines(2)
    sheet.set_landscape()
    sheet.set_paper(9)  # A4
    sheet.fit_to_pages(1, 0)
    sheet.write_string(0, 0, title, book.add_format({"bold": True, "font_size": 14}))
    for at, note in enumerate(data.notes):
        sheet.write_string(1 + at, 0, note, book.add_format({"font_color": "#6B6470"}))
    top = 2 + len(data.notes)
    starts = []
    for panel in data.panels:
        _write_panel(book, sheet, table, data, panel, top)
        starts.append(top)
        top += max(len(data.categories) + 1, _ROWS_OF_CHART) + _BETWEEN
    names = [*(_name(each) for each in data.categories), *(table.heading(each.measure) for each in data.panels)]
    sheet.set_column(0, 0, min(max(map(len, names)) + 3, 40))
    sheet.set_column(1, len(data.series), 14)
    if data.form == "points" and len(starts) > 1:
        _draw_points(book, sheet, table, data, starts)
    elif data.form != "heat":
        for panel, start in zip(data.panels, starts, strict=True):
            _draw(book, sheet, table, data, panel, start)


def _write_panel(
    book: xlsxwriter.Workbook, sheet: Worksheet, table: SeenTable, data: ChartData, panel: ChartPanel, top: int
) -> None:
    """A block: a row for each category, a column for each series."""
    head = book.add_format({"bold": True, "bottom": 1, "align": "right"})
    sheet.write_string(top, 0, table.heading(panel.measure), book.add_format({"bold": True, "bottom": 1}))
    for at, series in enumerate(data.series):
        sheet.write_string(top, 1 + at, _name(series) or table.heading(panel.measure), head)
    looks = [table.look_of(panel.measure if each.measure is None else each.measure) for each in data.series]
    formats = [book.add_format({"num_format": cell_format(*each)}) for each in looks]
    # Row by row, for the workbook holds no more than one.
    for row, (category, values) in enumerate(
        zip(data.categories, zip(*panel.values, strict=True), strict=True), top + 1
    ):
        sheet.write_string(row, 0, _name(category))
        for column, (value, (look, _), dressed) in enumerate(zip(values, looks, formats, strict=True), start=1):
            if value is not None:
                sheet.write_number(row, column, float(cell_value(value, look)), dressed)
    if data.form == "heat":
        last = (top + len(data.categories), len(data.series))
        colours = {"type": "2_color_scale", "min_color": "#FFFDF7", "max_color": PIGMENTS[0]}
        sheet.conditional_format(top + 1, 1, *last, colours)


def _draw(
    book: xlsxwriter.Workbook, sheet: Worksheet, table: SeenTable, data: ChartData, panel: ChartPanel, top: int
) -> None:
    chart = book.add_chart(dict(_KINDS[data.form]))
    first, last = top + 1, top + len(data.categories)
    for at in range(len(data.series)):
        colour = PIGMENTS[at % len(PIGMENTS)]
        look: dict[str, Any] = {"line": {"color": colour, "width": 2}} if data.form == "lines" else {}
        if data.form not in ("lines", "ring"):
            look = {"fill": {"color": colour}, "border": {"none": True}}
        chart.add_series(
            {
                "name": [SHEET, top, 1 + at],
                "categories": [SHEET, first, 0, last, 0],
                "values": [SHEET, first, 1 + at, last, 1 + at],
                **look,
            }
        )
    _finish(chart, table, panel.measure, has_legend=len(data.series) > 1 or data.form == "ring")
    sheet.insert_chart(top, len(data.series) + 2, chart)


def _draw_points(
    book: xlsxwriter.Workbook, sheet: Worksheet, table: SeenTable, data: ChartData, starts: list[int]
) -> None:
    """The first measure across, the second up."""
    chart = book.add_chart(dict(_KINDS["points"]))
    across, up = starts[:2]
    for at in range(len(data.series)):
        chart.add_series(
            {
                "name": [SHEET, up, 1 + at],
                "categories": [SHEET, across + 1, 1 + at, across + len(data.categories), 1 + at],
                "values": [SHEET, up + 1, 1 + at, up + len(data.categories), 1 + at],
                "marker": {"type": "circle", "size": 6, "fill": {"color": PIGMENTS[at % len(PIGMENTS)]}},
            }
        )
    chart.set_x_axis({"name": table.heading(data.panels[0].measure)})
    _finish(chart, table, data.panels[1].measure, has_legend=len(data.series) > 1)
    sheet.insert_chart(across, len(data.series) + 2, chart)


def _finish(chart: Any, table: SeenTable, measure: int, has_legend: bool) -> None:
    chart.set_title({"name": table.heading(measure), "name_font": {"size": 12}, "overlay": False})
    chart.set_legend({"position": "bottom"} if has_legend else {"none": True})
    lines = {"visible": True, "line": {"color": "#EBE3D3"}}
    written = cell_format(*table.look_of(measure))
    chart.set_y_axis({"major_gridlines": lines, "line": {"none": True}, "num_format": written})
    chart.set_size({"width": _WIDTH, "height": _HEIGHT})


def _name(header: ChartHeader) -> str:
    return " › ".join(each for each in header.captions if each)
