"""A model shaped in the browser: from four files to a star, a tie that is mended, a role seen as, and its publication."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.browser.conftest import free_port, start_server, stop_server
from tests.browser.desk import Desk
from tests.browser.test_accessible import CONTRAST, faults
from tests.postgres import READER, READERS_WORD, running

TRIPS = "day,route,stop_id,card_no,people,fare\n" + "".join(
    f"2025-{1 + n % 3:02}-{1 + n % 28:02},{('a', 'b', 'c', 'z')[n % 4]},{100 + n % 5},{70_000_000 + n % 40},{1 + n % 2},{1 + n % 4}.50\n"
    for n in range(240)
)
"""60 trips each on the routes a, b, c and z, of which z is in no other file."""
WAYS = "code,name,mode\na,Harbour,Tram\nb,Hill,Tram\nc,Island,Ferry\n"
STOPS = "stop_id,stop_name,district\n" + "".join(f"{100 + n},Stop {n},{('North', 'South')[n % 2]}\n" for n in range(5))
HOLDERS = "card_no,holder\n" + "".join(f"{70_000_000 + n},{('Adult', 'Child')[n % 2]}\n" for n in range(40))


@pytest.fixture(scope="module")
def site(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """A demo of these tests' own, whose models they change."""
    folder = tmp_path_factory.mktemp("modelling")
    port = free_port()
    process = start_server(["demo", "--folder", str(folder), "--journeys", "2000"], port, folder / "server.log")
    yield f"http://127.0.0.1:{port}"
    stop_server(process)


def bring(page: Page, folder: Path) -> None:
    """Brings the four files, and goes from the crosstab to the model."""
    files = {"trips.csv": TRIPS, "ways.csv": WAYS, "stops.csv": STOPS, "holders.csv": HOLDERS}
    for name, text in files.items():
        (folder / name).write_text(text)
    page.get_by_label("Files of your own").set_input_files([folder / name for name in files])
    Desk(page).unfold()
    page.get_by_role("button", name="Look at them").click()
    page.get_by_role("dialog").get_by_role("link", name="The model…").click()
    expect(page.get_by_role("group", name="Plan of the model")).to_be_visible()


def table(page: Page, caption: str) -> Locator:
    return page.get_by_role("region", name=f"Table {caption}")


def step(page: Page, words: str) -> Locator:
    return page.get_by_role("contentinfo", name="Trail").get_by_role("button", name=words)


def room(page: Page, name: str) -> None:
    page.get_by_role("navigation", name="Rooms of the model").get_by_role("link", name=name).click()


def publish(page: Page) -> Locator:
    page.get_by_role("button", name="Publish…").click()
    slip = page.get_by_role("dialog", name="What would change")
    expect(slip.get_by_text("In the model")).to_be_visible()
    return slip


def test_four_files_become_a_checked_star_and_a_missing_tie_is_drawn(
    sign_in: Callable[[str], Page], tmp_path: Path
) -> None:
    page = sign_in("ines")
    bring(page, tmp_path)
    # What could be told by names and values is tied; three routes, called otherwise there, could not.
    expect(table(page, "Trips")).to_contain_text("→ Stops")
    expect(table(page, "Trips")).to_contain_text("→ Holders")
    expect(table(page, "Ways")).to_contain_text("code")
    route = table(page, "Trips").get_by_role("button", name="route")
    expect(route).to_contain_text("text")
    route.drag_to(table(page, "Ways").get_by_role("button", name="code"))
    # Its dimension is made with it, by what lies in what.
    tied = step(page, "tied Trips to Ways, and made Way")
    expect(tied).to_have_attribute("aria-current", "step")
    tie = page.get_by_role("complementary", name="Trips to Ways")
    expect(tie).to_contain_text("found180")
    expect(tie).to_contain_text("not in Ways: z60")
    # 60 trips each by tram on two routes and by ferry on one, as many without any.
    opened = tie.get_by_role("row")
    expect(opened.filter(has_text="Tram")).to_contain_text("120")
    expect(opened.filter(has_text="Ferry")).to_contain_text("60")
    expect(opened.filter(has_text="without a way")).to_contain_text("60")
    expect(opened.filter(has_text="All")).to_contain_text("240")
    # Undone and done again.
    page.get_by_role("button", name="Undo").click()
    expect(step(page, "as it is in use")).to_have_attribute("aria-current", "step")
    page.get_by_role("button", name="Redo").click()
    expect(tied).to_have_attribute("aria-current", "step")
    # What was taken to be so is confirmed, all at once.
    page.get_by_role("group", name="Plan of the model").click(position={"x": 4, "y": 4})
    page.get_by_role("button", name="All of it is so").click()
    expect(page.get_by_text("Taken to be so")).to_have_count(0)
    slip = publish(page)
    expect(slip).to_contain_text("Trips is tied by route to Ways.")
    expect(slip).to_contain_text("Way is new.")
    slip.get_by_role("button", name="Publish", exact=True).click()
    expect(page.get_by_text("version 2 is in use, unchanged")).to_be_visible()
    # What colleagues see from now on.
    page.get_by_role("link", name="Dastan").click()
    page.get_by_role("button", name="New analysis of Trips").click()
    desk = Desk(page)
    desk.unfold()
    desk.put("Trips records")
    desk.choose(desk.entry("Way"), "by Mode")
    expect(page.get_by_role("row", name="Tram")).to_contain_text("120")


