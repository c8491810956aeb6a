"""Views of a measure in the real interface: a share by menu, a change typed, by mouse and by keyboard."""

from __future__ import annotations

import re
from collections.abc import Callable

from playwright.sync_api import Page, expect

from tests.browser.desk import Desk, begun, by_line


def percents(cells: list[str]) -> list[float]:
    """Per cent as numbers, without the sign of a change before them."""
    return [float(each.strip("▲▼ %\xa0\n").replace("−", "-").replace(",", "")) for each in cells]


def test_a_share_is_put_beside_its_measure_and_takes_its_place(sign_in: Callable[[str], Page]) -> None:
    page = sign_in("ines")
    desk = by_line(page, "Boardings people")
    desk.choose(desk.entry("Calendar"), "against Year")
    desk.expect_step("against Year")
    desk.choose_under(desk.phrase("Boardings").first, "Its share, beside it", "Share of the column")
    desk.expect_step("Boardings, its share of the column")
    desk.expect_sentence("Boardings people and its share of the column % by Mode against Year")
    assert "of the column" in desk.column_heads()
    shares = [percents([desk.row(each)[1]])[0] for each in desk.rows()]
    assert shares[-1] == 100
    assert abs(sum(shares[:-1]) - 100) < 0.3
    # Where the pointer rests, all digits are told.
    cell = page.get_by_role("grid").get_by_role("row").filter(has_text="Tram").get_by_role("gridcell").nth(1)
    cell.hover()
    expect(cell).to_have_attribute("title", re.compile(r"^\d\d\.\d{3,} %$"))
    assert (cell.get_attribute("title") or "").startswith(cell.inner_text()[:2])
    desk.choose(desk.phrase("Boardings").first, "Take Boardings away")
    desk.expect_sentence("Share of the column of Boardings % by Mode against Year")
    page.get_by_role("button", name="Turn", exact=True).click()
    desk.expect_sentence("Share of the row of Boardings % by Year against Mode")
    desk.choose_under(desk.phrase("Boardings").first, "In its place", "Boardings itself")
    desk.expect_sentence("Boardings people by Year against Mode")


def test_a_change_is_typed_marked_and_accounted_for(sign_in: Callable[[str], Page]) -> None:
    page = sign_in("ines")
    desk = begun(page, "Operating cost cr")
    page.keyboard.press("/")
    box = page.get_by_label("The sentence in words")
    box.fill("operating cost and its change in per cent on the year before by depot against year")
    box.press("Enter")
    desk.expect_step("wrote the sentence")
    costs = [float(each.replace(",", "")) for each in desk.row("All depots")[::2]]
    # Nothing lies before the first year, nor before a total that reaches back into it.
    assert desk.row("All depots")[1] == ""
    assert desk.row("All depots")[-1] == ""
    changes = percents(desk.row("All depots")[3:-1:2])
    for change, before, after in zip(changes, costs, costs[1:], strict=False):
        assert abs(change - 100 * (after - before) / before) < 0.06
    # Less of a cost is favourable, whichever way it goes.
    meanings = {"▲": "unfavourable", "▼": "favourable"}
    for sign in page.get_by_role("grid").locator(".sign").all():
        assert sign.get_attribute("aria-label") == meanings[sign.inner_text()]
    page.get_by_role("grid").get_by_role("row").filter(has_text="All depots").get_by_role("gridcell").nth(3).click(
        button="right"
    )
    page.get_by_role("menuitem", name="How was it computed?").click()
    paper = page.get_by_role("dialog")
    expect(paper).to_contain_text("Operating cost in the year before")
    expect(paper).to_contain_text("The records come to the same by themselves.")


def test_a_running_total_by_keyboard_alone(sign_in: Callable[[str], Page]) -> None:
    page = sign_in("ines")
    desk: Desk = by_line(page, "Boardings people")
    desk.phrase("Boardings").first.focus()
    page.keyboard.press("Shift+F10")
    item = page.get_by_role("menuitem", name="Its run along the table")
    item.focus()
    page.keyboard.press("ArrowRight")
    page.get_by_role("menuitem", name="Running total down the rows").focus()
    page.keyboard.press("Enter")
    desk.expect_step("Boardings, its running total down the rows")
    last = [desk.row(each) for each in desk.rows()[-2:]]
    assert last[0][1] == last[1][0] == last[1][1]


def test_actual_stands_against_plan_in_one_gesture(sign_in: Callable[[str], Page]) -> None:
    page = sign_in("ines")
    desk = begun(page, "Operating cost cr")
    desk.choose(desk.entry("Depot"), "by Depot")
    desk.expect_step("by Depot")
    desk.choose_under(desk.phrase("Operating cost").first, "Against another version", "Plan, and its change on it")
    desk.expect_step("Operating cost, its value in Plan, change on Plan and change in per cent on Plan")
    assert "Plan" in desk.column_heads()
    assert "its change in per cent on Plan" in desk.sentence()
    for each in desk.rows():
        actual, plan, change = (
            float(one.strip("▲▼+ \n").replace(",", "").replace("−", "-")) for one in desk.row(each)[:3]
        )
        assert abs(actual - plan - change) < 0.006
    # The depot over plan is found by ordering.
    desk.choose_under(desk.phrase("its change in per cent").first, "Order by it", "Depots largest first")
    desk.expect_step("ordered Depot by Operating cost, its change in per cent on Plan, largest first")
    assert desk.rows()[0] == "Quarry Lane"
