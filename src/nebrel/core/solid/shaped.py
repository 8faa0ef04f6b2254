"""Flat art before it is laid on a body: fading to nothing, rounded where it meets the surface."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.kernel import Region, Solid, grown
from nebrel.core.solid.terraced import terraced

FadeTo = Literal["none", "rim", "left", "right", "top", "bottom"]
_STEPS = 12  # of a round
_PARTS = 16  # along what fades
_LEAST_MM = 0.05
_ABOVE_MM = 0.005  # of the surface, where its outline there is taken


def faded(art: Solid, to: FadeTo, over_mm: float, level_mm: float) -> Solid:
    """Art whose heights above, and depths below, a level go down to nothing.

    Parameters
    ----------
    to : towards all sides of the art, or towards one
    over_mm : from full depth to nothing
    level_mm : the height that comes to lie on the surface; what is deeper than that in the body
        stays
    """
    left, bottom, low, right, top, _ = art.bounding_box()

    def share(x: NDArray[np.float64], y: NDArray[np.float64]) -> NDArray[np.float64]:
        sides = {"left": x - left, "right": right - x, "bottom": y - bottom, "top": top - y}
        away = np.min(list(sides.values()), axis=0) if to == "rim" else sides[to]
        part = np.clip(away / over_mm, 0, 1)
        return np.asarray(part * part * (3 - 2 * part))

    def warp(points: NDArray[np.float64]) -> NDArray[np.float64]:
        found = np.array(points)
        above = found[:, 2] > low + 1e-9  # its underside stays
        kept = share(found[above, 0], found[above, 1])
        found[above, 2] = level_mm + (found[above, 2] - level_mm) * kept
        return found

    return art.refine_to_length(max(over_mm / _PARTS, _LEAST_MM)).warp_batch(warp)


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
