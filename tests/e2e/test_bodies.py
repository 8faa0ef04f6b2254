"""A mesh brought to the shelf: its report, its finish steps, and out again."""

import re
from collections.abc import Callable
from pathlib import Path
from zipfile import ZipFile

import numpy as np
import pytest
import trimesh
from playwright.sync_api import Locator, Page, expect

from nebrel.core.formats.meshes import read_mesh
from nebrel.core.mesh.measure import measure
from tests.e2e.axe import findings
from tests.e2e.test_first_slice import Drop, bring, trail, type_length
from tests.e2e.test_saving import saved
from tests.pictures import png, ramp
from tests.web.test_bodies import ball, in_file


def torn() -> trimesh.Trimesh:
    """A ball with a hole, and a face that looks inwards."""
    whole = ball()
    faces = whole.faces.copy()
    faces[100] = faces[100][::-1]
    return trimesh.Trimesh(whole.vertices, np.delete(faces, [7, 8, 9], axis=0), process=False)


def bring_mesh(page: Page, drop: Drop, name: str, mesh: trimesh.Trimesh) -> None:
    drop(name, in_file(mesh))
    expect(page.get_by_role("heading", name="Body", exact=True)).to_be_visible()


def steps(page: Page) -> Locator:
    return page.get_by_role("region", name="Finish steps")


def add(page: Page, name: str) -> None:
    trail(page, "Finish").click()
    steps(page).get_by_role("button", name="Add", exact=True).click()
    page.locator(".adding-menu").get_by_role("button", name=re.compile(f"^{name} ")).click()


def figure(page: Page, name: str) -> Locator:
    """A number of the step that is open."""
    told = page.get_by_role("region", name="Before and after")
    return told.locator("dt", has_text=re.compile(f"^{name}$")).locator(
        "xpath=following-sibling::dd[1]"
    )


def downloaded(page: Page, folder: Path, press: Callable[[], None], ending: str) -> Path:
    with page.expect_download() as waiting:
        press()
    path = folder / f"out{ending}"
    waiting.value.save_as(path)
    return path


def test_a_torn_mesh_is_repaired_simplified_and_exported(
    page: Page, drop: Drop, tmp_path: Path
) -> None:
    bring_mesh(page, drop, "torn ball.stl", torn())
    report = page.get_by_role("region", name="Mesh report")
    expect(report).to_contain_text("1 face that looks the wrong way")
    expect(trail(page, "Body")).to_contain_text("kinds of fault")
    report.get_by_role("button", name="Show me").first.click()
    expect(report.get_by_role("button", name="Hide")).to_be_visible()
    assert findings(page) == []

    report.get_by_role("button", name="Repair").first.click()
    expect(figure(page, "State")).to_have_text("open → closed")
    expect(trail(page, "Finish")).to_contain_text("closed, 1 step")

    add(page, "Simplify")
    limit = page.get_by_role("textbox", name="Triangles")
    limit.fill("900")
    limit.press("Enter")
    expect(figure(page, "Triangles")).to_have_text(re.compile(r"^5.120 → [89]\d\d$"))
    expect(figure(page, "Moved at most")).to_have_text(re.compile(r"^0\.\d+ mm$"))
    page.get_by_role("button", name="show where").click()
    expect(page.get_by_text("moved by “simplify”")).to_be_visible()
    expect(page.locator(".legend")).to_contain_text(re.compile(r"0\.\d+ mm"))
    assert findings(page) == []
    saved(page)

    page.get_by_role("button", name="Export").click()
    page.get_by_label("Format", exact=True).select_option("3MF")
    press = page.get_by_role("button", name="Download 3MF").click
    found = measure(read_mesh(downloaded(page, tmp_path, press, ".3mf")))
    assert (found.triangles <= 900, found.manifold) == (True, True)

    page.get_by_role("button", name="Export").click()
    press = page.get_by_role("button", name="Recipe with its mesh").click
    bundle = downloaded(page, tmp_path, press, ".zip")
    with ZipFile(bundle) as packed:
        assert "recipe.json" in packed.namelist()


