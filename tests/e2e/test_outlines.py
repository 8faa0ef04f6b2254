"""Shapes traced and outlines saved, in a real browser."""

from pathlib import Path
from typing import Any

import ezdxf
import numpy as np
import pytest
from playwright.sync_api import Locator, Page, expect

from tests.e2e.conftest import Server
from tests.e2e.hands import (
    add,
    brought,
    closed,
    dragged,
    exported,
    middle_of,
    recipe_of,
    solid,
    trail,
    typed,
)
from tests.pictures import png
from tests.recipes import art_of
from tests.shapes import cover, ellipse

PITCH = 100 / 219


def discs() -> bytes:
    loops = [*ellipse((60, 60), 40, 40), *ellipse((160, 60), 30, 30), *ellipse((160, 60), 12, 12)]
    return png(1 - cover(loops, 120, 220))


def build_up(page: Page) -> Locator:
    return page.get_by_role("region", name="Build-up")


def test_a_shape_is_traced_a_part_left_out_and_its_outline_saved(
    page: Page, server: Server, tmp_path: Path
) -> None:
    brought(page, server, "discs.png", discs())
    trail(page, "Heights").click()
    add(page, "Traced shape", "Build-up")
    closed(page)
    parts = build_up(page).get_by_role("list", name="Parts").get_by_role("listitem")
    expect(parts).to_have_count(2)
    expect(build_up(page)).to_contain_text("2 of 2")
    in_picture = page.locator(".traced-part")
    expect(in_picture).to_have_count(2)
    expect(in_picture.first.locator("title")).to_contain_text("Part 1, 10")
    # A click in the picture leaves a part out; the choice is kept by its place.
    box = in_picture.nth(1).bounding_box()
    assert box
    page.mouse.click(box["x"] + box["width"] / 2, box["y"] + 8)
    expect(build_up(page)).to_contain_text("1 of 2")
    expect(parts.nth(1)).to_contain_text("take back")
    page.get_by_text("set", exact=True).first.click()
    typed(page, "Tone", "0.7")
    expect(build_up(page)).to_contain_text("1 of 2")
    closed(page)
    entry = next(e for e in art_of(recipe_of(page, server))["build_up"] if e["kind"] == "traced")
    assert entry["trace"]["level"] == 0.7
    assert [choice["keep"] for choice in entry["trace"]["choices"]] == ["drop"]
    assert entry["trace"]["choices"][0]["x"]["mm"] == pytest.approx(50.5 * PITCH, abs=1)
    # What was done is taken back one by one.
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+z")
    expect(build_up(page)).to_contain_text("2 of 2")
    closed(page)
    solid(exported(page, tmp_path))

    page.get_by_role("button", name="Export").click()
    sheet = page.get_by_role("dialog", name="Export")
    with page.expect_download() as saving:
        sheet.get_by_role("button", name="DXF, polylines").click()
    path = tmp_path / "outline.dxf"
    saving.value.save_as(path)
    assert saving.value.suggested_filename == "discs, outline.dxf"
    entities = list(ezdxf.readfile(path).modelspace())
    assert all(entity.closed for entity in entities)
    sizes = sorted(
        float(np.ptp([point[0] for point in entity.get_points()])) / PITCH for entity in entities
    )
    assert sizes == pytest.approx([24, 60, 80], abs=0.5)


def test_a_node_is_moved_in_the_picture_and_put_back(page: Page, server: Server) -> None:
    brought(page, server, "discs.png", discs())
    trail(page, "Heights").click()
    add(page, "Traced shape", "Build-up")
    closed(page)
    page.get_by_role("button", name="move nodes").click()
    nodes = page.locator("[data-node]")
    expect(nodes.first).to_be_visible()
    count = nodes.count()
    dragged(page, middle_of(nodes.first), (-14, -18))
    expect(build_up(page)).to_contain_text("One change by hand")
    closed(page)

    def kept() -> list[dict[str, Any]]:
        entries = art_of(recipe_of(page, server))["build_up"]
        return next(e for e in entries if e["kind"] == "traced")["trace"]["nodes"]

    [node] = kept()
    assert node["does"] == "move"
    assert node["to_y"]["mm"] > node["y"]["mm"]
    expect(nodes).to_have_count(count)
    # With the keyboard it is made sharp or smooth, and taken away: each its own undo.
    nodes.nth(1).focus()
    page.keyboard.press("Delete")
    expect(nodes).to_have_count(count - 1)
    expect(build_up(page)).to_contain_text("2 changes by hand")
    page.keyboard.press("Control+z")
    expect(build_up(page)).to_contain_text("One change by hand")
    page.keyboard.press("Control+z")
    expect(build_up(page)).not_to_contain_text("by hand, ")
    expect(nodes).to_have_count(count)
    closed(page)
    assert kept() == []
