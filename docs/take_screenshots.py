"""Takes the pictures in docs/screenshots from the running demo: `make screenshots`.

The demo has a provider to sign on by, so that the pictures show where it stands: a `sign-on.yaml` in the demo's folder,
as docs/security.md shows it. Nothing is asked of the provider, which need not be there.
"""

from __future__ import annotations

import argparse
import re
from pathlib import Path

from playwright.sync_api import Browser, Locator, Page, sync_playwright

from tests.browser.chromium import launch

RIDERSHIP = re.compile("^Ridership by line, quarterly")
SHOTS = Path(__file__).parent / "screenshots"


def open_page(browser: Browser, address: str, scheme: str) -> Page:
    context = browser.new_context(viewport={"width": 1280, "height": 800}, color_scheme=scheme)  # type: ignore[arg-type]
    page = context.new_page()
    page.goto(address)
    return page


def sign_in(page: Page, name: str, password: str) -> None:
    page.get_by_label("Name").fill(name)
    page.get_by_label("Password").fill(password)
    page.get_by_role("button", name="Sign in").click()
    page.get_by_role("heading", name="Begin").wait_for()
    page.wait_for_timeout(300)


def entry(page: Page, caption: str) -> Locator:
    """An entry of the catalogue, unfolded where it is folded away."""
    catalogue = page.get_by_role("navigation", name="Catalogue")
    found = catalogue.get_by_role("button", name=caption, exact=True)
    folds = catalogue.locator("[data-entry=fold][aria-expanded=false]")
    while not found.count() and folds.count():
        folds.first.click()
    return found


def choose(page: Page, what: Locator, words: str) -> None:
    what.click(button="right")
    page.get_by_role("menuitem", name=words, exact=True).click()
    page.wait_for_timeout(350)


def build(page: Page) -> None:
    """Boardings and fare revenue by line against the quarters of 2025, without school passes."""
    page.get_by_role("button", name="New analysis").click()
    page.get_by_text("Drag a measure here to see").wait_for()
    for caption in ("Boardings people", "Fare revenue cr"):
        entry(page, caption).click()
        page.wait_for_timeout(350)
    choose(page, entry(page, "Line"), "by Mode")
    choose(page, entry(page, "Calendar"), "against Year")
    choose(page, page.get_by_role("columnheader").get_by_role("button", name="2025", exact=True), "Keep only 2025")
    for name in ("Open 2025", "Open Tram", "Open North shore", "Open Old town", "Open Bus", "Open Ferry"):
        page.get_by_role("button", name=name, exact=True).click()
        page.wait_for_timeout(350)


def narrow(page: Page, address: str) -> None:
    """The three largest lines of each mode that are busy, the rest as others; and a remark on a sum of keys."""
    begin(page, address, "Boardings people", "Cards seen cards")
    choose(page, entry(page, "Line"), "by Mode")
    phrase = page.get_by_role("region", name="What the table shows").get_by_role("button")
    choose_under(page, phrase.filter(has_text="Mode"), "Levels", "Pass over groups")
    choose_under(page, phrase.filter(has_text="Mode"), "Open and close", "Open every mode")
    choose(page, entry(page, "Calendar"), "against Year")
    words = "The 5 largest lines in each mode by Boardings, the rest as others"
    choose_under(page, phrase.filter(has_text="Mode"), "Show only", words)
    choose_under(page, phrase.filter(has_text="Cards seen"), "Show it as, though it says little", "Sum of cards seen")
    entry(page, "the newest 4 quarters").click()
    page.wait_for_timeout(500)


def views(page: Page, address: str) -> None:
    """Fare revenue with its share and its change on the year before, by line against the quarters of 2025."""
    begin(page, address, "Fare revenue cr")
    page.keyboard.press("/")
    words = "fare revenue, its share of what it stands in and its change in per cent on the year before"
    page.get_by_label("The sentence in words").fill(f"{words} by mode against quarter for 2025 (Calendar)")
    page.keyboard.press("Enter")
    page.wait_for_timeout(700)
    for name in ("Open Tram", "Open Ferry", "Open Outer islands"):
        page.get_by_role("button", name=name, exact=True).click()
        page.wait_for_timeout(350)


