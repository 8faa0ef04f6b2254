"""What is typed and undone reaches the server whole and in order, whatever the line does."""

import json
from pathlib import Path
from zipfile import ZipFile

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import Server
from tests.e2e.hands import (
    add,
    away,
    brought,
    depths,
    downloaded,
    dropped,
    held,
    kept,
    row,
    saved,
    shows,
    trail,
    typed,
)
from tests.pictures import png, ramp
from tests.recipes import tones_of


@pytest.fixture
def bench(page: Page, server: Server) -> Page:
    """A small piece at Heights, relief depth 3 mm, backing 1 mm."""
    brought(page, server, "ramp.png", png(ramp()))
    trail(page, "Heights").click()
    return page


def test_what_is_typed_is_taken_before_an_undo(bench: Page, server: Server) -> None:
    typed(bench, "Relief depth", "5")
    saved(bench)
    # Typed and not entered: the undo is of this number, and the one before stays.
    bench.get_by_label("Relief depth", exact=True).fill("0.25 in")
    bench.get_by_role("button", name="Undo").click()
    shows(bench, "Relief depth", "5 mm")
    saved(bench)
    assert depths(kept(bench, server)) == (5, 1)
    bench.get_by_role("button", name="Redo").click()
    shows(bench, "Relief depth", "0.25 in")
    saved(bench)
    assert depths(kept(bench, server))[0] == pytest.approx(6.35)
    # In a field the typing is undone first.
    box = bench.get_by_label("Backing", exact=True)
    box.fill("7")
    box.press("Control+z")
    shows(bench, "Backing", "1 mm")
    shows(bench, "Relief depth", "0.25 in")
    box.press("Control+z")
    shows(bench, "Relief depth", "5 mm")
    saved(bench)
    assert depths(kept(bench, server)) == (5, 1)


def overtaken(bench: Page, other: Page, depth: str) -> None:
    """A second window changed the depth while this one's backing was on its way."""
    with held(bench, "**/recipe") as let_go:
        typed(bench, "Backing", "2")
        typed(other, "Relief depth", depth)
        saved(other)
        let_go()
        told = bench.locator(".banner", has_text="Changed in another window")
        expect(told).to_be_visible()
    shows(bench, "Backing", "2 mm")


def test_an_edit_that_another_window_overtook_is_mine_or_theirs(
    bench: Page, server: Server
) -> None:
    other = bench.context.new_page()
    other.goto(bench.url)
    trail(other, "Heights").click()
    shows(other, "Relief depth", "3 mm")
    overtaken(bench, other, "6")
    bench.get_by_role("button", name="Export").click()
    bench.get_by_role("button", name="Download STL").click()
    expect(bench.get_by_role("alert").filter(has_text="Choose first")).to_be_visible()
    bench.keyboard.press("Escape")
    bench.get_by_role("button", name="Keep mine as a new step").click()
    saved(bench)
    assert depths(kept(bench, server)) == (6, 2)
    shows(other, "Backing", "2 mm")
    bench.get_by_role("button", name="Undo").click()
    shows(bench, "Backing", "1 mm")
    shows(bench, "Relief depth", "6 mm")
    saved(bench)
    shows(other, "Backing", "1 mm")
    # Once more, and now theirs is taken: mine waits under redo.
    overtaken(bench, other, "7")
    bench.get_by_role("button", name="Take theirs").click()
    shows(bench, "Relief depth", "7 mm")
    shows(bench, "Backing", "1 mm")
    saved(bench)
    assert depths(kept(bench, server)) == (7, 1)
    bench.get_by_role("button", name="Redo").click()
    shows(bench, "Backing", "2 mm")


def test_a_piece_taken_off_the_shelf_elsewhere_is_put_back(bench: Page, server: Server) -> None:
    server.ask(f"pieces/{kept(bench, server)['id']}", "DELETE")
    expect(bench.get_by_role("alert")).to_contain_text("Taken off the shelf")
    bench.get_by_role("alert").get_by_role("button", name="Put it back").click()
    typed(bench, "Backing", "2")
    saved(bench)
    assert depths(kept(bench, server)) == (3, 2)


