"""Meshes made simpler, evener, calmer, hollow; cut, joined and compared."""

import numpy as np
import pytest
import trimesh

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue, NotSolid
from nebrel.core.formats.fewer_bytes import to_bytes
from nebrel.core.mesh.combine import join, trim
from nebrel.core.mesh.deviation import deviation
from nebrel.core.mesh.even import even
from nebrel.core.mesh.faults import find_faults
from nebrel.core.mesh.measure import measure
from nebrel.core.mesh.nearest import Nearby
from nebrel.core.mesh.simplify import simplify, within
from nebrel.core.mesh.smooth import smooth
from nebrel.core.mesh.voxels import hollow, rebuild
from tests.meshes import WHOLE, ball, box, doughnut, joined, with_hole


@pytest.fixture(autouse=True)
def fewer_places(monkeypatch: pytest.MonkeyPatch) -> None:
    """That many are enough for meshes of a few thousand faces."""
    monkeypatch.setattr("nebrel.core.mesh.deviation._SAMPLES", 20_000)


def sampled(mesh: Mesh, count: int = 60_000) -> np.ndarray:
    made = trimesh.Trimesh(mesh.vertices, mesh.faces, process=False)
    return trimesh.sample.sample_surface(made, count, seed=2)[0]


def edges(mesh: Mesh) -> np.ndarray:
    corners = mesh.vertices[mesh.faces]
    return np.linalg.norm(corners - np.roll(corners, 1, axis=1), axis=2).ravel()


def test_the_nearest_place_is_the_nearest() -> None:
    mesh = doughnut()
    points = np.random.default_rng(1).uniform(-18, 18, (200, 3))
    away, at, place = Nearby.of(mesh).nearest(points)
    corners = mesh.vertices[mesh.faces].astype(float)
    for point, found, on in zip(points, away, place, strict=True):
        every = trimesh.triangles.closest_point(corners, np.tile(point, (len(corners), 1)))
        assert found == pytest.approx(np.linalg.norm(every - point, axis=1).min(), abs=1e-9)
        assert np.linalg.norm(on - point) == pytest.approx(found, abs=1e-9)
    assert (at >= 0).all()