def joining(page: Page, address: str) -> None:
    """Boardings and cards by line against year, two modes joined in their place and opened."""
    begin(page, address, "Boardings people", "Cards seen cards")
    choose(page, entry(page, "Line"), "by Mode")
    choose(page, entry(page, "Calendar"), "against Year")
    head = page.get_by_role("grid").get_by_role("rowheader")
    for name in ("Tram", "Metro"):
        head.get_by_role("button", name=name, exact=True).click(modifiers=["Control"])
    page.get_by_role("button", name="Join Tram and Metro…").click()
    page.get_by_role("textbox", name="Its name").fill("Rail")
    page.get_by_role("button", name="Join", exact=True).click()
    page.get_by_role("button", name="Open Rail", exact=True).click()
    page.wait_for_timeout(600)


def making(page: Page) -> None:
    """A measure of one's own beside the table of views, with what it gives there."""
    page.get_by_role("button", name="Make a measure", exact=True).click()
    page.get_by_role("textbox", name="Formula").wait_for()
    page.keyboard.type('("Fare revenue" / "Boardings")\nonly "Mode" = "Ferry"', delay=5)
    page.wait_for_timeout(600)
    page.keyboard.press("Escape")
    page.get_by_label("Named").fill("Ferry fare each")
    page.get_by_label("Written").select_option("two decimals")
    page.get_by_label("More is").select_option("favourable")
    page.get_by_text("Here, so far").wait_for()


def statement(page: Page, address: str) -> None:
    """The operating statement against plan and last year, a copy of it being laid out beside it."""
    begin(page, address, "Posted cr")
    choose(page, entry(page, "Operating statement"), "by Operating statement")
    phrase = page.get_by_role("region", name="What the table shows").get_by_role("button")
    choose_under(page, phrase.filter(has_text="Posted").first, "Against another version", "Plan, and its change on it")
    choose(page, phrase.filter(has_text="Operating statement").first, "Lay out a copy of it…")
    panel = page.get_by_role("complementary", name="A statement of your own")
    panel.get_by_role("textbox", name="What Energy is of").click()
    page.wait_for_timeout(600)


def dressed_and_questioned(page: Page, address: str) -> None:
    """Incidents and net by line and year: bars, thousands with the sign turned, the chart, and the records behind."""
    begin(page, address, "Incidents opened incidents", "Net cr")
    choose(page, entry(page, "Line"), "by Mode")
    choose(page, entry(page, "Calendar"), "against Year")
    for name in ("Open Tram", "Open Bus"):
        page.get_by_role("button", name=name, exact=True).click()
        page.wait_for_timeout(350)
    phrase = page.get_by_role("region", name="What the table shows").get_by_role("button")
    choose(page, phrase.filter(has_text="Incidents opened").first, "Dress the numbers of Incidents opened…")
    page.get_by_label("a bar").check()
    page.get_by_role("button", name="Add a threshold").click()
    page.get_by_label("Amount").fill("1000")
    choose_from(page, "Means", "▼ unfavourable")
    page.get_by_role("button", name="Dress them so").click()
    page.wait_for_timeout(400)
    choose(page, phrase.filter(has_text="Net").first, "Dress the numbers of Net…")
    choose_from(page, "Written", "whole, negatives in brackets")
    choose_from(page, "Scale", "in thousands")
    page.get_by_label("with the sign turned").check()
    page.get_by_role("button", name="Dress them so").click()
    page.wait_for_timeout(500)
    page.get_by_role("button", name="Table and chart side by side").click()
    page.locator(".chart svg path").first.wait_for()
    page.wait_for_timeout(800)
    take(page, "chart")
    page.get_by_role("button", name="The table", exact=True).click()
    page.wait_for_timeout(500)
    choose(page, page.get_by_role("gridcell").first, "The records behind it")
    page.get_by_role("tabpanel").locator("tbody tr").first.wait_for()
    take(page, "records")
    page.get_by_role("tab", name="Working paper").click()
    page.wait_for_timeout(300)
    take(page, "paper")
    page.get_by_role("dialog").get_by_role("button", name="Close").click()
    page.wait_for_timeout(400)


def modelled(page: Page, address: str) -> None:
    """The demo's model: a tie that misses some stops, and how stops would open."""
    page.goto(f"{address}/model/varrow_bay")
    plan = page.get_by_role("group", name="Plan of the model")
    plan.get_by_role("button", name="stop_id").filter(has_text="unknown").click()
    page.get_by_role("button", name="What it finds there").click()
    page.get_by_role("row", name="without a stop").wait_for()
    page.wait_for_timeout(400)
    take(page, "model")


