"""A real server in a process of its own, and headless Chromium in front of it.

Both are begun once in each process that runs tests. Every test finds an empty shelf and a
page that was just loaded.
"""

from __future__ import annotations

import json
import os
import shutil
import socket
import sqlite3
import subprocess
import sys
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path
from typing import Any
from urllib.error import HTTPError
from urllib.request import Request, urlopen

import pytest
from playwright.sync_api import (
    BrowserContext,
    ConsoleMessage,
    Dialog,
    Page,
    ViewportSize,
    expect,
    sync_playwright,
)

from tests.waiting import until

# The machines that run this are shared and slow at times.
WAIT_MS = 1000 * int(os.environ.get("BROWSER_WAIT_S", "90"))
expect.set_options(timeout=WAIT_MS)

FLAGS = [
    "--no-sandbox",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    # The page itself is drawn sooner without the graphics that are simulated here.
    "--disable-gpu-rasterization",
]
SIZE: ViewportSize = {"width": 1280, "height": 800}
# All is as large as for users, and drawn with a quarter of the pixels: here processors do it.
PIXELS = 0.5


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    """A browser test may be run once more; the summary names those that needed it."""
    if config.getoption("reruns") is not None:
        return
    here = Path(__file__).parent
    for item in items:
        if here in item.path.parents:
            item.add_marker(pytest.mark.flaky(reruns=1))


def pytest_terminal_summary(terminalreporter: Any) -> None:
    """Why a test had to be run once more: what is shaky is mended by that."""
    for report in terminalreporter.stats.get("rerun", []):
        terminalreporter.section(f"run again: {report.nodeid}")
        told = report.longreprtext.splitlines()
        lines = [at for at, line in enumerate(told) if line.startswith(">")]
        terminalreporter.write_line("\n".join(told[lines[-1] if lines else 0 :][:25]))


