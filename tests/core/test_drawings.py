"""Drawings written and read back by other libraries, and drawings from elsewhere."""

import io
from pathlib import Path

import ezdxf
import numpy as np
import pyclipper
import pytest
import svgpathtools

from nebrel.core.errors import InvalidValue, NebrelError, TooLarge, UnreadableFile
from nebrel.core.formats.dxf import write_dxf
from nebrel.core.formats.read_drawing import drawing_of, read_drawing
from nebrel.core.formats.svg import svg_of, write_svg
from nebrel.core.outline import shapes
from nebrel.core.outline.lettering import letter
from nebrel.core.outline.outline import Outline
from nebrel.core.outline.regions import outline_of, region_of

SCALE = 100_000


def lettering() -> Outline:
    from nebrel.core.outline.regions import united

    return united(letter("Q8&", "plain_heavy", 30.0))


def clipped(one: list[np.ndarray], other: list[np.ndarray], kind: int) -> float:
    clipper = pyclipper.Pyclipper()
    for loops, role in ((one, pyclipper.PT_SUBJECT), (other, pyclipper.PT_CLIP)):
        for loop in loops:
            clipper.AddPath(np.round(loop * SCALE).astype(np.int64).tolist(), role, True)
    found = clipper.Execute(kind, pyclipper.PFT_EVENODD, pyclipper.PFT_EVENODD)
    return sum(pyclipper.Area(loop) for loop in found) / SCALE**2


def shared(one: list[np.ndarray], other: list[np.ndarray]) -> float:
    """Intersection over union."""
    both = clipped(one, other, pyclipper.CT_INTERSECTION)
    return both / clipped(one, other, pyclipper.CT_UNION)


def at_origin(outline: Outline) -> list[np.ndarray]:
    low, _ = outline.bounds
    return [loop - low for loop in outline.loops]


def test_svg_is_read_back_as_it_was(tmp_path: Path) -> None:
    own = lettering()
    write_svg(own, tmp_path / "out.svg")
    paths, _, page = svgpathtools.svg2paths2(str(tmp_path / "out.svg"))
    wide, tall = (own.exact_bounds[1] - own.exact_bounds[0]).tolist()
    assert page["width"].endswith("mm")
    assert float(page["width"][:-2]) == pytest.approx(wide, abs=1e-3)
    assert [float(v) for v in page["viewBox"].split()] == pytest.approx(
        [0, 0, wide, tall], abs=1e-3
    )
    assert len(paths) == 3
    loops = []
    for path in paths:
        for sub in path.continuous_subpaths():
            assert sub.isclosed()
            points = np.array([sub.point(t) for t in np.linspace(0, 1, 6000)[:-1]])
            loops.append(np.column_stack([points.real, tall - points.imag]))
    assert shared(at_origin(own), loops) > 0.9995


@pytest.mark.parametrize("lines", ["polylines", "splines"])
def test_dxf_is_read_back_as_it_was(tmp_path: Path, lines: str) -> None:
    own = lettering()
    write_dxf([own], tmp_path / "out.dxf", lines)
    document = ezdxf.readfile(tmp_path / "out.dxf")
    assert document.units == ezdxf.units.MM
    entities = list(document.modelspace())
    assert {entity.dxf.layer for entity in entities} == {"part-1", "part-2", "part-3"}
    assert all(entity.closed for entity in entities)
    loops = []
    for entity in entities:
        path = ezdxf.path.make_path(entity)
        loops.append(np.array([(p.x, p.y) for p in path.flattening(0.001)][:-1]))
    assert shared(list(own.loops), loops) > 0.9995


@pytest.mark.parametrize("ending", ["svg", "dxf"])
def test_what_is_written_is_what_is_read(tmp_path: Path, ending: str) -> None:
    own = lettering()
    path = tmp_path / f"out.{ending}"
    write_svg(own, path) if ending == "svg" else write_dxf([own], path)
    found = read_drawing(path)
    assert found.notes == ()
    assert found.outline.area_mm2 == pytest.approx(own.area_mm2, rel=5e-4)
    assert shared(at_origin(own), list(found.outline.loops)) > 0.9995


def svg(body: str, head: str = 'width="100mm" height="50mm" viewBox="0 0 200 100"') -> bytes:
    start = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'
    return f"{start} {head}>{body}</svg>".encode()


