"""A step of every list is added from its menu, opens with its numbers, and an undo takes it back.

That every kind opens is tested where they are: `frontend/src/bench/steps/editors.test.tsx`.
"""

from playwright.sync_api import Page, expect

from tests.e2e.conftest import Server
from tests.e2e.hands import begun_as, brought, row, trail
from tests.pictures import png, ramp

OF_A_RELIEF = [("Picture", "Corrections", 26), ("Heights", "Build-up", 5), ("Form", "Fittings", 7)]


def opens(page: Page, stop: str, name: str, count: int) -> None:
    trail(page, stop).click()
    steps = page.get_by_role("region", name=name)
    adding = steps.get_by_role("button", name="Add", exact=True)
    adding.click()
    menu = page.locator(".adding-menu")
    names = menu.locator("button:not(.disabled) strong").all_inner_texts()
    page.keyboard.press("Escape")
    assert len(names) == count
    for one in (names[0], names[-1]):
        adding.click()
        menu.locator("button", has=page.get_by_text(one, exact=True)).click()
        opened = steps.locator(".ordered-editor")
        expect(opened).to_be_visible()
        page.keyboard.press("Control+z")
        expect(row(page, one)).to_have_count(0)
        expect(opened).to_have_count(0)


def test_a_step_of_every_list_opens(page: Page, server: Server) -> None:
    brought(page, server, "all.png", png(ramp(60, 90)))
    for stop, name, count in OF_A_RELIEF:
        opens(page, stop, name, count)
    begun_as(page, server, {"kind": "box"})
    opens(page, "Finish", "Finish steps", 16)
