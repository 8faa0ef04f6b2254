"""Every key does what it says, the focus is never lost, and everything has a name."""

import pytest
from playwright.sync_api import Page, expect

from nebrel.demo.flawed import captioned
from nebrel.demo.pictures import as_png
from tests.e2e.conftest import Server
from tests.e2e.hands import (
    add,
    at_stop,
    brought,
    recipe_of,
    row,
    saved,
    shows,
    trail,
    typed,
)
from tests.pictures import png, ramp
from tests.recipes import art_of, pictured


@pytest.fixture
def bench(page: Page, server: Server) -> Page:
    brought(page, server, "keys.png", png(ramp(60, 90)))
    return page


def test_shortcuts_live_on_after_boxes_and_choices(bench: Page) -> None:
    trail(bench, "Heights").click()
    bench.get_by_text("Mirror, left for right").click()
    bench.keyboard.press("3")
    at_stop(bench, "Form")
    form = bench.get_by_label("Form", exact=True)
    form.click()
    bench.keyboard.press("Escape")
    form.select_option("arc")
    bench.keyboard.press("2")
    at_stop(bench, "Heights")
    bench.get_by_text("Dark tones").click()
    bench.keyboard.press("l")
    expect(bench.get_by_role("button", name="mesh lines")).to_have_attribute("aria-pressed", "true")
    bench.get_by_text("Dark tones").click()
    bench.keyboard.press("c")
    expect(bench.get_by_role("button", name="compare")).to_have_attribute("aria-pressed", "true")
    bench.keyboard.press("?")
    expect(bench.get_by_role("dialog", name="Keys")).to_contain_text("undo")
    saved(bench)
    bench.reload()
    at_stop(bench, "Heights")


def test_nothing_acts_behind_a_dialog(bench: Page) -> None:
    typed(bench, "Width", "50")
    saved(bench)
    add(bench, "Invert")
    saved(bench)
    bench.get_by_role("button", name="Export").click()
    dialog = bench.get_by_role("dialog", name="Export")
    expect(dialog).to_be_visible()
    for key in ("Control+z", "3", "h", "Escape"):
        bench.keyboard.press(key)
    expect(dialog).to_have_count(0)
    at_stop(bench, "Picture")
    expect(row(bench, "Invert").locator(".ordered-editor")).to_be_visible()
    expect(bench.get_by_role("button", name="Undo")).to_have_attribute("title", "Undo: add invert")
    expect(bench.get_by_role("button", name="Export")).to_be_focused()
    # Esc closes a menu, and only then the correction.
    bench.get_by_role("button", name="Add", exact=True).click()
    bench.keyboard.press("Escape")
    expect(row(bench, "Invert").locator(".ordered-editor")).to_be_visible()
    bench.get_by_label("Trail").click(position={"x": 2, "y": 2})
    bench.keyboard.press("Escape")
    expect(row(bench, "Invert").locator(".ordered-editor")).to_have_count(0)


def test_rename_from_the_menu_by_mouse_and_by_keys(bench: Page, server: Server) -> None:
    def rename(old: str, new: str, by: str) -> None:
        more = bench.get_by_label(f"More for {old}", exact=True)
        if by == "mouse":
            more.click()
            bench.get_by_role("button", name="Rename").click()
        else:
            more.press("Enter")
            for _ in range(3):
                bench.keyboard.press("ArrowDown")
                if bench.evaluate("document.activeElement.textContent") == "Rename":
                    break
            bench.keyboard.press("Enter")
        field = bench.get_by_label(f"Name of {old}", exact=True)
        if by == "keys":
            expect(field).to_be_focused()
        bench.keyboard.type(new)  # at once: what comes before the field has the keys is its own
        expect(field).to_have_value(new)
        bench.keyboard.press("Enter")
        expect(row(bench, new)).to_be_visible()
        expect(row(bench, new).locator(".ordered-open")).to_be_focused()
        saved(bench)

    add(bench, "Invert")
    rename("Invert", "Dark for light", "mouse")
    trail(bench, "Heights").click()
    rename("Picture", "The ramp", "keys")
    trail(bench, "Form").click()
    add(bench, "Eyelet")
    rename("Eyelet", "To hang it by", "keys")
    recipe = recipe_of(bench, server)
    assert pictured(recipe)["corrections"][0]["name"] == "Dark for light"
    assert art_of(recipe)["build_up"][0]["name"] == "The ramp"
    assert recipe["begins"]["fittings"][0]["name"] == "To hang it by"


