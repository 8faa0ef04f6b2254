"""A flat mesh cut so finely that it can be bent, and no finer."""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

from nebrel.core.data import Mesh

_HALVINGS = 3  # a cut piece is as long as so many halvings of it ask for
_ON = 1e-6  # of a piece: nearer to a cut than this lies on it

Floats64 = NDArray[np.float64]
Ints = NDArray[np.int64]


def bendable(mesh: Mesh, longest: tuple[float, float | None]) -> tuple[Floats64, Ints]:
    """The same surface in triangles that are small along what will be bent.

    Parameters
    ----------
    mesh : flat, its vertices (u, v, h) mm
    longest : the longest piece along u, and along v where that is bent too; a triangle reaches
        no further than the diagonal of such a piece

    Returns
    -------
    (V, 3) float64 vertices and (F, 3) faces. Faces that share an edge are cut alike there.

    Long triangles are cut along lines whose distance is a power of two times what is wanted,
    then halved, so that none of that is given away.
    """
    vertices, faces = mesh.vertices.astype(np.float64), mesh.faces.astype(np.int64)
    reach = np.ptp(vertices[:, :2], axis=0)
    pieces = []
    for axis, most in enumerate(longest):
        if most is None:
            continue
        # As long as they may be, and the same number of them in each cut.
        count = max(1, int(np.ceil(reach[axis] / (most * 2**_HALVINGS) - 1e-9)))
        piece = max(min(most, reach[axis] / count / 2**_HALVINGS), 1e-6)
        pieces.append(piece)
        vertices, faces = _cut(vertices, faces, axis, piece * 2**_HALVINGS)
    scale = np.array([1 / pieces[0], 1 / pieces[1] if len(pieces) > 1 else 0.0])
    return _halved(vertices, faces, scale, float(len(pieces)))


def _cut(vertices: Floats64, faces: Ints, axis: int, step: float) -> tuple[Floats64, Ints]:
    """Faces cut along every line at a multiple of a step."""
    place = vertices[:, axis] / step
    first = np.floor(place + _ON).astype(np.int64) + 1  # the next line above each vertex
    last = np.ceil(place - _ON).astype(np.int64) - 1  # and below
    reaches = last[faces].max(axis=1) >= first[faces].min(axis=1)
    if not reaches.any():
        return vertices, faces
    cut = faces[reaches]
    # From here on every triangle names its lowest corner first, its highest last.
    order = np.argsort(place[cut], axis=1, kind="stable")
    odd = (order[:, 0] == 0) & (order[:, 1] == 2)
    odd |= (order[:, 0] == 1) & (order[:, 1] == 0)
    odd |= (order[:, 0] == 2) & (order[:, 1] == 1)
    cut = np.take_along_axis(cut, order, axis=1)
    ends = np.concatenate([cut[:, [0, 1]], cut[:, [1, 2]], cut[:, [0, 2]]])
    low, high = ends.min(axis=1), ends.max(axis=1)
    _, at, edge = np.unique(low * len(vertices) + high, return_index=True, return_inverse=True)
    edge = edge.reshape(-1)
    below, above = ends[at, 0], ends[at, 1]
    below, above = np.where(place[below] <= place[above], [below, above], [above, below])
    count = np.maximum(last[above] - first[below] + 1, 0)
    start = len(vertices) + np.cumsum(count) - count
    owner = np.repeat(np.arange(len(count)), count)
    line = first[below][owner] + np.arange(len(owner)) - (start - len(vertices))[owner]
    share = (line - place[below][owner]) / (place[above] - place[below])[owner]
    one, other = vertices[below][owner], vertices[above][owner]
    points = one + (other - one) * share[:, None]
    points[:, axis] = line * step
    edges = edge.reshape(3, -1).T.copy()
    room = int((last[cut[:, 2]] - first[cut[:, 0]] + 3).clip(1).sum()) * 3
    pieces = np.empty((room, 3), np.int64)
    made = _emit(cut, odd, edges, first, last, first[below], start, pieces)
    return np.concatenate([vertices, points]), np.concatenate([faces[~reaches], pieces[:made]])


