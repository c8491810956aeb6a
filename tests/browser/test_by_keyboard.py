"""The same work with the keyboard alone: no test here touches the mouse."""

from __future__ import annotations

import re
from collections.abc import Callable

from playwright.sync_api import Page, expect

from tests.browser.desk import Desk

SignIn = Callable[[str], Page]
MODES = ["Tram", "Metro", "Bus", "Ferry", "without a line", "All lines"]


def write(page: Page, text: str) -> None:
    page.keyboard.press("/")
    field = page.get_by_label("The sentence in words")
    expect(field).to_be_focused()
    field.fill(text)
    page.keyboard.press("Enter")
    expect(field).to_have_count(0)


def begun(page: Page) -> Desk:
    page.get_by_role("button", name="New analysis").focus()
    page.keyboard.press("Enter")
    page.get_by_role("navigation", name="Catalogue").get_by_role("button", name="Line", exact=True).wait_for()
    page.get_by_text("Drag a measure here to see a number.").wait_for()
    return Desk(page)


def choose(page: Page, *words: str) -> None:
    """Goes down an open menu to a line, into its own slip where it has one, and takes the last."""
    for place, each in enumerate(words):
        line = page.get_by_role("menuitem", name=each, exact=True)
        line.wait_for()
        # An open menu has the focus once it has been laid out; a quicker hand would press its keys elsewhere.
        page.wait_for_function("() => document.activeElement?.closest('[role=menu]')")
        for _ in range(30):
            if line.evaluate("node => node === document.activeElement || node.contains(document.activeElement)"):
                break
            page.keyboard.press("ArrowDown")
        else:
            raise AssertionError(f"{each} cannot be reached by the arrow keys")
        page.keyboard.press("Enter" if place == len(words) - 1 else "ArrowRight")


def spoken(page: Page) -> str:
    return page.locator(".frame > .unseen[aria-live]").inner_text()


def asked(sign_in: SignIn, sentence: str) -> tuple[Page, Desk]:
    """A new analysis by modes, asked by writing its sentence."""
    page = sign_in("ines")
    desk = begun(page)
    write(page, sentence)
    desk.expect_rows(MODES)
    return page, desk


def test_from_nothing_to_a_crosstab_down_and_back(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = begun(page)
    # The catalogue is one stop: what is looked for by its name is put in by Enter, the arrow keys go to the rest.
    search = page.get_by_label("Find a measure or dimension")
    search.focus()
    page.keyboard.type("board")
    expect(desk.catalogue.locator(".best")).to_contain_text("Boardings")
    page.keyboard.press("Enter")
    desk.expect_step("Boardings")
    page.keyboard.type("line")
    expect(desk.catalogue.locator(".best")).to_contain_text("Line")
    page.keyboard.press("Enter")
    desk.expect_rows(MODES)
    search.fill("")
    page.keyboard.press("ArrowDown")
    focused = desk.catalogue.locator("[data-entry]:focus")
    expect(focused).to_contain_text("Ridership")
    page.keyboard.press("ArrowLeft")
    expect(desk.entry("Boardings")).to_have_count(0)  # folded, and what is below is the next
    page.keyboard.press("ArrowDown")
    expect(focused).to_contain_text("Punctuality")
    page.keyboard.press("ArrowRight")
    expect(desk.entry("Delays measured")).to_be_visible()
    page.keyboard.press("Tab")
    expect(desk.catalogue.locator("[data-entry]:focus")).to_have_count(0)
    page.keyboard.press("Shift+Tab")
    expect(focused).to_contain_text("Punctuality")
    desk.entry("Calendar").focus()
    page.keyboard.press("Enter")
    desk.expect_step("against Year")
    desk.entry("Calendar").focus()
    page.keyboard.press("Enter")  # once it is there, a click shows all that can be done with it
    page.get_by_role("menuitem", name="Take Year away").wait_for()
    page.keyboard.press("Escape")
    expect(page.get_by_role("menuitem")).to_have_count(0)
    page.get_by_role("grid").focus()
    page.keyboard.press("ArrowRight")
    desk.expect_step("opened Tram")
    expect(page.get_by_role("rowheader").get_by_text("Hill", exact=True)).to_be_visible()
    page.keyboard.press("ArrowDown")
    assert spoken(page).startswith("Tram, North shore")
    page.keyboard.press("Enter")
    choose(page, "Go into North shore")
    desk.expect_step("went into North shore")
    back = page.get_by_role("navigation", name="The way back").get_by_role("button", name="All lines")
    back.focus()
    page.keyboard.press("Enter")
    desk.expect_step("came back to all of Line")
    page.keyboard.press("Control+z")
    desk.expect_step("went into North shore")


def test_a_cell_is_read_out_and_broken_down(sign_in: SignIn) -> None:
    page, desk = asked(sign_in, "boardings by mode against year")
    page.get_by_role("grid").focus()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("End")
    assert re.fullmatch(r"Metro, Boardings: [\d,]+", spoken(page)), spoken(page)
    page.keyboard.press("ArrowLeft")
    assert re.fullmatch(r"Metro, 2025, Boardings: [\d,]+", spoken(page)), spoken(page)
    page.keyboard.press("Enter")
    choose(page, "Break Metro down by", "Passenger group")
    desk.expect_step("broke Metro down by Passenger group")


def test_the_headers_above_are_reached_opened_selected_and_ordered_by(sign_in: SignIn) -> None:
    page, desk = asked(sign_in, "boardings, fare revenue by mode against year")
    page.get_by_role("grid").focus()
    page.keyboard.press("ArrowRight")
    desk.expect_step("opened Tram")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowUp")
    assert spoken(page) == "2021, Boardings"
    page.keyboard.press("ArrowRight")
    assert spoken(page) == "2021, Fare revenue"
    page.keyboard.press("Enter")
    choose(page, "Order by it", "Groups largest first")
    expect(page.locator("[aria-current=step]")).to_contain_text("ordered Mode by Fare revenue")
    page.get_by_role("grid").focus()
    page.keyboard.press("ArrowUp")
    assert spoken(page) == "2021"
    page.keyboard.press("+")
    desk.expect_step("opened 2021")
    expect(page.get_by_role("columnheader").filter(has_text="Q1 2021")).to_be_visible()
    page.get_by_role("grid").focus()
    page.keyboard.press("-")
    desk.expect_step("closed 2021")
    page.keyboard.press("Space")
    page.keyboard.press("ArrowRight")
    assert spoken(page) == "2022"
    page.keyboard.press("Shift+Space")
    keep = page.get_by_role("button", name="Keep only 2021 and 2022")
    keep.focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("columnheader").filter(has_text="2023")).to_have_count(0)


