"""How fluent the interface stays when much is in it: a million rows by 500 columns, and 100,000 members.

Prints how many frames a second the browser painted while the table scrolled, how long after it stopped the figures
were all there, and how long the picker of 100,000 members took to open, to find and to pick. Run by `make bench-large`;
it measures and asserts nothing.
"""

from __future__ import annotations

import re
import tempfile
from collections.abc import Callable
from pathlib import Path
from time import perf_counter

from playwright.sync_api import Page, sync_playwright

from tests.browser.chromium import launch
from tests.browser.conftest import free_port, start_server, stop_server
from tests.browser.desk import begun
from tests.browser.test_large import write_meters

# Scrolls by so many pixels each frame and keeps the time between frames; then waits until no cell in sight is waiting.
SCROLL = """
async ([step, frames]) => {
  const grid = document.querySelector('[role=grid]')
  const frame = () => new Promise((done) => requestAnimationFrame(done))
  const gaps = []
  let blank = 0
  let last = await frame()
  for (let at = 0; at < frames; at += 1) {
    grid.scrollTop += step
    const now = await frame()
    gaps.push(now - last)
    last = now
    if (![...document.querySelectorAll('[role=rowheader]')].some((each) => each.textContent.trim())) blank += 1
  }
  return { gaps, blank }
}
"""

MEMBERS = 100_000
STOPS_MODEL = """dastan: model/1
name: stops
caption: Many stops
tables:
  taps: {file: taps.csv}
  stops: {file: stops.csv}
relationships:
  - {role: stop, from_table: taps, from_column: stop, to_table: stops, to_column: stop}
dimensions:
  - name: stop
    caption: Stop
    table: stops
    key: stop
    attributes: [{name: district, key: district}, {name: stop, key: stop}]
    hierarchies: [{name: stop, levels: [district, stop]}]
measures:
  - {name: taps, caption: Taps, table: taps, aggregate: count}
"""


def write_stops(folder: Path) -> None:
    (folder / "model.yaml").write_text(STOPS_MODEL)
    stops = (f"D{at % 300:03d},S{at:06d}\n" for at in range(MEMBERS))
    (folder / "stops.csv").write_text("district,stop\n" + "".join(stops))
    (folder / "taps.csv").write_text("stop\n" + "".join(f"S{(at * 7919) % MEMBERS:06d}\n" for at in range(300_000)))


def scroll(page: Page) -> None:
    desk = begun(page)
    page.get_by_role("button", name="At once").click()
    page.keyboard.press("/")
    every = "(with those without records)"
    words = f"amount by meter {every} then tariff {every} against part {every}"
    page.get_by_label("The sentence in words").fill(words)
    page.keyboard.press("Enter")
    desk.expect_step("wrote the sentence")
    desk.choose_under(desk.phrase("Part"), "Open and close", "Open every part")
    page.get_by_role("main").get_by_role("button", name="Show it").click()
    page.get_by_role("grid").wait_for(timeout=120_000)
    page.wait_for_timeout(1000)
    for words, step in (("by hand, 3 rows a frame", 63), ("by a flick, a screen a frame", 600), ("flying", 50_000)):
        found = page.evaluate(SCROLL, [step, 240])
        gaps = sorted(found["gaps"])
        started = perf_counter()
        page.wait_for_function("() => !document.querySelector('[role=grid] .waiting')")
        print(
            f"scrolled {words}: median {1000 / gaps[len(gaps) // 2]:.0f} frames a second, one frame in a hundred took "
            f"{gaps[len(gaps) * 99 // 100]:.0f} ms or more, the longest {gaps[-1]:.0f} ms; "
            f"{found['blank']} of {len(gaps)} frames showed no caption; "
            f"settled {(perf_counter() - started) * 1000:.0f} ms after"
        )


def pick(page: Page) -> None:
    desk = begun(page, "Taps")

    def timed(words: str, do: Callable[[], object], until: Callable[[], object]) -> None:
        started = perf_counter()
        do()
        until()
        print(f"{words}: {(perf_counter() - started) * 1000:.0f} ms")

    desk.entry("Stop").click(button="right")
    choose = page.get_by_role("menuitem", name="Choose members of Stop…")
    picker = page.get_by_role("dialog")
    timed("picker of 100,000 opened", choose.click, lambda: picker.get_by_role("treeitem").first.wait_for())
    search = (
        picker.get_by_role("combobox").or_(picker.get_by_role("searchbox")).or_(picker.get_by_role("textbox")).first
    )
    timed("found by its name", lambda: search.fill("S077777"), lambda: picker.get_by_text("S077777").wait_for())
    timed("found by a letter", lambda: search.fill("9"), lambda: picker.get_by_text("D009").first.wait_for())
    search.fill("")
    first = picker.get_by_role("treeitem").first
    first.wait_for()
    timed("a branch unfolded", lambda: first.locator(".turn").click(), lambda: picker.get_by_text("S000300").wait_for())
    second = picker.get_by_role("treeitem", name=re.compile("S000300")).first
    timed("one picked", second.click, lambda: picker.get_by_text(re.compile("^1 ")).first.wait_for())
    keep = picker.get_by_role("button", name="Keep these")
    timed("kept", keep.click, lambda: picker.wait_for(state="detached"))


def serve(write: Callable[[Path], None], use: Callable[[Page], None]) -> None:
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        where = Path(folder)
        write(where)
        process = start_server(["open", folder], free_port(), where / "server.log")
        link = re.search(r"http://\S+/enter/\S+", (where / "server.log").read_text())
        assert link, "the server says where to enter"
        browser = launch(playwright)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(link.group(0))
        use(page)
        browser.close()
        stop_server(process)


if __name__ == "__main__":
    serve(write_meters, scroll)
    serve(write_stops, pick)
