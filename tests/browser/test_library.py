"""The library as its owner keeps it in order, and the page while the server is away."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from playwright.sync_api import Page, expect

from tests.browser.desk import Desk, by_line


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
    slip.get_by_label("Folder").fill("Ridership")
    slip.get_by_role("button", name="Keep").click()
    expect(page.get_by_role("heading", name="Ridership")).to_be_visible()
    menu(page, "Taps, mode by mode", "Delete")
    expect(page.get_by_role("link", name="Taps, mode by mode")).to_have_count(0)
    page.get_by_text("1 deleted lately").click()
    expect(page.get_by_role("button", name="Bring back “Taps, mode by mode”")).to_be_visible()
    page.get_by_role("button", name="Bring it back").click()
    expect(page.get_by_role("link", name="Taps, mode by mode").first).to_be_visible()
    expect(page.get_by_text("deleted lately")).to_have_count(0)


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
    for _ in range(3):
        by_line(page, "Taps records")
        page.get_by_role("link", name="Dastan").click()
    drafts = page.get_by_role("link", name="Taps by Mode")
    expect(drafts.nth(2)).to_be_visible()
    before = drafts.count()
    page.get_by_role("button", name="discard several…").click()
    for at in (0, 1):
        page.get_by_role("checkbox").nth(at).check()
    page.get_by_role("button", name="discard 2 chosen").click()
    expect(drafts).to_have_count(before - 2)


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


def test_an_answer_that_the_server_let_go_is_asked_again(desk: Desk) -> None:
    page = desk.page
    gone = {"code": "answer-gone", "detail": "This answer is no longer kept.", "hint": "Show the analysis again."}
    page.route("**/api/answers/*/chart", lambda route: route.fulfill(status=404, json=gone), times=1)
    with page.expect_response("**/position**"):
        page.get_by_role("button", name="Table and chart side by side").click()
    expect(page.locator(".chart svg").first).to_be_visible()
    expect(page.get_by_role("alert")).to_have_count(0)
