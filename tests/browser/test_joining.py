"""Members joined in the real interface: by mouse and by keyboard, in their place and beside them, and parted again."""

from __future__ import annotations

from collections.abc import Callable

from playwright.sync_api import Page, expect

from tests.browser.desk import by_line


def numbers(texts: list[str]) -> list[int]:
    return [int(each.replace(",", "")) for each in texts]


def test_members_are_joined_in_their_place_and_shown_beside_it_again(sign_in: Callable[[str], Page]) -> None:
    page = sign_in("ines")
    desk = by_line(page, "Boardings people", "Cards seen cards")
    tram, metro, total = (numbers(desk.row(each)) for each in ("Tram", "Metro", "All lines"))
    for each in ("Tram", "Metro"):
        desk.head(each).click(modifiers=["Control"])
    page.get_by_role("button", name="Join Tram and Metro…").click()
    slip = page.get_by_role("dialog", name="Join members")
    expect(slip.get_by_role("textbox", name="Its name")).to_be_focused()
    page.keyboard.type("Rail")
    page.keyboard.press("Enter")
    desk.expect_step("joined Tram and Metro as Rail, in their place")
    desk.expect_sentence("Boardings people and Cards seen cards by Mode, with Rail in place of Tram and Metro line")
    desk.expect_rows(["Rail", "Bus", "Ferry", "without a line", "All lines"])
    boardings, cards = numbers(desk.row("Rail"))
    assert boardings == tram[0] + metro[0]
    # A card that was seen in both is one card.
    assert max(tram[1], metro[1]) < cards < tram[1] + metro[1]
    assert numbers(desk.row("All lines")) == total
    expect(page.get_by_role("rowheader").filter(has_text="Rail").locator("[title]").first).to_have_attribute(
        "title", "Rail\njoins Tram and Metro"
    )
    desk.choose_under(desk.head("Rail"), "Joint member", "Show those that it joins beside it")
    desk.expect_sentence("Boardings people and Cards seen cards by Mode, where Rail joins Tram and Metro")
    desk.expect_rows(["Tram", "Metro", "Rail", "Bus", "Ferry", "without a line", "All lines"])
    assert numbers(desk.row("Rail")) == [boardings, cards]
    assert numbers(desk.row("All lines")) == total


def test_what_is_joined_is_changed_from_the_catalogue_and_parted(sign_in: Callable[[str], Page]) -> None:
    page = sign_in("ines")
    desk = by_line(page, "Boardings people")
    # By keyboard: from the first cell to its row's header, down to the third row, and one further.
    page.get_by_role("grid").focus()
    page.keyboard.press("ArrowLeft")
    for key in ("ArrowDown", "ArrowDown", "Space", "ArrowDown", "Space"):
        page.keyboard.press(key)
    page.get_by_role("button", name="Join Bus and Ferry…").press("Enter")
    slip = page.get_by_role("dialog", name="Join members")
    expect(slip.get_by_role("textbox", name="Its name")).to_be_focused()
    page.keyboard.type("Surface")
    page.keyboard.press("Tab")
    page.keyboard.press("Space")
    page.keyboard.press("Enter")
    desk.expect_rows(["Tram", "Metro", "Bus", "Ferry", "Surface", "without a line", "All lines"])
    bus, ferry = numbers(desk.row("Bus")), numbers(desk.row("Ferry"))
    assert numbers(desk.row("Surface")) == [bus[0] + ferry[0]]
    made = desk.catalogue.get_by_role("button", name="Surface 2 joined")
    made.click()
    page.get_by_role("menuitem", name="Joint member").click()
    page.get_by_role("menuitem", name="Change what it joins…").click()
    slip = page.get_by_role("dialog", name="Change a joint member")
    slip.get_by_role("button", name="Do not join Bus").click()
    slip.get_by_role("button", name="Change it").click()
    desk.expect_step("changed Surface")
    assert numbers(desk.row("Surface")) == ferry
    made = desk.catalogue.get_by_role("button", name="Surface 1 joined")
    made.click()
    page.get_by_role("menuitem", name="Joint member").click()
    page.get_by_role("menuitem", name="Part Surface again").click()
    desk.expect_step("parted Surface again")
    desk.expect_rows(["Tram", "Metro", "Bus", "Ferry", "without a line", "All lines"])
    expect(desk.catalogue.get_by_role("button", name="Surface 1 joined")).to_have_count(0)


