"""A mesh brought to the shelf: its report, its finish steps, and out again."""

import re
from pathlib import Path
from zipfile import ZipFile

import numpy as np
import pytest
import trimesh
from playwright.sync_api import Locator, Page, expect

from nebrel.core.formats.meshes import read_mesh
from nebrel.core.mesh.measure import measure
from tests.e2e.conftest import Server
from tests.e2e.hands import add as add_to
from tests.e2e.hands import (
    brought,
    canvas,
    closed,
    downloaded,
    dragged,
    exported,
    field,
    full,
    middle_of,
    pressed,
    px_per_mm,
    saved,
    shows,
    trail,
    typed,
)
from tests.e2e.hands import figure as figure_of
from tests.pictures import png, ramp
from tests.web.test_bodies import ball, in_file


def torn() -> trimesh.Trimesh:
    """A ball with a hole, and a face that looks inwards."""
    whole = ball()
    faces = whole.faces.copy()
    faces[100] = faces[100][::-1]
    return trimesh.Trimesh(whole.vertices, np.delete(faces, [7, 8, 9], axis=0), process=False)


def steps(page: Page) -> Locator:
    return page.get_by_role("region", name="Finish steps")


def figure(page: Page, name: str) -> Locator:
    """A number of the step that is open."""
    return figure_of(page.get_by_role("region", name="Before and after"), name)


def add(page: Page, name: str) -> None:
    trail(page, "Finish").click()
    add_to(page, name, "Finish steps")


def test_a_torn_mesh_is_repaired_simplified_and_exported(
    page: Page, server: Server, tmp_path: Path
) -> None:
    page.goto(f"{server.url}pieces/{server.bring('torn ball.stl', in_file(torn()))['id']}")
    report = page.get_by_role("region", name="Mesh report")
    expect(report).to_contain_text("1 face that looks the wrong way")
    expect(trail(page, "Body")).to_contain_text("kinds of fault")
    report.get_by_role("button", name="Show me").first.click()
    expect(report.get_by_role("button", name="Hide")).to_be_visible()
    report.get_by_role("button", name="Repair").first.click()
    expect(figure(page, "State")).to_have_text("open → closed")
    expect(trail(page, "Finish")).to_contain_text("closed, 1 step")

    add(page, "Simplify")
    typed(page, "Triangles", "900")
    expect(figure(page, "Triangles")).to_have_text(re.compile(r"^5.120 → [89]\d\d$"))
    expect(figure(page, "Moved at most")).to_have_text(re.compile(r"^0\.\d+ mm$"))
    page.get_by_role("button", name="show where").click()
    expect(page.get_by_text("moved by “simplify”")).to_be_visible()
    expect(page.locator(".legend")).to_contain_text(re.compile(r"0\.\d+ mm"))
    saved(page)
    found = measure(read_mesh(exported(page, tmp_path, "3MF")))
    assert (found.triangles <= 900, found.manifold) == (True, True)
    page.get_by_role("button", name="Export").click()
    press = page.get_by_role("button", name="Recipe with its mesh").click
    with ZipFile(downloaded(page, tmp_path, press, ".zip")) as packed:
        assert "recipe.json" in packed.namelist()
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    # A step is switched off, and that undone.
    page.get_by_role("checkbox", name=re.compile("Simplify")).uncheck()
    expect(trail(page, "Finish")).to_contain_text("closed, 1 step")
    page.keyboard.press("Control+z")
    expect(page.get_by_role("checkbox", name=re.compile("Simplify"))).to_be_checked()
    expect(trail(page, "Finish")).to_contain_text("closed, 2 steps")


def test_the_plane_of_a_trim_is_dragged_in_the_section_and_in_the_piece(
    page: Page, server: Server
) -> None:
    brought(page, server, "ball to trim.stl", in_file(ball()))
    page.get_by_role("button", name="front", exact=True).click()
    add(page, "Trim")
    plane = page.get_by_role("slider", name="Plane of the trim")
    at_zero = re.compile(r"^-?0(\.\d+)?$")
    expect(plane).to_have_attribute("aria-valuenow", at_zero)
    expect(figure(page, "Volume, cm³")).to_have_text(re.compile(r"^33\.\d+ → 16\.\d+$"))
    dragged(page, middle_of(plane), (0, -40))
    expect(plane).not_to_have_attribute("aria-valuenow", at_zero)
    expect(figure(page, "Volume, cm³")).to_have_text(re.compile(r"^33\.\d+ → \d\.\d+$"))
    plane.press("ArrowUp")
    assert 5 < float(plane.get_attribute("aria-valuenow") or 0) < 15
    saved(page)
    page.get_by_text("below", exact=True).click()
    expect(figure(page, "Volume, cm³")).to_have_text(re.compile(r"^33\.\d+ → [23]\d\.\d+$"))
    typed(page, "At", "0")
    expect(plane).to_have_attribute("aria-valuenow", at_zero)
    saved(page)
    # The grip stands beside the ball: half its width and a little more to the right.
    x, y = middle_of(canvas(page))
    scale = px_per_mm(page)
    dragged(page, (x + (20 + 2.4) * scale, y), (0, -5 * scale))
    expect(field(page, "At")).to_have_value(re.compile(r"^(4\.[5-9]|5(\.[0-5])?)\d* mm$"))
    saved(page)
    page.keyboard.press("Control+z")
    shows(page, "At", "0 mm")


