"""What is written is one manifold without scraps, and passes through itself nowhere."""

import numpy as np
import pytest
import trimesh
from scipy.spatial import cKDTree

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue, NotSolid
from nebrel.core.kernel import block, mesh_of, nothing, solid_of
from nebrel.core.mesh.closed import closed, passes_through_itself, without_scraps
from nebrel.core.mesh.combine import trim
from nebrel.core.mesh.repair import repair
from tests.meshes import ball, box, joined


def crossed() -> Mesh:
    """Two balls that reach into each other, and are two shells still."""
    other = ball()
    return joined(ball(), Mesh(other.vertices + np.float32([9, 1, 2]), other.faces))


def test_what_passes_through_itself_is_seen_wherever_it_is() -> None:
    assert not passes_through_itself(ball())
    assert not passes_through_itself(joined(ball(4), box(2, 2, 2, at=(9, 9, 9))))
    assert passes_through_itself(crossed())
    # Only where it is new.
    assert not passes_through_itself(crossed(), [crossed()])
    assert passes_through_itself(joined(crossed(), box(2, 2, 30)), [crossed()])
    assert not passes_through_itself(joined(crossed(), box(2, 2, 2, at=(60, 0, 0))), [crossed()])


def test_scraps_go_and_what_is_meant_stays() -> None:
    scrap = block((0.01, 0.01, 0.01)).translate((30, 0, 0))
    small, hole = block((1, 1, 1)).translate((40, 0, 0)), block((2, 2, 2)).translate((4, 4, 4))
    whole = (block((10, 10, 10)) - hole) + small + scrap
    found, report = closed(whole, "body", "none")
    parts = trimesh.Trimesh(found.vertices, found.faces).split(only_watertight=False)
    assert sorted(round(float(part.volume), 3) for part in parts) == [-8, 1, 1000]
    assert report.manifold and found.name == "body"
    # Where there is nothing else, it was meant; and it is told by what it is a part of.
    assert closed(scrap, "speck", "none")[0].faces.shape == (12, 3)
    assert len(without_scraps(mesh_of(scrap)).faces) == 12
    with pytest.raises(InvalidValue, match="Place it"):
        closed(nothing(), "body", "none", empty="Place it elsewhere")


def test_what_is_not_cut_stays_bit_for_bit() -> None:
    whole = ball()
    places = np.random.default_rng(4).normal(0, 0.003, whole.vertices.shape)
    rough = Mesh((whole.vertices + places).astype(np.float32), whole.faces)
    top = float(rough.vertices[:, 2].max())
    found, _ = trim(rough, "z", top - 2, "below")
    below = rough.vertices[rough.vertices[:, 2] < top - 2.5]
    kept = {row.tobytes() for row in found.vertices}
    assert len(below) > 100 and all(row.tobytes() in kept for row in below)


def test_a_body_that_comes_to_pass_through_itself_is_refused() -> None:
    """Unless it did so before: that is what a repair is for."""
    whole = solid_of(crossed())
    with pytest.raises(NotSolid, match="pass through each other"):
        closed(whole, "body", "Move it", [ball()])
    assert closed(whole, "body", "Move it", [crossed()])[1].manifold
    assert trim(crossed(), "z", 1.0, "above")[1].manifold


def tube(curve: np.ndarray, radius: float, sides: int = 20) -> Mesh:
    """A closed tube along a closed line (n, 3), whatever it runs through."""
    way = np.roll(curve, -1, axis=0) - np.roll(curve, 1, axis=0)
    way /= np.linalg.norm(way, axis=1, keepdims=True)
    u = np.cross(way, [0.1, 0.2, 1.0])
    u /= np.linalg.norm(u, axis=1, keepdims=True)
    v = np.cross(way, u)
    angle = np.arange(sides) * 2 * np.pi / sides
    turned = np.cos(angle)[None, :, None] * u[:, None] + np.sin(angle)[None, :, None] * v[:, None]
    vertices = (curve[:, None] + radius * turned).reshape(-1, 3)
    i, j = (k.ravel() for k in np.meshgrid(np.arange(len(curve)), np.arange(sides), indexing="ij"))
    after, beside = (i + 1) % len(curve) * sides, (j + 1) % sides
    a, b, c, d = i * sides + j, after + j, after + beside, i * sides + beside
    faces = np.concatenate([np.column_stack([a, b, c]), np.column_stack([a, c, d])])
    made = trimesh.Trimesh(vertices, faces)
    if made.volume < 0:
        made.invert()
    return Mesh(made.vertices.astype(np.float32), made.faces.astype(np.int32), "tube")


T = np.linspace(0, 2 * np.pi, 160, endpoint=False)
CURVES = {
    "a flat eight": np.column_stack([20 * np.sin(T), 20 * np.sin(T) * np.cos(T), 0 * T]),
    "three crossings": 6
    * np.column_stack(
        [np.sin(T) + 2 * np.sin(2 * T), np.cos(T) - 2 * np.cos(2 * T), -0.35 * np.sin(3 * T)]
    ),
    "a loop within": np.column_stack(
        [(6 + 14 * np.cos(T)) * np.cos(T), (6 + 14 * np.cos(T)) * np.sin(T), 0 * T]
    ),
}


@pytest.mark.parametrize("name", CURVES)
def test_strands_that_pass_through_each_other_are_joined(name: str) -> None:
    """By how much is near the line; a repair took nearly all of it away."""
    curve, radius = CURVES[name], 2.8
    found = repair(tube(curve, radius))
    assert found.report.manifold and not passes_through_itself(found.mesh)
    made = trimesh.Trimesh(found.mesh.vertices, found.mesh.faces)
    assert made.is_volume
    low, high = made.bounds
    spots = np.random.default_rng(1).uniform(low, high, (60_000, 3))
    fine = np.column_stack(
        [np.interp(np.arange(3200), np.arange(0, 3200, 20), curve[:, k]) for k in range(3)]
    )
    off = cKDTree(fine).query(spots)[0]
    truly = (off < radius).mean() * np.prod(high - low) * 10 * np.sin(np.pi / 10) / np.pi
    assert made.volume == pytest.approx(truly, rel=0.03)
    assert "strands that passed through each other joined" in found.done
