"""From a picture on the shelf to a file, and what the shelf does with its pieces."""

import re
import sqlite3
from contextlib import closing
from pathlib import Path

import numpy as np
from playwright.sync_api import Page, expect

from nebrel.core.formats.meshes import read_mesh
from nebrel.demo.photograph import photograph
from nebrel.demo.pictures import as_png, craters
from tests.e2e.conftest import Server
from tests.e2e.hands import (
    at_stop,
    brought,
    canvas,
    drag,
    drop_file,
    dropped,
    exported,
    middle_of,
    once_changed,
    opened,
    saved,
    shows,
    solid,
    trail,
    typed,
    view_pixels,
)
from tests.pictures import png, ramp
from tests.waiting import until


def test_from_a_dropped_picture_to_a_printable_stl(shelf: Page, tmp_path: Path) -> None:
    page = shelf
    expect(page.get_by_text("The shelf is empty")).to_be_visible()
    dropped(page, "north crater.png", as_png(craters(200, 260)))
    expect(canvas(page)).to_be_visible()
    expect(trail(page, "Picture")).to_contain_text("260 × 200, 16-bit")
    expect(trail(page, "Form")).to_contain_text("100 × 76.8 mm")

    typed(page, "Width", "3 in")
    expect(page.get_by_text("= 76.2 mm")).to_be_visible()
    expect(trail(page, "Form")).to_contain_text("76.2 × 58.5 mm")
    trail(page, "Heights").click()
    typed(page, "Relief depth", "5")
    expect(trail(page, "Heights")).to_contain_text("1 to 6 mm")
    typed(page, "Backing", "2 mm")
    expect(trail(page, "Heights")).to_contain_text("2 to 7 mm")

    page.keyboard.press("Tab")
    page.get_by_role("button", name="Undo").click()
    expect(trail(page, "Heights")).to_contain_text("1 to 6 mm")
    shows(page, "Backing", "1 mm")
    page.get_by_role("button", name="Redo").click()
    expect(trail(page, "Heights")).to_contain_text("2 to 7 mm")

    # The whole history is still there where it is opened anew.
    page.reload()
    at_stop(page, "Heights")
    expect(trail(page, "Heights")).to_contain_text("2 to 7 mm")
    expect(trail(page, "Finish")).to_contain_text("closed, as made, within 0.01 mm")

    path = exported(page, tmp_path)
    mesh = solid(path)
    assert np.allclose(mesh.extents, [76.2, 76.2 / 259 * 199, 7], atol=0.011)
    assert np.allclose(mesh.bounds[0], [0, 0, 0], atol=1e-6)
    shown = page.get_by_label("Trail").inner_text().replace("\u2009", "")
    assert f"{len(mesh.faces)} triangles" in shown

    # In another format, which is remembered the next time.
    assert len(read_mesh(exported(page, tmp_path, "3MF")).faces) == len(mesh.faces)
    page.get_by_role("button", name="Export").click()
    shows(page, "Format", "3MF")
    with page.expect_download() as download:
        page.get_by_role("button", name="Download 3MF").click()
    assert download.value.suggested_filename == "north crater.3mf"


def test_the_piece_follows_while_a_slider_moves(page: Page, server: Server) -> None:
    brought(page, server, "slide.png", png(ramp(120, 160)))
    trail(page, "Heights").click()
    before = view_pixels(page)
    slider = page.get_by_label("Relief depth, slider")
    box = slider.bounding_box()
    assert box
    middle = box["y"] + box["height"] / 2
    # The thumb stands at 3 of 0.2 to 20 mm; its centre runs half a thumb inside the track.
    page.mouse.move(box["x"] + 8 + (box["width"] - 16) * 2.8 / 19.8, middle)
    page.mouse.down()
    for share in (0.2, 0.3, 0.4):
        with page.expect_response("**/api/preview"):  # it rests, and is seen
            page.mouse.move(box["x"] + box["width"] * share, middle)
    page.mouse.up()
    once_changed(page, before)
    expect(page.get_by_label("Relief depth", exact=True)).not_to_have_value("3 mm")
    # One drag is one step back, however slowly it went.
    page.keyboard.press("Control+z")
    shows(page, "Relief depth", "3 mm")
    slider.press("ArrowRight")
    shows(page, "Relief depth", "3.1 mm")


