"""A surface pushed out or pressed in under a brush."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Mesh
from nebrel.core.errors import InvalidValue
from nebrel.core.mesh.faults import Edges
from nebrel.core.mesh.normals import outward_of
from nebrel.core.mesh.refine import refine
from nebrel.core.mesh.smooth import Stroke, passed

_CALMED = 4  # times that the ways are evened, so that a rough surface moves as one
_FINE = 6.0  # edges across a brush, at least
_MOST_TRIANGLES = 4_000_000


def pushed(mesh: Mesh, strokes: Sequence[Stroke], out: bool) -> Mesh:
    """The same, moved along its normals under each stroke, softly towards its edge.

    Parameters
    ----------
    out : outwards; else it is pressed in

    Where its triangles are too large for the brush they are divided first. What looks away from
    where the brush passed, as the other side of a thin wall does, stays.

    Raises
    ------
    InvalidValue : the brush is too small for so large a mesh
    """
    for stroke in strokes:
        mesh = _moved(_fine_enough(mesh, stroke), stroke, 1.0 if out else -1.0)
    return mesh


def _fine_enough(mesh: Mesh, stroke: Stroke) -> Mesh:
    """With edges that are short beside a brush, where it passes."""
    from scipy.spatial import cKDTree

    longest = stroke.wide_mm / _FINE
    passes = cKDTree(np.asarray(stroke.places, np.float64))
    reach = float(np.ptp(stroke.places, axis=0).max()) + stroke.wide_mm

    def too_long(vertices: Floats, faces: NDArray[np.int32]) -> NDArray[np.bool_]:
        corners = vertices[faces].astype(np.float64)
        edges = np.linalg.norm(corners - np.roll(corners, 1, axis=1), axis=2).max(axis=1)
        found: NDArray[np.bool_] = edges > longest
        some = np.flatnonzero(found)
        middle = corners[some].mean(axis=1)
        # A triangle is reached where a part of it may be: its middle is no further than that.
        away, _ = passes.query(middle, distance_upper_bound=reach + float(edges.max(initial=0)))
        found[some] = np.asarray(away) <= stroke.wide_mm * 0.6 + edges[some] * 0.7
        return found

    found, all_of_it = refine(mesh, too_long, _MOST_TRIANGLES)
    if not all_of_it:
        raise InvalidValue(
            "brush",
            f"{stroke.wide_mm:g} mm is too small for its triangles",
            "Use a wider brush, or make even triangles first",
        )
    return found


def _moved(mesh: Mesh, stroke: Stroke, sign: float) -> Mesh:
    _, most = passed(mesh, [stroke])
    ways = outward_of(mesh.vertices.astype(np.float64), mesh.faces)
    one, other = Edges.of_faces(mesh.faces.astype(np.int64)).ends.T
    count = len(mesh.vertices)
    for _ in range(_CALMED):
        for axis in range(3):
            values = ways[:, axis]
            sums = np.bincount(one, values[other], count) + np.bincount(other, values[one], count)
            ways[:, axis] = values + sums
        ways /= np.maximum(np.linalg.norm(ways, axis=1, keepdims=True), 1e-12)
    moved = mesh.vertices + (sign * most)[:, None] * ways
    return replace(mesh, vertices=moved.astype(np.float32))
