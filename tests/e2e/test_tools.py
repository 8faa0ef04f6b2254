"""Tools in the picture do what they are for, at their own stop, and nothing else."""

import re

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import Server
from tests.e2e.hands import (
    add,
    brought,
    drag,
    dragged,
    drop_file,
    dropped,
    finding,
    held,
    middle_of,
    placer,
    recipe_of,
    row,
    saved,
    still,
    trail,
    typed,
)
from tests.pictures import png, ramp
from tests.recipes import pictured, tones_of
from tests.waiting import until

COLS, ROWS = 300, 200
PULLS = {
    **{"nw": (40, 30), "n": (0, 20), "w": (12, 0), "ne": (-15, 12)},
    **{"s": (0, -20), "e": (20, 0), "sw": (10, -8), "se": (16, 9)},
}


@pytest.fixture
def bench(page: Page, server: Server) -> Page:
    brought(page, server, "tools.png", png(ramp(ROWS, COLS)))
    return page


def first(page: Page, server: Server) -> dict:
    return pictured(recipe_of(page, server))["corrections"][0]


def test_all_grips_of_a_crop_keep_ratio_and_the_opposite_side(bench: Page, server: Server) -> None:
    add(bench, "Crop")
    bench.get_by_label("Proportions").select_option("1.5")
    place = placer(bench, COLS, ROWS)
    drag(bench, [place((COLS - 1, ROWS - 1)), place((200, 130))])
    saved(bench)
    for sides, (dx, dy) in PULLS.items():
        before = first(bench, server)["box"]
        grip = bench.get_by_role("button", name=f"Crop, {sides}", exact=True)
        dragged(bench, middle_of(grip), (dx, dy))
        saved(bench)
        after = first(bench, server)["box"]
        assert after != before, sides
        assert after["wide"] == pytest.approx(after["tall"] * 1.5, abs=1), sides
        for side, far in {"n": "s", "s": "n", "w": "e", "e": "w"}.items():
            if side in sides:
                assert edges(after)[far] == edges(before)[far], sides


def edges(box: dict) -> dict[str, float]:
    return {"n": box["y"], "w": box["x"], "s": box["y"] + box["tall"], "e": box["x"] + box["wide"]}


def test_shift_goes_on_from_the_same_brush_after_a_zoom(bench: Page, server: Server) -> None:
    add(bench, "Brush")
    drag(bench, [placer(bench, COLS, ROWS)(at) for at in ((100, 100), (140, 100))])
    saved(bench)
    bench.keyboard.press("+")
    expect(bench.get_by_role("button", name="see all of the picture")).to_have_text("× 1.5")
    place = placer(bench, COLS, ROWS)
    bench.keyboard.down("Shift")
    drag(bench, [place((160, 110)), place((180, 120))])
    bench.keyboard.up("Shift")
    saved(bench)
    stroke = first(bench, server)["strokes"][1]["points"]
    assert stroke[0] == pytest.approx([140, 100], abs=1.5)
    assert stroke[-1] == pytest.approx([180, 120], abs=1.5)
    # Another brush has no end to go on from.
    add(bench, "Remove")
    bench.keyboard.down("Shift")
    drag(bench, [place((150, 90)), place((170, 95))])
    bench.keyboard.up("Shift")
    saved(bench)
    other = pictured(recipe_of(bench, server))["corrections"][1]["strokes"][0]["points"]
    assert other[0] == pytest.approx([150, 90], abs=1.5)


def test_tools_act_at_their_own_stop(bench: Page, server: Server) -> None:
    add(bench, "Fill")
    expect(bench.get_by_role("button", name="click an area")).to_have_attribute(
        "aria-pressed", "true"
    )
    trail(bench, "Heights").click()
    bench.get_by_text("pinned", exact=True).click()
    saved(bench)
    pins = tones_of(recipe_of(bench, server))["pins"]
    place = placer(bench, COLS, ROWS)
    drag(bench, [place((90, 40)), place((60, 30))])
    bench.mouse.click(*place((200, 60)))
    bench.get_by_text("by light", exact=True).click()
    bench.mouse.click(*place((150, 150)))
    expect(bench.get_by_text("As thick as the light of each tone asks")).to_be_visible()
    saved(bench)
    assert tones_of(recipe_of(bench, server))["pins"] == pins
    at = first(bench, server)["at"]
    trail(bench, "Picture").click()
    bench.mouse.click(*placer(bench, COLS, ROWS)((200, 60)))
    saved(bench)
    assert first(bench, server)["at"] != at


def test_esc_and_a_lost_window_end_what_is_held(bench: Page, server: Server) -> None:
    add(bench, "Brush")
    still(bench)
    place = placer(bench, COLS, ROWS)
    bench.mouse.move(*place((50, 50)))
    bench.mouse.down()
    bench.mouse.move(*place((90, 70)), steps=4)
    trace = bench.locator("polyline[stroke-opacity='0.55']")
    expect(trace).to_have_attribute("points", re.compile(r"\d"))
    bench.keyboard.press("Escape")
    expect(trace).to_have_attribute("points", "")
    bench.mouse.up()
    expect(row(bench, "Brush").locator(".ordered-editor")).to_be_visible()
    assert first(bench, server)["strokes"] == []
    name = bench.get_by_label("Picture view").locator(".view-name")
    bench.keyboard.down("b")
    expect(name).to_have_text("Picture, as brought in")
    bench.evaluate("() => { window.dispatchEvent(new Event('blur')); }")
    expect(name).to_have_text("Picture")
    bench.keyboard.up("b")


