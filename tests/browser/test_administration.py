"""An administrator invites somebody, who comes in by the link and sees what is granted; and what cannot be kept is told."""

from __future__ import annotations

from collections.abc import Callable

from playwright.sync_api import Page, Route, expect

from tests.browser.desk import Desk, begun
from tests.browser.test_accessible import faults

SignIn = Callable[[str], Page]


def test_somebody_is_invited_granted_and_seen_as(sign_in: SignIn, new_page: Callable[[], Page], site: str) -> None:
    page = sign_in("rufus")
    page.get_by_role("link", name="Administration").click()
    page.get_by_label("Name", exact=True).fill("Mara Quill")
    page.get_by_label("Signs in as").fill("mara")
    page.get_by_role("button", name="Invite").click()
    link = page.get_by_role("dialog").get_by_role("textbox").first.input_value()
    assert link.startswith(f"{site}/welcome/")
    page.get_by_role("button", name="Done").click()
    assert faults(page) == []

    mara = new_page()
    mara.goto(link)
    mara.get_by_label("Password", exact=True).fill("made up words")
    mara.get_by_label("The same again").fill("made up word")
    mara.get_by_role("button", name="Come in").click()
    expect(mara.get_by_role("alert")).to_contain_text("not the same")
    mara.get_by_label("The same again").fill("made up words")
    assert faults(mara) == []
    mara.get_by_role("button", name="Come in").click()
    expect(mara.get_by_text("No model was granted to you yet")).to_be_visible()
    again = new_page()
    again.goto(link)
    expect(again.get_by_role("alert")).to_contain_text("does not open anything any more")

    page.get_by_role("button", name="Grant a model to Mara Quill").click()
    slip = page.get_by_role("dialog")
    slip.get_by_role("combobox", name="Sees").press("ArrowDown")
    page.get_by_role("option", name="as far as the ferry desk may").click()
    slip.get_by_role("button", name="Grant", exact=True).click()
    row = page.get_by_role("row").filter(has_text="Mara Quill")
    expect(row).to_contain_text("Varrow Bay Transit, as far as the ferry desk may")
    expect(row).to_contain_text("signed in, once")
    mara.reload()
    expect(mara.get_by_role("button", name="New analysis")).to_be_visible()

    row.get_by_role("button", name="see as Mara Quill").click()
    expect(page.get_by_text("You look at models with the rights of Mara Quill")).to_be_visible()
    desk = begun(page, "Boardings people")
    desk.expect_sentence("Boardings people , as far as the ferry desk may see")
    page.get_by_role("button", name="See as yourself again").click()
    row.get_by_role("button", name="shut out").click()
    expect(row).to_contain_text("shut out")
    mara.reload()
    expect(mara.get_by_role("button", name="Sign in")).to_be_visible()
    page.get_by_role("link", name="What was done").click()
    expect(page.get_by_role("table")).to_contain_text("Rufus Hale shut out mara")
    page.get_by_label("Find in what was done").fill("ferry_desk to mara")
    expect(page.get_by_role("table").get_by_role("row")).to_have_count(2)
    page.get_by_role("link", name="What runs now").click()
    expect(page.get_by_role("table", name="Models")).to_contain_text("Varrow Bay Transit")
    assert faults(page) == []


def test_a_step_that_cannot_be_kept_is_told_and_outlives_the_page(sign_in: SignIn) -> None:
    page = sign_in("tomas")
    begun(page)
    desk = Desk(page)
    problem = {
        "type": "about:blank", "title": "Source", "status": 503, "code": "not-kept", "details": {},
        "detail": "The disk that holds the records is full, so nothing can be kept.", "hint": "Free some space there.",
    }  # fmt: skip

    def fail(route: Route) -> None:
        route.fulfill(status=503, json=problem, content_type="application/problem+json")

    # The step's own request is answered and forgotten, as with a full disk.
    page.route("**/kept", fail)
    page.route("**/trail", fail)
    desk.put("Boardings people")
    line = page.get_by_role("alert").filter(has_text="The disk that holds the records is full")
    expect(line).to_contain_text("Your last step is kept on this page alone.")
    expect(page.get_by_text("not kept", exact=True)).to_be_visible()
    page.reload()
    expect(page.locator("[aria-current=step]")).to_have_text("Boardings")
    page.unroute("**/kept")
    page.unroute("**/trail")
    desk.put("Taps records")
    expect(line).to_be_hidden(timeout=20_000)
    page.reload()
    expect(page.locator("[aria-current=step]")).to_have_text("Taps")
