"""A place of a body unrolled: which spot of its surface lies how far from the middle."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue, NotSolid
from nebrel.core.forms.lying import Lying, distinct, least_radius, lengths_of, turned_to
from nebrel.core.forms.maps import Points
from nebrel.core.mesh.components import label_components
from nebrel.core.mesh.even import even
from nebrel.core.mesh.faults import Edges
from nebrel.core.mesh.measure import measure, merge
from nebrel.core.mesh.nearest import Nearby, known_near
from nebrel.core.mesh.normals import outward_of
from nebrel.core.mesh.only import only
from nebrel.core.mesh.refine import refine

_FINE, _DRAWN = 14, 8  # edges from the middle of a patch to as far as it is needed
_SPARE = 1.7  # how much further than asked for the patch reaches, whose edge is unrolled badly
_KEPT = 1.2  # how much further than asked for it is kept
_ON_EDGE = 0.02  # of the longest side of its triangle: nearer to an edge the middle lies on it
_ASKED = 12  # triangles that are looked at for each spot
_LARGEST = 0.6  # of its reach, that a side of a patch may be as long
_MOST_PATCH = 4_000_000
_MOST_EVENED = 20_000  # edges' squares on a body that is evened whole
_NEARER = 0.95  # of the straight distance, that a spot may seem to be away
_SHORTER = 0.8  # of the way along edges, that a spot may seem to be away
_SLACK = 0.25  # of the reach, besides: near the middle edges lead far about
_TRIES = 8
_FOLD = 0.2  # of its length, that a line may be squeezed to
_FLAT = 2e-6  # of the reach, that a flat place may be off its plane: what float32 leaves
_LEAST_FLAT_MM = 2e-6
Floats64 = NDArray[np.float64]
Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Unrolled(Lying):
    """A patch of a body's surface and where each of its corners lies when it is unrolled.

    Attributes
    ----------
    corners, normals : (T, 3, 3) mm of its triangles, and outwards, softly over the surface
    spots : (T, 3, 2) mm from the middle, to the right and up
    reach_mm : how far around the middle it was asked for, and lies without a fold
    """

    corners: Floats64
    normals: Floats64
    spots: Floats64
    reach_mm: float

    @cached_property
    def _middles(self) -> Any:
        """The middles of its triangles, to be asked for the nearest."""
        from scipy.spatial import cKDTree

        return cKDTree(self.spots.mean(axis=1))

    def covers(self, spots: Points) -> NDArray[np.bool_]:
        """Those within its reach."""
        found: NDArray[np.bool_] = np.hypot(*spots.T) <= self.reach_mm
        return found

    def place(self, points: Points) -> Points:
        """Points (n, 3), u to the right, v up, h along the normal, in space."""
        spots, which = distinct(points[:, :2])
        asked = min(_ASKED, len(self.spots))
        _, near = self._middles.query(spots, k=asked)
        near = np.asarray(near).reshape(len(spots), asked)
        shares = _shares(self.spots[near], spots[:, None])
        best = shares.min(axis=2).argmax(axis=1)
        rows = np.arange(len(spots))
        face, share = near[rows, best], shares[rows, best]
        surface = np.einsum("nk,nkx->nx", share, self.corners[face])
        normals = np.einsum("nk,nkx->nx", share, self.normals[face])
        normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
        surface = self.body.nearest(surface)[2]
        return surface[which] + points[:, 2:] * normals[which]


def _shares(spots: Floats64, at: Floats64) -> Floats64:
    """Barycentric shares of places (n, 1, 2) in triangles (n, k, 3, 2)."""
    a, b, c = spots[..., 0, :], spots[..., 1, :], spots[..., 2, :]
    u, v, w = b - a, c - a, at - a
    area = u[..., 0] * v[..., 1] - u[..., 1] * v[..., 0]
    area = np.where(np.abs(area) < 1e-18, 1e-18, area)
    second = (w[..., 0] * v[..., 1] - w[..., 1] * v[..., 0]) / area
    third = (u[..., 0] * w[..., 1] - u[..., 1] * w[..., 0]) / area
    return np.stack([1 - second - third, second, third], axis=-1)


def unroll(
    body: Mesh,
    at_mm: tuple[float, float, float],
    up: tuple[float, float, float],
    turn: float,
    reach_mm: float,
    draft: bool = False,
    coarse: Callable[[], Mesh | None] | None = None,
) -> Unrolled:
    """The surface around a place, unrolled so that lengths from its middle are kept.

    Parameters
    ----------
    body : closed
    at_mm : the nearest place of the surface is the middle
    up : the way in space that up is nearest to there
    turn : degrees to the left, about the middle
    reach_mm : how far around the middle it is needed
    draft : less closely, and sooner
    coarse : gives the body as of `evened`, which is sooner still; asked where it is not flat

    Raises
    ------
    InvalidValue : it folds, or ends, within that; says how far it reaches

    Source: Sharp, Soliman and Crane, The Vector Heat Method (2019), its logarithmic map.
    """
    near = known_near(body)
    middle = near.nearest(np.asarray([at_mm], np.float64))[2][0]
    patch = _patch(body, near, middle, reach_mm * _SPARE)
    flat = _flat(near, patch, middle, up, turn, reach_mm)
    if flat is not None:
        return flat
    seen = None if coarse is None else coarse()
    if seen is None:
        patch = merge(even(patch, reach_mm / (_DRAWN if draft else _FINE)))
    else:
        patch = _patch(seen, known_near(seen), middle, reach_mm * _SPARE)
    patch = _without_bow_ties(patch)
    vertices, faces, source = _with_vertex(patch, middle)
    import potpourri3d

    solver = potpourri3d.MeshVectorHeatSolver(vertices, faces.astype(np.int32))
    log = np.asarray(solver.compute_log_map(source, strategy="AffineLocal"), np.float64)
    right, ahead, outward = (np.asarray(one)[source] for one in solver.get_tangent_frames())
    spots = log @ turned_to(right, ahead, outward, up, turn)
    if not np.isfinite(spots).all():
        raise InvalidValue("place", "its surface cannot be unrolled there", "Choose another place")
    normals = outward_of(vertices, faces)
    faces = faces[_near(vertices, faces, middle, _KEPT * reach_mm)]
    # Along the surface nothing is nearer than straight on, and what seems much nearer than it is
    # along the edges lies beyond where ways around something meet.
    straight = np.linalg.norm(vertices - vertices[source], axis=1)
    seen = np.hypot(*spots.T)
    along = _along_edges(vertices, faces, source)
    sound = (seen >= _NEARER * straight) & (seen >= _SHORTER * along - _SLACK * reach_mm)
    faces = faces[sound[faces].all(axis=1)]
    reach, stretch = _sound(vertices, spots, faces, middle, reach_mm)
    if reach < reach_mm:
        raise InvalidValue(
            "size",
            f"the surface folds, or ends, {reach:.3g} mm from the middle, and it reaches "
            f"{reach_mm:.3g} mm",
            "Make it smaller, or choose another place",
        )
    radius = _least_radius(vertices, normals, faces, np.hypot(*spots.T) <= reach_mm)
    return Unrolled(near, stretch, radius, vertices[faces], normals[faces], spots[faces], reach_mm)


def _flat(
    body: Nearby,
    patch: Mesh,
    middle: Floats64,
    up: tuple[float, float, float],
    turn: float,
    reach_mm: float,
) -> Unrolled | None:
    """Two triangles for as much as is kept of a patch, where that is flat; None where it is not."""
    faces = patch.faces[_near(patch.vertices, patch.faces, middle, _KEPT * reach_mm)]
    corners = patch.vertices[faces].astype(np.float64)
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    outward = across.sum(axis=0)
    long = float(np.linalg.norm(outward))
    if long <= 0:
        return None
    outward /= long
    off = np.abs((corners - middle) @ outward).max()
    # Folded over it would lie in that plane, too, and so would what ends there.
    if off > _FLAT * reach_mm + _LEAST_FLAT_MM or (across @ outward < 0).any():
        return None
    edges = Edges.of_faces(faces.astype(np.int64))
    ends = patch.vertices[edges.ends[edges.uses != 2]].astype(np.float64) - middle
    if len(ends) and _nearest_to_origin(ends[:, 0], ends[:, 1]) <= reach_mm:
        return None
    right = np.cross(np.eye(3)[np.abs(outward).argmin()], outward)
    right /= np.linalg.norm(right)
    ahead = np.cross(outward, right)
    turned = turned_to(right, ahead, outward, up, turn)
    side = _KEPT * reach_mm
    square = np.array([[-side, -side], [side, -side], [side, side], [-side, side]])
    on = middle + square @ np.linalg.inv(turned) @ np.array([right, ahead])
    halves = np.array([[0, 1, 2], [0, 2, 3]])
    normals = np.tile(outward, (2, 3, 1))
    radius = least_radius(np.zeros(1), np.ones(1))
    return Unrolled(body, (1.0, 1.0), radius, on[halves], normals, square[halves], reach_mm)


def _nearest_to_origin(one: Floats64, other: Floats64) -> float:
    """The smallest distance of lines (n, 3) to (n, 3) from the origin."""
    way = other - one
    share = -(one * way).sum(axis=1) / np.maximum((way**2).sum(axis=1), 1e-300)
    return float(np.linalg.norm(one + np.clip(share, 0, 1)[:, None] * way, axis=1).min())


def _along_edges(vertices: Floats64, faces: Ints, source: int) -> Floats64:
    """How far it is to each vertex along edges, mm: a little more than across the faces."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import dijkstra

    one, other = faces.ravel(), np.roll(faces, -1, axis=1).ravel()
    both = np.unique(np.sort(np.column_stack([one, other]), axis=1), axis=0)
    length = np.linalg.norm(vertices[both[:, 0]] - vertices[both[:, 1]], axis=1)
    count = len(vertices)
    graph = coo_array((np.maximum(length, 1e-12), (both[:, 0], both[:, 1])), (count, count))
    found: Any = dijkstra(graph.tocsr(), directed=False, indices=[source])
    return np.asarray(found, np.float64)[0]


