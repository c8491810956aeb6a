"""The real server on a small demo, and the real interface in Debian's headless Chromium."""

from __future__ import annotations

import signal
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect, sync_playwright

from tests.browser.chromium import launch

# A busy machine is slow, not wrong.
expect.set_options(timeout=30_000)

JOURNEYS = 40_000
PASSWORDS = {"ines": "harbour-light", "tomas": "night-ferry", "oda": "harbour-bell", "rufus": "lantern-keys"}


def free_port() -> int:
    with socket.socket() as found:
        found.bind(("127.0.0.1", 0))
        return int(found.getsockname()[1])


def start_server(arguments: list[str], port: int, log: Path) -> subprocess.Popen[bytes]:
    """Starts the command line's server and waits until it answers."""
    with log.open("wb") as file:
        process = subprocess.Popen(
            [sys.executable, "-m", "dastan", *arguments, "--port", str(port)], stdout=file, stderr=subprocess.STDOUT
        )
    for _ in range(600):
        if process.poll() is not None:
            raise RuntimeError(log.read_text())
        try:
            urllib.request.urlopen(f"http://127.0.0.1:{port}/", timeout=1).close()
            return process
        except OSError:
            time.sleep(0.1)
    raise RuntimeError(f"The server did not start: {log.read_text()}")


def stop_server(process: subprocess.Popen[bytes]) -> None:
    process.send_signal(signal.SIGINT)
    try:
        process.wait(10)
    except subprocess.TimeoutExpired:
        process.kill()
        process.wait()


@pytest.fixture(scope="session")
def site(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """The address of the demo, served by `dastan demo`."""
    folder = tmp_path_factory.mktemp("demo")
    port = free_port()
    process = start_server(["demo", "--folder", str(folder), "--journeys", str(JOURNEYS)], port, folder / "server.log")
    yield f"http://127.0.0.1:{port}"
    stop_server(process)


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        found = launch(playwright)
        yield found
        found.close()


@pytest.fixture
def new_page(browser: Browser) -> Iterator[Callable[[], Page]]:
    """Opens pages with sessions of their own; a page that reports an error fails the test."""
    contexts = []
    errors: list[str] = []

    def open_page() -> Page:
        context = browser.new_context(viewport={"width": 1280, "height": 800}, reduced_motion="reduce")
        contexts.append(context)
        page = context.new_page()
        page.set_default_timeout(40_000)
        page.on("pageerror", lambda error: errors.append(str(error)))
        # Printed as it happens: pytest shows it beside a test that fails.
        page.on("console", lambda said: print(said.type, said.text))
        page.on("response", lambda reply: print(reply.status, reply.request.method, reply.url))
        page.on("requestfailed", lambda request: print(request.failure, request.method, request.url))
        return page

    yield open_page
    for context in contexts:
        context.close()
    assert not errors


@pytest.fixture
def sign_in(site: str, new_page: Callable[[], Page]) -> Callable[[str], Page]:
    """Signs a demo person in and lands on the library."""

    def enter(name: str) -> Page:
        page = new_page()
        page.goto(site)
        # The field takes the focus once it is there; a quicker hand would write the password into it.
        expect(page.get_by_label("Name")).to_be_focused()
        page.get_by_label("Name").fill(name)
        page.get_by_label("Password").fill(PASSWORDS[name])
        page.get_by_role("button", name="Sign in").click()
        page.get_by_role("heading", name="Begin").wait_for()
        return page

    return enter
