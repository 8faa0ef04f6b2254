"""Entries with an outline: moved, thickened, bridged, walled; backings, nodes, sheets, starts."""

import io
import math
from functools import cache
from typing import Any
from zipfile import ZipFile

import numpy as np
import pytest
import trimesh

from nebrel.core.data import Floats, Picture
from nebrel.core.errors import InvalidValue
from nebrel.core.outline import shapes
from nebrel.core.outline.backings import backing_around
from nebrel.core.outline.bridges import bridged
from nebrel.core.outline.node_edit import NodeEdit
from nebrel.core.outline.nodes import edit_nodes, nodes_of
from nebrel.core.outline.offsets import moved_out, thickened
from nebrel.core.outline.outline import Outline, area_of
from nebrel.core.outline.regions import outline_of, region_of
from nebrel.core.outline.sheets import as_sheets
from nebrel.core.outline.smooth_lines import with_curves
from nebrel.core.products.companions import part_of
from nebrel.core.products.table import Making, product_of
from nebrel.core.questions.evaluation import Evaluation
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.questions.starts import is_untouched, start, trace_tones
from nebrel.core.questions.suits import look_at, ranked
from nebrel.core.recipe.models import Recipe, default_recipe, load_recipe
from tests.core.test_cutters import cut_at
from tests.rays import highest_hits
from tests.shapes import cover, ellipse

SVG = (
    b'<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="30mm" viewBox="0 0 60 30">'
    b'<g id="plate"><rect x="5" y="5" width="40" height="20"/></g>'
    b'<g id="hole"><circle cx="50" cy="15" r="4"/></g></svg>'
)
ROWS, COLS = 241, 301
PITCH = 90 / (COLS - 1)  # mm


@cache
def ring_and_disc() -> Floats:
    """A ring about (90, 120) and a disc about (225, 120), joined by a bar: dark on white, px."""
    loops = [*ellipse((90, 120), 66, 66), *ellipse((90, 120), 30, 30)]
    ring, disc = cover(loops, ROWS, COLS), cover(ellipse((225, 120), 45, 45), ROWS, COLS)
    bar = np.zeros((ROWS, COLS), np.float32)
    bar[112:129, 150:200] = 1
    return (1 - np.maximum(np.maximum(ring, disc), bar)).astype(np.float32)


def recipe(entry: dict[str, Any], *more: dict[str, Any], **art: Any) -> Recipe:
    own = {"kind": "traced", "id": "shape", "rule": "highest", "height": "3 mm"} | entry
    file = {"sha256": "0" * 64, "filename": "ring.png"}
    whole = {
        "picture": {"file": file, "side": "90 mm"},
        "backing": 0,
        "build_up": [{"kind": "picture", "id": "picture", "enabled": False}, own, *more],
        "edge": {"kind": "along", "margin": 0},
    }
    fittings = art.pop("fittings", [])
    return load_recipe({"begins": {"art": whole | art, "fittings": fittings}})


def evaluator(tone: Floats | None = None) -> Evaluator:
    seen = ring_and_disc() if tone is None else tone
    return Evaluator(lambda _: Picture(seen), files=lambda _: SVG)


def made(given: Recipe, tone: Floats | None = None) -> tuple[Evaluation, trimesh.Trimesh]:
    found = evaluator(tone).evaluate(given)
    mesh = trimesh.Trimesh(found.mesh.vertices, found.mesh.faces)
    assert mesh.is_watertight
    assert mesh.is_winding_consistent
    assert [remark.error for remark in found.remarks if remark.refused] == []
    return found, mesh


# Outlines alone, against known answers


def test_moving_outwards_keeps_what_was_asked_of_corners() -> None:
    square = shapes.rectangle(10, 10)
    assert moved_out(square, 1, "mitred").area_mm2 == pytest.approx(144)
    assert moved_out(square, 1, "round").area_mm2 == pytest.approx(140 + math.pi, abs=0.05)
    assert moved_out(square, -1, "mitred").area_mm2 == pytest.approx(64)
    band = moved_out(square, 1, "mitred", band=True)
    assert band.area_mm2 == pytest.approx(144 - 64)
    with pytest.raises(InvalidValue, match="leaves nothing"):
        moved_out(square, -6, "round")


