"""The library as its owner keeps it in order, and the page while the server is away."""

from __future__ import annotations

import csv
import re
from collections.abc import Callable
from pathlib import Path

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.browser.desk import Desk, by_line, share_with


@pytest.fixture
def desk(sign_in: Callable[[str], Page]) -> Desk:
    return by_line(sign_in("ines"), "Taps records")


def saved(desk: Desk, name: str = "") -> None:
    desk.page.get_by_role("button", name="Save", exact=True).click()
    slip = desk.page.get_by_role("dialog", name="Save as an analysis")
    if name:
        slip.get_by_label("Name").fill(name)
    slip.get_by_role("button", name="Save as an analysis").click()
    expect(slip).to_be_hidden()
    desk.page.get_by_role("link", name="Dastan").click()


def places(page: Page) -> Locator:
    return page.get_by_role("navigation", name="Places")


def menu(page: Page, name: str, words: str) -> None:
    handle = page.get_by_role("button", name=f"What can be done with “{name}”")
    page.locator(".row").filter(has=handle).last.hover()
    handle.last.click()
    page.get_by_role("menuitem", name=words).click()


def test_an_analysis_is_named_from_its_sentence_renamed_moved_deleted_and_brought_back(desk: Desk) -> None:
    page = desk.page
    saved(desk)
    menu(page, "Taps by Mode", "Rename or move…")
    slip = page.get_by_role("dialog", name="Rename or move")
    slip.get_by_label("Name").fill("Taps, mode by mode")
    slip.get_by_role("combobox", name="Folder").fill("Ridership")
    slip.get_by_role("button", name="Keep").click()
    places(page).get_by_role("link", name="Ridership").click()
    expect(page.get_by_role("heading", name="Ridership")).to_be_visible()
    menu(page, "Taps, mode by mode", "Delete")
    expect(page.get_by_role("link", name="Taps, mode by mode")).to_have_count(0)
    places(page).get_by_role("link", name="Deleted lately").click()
    expect(page.get_by_role("button", name="Bring back “Taps, mode by mode”")).to_be_visible()
    page.get_by_role("button", name="Bring it back").click()
    expect(page.get_by_text("Nothing was deleted").or_(page.get_by_text("can be brought back for"))).to_be_visible()
    places(page).get_by_role("link", name="Ridership").click()
    expect(page.get_by_role("link", name="Taps, mode by mode")).to_be_visible()


def test_a_favourite_is_found_by_what_it_uses_and_a_folder_names_what_lies_in_it(desk: Desk) -> None:
    page = desk.page
    saved(desk, "A favourite")
    page.get_by_role("button", name="Favourite: A favourite").click()
    places(page).get_by_role("link", name="Favourites").click()
    expect(page.locator("[data-entry]")).to_have_count(1)
    find = page.get_by_role("textbox", name="Find an analysis")
    find.fill("favourite CALDER taps")
    expect(page.get_by_role("heading", name="Found")).to_be_visible()
    expect(page.locator("[data-entry]")).to_have_count(1)
    find.fill("favourite depot")
    expect(page.get_by_text("Nothing that you may see has these words")).to_be_visible()
    find.fill("")
    page.get_by_role("button", name="New folder…").click()
    slip = page.get_by_role("dialog", name="A new folder")
    slip.get_by_label("Name").fill("Board")
    slip.get_by_role("combobox", name="New analyses in it are called by").click(force=True)
    for part in ("the folder", "what it shows", "who made it"):
        page.get_by_role("option", name=part, exact=True).click()
    page.keyboard.press("Escape")
    slip.get_by_role("button", name="Keep").click()
    expect(page.get_by_role("heading", name="Board")).to_be_visible()
    expect(page.get_by_text("Nothing lies here yet.")).to_be_visible()
    by_line(page, "Taps records")
    page.get_by_role("button", name="Save", exact=True).click()
    save = page.get_by_role("dialog", name="Save as an analysis")
    expect(save.get_by_label("Description")).to_have_value("Taps by Mode")
    save.get_by_role("combobox", name="Folder").click(force=True)
    page.get_by_role("option", name="Board", exact=True).click()
    expect(save.get_by_label("Name")).to_have_value("Board · Taps by Mode · Ines Calder")


