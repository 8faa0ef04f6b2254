"""The nearest place of a mesh to any place."""

from __future__ import annotations

from collections import deque
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any
from weakref import ref

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh
from nebrel.core.mesh.nearest_kernels import boxes_over, morton_of, nearest_all

Points = NDArray[np.floating[Any]]
_LEAF = 4
_MANY = 2000


@dataclass(frozen=True)
class Nearby:
    """A mesh, sorted to be asked.

    Attributes
    ----------
    corners : (F, 3, 3) float64 of its triangles, neighbours near to each other
    boxes : (2n, 6) around them: 1 is the whole, 2k and 2k + 1 lie in k
    order : (F,) which face of the mesh each is
    """

    corners: NDArray[np.float64]
    boxes: NDArray[np.float64]
    order: NDArray[np.int64]

    @classmethod
    def of(cls, mesh: Mesh) -> Nearby:
        """Sort it.

        Source: Lauterbach et al., Fast BVH Construction on GPUs (2009), linear order by Morton
        codes; here under a complete binary tree.
        """
        return cls.of_corners(mesh.vertices[mesh.faces].astype(np.float64))

    @classmethod
    def of_corners(cls, corners: NDArray[np.float64]) -> Nearby:
        """The same for triangles (F, 3, 3)."""
        low, scale = _scale(corners)
        order = np.argsort(morton_of(corners, low, scale), kind="stable")
        leaves = 1
        while leaves * _LEAF < len(corners):
            leaves *= 2
        corners = np.ascontiguousarray(corners[order])
        return cls(corners, boxes_over(corners, leaves), order)

    @classmethod
    def of_lines(cls, lines: Sequence[Points]) -> Nearby:
        """The same for lines in the plane, (n, 2) each; a single place is one, too."""
        sides = []
        for line in lines:
            flat = np.column_stack([line, np.zeros(len(line))]).astype(np.float64)
            before, after = flat[: max(1, len(flat) - 1)], flat[min(1, len(flat) - 1) :]
            sides.append(np.stack([before, after, after], axis=1))
        return cls.of_corners(np.concatenate(sides))

    def nearest(
        self, points: Points, most_mm: float = np.inf
    ) -> tuple[NDArray[np.float64], NDArray[np.int64], NDArray[np.float64]]:
        """Distance, place in `order`, and place in mm, of what is nearest to points (n, 3).

        Parameters
        ----------
        most_mm : nothing further away is looked for; there the place in `order` is -1
        """
        asked = np.ascontiguousarray(points, np.float64)
        if len(asked) > _MANY:  # one after the other from near places, which are still at hand
            low, scale = _scale(asked)
            order = np.argsort(morton_of(asked[:, None], low, scale))
            found = nearest_all(self.corners, self.boxes, asked[order], most_mm)
            back = np.empty_like(order)
            back[order] = np.arange(len(order))
            return found[0][back], found[1][back], found[2][back]
        distance, face, place = nearest_all(self.corners, self.boxes, asked, most_mm)
        return distance, face, place


_KNOWN: deque[tuple[tuple[ref[Any], ref[Any]], Nearby]] = deque(maxlen=3)
"""The meshes that were sorted last: a body is asked again and again while art slides over it."""


def known_near(mesh: Mesh) -> Nearby:
    """As `Nearby.of`, at once where the mesh is among the last that were sorted."""
    for (vertices, faces), known in list(_KNOWN):
        if vertices() is mesh.vertices and faces() is mesh.faces:
            return known
    found = Nearby.of(mesh)
    _KNOWN.append(((ref(mesh.vertices), ref(mesh.faces)), found))
    return found


def _scale(points: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    flat = points.reshape(-1, 3)
    low, high = flat.min(axis=0), flat.max(axis=0)
    return low, 1023.999 / np.maximum(high - low, 1e-12)