def test_only_what_is_thin_is_thickened_and_named() -> None:
    bar = shapes.rectangle(30, 0.3)
    block = shapes.rectangle(10, 10).moved(20, 0)
    whole = outline_of(region_of(bar) + region_of(block))
    found, places = thickened(whole, 1.0)
    assert len(places) == 1
    assert places[0][0] == pytest.approx(0, abs=1.5)
    shown = region_of(found)
    around = region_of(shapes.rectangle(10, 10))
    assert (shown ^ around).area() == pytest.approx(10, rel=0.03)
    # The block stays as it was, its corners too.
    assert (shown ^ region_of(block)).area() == pytest.approx(100, rel=1e-3)
    assert shown.bounds()[2] == pytest.approx(25, abs=1e-6)
    plain, none = thickened(block, 1.0)
    assert plain is block
    assert none == []


def test_bridges_hold_all_that_would_fall_out_over_the_shortest_ways() -> None:
    thin = shapes.ellipse(40, 30)
    hole = shapes.ellipse(30, 26)
    opening = Outline((*thin.loops, *(loop[::-1] for loop in hole.loops)))
    dot = shapes.ring(8, 2)  # an opening within what is held
    found = bridged(Outline((*opening.loops, *dot.loops)), 2, 1.5)
    assert len(found.bridges) == 4
    plate = region_of(shapes.rectangle(60, 60)) - region_of(found.outline)
    assert len(plate.decompose()) == 1
    # The ring is 2 mm across where it is narrowest, and there its bridges are.
    lengths = [float(np.hypot(*(b - a))) for a, b in found.bridges]
    assert sorted(lengths)[:4] == pytest.approx([2, 2, 2, 2], abs=0.05)


def test_backings_go_around_a_shape() -> None:
    shape = shapes.rectangle(30, 20)
    plate = backing_around(shape, "plate", 2, corner_mm=1)
    assert plate.area_mm2 == pytest.approx(34 * 24 - (4 - math.pi), abs=0.05)
    circle = backing_around(shape, "circle", 1)
    assert circle.area_mm2 == pytest.approx(math.pi * (math.hypot(15, 10) + 1) ** 2, rel=1e-3)
    six = backing_around(shape, "polygon", 0, sides=6)
    assert (region_of(shape) - region_of(six)).area() < 1e-6
    two = Outline((*shape.loops, *shape.moved(34, 0).loops))
    assert len(backing_around(two, "along", 0.5).loops) == 2
    assert len(backing_around(two, "along", 0.5, gap_mm=4).loops) == 1
    inner = backing_around(shape, "along", -1)
    assert inner.area_mm2 == pytest.approx(28 * 18)
    with pytest.raises(InvalidValue, match="leaves nothing"):
        backing_around(shape, "plate", -10)


def test_nodes_are_moved_added_and_taken_away_by_their_place() -> None:
    lines = with_curves(shapes.rectangle(20, 10)).curves
    assert len(nodes_of(lines)) == 4
    corner = (10.0, 5.0)
    moved, lost = edit_nodes(lines, [NodeEdit("move", corner, (14.0, 8.0))], 0.5, 5)
    assert lost == 0
    assert (14.0, 8.0) in [node.place for node in nodes_of(moved)]
    # Both sides of a moved corner stay straight.
    area = area_of(np.array([node.place for node in nodes_of(moved)]))
    assert area == pytest.approx(200 + (0.5 * (20 * 3 + 10 * 4)), abs=0.01)
    added, _ = edit_nodes(lines, [NodeEdit("add", (0.2, 5.1), (0.0, 8.0))], 0.5, 5)
    assert len(nodes_of(added)) == 5
    # Whatever nodes there are by then, it lies where it was put.
    assert min(np.hypot(x, y - 8) for x, y in (n.place for n in nodes_of(added))) < 1e-9
    dropped, _ = edit_nodes(lines, [NodeEdit("drop", corner)], 0.5, 5)
    assert len(nodes_of(dropped)) == 3
    smooth, _ = edit_nodes(lines, [NodeEdit("smooth", corner)], 0.5, 5)
    assert [n.smooth for n in nodes_of(smooth) if n.place == corner] == [True]
    sharp, _ = edit_nodes(smooth, [NodeEdit("sharp", corner)], 0.5, 5)
    assert [n.smooth for n in nodes_of(sharp) if n.place == corner] == [False]
    assert edit_nodes(lines, [NodeEdit("move", (50.0, 50.0), (0.0, 0.0))], 0.5, 5)[1] == 1


