"""What goes out as text is text in a spreadsheet too."""

from __future__ import annotations

import csv
from pathlib import Path

import pytest

from dastan.exports.spreadsheet_text import harmless
from tests.sources.folder import LINES, write_folder
from tests.sources.folders.test_own_folder import ANALYSIS, query


@pytest.mark.parametrize("text", ["=1+2", "+cmd", "-2+3", "@sum", "\tx", "\r=1", "=", "-", "-1.2.3", "+1e"])
def test_what_begins_a_formula_gets_an_apostrophe(text: str) -> None:
    assert harmless(text) == f"'{text}"


@pytest.mark.parametrize("text", ["", "Night ferry", "1.5", "-3", "-3.50", "+7", "a=b", " =1"])
def test_plain_texts_and_numbers_stay(text: str) -> None:
    assert harmless(text) == text


def test_an_exported_caption_is_harmless_and_a_negative_number_stays_one(tmp_path: Path) -> None:
    lines = LINES.replace("Shore tram", '"=HYPERLINK(""x"")"')
    sales = "day,line,seller,quantity,price\n2024-01-05,T1,Kiosk,-3,1.25\n"
    code, out, _ = query(write_folder(tmp_path, lines=lines, sales=sales), ANALYSIS)
    assert code == 0
    rows = list(csv.reader(out.splitlines()))
    # One year alone: its total would say the same again.
    assert rows[1] == ["Tram", '\'=HYPERLINK("x")', "-3.75", "-3"]
