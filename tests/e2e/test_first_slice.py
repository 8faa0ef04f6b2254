"""What a person does with the first slice, in a real browser."""

import io
import re
import sqlite3
import time
from collections.abc import Callable
from contextlib import closing
from pathlib import Path
from urllib.request import Request, urlopen

import cv2
import numpy as np
import pytest
import trimesh
from playwright.sync_api import Locator, Page, expect

from nebrel.core.formats.meshes import read_mesh
from nebrel.demo.photograph import photograph
from nebrel.demo.pictures import as_png, craters
from tests.e2e.conftest import Server
from tests.pictures import declared, png, ramp

Drop = Callable[[str, bytes], None]


def trail(page: Page, stop: str) -> Locator:
    return page.get_by_role("navigation", name="Trail").get_by_role("button", name=re.compile(stop))


def type_length(page: Page, label: str, text: str) -> None:
    field = page.get_by_label(label, exact=True)
    field.fill(text)
    field.press("Enter")


def bring(page: Page, drop: Drop, name: str, data: bytes) -> None:
    drop(name, data)
    expect(page.get_by_label("Piece view").locator("canvas")).to_be_visible()
    expect(trail(page, "Finish")).to_contain_text("closed")


def view_pixels(page: Page) -> np.ndarray:
    image = page.get_by_label("Piece view").screenshot()
    return cv2.imdecode(np.frombuffer(image, np.uint8), cv2.IMREAD_GRAYSCALE).astype(float)


def once_changed(page: Page, before: np.ndarray) -> np.ndarray:
    """The piece view as soon as it shows something else."""
    deadline = time.monotonic() + 20
    while np.abs((now := view_pixels(page)) - before).max() <= 20:
        assert time.monotonic() < deadline, "nothing changed"
    return now


def test_from_a_dropped_picture_to_a_printable_stl(
    page: Page, drop: Drop, server: Server, tmp_path: Path
) -> None:
    expect(page.get_by_text("The shelf is empty")).to_be_visible()
    bring(page, drop, "north crater.png", as_png(craters(200, 260)))
    expect(trail(page, "Picture")).to_contain_text("260 × 200, 16-bit")
    expect(trail(page, "Form")).to_contain_text("100 × 76.8 mm")

    type_length(page, "Width", "3 in")
    expect(page.get_by_text("= 76.2 mm")).to_be_visible()
    expect(trail(page, "Form")).to_contain_text("76.2 × 58.5 mm")
    trail(page, "Heights").click()
    type_length(page, "Relief depth", "5")
    expect(trail(page, "Heights")).to_contain_text("1 to 6 mm")
    type_length(page, "Backing", "2 mm")
    expect(trail(page, "Heights")).to_contain_text("2 to 7 mm")

    page.keyboard.press("Tab")
    page.get_by_role("button", name="Undo").click()
    expect(trail(page, "Heights")).to_contain_text("1 to 6 mm")
    expect(page.get_by_label("Backing", exact=True)).to_have_value("1 mm")
    page.get_by_role("button", name="Redo").click()
    expect(trail(page, "Heights")).to_contain_text("2 to 7 mm")

    # The whole history is still there after the server was stopped and started.
    server.stop()
    server.start()
    page.reload()
    expect(trail(page, "Heights")).to_contain_text("2 to 7 mm")
    expect(trail(page, "Finish")).to_contain_text("closed, as made, within 0.01 mm")

    page.get_by_role("button", name="Export").click()
    with page.expect_download() as download:
        page.get_by_role("button", name="Download STL").click()
    assert download.value.suggested_filename == "north crater.stl"
    path = tmp_path / "out.stl"
    download.value.save_as(path)
    mesh = trimesh.load(path)
    assert mesh.is_watertight
    assert mesh.is_winding_consistent
    assert mesh.extents == pytest.approx([76.2, 76.2 / 259 * 199, 7], abs=0.011)
    assert mesh.bounds[0] == pytest.approx([0, 0, 0], abs=1e-6)
    shown = page.get_by_label("Trail").inner_text().replace("\u2009", "")
    assert f"{len(mesh.faces)} triangles" in shown

    # In another format, which is remembered the next time.
    page.get_by_role("button", name="Export").click()
    page.get_by_label("Format", exact=True).select_option("3MF")
    with page.expect_download() as download:
        page.get_by_role("button", name="Download 3MF").click()
    assert download.value.suggested_filename == "north crater.3mf"
    download.value.save_as(tmp_path / "out.3mf")
    assert len(read_mesh(tmp_path / "out.3mf").faces) == len(mesh.faces)
    page.get_by_role("button", name="Export").click()
    expect(page.get_by_label("Format", exact=True)).to_have_value("3MF")
    page.get_by_label("Format", exact=True).select_option("STL")
    page.get_by_role("button", name="Not now").click()


