"""What a person does at the Picture stop, in a real browser, on pictures that need it."""

import json
import re
from collections.abc import Callable
from urllib.request import Request, urlopen

import cv2
import numpy as np
from playwright.sync_api import Locator, Page, expect

from nebrel.core.formats.png import encode_png
from nebrel.demo.flawed import (
    CAPTION_BOX,
    captioned,
    comet_logo,
    door_sign,
    faded_print,
    moon_hare,
    star_chart,
)
from nebrel.demo.pictures import as_colour_png, as_png
from tests.e2e.conftest import Server
from tests.e2e.test_first_slice import Drop, bring, trail, type_length
from tests.pictures import png, ramp
from tests.recipes import pictured

At = tuple[float, float]


def add(page: Page, name: str) -> None:
    page.get_by_role("button", name="Add", exact=True).click()
    page.get_by_role("button", name=re.compile(f"^{name} ")).click()
    expect(correction(page, name)).to_be_visible()


def correction(page: Page, name: str) -> Locator:
    return page.get_by_role("listitem", name=name, exact=True)


def drag_row(page: Page, name: str, onto: str) -> None:
    """Drag a row of a list onto another, as a hand would."""
    boxes = [correction(page, row).locator(".ordered-row").bounding_box() for row in (name, onto)]
    (x0, y0), (x1, y1) = ((b["x"] + 90, b["y"] + b["height"] / 2) for b in boxes if b)
    page.mouse.move(x0, y0)
    page.mouse.down()
    page.mouse.move(x0, y0 + 6)
    page.mouse.move(x1, y1, steps=6)
    page.mouse.up()


def finding(page: Page, kind: str) -> Locator:
    return page.locator(f".finding[data-kind={kind}]")


def still(page: Page) -> None:
    """Wait until the picture, what is kept and the report stand."""
    expect(page.get_by_text("saved", exact=True)).to_be_visible()
    expect(page.get_by_label("Picture view")).to_have_attribute("data-busy", "false")
    expect(page.get_by_label("Reading the picture")).to_have_count(0)


def recipe_of(page: Page, server: Server) -> dict:
    piece_id = page.url.rsplit("/", 1)[-1]
    return json.load(urlopen(f"{server.url}api/pieces/{piece_id}"))["recipe"]


def corrected(page: Page, server: Server) -> np.ndarray:
    """The corrected picture as it would be saved, tones and alpha 0 to 1."""
    piece_id = page.url.rsplit("/", 1)[-1]
    made = Request(f"{server.url}api/pieces/{piece_id}/products/picture.png", method="POST")
    job = json.load(urlopen(made))
    while job["state"] in ("waiting", "working"):
        job = json.load(urlopen(f"{server.url}api/jobs/{job['id']}"))
    data = urlopen(f"{server.url}api/results/{job['result']}").read()
    values = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)
    assert values.dtype == np.uint16
    return values / 65_535


def placer(page: Page, cols: int, rows: int) -> Callable[[At], At]:
    """From pixels of the shown picture to the screen."""
    surface = page.get_by_role("application")
    left, top, wide, tall = (float(v) for v in surface.get_attribute("data-frame").split())
    box = surface.bounding_box()
    return lambda at: (
        box["x"] + left + at[0] / (cols - 1) * wide,
        box["y"] + top + at[1] / (rows - 1) * tall,
    )


def drag(page: Page, spots: list[At]) -> None:
    page.mouse.move(*spots[0])
    page.mouse.down()
    for spot in spots[1:]:
        page.mouse.move(*spot, steps=4)
    page.mouse.up()


