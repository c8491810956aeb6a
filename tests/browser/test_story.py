"""The story of the demo, found by the mouse alone: each part from a new analysis in at most eight gestures."""

from __future__ import annotations

import re
from collections.abc import Callable

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.browser.desk import Desk

MOST = 8


class Hand(Desk):
    """A new analysis, and a hand that counts what it does."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        self.gestures = 0
        page.get_by_role("button", name="New analysis").click()
        page.get_by_text("Drag a measure here to see a number.").wait_for()

    def click(self, what: Locator) -> None:
        what.click()
        self.gestures += 1

    def put_from(self, folder: str, measure: str) -> None:
        """A measure from its folder, which is unfolded first where it is not."""
        fold = self.catalogue.locator("[data-entry=fold]").filter(has_text=re.compile(rf"^\s*{folder}"))
        fold.wait_for()
        if fold.get_attribute("aria-expanded") == "false":
            self.click(fold)
        self.click(self.entry(measure))

    def put_dimension(self, caption: str, step: str) -> None:
        self.click(self.entry(caption))
        self.expect_step(step)

    def pick(self, what: Locator, *words: str) -> None:
        """Opens a thing's menu and picks a line of it, or of what a line gathers: a gesture each."""
        what.click(button="right")
        self.gestures += 1
        for each in words:
            self.click(self.page.get_by_role("menuitem", name=each, exact=True))

    def number(self, row: str, column: int = 0) -> float:
        text = self.row(row)[column].replace(",", "").replace("−", "-")
        return float(text) if text else 0.0


@pytest.fixture
def hand(sign_in: Callable[[str], Page]) -> Hand:
    return Hand(sign_in("ines"))


def test_a_ferry_line_loses_money(hand: Hand) -> None:
    hand.put_from("Ledger", "Net")
    hand.put_dimension("Line", "by Mode")
    hand.click(hand.page.get_by_role("button", name="Open Ferry"))
    expect(hand.head("Outer islands")).to_be_visible()
    rows = hand.rows()
    losing = [each for each in rows[rows.index("Ferry") + 1 : rows.index("without a line")] if hand.number(each) < 0]
    assert losing == ["Outer islands"]
    hand.click(hand.page.get_by_role("button", name="Open Outer islands"))
    expect(hand.head("F2")).to_be_visible()
    assert hand.number("F2") < 0 < hand.number("F3")
    assert hand.gestures <= MOST


def test_a_depot_is_over_plan(hand: Hand) -> None:
    hand.put_from("Ledger", "Operating cost")
    hand.put_dimension("Depot", "by Depot")
    hand.pick(hand.entry("Version"), "against Version")
    expect(hand.page.get_by_role("columnheader", name="Plan").first).to_be_visible()
    depots = [each for each in hand.rows() if not each.startswith(("All", "without"))]
    over = {each: hand.number(each, 0) / hand.number(each, 1) for each in depots}
    assert max(over, key=lambda each: over[each]) == "Quarry Lane"
    assert hand.gestures <= MOST


def test_a_week_of_strike(hand: Hand) -> None:
    hand.put_from("Ridership", "Boardings")
    hand.click(hand.catalogue.get_by_role("button", name=re.compile("more ways")).nth(1))
    hand.pick(hand.entry("Week"), "by Week year")
    hand.pick(hand.head("2023"), "Go into 2023")
    expect(hand.head("W01 2023")).to_be_visible()
    hand.page.get_by_role("grid").hover()
    hand.page.mouse.wheel(0, 2_000)
    hand.gestures += 1
    expect(hand.head("W42 2023")).to_be_visible()
    weeks = {each: hand.number(each) for each in hand.rows() if each.startswith("W")}
    assert min(weeks, key=lambda each: weeks[each]) == "W42 2023"
    assert hand.gestures <= MOST


def test_a_fare_is_new(hand: Hand) -> None:
    hand.put_from("Ridership", "Fare revenue")
    hand.put_dimension("Fare product", "by Fare family")
    hand.put_dimension("Calendar", "against Year")
    hand.click(hand.page.get_by_role("button", name="Open Passes"))
    expect(hand.head("Coast saver")).to_be_visible()
    years = hand.column_heads()[: len(hand.row("Coast saver"))]
    first = next(year for year, value in zip(years, hand.row("Coast saver"), strict=True) if value)
    assert first == "2024"
    assert hand.gestures <= MOST


def test_a_lines_incidents_stay_open(hand: Hand) -> None:
    hand.put_from("Operations", "Incidents open")
    hand.click(hand.catalogue.get_by_role("button", name="Levels of Line"))
    hand.click(hand.entry("Line").nth(1))
    hand.expect_step("by Line")
    hand.pick(
        hand.page.get_by_role("columnheader").get_by_role("button", name="Incidents open").first,
        "Order by it",
        "Lines largest first",
    )
    expect(hand.page.get_by_role("rowheader").first).to_have_text("14")
    assert hand.gestures <= MOST
