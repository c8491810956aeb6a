"""The whole first job, through the real interface: from nothing to a crosstab that a colleague opens."""

from __future__ import annotations

from collections.abc import Callable

from playwright.sync_api import Page, expect

from tests.browser.desk import Desk, begun, share_with

MODES = ["Tram", "Metro", "Bus", "Ferry", "without a line", "All lines"]
YEARS = ["2021", "2022", "2023", "2024", "2025", "All dates"]


def figures(row: list[str]) -> list[int]:
    return [int(each.replace(",", "").replace("−", "-") or 0) for each in row]


def test_from_nothing_to_a_crosstab_that_a_colleague_opens(sign_in: Callable[[str], Page]) -> None:
    page = sign_in("ines")
    page.get_by_role("button", name="New analysis").click()
    desk = Desk(page)
    expect(page.get_by_text("Drag a measure here to see a number.")).to_be_visible()

    # A measure: there is a number at once.
    desk.drag(desk.entry("Boardings"), "measures-0")
    desk.expect_rows(["Total"])
    grand = figures(desk.row("Total"))
    assert grand[0] > 0

    # Line onto the row edge, Calendar onto the column edge: a crosstab with totals that agree.
    desk.drag(desk.entry("Line"), "rows-0")
    desk.expect_rows(MODES)
    desk.drag(desk.entry("Calendar"), "columns-0")
    expect(page.get_by_role("columnheader").filter(has_text="All dates")).to_be_visible()
    assert desk.column_heads()[:6] == YEARS
    desk.expect_sentence("Boardings people by Mode against Year")
    by_mode = [figures(desk.row(each)) for each in MODES]
    assert by_mode[-1][-1] == grand[0]
    assert [sum(column) for column in zip(*by_mode[:-1], strict=True)] == by_mode[-1]
    assert all(sum(row[:-1]) == row[-1] for row in by_mode)

    # Open one member, then another, then a whole level; close it again.
    page.get_by_role("button", name="Open Tram").click()
    desk.expect_rows(["Tram", "North shore", "Old town", "Hill", *MODES[1:]])
    page.get_by_role("button", name="Open Ferry").click()
    desk.expect_rows(
        [
            "Tram",
            "North shore",
            "Old town",
            "Hill",
            "Metro",
            "Bus",
            "Ferry",
            "Inner harbour",
            "Outer islands",
            *MODES[4:],
        ]
    )
    desk.choose_under(desk.head("Metro"), "Open and close", "Open every mode")
    expect(page.get_by_role("rowheader")).to_have_count(18)
    desk.choose_under(desk.head("Metro"), "Open and close", "Close every mode")
    desk.expect_rows(MODES)
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("rowheader")).to_have_count(18)
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("rowheader")).to_have_count(11)

    # Nest a second dimension inside the lines.
    desk.drag(desk.entry("Passenger group"), "rows-1")
    desk.expect_sentence("Boardings people by Mode › Group then Passenger group against Year")
    assert desk.rows()[:4] == ["Tram", "North shore", "Adult", "Youth"]
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("rowheader")).to_have_count(11)

    # Pick members in a searchable tree; the filter stands in the sentence.
    desk.choose(desk.entry("Fare product"), "Choose members of Fare product…")
    page.get_by_role("radio", name="leave these out").check()
    page.get_by_role("treeitem", name="Passes").locator(".turn").click()
    expect(page.get_by_role("treeitem", name="Coast saver")).to_be_visible()
    page.get_by_label("Find in Fare product").fill("school")
    page.get_by_role("treeitem", name="School pass").click()
    expect(page.get_by_text("1 × fare product picked")).to_be_visible()
    page.get_by_role("button", name="Leave these out").click()
    desk.expect_sentence("Boardings people by Mode › Group against Year , without School pass fare product")
    assert figures(desk.row("All lines"))[-1] < grand[0]
    left = figures(desk.row("Tram"))

    # Turn the table: nothing is lost, and the numbers are the same ones.
    page.get_by_role("button", name="Turn", exact=True).click()
    desk.expect_sentence("Boardings people by Year against Mode › Group , without School pass fare product")
    desk.expect_rows(YEARS)
    assert [figures(desk.row(year))[3] for year in YEARS] == left
    page.get_by_role("button", name="Turn", exact=True).click()
    expect(page.get_by_role("rowheader")).to_have_count(11)

    # Drag a header away; undo and redo; the keyboard does it too.
    desk.drag_away(desk.head("Ferry"))
    desk.expect_sentence("Boardings people against Year , without School pass fare product")
    desk.expect_step("took Mode away")
    page.keyboard.press("Control+z")
    expect(page.get_by_role("rowheader")).to_have_count(11)
    page.keyboard.press("Control+Shift+z")
    desk.expect_rows(["Total"])
    page.get_by_role("button", name="by Mode").click()
    desk.expect_step("by Mode")
    page.get_by_role("button", name="turned", exact=True).last.click()
    expect(page.get_by_role("rowheader")).to_have_count(11)

    # Save it into a folder and share it.
    page.get_by_role("button", name="Save", exact=True).click()
    page.get_by_label("Name").fill("Ridership by mode")
    page.get_by_label("Description").fill("Boardings without school passes, year by year.")
    page.get_by_role("combobox", name="Folder").fill("Monthly board")
    expect(page.get_by_text("A new folder is made.")).to_be_visible()
    page.get_by_role("dialog").get_by_role("button", name="Save as an analysis").click()
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
    page.get_by_role("button", name="Share").click()
    share_with(page, "Tomas Wray")
    expect(page.get_by_role("dialog")).to_have_count(0)
    page.get_by_role("link", name="Dastan").click()
    page.get_by_role("navigation", name="Places").get_by_role("link", name="Monthly board").click()
    expect(page.get_by_role("heading", name="Monthly board")).to_be_visible()
    expect(page.get_by_role("link", name="Ridership by mode")).to_be_visible()

    # The colleague finds it, opens it on fresh data, goes down, and keeps a copy of their own.
    other = sign_in("tomas")
    expect(other.get_by_role("heading", name="Shared with you, not opened yet")).to_be_visible()
    other.get_by_role("link", name="Ridership by mode").first.click()
    theirs = Desk(other)
    theirs.expect_sentence("Boardings people by Mode › Group against Year , without School pass fare product")
    assert figures(theirs.row("Tram")) == left
    other.get_by_role("button", name="Open North shore").click()
    expect(other.get_by_role("rowheader").filter(has_text="Line 1")).to_be_visible()
    expect(other.get_by_role("button", name="Save", exact=True)).to_have_count(0)
    other.get_by_role("button", name="Save a copy").click()
    other.get_by_role("dialog").get_by_role("button", name="Save a copy").click()
    expect(other.get_by_text("Ridership by mode, copy")).to_be_visible()
    other.get_by_role("link", name="Dastan").click()
    expect(other.get_by_role("link", name="Ridership by mode, copy").first).to_be_visible()


