"""Bodies begun without a file, and art laid on them, worked on and tried."""

import re
from pathlib import Path

import numpy as np
from playwright.sync_api import Locator, Page, expect

from nebrel.core.formats.meshes import read_mesh
from nebrel.core.mesh.measure import measure
from tests.e2e.axe import findings
from tests.e2e.conftest import Server, drop_file
from tests.e2e.test_bodies import downloaded, in_the_middle, px_per_mm
from tests.e2e.test_first_slice import trail, type_length
from tests.e2e.test_saving import saved
from tests.pictures import png, ramp


def begin(page: Page, url: str, shape: str) -> None:
    page.goto(url)
    page.get_by_role("button", name="Begin with a shape").click()
    page.get_by_role("dialog").get_by_role("button", name=re.compile(f"^{shape} ")).click()
    trail(page, "Body").click()
    expect(page.get_by_role("heading", name="Body", exact=True)).to_be_visible()
    expect(trail(page, "Finish")).to_contain_text("closed")


def lay(page: Page, source: str) -> None:
    trail(page, "Decorations").click()
    page.get_by_role("button", name="Lay on it").click()
    page.locator(".adding-menu").get_by_role("button", name=re.compile(f"^{source} ")).click()


def figure(page: Page, name: str) -> Locator:
    return page.locator("dt", has_text=re.compile(f"^{name}$")).locator(
        "xpath=following-sibling::dd[1]"
    )


def number(page: Page, name: str, value: str) -> None:
    field = page.get_by_role("textbox", name=name, exact=True)
    field.fill(value)
    field.press("Enter")


def exported(page: Page, folder: Path, kind: str = "STL") -> Path:
    page.get_by_role("button", name="Export").click()
    page.get_by_label("Format", exact=True).select_option(kind)
    press = page.get_by_role("button", name=f"Download {kind}").click
    found = downloaded(page, folder, press, f".{kind.lower()}")
    page.keyboard.press("Escape")
    return found


def test_lettering_is_laid_around_a_column_and_changed_afterwards(
    page: Page, server: Server, tmp_path: Path
) -> None:
    begin(page, server.url, "Cylinder")
    assert findings(page) == []
    type_length(page, "Tall", "40 mm")
    expect(trail(page, "Body")).to_contain_text("40 × 40 mm")
    lay(page, "Lettering")
    expect(trail(page, "Decorations")).to_contain_text("1 on it")
    page.get_by_text("around an axis", exact=True).click()
    expect(figure(page, "Once around")).to_have_text(re.compile(r"^125\.6\d mm$"))
    page.get_by_role("button", name="Work on the art").click()
    expect(page.get_by_role("heading", name="Heights", exact=True)).to_be_visible()
    expect(page.get_by_role("region", name="Picture view")).to_be_visible()
    expect(page.locator(".entry-outline")).to_have_count(1)
    page.get_by_role("textbox", name="Text", exact=True).fill("OO")
    expect(trail(page, "Heights")).to_contain_text("OO", ignore_case=True)
    assert findings(page) == []
    trail(page, "Decorations").click()
    expect(page.get_by_text("OO", exact=True).first).to_be_visible()
    number(page, "How often", "4")
    type_length(page, "Depth", "2 mm")
    saved(page)
    before = measure(read_mesh(exported(page, tmp_path)))
    assert before.manifold and before.bodies == 1
    assert before.volume_mm3 > np.pi * 400 * 40
    page.get_by_label("It is", exact=True).select_option("sink")
    saved(page)
    sunk = measure(read_mesh(exported(page, tmp_path)))
    assert sunk.manifold and sunk.volume_mm3 < np.pi * 400 * 40
    page.keyboard.press("Control+z")
    expect(page.get_by_label("It is", exact=True)).to_have_value("raise")


def test_a_made_picture_is_sized_by_dragging_and_pressed_again(page: Page, server: Server) -> None:
    begin(page, server.url, "Ball")
    page.get_by_role("button", name="front", exact=True).click()
    lay(page, "A made picture")
    sheet = page.get_by_role("dialog", name="Make a picture")
    expect(sheet.get_by_role("img", name="craters, as the dials have it")).to_be_visible()
    sheet.get_by_role("button", name="rosettes").click()
    assert findings(page) == []
    sheet.get_by_role("button", name="Lay it on").click()
    expect(trail(page, "Decorations")).to_contain_text("1 on it")
    page.get_by_text("sizes and turns", exact=True).click()
    x, y = in_the_middle(page)
    reach = 6 * px_per_mm(page)
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + reach / 2, y, steps=3)
    page.mouse.move(x, y - reach, steps=3)
    page.mouse.up()
    saved(page)
    wide = page.get_by_role("textbox", name="Wide", exact=True)
    expect(wide).to_have_value(re.compile(r"^(9|1[0-3])\b"))
    turn = page.get_by_role("textbox", name="Turn", exact=True)
    expect(turn).to_have_value(re.compile(r"^(8[5-9]|9[0-5])"))
    page.get_by_text("presses more", exact=True).click()
    page.mouse.click(x + 16 * px_per_mm(page), y)
    expect(trail(page, "Decorations")).to_contain_text("2 on it")
    page.keyboard.press("Control+z")
    expect(trail(page, "Decorations")).to_contain_text("1 on it")


