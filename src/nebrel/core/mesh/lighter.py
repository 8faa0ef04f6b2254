"""A lighter mesh to look at, made quickly."""

from __future__ import annotations

import numpy as np

from nebrel.core.data import Mesh
from nebrel.core.mesh.faults import same_corner
from nebrel.core.mesh.measure import merge
from nebrel.core.mesh.rows import unique_rows
from nebrel.core.mesh.tint import with_colours_of

_FAR = 8  # times as many triangles as wanted: vertices are gathered first
_SPARE = 4  # times as many as wanted are left for the collapse
_AGAIN = 1.3


def lighter(mesh: Mesh, most: int) -> Mesh:
    """Nearly the same with about so many triangles; itself where it has no more.

    It is made to be seen, soon: what is closed may be open afterwards.
    """
    if len(mesh.faces) <= most:
        return mesh
    found = gathered(mesh, most * _SPARE) if len(mesh.faces) > most * _FAR else mesh
    if len(found.faces) <= most:
        return found
    import fast_simplification

    places, faces = fast_simplification.simplify(
        found.vertices, found.faces, target_count=most, agg=7
    )
    if not len(faces):
        return found
    lean = Mesh(places.astype(np.float32), faces.astype(np.int32), mesh.name)
    return with_colours_of(lean, found)


def gathered(mesh: Mesh, most: int) -> Mesh:
    """Vertices in one cell of a grid made one, so that about so many triangles are left.

    Source: Rossignac and Borrel, Multi-resolution 3D Approximations for Rendering (1993).
    """
    corners = mesh.vertices[mesh.faces]
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    area = float(np.linalg.norm(across, axis=1).sum(dtype=np.float64)) / 2
    low = mesh.vertices.min(axis=0)
    cell = max(float(np.sqrt(2 * area / most)), float(np.ptp(mesh.vertices, axis=0).max()) * 1e-5)
    found = mesh
    while len(found.faces) > most:
        found = _gathered(mesh, low, cell)
        cell *= _AGAIN
    return found


def _gathered(mesh: Mesh, low: np.ndarray, cell: float) -> Mesh:
    places = np.floor((mesh.vertices - low) / cell).astype(np.int64)
    wide = places.max(axis=0) + 1
    number = (places[:, 0] * wide[1] + places[:, 1]) * wide[2] + places[:, 2]
    _, first, of = np.unique(number, return_index=True, return_inverse=True)
    of = of.reshape(-1)
    count = np.bincount(of)
    middle = np.stack(
        [np.bincount(of, mesh.vertices[:, k].astype(np.float64)) / count for k in range(3)], axis=1
    )
    faces = of[mesh.faces]
    faces = faces[~same_corner(faces)]
    once, _ = unique_rows(np.sort(faces, axis=1))
    colours = None if mesh.colours is None else mesh.colours[first]
    left = faces[np.sort(once)].astype(np.int32)
    return merge(Mesh(middle.astype(np.float32), left, mesh.name, colours))
