"""A picture made round: from a subject that is not alone to a coloured file."""

import re
from pathlib import Path

import numpy as np
import trimesh
from playwright.sync_api import Page, expect

from tests.e2e.conftest import Server
from tests.e2e.hands import (
    add,
    closed,
    drag,
    drop_file,
    exported,
    field,
    placer,
    saved,
    shows,
    solid,
    trail,
    typed,
)
from tests.pictures import DOLL_COLS, DOLL_ROWS, doll


def begun(page: Page, server: Server, data: bytes) -> None:
    """Open a picture that begins as a figure, of few cells: it is what they do that counts."""
    piece = server.bring("doll.png", data)
    recipe = server.ask("starts/figure", "POST", {"recipe": piece["recipe"]})
    recipe["begins"]["resolution"] = 96
    server.ask(f"pieces/{piece['id']}/recipe", "PUT", {"recipe": recipe, "label": "figure"})
    page.goto(f"{server.url}pieces/{piece['id']}")
    trail(page, "Figure").click()


def on_doll(page: Page) -> list[tuple[float, float]]:
    """Along an arm of the doll, from its hand."""
    at = placer(page, DOLL_COLS, DOLL_ROWS)
    return [at((195, 130)), at((178, 137)), at((155, 146))]


def test_a_subject_is_isolated_and_becomes_a_coloured_figure(shelf: Page, tmp_path: Path) -> None:
    page = shelf
    drop_file(page, "doll.png", doll(0.07))
    page.get_by_role("region", name="Begin as").get_by_role("button", name="figure").click()
    report = page.get_by_role("region", name="Picture report")
    expect(report).to_contain_text("The subject is not alone")
    report.get_by_role("button", name="Isolate").click()
    trail(page, "Figure").click()
    typed(page, "Resolution", "96")
    expect(page.get_by_role("region", name="Picture view")).to_be_visible()
    expect(page.get_by_role("region", name="Piece view")).to_be_visible()
    typed(page, "Tall", "60 mm")
    expect(trail(page, "Figure")).to_contain_text("× 60 mm")
    typed(page, "Plate under it", "3 mm")
    expect(page.locator("dt", has_text="Tips at")).to_be_visible()
    closed(page)
    trail(page, "Picture").click()
    expect(report).not_to_contain_text("not alone")
    mesh = solid(exported(page, tmp_path, "PLY"))
    assert mesh.is_volume and mesh.body_count == 1
    colours = mesh.visual.vertex_colors[:, :3]
    assert np.median(np.abs(colours.astype(int) - (178, 76, 51)).max(axis=1)) < 12
    assert mesh.bounds[1][2] - mesh.bounds[0][2] > 60


def test_an_arm_is_pushed_back_and_the_way_is_changed(
    page: Page, server: Server, tmp_path: Path
) -> None:
    begun(page, server, doll(0.0))
    closed(page)
    before = solid(exported(page, tmp_path, "PLY")).vertices
    parts = page.get_by_role("region", name="Parts")
    add(page, "Part", "Parts")
    expect(page.get_by_role("application")).to_have_attribute("data-frame", re.compile(r"\d"))
    typed(page, "Brush width", "14 mm")
    drag(page, on_doll(page))
    expect(parts).to_contain_text("1 stroke")
    typed(page, "In front of the middle", "-6 mm")
    expect(trail(page, "Figure")).to_contain_text("1 part")
    closed(page)
    pushed = solid(exported(page, tmp_path, "PLY")).vertices
    arm = (pushed[:, 0] > 18) & (pushed[:, 2] > 30)
    assert pushed[arm, 1].mean() > 4
    own = (before[:, 0] > 18) & (before[:, 2] > 30)
    assert abs(before[own, 1].mean()) < 1
    # The arm is turned about a joint that is set by a click.
    page.get_by_role("button", name="set its joint").click()
    page.mouse.click(*placer(page, DOLL_COLS, DOLL_ROWS)((145, 150)))
    expect(page.get_by_role("button", name="Joint", exact=True)).to_be_visible()
    typed(page, "Turned", "35")
    closed(page)
    page.get_by_text("turned", exact=True).click()
    expect(trail(page, "Figure")).to_contain_text("turned")
    expect(page.get_by_label("Axis found by itself")).to_be_checked()
    grip = page.get_by_role("button", name="Axis", exact=True)
    grip.focus()
    for _ in range(3):
        page.keyboard.press("Shift+ArrowRight")
    expect(field(page, "Right of the middle")).to_have_value(re.compile(r"^1\d|^2\d"))
    saved(page)
    typed(page, "Detail", "0.4 mm")
    saved(page)
    page.keyboard.press("Control+z")
    shows(page, "Detail", "0 mm")
    for _ in range(4):
        page.keyboard.press("Control+z")
    expect(trail(page, "Figure")).not_to_contain_text("turned")
    page.reload()
    closed(page)


def test_figure_and_picture_lie_over_each_other_and_results_side_by_side(
    page: Page, server: Server
) -> None:
    begun(page, server, doll(0.0))
    seen = page.get_by_role("region", name="Picture view")
    with page.expect_response("**/api/figures/seen.png") as answer:
        page.get_by_role("button", name="figure", exact=True).click()
    assert answer.value.ok
    expect(seen).to_have_attribute("data-busy", "false")
    with page.expect_response("**/api/figures/seen.png"):
        page.get_by_role("button", name="difference", exact=True).click()
    expect(seen).to_have_attribute("data-busy", "false")
    turntable = page.get_by_role("button", name="turntable")
    turntable.click()
    expect(turntable).to_have_attribute("aria-pressed", "true")
    page.get_by_role("button", name="front", exact=True).click()
    expect(turntable).to_have_attribute("aria-pressed", "false")
    results = page.get_by_role("region", name="Side by side")
    results.get_by_role("button", name="See every way").click()
    expect(results.get_by_role("img")).to_have_count(4)
    results.get_by_role("button", name="Take: learned").click()
    expect(trail(page, "Figure")).to_contain_text("learned")
    closed(page)
    results.get_by_role("button", name="Remove: turned").click()
    expect(results.get_by_role("img")).to_have_count(3)
    saved(page)
    page.reload()
    expect(results.get_by_role("img")).to_have_count(3)
    expect(results.get_by_role("button", name="Taken: learned")).to_be_disabled()


def volume(path: Path) -> float:
    mesh = trimesh.load(path)
    assert isinstance(mesh, trimesh.Trimesh) and mesh.is_volume
    return float(mesh.volume)
