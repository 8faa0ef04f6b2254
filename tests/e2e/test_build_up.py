"""What a person builds up on a picture, in a real browser."""

import re
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Locator, Page, expect

from tests.e2e.conftest import Server
from tests.e2e.test_first_slice import Drop, bring, once_changed, trail, type_length, view_pixels
from tests.e2e.test_heights_and_forms import exported, placer, recipe_of, still
from tests.pictures import png, ramp
from tests.recipes import art_of


def build_up(page: Page) -> Locator:
    return page.get_by_role("region", name="Build-up")


def add(page: Page, name: str) -> None:
    build_up(page).get_by_role("button", name="Add", exact=True).click()
    build_up(page).get_by_role("button", name=re.compile(f"^{name} ")).click()


def closed(page: Page) -> None:
    still(page)
    expect(page.get_by_role("banner").get_by_role("status")).to_have_text("saved")
    expect(trail(page, "Finish")).to_contain_text("closed")


def test_lettering_is_added_placed_and_undone(
    page: Page, drop: Drop, server: Server, tmp_path: Path
) -> None:
    bring(page, drop, "plate.png", png(np.full((61, 121), 0.5)))
    trail(page, "Heights").click()
    add(page, "Text")
    page.get_by_label("Text", exact=True).fill("Dome\nNo. 4")
    type_length(page, "Height", "1.5")
    closed(page)
    expect(trail(page, "Heights")).to_contain_text("2 in the build-up")
    expect(trail(page, "Heights")).to_contain_text("2.5 to 4 mm")
    # Dragged in the picture by its middle, then made larger by its corner.
    at = placer(page, 121, 61)
    page.mouse.move(*at((60, 30)))
    page.mouse.down()
    page.mouse.move(*at((70, 28)), steps=4)
    page.mouse.move(*at((84, 24)), steps=4)
    page.mouse.up()
    closed(page)
    entry = art_of(recipe_of(page, server))["build_up"][1]
    assert entry["x"]["mm"] == pytest.approx(20, abs=0.6)
    assert entry["y"]["mm"] == pytest.approx(5, abs=0.6)
    assert entry["capital"]["mm"] == 8
    grip = page.locator("[data-grip='Size']").bounding_box()
    assert grip
    x, y = grip["x"] + grip["width"] / 2, grip["y"] + grip["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 6, y - 4, steps=3)
    page.mouse.move(x + 14, y - 9, steps=3)
    page.mouse.up()
    closed(page)
    assert art_of(recipe_of(page, server))["build_up"][1]["capital"]["mm"] > 8.5
    # One drag is one step.
    page.keyboard.press("Control+z")
    expect(page.get_by_label("Capital height", exact=True)).to_have_value("8 mm")
    closed(page)
    mesh = exported(page, tmp_path)
    assert mesh.is_watertight
    assert mesh.bounds[1][2] == pytest.approx(1 + 1.5 + 1.5, abs=1e-3)
    # Strokes too thin for the nozzle are said to be so, with the size that prints.
    type_length(page, "Capital height", "3")
    expect(build_up(page)).to_contain_text("thinner than two nozzle lines")
    # A letter that the typeface lacks: the entry is marked, the rest still stands.
    page.get_by_label("Text", exact=True).fill("Dome ⌘")
    expect(build_up(page)).to_contain_text("the typeface has no “⌘”")
    expect(trail(page, "Heights")).to_contain_text("1 not applied")


def test_shapes_cut_frames_stand_and_the_order_counts(
    page: Page, drop: Drop, tmp_path: Path
) -> None:
    bring(page, drop, "slab.png", png(np.zeros((81, 81))))
    trail(page, "Heights").click()
    add(page, "Frame")
    type_length(page, "Height", "2")
    expect(trail(page, "Heights")).to_contain_text("1 to 3 mm")
    add(page, "Shape")
    page.get_by_label("Shape", exact=True).select_option("ring")
    page.get_by_label("Joins by").select_option("cut")
    type_length(page, "Diameter", "40")
    type_length(page, "Band", "4")
    closed(page)
    # A ring cut through leaves its middle connected to nothing: said, marked, and held.
    expect(trail(page, "Heights")).to_contain_text("1 loose part")
    expect(page.locator(".island-mark")).to_have_count(1)
    assert exported(page, tmp_path).body_count == 2
    page.get_by_text("hold", exact=True).click()
    type_length(page, "Holding plate", "0.8")
    closed(page)
    held = exported(page, tmp_path)
    assert held.body_count == 1
    band = np.pi * (20**2 - 16**2)
    frame = 100**2 - 92**2
    assert held.volume == pytest.approx(100**2 - band + 0.8 * band + 2 * frame, rel=1e-3)
    page.get_by_text("drop", exact=True).click()
    closed(page)
    assert exported(page, tmp_path).volume == pytest.approx(
        100**2 - np.pi * 20**2 + 2 * frame, rel=1e-3
    )
    # Under the picture the ring cuts nothing.
    ring = build_up(page).get_by_role("button", name=re.compile("Ring"), expanded=True)
    ring.focus()
    page.keyboard.press("Alt+ArrowDown")
    page.keyboard.press("Alt+ArrowDown")
    closed(page)
    assert exported(page, tmp_path).volume == pytest.approx(100**2 + 2 * frame, rel=1e-3)


def test_a_stamp_is_mirrored_turned_over_and_leaned(page: Page, drop: Drop, tmp_path: Path) -> None:
    step = np.zeros((101, 101))
    step[:, :30] = 1
    bring(page, drop, "stamp.png", png(step))
    trail(page, "Heights").click()
    page.get_by_label("Mirror, left for right").click()
    page.get_by_label("Negative, high for low").click()
    closed(page)
    expect(trail(page, "Heights")).to_contain_text("mirrored, negative")
    mesh = exported(page, tmp_path)
    # White on the left stood high; turned over and mirrored it lies low on the right.
    right = mesh.vertices[mesh.vertices[:, 0] > 99.9]
    left = mesh.vertices[mesh.vertices[:, 0] < 0.1]
    assert right[:, 2].max() == pytest.approx(1, abs=1e-3)
    assert left[:, 2].max() == pytest.approx(4, abs=1e-3)
    type_length(page, "Draft", "20")
    closed(page)
    leaned = exported(page, tmp_path)
    assert leaned.is_watertight
    steep = np.abs(leaned.face_normals[:, 2])
    inside = (leaned.triangles_center[:, 0] > 1) & (leaned.triangles_center[:, 0] < 99)
    inside &= (leaned.triangles_center[:, 1] > 1) & (leaned.triangles_center[:, 1] < 99)
    assert steep[inside].min() > np.sin(np.radians(18))


def test_the_section_is_seen_closer_marked_and_dragged_on_the_piece(page: Page, drop: Drop) -> None:
    bring(page, drop, "closer.png", png(ramp(101, 201)))
    trail(page, "Heights").click()
    strip = page.get_by_label("Section strip")
    expect(strip.get_by_role("slider")).to_have_attribute(
        "aria-label", re.compile("from 1 to 4 mm")
    )
    expect(strip.locator("[data-comb='line']")).not_to_have_count(0)
    before = strip.locator("[data-comb='line']").count()
    for _ in range(4):
        strip.get_by_role("button", name="Closer along the section").click()
    expect(strip.get_by_role("slider")).to_have_attribute(
        "aria-label", re.compile(r"from 2\.4\d? to 2\.(59|6) mm")
    )
    assert 0 < strip.locator("[data-comb='line']").count() < before
    strip.get_by_role("button", name="all of it").click()
    box = strip.bounding_box()
    assert box
    wide = box["width"] - 64
    for share in (0.25, 0.75):
        page.mouse.click(box["x"] + 46 + wide * share, box["y"] + 90)
    expect(strip).to_contain_text(
        re.compile(r"between the marks (49\.9\d?|50(\.\d+)?) mm along, 1\.\d+ mm in height")
    )
    # From above, the line is dragged down over the piece.
    seen = view_pixels(page)
    page.keyboard.press("Shift+Digit3")
    once_changed(page, seen)
    view = page.get_by_label("Piece view").locator("canvas").bounding_box()
    assert view
    middle = (view["x"] + view["width"] / 2, view["y"] + view["height"] / 2)
    line = page.locator("[data-grip='Section line']")
    was = float(line.get_attribute("y1") or 0)
    page.mouse.move(middle[0] - 20, middle[1])
    expect(strip.get_by_role("status")).to_contain_text("mm high")
    page.mouse.down()
    page.mouse.move(middle[0] - 20, middle[1] + 20, steps=4)
    page.mouse.move(middle[0] - 20, middle[1] + 40, steps=4)
    page.mouse.up()
    page.wait_for_function(
        "was => document.querySelector(\"[data-grip='Section line']\").y1.baseVal.value > was + 10",
        arg=was,
    )


def test_heights_are_saved_and_brought_back_in_mm(
    page: Page, drop: Drop, tmp_path: Path, server: Server
) -> None:
    bring(page, drop, "keep.png", png(ramp(60, 90)))
    trail(page, "Heights").click()
    type_length(page, "Relief depth", "4.5")
    closed(page)
    with page.expect_download() as download:
        page.get_by_role("button", name="Float TIFF").click()
    path = tmp_path / "heights.tif"
    download.value.save_as(path)
    page.goto(server.url)
    drop("heights.tif", path.read_bytes())
    expect(trail(page, "Heights")).to_contain_text("1 to 5.5 mm")
    expect(trail(page, "Form")).to_contain_text("100 × 66.3 mm")


def test_the_workshop_says_what_a_line_is_worth(page: Page, drop: Drop, server: Server) -> None:
    page.get_by_role("link", name="Workshop").click()
    page.get_by_role("button", name="Add a printer").click()
    form = page.get_by_role("form", name="New printer")
    form.get_by_label("Name").fill("Gallery printer")
    form.get_by_label("Nozzle").fill("0.8")
    form.get_by_label("Line width").fill("0.9")
    form.get_by_label("Layer height").fill("1.2")
    form.get_by_role("button", name="Keep").click()
    # Refused, and what was typed is still there.
    expect(page.get_by_role("alert")).to_contain_text("higher than the nozzle is wide")
    expect(form.get_by_label("Line width")).to_have_value("0.9")
    form.get_by_label("Layer height").fill("0.4")
    form.get_by_role("button", name="Keep").click()
    expect(page.get_by_role("article", name="Gallery printer")).to_contain_text("0.9 mm lines")
    page.goto(server.url)
    bring(page, drop, "lines.png", png(ramp(60, 90)))
    trail(page, "Heights").click()
    type_length(page, "Backing", "4 lines")
    expect(page.get_by_text("= 1.68 mm")).to_be_visible()
    trail(page, "Finish").click()
    page.get_by_label("Printer", exact=True).select_option(label="Gallery printer")
    expect(page.get_by_label("Section strip")).to_contain_text("0.9 mm lines · 0.4 mm layers")
    expect(trail(page, "Heights")).to_contain_text("3.6 to 6.6 mm")
    trail(page, "Heights").click()
    expect(page.get_by_label("Backing", exact=True)).to_have_value("4 lines")
    type_length(page, "Backing", "2 layers")
    expect(page.get_by_text("= 0.8 mm")).to_be_visible()
    # Taken out by mistake, and put back.
    page.goto(f"{server.url}workshop")
    page.get_by_role("button", name="Take out Gallery printer").click()
    expect(page.get_by_role("article", name="Gallery printer")).to_have_count(0)
    page.get_by_role("button", name="Put it back").click()
    expect(page.get_by_role("article", name="Gallery printer")).to_be_visible()