def test_a_step_is_switched_off_moved_and_undone(page: Page, drop: Drop) -> None:
    bring_mesh(page, drop, "whole ball.stl", ball())
    expect(page.get_by_text("Closed, and nothing stands in the way.")).to_be_visible()
    add(page, "Scale")
    page.get_by_text("to a size", exact=True).click()
    type_length(page, "Size", "10 mm")
    expect(figure(page, "Size, mm")).to_contain_text("10 × 10 × 10")
    page.get_by_role("checkbox", name=re.compile("Scale")).uncheck()
    expect(trail(page, "Finish")).to_contain_text(re.compile("closed$"))
    page.keyboard.press("Control+z")
    expect(page.get_by_role("checkbox", name=re.compile("Scale"))).to_be_checked()
    expect(trail(page, "Finish")).to_contain_text("closed, 1 step")


def test_the_plane_of_a_trim_is_dragged_in_the_section(page: Page, drop: Drop) -> None:
    bring_mesh(page, drop, "ball to trim.stl", ball())
    expect(trail(page, "Finish")).to_contain_text("closed")
    add(page, "Trim")
    plane = page.get_by_role("slider", name="Plane of the trim")
    expect(plane).to_have_attribute("aria-valuenow", re.compile(r"^-?0(\.\d+)?$"))
    expect(figure(page, "Volume, cm³")).to_have_text(re.compile(r"^33\.\d+ → 16\.\d+$"))
    box = plane.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y - 20)
    page.mouse.move(x, y - 40)
    page.mouse.up()
    expect(plane).not_to_have_attribute("aria-valuenow", re.compile(r"^-?0(\.\d+)?$"))
    expect(figure(page, "Volume, cm³")).to_have_text(re.compile(r"^33\.\d+ → \d\.\d+$"))
    plane.press("ArrowUp")
    at = float(plane.get_attribute("aria-valuenow") or 0)
    assert 5 < at < 15
    saved(page)
    page.get_by_text("below", exact=True).click()
    expect(figure(page, "Volume, cm³")).to_have_text(re.compile(r"^33\.\d+ → [23]\d\.\d+$"))


def test_two_pieces_are_joined_and_one_changes_the_other(page: Page, drop: Drop) -> None:
    bring_mesh(page, drop, "pin.stl", trimesh.creation.box((4, 4, 30)))
    page.get_by_role("link", name="nebrel").click()
    bring_mesh(page, drop, "block.stl", trimesh.creation.box((20, 20, 20)))
    expect(trail(page, "Finish")).to_contain_text("closed")
    add(page, "Join")
    page.get_by_label("With", exact=True).select_option("pin")
    expect(page.get_by_text("It stays linked")).to_be_visible()
    page.get_by_text("taken away", exact=True).click()
    type_length(page, "z", "-15 mm")
    # 20 × 20 × 20 less 4 × 4 × 20
    expect(figure(page, "Volume, cm³")).to_have_text("8 → 7.68")
    saved(page)

    page.get_by_role("link", name="Open “pin”").click()
    expect(page.get_by_label("Name of the piece")).to_have_value("pin")
    add(page, "Scale")
    for axis in ("x", "y"):
        times = page.get_by_label(f"Times along {axis}", exact=True)
        times.fill("2")
        times.press("Enter")
    expect(figure(page, "Size, mm")).to_contain_text("8 × 8 × 30")
    saved(page)
    page.get_by_role("link", name="nebrel").click()
    page.get_by_role("link", name=re.compile("^block")).click()
    trail(page, "Finish").click()
    page.get_by_role("button", name=re.compile("^Join")).click()
    expect(figure(page, "Volume, cm³")).to_have_text("8 → 6.72")