def test_sheets_fit_into_each_other_with_their_clearance() -> None:
    plate, disc = shapes.rectangle(40, 40), shapes.ellipse(20, 20)
    hole = shapes.ellipse(4, 4)
    low, high = as_sheets([(plate, False), (disc, False), (hole, True)], "inlaid", 0.2)
    assert low
    assert high
    assert low.area_mm2 == pytest.approx(1600 - math.pi * 10.1**2, rel=1e-3)
    assert high.area_mm2 == pytest.approx(math.pi * (9.9**2 - 4), rel=1e-3)
    low, high = as_sheets([(plate, False), (disc, False)], "stacked", 0.2)
    assert low
    assert low.area_mm2 == pytest.approx(1600)
    with pytest.raises(InvalidValue, match="nothing is left"):
        as_sheets([(hole, True)], "inlaid", 0)


# In a recipe


@pytest.mark.parametrize("kind", ["plate", "circle", "polygon", "along"])
def test_a_backing_reaches_beyond_the_picture(kind: str) -> None:
    edge = {"kind": kind, "margin": "12 mm"}
    found, mesh = made(recipe({}, backing="2 mm", edge=edge))
    assert mesh.body_count == 1
    low, high = mesh.bounds
    assert (high - low)[0] > 90
    assert (high - low)[2] == pytest.approx(5)
    # Shares of the picture still find the shape: it lies where the picture has it.
    relief = found.relief
    x, y = 225 * PITCH + relief.room_mm[0], (ROWS - 1 - 120) * PITCH + relief.room_mm[1]
    heights, there = relief.at(np.array([x]), np.array([y]))
    assert there[0]
    assert heights[0] == pytest.approx(5)
    assert highest_hits(found.mesh, np.array([x]), np.array([y])) == pytest.approx(5, abs=1e-3)


def test_a_frame_follows_the_backing_and_mirror_turns_all_of_it() -> None:
    frame = {"kind": "frame", "id": "rim", "wide": "2 mm", "height": "1 mm"}
    edge = {"kind": "circle", "margin": "4 mm"}
    plain = made(recipe({}, backing="2 mm", edge=edge))[1]
    framed = made(recipe({}, frame, backing="2 mm", edge=edge))[1]
    radius = float(plain.extents[0]) / 2
    band = math.pi * (radius**2 - (radius - 2) ** 2)
    assert framed.volume - plain.volume == pytest.approx(band, rel=0.02)
    mirrored = made(recipe({}, frame, backing="2 mm", edge=edge, mirror=True))[1]
    assert mirrored.volume == pytest.approx(framed.volume, rel=1e-4)


def test_a_cutter_of_an_entry_has_its_walls_and_its_stamp_slides_in_it() -> None:
    given = recipe({"height": "14 mm", "wall": {"details": "4 mm", "clearance": "0.5 mm"}})
    found, mesh = made(given)
    assert mesh.body_count == 1
    assert mesh.bounds[:, 2].tolist() == pytest.approx([0, 14])
    assert found.relief.top_mm == pytest.approx(14, abs=0.3)
    wide = float(np.ptp(cut_at(mesh, 8.0)[..., 0]))
    rim = mesh.extents[0]
    assert rim - wide == pytest.approx(2 * (4 - 0.84), abs=0.03)
    stamp = part_of(evaluator(), given, "stamp")
    block = trimesh.Trimesh(stamp.vertices, stamp.faces)
    assert block.is_watertight
    # As wide as the opening but for its clearance on both sides.
    assert block.extents[0] == pytest.approx(rim - 2 * 4 - 2 * 0.5, abs=0.03)
    with pytest.raises(InvalidValue, match="no cutter"):
        part_of(evaluator(), recipe({}), "stamp")


def test_a_wall_that_cannot_be_is_refused_and_the_rest_stands() -> None:
    bar = {"kind": "outline", "id": "bar", "rule": "highest"}
    wall = {"thick": "0.2 mm"}
    found = evaluator().evaluate(recipe({"height": "14 mm", "wall": wall}, bar))
    [remark] = [one for one in found.remarks if one.refused]
    assert remark.entry_id == "shape"
    assert "thinner than one line" in str(remark.error)
    assert found.report.manifold