def evened(body: Mesh, reach_mm: float) -> Mesh | None:
    """A body in triangles as patches of drafts are unrolled by; None where that takes long."""
    edge = reach_mm / _DRAWN
    if measure(body).area_mm2 / edge**2 > _MOST_EVENED or edge <= 0:
        return None
    try:
        return even(body, edge)
    except NotSolid:
        return None


def _patch(body: Mesh, near: Nearby, middle: Floats64, reach_mm: float) -> Mesh:
    """The faces near a place that hang together with the one that is nearest."""
    rows = _near(body.vertices, body.faces, middle, reach_mm)
    seed = int(near.order[near.nearest(middle[None])[1][0]])
    rows[seed] = True
    some = only(Mesh(body.vertices, body.faces), rows)
    # Large faces reach far beyond it: they are cut, so that what is far away can be left out.
    largest = _LARGEST * reach_mm

    def large(vertices: NDArray[np.float32], faces: NDArray[np.int32]) -> NDArray[np.bool_]:
        corners = vertices[faces]
        sides = np.linalg.norm(corners - np.roll(corners, 1, axis=1), axis=2).max(axis=1)
        found: NDArray[np.bool_] = (sides > largest) & _near(vertices, faces, middle, reach_mm)
        return found

    some = refine(some, large, _MOST_PATCH)[0]
    some = only(some, _near(some.vertices, some.faces, middle, reach_mm))
    faces = some.faces
    _, part = label_components(len(some.vertices), faces[:, :2].ravel(), faces[:, 1:].ravel())
    own = Nearby.of(some)
    seed = int(own.order[own.nearest(middle[None])[1][0]])
    return only(some, part[faces[:, 0]] == part[faces[seed, 0]])


