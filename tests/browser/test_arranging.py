"""Limits, orders, totals, ready-made filters, remarks and roles, in the real interface."""

from __future__ import annotations

from collections.abc import Callable

from playwright.sync_api import Page, expect

from tests.browser.desk import begun, by_line


def numbers(cells: list[str]) -> list[float]:
    return [float(each.replace(",", "").replace("−", "-")) for each in cells]


def test_the_largest_with_the_rest_ordered_and_turned_without_losing_any_of_it(
    sign_in: Callable[[str], Page],
) -> None:
    page = sign_in("ines")
    desk = begun(page, "Boardings people")
    desk.choose(desk.entry("Line"), "by Mode")
    desk.expect_rows(["Tram", "Metro", "Bus", "Ferry", "without a line", "All lines"])
    desk.choose_under(
        desk.phrase("Mode"), "Show only", "The largest modes that make 80 % of Boardings, the rest as others"
    )
    desk.expect_step("showed the largest modes that make 80 % of Boardings, the rest as others")
    captions = desk.rows()
    assert captions[-2:] == ["others", "All lines"]
    shown = numbers([desk.row(each)[0] for each in captions[:-1]])
    total = numbers(desk.row("All lines"))[0]
    assert sum(shown) == total
    assert sum(shown[:-1]) >= 0.8 * total > sum(sorted(shown[:-1])[1:])
    desk.choose_under(desk.phrase("Boardings").first, "Order by it", "Modes largest first")
    desk.expect_step("ordered Mode by Boardings, largest first")
    ordered = numbers([desk.row(each)[0] for each in desk.rows()[:-2]])
    assert ordered == sorted(ordered, reverse=True)
    desk.choose_under(desk.phrase("Mode").first, "Totals", "Grand total in the first row")
    desk.expect_step("grand total row first")
    desk.choose_under(desk.phrase("Mode").first, "Totals", "No grand total")
    desk.expect_step("no grand total row")
    expect(page.get_by_role("rowheader").get_by_text("All lines")).to_have_count(0)
    page.get_by_role("button", name="Turn", exact=True).click()
    expect(page.get_by_role("columnheader").filter(has_text="others")).to_be_visible()
    assert "the rest as others" in desk.sentence()
    assert "largest first" in desk.sentence()
    desk.choose(desk.phrase("the rest as others"), "Show all modes again")
    expect(page.get_by_role("columnheader").filter(has_text="Ferry")).to_be_visible()


def test_a_ready_made_filter_says_what_it_means_asks_and_is_lifted(sign_in: Callable[[str], Page]) -> None:
    page = sign_in("ines")
    desk = begun(page, "Boardings people")
    busy = desk.catalogue.get_by_role("button", name="busy lines", exact=True)
    busy.click()
    # It asks before it is put in, and offers the model's own answer.
    asked = page.get_by_role("textbox", name="From how many boardings")
    expect(asked).to_have_value("1000")
    page.get_by_role("button", name="Answer", exact=True).click()
    desk.expect_step("kept busy lines")
    expect(page.get_by_role("region", name="What the table shows")).to_contain_text(
        "lines with more than 1,000 Boardings a month on average"
    )
    desk.choose(desk.phrase("busy lines"), "Answer “From how many boardings a month is a line busy?” anew…")
    page.get_by_role("textbox", name="From how many boardings").fill("20")
    page.get_by_role("button", name="Answer", exact=True).click()
    desk.expect_step("answered “From how many boardings a month is a line busy?”")
    expect(page.get_by_role("region", name="What the table shows")).to_contain_text("more than 20 Boardings")
    busy.click()
    desk.expect_step("lifted the filter on busy lines")


def test_adding_keys_is_remarked_on_and_the_better_choice_is_a_click_away(sign_in: Callable[[str], Page]) -> None:
    desk = begun(sign_in("ines"), "Cards seen cards")
    desk.choose_under(desk.phrase("Cards seen"), "Show it as, though it says little", "Sum of cards seen")
    remarks = desk.page.get_by_role("list", name="Remarks on the numbers")
    expect(remarks).to_contain_text("names things")
    remarks.get_by_role("button", name="Count the different ones").click()
    expect(remarks).to_have_count(0)