def read(body: str, **more: str) -> object:
    return drawing_of(svg(body, **more), "drawing.svg")


@pytest.mark.parametrize(
    ("body", "area"),
    [
        ('<rect x="10" y="10" width="40" height="20"/>', 200),
        ('<rect width="40" height="20" transform="translate(5 5) rotate(30) scale(2)"/>', 800),
        ('<circle cx="50" cy="50" r="20"/>', np.pi * 100),
        ('<ellipse cx="50" cy="50" rx="20" ry="10"/>', np.pi * 50),
        ('<polygon points="0,0 40,0 0,40"/>', 200),
        ('<path d="M0 0h40v40h-40z M10 10h20v20h-20z"/>', 400),
        ('<path fill-rule="evenodd" d="M0 0h40v40h-40z M10 10h20v20h-20z"/>', 300),
        ('<path d="M0 0A20 20 0 0 1 40 0Z"/>', np.pi * 50),
        ('<path d="M0 0Q20 40 40 0Z"/>', 2 / 3 * 40 * 20 / 4),
        ('<line x1="0" y1="0" x2="40" y2="0" stroke="black" stroke-width="4"/>', 40),
        ('<line x2="40" stroke="#000" stroke-width="4" stroke-linecap="square"/>', 44),
        ('<line x2="40" stroke="#000" stroke-width="4" stroke-linecap="round"/>', 40 + np.pi),
        ('<path d="M0 0H40V40" fill="none" stroke="#000" stroke-width="4"/>', 80),
        ('<g id="a"><rect width="40" height="20"/></g><use xlink:href="#a" y="50"/>', 400),
        (
            '<rect width="40" height="40"/>'
            '<rect x="10" y="10" width="20" height="20" fill="#fff"/>',
            300,
        ),
        ('<rect width="40" height="20"/><rect width="9" height="9" display="none" x="90"/>', 200),
        ('<rect width="40" height="20"/><rect x="30" width="40" height="20"/>', 350),
    ],
)
def test_svg_shapes_have_their_area(body: str, area: float) -> None:
    assert read(body).outline.area_mm2 == pytest.approx(area, rel=2e-3)


def test_svg_says_how_large_it_is() -> None:
    found = read('<rect x="10" y="10" width="40" height="20"/>')
    assert found.page_mm == pytest.approx((100, 50), abs=1e-3)
    assert found.size_mm == pytest.approx((20, 10), abs=1e-4)
    inches = drawing_of(
        svg("<rect width='1' height='2'/>", 'width="2in" viewBox="0 0 2 2"'), "a.svg"
    )
    assert inches.size_mm == pytest.approx((25.4, 50.8), abs=1e-3)
    plain = drawing_of(svg("<rect width='96' height='48'/>", ""), "a.svg")
    assert plain.size_mm == pytest.approx((25.4, 12.7), abs=1e-3)
    told = drawing_of(svg("<rect width='96' height='48'/>", ""), "a.svg", unit="mm")
    assert told.size_mm == pytest.approx((96, 48), abs=1e-3)
    assert told.wide(30).size_mm == pytest.approx((30, 15), abs=1e-6)


def test_groups_are_named_and_chosen() -> None:
    body = '<g id="body"><rect width="40" height="20"/></g><g id="eyes"><circle r="5" cx="90"/></g>'
    found = read(body)
    assert found.layers == {"body": 1, "eyes": 1}
    only = drawing_of(svg(body), "a.svg", layers=frozenset({"eyes"}))
    assert only.outline.area_mm2 == pytest.approx(np.pi * 25 / 4, rel=1e-3)


def test_what_is_only_referred_to_is_not_drawn() -> None:
    found = read(
        '<symbol id="s"><rect width="90" height="40"/></symbol>'
        '<clipPath id="c"><rect width="50" height="50"/></clipPath>'
        '<marker id="m"><path d="M0 0h60v60z"/></marker>'
        '<defs><linearGradient id="g"><stop/></linearGradient><circle r="40"/></defs>'
        '<rect width="40" height="20" fill="url(#g)" clip-path="url(#c)"/>'
    )
    assert found.outline.area_mm2 == pytest.approx(200, rel=1e-4)
    assert found.notes == ()
    used = read('<symbol id="s"><rect width="40" height="20"/></symbol><use xlink:href="#s"/>')
    assert used.outline.area_mm2 == pytest.approx(200, rel=1e-4)


