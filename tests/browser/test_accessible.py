"""Every screen and open panel, light and dark, as axe-core sees it."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.browser.desk import begun

AXE = Path(__file__).parents[2] / "web/node_modules/axe-core/axe.min.js"


CONTRAST = {"runOnly": {"type": "rule", "values": ["color-contrast"]}}
"""Of what axe-core looks at, only this depends on the paper."""


def faults(page: Page, only: Mapping[str, object] | None = None) -> list[str]:
    """What axe-core finds, one line for each place."""
    if not page.evaluate("() => 'axe' in window"):
        page.evaluate(AXE.read_text(encoding="utf-8"))  # no page of ours lets a script tag be put in
    page.wait_for_timeout(250)
    # What is right is neither listed nor given a selector: that took most of the time.
    asked = {"resultTypes": ["violations"], "selectors": False, **(only or {})}
    found = page.evaluate("(asked) => axe.run(document, asked)", asked)
    return [f"{each['id']}: {node['html'][:200]}" for each in found["violations"] for node in each["nodes"]]


def test_signing_in_and_the_library(new_page: Callable[[], Page], site: str, sign_in: Callable[[str], Page]) -> None:
    page = new_page()
    page.goto(site)
    page.get_by_role("button", name="Sign in").wait_for()
    assert faults(page) == []
    page = sign_in("ines")
    assert faults(page) == []


@pytest.mark.parametrize("paper", ["Light paper", "Dark paper"])
def test_the_workspace_and_all_that_opens_in_it(sign_in: Callable[[str], Page], paper: str) -> None:
    page = sign_in("ines")
    found: list[str] = []

    def look(where: str) -> None:
        found.extend(f"{where}: {each}" for each in faults(page, CONTRAST if paper == "Dark paper" else None))

    if page.get_by_role("button", name=paper).count():
        page.get_by_role("button", name=paper).click()
    desk = begun(page)
    look("an empty sheet")
    desk.put("Boardings people", "Fare revenue cr")
    desk.choose(desk.entry("Line"), "by Mode")
    desk.expect_step("by Mode")
    desk.choose(desk.entry("Calendar"), "against Year")
    desk.expect_step("against Year")
    desk.choose(desk.entry("Stop"), "Keep Zone at hand")
    desk.expect_step("kept Zone at hand")
    look("the crosstab")
    page.get_by_role("grid").focus()
    page.keyboard.press("ArrowDown")
    look("the table by keyboard")
    desk.head("Tram").click(button="right")
    page.get_by_role("menuitem", name="Go into Tram").wait_for()
    look("a member's menu")
    page.get_by_role("menuitem", name="Keep by a condition…").click()
    page.get_by_role("button", name="Keep these").wait_for()
    look("a condition")
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    desk.phrase("Zone").click()
    page.get_by_role("treeitem").first.wait_for()
    look("the members")
    page.get_by_role("button", name="Paste a list").click()
    look("a pasted list")
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    desk.head("Metro").click(modifiers=["Control"])
    page.get_by_role("button", name="Let go").wait_for()
    look("a selection")
    page.get_by_role("button", name="Let go").click()
    page.keyboard.press("/")
    page.get_by_label("The sentence in words").fill("boardings by li")
    page.get_by_role("option").first.wait_for()
    look("the sentence being written")
    page.keyboard.press("Escape")
    page.locator("[aria-current=step]").click()
    page.get_by_role("menuitem", name="Compare with another step…").click()
    page.get_by_text("numbers are the same").wait_for()
    look("two steps compared")
    page.get_by_role("button", name="Close").click()
    desk.choose(page.get_by_role("gridcell").first, "The records behind it")
    page.get_by_role("tabpanel").locator("tbody tr").first.wait_for()
    look("backing records")
    page.get_by_role("tab", name="Working paper").click()
    look("a working paper")
    page.get_by_role("tab", name="Does the source agree?").click()
    page.get_by_text("read anew just now").wait_for()
    look("the source asked anew")
    page.get_by_role("button", name="Close").click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    desk.choose(desk.phrase("Boardings").first, "Dress the numbers of Boardings…")
    page.get_by_label("a bar").check()
    page.get_by_role("button", name="Add a threshold").click()
    look("the dress of numbers")
    page.get_by_role("button", name="Dress them so").click()
    page.get_by_role("list", name="What the marks mean").wait_for()
    look("bars and thresholds")
    page.get_by_role("button", name="Look", exact=True).click()
    page.get_by_label("in a column for each level").check()
    look("the look of the table")
    page.get_by_role("button", name="Dress it so").click()
    desk.expect_step("a column for each level")
    look("a column for each level")
    page.get_by_role("button", name="Table and chart side by side").click()
    page.locator(".chart svg path").first.wait_for()
    look("table and chart")
    for form in ("heat table", "ring", "areas"):
        page.get_by_role("button", name=form, exact=True).click()
        expect(page.get_by_role("button", name=form, exact=True)).to_have_attribute("aria-pressed", "true")
        look(form)
    page.get_by_role("button", name="Save", exact=True).click()
    page.get_by_role("dialog").wait_for()
    look("saving")
    page.get_by_label("The numbers of now").check()
    look("freezing")
    page.get_by_role("button", name="Freeze the numbers").click()
    page.get_by_text("with the numbers of now").wait_for()
    page.get_by_role("link", name="Dastan").click()
    page.get_by_role("link", name="frozen").first.click()
    page.get_by_text("Frozen by").wait_for()
    page.locator(".chart svg path").first.wait_for()
    look("a frozen copy")
    page.get_by_role("button", name="Compare with today").click()
    page.get_by_text("numbers are the same").wait_for()
    look("then and today")
    page.get_by_role("button", name="Close", exact=True).click()
    page.get_by_role("button", name=re.compile("comments?$")).click()
    page.get_by_label("Say something").fill("All of it?")
    page.get_by_role("button", name="Say it").click()
    page.get_by_role("region", name="What was said").wait_for()
    look("comments")
    page.get_by_role("dialog").locator("footer").get_by_role("button", name="Close").click()
    page.get_by_role("button", name="Go on in the live analysis").click()
    expect(page.locator("[aria-current=step]")).to_contain_text("went on from")
    page.get_by_role("button", name="Save", exact=True).click()
    page.get_by_role("button", name="Save as an analysis").click()
    page.get_by_role("button", name="Take away").click()
    page.get_by_role("menuitem", name="By itself, at set times").click()
    page.get_by_label("What is made").wait_for()
    look("set times")
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    page.keyboard.press("/")
    page.get_by_label("The sentence in words").fill("boardings by mode for Ferry (Line) for Metro (Line)")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Which of them empties it?").click()
    page.get_by_role("button", name="Lift it: for Metro").wait_for()
    look("why it is empty")
    assert not found, "\n".join(found)
