"""The chart of a table drawn without a browser, as vectors (SVG): one picture for each of its panels."""

from __future__ import annotations

from io import BytesIO
from pathlib import Path
from typing import Any

import font_source_sans_pro as sans
import matplotlib as mpl
import numpy as np
from matplotlib.axes import Axes
from matplotlib.backends.backend_svg import FigureCanvasSVG
from matplotlib.colors import LinearSegmentedColormap
from matplotlib.figure import Figure
from matplotlib.font_manager import FontProperties
from matplotlib.ticker import FuncFormatter

from dastan.core.reading.chart import ChartData, ChartHeader, ChartPanel
from dastan.exports.seen import SeenTable
from dastan.exports.setting import PIGMENTS, number_text

# Names are text: a dollar in one of them begins no formula.
mpl.rcParams["text.parse_math"] = False

WIDTH, HEIGHT = 7.2, 3.4
"""Inches, for every picture."""
_INK, _SOFT, _RULE, _PAPER = "#2b2030", "#6d6070", "#ebe3d3", "#fffdf7"
_MOST_LABELS = 30
"""So many categories are named at most: of more, every second or third."""
_LONGEST = 26


def pictures_of(table: SeenTable) -> list[bytes]:
    """The pictures of a table's chart, top to bottom; none where there is nothing to draw."""
    data = table.chart()
    if not data.categories or not data.panels:
        return []
    if data.form == "points" and len(data.panels) > 1:
        return [_drawn(_points, table, data, data.panels[1])]
    return [_drawn(_DRAWINGS[data.form], table, data, panel) for panel in data.panels]


def _drawn(draw: Any, table: SeenTable, data: ChartData, panel: ChartPanel) -> bytes:
    figure = Figure(figsize=(WIDTH, HEIGHT), layout="constrained")
    FigureCanvasSVG(figure)
    axes = figure.add_subplot()
    axes.set_title(table.heading(panel.measure), loc="left", fontproperties=_font(10, True), color=_INK)
    draw(axes, table, data, panel)
    for text in (*axes.get_xticklabels(), *axes.get_yticklabels()):
        text.set_fontproperties(_font(7.5))
        text.set_color(_SOFT)
    for name in ("top", "right", "left"):
        axes.spines[name].set_visible(False)
    axes.spines["bottom"].set_color(_INK)
    axes.tick_params(length=0)
    file = BytesIO()
    figure.savefig(file, format="svg", metadata=dict.fromkeys(("Date", "Creator", "Format", "Type")))
    return file.getvalue()


def _bars(axes: Axes, table: SeenTable, data: ChartData, panel: ChartPanel) -> None:
    series = _values(panel)
    width = 0.8 / len(series)
    for at, values in enumerate(series):
        places = np.arange(len(values)) - 0.4 + width * (at + 0.5)
        axes.bar(places, np.nan_to_num(values), width * 0.94, color=_colour(at), label=_series_name(data, at))
    _along_categories(axes, table, data, panel)


def _stacked(axes: Axes, table: SeenTable, data: ChartData, panel: ChartPanel) -> None:
    series = np.nan_to_num(_values(panel))
    if data.form == "shares":
        whole = np.abs(series).sum(axis=0)
        series = np.divide(100 * series, whole, out=np.zeros_like(series), where=whole > 0)
    above, below = np.zeros(series.shape[1]), np.zeros(series.shape[1])
    for at, values in enumerate(series):
        # What is less than nothing is piled up downwards.
        bottom = np.where(values >= 0, above, below)
        axes.bar(np.arange(len(values)), values, 0.72, bottom=bottom, color=_colour(at), label=_series_name(data, at))
        above += np.maximum(values, 0)
        below += np.minimum(values, 0)
    _along_categories(axes, table, data, panel)


def _lines(axes: Axes, table: SeenTable, data: ChartData, panel: ChartPanel) -> None:
    for at, values in enumerate(_values(panel)):
        (line,) = axes.plot(np.arange(len(values)), values, color=_colour(at), label=_series_name(data, at))
        line.set(linewidth=1.6, marker="o" if len(values) <= _MOST_LABELS else "", markersize=3)
    _along_categories(axes, table, data, panel)


def _areas(axes: Axes, table: SeenTable, data: ChartData, panel: ChartPanel) -> None:
    series = np.nan_to_num(_values(panel))
    names = [_series_name(data, at) for at in range(len(series))]
    colours = [_colour(at) for at in range(len(series))]
    axes.stackplot(np.arange(series.shape[1]), *series, labels=names, colors=colours, alpha=0.85)
    _along_categories(axes, table, data, panel)