def test_a_stencil_holds_what_would_fall_out() -> None:
    cut = {"rule": "cut"}
    plate = {"kind": "plate", "margin": "8 mm"}
    loose = evaluator().evaluate(recipe(cut, backing="1 mm", edge=plate))
    assert loose.report.bodies == 2
    held = made(recipe(cut | {"bridges": {"count": 3, "wide": "2 mm"}}, backing="1 mm", edge=plate))
    assert held[1].body_count == 1
    thin = recipe(cut | {"bridges": {"wide": "0.5 mm"}}, backing="1 mm", edge=plate)
    [remark] = evaluator().evaluate(thin).remarks
    assert "less than two nozzle lines" in str(remark.error)


def test_a_drawing_lies_in_its_own_size_or_another() -> None:
    drawing = {"kind": "drawing", "file": {"sha256": "1" * 64, "filename": "plate.svg"}}
    assert made(recipe(drawing))[1].extents[:2] == pytest.approx([49, 20], abs=1e-3)
    layers = drawing | {"layers": ["plate"]}
    assert made(recipe(layers))[1].extents[:2] == pytest.approx([40, 20], abs=1e-3)
    tall = layers | {"along": "tall", "side": "50 mm"}
    assert made(recipe(tall))[1].extents[:2] == pytest.approx([100, 50], abs=1e-3)
    missing = Evaluator(lambda _: Picture(ring_and_disc()))
    [remark] = [
        one for one in missing.evaluate(recipe(drawing, backing="1 mm")).remarks if one.refused
    ]
    assert "not at hand" in str(remark.error)


def test_nodes_stay_where_they_were_put_when_the_dials_change() -> None:
    to = {"to_x": "40 mm", "to_y": "0 mm"}
    node = {"does": "add", "x": f"{(270 - 150) * PITCH} mm", "y": "0 mm", **to}
    for dials in ({}, {"within": "0.5 mm"}, {"corner": 80}, {"level": 0.7}):
        given = recipe({"trace": {"nodes": [node], **dials}})
        outline = evaluator().outline(given, "shape")
        assert outline.bounds[1][0] == pytest.approx(45 + 40, abs=1e-3)


def test_traced_by_colour_and_by_the_middle_of_strokes() -> None:
    by_tone = evaluator().outline(recipe({}), "shape")
    by_colour = evaluator().outline(recipe({"trace": {"of": "colour"}}), "shape")
    assert by_colour.area_mm2 == pytest.approx(by_tone.area_mm2, rel=0.02)
    line = np.ones((120, 240), np.float32)
    line[50:70, 20:221] = 0
    stroked = Evaluator(lambda _: Picture(line))
    given = recipe({"trace": {"stroke": "1.5 mm"}})
    low, high = stroked.outline(given, "shape").bounds
    assert (high - low)[1] == pytest.approx(1.5, abs=0.02)


# Fittings find their place


@pytest.mark.parametrize(
    "fitting",
    [
        {"kind": "eyelet"},
        {"kind": "eyelet", "across": 0},
        {"kind": "foot"},
        {"kind": "magnet", "count": 3},
        {"kind": "keyhole", "deep": "2 mm", "lip": "1 mm"},
        {"kind": "handle"},
        {"kind": "handle", "shape": "knob"},
    ],
)
def test_fittings_find_a_place_on_a_backing_that_follows(fitting: dict[str, Any]) -> None:
    edge = {"kind": "along", "margin": "5 mm"}
    bare = made(recipe({}, backing="4 mm", edge=edge))[1]
    given = recipe({}, backing="4 mm", edge=edge, fittings=[fitting | {"id": "one"}])
    found, mesh = made(given)
    assert found.fitting_remarks == ()
    assert mesh.body_count == 1
    sunk = fitting["kind"] in ("magnet", "keyhole")
    assert (mesh.volume < bare.volume) == sunk
    if fitting["kind"] == "magnet":
        each = math.pi * 4.1**2 * 2.2
        assert bare.volume - mesh.volume == pytest.approx(3 * each, rel=0.01)


def test_a_pocket_without_room_is_refused_with_what_has_room() -> None:
    given = recipe({}, backing="1 mm", fittings=[{"kind": "magnet", "id": "m", "wide": "80 mm"}])
    [remark] = evaluator().evaluate(given).fitting_remarks
    assert remark.refused
    assert "The largest round there is" in str(remark.error)


# Sheets, and starts


