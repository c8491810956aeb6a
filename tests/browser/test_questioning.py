"""Every number questioned: the records behind it, how it was computed, why it is empty, whether the source agrees."""

from __future__ import annotations

import csv
import re
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.browser.desk import Desk, begun, by_line

SignIn = Callable[[str], Page]


def cell(page: Page, row: str, place: int = 0) -> object:
    """A number of the row with that caption, from the left."""
    header = page.get_by_role("rowheader").get_by_text(row, exact=True)
    return page.get_by_role("grid").get_by_role("row").filter(has=header).first.get_by_role("gridcell").nth(place)


def ask(desk: Desk, row: str, words: str, place: int = 0) -> str:
    """Questions a number, and returns it."""
    found = cell(desk.page, row, place)
    number = found.inner_text()  # type: ignore[attr-defined]
    desk.choose(found, words)  # type: ignore[arg-type]
    return str(number).strip()


def proof(page: Page) -> str:
    found = page.get_by_role("tabpanel").locator(".proof")
    expect(found).to_contain_text("record")
    return found.inner_text()


def close(page: Page) -> None:
    page.get_by_role("dialog").get_by_role("button", name="Close").click()
    expect(page.get_by_role("dialog")).to_have_count(0)


def test_records_of_a_cell_a_subtotal_and_a_member_without_a_line_agree(sign_in: SignIn, tmp_path: Path) -> None:
    page = sign_in("ines")
    desk = by_line(page, "Taps records", "Boardings people")
    counts = {}
    for row in ("Tram", "without a line", "All lines"):
        number = ask(desk, row, "The records behind it")
        said = proof(page)
        # A tap is a record, so that their number is the number shown.
        assert said.startswith(f"{number} records; ")
        assert f"comes to {number}: the same as in the table." in said
        counts[row] = number
        close(page)
    boardings = ask(desk, "Tram", "The records behind it", 1)
    assert f"Boardings comes to {boardings}: the same as in the table." in proof(page)
    with page.expect_download() as found:
        page.get_by_role("link", name="Take away as CSV").click()
    found.value.save_as(tmp_path / "records.csv")
    with (tmp_path / "records.csv").open(encoding="utf-8", newline="") as file:
        rows = list(csv.DictReader(file))
    assert f"{len(rows):,}" == counts["Tram"]
    assert f"{sum(int(each['boardings']) for each in rows):,}" == boardings


