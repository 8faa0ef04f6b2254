"""A 12-megapixel photograph from the shelf to its full-quality mesh, in headless Chromium.

python benchmarks/shelf.py
"""

from __future__ import annotations

import re
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from urllib.request import urlopen

from drag import FLAGS
from playwright.sync_api import expect, sync_playwright

from nebrel.demo.photograph import photograph

PORT = 8797


def main() -> None:
    """Print the seconds to the first draft, to the full mesh, and to that of an arc."""
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        picture = Path(folder) / "dusk.jpg"
        picture.write_bytes(photograph())
        serve = [sys.executable, "-m", "nebrel", "serve", "--port", str(PORT), "--data", folder]
        server = subprocess.Popen(serve, stdout=subprocess.DEVNULL)
        try:
            while True:
                try:
                    urlopen(f"http://127.0.0.1:{PORT}/api/version").close()
                    break
                except OSError:
                    time.sleep(0.1)
            context = playwright.chromium.launch_persistent_context(
                Path(folder) / "profile",
                executable_path=shutil.which("chromium"),
                headless=True,
                args=FLAGS,
                viewport={"width": 1280, "height": 800},
            )
            page = context.new_page()
            page.goto(f"http://127.0.0.1:{PORT}/")
            trail = page.get_by_role("navigation", name="Trail")
            finish = trail.get_by_role("button", name=re.compile("Finish"))
            page.wait_for_timeout(10_000)  # by then the workers have loaded what they need
            start = time.perf_counter()
            page.locator("input[type=file]").first.set_input_files(picture)
            expect(finish).to_contain_text("triangles", timeout=300_000)
            draft = time.perf_counter() - start
            expect(finish).to_contain_text("closed", timeout=300_000)
            whole = time.perf_counter() - start
            print(f"brought to the shelf: {draft:.1f} s to a mesh, {whole:.1f} s to the full one")
            trail.get_by_role("button", name=re.compile("^Form")).click()
            start = time.perf_counter()
            page.get_by_label("Form", exact=True).select_option("arc")
            expect(finish).to_contain_text("draft", timeout=300_000)
            expect(finish).to_contain_text("closed", timeout=300_000)
            print(f"bent to an arc: {time.perf_counter() - start:.1f} s to the full mesh")
            context.close()
        finally:
            server.terminate()
            server.wait()


if __name__ == "__main__":
    main()
