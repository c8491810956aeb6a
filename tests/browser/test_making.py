"""A measure of one's own in the real interface: written with completion, looked at, put in, changed and forgotten."""

from __future__ import annotations

from collections.abc import Callable

from playwright.sync_api import Page, expect

from tests.browser.desk import by_line

MADE = "Fare revenue per Boardings"


def test_a_measure_is_made_with_completion_and_a_preview_and_changed(sign_in: Callable[[str], Page]) -> None:
    page = sign_in("ines")
    desk = by_line(page, "Boardings people")
    page.get_by_role("button", name="Make a measure", exact=True).click()
    panel = page.get_by_role("complementary", name="A measure of your own")
    editor = panel.get_by_role("textbox", name="Formula")
    expect(editor).to_be_focused()
    page.keyboard.type('"Fare rev', delay=20)
    offered = page.get_by_role("option")
    expect(offered.first).to_contain_text("Fare revenue")
    page.wait_for_timeout(200)  # a list that has just come up takes no key, lest it takes one that was meant otherwise
    page.keyboard.press("Enter")
    page.keyboard.type(" / boardings ", delay=20)
    expect(panel).to_contain_text("read aloud: Fare revenue per Boardings")
    expect(panel).to_contain_text("cr / people")
    page.keyboard.press("Escape")
    # A click on a measure of the catalogue goes into the formula, and is not put into the table.
    page.keyboard.type("+ ")
    page.keyboard.press("Escape")
    desk.entry("Taps").click()
    expect(panel).to_contain_text("cr / people cannot be added to records.")
    for _ in range(len('+ "Taps"')):
        page.keyboard.press("Backspace")
    page.keyboard.press("Escape")
    preview = panel.get_by_role("row").filter(has_text="All lines")
    expect(preview).to_be_visible()
    wanted = preview.get_by_role("cell").inner_text()
    panel.get_by_label("Named").fill("Fare each")
    panel.get_by_role("button", name="Put it in the table").click()
    desk.expect_step("made Fare each")
    expect(panel).to_have_count(0)
    desk.expect_sentence(f"Boardings people and Fare each cr / people by Mode, where Fare each is {MADE}")
    assert desk.row("All lines")[-1] == wanted
    boardings, each = (float(value.replace(",", "")) for value in desk.row("All lines"))
    assert boardings > each > 0
    desk.choose(desk.phrase("Fare each").first, "Change its formula…")
    panel = page.get_by_role("complementary", name="A measure of your own")
    expect(panel.get_by_role("textbox", name="Formula")).to_have_text('"Fare revenue" / "Boardings"')
    panel.get_by_label("Named").fill("Fare a head")
    panel.get_by_role("button", name="Change it").click()
    desk.expect_step("called Fare each Fare a head")
    desk.expect_sentence(f"Boardings people and Fare a head cr / people by Mode, where Fare a head is {MADE}")
    page.get_by_role("button", name="Undo", exact=True).click()
    desk.expect_sentence(f"Boardings people and Fare each cr / people by Mode, where Fare each is {MADE}")
    # It can be typed like the model's own.
    page.keyboard.press("/")
    box = page.get_by_label("The sentence in words")
    box.fill("fare each and its rank among the rows by mode")
    box.press("Enter")
    desk.expect_step("wrote the sentence")
    desk.expect_sentence(f"Fare each cr / people and its rank among the rows by Mode, where Fare each is {MADE}")


def test_what_could_be_meant_of_two_things_is_settled_by_one_click_and_a_slice_by_pointing(
    sign_in: Callable[[str], Page],
) -> None:
    page = sign_in("ines")
    desk = by_line(page, "Boardings people")
    desk.choose(desk.phrase("Boardings").first, "Make a measure of Boardings…")
    panel = page.get_by_role("complementary", name="A measure of your own")
    editor = panel.get_by_role("textbox", name="Formula")
    expect(editor).to_have_text('"Boardings"')
    page.get_by_role("grid").get_by_role("button", name="Ferry", exact=True).click()
    expect(editor).to_have_text('"Boardings" only "Mode" = "Ferry"')
    expect(panel).to_contain_text("read aloud: Boardings, of Ferry only")
    page.keyboard.press("Home")
    page.keyboard.type('"Fare revenue" / ')
    page.keyboard.press("Escape")
    panel.get_by_role("button", name="of all of it").click()
    expect(editor).to_have_text('("Fare revenue" / "Boardings") only "Mode" = "Ferry"')
    panel.get_by_label("Named").fill("Ferry fare")
    panel.get_by_label("Named").press("Enter")
    desk.expect_step("made Ferry fare")
    assert desk.row("Tram")[-1] == ""
    assert desk.row("Ferry")[-1] == desk.row("All lines")[-1] != ""
    # Members that are selected slice the first measure of the table.
    page.get_by_role("grid").get_by_role("button", name="Tram", exact=True).click(modifiers=["Control"])
    page.get_by_role("grid").get_by_role("button", name="Bus", exact=True).click(modifiers=["Control"])
    page.get_by_role("button", name="Make a measure only for Tram and Bus…").click()
    expect(editor).to_have_text('"Boardings" only "Mode" in ("Tram", "Bus")')
