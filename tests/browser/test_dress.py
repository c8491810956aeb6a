"""Numbers dressed: scale and sign, bars and thresholds, which follow every turn."""

from __future__ import annotations

import re
from collections.abc import Callable

from playwright.sync_api import Page, expect

from tests.browser.desk import Desk, by_line

SignIn = Callable[[str], Page]


def dress(desk: Desk, measure: str) -> None:
    desk.choose(desk.phrase(measure).first, f"Dress the numbers of {measure}…")
    expect(desk.page.get_by_role("dialog")).to_be_visible()


def number(text: str) -> float:
    return float(text.replace(",", "").replace("−", "-"))


def test_in_thousands_with_the_sign_turned_and_brackets(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = by_line(page, "Net cr")
    before = {each: number(desk.row(each)[0]) for each in ("Tram", "Bus", "All lines")}
    dress(desk, "Net")
    desk.select("Written", "whole, negatives in brackets")
    desk.select("Scale", "in thousands")
    page.get_by_label("with the sign turned").check()
    page.get_by_role("button", name="Dress them so").click()
    desk.expect_step("dressed Net")
    expect(page.get_by_role("columnheader").filter(has_text="Net, thousand cr, sign turned").first).to_be_visible()
    # However narrow its column is drawn, what was done to the numbers is read.
    dress(desk, "Net")
    page.get_by_label("Width of the columns").fill("50")
    page.get_by_role("button", name="Dress them so").click()
    done = page.locator(".done").first
    expect(done).to_have_text(", thousand cr, sign turned")
    assert done.evaluate("node => node.scrollWidth <= node.parentElement.clientWidth")
    for row, value in before.items():
        shown = round(-value / 1000)
        wanted = f"({abs(shown):,})" if shown < 0 else f"{shown:,}"
        assert desk.row(row)[0].strip() == wanted
    # The chart draws what the table writes.
    page.get_by_role("button", name="Table and chart side by side").click()
    expect(page.locator(".chart svg text").filter(has_text="Net (thousand cr, sign turned)")).to_be_visible()
    axis = page.locator(".chart svg text").all_text_contents()
    farthest = max(abs(number(each)) for each in axis if re.fullmatch(r"[−\d,]+", each))
    assert 0 < farthest <= 2 * abs(round(before["All lines"] / 1000))
    page.get_by_role("button", name="The table", exact=True).click()
    page.get_by_role("button", name="Turn", exact=True).click()
    desk.expect_step("turned")
    expect(page.get_by_text("Net, thousand cr, sign turned").first).to_be_visible()


def test_members_by_key_and_rows_with_their_full_path(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = by_line(page, "Boardings people")
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
    desk = by_line(page, "Boardings people")
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
    total = grid.get_by_role("row").filter(has=page.get_by_role("rowheader").get_by_text("All lines", exact=True))
    expect(total.first.get_by_role("img", name="favourable")).to_have_count(1)
    for row, value in values.items():
        header = page.get_by_role("rowheader").get_by_text(row, exact=True)
        cell = grid.get_by_role("row").filter(has=header).first.get_by_role("gridcell").first
        expect(cell.get_by_role("img", name="favourable")).to_have_count(1 if value >= middle else 0)
        found = re.search(r"([\d.]+)%, transparent", cell.get_attribute("style") or "")
        assert found, cell.get_attribute("style")
        assert abs(float(found.group(1)) - 100 * value / max(values.values())) < 0.1


def test_the_look_of_the_whole_table_and_ones_own_for_the_next(sign_in: SignIn) -> None:
    page = sign_in("tomas")
    desk = by_line(page, "Boardings people")
    page.get_by_role("button", name="Open Tram", exact=True).click()
    desk.expect_step("opened Tram")
    figures = desk.row("Hill")
    page.get_by_role("button", name="Look", exact=True).click()
    page.get_by_label("tight: more rows").check()
    page.get_by_label("in a column for each level").check()
    page.get_by_label("naming outer members again").check()
    page.get_by_label("the column headers").uncheck()
    page.get_by_role("button", name="Keep it as my own").click()
    expect(page.get_by_role("button", name="Kept as your own")).to_be_disabled()
    page.get_by_role("button", name="Dress it so").click()
    desk.expect_step("a tight look, a column for each level, labels in every row, row headers in view")
    header = page.get_by_role("rowheader").filter(has_text="Hill")
    expect(header).to_have_text(re.compile(r"^\s*Tram\s*Hill\s*$"))
    assert desk.row("Hill") == figures
    for name in ("Mode", "Group"):
        expect(
            page.get_by_role("columnheader", name="What stands on the axes").get_by_text(name, exact=True)
        ).to_be_visible()
    # However narrow the row headers are made, every level is still there to be read.
    page.get_by_role("button", name="Look", exact=True).click()
    page.get_by_label("Width of the row headers").fill("60")
    page.get_by_role("button", name="Dress it so").click()
    desk.expect_step("width of the row headers")
    cell = page.locator(".label-cell").first.bounding_box()
    level = page.locator(".label-cell").first.locator(".level").last.bounding_box()
    assert cell
    assert level
    assert level["x"] + 40 <= cell["x"] + cell["width"]
    page.get_by_role("button", name="Undo").click()
    desk.expect_step("a tight look, a column for each level, labels in every row, row headers in view")
    head = page.locator(".header").first
    assert head.evaluate("node => getComputedStyle(node).position") == "relative"
    assert page.locator(".label-cell").first.evaluate("node => getComputedStyle(node).position") == "sticky"
    # What is begun later looks so from the start.
    page.get_by_role("link", name="Dastan").click()
    desk = by_line(page, "Boardings people")
    row = page.get_by_role("grid").get_by_role("row").filter(has=page.get_by_role("rowheader").filter(has_text="Tram"))
    assert row.bounding_box()["height"] == 17  # type: ignore[index]
    page.get_by_role("button", name="Look", exact=True).click()
    page.get_by_label("ruled").check()
    page.get_by_label("stepped in").check()
    page.get_by_label("the column headers").check()
    page.get_by_role("button", name="Keep it as my own").click()
    expect(page.get_by_role("button", name="Kept as your own")).to_be_disabled()


def test_columns_are_drawn_wider_and_stay_so(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = by_line(page, "Boardings people", "Fare revenue cr")
    heads = page.locator(".measure-head")
    before = [each.bounding_box()["width"] for each in heads.all()]  # type: ignore[index]
    edge = heads.first.locator(".edge").bounding_box()
    assert edge
    page.mouse.move(edge["x"] + 3, edge["y"] + 8)
    page.mouse.down()
    page.mouse.move(edge["x"] + 63, edge["y"] + 8, steps=4)
    page.mouse.up()
    desk.expect_step("width of Boardings")
    after = [each.bounding_box()["width"] for each in heads.all()]  # type: ignore[index]
    assert after == [before[0] + 60, before[1]]
    page.get_by_role("button", name="Turn", exact=True).click()
    desk.expect_step("turned")
    page.get_by_role("button", name="Turn", exact=True).click()
    expect(heads.first).to_have_css("width", f"{after[0]:g}px")
    dress(desk, "Boardings")
    page.get_by_label("Width of the columns").fill("")
    page.get_by_role("button", name="Dress them so").click()
    desk.expect_step("dressed Boardings")
    expect(heads.first).to_have_css("width", f"{before[0]:g}px")


def test_totals_of_one_child_are_shown_when_asked_for(sign_in: SignIn) -> None:
    page = sign_in("ines")
    desk = by_line(page, "Boardings people")
    desk.choose(desk.head("Tram"), "Keep only Tram")
    desk.expect_step("kept Tram")
    desk.expect_rows(["Tram"])
    figures = desk.row("Tram")
    desk.choose_under(desk.phrase("Mode"), "Totals", "Totals of one child too")
    desk.expect_step("totals of one child too")
    desk.expect_rows(["Tram", "All lines"])
    assert desk.row("All lines") == figures
    desk.choose_under(desk.phrase("Mode"), "Totals", "No totals of one child")
    desk.expect_rows(["Tram"])
