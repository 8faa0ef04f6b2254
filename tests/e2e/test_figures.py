"""A picture made round: from a subject that is not alone to a coloured file."""

import re
from pathlib import Path

import cv2
import numpy as np
import trimesh
from playwright.sync_api import Page, expect

from nebrel.core.formats.meshes import read_mesh
from tests.core.test_network import brightness
from tests.e2e.axe import findings
from tests.e2e.conftest import Server, drop_file
from tests.e2e.test_bodies import in_the_middle
from tests.e2e.test_decorations import exported
from tests.e2e.test_first_slice import trail, type_length
from tests.e2e.test_picture_stop import drag, placer
from tests.e2e.test_saving import saved
from tests.pictures import png

COLS, ROWS = 240, 300


def doll(grain: float, shade: float = 0.0) -> bytes:
    """A round body, a head and two arms that stand off, on paper with a grain.

    It gets darker to the right by a share.
    """
    mask = np.zeros((ROWS, COLS), np.uint8)
    cv2.ellipse(mask, (120, 200), (52, 70), 0, 0, 360, 255, -1, cv2.LINE_AA)
    cv2.circle(mask, (120, 95), 40, 255, -1, cv2.LINE_AA)
    cv2.line(mask, (120, 160), (45, 130), 255, 22, cv2.LINE_AA)
    cv2.line(mask, (120, 160), (195, 130), 255, 22, cv2.LINE_AA)
    cover = (mask / 255.0)[..., None]
    paper = 0.92 + grain * np.random.default_rng(0).uniform(-1, 1, (ROWS, COLS, 1))
    lit = 1 - shade * np.linspace(0, 1, COLS)[None, :, None]
    found = cover * np.array([0.7, 0.3, 0.2]) * lit + (1 - cover) * paper
    return png(found.astype(np.float32), 8)


def begun(page: Page, data: bytes) -> None:
    drop_file(page, "doll.png", data)
    expect(trail(page, "Picture")).to_be_visible()
    trail(page, "Picture").click()
    page.get_by_role("region", name="Begin as").get_by_role("button", name="figure").click()
    expect(trail(page, "Figure")).to_be_visible()


def closed(page: Page) -> None:
    expect(trail(page, "Finish")).to_contain_text("closed")


def test_a_subject_is_isolated_and_becomes_a_coloured_figure(
    page: Page, server: Server, tmp_path: Path
) -> None:
    begun(page, doll(0.07))
    report = page.get_by_role("region", name="Picture report")
    expect(report).to_contain_text("The subject is not alone")
    report.get_by_role("button", name="Isolate").click()
    closed(page)
    expect(report).not_to_contain_text("not alone")
    assert findings(page) == []
    trail(page, "Figure").click()
    expect(page.get_by_role("region", name="Picture view")).to_be_visible()
    expect(page.get_by_role("region", name="Piece view")).to_be_visible()
    type_length(page, "Tall", "60 mm")
    expect(trail(page, "Figure")).to_contain_text("× 60 mm")
    page.get_by_role("textbox", name="Resolution").fill("128")
    page.keyboard.press("Enter")
    type_length(page, "Plate under it", "3 mm")
    expect(page.locator("dt", has_text="Tips at")).to_be_visible()
    closed(page)
    assert findings(page) == []
    saved(page)
    mesh = trimesh.load(exported(page, tmp_path, "PLY"))
    assert isinstance(mesh, trimesh.Trimesh) and mesh.is_volume and mesh.body_count == 1
    colours = mesh.visual.vertex_colors[:, :3]
    assert np.median(np.abs(colours.astype(int) - (178, 76, 51)).max(axis=1)) < 12
    assert mesh.bounds[1][2] - mesh.bounds[0][2] > 60


def test_an_arm_is_pushed_back_and_the_way_is_changed(
    page: Page, server: Server, tmp_path: Path
) -> None:
    begun(page, doll(0.0))
    trail(page, "Figure").click()
    page.get_by_role("textbox", name="Resolution").fill("128")
    page.keyboard.press("Enter")
    closed(page)
    saved(page)
    before = read_mesh(exported(page, tmp_path, "PLY")).vertices
    parts = page.get_by_role("region", name="Parts")
    parts.get_by_role("button", name="Add").click()
    page.locator(".adding-menu").get_by_role("button", name=re.compile("^Part")).click()
    surface = page.get_by_role("application")
    expect(surface).to_have_attribute("data-frame", re.compile(r"\d"))
    type_length(page, "Brush width", "14 mm")
    at = placer(page, COLS, ROWS)
    drag(page, [at((195, 130)), at((178, 137)), at((160, 144))])
    expect(parts).to_contain_text("1 stroke")
    type_length(page, "In front of the middle", "-6 mm")
    expect(trail(page, "Figure")).to_contain_text("1 part")
    closed(page)
    saved(page)
    pushed = read_mesh(exported(page, tmp_path, "PLY")).vertices
    arm = (pushed[:, 0] > 18) & (pushed[:, 2] > 30)
    assert pushed[arm, 1].mean() > 4
    own = (before[:, 0] > 18) & (before[:, 2] > 30)
    assert abs(before[own, 1].mean()) < 1
    page.get_by_text("turned", exact=True).click()
    expect(trail(page, "Figure")).to_contain_text("turned")
    expect(page.get_by_label("Axis found by itself")).to_be_checked()
    expect(page.get_by_text("of the middle")).to_be_visible()
    closed(page)
    assert findings(page) == []
    type_length(page, "Detail", "0.4 mm")
    closed(page)
    saved(page)
    page.keyboard.press("Control+z")
    expect(page.get_by_role("textbox", name="Detail", exact=True)).to_have_value("0 mm")
    page.keyboard.press("Control+z")
    expect(trail(page, "Figure")).to_contain_text("1 part")
    page.reload()
    closed(page)


