"""Triangles of even size."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue, NotSolid
from nebrel.core.mesh.bendable import parts
from nebrel.core.mesh.even_kernels import collapse, flip, flip_thin
from nebrel.core.mesh.fans import find_twins
from nebrel.core.mesh.faults import Edges, same_corner
from nebrel.core.mesh.measure import measure, merge
from nebrel.core.mesh.nearest import Nearby
from nebrel.core.mesh.tint import with_colours_of

_ROUNDS = 6
_FLIPS = 12
_LONG, _SHORT = 4 / 3, 4 / 5
_SHARP_DEG = 35.0
_MOST_TRIANGLES = 8_000_000

Ints = NDArray[np.int64]
Places = NDArray[np.float64]


def even(mesh: Mesh, edge_mm: float) -> Mesh:
    """The same surface in triangles whose edges are about so long; sharp edges and borders stay.

    Raises
    ------
    InvalidValue : the length is not above 0, or makes more than 8 million triangles
    NotSolid : a closed mesh would not be closed any more

    Source: Botsch and Kobbelt, A Remeshing Approach to Multiresolution Modeling (2004).
    """
    before = measure(mesh)
    if not edge_mm > 0:
        raise InvalidValue("edge", f"{edge_mm:g} mm is not above 0", "Use a longer one")
    expected = before.area_mm2 / (edge_mm**2 * 3**0.5 / 4)
    if expected > _MOST_TRIANGLES:
        least = (before.area_mm2 / _MOST_TRIANGLES / (3**0.5 / 4)) ** 0.5
        raise InvalidValue(
            "edge",
            f"{edge_mm:g} mm makes {expected / 1e6:.3g} million triangles",
            f"Use {least * 1.02:.2g} mm or more",
        )
    like, lines = Nearby.of(mesh), _sharp_lines(mesh)
    vertices, faces = mesh.vertices.astype(np.float64), mesh.faces.astype(np.int64)
    line = _named(faces, lines)
    for _ in range(_ROUNDS):
        vertices, faces, line = _split(vertices, faces, line, _LONG * edge_mm)
        vertices, faces, line = _calmed(
            vertices, faces, line, edge_mm, like, None if lines is None else lines[1]
        )
    found = merge(Mesh(vertices.astype(np.float32), faces.astype(np.int32), mesh.name))
    found = merge(replace(found, faces=found.faces[~same_corner(found.faces.astype(np.int64))]))
    if before.manifold and not measure(found).manifold:
        raise NotSolid(mesh.name, "it is not closed any more", "Use another edge length")
    return with_colours_of(found, mesh)


def _sharp_lines(mesh: Mesh) -> tuple[set[tuple[int, int]], Nearby] | None:
    """Edges where the surface turns sharply or ends, and what is nearest on them."""
    ends = sharp_edges(mesh)
    if not len(ends):
        return None
    places = mesh.vertices.astype(np.float64)[ends]
    segments = np.stack([places[:, 0], places[:, 1], places[:, 1]], axis=1)
    return {(int(a), int(b)) for a, b in ends}, Nearby.of_corners(segments)


def sharp_edges(mesh: Mesh) -> Ints:
    """The two vertices of each edge where the surface turns sharply or ends, (E, 2)."""
    faces = mesh.faces.astype(np.int64)
    edges = Edges.of_faces(faces)
    corners = mesh.vertices.astype(np.float64)[faces]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-300)
    order = np.argsort(edges.edge, kind="stable")
    first = np.cumsum(edges.uses) - edges.uses
    sharp = edges.uses != 2
    two = np.flatnonzero(edges.uses == 2)
    f, g = order[first[two]] // 3, order[first[two] + 1] // 3
    turn = np.einsum("ij,ij->i", normals[f], normals[g])
    sharp[two] = turn < np.cos(np.radians(_SHARP_DEG))
    return edges.ends[sharp]


def _named(faces: Ints, lines: tuple[set[tuple[int, int]], Nearby] | None) -> NDArray[np.bool_]:
    """(F, 3) whether each edge is one of those."""
    if lines is None:
        return np.zeros(faces.shape, bool)
    width = int(faces.max()) + 1
    known = np.array([a * width + b for a, b in lines[0]], np.int64)
    end = np.roll(faces, -1, axis=1)
    found: NDArray[np.bool_] = np.isin(
        np.minimum(faces, end) * width + np.maximum(faces, end), known
    )
    return found


def _split(
    vertices: Places, faces: Ints, line: NDArray[np.bool_], most: float
) -> tuple[Places, Ints, NDArray[np.bool_]]:
    """Edges that are too long halved, until none is."""
    scale = np.ones(3)
    width = 1 << 31
    for _ in range(24):
        end = np.roll(faces, -1, axis=1)
        long = np.linalg.norm(vertices[faces] - vertices[end], axis=2) > most
        if not long.any():
            break
        keys = np.minimum(faces, end) * width + np.maximum(faces, end)
        chosen, which = np.unique(keys[long], return_inverse=True)
        middle = np.full(faces.shape, -1, np.int64)
        middle[long] = len(vertices) + which.reshape(-1)
        low, high = chosen // width, chosen % width
        sharp = np.unique(keys[line])
        split = np.isin(chosen, sharp)
        numbers = len(vertices) + np.arange(len(chosen))
        halves = [
            np.minimum(a, n) * width + np.maximum(a, n)
            for a, n in ((low[split], numbers[split]), (high[split], numbers[split]))
        ]
        sharp = np.concatenate([np.setdiff1d(sharp, chosen[split]), *halves])
        vertices = np.concatenate([vertices, (vertices[low] + vertices[high]) / 2])
        some = long.any(axis=1)
        cut = parts(faces[some], middle[some], long[some], vertices, scale)
        faces = np.concatenate([faces[~some], cut])
        end = np.roll(faces, -1, axis=1)
        line = np.isin(np.minimum(faces, end) * width + np.maximum(faces, end), sharp)
    return vertices, faces, line


def _calmed(
    vertices: Places,
    faces: Ints,
    line: NDArray[np.bool_],
    edge_mm: float,
    like: Nearby,
    lines: Nearby | None,
) -> tuple[Places, Ints, NDArray[np.bool_]]:
    """Short edges collapsed, edges flipped, vertices drawn to the middle of their neighbours."""
    twin = np.asarray(find_twins(faces.astype(np.int32))[0], np.int64).copy()
    v, sharp = faces.ravel().copy(), line.ravel().copy()
    for _ in range(_FLIPS):
        if not flip_thin(v, twin, vertices, sharp):
            break
    kind = _kinds(v, sharp, twin, len(vertices), vertices)
    collapse(v, twin, vertices, kind, sharp, _SHORT * edge_mm, _LONG * edge_mm)
    alive = v.reshape(-1, 3)[:, 0] >= 0
    faces, line = v.reshape(-1, 3)[alive], sharp.reshape(-1, 3)[alive]
    twin = np.asarray(find_twins(faces.astype(np.int32))[0], np.int64).copy()
    v, sharp = faces.ravel().copy(), line.ravel().copy()
    valence = np.bincount(v, minlength=len(vertices))
    flip(v, twin, vertices, kind, sharp, valence)
    faces, line = v.reshape(-1, 3), sharp.reshape(-1, 3)
    kind = _kinds(v, sharp, twin, len(vertices), vertices)
    vertices = _relaxed(vertices, faces, line, kind, like, lines)
    used, number = np.unique(faces, return_inverse=True)
    return vertices[used], number.reshape(-1, 3), line


def _kinds(
    v: Ints, sharp: NDArray[np.bool_], twin: Ints, count: int, vertices: Places
) -> NDArray[np.int64]:
    """0 free, 1 along a sharp line, 2 fixed: where lines meet, end, turn, or on a border."""
    end = np.roll(v.reshape(-1, 3), -1, axis=1).ravel()
    once = sharp & ((twin < 0) | (np.arange(len(v)) < twin))
    meets = np.bincount(v[once], minlength=count) + np.bincount(end[once], minlength=count)
    kind = np.where(meets == 0, 0, np.where(meets == 2, 1, 2))
    # Along a line that turns the vertex of the turn stays.
    way = vertices[end[once]] - vertices[v[once]]
    way /= np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-300)
    away = np.zeros((count, 3))
    np.add.at(away, v[once], way)
    np.add.at(away, end[once], -way)
    turns = np.linalg.norm(away, axis=1) > 2 * np.sin(np.radians(_SHARP_DEG / 2))
    kind[(kind == 1) & turns] = 2
    border = twin < 0
    kind[v[border]] = 2
    kind[end[border]] = 2
    return kind.astype(np.int64)


def _relaxed(
    vertices: Places,
    faces: Ints,
    line: NDArray[np.bool_],
    kind: NDArray[np.int64],
    like: Nearby,
    lines: Nearby | None,
) -> Places:
    count = len(vertices)
    end = np.roll(faces, -1, axis=1)
    start, end = faces.ravel(), end.ravel()
    corners = vertices[faces]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    outward, middle = np.zeros((count, 3)), np.zeros((count, 3))
    weight = np.zeros(count)
    for corner in range(3):
        np.add.at(outward, faces[:, corner], normals)
    outward /= np.maximum(np.linalg.norm(outward, axis=1, keepdims=True), 1e-300)
    chosen = np.where(kind[start] == 1, line.ravel(), True)
    np.add.at(middle, start[chosen], vertices[end[chosen]])
    np.add.at(weight, start[chosen], 1.0)
    back = np.where(kind[end] == 1, line.ravel(), False)
    np.add.at(middle, end[back], vertices[start[back]])
    np.add.at(weight, end[back], 1.0)
    step = middle / np.maximum(weight, 1)[:, None] - vertices
    step[weight == 0] = 0
    free = kind == 0
    step[free] -= np.einsum("ij,ij->i", step[free], outward[free])[:, None] * outward[free]
    moved = vertices + 0.7 * np.where((kind == 2)[:, None], 0, step)
    used = np.zeros(count, bool)
    used[start] = True
    free &= used
    moved[free] = like.nearest(moved[free])[2]
    along = (kind == 1) & used
    if lines is not None and along.any():
        moved[along] = lines.nearest(moved[along])[2]
    return _unfolded(vertices, moved, faces)


def _unfolded(was: Places, now: Places, faces: Ints) -> Places:
    """Vertices back where they were, where a face would turn over."""
    for _ in range(4):
        old, new = was[faces], now[faces]
        one = np.cross(old[:, 1] - old[:, 0], old[:, 2] - old[:, 0])
        two = np.cross(new[:, 1] - new[:, 0], new[:, 2] - new[:, 0])
        length = np.linalg.norm(one, axis=1) * np.linalg.norm(two, axis=1)
        over = np.einsum("ij,ij->i", one, two) < 0.3 * length
        if not over.any():
            break
        back = np.unique(faces[over])
        now = now.copy()
        now[back] = was[back]
    return now