def test_everything_dragged_can_be_done_from_menus(sign_in: Callable[[str], Page]) -> None:
    page = sign_in("ines")
    page.get_by_role("button", name="New analysis").click()
    desk = Desk(page)
    desk.choose(desk.entry("Boardings"), "Show Boardings")
    desk.expect_rows(["Total"])
    desk.choose(desk.entry("Line"), "by Mode")
    desk.choose(desk.entry("Calendar"), "against Year")
    desk.choose(desk.entry("Fare revenue"), "Fare revenue before Boardings")
    desk.expect_sentence("Fare revenue cr and Boardings people by Mode against Year")
    desk.choose(desk.entry("Stop"), "by Mode, each broken down by Zone")
    desk.expect_sentence("Fare revenue cr and Boardings people by Mode then Zone against Year")
    desk.choose(desk.head("Tram"), "Leave out Tram")
    desk.expect_sentence("Fare revenue cr and Boardings people by Mode then Zone against Year , without Tram line")
    page.get_by_role("button", name="Fare revenue cr").first.click(button="right")
    page.get_by_role("menuitem", name="Take Fare revenue away").click()
    desk.expect_sentence("Boardings people by Mode then Zone against Year , without Tram line")


def test_a_reload_loses_no_step(sign_in: Callable[[str], Page]) -> None:
    page = sign_in("ines")
    page.get_by_role("button", name="New analysis").click()
    desk = Desk(page)
    desk.entry("Boardings").click()
    desk.expect_rows(["Total"])
    desk.choose(desk.entry("Line"), "by Mode")
    desk.expect_rows(MODES)
    page.reload()
    desk.expect_rows(MODES)
    page.get_by_role("button", name="Undo").click()
    desk.expect_rows(["Total"])


def test_a_wrong_password_and_an_unknown_analysis_are_said_plainly(
    site: str, new_page: Callable[[], Page], sign_in: Callable[[str], Page]
) -> None:
    page = new_page()
    page.goto(site)
    page.get_by_label("Name").fill("ines")
    page.get_by_label("Password").fill("guess")
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("alert")).to_have_text(
        "That name and password do not go together. Check both, then try again."
    )
    inside = sign_in("ines")
    inside.goto(f"{site}/analysis/nowhere")
    expect(inside.get_by_role("alert")).to_contain_text("There is no such analysis, or it is not shared with you.")


def test_several_facts_stand_side_by_side_by_line_against_month(sign_in: Callable[[str], Page]) -> None:
    page = sign_in("ines")
    desk = begun(page)
    for caption in (
        "Boardings people", "Incidents opened incidents", "Incidents resolved incidents", "Incidents open incidents",
        "Vehicles available vehicles", "Operating cost cr",
    ):  # fmt: skip
        desk.catalogue.get_by_role("button", name=caption, exact=True).click()
        desk.expect_step(caption.rsplit(" ", 1)[0])
    desk.choose(desk.entry("Line"), "by Mode")
    desk.expect_step("by Mode")
    desk.choose(
        page.get_by_role("navigation").get_by_role("button", name="Calendar", exact=True),
        "by Year, each broken down by Mode",
    )
    desk.expect_rows(
        [
            "2021",
            *MODES[:-1],
            "2022",
            *MODES[:-1],
            "2023",
            *MODES[:-1],
            "2024",
            *MODES[:-1],
            "2025",
            *MODES[:-1],
            "All dates",
        ]
    )
    boardings, opened, resolved, still_open, vehicles, cost = (
        each.strip().replace(",", "") for each in desk.row("2021")
    )
    # What is open at the end of the first year is what was opened in it and not resolved.
    assert int(still_open) == int(opened) - int(resolved)
    # Vehicles have no line: present for the year, empty on its modes, never repeated.
    assert int(vehicles) > 0
    assert float(cost) > 0
    assert int(boardings) > 0
    assert desk.row("Tram")[4] == ""
    desk.choose_under(desk.head("2021"), "Open and close", "Open every year")
    desk.choose_under(desk.head("Q1 2021"), "Open and close", "Open every quarter")
    page.get_by_role("button", name="Turn", exact=True).click()
    expect(page.get_by_role("columnheader").filter(has_text="Jan 2021")).to_be_visible()
    expect(page.get_by_role("region", name="What the table shows")).to_contain_text("not for Boardings")
