"""Cubic Bézier curves along isolines: smooth where a line is, sharp at its corners."""

from __future__ import annotations

import math
import os
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from threading import Lock

import numpy as np
from numpy.typing import NDArray

from nebrel.core.outline.corner_kernels import find_corners
from nebrel.core.outline.fit_kernels import (
    calm,
    cells_of,
    crossing,
    fit_loop,
    fit_open,
    flatten,
    trembling,
)
from nebrel.core.outline.outline import Cubics, Loop

CORNER_DEG = 35.0
# Where so many of its points lie so far off, a line follows pixels that are either in or out.
_ROUGH_PX, _ROUGH_SHARE = 0.06, 1 / 7
_FLAT_PX = 0.02
_CELL_PX = 4.0
# Of the distance, and the smallest corner: without corners, then closer, then point to point.
_TRIES = ((1.0, 180.0), (0.4, 180.0), (0.0, 180.0))


@dataclass(frozen=True)
class _Way:
    """How lines of one kind are followed, in pixels.

    Attributes
    ----------
    within : the distance that is allowed where none is asked for
    calm, along : how much of it smoothing along the line may take, and over how many points
    """

    within: float
    calm: float
    along: float
    gap: float
    window: float
    noise: float
    loose: float
    seen: float


_SOFT = _Way(0.14, 0.2, 1.0, 1.7, 8.0, 0.06, 0.15, 0.0)
_HARD = _Way(0.85, 0.7, 8.0, 2.0, 14.0, 0.5, 0.5, 1.5)


_MOST_KNOWN = 5000


@dataclass(frozen=True)
class Fitted:
    """A closed line as curves.

    Attributes
    ----------
    sharp : (n,) whether a piece begins at a corner
    off_px : the largest distance of the line from the curves, but for corners, which a picture
        rounds
    """

    cubics: Cubics
    sharp: NDArray[np.bool_]
    off_px: float

    @property
    def count(self) -> int:
        """How many curves."""
        return len(self.cubics)


_known: dict[int, Fitted] = {}
_knowing = Lock()


def fit_curves(
    lines: Sequence[Loop], within_px: float | None = None, corner_deg: float = CORNER_DEG
) -> list[Fitted]:
    """Curves along closed lines that do not cross, which do not cross either.

    Parameters
    ----------
    lines : (n, 2) in pixels, about a pixel from point to point
    within_px : the largest distance; what the pixels tell where it is left out
    corner_deg : the smallest turn that stays a corner

    A line that would cross itself or another as curves is followed more closely, in the end from
    point to point.
    """
    with ThreadPoolExecutor(os.cpu_count()) as pool:
        found = list(pool.map(lambda line: _fit(line, within_px, corner_deg, 1.0), lines))
    for share, degrees in _TRIES:
        bad = _crossing(found)
        if not bad:
            break
        for k in bad:
            found[k] = _fit(lines[k], within_px, degrees, share)
    return found


def forget() -> None:
    """Let go of what is known of lines."""
    with _knowing:
        _known.clear()


def warm() -> None:
    """Compile what was not compiled yet."""
    from nebrel.core.outline.isolines import isolines

    picture = np.zeros((40, 40), np.float32)
    picture[8:30, 8:30] = 1
    picture[15:20, 15:20] = 0.5
    for one in fit_curves(isolines(picture, 0.4).lines):
        fit_open(one.cubics[:, 0], 1.0)


def _fit(line: Loop, within_px: float | None, corner_deg: float, share: float) -> Fitted:
    """One line as curves; known while others beside it come and go."""
    told = hash((line.tobytes(), within_px, corner_deg, share))
    found = _known.get(told)
    if found is None:
        found = _fit_anew(line, within_px, corner_deg, share)
        with _knowing:
            while len(_known) >= _MOST_KNOWN:
                del _known[next(iter(_known))]
            _known[told] = found
    return found


def _fit_anew(line: Loop, within_px: float | None, corner_deg: float, share: float) -> Fitted:
    line = np.ascontiguousarray(line, np.float64)
    if share == 0.0 or len(line) < 6:
        return Fitted(straight(line), np.ones(len(line), np.bool_), 0.0)
    way = _HARD if trembling(line, _ROUGH_PX) > _ROUGH_SHARE else _SOFT
    within = max(1e-3, share * (way.within if within_px is None else within_px))
    most = min(way.calm * within, way.calm * way.within)
    # A line hardly longer than that has its corners closer together.
    around = float(np.hypot(*(line - np.roll(line, 1, axis=0)).T).sum())
    scale = min(1.0, around / (4 * (way.gap + way.window)))
    corners, places, gaps = find_corners(
        calm(line, True, way.seen, 1.0),
        way.gap * scale,
        way.window * scale,
        way.noise,
        math.radians(corner_deg),
        way.loose,
    )
    cubics, sharp, off = fit_loop(line, corners, places, gaps, way.along, most, within - most)
    return Fitted(cubics, sharp, float(off))


def straight(line: Loop) -> Cubics:
    """A closed line as curves that are straight."""
    after = np.roll(line, -1, axis=0)
    return np.stack([line, line + (after - line) / 3, line + (after - line) * 2 / 3, after], axis=1)


def _crossing(found: Sequence[Fitted]) -> list[int]:
    points = [flatten(one.cubics, _FLAT_PX, _CELL_PX) for one in found]
    if not points:
        return []
    sizes = np.array([len(line) for line in points])
    starts = np.cumsum(sizes) - sizes
    after = np.arange(1, int(sizes.sum()) + 1)
    after[starts + sizes - 1] = starts
    loops = np.repeat(np.arange(len(points)), sizes)
    places = np.concatenate(points)
    cells, owner = cells_of(places, after, _CELL_PX)
    order = np.argsort(cells, kind="stable")
    bad = np.zeros(len(points), np.bool_)
    crossing(places, loops, after, cells[order], owner[order], bad)
    return [int(k) for k in np.flatnonzero(bad)]