@pytest.mark.parametrize(("axis", "side"), [("x", 60.0), ("z", 8.0)])
def test_a_relief_takes_finish_steps_too(page: Page, drop: Drop, axis: str, side: float) -> None:
    bring(page, drop, "ramp.png", png(ramp()))
    expect(trail(page, "Finish")).to_contain_text("closed")
    add(page, "Scale")
    page.get_by_text("to a size", exact=True).click()
    page.get_by_role("group", name="Along").get_by_text(axis, exact=True).click()
    type_length(page, "Size", f"{side} mm")
    expect(figure(page, "Size, mm")).to_contain_text(re.compile(rf"→.*\b{side:g}\b"))


def test_the_piece_is_measured_by_pointing(page: Page, drop: Drop) -> None:
    bring_mesh(page, drop, "plate.stl", trimesh.creation.box((40, 30, 6)))
    expect(trail(page, "Finish")).to_contain_text("closed")
    page.get_by_role("button", name="above", exact=True).click()
    page.get_by_role("button", name="measure").click()
    said = page.get_by_role("region", name="Piece view").get_by_role("status")
    expect(said).to_have_text("point at the piece")
    box = page.locator("canvas").last.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.click(x, y)
    expect(said).to_have_text("6 mm thick here")
    page.mouse.click(x + 60, y)
    expect(said).to_contain_text("mm apart")
    assert re.search(r"\((\d+\.?\d*), 0(\.\d+)?, 0\)", said.inner_text())
    page.get_by_role("button", name="measure").click()
    expect(said).to_have_count(0)


def test_a_face_that_is_pointed_at_comes_down(page: Page, drop: Drop) -> None:
    bring_mesh(page, drop, "plank.stl", trimesh.creation.box((40, 30, 6)))
    expect(trail(page, "Finish")).to_contain_text("closed")
    add(page, "Lay on a face")
    expect(figure(page, "Size, mm")).to_contain_text("40 × 30 × 6")
    page.get_by_role("button", name="front", exact=True).click()
    page.get_by_role("button", name="Point at the face").click()
    box = page.locator("canvas").last.bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    expect(figure(page, "Size, mm")).to_contain_text("→ 40 × 6 × 30")
    saved(page)


def test_a_body_is_split_to_fit_the_bed(page: Page, drop: Drop) -> None:
    bring_mesh(page, drop, "tall block.stl", trimesh.creation.box((40, 30, 80)))
    expect(trail(page, "Finish")).to_contain_text("closed")
    add(page, "Split")
    expect(figure(page, "Bodies")).to_have_text("1 → 2")
    expect(figure(page, "Size, mm")).to_contain_text("→ 85 × 30 × 44")
    type_length(page, "Pin, wide", "60 mm")
    expect(steps(page)).to_contain_text("the cut has no room for one of 60 mm")
    expect(trail(page, "Finish")).to_contain_text("1 step not done")
    page.get_by_role("button", name="walls").click()
    expect(page.locator(".legend")).to_contain_text("walls, thinnest")


def test_a_body_is_coloured_by_height(page: Page, drop: Drop) -> None:
    bring_mesh(page, drop, "ball to colour.stl", ball())
    expect(trail(page, "Finish")).to_contain_text("closed")
    add(page, "Colour")
    expect(page.get_by_label("Up to, 1", exact=True)).to_have_value(
        re.compile(r"^(20|19\.\d+) mm$")
    )
    expect(figure(page, "State")).to_have_text("closed")
    page.get_by_role("button", name="show colours").click()
    expect(page.get_by_role("button", name="colours", exact=True)).to_have_attribute(
        "aria-pressed", "true"
    )
    page.get_by_role("button", name="Another colour").click()
    expect(page.get_by_label("Up to, 2", exact=True)).to_be_visible()
    page.get_by_role("button", name="Take away colour 1").click()
    expect(page.get_by_label("Up to, 2", exact=True)).to_have_count(0)
    page.get_by_label("Coloured", exact=True).select_option("like a palette")
    page.get_by_role("button", name="Those of the workshop").click()
    expect(steps(page)).to_contain_text("it has none. Give it some first")
    assert findings(page) == []


