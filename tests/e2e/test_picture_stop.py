"""What a person does at the Picture stop, in a real browser, on pictures that need it."""

import re
from urllib.request import urlopen

import cv2
import numpy as np
from playwright.sync_api import Page, expect

from nebrel.core.formats.png import encode_png
from nebrel.demo.flawed import comet_logo, door_sign, faded_print, moon_hare, star_chart
from nebrel.demo.pictures import as_colour_png, as_png
from tests.e2e.conftest import Server
from tests.e2e.hands import (
    add,
    brought,
    drag,
    finding,
    kept,
    middle_of,
    placer,
    recipe_of,
    row,
    still,
    trail,
    typed,
)
from tests.pictures import png, ramp
from tests.recipes import pictured
from tests.waiting import until


def drag_row(page: Page, name: str, onto: str) -> None:
    """Drag a row of a list onto another, as a hand would, once nothing moves it any more."""
    still(page)
    (x0, y0), (x1, y1) = (middle_of(row(page, n).locator(".ordered-row")) for n in (name, onto))
    page.mouse.move(x0, y0)
    page.mouse.down()
    page.mouse.move(x0, y0 + 6)
    expect(row(page, name)).to_have_class(re.compile("dragged"))
    page.mouse.move(x1, y1, steps=6)
    page.mouse.up()


def corrected(page: Page, server: Server) -> np.ndarray:
    """The corrected picture as it would be saved, tones and alpha 0 to 1."""
    job = server.ask(f"pieces/{kept(page, server)['id']}/products/picture.png", "POST")
    if job["id"]:
        until(lambda: server.ask(f"jobs/{job['id']}")["state"] == "done")
        job = server.ask(f"jobs/{job['id']}")
    data = urlopen(f"{server.url}api/results/{job['result']}").read()
    values = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)
    assert values.dtype == np.uint16
    return values / 65_535


def test_remedies_of_the_report_mend_a_scan(page: Page, server: Server) -> None:
    brought(page, server, "door sign.png", as_png(door_sign(rows=360, cols=560), 8))
    for kind in ("off_white", "uneven_background", "noise"):
        expect(finding(page, kind)).to_be_visible()
    uneven = finding(page, "uneven_background")
    uneven.get_by_role("button", name="Show me").click()
    expect(uneven.get_by_role("button", name="Hide")).to_be_visible()
    uneven.get_by_role("button", name="Even light").click()
    expect(row(page, "Even light")).to_be_visible()
    expect(finding(page, "uneven_background")).to_have_count(0)
    # Pressed twice it is one step all the same.
    finding(page, "off_white").get_by_role("button", name="Levels").first.dblclick()
    expect(finding(page, "off_white")).to_have_count(0)
    still(page)
    steps = pictured(recipe_of(page, server))["corrections"]
    assert [step["kind"] for step in steps] == ["even_light", "levels"]
    expect(trail(page, "Picture")).to_contain_text("2 corrections")
    tones = corrected(page, server)
    assert np.mean(tones == 1) > 0.7


def test_levels_of_a_faded_print(page: Page, server: Server) -> None:
    brought(page, server, "old print.png", as_png(faded_print()[::3, ::3], 8))
    expect(finding(page, "low_contrast")).to_be_visible()
    add(page, "Levels")
    expect(page.get_by_text("Found: 0.31")).to_be_visible()
    expect(finding(page, "low_contrast")).to_have_count(0)
    still(page)
    tones = corrected(page, server)
    assert (tones.min(), tones.max()) == (0, 1)
    # The white point is taken by hand and dragged to the right end.
    box = page.get_by_label("Histogram of the picture before this correction").bounding_box()
    assert box
    middle = box["y"] + 30
    drag(page, [(box["x"] + box["width"] * 0.67, middle), (box["x"] + box["width"] * 0.9, middle)])
    expect(page.get_by_label("White point", exact=True)).to_have_value(re.compile(r"0\.9|0\.89"))
    still(page)
    assert 0.55 < corrected(page, server).max() < 0.65
    page.keyboard.press("Control+z")
    expect(page.get_by_text("Found: 0.31")).to_be_visible()


