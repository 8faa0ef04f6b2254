"""What is bent: cut only where the curve asks for it, and joined to itself without a seam."""

from typing import Any

import numpy as np
import pytest
from manifold3d import Manifold

from nebrel.core.data import Mesh
from nebrel.core.kernel import mesh_of
from nebrel.core.mesh.bendable import bendable
from nebrel.core.mesh.measure import measure
from nebrel.core.solid.weld import weld
from tests.core.test_forms import make, pinned, solid, waves


def pierced(seed: int) -> Mesh:
    """A plate with holes and hollows of every size."""
    rng = np.random.default_rng(seed)
    plate = Manifold.cube((100, 50, 3))
    for _ in range(8):
        radius = rng.uniform(1, 20)
        place = (rng.uniform(0, 100), rng.uniform(0, 50), rng.uniform(-3, 2))
        sides = int(rng.integers(3, 60))
        plate -= Manifold.cylinder(10, radius, radius, sides).translate(place)
    return mesh_of(plate)


@pytest.mark.parametrize("longest", [(1.1, None), (1.3, 0.9), (7.0, 7.0), (300.0, 300.0)])
@pytest.mark.parametrize("seed", range(4))
def test_cutting_changes_nothing_but_how_long_edges_are(
    seed: int, longest: tuple[float, float | None]
) -> None:
    before = pierced(seed)
    vertices, faces = bendable(before, longest)
    after = measure(Mesh(vertices.astype(np.float32), faces.astype(np.int32)))
    was = measure(before)
    assert after.closed
    assert after.area_mm2 == pytest.approx(was.area_mm2, rel=1e-4)
    assert after.volume_mm3 == pytest.approx(was.volume_mm3, rel=1e-4)
    corners = vertices[faces][..., :2]
    step = np.abs(corners - np.roll(corners, 1, axis=1))
    if longest[1] is None:
        assert step[..., 0].max() <= longest[0] * (1 + 1e-6)
    else:
        assert np.hypot(*(step / longest).reshape(-1, 2).T).max() <= 2**0.5 * (1 + 1e-6)


@pytest.mark.parametrize(
    ("form", "most"),
    [
        ({"kind": "globe", "opening": 10}, 97_500),
        ({"kind": "tube"}, 2100),
        ({"kind": "arc", "bend": 90}, 1100),
        ({"kind": "dome", "bend": 90}, 30_000),
    ],
)
def test_a_flat_picture_takes_what_its_curve_asks_for(form: dict[str, Any], most: int) -> None:
    flat = np.full((256, 512), 0.0)
    result = make(flat, 60 * np.pi, form=form, heights={"depth": 1, "backing": 1})
    assert solid(result).is_watertight
    assert result.report.triangles <= most
    # And no more is cut off the surface than the tolerance.
    places = result.mesh.vertices[result.mesh.faces].mean(axis=1) - (0, 0, result.lift_mm)
    if form["kind"] == "globe":
        away = np.linalg.norm(places, axis=1)
        off = np.minimum(np.abs(away - 30), np.abs(away - 31))
        around_the_opening = places[:, 2] < places[:, 2].min() + 1.2
        assert off[~around_the_opening].max() <= 0.01


@pytest.mark.parametrize("kind", ["tube", "globe"])
def test_what_goes_around_has_no_seam(kind: str) -> None:
    result = make(waves(), 150, form={"kind": kind})
    mesh = solid(result)
    assert mesh.euler_number == (0 if kind == "tube" else 2)
    # No wall stands inside, where the picture begins and ends.
    normals = mesh.face_normals
    middle = mesh.triangles_center
    height = mesh.bounds[1, 2]
    behind = (np.abs(middle[:, 0]) < 0.4) & (middle[:, 1] > 0)
    behind &= (middle[:, 2] > 0.2 * height) & (middle[:, 2] < 0.8 * height)
    sideways = np.abs(normals[behind, 0])
    assert sideways[mesh.area_faces[behind] > 1e-3].max() < 0.9


def test_a_hole_on_the_seam_is_as_one_beside_it() -> None:
    y, x = np.mgrid[0:101, 0:241]
    tones = np.clip(np.hypot((x % 60) - 30, y - 50) - 15.5, 0, 1)
    shifted = np.roll(tones[:, :-1], 30, axis=1)[:, [*range(240), 0]]
    found = [
        make(t, 120, form={"kind": "tube"}, heights=pinned((1, 2), (0, None))).report
        for t in (tones, shifted)
    ]
    assert found[0].volume_mm3 == pytest.approx(found[1].volume_mm3, rel=2e-4)
    assert found[0].area_mm2 == pytest.approx(found[1].area_mm2, rel=1e-3)


def test_ends_that_differ_are_not_welded() -> None:
    box = mesh_of(Manifold.cube((20, 5, 2)) + Manifold.cube((2, 2, 3)))
    assert weld(box.vertices.astype(np.float64), box.faces.astype(np.int64), 20.0) is None
    # An entry that runs out at one end only: still closed, with a step at the seam.
    entry = {"kind": "shape", "shape": {"kind": "rectangle", "wide": 30, "tall": 10}, "x": 70}
    build_up = [{"kind": "picture", "id": "picture"}, entry]
    result = make(waves(), 150, form={"kind": "tube"}, heights={"build_up": build_up})
    assert solid(result).euler_number == 0
