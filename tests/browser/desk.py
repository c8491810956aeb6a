"""The workspace as a person handles it: drag, open, read."""

from __future__ import annotations

import re
from collections.abc import Iterator
from contextlib import contextmanager

from playwright.sync_api import Locator, Page, expect


def begun(page: Page, *measures: str) -> Desk:
    """A new analysis with some measures, each by its name and unit in the catalogue."""
    page.get_by_role("button", name="New analysis").click()
    desk = Desk(page)
    page.get_by_text("Drag a measure here to see a number.").wait_for()
    desk.unfold()
    desk.put(*measures)
    return desk


def by_line(page: Page, *measures: str) -> Desk:
    """A new analysis of some measures by the modes of lines."""
    desk = begun(page, *measures)
    desk.choose(desk.entry("Line"), "by Mode")
    desk.expect_step("by Mode")
    return desk


def share_with(page: Page, name: str, right: str = "may explore") -> None:
    """Shares what the open slip is about with somebody."""
    slip = page.get_by_role("dialog", name="Share")
    slip.get_by_role("combobox", name="Add a person or a group").click()
    page.get_by_role("option", name=name).click()
    slip.get_by_role("combobox", name=f"What {name} may do").click(force=True)
    page.get_by_role("option", name=right).click()
    slip.get_by_role("button", name="Share").click()
    expect(slip).to_be_hidden()


class Desk:
    """An open workspace page."""

    def __init__(self, page: Page) -> None:
        self.page = page

    @property
    def catalogue(self) -> Locator:
        return self.page.get_by_role("navigation", name="Catalogue")

    def entry(self, caption: str) -> Locator:
        """A catalogue entry by its caption; a measure's name goes on with its unit."""
        return self.catalogue.get_by_role(
            "button", name=re.compile(rf"^{re.escape(caption)}( (people|cr|records|cards|vehicles|incidents|km|min))?$")
        )

    def unfold(self) -> None:
        """Unfolds all of the catalogue, but for the levels of hierarchies."""
        folds = self.catalogue.locator("[data-entry=fold][aria-expanded=false]")
        self.catalogue.locator("[data-entry]").first.wait_for()
        while folds.evaluate_all("all => (all.forEach((each) => each.click()), all.length)"):
            pass  # what is in them may fold too

    def sentence(self) -> str:
        """The sentence, its words one space apart."""
        found = self.page.get_by_role("region", name="What the table shows")
        return re.sub(r"\s+", " ", found.inner_text()).strip()

    def expect_sentence(self, text: str) -> None:
        expect(self.page.get_by_role("region", name="What the table shows")).to_have_text(
            re.compile(r"\s*".join(re.escape(word) for word in text.split()))
        )

    def put(self, *measures: str) -> None:
        """Clicks measures, one after the other."""
        for each in measures:
            self.catalogue.get_by_role("button", name=each, exact=True).click()
            self.expect_step(each.rsplit(" ", 1)[0])

    def drag(self, what: Locator, landing: str) -> None:
        """Drags onto one of the table's edges, which appear once the drag has begun: "rows-0", "columns-1"…"""
        with self.dragging(what, landing):
            pass

    @contextmanager
    def dragging(self, what: Locator, landing: str) -> Iterator[None]:
        """Holds it over one of the table's edges, and lets go afterwards."""
        what.scroll_into_view_if_needed()
        box = what.bounding_box()
        assert box
        self.page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        self.page.mouse.down()
        self.page.mouse.move(box["x"] + box["width"] / 2 + 8, box["y"] + box["height"] / 2 + 8, steps=3)
        zone = self.page.locator(f'[data-landing="{landing}"]').last
        target = zone.bounding_box()
        assert target
        self.page.mouse.move(target["x"] + target["width"] / 2, target["y"] + target["height"] / 2, steps=5)
        yield
        self.page.mouse.up()

    def drag_into_sentence(self, what: Locator, gap: str) -> None:
        """Drags into one of the gaps that open in the sentence: "measures-0", "rows-1"…"""
        box = what.bounding_box()
        assert box
        self.page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        self.page.mouse.down()
        self.page.mouse.move(box["x"] + box["width"] / 2 + 8, box["y"] + box["height"] / 2 + 3, steps=3)
        target = self.page.locator(f'[data-gap="{gap}"]').bounding_box()
        assert target
        self.page.mouse.move(target["x"] + target["width"] / 2, target["y"] + target["height"] / 2, steps=5)
        self.page.mouse.up()

    def drag_away(self, what: Locator) -> None:
        """Drags a header out of the table, onto the catalogue."""
        what.scroll_into_view_if_needed()
        box = what.bounding_box()
        assert box
        self.page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        self.page.mouse.down()
        self.page.mouse.move(box["x"] + 20, box["y"] + 12, steps=3)
        expect(self.page.get_by_text("drop here")).to_be_visible()
        self.page.mouse.move(90, 500, steps=5)
        self.page.mouse.up()

    def choose(self, what: Locator, words: str) -> None:
        """Opens a thing's menu and picks a line of it."""
        what.click(button="right")
        self.page.get_by_role("menuitem", name=words, exact=True).click()

    def choose_under(self, what: Locator, heading: str, words: str) -> None:
        """Picks a line that a menu gathers under a heading."""
        what.click(button="right")
        self.page.get_by_role("menuitem", name=heading, exact=True).click()
        self.page.get_by_role("menuitem", name=words, exact=True).click()

    def select(self, label: str, option: str) -> None:
        """Chooses from a list in a slip."""
        field = self.page.get_by_role("dialog").get_by_role("combobox", name=label)
        field.focus()
        field.press("ArrowDown")
        self.page.get_by_role("option", name=option, exact=True).click()

    def phrase(self, text: str) -> Locator:
        """A phrase of the sentence, to take hold of."""
        return self.page.get_by_role("region", name="What the table shows").get_by_role("button").filter(has_text=text)

    def rows(self) -> list[str]:
        """The captions of the rows in sight, from the top, the grand total last."""
        return [each.strip() for each in self.page.get_by_role("grid").get_by_role("rowheader").all_inner_texts()]

    def expect_rows(self, captions: list[str]) -> None:
        expect(self.page.get_by_role("grid").get_by_role("rowheader")).to_have_text(captions)

    def column_heads(self) -> list[str]:
        """The captions above the columns, without the corner that names the axes."""
        heads = self.page.locator("[role=columnheader]:not(.corner)")
        return [each.strip() for each in heads.all_inner_texts() if each.strip()]

    def row(self, caption: str) -> list[str]:
        """The figures of the row with that caption, from the left."""
        header = self.page.get_by_role("rowheader").get_by_text(caption, exact=True)
        found = self.page.get_by_role("grid").get_by_role("row").filter(has=header)
        return [each.strip() for each in found.first.get_by_role("gridcell").all_inner_texts()]

    def head(self, caption: str) -> Locator:
        """A row's header, to take hold of."""
        return self.page.get_by_role("grid").get_by_role("rowheader").get_by_role("button", name=caption, exact=True)

    def step(self) -> str:
        """The step of the trail that is shown."""
        return self.page.locator("[aria-current=step]").inner_text().strip()

    def expect_step(self, words: str) -> None:
        expect(self.page.locator("[aria-current=step]")).to_have_text(words)
