"""Drawings as another library renders them: nesting, clips, style sheets, strokes."""

import cv2
import numpy as np
import pytest
import resvg_py

from nebrel.core.formats.drawing import Drawing
from nebrel.core.formats.read_drawing import drawing_of
from nebrel.core.formats.read_svg import read_svg
from nebrel.core.formats.svg_curves import any_path, straight_path
from nebrel.core.outline.raster import fill

PX = 16  # of a picture for each of the drawing
HEAD = (
    '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'
    ' width="100" height="80" viewBox="0 0 100 80">'
)
DRAWN = {
    "symbol viewBox": (
        '<symbol id="s" viewBox="0 0 10 10"><circle cx="5" cy="5" r="5"/></symbol>'
        '<use xlink:href="#s" x="10" y="10" width="40" height="30"/>'
        '<use href="#s" x="60" y="20" width="30" height="50"/>'
    ),
    "nested svg": (
        '<svg x="10" y="10" width="40" height="40" viewBox="0 0 20 20">'
        '<rect x="-5" y="5" width="30" height="10"/></svg>'
        '<svg x="60" y="10" width="30" height="60" viewBox="0 0 10 10" '
        'preserveAspectRatio="none"><circle cx="5" cy="5" r="4"/></svg>'
    ),
    "nested slice": (
        '<svg x="10" y="10" width="60" height="30" viewBox="0 0 20 20" '
        'preserveAspectRatio="xMinYMax slice"><circle cx="10" cy="10" r="10"/></svg>'
    ),
    "clip": (
        '<clipPath id="c"><circle cx="40" cy="40" r="25"/></clipPath>'
        '<rect x="20" y="10" width="60" height="50" clip-path="url(#c)"/>'
    ),
    "clip on group, transform": (
        '<clipPath id="c" transform="rotate(20 40 40)">'
        '<rect x="30" y="20" width="30" height="40"/></clipPath>'
        '<g transform="translate(10 5) scale(1.1)" clip-path="url(#c)">'
        '<rect x="0" y="30" width="90" height="12"/><circle cx="45" cy="30" r="12"/></g>'
    ),
    "clip in clip, evenodd": (
        '<clipPath id="d"><rect width="60" height="80"/></clipPath>'
        '<clipPath id="c" clip-path="url(#d)">'
        '<path clip-rule="evenodd" d="M10 10H90V70H10ZM30 25H70V55H30Z"/></clipPath>'
        '<rect width="100" height="80" clip-path="url(#c)"/>'
    ),
    "clip by use": (
        '<defs><rect id="r" width="30" height="30"/></defs><clipPath id="c">'
        '<use href="#r" x="20" y="20"/></clipPath>'
        '<circle cx="35" cy="35" r="19" clip-path="url(#c)"/>'
    ),
    "clip in shares of a box": (
        '<clipPath id="c" clipPathUnits="objectBoundingBox"><circle cx=".5" cy=".5" r=".4"/>'
        '</clipPath><g transform="rotate(10 50 40)" clip-path="url(#c)">'
        '<rect x="10" y="20" width="50" height="20"/><rect x="40" y="30" width="45" height="30"/>'
        "</g>"
    ),
    "mask": (
        '<mask id="m" maskUnits="userSpaceOnUse" x="0" y="0" width="100" height="80">'
        '<rect width="100" height="80" fill="white"/><circle cx="40" cy="40" r="15"/>'
        '<path d="M70 0V80" stroke="black" stroke-width="6"/></mask>'
        '<g mask="url(#m)"><rect x="5" y="10" width="90" height="60"/></g>'
    ),
    "mask in shares of a box": (
        '<mask id="m" maskContentUnits="objectBoundingBox" x="0" y="0" width=".7" height="1">'
        '<g fill="#eee"><circle cx=".5" cy=".5" r=".45"/></g></mask>'
        '<rect x="20" y="10" width="60" height="40" mask="url(#m)"/>'
    ),
    "mask by cover, masked and clipped": (
        '<mask id="n" maskUnits="userSpaceOnUse" x="0" y="0" width="100" height="45">'
        '<rect width="100" height="80" fill="white"/></mask>'
        '<clipPath id="c"><rect x="15" width="30" height="80"/></clipPath>'
        '<mask id="m" style="mask-type:alpha" mask="url(#n)">'
        '<g clip-path="url(#c)"><circle cx="30" cy="40" r="25"/></g></mask>'
        '<rect x="10" y="10" width="60" height="60" mask="url(#m)"/>'
    ),
    "css descendant": (
        "<style>g .a{fill:none;stroke:#000;stroke-width:4} g > rect.b.c{fill:#000} "
        'rect[x="60"]{fill:none}</style><g>'
        '<rect class="a" x="10" y="10" width="30" height="30"/>'
        '<rect class="b c" x="50" y="50" width="20" height="20"/></g>'
        '<rect x="60" y="5" width="20" height="20"/>'
    ),
    "css at-rule": (
        "<style>@font-face{font-family:x;src:url(a)} .n{fill:none} @media "
        'print{.p{fill:none}}</style><rect class="n" x="5" y="5" width="20" height="20"/>'
        '<rect x="40" y="20" width="20" height="20"/>'
    ),
    "css important": (
        "<style>#a{fill:none !important} .k{fill:black}</style>"
        '<rect id="a" class="k" style="fill:black" x="5" y="5" width="20" height="20"/>'
        '<rect x="40" y="20" width="20" height="20"/>'
    ),
    "uneven stroke": (
        '<g transform="scale(3 1)">'
        '<circle cx="15" cy="40" r="10" fill="none" stroke="#000" stroke-width="4"/></g>'
    ),
    "skew stroke": (
        '<path transform="skewX(30) translate(-10 0)" d="M20 20L60 20L40 60Z" fill="none" '
        'stroke="#000" stroke-width="5"/>'
    ),
    "dashes": (
        '<path d="M10 20H90" stroke="#000" stroke-width="6" stroke-dasharray="10 4 2"/>'
        '<circle cx="50" cy="50" r="20" fill="none" stroke="#000" stroke-width="4" '
        'stroke-dasharray="8,5" stroke-dashoffset="3"/>'
        '<path d="M5 75 H95" stroke="#000" stroke-width="5" stroke-linecap="round" '
        'stroke-dasharray="0 10"/>'
    ),
    "opacity 0": (
        '<g opacity="0"><rect width="50" height="50"/></g>'
        '<rect x="60" y="10" width="20" height="20"/>'
        '<rect x="10" y="60" width="10" height="10" fill-opacity="0"/>'
    ),
    "visibility": (
        '<g visibility="hidden"><rect width="40" height="40"/>'
        '<rect x="50" y="20" width="20" height="20" visibility="visible"/></g>'
    ),
    "white": (
        '<rect width="80" height="60"/><circle cx="40" cy="30" r="20" fill="#fff"/>'
        '<circle cx="40" cy="30" r="8"/>'
    ),
    "inherit use": (
        '<defs><g id="g"><rect width="20" height="20"/></g></defs><g fill="none">'
        '<use href="#g" x="5" y="5" style="fill:red"/><use href="#g" x="40" y="5"/></g>'
        '<use href="#g" transform="rotate(30) translate(40 10)"/>'
    ),
    "rounded rects": (
        '<rect x="5" y="5" width="40" height="30" rx="8"/>'
        '<rect x="55" y="5" width="40" height="30" rx="30" ry="6"/>'
        '<rect x="5" y="45" width="40" height="30" ry="5"/>'
    ),
    "miter limit": (
        '<path d="M10 70L30 10L50 70" fill="none" stroke="#000" stroke-width="6" '
        'stroke-miterlimit="10"/>'
        '<path d="M60 70L72 10L84 70" fill="none" stroke="#000" stroke-width="6" '
        'stroke-miterlimit="2"/>'
    ),
    "arcs": (
        '<path d="M20 40A25 15 30 1 1 60 45L40 60Z"/>'
        '<path d="M70 20a10 20 0 0 1 20 30z" transform="matrix(.8 .3 -.2 1 10 0)"/>'
    ),
    "quads": ('<path d="M10 40Q30 0 50 40T90 40V70H10Z" fill-rule="evenodd"/>'),
    "colors": (
        '<rect x="5" y="5" width="10" height="10" fill="rgb(100%,100%,100%)"/>'
        '<rect x="30" y="5" width="20" height="20" fill="hsl(120,50%,50%)"/><g color="none">'
        '<rect x="60" y="5" width="20" height="20" fill="currentColor"/></g>'
        '<rect x="5" y="40" width="20" height="20" fill="transparent"/>'
        '<rect x="40" y="40" width="20" height="20" fill="rgba(0,0,0,.6)"/>'
    ),
    "switch": (
        '<switch><g systemLanguage="xx"><rect width="90" height="70"/></g><g>'
        '<rect x="20" y="20" width="30" height="30"/></g></switch>'
    ),
}


