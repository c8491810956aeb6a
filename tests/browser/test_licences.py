"""What is built into the front end is told with its licences."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page

WEB = Path(__file__).parents[2] / "web"


def test_every_package_of_the_front_end_stands_in_the_licences_with_its_own(
    new_page: Callable[[], Page], site: str
) -> None:
    text = new_page().request.get(f"{site}/licences.txt").text()
    packages = json.loads((WEB / "package.json").read_text(encoding="utf-8"))["dependencies"]
    lines = text.splitlines()
    told = {line.rpartition(" ")[0]: lines[at + 1] for at, line in enumerate(lines[:-1]) if " " in line}
    assert {each: told.get(each) for each in packages if not told.get(each)} == {}
    assert told["@fontsource/newsreader"] == "OFL-1.1"
    assert "dastan-web" not in text
