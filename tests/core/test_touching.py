"""Solids that touch themselves, drawn apart so that a file can tell their parts."""

import numpy as np
import pytest

from nebrel.core.data import Mesh
from nebrel.core.mesh.measure import measure, merge
from nebrel.core.mesh.touching import part_touching

_CORNERS = np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)], np.float32)
_SIDES = np.array(
    [[0, 1, 3, 2], [4, 6, 7, 5], [0, 4, 5, 1], [2, 3, 7, 6], [0, 2, 6, 4], [1, 5, 7, 3]]
)
_FACES = np.concatenate([_SIDES[:, [0, 1, 2]], _SIDES[:, [0, 2, 3]]])


def _cubes(*places: tuple[float, float, float]) -> Mesh:
    """Cubes of 1 mm, their vertices joined where they meet."""
    vertices = np.concatenate([_CORNERS + np.array(place, np.float32) for place in places])
    faces = np.concatenate([_FACES + 8 * k for k in range(len(places))])
    return merge(Mesh(vertices, faces.astype(np.int32)))


@pytest.mark.parametrize(
    ("places", "what"),
    [
        ([(0, 0, 0), (1, 1, 0)], "two cubes along an edge"),
        ([(0, 0, 0), (1, 1, 1)], "two cubes at a corner"),
        ([(0, 0, 0), (1, 1, 0), (2, 0, 0), (1, -1, 0)], "a ring of four along edges"),
        ([(0, 0, 0), (1, 1, 0), (0, 1, 1), (1, 0, 1)], "four of eight, edges and corners"),
    ],
    ids=lambda value: value if isinstance(value, str) else "",
)
def test_what_only_touches_is_drawn_apart(
    places: list[tuple[float, float, float]], what: str
) -> None:
    mesh = _cubes(*places)
    assert not measure(mesh).manifold, what
    found = part_touching(mesh, 5, 2e-4)
    report = measure(merge(found))  # as a reader joins them again
    assert report.manifold
    assert report.volume_mm3 == pytest.approx(len(places), abs=1e-3)
    low, high = found.vertices.min(axis=0), found.vertices.max(axis=0)
    assert (low >= mesh.vertices.min(axis=0)).all()  # into the solid, not out of it
    assert (high <= mesh.vertices.max(axis=0)).all()


def test_what_is_whole_stays_as_it_is() -> None:
    mesh = _cubes((0, 0, 0), (3, 0, 0))
    found = part_touching(mesh, 5, 2e-4)
    assert np.array_equal(found.vertices, mesh.vertices)
    assert np.array_equal(found.faces, mesh.faces)
