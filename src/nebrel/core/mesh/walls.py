"""How thick the walls of a mesh are, everywhere."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh
from nebrel.core.mesh.crossing_kernels import first_hits
from nebrel.core.mesh.nearest import Nearby
from nebrel.core.mesh.shade import vertex_normals

_HAIR = 1e-5  # of the extent


def wall_at_vertices(mesh: Mesh) -> NDArray[np.float64]:
    """(V,) mm straight inwards from each vertex to the other side; inf where there is none.

    Straight is against the mean of the normals of its faces, weighted by their area.
    """
    out = vertex_normals(mesh.vertices, mesh.faces)
    near = Nearby.of(mesh)
    hair = _HAIR * float(np.ptp(mesh.vertices, axis=0).max())
    starts = mesh.vertices.astype(np.float64) - out * hair
    away, face = first_hits(
        near.corners, near.boxes, starts, np.ascontiguousarray(-out), hair, np.inf
    )
    t = near.corners[np.maximum(face, 0)]
    normal = np.cross(t[:, 1] - t[:, 0], t[:, 2] - t[:, 0])
    # Only what looks away is the other side; a neighbour round a corner is not.
    opposite = np.einsum("ij,ij->i", normal, out) < 0
    found: NDArray[np.float64] = np.where((face >= 0) & opposite, away + hair, np.inf)
    return found
