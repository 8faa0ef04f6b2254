"""A mesh calmed without shrinking."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue
from nebrel.core.mesh.faults import Edges

_INWARDS, _OUTWARDS = 0.5, -0.53
_MOST_ROUNDS = 1000
_TRIES = 4


def smooth(mesh: Mesh, rounds: int, weight: NDArray[np.floating] | None = None) -> Mesh:
    """The same, each vertex drawn to the middle of its neighbours and a little more back.

    Parameters
    ----------
    rounds : how often
    weight : (V,) how much each vertex may move, 0 to 1; 1 everywhere when left out

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
    return replace(mesh, vertices=places.astype(np.float32))


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
        outward = np.zeros_like(now)
        for corner in range(3):
            np.add.at(outward, faces[:, corner], normals)
        outward /= np.maximum(np.linalg.norm(outward, axis=1, keepdims=True), 1e-300)
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
