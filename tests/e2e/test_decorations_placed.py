"""Decorations placed by grips and lines, their parts, fades, trials and motifs."""

import re

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.e2e.axe import findings
from tests.e2e.conftest import Server
from tests.e2e.test_bodies import dragged, in_the_middle, px_per_mm
from tests.e2e.test_decorations import begin, lay
from tests.e2e.test_first_slice import trail
from tests.e2e.test_saving import saved


def full(page: Page) -> None:
    """Wait for the piece at full quality, the decoration on it."""
    expect(page.get_by_text("Lines become")).to_be_visible()
    view = page.get_by_role("region", name="Piece view")
    expect(view).to_have_attribute("aria-busy", "false")
    expect(view.locator(".view-name")).to_have_text("Piece")
    expect(view.locator(".working")).to_have_count(0)


def field(page: Page, name: str) -> Locator:
    return page.get_by_role("textbox", name=name, exact=True)


def typed(page: Page, name: str, value: str) -> None:
    field(page, name).fill(value)
    field(page, name).press("Enter")


def value(page: Page, name: str) -> float:
    return float(field(page, name).input_value().split()[0])


def seen_from_above(page: Page) -> None:
    page.get_by_role("button", name="above", exact=True).click()


def press_at(page: Page, right_mm: float, up_mm: float) -> tuple[float, float]:
    """Where a place of what is seen from above is drawn."""
    x, y = in_the_middle(page)
    scale = px_per_mm(page)
    return x + right_mm * scale, y - up_mm * scale


def test_a_shape_is_sized_turned_and_set_along_the_edge(page: Page, server: Server) -> None:
    begin(page, server.url, "Plate")
    lay(page, "A shape")
    full(page)
    seen_from_above(page)
    # It is 24 mm wide: its grips are at its right and at its upper side.
    scale = px_per_mm(page)
    dragged(page, press_at(page, 12, 0), (-6 * scale, 0))
    expect(field(page, "Times as large")).not_to_have_value("1")
    assert value(page, "Times as large") == pytest.approx(0.5, abs=0.04)
    full(page)
    dragged(page, press_at(page, 0, 6), (-6 * scale, -6 * scale))
    expect(field(page, "Turn")).not_to_have_value("0")
    assert value(page, "Turn") == pytest.approx(26.6, abs=4)  # the grip is 12 mm away now
    page.get_by_role("button", name="Upright").click()
    expect(field(page, "Turn")).to_have_value("0")
    typed(page, "From its front", "10")
    page.get_by_role("button", name="Middle of its face").click()
    expect(field(page, "From its front")).to_have_value("30")
    typed(page, "From its front", "9")
    page.get_by_text("along a line", exact=True).click()
    typed(page, "How often", "6")
    expect(trail(page, "Decorations")).to_contain_text("1 on it")
    expect(page.get_by_text("6 × raised")).to_be_visible()
    full(page)
    assert findings(page) == []
    typed(page, "How often", "40")
    expect(page.get_by_text("reaches into the next")).to_be_visible()


def test_a_strength_is_chosen_from_those_side_by_side(page: Page, server: Server) -> None:
    begin(page, server.url, "Plate")
    lay(page, "A shape")
    full(page)
    page.get_by_role("button", name="Strength trial").click()
    page.get_by_role("button", name="See them side by side").click()
    view = page.get_by_role("region", name="Strength trial")
    takes = view.get_by_role("button", name=re.compile("^Take"))
    # Five drafts, one after another, on a machine that may have much else to do.
    expect(takes).to_have_count(5, timeout=90_000)
    for n in range(5):
        expect(takes.nth(n)).to_be_enabled(timeout=90_000)
    assert findings(page) == []
    view.get_by_role("button", name="Take 1.6 mm").click()
    expect(field(page, "Depth")).to_have_value("1.6 mm")
    saved(page)
    page.keyboard.press("Control+z")
    expect(field(page, "Depth")).to_have_value("1 mm")


def test_a_letter_is_sunk_words_fade_and_are_kept_for_the_next_body(
    page: Page, server: Server
) -> None:
    begin(page, server.url, "Plate")
    lay(page, "Lettering")
    full(page)
    seen_from_above(page)
    page.get_by_role("button", name="A part of its own depth").click()
    page.mouse.click(*press_at(page, -35, -20))
    expect(page.get_by_text("That is beside the decoration")).to_be_visible()
    page.mouse.click(*press_at(page, 0, 0))
    expect(field(page, "Part 1")).to_have_value("-1 mm")
    full(page)
    expect(trail(page, "Finish")).to_contain_text("closed")
    page.get_by_role("combobox", name="Fades to nothing").select_option("brush")
    page.get_by_role("button", name="Brush", exact=True).click()
    scale = px_per_mm(page)
    dragged(page, press_at(page, 9, -6), (0, -12 * scale))
    expect(page.get_by_text("1 stroke so far")).to_be_visible()
    full(page)
    page.get_by_role("button", name="Keep as motif").click()
    page.get_by_role("dialog").get_by_label("Name").fill("Sunk letter")
    page.get_by_role("button", name="Keep it").click()
    expect(page.get_by_text("is a motif now")).to_be_visible()
    saved(page)
    begin(page, server.url, "Box")
    lay(page, "Sunk letter")
    full(page)
    expect(field(page, "Part 1")).to_have_value("-1 mm")
    expect(trail(page, "Finish")).to_contain_text("closed")