def test_a_column_is_looked_at_and_said_to_be_something_else(sign_in: Callable[[str], Page], tmp_path: Path) -> None:
    page = sign_in("tomas")
    bring(page, tmp_path)
    room(page, "Tables")
    page.get_by_role("list", name="Tables").get_by_role("button", name="Trips").click()
    expect(page.get_by_role("row", name="2025-01-01")).to_contain_text("70000000")
    page.get_by_role("columnheader", name="fare").get_by_role("button").click()
    sheet = page.get_by_role("complementary", name="Column fare of Trips")
    expect(sheet).to_contain_text("decimals, 2 places")
    sheet.get_by_label("holds").select_option("integer")
    # It does not fit, which is said where it stands, with the line; nothing is lost by it.
    expect(sheet.get_by_role("alert")).to_contain_text("trips.csv, line 2")
    expect(page.get_by_role("columnheader", name="fare")).to_contain_text("does not fit")
    page.get_by_role("button", name="Undo").click()
    expect(sheet.get_by_role("alert")).to_have_count(0)
    sheet.get_by_role("button", name="an average").click()
    expect(step(page, "made Average fare")).to_be_visible()
    room(page, "Measures")
    page.get_by_role("navigation", name="Measures").get_by_role("button", name="Average fare").click()
    # As many trips at 1.50 as at 2.50, 3.50 and 4.50.
    expect(page.get_by_role("complementary", name="What it comes to").get_by_role("row", name="All")).to_contain_text(
        "3.00"
    )
    page.get_by_label("How it is taken together").select_option("max")
    expect(page.get_by_role("complementary", name="What it comes to").get_by_role("row", name="All")).to_contain_text(
        "4.50"
    )


def test_a_role_is_made_seen_as_and_published_with_what_breaks(sign_in: Callable[[str], Page], tmp_path: Path) -> None:
    page = sign_in("ines")
    page.get_by_label("Files of your own").set_input_files([write_trips(tmp_path)])
    desk = Desk(page)
    desk.unfold()
    desk.put("People")
    page.get_by_role("button", name="Save", exact=True).click()
    page.get_by_label("Name").fill("People, all told")
    page.get_by_role("dialog").get_by_role("button", name="Save").click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    page.get_by_role("button", name="Look at them").click()
    page.get_by_role("dialog").get_by_role("link", name="The model…").click()
    room(page, "Filters and rights")
    page.get_by_role("button", name="Make a role").click()
    page.get_by_label("What the role is called").fill("the a desk")
    page.get_by_role("button", name="Only some…").click()
    page.get_by_label("Members of", exact=True).select_option(label="Route")
    page.get_by_role("treeitem", name="a", exact=True).click()
    page.get_by_role("button", name="So it is").click()
    expect(step(page, "made the role the a desk")).to_be_visible()
    seen = page.get_by_role("complementary", name="As it would be seen")
    seen.get_by_label("the measure").select_option(label="People")
    seen.get_by_label("by the dimension").select_option(label="Route")
    # 90 people on each two of four routes: one each on a and c, two each on b and z.
    expect(seen.get_by_role("row", name="All")).to_contain_text("360")
    page.get_by_role("button", name="see as its people").click()
    expect(seen.get_by_role("row", name="All")).to_contain_text("60")
    expect(seen.get_by_role("row", name="b")).to_have_count(0)
    room(page, "Measures")
    page.get_by_role("navigation", name="Measures").get_by_role("button", name="People").click()
    page.get_by_role("button", name="Leave it out…").click()
    page.get_by_role("button", name="Leave it out", exact=True).click()
    expect(step(page, "left out People")).to_be_visible()
    slip = publish(page)
    expect(slip).to_contain_text("Would lose something: 1 analysis")
    expect(slip).to_contain_text("People, all told")
    expect(slip.get_by_role("button", name="Publish", exact=True)).to_be_disabled()
    slip.get_by_label("Publish it all the same").check()
    slip.get_by_role("button", name="Publish", exact=True).click()
    expect(page.get_by_text("version 2 is in use by one analysis, unchanged")).to_be_visible()
    # And back to what was there before.
    page.get_by_role("button", name="Versions").click()
    page.get_by_role("button", name="Go back to it: version 1").click()
    expect(step(page, "went back to version 1")).to_be_visible()
    slip = publish(page)
    expect(slip).to_contain_text("Would be whole again: 1 analysis")


