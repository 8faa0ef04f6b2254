"""Pinning tones, cutting through and bending, in a real browser."""

import re
from pathlib import Path

import numpy as np
import pytest
import trimesh
from playwright.sync_api import Page, expect

from nebrel.demo.pictures import as_png, gallery_tag
from tests.e2e.conftest import Server
from tests.e2e.test_first_slice import Drop, bring, trail, type_length
from tests.e2e.test_picture_stop import placer, recipe_of, still
from tests.pictures import png, ramp
from tests.recipes import tones_of


def exported(page: Page, folder: Path) -> trimesh.Trimesh:
    page.get_by_role("button", name="Export").click()
    with page.expect_download() as download:
        page.get_by_role("button", name="Download STL").click()
    path = folder / "out.stl"
    download.value.save_as(path)
    mesh = trimesh.load(path)
    assert mesh.is_watertight
    assert mesh.is_winding_consistent
    return mesh


def test_a_flat_drawing_gets_its_plateaus_and_its_window(
    page: Page, drop: Drop, server: Server, tmp_path: Path
) -> None:
    bring(page, drop, "tag.png", as_png(gallery_tag(), 8))
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
    type_length(page, "Tone 0", "2.4")
    type_length(page, "Tone 0.502", "1.4")
    pins.nth(2).get_by_role("button", name="cut through").click()
    type_length(page, "Backing", "0")
    expect(trail(page, "Heights")).to_contain_text("1.4 to 2.4 mm")
    still(page)
    expect(trail(page, "Finish")).to_contain_text("closed")
    mesh = exported(page, tmp_path)
    assert np.unique(np.round(mesh.vertices[:, 2], 3)).tolist() == pytest.approx([0, 1.4, 2.4])
    assert mesh.euler_number == -2  # the window and the hole for the cord go right through
    pins_kept = tones_of(recipe_of(page, server))["pins"]
    assert [pin["mm"] is None for pin in pins_kept] == [False, False, True]


def test_a_picture_is_bent_and_goes_around(page: Page, drop: Drop, tmp_path: Path) -> None:
    bring(page, drop, "bend.png", png(ramp(60, 120)))
    trail(page, "Form").click()
    page.get_by_label("Form", exact=True).select_option("arc")
    expect(trail(page, "Form")).to_contain_text("arc, 90°")
    type_length(page, "Bend", "180")
    expect(page.get_by_label("Bare radius", exact=True)).to_have_value("31.831 mm")
    page.get_by_text("inside", exact=True).click()
    expect(trail(page, "Finish")).to_contain_text("closed")
    page.get_by_label("Form", exact=True).select_option("tube")
    expect(trail(page, "Form")).to_contain_text("tube")
    expect(trail(page, "Finish")).to_contain_text(re.compile("closed"))
    mesh = exported(page, tmp_path)
    assert mesh.euler_number == 0
    reach = np.hypot(mesh.vertices[:, 0], mesh.vertices[:, 1])
    assert reach.min() == pytest.approx(100 / 2 / np.pi, abs=0.01)
    # What cannot be bent says so, and the piece stays.
    page.get_by_text("inside", exact=True).click()
    trail(page, "Heights").click()
    type_length(page, "Relief depth", "40")
    expect(page.get_by_role("alert")).to_contain_text("would fold over")
    page.keyboard.press("Tab")
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("alert")).to_have_count(0)


def test_the_section_is_read_and_dragged(page: Page, drop: Drop) -> None:
    bring(page, drop, "section.png", png(ramp(101, 201)))
    trail(page, "Heights").click()
    strip = page.get_by_label("Section strip")
    expect(strip).to_contain_text("Section, 100 mm")
    expect(strip.get_by_role("slider")).to_have_attribute(
        "aria-label", re.compile("from 1 to 4 mm")
    )
    box = strip.bounding_box()
    assert box
    page.mouse.move(box["x"] + 46 + (box["width"] - 64) / 2, box["y"] + 90)
    expect(strip.get_by_role("status")).to_contain_text(
        re.compile(r"at 50(\.\d)? mm: 2\.5\d* mm high")
    )
    # The end is pulled to the middle of the lower edge.
    still(page)
    at = placer(page, 201, 101)
    page.mouse.move(*at((200, 50)))
    page.mouse.down()
    page.mouse.move(*at((150, 70)), steps=5)
    page.mouse.move(*at((100, 100)), steps=5)
    page.mouse.up()
    expect(strip).to_contain_text("Section, 55.9 mm")
    expect(strip.get_by_role("slider")).to_have_attribute(
        "aria-label", re.compile("from 1 to 2.5 mm")
    )
    # What it was before the last change stays as a broken line.
    type_length(page, "Relief depth", "6")
    expect(strip.get_by_role("slider")).to_have_attribute(
        "aria-label", re.compile("from 1 to 4 mm")
    )
    expect(strip.locator("path[stroke-dasharray]")).to_have_count(1)
