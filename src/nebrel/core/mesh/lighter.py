"""A lighter mesh to look at, made quickly."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh, box_of
from nebrel.core.mesh.faults import same_corner
from nebrel.core.mesh.measure import merge
from nebrel.core.mesh.rows import unique_rows
from nebrel.core.mesh.tint import with_colours_of

_FAR = 8  # times as many triangles as wanted: vertices are gathered first
_SPARE = 4  # times as many as wanted are left for the collapse
_AGAIN = 1.25
_ASKED = 50_000  # triangles whose size is looked at
_OF_A_CELL = 3.0  # triangles
_MOST_CELLS = 600  # along the longest side: the table of all has a place for each

Places = NDArray[np.float64]


def lighter(mesh: Mesh, most: int) -> Mesh:
    """Nearly the same with about so many triangles; itself where it has no more.

    It is made to be seen, soon: what is closed may be open afterwards.
    """
    if len(mesh.faces) <= most:
        return mesh
    found = gathered(mesh, most * _SPARE) if len(mesh.faces) > most * _FAR else mesh
    if len(found.faces) <= most:
        return found
    import fast_simplification

    places, faces = fast_simplification.simplify(
        found.vertices, found.faces, target_count=most, agg=7
    )
    if not len(faces):
        return found
    lean = Mesh(places.astype(np.float32), faces.astype(np.int32), mesh.name)
    return with_colours_of(lean, found)


def gathered(mesh: Mesh, most: int) -> Mesh:
    """Vertices in one cell of a grid made one, so that about so many triangles are left.

    Parameters
    ----------
    mesh : vertices at one place need not be one

    Source: Rossignac and Borrel, Multi-resolution 3D Approximations for Rendering (1993).
    """
    some = mesh.faces[:: max(1, len(mesh.faces) // _ASKED)]
    corners = mesh.vertices[some].astype(np.float64)
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    area = float(np.linalg.norm(across, axis=1).mean()) / 2 * len(mesh.faces)
    low, high = (side.astype(np.float64) for side in box_of(mesh.vertices))
    extent = float((high - low).max())
    # A cell on the surface becomes about two triangles, slanted ones a few more.
    cell = max(float(np.sqrt(_OF_A_CELL * area / most)), extent / _MOST_CELLS)
    found = _gathered(mesh, low, high, cell)
    while len(found.faces) > most:
        cell *= _AGAIN
        found = _gathered(mesh, low, high, cell)
    return found


def _gathered(mesh: Mesh, low: Places, high: Places, cell: float) -> Mesh:
    from nebrel.core.mesh.compiled import gather_places

    wide = np.maximum(1, np.ceil((high - low) / cell)).astype(np.int64)
    middle, first, of = gather_places(mesh.vertices, low, cell, wide)
    faces = of[mesh.faces]
    faces = faces[~same_corner(faces)]
    once, _ = unique_rows(np.sort(faces, axis=1))
    colours = None if mesh.colours is None else mesh.colours[first]
    return merge(Mesh(middle, faces[np.sort(once)], mesh.name, colours))
