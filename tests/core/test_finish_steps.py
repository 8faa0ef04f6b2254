"""Finish steps that make another body: split, softened, thickened, drained, set down."""

import numpy as np
import pytest
import trimesh
from scipy.ndimage import distance_transform_edt

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue, NebrelError, NotSolid
from nebrel.core.mesh.bodies import bodies_of, in_a_row
from nebrel.core.mesh.lighter import gathered, lighter
from nebrel.core.mesh.measure import measure
from nebrel.core.mesh.place import laid_down, laid_on, middle_below, placed, set_down, turned
from nebrel.core.mesh.refine import refine
from nebrel.core.mesh.section import cut_by_plane
from nebrel.core.mesh.smooth import Stroke, smooth_under
from nebrel.core.mesh.split import Pins, split
from nebrel.core.mesh.thicken import thicken
from nebrel.core.mesh.uncapped import cut_open
from nebrel.core.mesh.voxels import hollow, nearest_marked, soften
from nebrel.core.mesh.walls import wall_at_vertices


def of(made: trimesh.Trimesh) -> Mesh:
    return Mesh(made.vertices.astype(np.float32), made.faces.astype(np.int32))


def block(x: float = 40, y: float = 30, z: float = 20) -> Mesh:
    return of(trimesh.creation.box((x, y, z)))


def ball(radius: float = 20, fine: int = 4) -> Mesh:
    return of(trimesh.creation.icosphere(subdivisions=fine, radius=radius))


@pytest.mark.parametrize("axis", ["x", "y", "z"])
def test_two_parts_fit_together_by_their_pins(axis: str) -> None:
    pins = Pins(count=2, wide_mm=4, long_mm=8, clearance_mm=0.3)
    found, report = split(block(), axis, 1.0, pins, 5.0)  # type: ignore[arg-type]
    assert (report.bodies, report.manifold) == (2, True)
    pin, socket = np.pi * 4 * 4, np.pi * 2.15**2 * 4.3
    assert report.volume_mm3 == pytest.approx(24_000 + 2 * (pin - socket), rel=1e-4)
    one, other = trimesh.Trimesh(found.vertices, found.faces).split()
    number = "xyz".index(axis)
    apart = 0 if axis == "z" else number
    gap = other.bounds[0] - one.bounds[1]
    assert max(gap[apart], -(other.bounds[1] - one.bounds[0])[apart]) == pytest.approx(5, abs=1e-3)
    if axis == "z":  # both lie on the table, the upper on its cut
        assert one.bounds[0][2] == pytest.approx(other.bounds[0][2], abs=1e-4)


def test_without_pins_nothing_is_lost() -> None:
    _, report = split(ball(), "z", 4.0, Pins(0, 4, 8, 0.3), 1.0)
    assert report.volume_mm3 == pytest.approx(measure(ball()).volume_mm3, rel=1e-5)
    assert report.bodies == 2


@pytest.mark.parametrize(
    ("pins", "at", "words"),
    [
        (Pins(1, 60, 8, 0.3), 0.0, "no room for one"),
        (Pins(24, 8, 8, 0.3), 0.0, "room for"),
        (Pins(1, 4, 30, 0.3), 0.0, "come out"),
        (Pins(1, 4, 8, 0.3), 99.0, "nothing is on one side"),
    ],
)
def test_pins_that_do_not_fit_are_refused(pins: Pins, at: float, words: str) -> None:
    with pytest.raises(InvalidValue, match=words):
        split(block(), "z", at, pins, 1.0)


def test_an_open_mesh_is_not_split() -> None:
    whole = block()
    with pytest.raises(NotSolid, match="not closed"):
        split(Mesh(whole.vertices, whole.faces[2:]), "z", 0, Pins(0, 1, 1, 0), 1)


