"""Lists of members in the real interface: named from what is picked, made by a rule, put to use and told anew."""

from __future__ import annotations

from collections.abc import Callable

from playwright.sync_api import Page, expect

from tests.browser.desk import by_line


def test_picked_members_are_named_as_a_list_and_kept_by_a_click(sign_in: Callable[[str], Page]) -> None:
    page = sign_in("ines")
    desk = by_line(page, "Boardings people")
    ferry, tram = desk.row("Ferry"), desk.row("Tram")
    for each in ("Tram", "Ferry"):
        desk.head(each).click(modifiers=["Control"])
    page.get_by_role("button", name="Name them as a list…").click()
    panel = page.get_by_role("complementary", name="A list of members")
    expect(panel.get_by_label("Named")).to_have_value("Tram and Ferry")
    panel.get_by_label("Named").fill("Scenic")
    panel.get_by_role("button", name="Make the list").click()
    desk.expect_step("made the list Scenic")
    entry = desk.catalogue.get_by_role("button", name="Scenic", exact=True)
    entry.click()
    desk.expect_sentence("Boardings people by Mode for Scenic Tram and Ferry")
    desk.expect_rows(["Tram", "Ferry", "All lines"])
    assert (desk.row("Tram"), desk.row("Ferry")) == (tram, ferry)
    desk.choose(entry, "Leave out Scenic")
    desk.expect_rows(["Metro", "Bus", "without a line", "All lines"])
    # Whoever picks members finds the lists there, for what is kept or left out.
    desk.choose(desk.phrase("Scenic"), "Lift this filter")
    desk.choose(desk.entry("Line"), "Choose members of Line…")
    picker = page.get_by_role("dialog", name="Members of Line")
    picker.get_by_label("leave these out").check()
    picker.get_by_role("group", name="Lists of Line").get_by_role("button", name="Scenic").click()
    desk.expect_step("left out Scenic")
    desk.expect_rows(["Metro", "Bus", "without a line", "All lines"])
    desk.choose(entry, "Make a measure only for Scenic…")
    expect(page.get_by_label("Formula")).to_contain_text('"Boardings" only "Line" in "Scenic"')


def test_a_rule_is_made_by_keyboard_and_what_names_it_follows(sign_in: Callable[[str], Page]) -> None:
    page = sign_in("ines")
    desk = by_line(page, "Boardings people")
    desk.choose(desk.entry("Line"), "Make a list by a rule…")
    panel = page.get_by_role("complementary", name="A list of members")
    expect(panel.get_by_label("Named")).to_have_value("10 largest lines by Boardings")
    panel.get_by_label("How many").focus()
    page.keyboard.press("Control+a")
    page.keyboard.type("3")
    # Its name follows what it is of, until somebody writes one.
    expect(panel.get_by_label("Named")).to_have_value("3 largest lines by Boardings")
    expect(panel.get_by_role("status")).to_contain_text("3 just now: ")
    panel.get_by_label("and keep only these").focus()
    page.keyboard.press("Space")
    page.keyboard.press("Enter")
    desk.expect_sentence("Boardings people by Mode for 3 largest lines by Boardings")
    desk.expect_step("made the list 3 largest lines by Boardings")
    largest = desk.rows()
    desk.choose(desk.phrase("3 largest"), "Change the list…")
    panel.get_by_label("Which come first").select_option("smallest")
    panel.get_by_label("Named").fill("Quiet lines")
    panel.get_by_role("button", name="Change it").click()
    desk.expect_step("called 3 largest lines by Boardings Quiet lines")
    desk.expect_sentence("Boardings people by Mode for Quiet lines the 3 smallest lines by Boardings")
    assert not set(desk.rows()) & set(largest)
    # Nothing that a list's rule cannot be is put in: it is said at once.
    desk.choose(desk.phrase("Quiet lines"), "Change the list…")
    panel.get_by_label("How many").fill("0")
    expect(panel.get_by_role("status")).to_contain_text("Give an amount above zero.")
    expect(panel.get_by_role("button", name="Change it")).to_be_disabled()