def test_all_that_is_made_is_found_in_one_place(sign_in: Callable[[str], Page]) -> None:
    page = sign_in("ines")
    desk = by_line(page, "Boardings people")
    for each in ("Tram", "Metro"):
        desk.head(each).click(modifiers=["Control"])
    page.get_by_role("button", name="Join Tram and Metro…").click()
    page.get_by_role("dialog", name="Join members").get_by_role("textbox", name="Its name").fill("Iron way")
    page.keyboard.press("Enter")
    desk.expect_step("joined Tram and Metro as Iron way, in their place")
    page.get_by_role("button", name="All that is made").click()
    sheet = page.get_by_role("dialog", name="All that is made")
    expect(sheet.get_by_role("row").filter(has_text="Iron way")).to_contain_text("joins Tram and Metro")
    ratio = sheet.get_by_role("row").filter(has=page.get_by_role("rowheader", name="Fare per boarding", exact=True))
    expect(ratio).to_contain_text("Fare revenue ÷ Boardings")
    sheet.get_by_role("searchbox").fill("joins")
    expect(sheet.get_by_role("row").filter(has_text="Boardings")).to_have_count(0)
    # What is listed can be done away with from here, and the list follows.
    sheet.get_by_role("button", name="What can be done with Iron way").click()
    page.get_by_role("menuitem", name="Joint member").click()
    page.get_by_role("menuitem", name="Part Iron way again").click()
    expect(sheet.get_by_role("row").filter(has_text="Iron way")).to_have_count(0)
    sheet.get_by_role("searchbox").fill("")
    expect(sheet.get_by_text("Nothing was made in this analysis yet.")).to_be_visible()
    sheet.get_by_role("button", name="Close").click()
    desk.expect_rows(["Tram", "Metro", "Bus", "Ferry", "without a line", "All lines"])


def test_two_members_are_told_apart_by_a_difference(sign_in: Callable[[str], Page]) -> None:
    page = sign_in("ines")
    desk = by_line(page, "Boardings people")
    tram, metro, total = (numbers(desk.row(each)) for each in ("Tram", "Metro", "All lines"))
    for each in ("Tram", "Metro"):
        desk.head(each).click(modifiers=["Control"])
    page.get_by_role("button", name="Join Tram and Metro…").click()
    slip = page.get_by_role("dialog", name="Join members")
    slip.get_by_label("Tram less Metro").check()
    slip.get_by_role("button", name="the other way round").click()
    expect(slip.get_by_label("Metro less Tram")).to_be_checked()
    slip.get_by_role("textbox", name="Its name").fill("Ahead")
    slip.get_by_label("leave those that it joins").uncheck()
    slip.get_by_role("button", name="Join", exact=True).click()
    desk.expect_sentence("Boardings people by Mode, where Ahead is Metro less Tram")
    assert numbers(desk.row("Ahead")) == [metro[0] - tram[0]]
    assert numbers(desk.row("All lines")) == total
    # The same two, one divided by the other: written in per cent, whatever the measure is written in.
    desk.choose_under(desk.head("Ahead"), "Joint member", "Change what it joins…")
    slip = page.get_by_role("dialog", name="Change a joint member")
    slip.get_by_label("Metro divided by Tram").check()
    slip.get_by_role("button", name="Change it").click()
    desk.expect_sentence("Boardings people by Mode, where Ahead is Metro divided by Tram")
    assert desk.row("Ahead") == [f"{metro[0] / tram[0] * 100:,.1f} %"]


def test_a_name_that_is_taken_is_said_in_the_slip_and_nothing_is_lost(sign_in: Callable[[str], Page]) -> None:
    page = sign_in("ines")
    desk = by_line(page, "Boardings people")
    for each in ("Tram", "Metro"):
        desk.head(each).click(modifiers=["Control"])
    page.get_by_role("button", name="Join Tram and Metro…").click()
    slip = page.get_by_role("dialog", name="Join members")
    slip.get_by_role("textbox", name="Its name").fill("Bus")
    page.keyboard.press("Enter")
    expect(slip.get_by_role("alert")).to_have_text("Mode has a member “Bus” already. Give this one another name.")
    slip.get_by_role("textbox", name="Its name").fill("Rail")
    page.keyboard.press("Enter")
    desk.expect_step("joined Tram and Metro as Rail, in their place")
    expect(slip).to_have_count(0)


def test_a_joint_member_of_the_model_is_taken_in_from_the_catalogue_and_out_again(
    sign_in: Callable[[str], Page],
) -> None:
    page = sign_in("ines")
    desk = by_line(page, "Boardings people")
    tram, metro, bus, ferry = (numbers(desk.row(each))[0] for each in ("Tram", "Metro", "Bus", "Ferry"))
    desk.catalogue.get_by_role("button", name="Rails of line").press("Enter")
    desk.expect_step("took in Rails")
    desk.expect_sentence("Boardings people by Mode, where Rails joins Tram and Metro")
    desk.head("Rails").wait_for()
    assert numbers(desk.row("Rails")) == [tram + metro]
    desk.catalogue.get_by_role("button", name="Ferry less bus of line").click()
    desk.expect_step("took in Ferry less bus")
    desk.head("Ferry less bus").wait_for()
    assert desk.row("Ferry less bus")[0].replace("−", "-").replace(",", "") == str(ferry - bus)
    desk.choose_under(desk.head("Rails"), "Joint member", "Take Rails out")
    desk.expect_step("took out Rails")
    expect(desk.catalogue.get_by_role("button", name="Rails of line")).to_be_visible()
    desk.expect_rows(["Tram", "Metro", "Bus", "Ferry", "Ferry less bus", "without a line", "All lines"])
