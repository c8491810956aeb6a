"""Numbers dressed: scale and sign, bars and thresholds, which follow every turn."""

from __future__ import annotations

import re
from collections.abc import Callable

from playwright.sync_api import Page, expect

from tests.browser.desk import Desk, begun

SignIn = Callable[[str], Page]


def dress(desk: Desk, measure: str) -> None:
    desk.choose(desk.phrase(measure).first, f"Dress the numbers of {measure}…")
    expect(desk.page.get_by_role("dialog")).to_be_visible()


def number(text: str) -> float:
    return float(text.replace(",", "").replace("−", "-"))


def test_in_thousands_with_the_sign_turned_and_brackets(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = begun(page, "Net cr")
    desk.choose(desk.entry("Line"), "by Line")
    desk.expect_step("by Line")
    before = {each: number(desk.row(each)[0]) for each in ("Tram", "Bus", "All lines")}
    dress(desk, "Net")
    desk.select("Written", "whole, negatives in brackets")
    desk.select("Scale", "in thousands")
    page.get_by_label("with the sign turned").check()
    page.get_by_role("button", name="Dress them so").click()
    desk.expect_step("dressed Net")
    expect(page.get_by_role("columnheader").filter(has_text="Net, thousand cr, turned").first).to_be_visible()
    for row, value in before.items():
        shown = round(-value / 1000)
        wanted = f"({abs(shown):,})" if shown < 0 else f"{shown:,}"
        assert desk.row(row)[0].strip() == wanted
    # The chart draws what the table writes.
    page.get_by_role("button", name="Table and chart side by side").click()
    expect(page.locator(".chart svg text").filter(has_text="Net (thousand cr, turned)")).to_be_visible()
    axis = page.locator(".chart svg text").all_text_contents()
    largest = max(number(each) for each in axis if re.fullmatch(r"[−\d,]+", each))
    assert 0 < largest <= 2 * round(-before["All lines"] / 1000)
    page.get_by_role("button", name="The table", exact=True).click()
    page.get_by_role("button", name="Turn", exact=True).click()
    desk.expect_step("turned")
    expect(page.get_by_text("Net, thousand cr, turned").first).to_be_visible()


def test_members_by_key_and_rows_with_their_full_path(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = begun(page, "Boardings people")
    desk.choose(desk.entry("Line"), "by Line")
    desk.expect_step("by Line")
    page.get_by_role("button", name="Open Tram", exact=True).click()
    desk.expect_step("opened Tram")
    figures = desk.row("Hill")
    desk.choose_under(desk.phrase("Mode"), "Labels", "Each row with its full path")
    desk.expect_step("rows with their full path")
    assert desk.row("Tram › Hill") == figures
    desk.choose_under(desk.phrase("Mode"), "Labels", "By captions and keys")
    desk.expect_step("captions and keys of Line")
    expect(page.get_by_role("rowheader").nth(0)).to_have_text("Tram (tram)")
    desk.choose_under(desk.phrase("Mode"), "Labels", "By their keys")
    desk.expect_step("keys of Line")
    expect(page.get_by_role("rowheader").nth(0)).to_have_text("tram")
    page.get_by_role("button", name="Turn", exact=True).click()
    desk.expect_step("turned")
    expect(page.get_by_role("columnheader").filter(has_text="tram").first).to_be_visible()


def test_a_threshold_and_a_bar_with_their_legend(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = begun(page, "Boardings people")
    desk.choose(desk.entry("Line"), "by Line")
    desk.expect_step("by Line")
    values = {each: number(desk.row(each)[0]) for each in ("Tram", "Metro", "Bus", "Ferry")}
    middle = sorted(values.values())[2]
    dress(desk, "Boardings")
    page.get_by_label("a bar").check()
    page.get_by_role("button", name="Add a threshold").click()
    page.get_by_label("Amount").fill(f"{middle:.0f}")
    desk.select("Means", "▲ favourable")
    page.get_by_role("button", name="Dress them so").click()
    desk.expect_step("dressed Boardings")
    legend = page.get_by_role("list", name="What the marks mean")
    expect(legend).to_contain_text(f"Boardings at least {middle:,.0f}")
    expect(legend).to_contain_text(f"longest bar {max(values.values()):,.0f}")
    grid = page.get_by_role("grid")
    for row, value in values.items():
        header = page.get_by_role("rowheader").get_by_text(row, exact=True)
        cell = grid.get_by_role("row").filter(has=header).first.get_by_role("gridcell").first
        expect(cell.get_by_role("img", name="favourable")).to_have_count(1 if value >= middle else 0)
        found = re.search(r"([\d.]+)%, transparent", cell.get_attribute("style") or "")
        assert found, cell.get_attribute("style")
        assert abs(float(found.group(1)) - 100 * value / max(values.values())) < 0.1