def test_two_people_save_the_same_analysis_and_the_second_sees_what_the_first_changed(
    desk: Desk, sign_in: Callable[[str], Page]
) -> None:
    page = desk.page
    page.get_by_role("button", name="Save", exact=True).click()
    page.get_by_role("dialog").get_by_label("Name").fill("Both of us")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Share", exact=True).click()
    share_with(page, "Tomas Wray", "may change")
    other = sign_in("tomas")
    other.get_by_role("link", name="Shared with me").click()
    other.get_by_role("link", name="Both of us").first.click()
    theirs = Desk(other)
    theirs.expect_sentence("Taps records by Mode")
    theirs.put("Boardings people")
    other.get_by_role("button", name="Save", exact=True).click()
    other.get_by_role("dialog").get_by_role("button", name="Save", exact=True).click()
    expect(other.get_by_text("version 2")).to_be_visible()

    page.get_by_role("button", name="Turn").click()
    desk.expect_step("turned")
    page.get_by_role("button", name="Save", exact=True).click()
    page.get_by_role("dialog").get_by_role("button", name="Save", exact=True).click()
    told = page.get_by_role("dialog").get_by_role("alert")
    expect(told).to_contain_text("Tomas Wray")
    expect(told).to_contain_text("now shows Boardings")
    page.get_by_role("button", name="Look at theirs").click()
    desk.expect_step("version 2, as Tomas Wray saved it")
    desk.expect_sentence("Taps records and Boardings people by Mode")
    page.get_by_role("button", name="Undo").click()
    page.get_by_role("button", name="Save", exact=True).click()
    page.get_by_role("dialog").get_by_role("button", name="Save", exact=True).click()
    page.get_by_role("button", name="Save mine over it").click()
    expect(page.get_by_text("version 3")).to_be_visible()

    # Put back from the library, where each save stands with what it changed.
    page.get_by_role("link", name="Dastan").click()
    menu(page, "Both of us", "Versions…")
    versions = page.get_by_role("dialog", name="Versions")
    expect(versions.get_by_text("Tomas Wray")).to_be_visible()
    versions.get_by_role("button", name="Put version 2 back").click()
    expect(versions).to_be_hidden()
    page.get_by_role("link", name="Both of us").first.click()
    desk.expect_sentence("Taps records and Boardings people by Mode")


def test_numbers_are_frozen_opened_held_against_today_and_shared_after_a_second_thought(
    desk: Desk, sign_in: Callable[[str], Page]
) -> None:
    page = desk.page
    page.get_by_role("button", name="Save", exact=True).click()
    page.get_by_label("The numbers of now").check()
    slip = page.get_by_role("dialog", name="Freeze the numbers")
    slip.get_by_label("Name", exact=True).fill("Taps as they were")
    slip.get_by_role("button", name="Freeze the numbers").click()
    expect(page.get_by_text("is in the library, with the numbers of now")).to_be_visible()
    before = desk.row("Ferry")
    page.get_by_role("link", name="Dastan").click()
    page.get_by_role("link", name="Taps as they were").click()
    expect(page.get_by_text("Frozen by Ines Calder on")).to_be_visible()
    expect(page.get_by_role("rowheader").get_by_text("Ferry", exact=True)).to_be_visible()
    assert desk.row("Ferry") == before
    expect(page.get_by_role("button", name="Unfold the catalogue")).to_have_count(0)
    page.get_by_role("button", name="Open Ferry").click()
    desk.expect_step("opened Ferry")
    page.get_by_role("button", name="Compare with today").click()
    today = page.get_by_role("dialog", name="Compare with today")
    expect(today.get_by_text("numbers are the same.")).to_be_visible()
    today.get_by_role("button", name="Close").click()
    page.get_by_role("button", name="Share", exact=True).click()
    share = page.get_by_role("dialog", name="Share")
    share.get_by_role("combobox", name="Add a person or a group").click()
    page.get_by_role("option", name="Oda").click()
    expect(share.get_by_role("button", name="Share", exact=True)).to_be_disabled()
    share.get_by_label("They may see all of these numbers").check()
    share.get_by_role("button", name="Share", exact=True).click()
    expect(page.get_by_text("is shared with Oda")).to_be_visible()
    # Who sees only ferries elsewhere sees what was frozen, and goes on with their own rights.
    oda = sign_in("oda")
    oda.get_by_role("link", name="Taps as they were").first.click()
    theirs = Desk(oda)
    expect(oda.get_by_role("rowheader").get_by_text("Tram", exact=True)).to_be_visible()
    oda.get_by_role("button", name="Go on in the live analysis").click()
    theirs.expect_step("went on from “Taps as they were”")
    expect(oda.get_by_role("rowheader").get_by_text("Tram", exact=True)).to_have_count(0)