def test_what_is_no_mesh_is_said_under_its_name(page: Page, drop: Drop) -> None:
    drop("not a mesh.obj", b"v 0 0 0\nf 1 2 9\n")
    expect(page.get_by_role("alert")).to_contain_text("Not a mesh.obj")


def in_the_middle(page: Page) -> tuple[float, float]:
    """Where the middle of the piece is drawn."""
    box = page.get_by_role("region", name="Piece view").locator("canvas").bounding_box()
    assert box is not None
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def px_per_mm(page: Page) -> float:
    bar = page.locator(".scale-bar")
    box = bar.bounding_box()
    assert box is not None
    return box["width"] / float(bar.inner_text().split()[0])


def dragged(page: Page, start: tuple[float, float], by: tuple[float, float]) -> None:
    (x, y), (dx, dy) = start, by
    page.mouse.move(x, y)
    page.mouse.down()
    for part in range(1, 7):
        page.mouse.move(x + dx * part / 6, y + dy * part / 6)
    page.mouse.up()


def test_a_plane_and_a_place_are_dragged_in_the_piece(page: Page, drop: Drop) -> None:
    bring_mesh(page, drop, "ball to hold.stl", ball())
    expect(trail(page, "Finish")).to_contain_text("closed")
    page.get_by_role("button", name="front", exact=True).click()
    add(page, "Trim")
    expect(figure(page, "Volume, cm³")).to_have_text(re.compile(r"^33\.\d+ → 16\.\d+$"))
    at = page.get_by_role("textbox", name="At")
    expect(at).to_have_value("0 mm")
    # The grip stands beside the ball: half its width and a little more to the right.
    x, y = in_the_middle(page)
    scale = px_per_mm(page)
    dragged(page, (x + (20 + 2.4) * scale, y), (0, -5 * scale))
    expect(at).to_have_value(re.compile(r"^(4\.[5-9]|5(\.[0-5])?)\d* mm$"))
    saved(page)
    page.keyboard.press("Control+z")
    expect(at).to_have_value("0 mm")


def test_a_brush_smooths_where_it_passes(page: Page, drop: Drop) -> None:
    rough = ball()
    rough.vertices += np.random.default_rng(0).normal(0, 0.2, rough.vertices.shape)
    bring_mesh(page, drop, "rough ball.stl", rough)
    expect(trail(page, "Finish")).to_contain_text("closed")
    add(page, "Smooth")
    page.get_by_text("by a brush", exact=True).click()
    expect(page.get_by_role("button", name="Draw on the piece")).to_be_visible()
    dragged(page, in_the_middle(page), (40, 10))
    expect(steps(page)).to_contain_text("1 stroke")
    expect(figure(page, "Moved at most")).to_have_text(re.compile(r"^0\.[1-5]\d* mm$"))
    dragged(page, in_the_middle(page), (-40, 10))
    expect(steps(page)).to_contain_text("2 strokes")
    page.get_by_role("button", name="Take back the last").click()
    expect(steps(page)).to_contain_text("1 stroke")
    assert findings(page) == []


def test_colours_are_merged_by_pointing(page: Page, drop: Drop, tmp_path: Path) -> None:
    bring_mesh(page, drop, "two colours.stl", ball())
    expect(trail(page, "Finish")).to_contain_text("closed")
    page.get_by_role("button", name="front", exact=True).click()
    add(page, "Colour")
    page.get_by_role("button", name="show colours").click()
    add(page, "Colour")
    page.get_by_label("Coloured").select_option("merged, or dropped")
    page.get_by_role("button", name="Merge a colour").click()
    x, y = in_the_middle(page)
    expect(page.get_by_role("button", name="Point at a colour")).to_be_visible()
    page.mouse.click(x, y - 8 * px_per_mm(page))
    expect(page.get_by_role("button", name="Now at what it becomes")).to_be_visible()
    page.mouse.click(x, y + 8 * px_per_mm(page))
    merges = page.get_by_role("list", name="Merged colours")
    expect(merges.get_by_role("img", name="#9a2b45")).to_be_visible()
    expect(merges.get_by_role("img", name="#d8ccbb")).to_be_visible()
    assert findings(page) == []
    saved(page)
    page.get_by_role("button", name="Export").click()
    page.get_by_label("Format", exact=True).select_option("OBJ + MTL")
    press = page.get_by_role("button", name="Download OBJ + MTL").click
    found = read_mesh(downloaded(page, tmp_path, press, ".zip"))
    assert found.colours is not None
    assert {tuple(row) for row in found.colours.tolist()} == {(216, 204, 187, 255)}


