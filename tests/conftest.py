"""What tests share: a store in a folder of its own, and the application on it."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from hypothesis import settings

from nebrel.store import Store
from nebrel.web.app import create_app
from tests.quiet import Watch

# The same examples every time, however slow the machine.
settings.register_profile("steady", derandomize=True, deadline=None)
settings.load_profile("steady")


MOST_S = 30
"""A test that takes longer, on a machine that does nothing else, says too much at once."""

_took: dict[str, float] = {}
_watch = Watch()


def pytest_runtest_logreport(report: pytest.TestReport) -> None:
    """How long each test took, without what it shares with others."""
    if report.when == "call":
        _took[report.nodeid] = max(report.duration, _took.get(report.nodeid, 0.0))


@pytest.hookimpl(trylast=True)
def pytest_sessionfinish(session: pytest.Session) -> None:
    """Fail for tests that take too long, where it was not others that they waited for.

    In the browser two at once keep each other waiting: of those it is only said.
    """
    alone = not hasattr(session.config, "workerinput")
    slow = [name for name in too_slow() if not name.startswith("tests/e2e")]
    if alone and slow and _watch.quiet() and session.exitstatus == 0:
        session.exitstatus = pytest.ExitCode.TESTS_FAILED


def pytest_terminal_summary(terminalreporter: pytest.TerminalReporter) -> None:
    """What else the machine did, and which tests were too slow."""
    terminalreporter.section("how busy it was")
    own, others = _watch.own_s(), _watch.others()
    terminalreporter.write_line(f"{own:.0f} s of processor here; {others:.1f} cores for others")
    for name in too_slow():
        word = "TOO SLOW" if _watch.quiet() else "slow, on a busy machine"
        terminalreporter.write_line(f"{word}: {name} took {_took[name]:.0f} s, {MOST_S} at most")


def too_slow() -> list[str]:
    """Names of tests."""
    return [name for name, took in _took.items() if took > MOST_S]


@pytest.fixture
def store(tmp_path: Path) -> Iterator[Store]:
    opened = Store(tmp_path / "data")
    yield opened
    opened.close()


@pytest.fixture(scope="session")
def application(tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    """One for all that a process tests: its own processes take seconds to begin."""
    app = create_app(Store(tmp_path_factory.mktemp("served")))
    with TestClient(app, base_url="http://127.0.0.1", raise_server_exceptions=False) as opened:
        yield opened


@pytest.fixture(scope="module")
def client(application: TestClient) -> TestClient:
    """The application, with nothing on its shelf."""
    for kind in ("pieces", "motifs"):
        for thing in application.get(f"/api/{kind}").json():
            application.delete(f"/api/{kind}/{thing['id']}")
    return application