def test_headers_selected_and_kept_and_turned(sign_in: SignIn) -> None:
    page, desk = asked(sign_in, "boardings by mode against year")
    page.get_by_role("grid").focus()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Space")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Shift+Space")
    keep = page.get_by_role("button", name="Keep only Metro and Bus")
    keep.focus()
    page.keyboard.press("Enter")
    desk.expect_rows(["Metro", "Bus", "All lines"])
    page.get_by_role("button", name="Turn", exact=True).focus()
    page.keyboard.press("Enter")
    desk.expect_step("turned")
    assert "for Metro and Bus" in desk.sentence()


def test_members_are_picked_in_the_tree(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = begun(page)
    write(page, "boardings by mode; at hand stop")
    desk.phrase("Stop").focus()
    page.keyboard.press("Enter")
    tree = page.get_by_role("tree")
    tree.get_by_role("treeitem").first.wait_for()
    tree.focus()
    page.keyboard.press("ArrowRight")
    expect(tree.locator("[aria-level='2']").first).to_be_visible()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Space")
    expect(page.get_by_role("dialog").get_by_text("1 × district picked")).to_be_visible()
    page.get_by_role("button", name="Keep these").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(page.locator("[aria-current=step]")).to_contain_text("kept")
    assert " for " in desk.sentence()


def test_on_request_and_the_trail(sign_in: SignIn) -> None:
    page, desk = asked(sign_in, "boardings by mode")
    page.get_by_role("button", name="At once").focus()
    page.keyboard.press("Enter")
    write(page, "boardings by mode without ferry")
    expect(page.get_by_text("the table is behind")).to_be_visible()
    page.keyboard.press("Control+Enter")
    desk.expect_rows([each for each in MODES if each != "Ferry"])
    page.get_by_role("button", name="On request").focus()
    page.keyboard.press("Enter")
    step = page.locator("[aria-current=step]")
    step.focus()
    page.keyboard.press("Enter")
    choose(page, "Name this step…")
    page.get_by_role("dialog").get_by_role("textbox").fill("no ferries")
    page.keyboard.press("Enter")
    desk.expect_step("no ferries")


def test_a_slip_begins_in_its_first_field_and_leaves_a_quick_hand_where_it_is(sign_in: SignIn) -> None:
    page, _ = asked(sign_in, "Boardings by Mode")
    page.get_by_role("button", name="Save", exact=True).focus()
    page.keyboard.press("Enter")
    slip = page.get_by_role("dialog")
    expect(slip.get_by_label("Name")).to_be_focused()
    page.keyboard.type("By mode")
    page.keyboard.press("Escape")
    expect(slip).to_have_count(0)

    # Written in another field from the first moment that the slip is seen: no letter goes astray.
    page.get_by_role("button", name="Save", exact=True).focus()
    page.keyboard.press("Enter")
    slip.get_by_label("Description").focus()
    page.keyboard.type("Every year, as the board reads it.", delay=15)
    expect(slip.get_by_label("Description")).to_be_focused()
    expect(slip.get_by_label("Description")).to_have_value("Every year, as the board reads it.")
    expect(slip.get_by_label("Name")).to_have_value("Boardings by Mode")


def test_each_main_place_has_a_key_and_all_keys_are_listed(sign_in: SignIn) -> None:
    page, _ = asked(sign_in, "boardings by mode against year")
    focused = page.locator(":focus")
    expect(focused).to_have_attribute("role", "grid")  # whoever wrote a sentence reads what it shows
    page.keyboard.press(".")
    expect(focused).to_have_attribute("aria-label", "Find a measure or dimension")
    page.keyboard.press("Tab")
    page.keyboard.press(";")
    expect(focused).to_have_attribute("aria-current", "step")
    page.keyboard.press(",")
    expect(focused).to_have_attribute("role", "grid")
    page.keyboard.press("?")
    keys = page.get_by_role("dialog", name="Keys")
    expect(keys.get_by_text("find in the catalogue")).to_be_visible()
    page.keyboard.press("Escape")
    expect(keys).to_have_count(0)
    # The first Tab stop of the page skips to where the work is.
    page.get_by_role("link", name="Dastan").focus()
    for _ in range(3):
        page.keyboard.press("Shift+Tab")
    expect(focused).to_have_text("Skip to the table")
    page.keyboard.press("Enter")
    expect(focused).to_have_attribute("role", "grid")
