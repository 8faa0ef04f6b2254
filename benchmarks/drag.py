"""From a changed depth, and from a dragged shape, to the new 3D frame, in headless Chromium.

A 1024 x 1024 picture is brought to a server of its own; the depth slider moves step by step,
then a shape is dragged over the picture. Each step is timed from the key or pointer event to
the animation frame after the new mesh was drawn, and split by what the server and the transfer
took. Also prints what the first load transfers.

    python benchmarks/drag.py [--steps 60]
"""

from __future__ import annotations

import argparse
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from urllib.request import Request, urlopen

import numpy as np
from playwright.sync_api import sync_playwright

FLAGS = [
    "--no-sandbox",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
PORT = 8799
WATCH = """() => {
    window.steps = [];
    let pressed = 0;
    for (const kind of ["input", "pointermove"])
        window.addEventListener(kind, (event) => { pressed = event.timeStamp; }, true);
    new PerformanceObserver((list) => {
        for (const entry of list.getEntriesByName("nebrel draft"))
            requestAnimationFrame(() => window.steps.push({
                total: performance.now() - pressed,
                server: entry.detail.server,
                transfer: entry.detail.received - entry.detail.server,
                drawing: performance.now() - entry.startTime - entry.detail.received,
            }));
    }).observe({ type: "measure" });
}"""


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--steps", type=int, default=60)
    count = parser.parse_args().steps
    from nebrel.demo.pictures import as_png, craters

    with tempfile.TemporaryDirectory() as folder:
        picture = Path(folder) / "craters.png"
        picture.write_bytes(as_png(craters(1024, 1024)))
        serve = [sys.executable, "-m", "nebrel", "serve", "--port", str(PORT), "--data", folder]
        server = subprocess.Popen(serve, stdout=subprocess.DEVNULL)
        try:
            depth, shape = _drive(picture, count, Path(folder) / "profile")
        finally:
            server.terminate()
            server.wait()
    for moved, steps in (("depth", depth), ("a shape of the build-up", shape)):
        print(f"1024 x 1024, {moved} moved {len(steps)} times, ms")
        print(f"{'':36}   median     95 %")
        for name in ("total", "server", "transfer", "drawing"):
            values = [step[name] for step in steps]
            print(f"{name:36} {np.median(values):8.0f} {np.percentile(values, 95):8.0f}")


Steps = list[dict[str, float]]


def _drive(picture: Path, count: int, profile: Path) -> tuple[Steps, Steps]:
    url = f"http://127.0.0.1:{PORT}/"
    for _ in range(300):
        try:
            urlopen(f"{url}api/version").close()
            break
        except OSError:
            time.sleep(0.1)
    with sync_playwright() as playwright:
        context = playwright.chromium.launch_persistent_context(
            profile,
            executable_path=shutil.which("chromium"),
            args=FLAGS,
            viewport={"width": 1280, "height": 800},
        )
        page = context.new_page()
        page.goto(url)
        page.locator("input[type=file]").set_input_files(picture)
        page.get_by_text("closed, as made").wait_for(timeout=60_000)
        entries = page.evaluate("performance.getEntriesByType('resource').map(e => e.name)")
        total = 0
        for asset in {name for name in entries if "/assets/" in name}:
            with urlopen(Request(asset, headers={"Accept-Encoding": "gzip"})) as response:
                total += len(response.read())
        print(f"first load, compressed: {total / 1000:.0f} kB (aim below 700)")
        page.keyboard.press("2")
        slider = page.get_by_label("Relief depth, slider")
        slider.focus()
        page.evaluate(WATCH)
        # One steady drag over depths never seen before, so that no step is answered from the
        # cache; the next step comes when the last one is on the screen.
        for step in range(count):
            slider.press("ArrowRight")
            page.wait_for_function("wanted => window.steps.length >= wanted", arg=step + 1)
        depth: Steps = page.evaluate("window.steps")
        page.get_by_role("button", name="Add", exact=True).click()
        page.get_by_role("button", name="Shape rectangle").click()
        page.get_by_text("closed, as made").wait_for(timeout=60_000)
        page.locator("[data-grip='Entry']").wait_for()
        box = page.locator("[data-grip='Entry']").bounding_box()
        assert box
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 4
        page.mouse.move(x, y)
        page.mouse.down()
        page.evaluate("window.steps = []")
        for step in range(count):
            page.mouse.move(x + 0.9 * (step + 1), y + 0.5 * (step + 1))
            page.wait_for_function("wanted => window.steps.length >= wanted", arg=step + 1)
        page.mouse.up()
        shape: Steps = page.evaluate("window.steps")
        context.close()
    return depth, shape


if __name__ == "__main__":
    main()
