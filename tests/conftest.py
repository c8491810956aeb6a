"""What holds for all tests."""

from __future__ import annotations

import os

import pytest
from hypothesis import settings
from xdist.scheduler import LoadScopeScheduling

# A busy machine is slow, not wrong; and every run tries the same examples unless more are asked for.
settings.register_profile("patient", deadline=None, derandomize=True)
settings.load_profile("patient")


class OneBrowser(LoadScopeScheduling):  # type: ignore[misc]
    """Lets one worker drive the browser, so that one server and one demo do for all of those tests."""

    def _split_scope(self, nodeid: str) -> str:
        return "browser" if nodeid.startswith("tests/browser/") else nodeid


@pytest.hookimpl(optionalhook=True)
def pytest_xdist_make_scheduler(config: pytest.Config, log: object) -> OneBrowser:
    return OneBrowser(config, log)


def pytest_runtest_logreport(report: pytest.TestReport) -> None:
    """Tells a failure as it happens: a run that is stopped before its end tells none otherwise."""
    if report.failed and "PYTEST_XDIST_WORKER" not in os.environ:
        print(f"\n{report.nodeid} failed:\n{report.longreprtext[-2_000:]}", flush=True)
