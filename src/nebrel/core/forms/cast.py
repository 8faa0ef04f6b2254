"""Art cast on a body along straight lines: towards an axis, or in one direction."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue
from nebrel.core.forms.lying import Lying, distinct, least_radius, lengths_of, turned_to
from nebrel.core.forms.maps import Points
from nebrel.core.mesh.crossing_kernels import first_hits
from nebrel.core.mesh.nearest import Nearby, known_near
from nebrel.core.mesh.place import turned_about

Floats64 = NDArray[np.float64]
Box = tuple[float, float, float, float]
Rays = Callable[[Floats64], tuple[Floats64, Floats64]]
"""From spots (n, 2) to where their lines start and which way they go, (n, 3) each."""

_NODES = 64  # along the longer side, at which its surface is looked at
_LEAST_NODES = 9
_ROUND = 2880  # places around an axis
_ALONG = 2000  # places along it
# The least cosine of the angle between a line and what is outwards.
_STEEP_STRAIGHT, _STEEP_AROUND = 0.5, 0.25
_LONGER = 4.0  # times that a line may become as long
_ALL_ROUND = 0.02  # of once around: so near to it is meant to be once around
_STRAIGHT = 0.002  # of its length, that a straight line may bend
_HAIR = 1e-6  # of its size
_BESIDE = ((1.0, 0.7, -0.4), (-0.6, -1.0, 0.8), (0.3, -0.5, 1.0))
_NEAR = 0.05  # of its size, by which the surface may miss the place that was pointed at


@dataclass(frozen=True)
class Cast(Lying):
    """Spots that lie where straight lines meet the body.

    Attributes
    ----------
    rays : the line of each spot
    box : (left, bottom, right, top) of what lies there, from its middle
    surface, normals : (rows, cols, 3) at nodes evenly over that, from below on the left
    once : whether it goes once around
    turn_mm : how long once around is
    """

    rays: Rays
    box: Box
    surface: Floats64
    normals: Floats64
    once: bool = field(default=False)
    turn_mm: float | None = field(default=None)

    @property
    def around(self) -> bool:
        """Whether it goes once around, its left end meeting its right one."""
        return self.once

    @property
    def round_mm(self) -> float | None:
        """How long once around is, where it is bent around something."""
        return self.turn_mm

    def covers(self, spots: Points) -> NDArray[np.bool_]:
        """Those in its box, or all along it where it goes once around."""
        left, bottom, right, top = self.box
        across = (spots[:, 0] >= left - 1e-9) & (spots[:, 0] <= right + 1e-9) | self.once
        found: NDArray[np.bool_] = across & (spots[:, 1] >= bottom - 1e-9)
        return found & (spots[:, 1] <= top + 1e-9)

    def place(self, points: Points) -> Points:
        """Points (n, 3), u to the right, v up, h along the normal, in space."""
        spots, which = distinct(points[:, :2])
        surface, hit = _meet(self.body, self.rays, spots)
        missed = np.logical_not(hit)
        surface[missed] = self._between(self.surface, spots[missed])
        normals = self._between(self.normals, spots)
        normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
        return surface[which] + points[:, 2:] * normals[which]

    def _between(self, nodes: Floats64, spots: Floats64) -> Floats64:
        """Values at spots from those at the nodes around them."""
        from scipy.ndimage import map_coordinates

        rows, cols = nodes.shape[:2]
        left, bottom, right, top = self.box
        across = (spots[:, 0] - left) / (right - left) * (cols - 1)
        if self.once:
            across = across % (cols - 1)
        up = (spots[:, 1] - bottom) / (top - bottom) * (rows - 1)
        at = np.stack([up, across])
        each = [map_coordinates(nodes[..., k], at, order=1, mode="nearest") for k in range(3)]
        return np.column_stack(each)


def straight_on(
    body: Mesh,
    at_mm: tuple[float, float, float],
    up: tuple[float, float, float],
    turn: float,
    size_mm: tuple[float, float],
    box: Box | None = None,
) -> Cast:
    """Art that is laid on in one direction: against what is outwards around its middle.

    Parameters
    ----------
    body, at_mm, up, turn : as of `unroll`
    size_mm : width and height of the art
    box : what of that there is any art in; left out: all

    Raises
    ------
    InvalidValue : something of it misses the body, or falls on what is steep; says what fits
    """
    near = known_near(body)
    reach = float(np.hypot(*size_mm)) / 2
    middle, own = _pointed_at(near, at_mm)
    outward = _mostly(near, middle, own, reach)
    right, ahead = _across(outward)
    towards = turned_to(right, ahead, outward, up, turn).T
    frame = np.stack([right, ahead])

    def rays(spots: Floats64) -> tuple[Floats64, Floats64]:
        starts = middle + spots @ towards @ frame + outward * reach
        return starts, np.broadcast_to(-outward, starts.shape)

    seen = box or _whole(size_mm)
    return _cast(near, rays, size_mm, seen, _STEEP_STRAIGHT, "too steep to be laid on straight")


def around_axis(
    body: Mesh,
    at_mm: tuple[float, float, float],
    up: tuple[float, float, float],
    turn: float,
    size_mm: tuple[float, float],
    axis: int,
    level: bool = False,
    box: Box | None = None,
) -> Cast:
    """Art that is bent around the axis that a body is turned about, or one through its middle.

    Lengths along the middle line around it, and along the line up, are exact; on cylinders and
    cones all are, but where it goes once around a cone or lines are to stay level.

    Parameters
    ----------
    body, at_mm, up, turn, size_mm, box : as of `straight_on`; within `_ALL_ROUND` of the way around
        the art goes once around
    axis : 0 is x, 2 is z
    level : lines across stay at one place along the axis, on a cone too

    Raises
    ------
    InvalidValue : as `straight_on`; or the place faces along the axis; or it overlaps itself
    """
    near = known_near(body)
    middle, own = _pointed_at(near, at_mm)
    along = np.eye(3)[axis]
    if along @ np.asarray(up) < 0:
        along = -along
    centre = np.asarray(turned_about(body, axis))
    centre = centre + ((middle - centre) @ along) * along
    out = middle - centre
    radius = float(np.linalg.norm(out))
    scale = float(np.ptp(near.corners.reshape(-1, 3), axis=0).max())
    if radius < 1e-4 * scale or abs(own @ along) > 0.995:
        raise InvalidValue(
            "place", "the surface there faces along the axis", "Choose a place beside the axis"
        )
    out /= radius
    inside = own @ out < 0
    side = np.cross(along, out) * (-1 if inside else 1)
    line = _Line(near, centre, along, out, side, bool(inside), scale)
    if not np.linalg.norm(line.at(np.zeros(1), np.zeros(1))[0][0] - middle) <= _NEAR * scale:
        raise InvalidValue(
            "place", "something lies between it and the axis, or before it", "Choose another place"
        )
    outward = -out if inside else out
    towards = turned_to(side, along, outward, up, turn).T
    upright = abs(towards[0, 1]) < 1e-6
    round_mm = line.round_mm
    once = bool(upright and round_mm and abs(size_mm[0] / round_mm - 1) <= _ALL_ROUND)
    lean = 0.0 if level or once else line.lean(float(np.hypot(*size_mm)) / 2)
    scaled = np.array([(round_mm or 0.0) / size_mm[0], 1.0]) if once else np.ones(2)

    def rays(spots: Floats64) -> tuple[Floats64, Floats64]:
        u, v = (spots * scaled @ towards).T
        if lean:
            # The cone that lies along it there, cut open and laid flat.
            slant = line.radius_mm / lean
            away, angle = np.hypot(u, slant - v), np.arctan2(u, slant - v)
            if slant < 0:
                angle = np.arctan2(-u, v - slant)
            u, v = slant * angle, slant - np.sign(slant) * away
        return line.rays(u, v)

    span = np.abs(_rim(size_mm) * scaled @ towards)[:, 0].max()
    if round_mm and not once and 2 * span > round_mm:
        raise InvalidValue(
            "size",
            f"it is {2 * span:.4g} mm wide and once around is {round_mm:.4g} mm: it would overlap "
            "itself",
            f"Make it {round_mm:.5g} mm wide, to go once around, or narrower",
        )
    whole = _whole(size_mm)
    seen = box or whole
    if once:
        seen = whole[0], seen[1], whole[2], seen[3]
    found = _cast(near, rays, size_mm, seen, _STEEP_AROUND, "too steep to be bent around the axis")
    return replace(found, once=once, turn_mm=round_mm)


@dataclass(frozen=True)
class _Line:
    """Lines towards an axis, or away from it within a hollow body.

    Attributes
    ----------
    centre : on the axis, as far along it as the place
    along, out, side : up the axis, from it to the place, and to the right there
    """

    near: Nearby
    centre: Floats64
    along: Floats64
    out: Floats64
    side: Floats64
    inside: bool
    scale: float
    _turns: tuple[Floats64, Floats64] = field(init=False)
    _rises: tuple[Floats64, Floats64] = field(init=False)

    def __post_init__(self) -> None:
        angle = np.linspace(-np.pi, np.pi, _ROUND + 1)
        object.__setattr__(self, "_turns", self._lengths(angle, np.zeros(_ROUND + 1), angle))
        rise = np.linspace(-1, 1, 2 * _ALONG + 1) * self.scale
        object.__setattr__(self, "_rises", self._lengths(np.zeros(len(rise)), rise, rise))

    def at(self, angle: Floats64, rise: Floats64) -> tuple[Floats64, NDArray[np.bool_]]:
        """Where the lines at angles and heights along the axis meet the body, and whether."""
        return _met(self.near, *self._starts(angle, rise))

    def _starts(self, angle: Floats64, rise: Floats64) -> tuple[Floats64, Floats64]:
        ways = np.cos(angle)[:, None] * self.out + np.sin(angle)[:, None] * self.side
        starts = self.centre + rise[:, None] * self.along
        if self.inside:
            return starts, ways
        return starts + ways * self.scale * 2, -ways

    def _lengths(
        self, angle: Floats64, rise: Floats64, known: Floats64
    ) -> tuple[Floats64, Floats64]:
        """What is known as a function of the length along the surface, around 0 without a gap."""
        places, hit = self.at(angle, rise)
        steps = np.linalg.norm(np.diff(places, axis=0), axis=1)
        even = np.hypot(
            np.diff(angle) * np.linalg.norm(places[len(places) // 2] - self.centre), np.diff(rise)
        )
        sound = hit[1:] & hit[:-1] & (steps < 6 * even + 1e-9)
        zero = len(known) // 2
        last = zero + int(np.argmin(np.append(sound[zero:], False)))
        first = zero - int(np.argmin(np.append(sound[:zero][::-1], False)))
        length = np.concatenate([[0.0], np.cumsum(steps)])
        length = length - length[zero]
        return length[first : last + 1], known[first : last + 1]

    @property
    def radius_mm(self) -> float:
        """Of a round as long as once around; of the place, where nothing goes around."""
        if self.round_mm is None:
            return float(np.linalg.norm(self.at(np.zeros(1), np.zeros(1))[0][0] - self.centre))
        return self.round_mm / (2 * np.pi)

    @property
    def round_mm(self) -> float | None:
        """How long once around is; None where nothing goes around."""
        length, angle = self._turns
        whole = len(angle) == _ROUND + 1
        return float(length[-1] - length[0]) if whole else None

    def lean(self, reach_mm: float) -> float:
        """How much narrower it becomes, for each mm upwards along it, where it does so evenly."""
        length, rise = self._rises
        near = np.abs(length) <= max(reach_mm, 3 * self.scale / _ALONG)
        if near.sum() < 4:
            return 0.0
        places, _ = self.at(np.zeros(int(near.sum())), rise[near])
        out = (places - self.centre) @ self.out
        slope, start = np.polyfit(length[near], out, 1)
        off = np.abs(out - slope * length[near] - start).max()
        narrower = -slope
        straight = off <= _STRAIGHT * reach_mm and abs(narrower) > 1e-5
        return float(narrower) if straight else 0.0

    def rays(self, u: Floats64, v: Floats64) -> tuple[Floats64, Floats64]:
        """The lines of what lies so far around and up the surface; none beyond its ends."""
        length, angle = self._turns
        turned = np.interp(u, length, angle, left=np.nan, right=np.nan)
        if self.round_mm is not None:  # on and on
            turns = np.floor((u - length[0]) / self.round_mm)
            turned = np.interp(u - turns * self.round_mm, length, angle) + turns * 2 * np.pi
        rise = np.interp(v, *self._rises, left=np.nan, right=np.nan)
        return self._starts(turned, rise)


def _met(near: Nearby, starts: Floats64, ways: Floats64) -> tuple[Floats64, NDArray[np.bool_]]:
    """Where lines first meet a body, and whether they do."""
    known = np.asarray(np.isfinite(np.hstack([starts, ways])).all(axis=1))
    starts = np.ascontiguousarray(np.where(known[:, None], starts, 0.0))
    ways = np.ascontiguousarray(np.where(known[:, None], ways, 1.0))
    away, face = first_hits(near.corners, near.boxes, starts, ways, 0.0, np.inf)
    hit = known & (face >= 0)
    # A line along an edge may slip through between its triangles: those beside it do not.
    hair = _HAIR * float(np.abs(near.corners).max(initial=1.0))
    for aside in _BESIDE:
        lost = np.flatnonzero(known & ~hit)
        if not len(lost):
            break
        beside = np.ascontiguousarray(starts[lost] + hair * np.array(aside))
        own, found = first_hits(
            near.corners, near.boxes, beside, np.ascontiguousarray(ways[lost]), 0.0, np.inf
        )
        away[lost], hit[lost] = own, found >= 0
    away = np.where(hit, away, 0.0)
    return starts + ways * away[:, None], hit


def _meet(near: Nearby, rays: Rays, spots: Floats64) -> tuple[Floats64, NDArray[np.bool_]]:
    return _met(near, *rays(spots))


def _cast(
    near: Nearby,
    rays: Rays,
    size_mm: tuple[float, float],
    box: Box,
    least_facing: float,
    steep: str,
) -> Cast:
    """Look at the surface at nodes all over the art. Raises InvalidValue, saying what fits."""
    wide, tall = size_mm
    left, bottom, right, top = box
    sides = right - left, top - bottom
    longer = max(sides)
    cols, rows = (max(_LEAST_NODES, round(_NODES * side / longer) | 1) for side in sides)
    u, v = np.linspace(left, right, cols), np.linspace(bottom, top, rows)
    spots = np.stack(np.meshgrid(u, v), axis=-1).reshape(-1, 2)
    starts, ways = rays(spots)
    surface, hit = _met(near, starts, ways)
    bad = np.asarray(~hit.reshape(rows, cols))
    surface, ways = surface.reshape(rows, cols, 3), ways.reshape(rows, cols, 3)
    along: Floats64 = np.asarray(np.gradient(surface, u, axis=1, edge_order=2))
    upwards: Floats64 = np.asarray(np.gradient(surface, v, axis=0, edge_order=2))
    normals: Floats64 = np.cross(along, upwards)
    normals /= np.maximum(np.linalg.norm(normals, axis=2, keepdims=True), 1e-12)
    facing = -np.einsum("ijk,ijk->ij", normals, ways)
    least, most = lengths_of(along, upwards)
    bad = np.asarray(bad | (facing < least_facing) | (most > _LONGER) | ~np.isfinite(facing))
    if bad.any():
        share = np.maximum(np.abs(spots[:, 0]) * 2 / wide, np.abs(spots[:, 1]) * 2 / tall)
        fits = float(share[bad.ravel()].min()) * 0.98
        missed = not hit.all()
        raise InvalidValue(
            "size" if fits > 0.05 else "place",
            "it reaches beyond the surface" if missed else f"the surface is {steep}",
            f"Make it no larger than {wide * fits:.3g} × {tall * fits:.3g} mm, or choose another "
            "place"
            if fits > 0.05
            else "Choose another place",
        )
    radius = min(
        least_radius(*(np.linalg.norm(np.diff(of, axis=k), axis=2) for of in (normals, surface)))
        for k in (0, 1)
    )
    stretch = float(least.min()), float(most.max())
    return Cast(near, stretch, radius, rays, box, surface, normals)


def _whole(size_mm: tuple[float, float]) -> Box:
    wide, tall = size_mm
    return -wide / 2, -tall / 2, wide / 2, tall / 2


def _rim(size_mm: tuple[float, float]) -> Floats64:
    half = np.array(size_mm) / 2
    return np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]) * half


def _pointed_at(near: Nearby, at_mm: tuple[float, float, float]) -> tuple[Floats64, Floats64]:
    """The nearest place of the surface, and what is outwards there."""
    _, face, place = near.nearest(np.asarray([at_mm], np.float64))
    a, b, c = near.corners[face[0]]
    normal = np.cross(b - a, c - a)
    return place[0], normal / max(float(np.linalg.norm(normal)), 1e-12)


def _mostly(near: Nearby, middle: Floats64, own: Floats64, reach_mm: float) -> Floats64:
    """What is outwards around a place: of what looks about the same way."""
    corners = near.corners
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    away = np.linalg.norm(corners.mean(axis=1) - middle, axis=1)
    same = (away <= 0.5 * reach_mm) & (normals @ own > 0.9 * np.linalg.norm(normals, axis=1))
    found = normals[same].sum(axis=0) if same.any() else own
    return np.asarray(found / max(float(np.linalg.norm(found)), 1e-12))


def _across(outward: Floats64) -> tuple[Floats64, Floats64]:
    """Two ways at right angles to one, so that right, ahead and outward are right-handed."""
    helper = np.eye(3)[int(np.abs(outward).argmin())]
    right = np.cross(helper, outward)
    right /= np.linalg.norm(right)
    return right, np.cross(outward, right)
