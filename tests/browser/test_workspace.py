"""The workspace as an analyst uses it all day: down and back, narrowed, turned, written, on request, after a crash."""

from __future__ import annotations

import re
from collections.abc import Callable

from playwright.sync_api import Page, expect

from tests.browser.desk import Desk, begun

SignIn = Callable[[str], Page]
MODES = ["Tram", "Metro", "Bus", "Ferry", "without a line", "All lines"]


def table(page: Page) -> Desk:
    """Boardings by line against calendar."""
    desk = begun(page, "Boardings people")
    desk.choose(desk.entry("Line"), "by Mode")
    desk.expect_step("by Mode")
    desk.choose(desk.entry("Calendar"), "against Year")
    desk.expect_step("against Year")
    return desk


def test_down_into_a_member_across_and_back_up(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = table(page)
    whole = desk.row("Tram")
    desk.choose(desk.head("Tram"), "Go into Tram")
    desk.expect_step("went into Tram")
    desk.expect_rows(["North shore", "Old town", "Hill", "All lines"])
    assert desk.row("All lines") == whole
    desk.expect_sentence("Boardings people by Group against Year for Tram line")
    desk.choose_under(desk.head("Hill"), "Break Hill down by", "Passenger group")
    desk.expect_step("broke Hill down by Passenger group")
    rows = desk.rows()
    assert rows[:3] == ["North shore", "Old town", "Hill"]
    assert len(rows) > 5
    assert "then Passenger group under Hill only" in desk.sentence()
    page.get_by_role("navigation", name="The way back").get_by_role("button", name="All lines").click()
    desk.expect_step("came back to all of Line")
    desk.expect_rows(MODES)
    assert desk.row("Tram") == whole
    desk.choose_under(desk.phrase("Year"), "Only", "Weeks")
    desk.expect_step("only weeks")
    expect(page.get_by_role("columnheader").filter(has_text=re.compile("^W?.*1"))).not_to_have_count(0)
    assert "against Week" in desk.sentence()


def test_narrowed_four_ways_each_said_in_the_sentence(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = table(page)
    desk.head("Metro").click(modifiers=["Control"])
    desk.head("Ferry").click(modifiers=["Shift"])
    panel = page.get_by_role("complementary", name="What is selected")
    expect(panel.get_by_role("heading")).to_have_text("3 selected")
    panel.get_by_role("button", name="Keep only Metro, Bus and 1 more").click()
    desk.expect_rows(["Metro", "Bus", "Ferry", "All lines"])

    desk.choose(desk.entry("Stop"), "Choose members of Stop…")
    page.get_by_role("button", name="Paste a list").click()
    page.get_by_label("Names or keys, one a line").fill("Centre\nNorth\nAtlantis")
    page.get_by_role("button", name="Find these").click()
    expect(page.get_by_text("Not found: Atlantis")).to_be_visible()
    page.get_by_role("button", name="Keep these").click()
    desk.expect_step("kept Centre and North")

    desk.choose(desk.phrase("Year"), "Keep by a condition…")
    desk.select("By what", "by a period")
    page.get_by_role("radio", name="from one day to another").check()
    page.get_by_role("textbox", name="From").fill("2024-01-01")
    page.get_by_role("textbox", name="To").fill("2025-06-30")
    expect(page.get_by_text("2 of 5 remain, counted by year.")).to_be_visible()
    page.get_by_role("button", name="Keep this period").click()
    expect(page.get_by_role("columnheader").filter(has_text="2023")).to_have_count(0)

    desk.choose_under(desk.phrase("Mode"), "Show only", "Others, by choice…")
    page.get_by_label("How many", exact=True).fill("1")
    expect(page.get_by_text(re.compile("1 of [23] remain, counted by mode."))).to_be_visible()
    page.get_by_role("button", name="Show only these").click()
    expect(page.get_by_role("rowheader")).to_have_count(2)
    sentence = desk.sentence()
    for words in (
        "for Metro, Bus and Ferry",
        "Centre and North",
        "from “2024-01-01” to “2025-06-30”",
        "the largest of the modes",
    ):
        assert words in sentence, sentence


def test_turned_without_loss_and_the_measures_moved_by_themselves(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = table(page)
    desk.put("Fare revenue cr")
    desk.choose(desk.head("Ferry"), "Leave out Ferry")
    desk.expect_step("left out Ferry")
    page.get_by_role("button", name="Open Tram").click()
    desk.expect_step("opened Tram")
    figures = desk.row("Hill")
    page.get_by_role("button", name="Turn", exact=True).click()
    desk.expect_step("turned")
    assert "without Ferry" in desk.sentence()
    assert "the measures on rows" in desk.sentence()
    assert desk.rows()[:3] == ["2021", "Boardings", "Fare revenue"]
    page.get_by_role("button", name="Turn", exact=True).click()
    expect(page.get_by_role("rowheader").get_by_text("Hill", exact=True)).to_be_visible()
    assert desk.row("Hill") == figures
    # The group is dragged between the two by its name in the corner, too.
    desk.drag(page.get_by_role("button", name="Measures", exact=True), "columns-0")
    expect(page.locator("[aria-current=step]")).to_have_text("measures on columns")
    assert desk.column_heads()[0] == "Boardings"
    page.keyboard.press("Control+z")
    page.get_by_role("button", name="Measures", exact=True).click()
    page.get_by_role("menuitem", name="Measures").last.click()
    page.get_by_role("menuitem", name="Measures on rows outside Group").click()
    desk.expect_step("measures on rows")
    rows = desk.rows()
    assert rows[:2] == ["Boardings", "Tram"]
    assert "Fare revenue" in rows


def test_arranged_inside_the_sentence_by_dragging(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = table(page)
    desk.put("Fare revenue cr")
    desk.drag_into_sentence(desk.phrase("Fare revenue"), "measures-0")
    desk.expect_step("moved Fare revenue")
    desk.expect_sentence("Fare revenue cr and Boardings people by Mode against Year")
    desk.drag_into_sentence(desk.phrase("Year"), "rows-0")
    desk.expect_step("by Year")
    desk.expect_sentence("Fare revenue cr and Boardings people by Year then Mode")
    # Let go beside every gap, a drag changes nothing.
    box = desk.phrase("Mode").bounding_box()
    assert box
    page.mouse.move(box["x"] + 10, box["y"] + 10)
    page.mouse.down()
    page.mouse.move(box["x"] + 20, box["y"] + 14, steps=3)
    expect(page.get_by_text("drop here")).to_be_visible()
    page.mouse.move(900, 600, steps=3)
    page.mouse.up()
    expect(page.get_by_text("drop here")).to_have_count(0)
    desk.expect_step("by Year")
    # The group of measures goes between the two.
    desk.drag_into_sentence(page.get_by_role("button", name="Measures", exact=True), "rows-1")
    desk.expect_step("measures on rows")
    expect(page.get_by_role("rowheader").nth(2)).to_have_text("Tram")
    assert desk.rows()[:2] == ["2021", "Fare revenue"]
    assert "the measures on rows outside Mode" in desk.sentence()


def test_a_way_down_made_on_the_spot_opened_closed_and_put_again(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = begun(page, "Boardings people")
    desk.choose(desk.entry("Line"), "by Mode")
    desk.expect_step("by Mode")
    desk.choose(desk.entry("Passenger group"), "by Mode, each broken down by Passenger group")
    desk.expect_step("by Passenger group")
    inside = desk.rows()[:4]
    way = "Mode › Passenger group"
    desk.choose_under(desk.phrase("Mode"), "Levels", f"Make a way down of {way}")
    desk.expect_step(f"made the way down {way}")
    desk.expect_rows(MODES)
    page.get_by_role("button", name="Open Tram", exact=True).click()
    desk.expect_step("broke Tram down by Passenger group")
    assert desk.rows()[:4] == inside
    page.get_by_role("button", name="Close Tram", exact=True).click()
    desk.expect_rows(MODES)
    # By keyboard as well.
    page.get_by_role("grid").focus()
    page.keyboard.press("Control+Home")
    page.keyboard.press("ArrowLeft")
    page.keyboard.press("+")
    desk.expect_step("broke Tram down by Passenger group")
    assert desk.rows()[:4] == inside
    for each in ("Mode", "Passenger group"):
        desk.choose(desk.phrase(each), f"Take {each} away")
        desk.expect_step(f"took {each} away")
    desk.choose(desk.catalogue.get_by_role("button", name=way, exact=True), f"against {way}")
    desk.expect_step(f"against {way}")
    assert desk.column_heads()[:2] == ["Tram", "Metro"]


def test_empty_rows_are_hidden_and_shown_again_from_the_sentence(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = begun(page, "Vehicles available vehicles")
    desk.choose(desk.entry("Calendar"), "by Year")
    desk.expect_step("by Year")
    desk.choose_under(desk.phrase("Year"), "Levels", "Hide empty rows")
    desk.expect_step("hid empty rows")
    assert "without empty rows" in desk.sentence()
    desk.choose(desk.phrase("without empty rows"), "Show empty rows again")
    desk.expect_step("showed empty rows")
    assert "empty" not in desk.sentence()


def test_at_hand_put_in_and_set_aside_again(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = table(page)
    desk.choose(desk.entry("Passenger group"), "Keep Passenger group at hand")
    desk.expect_step("kept Passenger group at hand")
    assert "at hand Passenger group" in desk.sentence()
    desk.drag(desk.phrase("Passenger group"), "rows-1")
    desk.expect_step("by Passenger group")
    assert "at hand" not in desk.sentence()
    desk.choose(desk.phrase("Passenger group"), "Keep Passenger group at hand")
    desk.expect_rows(MODES)
    desk.phrase("Passenger group").click()
    picker = page.get_by_role("dialog")
    picker.get_by_role("treeitem").first.click()
    picker.get_by_role("button", name="Keep these").click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(page.get_by_role("region", name="What the table shows").get_by_text("for", exact=True)).to_be_visible()


def test_the_sentence_is_written_with_completion_and_faults_are_pointed_at(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = begun(page)
    page.keyboard.press("/")
    field = page.get_by_label("The sentence in words")
    field.fill("boardings by mode agianst quarter")
    expect(page.get_by_text("“agianst quarter” is not understood here.")).to_be_visible()
    page.get_by_role("button", name="against", exact=True).click()
    field.press("End")
    field.press_sequentially(" for 2025 without fer")
    expect(page.get_by_role("option", name="Ferry", exact=True)).to_be_visible()
    field.press("Tab")
    field.press("Enter")
    desk.expect_step("wrote the sentence")
    desk.expect_sentence("Boardings people by Mode against Quarter for 2025 calendar, without Ferry line")
    desk.expect_rows(["Tram", "Metro", "Bus", "without a line", "All lines"])
    page.keyboard.press("/")
    expect(field).to_have_value("Boardings by Mode against Quarter for 2025, without Ferry")
    field.press("Escape")
    desk.expect_step("wrote the sentence")


def test_on_request_steps_wait_and_one_key_asks_them(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = table(page)
    page.get_by_role("button", name="At once").click()
    desk.choose(desk.head("Ferry"), "Leave out Ferry")
    desk.expect_step("left out Ferry")
    desk.put("Fare revenue cr")
    expect(page.get_by_text("the table is behind")).to_be_visible()
    expect(page.locator(".step.queued")).to_have_count(2)
    assert "without Ferry" in desk.sentence()
    desk.expect_rows(MODES)
    page.keyboard.press("Control+Enter")
    desk.expect_rows([each for each in MODES if each != "Ferry"])
    expect(page.locator(".step.queued")).to_have_count(0)
    page.get_by_role("button", name="On request").click()


def test_what_is_arranged_on_request_is_saved_without_ever_being_asked(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = begun(page)
    page.get_by_role("button", name="At once").click()
    desk.put("Boardings people")
    # Its edges are drawn, and take what is dropped.
    skeleton = page.get_by_role("region", name="What has been arranged")
    desk.drag(desk.entry("Line"), "rows-0")
    desk.expect_step("by Mode")
    expect(skeleton.get_by_role("button", name="Mode")).to_be_visible()
    page.get_by_role("button", name="Save", exact=True).click()
    page.get_by_role("dialog").get_by_label("Name").fill("Never asked")
    page.get_by_role("dialog").get_by_role("button", name="Save").click()
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
    page.reload()
    expect(page.get_by_text("Arranged, and not yet asked.")).to_be_visible()
    page.get_by_role("main").get_by_role("button", name="Show it").click()
    desk.expect_rows(MODES)
    page.get_by_role("button", name="On request").click()


def test_an_analysis_asks_on_opening_and_the_answer_is_a_phrase(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = table(page)
    desk.choose(desk.entry("Passenger group"), "Keep by a condition…")
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Members of").wait_for()
    dialog.get_by_label("Value").fill("1000")
    dialog.get_by_role("button", name="Keep these").click()
    expect(page.get_by_role("region", name="What the table shows")).to_contain_text("with more than 1,000 Boardings")
    desk.choose(desk.phrase("with more than"), "Ask for it on opening…")
    page.get_by_label("The question").fill("How many at least?")
    page.get_by_role("button", name="Ask it").click()
    desk.expect_step("asks “How many at least?” on opening")
    page.get_by_role("button", name="Save", exact=True).click()
    page.get_by_role("dialog").get_by_label("Name").fill("Large groups")
    page.get_by_role("dialog").get_by_role("button", name="Save").click()
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
    page.get_by_role("link", name="Dastan").click()
    page.get_by_role("link", name="Large groups").first.click()
    asked = page.get_by_role("dialog", name="How many at least?")
    asked.get_by_label("How many at least?").fill("2000")
    asked.get_by_role("button", name="Answer").click()
    expect(page.get_by_role("region", name="What the table shows")).to_contain_text("with more than 2,000 Boardings")


def test_the_trail_branches_names_compares_and_outlives_a_crash(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = table(page)
    desk.choose(desk.head("Ferry"), "Leave out Ferry")
    desk.expect_step("left out Ferry")
    page.keyboard.press("Control+z")
    desk.expect_step("against Year")
    desk.choose(desk.head("Bus"), "Keep only Bus")
    desk.expect_step("kept Bus")
    branch = page.get_by_role("button", name="Another way on from here")
    expect(branch).to_be_visible()
    page.locator("[aria-current=step]").click()
    page.get_by_role("menuitem", name="Name this step…").click()
    page.get_by_role("dialog").get_by_role("textbox").fill("only buses")
    page.get_by_role("button", name="Name it").click()
    desk.expect_step("only buses")
    # The page goes away without a word; everything is there again.
    address = page.url
    page.goto("about:blank")
    page.goto(address)
    desk.expect_step("only buses")
    desk.expect_rows(["Bus"])
    page.get_by_role("button", name="Another way on from here").click()
    page.get_by_role("menuitem", name="left out Ferry").click()
    desk.expect_step("left out Ferry")
    page.locator("[aria-current=step]").click()
    page.get_by_role("menuitem", name="Compare with another step…").click()
    dialog = page.get_by_role("dialog", name="Compare two steps")
    expect(dialog.get_by_text("Ferry (line)")).to_be_visible()
    expect(dialog.get_by_text(re.compile("Of the numbers, .* changed"))).to_be_visible()
    expect(dialog.get_by_role("row").filter(has_text="All lines")).not_to_have_count(0)