def test_a_softened_block_has_round_edges_of_that_radius() -> None:
    found, report = soften(block(), 3.0)
    assert report.manifold
    assert report.size_mm == pytest.approx((40, 30, 20), abs=0.3)
    # Steiner: a block grown from one that is smaller by the radius on all sides
    a, b, c, r = 34.0, 24.0, 14.0, 3.0
    grown = a * b * c + 2 * r * (a * b + b * c + a * c)
    grown += np.pi * r * r * (a + b + c) + 4 / 3 * np.pi * r**3
    assert report.volume_mm3 == pytest.approx(grown, rel=0.015)
    corner = np.abs(found.vertices) - (17, 12, 7)
    outer = (corner > 0.5).all(axis=1)
    assert np.linalg.norm(corner[outer], axis=1) == pytest.approx(3.0, abs=0.45)


def test_a_softened_ball_is_as_round_and_every_triangle_is_one() -> None:
    found, report = soften(ball(), 2.0)
    assert report.manifold
    assert trimesh.Trimesh(found.vertices, found.faces, process=False).is_volume
    away = np.linalg.norm(found.vertices, axis=1)
    assert away.min() > 19.7 and away.max() < 20.01


def test_distances_to_marked_cells_are_those_of_another_library() -> None:
    marked = np.random.default_rng(0).random((60, 70, 50)) < 5e-4
    away, which = nearest_marked(marked, 9.3)
    known = distance_transform_edt(~marked)
    near = known <= 10
    assert away[near] == pytest.approx(known[near], abs=1e-5)
    assert (away[~near] > 10).all()
    assert marked.ravel()[which[near]].all()


def test_too_small_a_radius_is_refused() -> None:
    with pytest.raises(InvalidValue, match="too little"):
        soften(block(400, 300, 200), 0.1)


@pytest.mark.parametrize("thick", [2.0, -2.0])
def test_an_open_cap_is_thickened_evenly(thick: float) -> None:
    whole = ball()
    above = whole.vertices[whole.faces][:, :, 2].min(axis=1) > 0
    cap = Mesh(whole.vertices, whole.faces[above])
    found, report = thicken(cap, thick)
    assert report.manifold
    assert report.volume_mm3 > 0
    radius = np.linalg.norm(found.vertices[len(whole.vertices) :], axis=1)
    used = np.unique(found.faces[found.faces >= len(whole.vertices)]) - len(whole.vertices)
    assert radius[used] == pytest.approx(20 - thick, abs=0.02)


def test_thickening_says_why_not() -> None:
    with pytest.raises(InvalidValue, match="closed already"):
        thicken(ball(), 2)
    with pytest.raises(InvalidValue, match="is none"):
        thicken(ball(), 0)


def test_a_hollow_is_drained_downwards() -> None:
    plain, before = hollow(ball(), 2.0)
    found, report = hollow(ball(), 2.0, drains=1, drain_mm=4.0)
    assert (before.bodies, report.bodies) == (2, 1)
    assert report.manifold
    assert before.volume_mm3 - report.volume_mm3 == pytest.approx(np.pi * 4 * 2, rel=0.15)
    assert len(found.faces) < len(plain.faces) + 2000
    with pytest.raises(InvalidValue, match="room for"):
        hollow(ball(), 2.0, drains=12, drain_mm=9.0)


def test_turned_and_set_down() -> None:
    found = turned(block(), (90, 0, 0))
    assert np.ptp(found.vertices, axis=0) == pytest.approx((40, 20, 30))
    assert measure(found).volume_mm3 == pytest.approx(24_000)
    mirrored = turned(ball(), (0, 0, 0), "y")
    assert measure(mirrored).volume_mm3 > 0
    moved = placed(block(), (0, 0, -10), (5, 6, 7), (0, 0, 45), 2.0)
    assert middle_below(moved) == pytest.approx((5, 6, 7), abs=1e-4)
    down = set_down(moved, centre=True, drop=True)
    assert middle_below(down) == pytest.approx((0, 0, 0), abs=1e-4)
    assert np.ptp(laid_down(block()).vertices, axis=0) == pytest.approx((40, 20, 30))
    assert measure(laid_down(block())).volume_mm3 == pytest.approx(24_000)


