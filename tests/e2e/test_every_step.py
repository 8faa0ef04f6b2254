"""Every step of every list opens with its numbers, and an undo takes it back."""

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import Server
from tests.e2e.hands import begun_as, brought, row, trail
from tests.pictures import png, ramp

LISTS = [
    ("Picture", "Corrections", 26),
    ("Heights", "Build-up", 5),
    ("Form", "Fittings", 7),
    ("Finish", "Finish steps", 16),
]


@pytest.mark.parametrize(("stop", "name", "count"), LISTS)
def test_every_step_opens(page: Page, server: Server, stop: str, name: str, count: int) -> None:
    if name == "Finish steps":
        begun_as(page, server, {"kind": "box"})
    else:
        brought(page, server, "all.png", png(ramp(60, 90)))
    trail(page, stop).click()
    steps = page.get_by_role("region", name=name)
    adding = steps.get_by_role("button", name="Add", exact=True)
    adding.click()
    menu = page.locator(".adding-menu")
    names = menu.locator("button:not(.disabled) strong").all_inner_texts()
    page.keyboard.press("Escape")
    assert len(names) == count
    for one in names:
        adding.click()
        menu.locator("button", has=page.get_by_text(one, exact=True)).click()
        opened = steps.locator(".ordered-editor")
        expect(opened).to_be_visible()
        page.keyboard.press("Control+z")
        expect(row(page, one)).to_have_count(0)
        expect(opened).to_have_count(0)
