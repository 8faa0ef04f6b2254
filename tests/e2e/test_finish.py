"""How fine a piece is made: by the machine, within a limit, or exactly as in the picture."""

import re

import pytest
from playwright.sync_api import Page, expect

from nebrel.core.products import MOST_DRAWN
from nebrel.demo.photograph import photograph
from tests.e2e.conftest import Server
from tests.e2e.test_first_slice import Drop, bring, trail, type_length
from tests.e2e.test_saving import kept, saved


def triangles(page: Page) -> int:
    """As the trail says, once the full mesh is there."""
    expect(trail(page, "Finish")).to_contain_text("closed")
    words = trail(page, "Finish").inner_text().replace("\u2009", "")
    found = re.search(r"(\d+) triangles", words)
    assert found
    return int(found[1])


def test_a_photograph_is_made_as_fine_as_can_be_and_as_few_as_asked(
    page: Page, drop: Drop, server: Server
) -> None:
    bring(page, drop, "dusk.jpg", photograph(720, 960))
    expect(trail(page, "Finish")).to_contain_text("closed, as made, within 0.01 mm")
    made = triangles(page)
    trail(page, "Finish").click()
    expect(page.get_by_label("Control panel")).to_contain_text(
        re.compile(r"Detail below 0.05\d mm that no line of the printer")
    )
    expect(page.get_by_label("Pitch", exact=True)).to_have_value(re.compile("0.05[23] mm"))

    page.get_by_text("triangles", exact=True).click()
    expect(page.get_by_role("status").filter(has_text="The limit costs detail")).to_be_visible()
    field = page.get_by_label("Most triangles", exact=True)
    field.fill("20000")
    field.press("Enter")
    expect(trail(page, "Finish")).to_contain_text("closed, limited to")
    assert triangles(page) <= 20_000
    page.get_by_text("none", exact=True).click()
    expect(trail(page, "Finish")).to_contain_text("closed, as made, within 0.01 mm")
    assert triangles(page) == made

    type_length(page, "Pitch", "0.2 mm")
    expect(page.get_by_role("button", name="As the printer asks")).to_be_visible()
    assert triangles(page) < made
    page.get_by_role("button", name="As the printer asks").click()
    expect(page.get_by_label("Pitch", exact=True)).to_have_value(re.compile("0.05[23] mm"))
    assert triangles(page) == made

    page.get_by_text("exactly as in the picture").click()
    expect(trail(page, "Finish")).to_contain_text("closed, within 0.01 mm")
    assert triangles(page) > 1.5 * made
    saved(page)
    assert kept(page, server)["recipe"]["triangles"]["detail"] == "picture"
    # Each choice is one step back.
    page.keyboard.press("Control+z")
    expect(trail(page, "Finish")).to_contain_text("closed, as made")


def test_more_than_a_browser_draws_is_drawn_lighter(page: Page, drop: Drop) -> None:
    assert MOST_DRAWN == 1_200_000
    bring(page, drop, "large dusk.jpg", photograph(900, 1200))
    trail(page, "Finish").click()
    page.get_by_text("quick", exact=True).click()
    page.get_by_text("exactly as in the picture").click()
    expect(trail(page, "Finish")).to_contain_text("closed, within 0.01 mm", timeout=60_000)
    assert triangles(page) > MOST_DRAWN
    figure = page.locator("dt", has_text="Drawn here").locator("xpath=following-sibling::dd")
    expect(figure).to_contain_text("within")
    drawn = int(re.sub(r"\D", "", figure.inner_text().split(",")[0]))
    assert drawn <= MOST_DRAWN
    page.get_by_role("button", name="Export").click()
    expect(page.get_by_role("dialog")).to_contain_text("Triangles")


@pytest.mark.parametrize("name", ["Tolerance", "Most triangles"])
def test_what_makes_no_sense_is_refused_with_what_would(page: Page, drop: Drop, name: str) -> None:
    bring(page, drop, "dusk.jpg", photograph(300, 400))
    trail(page, "Finish").click()
    page.get_by_text("triangles", exact=True).click()
    field = page.get_by_label(name, exact=True)
    field.fill("0" if name == "Tolerance" else "3")
    field.press("Enter")
    expect(page.get_by_text(re.compile("0.001 mm|from 100 to")).first).to_be_visible()
