"""How far two meshes are apart."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Mesh
from nebrel.core.mesh.nearest import Nearby
from nebrel.core.mesh.nearest_kernels import bound_all, bound_over

_MOST_HALVINGS = 14
_CLOSE = 0.05  # of the largest distance, by which it may be said too large
_CLOSE_MM = 1e-6
_MOST_AT_ONCE = 2_000_000
_SAMPLES = 300_000
_STEPS = (0.7548776662466927, 0.5698402909980532)  # of places in a triangle


@dataclass(frozen=True)
class OneWay:
    """From one mesh to another. `max_mm` is a bound: nothing of the one is further away."""

    max_mm: float
    rms_mm: float


@dataclass(frozen=True)
class Deviation:
    """Both ways, and the larger of each."""

    max_mm: float
    rms_mm: float
    a_to_b: OneWay
    b_to_a: OneWay

    def as_dict(self) -> dict[str, Any]:
        """Plain values in the order above."""
        return asdict(self)


def deviation(a: Mesh, b: Mesh) -> Deviation:
    """How far two meshes are apart, mm.

    The largest is the Hausdorff distance or a little more: triangles are laid over each other,
    and those that may still be further away than any place found are halved. It would be less
    only where folds of the other lie over one place twice and over another beside it not at all.
    RMS is over the surface.

    Source: Aspert et al., MESH (2002), for the measure; the bound by convexity is our own.
    """
    near_a, near_b = Nearby.of(a), Nearby.of(b)
    there, back = one_way(a, near_b), one_way(b, near_a)
    return Deviation(max(there.max_mm, back.max_mm), max(there.rms_mm, back.rms_mm), there, back)


def distances(mesh: Mesh, other: Nearby) -> Floats:
    """How far each vertex is from another mesh, mm."""
    return other.nearest(mesh.vertices)[0].astype(np.float32)


def one_way(mesh: Mesh, other: Nearby) -> OneWay:
    """How far a mesh is from another."""
    at_vertices, face, _ = other.nearest(mesh.vertices)
    corners = mesh.vertices[mesh.faces].astype(np.float64)
    away, near = at_vertices[mesh.faces], face[mesh.faces]
    square, largest = _sampled(corners, other)
    least = max(float(away.max(initial=0.0)), largest)
    most = least
    for step in range(_MOST_HALVINGS + 1):
        bound = bound_all(other.corners, corners, near)
        enough = max(least * (1 + _CLOSE), least + _CLOSE_MM)
        open_ = bound > enough
        if open_.any():
            some, bound_some = corners[open_], bound[open_]
            reach = 2 * away[open_].max(axis=1) + _CLOSE_MM + least
            bound_over(other.corners, other.boxes, some, reach, bound_some)
            bound[open_] = bound_some
            open_ = bound > enough
        most = max(most, float(bound[~open_].max(initial=0.0)))
        if not open_.any():
            break
        if step == _MOST_HALVINGS or open_.sum() * 4 > _MOST_AT_ONCE:
            most = max(most, float(bound[open_].max()))
            break
        corners, near, away = _in_four(corners[open_], near[open_], away[open_], other)
        least = max(least, float(away.max()))
    return OneWay(max(most, least), square**0.5)


def _in_four(
    corners: NDArray[np.float64],
    near: NDArray[np.int64],
    away: NDArray[np.float64],
    other: Nearby,
) -> tuple[NDArray[np.float64], NDArray[np.int64], NDArray[np.float64]]:
    """Each triangle cut at the middles of its edges."""
    middles = (corners + corners[:, [1, 2, 0]]) / 2
    found = other.nearest(middles.reshape(-1, 3))
    d, f = found[0].reshape(-1, 3), found[1].reshape(-1, 3)

    def parts(own: Any, between: Any) -> Any:
        a, b, c = (own[:, k] for k in range(3))
        ab, bc, ca = (between[:, k] for k in range(3))
        rows = [(a, ab, ca), (ab, b, bc), (ca, bc, c), (ab, bc, ca)]
        return np.concatenate([np.stack(row, axis=1) for row in rows])

    return parts(corners, middles), parts(near, f), parts(away, d)


def _sampled(corners: NDArray[np.float64], other: Nearby) -> tuple[float, float]:
    """The mean of the squared distances over the surface, and the largest, from many places.

    Source: Roberts, The Unreasonable Effectiveness of Quasirandom Sequences (2018).
    """
    area = np.linalg.norm(
        np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1
    )
    whole = float(area.sum())
    if whole <= 0:
        away = other.nearest(corners[:, 0])[0]
        return float((away**2).mean()), float(away.max())
    # One after the other along the surface, as if all triangles lay in a row.
    number = np.arange(_SAMPLES)
    along = (number + 0.5) / _SAMPLES * whole
    face = np.minimum(np.searchsorted(np.cumsum(area), along), len(area) - 1)
    u, v = ((0.5 + (number + 1) * step) % 1 for step in _STEPS)
    over = u + v > 1
    u, v = np.where(over, 1 - u, u), np.where(over, 1 - v, v)
    a, b, c = (corners[face, k] for k in range(3))
    away = other.nearest(a + u[:, None] * (b - a) + v[:, None] * (c - a))[0]
    return float((away**2).mean()), float(away.max())