def choose_from(page: Page, label: str, option: str) -> None:
    field = page.get_by_role("dialog").get_by_role("combobox", name=label).last
    field.focus()
    field.press("ArrowDown")
    page.get_by_role("option", name=option, exact=True).click()
    page.wait_for_timeout(200)


def begin(page: Page, address: str, *measures: str) -> None:
    page.goto(address)
    page.get_by_role("button", name="New analysis").click()
    page.get_by_text("Drag a measure here to see").wait_for()
    for caption in measures:
        entry(page, caption).click()
        page.wait_for_timeout(350)


def choose_under(page: Page, what: Locator, heading: str, words: str) -> None:
    what.click(button="right")
    page.get_by_role("menuitem", name=heading, exact=True).click()
    page.get_by_role("menuitem", name=words, exact=True).click()
    page.wait_for_timeout(450)


def save(page: Page, name: str, description: str, folder: str) -> None:
    page.get_by_role("button", name="Save", exact=True).click()
    page.get_by_label("Name").fill(name)
    page.get_by_label("Description").fill(description)
    page.get_by_role("combobox", name="Folder").fill(folder)


def begin_drag(page: Page, what: Locator, landing: str) -> None:
    """Holds a catalogue entry over one of the table's edges."""
    box = what.bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 8, y + 8, steps=3)
    target = page.locator(f'[data-landing="{landing}"]').last.bounding_box()
    assert target
    page.mouse.move(target["x"] + target["width"] / 2, target["y"] + 120, steps=5)
    page.wait_for_timeout(350)


def take(page: Page, name: str) -> None:
    page.mouse.move(1275, 500) if name != "drop" else None
    page.wait_for_timeout(300)
    page.screenshot(path=SHOTS / f"{name}.png")


def frozen(page: Page) -> None:
    """A frozen copy of the saved analysis, with something said of one of its numbers."""
    page.get_by_role("button", name="Save", exact=True).click()
    page.get_by_label("The numbers of now").check()
    page.get_by_role("button", name="Freeze the numbers").click()
    page.get_by_text("is in the library, with the numbers of now").wait_for()
    page.get_by_role("link", name="Dastan").click()
    page.get_by_role("link", name="Ridership by line, quarterly,").first.click()
    page.get_by_text("Frozen by").wait_for()
    page.get_by_role("gridcell").nth(2).click(button="right")
    page.get_by_role("menuitem", name="Comment on it…").click()
    page.get_by_label("Say something of this number").fill("Is the winter timetable in it already?")
    page.get_by_role("button", name="Say it").click()
    page.get_by_role("region", name="What was said").wait_for()


def started(page: Page) -> None:
    """An analysis that starts from the table of the one in the library, which lists it then."""
    page.get_by_role("button", name="What can be done with “Ridership by line, quarterly”").click()
    page.get_by_role("menuitem", name="Start from its table").click()
    page.get_by_text("Drag a measure here to see").wait_for()
    entry(page, "Boardings people").click()
    page.wait_for_timeout(350)
    choose(page, entry(page, "Calendar"), "by Year")
    page.get_by_role("button", name="Save", exact=True).click()
    page.get_by_role("dialog").get_by_label("Name", exact=True).fill("What the board counts by year")
    page.keyboard.press("Enter")
    page.get_by_role("heading", name="What the board counts by year").wait_for()
    page.get_by_role("link", name="Dastan").click()
    page.get_by_role("heading", name="Recent").wait_for()
    page.get_by_text("from the table of").wait_for()


def at_work(page: Page) -> None:
    """Two steps compared, and the sentence being written, on the saved analysis."""
    head = page.get_by_role("rowheader")
    choose(page, head.get_by_role("button", name="Ferry", exact=True), "Leave out Ferry")
    page.locator("[aria-current=step]").click()
    page.get_by_role("menuitem", name="Compare with another step…").click()
    page.get_by_text("Of the numbers").wait_for()
    take(page, "compare")
    page.get_by_role("button", name="Close", exact=True).click()
    page.wait_for_timeout(400)
    page.keyboard.press("/")
    page.get_by_label("The sentence in words").fill("boardings by mode against quarter for 2025 without ")
    page.get_by_role("option").first.wait_for()
    take(page, "write")
    page.keyboard.press("Escape")


