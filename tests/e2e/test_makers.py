"""A model ordered elsewhere: a key, a failure on the way, tried again, and a piece of what came."""

import re
from pathlib import Path

import trimesh
from playwright.sync_api import Page, expect

from tests.e2e.axe import findings
from tests.e2e.conftest import Server
from tests.e2e.test_decorations import exported
from tests.e2e.test_figures import begun, closed, doll
from tests.e2e.test_first_slice import trail
from tests.e2e.test_saving import saved


def test_a_model_is_ordered_fails_is_tried_again_and_becomes_a_piece(
    page: Page, server: Server, tmp_path: Path
) -> None:
    page.get_by_role("link", name="Model makers").click()
    order = page.get_by_role("button", name="Order a model of a picture")
    expect(order).to_be_disabled()
    page.get_by_role("textbox", name="Key").fill("practice-of-nobody")
    page.get_by_role("button", name="Keep").click()
    expect(page.get_by_role("alert")).to_contain_text("This key is not known", ignore_case=True)
    page.get_by_role("button", name="Get a practice key").click()
    expect(page.get_by_text("50 credits left")).to_be_visible()
    expect(order).to_be_enabled()
    page.get_by_role("link", name="To the shelf", exact=True).click()
    begun(page, doll(0.0))
    closed(page)
    saved(page)
    trail(page, "Figure").click()
    page.get_by_role("button", name="Order a model of the subject").click()
    row = page.get_by_role("listitem", name="doll.png")
    expect(row).to_contain_text("came back")
    assert findings(page) == []
    row.get_by_role("button", name="Try again: doll.png").click()
    expect(row.get_by_role("progressbar")).to_be_visible()
    page.reload()  # nothing of it hangs on the page
    expect(row.get_by_role("button", name="Begin a piece with it: doll.png")).to_be_visible()
    expect(page.get_by_text("45 credits left")).to_be_visible()
    row.get_by_role("button", name="Begin a piece with it: doll.png").click()
    closed(page)
    mesh = trimesh.load(exported(page, tmp_path, "PLY"))
    assert isinstance(mesh, trimesh.Trimesh) and mesh.is_volume


def test_an_order_goes_on_when_nebrel_was_closed(page: Page, server: Server) -> None:
    page.get_by_role("link", name="Model makers").click()
    page.get_by_role("button", name=re.compile("practice key")).click()
    expect(page.get_by_text("credits left")).to_be_visible()
    for name in ("one.png", "two.png"):  # one of them may fail
        with page.expect_file_chooser() as chooser:
            page.get_by_role("button", name="Order a model of a picture").click()
        chooser.value.set_files({"name": name, "mimeType": "image/png", "buffer": doll(0.0)})
        expect(page.get_by_role("listitem", name=name)).to_be_visible()
    server.stop()
    server.start()
    page.goto(f"{server.url}makers")
    for name in ("one.png", "two.png"):
        row = page.get_by_role("listitem", name=name)
        expect(row.get_by_role("button", name=re.compile("Begin|Try"))).to_be_visible()
        row.get_by_role("button", name=f"Remove: {name}").click()
        expect(row).to_have_count(0)
