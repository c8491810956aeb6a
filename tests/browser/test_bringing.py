"""From files of one's own to a crosstab, in the browser."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import free_port, start_server, stop_server
from tests.browser.desk import Desk

RIDES = "Rides of the bay\n\nDay;Line;Card no;People;Takings (EUR)\n" + "".join(
    f"{1 + n % 28:02}.{1 + n % 12:02}.2025;{('T1', 'T2', 'B7')[n % 3]};{10_000_000 + n % 50};{1 + n % 2};{1 + n % 3},50\n"
    for n in range(120)
)


@pytest.fixture(scope="module")
def site(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """A demo of these tests' own: what they bring would stand in everybody's library."""
    folder = tmp_path_factory.mktemp("bringing")
    port = free_port()
    process = start_server(["demo", "--folder", str(folder), "--journeys", "500"], port, folder / "server.log")
    yield f"http://127.0.0.1:{port}"
    stop_server(process)


def write(folder: Path, times: int = 1) -> Path:
    file = folder / "Rides 2025.csv"
    file.write_text(RIDES + RIDES.split("\n", 3)[3] * (times - 1), encoding="utf-8")
    return file


def test_a_file_becomes_a_crosstab_with_its_assumptions_told(sign_in: Callable[[str], Page], tmp_path: Path) -> None:
    page = sign_in("ines")
    page.get_by_label("Files of your own").set_input_files([write(tmp_path)])
    desk = Desk(page)
    desk.unfold()
    line = page.get_by_role("status").filter(has_text="This model was proposed from its files")
    line.get_by_role("button", name="Look at them").click()
    slip = page.get_by_role("dialog", name="What was taken to be so")
    expect(slip).to_contain_text("Card no names something: it is counted, never added up")
    expect(slip).to_contain_text("the column names stand on line 3")
    slip.get_by_role("button", name="Close").click()
    desk.put("Takings EUR")
    desk.choose(desk.entry("Line"), "by Line")
    # By hand: 40 rides on each line; on B7 every one brought 3.50, on T1 1.50, on T2 2.50.
    for name, sum_ in (("B7", "140.00"), ("T1", "60.00"), ("T2", "100.00")):
        expect(page.get_by_role("row", name=name)).to_contain_text(sum_)
    expect(page.get_by_role("row", name="All lines")).to_contain_text("300.00")
    line.get_by_role("button", name="put away").click()
    expect(line).to_be_hidden()


def test_files_are_dropped_on_the_page_and_a_broken_one_is_told_of(
    sign_in: Callable[[str], Page], tmp_path: Path
) -> None:
    page = sign_in("tomas")
    page.evaluate(
        """() => {
            const held = new DataTransfer()
            held.items.add(new File(['line,note\\nT1,"never closed\\n'], 'notes.csv', { type: 'text/csv' }))
            for (const kind of ['dragenter', 'dragover', 'drop'])
                document.body.dispatchEvent(new DragEvent(kind, { dataTransfer: held, bubbles: true, cancelable: true }))
        }"""
    )
    slip = page.get_by_role("dialog", name="Bring files")
    expect(slip.get_by_role("alert")).to_contain_text("notes.csv, line 2: a quote opens there and never closes.")
    slip.get_by_role("button", name="Close").click()
    expect(slip).to_be_hidden()


def test_what_was_interrupted_goes_on_where_it_was(sign_in: Callable[[str], Page], tmp_path: Path) -> None:
    page = sign_in("tomas")
    file = tmp_path / "long.csv"
    file.write_text("day,line,people\n" + "2025-01-02,T1,3\n" * 150_000)  # 2.4 MB: three parts
    sent: list[str] = []
    page.on("request", lambda asked: sent.append(asked.url.split("offset=")[1]) if "offset=" in asked.url else None)
    page.route("**/api/bringing/**offset=1048576", lambda route: route.abort(), times=1)
    page.get_by_label("Files of your own").set_input_files([file])
    slip = page.get_by_role("dialog", name="Bring files")
    expect(slip.get_by_role("alert")).to_contain_text("The server does not answer.")
    slip.get_by_role("button", name="Try again").click()
    Desk(page).unfold()
    assert sent == ["0", "0", "1048576", "1048576", "2097152"]


def write_over(page: Page, old: str, new: str) -> None:
    """Writes something else in the model's text, where that stands first."""
    page.evaluate(
        """([old, replacement]) => {
            const view = document.querySelector('.cm-content').cmTile.view
            const at = view.state.doc.toString().indexOf(old)
            view.dispatch({ changes: { from: at, to: at + old.length, insert: replacement } })
        }""",
        [old, new],
    )


def test_a_model_of_ones_own_is_mended_as_text_and_deleted(sign_in: Callable[[str], Page], tmp_path: Path) -> None:
    page = sign_in("tomas")
    page.get_by_label("Files of your own").set_input_files([write(tmp_path)])
    desk = Desk(page)
    desk.unfold()
    page.get_by_role("button", name="Look at them").click()
    page.get_by_role("dialog").get_by_role("link", name="The model…").click()
    page.get_by_role("link", name="As text").click()
    box = page.get_by_role("textbox", name="The model’s document")
    expect(box).to_contain_text("dastan: model/1")
    write_over(page, "aggregate: distinct", "aggregate: different")
    take = page.get_by_role("button", name="Take it over")
    take.click()
    expect(page.get_by_role("alert")).to_contain_text("“different” is not possible here.")
    write_over(page, "aggregate: different", "aggregate: distinct")
    write_over(page, "caption: People", "caption: Riders")
    take.click()
    expect(page.get_by_role("button", name="wrote in the text")).to_be_visible()
    page.get_by_role("button", name="Publish…").click()
    expect(page.get_by_role("dialog")).to_contain_text("People is called Riders.")
    page.get_by_role("dialog").get_by_role("button", name="Publish", exact=True).click()
    expect(page.get_by_text("is in use, unchanged")).to_be_visible()
    page.go_back()
    page.go_back()
    expect(desk.entry("Riders")).to_be_visible()
    page.get_by_role("link", name="Dastan").click()
    page.get_by_role("button", name="What can be done with the model “Rides 2025").click()
    # Newer files take the place of those of their names; one of another name is told of.
    other = tmp_path / "other.csv"
    other.write_text(RIDES)
    for file, told in ((other, "is none of the files that this model reads"), (write(tmp_path, 2), "")):
        page.get_by_role("menuitem", name="Bring newer files…").click()
        page.get_by_label("Newer files").set_input_files([file])
        slip = page.get_by_role("dialog", name="Bring files")
        if told:
            expect(slip.get_by_role("alert")).to_contain_text(told)
            slip.get_by_role("button", name="Close").click()
        else:
            expect(page.get_by_role("status").filter(has_text="has the newer files")).to_be_visible()
        page.get_by_role("button", name="What can be done with the model “Rides 2025").click()
    page.get_by_role("menuitem", name="Delete it, with its files").click()
    deleted = page.get_by_role("status").filter(has_text="is deleted.")
    expect(page.get_by_role("button", name="What can be done with the model “Rides 2025")).to_have_count(0)
    deleted.get_by_role("button", name="Bring it back").click()
    expect(page.get_by_role("button", name="What can be done with the model “Rides 2025")).to_be_visible()
