"""The maps. Each takes (n, 3) points (u to the right, v up, h along the normal) to space.

h = 0 is the surface that the size is measured on; every map keeps distances along h, so a
thickness is the same everywhere along the normal.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

Points = NDArray[np.float64]
Side = Literal["outside", "inside"]


@dataclass(frozen=True)
class FormMap:
    """One form, ready to be applied.

    Attributes
    ----------
    place : (n, 3) flat mm to (n, 3) mm in space
    flatten : (n, 3) mm in space back to (n, 3) flat mm, u within one turn
    radius_mm : the smallest radius of curvature at h = 0, which says how fine edges must be
    around : whether u goes once around and meets itself
    upright : whether lines along v stay straight, so that they need no finer edges
    out : 1 when heights reach away from the middle of the curve, -1 when towards it
    stretch : mm along the surface for each mm along v, where that is not 1
    pole : whether the upper end comes together in a point
    """

    place: Callable[[Points], Points]
    flatten: Callable[[Points], Points]
    radius_mm: float
    around: bool
    upright: bool = False
    out: float = 1.0
    stretch: float = 1.0
    pole: bool = False


def arc_map(wide_mm: float, bend_rad: float, side: Side) -> FormMap:
    """Bent about an upright axis; the width spans the angle.

    Seen from the side that the heights stand on, the picture is the right way round.
    """
    radius = wide_mm / bend_rad
    sign = 1.0 if side == "outside" else -1.0

    def place(points: Points) -> Points:
        angle = points[:, 0] / radius - bend_rad / 2
        reach = radius + sign * points[:, 2]
        return np.column_stack([reach * np.sin(angle), -sign * reach * np.cos(angle), points[:, 1]])

    def flatten(points: Points) -> Points:
        x, y = points[:, 0], -sign * points[:, 1]
        u = (np.arctan2(x, y) + bend_rad / 2) * radius
        return np.column_stack([u, points[:, 2], sign * (np.hypot(x, y) - radius)])

    return FormMap(place, flatten, radius, around=False, upright=True, out=sign)


def tube_map(wide_mm: float, side: Side) -> FormMap:
    """Once around an upright axis; the picture's middle faces the viewer."""
    bent = arc_map(wide_mm, 2 * np.pi, side)
    return FormMap(bent.place, bent.flatten, bent.radius_mm, True, upright=True, out=bent.out)


def globe_map(wide_mm: float, tall_mm: float, opening_mm: float, side: Side) -> FormMap:
    """Once around a sphere, from an opening below to just short of the upper pole.

    Parameters
    ----------
    wide_mm : the equator
    opening_mm : diameter of the opening below, at h = 0; less than the sphere's
    """
    radius = wide_mm / (2 * np.pi)
    sign = 1.0 if side == "outside" else -1.0
    lowest = -np.arccos(np.clip(opening_mm / 2 / radius, 0.0, 1.0))
    highest = np.pi / 2 - POLE_MM / radius

    def place(points: Points) -> Points:
        longitude = points[:, 0] / radius - np.pi
        latitude = lowest + (highest - lowest) * points[:, 1] / tall_mm
        reach = radius + sign * points[:, 2]
        flat = reach * np.cos(latitude)
        return np.column_stack(
            [flat * np.sin(longitude), -sign * flat * np.cos(longitude), reach * np.sin(latitude)]
        )

    def flatten(points: Points) -> Points:
        x, y, z = points.T
        reach = np.sqrt(x * x + y * y + z * z)
        latitude = np.arcsin(np.clip(z / np.maximum(reach, 1e-9), -1, 1))
        u = (np.arctan2(x, -sign * y) + np.pi) * radius
        v = (latitude - lowest) / (highest - lowest) * tall_mm
        return np.column_stack([u, v, sign * (reach - radius)])

    stretch = float(radius * (highest - lowest) / tall_mm)
    return FormMap(place, flatten, radius, True, out=sign, stretch=stretch, pole=True)


POLE_MM = 0.4
"""The globe's upper pole is left open by this radius and closed with a plug."""


def dome_map(wide_mm: float, tall_mm: float, bend_rad: float, side: Side) -> FormMap:
    """A cap of a sphere; distances from its middle are kept (azimuthal equidistant)."""
    radius = wide_mm / bend_rad
    sign = 1.0 if side == "outside" else -1.0

    def place(points: Points) -> Points:
        x, y = points[:, 0] - wide_mm / 2, points[:, 1] - tall_mm / 2
        away = np.hypot(x, y)
        angle = away / radius
        reach = radius + sign * points[:, 2]
        share = np.divide(np.sin(angle), away, out=np.full_like(away, 1 / radius), where=away > 0)
        return np.column_stack([reach * share * x, reach * share * y, sign * reach * np.cos(angle)])

    def flatten(points: Points) -> Points:
        x, y, z = points.T
        flat = np.hypot(x, y)
        away = np.arctan2(flat, sign * z) * radius
        share = np.divide(away, flat, out=np.ones_like(flat), where=flat > 1e-9)
        reach = np.sqrt(flat * flat + z * z)
        u, v = wide_mm / 2 + x * share, tall_mm / 2 + y * share
        return np.column_stack([u, v, sign * (reach - radius)])

    return FormMap(place, flatten, radius, around=False, out=sign)
