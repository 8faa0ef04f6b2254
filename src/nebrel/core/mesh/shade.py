"""Normals for showing a mesh: smooth over the surface, sharp at its creases."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Mesh
from nebrel.core.mesh.fans import find_twins, number_fans
from nebrel.core.mesh.many import many


def split_creases(mesh: Mesh, crease_degrees: float = 30.0) -> tuple[Mesh, Floats]:
    """A copy whose vertices are doubled along creases, with a normal for each.

    Parameters
    ----------
    mesh : closed or open
    crease_degrees : faces that turn more than this at an edge do not share a normal

    Returns
    -------
    Mesh with the same triangles in the same order, and (V, 3) float32 unit normals
    """
    faces = mesh.faces
    corners = mesh.vertices[faces]
    ab, ac = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    weighted = np.cross(ab, ac)
    length = np.linalg.norm(weighted, axis=1, keepdims=True)
    unit = weighted / np.maximum(length, 1e-20)

    twin, _, _ = find_twins(faces)
    edges = np.flatnonzero(twin >= 0)
    turn = np.einsum("ij,ij->i", unit[edges // 3], unit[twin[edges] // 3])
    twin[edges[turn <= np.cos(np.radians(crease_degrees))]] = -1
    parts, label = number_fans(twin)
    normals = fan_normals(corners, unit, length[:, 0], label, parts)
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-20)
    vertices = np.empty((parts, 3), np.float32)
    vertices[label] = mesh.vertices[faces.ravel()]
    colours = None
    if mesh.colours is not None:
        colours = np.empty((parts, 4), np.uint8)
        colours[label] = mesh.colours[faces.ravel()]
    return (
        Mesh(vertices, label.reshape(-1, 3).astype(np.int32), mesh.name, colours),
        normals.astype(np.float32),
    )


def fan_normals(
    corners: Floats, unit: Floats, double: Floats, label: NDArray[Any], count: int
) -> NDArray[np.float64]:
    """The normals (count, 3) of fans of faces, not yet of length 1.

    Parameters
    ----------
    corners, unit, double : (F, 3, 3) mm, (F, 3) outwards, (F,) twice the area
    label : (3F,) the fan of each corner
    """
    # Weighed by area too: beside a steep step the broad flat triangle keeps its own normal,
    # so that it does not shade as if it bent.
    if many(len(corners)):
        from nebrel.core.mesh import compiled

        found: NDArray[np.float64] = compiled.fan_normals(corners, unit, double, label, count)
        return found
    weight = _corner_angles(corners) * np.repeat(double, 3)
    normals = np.empty((count, 3), np.float64)
    share = np.repeat(unit, 3, axis=0) * weight[:, None]
    for axis in range(3):
        normals[:, axis] = np.bincount(label, share[:, axis], count)
    return normals


def vertex_normals(places: NDArray[Any], faces: NDArray[Any]) -> NDArray[np.float64]:
    """(V, 3) the mean way that the faces around each vertex look, weighted by their area."""
    corners = places[faces].astype(np.float64)
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    found = np.zeros((len(places), 3))
    for k in range(3):
        for axis in range(3):
            found[:, axis] += np.bincount(faces[:, k], across[:, axis], len(found))
    found /= np.maximum(np.linalg.norm(found, axis=1, keepdims=True), 1e-300)
    return found


def _corner_angles(corners: Floats) -> Floats:
    """(3F,) angle at each corner, radians."""
    angles = np.empty(corners.shape[:2], np.float32)
    for i in range(3):
        one = corners[:, (i + 1) % 3] - corners[:, i]
        two = corners[:, (i + 2) % 3] - corners[:, i]
        across = np.linalg.norm(np.cross(one, two), axis=1)
        angles[:, i] = np.arctan2(across, np.einsum("ij,ij->i", one, two))
    return angles.ravel()
