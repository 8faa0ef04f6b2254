"""Nothing that keeps somebody out, on every main view: as axe-core finds it."""

import re
from pathlib import Path

import numpy as np
from playwright.sync_api import Page, expect

from tests.e2e.conftest import Server
from tests.e2e.hands import (
    add,
    at_stop,
    begun_as,
    brought,
    closed,
    full,
    saved,
    shows,
    trail,
    typed,
)
from tests.e2e.test_bodies import torn
from tests.e2e.test_figures import begun
from tests.e2e.test_outlines import discs
from tests.pictures import doll, png, ramp
from tests.web.test_bodies import in_file

_SOURCE = Path("frontend/node_modules/axe-core/axe.min.js")
_RUN = """async () => (await axe.run(document)).violations.flatMap(({ id, nodes }) =>
    nodes.map(({ html }) => `${id}: ${html.slice(0, 160)}`))"""


def fine(page: Page) -> None:
    """Nothing is found on a page as it stands."""
    if not page.evaluate("() => 'axe' in window"):
        # By the protocol, as the page takes no inline script.
        session = page.context.new_cdp_session(page)
        session.send("Runtime.evaluate", {"expression": _SOURCE.read_text("utf-8")})
        session.detach()
    assert page.evaluate(_RUN) == []


def test_the_shelf_the_workshop_and_the_makers(shelf: Page, server: Server) -> None:
    page = shelf
    expect(page.get_by_text("The shelf is empty")).to_be_visible()
    fine(page)
    server.bring("ramp.png", png(ramp()))
    page.reload()
    expect(page.get_by_role("article", name="ramp")).to_be_visible()
    page.get_by_label("More for ramp").click()
    fine(page)
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Begin with a shape").click()
    expect(page.get_by_role("dialog")).to_have_css("opacity", "1")
    fine(page)
    page.goto(f"{server.url}workshop")
    expect(page.get_by_role("article").first).to_be_visible()
    page.get_by_role("button", name="Add a printer").click()
    fine(page)
    page.goto(f"{server.url}makers")
    page.get_by_role("textbox", name="Key").fill("practice-of-nobody")
    page.get_by_role("button", name="Keep").click()
    expect(page.get_by_role("alert")).to_contain_text("This key is not known", ignore_case=True)
    fine(page)


def test_the_stops_of_a_relief_and_its_sheets(page: Page, server: Server) -> None:
    noise = np.random.default_rng(1).random((40, 60), np.float32)
    brought(page, server, "named.png", png(noise))
    for stop in ("Picture", "Heights", "Form", "Finish", "Proof"):
        trail(page, stop).click()
        at_stop(page, stop)
        expect(page.get_by_label("Reading the picture")).to_have_count(0)
        fine(page)
    for key, name in (("x", "Export"), ("?", "Keys")):
        page.keyboard.press(key)
        dialog = page.get_by_role("dialog", name=name)
        expect(dialog).to_have_class(re.compile("show"))
        expect(dialog).to_have_css("opacity", "1")
        fine(page)
        page.keyboard.press("Escape")
        expect(dialog).to_have_count(0)


def test_a_small_window(page: Page, server: Server) -> None:
    brought(page, server, "small.png", png(ramp()))
    add(page, "Crop")
    page.keyboard.press("c")
    expect(page.get_by_role("slider", name="Before and after")).to_be_visible()
    fine(page)
    page.set_viewport_size({"width": 640, "height": 400})
    for part in ("picture", "piece", "section", "numbers"):
        page.get_by_label("What is seen").get_by_role("button", name=part).click()
        fine(page)


def test_a_traced_shape_with_its_nodes(page: Page, server: Server) -> None:
    brought(page, server, "discs.png", discs())
    trail(page, "Heights").click()
    add(page, "Traced shape", "Build-up")
    closed(page)
    page.get_by_role("button", name="move nodes").click()
    expect(page.locator("[data-node]").first).to_be_visible()
    fine(page)


def test_a_mesh_its_report_and_its_steps(page: Page, server: Server) -> None:
    piece = server.bring("torn ball.stl", in_file(torn()))
    page.goto(f"{server.url}pieces/{piece['id']}")
    report = page.get_by_role("region", name="Mesh report")
    report.get_by_role("button", name="Show me").first.click()
    expect(report.get_by_role("button", name="Hide")).to_be_visible()
    fine(page)
    report.locator(".finding", has_text="hole").get_by_role("button", name="Mend these").click()
    expect(page.get_by_role("checkbox", name="holes", exact=True)).to_be_checked()
    fine(page)
    trail(page, "Body").click()
    report.get_by_role("button", name="Repair everything").click()
    expect(page.get_by_role("checkbox", name="holes", exact=True)).to_be_hidden()
    add(page, "Simplify", "Finish steps")
    page.get_by_role("button", name="show where").click()
    expect(page.get_by_text("moved by “simplify”")).to_be_visible()
    add(page, "Colour", "Finish steps")
    page.get_by_label("Coloured", exact=True).select_option("merged, or dropped")
    page.get_by_role("button", name="Merge a colour").click()
    fine(page)


def test_a_decoration_and_its_sheets(page: Page, server: Server) -> None:
    begun_as(page, server, {"kind": "plate"})
    trail(page, "Body").click()
    fine(page)
    trail(page, "Decorations").click()
    page.get_by_role("button", name="Lay on it").click()
    page.locator(".adding-menu").get_by_role("button", name=re.compile("^Lettering ")).click()
    full(page)
    fine(page)
    page.get_by_role("button", name="Strength trial").click()
    typed(page, "How many", "2")
    page.get_by_role("button", name="See them side by side").click()
    takes = page.get_by_role("region", name="Strength trial").get_by_role(
        "button", name=re.compile("^Take")
    )
    expect(takes).to_have_count(2)
    expect(takes.nth(1)).to_be_enabled()
    fine(page)
    chosen = takes.nth(1).inner_text().removeprefix("Take").strip()
    takes.nth(1).click()
    shows(page, "Depth", chosen)
    saved(page)
    page.keyboard.press("Control+z")
    shows(page, "Depth", "1 mm")
    page.get_by_role("button", name="Lay on it").click()
    page.locator(".adding-menu").get_by_role("button", name=re.compile("^A texture ")).click()
    sheet = page.get_by_role("dialog", name="Make a picture")
    expect(sheet.get_by_role("img", name=re.compile("as the dials have it"))).to_be_visible()
    expect(sheet).to_have_css("opacity", "1")
    fine(page)


def test_a_figure(page: Page, server: Server) -> None:
    begun(page, server, doll(0.0))
    closed(page)
    add(page, "Part", "Parts")
    page.get_by_text("turned", exact=True).click()
    page.get_by_role("region", name="Side by side").get_by_role(
        "button", name="See every way"
    ).click()
    expect(page.get_by_role("region", name="Side by side").get_by_role("img")).to_have_count(4)
    saved(page)
    fine(page)