def _ring(axes: Axes, table: SeenTable, data: ChartData, panel: ChartPanel) -> None:
    values = np.nan_to_num(_values(panel)[0])
    shown = np.flatnonzero(values > 0)
    names = [f"{_name(data.categories[at])}  {_text(values[at], table, panel.measure)}" for at in shown]
    colours = [_colour(int(at)) for at in shown]
    pieces = axes.pie(values[shown], colors=colours, startangle=90, counterclock=False, wedgeprops={"width": 0.42})
    axes.legend(pieces[0], names, loc="center left", bbox_to_anchor=(1, 0.5), frameon=False, prop=_font(8))


def _heat(axes: Axes, table: SeenTable, data: ChartData, panel: ChartPanel) -> None:
    series = _values(panel)
    axes.pcolormesh(np.ma.masked_invalid(series), cmap=_shades(), edgecolor=_PAPER, linewidth=0.5)
    axes.invert_yaxis()
    axes.set_yticks(np.arange(len(series)) + 0.5, [_series_name(data, at) for at in range(len(series))])
    _name_categories(axes, data, 0.5)


def _points(axes: Axes, table: SeenTable, data: ChartData, panel: ChartPanel) -> None:
    across, up = _values(data.panels[0]), _values(panel)
    for at, (one, other) in enumerate(zip(across, up, strict=True)):
        axes.scatter(one, other, s=18, color=_colour(at), label=_series_name(data, at))
    axes.set_xlabel(table.heading(data.panels[0].measure), fontproperties=_font(8), color=_SOFT)
    axes.xaxis.set_major_formatter(FuncFormatter(lambda value, _: _text(value, table, data.panels[0].measure)))
    _scale(axes, table, data, panel)
    _legend(axes, data)


_DRAWINGS = {
    "bars": _bars, "stacked": _stacked, "shares": _stacked, "lines": _lines, "areas": _areas, "ring": _ring,
    "heat": _heat, "points": _bars,
}  # fmt: skip


def _along_categories(axes: Axes, table: SeenTable, data: ChartData, panel: ChartPanel) -> None:
    _name_categories(axes, data)
    _scale(axes, table, data, panel)
    _legend(axes, data)


def _name_categories(axes: Axes, data: ChartData, middle: float = 0.0) -> None:
    names = [_name(each) for each in data.categories]
    step = -(-len(names) // _MOST_LABELS)
    shown = list(range(0, len(names), step))
    is_long = sum(len(names[at]) for at in shown) > 90
    axes.set_xticks(
        shown, [names[at] for at in shown], rotation=40 if is_long else 0, ha="right" if is_long else "center"
    )


def _scale(axes: Axes, table: SeenTable, data: ChartData, panel: ChartPanel) -> None:
    axes.yaxis.grid(True, color=_RULE, linewidth=0.8)
    axes.set_axisbelow(True)
    if data.form == "shares":
        axes.yaxis.set_major_formatter(FuncFormatter(lambda value, _: f"{value:.0f} %"))
    else:
        axes.yaxis.set_major_formatter(FuncFormatter(lambda value, _: _text(value, table, panel.measure)))


def _legend(axes: Axes, data: ChartData) -> None:
    if len(data.series) > 1:
        columns = min(len(data.series), 5)
        axes.legend(loc="upper center", bbox_to_anchor=(0.5, -0.2), ncols=columns, frameon=False, prop=_font(8))


def _values(panel: ChartPanel) -> np.ndarray:
    """`(n_series, n_categories) float64`, not a number where there is none."""
    return np.array([[np.nan if each is None else float(each) for each in line] for line in panel.values])


def _text(value: float, table: SeenTable, measure: int) -> str:
    look, money = table.look_of(measure)
    return number_text(float(value), look, money)


def _series_name(data: ChartData, at: int) -> str:
    return _name(data.series[at]) or " "


def _name(header: ChartHeader) -> str:
    text = " › ".join(each for each in header.captions if each)
    return text if len(text) <= _LONGEST else f"{text[: _LONGEST - 1]}…"


def _colour(at: int) -> str:
    return PIGMENTS[at % len(PIGMENTS)]


def _shades() -> Any:
    return LinearSegmentedColormap.from_list("pigment", [_PAPER, PIGMENTS[0]])


def _font(size: float, is_strong: bool = False) -> FontProperties:
    path = Path(sans.SourceSansProSemibold if is_strong else sans.SourceSansPro).with_suffix(".ttf")
    return FontProperties(fname=str(path), size=size)
