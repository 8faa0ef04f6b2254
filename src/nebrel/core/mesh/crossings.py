"""Where faces of a mesh pass through others, and what it holds although they do."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh
from nebrel.core.mesh.crossing_kernels import crossing_faces, winding_counts
from nebrel.core.mesh.nearest import Nearby

_HAIR = 1e-6  # of the extent: what touches by no more does not cross
_PLACES, _MOST_PLACES, _ENOUGH = 20_000, 2_000_000, 1000
# Source: the generalised golden ratio of three dimensions, 1 / p, 1 / p², 1 / p³ with p⁴ = p + 1:
# places by it lie evenly however many are taken (Roberts, 2018).
_STEPS = 1 / 1.2207440846057596 ** np.arange(1, 4)
_WAY = np.array([0.5773, 0.7071, 0.4082]) / np.linalg.norm([0.5773, 0.7071, 0.4082])


def crossings(
    corners: NDArray[np.float64],
    faces: NDArray[np.int64],
    extent: float,
    near: Nearby | None = None,
) -> NDArray[np.int32]:
    """How many others pass through each face, (F,).

    Parameters
    ----------
    corners, faces : (F, 3, 3) in mm, and (F, 3) the vertices: neighbours by one do not cross
    extent : of the whole, in mm
    near : the same corners, where they are sorted already
    """
    found = np.zeros(len(faces), np.int32)
    if len(faces):
        near = near or Nearby.of_corners(corners)
        found[near.order] = crossing_faces(
            near.corners, faces[near.order], near.boxes, _HAIR * extent
        )
    return found


def extent_of(vertices: NDArray[np.floating[Any]]) -> float:
    """The longest side of the box around vertices (V, 3)."""
    return float(np.ptp(vertices, axis=0).max())


def held_mm3(mesh: Mesh) -> float:
    """The volume of all that a closed mesh goes around, once, whichever way and how often it does.

    Counted at places of its box, until enough lie within: to a few hundredths.
    """
    near = Nearby.of(mesh)
    low, high = mesh.vertices.min(axis=0), mesh.vertices.max(axis=0)
    size = (high - low).astype(np.float64)
    ways = np.tile(_WAY, (_PLACES, 1))
    within = asked = 0
    while within < _ENOUGH and asked < _MOST_PLACES:
        number = np.arange(asked + 1, asked + _PLACES + 1)[:, None]
        starts = np.ascontiguousarray(low + (0.5 + number * _STEPS) % 1 * size)
        within += int((winding_counts(near.corners, near.boxes, starts, ways) != 0).sum())
        asked += _PLACES
    return within / asked * float(size.prod())