def test_crop_by_dragging_then_true_size(page: Page, server: Server) -> None:
    brought(page, server, "crop.png", png(ramp(301, 401)))
    add(page, "Crop")
    still(page)
    at = placer(page, 401, 301)
    drag(page, [at((400, 300)), at((300, 200))])
    drag(page, [at((0, 0)), at((100, 50))])
    still(page)
    box = pictured(recipe_of(page, server))["corrections"][0]["box"]
    assert np.allclose([box["x"], box["y"], box["wide"], box["tall"]], [100, 50, 200, 150], atol=3)
    expect(trail(page, "Form")).to_contain_text(re.compile(r"(49|50)(\.\d)? × (37|36)"))
    # Typing a width now says what the cropped picture really measures.
    typed(page, "Width", "80 mm")
    expect(trail(page, "Form")).to_contain_text("80 ×")
    expect(row(page, "True size")).to_contain_text("80 mm")
    # A box outside is refused in words; the piece stays.
    typed(page, "From the left", "999")
    expect(page.get_by_label("From the left")).not_to_have_value("999 mm")
    expect(trail(page, "Finish")).to_contain_text("closed")


def test_the_subject_is_isolated_with_a_box_and_two_strokes(page: Page, server: Server) -> None:
    hare, mask = (cv2.resize(one, (200, 225), interpolation=cv2.INTER_AREA) for one in moon_hare())
    brought(page, server, "hare.png", as_colour_png(hare))
    page.get_by_label("Picture view").get_by_role("button", name="fill").click()
    add(page, "Isolate")
    page.get_by_text("anything").click()
    still(page)
    at = placer(page, 200, 225)
    drag(page, [at((30, 15)), at((162, 220))])
    expect(page.get_by_label("Tool").get_by_role("button", name="keep")).to_have_attribute(
        "aria-pressed", "true"
    )
    drag(page, [at((100, 150)), at((100, 100)), at((86, 50))])
    page.get_by_role("button", name="drop", exact=True).click()
    drag(page, [at(s) for s in [(53, 172), (47, 197), (53, 215), (100, 218), (150, 212)]])
    expect(page.get_by_text("2 strokes")).to_be_visible()
    still(page)
    kept = corrected(page, server)
    assert kept.shape[2] == 4 or kept.shape[2] == 2
    found, true = kept[..., -1] > 0.5, mask > 0.5
    assert (found & true).sum() / (found | true).sum() > 0.97
    expect(page.get_by_label("Picture view")).to_contain_text("% dropped")
    steps = pictured(recipe_of(page, server))["corrections"]
    assert len(steps[0]["keep"]) == 1
    assert len(steps[0]["keep"][0]["points"]) < 100
    page.keyboard.press("Control+z")
    expect(page.get_by_text("1 stroke", exact=True)).to_be_visible()


def test_reorder_switch_off_take_away_and_undo(page: Page, server: Server) -> None:
    brought(page, server, "order.png", png(ramp(60, 120), 8))
    add(page, "Exposure")
    add(page, "Invert")
    row(page, "Invert").get_by_label("More for Invert").click()
    page.get_by_role("button", name="Move up").click()
    names = page.get_by_label("Corrections").get_by_role("listitem")
    expect(names.first).to_have_attribute("aria-label", "Invert")
    page.get_by_label("Invert, on").uncheck()
    expect(trail(page, "Picture")).to_contain_text("1 correction")
    page.keyboard.press("Control+z")
    expect(page.get_by_label("Invert, on")).to_be_checked()
    page.keyboard.press("Control+z")
    expect(names.first).to_have_attribute("aria-label", "Exposure")
    # By the keyboard, and by dragging it back.
    row(page, "Invert").get_by_role("button").first.press("Alt+ArrowUp")
    expect(names.first).to_have_attribute("aria-label", "Invert")
    page.keyboard.press("Escape")
    expect(page.locator(".ordered-editor")).to_have_count(0)
    drag_row(page, "Invert", "Exposure")
    expect(names.first).to_have_attribute("aria-label", "Exposure")
    row(page, "Invert").get_by_label("More for Invert").click()
    page.get_by_role("button", name="Take away").click()
    expect(row(page, "Invert")).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    expect(row(page, "Invert")).to_be_visible()


