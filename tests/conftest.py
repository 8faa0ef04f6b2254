"""What tests share: a store in a folder of its own, and the application on it."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from hypothesis import settings

from nebrel.store import Store
from nebrel.web.app import create_app

# The same examples every time, however slow the machine.
settings.register_profile("steady", derandomize=True, deadline=None)
settings.load_profile("steady")


@pytest.fixture
def store(tmp_path: Path) -> Iterator[Store]:
    opened = Store(tmp_path / "data")
    yield opened
    opened.close()


@pytest.fixture(scope="module")
def client(tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    app = create_app(Store(tmp_path_factory.mktemp("served")))
    with TestClient(app, base_url="http://127.0.0.1", raise_server_exceptions=False) as opened:
        yield opened
