"""The first ten minutes: from an empty shelf to a file to print, in eight clicks at most."""

import re
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import WAIT_MS
from tests.e2e.hands import field, solid, trail
from tests.pictures import png

MOST_CLICKS = 8
Y, X = (np.mgrid[0:90, 0:110] + 0.5).astype(np.float32)
DISC = np.hypot(X - 55, Y - 45) < 30
PICTURES = {
    "hills.png": 0.5 + 0.3 * np.sin(X / 13) * np.cos(Y / 11),
    "disc.png": np.where(DISC, 0.0, 1.0),
}
COUNTED = """() => {
  window.clicks = 0;
  const count = ({ detail }) => { window.clicks += detail > 0; };
  document.addEventListener('click', count, true);
}"""


def brought(page: Page, name: str) -> None:
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Choose a file").click()
    data = png(PICTURES[name].astype(np.float32))
    chooser.value.set_files({"name": name, "mimeType": "image/png", "buffer": data})


def begun(page: Page, name: str, start: str) -> None:
    brought(page, name)
    row = page.get_by_role("region", name="Begin as")
    row.get_by_role("button", name=re.compile(f"^{start}")).click()
    expect(row).to_have_count(0)


def around_a_mug(page: Page) -> None:
    page.get_by_role("button", name="Begin with a shape").click()
    page.get_by_role("dialog").get_by_role("button", name=re.compile("^Mug")).click()
    trail(page, "Decorations").click()
    page.get_by_role("button", name="Lay on it").click()
    page.locator(".adding-menu").get_by_role("button", name=re.compile("^Lettering ")).click()
    field(page, "Words").fill("tea")


FIRST: dict[str, tuple[Callable[[Page], None], str]] = {
    "light panel": (lambda page: begun(page, "hills.png", "light panel"), "Form"),
    "cutter": (lambda page: begun(page, "disc.png", "cutter"), "Form"),
    "coin": (lambda page: begun(page, "disc.png", "coin"), "Form"),
    "mug": (around_a_mug, "Decorations"),
    "figure": (lambda page: begun(page, "disc.png", "figure"), "Figure"),
}


@pytest.mark.parametrize("first", FIRST)
def test_a_first_piece_is_a_file_in_eight_clicks(shelf: Page, tmp_path: Path, first: str) -> None:
    page = shelf
    page.evaluate(COUNTED)
    make, stop = FIRST[first]
    make(page)
    expect(trail(page, stop)).to_contain_text(re.compile(r"\d"))
    page.get_by_role("button", name="Export").click()
    # A figure is made for as long as ten other pieces.
    with page.expect_download(timeout=3 * WAIT_MS) as waiting:
        page.get_by_role("button", name="Download STL").click()
    path = tmp_path / "first.stl"
    waiting.value.save_as(path)
    mesh = solid(path)
    assert mesh.body_count == 1
    assert 4 <= page.evaluate("() => window.clicks") <= MOST_CLICKS
    if first == "coin":
        assert mesh.extents[:2] == pytest.approx([50, 50], abs=0.05)
    if first == "mug":
        assert "tea" in page.get_by_role("listitem").first.inner_text().lower()