def test_the_piece_is_measured_and_laid_down_by_pointing(page: Page, server: Server) -> None:
    brought(page, server, "plate.stl", in_file(trimesh.creation.box((40, 30, 6))))
    page.get_by_role("button", name="above", exact=True).click()
    page.get_by_role("button", name="measure").click()
    said = page.get_by_role("region", name="Piece view").get_by_role("status")
    expect(said).to_have_text("point at the piece")
    x, y = middle_of(canvas(page))
    page.mouse.click(x, y)
    expect(said).to_have_text("6 mm thick here")
    page.mouse.click(x + 60, y)
    expect(said).to_contain_text("mm apart")
    assert re.search(r"\(x \d+\.?\d*, y 0(\.\d+)?, z 0\)", said.inner_text())
    page.get_by_role("button", name="measure").click()
    expect(said).to_have_count(0)
    add(page, "Lay on a face")
    expect(figure(page, "Size, mm")).to_contain_text("40 × 30 × 6")
    page.get_by_role("button", name="front", exact=True).click()
    pressed(page, "Point at the face")
    page.mouse.click(*middle_of(canvas(page)))
    expect(figure(page, "Size, mm")).to_contain_text("→ 40 × 6 × 30")


def test_two_pieces_are_joined_and_one_leads_to_the_other(page: Page, server: Server) -> None:
    server.bring("pin.stl", in_file(trimesh.creation.box((4, 4, 30))))
    brought(page, server, "block.stl", in_file(trimesh.creation.box((20, 20, 20))))
    add(page, "Join")
    page.get_by_label("With", exact=True).select_option("pin")
    expect(page.get_by_text("It stays linked")).to_be_visible()
    expect(figure(page, "Volume, cm³")).to_have_text("8 → 8.32")
    page.get_by_text("taken away", exact=True).click()
    typed(page, "z", "-15 mm")
    # 20 × 20 × 20 less 4 × 4 × 20
    expect(figure(page, "Volume, cm³")).to_have_text("8 → 7.68")
    saved(page)
    page.get_by_role("link", name="Open “pin”").click()
    expect(page.get_by_label("Name of the piece")).to_have_value("pin")


def test_a_brush_smooths_where_it_passes(page: Page, server: Server) -> None:
    rough = ball()
    rough.vertices += np.random.default_rng(0).normal(0, 0.2, rough.vertices.shape)
    brought(page, server, "rough ball.stl", in_file(rough))
    add(page, "Smooth")
    page.get_by_text("by a brush", exact=True).click()
    pressed(page, "Brush")
    closed(page)
    dragged(page, middle_of(canvas(page)), (40, 10))
    expect(steps(page)).to_contain_text("1 stroke")
    expect(figure(page, "Moved at most")).to_have_text(re.compile(r"^0\.[1-5]\d* mm$"))
    dragged(page, middle_of(canvas(page)), (-40, 10))
    expect(steps(page)).to_contain_text("2 strokes")
    page.get_by_role("button", name="Take back the last").click()
    expect(steps(page)).to_contain_text("1 stroke")


def test_colours_are_given_taken_away_and_merged_by_pointing(
    page: Page, server: Server, tmp_path: Path
) -> None:
    brought(page, server, "two colours.stl", in_file(ball()))
    page.get_by_role("button", name="front", exact=True).click()
    add(page, "Colour")
    expect(page.get_by_label("Up to, 1", exact=True)).to_have_value(
        re.compile(r"^(20|19\.\d+) mm$")
    )
    page.get_by_role("button", name="Another colour").click()
    expect(page.get_by_label("Up to, 2", exact=True)).to_be_visible()
    page.get_by_role("button", name="Take away colour 1").click()
    expect(page.get_by_label("Up to, 2", exact=True)).to_have_count(0)
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+z")
    page.get_by_role("button", name="show colours").click()
    pressed(page, "colours")
    add(page, "Colour")
    page.get_by_label("Coloured").select_option("merged, or dropped")
    page.get_by_role("button", name="Merge a colour").click()
    (x, y), scale = middle_of(canvas(page)), px_per_mm(page)
    pressed(page, "Merge a colour")
    page.mouse.click(x, y - 8 * scale)
    expect(page.get_by_text("Now point at what it becomes")).to_be_visible()
    page.mouse.click(x, y + 8 * scale)
    merges = page.get_by_role("list", name="Merged colours")
    expect(merges.get_by_role("img", name="#9a2b45")).to_be_visible()
    expect(merges.get_by_role("img", name="#d8ccbb")).to_be_visible()
    saved(page)
    page.get_by_role("button", name="Export").click()
    page.get_by_label("Format", exact=True).select_option("OBJ + MTL")
    press = page.get_by_role("button", name="Download OBJ + MTL").click
    found = read_mesh(downloaded(page, tmp_path, press, ".zip"))
    assert found.colours is not None
    assert {tuple(row) for row in found.colours.tolist()} == {(216, 204, 187, 255)}


def test_art_is_laid_on_a_body_dragged_turned_and_sunk(
    page: Page, server: Server, tmp_path: Path
) -> None:
    brought(page, server, "ball to decorate.stl", in_file(ball(20, 5)))
    page.get_by_role("button", name="front", exact=True).click()
    trail(page, "Decorations").click()
    picture = {"name": "ramp.png", "mimeType": "image/png", "buffer": png(ramp(40, 40))}
    page.get_by_label("Picture to lay on the body").set_input_files([picture])  # type: ignore[list-item]
    pressed(page, "Place it on the piece")
    expect(trail(page, "Decorations")).to_contain_text("1 on it")
    expect(figure_of(page, "Lines become")).to_contain_text(re.compile(r"0\.9\d* to 1"))
    typed(page, "Wide", "12 mm")
    typed(page, "Depth", "1.5 mm")
    full(page)
    scale = px_per_mm(page)
    dragged(page, middle_of(canvas(page)), (5 * scale, -4 * scale))
    saved(page)
    page.get_by_label("It is", exact=True).select_option("sink")
    typed(page, "Turn", "30")
    saved(page)
    found = read_mesh(exported(page, tmp_path))
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
    shows(page, "Turn", "0")
