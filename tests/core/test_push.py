"""A surface pushed out and pressed in under a brush."""

import numpy as np
import pytest
import trimesh

from nebrel.core.data import Mesh
from nebrel.core.mesh.push import pushed
from nebrel.core.mesh.smooth import Stroke
from nebrel.core.solid.ready import ready_mesh


def solid(mesh: Mesh) -> trimesh.Trimesh:
    found = trimesh.Trimesh(mesh.vertices, mesh.faces, process=False)
    assert found.is_volume
    return found


@pytest.mark.parametrize("out", [True, False])
def test_a_plate_is_moved_by_as_much_as_is_asked_for(out: bool) -> None:
    """Its large triangles are divided first, and what the brush does not reach stays."""
    plate = ready_mesh("plate", wide=60, deep=60, tall=10, corner=2)
    stroke = Stroke(np.array([[-10.0, 0, 10], [10, 0, 10]]), wide_mm=12, strength_mm=1.5)
    found = pushed(plate, [stroke], out)
    made = solid(found)
    high = found.vertices[np.abs(found.vertices[:, 1]) < 1]
    moved = (high[:, 2].max() if out else 20 - high[high[:, 2] > 5, 2].min()) - 10
    assert moved == pytest.approx(1.5, abs=0.05)
    assert (made.volume > solid(plate).volume) == out
    x, y = np.abs(found.vertices[:, 0]), np.abs(found.vertices[:, 1])
    beside = (np.hypot(np.maximum(x - 10, 0), y) > 6.2) & (x < 29) & (y < 29)
    assert np.isin(np.round(found.vertices[beside, 2], 4), [0, 10]).all()


def test_strokes_add_up_and_the_other_side_of_a_wall_stays() -> None:
    plate = ready_mesh("plate", wide=40, deep=40, tall=2, corner=2)
    stroke = Stroke(np.array([[0.0, 0, 2]]), wide_mm=10, strength_mm=0.5)
    found = pushed(plate, [stroke, stroke], True)
    assert found.vertices[:, 2].max() == pytest.approx(3, abs=0.03)
    assert found.vertices[:, 2].min() == 0
    assert pushed(plate, [], True).vertices is plate.vertices
