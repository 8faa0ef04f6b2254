"""How thick a silhouette becomes in the round."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numba import njit
from numpy.typing import NDArray

from nebrel.core.data import Floats
from nebrel.core.errors import InvalidValue
from nebrel.core.mesh.nearest import Nearby
from nebrel.core.outline.trace import trace

_NONE = 1e12  # px²: no ball
_LEAST_PX = 1.0  # inside of the outline, where a largest ball is looked for
_RIDGE = 0.97  # slope of distances, where it is less two places of the outline are as near
_FAR_PX, _HALVINGS, _EQUAL_PX = 0.8, 9, 1e-4  # from a pixel, and how it is found
_INWARDS, _LEVELS = 0.16, 2  # of the way to the outline it is blurred; how often doubled
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
    outline = outline_of(cover)
    if outline is None:
        return found
    rows, cols = np.nonzero(found > -_NEAR_PX)
    exact = outline.nearest(_flat(cols, rows))[0]
    found[rows, cols] = np.where(inside[rows, cols], exact, -exact)
    return found


def outline_of(cover: Floats) -> Nearby | None:
    """The outline of a mask, px, to be asked how far away it is; None where there is none."""
    loops = [np.concatenate([loop, loop[:1]]) for loop in trace(cover)]
    return Nearby.of_lines(loops) if loops else None


def _flat(x: NDArray[Any], y: NDArray[Any]) -> NDArray[np.float64]:
    return np.column_stack([x, y, np.zeros(len(x))]).astype(np.float64)


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


def swell(
    away: NDArray[np.float64], roundness: float = 1.0, outline: Nearby | None = None
) -> Swollen:
    """All balls that fit into an outline.

    A disc becomes a ball, an ellipse the ellipsoid of revolution, a bar its cylinder.

    Parameters
    ----------
    away : as from `distances`
    roundness : the largest ball, as a share of the largest that fits; what is wider becomes flat
    outline : as from `outline_of`. With it the largest balls have their middles where they belong;
        else on the grid, which leaves rings around what is long.

    Source: Felzenszwalb and Huttenlocher, Distance Transforms of Sampled Functions (2012): the
    power of a place to the nearest ball is such a transform of the squared radii.
    """
    most = float(away.max()) * roundness
    radius = np.minimum(np.maximum(away, 0), most)
    power = np.where(away > 0, -(radius**2), _NONE)
    along, which = _rows(power, radius)
    across, found = _rows(np.ascontiguousarray(along.T), np.ascontiguousarray(which.T))
    power, largest = np.ascontiguousarray(-across.T), np.ascontiguousarray(found.T)
    if outline is not None:
        x, y, size = _largest_balls(away, outline)
        _with_balls(power, largest, x, y, np.minimum(size, most))
    return Swollen(power, largest)


def _largest_balls(
    away: NDArray[np.float64], outline: Nearby
) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
    """Balls that touch an outline at two places or more: x, y, radius, px.

    From each pixel beside such a middle the way leads straight from its nearest place of the
    outline, for as long as that stays the nearest.
    """
    gy, gx = np.gradient(away)
    rows, cols = np.nonzero((away > _LEAST_PX) & (np.hypot(gx, gy) < _RIDGE))
    start = _flat(cols, rows)
    size, _, near = outline.nearest(start)
    way = (start - near) / np.maximum(size, 1e-9)[:, None]
    low, high = np.zeros(len(start)), np.full(len(start), _FAR_PX)
    for _ in range(_HALVINGS):
        tried = (low + high) / 2
        further = outline.nearest(start + tried[:, None] * way)[0]
        still = further >= size + tried - _EQUAL_PX
        low, high = np.where(still, tried, low), np.where(still, high, tried)
    kept = low < _FAR_PX - 2 * _FAR_PX / 2**_HALVINGS
    x, y, _ = (start + low[:, None] * way)[kept].T
    return x, y, (size + low)[kept]


def evened(found: Swollen, away: NDArray[np.float64], size_px: float) -> Swollen:
    """The same without the rings that are left because middles of balls lie on a grid.

    Parameters
    ----------
    away : as it was made from
    size_px : how far it is blurred at its outline; further in by a share of the way to that, for
        what trembles of an outline runs as rings across what it goes around

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
    inwards = cv2.GaussianBlur(np.clip(_INWARDS * away / size_px, 1, 2**_LEVELS), (0, 0), size_px)
    level = np.log2(inwards)
    whole_power, whole_radius = np.zeros_like(power), np.zeros_like(radius)
    for k in range(_LEVELS + 1):
        share = np.maximum(0, 1 - np.abs(level - k))
        if not share.any():
            continue
        wide = size_px * 2**k
        blurred = cv2.GaussianBlur(power, (0, 0), wide)
        if k == 0:
            lost = 2 * wide**2 * np.clip(away / (2 * wide), 0, 1)
        else:  # what is round, long or flat loses as much once more
            lost = blurred - cv2.GaussianBlur(blurred, (0, 0), wide)
        whole_power += share * (blurred + lost)
        whole_radius += share * cv2.GaussianBlur(radius, (0, 0), wide)
    return Swollen(whole_power, whole_radius)


@njit(cache=True, nogil=True)
def _with_balls(power, radius, x, y, size):  # type: ignore[no-untyped-def]
    """More balls, wherever their middles are."""
    rows, cols = power.shape
    for k in range(len(x)):
        whole = size[k] * size[k]
        for r in range(max(0, int(y[k] - size[k])), min(rows, int(y[k] + size[k]) + 2)):
            left = whole - (r - y[k]) ** 2
            if left <= 0:
                continue
            reach = np.sqrt(left)
            for c in range(max(0, int(x[k] - reach)), min(cols, int(x[k] + reach) + 2)):
                own = left - (c - x[k]) ** 2
                if own > power[r, c]:
                    power[r, c], radius[r, c] = own, size[k]


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