def shared(body: str) -> float:
    """Intersection over union of what is read and what is rendered, white taken away."""
    text = HEAD + body + "</svg>"
    found = read_svg(text.encode(), "a.svg", None, 0.1, None)
    lines = [loop * (1, -1) * (PX * 96 / 25.4) - 0.5 for loop in found.outline.loops]
    ours = fill(lines, 80 * PX, 100 * PX)
    png = resvg_py.svg_to_bytes(svg_string=text, width=100 * PX, height=80 * PX)
    shown = cv2.imdecode(np.frombuffer(bytes(png), np.uint8), cv2.IMREAD_UNCHANGED)
    theirs = (shown[..., 3] >= 128) & (shown[..., :3].min(axis=2) < 250)
    return float((ours & theirs).sum() / (ours | theirs).sum())


@pytest.mark.parametrize("name", DRAWN)
def test_what_is_read_is_what_is_rendered(name: str) -> None:
    assert shared(DRAWN[name]) >= 0.995


def read(body: str) -> Drawing:
    return drawing_of((HEAD + body + "</svg>").encode(), "a.svg")


MM2 = (25.4 / 96) ** 2


@pytest.mark.parametrize(
    ("body", "area"),
    [
        # Of what that library leaves out, by the specification.
        ('<rect width="40Q" height="10mm"/>', 100 / MM2),
        ('<g font-size="20"><rect width="2em" height="2ex"/></g>', 40 * 20),
        ('<rect width="50%" height="1in"/>', 50 * 96),
        ('<rect style="transform:rotate(20deg)" x="40" width="30" height="20"/>', 600),
        (
            '<g transform="scale(3 1)"><rect x="5" y="20" width="20" height="40" fill="none"'
            ' stroke="#000" stroke-width="4" vector-effect="non-scaling-stroke"/></g>',
            64 * 44 - 56 * 36,
        ),
        ('<path d="M5 5h0" stroke="#000" stroke-width="4" stroke-linecap="round"/>', 4 * np.pi),
        ('<circle r="5" fill="none" stroke="#000" stroke-width="2"/>', np.pi * (36 - 16)),
    ],
)
def test_units_and_strokes_by_the_specification(body: str, area: float) -> None:
    assert read(body).outline.area_mm2 == pytest.approx(area * MM2, rel=9e-3)