def test_an_analysis_starts_from_the_table_of_another(desk: Desk) -> None:
    page = desk.page
    saved(desk, "Taps to start from")
    page.get_by_role("link", name="Taps to start from").click()
    page.get_by_role("rowheader").get_by_text("Ferry", exact=True).wait_for()
    figures = desk.row("Ferry")
    page.get_by_role("button", name="Take away").click()
    page.get_by_role("menuitem", name="Start from its table").click()
    page.get_by_text("Drag a measure here to see a number.").wait_for()
    table = Desk(page)
    table.put("Taps records", "Rows of the table rows")
    table.choose(table.entry("Line"), "by Mode")
    table.expect_step("by Mode")
    assert table.row("Ferry") == [*figures, "1"]
    page.get_by_role("button", name="Save", exact=True).click()
    page.get_by_role("dialog").get_by_label("Name", exact=True).fill("Started from taps")
    page.keyboard.press("Enter")
    page.get_by_role("link", name="The table of “Taps to start from”").click()
    expect(page.get_by_role("heading", name="Taps to start from")).to_be_visible()
    page.get_by_role("link", name="Dastan").click()
    entry = page.get_by_role("link", name="Started from taps")
    expect(entry.first).to_contain_text("from the table of “Taps to start from”")


def test_a_file_is_made_by_itself_downloaded_and_read_back(desk: Desk, tmp_path: Path) -> None:
    saved(desk, "Made by itself")
    page = desk.page
    page.get_by_role("link", name="Made by itself").click()
    page.get_by_role("button", name="Take away").click()
    page.get_by_role("menuitem", name="By itself, at set times").click()
    slip = page.get_by_role("dialog", name="At set times")
    slip.get_by_label("Thursday").check()
    slip.get_by_role("button", name="Set this time").click()
    expect(slip.get_by_text("A workbook (XLSX), every Monday and Thursday at 07:00")).to_be_visible()
    slip.get_by_role("combobox", name="What is made").click(force=True)
    page.get_by_role("option", name="A CSV file of the table").click()
    slip.get_by_role("button", name="Make it now").click()
    with page.expect_download() as download:
        slip.get_by_role("link", name="Download").click()
    download.value.save_as(tmp_path / "made.csv")
    text = (tmp_path / "made.csv").read_text(encoding="utf-8")
    figures = desk.row("Ferry")[0].replace(",", "")
    assert ["Ferry", figures] in [line[:2] for line in csv.reader(text.splitlines())]
    slip.get_by_role("button", name="No longer: A workbook").click()
    expect(slip.get_by_text("every Monday and Thursday")).to_have_count(0)


def test_what_is_said_of_a_number_stays_with_it_and_reaches_whom_it_means(
    desk: Desk, sign_in: Callable[[str], Page]
) -> None:
    saved(desk, "Talked about")
    page = desk.page
    page.get_by_role("link", name="Talked about").click()
    page.get_by_role("button", name="Share", exact=True).click()
    share_with(page, "Tomas Wray", "may look")
    ferry = page.get_by_role("row").filter(has=page.get_by_text("Ferry", exact=True)).get_by_role("gridcell")
    ferry.click(button="right")
    page.get_by_role("menuitem", name="Comment on it…").click()
    slip = page.get_by_role("dialog", name="Comments")
    slip.get_by_label("Say something of this number").fill("Is the winter timetable in it?")
    slip.get_by_role("combobox", name="To").click()
    page.get_by_role("option", name="Tomas").click()
    page.keyboard.press("Escape")
    slip.get_by_role("button", name="Say it").click()
    expect(slip.get_by_role("button", name="Ferry · Taps")).to_be_visible()
    slip.locator("footer").get_by_role("button", name="Close").click()
    expect(page.get_by_role("button", name="1 comment")).to_be_visible()
    said = page.locator("[aria-description=commented]")
    expect(said).to_have_text(ferry.inner_text())
    page.get_by_role("button", name="Turn").click()
    desk.expect_step("turned")
    expect(page.get_by_role("columnheader").get_by_text("Ferry")).to_be_visible()
    expect(said).to_have_count(1)
    tomas = sign_in("tomas")
    expect(tomas.get_by_text("Ines Calder to you, of a number on “Talked about”")).to_be_visible()
    tomas.get_by_role("link", name="Read it").click()
    expect(tomas.get_by_text("Is the winter timetable in it?")).to_be_visible()
    tomas.get_by_role("dialog", name="Comments").get_by_role("button", name="Ferry · Taps").click()
    expect(tomas.locator("[aria-description=commented]")).to_have_count(1)
    tomas.get_by_role("dialog", name="Comments").get_by_role("button", name="Close").click()
    tomas.get_by_role("link", name="Dastan").click()
    expect(tomas.get_by_text("Ines Calder to you")).to_have_count(0)