def test_sheets_are_saved_together_and_apart(tmp_path: Any) -> None:
    disc = {"kind": "outline", "id": "disc", "outline": {"kind": "ellipse", "wide": "9 mm"}}
    given = recipe({}, disc | {"x": "22 mm", "rule": "highest"}, backing="1 mm", edge={})
    making = Making(given, evaluator(), lambda _: b"")
    for name in ("sheets.svg", "sheets.dxf", "sheets.zip", "sheet-2.stl", "sheet-3.svg"):
        product_of(name).write(making, tmp_path / name)
    with ZipFile(tmp_path / "sheets.zip") as packed:
        names = sorted(packed.namelist())
        one = trimesh.load(io.BytesIO(packed.read("1 backing.stl")), file_type="stl")
    assert names[:3] == ["1 backing.stl", "1 backing.svg", "2 traced.stl"]
    assert one.is_watertight
    assert one.extents == pytest.approx([90, (ROWS - 1) * PITCH, 3], abs=1e-3)
    assert (tmp_path / "sheets.svg").read_text().count("<g id=") == 3


def sized(_: Recipe) -> tuple[float, float]:
    return 100.0, 100.0 * (ROWS - 1) / (COLS - 1)


def best(tone: Floats) -> str:
    return ranked(look_at(tone, None, None))[0][0]


def test_every_start_makes_a_closed_piece_and_is_taken_from_a_fresh_one() -> None:
    tone = ring_and_disc()
    fresh = default_recipe("0" * 64, ROWS, COLS, "ring.png")
    assert is_untouched(fresh)
    seen = look_at(tone, None, None)
    assert seen.of == "dark"
    assert ranked(seen)[0][0] == "cut-out"
    for name in ("light panel", "flat tones", "cut-out", "cutter", "stamp", "stencil"):
        begun = start(fresh, name, seen, lambda: tone, sized)
        assert not is_untouched(begun), name
        mesh = made(begun)[1]
        assert mesh.body_count == 1, name
        assert start(begun, "relief", seen, lambda: tone, sized).relief.art == fresh.relief.art


@pytest.mark.parametrize("name", ["light panel", "cut-out", "cutter", "stamp", "stencil"])
def test_every_start_is_made_of_a_shape_without_a_hole(name: str) -> None:
    tone = (1 - cover(ellipse((150, 120), 70, 55), ROWS, COLS)).astype(np.float32)
    fresh = default_recipe("0" * 64, ROWS, COLS, "round.png")
    begun = start(fresh, name, look_at(tone, None, None), lambda: tone, sized)
    done, mesh = made(begun, tone)
    assert mesh.body_count == 1
    if name == "cutter":
        x, y = mesh.bounds.mean(axis=0)[:2, None] + [[0, 3, -2], [0, 1, 4]]
        assert np.isnan(highest_hits(done.mesh, x, y)).all()


def test_what_suits_a_picture_is_said_with_its_reason() -> None:
    smooth = np.linspace(0, 1, 200 * 200, dtype=np.float32).reshape(200, 200)
    assert best(smooth) == "relief"
    colours = np.stack([smooth, 1 - smooth, smooth * 0], axis=2)
    name, why = ranked(look_at(smooth, None, colours))[0]
    assert name == "light panel"
    assert "coloured" in why
    steps = np.repeat(np.array([0, 0.5, 1], np.float32), 80)[None].repeat(200, 0)
    assert best(steps) == "flat tones"
    assert best(np.ones((80, 80), np.float32)) == "relief"
    faint = smooth[::2, ::2] * 0
    faint[40:60, 40:60] = 0.1
    assert look_at(1 - faint, None, None).ground is None
    light_on_dark = 1 - ring_and_disc()
    assert look_at(light_on_dark, None, None).of == "light"
    kept = look_at(smooth, ring_and_disc(), None)
    assert kept.of == "kept"


@pytest.mark.parametrize("size", [(2, 2), (2, 5000), (5000, 3)])
def test_pictures_of_odd_sizes_are_looked_at(size: tuple[int, int]) -> None:
    tone = np.random.default_rng(3).random(size, np.float32)
    for alpha in (None, np.round(tone)):
        for colours in (None, np.repeat(tone[..., None], 3, axis=2)):
            assert len({name for name, _ in ranked(look_at(tone, alpha, colours))}) == 2


