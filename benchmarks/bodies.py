"""A mesh on the bench, in headless Chromium: a plane that is dragged, a large file that is opened.

A plane is dragged through 328 000 triangles; each new frame is timed from the change, and split by
what the server took. Then an STL of 262 MB is brought: until the bench, the first picture and the
full mesh are there; beside it what reading the same bytes takes.

    PYTHONPATH=. .venv/bin/python benchmarks/bodies.py [--steps 60]
"""

from __future__ import annotations

import argparse
import shutil
import statistics
import tempfile
import time
from pathlib import Path

import numpy as np
import trimesh
from playwright.sync_api import Page, expect, sync_playwright
from tests.e2e.conftest import FLAGS, Server

from nebrel.core.data import Mesh
from nebrel.core.formats.stl import write_stl

_DRAFTS = """() => performance.getEntriesByName("nebrel draft")
    .map(({ duration, detail }) => [duration, detail.server])"""
_PATIENCE_MS = 180_000


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--steps", type=int, default=60)
    steps = parser.parse_args().steps
    with tempfile.TemporaryDirectory() as place, sync_playwright() as playwright:
        folder = Path(place)
        server = Server(folder / "data")
        browser = playwright.chromium.launch(executable_path=shutil.which("chromium"), args=FLAGS)
        try:
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.set_default_timeout(_PATIENCE_MS)
            _drag(page, server.url, rippled(folder / "ball.stl", 7), steps)
            page.close()
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.set_default_timeout(_PATIENCE_MS)
            _open(page, server.url, rippled(folder / "large.stl", 9))
        finally:
            browser.close()
            server.stop()


def rippled(path: Path, fine: int) -> Path:
    """A ball with ripples of 20 * 4 ** `fine` triangles, as a binary STL."""
    ball = trimesh.creation.icosphere(subdivisions=fine, radius=30)
    places = ball.vertices * (1 + 0.02 * np.sin(ball.vertices[:, :1] * 2))
    write_stl(Mesh(places.astype(np.float32), ball.faces.astype(np.int32)), path, "STL")
    return path


def _bring(page: Page, url: str, path: Path) -> None:
    page.goto(url)
    page.get_by_label("Files", exact=True).set_input_files(path)


def _drag(page: Page, url: str, path: Path, steps: int) -> None:
    _bring(page, url, path)
    finish = page.get_by_role("navigation", name="Trail").get_by_role("button", name="Finish")
    expect(finish).to_contain_text("closed", timeout=_PATIENCE_MS)
    finish.click()
    page.get_by_role("button", name="Add", exact=True).click()
    page.get_by_role("button", name="Trim").click()
    expect(finish).to_contain_text("closed, 1 step", timeout=_PATIENCE_MS)
    box = page.get_by_label("At, slider").bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.evaluate("performance.clearMeasures()")
    page.mouse.move(x, y)
    page.mouse.down()
    for step in range(steps):
        page.mouse.move(x - step * box["width"] / 3 / steps, y)
        time.sleep(0.12)  # as a hand would
    page.mouse.up()
    drafts = page.evaluate(_DRAFTS)
    whole, server = (statistics.median(one[k] for one in drafts) for k in (0, 1))
    print(f"plane dragged, {len(drafts)} frames: median {whole:.0f} ms, server {server:.0f} ms")


def _open(page: Page, url: str, path: Path) -> None:
    began = time.perf_counter()
    np.fromfile(path, np.uint8)
    read = time.perf_counter() - began
    size = path.stat().st_size / 1e6
    began = time.perf_counter()
    _bring(page, url, path)
    page.get_by_role("heading", name="Body", exact=True).wait_for()
    print(f"{size:.0f} MB (read alone in {read:.2f} s): bench {time.perf_counter() - began:.1f} s")
    page.locator("canvas").first.wait_for()
    print(f"  first picture {time.perf_counter() - began:.1f} s")
    finish = page.get_by_role("navigation", name="Trail").get_by_role("button", name="Finish")
    expect(finish).to_contain_text("closed", timeout=_PATIENCE_MS)
    print(f"  full mesh {time.perf_counter() - began:.1f} s")


if __name__ == "__main__":
    main()
