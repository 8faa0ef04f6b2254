"""How art lies on a body: which spot of it comes to which place, and what is outwards there."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.forms.maps import FormMap, Points
from nebrel.core.mesh.nearest import Nearby

Floats64 = NDArray[np.float64]
_LOOKED_AT, _REFINED = 41, 3  # places along a side, and times, to find a spot


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

    def covers(self, spots: Points) -> NDArray[np.bool_]:
        """Which spots (n, 2) are known to lie well."""
        return np.ones(len(spots), bool)

    def place(self, points: Points) -> Points:
        """Points (n, 3), u to the right, v up, h along the normal, in space."""
        raise NotImplementedError

    def spots_of(
        self, places: Points, size_mm: tuple[float, float]
    ) -> tuple[Floats64, NDArray[np.float64]]:
        """Which spots come to lie nearest to places (n, 3), and how far each is away from there.

        Parameters
        ----------
        size_mm : width and height of the art; nothing beyond that is looked for
        """
        half = np.array(size_mm) / 2
        each = [np.linspace(-side, side, _LOOKED_AT) for side in half]
        grid = np.stack(np.meshgrid(*each), axis=-1).reshape(-1, 2)
        on = self.place(np.column_stack([grid, np.zeros(len(grid))]))
        away = np.linalg.norm(on[None] - places[:, None], axis=2)
        spots = grid[away.argmin(axis=1)]
        step = 1e-4 * float(half.max())
        for _ in range(_REFINED):
            around = np.concatenate(spots + step * np.array([[[0, 0]], [[1, 0]], [[0, 1]]]))
            here, right, up = np.split(
                self.place(np.column_stack([around, np.zeros(len(around))])), 3
            )
            ways = np.stack([right - here, up - here], axis=2) / step
            moved = np.einsum("nij,nj->ni", np.linalg.pinv(ways), places - here)
            spots = np.clip(spots + moved, -half, half)
        here = self.place(np.column_stack([spots, np.zeros(len(spots))]))
        return spots, np.linalg.norm(here - places, axis=1)

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


def distinct(spots: Points) -> tuple[Floats64, NDArray[np.int64]]:
    """Each of spots (n, 2) once, and which of these every one is (n,)."""
    # As complex numbers they are sorted six times as fast as by rows.
    pairs = np.ascontiguousarray(spots, np.float64).view(np.complex128)[:, 0]
    found, which = np.unique(pairs, return_inverse=True)
    return found.view(np.float64).reshape(-1, 2), which.reshape(-1)


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


def triple(values: Floats64) -> tuple[float, float, float]:
    """A place, or a way, as plain numbers."""
    x, y, z = (float(value) for value in values)
    return x, y, z


def least_radius(bends: Floats64, lengths: Floats64) -> float:
    """The smallest radius of curvature along lines, but for a few odd ones.

    Parameters
    ----------
    bends, lengths : (...) by how much unit normals at their ends differ; mm
    """
    curved = float(np.percentile(bends / np.maximum(lengths, 1e-9), 98))
    return 1 / max(curved, 1e-4)


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