def test_a_picture_dropped_on_the_bench(bench: Page, server: Server) -> None:
    first_piece = bench.url
    drop_file(bench, "second.png", png(1 - ramp(50, 60)))
    bench.get_by_role("button", name="On top of this picture").click()
    expect(row(bench, "Second picture")).to_contain_text("second.png")
    saved(bench)
    assert first(bench, server)["kind"] == "overlay"
    drop_file(bench, "third.png", png(ramp(50, 61)))
    bench.get_by_role("button", name="A new piece").click()
    expect(bench.get_by_label("Name of the piece")).to_have_value("third")
    expect(trail(bench, "Picture")).to_contain_text("61 × 50")
    assert bench.url != first_piece
    drop_file(bench, "words.png", b"words")
    bench.get_by_role("button", name="A new piece").click()
    expect(bench.get_by_role("alert").filter(has_text="words.png")).to_contain_text(
        "nothing that a piece begins with"
    )


def test_the_advice_is_copied_on_plain_http(bench: Page) -> None:
    bench.evaluate("() => { Object.defineProperty(navigator, 'clipboard', { value: undefined }); }")
    trail(bench, "Proof").click()
    bench.get_by_role("button", name="Copy", exact=True).click()
    expect(bench.get_by_text("The advice was copied")).to_be_visible()


def test_everything_is_reached_in_a_small_window(bench: Page) -> None:
    bench.set_viewport_size({"width": 640, "height": 400})

    def in_sight(name: str) -> None:
        def inside() -> bool:
            box = bench.get_by_role("button", name=name, exact=True).bounding_box()
            assert box
            across = 0 <= box["x"] <= box["x"] + box["width"] <= 640
            return across and 0 <= box["y"] <= box["y"] + box["height"] <= 400

        until(inside)

    for name in ("Undo", "Redo", "Export"):
        in_sight(name)
    for stop in ("Proof", "Picture"):
        trail(bench, stop).click()
        expect(trail(bench, stop)).to_have_attribute("aria-current", "step")
    part = bench.get_by_label("What is seen")
    part.get_by_role("button", name="picture").click()
    surface = bench.get_by_role("application")
    expect(surface).to_have_attribute("data-frame", re.compile(r"\d"))
    wide, tall = (float(v) for v in surface.get_attribute("data-frame").split()[2:])
    assert min(wide, tall) > 60
    part.get_by_role("button", name="piece").click()
    expect(bench.get_by_label("Piece view").locator("canvas")).to_be_in_viewport()
    part.get_by_role("button", name="section").click()
    expect(bench.get_by_label("Section strip").get_by_role("slider")).to_be_in_viewport()
    part.get_by_role("button", name="numbers").click()
    add(bench, "Invert")
    bench.get_by_role("button", name="Export").click()
    bench.get_by_role("button", name="Download STL").scroll_into_view_if_needed()
    in_sight("Download STL")


def test_pieces_that_were_opened_leave_nothing_behind(shelf: Page) -> None:
    page = shelf
    session = page.context.new_cdp_session(page)
    counts = []
    rng = np.random.default_rng(5)
    for number in range(5):
        dropped(page, f"opened {number}.png", png(rng.random((30, 40), np.float32)))
        for stop in ("Heights", "Proof", "Picture"):
            trail(page, stop).click()
        page.get_by_label("Nebrel, to the shelf").click()
        expect(page.get_by_role("article", name=f"opened {number}", exact=True)).to_be_visible()
        session.send("HeapProfiler.collectGarbage")
        now = session.send("Memory.getDOMCounters")
        counts.append((now["nodes"], now["jsEventListeners"]))
    # A card more on the shelf each time, and no bench.
    nodes, listeners = (np.diff([count[i] for count in counts[1:]]).mean() for i in (0, 1))
    assert nodes < 100, counts
    assert listeners < 25, counts
    # One that was looked at before is there again whole, and not as a draft for ever.
    for _ in range(2):
        page.get_by_role("article", name="opened 0", exact=True).get_by_role("link").first.click()
        expect(trail(page, "Finish")).to_contain_text("closed")
        page.get_by_label("Nebrel, to the shelf").click()


def test_what_is_pressed_stays_below_the_pointer_while_the_report_comes(bench: Page) -> None:
    with held(bench, "**/api/report") as let_go:
        typed(bench, "Width", "900")
        # What else comes of it is there: from now on it is the report alone that could move it.
        expect(bench.get_by_role("navigation", name="Trail")).to_contain_text("larger than the bed")
        expect(bench.locator(".working")).to_have_count(0)
        button = bench.get_by_role("button", name="Add", exact=True)
        button.hover()
        bench.mouse.down()
        let_go()
        expect(bench.get_by_label("Reading the picture")).to_have_count(0)
        expect(finding(bench, "low_resolution")).to_have_count(0)
        bench.mouse.up()
    expect(bench.locator(".adding-menu.show")).to_be_visible()
    expect(finding(bench, "low_resolution")).to_be_visible()
