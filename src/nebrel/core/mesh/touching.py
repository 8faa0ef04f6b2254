"""Where a solid touches itself along an edge or at a point, which a file could not tell apart."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Mesh
from nebrel.core.mesh.fans import find_twins, number_fans

Floats64 = NDArray[np.floating[Any]]
Ints = NDArray[np.int64]


def on_grid(vertices: Floats, decimals: int) -> Floats:
    """Vertices on a grid of 10 or 100 nm: readers of a file join what lies closer together."""
    rounded: Floats = np.round(vertices.astype(np.float64), decimals).astype(np.float32)
    return rounded + np.float32(0)


def part_touching(mesh: Mesh, decimals: int, hair_mm: float) -> Mesh:
    """The same mesh with what only touches drawn apart by a hair, each into its own solid.

    Parameters
    ----------
    mesh : no two vertices at one place
    decimals : of a millimetre, that vertices are rounded to
    """
    found = _part_fans(mesh, decimals, hair_mm)
    return _part_fans(_part_edges(found, decimals, hair_mm), decimals, hair_mm)


def _part_fans(mesh: Mesh, decimals: int, hair_mm: float) -> Mesh:
    """Vertices where several runs of faces meet become one for each run.

    Of the four faces of an edge those belong together that have solid between them.
    """
    twin = _twins(mesh, hair_mm)
    count, fan = number_fans(twin)
    corners = mesh.faces.ravel().astype(np.int64)
    owner = np.zeros(count, np.int64)
    owner[fan] = corners
    if count == len(np.unique(owner)):
        return mesh
    vertices = mesh.vertices.astype(np.float64)
    a, b, c = (vertices[mesh.faces[:, k]] for k in range(3))
    normals = np.cross(b - a, c - a)
    outward, size = np.zeros((count, 3)), np.zeros(count)
    np.add.at(outward, fan, np.repeat(normals, 3, axis=0))
    np.add.at(size, fan, np.repeat(np.linalg.norm(normals, axis=1), 3))
    # The largest run at a vertex stays.
    order = np.lexsort([-size, owner])
    later = np.zeros(count, bool)
    later[order[1:]] = owner[order[1:]] == owner[order[:-1]]
    number = owner.copy()
    number[later] = len(vertices) + np.arange(int(later.sum()))
    length = np.maximum(np.linalg.norm(outward, axis=1, keepdims=True), 1e-30)
    moved = (vertices[owner] - outward / length * hair_mm)[later]
    places = on_grid(np.concatenate([vertices, moved]), decimals)
    return Mesh(places, number[fan].reshape(-1, 3).astype(np.int32))


def _fours(faces: Ints) -> tuple[Ints, list[Ints]]:
    """Both ends of each half of an edge, (3F, 2), and the halves of each edge of four faces."""
    ends = np.stack([faces, np.roll(faces, -1, axis=1)], axis=2).reshape(-1, 2)
    key = ends.min(axis=1) * (int(faces.max(initial=0)) + 1) + ends.max(axis=1)
    order = np.argsort(key, kind="stable")
    _, start, count = np.unique(key[order], return_index=True, return_counts=True)
    return ends, [order[first : first + 4] for first in start[count == 4]]


def _twins(mesh: Mesh, hair_mm: float) -> Ints:
    """The opposite of every half of an edge, those of four faces paired by what lies between."""
    twin = np.asarray(find_twins(mesh.faces)[0], np.int64).copy()
    faces = mesh.faces.astype(np.int64)
    vertices = mesh.vertices.astype(np.float64)
    ends, fours = _fours(faces)
    for four in fours:
        pair = _around(vertices, faces, ends, four, hair_mm)
        if pair is None:
            continue
        one, two = pair[0]
        rest = [int(half) for half in four if half not in (one, two)]
        twin[one], twin[two] = two, one
        twin[rest[0]], twin[rest[1]] = rest[1], rest[0]
    return twin


def _part_edges(mesh: Mesh, decimals: int, hair_mm: float) -> Mesh:
    """A mesh whose edges of four faces are parted: one of the two edges that meet there bends.

    The middle of that edge goes into its own solid by a hair. Edges of any other number of faces
    are left as they are, and so are both edges of a face that would have to be parted twice.
    """
    faces = mesh.faces.astype(np.int64)
    ends, fours = _fours(faces)
    vertices = mesh.vertices.astype(np.float64)
    middles: list[Floats64] = []
    parted: dict[int, list[int]] = {}
    for four in fours:
        pair = _around(vertices, faces, ends, four, hair_mm)
        if pair is None or any(half // 3 in parted for half in pair[0]):
            continue
        number = len(vertices) + len(middles)
        middles.append(pair[1])
        for half in pair[0]:
            face, corner = divmod(int(half), 3)
            a, b, c = (int(faces[face, (corner + k) % 3]) for k in range(3))
            parted[face] = [a, number, c, number, b, c]
    if not middles:
        return mesh
    whole = np.ones(len(faces), bool)
    whole[list(parted)] = False
    halves = np.array(list(parted.values()), np.int64).reshape(-1, 3)
    places = on_grid(np.concatenate([vertices, middles]), decimals)
    return Mesh(places, np.concatenate([faces[whole], halves]).astype(np.int32))


def _around(
    vertices: Floats64, faces: Ints, ends: Ints, four: Ints, hair_mm: float
) -> tuple[tuple[int, int], Floats64] | None:
    """Of four faces around an edge the two with solid between them that stand widest apart.

    Returns
    -------
    Their halves of the edge, and the middle of it, a hair into that solid; None where the faces
    do not run both ways alike.
    """
    a, b = vertices[ends[four[0]]]
    along = (b - a) / max(float(np.linalg.norm(b - a)), 1e-30)
    forth = ends[four, 0] == ends[four[0], 0]
    if forth.sum() != 2:
        return None
    off = vertices[faces[four // 3, (four % 3 + 2) % 3]] - a
    off -= (off @ along)[:, None] * along
    side = off[0] / max(float(np.linalg.norm(off[0])), 1e-30)
    up = np.cross(along, side)
    angle = np.arctan2(off @ up, off @ side)
    # The solid lies from each face that runs back to the next one that runs forth, turning left.
    turn = (angle[forth][None] - angle[~forth][:, None]) % (2 * np.pi)
    straight = turn[0, 0] + turn[1, 1] <= turn[0, 1] + turn[1, 0]
    chosen = [(0, 0), (1, 1)] if straight else [(0, 1), (1, 0)]
    back, on = max(chosen, key=lambda pair: turn[pair])
    half = angle[~forth][back] + turn[back, on] / 2
    into = np.cos(half) * side + np.sin(half) * up
    found: Floats64 = (a + b) / 2 + hair_mm * into
    return (int(four[~forth][back]), int(four[forth][on])), found