def test_a_link_to_a_number_opens_there_for_a_colleague(desk: Desk, sign_in: Callable[[str], Page]) -> None:
    page = desk.page
    page.context.grant_permissions(["clipboard-read", "clipboard-write"])
    page.get_by_role("row").filter(has=page.get_by_text("Metro", exact=True)).get_by_role("gridcell").click(
        button="right"
    )
    page.get_by_role("menuitem", name="Copy a link to it").click()
    expect(page.get_by_text("The link to this number is copied")).to_be_visible()
    address = page.evaluate("navigator.clipboard.readText()")
    tomas = sign_in("tomas")
    expect(tomas.get_by_role("heading", name="Recent")).to_be_visible()
    tomas.goto(address)
    grid = tomas.get_by_role("grid")
    expect(grid).to_have_attribute("aria-activedescendant", re.compile("cell-"))
    expect(tomas.locator(f"#{grid.get_attribute('aria-activedescendant')}")).to_have_text(desk.row("Metro")[0])
    Desk(tomas).expect_step("the view that Ines Calder linked to")


def test_what_a_shared_folder_lets_a_reader_look_at_is_not_rearranged(
    desk: Desk, sign_in: Callable[[str], Page]
) -> None:
    page = desk.page
    page.get_by_role("button", name="Save", exact=True).click()
    slip = page.get_by_role("dialog", name="Save as an analysis")
    slip.get_by_label("Name").fill("To look at")
    slip.get_by_role("combobox", name="Folder").fill("Shown around")
    slip.get_by_role("button", name="Save as an analysis").click()
    page.get_by_role("link", name="Dastan").click()
    places(page).get_by_role("link", name="Shown around").click()
    page.get_by_role("button", name="Share", exact=True).click()
    share_with(page, "Tomas Wray", "may look")
    other = sign_in("tomas")
    places(other).get_by_role("link", name="Shown around").click()
    other.get_by_role("link", name="To look at").click()
    expect(other.get_by_text("You may look at this analysis")).to_be_visible()
    other.get_by_role("button", name="Open Tram").click()
    expect(other.get_by_role("rowheader").filter(has_text="North shore")).to_be_visible()
    expect(other.get_by_role("button", name="Turn")).to_be_disabled()
    expect(other.get_by_role("button", name="Write the sentence")).to_have_count(0)
    expect(other.get_by_role("button", name="Save a copy")).to_have_count(0)


def test_two_of_one_name_are_told_before_there_are_two(desk: Desk) -> None:
    page = desk.page
    saved(desk, "Taps, once")
    page.get_by_role("link", name="Taps, once").first.click()
    page.get_by_role("button", name="Save a copy").click()
    slip = page.get_by_role("dialog", name="Save a copy")
    slip.get_by_label("Name").fill("taps, once")
    expect(slip.get_by_role("status")).to_have_text(
        "You have an analysis of this name without a folder: there will be two."
    )
    slip.get_by_label("Name").fill("Taps, twice")
    expect(slip.get_by_role("status")).to_have_count(0)


def test_several_drafts_are_discarded_at_once(sign_in: Callable[[str], Page]) -> None:
    page = sign_in("tomas")
    for _ in range(4):
        by_line(page, "Taps records")
        page.get_by_role("link", name="Dastan").click()
        page.get_by_role("heading", name="Begin").wait_for()
    page.reload()  # the page shows what it knew before until it has asked again
    drafts = page.get_by_role("link", name="Taps by Mode")
    expect(drafts.nth(2)).to_be_visible()
    page.get_by_role("button", name="discard several…").click()
    before = page.get_by_role("checkbox").count()
    for at in (0, 1):
        page.get_by_role("checkbox").nth(at).check()
    page.get_by_role("button", name="discard 2 chosen").click()
    page.get_by_role("button", name="discard several…").click()
    expect(page.get_by_role("checkbox")).to_have_count(before - 2)


