"""Art laid on bodies: placed by grips and lines, worked on, parted, faded, tried and kept."""

import re
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from nebrel.core.formats.meshes import read_mesh
from nebrel.core.mesh.measure import measure
from tests.e2e.conftest import Server
from tests.e2e.hands import (
    begun_as,
    canvas,
    drag,
    dragged,
    drop_file,
    exported,
    field,
    figure,
    full,
    middle_of,
    opened,
    pressed,
    px_per_mm,
    saved,
    seen_above,
    shows,
    trail,
    typed,
)
from tests.pictures import png, ramp


def begin(page: Page, server: Server, shape: str) -> None:
    begun_as(page, server, {"kind": shape}, shape.title())


def lay(page: Page, source: str) -> None:
    trail(page, "Decorations").click()
    page.get_by_role("button", name="Lay on it").click()
    page.locator(".adding-menu").get_by_role("button", name=re.compile(f"^{source} ")).click()


def lettered(page: Page, server: Server, text: str) -> None:
    """Open a plate with some lettering on it, at its decoration."""
    art = server.ask("decorations/art", "POST", {"entry": "text", "wide_mm": 24})
    art["build_up"][-1]["text"] = text
    body = {"body": {"kind": "plate"}, "name": "Plate"}
    piece = server.ask("pieces/bodies", "POST", body)
    one = {"kind": "decoration", "id": "one", "art": art, "at": [0, 0, 4], "up": [0, 1, 0]}
    piece["recipe"]["begins"]["decorations"] = [one]
    path = f"pieces/{piece['id']}/recipe"
    server.ask(path, "PUT", {"recipe": piece["recipe"], "label": "lay on"})
    opened(page, server, piece)
    trail(page, "Decorations").click()
    page.get_by_role("region", name="Decorations").locator(".ordered-open").first.click()
    full(page)


def value(page: Page, name: str) -> float:
    return float(field(page, name).input_value().split()[0])


def test_lettering_is_laid_around_a_column_and_changed_afterwards(
    shelf: Page, tmp_path: Path
) -> None:
    page = shelf
    page.get_by_role("button", name="Begin with a shape").click()
    page.get_by_role("dialog").get_by_role("button", name=re.compile("^Cylinder ")).click()
    expect(page.get_by_role("heading", name="Body", exact=True)).to_be_visible()
    typed(page, "Tall", "40 mm")
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
    trail(page, "Decorations").click()
    expect(page.get_by_text("OO", exact=True).first).to_be_visible()
    page.get_by_label("It is", exact=True).select_option("sink")
    saved(page)
    sunk = measure(read_mesh(exported(page, tmp_path)))
    assert sunk.manifold and sunk.volume_mm3 < np.pi * 400 * 40
    page.keyboard.press("Control+z")
    shows(page, "It is", "raise")


def test_a_made_picture_is_sized_by_dragging_and_pressed_again(page: Page, server: Server) -> None:
    begin(page, server, "sphere")
    page.get_by_role("button", name="front", exact=True).click()
    lay(page, "A made picture")
    sheet = page.get_by_role("dialog", name="Make a picture")
    expect(sheet.get_by_role("img", name="craters, as the dials have it")).to_be_visible()
    sheet.get_by_role("button", name="rosettes").click()
    sheet.get_by_role("button", name="Lay it on").click()
    expect(trail(page, "Decorations")).to_contain_text("1 on it")
    expect(sheet).to_have_count(0)
    page.get_by_text("sizes and turns", exact=True).click()
    x, y = middle_of(canvas(page))
    reach = 6 * px_per_mm(page)
    drag(page, [(x, y), (x + reach / 2, y), (x, y - reach)])
    saved(page)
    expect(field(page, "Wide")).to_have_value(re.compile(r"^(9|1[0-3])\b"))
    expect(field(page, "Turn")).to_have_value(re.compile(r"^(8[5-9]|9[0-5])"))
    page.get_by_text("presses more", exact=True).click()
    page.mouse.click(x + 16 * px_per_mm(page), y)
    expect(trail(page, "Decorations")).to_contain_text("2 on it")
    page.keyboard.press("Control+z")
    expect(trail(page, "Decorations")).to_contain_text("1 on it")


def test_a_picture_dropped_on_a_body_is_laid_on_it(page: Page, server: Server) -> None:
    begin(page, server, "box")
    trail(page, "Body").click()
    drop_file(page, "ramp.png", png(ramp(30, 40)))
    page.get_by_role("dialog").get_by_role("button", name="On this body").click()
    expect(trail(page, "Decorations")).to_contain_text("1 on it")
    pressed(page, "Place it on the piece")
    expect(figure(page, "Lines become")).to_contain_text("as long")
    trail(page, "Picture").click()
    expect(page.get_by_text("Of the decoration that is open.")).to_be_visible()
    expect(figure(page, "Brought in")).to_have_text("ramp.png")
    page.keyboard.press("Control+z")
    expect(trail(page, "Decorations")).to_contain_text("none")
    expect(page.get_by_role("heading", name="Body", exact=True)).to_be_visible()


def test_a_shape_is_sized_turned_and_set_along_the_edge(page: Page, server: Server) -> None:
    begin(page, server, "plate")
    lay(page, "A shape")
    full(page)
    at = seen_above(page)
    # It is 40 mm wide, as the plate of 60 allows: its grips are at its right and its upper side.
    scale = px_per_mm(page)
    dragged(page, at(20, 0), (-10 * scale, 0))
    expect(field(page, "Times as large")).not_to_have_value("1")
    assert value(page, "Times as large") == pytest.approx(0.5, abs=0.04)
    full(page)
    dragged(page, at(0, 10), (-10 * scale, -10 * scale))
    expect(field(page, "Turn")).not_to_have_value("0")
    assert value(page, "Turn") == pytest.approx(26.6, abs=4)  # the grip is 20 mm away now
    page.get_by_role("button", name="Upright").click()
    shows(page, "Turn", "0")
    page.get_by_text("along a line", exact=True).click()
    typed(page, "How often", "4")
    expect(page.get_by_text("4 × raised")).to_be_visible()


def test_a_letter_is_sunk_words_fade_and_are_kept_for_the_next(page: Page, server: Server) -> None:
    lettered(page, server, "OTO")
    at = seen_above(page)
    page.get_by_role("button", name="A part of its own depth").click()
    page.mouse.click(*at(-35, -20))
    expect(page.get_by_text("That is beside the decoration")).to_be_visible()
    page.mouse.click(*at(0, 0))
    shows(page, "Part 1", "-1 mm")
    full(page)
    page.get_by_role("combobox", name="Fades to nothing").select_option("brush")
    page.get_by_role("button", name="Brush", exact=True).click()
    dragged(page, at(0, -6), (0, -12 * px_per_mm(page)))
    expect(page.get_by_text("1 stroke so far")).to_be_visible()
    page.get_by_role("button", name="Keep as motif").click()
    page.get_by_role("dialog").get_by_label("Name").fill("Sunk letter")
    page.get_by_role("button", name="Keep it").click()
    expect(page.get_by_text("is a motif now")).to_be_visible()
    saved(page)
    page.get_by_role("button", name="Lay on it").click()
    expect(page.locator(".adding-menu").get_by_text("Sunk letter")).to_be_visible()
