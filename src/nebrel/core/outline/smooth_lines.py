"""Curves along exact lines, and lines by what hangs together."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Loop
from nebrel.core.outline.fit_curves import straight
from nebrel.core.outline.fit_kernels import fit_open
from nebrel.core.outline.outline import Cubics, Outline, area_of

_CORNER_DEG = 14.0  # more than flattened curves turn from chord to chord


def with_curves(outline: Outline, within_mm: float = 0.002) -> Outline:
    """The same outline with curves along its loops, where it has none yet.

    Parameters
    ----------
    within_mm : the largest distance of a corner of a loop from its curves
    """
    if outline.curves:
        return outline
    return Outline(outline.loops, tuple(_curves(loop, within_mm) for loop in outline.loops))


def _curves(loop: Loop, within_mm: float) -> Cubics:
    step = np.roll(loop, -1, axis=0) - loop
    before = np.roll(step, 1, axis=0)
    turn = np.abs(
        np.arctan2(
            before[:, 0] * step[:, 1] - before[:, 1] * step[:, 0], (before * step).sum(axis=1)
        )
    )
    corners = np.flatnonzero(turn > math.radians(_CORNER_DEG))
    # A step that is much longer than those beside it is a straight line.
    long = np.hypot(*step.T)
    beside = np.minimum(np.roll(long, 1), np.roll(long, -1))
    straights = np.flatnonzero(long > 4 * beside)
    corners = np.unique(np.concatenate([corners, straights, (straights + 1) % len(loop)]))
    if len(corners) == 0:
        corners = np.array([0])
    found = []
    for first, last in zip(corners, np.roll(corners, -1), strict=True):
        count = (last - first) % len(loop) or len(loop)
        line = np.ascontiguousarray(loop[(first + np.arange(count + 1)) % len(loop)], np.float64)
        if count == 1:
            found.append(straight(line)[:1])
        else:
            found.append(fit_open(line, within_mm))
    return np.concatenate(found)


def parted(outline: Outline) -> list[Outline]:
    """An outline by what hangs together, the largest first: each has one line around it."""
    areas = np.array([area_of(loop) for loop in outline.loops])
    boxes = np.array([(*loop.min(axis=0), *loop.max(axis=0)) for loop in outline.loops])
    around = [int(k) for k in np.argsort(-areas, kind="stable") if areas[k] > 0]
    own: dict[int, list[int]] = {k: [k] for k in around}
    for hole in np.flatnonzero(areas <= 0):
        owner = _around(outline, around, boxes, int(hole))
        if owner is not None:
            own[owner].append(int(hole))
    return [
        Outline(
            tuple(outline.loops[k] for k in group),
            tuple(outline.curves[k] for k in group) if outline.curves else (),
        )
        for group in own.values()
    ]


def _around(
    outline: Outline, around: list[int], boxes: NDArray[np.float64], hole: int
) -> int | None:
    """The smallest loop around a hole."""
    low_x, low_y, high_x, high_y = boxes[hole]
    spot = outline.loops[hole][:1]
    for k in reversed(around):
        box = boxes[k]
        if box[0] > low_x or box[1] > low_y or box[2] < high_x or box[3] < high_y:
            continue
        if Outline((outline.loops[k],)).inside(spot[:, 0], spot[:, 1])[0]:
            return k
    return None
