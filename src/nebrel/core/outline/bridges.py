"""Bridges over an opening, so that what it goes around does not fall out."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from nebrel.core.data import Loop
from nebrel.core.errors import InvalidValue
from nebrel.core.kernel import Region, non_zero
from nebrel.core.outline.outline import Outline, runs_left
from nebrel.core.outline.regions import outline_of, region_of

_APART = 0.55  # of an even share of the way around: bridges of one part lie no closer
_MOST_PARTS = 400
Place = NDArray[np.float64]


@dataclass(frozen=True)
class Bridged:
    """An opening with its bridges.

    Attributes
    ----------
    bridges : both ends of each, mm
    """

    outline: Outline
    bridges: tuple[tuple[Place, Place], ...]


def bridged(outline: Outline, count: int, wide_mm: float) -> Bridged:
    """An opening that leaves every part of what is around and within it in one.

    Parameters
    ----------
    count : bridges to each part that would fall out: the shortest, spread around it
    wide_mm : of each

    Raises
    ------
    InvalidValue : a bridge would be wider than what it holds, or there are too many parts
    """
    loose = sum(not runs_left(loop) for loop in outline.loops)
    if loose == 0:
        return Bridged(outline, ())
    if loose > _MOST_PARTS:
        raise InvalidValue(
            "bridges",
            f"{loose} parts would fall out, too many to hold",
            f"At most {_MOST_PARTS}; leave out the small ones",
        )
    step = max(wide_mm / 4, 0.05)
    bridges: list[tuple[Place, Place]] = []
    for part in region_of(outline).decompose():
        bridges += _over(outline_of(part).loops, count, step)
    strips = non_zero([_strip(a, b, wide_mm) for a, b in bridges])
    left_open: Region = region_of(outline) - strips
    if left_open.is_empty():
        raise InvalidValue(
            "bridges", f"{wide_mm:g} mm wide they fill all of the opening", "Make them narrower"
        )
    return Bridged(outline_of(left_open), tuple(bridges))


def _over(loops: tuple[Loop, ...], count: int, step_mm: float) -> list[tuple[Place, Place]]:
    """Bridges over one opening, to each part within it from what is around it or held already."""
    firm = [_stepped(loop, step_mm) for loop in loops if runs_left(loop)]
    left = dict(enumerate(_stepped(loop, step_mm) for loop in loops if not runs_left(loop)))
    found: list[tuple[Place, Place]] = []
    tree = cKDTree(np.concatenate(firm))
    reach = {k: _nearest(points, tree) for k, points in left.items()}
    while left:
        # What is nearest to anything that holds is held next, and then holds others.
        k = min(left, key=lambda one: reach[one][0].min())
        away, ends = reach[k]
        found += _spread(left[k], away, ends, count)
        own = cKDTree(left.pop(k))
        for other, points in left.items():
            closer, at = _nearest(points, own)
            nearer = closer < reach[other][0]
            reach[other][0][nearer] = closer[nearer]
            reach[other][1][nearer] = at[nearer]
    return found


def _nearest(points: Loop, tree: cKDTree) -> tuple[NDArray[np.float64], Loop]:
    away, at = tree.query(points)
    return np.asarray(away, np.float64), np.asarray(tree.data)[at]


def _spread(
    points: Loop, away: NDArray[np.float64], ends: Loop, count: int
) -> list[tuple[Place, Place]]:
    """The shortest ways from points around a part, no two of them close together."""
    number = len(points)
    apart = _APART * number / count
    chosen: list[int] = []
    for k in np.argsort(away, kind="stable"):
        gaps = [min(abs(int(k) - one), number - abs(int(k) - one)) for one in chosen]
        if all(gap >= apart for gap in gaps):
            chosen.append(int(k))
        if len(chosen) == count:
            break
    return [(points[k], ends[k]) for k in chosen]


def _strip(start: Place, end: Place, wide_mm: float) -> Loop:
    """A bridge, reaching so far into both sides that it holds where they are round."""
    way = end - start
    length = float(np.hypot(*way))
    along = way / length if length > 1e-9 else np.array([1.0, 0.0])
    aside = np.array([-along[1], along[0]]) * wide_mm / 2
    first, last = start - along * wide_mm / 2, end + along * wide_mm / 2
    return np.array([first - aside, last - aside, last + aside, first + aside])


def _stepped(loop: Loop, step_mm: float) -> Loop:
    """Points along a loop, no further apart."""
    after = np.roll(loop, -1, axis=0)
    length = np.hypot(*(after - loop).T)
    count = np.maximum(1, np.ceil(length / step_mm)).astype(np.int64)
    if count.sum() > 200_000:
        return _stepped(loop, step_mm * math.ceil(count.sum() / 100_000))
    at = np.repeat(np.arange(len(loop)), count)
    share = (np.arange(len(at)) - np.repeat(np.cumsum(count) - count, count)) / count[at]
    found: Loop = loop[at] + share[:, None] * (after[at] - loop[at])
    return found
