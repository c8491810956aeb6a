"""A table as it is seen as a spreadsheet of the Open Document Format (OASIS ODF 1.3), the same numbers flat on a second
sheet.

Its XML is streamed: the packages that write the format hold a tree of all cells, at half a millisecond for each.
"""

from __future__ import annotations

import re
import shutil
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from decimal import Decimal
from pathlib import Path
from tempfile import TemporaryFile
from typing import IO
from xml.sax.saxutils import escape as escape_plainly
from xml.sax.saxutils import quoteattr
from zipfile import ZIP_DEFLATED, ZIP_STORED, ZipFile

from dastan.core.analysis.document import Dress
from dastan.core.analysis.dress import Written
from dastan.core.engine.watch import Watch
from dastan.exports.cell_format import cell_value, held_number
from dastan.exports.flat import FlatTable
from dastan.exports.number_format import NumberFormat, number_format
from dastan.exports.seen import STEP, SeenRow, SeenTable
from dastan.exports.setting import PLAIN, Head, Tone, heads_of, number_text, tone_of
from dastan.exports.workbook import check_size
from dastan.exports.workbook_records import MOST_ROWS

_NAMESPACES = " ".join(
    f'xmlns:{name}="urn:oasis:names:tc:opendocument:xmlns:{what}:1.0"'
    for name, what in (
        ("office", "office"), ("table", "table"), ("text", "text"), ("style", "style"), ("number", "datastyle"),
        ("fo", "xsl-fo-compatible"), ("config", "config"), ("dc", "dc"), ("meta", "meta"),
    )
)  # fmt: skip
_MEDIA = "application/vnd.oasis.opendocument.spreadsheet"
_RULES = {"none": "", "single": "0.5pt solid #2b2030", "double": "2pt double #2b2030"}
_CHARACTER_CM, _NARROWEST, _WIDEST = 0.21, 9, 48
_CONTROLS = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff]")
_ABOVE = 3
"""Rows above the table's heads: the sentence, what it is of, and a blank one."""


def write_ods(table: SeenTable, dress: Dress, title: str, about: str, file: Path, watch: Watch) -> None:
    """Writes the file. Raises LimitError before anything is written; CancelledError; OSError."""
    check_size(table)
    with TemporaryFile(mode="w+b") as body:
        sheet = _Sheets(table, dress, body)
        sheet.write(title, about, watch)
        body.seek(0)
        with ZipFile(file, "w", ZIP_DEFLATED) as zipped:
            zipped.writestr("mimetype", _MEDIA, ZIP_STORED)
            zipped.writestr("META-INF/manifest.xml", _manifest())
            zipped.writestr("meta.xml", _meta(title, about))
            zipped.writestr("settings.xml", _settings(sheet.frozen_rows, sheet.frozen_columns))
            with zipped.open("content.xml", "w", force_zip64=True) as content:
                content.write(f'<?xml version="1.0" encoding="UTF-8"?>{_root("content")}'.encode())
                content.write("".join(sheet.styles()).encode())
                content.write(b"<office:body><office:spreadsheet>")
                shutil.copyfileobj(body, content)
                content.write(b"</office:spreadsheet></office:body></office:document-content>")


@dataclass(frozen=True, slots=True)
class _CellStyle:
    """How a cell is set; numbers by a format and the unit of their money."""

    tone: Tone = PLAIN
    look: Written | None = None
    money: str = ""
    indent: int = 0
    is_title: bool = False
    is_head: bool = False
    is_right: bool = False


