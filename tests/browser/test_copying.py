"""The table taken elsewhere, as it is seen."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path

import pytest
from openpyxl import load_workbook
from playwright.sync_api import Page, expect

from tests.browser.desk import Desk, by_line, share_with


@pytest.fixture
def desk(sign_in: Callable[[str], Page]) -> Desk:
    page = sign_in("ines")
    page.context.grant_permissions(["clipboard-read", "clipboard-write"])
    return by_line(page, "Taps records")


def clipboard(page: Page) -> list[list[str]]:
    text: str = page.evaluate("navigator.clipboard.readText()")
    return [line.split("\t") for line in text.splitlines()]


def figures(desk: Desk) -> list[list[str]]:
    """What stands on the screen, row by row, without what groups its digits."""
    return [[each, *(value.replace(",", "") for value in desk.row(each))] for each in desk.rows()]


def taken(page: Page, words: str, file: Path) -> Path:
    """The table as a file of that kind, saved."""
    page.get_by_role("button", name="Take away", exact=True).click()
    with page.expect_download() as waiting:
        page.get_by_role("menuitem", name=words).click()
    assert waiting.value.suggested_filename.endswith(file.suffix)
    waiting.value.save_as(file)
    return file


def test_the_whole_table_what_is_selected_and_one_number_are_copied(desk: Desk) -> None:
    page = desk.page
    page.get_by_role("button", name="Take away", exact=True).click()
    page.get_by_role("menuitem", name="Copy the whole table").click()
    expect(
        page.get_by_role("status").filter(has_text="Copied 6 rows and 1 column, with their headers.")
    ).to_be_visible()
    assert clipboard(page) == [["Mode", "Taps, records"], *figures(desk)]

    desk.head("Tram").click(modifiers=["Control"])
    desk.head("Ferry").click(modifiers=["Control"])
    page.get_by_role("grid").focus()
    page.keyboard.press("Control+c")
    expect(page.get_by_role("status").filter(has_text="Copied 2 rows")).to_be_visible()
    assert [line[0] for line in clipboard(page)] == ["Mode", "Tram", "Ferry"]

    page.get_by_role("button", name="Let go").click()
    page.get_by_role("grid").focus()
    page.keyboard.press("Control+Home")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Control+c")
    expect(page.get_by_role("status").filter(has_text=re.compile(r"^Copied (?!\d+ row).+\.$"))).to_be_visible()
    assert len(clipboard(page)) == 1


def test_a_block_of_cells_is_copied_by_the_keyboard_and_by_the_pointer(desk: Desk) -> None:
    page = desk.page
    desk.choose(desk.entry("Calendar"), "against Year")
    desk.expect_step("against Year")
    grid = page.get_by_role("grid")
    grid.focus()
    page.keyboard.press("Control+Home")
    for key in ("ArrowDown", "End", "Shift+ArrowLeft", "Shift+ArrowDown"):
        page.keyboard.press(key)
    expect(page.locator(".block")).to_be_visible()
    page.keyboard.press("Control+c")
    expect(page.get_by_role("status").filter(has_text="Copied 2 rows and 2 columns")).to_be_visible()
    years = [each.inner_text() for each in page.locator(".head-row").first.get_by_role("columnheader").all()]
    whole = {each[0]: each[1:] for each in figures(desk)}
    rows = desk.rows()[1:3]
    assert clipboard(page) == [
        ["", *years[-2:]],
        ["Mode", "Taps, records", "Taps, records"],
        *([each, *whole[each][-2:]] for each in rows),
    ]

    cells = [page.locator(f"#cell-{row}-{column}").bounding_box() for row, column in ((0, 1), (2, 2))]
    (one, other) = [(each["x"] + each["width"] / 2, each["y"] + each["height"] / 2) for each in cells if each]
    page.mouse.move(*one)
    page.mouse.down()
    page.mouse.move(*other, steps=6)
    page.mouse.up()
    page.keyboard.press("Control+c")
    expect(page.get_by_role("status").filter(has_text="Copied 3 rows and 2 columns")).to_be_visible()
    assert clipboard(page)[2:] == [[each, *whole[each][1:3]] for each in desk.rows()[:3]]
    # A cell that is gone to is by itself again.
    page.keyboard.press("ArrowUp")
    expect(page.locator(".block")).to_have_count(0)


def test_the_table_is_taken_as_a_file_named_as_the_analysis(desk: Desk, tmp_path: Path) -> None:
    page = desk.page
    lines = taken(page, "As a CSV file", tmp_path / "taken.csv").read_text(encoding="utf-8").splitlines()
    assert lines[0] == 'Mode,"Taps, records"'
    assert [each.split(",") for each in lines[1:]] == figures(desk)


def test_the_table_is_taken_as_a_workbook_that_says_what_it_is(desk: Desk, tmp_path: Path) -> None:
    page = desk.page
    book = load_workbook(taken(page, "As a workbook (XLSX)", tmp_path / "taken.xlsx"))
    rows = [[cell.value for cell in row] for row in book["Table"].iter_rows()]
    assert rows[0][0] == "Taps by Mode"
    assert re.fullmatch(
        r"Varrow Bay Transit · data to \d+ \w+ \d+ · taken on \d+ \w+ \d+ by Ines Calder", str(rows[1][0])
    )
    assert rows[3] == ["Mode", "Taps, records"]
    assert [[each, str(value)] for each, value in rows[4:]] == figures(desk)
    # Flat, without the total.
    assert [list(row) for row in book["Data"].iter_rows(values_only=True, min_row=2)] == rows[4:-1]


def test_sharing_says_that_it_has_happened(desk: Desk) -> None:
    page = desk.page
    page.get_by_role("button", name="Save", exact=True).click()
    page.get_by_role("dialog").get_by_label("Name").fill("Taps to share")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Share", exact=True).click()
    share_with(page, "Tomas Wray")
    expect(page.get_by_role("status").filter(has_text="“Taps to share” is shared with")).to_be_visible()
