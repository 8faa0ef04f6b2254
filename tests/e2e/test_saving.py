"""What is typed and undone reaches the server whole and in order, whatever the line does."""

import json
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from urllib.request import urlopen
from zipfile import ZipFile

import pytest
from playwright.sync_api import Page, Route, expect

from tests.e2e.conftest import Server
from tests.e2e.test_first_slice import Drop, bring, trail, type_length
from tests.pictures import png, ramp
from tests.recipes import art_of, tones_of


@pytest.fixture
def bench(page: Page, drop: Drop) -> Page:
    """A small piece at Heights, relief depth 3 mm, backing 1 mm."""
    bring(page, drop, "ramp.png", png(ramp()))
    trail(page, "Heights").click()
    return page


def saved(page: Page) -> None:
    expect(page.get_by_text("saved", exact=True)).to_be_visible()


def shows(page: Page, label: str, value: str) -> None:
    expect(page.get_by_label(label, exact=True)).to_have_value(value)


def kept(page: Page, server: Server) -> dict:
    """The piece as the server has it."""
    return json.load(urlopen(f"{server.url}api/pieces/{page.url.rsplit('/', 1)[-1]}"))


def depths(piece: dict) -> tuple[float, float]:
    recipe = piece["recipe"]
    return tones_of(recipe)["depth"]["mm"], art_of(recipe)["backing"]["mm"]


@contextmanager
def held(page: Page, address: str) -> Iterator[Callable[[], None]]:
    """Requests that wait until they are let go, one by one."""
    waiting: list[Route] = []

    def hold(route: Route) -> None:
        waiting.append(route)

    def let_go() -> None:
        while not waiting:
            page.wait_for_event("request", timeout=10_000)
        waiting.pop(0).continue_()

    page.route(address, hold)
    yield let_go
    page.unroute(address)
    for route in waiting:
        route.continue_()


@contextmanager
def away(page: Page) -> Iterator[None]:
    """No server for one window."""
    page.route("**/api/**", lambda route: route.abort())
    yield
    page.unroute("**/api/**")


def test_what_is_typed_is_taken_before_an_undo(bench: Page, server: Server) -> None:
    type_length(bench, "Relief depth", "5")
    saved(bench)
    # Typed and not entered: the undo is of this number, and the one before stays.
    bench.get_by_label("Relief depth", exact=True).fill("0.25 in")
    bench.get_by_role("button", name="Undo").click()
    shows(bench, "Relief depth", "5 mm")
    saved(bench)
    assert depths(kept(bench, server)) == (5, 1)
    bench.get_by_role("button", name="Redo").click()
    shows(bench, "Relief depth", "0.25 in")
    assert depths(kept(bench, server))[0] == pytest.approx(6.35)


def test_in_a_field_the_typing_is_undone_first(bench: Page, server: Server) -> None:
    type_length(bench, "Relief depth", "5")
    saved(bench)
    field = bench.get_by_label("Backing", exact=True)
    field.fill("7")
    field.press("Control+z")
    shows(bench, "Backing", "1 mm")
    shows(bench, "Relief depth", "5 mm")
    field.press("Control+z")
    shows(bench, "Relief depth", "3 mm")
    saved(bench)
    assert depths(kept(bench, server)) == (3, 1)


def test_quick_undos_on_a_slow_line(bench: Page, server: Server) -> None:
    for value in ("4", "5", "6"):
        type_length(bench, "Relief depth", value)
        saved(bench)
    with held(bench, "**/undo*") as let_go:
        for _ in range(3):
            bench.keyboard.press("Tab")
            bench.keyboard.press("Control+z")
        for _ in range(3):
            let_go()
        shows(bench, "Relief depth", "3 mm")
    saved(bench)
    assert depths(kept(bench, server)) == (3, 1)
    type_length(bench, "Backing", "2")
    saved(bench)
    assert depths(kept(bench, server)) == (3, 2)


def overtake(bench: Page) -> Page:
    """A second window that changed the depth while this one's backing was on its way."""
    other = bench.context.new_page()
    other.goto(bench.url)
    trail(other, "Heights").click()
    shows(other, "Relief depth", "3 mm")
    with held(bench, "**/recipe") as let_go:
        type_length(bench, "Backing", "2")
        type_length(other, "Relief depth", "6")
        saved(other)
        let_go()
        expect(bench.get_by_role("alert")).to_contain_text("Changed in another window")
    shows(bench, "Backing", "2 mm")
    return other


def test_mine_is_kept_as_a_new_step_on_theirs(bench: Page, server: Server) -> None:
    other = overtake(bench)
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
    other.close()


def test_theirs_is_taken_and_mine_waits_under_redo(bench: Page, server: Server) -> None:
    other = overtake(bench)
    bench.get_by_role("button", name="Take theirs").click()
    shows(bench, "Relief depth", "6 mm")
    shows(bench, "Backing", "1 mm")
    saved(bench)
    assert depths(kept(bench, server)) == (6, 1)
    bench.get_by_role("button", name="Redo").click()
    shows(bench, "Backing", "2 mm")
    other.close()


