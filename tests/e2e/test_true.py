"""What the bench says belongs to the recipe on it, whatever waits, fails or is undone."""

import re

import numpy as np
from playwright.sync_api import Page, expect

from tests.e2e.conftest import Server, Window
from tests.e2e.hands import begun_as, drop_file, held, row, trail, typed
from tests.pictures import png

SQUARE = np.ones((80, 80))
SQUARE[20:60, 30:50] = 0.2


def test_old_figures_are_told_as_such_and_art_is_laid_on_the_body_of_now(
    page: Page, server: Server
) -> None:
    begun_as(page, server, {"kind": "cylinder"}, "Cylinder")
    expect(trail(page, "Finish")).to_contain_text("closed")
    with held(page, "**/api/preview") as let_draft, held(page, "**/products/piece.glb") as let_made:
        typed(page, "Tall", "9 mm")
        expect(trail(page, "Finish")).to_contain_text("follows")
        expect(trail(page, "Finish")).not_to_contain_text("closed")
        page.get_by_role("button", name="Export").click()
        export = page.get_by_role("dialog", name="Export")
        expect(export).to_contain_text("Full quality is made first")
        export.get_by_role("button", name="Not now").click()
        trail(page, "Decorations").click()
        page.get_by_role("button", name="Lay on it").click()
        page.locator(".adding-menu").get_by_role("button", name=re.compile("^Lettering ")).click()
        let_draft()
        let_made()
        expect(trail(page, "Decorations")).to_contain_text("1 on it")
    # Where it suits the body as it is now.
    expect(trail(page, "Finish")).to_contain_text("closed")
    (piece,) = server.ask("pieces")
    (one,) = server.ask(f"pieces/{piece['id']}")["recipe"]["begins"]["decorations"]
    assert one["at"][2] <= 9.001


def test_a_figure_that_was_begun_is_a_relief_again_when_it_is_undone(shelf: Page) -> None:
    page = shelf
    drop_file(page, "square.png", png(SQUARE))
    expect(trail(page, "Finish")).to_contain_text("closed")
    page.get_by_role("button", name="figure", exact=True).click()
    expect(trail(page, "Figure")).to_be_visible()
    expect(trail(page, "Finish")).to_contain_text("triangles")
    page.keyboard.press("Control+z")
    expect(trail(page, "Form")).to_contain_text("100 × 100 mm")


def test_a_screen_that_cannot_be_drawn_says_so_and_is_tried_again(
    page: Page, server: Server, window: Window
) -> None:
    begun_as(page, server, {"kind": "plate"}, "Plate")
    piece = server.ask("pieces")[0]
    address = f"**/api/pieces/{piece['id']}"
    page.route(address, lambda route: route.fulfill(json=piece | {"recipe": {"begins": {}}}))
    page.reload()
    expect(page.get_by_role("heading", name="This screen could not be drawn")).to_be_visible()
    page.unroute(address)
    assert window.errors
    window.errors.clear()
    page.get_by_role("button", name="Try again").click()
    expect(trail(page, "Body")).to_be_visible()


def test_what_is_larger_than_the_bed_is_split_and_found_by_the_trades_words(
    page: Page, server: Server
) -> None:
    begun_as(page, server, {"kind": "plate", "wide": "300 mm"}, "Long plate")
    trail(page, "Finish").click()
    expect(trail(page, "Finish")).to_contain_text("larger than the bed")
    page.get_by_role("button", name="Split it").click()
    expect(row(page, "Split")).to_contain_text("x 0")
    expect(trail(page, "Finish")).to_contain_text("closed, 1 step")
    page.get_by_role("button", name="Add", exact=True).click()
    page.keyboard.type("boolean")
    page.keyboard.press("Enter")
    expect(row(page, "Join")).to_be_visible()
    expect(page.get_by_text("Choose what it is joined with")).to_be_visible()
    expect(page.get_by_text("not on this shelf")).to_have_count(0)
    expect(trail(page, "Finish")).to_contain_text("a step waits")