@pytest.mark.parametrize("axis", ["x", "y", "z"])
def test_a_plane_cuts_circles_with_the_solid_on_the_left(axis: str) -> None:
    for at in (0.0, 3.0, -6.2):
        [line] = cut_by_plane(ball(10, 5), axis, at)  # type: ignore[arg-type]
        assert line[0] == pytest.approx(line[-1])
        x, y = line[:-1].T
        area = 0.5 * (x * np.roll(y, -1) - y * np.roll(x, -1)).sum()
        assert area == pytest.approx(np.pi * (100 - at * at), rel=0.01)
    assert cut_by_plane(ball(10), axis, 11.0) == []  # type: ignore[arg-type]
    # Through the very vertices of a block.
    [line] = cut_by_plane(block(), axis, 0.0)  # type: ignore[arg-type]
    assert len(line) >= 5


def test_a_hollow_runs_the_other_way_round() -> None:
    inner = Mesh(block(10, 10, 10).vertices, block().faces[:, ::-1])
    both = Mesh(
        np.concatenate([block().vertices, inner.vertices]),
        np.concatenate([block().faces, inner.faces + 8]).astype(np.int32),
    )
    lines = cut_by_plane(both, "z", 0.3)
    areas = []
    for line in lines:
        x, y = line[:-1].T
        areas.append(0.5 * (x * np.roll(y, -1) - y * np.roll(x, -1)).sum())
    assert sorted(areas) == pytest.approx([-100, 1200])


def test_a_lighter_one_is_near_and_light() -> None:
    dense = ball(20, 7)
    for most in (2_000, 30_000):
        found = lighter(dense, most)
        assert len(found.faces) <= most
        assert np.linalg.norm(found.vertices, axis=1) == pytest.approx(20, abs=0.7)
    assert lighter(ball(), 10**6) is not None
    loose = Mesh(
        dense.vertices[dense.faces].reshape(-1, 3),
        np.arange(dense.faces.size, dtype=np.int32).reshape(-1, 3),
    )
    met = gathered(loose, 20_000)
    assert 5_000 < len(met.faces) <= 20_000
    assert measure(met).volume_mm3 == pytest.approx(measure(dense).volume_mm3, rel=0.02)


def test_what_is_open_is_cut_open() -> None:
    whole = ball()
    found = cut_open(Mesh(whole.vertices, whole.faces[5:]), "z", 4.0, "below")
    assert found.vertices[:, 2].max() == pytest.approx(4.0, abs=1e-5)
    with pytest.raises(NebrelError, match="nothing is left"):
        cut_open(whole, "z", 99.0, "above")


@pytest.mark.parametrize("towards", [(0, 0, 1), (0, 0, -2), (1, 0, 0), (1, 2, 3), (-0.1, 0.3, 1)])
def test_what_looked_there_looks_down(towards: tuple[float, float, float]) -> None:
    way = np.array(towards) / np.linalg.norm(towards)
    stood = trimesh.geometry.align_vectors([0, 0, 1], way)
    needle = of(trimesh.creation.cylinder(0.5, 40, transform=stood))
    found = laid_on(needle, towards)
    assert np.ptp(found.vertices, axis=0) == pytest.approx((1, 1, 40), abs=0.05)
    assert measure(found).volume_mm3 == pytest.approx(measure(needle).volume_mm3)
    with pytest.raises(InvalidValue, match="nowhere"):
        laid_on(needle, (0, 0, 0))


@pytest.mark.parametrize("thick", [0.5, 3.0])
def test_walls_are_as_thick_as_they_are(thick: float) -> None:
    shell, _ = hollow(of(trimesh.creation.icosphere(subdivisions=4, radius=10)), thick)
    found = wall_at_vertices(shell)
    outside = np.linalg.norm(shell.vertices, axis=1) > 10 - thick / 2
    assert np.median(found[outside]) == pytest.approx(thick, rel=0.03)
    sheet = Mesh(np.float32([[0, 0, 0], [1, 0, 0], [0, 1, 0]]), np.int32([[0, 1, 2]]))
    assert np.isinf(wall_at_vertices(sheet)).all()