def write_trips(folder: Path) -> Path:
    file = folder / "trips.csv"
    file.write_text(TRIPS)
    return file


def test_every_room_is_accessible_and_readable(sign_in: Callable[[str], Page]) -> None:
    page = sign_in("rufus")
    page.get_by_role("button", name="What can be done with the model “Varrow Bay Transit”").click()
    page.get_by_role("menuitem", name="The model…").click()
    found: list[str] = []
    for name in ("Plan", "Tables", "Dimensions", "Measures", "Filters and rights", "As text"):
        room(page, name)
        expect(page.get_by_text("is being asked")).to_have_count(0)
        page.wait_for_timeout(400)
        found += [f"{name}: {each}" for each in faults(page)]
    page.get_by_role("button", name="Dark paper").click()
    for name in ("Plan", "Tables", "Dimensions", "Measures", "Filters and rights", "As text"):
        room(page, name)
        page.wait_for_timeout(400)
        found += [f"{name}, dark: {each}" for each in faults(page, CONTRAST)]
    assert found == []


def test_by_keyboard_a_level_is_moved_and_a_reader_is_told_that_it_is_not_theirs(
    sign_in: Callable[[str], Page], site: str
) -> None:
    page = sign_in("rufus")
    page.goto(f"{site}/model/varrow_bay/dimensions")
    page.get_by_role("navigation", name="Dimensions").get_by_role("button", name="Stop").click()
    levels = page.get_by_role("group", name="Levels of Stop")
    expect(levels).to_contain_text("Zone")
    levels.get_by_role("button", name="Zone", exact=True).focus()
    page.keyboard.press("Delete")
    expect(step(page, "Stop opens as District › Stop")).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.get_by_text("in use, unchanged")).to_be_visible()
    other = sign_in("tomas")
    other.goto(f"{site}/model/varrow_bay")
    expect(other.get_by_role("main")).to_contain_text("yours to ask, and not to change")