def test_remedies_of_the_report_mend_a_scan(page: Page, drop: Drop, server: Server) -> None:
    bring(page, drop, "door sign.png", as_png(door_sign(rows=450, cols=700), 8))
    for kind in ("off_white", "uneven_background", "noise"):
        expect(finding(page, kind)).to_be_visible()
    uneven = finding(page, "uneven_background")
    uneven.get_by_role("button", name="Show me").click()
    expect(uneven.get_by_role("button", name="Hide")).to_be_visible()
    uneven.get_by_role("button", name="Even light").click()
    expect(correction(page, "Even light")).to_be_visible()
    expect(finding(page, "uneven_background")).to_have_count(0)
    finding(page, "off_white").get_by_role("button", name="Levels").click()
    expect(finding(page, "off_white")).to_have_count(0)
    still(page)
    expect(trail(page, "Picture")).to_contain_text("2 corrections")
    tones = corrected(page, server)
    assert np.mean(tones == 1) > 0.7
    # The piece follows: the paper has gone down to the backing.
    trail(page, "Heights").click()
    page.get_by_text("Dark tones").click()
    expect(trail(page, "Heights")).to_contain_text("1 to")
    # The picture that was brought in is what it was.
    sha256 = pictured(recipe_of(page, server))["file"]["sha256"]
    first = urlopen(f"{server.url}api/pictures/{sha256}/view.png").read()
    shown = cv2.imdecode(np.frombuffer(first, np.uint8), cv2.IMREAD_GRAYSCALE)
    assert np.mean(shown == 255) < 0.01


def test_levels_of_a_faded_print(page: Page, drop: Drop, server: Server) -> None:
    bring(page, drop, "old print.png", as_png(faded_print(), 8))
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


def test_crop_by_dragging_then_true_size(page: Page, drop: Drop, server: Server) -> None:
    bring(page, drop, "crop.png", png(ramp(301, 401)))
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
    type_length(page, "Width", "80 mm")
    expect(trail(page, "Form")).to_contain_text("80 ×")
    expect(correction(page, "True size")).to_contain_text("80 mm")
    # A box outside is refused in words; the piece stays.
    type_length(page, "From the left", "999")
    expect(page.get_by_label("From the left")).not_to_have_value("999 mm")
    expect(trail(page, "Finish")).to_contain_text("closed")


def test_the_subject_is_isolated_with_a_box_and_two_strokes(
    page: Page, drop: Drop, server: Server
) -> None:
    hare, mask = moon_hare()
    bring(page, drop, "hare.png", as_colour_png(hare))
    page.get_by_label("Picture view").get_by_role("button", name="fill").click()
    add(page, "Isolate")
    page.get_by_text("anything").click()
    still(page)
    at = placer(page, 800, 900)
    drag(page, [at((120, 60)), at((650, 880))])
    expect(page.get_by_label("Tool").get_by_role("button", name="keep")).to_have_attribute(
        "aria-pressed", "true"
    )
    drag(page, [at((400, 600)), at((400, 400)), at((345, 200))])
    page.get_by_role("button", name="drop", exact=True).click()
    drag(page, [at(s) for s in [(215, 690), (190, 790), (215, 862), (400, 872), (600, 850)]])
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


def test_a_caption_is_removed(page: Page, drop: Drop, server: Server) -> None:
    flawed, clean = captioned(), captioned(flawed=False)
    bring(page, drop, "plate 7.png", as_png(flawed, 8))
    add(page, "Remove")
    left, top, wide, tall = CAPTION_BOX
    type_length(page, "Brush width", f"{tall / 959 * 100:.2f}")
    still(page)
    at = placer(page, 960, 720)
    drag(page, [at((left + 10, top + tall / 2 - 4)), at((left + wide, top + tall / 2 - 4))])
    expect(correction(page, "Remove")).to_contain_text("1 stroke")
    still(page)
    part = np.s_[top : top + tall, left : left + wide]
    result = corrected(page, server)
    before = np.abs(flawed[part] - clean[part]).mean()
    assert np.abs(result[part] - clean[part]).mean() < 0.5 * before
    assert np.abs(result[:600] - flawed[:600]).max() < 0.003


