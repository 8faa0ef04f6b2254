"""A flat mesh cut so finely that it can be bent, and no finer."""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

from nebrel.core.data import Mask, Mesh

_MOST_HALVINGS = 4
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

    Triangles are cut along lines, or along lines that are a power of two times as far apart
    and halved from there on, whichever takes fewer: so small ones are mostly left as they are.
    """
    vertices, faces = mesh.vertices.astype(np.float64), mesh.faces.astype(np.int64)
    reach = np.ptp(vertices[:, :2], axis=0)
    whole = np.ones(len(faces), bool)
    corners, starts = np.empty(0, np.int64), np.zeros(1, np.int64)
    pieces = []
    for axis, most in enumerate(longest):
        if most is None:
            continue
        halvings = _halvings(np.ptp(vertices[faces, axis], axis=1) / most)
        # As long as they may be, and the same number of them in each cut.
        count = max(1, int(np.ceil(reach[axis] / (most * 2**halvings) - 1e-9)))
        piece = max(min(most, reach[axis] / count / 2**halvings), 1e-6)
        pieces.append(piece)
        place = vertices[:, axis] / (piece * 2**halvings)
        crosses = whole & (_below(place)[faces].max(axis=1) >= _above(place)[faces].min(axis=1))
        whole &= ~crosses
        cut = faces[crosses].ravel()
        corners = np.concatenate([corners, cut])
        starts = np.concatenate([starts, starts[-1] + np.arange(3, len(cut) + 1, 3)])
        step = piece * 2**halvings
        vertices, corners, starts = _cut(vertices, corners, starts, axis, step)
    scale = np.array([1 / pieces[0], 1 / pieces[1] if len(pieces) > 1 else 0.0])
    parts = np.empty((max(0, len(corners) - 2 * (len(starts) - 1)), 3), np.int64)
    _fan(vertices, corners, starts, parts)
    return _halved(vertices, np.concatenate([faces[whole], parts]), scale, float(len(pieces)))


def _halvings(wide: Floats64) -> int:
    """How often pieces are best halved after they were cut.

    Parameters
    ----------
    wide : of every triangle, in pieces

    Close lines cut many triangles that are small enough; far ones leave much to halve, which
    takes three triangles where a line takes two.
    """
    long = wide > 1

    def count(halvings: int) -> float:
        lines = wide / 2**halvings
        halved = np.minimum(3.0**halvings, np.where(long, wide, 1.0) ** 1.585)
        return float(((1 + 2 * lines) * halved).sum())

    return min(range(_MOST_HALVINGS + 1), key=count)


def _above(place: Floats64) -> Ints:
    """The next line above each place, and not on it."""
    return np.floor(place + _ON).astype(np.int64) + 1


def _below(place: Floats64) -> Ints:
    """And below."""
    return np.ceil(place - _ON).astype(np.int64) - 1


def _cut(
    vertices: Floats64, corners: Ints, starts: Ints, axis: int, step: float
) -> tuple[Floats64, Ints, Ints]:
    """Convex polygons cut along every line at a multiple of a step.

    Parameters
    ----------
    corners, starts : those of polygon n run from `starts[n]` to `starts[n + 1]`
    """
    if not len(corners):
        return vertices, corners, starts
    place = vertices[:, axis] / step
    first, last = _above(place), _below(place)
    following = np.arange(1, len(corners) + 1)
    following[starts[1:] - 1] = starts[:-1]
    ends = np.column_stack([corners, corners[following]])
    low, high = ends.min(axis=1), ends.max(axis=1)
    _, at, edge = np.unique(low * len(vertices) + high, return_index=True, return_inverse=True)
    edge = edge.reshape(-1)
    one, other = low[at], high[at]
    below, above = np.where(place[one] <= place[other], [one, other], [other, one])
    count = np.maximum(last[above] - first[below] + 1, 0)
    offset = np.cumsum(count) - count
    owner = np.repeat(np.arange(len(count)), count)
    line = first[below][owner] + np.arange(len(owner)) - offset[owner]
    share = (line - place[below][owner]) / (place[above] - place[below])[owner]
    start, end = vertices[below][owner], vertices[above][owner]
    points = start + (end - start) * share[:, None]
    points[:, axis] = line * step
    # The number of the point of each edge on line 0, were there one.
    origin = len(vertices) + offset - first[below]
    lowest = np.minimum.reduceat(first[corners], starts[:-1])
    strips = np.maximum.reduceat(last[corners], starts[:-1]) - lowest + 2
    most = np.maximum(strips, 1)
    room = int(((np.diff(starts) + 4) * most).sum())
    parts, sizes = np.empty(room, np.int64), np.empty(int(most.sum()), np.int64)
    used, made = _strips(corners, starts, edge, first, last, origin, lowest, strips, parts, sizes)
    found = np.concatenate([[0], np.cumsum(sizes[:made])])
    return np.concatenate([vertices, points]), parts[:used].copy(), found


@njit(cache=True, nogil=True)
def _strips(corners, starts, edge, first, last, origin, lowest, strips, parts, sizes):  # type: ignore[no-untyped-def]
    """What of every polygon lies between two neighbouring lines."""
    used = made = 0
    for p in range(len(starts) - 1):
        if strips[p] <= 1:
            for k in range(starts[p], starts[p + 1]):
                parts[used] = corners[k]
                used += 1
            sizes[made] = starts[p + 1] - starts[p]
            made += 1
            continue
        for line in range(lowest[p] - 1, lowest[p] - 1 + strips[p]):
            # From this line to the next; what lies on either belongs to it.
            begin = used
            inside = below = above = False
            for k in range(starts[p], starts[p + 1]):
                after = k + 1 if k + 1 < starts[p + 1] else starts[p]
                a, b = corners[k], corners[after]
                if last[a] < line + 1 and first[a] > line:
                    parts[used] = a
                    used += 1
                    below |= last[a] < line
                    above |= first[a] > line + 1
                    inside |= last[a] == line and first[a] == line + 1
                rises = first[a] <= last[b]
                if rises or first[b] <= last[a]:
                    lower, upper = (a, b) if rises else (b, a)
                    for number in range(2):
                        cut = line + number if rises else line + 1 - number
                        if first[lower] <= cut <= last[upper]:
                            parts[used] = origin[edge[k]] + cut
                            used += 1
                            below |= cut == line
                            above |= cut == line + 1
            # What only touches a line is none of it.
            if used - begin < 3 or not (inside or (below and above)):
                used = begin
            else:
                sizes[made] = used - begin
                made += 1
    return used, made


@njit(cache=True, nogil=True)
def _fan(vertices, corners, starts, parts):  # type: ignore[no-untyped-def]
    """Triangles of convex polygons, those of four corners along their shorter diagonal."""
    n = 0
    for p in range(len(starts) - 1):
        begin, size = starts[p], starts[p + 1] - starts[p]
        turn = 0
        if size == 4:
            a, b = vertices[corners[begin]], vertices[corners[begin + 1]]
            c, d = vertices[corners[begin + 2]], vertices[corners[begin + 3]]
            one = (a[0] - c[0]) ** 2 + (a[1] - c[1]) ** 2
            other = (b[0] - d[0]) ** 2 + (b[1] - d[1]) ** 2
            turn = 1 if other < one * (1 - 1e-9) else 0
        for k in range(1, size - 1):
            parts[n, 0] = corners[begin + turn]
            parts[n, 1] = corners[begin + (turn + k) % size]
            parts[n, 2] = corners[begin + (turn + k + 1) % size]
            n += 1


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
        faces = parts(faces, middle, long, vertices, scale)
    return vertices, np.concatenate(done)


def parts(faces: Ints, middle: Ints, long: Mask, vertices: Floats64, scale: Floats64) -> Ints:
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
            one = ((vertices[a] - vertices[bc])[:, : len(scale)] * scale) ** 2
            two = ((vertices[ab] - vertices[c])[:, : len(scale)] * scale) ** 2
            first = one.sum(axis=1) <= two.sum(axis=1)
            found.append((a, ab, np.where(first, bc, c)))
            found.append((np.where(first, a, ab), bc, c))
    return np.concatenate([np.column_stack(part) for part in found])