def test_names_of_namespaces_may_be_entities() -> None:
    text = (
        '<!DOCTYPE svg [<!ENTITY ns_svg "http://www.w3.org/2000/svg">]>'
        '<svg xmlns="&ns_svg;" width="10mm" height="10mm"><rect width="5mm" height="4mm"/></svg>'
    )
    assert drawing_of(text.encode(), "a.svg").size_mm == pytest.approx((5, 4))


def test_what_is_not_understood_of_styles_is_said() -> None:
    found = read(
        "<style>@import url(b.css); ::: {fill:none} rect{fill:black}</style>"
        '<linearGradient id="g"/><mask id="m"><circle r="9" fill="url(#g)"/></mask>'
        '<rect width="9" height="9" mask="url(#m)"/>'
        '<path d="M0 0H9V9" marker-end="url(#a)"/><g marker-mid="url(#a)"><path d="M0 0H9V9"/></g>'
    )
    notes = " ".join(found.notes)
    assert "@import" in notes and ":::" in notes and "2 × a marker was left out" in notes
    assert "mask by a tone in between" in notes


@pytest.mark.parametrize(
    ("sheet", "seen"),
    [
        ("@media screen {rect{fill:none}} rect{fill:black}", True),
        ("rect{fill:black} @media print {rect{fill:none}}", False),
        ("rect{fill:none} @media not screen {rect{fill:black}}", False),
        ("rect{fill:none} @media not speech, tv {rect{fill:black}}", True),
        ("rect{fill:none} @media (prefers-color-scheme: dark) {rect{fill:black}}", False),
    ],
)
def test_what_is_said_for_media_holds_where_it_stands(sheet: str, seen: bool) -> None:
    body = f"<style>{sheet}</style><rect width='9' height='9'/><circle cx='50' cy='9' r='4'/>"
    assert (read(body).outline.area_mm2 > 60 * MM2) == seen


@pytest.mark.parametrize(
    "text",
    [
        "M10 10h0",
        "M10 10Z",
        " m1,2 3-4.5.5 1e1-2,+3z m5 5 l1 1 L9 9",
        "M1 1H5 6V7 8h-1 v-2zl3 3zZ",
        "M1 1L5 5 1 5 1 1z M2 2 3 3 M4 4",
        "M1 1 L1 1 L5 5 L5 5 Z h2",
        "m2 2",
        "",
    ],
)
def test_straight_paths_are_read_as_any_are(text: str) -> None:
    found, known = straight_path(text) or [], any_path(text)
    assert [closed for _, closed in found] == [closed for _, closed in known]
    for (own, _), (others, _) in zip(found, known, strict=True):
        assert own == pytest.approx(others)


@pytest.mark.parametrize(
    "text", ["M1 1C2 2 3 3 4 4", "L5 5", "M1 1L5", "M1 1,,2", "M1 1Z5", "M1 1#"]
)
def test_other_paths_are_left_to_whoever_reads_all(text: str) -> None:
    assert straight_path(text) is None