def test_the_piece_follows_while_a_slider_moves(page: Page, drop: Drop) -> None:
    bring(page, drop, "slide.png", png(ramp(120, 160)))
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
        page.mouse.move(box["x"] + box["width"] * share, middle)
        page.wait_for_timeout(700)  # longer than a control rests before it is kept
    page.mouse.up()
    expect(trail(page, "Finish")).to_contain_text("closed")
    expect(page.get_by_label("Relief depth", exact=True)).not_to_have_value("3 mm")
    assert np.abs(view_pixels(page) - before).max() > 20
    # One drag is one step back, however slowly it went.
    page.keyboard.press("Control+z")
    expect(page.get_by_label("Relief depth", exact=True)).to_have_value("3 mm")
    slider.press("ArrowRight")
    expect(page.get_by_label("Relief depth", exact=True)).to_have_value("3.1 mm")


def test_views_and_mesh_lines_change_what_is_seen(page: Page, drop: Drop) -> None:
    bring(page, drop, "views.png", png(ramp(120, 160)))
    seen = view_pixels(page)
    for key in ("Shift+Digit1", "Shift+Digit2", "Shift+Digit3", "l"):
        page.keyboard.press(key)
        seen = once_changed(page, seen)
    box = page.get_by_label("Piece view").locator("canvas").bounding_box()
    assert box
    middle = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.move(*middle)
    page.mouse.down()
    page.mouse.move(middle[0] + 90, middle[1] - 40, steps=4)
    page.mouse.up()
    seen = once_changed(page, seen)
    page.mouse.wheel(0, -400)
    once_changed(page, seen)


def test_the_piece_fills_its_new_room(page: Page, drop: Drop) -> None:
    bring(page, drop, "band.png", png(ramp(60, 240)))
    before = view_pixels(page)
    ground = np.median(before)
    page.get_by_label("Piece view").get_by_role("button", name="fill").click()
    expect(page.get_by_role("button", name="both views")).to_be_visible()
    deadline = time.monotonic() + 20
    # Of a wide piece the width decides: it takes the same share of a room twice as wide.
    while (share := stone(page, ground) / stone_in(before, ground)) < 2:
        assert time.monotonic() < deadline, share