def test_the_focus_goes_on_after_something_is_gone(bench: Page) -> None:
    for name in ("Invert", "Mirror"):
        add(bench, name)
    left = row(bench, "Invert").locator(".ordered-open")
    none = bench.get_by_role("button", name="Add", exact=True)
    for gone, then in (("Mirror", left), ("Invert", none)):
        bench.get_by_label(f"More for {gone}", exact=True).click()
        bench.get_by_role("button", name="Take away").click()
        expect(then).to_be_focused()
    saved(bench)
    bench.get_by_label("Nebrel, to the shelf").click()
    cards = bench.get_by_role("article")
    expect(cards).to_have_count(1)
    bench.get_by_label("More for keys", exact=True).first.click()
    bench.get_by_role("button", name="Delete").click()
    expect(cards).to_have_count(0)
    expect(bench.locator(":focus")).to_have_count(1)
    bench.get_by_role("button", name="Put it back").click()
    expect(cards).to_have_count(1)
    expect(cards.first.get_by_role("link")).to_be_focused()


def test_the_crop_and_the_section_by_keys(bench: Page, server: Server) -> None:
    add(bench, "Crop")
    grip = bench.get_by_role("button", name="Crop, se", exact=True)
    grip.focus()
    bench.keyboard.press("Shift+ArrowLeft")
    bench.keyboard.press("ArrowUp")
    shows(bench, "Box width", "88.76 mm")
    saved(bench)
    box = pictured(recipe_of(bench, server))["corrections"][0]["box"]
    assert box == {"x": 0, "y": 0, "wide": 80, "tall": 59}
    typed(bench, "From the left", "999 mm")
    expect(bench.get_by_role("alert")).to_contain_text("the nearest that works is")
    assert pictured(recipe_of(bench, server))["corrections"][0]["box"] == box
    bench.keyboard.press("Escape")

    trail(bench, "Heights").click()
    bench.get_by_role("button", name="in numbers").click()
    before = bench.get_by_label("From, up", exact=True).input_value()
    bench.get_by_role("button", name="Start of the section").focus()
    bench.keyboard.press("Shift+ArrowDown")
    expect(bench.get_by_label("From, up", exact=True)).not_to_have_value(before)
    typed(bench, "From, across", "20")
    strip = bench.get_by_label("Section strip")
    expect(strip.locator(".view-name")).not_to_contain_text("100 mm")
    profile = strip.get_by_role("slider")
    profile.focus()
    for _ in range(2):
        bench.keyboard.press("ArrowRight")
        bench.keyboard.press("Shift+ArrowRight")
        bench.keyboard.press("Enter")
    expect(strip.locator(".mark-words")).to_contain_text("between the marks")


def test_strokes_by_keys(page: Page, server: Server) -> None:
    brought(page, server, "caption.png", as_png(captioned(), 8))
    add(page, "Brush")
    surface = page.get_by_role("application")
    surface.focus()
    page.keyboard.press("Shift+ArrowLeft")
    page.keyboard.press("Space")
    page.keyboard.press("Shift+ArrowRight")
    page.keyboard.press("Shift+ArrowDown")
    page.keyboard.press("Space")
    expect(page.locator(".field-help", has_text="1 stroke")).to_be_visible()
    saved(page)
    (stroke,) = pictured(recipe_of(page, server))["corrections"][0]["strokes"]
    assert len(stroke["points"]) == 3
    # Left before it is lifted, a stroke leaves nothing.
    page.keyboard.press("Space")
    page.keyboard.press("ArrowUp")
    page.keyboard.press("Escape")
    expect(row(page, "Brush").locator(".ordered-editor")).to_be_visible()
    expect(page.locator("polyline[stroke-opacity='0.55']")).to_have_attribute("points", "")
    expect(page.locator(".field-help", has_text="1 stroke")).to_be_visible()
