"""A texture all over: as deep as asked, without a seam, nothing moved beside it."""

import numpy as np
import pytest
import trimesh

from nebrel.core.data import Floats, Mesh
from nebrel.core.errors import InvalidValue
from nebrel.core.mesh.crossings import crossings, extent_of
from nebrel.core.mesh.held_back import held_back
from nebrel.core.mesh.measure import measure
from nebrel.core.mesh.smooth import Stroke
from nebrel.core.mesh.textured import Region, Tile, Way, textured
from nebrel.core.recipe.ready import READY, sizes_of
from nebrel.core.solid.ready import ready_mesh


def waves(pixels: int = 64) -> Floats:
    """A wave up and down, four across, which goes on at its other side."""
    share = np.arange(pixels) / pixels
    return np.tile((0.5 + 0.5 * np.sin(8 * np.pi * share)).astype(np.float32), (pixels, 1))


def column() -> Mesh:
    return ready_mesh("cylinder", diameter=40, tall=30, round=0)


def checked(mesh: Mesh) -> trimesh.Trimesh:
    found = trimesh.Trimesh(mesh.vertices, mesh.faces, process=False)
    assert found.is_volume and found.body_count == 1
    return found


def test_a_tile_is_read_again_and_again() -> None:
    tile = Tile(waves(), 16)
    u, v = np.array([1.3, 17.3, -14.7]), np.array([2.0, 2.0, -30.0])
    assert np.ptp(tile.at(u, v)) < 1e-6
    assert tile.at(np.array([0.5]), np.array([0.0]))[0] == pytest.approx(
        0.5 + 0.5 * np.sin(8 * np.pi * 0.5 / 16), abs=0.01
    )


@pytest.mark.parametrize(("way", "low", "high"), [("out", 20, 20.8), ("in", 19.2, 20)])
def test_around_a_column_it_is_as_deep_as_asked(way: str, low: float, high: float) -> None:
    region = Region(beyond=(2, 5.0, True), fade_mm=0)
    sides = Region(facing=((1, 0, 0), 60), fade_mm=0)
    assert not region.whole and not sides.whole
    made = textured(column(), Tile(waves(), 10), 0.8, way, region, "axis")  # type: ignore[arg-type]
    checked(made)
    side = (made.vertices[:, 2] > 8) & (made.vertices[:, 2] < 27)
    away = np.hypot(*made.vertices[side, :2].T)
    away = away[away > 15]
    assert away.min() == pytest.approx(low, abs=0.03)
    assert away.max() == pytest.approx(high, abs=0.03)
    # As often around as fits whole: twelve and a half tiles become thirteen.
    angle = np.arctan2(made.vertices[side, 1], made.vertices[side, 0])
    top = np.hypot(*made.vertices[side, :2].T) > high - 0.05
    gaps = np.diff(np.unique(np.round(angle[top] * 13 * 4 / (2 * np.pi))))
    assert (gaps == 1).all()


def test_beside_the_region_every_triangle_stays() -> None:
    body = ready_mesh("sphere", diameter=40)
    made = textured(body, Tile(waves(), 8), 0.5, "out", Region(facing=((0, -1, 0), 30)))
    checked(made)
    corners = {tuple(np.sort(face.ravel())) for face in np.round(made.vertices[made.faces], 4)}
    far = body.vertices[body.faces][:, :, 1].min(axis=1) > 0
    kept = {tuple(np.sort(face.ravel())) for face in np.round(body.vertices[body.faces][far], 4)}
    assert kept <= corners
    moved = np.abs(np.linalg.norm(made.vertices - [0, 0, 20], axis=1) - 20) > 0.02
    assert moved.any() and made.vertices[moved, 1].max() < -20 * np.cos(np.radians(32))


def test_under_a_brush_and_half_of_each() -> None:
    stroke = Stroke(np.array([[20.0, 0, 10], [20, 0, 20]]), 8, 0.5)
    body = column()
    made = textured(body, Tile(waves(), 6), 0.6, "even", Region(strokes=[stroke], fade_mm=0.5))
    checked(made)
    away = np.hypot(*made.vertices[:, :2].T)
    side = (made.vertices[:, 2] > 1) & (made.vertices[:, 2] < 29)
    moved = side & (np.abs(away - 20) > 0.02)
    assert moved.any()
    near = made.vertices[moved]
    assert near[:, 0].min() > 18 and np.abs(near[:, 1]).max() < 4.1
    assert away[moved].max() > 20.2 and away[moved].min() < 19.8


@pytest.mark.parametrize("way", ["out", "in"])
def test_across_a_sharp_edge_it_does_not_pass_through_itself(way: Way) -> None:
    small = ready_mesh("cylinder", diameter=12, tall=10, round=0)
    made = textured(small, Tile(waves(), 6), 0.4, way, Region(fade_mm=0), detail_mm=0.2)
    checked(made)
    faces = made.faces.astype(np.int64)
    corners = made.vertices[faces].astype(np.float64)
    assert not crossings(corners, faces, extent_of(made.vertices)).any()
    # Away from the edges it is as deep as it was asked for.
    away = np.hypot(*made.vertices[(made.vertices[:, 2] > 2) & (made.vertices[:, 2] < 8), :2].T)
    side = away[away > 5]
    low, high = (6, 6.4) if way == "out" else (5.6, 6)
    assert side.min() == pytest.approx(low, abs=0.03)
    assert side.max() == pytest.approx(high, abs=0.03)


def test_what_cannot_go_all_the_way_goes_as_far_as_it_can() -> None:
    body = ready_mesh("sphere", diameter=10)
    flat = body.vertices * np.float32([1, 1, 0])
    places, clean = held_back(body.vertices.astype(np.float64), flat.astype(np.float64), body.faces)
    assert clean
    faces = body.faces.astype(np.int64)
    assert not crossings(places[faces], faces, 10.0).any()
    same, clean = held_back(places, places + 1.0, body.faces)
    assert clean and np.array_equal(same, places + 1.0)


def test_what_cannot_be_textured_is_refused_in_words() -> None:
    tile = Tile(waves(), 10)
    with pytest.raises(InvalidValue, match="thick there"):
        thin = ready_mesh("tube", diameter=40, tall=20, wall=0.6)
        textured(thin, tile, 0.8, "in", Region(), "axis")
    with pytest.raises(InvalidValue, match="nothing of the body"):
        textured(column(), tile, 0.8, "out", Region(beyond=(2, 50.0, True)))
    with pytest.raises(InvalidValue, match="million triangles"):
        textured(column(), Tile(waves(), 0.4), 0.1, "out", Region(), detail_mm=0.02)


def test_the_edge_of_a_wall_is_not_its_thickness() -> None:
    bottle = READY["bottle"].model_validate({"wall": 1.5})
    body = ready_mesh("bottle", **sizes_of(bottle))
    tile = Tile(np.zeros((8, 8), np.float32), 12.0)
    front = Region(facing=((0.0, -1.0, 0.0), 60.0))
    # Across the edge of its mouth it is 0.25 mm.
    found = textured(body, tile, 0.5, "in", front, detail_mm=1.0)
    assert measure(found).volume_mm3 < measure(body).volume_mm3
    with pytest.raises(InvalidValue, match=r"the wall is 1\.5 mm thick"):
        textured(body, tile, 1.45, "in", front, detail_mm=1.0)