def test_an_edit_without_a_server_is_kept_over_a_reload(bench: Page, server: Server) -> None:
    with away(bench):
        typed(bench, "Relief depth", "8")
        expect(bench.get_by_text("not saved, trying again")).to_be_visible()
        alert = bench.get_by_role("alert").filter(has_text="Not saved yet")
        expect(alert).to_contain_text("kept in this window")
        expect(alert).to_contain_text("the piece")
        bench.get_by_label("Nebrel, to the shelf").click()
        bench.get_by_role("button", name="Stay").click()
        shows(bench, "Relief depth", "8 mm")
        assert depths(kept(bench, server)) == (3, 1)
    # The reload asks as well; the person goes on with it.
    bench.once("dialog", lambda dialog: dialog.accept())
    bench.reload()
    shows(bench, "Relief depth", "8 mm")
    saved(bench)
    assert depths(kept(bench, server)) == (8, 1)


def test_an_edit_without_a_server_is_sent_when_it_is_back(
    own_shelf: Page, own_server: Server
) -> None:
    dropped(own_shelf, "ramp.png", png(ramp()))
    trail(own_shelf, "Heights").click()
    own_server.stop()
    typed(own_shelf, "Relief depth", "8")
    expect(own_shelf.get_by_role("alert")).to_contain_text("tried again by itself")
    own_shelf.get_by_label("Nebrel, to the shelf").click()
    own_shelf.get_by_role("button", name="Leave").click()
    drop_area = own_shelf.get_by_label("Bring a picture, a drawing or a mesh", exact=True)
    expect(drop_area).to_be_visible()
    own_server.start()
    own_shelf.go_back()
    shows(own_shelf, "Relief depth", "8 mm")
    saved(own_shelf)
    expect(trail(own_shelf, "Finish")).to_contain_text("closed")
    expect(own_shelf.get_by_role("alert")).to_have_count(0)
    assert depths(kept(own_shelf, own_server)) == (8, 1)


def test_files_wait_for_what_is_being_saved(bench: Page, tmp_path: Path) -> None:
    bench.get_by_label("Relief depth", exact=True).fill("9")
    with held(bench, "**/recipe") as let_go:

        def press() -> None:
            bench.get_by_role("button", name="Export").click()
            bench.get_by_role("button", name="Recipe with pictures").click()
            let_go()

        path = downloaded(bench, tmp_path, press, ".zip")
    with ZipFile(path) as packed:
        written = json.loads(packed.read("recipe.json"))
    assert tones_of(written)["depth"]["mm"] == 9


def test_failures_are_said_in_one_place_with_a_way_to_try_again(bench: Page) -> None:
    failing = ("preview", "section", "chart", "corrected", "corrected.png")
    body = json.dumps(
        {"error": {"kind": "error", "what": "request", "why": "it broke", "remedy": "Try again"}}
    )
    failing = [f"**/api/{name}" for name in failing] + ["**/products/piece.glb"]
    for address in failing:
        bench.route(address, lambda route: route.fulfill(status=500, body=body))
    with bench.expect_response("**/products/piece.glb"):
        typed(bench, "Relief depth", "5")
    trail(bench, "Picture").click()
    add(bench, "Invert")
    expect(row(bench, "Invert")).to_be_visible()
    alert = bench.get_by_role("alert").filter(has_text="it broke")
    for what in ("the piece", "the section", "the picture", "the tone chart"):
        expect(alert).to_contain_text(what)
    for address in failing:
        bench.unroute(address)
    alert.get_by_role("button", name="Try again").click()
    expect(alert).to_have_count(0)
    expect(trail(bench, "Finish")).to_contain_text("closed")


def test_a_refused_number_does_not_hold_back_what_follows(bench: Page, server: Server) -> None:
    typed(bench, "Backing", "900")
    alert = bench.get_by_role("alert")
    expect(alert).to_contain_text("a backing of 900 mm is outside 0 to 500 mm", ignore_case=True)
    shows(bench, "Backing", "900")
    typed(bench, "Relief depth", "5")
    expect(trail(bench, "Heights")).to_contain_text("1 to 6 mm")
    shows(bench, "Backing", "900")
    assert depths(kept(bench, server)) == (5, 1)
    bench.get_by_role("button", name="Take 500 mm").click()
    expect(alert).to_have_count(0)
    saved(bench)
    assert depths(kept(bench, server)) == (5, 500)
