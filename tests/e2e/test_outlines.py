"""Shapes traced and outlines saved, in a real browser."""

from pathlib import Path

import ezdxf
import numpy as np
import pytest
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
