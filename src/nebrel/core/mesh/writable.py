"""From a solid to a mesh that is written: closed for others too, or refused."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Mesh
from nebrel.core.errors import NotSolid
from nebrel.core.kernel import Solid, mesh_of
from nebrel.core.mesh.components import label_components
from nebrel.core.mesh.measure import MeshReport, measure
from nebrel.core.mesh.only import only
from nebrel.core.mesh.rows import unique_rows
from nebrel.core.mesh.touching import on_grid, part_touching

# Shares of the tolerance by which short edges are taken out, and decimals of a millimetre that a
# file keeps apart: the finest first.
_FINER = ((0.02, 5), (0.05, 5), (0.05, 4), (0.1, 4), (0.2, 5))


_HAIR_MM = 2e-4  # above what single precision rounds at 1 m, below what any machine makes


def from_manifold(solid: Solid, tolerance_mm: float) -> tuple[Mesh, MeshReport]:
    """A solid of the boolean kernel as a mesh that stays closed in a file, and its figures.

    Edges so short that their ends fall together in single precision are taken out,
    moving the surface by a fifth of the tolerance at most. Where two parts touch at a point
    or along an edge, which a file cannot tell from one part, each draws back by a hair.

    Raises
    ------
    NotSolid : it would not be closed any more
    """
    for share, decimals in _FINER:
        found, report = for_a_file(mesh_of(solid.simplify(tolerance_mm * share)), decimals)
        if report.manifold:
            return found, report
    most = _FINER[-1][0]
    for times in (2.5, 5):
        coarser = mesh_of(solid.simplify(tolerance_mm * most * times))
        if for_a_file(coarser, 5)[1].manifold:
            remedy = f"A tolerance of {tolerance_mm * times:g} mm works"
            break
    else:
        remedy = "No tolerance up to five times as large mends it: smooth the heights a little"
    raise NotSolid("piece", "it has edges too short for a file", remedy)


def for_a_file(mesh: Mesh, decimals: int = 5) -> tuple[Mesh, MeshReport]:
    """A mesh on a grid of so many decimals of a millimetre, tidied where it must be; its figures.

    The report says whether it is closed still.
    """
    vertices, triangles = mesh.vertices, mesh.faces.astype(np.int64)
    found = _snapped(vertices, triangles, decimals)
    report = measure(found)
    if not report.manifold:
        found = _snapped(_tidied(vertices, triangles, decimals), triangles, decimals)
        report = measure(found)
    if not report.manifold:
        found = part_touching(found, decimals, _HAIR_MM)
        report = measure(found)
    return found, report


def _snapped(vertices: Floats, triangles: NDArray[np.int64], decimals: int) -> Mesh:
    snapped = on_grid(vertices, decimals)
    first, name = unique_rows(snapped)
    faces = name[triangles]
    a, b, c = faces.T
    kept = _without_films(faces[(a != b) & (b != c) & (c != a)])
    # Without what was an end of films alone.
    return only(Mesh(snapped[first], kept.astype(np.int32)), np.ones(len(kept), bool))


def _tidied(vertices: Floats, triangles: NDArray[np.int64], decimals: int) -> Floats:
    """Vertices with both ends of the shortest edges together, and all others apart."""
    start, end = triangles.ravel(), np.roll(triangles, -1, axis=1).ravel()
    short = np.linalg.norm(vertices[start] - vertices[end], axis=1) < _HAIR_MM
    count, part = label_components(len(vertices), start[short], end[short])
    first = np.zeros(count, np.int64)
    first[part[::-1]] = np.arange(len(vertices))[::-1]
    places = vertices[first]
    # Parts that fall on one another without an edge between them draw back into the solid.
    _, name = unique_rows(on_grid(places, decimals))
    crowded = (np.bincount(name) > 1)[name]
    corners = vertices[triangles].astype(np.float64)
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    outward = np.zeros((count, 3))
    for corner in range(3):
        np.add.at(outward, part[triangles[:, corner]], normals)
    length = np.maximum(np.linalg.norm(outward, axis=1, keepdims=True), 1e-30)
    places = places - np.where(crowded[:, None], outward / length * _HAIR_MM, 0)
    found: Floats = places[part].astype(np.float32)
    return found


def _without_films(faces: NDArray[np.int64]) -> NDArray[np.int64]:
    """Faces without those that lie on one of the opposite side: what a sliver collapses to."""
    a, b, c = faces.T
    least = np.minimum(np.minimum(a, b), c)
    most = np.maximum(np.maximum(a, b), c)
    after = np.where(least == a, b, np.where(least == b, c, a))
    one_way = after != most
    names = np.column_stack([least, a + b + c - least - most, most])
    _, name = unique_rows(names)
    count = np.bincount(name)
    if (count == 1).all():
        return faces
    # As many of one side as of the other go.
    balance = np.bincount(name, np.where(one_way, 1, -1))
    kept = (count[name] == 1) | ((np.abs(balance[name]) == 1) & (one_way == (balance[name] > 0)))
    once = np.zeros(len(faces), bool)
    _, at = np.unique(np.column_stack([name, one_way]), axis=0, return_index=True)
    once[at] = True
    return faces[kept & once]
