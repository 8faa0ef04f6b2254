"""Where a plane cuts a mesh."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh

_OFF = 1e-6  # of the extent: the plane goes beside vertices, not through them


def cut_by_plane(
    mesh: Mesh, across: Literal["x", "y", "z"], at_mm: float
) -> list[NDArray[np.float64]]:
    """The lines in which a plane square to an axis cuts a mesh.

    Returns
    -------
    (n, 2) each, mm along the two other axes in their order. A closed line ends where it begins,
    with what it encloses on its left; of an open mesh some lines are open.
    """
    axis = "xyz".index(across)
    kept = [k for k in range(3) if k != axis]
    side = mesh.vertices[:, axis].astype(np.float64) - at_mm
    lines = level_lines(mesh, side)
    # Seen along y the other two axes are left-handed.
    return [line[::-1][:, kept] if axis == 1 else line[:, kept] for line in lines]


def level_lines(mesh: Mesh, height: NDArray[np.float64]) -> list[NDArray[np.float64]]:
    """The lines on a mesh along which something known at its vertices is nothing.

    Parameters
    ----------
    height : (V,) mm, or whatever grows by as much from place to place

    Returns
    -------
    (n, 3) mm each. A closed line ends where it begins, what is higher on its left as seen from
    outside.
    """
    extent = float(np.ptp(mesh.vertices, axis=0).max(initial=0.0))
    side = height - _OFF * extent
    side[side == 0] = -_OFF * extent
    over = side > 0
    cut = over[mesh.faces]
    faces = mesh.faces[cut.any(axis=1) & ~cut.all(axis=1)].astype(np.int64)
    if not len(faces):
        return []
    ends = np.stack([faces, np.roll(faces, -1, axis=1)], axis=2)  # (n, 3, 2)
    crossed = over[ends[..., 0]] != over[ends[..., 1]]
    # Up through the plane, a face runs from its one edge to the other, with the solid on its left.
    down = over[ends[..., 0]][crossed].reshape(-1, 2)[:, 0]
    pairs = np.sort(ends[crossed], axis=1).reshape(-1, 2, 2)  # (n, 2, 2): two edges a face
    count = len(mesh.vertices)
    names, number = np.unique(pairs[..., 0] * count + pairs[..., 1], return_inverse=True)
    one, other = names // count, names % count
    share = side[one] / (side[one] - side[other])
    a, b = (mesh.vertices[ends].astype(np.float64) for ends in (one, other))
    places = a + share[:, None] * (b - a)
    links = number.reshape(-1, 2)
    back = ~down
    links[back] = links[back, ::-1]
    return [places[chain] for chain in _chains(links, len(names))]


def _chains(links: NDArray[np.int64], count: int) -> list[list[int]]:
    """Lines through places that are linked in pairs: each link in one of them, most forwards."""
    beside: list[list[int]] = [[] for _ in range(count)]
    for n, (a, b) in enumerate(links.tolist()):
        beside[a].append(n)
        beside[b].append(n)
    left = np.ones(len(links), bool)
    found = []
    # From loose ends first, so that an open line is one.
    starts = sorted(range(count), key=lambda place: len(beside[place]) % 2 == 0)
    for start in starts:
        chain, here, forwards = [start], start, 0
        while True:
            following = next((n for n in beside[here] if left[n]), None)
            if following is None:
                break
            left[following] = False
            a, b = links[following]
            forwards += 1 if a == here else -1
            here = int(b if a == here else a)
            chain.append(here)
        if len(chain) > 1:
            found.append(chain if forwards >= 0 else chain[::-1])
    return found