def test_a_piece_taken_off_the_shelf_elsewhere_is_put_back(bench: Page, server: Server) -> None:
    other = bench.context.new_page()
    other.goto(server.url)
    other.get_by_label("More for ramp", exact=True).first.click()
    other.get_by_role("button", name="Delete").click()
    expect(other.get_by_role("button", name="Put it back")).to_be_visible()
    expect(bench.get_by_role("alert")).to_contain_text("Taken off the shelf")
    bench.get_by_role("alert").get_by_role("button", name="Put it back").click()
    type_length(bench, "Backing", "2")
    saved(bench)
    assert depths(kept(bench, server)) == (3, 2)
    other.close()


def test_an_edit_without_a_server_is_kept_over_a_reload(bench: Page, server: Server) -> None:
    with away(bench):
        type_length(bench, "Relief depth", "8")
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


def test_an_edit_without_a_server_is_sent_when_it_is_back(bench: Page, server: Server) -> None:
    server.stop()
    type_length(bench, "Relief depth", "8")
    expect(bench.get_by_role("alert")).to_contain_text("tried again by itself")
    bench.get_by_label("Nebrel, to the shelf").click()
    bench.get_by_role("button", name="Leave").click()
    expect(bench.get_by_label("Bring a picture, a drawing or a mesh", exact=True)).to_be_visible()
    server.start()
    bench.go_back()
    shows(bench, "Relief depth", "8 mm")
    saved(bench)
    expect(trail(bench, "Finish")).to_contain_text("closed")
    expect(bench.get_by_role("alert")).to_have_count(0)
    assert depths(kept(bench, server)) == (8, 1)


def test_files_wait_for_what_is_being_saved(bench: Page, server: Server) -> None:
    bench.get_by_label("Relief depth", exact=True).fill("9")
    with held(bench, "**/recipe") as let_go, bench.expect_download() as download:
        bench.get_by_role("button", name="Export").click()
        bench.get_by_role("button", name="Recipe with pictures").click()
        let_go()
    with ZipFile(download.value.path()) as packed:
        written = json.loads(packed.read("recipe.json"))
    assert tones_of(written)["depth"]["mm"] == 9
    assert download.value.suggested_filename == "ramp.zip"


def test_one_typing_is_one_step_with_a_plain_name(bench: Page, server: Server) -> None:
    bench.get_by_role("button", name="Add", exact=True).click()
    bench.get_by_role("button", name="Text lettering").click()
    saved(bench)
    field = bench.get_by_label("Text", exact=True)
    field.fill("Cor")
    saved(bench)
    field.press("End")
    field.type("vane")
    saved(bench)
    piece = kept(bench, server)
    assert (piece["undo"], piece["revision"]) == ("text", 3)
    field.press("Control+z")
    expect(field).to_have_value("Corvane Hill")
    saved(bench)
    assert kept(bench, server)["undo"] == "add text"


def test_failures_are_said_in_one_place_with_a_way_to_try_again(bench: Page) -> None:
    failing = ("preview", "section", "chart", "corrected", "corrected.png")
    body = json.dumps(
        {"error": {"kind": "error", "what": "request", "why": "it broke", "remedy": "Try again"}}
    )
    failing = [f"**/api/{name}" for name in failing] + ["**/products/piece.glb"]
    for address in failing:
        bench.route(address, lambda route: route.fulfill(status=500, body=body))
    type_length(bench, "Relief depth", "5")
    trail(bench, "Picture").click()
    bench.get_by_role("button", name="Add", exact=True).click()
    bench.get_by_role("button", name="Invert").click()
    alert = bench.get_by_role("alert").filter(has_text="it broke")
    for what in ("the piece", "the section", "the picture", "the tone chart"):
        expect(alert).to_contain_text(what)
    for address in failing:
        bench.unroute(address)
    alert.get_by_role("button", name="Try again").click()
    expect(alert).to_have_count(0)
    expect(trail(bench, "Finish")).to_contain_text("closed")


def test_a_refused_number_does_not_hold_back_what_follows(bench: Page, server: Server) -> None:
    type_length(bench, "Backing", "900")
    alert = bench.get_by_role("alert")
    expect(alert).to_contain_text("a backing of 900 mm is outside 0 to 500 mm", ignore_case=True)
    shows(bench, "Backing", "900")
    type_length(bench, "Relief depth", "5")
    expect(trail(bench, "Heights")).to_contain_text("1 to 6 mm")
    shows(bench, "Backing", "900")
    assert depths(kept(bench, server)) == (5, 1)
    bench.get_by_role("button", name="Take 500 mm").click()
    expect(alert).to_have_count(0)
    saved(bench)
    assert depths(kept(bench, server)) == (5, 500)
