"""A mesh cut by a plane and left open, where it could not be closed."""

from __future__ import annotations

import numpy as np

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue
from nebrel.core.mesh.combine import Axis, Side


def cut_open(mesh: Mesh, axis: Axis, at_mm: float, keep: Side) -> Mesh:
    """What of any mesh, closed or not, lies on one side of a plane; without a face in the cut.

    Raises
    ------
    InvalidValue : nothing is left
    """
    from trimesh.intersections import slice_faces_plane

    normal, origin = np.zeros(3), np.zeros(3)
    number = "xyz".index(axis)
    normal[number], origin[number] = (1.0 if keep == "above" else -1.0), at_mm
    places, faces, _ = slice_faces_plane(
        mesh.vertices.astype(np.float64), mesh.faces, normal, origin
    )
    if not len(faces):
        raise InvalidValue("plane", "nothing is left of it", "Keep the other side, or move it")
    return Mesh(places.astype(np.float32), faces.astype(np.int32), mesh.name)