def test_what_is_not_drawn_is_said_and_never_fetched() -> None:
    found = read(
        '<script>alert(1)</script><text x="3">Hare</text><image href="http://127.0.0.1:1/a.png"/>'
        '<use xlink:href="http://127.0.0.1:1/b.svg#a"/><rect width="40" height="20"/>'
    )
    assert found.outline.area_mm2 == pytest.approx(200, rel=1e-4)
    notes = " ".join(found.notes)
    for word in ("script", "text", "picture", "reference"):
        assert word in notes


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"<svg", "not whole XML"),
        (b"<html/>", "html"),
        (b'<!DOCTYPE a [<!ENTITY b "c"><!ENTITY d "&b;&b;">]><svg>&d;</svg>', "entities"),
        (b'<!DOCTYPE a [<!ENTITY b "' + b"c" * 999 + b'">]><svg>&b;</svg>', "entities"),
        (b'<!DOCTYPE a [<!ENTITY b SYSTEM "file:///etc/passwd">]><svg>&b;</svg>', "entities"),
        (svg("<text>hello</text>"), "nothing in it"),
        (svg('<g id="a"><use xlink:href="#a"/></g>'), "itself"),
        (svg('<path d="M0 0 L nonsense"/>'), "."),
        (svg('<rect width="9e9" height="5"/>'), "large"),
        (b"just words", "neither"),
        (b"", "neither"),
    ],
)
def test_bad_svg_is_refused_in_a_line(content: bytes, words: str) -> None:
    with pytest.raises(NebrelError, match=words) as refused:
        drawing_of(content, "bad.svg")
    assert "\n" not in str(refused.value)


def test_references_that_grow_without_end_are_refused() -> None:
    body = '<rect id="l0" width="1" height="1"/>'
    for k in range(1, 30):
        body += f'<g id="l{k}">' + f'<use xlink:href="#l{k - 1}"/>' * 10 + "</g>"
    with pytest.raises(TooLarge, match="references"):
        read(body)


def dxf(draw: object, units: int = 4) -> bytes:
    document = ezdxf.new("R2010", units=units)
    document.header["$INSUNITS"] = units
    draw(document)
    text = io.StringIO()
    document.write(text)
    return text.getvalue().encode()


def half_open(document: object) -> None:
    space = document.modelspace()
    space.add_line((0, 0), (30, 0), dxfattribs={"layer": "cut"})
    space.add_line((30.02, 0.01), (30, 20), dxfattribs={"layer": "cut"})
    space.add_line((30, 20), (0, 20), dxfattribs={"layer": "cut"})
    space.add_line((0, 20), (0, 0), dxfattribs={"layer": "cut"})
    space.add_line((0, 20), (0, 0), dxfattribs={"layer": "cut"})
    space.add_line((50, 0), (60, 9), dxfattribs={"layer": "notes"})
    space.add_text("Corvane", dxfattribs={"layer": "notes"})


def test_open_ends_are_joined_doubles_removed_and_the_rest_named() -> None:
    found = drawing_of(dxf(half_open), "a.dxf")
    assert found.size_mm == pytest.approx((30.02, 20), abs=0.02)
    assert found.outline.area_mm2 == pytest.approx(600, rel=1e-3)
    notes = " ".join(found.notes)
    assert "joined" in notes
    assert "twice" in notes
    assert "line on layer notes" in notes
    assert "text" in notes
    assert found.layers == {"cut": 5, "notes": 1}


def everything(document: object) -> None:
    space = document.modelspace()
    space.add_circle((10, 10), 5)
    space.add_ellipse((40, 10), (8, 0), 0.5)
    space.add_lwpolyline([(0, 30, 0, 0, 1), (10, 30, 0, 0, 1)], close=True)
    space.add_polyline2d([(30, 30), (40, 30), (40, 40), (30, 40)], close=True)
    space.add_spline([(60, 0), (70, 0), (70, 10), (60, 10), (60, 0)])
    block = document.blocks.new("star")
    block.add_circle((0, 0), 1)
    space.add_blockref("star", (60, 30), dxfattribs={"xscale": 3, "yscale": 3})
    hatch = space.add_hatch()
    hatch.paths.add_polyline_path([(80, 0), (90, 0), (90, 10), (80, 10)], is_closed=True)