def test_brush_zoom_and_before(page: Page, server: Server) -> None:
    brought(page, server, "stars.png", as_png(star_chart(size=500), 8))
    expect(finding(page, "fine_detail")).to_be_visible()
    finding(page, "fine_detail").get_by_role("button", name="Thicken lines").click()
    expect(finding(page, "fine_detail")).to_have_count(0)
    add(page, "Brush")
    still(page)
    at = placer(page, 500, 500)
    drag(page, [at((60, 60)), at((160, 60))])
    still(page)
    assert corrected(page, server)[60, 110] < 0.01
    # Zoomed in, a stroke still lands where it was drawn.
    page.get_by_role("button", name="Zoom in").click()
    page.get_by_role("button", name="Zoom in").click()
    expect(page.get_by_role("button", name="See all of the picture")).to_have_text("× 2.3")
    at = placer(page, 500, 500)
    page.mouse.move(*at((250, 200)))
    drag(page, [at((250, 200)), at((300, 200))])
    still(page)
    assert corrected(page, server)[200, 275] < 0.01
    expect(page.get_by_label("Picture view").get_by_role("status")).to_contain_text("tone 0.0")
    page.keyboard.press("0")
    page.keyboard.down("b")
    expect(page.get_by_text("Picture, as brought in")).to_be_visible()
    page.keyboard.up("b")
    expect(page.get_by_text("Picture, as brought in")).to_have_count(0)
    page.keyboard.press("c")
    handle = page.get_by_role("slider", name="Before and after")
    handle.press("ArrowLeft")
    expect(handle).to_have_attribute("aria-valuenow", "48")


def test_a_motif_is_kept_reused_and_deleted(page: Page, server: Server) -> None:
    tone, alpha = comet_logo()
    brought(page, server, "comet.png", encode_png(tone, alpha))
    expect(finding(page, "transparency")).to_be_visible()
    expect(finding(page, "low_resolution")).to_be_visible()
    finding(page, "low_resolution").get_by_role("button", name="Enlarge").click()
    page.get_by_text("lines, flat art").click()
    expect(finding(page, "low_resolution")).to_have_count(0)
    still(page)
    page.get_by_role("button", name="Keep as motif").click()
    page.get_by_label("Name", exact=True).fill("Comet")
    page.get_by_label("Tags, with commas between").fill("sky, cutter")
    page.get_by_role("button", name="Keep it").click()
    expect(page.get_by_text("“Comet” is a motif now")).to_be_visible()
    with page.expect_download() as download:
        page.get_by_role("button", name="Save as 16-bit PNG").click()
    assert download.value.suggested_filename == "comet, corrected.png"

    # Another piece lays it on top.
    page.goto(server.url)
    brought(page, server, "ground.png", png(np.ones((200, 300), np.float32), 8))
    add(page, "Second picture")
    page.get_by_role("button", name="Motif Comet").click()
    still(page)
    assert corrected(page, server).min() < 0.2
    page.goto(server.url)
    page.get_by_label("Find a piece").fill("cutter")
    card = page.get_by_role("article", name="Comet", exact=True)
    expect(card).to_contain_text("sky, cutter")
    card.get_by_label("More for motif Comet").click()
    page.get_by_role("button", name="Delete").click()
    expect(card).to_have_count(0)
    page.get_by_role("button", name="Put it back").click()
    card.get_by_label("More for motif Comet").click()
    page.get_by_role("button", name="Make a piece from it").click()
    expect(trail(page, "Form")).to_contain_text("100 × 100 mm")