@njit(cache=True, nogil=True)
def _emit(cut, odd, edges, first, last, edge_first, start, pieces):  # type: ignore[no-untyped-def]
    """The pieces of every triangle, from its lowest corner to its highest."""
    n = 0
    ring = np.empty(5, np.int64)
    for f in range(cut.shape[0]):
        a, b, c = cut[f]
        ab, bc, ac = edges[f]
        left = right = a  # where the last line met the long side, and the two short ones
        passed = False
        for line in range(first[a], last[c] + 2):
            final = line == last[c] + 1
            new_left = c if final else start[ac] + line - edge_first[ac]
            on = first[b] > line >= last[b] + 1  # the line runs through the middle corner
            if final:
                new_right = c
            elif on:
                new_right = b
            elif line <= last[b]:
                new_right = start[ab] + line - edge_first[ab]
            else:
                new_right = start[bc] + line - edge_first[bc]
            size = 0
            ring[size] = left
            size += 1
            if right != left:
                ring[size] = right
                size += 1
            if not passed and (final or line > last[b]):
                passed = True
                if b != new_right and b != right:  # noqa: PLR1714
                    ring[size] = b
                    size += 1
            if new_right != ring[size - 1]:
                ring[size] = new_right
                size += 1
            if new_left != new_right and new_left != left:  # noqa: PLR1714
                ring[size] = new_left
                size += 1
            for k in range(1, size - 1):
                p, q = ring[k], ring[k + 1]
                if odd[f]:
                    p, q = q, p
                pieces[n, 0], pieces[n, 1], pieces[n, 2] = ring[0], p, q
                n += 1
            left, right = new_left, new_right
    return n


def _halved(vertices: Floats64, faces: Ints, scale: Floats64, most: float) -> tuple[Floats64, Ints]:
    """Faces whose edges are halved until none is longer than the square root of `most`."""
    done = []
    while len(faces):
        ends = np.stack([faces, np.roll(faces, -1, axis=1)], axis=2)
        step = (vertices[ends[..., 0], :2] - vertices[ends[..., 1], :2]) * scale
        long = (step * step).sum(axis=2) > most * (1 + 1e-6)
        any_long = long.any(axis=1)
        done.append(faces[~any_long])
        faces, long, ends = faces[any_long], long[any_long], ends[any_long]
        if not len(faces):
            break
        pairs = np.sort(ends[long], axis=1)
        _, at, which = np.unique(
            pairs[:, 0] * len(vertices) + pairs[:, 1], return_index=True, return_inverse=True
        )
        middle = np.full(long.shape, -1, np.int64)
        middle[long] = len(vertices) + which.reshape(-1)
        vertices = np.concatenate([vertices, vertices[pairs[at]].mean(axis=1)])
        faces = _parts(faces, middle, long, vertices, scale)
    return vertices, np.concatenate(done)


def _parts(
    faces: Ints, middle: Ints, long: NDArray[np.bool_], vertices: Floats64, scale: Floats64
) -> Ints:
    """Two, three or four parts of each face, as one, two or three of its edges are halved."""
    count = long.sum(axis=1)
    found: list[Any] = []
    # Turned so that the first edge is the only long one, or the last the only short one.
    for number in (1, 2, 3):
        chosen = count == number
        turn = np.argmax(long[chosen] if number == 1 else ~long[chosen], axis=1)
        turn = turn + 1 if number == 2 else turn * (number == 1)
        turned = (np.arange(3)[None] + turn[:, None]) % 3
        a, b, c = np.take_along_axis(faces[chosen], turned, axis=1).T
        ab, bc, ca = np.take_along_axis(middle[chosen], turned, axis=1).T
        if number == 1:
            found += [(a, ab, c), (ab, b, c)]
        elif number == 3:
            found += [(a, ab, ca), (ab, b, bc), (ca, bc, c), (ab, bc, ca)]
        else:
            found.append((ab, b, bc))
            # The rest has four corners: its shorter diagonal parts it.
            one = ((vertices[a] - vertices[bc])[:, :2] * scale) ** 2
            two = ((vertices[ab] - vertices[c])[:, :2] * scale) ** 2
            first = one.sum(axis=1) <= two.sum(axis=1)
            found.append((a, ab, np.where(first, bc, c)))
            found.append((np.where(first, a, ab), bc, c))
    return np.concatenate([np.column_stack(part) for part in found])