class Server:
    """`nebrel serve` on a free port; can be stopped and started on the same data."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.port = free.getsockname()[1]
        self.database = folder / "nebrel.db"
        self.url = f"http://127.0.0.1:{self.port}/"
        self.start()

    def start(self) -> None:
        """Start and wait until it answers."""
        command = [sys.executable, "-m", "nebrel", "serve", "--port", str(self.port)]
        self._process = subprocess.Popen([*command, "--data", str(self._folder)])
        until(self._answers)

    def _answers(self) -> bool:
        assert self._process.poll() is None, "the server did not start"
        try:
            urlopen(f"{self.url}api/version").close()
        except OSError:
            return False
        return True

    def stop(self) -> None:
        """Stop as Ctrl+C would."""
        self._process.terminate()
        self._process.wait(60)

    def ask(self, path: str, method: str = "GET", body: Any = None) -> Any:
        """What an address of the API answers, as JSON."""
        sent = None if body is None else json.dumps(body).encode()
        headers = {"Content-Type": "application/json"}
        try:
            with urlopen(Request(f"{self.url}api/{path}", sent, headers, method=method)) as answer:
                read = answer.read()
        except HTTPError as refused:
            raise AssertionError(refused.read().decode()) from refused
        return json.loads(read) if read else None

    def bring(self, name: str, data: bytes, path: str = "pieces") -> Any:
        """Send a file, as the shelf does."""
        edge = "edge-of-the-file"
        head = f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\n\r\n'
        sent = head.encode() + data + f"\r\n--{edge}--\r\n".encode()
        headers = {"Content-Type": f"multipart/form-data; boundary={edge}"}
        with urlopen(Request(f"{self.url}api/{path}", sent, headers)) as answer:
            return json.load(answer)

    def clear(self) -> None:
        """Take everything off the shelf; it is not looked at, for that has cards drawn."""
        for kind, table in (("pieces", "piece"), ("motifs", "motif")):
            with closing(sqlite3.connect(self.database)) as known:
                there = known.execute(f"SELECT id FROM {table} WHERE deleted IS NULL").fetchall()
            for (number,) in there:
                self.ask(f"{kind}/{number}", "DELETE")


@pytest.fixture(scope="session")
def context(tmp_path_factory: pytest.TempPathFactory) -> Iterator[BrowserContext]:
    with sync_playwright() as playwright:
        opened = playwright.chromium.launch_persistent_context(
            tmp_path_factory.mktemp("profile"),
            executable_path=shutil.which("chromium"),
            headless=True,
            args=FLAGS,
            viewport=SIZE,
            device_scale_factor=PIXELS,
        )
        opened.set_default_timeout(WAIT_MS)
        yield opened
        opened.close()


@pytest.fixture(scope="session")
def shared_server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    running = Server(tmp_path_factory.mktemp("data"))
    yield running
    running.stop()


@pytest.fixture
def server(shared_server: Server) -> Server:
    """The server of this process, with nothing on its shelf."""
    shared_server.clear()
    return shared_server


@pytest.fixture
def own_server(tmp_path: Path) -> Iterator[Server]:
    """One that a test may stop, or leave as it likes."""
    running = Server(tmp_path / "own data")
    yield running
    running.stop()


class Window:
    """A window of the browser, used by one test after another; anew where one has failed."""

    def __init__(self, context: BrowserContext) -> None:
        self._context = context
        self._page: Page | None = None
        self._opened = 0
        self.errors: list[str] = []

    def fresh(self, url: str) -> Page:
        """A page that knows nothing of what was in this window before, nowhere yet."""
        if self._page is None:
            self._page = self._context.new_page()
            self._page.add_init_script(_FORGET)
            self._page.add_init_script(_STILL)
            self._page.on("pageerror", lambda error: self.errors.append(str(error)))
            self._page.on("console", lambda said: self.errors.extend(_complaint(said)))
        page = self._page
        page.on("dialog", _go)  # what a piece of the test before has not saved yet
        page.goto("about:blank")
        page.remove_listener("dialog", _go)
        page.set_viewport_size(SIZE)
        self._opened += 1
        self._context.add_cookies([{"name": "fresh", "value": str(self._opened), "url": url}])
        self.errors.clear()
        return page

    def beside(self) -> list[Page]:
        """What a test opened besides."""
        return [page for page in self._context.pages[1:] if page is not self._page]

    def close(self) -> None:
        """Let go of it."""
        if self._page is not None:
            self._page.close()
        self._page = None


def _go(dialog: Dialog) -> None:
    dialog.accept()


_FORGET = """(() => {
    const fresh = document.cookie.match(/fresh=(\\d+)/)?.[1];
    if (fresh === undefined || sessionStorage.getItem("fresh") === fresh) return;
    sessionStorage.clear();
    localStorage.clear();
    sessionStorage.setItem("fresh", fresh);
})()"""


# Whatever turns while one waits is drawn sixty times a second, by the processors that are
# waited for.
_STILL = """(() => {
    const still = new CSSStyleSheet();
    still.replaceSync(
        "*, ::before, ::after { animation: none !important; transition: none !important }");
    document.adoptedStyleSheets = [still];
})()"""


def _complaint(said: ConsoleMessage) -> list[str]:
    """What the console should not have said; refusals and the driver have their say there too."""
    usual = said.text.startswith(("[.WebGL", "Failed to load resource"))
    return [said.text] if said.type in ("warning", "error") and not usual else []


@pytest.fixture(scope="session")
def window(context: BrowserContext) -> Iterator[Window]:
    one = Window(context)
    yield one
    one.close()


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(item: pytest.Item) -> Iterator[None]:
    """Let the page know how its test went."""
    report = yield
    if report.when == "call":
        item.stash[_FAILED] = report.failed
    return report


_FAILED = pytest.StashKey[bool]()


def _page(request: pytest.FixtureRequest, window: Window, server: Server) -> Iterator[Page]:
    yield window.fresh(server.url)
    for beside in window.beside():
        beside.close()
    if request.node.stash.get(_FAILED, True):
        window.close()
    assert window.errors == []


@pytest.fixture
def page(request: pytest.FixtureRequest, window: Window, server: Server) -> Iterator[Page]:
    """A window that shows nothing yet."""
    yield from _page(request, window, server)


@pytest.fixture
def shelf(page: Page, server: Server) -> Page:
    """The shelf, with nothing on it."""
    page.goto(server.url)
    return page


@pytest.fixture
def own_shelf(request: pytest.FixtureRequest, window: Window, own_server: Server) -> Iterator[Page]:
    """The shelf of a server of the test's own."""
    for page in _page(request, window, own_server):
        page.goto(own_server.url)
        yield page
