"""How thick a silhouette becomes in the round."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numba import njit
from numpy.typing import NDArray

from nebrel.core.data import Floats
from nebrel.core.errors import InvalidValue
from nebrel.core.mesh.nearest import Nearby
from nebrel.core.outline.trace import trace

_NONE = 1e12  # px²: no ball
_NEAR_PX = 2.5  # from the outline: further in whole pixels are exact enough


def distances(cover: Floats) -> NDArray[np.float64]:
    """How far inside the outline of a mask each pixel is, px; below 0 outside.

    Parameters
    ----------
    cover : (rows, cols) 0 to 1, the outline where it is a half

    Raises
    ------
    InvalidValue : it covers nothing
    """
    inside = cover >= 0.5
    if not inside.any():
        raise InvalidValue("mask", "it covers nothing", "Isolate the subject")
    padded = np.pad(inside.astype(np.uint8), 1)
    away = cv2.distanceTransform(padded, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)[1:-1, 1:-1] - 0.5
    beyond = cv2.distanceTransform(1 - padded, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)[1:-1, 1:-1] - 0.5
    found = np.where(inside, away, -beyond).astype(np.float64)
    # From whole pixels it is off by up to half of one everywhere, so all of it is asked anew.
    segments = []
    for loop in trace(cover):
        ahead = np.roll(loop, -1, axis=0)
        zero = np.zeros((len(loop), 1))
        a, b = np.hstack([loop, zero]), np.hstack([ahead, zero])
        segments.append(np.stack([a, b, b], axis=1))
    if not segments:
        return found
    rows, cols = np.nonzero(found > -_NEAR_PX)
    places = np.column_stack([cols, rows, np.zeros(len(rows))]).astype(np.float64)
    exact = Nearby.of_corners(np.concatenate(segments)).nearest(places)[0]
    found[rows, cols] = np.where(inside[rows, cols], exact, -exact)
    return found


@dataclass(frozen=True)
class Swollen:
    """A silhouette in the round, told by the balls that fit into its outline.

    Attributes
    ----------
    power : (rows, cols) px², the square of half the thickness; below 0 beyond the outline
    radius : (rows, cols) px, of the ball that it is thickest by
    """

    power: NDArray[np.float64]
    radius: NDArray[np.float64]

    @property
    def half_px(self) -> float:
        """Half its thickness where that is the most."""
        return float(np.sqrt(max(0.0, self.power.max())))


def swell(away: NDArray[np.float64], roundness: float = 1.0) -> Swollen:
    """All balls that fit into an outline.

    A disc becomes a ball, an ellipse the ellipsoid of revolution, a bar its cylinder.

    Parameters
    ----------
    away : as from `distances`
    roundness : the largest ball, as a share of the largest that fits; what is wider becomes flat

    Source: Felzenszwalb and Huttenlocher, Distance Transforms of Sampled Functions (2012): the
    power of a place to the nearest ball is such a transform of the squared radii.
    """
    radius = np.minimum(np.maximum(away, 0), float(away.max()) * roundness)
    power = np.where(away > 0, -(radius**2), _NONE)
    along, which = _rows(power, radius)
    across, found = _rows(np.ascontiguousarray(along.T), np.ascontiguousarray(which.T))
    return Swollen(-across.T, found.T)


def evened(found: Swollen, away: NDArray[np.float64], size_px: float) -> Swollen:
    """The same without the rings that are left because middles of balls lie on a grid.

    Parameters
    ----------
    away : as it was made from
    size_px : how far it is blurred

    Notes
    -----
    Beyond the outline it goes on as its mirror image below 0, so that a straight edge stays where
    it is. The power of a ball is a parabola: blurred it is the same, but for a constant.
    """
    rows, cols = away.shape
    gy, gx = np.gradient(cv2.GaussianBlur(away, (0, 0), size_px))
    steep = np.maximum(np.hypot(gx, gy), 1e-6)
    y, x = np.mgrid[0:rows, 0:cols]
    beyond = np.minimum(away, 0)
    at_x, at_y = (x - 2 * beyond * gx / steep), (y - 2 * beyond * gy / steep)

    def mirrored(layer: NDArray[np.float64]) -> NDArray[np.float64]:
        seen = cv2.remap(
            layer.astype(np.float32),
            at_x.astype(np.float32),
            at_y.astype(np.float32),
            cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_REPLICATE,
        )
        return np.asarray(seen, np.float64)

    outside = away <= 0
    power = np.where(outside, -np.maximum(mirrored(found.power), away**2), found.power)
    radius = np.where(outside, np.maximum(mirrored(found.radius), found.radius), found.radius)
    lost = 2 * size_px**2 * np.clip(away / (2 * size_px), 0, 1)
    blurred = cv2.GaussianBlur(power, (0, 0), size_px) + lost
    return Swollen(blurred, cv2.GaussianBlur(radius, (0, 0), size_px))


@njit(cache=True, nogil=True)
def _rows(values, carried):  # type: ignore[no-untyped-def]
    """For each place of each row the least of the values along it and the squared distance.

    Besides what is carried by the place that it comes from.
    """
    found, which = np.empty_like(values), np.empty_like(carried)
    rows, cols = values.shape
    at, until = np.empty(cols, np.int64), np.empty(cols + 1)
    for r in range(rows):
        f = values[r]
        k, cross = -1, 0.0
        for q in range(cols):
            if f[q] >= _NONE:
                continue
            while k >= 0:
                p = at[k]
                cross = ((f[q] + q * q) - (f[p] + p * p)) / (2.0 * (q - p))
                if cross > until[k]:
                    break
                k -= 1
            k += 1
            at[k] = q
            until[k] = -np.inf if k == 0 else cross
        if k < 0:
            found[r], which[r] = _NONE, 0.0
            continue
        until[k + 1] = np.inf
        first = 0
        for q in range(cols):
            while until[first + 1] < q:
                first += 1
            p = at[first]
            found[r, q] = (q - p) ** 2 + f[p]
            which[r, q] = carried[r, p]
    return found, which
