"""Cut-outs and cutters, measured by another library."""

import math

import numpy as np
import pytest
import trimesh

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue
from nebrel.core.kernel import grown
from nebrel.core.outline import shapes
from nebrel.core.outline.lettering import letter
from nebrel.core.outline.outline import Outline
from nebrel.core.outline.regions import outline_of, region_of, united
from nebrel.core.outline.sized import at_origin, traced_wide
from nebrel.core.outline.tracing import shape_field
from nebrel.core.solid.cutout import cutout
from nebrel.core.solid.cutter import Cutter, cutter

RING = shapes.ring(40, 12)
STAR = at_origin(shapes.star(50, 5, 0.45))


def as_trimesh(mesh: Mesh) -> trimesh.Trimesh:
    found = trimesh.Trimesh(mesh.vertices, mesh.faces, process=True)
    assert found.is_watertight
    assert found.is_winding_consistent
    return found


def cut_at(mesh: trimesh.Trimesh, z: float) -> np.ndarray:
    """Pieces of the lines around a section, (n, 2, 2), what is solid to their left."""
    found, faces = trimesh.intersections.mesh_plane(mesh, [0, 0, 1], [0, 0, z], return_faces=True)
    pieces = np.asarray(found)[:, :, :2]
    along, outwards = pieces[:, 1] - pieces[:, 0], mesh.face_normals[faces][:, :2]
    turned = along[:, 1] * outwards[:, 0] - along[:, 0] * outwards[:, 1] < 0
    pieces[turned] = pieces[turned][:, ::-1]
    return pieces


def section(mesh: trimesh.Trimesh, z: float) -> float:
    """The area of a section."""
    (x0, y0), (x1, y1) = cut_at(mesh, z).transpose(1, 2, 0)
    return float((x0 * y1 - x1 * y0).sum()) / 2


def away(places: np.ndarray, pieces: np.ndarray) -> np.ndarray:
    """Distance of places from the nearest of some pieces of lines."""
    start, along = pieces[:, 0], pieces[:, 1] - pieces[:, 0]
    length = np.maximum((along**2).sum(axis=1), 1e-15)
    share = np.clip(((places[:, None] - start) * along).sum(-1) / length, 0, 1)
    off = start + share[..., None] * along - places[:, None]
    return np.hypot(off[..., 0], off[..., 1]).min(axis=1)


def test_a_cut_out_has_its_thickness_and_its_shape() -> None:
    mesh, report = cutout(RING, 3.0)
    solid = as_trimesh(mesh)
    assert report.manifold
    assert solid.volume == pytest.approx(RING.area_mm2 * 3, rel=1e-4)
    assert solid.bounds[:, 2].tolist() == [0, 3]


def test_edges_of_a_cut_out() -> None:
    chamfered = as_trimesh(cutout(shapes.rectangle(30, 20), 4.0, "chamfer", 1.0)[0])
    assert section(chamfered, 2.9) == pytest.approx(600, rel=1e-4)
    assert section(chamfered, 3.5) == pytest.approx(29 * 19, rel=1e-4)
    assert section(chamfered, 3.999) == pytest.approx(28 * 18, rel=2e-3)
    rounded = as_trimesh(cutout(shapes.rectangle(30, 20), 4.0, "round", 1.0)[0])
    inset = 1 - math.sqrt(1 - 0.5**2)
    assert section(rounded, 3.5) == pytest.approx((30 - 2 * inset) * (20 - 2 * inset), rel=1e-3)


@pytest.mark.parametrize(
    ("backing", "wide", "tall"),
    [("plate", 56, 51.3), ("round", 58.1, 58.1), ("along", 56, 51.3)],
)
def test_backings_reach_a_margin_outside(backing: str, wide: float, tall: float) -> None:
    own = STAR.bounds[1] - STAR.bounds[0]
    mesh = as_trimesh(cutout(STAR, 3.0, "chamfer", 0.6, backing, 3.0, 2.0)[0])
    size = mesh.bounds[1] - mesh.bounds[0]
    assert size[2] == pytest.approx(5)
    if backing != "round":
        assert size[:2] == pytest.approx(own + 6, abs=0.02)
    else:
        assert size[0] == pytest.approx(size[1], abs=1e-3)
        assert size[0] > own.max() + 6
    assert section(mesh, 3.0) == pytest.approx(STAR.area_mm2, rel=1e-4)
    assert section(mesh, 1.0) > STAR.area_mm2 * 1.3