def test_reorder_switch_off_take_away_and_undo(page: Page, drop: Drop, server: Server) -> None:
    bring(page, drop, "order.png", png(ramp(60, 120), 8))
    add(page, "Exposure")
    type_length(page, "Light", "1")
    add(page, "Invert")
    still(page)
    exposed_first = corrected(page, server)
    correction(page, "Invert").get_by_label("More for Invert").click()
    page.get_by_role("button", name="Move up").click()
    names = page.get_by_label("Corrections").get_by_role("listitem")
    expect(names.first).to_have_attribute("aria-label", "Invert")
    still(page)
    inverted_first = corrected(page, server)
    assert np.abs(inverted_first - exposed_first).max() > 0.2
    page.get_by_label("Invert, on").uncheck()
    still(page)
    expect(trail(page, "Picture")).to_contain_text("1 correction")
    assert corrected(page, server)[0, -1] == 1
    page.keyboard.press("Control+z")
    expect(page.get_by_label("Invert, on")).to_be_checked()
    page.keyboard.press("Control+z")
    expect(names.first).to_have_attribute("aria-label", "Exposure")
    # By the keyboard, and by dragging it back.
    row = correction(page, "Invert").get_by_role("button").first
    row.press("Alt+ArrowUp")
    expect(names.first).to_have_attribute("aria-label", "Invert")
    page.keyboard.press("Escape")
    drag_row(page, "Invert", "Exposure")
    expect(names.first).to_have_attribute("aria-label", "Exposure")
    correction(page, "Invert").get_by_label("More for Invert").click()
    page.get_by_role("button", name="Take away").click()
    expect(correction(page, "Invert")).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    expect(correction(page, "Invert")).to_be_visible()


def test_a_failed_correction_is_marked_and_the_others_apply(
    page: Page, drop: Drop, server: Server
) -> None:
    bring(page, drop, "fail.png", png(0.2 + 0.5 * ramp(60, 120), 8))
    add(page, "Threshold")
    page.get_by_text("by hand").click()
    type_length(page, "White from", "0.95")
    alert = correction(page, "Threshold").get_by_role("alert")
    expect(alert).to_contain_text("everything becomes black")
    expect(trail(page, "Picture")).to_contain_text("1 not applied")
    add(page, "Invert")
    still(page)
    assert abs(corrected(page, server)[0, 0] - 0.8) < 0.01
    expect(trail(page, "Finish")).to_contain_text("closed")
    # A stroke nobody drew by hand is refused, and the piece stays as it was.
    piece_id = page.url.rsplit("/", 1)[-1]
    recipe = recipe_of(page, server)
    endless = {"kind": "brush", "strokes": [{"points": [[1, 1]] * 300_000, "wide": 3}]}
    pictured(recipe)["corrections"].append(endless)
    request = Request(
        f"{server.url}api/pieces/{piece_id}/recipe",
        json.dumps({"recipe": recipe}).encode(),
        {"Content-Type": "application/json"},
        method="PUT",
    )
    try:
        urlopen(request)
        raise AssertionError("it was taken")
    except OSError as refusal:
        body = json.load(refusal)  # type: ignore[arg-type]
    assert "300000 points" in body["error"]["why"]
    assert len(pictured(recipe_of(page, server))["corrections"]) == 2


def test_brush_zoom_and_before(page: Page, drop: Drop, server: Server) -> None:
    bring(page, drop, "stars.png", as_png(star_chart(size=500), 8))
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


def test_a_motif_is_kept_reused_and_deleted(page: Page, drop: Drop, server: Server) -> None:
    tone, alpha = comet_logo()
    bring(page, drop, "comet.png", encode_png(tone, alpha))
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
    bring(page, drop, "ground.png", png(np.ones((200, 300), np.float32), 8))
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


def test_every_correction_opens_with_its_numbers_and_applies(page: Page, drop: Drop) -> None:
    y, x = np.mgrid[0:80, 0:120]
    drawing = np.clip(np.hypot(x - 60, y - 40) - 20.5, 0, 1) * 0.9 + 0.05
    bring(page, drop, "all.png", png(drawing.astype(np.float32), 8))
    page.get_by_role("button", name="Add", exact=True).click()
    names = page.locator(".adding-menu strong").all_inner_texts()
    page.keyboard.press("Escape")
    assert len(names) == 26
    for name in names:
        add(page, name)
        still(page)
        expect(page.locator(".ordered-editor")).to_be_visible()
        expect(correction(page, name).get_by_role("alert")).to_have_count(0)
        page.keyboard.press("Control+z")
        expect(correction(page, name)).to_have_count(0)
