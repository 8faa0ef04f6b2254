"""What a person does on the screens: the same few moves in every test."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import trimesh
from playwright.sync_api import Error, Locator, Page, Route, expect

from tests.e2e.conftest import Server
from tests.recipes import art_of, tones_of
from tests.waiting import until

At = tuple[float, float]


# What is on the screen


def trail(page: Page, stop: str) -> Locator:
    return page.get_by_role("navigation", name="Trail").get_by_role("button", name=re.compile(stop))


def at_stop(page: Page, name: str) -> None:
    expect(trail(page, name)).to_have_attribute("aria-current", "step")


def row(page: Page, name: str) -> Locator:
    """A row of a list that can be ordered."""
    return page.get_by_role("listitem", name=name, exact=True)


def finding(page: Page, kind: str) -> Locator:
    """Something that the picture report found."""
    return page.locator(f".finding[data-kind={kind}]")


def figure(of: Page | Locator, name: str) -> Locator:
    """A number with its name."""
    return of.locator("dt", has_text=re.compile(f"^{name}$")).locator(
        "xpath=following-sibling::dd[1]"
    )


def field(page: Page, name: str) -> Locator:
    return page.get_by_role("textbox", name=name, exact=True)


def shows(page: Page, label: str, value: str) -> None:
    expect(page.get_by_label(label, exact=True)).to_have_value(value)


# Waiting for what was asked for


def pressed(page: Page, name: str) -> None:
    """What the button turns on is on."""
    button = page.get_by_role("button", name=name, exact=True)
    expect(button).to_have_attribute("aria-pressed", "true")


def saved(page: Page) -> None:
    expect(page.get_by_text("saved", exact=True)).to_be_visible()


def closed(page: Page) -> None:
    """All is kept, and the piece is there at full quality."""
    saved(page)
    expect(trail(page, "Finish")).to_contain_text("closed")


def still(page: Page) -> None:
    """Wait until the picture, what is kept and the report stand."""
    saved(page)
    expect(page.get_by_label("Picture view")).to_have_attribute("data-busy", "false")
    expect(page.get_by_label("Reading the picture")).to_have_count(0)


def full(page: Page) -> None:
    """Wait for the piece at full quality, a decoration on it."""
    expect(page.get_by_text("Lines become")).to_be_visible()
    view = page.get_by_role("region", name="Piece view")
    expect(view).to_have_attribute("aria-busy", "false")
    expect(view.locator(".view-name")).to_have_text("Piece")
    expect(view.locator(".working")).to_have_count(0)


def view_pixels(page: Page) -> np.ndarray:
    image = page.get_by_label("Piece view").screenshot()
    return cv2.imdecode(np.frombuffer(image, np.uint8), cv2.IMREAD_GRAYSCALE).astype(float)


def once_changed(page: Page, before: np.ndarray) -> np.ndarray:
    """The piece view as soon as it shows something else."""
    seen = before

    def other() -> bool:
        nonlocal seen
        seen = view_pixels(page)
        return bool(np.abs(seen - before).max() > 20)

    until(other)
    return seen


# Typing, choosing, dragging


def typed(page: Page, label: str, text: str) -> None:
    """Type into a field, and enter it."""
    box = field(page, label)
    box.fill(text)
    box.press("Enter")


def add(page: Page, name: str, to: str = "") -> None:
    """Add something to a list of steps; to the one of that name where there are several."""
    within = page.get_by_role("region", name=to) if to else page
    # By keys: what the report says moves all below it, also from under a press.
    within.get_by_role("button", name="Add", exact=True).press("Enter")
    page.locator(".adding-menu").get_by_role("button", name=re.compile(f"^{name} ")).press("Enter")
    expect(page.locator(".adding-menu.show")).to_have_count(0)


def placer(page: Page, cols: int, rows: int) -> Callable[[At], At]:
    """From pixels of the shown picture to the screen."""
    surface = page.get_by_role("application")
    left, top, wide, tall = (float(v) for v in (surface.get_attribute("data-frame") or "").split())
    box = surface.bounding_box()
    assert box is not None
    return lambda at: (
        box["x"] + left + at[0] / (cols - 1) * wide,
        box["y"] + top + at[1] / (rows - 1) * tall,
    )


def middle_of(what: Locator) -> At:
    box = what.bounding_box()
    assert box is not None
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def canvas(page: Page) -> Locator:
    return page.get_by_role("region", name="Piece view").locator("canvas")


def px_per_mm(page: Page) -> float:
    bar = page.locator(".scale-bar")
    box = bar.bounding_box()
    assert box is not None
    return box["width"] / float(bar.inner_text().split()[0])


def seen_above(page: Page) -> Callable[[float, float], At]:
    """Look at the piece from above; from mm right and up of its middle to the screen."""
    page.get_by_role("button", name="above", exact=True).click()

    def at(right: float, up: float) -> At:
        (x, y), scale = middle_of(canvas(page)), px_per_mm(page)
        return x + right * scale, y - up * scale

    return at


def drag(page: Page, spots: list[At]) -> None:
    page.mouse.move(*spots[0])
    page.mouse.down()
    for spot in spots[1:]:
        page.mouse.move(*spot, steps=4)
    page.mouse.up()


def dragged(page: Page, start: At, by: At) -> None:
    drag(page, [start, (start[0] + by[0], start[1] + by[1])])


def drop_file(page: Page, name: str, data: bytes) -> None:
    """Drop a file on the page, as a hand would."""
    page.evaluate(
        """([name, bytes]) => {
            const data = new DataTransfer();
            data.items.add(new File([new Uint8Array(bytes)], name, { type: "image/png" }));
            const options = { bubbles: true, cancelable: true, dataTransfer: data };
            for (const kind of ["dragenter", "dragover", "drop"])
                document.body.dispatchEvent(new DragEvent(kind, options));
        }""",
        [name, list(data)],
    )


def dropped(page: Page, name: str, data: bytes) -> None:
    """Drop a file on the shelf, and wait for the piece that it becomes."""
    expect(page.get_by_label("Bring a picture, a drawing or a mesh", exact=True)).to_be_visible()
    drop_file(page, name, data)
    expect(trail(page, "Finish")).to_contain_text("closed")


# Pieces


def opened(page: Page, server: Server, piece: dict[str, Any]) -> None:
    """Open a piece that is there, and wait until it is made."""
    page.goto(f"{server.url}pieces/{piece['id']}")
    expect(trail(page, "Finish")).to_contain_text("closed")


def brought(page: Page, server: Server, name: str, data: bytes) -> None:
    """Open a piece of a file."""
    opened(page, server, server.bring(name, data))


def begun_as(page: Page, server: Server, body: dict[str, Any], name: str = "") -> None:
    """Open a piece that begins as a ready shape."""
    opened(page, server, server.ask("pieces/bodies", "POST", {"body": body, "name": name}))


def kept(page: Page, server: Server) -> dict[str, Any]:
    """The piece as the server has it."""
    path = page.url.partition("?")[0]
    found: dict[str, Any] = server.ask(f"pieces/{path.rsplit('/', 1)[-1]}")
    return found


def recipe_of(page: Page, server: Server) -> dict[str, Any]:
    found: dict[str, Any] = kept(page, server)["recipe"]
    return found


def depths(piece: dict[str, Any]) -> tuple[float, float]:
    recipe = piece["recipe"]
    return tones_of(recipe)["depth"]["mm"], art_of(recipe)["backing"]["mm"]


# Files


def downloaded(page: Page, folder: Path, press: Callable[[], None], ending: str) -> Path:
    with page.expect_download() as waiting:
        press()
    path = folder / f"out{ending}"
    waiting.value.save_as(path)
    return path


def exported(page: Page, folder: Path, kind: str = "STL") -> Path:
    page.get_by_role("button", name="Export").click()
    page.get_by_label("Format", exact=True).select_option(kind)
    press = page.get_by_role("button", name=f"Download {kind}").click
    return downloaded(page, folder, press, f".{kind.lower()}")


def solid(path: Path) -> trimesh.Trimesh:
    """A mesh that an independent library takes for a closed one."""
    mesh = trimesh.load(path)
    assert isinstance(mesh, trimesh.Trimesh)
    assert mesh.is_watertight
    assert mesh.is_winding_consistent
    return mesh


# The line to the server


@contextmanager
def held(page: Page, address: str) -> Iterator[Callable[[], None]]:
    """Requests that wait until they are let go, one by one."""
    waiting: list[Route] = []

    def hold(route: Route) -> None:
        waiting.append(route)

    def let_go() -> None:
        while not waiting:
            page.wait_for_event("request")
        waiting.pop(0).continue_()

    page.route(address, hold)
    yield let_go
    page.unroute(address)
    for route in waiting:
        with suppress(Error):  # the page may have let go of it meanwhile
            route.continue_()


@contextmanager
def away(page: Page) -> Iterator[None]:
    """No server for one window."""
    page.route("**/api/**", lambda route: route.abort())
    yield
    page.unroute("**/api/**")