def _near(
    vertices: NDArray[np.floating], faces: Ints | NDArray[np.int32], middle: Floats64, by_mm: float
) -> NDArray[np.bool_]:
    """Which faces' boxes are no further away than that."""
    # Most are further away already in one coordinate, so these are looked at one by one.
    rows = np.arange(len(faces))
    away = np.zeros(len(faces))
    for k in range(3):
        side = vertices[:, k].astype(np.float64) - middle[k]
        a, b, c = (side[faces[rows, corner]] for corner in range(3))
        beyond = np.maximum(np.minimum(np.minimum(a, b), c), -np.maximum(np.maximum(a, b), c))
        away = away + np.maximum(0, beyond) ** 2
        kept = away <= by_mm**2
        rows, away = rows[kept], away[kept]
    found = np.zeros(len(faces), bool)
    found[rows] = True
    return found


def _largest(mesh: Mesh) -> Mesh:
    faces = mesh.faces
    _, part = label_components(len(mesh.vertices), faces[:, :2].ravel(), faces[:, 1:].ravel())
    own = part[faces[:, 0]]
    return only(mesh, own == np.bincount(own).argmax())


def _without_bow_ties(mesh: Mesh) -> Mesh:
    """The same without faces that touch the rest in one corner alone, or along many."""
    for _ in range(_TRIES):
        edges = Edges.of_faces(mesh.faces.astype(np.int64))
        open_ = np.bincount(edges.ends[edges.uses == 1].ravel(), minlength=len(mesh.vertices))
        many = np.unique(edges.ends[edges.uses > 2])
        bad = open_ > 2
        bad[many] = True
        if not bad.any():
            break
        mesh = _largest(only(mesh, np.asarray(~bad[mesh.faces].any(axis=1))))
    return mesh


