"""A table as a page of its own: HTML that needs nothing else, reads as the screen does and goes into a mail."""

from __future__ import annotations

from collections.abc import Iterator
from html import escape

from dastan.core.engine.watch import Watch
from dastan.core.errors import LimitError
from dastan.core.reading.marks import Mark
from dastan.exports.seen import STEP, SeenRow, SeenTable
from dastan.exports.setting import Tone, heads_of, number_text, tone_of

MOST_CELLS = 2_000_000
"""More would keep a browser busy for minutes."""
# The light colours of the interface, and its way of setting a table.
STYLE = """
body{margin:24px;color:#2b2030;background:#fffdf7;font:13px/1.5 "Source Sans 3","Helvetica Neue",sans-serif}
h1{margin:0;font:600 20px/1.3 Newsreader,Georgia,serif}
p{margin:2px 0 14px;color:#6d6070}
table{border-collapse:collapse;font-variant-numeric:lining-nums tabular-nums}
th,td{padding:1px 12px;font-weight:400;text-align:right;white-space:nowrap}
tbody th,.label{text-align:left}
thead th{font-weight:600;vertical-align:bottom}
thead .over{text-align:left;border-bottom:1px solid #d9cfbd}
thead tr:last-child th{border-bottom:1px solid #2b2030}
.strong>*{font-weight:600}.apart>*{font-style:italic}
.above>*{border-top:1px solid #2b2030}.below>*{border-bottom:1px solid #2b2030}
.twice>*{border-bottom:3px double #2b2030}
.favourable{color:#1f6f63;font-weight:600}.unfavourable{color:#9c2a3c;font-weight:600}.noted{background:#fbeecb}
"""


def page_of(table: SeenTable, title: str, about: str, watch: Watch) -> Iterator[str]:
    """The page, some rows at a time. Raises LimitError before anything is written; CancelledError."""
    if table.row_count * max(table.column_count, 1) > MOST_CELLS:
        raise LimitError(
            f"The table has {table.row_count * table.column_count:,} cells; a page takes {MOST_CELLS:,}.",
            "Take it as a workbook or as CSV, or narrow it.",
        )
    yield (
        f'<!doctype html>\n<html lang="en"><head><meta charset="utf-8"><title>{escape(title)}</title>'
        f"<style>{STYLE}</style></head>\n<body><h1>{escape(title)}</h1><p>{escape(about)}</p>\n"
    )
    yield from table_of(table, watch)
    yield "</body></html>\n"


def table_of(table: SeenTable, watch: Watch) -> Iterator[str]:
    """The table alone, as HTML. Raises CancelledError."""
    yield f"<table>\n<thead>{''.join(_heads(table))}</thead>\n<tbody>\n"
    for at, (row, marks) in enumerate(table.marked_rows(watch)):
        yield _row(table, row, tone_of(row, at in table.total_rows), marks)
    yield "</tbody></table>\n"


def _heads(table: SeenTable) -> Iterator[str]:
    lines = table.heads()
    labels = len(lines[0]) - table.column_count
    spans = heads_of([line[labels:] for line in lines])
    for line, heads in zip(lines, spans, strict=True):
        cells = [f'<th class="label">{escape(each)}</th>' for each in line[:labels]]
        for each in heads:
            width = each.end - each.start
            over = f' colspan="{width}"' + (' class="over"' if each.caption else "") if width > 1 else ""
            cells.append(f'<th scope="col"{over}>{escape(each.caption)}</th>')
        yield f"<tr>{''.join(cells)}</tr>\n"


def _row(table: SeenTable, row: SeenRow, tone: Tone, marks: tuple[Mark | None, ...] | None) -> str:
    cells = []
    for label in row.labels:
        own = label.lstrip(" ")
        steps = (len(label) - len(own)) // len(STEP)
        indent = f' style="padding-left:{12 + 14 * steps}px"' if steps else ""
        cells.append(f'<th scope="row"{indent}>{escape(own)}</th>')
    for at, (value, column) in enumerate(zip(row.values, table.columns, strict=True)):
        if value is None:
            cells.append("<td></td>")
            continue
        mark = marks[at] if marks is not None else None
        meaning = f' class="{mark.meaning}"' if mark is not None and mark.meaning is not None else ""
        text = number_text(value, table.look(row.header, column), table.money(row.header, column))
        cells.append(f"<td{meaning}>{escape(text)}</td>")
    names = {
        "strong": tone.is_strong, "apart": tone.is_italic, "above": tone.above != "none",
        "below": tone.below == "single", "twice": tone.below == "double",
    }  # fmt: skip
    classes = " ".join(name for name, has in names.items() if has)
    said = f' class="{classes}"' if classes else ""
    return f"<tr{said}>{''.join(cells)}</tr>\n"