def test_records_are_found_put_in_order_and_their_columns_chosen(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = by_line(page, "Cards seen cards", "Incidents opened incidents")
    cards = ask(desk, "Ferry", "The records behind it")
    assert f"Cards seen comes to {cards}: the same as in the table." in proof(page)
    close(page)
    ask(desk, "Metro", "The records behind it", 1)
    proof(page)
    panel = page.get_by_role("tabpanel")
    panel.get_by_role("columnheader", name="Incident", exact=True).get_by_role("button").click()
    panel.get_by_role("columnheader", name="Incident", exact=True).get_by_role("button").click()
    expect(panel.locator("th[aria-sort=descending]")).to_contain_text("Incident")
    numbers = panel.locator("tbody tr td:nth-child(2)")
    expect(numbers.nth(1)).not_to_have_text("")
    shown = [int(each) for each in numbers.all_inner_texts()]
    assert shown == sorted(shown, reverse=True)
    panel.get_by_label("Find in these records").fill("weather")
    expect(panel.locator(".tools").get_by_text(re.compile(r"^\d+ records? of them$"))).to_be_visible()
    expect(panel.locator("tbody tr").filter(has_not_text="Weather")).to_have_count(0)
    page.get_by_role("button", name="Columns").click()
    page.get_by_label("Severity", exact=True).uncheck()
    expect(panel.get_by_role("columnheader", name="Severity")).to_have_count(0)


def test_from_a_record_to_its_page(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = by_line(page, "Incidents opened incidents")
    ask(desk, "Tram", "The records behind it")
    proof(page)
    link = page.get_by_role("tabpanel").get_by_role("link", name=re.compile("Open the page of")).first
    number = (link.get_attribute("aria-label") or "").rsplit(" ", 1)[-1]
    with page.context.expect_page() as opened:
        link.click()
    expect(opened.value.get_by_role("heading")).to_have_text(f"Incident {number}")


def test_the_working_paper_has_each_operand(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = by_line(page, "Boardings people", "Fare revenue cr")
    desk.catalogue.get_by_role("button", name="Fare per boarding cr each", exact=True).click()
    desk.expect_step("Fare per boarding")
    desk.choose(desk.head("Bus"), "Leave out Bus")
    desk.expect_step("left out Bus")
    boardings, revenue = desk.row("Tram")[:2]
    ask(desk, "Tram", "How was it computed?", 2)
    paper = page.get_by_role("tabpanel")
    expect(paper).to_contain_text("Fare per boarding = Fare revenue ÷ Boardings")
    text = paper.inner_text()
    assert f"{boardings} from" in text
    assert f"{revenue} from" in text
    assert "without Bus" in text
    assert "The records come to the same by themselves." in text


def test_why_it_is_empty_and_the_filter_lifted(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = begun(page)
    page.keyboard.press("/")
    page.get_by_label("The sentence in words").fill("boardings by mode for Ferry (Line) for Metro (Line)")
    page.keyboard.press("Enter")
    desk.expect_step("wrote the sentence")
    page.get_by_role("button", name="Which of them empties it?").click()
    panel = page.get_by_role("tabpanel")
    expect(panel).to_contain_text("none fulfils all of this")
    panel.get_by_role("button", name="Lift it: for Metro").click()
    desk.expect_step("lifted the filter on Metro")
    desk.expect_rows(["Ferry"])


def test_why_one_number_is_empty_and_its_filter_lifted(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = begun(page)
    page.keyboard.press("/")
    page.get_by_label("The sentence in words").fill("boardings by mode against hour of day for Dec 2025 (Calendar)")
    page.keyboard.press("Enter")
    desk.expect_step("wrote the sentence")
    figures = desk.row("Ferry")
    place = figures.index("")
    hour = desk.column_heads()[place]
    desk.choose(cell(page, "Ferry", place), "Why is it empty?")  # type: ignore[arg-type]
    panel = page.get_by_role("tabpanel")
    expect(panel).to_contain_text("none fulfils all of this")
    # As many as are left without the filter are what the number is once it is lifted.
    row = panel.get_by_role("row").filter(has_text="Dec 2025")
    left = int(row.get_by_role("cell").nth(1).inner_text().replace(",", ""))
    assert left
    row.get_by_role("button", name="Lift it").click()
    desk.expect_step("lifted the filter on Dec 2025")
    place = desk.column_heads().index(hour)
    desk.choose(cell(page, "Ferry", place), "The records behind it")  # type: ignore[arg-type]
    assert proof(page).startswith(f"{left:,} record")


def test_a_remark_is_taken_and_another_silenced(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = begun(page, "Cards seen cards")
    desk.choose_under(desk.phrase("Cards seen"), "Show it as, though it says little", "Sum of cards seen")
    desk.expect_step("showed Sum of cards seen")
    desk.choose(desk.entry("Stop"), "by Zone")
    desk.expect_step("by Zone")
    remarks = page.get_by_role("list", name="Remarks on the numbers").get_by_role("listitem")
    expect(remarks.filter(has_text="it names things")).to_have_count(1)
    remarks.filter(has_text="it names things").get_by_role("button", name="Count the different ones").click()
    expect(remarks.filter(has_text="it names things")).to_have_count(0)
    desk.put("Boardings people")
    stops = remarks.filter(has_text="without a stop")
    expect(stops).to_have_text(re.compile(r"^\d+\.\d % of Boardings is without a stop: left blank, or not known\."))
    stops.get_by_role("button", name=re.compile("Do not tell me again here")).click()
    desk.expect_step("silenced a remark")
    expect(stops).to_have_count(0)
    desk.choose(desk.entry("Calendar"), "against Year")
    desk.expect_step("against Year")
    expect(stops).to_have_count(0)


def test_the_source_agrees(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = by_line(page, "Fare revenue cr")
    ask(desk, "All lines", "How was it computed?")
    page.get_by_role("tab", name="Does the source agree?").click()
    panel = page.get_by_role("tabpanel")
    expect(panel).to_contain_text("agrees with the source")
    figures = panel.locator("tbody td").all_inner_texts()
    assert figures[0] == figures[1] == "40,000"
    # Without filters, what the source adds up to is the grand total.
    assert figures[2] == figures[3]
    close(page)
    assert desk.row("All lines")[0] == figures[2]
