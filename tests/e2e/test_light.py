"""Light through a piece, and measuring a material, in a real browser."""

import re
from pathlib import Path

import cv2
import numpy as np
import trimesh
from playwright.sync_api import Page, expect

from nebrel.demo.pictures import as_png, moonlit_hills
from tests.e2e.conftest import Server
from tests.e2e.hands import (
    brought,
    canvas,
    closed,
    downloaded,
    exported,
    shows,
    solid,
    trail,
    typed,
)
from tests.waiting import until


def test_a_panel_is_made_by_light_and_held_before_the_lamp(
    page: Page, server: Server, tmp_path: Path
) -> None:
    brought(page, server, "hills.png", as_png(moonlit_hills(220, 360), 8))
    trail(page, "Heights").click()
    page.get_by_text("by light", exact=True).click()
    typed(page, "Thinnest", "0.6")
    typed(page, "Thickest", "3.2")
    closed(page)
    expect(trail(page, "Heights")).to_contain_text("by light")
    expect(page.get_by_text(re.compile(r"\d+ % of the picture is shown exactly"))).to_be_visible()
    mesh = solid(exported(page, tmp_path))
    assert mesh.bounds[1][2] < 3.2
    # Light and thickness together in the strip.
    strip = page.get_by_label("Section strip")
    expect(strip).to_contain_text("light in ochre")
    expect(strip.locator("[data-light]")).to_have_count(1)
    # Seen from above before the lamp, the piece is the picture it came from.
    page.keyboard.press("Shift+Digit3")
    page.get_by_role("button", name="light-through").click()
    wanted = moonlit_hills(220, 360)[85:106, 172:188] * 255

    def as_the_picture() -> bool:
        shot = canvas(page).screenshot()
        seen = cv2.imdecode(np.frombuffer(shot, np.uint8), cv2.IMREAD_GRAYSCALE).astype(np.float32)
        # Just above the middle of the view is just above the middle of the picture.
        y, x = seen.shape[0] // 2, seen.shape[1] // 2
        middle = seen[y - 40 : y - 10, x - 15 : x + 15]
        return bool(seen.max() > 240 and abs(middle.mean() - wanted.mean()) < 25)  # moon and hills

    until(as_the_picture)
    # Printed standing, the steps of the nozzle cost light, and the Proof stop says how much.
    trail(page, "Proof").click()
    expect(trail(page, "Proof")).to_contain_text("as computed")
    page.get_by_text("standing", exact=True).click()
    expect(trail(page, "Proof")).to_contain_text("printed standing")
    expect(page.get_by_label("Advice for the print")).to_contain_text("Infill: 100 %")
    press = page.get_by_role("button", name="Save the lit picture").click
    path = downloaded(page, tmp_path, press, ".png")
    assert cv2.imread(str(path)).shape[:2] == (220, 360)


def test_a_material_is_measured_with_a_practice_photograph(page: Page, server: Server) -> None:
    page.goto(f"{server.url}workshop")
    page.get_by_role("button", name="Measure its light: White, opaque").click()
    sheet = page.get_by_role("dialog")
    with page.expect_download() as download:
        sheet.get_by_role("link", name="Wedge as STL").click()
    assert trimesh.load(download.value.path(), file_type="stl").is_watertight
    sheet.get_by_role("button", name="Practice photograph").click()
    corner = sheet.get_by_role("slider", name="Upper left")
    expect(corner).to_be_visible()
    sheet.get_by_role("button", name="Fit", exact=True).click()
    expect(sheet.get_by_text(re.compile(r"0\.9[345]\d* ± 0\.0\d* per mm"))).to_be_visible()
    # A fit is of the corners that it was made with.
    keep = sheet.get_by_role("button", name="Keep for this material")
    expect(keep).to_be_visible()
    typed(page, "Upper left, across", "30")
    expect(keep).to_have_count(0)
    shows(page, "Upper left, across", "30")
    # Corners that do not go around the wedge: said so, and the photograph is still there.
    for name in ("Upper left", "Lower left"):
        handle = sheet.get_by_role("slider", name=name)
        was = handle.bounding_box()
        handle.press("Shift+ArrowRight")
        assert handle.bounding_box() != was
        typed(page, f"{name}, across", "1590")
    sheet.get_by_role("button", name="Fit", exact=True).click()
    expect(sheet.get_by_role("alert")).to_be_visible()
    sheet.get_by_role("button", name="Practice photograph").click()
    sheet.get_by_role("button", name="Fit", exact=True).click()
    keep.click()
    expect(page.get_by_role("article", name="White, opaque")).to_contain_text("light measured")