class _Sheets:
    def __init__(self, table: SeenTable, dress: Dress, body: IO[bytes]) -> None:
        self._table, self._dress, self._body = table, dress, body
        self._heads = table.heads()
        self._labels = len(self._heads[0]) - table.column_count
        self._widths = [float(_NARROWEST)] * len(self._heads[0])
        self._cells: dict[_CellStyle, str] = {}
        down, across = dress.frozen in ("both", "columns"), dress.frozen in ("both", "rows")
        self.frozen_rows = _ABOVE + len(self._heads) if down else 0
        self.frozen_columns = self._labels if across else 0

    def write(self, title: str, about: str, watch: Watch) -> None:
        # The widths are known once all rows are; the columns' styles stand above, by their names.
        self._put('<table:table table:name="Table">')
        self._put("".join(f'<table:table-column table:style-name="co{at}"/>' for at in range(len(self._widths))))
        self._row([self._text(title, _CellStyle(is_title=True))])
        self._row([self._text(about, _CellStyle())])
        self._row([])
        spans = heads_of([line[self._labels :] for line in self._heads])
        self._put("<table:table-header-rows>")
        for line, heads in zip(self._heads, spans, strict=True):
            self._row(self._head(line[: self._labels], heads, is_last=line is self._heads[-1]))
        self._put("</table:table-header-rows>")
        depth = 0
        for at, row in enumerate(self._table.rows(watch)):
            depth = self._nested(depth, row.header.indent)
            self._row(self._cells_of(row, tone_of(row, at in self._table.total_rows)))
        self._nested(depth, 0)
        self._put("</table:table>")
        flat = self._table.flat()
        if len(flat) < MOST_ROWS:
            self._write_flat(flat, watch)

    def styles(self) -> Iterator[str]:
        """Every style that a cell has, and each column's width."""
        yield "<office:automatic-styles>"
        for at, width in enumerate(self._widths):
            yield (
                f'<style:style style:name="co{at}" style:family="table-column"><style:table-column-properties '
                f'style:column-width="{min(width, _WIDEST) * _CHARACTER_CM:.2f}cm"/></style:style>'
            )
        numbers: dict[tuple[Written, str], str] = {}
        for style, name in self._cells.items():
            data = ""
            if style.look is not None:
                key = (style.look, style.money)
                if key not in numbers:
                    numbers[key] = f"N{len(numbers)}"
                    yield from _number_style(numbers[key], *key)
                data = f' style:data-style-name="{numbers[key]}"'
            yield f'<style:style style:name="{name}" style:family="table-cell"{data}>{_properties(style)}</style:style>'
        yield "</office:automatic-styles>"

    def _nested(self, depth: int, wanted: int) -> int:
        """Opens and closes the groups in which rows fold below the one above them."""
        self._put("<table:table-row-group>" * (wanted - depth) + "</table:table-row-group>" * (depth - wanted))
        return wanted

    def _head(self, labels: Sequence[str], heads: Sequence[Head], is_last: bool) -> Iterator[str]:
        tone = Tone(is_strong=True, below="single" if is_last else "none")
        for at, text in enumerate(labels):
            self._widen(at, text)
            yield self._text(text, _CellStyle(tone, is_head=True))
        for head in heads:
            many = head.end - head.start
            if many == 1:
                self._widen(self._labels + head.start, head.caption)
            span = f' table:number-columns-spanned="{many}" table:number-rows-spanned="1"' if many > 1 else ""
            yield self._text(head.caption, _CellStyle(tone, is_head=True, is_right=many == 1), span)
            yield "<table:covered-table-cell/>" * (many - 1)

    def _cells_of(self, row: SeenRow, tone: Tone) -> Iterator[str]:
        steps = row.header.indent if self._dress.rows == "stepped" else 0
        for at, label in enumerate(row.labels):
            own = label.removeprefix(STEP * steps)
            self._widen(at, own, steps)
            yield self._text(own, _CellStyle(tone, indent=steps))
        for at, (value, column) in enumerate(zip(row.values, self._table.columns, strict=True), start=self._labels):
            if value is None:
                yield self._text("", _CellStyle(tone))
                continue
            look, money = self._table.look(row.header, column), self._table.money(row.header, column)
            text = number_text(value, look, money)
            self._widen(at, text)
            yield self._number(cell_value(value, look), text, _CellStyle(tone, look, money, is_right=True))

    def _write_flat(self, flat: FlatTable, watch: Watch) -> None:
        self._put('<table:table table:name="Data"><table:table-header-rows>')
        head = _CellStyle(Tone(is_strong=True, below="single"))
        self._row(self._text(each, head) for each in (*flat.labels, *flat.measures))
        self._put("</table:table-header-rows>")
        for labels, values in flat.rows(watch):
            self._row(self._held(each) for each in (*labels, *values))
        self._put("</table:table>")

    def _held(self, value: object) -> str:
        if value is None:
            return "<table:table-cell/>"
        held = held_number(value) if isinstance(value, int | float | Decimal) else str(value)
        return self._text(held) if isinstance(held, str) else self._number(held, str(held))

    def _text(self, text: str, style: _CellStyle | None = None, more: str = "") -> str:
        own = self._style(style)
        if not text:
            return f"<table:table-cell{own}{more}/>"
        inside = f"<text:p>{escape(text)}</text:p>"
        return f'<table:table-cell{own}{more} office:value-type="string">{inside}</table:table-cell>'

    def _number(self, value: int | float | str, text: str, style: _CellStyle | None = None) -> str:
        if isinstance(value, str):  # more digits than a cell keeps
            return self._text(value, style)
        kind = "percentage" if style is not None and style.look is not None and "%" in style.look.pattern else "float"
        return (
            f'<table:table-cell{self._style(style)} office:value-type="{kind}" office:value="{value!r}">'
            f"<text:p>{escape(text)}</text:p></table:table-cell>"
        )

    def _style(self, style: _CellStyle | None) -> str:
        if style is None:
            return ""
        return f' table:style-name="{self._cells.setdefault(style, f"ce{len(self._cells)}")}"'

    def _row(self, cells: Iterable[str]) -> None:
        inside = "".join(cells)
        self._put(f"<table:table-row>{inside or '<table:table-cell/>'}</table:table-row>")

    def _put(self, text: str) -> None:
        self._body.write(text.encode())

    def _widen(self, at: int, text: str, steps: int = 0) -> None:
        self._widths[at] = max(self._widths[at], len(text) * 1.05 + 2 + steps * 1.5)


