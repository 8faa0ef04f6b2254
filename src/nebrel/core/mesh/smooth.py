"""A mesh calmed without shrinking."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue
from nebrel.core.mesh.faults import Edges
from nebrel.core.mesh.nearest import Nearby
from nebrel.core.mesh.normals import outward_of

_INWARDS, _OUTWARDS = 0.5, -0.53
_MOST_ROUNDS = 1000
_TRIES = 4
_MOST_PLACES = 5_000  # of a stroke


def smooth(
    mesh: Mesh,
    rounds: int,
    weight: NDArray[np.floating] | None = None,
    most_mm: NDArray[np.floating] | None = None,
) -> Mesh:
    """The same, each vertex drawn to the middle of its neighbours and a little more back.

    Parameters
    ----------
    rounds : how often
    weight : (V,) how much each vertex may move, 0 to 1; 1 everywhere when left out
    most_mm : (V,) how far each vertex may move; any distance when left out

    Borders stay where they are, and a closed mesh encloses as much as before.

    Raises
    ------
    InvalidValue : rounds out of range

    Source: Taubin, A Signal Processing Approach to Fair Surface Design (1995).
    """
    if not 0 <= rounds <= _MOST_ROUNDS:
        raise InvalidValue("rounds", f"{rounds} is not possible", f"Use 0 to {_MOST_ROUNDS}")
    edges = Edges.of_faces(mesh.faces.astype(np.int64))
    one, other = edges.ends.T
    count = len(mesh.vertices)
    degree = np.maximum(np.bincount(one, minlength=count) + np.bincount(other, minlength=count), 1)
    free = np.ones(count) if weight is None else np.asarray(weight, np.float64)
    free[np.unique(edges.ends[edges.uses == 1])] = 0
    places = mesh.vertices.astype(np.float64)
    for _ in range(rounds):
        for share in (_INWARDS, _OUTWARDS):
            middle = np.empty_like(places)
            for axis in range(3):
                values = places[:, axis]
                middle[:, axis] = np.bincount(one, values[other], count)
                middle[:, axis] += np.bincount(other, values[one], count)
            places += (share * free)[:, None] * (middle / degree[:, None] - places)
    if rounds and (edges.uses == 2).all():
        places = _as_large(mesh.vertices.astype(np.float64), places, mesh.faces, free)
    if most_mm is not None:
        moved = places - mesh.vertices
        far = np.maximum(np.linalg.norm(moved, axis=1), 1e-300)
        places = mesh.vertices + moved * np.minimum(1, most_mm / far)[:, None]
    return replace(mesh, vertices=places.astype(np.float32))


@dataclass(frozen=True)
class Stroke:
    """One stroke of a brush over the surface.

    Attributes
    ----------
    places : (n, 3) mm, in the order in which they were passed
    wide_mm : of the brush
    strength_mm : how far it moves the surface at most
    """

    places: NDArray[np.floating]
    wide_mm: float
    strength_mm: float


def smooth_under(mesh: Mesh, rounds: int, strokes: Sequence[Stroke]) -> Mesh:
    """The same calmed under the strokes of a brush, softly towards its edge.

    What looks away from where the brush passed, as the other side of a thin wall does, stays.

    Raises
    ------
    InvalidValue : as `smooth`
    """
    return smooth(mesh, rounds, *passed(mesh, strokes))


def passed(
    mesh: Mesh, strokes: Sequence[Stroke]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """How much of strokes each vertex got, 0 to 1 (V,), and how far they move it at most, mm (V,).

    What looks away from where the brush passed got none.
    """
    from scipy.spatial import cKDTree

    weight = np.zeros(len(mesh.vertices))
    most = np.zeros(len(mesh.vertices))
    near = Nearby.of(mesh) if strokes else None
    normals = outward_of(mesh.vertices.astype(np.float64), mesh.faces)
    for stroke in strokes:
        assert near is not None
        places = _along(np.asarray(stroke.places, np.float64), stroke.wide_mm / 8)
        _, face, on = near.nearest(places)
        corners = near.corners[face]
        facing = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        radius = stroke.wide_mm / 2
        low, high = on.min(axis=0) - radius, on.max(axis=0) + radius
        some = np.flatnonzero(((mesh.vertices >= low) & (mesh.vertices <= high)).all(axis=1))
        if not len(some):
            continue
        found = cKDTree(on).query(mesh.vertices[some], distance_upper_bound=radius)
        away, which = np.asarray(found[0]), np.asarray(found[1])
        hit = np.isfinite(away)
        some, away, which = some[hit], away[hit], which[hit]
        towards = np.einsum("ij,ij->i", normals[some], facing[which]) > 0
        some, away = some[towards], away[towards]
        share = (1 - (away / radius) ** 2) ** 2
        weight[some] = np.maximum(weight[some], share)
        most[some] = np.maximum(most[some], share * stroke.strength_mm)
    return weight, most


def _along(places: NDArray[np.float64], step_mm: float) -> NDArray[np.float64]:
    """Places along a run, no further apart than that, but for a very long one."""
    found = [places[:1]]
    whole = float(np.linalg.norm(np.diff(places, axis=0), axis=1).sum())
    step_mm = max(step_mm, whole / _MOST_PLACES)
    for a, b in pairwise(places):
        count = int(np.ceil(np.linalg.norm(b - a) / step_mm))
        found.append(a + (b - a) * (np.arange(1, count + 1) / max(count, 1))[:, None])
    return np.concatenate(found)


def _as_large(
    was: NDArray[np.float64],
    now: NDArray[np.float64],
    faces: NDArray[np.int32],
    free: NDArray[np.floating],
) -> NDArray[np.float64]:
    """Vertices moved out or in, so that as much is enclosed as was."""
    wanted = _volume(was, faces)
    for _ in range(_TRIES):
        corners = now[faces]
        normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        outward = outward_of(now, faces)
        share = free[faces].mean(axis=1)
        room = float((np.linalg.norm(normals, axis=1) / 2 * share).sum())
        if room <= 0:
            break
        step = (wanted - _volume(now, faces)) / room
        now = now + (step * free)[:, None] * outward
    return now


def _volume(places: NDArray[np.float64], faces: NDArray[np.int32]) -> float:
    a, b, c = (places[faces[:, k]] - places.mean(axis=0) for k in range(3))
    return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum()) / 6