def test_accounts_open_down_to_a_parents_own_records(sign_in: Callable[[str], Page]) -> None:
    page = sign_in("ines")
    desk = begun(page, "Net cr")
    desk.choose(desk.catalogue.get_by_role("button", name="Account", exact=True), "by Account")
    for each in ("Cost", "Staff", "Crew"):
        page.get_by_role("button", name=f"Open {each}", exact=True).click()
        desk.expect_step(f"opened {each}")
    below = desk.rows()[desk.rows().index("Crew") + 1 :][:3]
    assert below == ["Drivers", "Stewards", "Crew itself"]
    assert abs(sum(numbers([desk.row(each)[0] for each in below])) - numbers(desk.row("Crew"))[0]) < 0.005


def test_the_ferry_desk_sees_its_own_lines_and_is_told_so(sign_in: Callable[[str], Page]) -> None:
    page = sign_in("oda")
    desk = begun(page, "Boardings people")
    desk.choose(desk.entry("Line"), "by Mode")
    desk.expect_rows(["Ferry", "without a line", "All lines"])
    assert desk.sentence().endswith("as far as the ferry desk may see")
    desk.choose(desk.head("Ferry"), "Choose members of Line…")
    expect(page.get_by_role("treeitem")).to_have_count(2)


def test_a_drag_to_another_depth_shows_what_the_axis_would_begin_with(sign_in: Callable[[str], Page]) -> None:
    page = sign_in("ines")
    desk = by_line(page, "Boardings people")
    desk.choose(desk.entry("Passenger group"), "by Mode, each broken down by Passenger group")
    desk.expect_step("by Passenger group")
    groups = [each for each in desk.rows() if each not in ("Tram", "Metro", "Bus", "Ferry")]
    with desk.dragging(page.locator(".rows-name").get_by_role("button", name="Mode"), "rows-2"):
        expect(page.locator(".row-words")).to_have_text("by Passenger group, each broken down by Mode")
        expect(page.locator(".row-gap .member")).to_have_text([groups[0], "Tram", "Metro", "Bus"])
        left = [each.evaluate("node => parseFloat(node.style.paddingLeft)") for each in page.locator(".member").all()]
        assert left[0] < left[1] == left[2] == left[3]
    expect(page.locator(".rows-name")).to_have_text("Passenger groupMode")
    assert desk.rows()[:3] == [groups[0], "Tram", "Metro"]


def test_a_wide_table_is_turned_over_one_measure_at_a_time(sign_in: Callable[[str], Page]) -> None:
    page = sign_in("ines")
    desk = by_line(page, "Boardings people", "Fare revenue cr")
    desk.choose(desk.entry("Stop"), "against Zone")
    desk.expect_step("against Zone")
    pager = page.get_by_role("navigation", name="Pages of columns")
    pager.get_by_role("button", name="All columns").click()
    page.get_by_role("menuitem", name="One measure at a time").click()
    desk.expect_step("measures on columns")
    expect(pager.get_by_role("button", name="Boardings")).to_be_visible()
    heads = page.get_by_role("columnheader")
    expect(heads.filter(has_text="Fare revenue")).to_have_count(0)
    pager.get_by_role("button", name="The next page").click()
    expect(heads.filter(has_text="Fare revenue")).not_to_have_count(0)
    expect(heads.filter(has_text="Boardings")).to_have_count(0)


def test_the_pages_of_a_wide_table_stand_still_while_its_rows_change(sign_in: Callable[[str], Page]) -> None:
    page = sign_in("ines")
    desk = by_line(page, "Boardings people", "Fare revenue cr")
    desk.choose(desk.entry("Stop"), "against Zone")
    desk.expect_step("against Zone")
    pager = page.get_by_role("navigation", name="Pages of columns")
    # A pager that went and came back would change the table's height, and have it drawn three times over.
    pager.evaluate("node => (node.dataset.seen = 'before')")
    height = page.get_by_role("grid").evaluate("node => node.clientHeight")
    page.evaluate(
        """() => {
            window.heights = new Set()
            new ResizeObserver(([each]) => window.heights.add(each.target.clientHeight))
              .observe(document.querySelector('[role=grid]'))
        }"""
    )
    page.get_by_role("button", name="Open Tram", exact=True).click()
    desk.expect_step("opened Tram")
    page.wait_for_load_state("networkidle")
    expect(pager).to_have_attribute("data-seen", "before")
    assert page.evaluate("[...window.heights]") == [height]
    pager.get_by_role("button", name="The next page").click()
    expect(pager.get_by_role("button", name="All columns")).to_have_count(0)
