"""A table as a terminal shows it: labels at the left, figures to the right under their heads, written as on screen."""

from __future__ import annotations

from collections.abc import Iterator

from dastan.exports.seen import SeenTable
from dastan.exports.setting import number_text

BETWEEN = "  "
"""Between two columns."""
MOST_ROWS = 2_000
"""More could not be read; all are in a file."""


def set_table(table: SeenTable) -> Iterator[str]:
    """The table's lines, with rules under the heads and above the grand total."""
    heads, total = _once(table.heads()), table.total_rows
    lines, left_out = [], 0
    for at, row in enumerate(table.rows()):
        if at >= MOST_ROWS and at not in total:
            left_out += 1
            continue
        figures = [
            "" if value is None else number_text(value, table.look(row.header, column), table.money(row.header, column))
            for value, column in zip(row.values, table.columns, strict=True)
        ]
        lines.append((at in total, [*row.labels, *figures]))
    labels = len(heads[0]) - table.column_count
    cells = [*heads, *(line for _, line in lines)]
    widths = [max(len(line[at]) for line in cells) for at in range(len(heads[0]))]
    rule = "─" * (sum(widths) + len(BETWEEN) * (len(widths) - 1))
    for head in heads:
        yield _set(head, widths, labels)
    yield rule
    is_above = True
    for is_total, line in lines:
        if is_total and is_above and len(lines) > 1:
            yield rule
        is_above = not is_total
        yield _set(line, widths, labels)
    if left_out:
        yield f"… and {left_out:,} rows more: export it to a file for all of them."


def _set(line: list[str], widths: list[int], labels: int) -> str:
    placed = enumerate(zip(line, widths, strict=True))
    return BETWEEN.join(
        text.ljust(width) if at < labels else text.rjust(width) for at, (text, width) in placed
    ).rstrip()


def _once(heads: list[list[str]]) -> list[list[str]]:
    """Heads that stand over several columns are named over the first of them."""
    paths = list(zip(*heads[:-1], strict=True))
    return [
        ["" if at and paths[at][: depth + 1] == paths[at - 1][: depth + 1] else text for at, text in enumerate(head)]
        for depth, head in enumerate(heads[:-1])
    ] + heads[-1:]
