"""What a person builds up on a picture, in a real browser."""

import re
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from nebrel.demo.pictures import as_png, gallery_tag
from tests.e2e.conftest import Server
from tests.e2e.hands import (
    add,
    brought,
    canvas,
    closed,
    drag,
    dragged,
    exported,
    middle_of,
    once_changed,
    placer,
    recipe_of,
    shows,
    solid,
    still,
    trail,
    typed,
    view_pixels,
)
from tests.pictures import png, ramp
from tests.recipes import art_of, tones_of


def test_lettering_is_added_placed_and_undone(page: Page, server: Server, tmp_path: Path) -> None:
    brought(page, server, "plate.png", png(np.full((61, 121), 0.5)))
    trail(page, "Heights").click()
    add(page, "Text", "Build-up")
    page.get_by_label("Text", exact=True).fill("Dome\nNo. 4")
    typed(page, "Height", "1.5")
    closed(page)
    expect(trail(page, "Heights")).to_contain_text("2 in the build-up")
    expect(trail(page, "Heights")).to_contain_text("2.5 to 4 mm")
    # Dragged in the picture by its middle, then made larger by its corner.
    still(page)
    at = placer(page, 121, 61)
    drag(page, [at((60, 30)), at((70, 28)), at((84, 24))])
    closed(page)
    entry = art_of(recipe_of(page, server))["build_up"][1]
    assert entry["x"]["mm"] == pytest.approx(20, abs=0.6)
    assert entry["y"]["mm"] == pytest.approx(5, abs=0.6)
    assert entry["capital"]["mm"] == 8
    dragged(page, middle_of(page.locator("[data-grip='Size']")), (14, -9))
    closed(page)
    assert art_of(recipe_of(page, server))["build_up"][1]["capital"]["mm"] > 8.5
    # One drag is one step.
    page.keyboard.press("Control+z")
    shows(page, "Capital height", "8 mm")
    closed(page)
    mesh = solid(exported(page, tmp_path))
    assert mesh.bounds[1][2] == pytest.approx(1 + 1.5 + 1.5, abs=1e-3)
    # A letter that the typeface lacks: the entry is marked, the rest still stands.
    page.get_by_label("Text", exact=True).fill("Dome ⌘")
    expect(page.get_by_role("region", name="Build-up")).to_contain_text("the typeface has no “⌘”")
    expect(trail(page, "Heights")).to_contain_text("1 not applied")


def test_a_ring_cuts_loose_what_is_held_by_a_click(page: Page, server: Server) -> None:
    brought(page, server, "slab.png", png(np.zeros((81, 81))))
    trail(page, "Heights").click()
    add(page, "Shape", "Build-up")
    page.get_by_label("Shape", exact=True).select_option("ring")
    page.get_by_label("Joins by").select_option("cut")
    # A ring cut through leaves its middle connected to nothing: said, marked, and held.
    expect(trail(page, "Heights")).to_contain_text("1 loose part")
    expect(page.locator(".island-mark")).to_have_count(1)
    page.get_by_text("hold", exact=True).click()
    expect(trail(page, "Heights")).not_to_contain_text("loose")
    # Under the picture it cuts nothing.
    build_up = page.get_by_role("region", name="Build-up")
    ring = build_up.get_by_role("button", name=re.compile("Ring"), expanded=True)
    ring.focus()
    page.keyboard.press("Alt+ArrowDown")
    closed(page)
    assert [entry["kind"] for entry in art_of(recipe_of(page, server))["build_up"]] == [
        "outline",
        "picture",
    ]


def test_a_flat_drawing_gets_its_plateaus_and_its_window(
    page: Page, server: Server, tmp_path: Path
) -> None:
    brought(page, server, "tag.png", as_png(gallery_tag(), 8))
    trail(page, "Heights").click()
    page.get_by_text("plateaus", exact=True).click()
    pins = page.get_by_label("Pinned tones").get_by_role("listitem")
    expect(pins).to_have_count(2)
    still(page)
    # The gray of the body is pinned by clicking it.
    page.get_by_role("button", name="pin a tone in the picture").click()
    page.mouse.click(*placer(page, 1000, 620)((200, 120)))
    expect(pins).to_have_count(3)
    expect(trail(page, "Heights")).to_contain_text("3 tones pinned")
    typed(page, "Tone 0", "2.4")
    typed(page, "Tone 0.502", "1.4")
    pins.nth(2).get_by_role("button", name="cut through").click()
    typed(page, "Backing", "0")
    expect(trail(page, "Heights")).to_contain_text("1.4 to 2.4 mm")
    closed(page)
    mesh = solid(exported(page, tmp_path))
    assert np.unique(np.round(mesh.vertices[:, 2], 3)).tolist() == pytest.approx([0, 1.4, 2.4])
    assert mesh.euler_number == -2  # the window and the hole for the cord go right through
    pins_kept = tones_of(recipe_of(page, server))["pins"]
    assert [pin["mm"] is None for pin in pins_kept] == [False, False, True]


