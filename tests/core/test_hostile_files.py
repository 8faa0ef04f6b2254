"""Small files that stand for very much are refused before any of it is made."""

import zipfile
from pathlib import Path

import pytest

from nebrel.core.errors import NebrelError, TooLarge
from nebrel.core.formats.meshes import read_brought
from nebrel.core.formats.read_drawing import drawing_of

SVG = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="50mm" height="50mm" viewBox="0 0 50 50">'
    "{}</svg>"
)
MODEL = (
    '<?xml version="1.0"?><model unit="millimeter" '
    'xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02"><resources>'
    '<object id="1" type="model"><mesh><vertices><vertex x="0" y="0" z="0"/>'
    '<vertex x="9" y="0" z="0"/><vertex x="0" y="9" z="0"/><vertex x="0" y="0" z="9"/>'
    '</vertices><triangles><triangle v1="0" v2="2" v3="1"/><triangle v1="0" v2="1" v3="3"/>'
    '<triangle v1="1" v2="2" v3="3"/><triangle v1="2" v2="0" v3="3"/></triangles></mesh></object>'
    '{}</resources><build><item objectid="{}"/></build></model>'
)
RELS = (
    '<?xml version="1.0"?><Relationships '
    'xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship '
    'Target="/3D/3dmodel.model" Id="r" '
    'Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>'
)
TYPES = (
    '<?xml version="1.0"?><Types '
    'xmlns="http://schemas.openxmlformats.org/package/2006/content-types">'
    '<Default Extension="rels" '
    'ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
    '<Default Extension="model" '
    'ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>'
)


@pytest.mark.parametrize(
    "shape",
    [
        '<circle r="1e12"/>',
        '<circle cx="9" cy="9" r="8" stroke="black" stroke-width="1e12"/>',
        '<path d="M0 0c1e12 0 0 1e12 9 9z"/>',
        '<path d="M0 0Q1e12 1e12 9 0z"/>',
        '<path d="M0 0A1e12 1e12 0 1 1 9 9z"/>',
        '<rect width="1e12" height="3" rx="1e11"/>',
        '<polygon points="0,0 1e300,0 0,1e300"/>',
        '<ellipse rx="1e8" ry="1"/>',
        '<g transform="scale(1e10)"><circle r="5"/></g>',
    ],
)
def test_numbers_beyond_the_largest_drawing_are_refused(shape: str) -> None:
    with pytest.raises(NebrelError) as caught:
        drawing_of(SVG.format(shape).encode(), "huge.svg")
    assert caught.value.what == "huge.svg"


def test_a_curve_of_a_dxf_that_is_too_large_is_refused() -> None:
    circle = "0\nSECTION\n2\nENTITIES\n0\nCIRCLE\n8\n0\n10\n0\n20\n0\n40\n1e12\n0\nENDSEC\n0\nEOF\n"
    with pytest.raises(TooLarge, match="m large"):
        drawing_of(circle.encode(), "huge.dxf")


def test_what_lies_far_away_is_read() -> None:
    """As maps do: it is moved to the origin."""
    far = SVG.format('<path d="M4000000 5000000h30v20h-30z"/>')
    assert drawing_of(far.encode(), "map.svg").size_mm == pytest.approx((30, 20), rel=1e-4)


def test_many_dots_are_put_together_at_once() -> None:
    dots = "".join(
        f'<circle cx="{x}" cy="{y}" r="0.2" fill="none" stroke="black" stroke-width="0.1"/>'
        for x in range(30)
        for y in range(30)
    )
    found = drawing_of(SVG.format(dots).encode(), "dots.svg")
    assert found.outline.area_mm2 == pytest.approx(900 * 3.1416 * (0.25**2 - 0.15**2), rel=5e-3)


def packed(path: Path, deep: int, copies: int = 2) -> Path:
    more = "".join(
        f'<object id="{n}" type="model"><components>'
        + f'<component objectid="{n - 1}"/>' * copies
        + "</components></object>"
        for n in range(2, deep + 2)
    )
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as out:
        out.writestr("[Content_Types].xml", TYPES)
        out.writestr("_rels/.rels", RELS)
        out.writestr("3D/3dmodel.model", MODEL.format(more, deep + 1))
    return path


def test_components_that_double_are_counted_first(tmp_path: Path) -> None:
    few = read_brought(packed(tmp_path / "few.3mf", 3))
    assert [len(part.faces) for part in few.parts] == [4] * 8
    with pytest.raises(TooLarge, match="parts"):
        read_brought(packed(tmp_path / "many.3mf", 31))
    with pytest.raises(NebrelError, match="too deep"):
        read_brought(packed(tmp_path / "deep.3mf", 60, copies=1))


@pytest.mark.parametrize(
    "content",
    [
        b'<svg xmlns="http://www.w3.org/2000/svg"><rect width="2em" height="1em"/></svg>',
        b'<svg xmlns="http://www.w3.org/2000/svg"><path stroke="red" stroke-width="1e-320px" '
        b'fill="none" d="M0 0h9v9"/></svg>',
        b'<svg xmlns="http://www.w3.org/2000/svg"><rect width="1e308" height="1e308"/></svg>',
        b'<svg xmlns="urn:other"><rect width="9" height="9"/></svg>',
        b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 nan nan"><path d="M"/></svg>',
        b"0\nSECTION\n2\nENTITIES\n" + b"102\n{A\n" * 50_000,
        b"<svg" + b"<g>" * 3000,
    ],
)
def test_odd_drawings_are_read_or_refused(content: bytes) -> None:
    try:
        assert drawing_of(content, "odd.svg" if content[:1] == b"<" else "odd.dxf").outline
    except NebrelError as error:
        assert error.why and error.remedy
