"""A million rows by five hundred columns: scrolled, jumped through, paged."""

from __future__ import annotations

import random
import re
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import free_port, start_server, stop_server
from tests.browser.desk import begun

MODEL = """dastan: model/1
name: meters
caption: Power meters
tables:
  reads: {file: reads.csv}
  meters: {file: meters.csv}
  tariffs: {file: tariffs.csv}
  slots: {file: slots.csv}
relationships:
  - {role: meter, from_table: reads, from_column: meter, to_table: meters, to_column: meter}
  - {role: tariff, from_table: reads, from_column: tariff, to_table: tariffs, to_column: tariff}
  - {role: slot, from_table: reads, from_column: slot, to_table: slots, to_column: slot}
dimensions:
  - {name: meter, caption: Meter, table: meters, key: meter, attributes: [{name: meter, key: meter}],
     hierarchies: [{name: meter, levels: [meter]}]}
  - {name: tariff, caption: Tariff, table: tariffs, key: tariff, attributes: [{name: tariff, key: tariff}],
     hierarchies: [{name: tariff, levels: [tariff]}]}
  - name: slot
    caption: Slot
    table: slots
    key: slot
    attributes: [{name: part, key: part}, {name: slot, key: slot}]
    hierarchies: [{name: slot, levels: [part, slot]}]
measures:
  - {name: amount, caption: Amount, table: reads, aggregate: sum, expression: amount}
"""


def write_meters(folder: Path) -> None:
    made = random.Random(1)
    (folder / "model.yaml").write_text(MODEL)
    (folder / "meters.csv").write_text("meter\n" + "".join(f"M{at:04d}\n" for at in range(1000)))
    (folder / "tariffs.csv").write_text("tariff\n" + "".join(f"T{at:04d}\n" for at in range(1000)))
    slots = (f"{'night' if at < 200 else 'day'},S{at:03d}\n" for at in range(500))
    (folder / "slots.csv").write_text("part,slot\n" + "".join(slots))
    rows = (
        f"M{made.randrange(1000):04d},T{made.randrange(1000):04d},S{made.randrange(500):03d},{made.randrange(100)}\n"
        for _ in range(20_000)
    )
    (folder / "reads.csv").write_text("meter,tariff,slot,amount\n" + "".join(rows))


@pytest.fixture
def meters(tmp_path: Path, new_page: Callable[[], Page]) -> Iterator[Page]:
    write_meters(tmp_path)
    port = free_port()
    log = tmp_path / "server.log"
    process = start_server(["open", str(tmp_path)], port, log)
    page = new_page()
    link = re.search(r"http://\S+/enter/\S+", log.read_text())
    assert link
    page.goto(link.group(0))
    yield page
    stop_server(process)


def test_a_million_rows_are_scrolled_jumped_through_and_paged(meters: Page) -> None:
    page = meters
    desk = begun(page)
    # Arranged on request, so that only the whole of it is asked.
    page.get_by_role("button", name="At once").click()
    page.keyboard.press("/")
    page.get_by_label("The sentence in words").fill(
        "amount by meter (with those without records) then tariff (with those without records) "
        "against part (with those without records)"
    )
    page.keyboard.press("Enter")
    desk.expect_step("wrote the sentence")
    desk.choose_under(desk.phrase("Part"), "Open and close", "Open every part")
    desk.expect_step("opened every part")
    page.get_by_role("main").get_by_role("button", name="Show it").click()
    grid = page.get_by_role("grid")
    expect(grid).to_be_visible(timeout=120_000)
    assert int(grid.get_attribute("aria-rowcount") or 0) > 1_000_000
    assert int(grid.get_attribute("aria-colcount") or 0) > 500

    grid.evaluate("node => { node.scrollTop = node.scrollHeight / 2 }")
    expect(page.get_by_role("rowheader").filter(has_text=re.compile("T0"))).not_to_have_count(0)
    expect(page.locator(".path-above")).to_have_text(re.compile("M0(499|500)"))
    expect(page.get_by_role("columnheader").filter(has_text="S200")).to_be_visible()

    grid.focus()
    page.keyboard.press("m")
    page.get_by_label("Jump to a member").fill("M0777")
    expect(page.get_by_text("M0777", exact=True)).to_be_visible()
    page.keyboard.press("Enter")
    expect(page.get_by_role("rowheader").get_by_text("M0777", exact=True)).to_be_visible()
    expect(grid).to_have_attribute("aria-activedescendant", re.compile("cell-7[0-9]+--1"))
    page.keyboard.press("Control+End")
    expect(page.get_by_role("rowheader").get_by_text("T0999", exact=True)).to_be_visible()

    pager = page.get_by_role("navigation", name="Pages of columns")
    pager.get_by_role("button", name="The next page").click()
    expect(page.get_by_role("columnheader").filter(has_text="day")).not_to_have_count(0)
    expect(page.get_by_role("columnheader").filter(has_text="night")).to_have_count(0)
    pager.get_by_role("button", name="day").click()
    page.get_by_role("menuitem", name="night", exact=True).click()
    expect(page.get_by_role("columnheader").filter(has_text="S000")).to_be_visible()
    expect(page.get_by_role("columnheader").filter(has_text="S200")).to_have_count(0)