def test_views_mesh_lines_and_more_room_change_what_is_seen(page: Page, server: Server) -> None:
    brought(page, server, "band.png", png(ramp(60, 240)))
    seen = view_pixels(page)
    for key in ("Shift+Digit1", "Shift+Digit2", "Shift+Digit3", "l"):
        page.keyboard.press(key)
        seen = once_changed(page, seen)
    x, y = middle_of(canvas(page))
    drag(page, [(x, y), (x + 90, y - 40)])
    seen = once_changed(page, seen)
    page.mouse.wheel(0, -400)
    seen = once_changed(page, seen)
    page.keyboard.press("l")
    page.get_by_label("Piece view").get_by_role("button", name="all", exact=True).click()
    seen = once_changed(page, seen)
    ground = float(np.median(seen))
    page.get_by_label("Piece view").get_by_role("button", name="fill").click()
    expect(page.get_by_role("button", name="both views")).to_be_visible()
    # Of a wide piece the width decides: it takes the same share of a room twice as wide.
    until(lambda: stone(view_pixels(page), ground) >= 2 * stone(seen, ground))


def stone(view: np.ndarray, ground: float) -> int:
    """How many pixels in the middle of a view are darker than its ground."""
    rows = view.shape[0]
    return int((view[rows // 6 : -rows // 5] < ground - 12).sum())


def test_a_piece_that_cannot_be_read_costs_its_own_card(page: Page, server: Server) -> None:
    piece = server.bring("spoiled.png", png(ramp(50, 70)))
    server.bring("sound.png", png(ramp(50, 71)))
    opened(page, server, piece)
    typed(page, "Width", "50")
    expect(trail(page, "Form")).to_contain_text("50 × ")
    saved(page)
    with closing(sqlite3.connect(server.database)) as database, database:
        database.execute(
            "UPDATE revision SET recipe = '{' || substr(recipe, 20) WHERE number = 2 "
            "AND piece_id = ?",
            (piece["id"],),
        )
    page.get_by_label("Nebrel, to the shelf").click()
    page.reload()
    card = page.get_by_role("article", name="spoiled")
    expect(card).to_contain_text("not readable")
    expect(card.locator(".piece-trouble")).to_contain_text("recipe")
    expect(card.get_by_role("link")).to_have_count(0)
    expect(page.get_by_role("article")).to_have_count(2)
    page.get_by_label("More for spoiled").click()
    page.get_by_role("button", name="Undo its last change").click()
    card.get_by_role("link").click()
    expect(trail(page, "Form")).to_contain_text("100 × ")


def test_what_cannot_be_read_is_said_and_the_shelf_stays(page: Page, server: Server) -> None:
    server.bring("kept.png", png(ramp()))
    page.goto(server.url)
    expect(page.get_by_role("article")).to_have_count(1)
    for name, reason in (
        ("words.png", "nothing that a piece begins with"),
        ("not a mesh.obj", "Line 2 cannot be read"),
    ):
        drop_file(page, name, b"v 0 0 0\nf 1 2 9\n")
        notice = page.get_by_role("alert").filter(has_text=re.compile(name, re.IGNORECASE))
        expect(notice).to_contain_text(reason)
        notice.get_by_role("button", name="Close").click()
    expect(page.get_by_role("article")).to_have_count(1)


def test_wrong_numbers_are_said_in_place_and_the_piece_stays(page: Page, server: Server) -> None:
    brought(page, server, "numbers.png", png(ramp()))
    trail(page, "Heights").click()
    typed(page, "Relief depth", "3 parsec")
    expect(page.get_by_text("“parsec” is not a unit known here")).to_be_visible()
    typed(page, "Relief depth", "0")
    expect(page.get_by_role("alert")).to_contain_text("nearest that works is 0.01 mm")
    expect(page.get_by_text("last change not kept")).to_be_visible()
    expect(canvas(page)).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    shows(page, "Relief depth", "3 mm")
    expect(page.get_by_role("alert")).to_have_count(0)
    # Stepped after typing, a number goes on from there.
    box = page.get_by_label("Relief depth", exact=True)
    box.fill("5")
    box.press("ArrowUp")
    expect(box).to_have_value("5.1 mm")
    draft = page.get_by_label("Draft", exact=True)
    draft.fill("10")
    draft.press("ArrowDown")
    expect(draft).to_have_value("9.5")
    expect(trail(page, "Heights")).to_contain_text("1 to 6.1 mm")
    saved(page)
    page.reload()
    expect(trail(page, "Heights")).to_contain_text("1 to 6.1 mm")


def test_shelf_rename_duplicate_search_delete_and_put_back(page: Page, server: Server) -> None:
    server.bring("comet.png", png(ramp()))
    page.goto(server.url)
    card = page.get_by_role("article", name="comet", exact=True)
    image = card.locator("img")
    expect(image).to_have_attribute("src", re.compile("made$"))
    expect(image).to_have_js_property("naturalWidth", 592)

    card.get_by_label("More for comet").click()
    page.get_by_role("button", name="Rename").click()
    page.get_by_label("Name of the piece").fill("Comet badge")
    page.keyboard.press("Enter")
    expect(page.get_by_role("article", name="Comet badge", exact=True)).to_be_visible()
    page.get_by_label("More for Comet badge").click()
    page.get_by_role("button", name="Duplicate").click()
    copy = page.get_by_role("article", name="Comet badge, copy")
    expect(copy).to_be_visible()

    page.keyboard.press("/")
    page.keyboard.type("badge, co")
    expect(page.get_by_role("article")).to_have_count(1)
    page.get_by_label("More for Comet badge, copy").click()
    page.get_by_role("button", name="Delete").click()
    expect(page.get_by_text("No piece is called")).to_be_visible()
    page.get_by_role("button", name="Put it back").click()
    expect(copy).to_be_visible()


def test_choosing_and_pasting_a_file(shelf: Page) -> None:
    page = shelf
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Choose a file").click()
    chooser.value.set_files({"name": "chosen.png", "mimeType": "image/png", "buffer": png(ramp())})
    name = page.get_by_label("Name of the piece")
    expect(name).to_have_value("chosen")
    page.get_by_label("Nebrel, to the shelf").click()
    expect(page.get_by_label("Bring a picture, a drawing or a mesh", exact=True)).to_be_visible()

    def pasted() -> bool:
        # Listening begins a moment after the shelf is painted; what was not heard is pasted again.
        page.evaluate(
            """bytes => {
                const data = new DataTransfer();
                const file = new File([new Uint8Array(bytes)], "pasted.png", { type: "image/png" });
                data.items.add(file);
                window.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data }));
            }""",
            list(png(ramp(20, 30))),
        )
        try:
            expect(name).to_have_value("pasted", timeout=5_000)
        except AssertionError:
            return False
        return True

    until(pasted)


def test_a_long_evaluation_shows_progress_and_can_be_called_off(page: Page, server: Server) -> None:
    brought(page, server, "dusk.jpg", photograph(900, 1200))
    trail(page, "Finish").click()
    page.get_by_text("exactly as in the picture").click()
    page.get_by_role("button", name="Cancel").click()
    expect(page.get_by_text("full quality was called off")).to_be_visible()
    expect(trail(page, "Finish")).to_contain_text("called off")
    typed(page, "Tolerance", "5 mm")
    expect(trail(page, "Finish")).to_contain_text("closed, within 5 mm")
