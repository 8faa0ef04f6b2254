"""Flat art before it is laid on a body: fading to nothing, rounded where it meets the surface."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import InvalidValue
from nebrel.core.kernel import Region, Solid, circle, grown
from nebrel.core.mesh.nearest import Nearby
from nebrel.core.solid.terraced import terraced

FadeTo = Literal["none", "rim", "left", "right", "top", "bottom", "brush"]
Run = tuple[NDArray[np.float64], float]
"""The places (n, 2) of a stroke of a brush over art, mm from its corner, and how wide it is."""
_STEPS = 12  # of a round
_PARTS = 16  # along what fades
_LEAST_MM = 0.05
_POINTED_MM = 0.01, 0.1, 0.4
_HAIR_MM = 0.02  # by which a part and what is left of its art are told apart
_HAIR = 1e-6  # of its box, that art may leave free
_ABOVE_MM = 0.005  # of the surface, where its outline there is taken


def faded(
    art: Solid, to: FadeTo, over_mm: float, level_mm: float, strokes: Sequence[Run] = ()
) -> Solid:
    """Art whose heights above, and depths below, a level go down to nothing.

    Parameters
    ----------
    to : towards where the art ends all around, towards one side of it, or towards the strokes of a
        brush
    strokes : under these nothing is left
    over_mm : from full depth to nothing
    level_mm : the height that comes to lie on the surface; what is deeper than that in the body
        stays
    """
    left, bottom, low, right, top, _ = art.bounding_box()
    # A box is told by its sides: what was made so before stays the same.
    rim = _rim(art, level_mm) if to == "rim" else None

    def share(x: NDArray[np.float64], y: NDArray[np.float64]) -> NDArray[np.float64]:
        if to == "brush":
            return _eased(_beyond(np.column_stack([x, y]), strokes) / over_mm)
        if rim is not None:
            places = np.column_stack([x, y, np.zeros(len(x))])
            return _eased(rim.nearest(places)[0] / over_mm)
        sides = {"left": x - left, "right": right - x, "bottom": y - bottom, "top": top - y}
        away = np.min(list(sides.values()), axis=0) if to == "rim" else sides[to]
        return _eased(away / over_mm)

    def warp(points: NDArray[np.float64]) -> NDArray[np.float64]:
        found = np.array(points)
        above = found[:, 2] > low + 1e-9  # its underside stays
        kept = share(found[above, 0], found[above, 1])
        found[above, 2] = level_mm + (found[above, 2] - level_mm) * kept
        return found

    return art.refine_to_length(max(over_mm / _PARTS, _LEAST_MM)).warp_batch(warp)


def _rim(art: Solid, level_mm: float) -> Nearby | None:
    """Where art ends, between its underside and a level; None where that is its box."""
    left, bottom, low, right, top, _ = art.bounding_box()
    ends = art.slice(low + (level_mm - low) / 2 if level_mm > low else low + _ABOVE_MM)
    if ends.is_empty() or ends.area() > (1 - _HAIR) * (right - left) * (top - bottom):
        return None
    return Nearby.of_lines([np.concatenate([loop, loop[:1]]) for loop in ends.to_polygons()])


def _eased(share: NDArray[np.float64]) -> NDArray[np.float64]:
    part = np.clip(share, 0, 1)
    return np.asarray(part * part * (3 - 2 * part))


def _beyond(spots: NDArray[np.float64], strokes: Sequence[Run]) -> NDArray[np.float64]:
    """How far spots (n, 2) are from what a brush went over, mm; 0 under it."""
    away = np.full(len(spots), np.inf)
    for places, wide_mm in strokes:
        own = Nearby.of_lines([places]).nearest(np.column_stack([spots, np.zeros(len(spots))]))[0]
        away = np.minimum(away, np.maximum(0, own - wide_mm / 2))
    return away


def parted(
    art: Solid, parts: Sequence[tuple[tuple[float, float], float]], level_mm: float
) -> tuple[Solid, list[tuple[Solid, float]]]:
    """Art without some of its parts, and these with a depth of their own.

    A part is what hangs together where the art is cut at the level of the surface.

    Parameters
    ----------
    parts : a spot in each, mm from the corner of the art, and its depth; below 0 it is sunk
    level_mm : the height that comes to lie on the surface

    Raises
    ------
    InvalidValue : nothing of the art stands above the surface there
    """
    alone = list(art.slice(level_mm + _ABOVE_MM).decompose())
    left, found = art, []
    for spot, deep_mm in parts:
        own = _under(alone, spot)
        if own is None:
            raise InvalidValue("part", "nothing stands alone there", "Point at a part of the art")
        alone.remove(own)
        low, high = art.bounding_box()[2] - 1, art.bounding_box()[5] + 1
        # What is cut through the walls of the art themselves leaves slivers. Where the two hang
        # together below the surface, the part reaches into what is left: no wall lies on another.
        taken, column = (
            grown(own, by).extrude(high - low).translate((0.0, 0.0, low))
            for by in (_HAIR_MM, 2 * _HAIR_MM)
        )
        left, part = left - taken, art ^ column
        times = abs(deep_mm) / max(part.bounding_box()[5] - level_mm, _ABOVE_MM)

        def scaled(points: NDArray[np.float64], times: float = times) -> NDArray[np.float64]:
            moved = np.array(points)
            above = moved[:, 2] > level_mm
            moved[above, 2] = level_mm + (moved[above, 2] - level_mm) * times
            return moved

        if abs(deep_mm) > _ABOVE_MM:
            found.append((part.warp_batch(scaled), deep_mm))
    return left, found


def _under(alone: Sequence[Region], spot: tuple[float, float]) -> Region | None:
    """What lies under a spot, or as near to it as one points."""
    for radius_mm in _POINTED_MM:
        at = circle(radius_mm, 16).translate(spot)
        for one in alone:
            if not (one ^ at).is_empty():
                return one
    return None


def with_fillet(art: Solid, radius_mm: float, level_mm: float) -> Solid:
    """Art with a round of a radius in the corner between its walls and the surface.

    Parameters
    ----------
    level_mm : the height that comes to lie on the surface
    """
    top = float(art.bounding_box()[5])
    foot = art.slice(level_mm + _ABOVE_MM)
    radius = min(radius_mm, top - level_mm)
    if radius < 2 * _ABOVE_MM or foot.is_empty():
        return art
    angle = np.linspace(0, np.pi / 2, _STEPS + 1)[:-1]
    contours: list[tuple[Region, float]] = [
        (grown(foot, float(radius * (1 - np.sin(a)))), level_mm + float(radius * (1 - np.cos(a))))
        for a in angle
    ]
    round_ = terraced(contours)
    # Further down it is as deep as the art itself.
    below = art.bounding_box()[2]
    return art + round_.trim_by_plane((0.0, 0.0, 1.0), float(below))