def test_what_is_no_subject_is_said_and_the_piece_stays(page: Page, server: Server) -> None:
    rng = np.random.default_rng(0)
    begun(page, png(rng.random((120, 160, 3)).astype(np.float32), 8))
    trail(page, "Figure").click()
    expect(trail(page, "Figure")).to_contain_text("could not be made")
    expect(page.get_by_text(re.compile("subject is not isolated")).first).to_be_visible()
    page.keyboard.press("Control+z")
    expect(trail(page, "Heights")).to_be_visible()
    closed(page)


def test_figure_and_picture_lie_over_each_other_and_results_side_by_side(
    page: Page, server: Server
) -> None:
    begun(page, doll(0.0))
    closed(page)
    trail(page, "Figure").click()
    seen = page.get_by_role("region", name="Picture view")
    with page.expect_response("**/api/figures/seen.png") as answer:
        page.get_by_role("button", name="figure", exact=True).click()
    assert answer.value.ok
    expect(seen).to_have_attribute("data-busy", "false")
    with page.expect_response("**/api/figures/seen.png"):
        page.get_by_role("button", name="difference", exact=True).click()
    expect(seen).to_have_attribute("data-busy", "false")
    results = page.get_by_role("region", name="Side by side")
    results.get_by_role("button", name="See every way").click()
    expect(results.get_by_role("img")).to_have_count(4)
    assert findings(page) == []
    results.get_by_role("button", name="Take: learned").click()
    expect(trail(page, "Figure")).to_contain_text("learned")
    closed(page)
    results.get_by_role("button", name="Remove: turned").click()
    expect(results.get_by_role("img")).to_have_count(3)
    saved(page)
    page.reload()
    expect(results.get_by_role("img")).to_have_count(3)
    expect(results.get_by_role("button", name="Taken: learned")).to_be_disabled()


def test_an_axis_is_dragged_and_an_arm_turned_about_its_joint(page: Page, server: Server) -> None:
    begun(page, doll(0.0))
    closed(page)
    trail(page, "Figure").click()
    page.get_by_text("turned", exact=True).click()
    grip = page.get_by_role("button", name="Axis", exact=True)
    grip.focus()
    for _ in range(3):
        page.keyboard.press("Shift+ArrowRight")
    right = page.get_by_role("textbox", name="Right of the middle")
    expect(right).to_have_value(re.compile(r"^1\d|^2\d"))
    page.get_by_text("inflated", exact=True).click()
    parts = page.get_by_role("region", name="Parts")
    parts.get_by_role("button", name="Add").click()
    page.locator(".adding-menu").get_by_role("button", name=re.compile("^Part")).click()
    to = placer(page, COLS, ROWS)
    drag(page, [to((195, 130)), to((178, 137)), to((150, 148))])
    expect(parts).to_contain_text("1 stroke")
    page.get_by_role("button", name="set its joint").click()
    page.mouse.click(*to((145, 150)))
    expect(page.get_by_role("button", name="Joint", exact=True)).to_be_visible()
    page.get_by_role("textbox", name="Turned", exact=True).fill("35")
    page.keyboard.press("Enter")
    closed(page)
    assert findings(page) == []


def test_a_network_of_ones_own_and_a_push_are_steps_of_it(
    page: Page, server: Server, tmp_path: Path
) -> None:
    begun(page, doll(0.0, 0.8))
    closed(page)
    trail(page, "Figure").click()
    page.get_by_role("textbox", name="Resolution").fill("128")
    page.keyboard.press("Enter")
    page.get_by_text("half round", exact=True).click()
    closed(page)
    saved(page)
    before = trimesh.load(exported(page, tmp_path, "PLY")).volume
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Choose").nth(2).click()
    chooser.value.set_files({"name": "none.onnx", "mimeType": "", "buffer": b"nothing"})
    expect(page.get_by_text("It is no network that can be used")).to_be_visible()
    data = brightness(tmp_path / "own.onnx").read_bytes()
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Choose").nth(2).click()
    chooser.value.set_files({"name": "own.onnx", "mimeType": "", "buffer": data})
    expect(page.get_by_text("own.onnx", exact=True)).to_be_visible()
    closed(page)
    assert findings(page) == []
    saved(page)
    told = trimesh.load(exported(page, tmp_path, "PLY")).volume
    assert abs(told / before - 1) > 0.03
    page.get_by_role("button", name="turntable").click()
    expect(page.get_by_role("button", name="turntable")).to_have_attribute("aria-pressed", "true")
    page.get_by_role("button", name="front", exact=True).click()
    expect(page.get_by_role("button", name="turntable")).to_have_attribute("aria-pressed", "false")
    trail(page, "Finish").click()
    page.get_by_role("button", name="Add", exact=True).click()
    page.locator(".adding-menu").get_by_role("button", name=re.compile("Push or press")).click()
    page.get_by_role("button", name="Brush", exact=True).click()
    expect(page.get_by_role("button", name="Draw on the piece")).to_be_visible()
    x, y = in_the_middle(page)
    drag(page, [(x, y), (x + 12, y + 6)])
    expect(page.get_by_text("1 stroke", exact=True)).to_be_visible()
    closed(page)
    saved(page)
    pushed = trimesh.load(exported(page, tmp_path, "PLY"))
    assert pushed.is_volume and pushed.volume > told
    page.keyboard.press("Control+z")
    expect(page.get_by_text("0 strokes", exact=True)).to_be_visible()
