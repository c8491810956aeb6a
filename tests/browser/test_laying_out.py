"""A financial layout in the real interface: the model's with plan and last year, and one laid out by hand."""

from __future__ import annotations

from collections.abc import Callable

from playwright.sync_api import Locator, Page, expect

from tests.browser.desk import Desk, begun


def amount(text: str) -> float:
    return float(text.lstrip("▲▼").replace(",", "").replace("−", "-").replace("+", "").split()[0])


def laid_out(page: Page, rows: str) -> Desk:
    desk = begun(page)
    page.keyboard.press("/")
    page.get_by_label("The sentence in words").fill(f"posted by {rows} for 2025")
    page.keyboard.press("Enter")
    desk.expect_step("wrote the sentence")
    return desk


def row_of(panel: Locator, caption: str) -> Locator:
    return panel.get_by_role("listitem").filter(has=panel.page.get_by_role("textbox", name=f"What {caption} is of"))


def test_the_operating_statement_stands_against_plan_and_last_year(sign_in: Callable[[str], Page]) -> None:
    page = sign_in("ines")
    desk = laid_out(page, "operating statement")
    desk.choose_under(desk.phrase("Posted").first, "Against another version", "Plan, and its change on it")
    desk.expect_step("Posted, its value in Plan, change on Plan and change in per cent on Plan")
    desk.choose_under(desk.phrase("Posted").first, "Its change, beside it", "Value in the year before")
    desk.expect_step("Posted, its value in the year before")
    # The last of five columns stands in the row.
    expect(
        page.get_by_role("grid").get_by_role("row").filter(has_text="Fares").first.get_by_role("gridcell")
    ).to_have_count(5)
    revenue, cost, result, covered = (
        desk.row(each) for each in ("Total revenue", "Total cost", "Operating result", "Cost covered by fares")
    )
    # Posted, the year before, plan, the change on it, and that in per cent.
    for place in range(3):
        assert round(amount(revenue[place]) - amount(cost[place]), 2) == amount(result[place])
    assert amount(result[3]) == round(amount(result[0]) - amount(result[2]), 2)
    assert round(amount(covered[0])) == round(100 * amount(desk.row("Fares")[0]) / amount(cost[0]))
    assert covered[3].endswith("points")
    # More cost than planned is worse, though the row stands above zero.
    marks = page.get_by_role("grid").get_by_role("row").filter(has_text="Total cost").get_by_role("img")
    expect(marks.first).to_have_attribute("aria-label", "unfavourable")
    assert amount(cost[3]) > 0
    grid = page.get_by_role("grid")
    desk.choose(
        grid.get_by_role("row").filter(has_text="Operating result").get_by_role("gridcell").first,
        "How was it computed?",
    )
    paper = page.get_by_role("dialog")
    expect(paper).to_contain_text('"Total revenue" - "Total cost"')
    expect(paper).to_contain_text("The records come to the same by themselves.")


def test_a_statement_is_laid_out_from_a_hierarchy_changed_and_taken_back(sign_in: Callable[[str], Page]) -> None:
    page = sign_in("ines")
    desk = laid_out(page, "account")
    before = desk.row("Cost")[0]
    desk.choose(desk.phrase("Account").first, "Lay out a statement…")
    panel = page.get_by_role("complementary", name="A statement of your own")
    expect(panel.get_by_role("textbox", name="Named")).to_have_value("Account statement")
    panel.get_by_role("button", name="Put it in the table").click()
    desk.expect_step("laid out Account statement")
    desk.expect_sentence("Posted cr by Account statement for 2025 calendar, and for Actual version")
    assert desk.row("Total cost")[0] == before
    desk.choose(desk.phrase("Account statement").first, "Change the layout…")
    staff = row_of(panel, "Staff")
    staff.get_by_role("textbox").first.click()
    staff.get_by_role("checkbox", name="sign turned").check()
    # Formulas follow what a row is called.
    staff.get_by_role("textbox").first.fill("Pay")
    expect(panel.get_by_role("textbox", name="What Total cost is of")).to_have_value('"Pay" + "Energy" + "Maintenance"')
    panel.get_by_role("textbox", name="What Total cost is of").fill('"Energy" + "Maintenance" - "Pai"')
    expect(panel).to_contain_text("There is no row “Pai” with figures. Did you mean")
    expect(panel.get_by_role("button", name="Change it")).to_be_disabled()
    panel.get_by_role("textbox", name="What Total cost is of").fill('"Energy" + "Maintenance" - "Pay"')
    expect(panel.get_by_role("button", name="Change it")).to_be_enabled()
    panel.get_by_role("button", name="Change it").click()
    desk.expect_step("changed Account statement")
    assert desk.row("Total cost")[0] == before
    assert amount(desk.row("Pay")[0]) > 0
    expect(desk.catalogue.get_by_text("Account statement")).to_be_visible()
    page.get_by_role("button", name="Undo", exact=True).click()
    desk.expect_step("laid out Account statement")
    assert amount(desk.row("Staff")[0]) < 0


def test_rows_are_added_moved_and_chosen_by_keyboard(sign_in: Callable[[str], Page]) -> None:
    page = sign_in("ines")
    desk = laid_out(page, "operating statement")
    desk.choose(desk.phrase("Operating statement").first, "Lay out a copy of it…")
    panel = page.get_by_role("complementary", name="A statement of your own")
    panel.get_by_role("textbox", name="What Cost covered by fares is of").focus()
    panel.get_by_role("button", name="Members", exact=True).press("Enter")
    expect(panel.get_by_role("textbox", name="Name of the row").last).to_be_focused()
    page.keyboard.type("Fuel")
    page.keyboard.press("Tab")
    page.keyboard.type("6200 to 6300")
    page.keyboard.press("Alt+ArrowUp")
    lines = panel.get_by_role("listitem")
    expect(lines.nth(-2).get_by_role("textbox").first).to_have_value("Fuel")
    expect(panel.get_by_role("button", name="Put it in the table")).to_be_enabled()
    # What a row has the records of can be picked in the tree as well.
    lines.nth(-2).get_by_role("button", name="Choose…").press("Enter")
    tree = page.get_by_role("dialog", name="Members of Account")
    tree.get_by_role("textbox").first.fill("Traction")
    tree.get_by_role("treeitem").filter(has_text="Traction power").first.click()
    tree.get_by_role("button", name="Take these").click()
    expect(panel.get_by_role("textbox", name="What Fuel is of")).to_have_value('"Traction power", 6200 to 6300')
    panel.get_by_role("button", name="Put it in the table").press("Enter")
    desk.expect_step("laid out Operating statement, my own")
    expect(desk.head("Fuel")).to_be_visible()
    # Fuel is all energy, from three accounts; cost is below zero until a sign is turned.
    energy, fuel = (amount(desk.row(each)[0]) for each in ("Energy", "Fuel"))
    assert fuel == -energy