def stone_in(view: np.ndarray, ground: float) -> int:
    """How many pixels in the middle of a view are darker than its ground."""
    rows = view.shape[0]
    return int((view[rows // 6 : -rows // 5] < ground - 12).sum())


def stone(page: Page, ground: float) -> int:
    return stone_in(view_pixels(page), ground)


def test_a_piece_that_cannot_be_read_costs_its_own_card(
    page: Page, drop: Drop, server: Server
) -> None:
    bring(page, drop, "spoiled.png", png(ramp(50, 70)))
    type_length(page, "Width", "50")
    expect(trail(page, "Form")).to_contain_text("50 × ")
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
    piece_id = page.url.rsplit("/", 1)[-1]
    with closing(sqlite3.connect(server.database)) as database, database:
        database.execute(
            "UPDATE revision SET recipe = '{' || substr(recipe, 20) WHERE number = 2 "
            "AND piece_id = ?",
            (piece_id,),
        )
    page.get_by_label("Nebrel, to the shelf").click()
    page.reload()
    card = page.get_by_role("article", name="spoiled")
    expect(card).to_contain_text("not readable")
    expect(card.locator(".piece-trouble")).to_contain_text("recipe")
    expect(card.get_by_role("link")).to_have_count(0)
    assert page.get_by_role("article").count() > 1
    page.get_by_label("More for spoiled").click()
    page.get_by_role("button", name="Undo its last change").click()
    card.get_by_role("link").click()
    expect(trail(page, "Form")).to_contain_text("100 × ")


def test_what_cannot_be_read_is_said_and_the_shelf_stays(page: Page, drop: Drop) -> None:
    drop("kept.png", png(ramp()))
    expect(trail(page, "Finish")).to_contain_text("closed")
    page.get_by_label("Nebrel, to the shelf").click()
    expect(page.get_by_role("article").first).to_be_visible()
    shelf = page.get_by_role("article").count()
    for name, data, reason in (
        ("words.png", b"words", "not a picture"),
        ("cut.png", png(ramp(200, 200))[:500], "cut short"),
        ("vast.png", declared(40_000, 40_000), "40000 × 40000"),
        ("dot.png", declared(1, 1), "no surface"),
    ):
        drop(name, data)
        notice = page.get_by_role("alert").filter(has_text=name)
        expect(notice).to_contain_text(reason)
        notice.get_by_role("button", name="Close").click()
    expect(page.get_by_role("article")).to_have_count(shelf)


def test_wrong_numbers_are_said_in_place_and_the_piece_stays(page: Page, drop: Drop) -> None:
    bring(page, drop, "numbers.png", png(ramp()))
    trail(page, "Heights").click()
    type_length(page, "Relief depth", "3 parsec")
    expect(page.get_by_text("“parsec” is not a unit known here")).to_be_visible()
    type_length(page, "Relief depth", "0")
    expect(page.get_by_role("alert")).to_contain_text("nearest that works is 0.01 mm")
    expect(page.get_by_text("last change not kept")).to_be_visible()
    expect(page.get_by_label("Piece view").locator("canvas")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_label("Relief depth", exact=True)).to_have_value("3 mm")
    expect(page.get_by_role("alert")).to_have_count(0)
    page.reload()
    expect(trail(page, "Heights")).to_contain_text("1 to 4 mm")


def test_a_change_made_in_another_window_is_taken_over(
    page: Page, drop: Drop, server: Server
) -> None:
    bring(page, drop, "two.png", png(ramp()))
    other = page.context.new_page()
    other.goto(page.url)
    trail(other, "Heights").click()
    type_length(other, "Relief depth", "6")
    expect(trail(other, "Heights")).to_contain_text("1 to 7 mm")
    expect(other.get_by_text("saved", exact=True)).to_be_visible()
    expect(trail(page, "Heights")).to_contain_text("1 to 7 mm")
    trail(page, "Heights").click()
    type_length(page, "Backing", "2")
    expect(trail(page, "Heights")).to_contain_text("2 to 8 mm")
    expect(trail(other, "Heights")).to_contain_text("2 to 8 mm")
    other.close()


def test_shelf_rename_duplicate_search_delete_and_put_back(page: Page, drop: Drop) -> None:
    bring(page, drop, "comet.png", png(ramp()))
    page.get_by_label("Nebrel, to the shelf").click()
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


def test_choosing_and_pasting_a_file(page: Page) -> None:
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Choose a file").click()
    chooser.value.set_files({"name": "chosen.png", "mimeType": "image/png", "buffer": png(ramp())})
    expect(page.get_by_label("Name of the piece")).to_have_value("chosen")
    page.get_by_label("Nebrel, to the shelf").click()
    expect(page.get_by_label("Bring a picture, a drawing or a mesh", exact=True)).to_be_visible()
    name = page.get_by_label("Name of the piece")
    # Listening begins a moment after the shelf is painted; what was not heard is pasted again.
    for _ in range(20):
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
            expect(name).to_have_value("pasted", timeout=3_000)
            break
        except AssertionError:
            continue
    expect(name).to_have_value("pasted")


def test_a_long_evaluation_shows_progress_and_can_be_called_off(page: Page, drop: Drop) -> None:
    bring(page, drop, "dusk.jpg", photograph(1200, 1600))
    trail(page, "Finish").click()
    page.get_by_text("exactly as in the picture").click()
    page.get_by_role("button", name="Cancel").click()
    expect(page.get_by_text("full quality was called off")).to_be_visible()
    expect(trail(page, "Finish")).to_contain_text("called off")
    type_length(page, "Tolerance", "5 mm")
    expect(trail(page, "Finish")).to_contain_text("closed, within 5 mm", timeout=90_000)


def test_the_first_load_stays_light(page: Page, drop: Drop, server: Server) -> None:
    bring(page, drop, "light.png", png(ramp()))
    urls = page.evaluate("performance.getEntriesByType('resource').map(entry => entry.name)")
    assets = {url for url in urls if "/assets/" in url}
    total = 0
    for url in assets:
        with urlopen(Request(url, headers={"Accept-Encoding": "gzip"})) as response:
            total += len(response.read())
    assert len(assets) >= 4
    assert 50_000 < total < 700_000


def test_the_sheet_of_keys(page: Page) -> None:
    page.get_by_role("heading", name="Bring a picture, a drawing or a mesh").click()
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_contain_text("undo")
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)


def test_pictures_in_other_formats_keep_what_they_say(page: Page, drop: Drop) -> None:
    from PIL import Image

    buffer = io.BytesIO()
    frames = [Image.new("L", (40, 30), tone) for tone in (90, 10)]
    frames[0].save(buffer, "GIF", save_all=True, append_images=frames[1:])
    bring(page, drop, "spin.gif", buffer.getvalue())
    expect(page.get_by_text("holds 2 frames; the first one is used")).to_be_visible()
    buffer = io.BytesIO()
    Image.fromarray(np.rint(ramp(30, 61) * 255).astype(np.uint8)).save(
        buffer, "PNG", dpi=(25.4, 25.4)
    )
    page.get_by_label("Nebrel, to the shelf").click()
    bring(page, drop, "scan.png", buffer.getvalue())
    page.get_by_role("button", name="Take that size").click()
    expect(trail(page, "Form")).to_contain_text("60 × 29 mm")