def test_walls_blade_and_rim_have_their_widths() -> None:
    sizes = Cutter(wall=1.2, high=14, blade=0.4, blade_high=3, rim=4, rim_thick=2)
    blob = outline_of(region_of(shapes.ellipse(60, 40)))
    solid = as_trimesh(cutter(blob, sizes)[0])
    assert solid.bounds[:, 2].tolist() == pytest.approx([0, 14])
    rng = np.random.default_rng(5)
    loop = blob.loops[0]
    for z, outside in ((1.0, 4.0), (6.0, 1.2), (10.9, 1.2), (12.5, 0.8), (13.999, 0.4)):
        pieces = cut_at(solid, z)
        k = rng.choice(len(loop), 100)
        after = np.roll(loop, -1, axis=0)[k]
        middle, along = (loop[k] + after) / 2, after - loop[k]
        normal = np.column_stack([along[:, 1], -along[:, 0]])
        normal /= np.hypot(*normal.T)[:, None]
        assert away(middle, pieces).max() < 0.02
        assert away(middle + normal * outside, pieces).max() < 0.02
        assert away(middle + normal * outside / 2, pieces).min() > outside / 2 - 0.02


def test_the_cut_piece_has_the_shapes_size() -> None:
    solid = as_trimesh(cutter(STAR, Cutter())[0])
    wall = section(solid, 8)
    whole = outline_of(grown(region_of(STAR), 0.84)).area_mm2
    assert whole - wall == pytest.approx(STAR.area_mm2, rel=2e-3)


def test_details_end_below_the_blade_and_hang_together() -> None:
    mesh, report = cutter(RING, Cutter(details=5))
    solid = as_trimesh(mesh)
    assert report.bodies == 1
    low = section(solid, 8.9)
    high = section(solid, 9.1)
    ridge = math.pi * (8**2 - (8 - 0.84) ** 2)
    assert low - high == pytest.approx(ridge, rel=0.02)


def test_parts_that_stand_apart_are_held_together() -> None:
    apart = Outline((*shapes.ellipse(20, 20).loops, *shapes.ellipse(20, 20).moved(60, 0).loops))
    assert cutter(apart, Cutter())[1].bodies == 1


@pytest.mark.parametrize(
    ("sizes", "words"),
    [
        (Cutter(wall=0.2), "one line"),
        (Cutter(blade=1.0), "blade"),
        (Cutter(rim=0.5), "rim"),
        (Cutter(high=4), "height"),
        (Cutter(details=13), "details"),
        (Cutter(rim_thick=0), "rim"),
    ],
)
def test_sizes_that_make_no_cutter_are_refused(sizes: Cutter, words: str) -> None:
    with pytest.raises(InvalidValue, match=words):
        cutter(RING, sizes)


def silhouette(seed: int) -> Outline:
    """A heap of discs, rings and bars: nested holes, and parts that touch."""
    rng = np.random.default_rng(seed)
    y, x = np.mgrid[:160, :200]
    picture = np.ones((160, 200), np.float32)
    for k in range(int(rng.integers(1, 7))):
        cx, cy, r = rng.uniform(30, 170), rng.uniform(30, 130), rng.uniform(6, 28)
        away = np.hypot(x - cx, y - cy)
        soft = np.clip(away - r + 0.5, 0, 1).astype(np.float32)
        picture = np.minimum(picture, soft)
        if k % 2:
            picture = np.maximum(picture, np.clip(r * 0.6 - away + 0.5, 0, 1).astype(np.float32))
        if k % 3 == 0:
            bar = np.maximum(np.abs(x - cx) - r, np.abs(y - cy) - 3)
            picture = np.minimum(picture, np.clip(bar + 0.5, 0, 1).astype(np.float32))
    return traced_wide(shape_field(picture, None, "dark"), 60.0, 0.5, None, 35.0).outline


@pytest.mark.parametrize("first", (0, 4))
def test_every_silhouette_becomes_closed_solids(first: int) -> None:
    for seed in range(first, first + 2):
        own = silhouette(seed)
        as_trimesh(cutter(own, Cutter(details=4 if seed % 2 else None))[0])
        if seed % 4 == 0:
            edge = ("sharp", "chamfer", "round")[seed % 3]
            backing = ("none", "along", "plate", "round")[seed // 4 % 4]
            as_trimesh(cutout(own, 3, edge, 0.8, backing)[0])


def test_lettering_as_a_cut_out_keeps_its_counters() -> None:
    words = at_origin(united(letter("Bode", "plain_heavy", 12)))
    mesh = as_trimesh(cutout(words, 2, "chamfer", 0.4)[0])
    assert section(mesh, 1) == pytest.approx(words.area_mm2, rel=1e-4)