def escape(text: str) -> str:
    """Text as XML takes it, without the control characters that it takes in no way."""
    return escape_plainly(_CONTROLS.sub("", text))


def _number_style(name: str, look: Written, money: str) -> Iterator[str]:
    """A number style with another one for what is not below zero, from which it knows by a condition."""
    found = number_format(look.pattern, money=money)
    kind = "percentage-style" if "%" in look.pattern else "number-style"
    number = _digits(found, look.divisor)
    below = found.negative_prefix.replace("-", "−")
    yield (
        f'<number:{kind} style:name="{name}P" style:volatile="true">'
        f"{_words(found.prefix)}{number}{_words(found.suffix)}</number:{kind}>"
        f'<number:{kind} style:name="{name}">{_words(below)}{number}{_words(found.negative_suffix)}'
        f'<style:map style:condition="value()&gt;=0" style:apply-style-name="{name}P"/></number:{kind}>'
    )


def _digits(found: NumberFormat, divisor: int) -> str:
    grouped = ' number:grouping="true"' if found.is_grouped else ""
    scaled = f' number:display-factor="{divisor}"' if divisor > 1 else ""
    return (
        f'<number:number number:min-integer-digits="1" number:decimal-places="{found.most_fraction}" '
        f'number:min-decimal-places="{found.most_fraction}"'
        f"{grouped}{scaled}/>"
    )


def _words(text: str) -> str:
    return f"<number:text>{escape(text)}</number:text>" if text else ""


def _properties(style: _CellStyle) -> str:
    tone = style.tone
    sides = (("top", _RULES[tone.above]), ("bottom", _RULES[tone.below]))
    borders = "".join(f' fo:border-{side}="{rule}"' for side, rule in sides if rule)
    aligned = "end" if style.is_right else "start"
    margin = f' fo:margin-left="{style.indent * 0.35:.2f}cm"' if style.indent else ""
    weight = ' fo:font-weight="bold"' if tone.is_strong or style.is_title else ""
    slope = ' fo:font-style="italic"' if tone.is_italic else ""
    size = ' fo:font-size="14pt"' if style.is_title else ""
    return (
        f"<style:table-cell-properties{borders}/>"
        f'<style:paragraph-properties fo:text-align="{aligned}"{margin}/>'
        f"<style:text-properties{weight}{slope}{size}/>"
    )


def _root(name: str) -> str:
    return f'<office:document-{name} {_NAMESPACES} office:version="1.3">'


def _manifest() -> str:
    names = ("content.xml", "meta.xml", "settings.xml")
    entries = "".join(
        f'<manifest:file-entry manifest:full-path="{each}" manifest:media-type="text/xml"/>' for each in names
    )
    return (
        '<?xml version="1.0" encoding="UTF-8"?><manifest:manifest manifest:version="1.3" '
        'xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0">'
        f'<manifest:file-entry manifest:full-path="/" manifest:version="1.3" manifest:media-type="{_MEDIA}"/>'
        f"{entries}</manifest:manifest>"
    )


def _meta(title: str, about: str) -> str:
    # Its title and description are elements of Dublin Core.
    root = _root("meta").replace("urn:oasis:names:tc:opendocument:xmlns:dc:1.0", "http://purl.org/dc/elements/1.1/")
    return (
        f'<?xml version="1.0" encoding="UTF-8"?>{root}<office:meta><dc:title>{escape(title)}</dc:title>'
        f"<dc:description>{escape(about)}</dc:description></office:meta></office:document-meta>"
    )


def _settings(rows: int, columns: int) -> str:
    """The first rows and columns stay in sight."""
    items = [
        ("HorizontalSplitMode", "short", 2 if columns else 0), ("VerticalSplitMode", "short", 2 if rows else 0),
        ("HorizontalSplitPosition", "int", columns), ("VerticalSplitPosition", "int", rows),
        ("PositionRight", "int", columns), ("PositionBottom", "int", rows),
    ]  # fmt: skip
    told = "".join(
        f"<config:config-item config:name={quoteattr(name)} config:type={quoteattr(kind)}>{value}</config:config-item>"
        for name, kind, value in items
    )
    return (
        f'<?xml version="1.0" encoding="UTF-8"?>{_root("settings")}<office:settings>'
        '<config:config-item-set config:name="ooo:view-settings">'
        '<config:config-item-map-indexed config:name="Views"><config:config-item-map-entry>'
        '<config:config-item-map-named config:name="Tables"><config:config-item-map-entry config:name="Table">'
        f"{told}</config:config-item-map-entry></config:config-item-map-named>"
        "</config:config-item-map-entry></config:config-item-map-indexed></config:config-item-set>"
        "</office:settings></office:document-settings>"
    )
