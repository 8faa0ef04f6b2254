"""What a mesh is: size, volume, surface, closed and manifold or not."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Mesh, box_of
from nebrel.core.mesh.components import label_components
from nebrel.core.mesh.fans import find_twins, number_fans
from nebrel.core.mesh.many import many
from nebrel.core.mesh.rows import unique_rows


@dataclass(frozen=True)
class MeshReport:
    """Figures of a mesh. Lengths in mm; `bodies` counts pieces that share no vertex."""

    triangles: int
    vertices: int
    size_mm: tuple[float, float, float]
    volume_mm3: float
    area_mm2: float
    closed: bool
    manifold: bool
    bodies: int

    def as_dict(self) -> dict[str, Any]:
        """Plain values in the order above."""
        return asdict(self) | {"size_mm": list(self.size_mm)}


def measure(mesh: Mesh) -> MeshReport:
    """Measure a mesh.

    Returns
    -------
    MeshReport. `closed`: every edge is walked as often one way as the other, so there is no
    hole and all faces agree on the outside. `manifold`: besides, every edge has exactly two
    faces and the faces around every vertex form one fan. Triangles of zero area that name a
    vertex twice are left out of both. Volume is signed by orientation.

    Source: divergence theorem for the volume.
    """
    faces = mesh.faces
    if len(faces) == 0:
        return MeshReport(0, len(mesh.vertices), (0.0, 0.0, 0.0), 0.0, 0.0, False, False, 0)
    low, high = _bounds(mesh)
    volume, area = _volume_and_area(mesh)
    whole = (
        (faces[:, 0] != faces[:, 1]) & (faces[:, 1] != faces[:, 2]) & (faces[:, 2] != faces[:, 0])
    )
    real = faces if whole.all() else faces[whole]
    closed, manifold, bodies = _topology(real)
    size = (high.astype(np.float64) - low.astype(np.float64)).round(6)
    return MeshReport(
        triangles=len(faces),
        vertices=len(mesh.vertices),
        size_mm=(float(size[0]), float(size[1]), float(size[2])),
        volume_mm3=round(volume, 6),
        area_mm2=round(area, 6),
        closed=closed,
        manifold=manifold,
        bodies=bodies,
    )


def _bounds(mesh: Mesh) -> tuple[Floats, Floats]:
    """The extent of the vertices in use."""
    used = np.zeros(len(mesh.vertices), bool)
    used[mesh.faces.ravel()] = True
    kept = mesh.vertices if used.all() else mesh.vertices[used]
    return box_of(kept)


def merge(mesh: Mesh) -> Mesh:
    """Join vertices at exactly the same place and drop the unused, as files like STL need.

    Where they differ in colour they get the mean of theirs.
    """
    corners = mesh.faces.ravel()
    packed = np.ascontiguousarray(mesh.vertices[corners] + np.float32(0))
    first, index = _joined(packed)
    colours = mesh.colours
    if colours is not None:
        count = np.bincount(index)
        sums = [np.bincount(index, colours[corners, k].astype(np.float64)) for k in range(4)]
        colours = np.round(np.column_stack(sums) / count[:, None]).astype(np.uint8)
    return Mesh(packed[first], index.reshape(-1, 3).astype(np.int32), mesh.name, colours)


def merge_corners(corners: Floats, name: str) -> Mesh:
    """A mesh of triangles given by their corners (3F, 3), joined where they are at one place.

    The corners are the caller's no longer: -0 becomes 0 in them.
    """
    corners += np.float32(0)
    first, index = _joined(corners)
    return Mesh(corners[first], index.reshape(-1, 3).astype(np.int32), name)


def _joined(places: Floats) -> tuple[NDArray[np.integer], NDArray[np.integer]]:
    """The first of each place (n, 3), in the order in which they come, and which each is."""
    if many(len(places) // 3):
        from nebrel.core.mesh.compiled import join_places

        found: tuple[NDArray[np.integer], NDArray[np.integer]] = join_places(places.view(np.int32))
        return found
    first, kind = unique_rows(places)
    order = np.argsort(first)
    rank = np.empty_like(order)
    rank[order] = np.arange(len(order))
    return first[order], rank[kind]


def _volume_and_area(mesh: Mesh) -> tuple[float, float]:
    centre = mesh.vertices.mean(axis=0, dtype=np.float64)
    if many(len(mesh.faces)):
        from nebrel.core.mesh.compiled import volume_and_area

        volume, area = volume_and_area(mesh.vertices, mesh.faces, centre)
        return float(volume), float(area)
    volume = area = 0.0
    for start in range(0, len(mesh.faces), 1_000_000):
        corners = mesh.vertices[mesh.faces[start : start + 1_000_000]].astype(np.float64) - centre
        a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
        area += float(np.linalg.norm(np.cross(b - a, c - a), axis=1).sum()) / 2
        volume += float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum()) / 6
    return volume, area


def _topology(faces: NDArray[np.int32]) -> tuple[bool, bool, int]:
    if len(faces) == 0:
        return False, False, 0
    twin, closed, paired = find_twins(faces)
    width = int(faces.max()) + 1
    there = np.zeros(width, bool)
    there[faces.ravel()] = True
    used = int(np.count_nonzero(there))
    manifold = closed and paired and number_fans(twin)[0] == used
    del twin
    # The third edge of a face joins nothing new.
    parts, _ = label_components(width, faces[:, :2].ravel(), faces[:, 1:].ravel())
    return closed, manifold, parts - (width - used)