def test_a_picture_dropped_on_a_body_is_laid_on_it(page: Page, server: Server) -> None:
    begin(page, server.url, "Box")
    drop_file(page, "ramp.png", png(ramp(30, 40)))
    page.get_by_role("dialog").get_by_role("button", name="On this body").click()
    expect(trail(page, "Decorations")).to_contain_text("1 on it")
    expect(page.get_by_role("button", name="Point or drag on the piece")).to_be_visible()
    expect(figure(page, "Lines become")).to_contain_text("as long")
    trail(page, "Picture").click()
    expect(page.get_by_text("Of the decoration that is open.")).to_be_visible()
    expect(figure(page, "Brought in")).to_have_text("ramp.png")
    page.keyboard.press("Control+z")
    expect(trail(page, "Decorations")).to_contain_text("none")
    expect(page.get_by_role("heading", name="Body", exact=True)).to_be_visible()


def test_a_texture_covers_a_dome_and_its_depth_stays_open(
    page: Page, server: Server, tmp_path: Path
) -> None:
    begin(page, server.url, "Dome")
    lay(page, "A texture")
    sheet = page.get_by_role("dialog", name="Make a picture")
    sheet.get_by_role("button", name="scales").click()
    sheet.get_by_role("button", name="Lay it on").click()
    expect(trail(page, "Decorations")).to_contain_text("all over")
    row = page.get_by_role("listitem", name="scales, all over")
    expect(row).to_be_visible()
    page.get_by_text("around an axis", exact=True).click()
    # Few triangles, so that the file is soon made.
    type_length(page, "Tile", "40 mm")
    type_length(page, "Depth", "1 mm")
    expect(row).to_contain_text("1 deep")
    assert findings(page) == []
    saved(page)
    report = measure(read_mesh(exported(page, tmp_path)))
    assert report.manifold
    assert 30.4 < report.size_mm[2] < 31.05


def test_a_decoration_is_tried_in_several_depths_and_used_on_another_body(
    page: Page, server: Server
) -> None:
    begin(page, server.url, "Plate")
    lay(page, "A shape")
    expect(figure(page, "Lines become")).to_contain_text("1 to 1")
    page.get_by_role("button", name="stretch", exact=True).click()
    expect(page.locator(".legend")).to_contain_text("lines become longer or shorter by")
    page.get_by_role("button", name="Strength trial").click()
    number(page, "How many", "3")
    assert findings(page) == []
    page.get_by_role("button", name="Make the plate").click()
    expect(page.get_by_role("heading", name="Trial for Ellipse")).to_be_attached()
    trail(page, "Decorations").click()
    expect(trail(page, "Decorations")).to_contain_text("6 on it")
    expect(page.get_by_role("listitem", name="0.4 mm")).to_be_visible()
    begin(page, server.url, "Ball")
    trail(page, "Decorations").click()
    page.get_by_role("button", name="Lay on it").click()
    page.locator(".adding-menu").get_by_role("button", name="Ellipse Plate").click()
    expect(trail(page, "Decorations")).to_contain_text("1 on it")


def test_a_piece_begins_on_another_or_with_a_made_picture(page: Page, server: Server) -> None:
    begin(page, server.url, "Bottle")
    place = page.locator(".profile-place").nth(1)
    expect(place).to_be_visible()
    number(page, "Radius there", "30")
    expect(trail(page, "Body")).to_contain_text("60 × 60 mm")
    saved(page)
    page.goto(server.url)
    page.get_by_role("button", name="More for Bottle").first.click()
    page.get_by_role("button", name="Begin another on it").click()
    expect(page.get_by_role("heading", name="On Bottle")).to_be_attached()
    expect(trail(page, "Finish")).to_contain_text("closed")
    page.goto(server.url)
    page.get_by_role("button", name="Make a picture").click()
    page.get_by_role("dialog").get_by_role("button", name="knots").click()
    page.get_by_role("button", name="Begin a piece with it").click()
    expect(page.get_by_role("heading", name="Picture", exact=True)).to_be_visible()
    expect(trail(page, "Picture")).to_contain_text("16-bit")