def _with_vertex(patch: Mesh, middle: Floats64) -> tuple[Floats64, Ints, int]:
    """The patch with a vertex at its middle: one that is there, or a triangle or an edge is cut."""
    vertices, faces = patch.vertices.astype(np.float64), patch.faces.astype(np.int64)
    near = Nearby.of(patch)
    _, face, on = near.nearest(middle[None])
    row = int(near.order[face[0]])
    corners = vertices[faces[row]]
    away = np.linalg.norm(corners - on[0], axis=1)
    side = float(np.linalg.norm(corners - np.roll(corners, 1, axis=0), axis=1).max())
    if away.min() < 0.15 * side:
        source = int(faces[row, away.argmin()])
        vertices[source] = on[0]
        return vertices, faces, source
    m = len(vertices)
    # On an edge, or nearly: cut into three it would leave a triangle without any width.
    heights = [_off(on[0], corners[k], corners[(k + 1) % 3]) for k in range(3)]
    k = int(np.argmin(heights))
    cut = [row]
    new = [[faces[row, i], faces[row, (i + 1) % 3], m] for i in range(3)]
    if heights[k] < _ON_EDGE * side:
        ends = faces[row, k], faces[row, (k + 1) % 3]
        beside = np.flatnonzero(((faces == ends[0]) | (faces == ends[1])).sum(axis=1) == 2)
        del new[k]
        for other in beside[beside != row]:
            cut.append(int(other))
            j = int(np.flatnonzero(~np.isin(faces[other], ends))[0])
            p, q, r = faces[other, j], faces[other, (j + 1) % 3], faces[other, (j + 2) % 3]
            new += [[p, q, m], [r, p, m]]
    faces = np.concatenate([np.delete(faces, cut, axis=0), new])
    return np.concatenate([vertices, on]), faces, m


def _off(place: Floats64, one: Floats64, other: Floats64) -> float:
    """How far a place is beside a line."""
    way = (other - one) / max(float(np.linalg.norm(other - one)), 1e-300)
    off = place - one
    return float(np.linalg.norm(off - (off @ way) * way))


def _sound(
    vertices: Floats64, spots_of: Floats64, faces: Ints, middle: Floats64, reach_mm: float
) -> tuple[float, tuple[float, float]]:
    """How far around the middle there is surface without a fold, and how lines are stretched."""
    corners, spots = vertices[faces], spots_of[faces]
    u, v = spots[:, 1] - spots[:, 0], spots[:, 2] - spots[:, 0]
    area = u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]
    p, q = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    flat = np.abs(area) < 1e-12
    safe = np.where(flat, 1.0, area)
    # What one mm to the right, and one up, become in space.
    along = (p * v[:, 1:] - q * u[:, 1:]) / safe[:, None]
    upwards = (q * u[:, :1] - p * v[:, :1]) / safe[:, None]
    least, most = lengths_of(along, upwards)
    away = np.linalg.norm(spots, axis=2).min(axis=1)
    folded = flat | (area < 0) | (least < _FOLD) | (most > 1 / _FOLD)
    reach = float(away[folded].min(initial=np.inf))
    edges = Edges.of_faces(faces)
    border = np.unique(edges.ends[edges.uses == 1])
    if len(border):
        # The edge of the patch itself is further away; one of the body may be nearer.
        straight = np.linalg.norm(vertices[border] - middle, axis=1)
        own = straight < _KEPT * reach_mm * 0.98
        reach = min(reach, float(np.linalg.norm(spots_of[border][own], axis=1).min(initial=np.inf)))
    within = (away <= min(reach, reach_mm)) & ~folded
    if not within.any():
        return 0.0, (1.0, 1.0)
    return reach, (float(least[within].min()), float(most[within].max()))


def _least_radius(
    vertices: Floats64, normals: Floats64, faces: Ints, within: NDArray[np.bool_]
) -> float:
    """The smallest radius of curvature within the reach."""
    one, other = faces[:, [0, 1, 2]].ravel(), faces[:, [1, 2, 0]].ravel()
    own = within[one] & within[other]
    if not own.any():
        own[:] = True
    long = np.linalg.norm(vertices[one[own]] - vertices[other[own]], axis=1)
    bend = np.linalg.norm(normals[one[own]] - normals[other[own]], axis=1)
    return least_radius(bend, long)