def test_one_fault_is_mended_and_then_the_rest(page: Page, drop: Drop) -> None:
    bring_mesh(page, drop, "torn again.stl", torn())
    report = page.get_by_role("region", name="Mesh report")
    hole = report.locator(".finding", has_text="hole")
    hole.get_by_role("button", name="Mend these").click()
    expect(page.get_by_role("checkbox", name="holes", exact=True)).to_be_checked()
    page.get_by_role("checkbox", name="faces that look the wrong way").check()
    expect(figure(page, "State")).to_have_text("open → closed")
    assert findings(page) == []
    trail(page, "Body").click()
    report.get_by_role("button", name="Repair everything").click()
    expect(figure(page, "State")).to_have_text("open → closed")
    expect(page.get_by_role("checkbox", name="holes", exact=True)).to_be_hidden()


def test_art_is_laid_on_a_body_dragged_turned_and_sunk(
    page: Page, drop: Drop, tmp_path: Path
) -> None:
    bring_mesh(page, drop, "ball to decorate.stl", ball(20, 5))
    expect(trail(page, "Finish")).to_contain_text("closed")
    page.get_by_role("button", name="front", exact=True).click()
    trail(page, "Decorations").click()
    picture = {"name": "ramp.png", "mimeType": "image/png", "buffer": png(ramp(40, 40))}
    page.get_by_label("Picture to lay on the body").set_input_files([picture])  # type: ignore[list-item]
    expect(page.get_by_role("button", name="Point or drag on the piece")).to_be_visible()
    expect(trail(page, "Decorations")).to_contain_text("1 on it")
    stretch = page.locator("dt", has_text="Lines become").locator("xpath=following-sibling::dd[1]")
    expect(stretch).to_contain_text(re.compile(r"0\.9\d* to 1"))
    type_length(page, "Wide", "12 mm")
    type_length(page, "Depth", "1.5 mm")
    before = page.get_by_role("region", name="Piece view").locator("canvas")
    expect(before).to_be_visible()
    dragged(page, in_the_middle(page), (5 * px_per_mm(page), -4 * px_per_mm(page)))
    saved(page)
    page.get_by_label("It is", exact=True).select_option("sink")
    turn = page.get_by_role("textbox", name="Turn")
    turn.fill("30")
    turn.press("Enter")
    assert findings(page) == []
    saved(page)
    page.get_by_role("button", name="Export").click()
    page.get_by_label("Format", exact=True).select_option("STL")
    press = page.get_by_role("button", name="Download STL").click
    found = read_mesh(downloaded(page, tmp_path, press, ".stl"))
    report = measure(found)
    assert report.manifold
    whole = 4 / 3 * np.pi * 20**3
    # A ramp from nothing to 1.5 mm: half of that over its square.
    assert whole - report.volume_mm3 == pytest.approx(12 * 12 * 0.75, rel=0.25)
    hollow = found.vertices[np.linalg.norm(found.vertices, axis=1) < 19]
    assert hollow[:, 0].mean() > 2
    assert hollow[:, 2].mean() > 1
    assert hollow[:, 1].max() < 0
    page.keyboard.press("Control+z")
    expect(turn).to_have_value("0")
