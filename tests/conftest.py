"""What holds for all tests."""

from __future__ import annotations

import pytest
from hypothesis import settings
from xdist.scheduler import LoadScopeScheduling

# A busy machine is slow, not wrong; and every run tries the same examples unless more are asked for.
settings.register_profile("patient", deadline=None, derandomize=True)
settings.load_profile("patient")


class OneBrowser(LoadScopeScheduling):
    """Lets one worker drive the browser, so that one server and one demo do for all of those tests."""

    def _split_scope(self, nodeid: str) -> str:
        return "browser" if nodeid.startswith("tests/browser/") else nodeid


@pytest.hookimpl(optionalhook=True)
def pytest_xdist_make_scheduler(config: pytest.Config, log: object) -> OneBrowser:
    return OneBrowser(config, log)
