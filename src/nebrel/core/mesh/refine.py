"""Triangles cut smaller where that is asked for; the surface stays where it is."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Mesh
from nebrel.core.mesh.fans import find_twins
from nebrel.core.mesh.faults import Edges

Ints = NDArray[np.int64]
Wanted = Callable[[Floats, NDArray[np.int32]], NDArray[np.bool_]]
_ROUNDS = 60


def refine(mesh: Mesh, wanted: Wanted, most: int) -> tuple[Mesh, bool]:
    """The same surface, triangles halved across their longest edge as long as that is asked for.

    What was closed stays closed; colours are mixed along the edges that are cut.

    Parameters
    ----------
    wanted : of vertices (V, 3) and faces (F, 3): which to halve
    most : triangles; it ends before there would be more

    Returns
    -------
    The mesh, and whether all that was asked for was done.

    Source: Rivara, Algorithms for refining triangular grids (1984).
    """
    vertices, faces, colours = mesh.vertices, mesh.faces, mesh.colours
    asked = np.ones(len(faces), bool)
    for _ in range(_ROUNDS):
        rows = np.flatnonzero(asked)
        rows = rows[wanted(vertices, faces[rows])] if len(rows) else rows
        if not len(rows):
            return replace(mesh, vertices=vertices, faces=faces, colours=colours), True
        own, ends, beside = _edges(faces)
        length = np.zeros(len(ends))
        for axis in range(3):
            along = vertices[:, axis].astype(np.float64)
            length += (along[ends[:, 1]] - along[ends[:, 0]]) ** 2
        # Equal ones are told apart by their number, so that neighbours agree.
        a, b, c = own.T
        ab = np.where((length[a] > length[b]) | ((length[a] == length[b]) & (a > b)), a, b)
        longest = np.where((length[ab] > length[c]) | ((length[ab] == length[c]) & (ab > c)), ab, c)
        cut = np.zeros(len(length), bool)
        new = np.unique(longest[rows])
        while len(new):  # whoever is cut is cut across its longest edge, too
            cut[new] = True
            around = longest[beside[new].ravel()]
            new = np.unique(around[~cut[around]])
        if len(faces) + int(cut[own].sum()) > most:
            return replace(mesh, vertices=vertices, faces=faces, colours=colours), False
        vertices, faces, colours, made = _cut(vertices, faces, colours, ends, own, cut)
        asked = np.zeros(len(faces), bool)
        asked[made:] = True
    return replace(mesh, vertices=vertices, faces=faces, colours=colours), False


def _edges(faces: NDArray[np.int32]) -> tuple[Ints, Ints, Ints]:
    """Which edge each side of a face is (F, 3), the ends of each, and those beside it (E, n)."""
    twin, _, paired = find_twins(faces)
    if paired:
        half = np.arange(faces.size)
        first = half < twin
        number = np.cumsum(first) - 1
        own = number[np.minimum(half, twin)].reshape(-1, 3)
        kept = np.flatnonzero(first)
        ahead = kept + np.where(kept % 3 == 2, -2, 1)
        ends = np.column_stack([faces.ravel()[kept], faces.ravel()[ahead]])
        return own, ends.astype(np.int64), np.column_stack([kept, twin[kept]]) // 3
    edges = Edges.of_faces(faces.astype(np.int64))
    order = np.argsort(edges.edge, kind="stable")
    last = np.cumsum(edges.uses) - 1
    most = int(edges.uses.max(initial=1))
    seats = [order[np.maximum(last - k, last - edges.uses + 1)] // 3 for k in range(most)]
    return edges.edge.reshape(-1, 3), edges.ends, np.column_stack(seats)


def _cut(
    vertices: Floats,
    faces: NDArray[np.int32],
    colours: NDArray[np.uint8] | None,
    ends: Ints,
    own: Ints,
    cut: NDArray[np.bool_],
) -> tuple[Floats, NDArray[np.int32], NDArray[np.uint8] | None, int]:
    """Faces with some of their edges cut in the middle, and where the new faces begin."""
    names = np.flatnonzero(cut)
    middle = np.full(len(cut), -1, np.int64)
    middle[names] = len(vertices) + np.arange(len(names))
    one, other = ends[names].T
    places = (vertices[one].astype(np.float64) + vertices[other]) / 2
    if colours is not None:
        mixed = (colours[one].astype(np.float64) + colours[other]) / 2
        colours = np.concatenate([colours, np.round(mixed).astype(np.uint8)])
    many = cut[own].sum(axis=1)
    made = []
    for count in (1, 2, 3):
        rows = np.flatnonzero(many == count)
        if not len(rows):
            continue
        on = cut[own[rows]]
        # Turned so that the one that is cut, or the one that is not, comes first.
        first = (~on).argmax(axis=1) if count == 2 else on.argmax(axis=1)
        seats = (first[:, None] + np.arange(3)) % 3
        a, b, c = np.take_along_axis(faces[rows].astype(np.int64), seats, axis=1).T
        ab, bc, ca = np.take_along_axis(middle[own[rows]], seats, axis=1).T
        if count == 1:
            made += [np.column_stack([a, ab, c]), np.column_stack([ab, b, c])]
        elif count == 3:
            made += [np.column_stack(three) for three in
                     ((a, ab, ca), (ab, b, bc), (ca, bc, c), (ab, bc, ca))]  # fmt: skip
        else:
            made += [np.column_stack(three) for three in ((a, b, bc), (a, bc, ca), (ca, bc, c))]
    kept = faces[many == 0]
    new = np.concatenate(made).astype(np.int32)
    found = np.concatenate([vertices, places.astype(np.float32)]), np.concatenate([kept, new])
    return *found, colours, len(kept)
