"""How art lies on a body: which spot of it comes to which place, and what is outwards there."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.forms.maps import FormMap, Points
from nebrel.core.mesh.nearest import Nearby

Floats64 = NDArray[np.float64]


@dataclass(frozen=True)
class Lying:
    """Art on a body, spots mm from its middle to the right and up.

    Attributes
    ----------
    body : the surface
    stretch : (least, most) of how long a line becomes
    radius_mm : the smallest radius of curvature
    """

    body: Nearby
    stretch: tuple[float, float]
    radius_mm: float

    @property
    def around(self) -> bool:
        """Whether it goes once around, its left end meeting its right one."""
        return False

    @property
    def round_mm(self) -> float | None:
        """How long once around is, where it is bent around something."""
        return None

    def place(self, points: Points) -> Points:
        """Points (n, 3), u to the right, v up, h along the normal, in space."""
        raise NotImplementedError

    def stretched(self, spots: Points, step_mm: float) -> NDArray[np.float64]:
        """By how much lines at spots (n, 2) become longer or shorter, 0 for none (n,)."""
        flat = np.column_stack([spots, np.zeros(len(spots))])
        here = self.place(flat)
        along, upwards = (self.place(flat + by) - here for by in np.eye(3)[:2] * step_mm)
        sizes = np.stack(lengths_of(along / step_mm, upwards / step_mm))
        found: NDArray[np.float64] = np.abs(sizes - 1).max(axis=0)
        return found

    def map_at(self, middle: tuple[float, float]) -> FormMap:
        """The same as the map of a form, for what has its middle there, mm from its corner."""
        by = np.array([*middle, 0.0])

        def place(points: Points) -> Points:
            return self.place(np.asarray(points, np.float64) - by)

        def flatten(points: Points) -> Points:
            raise NotImplementedError("what lies on a body is not taken back")

        return FormMap(place, flatten, self.radius_mm, around=False)


def lengths_of(along: Floats64, upwards: Floats64) -> tuple[Floats64, Floats64]:
    """How long lines become, the least and the most (...).

    Parameters
    ----------
    along, upwards : (..., 3) what 1 mm to the right, and 1 mm up, become in space
    """
    g = (along**2).sum(axis=-1), (upwards**2).sum(axis=-1)
    mixed = (along * upwards).sum(axis=-1)
    mean, spread = (g[0] + g[1]) / 2, np.hypot((g[0] - g[1]) / 2, mixed)
    return np.sqrt(np.maximum(0, mean - spread)), np.sqrt(mean + spread)


def turned_to(
    right: Floats64, ahead: Floats64, outward: Floats64, up: tuple[float, ...], turn: float
) -> Floats64:
    """(2, 2) what takes a spot in a frame to one whose up is nearest to a way in space.

    Parameters
    ----------
    turn : degrees to the left, besides
    """
    for wanted in (np.asarray(up, np.float64), np.array([0.0, 1.0, 0.0]), np.array([1.0, 0, 0])):
        flat = wanted - (wanted @ outward) * outward
        if np.linalg.norm(flat) > 1e-3 * max(1e-12, float(np.linalg.norm(wanted))):
            break
    angle = np.arctan2(flat @ ahead, flat @ right) + np.radians(turn) - np.pi / 2
    cos, sin = np.cos(angle), np.sin(angle)
    return np.array([[cos, -sin], [sin, cos]])