def test_every_kind_of_line_is_read() -> None:
    found = drawing_of(dxf(everything), "a.dxf")
    assert len(found.outline.loops) == 7
    plain = np.pi * 25 + np.pi * 32 + np.pi * 25 + 100 + np.pi * 9 + 100
    assert 0 < found.outline.area_mm2 - plain < 160


def test_units_of_a_dxf() -> None:
    def square(document: object) -> None:
        document.modelspace().add_lwpolyline([(0, 0), (2, 0), (2, 1), (0, 1)], close=True)

    assert drawing_of(dxf(square, 1), "a.dxf").size_mm == pytest.approx((50.8, 25.4))
    assert drawing_of(dxf(square, 5), "a.dxf").size_mm == pytest.approx((20, 10))
    unsaid = drawing_of(dxf(square, 0), "a.dxf")
    assert unsaid.size_mm == pytest.approx((2, 1))
    assert unsaid.unit is None
    assert "does not say its unit" in " ".join(unsaid.notes)
    assert drawing_of(dxf(square, 0), "a.dxf", unit="in").size_mm == pytest.approx((50.8, 25.4))


def test_a_dimension_is_left_out_with_all_that_it_draws() -> None:
    def measured(document: object) -> None:
        space = document.modelspace()
        space.add_lwpolyline([(0, 0), (40, 0), (40, 20), (0, 20)], close=True)
        space.add_linear_dim(base=(0, 30), p1=(0, 20), p2=(40, 20)).render()
        block = document.blocks.new("part")
        block.add_circle((0, 0), 3)
        block.add_linear_dim(base=(0, 9), p1=(-3, 0), p2=(3, 0)).render()
        for x in (60, 80):
            space.add_blockref("part", (x, 10))

    found = drawing_of(dxf(measured), "a.dxf")
    assert found.outline.area_mm2 == pytest.approx(800 + 2 * np.pi * 9, rel=1e-3)
    assert found.size_mm == pytest.approx((83, 20), abs=1e-3)
    assert "3 of text or dimension left out" in found.notes
    assert not found.open_ends


def test_mils_are_a_unit() -> None:
    def plate(document: object) -> None:
        document.modelspace().add_lwpolyline([(0, 0), (1000, 0), (1000, 500)], close=True)

    assert drawing_of(dxf(plate, 9), "a.dxf").size_mm == pytest.approx((25.4, 12.7))


def test_a_layer_that_is_not_there_is_answered_with_those_that_are() -> None:
    with pytest.raises(InvalidValue, match=r"no layer is called “edge”.*It has cut, notes"):
        drawing_of(dxf(half_open), "a.dxf", layers=frozenset({"edge", "cut"}))
    with pytest.raises(InvalidValue, match="It has one"):
        drawing_of(
            svg('<g id="one"><rect width="9" height="9"/></g>'), "a.svg", layers=frozenset({"two"})
        )


def test_solids_only_are_refused() -> None:
    def faces(document: object) -> None:
        document.modelspace().add_3dface([(0, 0, 0), (1, 0, 0), (1, 1, 1), (0, 1, 1)])

    with pytest.raises(UnreadableFile, match="solids"):
        drawing_of(dxf(faces), "a.dxf")
    with pytest.raises(UnreadableFile, match="no lines"):
        drawing_of(dxf(lambda document: None), "a.dxf")
    with pytest.raises(UnreadableFile, match="DXF"):
        drawing_of(b"0\nSECTION\nnonsense", "a.dxf")


def test_a_line_that_crosses_itself_is_read_by_even_odd() -> None:
    found = read('<polygon fill-rule="evenodd" points="0,0 40,40 40,0 0,40"/>')
    assert found.outline.area_mm2 == pytest.approx(200, rel=1e-3)


def test_svg_has_true_curves() -> None:
    text = svg_of(shapes.ellipse(40, 40))
    assert " C " in text
    assert text.count("C ") <= 12
    assert " L " not in text
    square = svg_of(shapes.rectangle(40, 20))
    assert "C " not in square


def test_the_kernel_keeps_an_outline() -> None:
    own = lettering()
    assert outline_of(region_of(own)).area_mm2 == pytest.approx(own.area_mm2, rel=1e-9)
