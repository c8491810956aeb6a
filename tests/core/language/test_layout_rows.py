"""Rows of a financial layout as text: read, written back, and what is wrong told with its place."""

from __future__ import annotations

import pytest

from dastan.core.errors import FormulaError
from dastan.core.language.layout_rows import read_held, read_row_formula, write_held, write_row_formula
from dastan.core.model.document import FinancialLayout, KeyRange, LayoutRow
from dastan.core.words.vocabulary import Vocabulary
from tests.core.asked import STAR
from tests.core.engine.test_financial_layouts import ROWS, of

WORDS = Vocabulary(STAR.model, STAR.members)
LAYOUT = FinancialLayout(hierarchy="line", rows=ROWS)


@pytest.mark.parametrize(
    ("text", "members", "ranges", "again"),
    [
        ("tram", (("tram",),), (), '"tram"'),
        ('"tram" › 1, L3', (("tram", 1), ("bus", 1, "L3")), (), '"tram" › "1", "L3"'),
        ("L1 to L2, tram", (("tram",),), (KeyRange(first="L1", last="L2"),), '"tram", L1 to L2'),
        ('"L 1" TO L2', (), (KeyRange(first="L 1", last="L2"),), '"L 1" to L2'),
    ],
)
def test_what_a_row_has_the_records_of(
    text: str, members: tuple[tuple[object, ...], ...], ranges: tuple[KeyRange, ...], again: str
) -> None:
    found = read_held(text, "line", "line", WORDS)
    assert (found.members, found.ranges) == (members, ranges)
    row = LayoutRow(name="x", kind="members", members=found.members, ranges=found.ranges)
    assert write_held(row, "line", "line", WORDS) == again
    assert read_held(again, "line", "line", WORDS) == found


@pytest.mark.parametrize(
    ("text", "message", "span"),
    [
        ("tram, ", "A member, or a range of keys, is wanted here.", [4, 6]),
        ("tram bus", "A member, or a range of keys, is wanted here.", [5, 8]),
        ("tram, trm", "There is no “trm” in Line.", [6, 9]),
        ("x" * 4_001, "A row's members have at most 4,000 characters.", [0, 4001]),
    ],
)
def test_what_is_no_member_is_told_with_its_place(text: str, message: str, span: list[int]) -> None:
    with pytest.raises(FormulaError) as caught:
        read_held(text, "line", "line", WORDS)
    assert caught.value.message == message
    assert caught.value.details["span"] == span


def test_a_formula_is_of_rows_by_what_they_are_called_or_by_name() -> None:
    assert read_row_formula('"red lines" + rest', "net", LAYOUT) == of("+", "red", "rest")
    assert write_row_formula(ROWS[4], LAYOUT) == '"Red lines" + "The rest"'


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ('"Red line" + 1', "There is no row “Red line” with figures."),
        ('"Red lines" + "Gap"', "There is no row “Gap” with figures."),
        ('"Net" + 1', "The definition goes in a circle: Net → Net."),
        ('"Red lines" +', "The formula is not finished."),
        ('"Red lines" + "Part"', "amount cannot be added to a plain number."),
    ],
)
def test_a_formula_over_rows_that_has_no_meaning(text: str, message: str) -> None:
    with pytest.raises(FormulaError) as caught:
        read_row_formula(text, "net", LAYOUT)
    assert message in caught.value.message
