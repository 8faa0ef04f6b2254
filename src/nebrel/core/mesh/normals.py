"""Normals of vertices."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray


def outward_of(
    vertices: NDArray[np.floating[Any]], faces: NDArray[np.integer[Any]]
) -> NDArray[np.float64]:
    """Unit normals of vertices (V, 3), by the area of the faces (F, 3) around each."""
    corners = np.asarray(vertices, np.float64)[faces]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    found = np.zeros((len(vertices), 3))
    for corner in range(3):
        for axis in range(3):
            found[:, axis] += np.bincount(faces[:, corner], normals[:, axis], len(vertices))
    found /= np.maximum(np.linalg.norm(found, axis=1, keepdims=True), 1e-300)
    return found
