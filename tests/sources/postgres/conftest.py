"""One server for all of these tests, with a harbour's small database."""

from __future__ import annotations

from collections.abc import Iterator

import pytest

from tests.postgres import Running, running


@pytest.fixture(scope="session")
def database(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Running]:
    with running(tmp_path_factory.mktemp("postgres")) as found:
        yield found