def test_flat_tones_become_entries_that_hold_each_other() -> None:
    tone = np.ones((120, 160), np.float32)
    tone[20:100, 20:140] = 0.5
    tone[40:80, 20:80] = 0
    fresh = default_recipe("0" * 64, 120, 160, "badge.png")
    seen = look_at(tone, None, None)
    found = trace_tones(fresh, seen, lambda: tone)
    assert [entry.name for entry in found.relief.art.build_up[1:]] == ["Tone 1", "Tone 2"]
    maker = Evaluator(lambda _: Picture(tone))
    body, lines = (maker.outline(found, entry.id) for entry in found.relief.art.build_up[1:])
    assert body.area_mm2 > 2 * lines.area_mm2
    # No seam where both end at the ground together.
    assert (region_of(lines) - region_of(body)).area() < 0.02 * lines.area_mm2


def test_a_lower_edge_is_shaped_where_nothing_lies_under_it() -> None:
    square = {"kind": "outline", "id": "bar", "rule": "highest", "height": "3 mm"}
    square |= {"outline": {"kind": "rectangle", "wide": "20 mm", "tall": "10 mm"}}
    off = {"enabled": False}
    chamfered = square | {"below": {"kind": "chamfer", "reach": "0.5 mm"}}
    mesh = made(recipe(off, chamfered))[1]
    # A frustum of half a millimetre takes the place of as much of the block.
    frustum = 0.5 / 3 * (200 + 171 + math.sqrt(200 * 171))
    assert mesh.volume == pytest.approx(200 * 2.5 + frustum, rel=1e-4)
    assert np.ptp(mesh.vertices[mesh.vertices[:, 2] < 1e-6][:, 0]) == pytest.approx(19, abs=1e-3)
    plate = {"backing": "1 mm", "edge": {"kind": "along", "margin": "2 mm"}}
    backed = made(recipe(off, chamfered, **plate))[1]
    assert backed.volume == pytest.approx(made(recipe(off, square, **plate))[1].volume, rel=1e-5)
    thick = square | {"below": {"kind": "round", "reach": "3 mm"}}
    found = evaluator().evaluate(recipe({}, thick))
    [remark] = [one for one in found.remarks if one.refused]
    assert "nearest that works" in str(remark.error)


def test_a_mould_ends_where_its_backing_does() -> None:
    edge = {"kind": "circle", "margin": "3 mm"}
    plain = made(recipe({}, backing="2 mm", edge=edge))[1]
    found, mould = made(recipe({}, backing="2 mm", edge=edge, negative=True))
    assert mould.extents == pytest.approx(plain.extents, abs=1e-3)
    # High for low, the two fill the same round.
    disc = math.pi * (float(plain.extents[0]) / 2) ** 2
    assert mould.volume + plain.volume == pytest.approx(disc * (5 + 2), rel=1e-3)
    there = found.relief.joined()[1]
    assert there is not None
    assert not there[0, 0]


def test_where_something_is_thin_or_open_is_told_by_its_place() -> None:
    line = {"kind": "outline", "id": "line", "rule": "highest", "least": "1 mm", "x": "20 mm"}
    line |= {"outline": {"kind": "rectangle", "wide": "12 mm", "tall": "0.3 mm"}, "turn": 90}
    [remark] = evaluator().evaluate(recipe({}, line)).remarks
    assert not remark.refused
    assert remark.error.places == (pytest.approx((20, 0), abs=0.5),)
    drawn = (
        b'<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="20mm" viewBox="0 0 40 20">'
        b'<g fill="none" stroke="#000" stroke-width="0"><path d="M0 0H40V20H0Z"/>'
        b'<path d="M10 5L20 10"/></g></svg>'
    )
    own = {"kind": "drawing", "file": {"sha256": "1" * 64, "filename": "open.svg"}}
    given = recipe(own)
    found = Evaluator(lambda _: Picture(ring_and_disc()), files=lambda _: drawn).evaluate(given)
    [remark] = found.remarks
    assert "stays open" in str(remark.error)
    assert remark.error.places == (
        pytest.approx((-10, 5), abs=1e-4),
        pytest.approx((0, 0), abs=1e-4),
    )


def test_inside_is_the_same_by_rows_and_at_once(monkeypatch: pytest.MonkeyPatch) -> None:
    loops = (*shapes.star(10, 40, 0.5).moved(0.1, 0.2, 7).loops, *shapes.ring(16, 2).loops)
    outline = Outline(loops)
    places = np.round(np.random.default_rng(0).uniform(-9, 9, (20000, 2)), 2)
    at_once = outline.inside(*places.T)
    monkeypatch.setattr("nebrel.core.outline.outline._MANY", 1)
    assert (outline.inside(*places.T) == at_once).all()