@pytest.mark.parametrize("shape", WHOLE)
def test_the_largest_deviation_is_a_bound_and_a_close_one(shape: str) -> None:
    mesh = WHOLE[shape]()
    rng = np.random.default_rng(3)
    rough = Mesh(mesh.vertices + rng.normal(0, 0.05, mesh.vertices.shape).astype("f4"), mesh.faces)
    for other in (simplify(mesh, len(mesh.faces) // 3), rough):
        found = deviation(mesh, other)
        for one, two, said in ((mesh, other, found.a_to_b), (other, mesh, found.b_to_a)):
            away = Nearby.of(two).nearest(sampled(one))[0]
            assert said.max_mm >= away.max() - 1e-9
            assert said.max_mm <= away.max() * 1.25 + 2e-4
            assert said.rms_mm == pytest.approx(np.sqrt((away**2).mean()), rel=0.04, abs=1e-5)
        assert found.max_mm == max(found.a_to_b.max_mm, found.b_to_a.max_mm)


def test_a_ball_within_a_ball_is_as_far_as_their_radii() -> None:
    found = deviation(ball(10, 5), ball(8, 5))
    assert 2 <= found.max_mm + 5e-3 <= 2.05
    assert found.rms_mm == pytest.approx(2, rel=5e-3)
    assert deviation(ball(), ball()).max_mm == pytest.approx(0, abs=1e-6)


@pytest.mark.parametrize("shape", WHOLE)
def test_fewer_triangles_keep_the_shape(shape: str) -> None:
    mesh = WHOLE[shape]()
    found = simplify(mesh, 300)
    assert len(found.faces) <= 300
    assert measure(found).manifold
    assert measure(found).volume_mm3 == pytest.approx(measure(mesh).volume_mm3, rel=0.03)
    few, away = within(mesh, 0.2)
    assert measure(few).manifold
    assert away.max_mm <= 0.2
    assert Nearby.of(few).nearest(sampled(mesh))[0].max() <= 0.2
    assert len(few.faces) < len(mesh.faces) / 2


def test_a_box_needs_few() -> None:
    found, away = within(box(20, 14, 9), 0.001)
    assert len(found.faces) <= 40
    assert away.max_mm < 1e-6


def test_borders_and_colours_outlast_simplifying() -> None:
    mesh = with_hole(ball(10, 5), 3)
    tints = np.zeros((len(mesh.vertices), 4), np.uint8)
    tints[mesh.vertices[:, 2] > 0] = (200, 30, 30, 255)
    tinted = Mesh(mesh.vertices, mesh.faces, "half red", tints)
    found = simplify(tinted, 2000)
    was, now = find_faults(mesh, thickness=False), find_faults(found, thickness=False)
    assert was.holes == now.holes == 1
    border = mesh.vertices[was.places["holes"]]
    assert np.abs(Nearby.of(found).nearest(border)[0]).max() < 1e-5
    assert found.colours is not None
    upper = found.vertices[:, 2] > 0.5
    assert (found.colours[upper, 0] == 200).all()
    assert (found.colours[found.vertices[:, 2] < -0.5, 0] == 0).all()


def test_a_file_has_no_more_bytes_than_asked() -> None:
    mesh = ball(10, 5)
    found = to_bytes(mesh, 100_000, ".stl")
    assert 95_000 < 84 + 50 * len(found.faces) <= 100_000
    with pytest.raises(InvalidValue, match="as small as 90 bytes"):
        to_bytes(mesh, 90, ".stl")


@pytest.mark.parametrize("wrong", [0, -5, 3])
def test_no_triangles_at_all_is_refused(wrong: int) -> None:
    with pytest.raises(InvalidValue, match="too few for a body"):
        simplify(ball(), wrong)


@pytest.mark.parametrize("shape", WHOLE)
@pytest.mark.parametrize("long", [0.8, 2.0])
def test_even_triangles_are_even_and_keep_the_shape(shape: str, long: float) -> None:
    mesh = WHOLE[shape]()
    found = even(mesh, long)
    assert measure(found).manifold
    low, middle, high = np.percentile(edges(found), [2, 50, 98])
    assert middle == pytest.approx(long, rel=0.12)
    assert low > 0.45 * long
    assert high < 1.6 * long
    assert deviation(mesh, found).max_mm < max(0.06, long**2 / 8 / 4 * 2)
    if shape == "box":  # its sharp edges stay
        assert measure(found).volume_mm3 == pytest.approx(20 * 14 * 9, rel=1e-5)


def test_smoothing_does_not_shrink() -> None:
    rng = np.random.default_rng(2)
    whole = ball(10, 5)
    rough = Mesh(
        whole.vertices + rng.normal(0, 0.06, whole.vertices.shape).astype("f4"), whole.faces
    )
    found = smooth(rough, 20)
    assert measure(found).volume_mm3 == pytest.approx(measure(rough).volume_mm3, rel=1e-5)
    off = np.abs(np.linalg.norm(found.vertices, axis=1) - 10)
    assert np.sqrt((off**2).mean()) < 0.02
    with pytest.raises(InvalidValue, match="rounds"):
        smooth(rough, -1)


def test_a_rebuilt_mesh_is_closed_joined_and_grown() -> None:
    both = joined(box(10, 10, 10), box(10, 10, 10, at=(5, 0, 0)))
    report = rebuild(with_hole(both), 0.25)[1]
    assert report.manifold
    assert report.bodies == 1
    assert report.volume_mm3 == pytest.approx(1500, rel=0.01)
    grown = rebuild(ball(10, 5), 0.25, 1.5)[1]
    assert grown.volume_mm3 == pytest.approx(4 / 3 * np.pi * 11.5**3, rel=5e-3)
    shrunk = rebuild(ball(10, 5), 0.25, -1.5)[1]
    assert shrunk.volume_mm3 == pytest.approx(4 / 3 * np.pi * 8.5**3, rel=5e-3)
    with pytest.raises(InvalidValue, match="voxel"):
        rebuild(ball(), 0.001)
    with pytest.raises(InvalidValue, match="nothing is left"):
        rebuild(ball(3), 0.2, -5)


def test_a_hollow_body_has_its_wall_everywhere() -> None:
    mesh = box(24, 18, 15)
    found, report = hollow(mesh, 2)
    assert report.manifold
    assert report.bodies == 2
    assert report.volume_mm3 == pytest.approx(24 * 18 * 15 - 20 * 14 * 11, rel=5e-3)
    inner = found.vertices[len(mesh.vertices) :]
    away = Nearby.of(mesh).nearest(inner)[0]
    assert away.min() == pytest.approx(2, abs=0.05)
    assert away.max() == pytest.approx(2, abs=0.3)  # rounder in its corners
    with pytest.raises(InvalidValue, match="leaves no hollow"):
        hollow(mesh, 9)
    with pytest.raises(NotSolid, match="not closed"):
        hollow(with_hole(mesh), 2)


def test_trimmed_bodies_are_capped() -> None:
    mesh = doughnut()
    above, below = trim(mesh, "x", 1.5, "above")[1], trim(mesh, "x", 1.5, "below")[1]
    assert above.manifold
    assert below.manifold
    assert above.volume_mm3 + below.volume_mm3 == pytest.approx(measure(mesh).volume_mm3)
    with pytest.raises(InvalidValue, match="from -16 to 16 mm in x"):
        trim(mesh, "x", 20, "above")
    with pytest.raises(NotSolid, match="not closed"):
        trim(with_hole(mesh), "z", 0, "above")


def test_bodies_are_added_taken_away_and_kept_in_common() -> None:
    one, other = box(10, 10, 10), box(10, 10, 10, at=(5, 0, 0))
    assert join(one, other, "add")[1].volume_mm3 == pytest.approx(1500)
    assert join(one, other, "subtract")[1].volume_mm3 == pytest.approx(500)
    assert join(one, other, "common")[1].volume_mm3 == pytest.approx(500)
    with pytest.raises(InvalidValue, match="nothing is left"):
        join(one, box(20, 20, 20), "subtract")