def test_while_the_server_is_away_a_gesture_says_so_and_is_done_later(desk: Desk) -> None:
    page = desk.page
    page.route("**/api/drafts/*/steps**", lambda route: route.abort())
    page.get_by_role("button", name="Turn").click()
    notice = page.get_by_role("alert").filter(has_text="The server does not answer.")
    expect(notice).to_be_visible()
    desk.expect_step("by Mode")
    # What is written stays where it is written.
    page.keyboard.press("/")
    field = page.get_by_label("The sentence in words")
    field.fill("taps against mode for ferry")
    with page.expect_event("requestfailed", lambda request: "/steps" in request.url):
        field.press("Enter")
    expect(notice).to_be_visible()
    expect(field).to_have_value("taps against mode for ferry")
    page.unroute("**/api/drafts/*/steps**")
    notice.get_by_role("button", name="Try again").click()
    # Both are done, in their order.
    desk.expect_step("wrote the sentence")
    expect(page.get_by_role("contentinfo", name="Trail").get_by_role("listitem").nth(-2)).to_have_text("turned")
    expect(notice).to_be_hidden()
    expect(field).to_be_hidden()


def test_a_part_of_the_page_that_does_not_arrive_is_asked_for_again(desk: Desk) -> None:
    page = desk.page
    notice = page.get_by_role("alert").filter(has_text="A part of this page did not arrive.")
    page.route("**/assets/*.js", lambda route: route.abort())
    page.get_by_role("button", name="The chart of it").click()
    expect(notice).to_be_visible()
    page.unroute("**/assets/*.js")
    notice.get_by_role("button", name="Try again").click()
    expect(page.locator(".chart svg").first).to_be_visible()
    # Another page of the application too.
    page.route("**/assets/*.js", lambda route: route.abort())
    page.locator("a[href='/sessions']").click()
    expect(notice).to_be_visible()
    page.unroute("**/assets/*.js")
    notice.get_by_role("button", name="Try again").click()
    expect(page).to_have_url(re.compile("/sessions"))
    expect(notice).to_be_hidden()


def test_an_answer_that_the_server_let_go_is_asked_again(desk: Desk) -> None:
    page = desk.page
    gone = {"code": "answer-gone", "detail": "This answer is no longer kept.", "hint": "Show the analysis again."}
    page.route("**/api/answers/*/chart", lambda route: route.fulfill(status=404, json=gone), times=1)
    with page.expect_response("**/position**"):
        page.get_by_role("button", name="Table and chart side by side").click()
    expect(page.locator(".chart svg").first).to_be_visible()
    expect(page.get_by_role("alert")).to_have_count(0)


def test_a_saved_analysis_is_read_from_elsewhere_with_a_token(
    desk: Desk, new_page: Callable[[], Page], site: str
) -> None:
    page = desk.page
    page.get_by_role("button", name="Save", exact=True).click()
    page.get_by_role("dialog").get_by_label("Name").fill("Read elsewhere")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Take away").click()
    page.get_by_role("menuitem", name="Read it from elsewhere…").click()
    slip = page.get_by_role("dialog", name="Read it from elsewhere")
    address = slip.locator("code").first.inner_text()
    slip.get_by_role("link", name="make one under your name").click()
    page.get_by_label("What it is for").fill("A notebook")
    page.get_by_role("button", name="Make a token").click()
    token = page.get_by_role("status").locator("code").inner_text()
    elsewhere = new_page().request
    refused = elsewhere.get(f"{address}/numbers.csv")
    assert refused.status == 401
    read = elsewhere.get(f"{address}/numbers.csv", headers={"authorization": f"Bearer {token}"})
    heads, *lines = [line.split(",") for line in read.text().splitlines()]
    assert heads == ["Mode", "Taps"]
    assert [line[0] for line in lines] == ["Tram", "Metro", "Bus", "Ferry", "without a line"]
    page.get_by_role("button", name="End the token for A notebook").click()
    expect(page.get_by_role("table", name="Tokens")).to_have_count(0)
    assert elsewhere.get(f"{address}/numbers.csv", headers={"authorization": f"Bearer {token}"}).status == 401