BOOKINGS = "Ferry bookings, 2025\n\nBooked on;Booking no;Route;Region;Cabin;People;Fare (EUR)\n" + "".join(
    f"{1 + n % 28:02}/{1 + n % 12:02}/2025;{7_000_000 + n % 700};{route};{region};{('Deck', 'Berth', 'Suite')[n % 3]};"
    f"{1 + n % 4};{1 + n % 3}.{100 + n % 900},{n % 100:02}\n"
    for n in range(2_400)
    for route, region in ((("Bay crossing", "Bay"), ("Island loop", "Islands"), ("Outer islands", "Islands"))[n % 3],)
)


def brought(browser: Browser, address: str) -> None:
    """A file of one's own: the crosstab that it comes to, and what was taken to be so."""
    page = open_page(browser, address, "light")
    sign_in(page, "tomas", "night-ferry")
    file = {"name": "Ferry bookings.csv", "mimeType": "text/csv", "buffer": BOOKINGS.encode("cp1252")}
    page.get_by_label("Files of your own").set_input_files([file])  # type: ignore[list-item]
    page.get_by_text("Drag a measure here to see").wait_for()
    page.keyboard.press("/")
    page.get_by_label("The sentence in words").fill("People, Fare and Bookings by Region against Quarter")
    page.keyboard.press("Enter")
    page.get_by_role("rowheader").first.wait_for()
    page.get_by_role("button", name="Look at them").click()
    page.get_by_role("dialog", name="What was taken to be so").wait_for()
    take(page, "brought")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("address", nargs="?", default="http://127.0.0.1:8600")
    address = parser.parse_args().address
    SHOTS.mkdir(exist_ok=True)
    with sync_playwright() as playwright:
        browser = launch(playwright)
        page = open_page(browser, address, "light")
        sign_in(page, "ines", "harbour-light")
        build(page)
        take(page, "workspace")
        begin_drag(page, entry(page, "Passenger group"), "rows-1")
        take(page, "drop")
        page.keyboard.press("Escape")
        page.mouse.up()
        page.wait_for_timeout(600)
        choose(page, entry(page, "Fare product"), "Choose members of Fare product…")
        page.get_by_role("treeitem", name="Concessions").locator(".turn").click()
        page.get_by_role("radio", name="leave these out").check()
        page.get_by_role("treeitem", name="School pass").click()
        take(page, "members")
        page.get_by_role("button", name="Leave these out").click()
        page.wait_for_timeout(400)
        save(page, "Ridership by line, quarterly", "What each mode carried and earned this year.", "Monthly board")
        page.get_by_role("button", name="Save as an analysis").click()
        page.get_by_text("saved", exact=True).wait_for()
        page.get_by_role("button", name="Share").click()
        page.get_by_role("combobox", name="Add a person or a group").click()
        page.get_by_role("option", name="Tomas Wray").click()
        page.get_by_role("dialog").get_by_role("button", name="Share").click()
        page.get_by_role("link", name="Dastan").click()
        page.get_by_role("heading", name="Recent").wait_for()
        started(page)
        take(page, "library")
        page.get_by_role("link", name=RIDERSHIP).first.click()
        page.get_by_role("rowheader").first.wait_for()
        frozen(page)
        take(page, "frozen")
        page.get_by_role("dialog").get_by_role("button", name="Close").click()
        page.get_by_role("link", name="Dastan").click()
        page.get_by_role("link", name=RIDERSHIP).last.click()
        page.get_by_role("navigation", name="Catalogue").wait_for()
        page.get_by_role("rowheader").first.wait_for()
        at_work(page)
        narrow(page, address)
        take(page, "limits")
        views(page, address)
        take(page, "views")
        making(page)
        take(page, "making")
        joining(page, address)
        take(page, "joined")
        statement(page, address)
        take(page, "statement")
        dressed_and_questioned(page, address)
        brought(browser, address)
        night = open_page(browser, address, "dark")
        sign_in(night, "tomas", "night-ferry")
        night.get_by_role("link", name="Ridership by line, quarterly").first.click()
        night.get_by_role("rowheader").first.wait_for()
        take(night, "workspace-dark")
        keys = open_page(browser, address, "light")
        sign_in(keys, "rufus", "lantern-keys")
        keys.get_by_role("link", name="Administration").click()
        keys.get_by_role("button", name="Grant a model to Oda Fenn").wait_for()
        take(keys, "people")
        modelled(keys, address)
        browser.close()


if __name__ == "__main__":
    main()
