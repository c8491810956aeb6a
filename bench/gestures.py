"""How long a gesture takes until it is on screen, on the demo's 2 million journeys, through the real interface.

Prints each gesture's time from the click to the frame after the table was drawn, its four parts, the medians, and what
the workspace's first load takes. Run by `make bench`; it measures and asserts nothing.
"""

from __future__ import annotations

import argparse
import statistics
import subprocess
import sys
import time
import urllib.request
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from playwright.sync_api import Locator, Page, sync_playwright

from tests.browser.chromium import launch

# Clicks, waits until the trail shows another step and the new table is painted, and says when what had happened: until
# the question was sent, until its answer was there, until the page had changed, until that was painted.
MEASURE = """
async (element) => {
  const trail = () => [...document.querySelectorAll('.step')].map((each) => each.textContent).join('|')
    + document.querySelector('[aria-current=step]')?.textContent
  const before = trail()
  performance.clearResourceTimings()
  const started = performance.now()
  element.click()
  while (trail() === before) await new Promise((done) => setTimeout(done, 0))
  const changed = performance.now() - started
  await new Promise((done) => requestAnimationFrame(() => setTimeout(done, 0)))
  const painted = performance.now() - started
  const asked = performance.getEntriesByType('resource').find((each) => /drafts.*question=/.test(each.name))
  return asked
    ? [asked.startTime - started, asked.responseEnd - started, changed, painted]
    : [0, 0, changed, painted]
}
"""
FIRST_LOAD = "() => performance.getEntries().reduce((sum, each) => sum + (each.transferSize ?? 0), 0)"


@dataclass(frozen=True)
class Timing:
    """Milliseconds from the click until its question was sent, was answered, the page had changed, and was painted."""

    words: str
    sent_ms: float
    answered_ms: float
    changed_ms: float
    painted_ms: float

    @property
    def parts(self) -> tuple[float, float, float, float]:
        """What each of these took by itself."""
        return (
            self.sent_ms,
            self.answered_ms - self.sent_ms,
            self.changed_ms - self.answered_ms,
            self.painted_ms - self.changed_ms,
        )


def walk(page: Page) -> list[Timing]:
    """One analyst's morning: 25 gestures, each timed."""
    timings: list[Timing] = []

    def time_click(target: Locator) -> None:
        times = target.evaluate(MEASURE)
        timings.append(Timing(page.locator("[aria-current=step]").inner_text(), *times))
        page.wait_for_timeout(150)

    def entry(caption: str) -> Locator:
        return page.get_by_role("navigation", name="Catalogue").get_by_role("button", name=caption)

    def choose(what: Locator, words: str) -> None:
        what.click(button="right")
        line = page.get_by_role("menuitem", name=words, exact=True)
        line.wait_for()
        time_click(line)

    def choose_under(what: Locator, heading: str, words: str) -> None:
        what.click(button="right")
        page.get_by_role("menuitem", name=heading, exact=True).click()
        line = page.get_by_role("menuitem", name=words, exact=True)
        line.wait_for()
        time_click(line)

    def press(name: str) -> None:
        time_click(page.get_by_role("button", name=name, exact=True).first)

    time_click(entry("Boardings people"))
    choose(entry("Line").and_(page.get_by_role("button", name="Line", exact=True)), "by Mode")
    choose(page.get_by_role("button", name="Calendar", exact=True), "against Year")
    for caption in ("Tram", "Metro", "North shore", "2024", "Q1 2024"):
        press(f"Open {caption}")
    press("Close Q1 2024")
    time_click(entry("Fare revenue cr"))
    head = page.get_by_role("rowheader").get_by_role("button", name="Bus", exact=True)
    choose_under(head, "Open and close", "Open every mode")
    choose(page.get_by_role("button", name="Stop", exact=True), "by Mode, each broken down by Zone")
    press("Undo")
    press("Turn")
    press("Turn")
    choose(head, "Keep only Bus")
    choose(
        page.get_by_role("button", name="Passenger group", exact=True), "by Mode, each broken down by Passenger group"
    )
    press("Undo")
    press("Undo")
    choose(head, "Leave out Bus")
    entry("Punctuality").click()
    time_click(entry("Delay, average min"))
    time_click(entry("Cards seen cards"))
    press("Close 2024")
    choose(page.get_by_role("button", name="Calendar", exact=True), "Take Year away")
    press("Undo")
    return timings


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--journeys", type=int, default=2_000_000)
    parser.add_argument("--folder", type=Path, default=Path(".dastan"))
    parser.add_argument("--port", type=int, default=8621)
    parser.add_argument("--rounds", type=int, default=3)
    asked = parser.parse_args()
    address = f"http://127.0.0.1:{asked.port}"
    command = [sys.executable, "-m", "dastan", "demo", "--folder", str(asked.folder), "--journeys", str(asked.journeys)]
    server = subprocess.Popen([*command, "--port", str(asked.port)], stdout=subprocess.DEVNULL)
    try:
        wait_for(address)
        with sync_playwright() as playwright:
            browser = launch(playwright)
            for number in range(asked.rounds):
                page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
                begin(page, address)
                if not number:
                    again = browser.new_context(storage_state=page.context.storage_state()).new_page()
                    again.goto(page.url, wait_until="networkidle")
                    print(f"The workspace's first load: {again.evaluate(FIRST_LOAD) / 1000:.0f} kB")
                report(number + 1, walk(page))
            browser.close()
    finally:
        server.terminate()
        server.wait()


def wait_for(address: str) -> None:
    for _ in range(1200):
        try:
            urllib.request.urlopen(address, timeout=1).close()
            return
        except OSError:
            time.sleep(0.1)


def begin(page: Page, address: str) -> None:
    page.goto(address)
    page.get_by_label("Name").fill("ines")
    page.get_by_label("Password").fill("harbour-light")
    page.get_by_role("button", name="Sign in").click()
    page.get_by_role("button", name="New analysis").click()
    page.get_by_text("Drag a measure here to see").wait_for()
    page.wait_for_timeout(500)


def report(number: int, timings: list[Timing]) -> None:
    print(f"\nRound {number}")
    for each in timings:
        print(f"  {each.painted_ms:5.0f} ms = {_said(each.parts)}  {each.words}")
    times = sorted(each.painted_ms for each in timings)
    ninth = times[int(len(times) * 0.9)]
    medians = [statistics.median(each) for each in zip(*(each.parts for each in timings), strict=True)]
    print(
        f"  {len(times)} gestures: median {statistics.median(times):.0f} ms, nine in ten under {ninth:.0f} ms, "
        f"longest {times[-1]:.0f} ms"
    )
    print(f"  at the median {_said(medians)}: until sent, until answered, until the page has changed, until painted")


def _said(parts: Sequence[float]) -> str:
    return " + ".join(f"{each:3.0f}" for each in parts)


if __name__ == "__main__":
    main()
