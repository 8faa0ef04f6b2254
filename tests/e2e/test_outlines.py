"""Shapes traced and outlines saved, in a real browser."""

from pathlib import Path
from typing import Any

import ezdxf
import numpy as np
import pytest
import trimesh
from playwright.sync_api import Page, expect

from tests.e2e.axe import findings
from tests.e2e.conftest import Server
from tests.e2e.test_build_up import add, build_up, closed
from tests.e2e.test_first_slice import Drop, bring, trail, type_length
from tests.e2e.test_heights_and_forms import exported, recipe_of
from tests.pictures import png
from tests.recipes import art_of
from tests.shapes import cover, ellipse

PITCH = 100 / 219


def discs() -> bytes:
    loops = [*ellipse((60, 60), 40, 40), *ellipse((160, 60), 30, 30), *ellipse((160, 60), 12, 12)]
    return png(1 - cover(loops, 120, 220))


def test_a_shape_is_traced_a_part_left_out_and_its_outline_saved(
    page: Page, drop: Drop, server: Server, tmp_path: Path
) -> None:
    bring(page, drop, "discs.png", discs())
    trail(page, "Heights").click()
    add(page, "Traced shape")
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
    type_length(page, "Tone", "0.7")
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
    assert findings(page) == []
    mesh = exported(page, tmp_path)
    assert mesh.is_watertight

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
    assert findings(page) == []


def test_a_cut_out_is_one_click_and_one_undo_takes_it_back(
    page: Page, drop: Drop, server: Server, tmp_path: Path
) -> None:
    bring(page, drop, "discs.png", discs())
    starts = page.get_by_role("region", name="Begin as")
    starts.get_by_role("button", name="cut-out").click()
    expect(starts).to_have_count(0)
    closed(page)
    kinds = [entry["kind"] for entry in art_of(recipe_of(page, server))["build_up"]]
    assert kinds == ["picture", "traced"]
    mesh = exported(page, tmp_path)
    assert mesh.is_watertight
    assert mesh.body_count == 2
    assert mesh.extents == pytest.approx([170 * PITCH, 80 * PITCH, 3], abs=0.15)
    page.keyboard.press("Control+z")
    expect(starts).to_be_visible()
    closed(page)
    assert art_of(recipe_of(page, server))["backing"]["mm"] == 1


def test_a_node_is_moved_in_the_picture_and_put_back(
    page: Page, drop: Drop, server: Server
) -> None:
    bring(page, drop, "discs.png", discs())
    trail(page, "Heights").click()
    add(page, "Traced shape")
    closed(page)
    page.get_by_role("button", name="move nodes").click()
    nodes = page.locator("[data-node]")
    expect(nodes.first).to_be_visible()
    count = nodes.count()
    box = nodes.first.bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x - 14, y - 18, steps=4)
    page.mouse.up()
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
    assert findings(page) == []
    page.keyboard.press("Control+z")
    expect(build_up(page)).to_contain_text("One change by hand")
    page.keyboard.press("Control+z")
    expect(build_up(page)).not_to_contain_text("by hand, ")
    expect(nodes).to_have_count(count)
    closed(page)
    assert kept() == []


def test_a_cutters_wall_is_set_in_lines_and_its_stamp_saved(
    page: Page, drop: Drop, server: Server, tmp_path: Path
) -> None:
    bring(page, drop, "discs.png", discs())
    page.get_by_role("region", name="Begin as").get_by_role("button", name="cutter").click()
    closed(page)
    trail(page, "Heights").click()
    expect(build_up(page)).to_contain_text("A wall along it, to cut with")
    type_length(page, "Wall", "3 lines")
    closed(page)
    entry = art_of(recipe_of(page, server))["build_up"][1]
    assert entry["wall"]["thick"] == {"mm": pytest.approx(1.26), "text": "3 lines"}
    assert findings(page) == []
    mesh = exported(page, tmp_path)
    assert mesh.is_watertight
    # Its rim reaches 4 mm outside the shape.
    assert mesh.extents == pytest.approx([170 * PITCH + 8, 80 * PITCH + 8, 14], abs=0.2)
    trail(page, "Form").click()
    with page.expect_download() as saving:
        page.get_by_role("button", name="Stamp as STL").click()
    saving.value.save_as(tmp_path / "stamp.stl")
    stamp = trimesh.load(tmp_path / "stamp.stl")
    assert stamp.is_watertight
    assert stamp.extents[:2] == pytest.approx([170 * PITCH - 0.8, 80 * PITCH - 0.8], abs=0.2)


SVG = (
    b'<svg xmlns="http://www.w3.org/2000/svg" width="64mm" height="32mm" viewBox="0 0 64 32">'
    b'<path d="M0 0h64v32H0z M8 8v16h16V8z" fill-rule="evenodd"/></svg>'
)


def test_a_drawing_comes_in_at_its_true_size_and_is_given_another(
    page: Page, drop: Drop, server: Server, tmp_path: Path
) -> None:
    bring(page, drop, "door plate.svg", SVG)
    expect(page.get_by_text("64 × 32 mm").first).to_be_visible()
    closed(page)
    mesh = exported(page, tmp_path)
    assert mesh.extents == pytest.approx([64, 32, 3], abs=1e-3)
    assert mesh.volume == pytest.approx((64 * 32 - 16 * 16) * 3, rel=1e-4)
    assert findings(page) == []
    type_length(page, "Drawn wide", "4 in")
    closed(page)
    mesh = exported(page, tmp_path)
    assert mesh.extents == pytest.approx([101.6, 50.8, 3], abs=1e-3)
    entry = art_of(recipe_of(page, server))["build_up"][1]
    assert (entry["along"], entry["side"]["text"]) == ("wide", "4 in")
    # It gets a backing around it with a corner radius, and a pocket that finds its place.
    trail(page, "Heights").click()
    page.get_by_label("It reaches").select_option("plate")
    type_length(page, "Backing", "4 mm")
    type_length(page, "Corner radius", "3 mm")
    trail(page, "Form").click()
    page.get_by_role("button", name="Add").click()
    page.get_by_role("button", name="Magnet pocket").click()
    closed(page)
    mesh = exported(page, tmp_path)
    assert mesh.is_watertight
    assert mesh.extents == pytest.approx([107.6, 56.8, 7], abs=1e-3)
    assert findings(page) == []
