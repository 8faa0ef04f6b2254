"""A real server in a process of its own, and headless Chromium in front of it."""

from __future__ import annotations

import shutil
import socket
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any
from urllib.request import urlopen

import pytest
from playwright.sync_api import BrowserContext, ConsoleMessage, Page, expect, sync_playwright

# The machines that run this are shared and slow at times.
expect.set_options(timeout=25_000)

FLAGS = [
    "--no-sandbox",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """A browser test may be run once more; the summary names those that needed it."""
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

    def __init__(self, folder: Path, *options: str) -> None:
        self._folder = folder
        self._options = options
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.port = free.getsockname()[1]
        self.database = folder / "nebrel.db"
        self.url = f"http://127.0.0.1:{self.port}/"
        self.start()

    def start(self) -> None:
        """Start and wait until it answers."""
        command = [sys.executable, "-m", "nebrel", "serve", "--port", str(self.port)]
        command += ["--data", str(self._folder), *self._options]
        self._process = subprocess.Popen(command)
        deadline = time.monotonic() + 60
        while time.monotonic() < deadline:
            try:
                urlopen(f"{self.url}api/version").close()
                return
            except OSError:
                time.sleep(0.1)
        raise RuntimeError("the server did not start")

    def renew(self, folder: Path) -> None:
        """Start again on other data, as if nothing had been."""
        self.stop()
        self._folder, self.database = folder, folder / "nebrel.db"
        self.start()

    def stop(self) -> None:
        """Stop as Ctrl+C would."""
        self._process.terminate()
        self._process.wait(30)


@pytest.fixture(scope="session")
def context(tmp_path_factory: pytest.TempPathFactory) -> Iterator[BrowserContext]:
    with sync_playwright() as playwright:
        opened = playwright.chromium.launch_persistent_context(
            tmp_path_factory.mktemp("profile"),
            executable_path=shutil.which("chromium"),
            headless=True,
            args=FLAGS,
            viewport={"width": 1280, "height": 800},
        )
        opened.set_default_timeout(30_000)
        yield opened
        opened.close()


@pytest.fixture(scope="module")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    running = Server(tmp_path_factory.mktemp("data"))
    yield running
    running.stop()


def _complaint(said: ConsoleMessage) -> list[str]:
    """What the console should not have said; refusals and the driver have their say there too."""
    usual = said.text.startswith(("[.WebGL", "Failed to load resource"))
    return [said.text] if said.type in ("warning", "error") and not usual else []


@pytest.fixture
def page(
    request: pytest.FixtureRequest,
    context: BrowserContext,
    server: Server,
    tmp_path_factory: pytest.TempPathFactory,
) -> Iterator[Page]:
    if getattr(request.node, "execution_count", 1) > 1:  # what failed left its pieces behind
        server.renew(tmp_path_factory.mktemp("again"))
    opened = context.new_page()
    errors: list[str] = []
    opened.on("pageerror", lambda error: errors.append(str(error)))
    opened.on("console", lambda said: errors.extend(_complaint(said)))
    opened.goto(server.url)
    yield opened
    opened.close()
    assert errors == []


def drop_file(page: Page, name: str, data: bytes) -> None:
    """Drop a file on the page, as a hand would."""
    page.evaluate(
        """([name, bytes]) => {
            const data = new DataTransfer();
            data.items.add(new File([new Uint8Array(bytes)], name, { type: "image/png" }));
            const options = { bubbles: true, cancelable: true, dataTransfer: data };
            for (const kind of ["dragenter", "dragover", "drop"])
                document.body.dispatchEvent(new DragEvent(kind, options));
        }""",
        [name, list(data)],
    )


@pytest.fixture
def drop(page: Page) -> Callable[[str, bytes], None]:
    """Drop a file on the shelf."""

    def dropped(name: str, data: bytes) -> None:
        expect(
            page.get_by_label("Bring a picture, a drawing or a mesh", exact=True)
        ).to_be_visible()
        drop_file(page, name, data)

    return dropped
