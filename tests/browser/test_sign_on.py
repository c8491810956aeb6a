"""Somebody signs on by the provider in a real browser, and an administrator lets a group be filled by it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import closing
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from dastan.records.people import Person, put_person, set_administrator
from dastan.server.passwords import hash_password
from dastan.server.team import opened
from tests.browser.conftest import free_port, start_server, stop_server
from tests.browser.test_accessible import faults
from tests.server.stand_in_provider import CLIENT, SECRET, running
from tests.sources.folder import write_folder


@pytest.fixture
def team(tmp_path: Path) -> Iterator[str]:
    """A team's server whose people sign on by the stand-in; its administrator is rufus."""
    models = tmp_path / "models" / "tickets"
    models.mkdir(parents=True)
    write_folder(models)
    with running() as stand_in:
        (tmp_path / "sign-on.yaml").write_text(
            f"caption: Varrow accounts\nissuer: {stand_in.issuer}\nclient_id: {CLIENT}\nclient_secret: {SECRET}\n"
        )
        with closing(opened(tmp_path / "records.db")) as connection:
            put_person(connection, Person("rufus", "rufus", "Rufus Hale"), hash_password("lantern-keys"))
            set_administrator(connection, "rufus", True)
        port = free_port()
        process = start_server(["serve", "--data", str(tmp_path)], port, tmp_path / "server.log")
        yield f"http://127.0.0.1:{port}"
        stop_server(process)


def test_somebody_is_let_in_and_signs_on(team: str, new_page: Callable[[], Page]) -> None:
    lena = new_page()
    lena.goto(f"{team}/sessions")
    lena.get_by_role("link", name="Come in by Varrow accounts").click()
    lena.get_by_role("link", name="Lena Frost").click()
    expect(lena.get_by_role("alert")).to_contain_text("nobody has let you in here yet")
    assert faults(lena) == []

    rufus = new_page()
    rufus.goto(f"{team}/sign-in?to=/administration")
    expect(rufus.get_by_label("Name")).to_be_focused()
    rufus.get_by_label("Name").fill("rufus")
    rufus.get_by_label("Password").fill("lantern-keys")
    rufus.get_by_role("button", name="Sign in").click()
    rufus.get_by_role("heading", name="People").wait_for()
    rufus.get_by_label("Name", exact=True).fill("Lena")
    rufus.get_by_label("Signs in as").fill("lena.frost")
    rufus.get_by_label("by Varrow accounts").check()
    rufus.get_by_role("button", name="Invite").click()
    slip = rufus.get_by_role("dialog")
    expect(slip).to_contain_text("They come in there by Varrow accounts")
    assert slip.get_by_role("textbox").first.input_value() == f"{team}/sign-in"
    rufus.get_by_role("button", name="Done").click()
    expect(rufus.get_by_role("row").filter(has_text="Lena")).to_contain_text("may come in by Varrow accounts")
    assert faults(rufus) == []

    # Back where they wanted to go, with the session's cookie that no other site's page brings along.
    lena.goto(f"{team}/sessions")
    lena.get_by_role("link", name="Come in by Varrow accounts").click()
    lena.get_by_role("link", name="Lena Frost").click()
    expect(lena.get_by_role("heading", name="Where you are signed in")).to_be_visible()
    expect(lena.get_by_role("table", name="Sessions")).to_contain_text("this one")

    rufus.get_by_role("link", name="Groups").click()
    rufus.get_by_label("Name of a group").fill("Planners")
    rufus.get_by_role("button", name="Add").click()
    rufus.get_by_role("combobox", name="Filled by a group of Varrow accounts").click()
    rufus.get_by_role("option", name="planning").click()
    expect(rufus.get_by_role("row").filter(has_text="Planners")).to_contain_text("Lena Frost")
    rufus.get_by_role("link", name="What was done").click()
    table = rufus.get_by_role("table")
    expect(table).to_contain_text("Somebody could not sign on: not-invited: lena.frost")
    expect(table).to_contain_text("Lena Frost signed in")

    # Whoever signs out here may still be known there.
    lena.get_by_role("button", name="Sign out", exact=True).click()
    expect(lena.get_by_role("status")).to_contain_text("You are signed out here. Varrow accounts may still know you")
    assert faults(lena) == []
    lena.get_by_role("link", name="sign out there too").click()
    lena.get_by_role("heading", name="Bye").wait_for()
    lena.get_by_role("link", name="Back").click()
    expect(lena.get_by_role("heading", name="Dastan")).to_be_visible()
