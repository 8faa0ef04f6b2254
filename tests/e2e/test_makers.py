"""A model ordered elsewhere: a key, a failure on the way, a restart, and a piece of what came."""

import re
from contextlib import suppress
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.e2e.conftest import Server
from tests.e2e.hands import closed, exported, solid
from tests.e2e.test_figures import begun
from tests.pictures import doll


def nothing_ordered(server: Server) -> None:
    """No key, and no order."""
    server.ask("makers/practice/key", "DELETE")
    for order in server.ask("orders"):
        with suppress(AssertionError):  # it is over
            server.ask(f"orders/{order['id']}/cancel", "POST")
        server.ask(f"orders/{order['id']}", "DELETE")


def test_a_model_is_ordered_fails_goes_on_and_becomes_a_piece(
    shelf: Page, server: Server, tmp_path: Path
) -> None:
    page = shelf
    nothing_ordered(server)
    page.get_by_role("link", name="Model makers").click()
    order = page.get_by_role("button", name="Order a model of a picture")
    expect(order).to_be_disabled()
    page.get_by_role("textbox", name="Key").fill("practice-of-nobody")
    page.get_by_role("button", name="Keep").click()
    expect(page.get_by_role("alert")).to_contain_text("This key is not known", ignore_case=True)
    page.get_by_role("button", name="Get a practice key").click()
    expect(page.get_by_text("50 credits left")).to_be_visible()
    expect(order).to_be_enabled()
    begun(page, server, doll(0.0))
    page.get_by_role("button", name="Order a model of the subject").click()
    row = page.get_by_role("listitem", name="doll.png")
    expect(row).to_contain_text("came back")
    row.get_by_role("button", name="Try again: doll.png").click()
    expect(row.get_by_role("progressbar")).to_be_visible()
    page.reload()  # nothing of it hangs on the page
    expect(row.get_by_role("button", name="Begin a piece with it: doll.png")).to_be_visible()
    expect(page.get_by_text("45 credits left")).to_be_visible()
    row.get_by_role("button", name="Begin a piece with it: doll.png").click()
    closed(page)
    solid(exported(page, tmp_path, "PLY"))
    page.goto(f"{server.url}makers")
    row.get_by_role("button", name=re.compile("^Remove")).click()
    expect(row).to_have_count(0)
