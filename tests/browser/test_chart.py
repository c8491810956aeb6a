"""The chart of the same document: beside the table, followed by every step, its marks taken like headers."""

from __future__ import annotations

import re
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

from playwright.sync_api import Page, TimeoutError, expect

from tests.browser.desk import Desk, begun, by_line

SignIn = Callable[[str], Page]


def charted(page: Page, *measures: str) -> Desk:
    desk = by_line(page, *(measures or ("Boardings people",)))
    page.get_by_role("button", name="Table and chart side by side").click()
    desk.expect_step("showed table and chart")
    expect(page.locator(".chart table tbody tr")).not_to_have_count(0)
    return desk


def behind(page: Page) -> dict[str, str]:
    """The table behind the chart, read at once: its first series by category."""
    rows = page.locator(".chart table").first.locator("tbody tr")
    expect(rows).not_to_have_count(0)
    both = "found => found.map(each => [each.querySelector('th').innerText, each.querySelector('td').innerText])"
    return dict(rows.evaluate_all(both))


def test_table_and_chart_side_by_side_follow_each_step_and_a_mark_keeps_its_member(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = charted(page)
    found = behind(page)
    assert found == {each: desk.row(each)[0] for each in ("Tram", "Metro", "Bus", "Ferry", "without a line")}
    # By keyboard: to the second mark, and what can be done with it.
    page.get_by_role("application").focus()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowRight")
    expect(page.locator(".chart [aria-live]")).to_have_text(re.compile(r"^Metro, Boardings: [\d,]+ people$"))
    tip = page.locator(".chart div b").get_by_text("Metro", exact=True)
    expect(tip).to_be_visible()
    # Its number is questioned there too; the menu stands in place of what was told of the mark.
    page.keyboard.press("Enter")
    page.get_by_role("menuitem", name="The records behind it").click()
    records = page.get_by_role("dialog")
    expect(
        records.get_by_text(re.compile(rf"Boardings comes to {re.escape(found['Metro'])}: the same"))
    ).to_be_visible()
    expect(tip).to_be_hidden()
    records.get_by_role("button", name="Close").click()
    page.get_by_role("application").focus()
    page.keyboard.press("Enter")
    page.get_by_role("menuitem", name="Open Metro").click()
    desk.expect_step("opened Metro")
    expect(page.locator(".chart tbody th").nth(1)).to_have_text("Metro › Cross-bay")
    # By mouse: a bar is clicked, and its member kept.
    page.get_by_role("button", name="lines", exact=True).click()
    desk.expect_step("drew lines")
    page.get_by_role("button", name="bars", exact=True).click()
    desk.expect_step("drew bars")
    bars = page.locator('.chart svg path[fill="#4b2e57"]')
    keep = page.get_by_role("menuitem", name="Keep only Tram")
    for _ in range(10):
        # The drawing may just be made anew under the pointer. A second click would close a menu that opens late.
        bars.first.click()
        with suppress(TimeoutError):
            keep.click(timeout=8_000)
            break
    desk.expect_step("kept Tram")
    desk.expect_rows(["Tram"])
    expect(page.locator(".chart table").first.locator("tbody th")).to_have_text(["Tram"])


def test_a_mark_selects_its_header(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = charted(page)
    page.get_by_role("application").focus()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Space")
    panel = page.get_by_role("complementary", name="What is selected")
    expect(panel.get_by_role("heading")).to_have_text("1 selected")
    expect(desk.page.locator('[role=rowheader][aria-selected="true"]')).to_have_text("Tram")


def test_every_form_is_drawn_and_taken_away(sign_in: SignIn, tmp_path: Path) -> None:
    page = sign_in("ines")
    desk = charted(page, "Boardings people", "Fare revenue cr")
    desk.choose(desk.entry("Passenger group"), "against Passenger group")
    desk.expect_step("against Passenger group")
    page.get_by_role("button", name="The chart of it").click()
    desk.expect_step("showed the chart")
    forms = page.locator(".forms .form")
    for words in ("stacked", "to 100 %", "lines", "points", "ring", "heat table", "bars"):
        forms.filter(has_text=re.compile(f"^{re.escape(words)}$")).click()
        expect(forms.filter(has_text=re.compile(f"^{re.escape(words)}$"))).to_have_attribute("aria-pressed", "true")
        expect(page.locator(".chart svg path").first).to_be_attached()
    page.get_by_role("button", name="Take the chart away").click()
    with page.expect_download() as drawing:
        page.get_by_role("menuitem", name="As a drawing (SVG)").click()
    drawing.value.save_as(tmp_path / "chart.svg")
    text = (tmp_path / "chart.svg").read_text()
    assert text.startswith("<svg")
    assert "Metro" in text
    page.get_by_role("button", name="Take the chart away").click()
    with page.expect_download() as picture:
        page.get_by_role("menuitem", name="As a picture (PNG)").click()
    picture.value.save_as(tmp_path / "chart.png")
    assert (tmp_path / "chart.png").read_bytes().startswith(b"\x89PNG")


def test_measures_of_one_unit_are_stacked_and_nested_members_named_below_their_own(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = charted(page, "Debit cr", "Credit cr")
    page.get_by_role("button", name="The chart of it").click()
    desk.expect_step("showed the chart")
    panels = page.locator(".chart table")
    expect(panels).to_have_count(2)
    page.get_by_role("button", name="on one scale").click()
    desk.expect_step("drew the measures on one scale")
    expect(panels).to_have_count(1)
    expect(panels.locator("thead th")).to_have_text(["Row", "Debit", "Credit"])
    page.get_by_role("button", name="stacked", exact=True).click()
    desk.expect_step("drew stacked bars")
    # A stack is of both, and there is nothing to choose.
    expect(page.get_by_role("button", name="on one scale", exact=True)).to_have_count(0)
    desk.choose_under(desk.phrase("Mode"), "Open and close", "Open every mode")
    desk.expect_step("opened every mode")
    outer = page.locator(".chart svg text[font-weight='600'], .chart svg text[style*='600']")
    expect(outer.filter(has_text=re.compile("^Metro$"))).to_have_count(1)


def test_too_many_members_are_said(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = begun(page, "Boardings people")
    desk.choose(desk.entry("Stop"), "by Zone")
    desk.expect_step("by Zone")
    desk.choose_under(desk.phrase("Zone"), "Only", "Stops")
    desk.expect_step("only stops")
    page.get_by_role("button", name="The chart of it").click()
    # Hundreds of stops come to far more than any of those that are drawn.
    drawn = r"Drawn are the largest 60 of \d+; the rest comes to \d\d % and would dwarf them: it is in the table\."
    expect(page.get_by_text(re.compile(drawn))).to_be_visible()
    assert "others" not in behind(page)
    desk.choose(desk.entry("Fare product"), "against Fare family")
    desk.expect_step("against Fare family")
    page.get_by_role("button", name="to 100 %").click()
    drawn = r"Drawn are the largest 59 of \d+; the rest is added up as others\."
    expect(page.get_by_text(re.compile(drawn))).to_be_visible()
    expect(page.locator(".chart table").first.locator("tbody th").filter(has_text="others")).to_have_count(1)


def test_a_period_in_part_stands_apart_from_its_line_and_is_itself_when_pointed_at(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = begun(page, "Boardings people")
    desk.choose(desk.entry("Week"), "by Week year")
    desk.choose_under(desk.phrase("Week year"), "Only", "Weeks")
    desk.expect_step("only weeks")
    expect(page.get_by_role("rowheader").get_by_text("W53 2020, in part", exact=True)).to_be_visible()
    page.get_by_role("button", name="The chart of it").click()
    # Two hollow marks: the library draws them in units of their size, so that their border is so thin.
    apart = page.locator('.drawn svg path[stroke-width^="0.428"]')
    expect(apart).to_have_count(2)
    boxes = [box for box in (each.bounding_box() for each in apart.all()) if box]
    for box, caption in zip(sorted(boxes, key=lambda each: each["x"]), ("W53 2020", "W01 2026"), strict=True):
        page.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        expect(page.get_by_role("menuitem", name=f"Open {caption}", exact=True)).to_be_visible()
        page.keyboard.press("Escape")
        expect(page.get_by_role("menuitem")).to_have_count(0)