def test_newer_files_that_cannot_be_read_are_told_and_the_earlier_go_on_answering(
    sign_in: Callable[[str], Page], tmp_path: Path, tmp_path_factory: pytest.TempPathFactory
) -> None:
    page = sign_in("ines")
    page.get_by_label("Files of your own").set_input_files([write_trips(tmp_path)])
    desk = Desk(page)
    desk.unfold()
    page.get_by_role("link", name="The model…").click()
    page.get_by_role("button", name="Files", exact=True).click()
    slip = page.get_by_role("dialog", name="Its files")
    expect(slip).to_contain_text("240 records")
    assert faults(page) == []
    name = page.url.rpartition("/model/")[2].partition("/")[0]
    (model,) = {
        each.resolve().parent for each in tmp_path_factory.getbasetemp().glob(f"modelling*/models/{name}/trips.csv")
    }
    written = (model / "trips.csv").read_text()
    (model / "trips.csv").write_text(written.replace("2025-01-01", "the first"))
    slip.get_by_role("button", name="Read them now").click()
    expect(slip.get_by_role("alert")).to_contain_text("what was read before goes on answering")
    expect(slip.get_by_role("listitem").first).to_contain_text("the first")
    slip.get_by_role("button", name="Close").click()
    page.get_by_role("button", name="New analysis").click()
    desk = Desk(page)
    desk.unfold()
    desk.put("Trips records")
    expect(page.get_by_role("contentinfo", name="Trail")).to_contain_text("as newer ones cannot be read")
    expect(page.get_by_role("row", name="Total 240", exact=True)).to_be_visible()
    (model / "trips.csv").write_text(written)
    # Once it is mended it is read by itself.
    page.get_by_role("link", name="Dastan").click()
    page.get_by_role("button", name="New analysis of").first.wait_for()
    told = page.get_by_text("It answers from earlier files")
    for _ in range(40):
        # Loaded anew each time: until the library answers, the page shows what it last knew.
        page.reload()
        page.get_by_role("button", name="New analysis of").first.wait_for()
        if not told.count():
            break
        page.wait_for_timeout(500)
    expect(told).to_have_count(0)


def test_tables_of_a_database_become_a_model_and_are_fetched_again(
    sign_in: Callable[[str], Page], tmp_path: Path
) -> None:
    with running(tmp_path) as database:
        database.do(
            "CREATE TABLE ways (code text PRIMARY KEY, mode text)",
            "INSERT INTO ways VALUES ('a', 'Tram'), ('b', 'Tram'), ('c', 'Ferry')",
            "CREATE TABLE trips AS SELECT date '2025-01-01' + n % 90 AS day, (ARRAY['a', 'b', 'c'])[1 + n % 3] AS way "
            "FROM generate_series(1, 600) AS n",
            f"GRANT SELECT ON trips, ways TO {READER}",
        )  # fmt: skip
        page = sign_in("rufus")
        page.get_by_role("button", name="Tables of a database…").click()
        slip = page.get_by_role("dialog", name="Tables of a database")
        for name, value in (
            ("server", "127.0.0.1"),
            ("port", str(database.port)),
            ("database", "postgres"),
            ("role", READER),
        ):
            slip.get_by_label(name, exact=True).fill(value)
        slip.get_by_label("password", exact=True).fill("wrong")
        slip.get_by_label("called", exact=True).fill("Harbour office")
        slip.get_by_role("button", name="Connect").click()
        expect(slip.get_by_role("alert")).to_contain_text("does not let reader in")
        slip.get_by_label("password", exact=True).fill(READERS_WORD)
        slip.get_by_label("password", exact=True).press("Enter")
        slip.get_by_role("checkbox", name="trips").check()
        assert faults(page) == []
        slip.get_by_role("button", name="Write a query").click()
        slip.get_by_label("What the query's table is called").fill("Ways")
        slip.get_by_label("Query", exact=True).fill("SELECT code AS way, mode FROM ways")
        slip.get_by_role("button", name="Fetch 2 tables").click()
        desk = Desk(page)
        desk.unfold()
        desk.put("Trips records")
        desk.choose(desk.entry("Way"), "by Mode")
        expect(page.get_by_role("row", name="Tram")).to_contain_text("400")
        database.do("INSERT INTO trips VALUES ('2025-02-01', 'a')")
        page.get_by_role("link", name="The model…").click()
        page.get_by_role("button", name="Files", exact=True).click()
        slip = page.get_by_role("dialog", name="Its files")
        expect(slip).to_contain_text("public.trips of Harbour office")
        slip.get_by_role("button", name="Fetch them again").click()
        expect(slip).to_contain_text("601 records, as the database counts them")
        slip.get_by_role("button", name="Fetch them at set times…").click()
        assert faults(page) == []
        slip.get_by_role("button", name="Set this time").click()
        expect(slip).to_contain_text("Fetched again every day at 05:00")
        slip.get_by_role("button", name="No longer every day at 05:00").click()
        expect(slip.get_by_role("button", name="Fetch them at set times…")).to_be_visible()
    # The database is gone: what was fetched stays.
    slip.get_by_role("button", name="Fetch them again").click()
    expect(slip.get_by_role("alert")).to_contain_text("cannot be reached")
    expect(slip.get_by_role("alert")).to_contain_text("Nothing was changed")
