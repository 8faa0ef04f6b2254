"""An open surface over a rectangle, closed with straight walls and a flat underside."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh
from nebrel.core.errors import NotSolid


def close(surface: Mesh) -> Mesh:
    """Close a surface over a rectangle down to z = 0.

    Parameters
    ----------
    surface : upward-looking, one vertex in each corner, every height > 0

    Returns
    -------
    Closed, oriented manifold: the surface itself, four walls that use only the
    vertices already on its rim, and an underside of two triangles.

    Raises
    ------
    NotSolid : the surface touches z = 0
    """
    from manifold3d import triangulate as triangulate_polygon

    vertices = surface.vertices
    lowest = float(vertices[:, 2].min())
    if lowest <= 0:
        raise NotSolid(
            "relief",
            "its lowest spot has no thickness",
            "Give it a backing of at least 0.2 mm",
        )
    rim = _rim(surface)
    corners = _corners(surface, rim)
    base = len(vertices)
    below = vertices[rim[corners]].copy()
    below[:, 2] = 0
    walls = []
    for side in range(4):
        start, end = corners[side], corners[(side + 1) % 4]
        chain = rim[start : end + 1] if end > start else np.concatenate([rim[start:], rim[:1]])
        left, right = base + side, base + (side + 1) % 4
        # Flattened along its side, the wall is a polygon: the chain above, two corners below.
        loop = np.concatenate([[left, right], chain[::-1]])
        along = 0 if side % 2 == 0 else 1
        points = np.concatenate([below[[side, (side + 1) % 4]], vertices[chain[::-1]]])
        flat = np.column_stack([points[:, along], points[:, 2]]).astype(np.float64)
        if side >= 2:
            flat[:, 0] *= -1
        triangles = triangulate_polygon([flat])
        walls.append(loop[np.asarray(triangles)])
    underside = np.array([[base, base + 2, base + 1], [base, base + 3, base + 2]])
    return Mesh(
        np.concatenate([vertices, below]),
        np.concatenate([surface.faces, *walls, underside]).astype(np.int32),
    )


def _rim(surface: Mesh) -> NDArray[np.int64]:
    """The boundary loop, counter-clockwise from the corner at the origin."""
    x, y = surface.vertices[:, 0], surface.vertices[:, 1]
    wide, tall = x.max(), y.max()
    # On a rectangle the boundary and its order follow from the place alone.
    rim = np.flatnonzero((x == 0) | (x == wide) | (y == 0) | (y == tall))
    x, y = x[rim], y[rim]
    side = np.select(
        [(y == 0) & (x < wide), (x == wide) & (y < tall), (y == tall) & (x > 0)], [0, 1, 2], 3
    )
    along = np.choose(side, [x, y, -x, -y])
    return rim[np.lexsort((along, side))]


def _corners(surface: Mesh, rim: NDArray[np.int64]) -> list[int]:
    wide, tall = surface.vertices[:, 0].max(), surface.vertices[:, 1].max()
    places = surface.vertices[rim, :2]
    wanted = [(0, 0), (wide, 0), (wide, tall), (0, tall)]
    return [int(np.flatnonzero((places == corner).all(axis=1))[0]) for corner in wanted]