def moved(made: trimesh.Trimesh, *by: float) -> trimesh.Trimesh:
    made.apply_translation(by)
    return made


def test_bodies_are_laid_in_a_row_and_a_hollow_goes_with_its_own() -> None:
    hollow = trimesh.creation.icosphere(3, 5)
    hollow.invert()
    far = moved(trimesh.creation.icosphere(3, 8), 60, 3, 20)
    mesh = of(trimesh.util.concatenate([far, trimesh.creation.box((40, 30, 20)), hollow]))
    one, other = bodies_of(mesh)
    assert (len(one.faces), len(other.faces)) == (12 + 1280, 1280)
    found = in_a_row(mesh, 5)
    report = measure(found)
    assert (report.manifold, report.bodies) == (True, 3)
    assert report.volume_mm3 == pytest.approx(measure(mesh).volume_mm3, rel=1e-5)
    one, other = bodies_of(found)
    assert other.vertices[:, 0].min() - one.vertices[:, 0].max() == pytest.approx(5, abs=1e-4)
    assert one.vertices[:, 2].min() == pytest.approx(other.vertices[:, 2].min(), abs=1e-4)
    with pytest.raises(InvalidValue, match="one alone"):
        in_a_row(block(), 5)


def rough() -> Mesh:
    whole = ball(20, 5)
    rng = np.random.default_rng(4)
    shaken = whole.vertices + rng.normal(0, 0.1, whole.vertices.shape)
    return Mesh(shaken.astype(np.float32), whole.faces)


def test_under_a_brush_alone_it_is_calmed() -> None:
    mesh = rough()
    stroke = Stroke(np.array([[20, -6, 0], [20, 6, 0]]), wide_mm=8, strength_mm=0.2)
    found = smooth_under(mesh, 20, [stroke])
    by = np.linalg.norm(found.vertices - mesh.vertices, axis=1)
    under = np.hypot(mesh.vertices[:, 2], np.maximum(0, np.abs(mesh.vertices[:, 1]) - 6)) < 2
    under &= mesh.vertices[:, 0] > 15
    assert by.max() <= 0.2 + 1e-5
    assert by[mesh.vertices[:, 0] < 10].max() == 0
    assert (by > 0).sum() < 0.1 * len(by)
    rough_before = np.std(np.linalg.norm(mesh.vertices[under], axis=1))
    assert np.std(np.linalg.norm(found.vertices[under], axis=1)) < 0.6 * rough_before
    assert np.array_equal(smooth_under(mesh, 20, []).vertices, mesh.vertices)


def test_a_brush_does_not_reach_the_other_side_of_a_thin_wall() -> None:
    made = trimesh.creation.box((40, 40, 0.6))
    wall = of(made)
    fine, _ = refine(wall, lambda v, f: np.ptp(v[f], axis=1).max(axis=1) > 1.5, 200_000)
    shaken = fine.vertices + np.random.default_rng(1).normal(0, 0.03, fine.vertices.shape)
    fine = Mesh(shaken.astype(np.float32), fine.faces)
    found = smooth_under(fine, 10, [Stroke(np.array([[0.0, 0, 0.3]]), 10, 1)])
    by = np.linalg.norm(found.vertices - fine.vertices, axis=1)
    assert by[fine.vertices[:, 2] > 0.2].max() > 0
    assert by[fine.vertices[:, 2] < -0.2].max() == 0


def test_refined_it_is_the_same_surface() -> None:
    mesh = ball(20, 2)
    found, done = refine(mesh, lambda v, f: np.ptp(v[f][..., 0], axis=1) > 2, 100_000)
    assert done
    before, after = measure(mesh), measure(found)
    assert after.manifold
    assert after.volume_mm3 == pytest.approx(before.volume_mm3, rel=1e-6)
    assert np.ptp(found.vertices[found.faces][..., 0], axis=1).max() <= 2