def test_the_section_is_read_dragged_seen_closer_and_marked(page: Page, server: Server) -> None:
    brought(page, server, "section.png", png(ramp(101, 201)))
    trail(page, "Heights").click()
    strip = page.get_by_label("Section strip")
    profile = strip.get_by_role("slider")

    def tells(words: str) -> None:
        expect(profile).to_have_attribute("aria-label", re.compile(words))

    expect(strip).to_contain_text("Section, 100 mm")
    tells("from 1 to 4 mm")
    box = strip.bounding_box()
    assert box
    wide = box["width"] - 64
    page.mouse.move(box["x"] + 46 + wide / 2, box["y"] + 90)
    expect(strip.get_by_role("status")).to_contain_text(
        re.compile(r"at 50(\.\d)? mm: 2\.5\d* mm high")
    )
    expect(strip.locator("[data-comb='line']")).not_to_have_count(0)
    before = strip.locator("[data-comb='line']").count()
    for _ in range(4):
        strip.get_by_role("button", name="Closer along the section").click()
    tells(r"from 2\.4\d? to 2\.(59|6) mm")
    assert 0 < strip.locator("[data-comb='line']").count() < before
    strip.get_by_role("button", name="all of it").click()
    tells("from 1 to 4 mm")
    for share in (0.25, 0.75):
        page.mouse.click(box["x"] + 46 + wide * share, box["y"] + 90)
    expect(strip).to_contain_text(
        re.compile(r"between the marks (49\.9\d?|50(\.\d+)?) mm along, 1\.\d+ mm in height")
    )
    # From above, the line is dragged down over the piece.
    seen = view_pixels(page)
    page.keyboard.press("Shift+Digit3")
    once_changed(page, seen)
    x, y = middle_of(canvas(page))
    line = page.locator("[data-grip='Section line']")
    was = float(line.get_attribute("y1") or 0)
    page.mouse.move(x - 20, y)
    expect(strip.get_by_role("status")).to_contain_text("mm high")
    drag(page, [(x - 20, y), (x - 20, y + 20), (x - 20, y + 40)])
    page.wait_for_function(
        "was => document.querySelector(\"[data-grip='Section line']\").y1.baseVal.value > was + 10",
        arg=was,
    )
    page.get_by_role("button", name="in numbers").click()
    for end in ("From, up", "To, up"):
        typed(page, end, "25")
    # The end is pulled to the middle of the lower edge.
    still(page)
    at = placer(page, 201, 101)
    drag(page, [at((200, 50)), at((150, 70)), at((100, 100))])
    expect(strip).to_contain_text("Section, 55.9 mm")
    tells("from 1 to 2.5 mm")
    # What it was before the last change stays as a broken line.
    typed(page, "Relief depth", "6")
    tells("from 1 to 4 mm")
    expect(strip.locator("path[stroke-dasharray]")).to_have_count(1)


def test_the_workshop_says_what_a_line_is_worth(shelf: Page, server: Server) -> None:
    page = shelf
    page.get_by_role("link", name="Workshop").click()
    page.get_by_role("button", name="Add a printer").click()
    form = page.get_by_role("form", name="New printer")
    form.get_by_label("Name").fill("Gallery printer")
    form.get_by_label("Nozzle").fill("99")
    form.get_by_role("button", name="Keep").click()
    expect(form.get_by_role("alert")).to_have_text("99 is above 5. The nearest that works is 5.")
    form.get_by_label("Nozzle").fill("0.8")
    form.get_by_label("Line width").fill("0.9")
    form.get_by_label("Layer height").fill("1.2")
    form.get_by_role("button", name="Keep").click()
    # Refused, and what was typed is still there.
    expect(page.get_by_role("alert")).to_contain_text("higher than the nozzle is wide")
    expect(form.get_by_label("Line width")).to_have_value("0.9")
    form.get_by_label("Layer height").fill("0.4")
    form.get_by_role("button", name="Keep").click()
    expect(page.get_by_role("article", name="Gallery printer")).to_contain_text("0.9 mm lines")
    brought(page, server, "lines.png", png(ramp(60, 90)))
    trail(page, "Heights").click()
    typed(page, "Backing", "4 lines")
    expect(page.get_by_text("= 1.68 mm")).to_be_visible()
    trail(page, "Finish").click()
    page.get_by_label("Printer", exact=True).select_option(label="Gallery printer")
    expect(page.get_by_label("Section strip")).to_contain_text("0.9 mm lines · 0.4 mm layers")
    expect(trail(page, "Heights")).to_contain_text("3.6 to 6.6 mm")
    trail(page, "Heights").click()
    shows(page, "Backing", "4 lines")
    typed(page, "Backing", "2 layers")
    expect(page.get_by_text("= 0.8 mm")).to_be_visible()
    # Taken out by mistake, and put back.
    page.goto(f"{server.url}workshop")
    page.get_by_role("button", name="Take out Gallery printer").click()
    expect(page.get_by_role("article", name="Gallery printer")).to_have_count(0)
    page.get_by_role("button", name="Put it back").click()
    expect(page.get_by_role("article", name="Gallery printer")).to_be_visible()
    page.get_by_role("button", name="Take out Gallery printer").click()
    expect(page.get_by_role("article", name="Gallery printer")).to_have_count(0)
