"""A tiling picture of heights all over a surface, or over some of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Mesh
from nebrel.core.errors import InvalidValue
from nebrel.core.mesh.crossing_kernels import first_hits
from nebrel.core.mesh.held_back import held_back
from nebrel.core.mesh.nearest import Nearby
from nebrel.core.mesh.normals import outward_of
from nebrel.core.mesh.place import turned_about
from nebrel.core.mesh.refine import refine
from nebrel.core.mesh.smooth import Stroke, passed

Way = Literal["out", "in", "even"]
Lie = Literal["sides", "axis"]
_MOST = 4_000_000
_MOST_DRAWN = 150_000
_LET_BE = 0.002  # of the triangles, that may stay too large
_COARSE = 1 / 12  # of a tile
_SHARP = 6  # power of what shares a place between the sides
_ASKED = 4000  # places whose wall is measured
_LEFT_MM = 0.1
_OPPOSITE = 0.85  # cosine between a way through a wall and what its other side looks
_PROFILE = 4000  # places along an axis
Floats64 = NDArray[np.float64]


@dataclass(frozen=True)
class Tile:
    """A picture of heights that goes on at its other side.

    Attributes
    ----------
    tones : (rows, cols) float32, 0 to 1, 1 stands high
    wide_mm : of one of it
    """

    tones: Floats
    wide_mm: float

    @property
    def tall_mm(self) -> float:
        """Of one of it: as many pixels as it has rows."""
        return self.wide_mm * self.tones.shape[0] / self.tones.shape[1]

    def at(self, u: Floats64, v: Floats64) -> Floats64:
        """Tones at places, mm to the right and up, again and again."""
        rows, cols = self.tones.shape
        x, y = u / self.wide_mm * cols, -v / self.tall_mm * rows
        left, top = np.floor(x).astype(np.int64), np.floor(y).astype(np.int64)
        a, b = x - left, y - top
        one = [[self.tones[(top + j) % rows, (left + i) % cols] for i in (0, 1)] for j in (0, 1)]
        upper = one[0][0] * (1 - a) + one[0][1] * a
        lower = one[1][0] * (1 - a) + one[1][1] * a
        return np.asarray(upper * (1 - b) + lower * b, np.float64)


@dataclass(frozen=True)
class Region:
    """Which of a surface.

    Attributes
    ----------
    facing : a way that it looks, and by how many degrees it may look aside; None: any
    beyond : axis, mm along it, and whether above that; None: anywhere
    strokes : it was passed by these; None: it need not be
    fade_mm : over which the heights go down to nothing at its border
    """

    facing: tuple[tuple[float, float, float], float] | None = None
    beyond: tuple[int, float, bool] | None = None
    strokes: Sequence[Stroke] | None = None
    fade_mm: float = 1.0

    @property
    def whole(self) -> bool:
        """Whether it is all of a surface."""
        return self.facing is None and self.beyond is None and self.strokes is None


def textured(
    body: Mesh,
    tile: Tile,
    depth_mm: float,
    way: Way,
    region: Region,
    lie: Lie = "sides",
    axis: int = 2,
    turn: float = 0.0,
    detail_mm: float | None = None,
    draft: bool = False,
) -> Mesh:
    """A body with a picture of heights all over some of it, along its normals; without a seam.

    What is beside the region stays, triangle for triangle.

    Parameters
    ----------
    body : closed
    way : it stands out, goes in, or half of each
    lie : seen from six sides, which blend into each other where the surface turns; or around an
        axis through the middle, as often as fits whole
    turn : degrees to the left
    detail_mm : how small its triangles may become; an 80th of the tile when left out
    draft : to be looked at

    Raises
    ------
    InvalidValue : nothing lies in the region, the wall is thinner, or it is too much detail
    """
    edge = max(tile.wide_mm / 80 if detail_mm is None else detail_mm, 0.02)
    off_mm = max(0.012, depth_mm / 60)
    if draft:
        edge, off_mm = 2 * edge, max(0.03, depth_mm / 20)
    covered = _faces_in(body, region)
    if not covered.any():
        raise InvalidValue("region", "nothing of the body lies in it", "Make it larger")
    least = 2.6 * float(_areas(body)[covered].sum()) / max(edge, tile.wide_mm * _COARSE) ** 2
    if least > _MOST and not draft:
        raise _too_fine(edge)
    deep = {"out": 0.0, "in": depth_mm, "even": depth_mm / 2}[way]
    if deep:
        _check_wall(body, covered, deep)
    seen = _Seen(tile, lie, axis, turn, body)

    def long(vertices: Floats, faces: NDArray[np.int32]) -> NDArray[np.bool_]:
        corners = vertices[faces].astype(np.float64)
        ahead = np.roll(corners, -1, axis=1)
        sides = np.linalg.norm(ahead - corners, axis=2)
        found: NDArray[np.bool_] = _faces_in(Mesh(vertices, faces), region)
        found &= sides.max(axis=1) > edge
        # What is small enough to miss nothing is cut further only where it is off by too much.
        rows = np.flatnonzero(found & (sides.max(axis=1) <= tile.wide_mm * _COARSE))
        one, other = corners[rows, 1] - corners[rows, 0], corners[rows, 2] - corners[rows, 0]
        cross = np.cross(one, other)
        normals = cross / np.maximum(np.linalg.norm(cross, axis=1, keepdims=True), 1e-300)
        at = np.stack([corners[rows], (corners[rows] + ahead[rows]) / 2], axis=1).reshape(-1, 3)
        high = depth_mm * seen.tones(at, np.repeat(normals, 6, axis=0)).reshape(-1, 2, 3)
        off = np.abs(high[:, 1] - (high[:, 0] + np.roll(high[:, 0], -1, axis=1)) / 2)
        found[rows] = (off > off_mm).any(axis=1)
        return found

    fine, whole = refine(body, long, (_MOST_DRAWN if draft else _MOST) + len(body.faces))
    # The last few of very long triangles are let be; where it is stopped, most are left.
    if not whole and not draft and long(fine.vertices, fine.faces).mean() > _LET_BE:
        raise _too_fine(edge)
    weight = _weights(fine, region)
    some = np.flatnonzero(weight > 0)
    if not len(some):
        raise InvalidValue(
            "region", "it fades to nothing before its middle", "Make it larger, or fade it less"
        )
    vertices = fine.vertices.astype(np.float64)
    normals = outward_of(vertices, fine.faces)
    tone = seen.tones(vertices[some], normals[some])
    level = {"out": 0.0, "in": -1.0, "even": -0.5}[way]
    moved = vertices.copy()
    moved[some] += (depth_mm * (tone + level) * weight[some])[:, None] * normals[some]
    if not draft:
        moved, _ = held_back(vertices, moved, fine.faces)
    return replace(fine, vertices=moved.astype(np.float32))


def _too_fine(edge_mm: float) -> InvalidValue:
    return InvalidValue(
        "detail",
        f"it makes more than {_MOST / 1e6:g} million triangles",
        f"Make it coarser than {edge_mm:.3g} mm, or the tile larger",
    )


def _areas(mesh: Mesh) -> Floats64:
    corners = mesh.vertices[mesh.faces].astype(np.float64)
    cross = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    found: Floats64 = np.linalg.norm(cross, axis=1) / 2
    return found


def _faces_in(mesh: Mesh, region: Region) -> NDArray[np.bool_]:
    """Faces that lie in a region; of one that is drawn or cut, those that reach into it."""
    found = np.ones(len(mesh.faces), bool)
    if region.facing is not None:
        way, degrees = region.facing
        corners = mesh.vertices[mesh.faces].astype(np.float64)
        normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        length = np.maximum(np.linalg.norm(normals, axis=1), 1e-300)
        towards = np.asarray(way, np.float64)
        towards /= max(float(np.linalg.norm(towards)), 1e-12)
        found &= normals @ towards >= np.cos(np.radians(degrees)) * length
    if region.beyond is not None:
        axis, at, above = region.beyond
        along = mesh.vertices[:, axis][mesh.faces]
        found &= (along.max(axis=1) > at) if above else (along.min(axis=1) < at)
    if region.strokes is not None:
        near = np.zeros(len(mesh.faces), bool)
        for stroke in region.strokes:
            places = np.asarray(stroke.places, np.float64)
            low, high = places.min(axis=0), places.max(axis=0)
            half = stroke.wide_mm / 2
            places_of = mesh.vertices[mesh.faces]
            near |= (
                (places_of.max(axis=1) >= low - half) & (places_of.min(axis=1) <= high + half)
            ).all(axis=1)
        large = near & (_areas(mesh) > min(s.wide_mm for s in region.strokes) ** 2 / 20)
        reached = passed(mesh, region.strokes)[0] > 0
        found &= reached[mesh.faces].any(axis=1) | large
    return found


def _weights(mesh: Mesh, region: Region) -> Floats64:
    """How much of the heights each vertex has: all in the region, nothing at its border."""
    if region.whole:
        return np.ones(len(mesh.vertices))
    held = _faces_in(mesh, region)
    inner = np.ones(len(mesh.vertices), bool)
    inner[mesh.faces[~held].ravel()] = False
    if region.beyond is not None:
        axis, at, above = region.beyond
        inner &= (mesh.vertices[:, axis] > at) == above
    weight = np.zeros(len(mesh.vertices))
    if region.strokes is not None:
        inner &= passed(mesh, region.strokes)[0] > 0
    weight[inner] = 1.0
    if region.fade_mm > 0 and inner.any():
        from scipy.spatial import cKDTree

        rim = np.zeros(len(mesh.vertices), bool)
        mixed = inner[mesh.faces].any(axis=1) & ~inner[mesh.faces].all(axis=1)
        rim[mesh.faces[mixed].ravel()] = True
        rim &= ~inner
        if rim.any():
            away = cKDTree(mesh.vertices[rim]).query(mesh.vertices[inner])[0]
            share = np.clip(np.asarray(away) / region.fade_mm, 0, 1)
            weight[inner] = share * share * (3 - 2 * share)
    return weight


class _Seen:
    """A tile on a body."""

    def __init__(self, tile: Tile, lie: Lie, axis: int, turn: float, body: Mesh) -> None:
        self._tile, self._lie, self._axis = tile, lie, axis
        self._cos, self._sin = np.cos(np.radians(turn)), np.sin(np.radians(turn))
        self._middle = np.asarray(turned_about(body, axis))
        off = body.vertices.astype(np.float64) - self._middle
        radius, _ = self._around(off)
        self._widest = float(radius.max(initial=0.0))
        self._profile = _Profile(off[:, axis], radius)

    def _around(self, off: Floats64) -> tuple[Floats64, Floats64]:
        one, other = off[:, (self._axis + 1) % 3], off[:, (self._axis + 2) % 3]
        return np.hypot(one, other), np.arctan2(other, one)

    def tones(self, places: Floats64, normals: Floats64) -> Floats64:
        """The tones (n,) of places on the surface (n, 3)."""
        off = places - self._middle
        tile = self._tile
        if self._lie == "axis":
            radius, angle = self._around(off)
            # As often around as fits whole, where it is widest; turned it would not meet itself.
            times = max(1, round(2 * np.pi * self._widest / tile.wide_mm))
            rise = self._profile.along(off[:, self._axis], radius)
            return tile.at(angle / (2 * np.pi) * times * tile.wide_mm, rise)
        share = np.abs(normals) ** _SHARP
        share /= np.maximum(share.sum(axis=1, keepdims=True), 1e-300)
        x, y, z = off.T
        found = np.zeros(len(places))
        # Each side is seen from outside, its up the upright axis, or y from above and below.
        for k, (u, v) in enumerate([(y, z), (-x, z), (x, y)]):
            seen = share[:, k] > 1e-4
            right, up = u[seen] * np.sign(normals[seen, k]), v[seen]
            turned = right * self._cos + up * self._sin, up * self._cos - right * self._sin
            found[seen] += share[seen, k] * tile.at(*turned)
        return found


class _Profile:
    """Half of a turned body: how far along it places are, flat ends inwards from its rim."""

    def __init__(self, rise: Floats64, radius: Floats64) -> None:
        self._low, high = float(rise.min()), float(rise.max())
        self._step = max((high - self._low) / _PROFILE, 1e-9)
        widest = np.full(_PROFILE, -1.0)
        np.maximum.at(widest, self._slot(rise), radius)
        known = np.flatnonzero(widest >= 0)
        self._widest = np.interp(np.arange(_PROFILE), known, widest[known])
        steps = np.hypot(np.diff(self._widest), self._step)
        self._length = np.concatenate([[0.0], np.cumsum(steps)])

    def _slot(self, rise: Floats64) -> NDArray[np.int64]:
        return np.clip(((rise - self._low) / self._step).astype(np.int64), 0, _PROFILE - 1)

    def along(self, rise: Floats64, radius: Floats64) -> Floats64:
        """Lengths along it from its lowest, mm (n,)."""
        at, known = (rise - self._low) / self._step, np.arange(_PROFILE) + 0.5
        own = np.interp(at, known, self._length)
        inwards = np.interp(at, known, self._widest) - radius
        slot = self._slot(rise)
        return own + np.where(slot == _PROFILE - 1, inwards, np.where(slot == 0, -inwards, 0.0))


def _check_wall(body: Mesh, covered: NDArray[np.bool_], deep_mm: float) -> None:
    """Raises InvalidValue where the wall under the region is thinner than it goes in."""
    rows = np.flatnonzero(covered)
    if len(rows) > _ASKED:
        rows = rows[np.linspace(0, len(rows) - 1, _ASKED).astype(int)]
    corners = body.vertices[body.faces[rows]].astype(np.float64)
    ways = -np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    ways /= np.maximum(np.linalg.norm(ways, axis=1, keepdims=True), 1e-300)
    near = Nearby.of(body)
    starts = np.ascontiguousarray(corners.mean(axis=1) + 1e-4 * ways)
    away, face = first_hits(near.corners, near.boxes, starts, np.ascontiguousarray(ways), 1e-4, 1e9)
    # Across an edge the way is short, too; the other side of a wall looks the other way.
    hit = near.corners[np.maximum(face, 0)]
    outward = np.cross(hit[:, 1] - hit[:, 0], hit[:, 2] - hit[:, 0])
    length = np.maximum(np.linalg.norm(outward, axis=1), 1e-300)
    across = (face >= 0) & (np.einsum("ij,ij->i", outward, ways) > _OPPOSITE * length)
    wall = float(away[across].min(initial=np.inf))
    if wall < deep_mm + _LEFT_MM:
        raise InvalidValue(
            "depth",
            f"the wall is {wall:.3g} mm thick there, and it goes in by {deep_mm:.3g} mm",
            f"Allow no more than {max(0.0, wall - _LEFT_MM):.2g} mm, or let it stand out",
        )
