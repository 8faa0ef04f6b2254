"""Cubic Bézier curves along isolines: smooth where a line is, sharp at its corners."""

from __future__ import annotations

import math
import os
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from threading import Lock
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Loop
from nebrel.core.outline.corner_kernels import find_corners
from nebrel.core.outline.fit_kernels import (
    calm,
    cells_of,
    crossing,
    fit_loop,
    fit_open,
    flatten,
    stepped,
    trembling,
)
from nebrel.core.outline.outline import Cubics, Outline, area_of, area_of_curves

CORNER_DEG = 35.0
# A line follows pixels that are either in or out where all its points lie equally far between two,
# or so many of them so far from a smooth line. In between, where curves would follow every step.
_STEPPED_SHARE = 0.95
_ROUGH_PX, _ROUGH_SHARE, _SMOOTH_SHARE = 0.06, 0.3, 1 / 7
_STEP_PX, _FEW = 7.0, 8
_DRAWN_IN = 16  # smoothing over more of a loop would draw it together
_SPECK = 6  # points around it, or fewer
_FLAT_PX, _CELL_PX = 0.02, 4.0
_FINE_PX, _FINE_CELL_PX = 0.001, 0.5  # a loop may be as small as that, where two curves meet
_LEFT = 0.6  # of the area of a line, as curves
# Of the distance, and the smallest corner: only where it is sure, then closer, then without
# corners, in the end from point to point.
_TRIES = ((1.0, 60.0), (0.7, 60.0), (1.0, 180.0), (0.4, 180.0), (0.0, 180.0))


@dataclass(frozen=True)
class _Way:
    """How lines of one kind are followed, in pixels.

    Attributes
    ----------
    within : the distance that is allowed where none is asked for
    calm, along : how much of it smoothing along the line may take, and over how many points
    gap, window, noise, loose, wide, span : as `find_corners`
    seen : over how many points the line is smoothed that corners are found on
    """

    within: float
    calm: float
    along: float
    gap: float
    window: float
    noise: float
    loose: float
    seen: float
    wide: float
    span: float


_SOFT = _Way(0.14, 0.2, 1.0, 1.7, 8.0, 0.06, 0.15, 0.0, 1.0, 1.5)
_HARD = _Way(0.85, 0.6, 8.0, 2.0, 14.0, 0.45, 0.35, 1.5, 6.0, np.inf)

_LONG, _TOGETHER = 40, 64  # lines that are followed each alone, and so many at once
_MOST_KNOWN = 10_000


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


_Found = TypeVar("_Found")
_NOTHING = Fitted(np.empty((0, 4, 2)), np.empty(0, np.bool_), 0.0)
_known: dict[int, Any] = {}
_knowing = Lock()


def fit_curves(
    lines: Sequence[Loop],
    within_px: float | None = None,
    corner_deg: float = CORNER_DEG,
    soft: float = 1.0,
) -> list[Fitted]:
    """Curves along closed lines that do not cross, which do not cross either.

    Parameters
    ----------
    lines : (n, 2) in pixels, about a pixel from point to point
    within_px : the largest distance; what the pixels tell where it is left out
    corner_deg : the smallest turn that stays a corner
    soft : how many times as soft its edges are as those of pixels that a shape covers in part

    A line that would cross itself or another as curves is followed more closely, in the end from
    point to point. A speck that another line takes in as the tip of a corner has no curves.
    """
    # The longest first; the many short ones together.
    order = sorted(range(len(lines)), key=lambda k: -len(lines[k]))
    shares = [[k] for k in order[:_LONG]]
    shares += [order[k : k + _TOGETHER] for k in range(_LONG, len(order), _TOGETHER)]
    found = [_NOTHING] * len(lines)

    def follow(share: Sequence[int]) -> None:
        for k in share:
            found[k] = _fit(lines[k], within_px, corner_deg, 1.0, soft)

    with ThreadPoolExecutor(os.cpu_count()) as pool:
        list(pool.map(follow, shares))
    for share, degrees in _TRIES:
        bad = _crossing(found)
        if not bad:
            break
        for k in _taken_in(lines, found, bad):
            found[k] = _NOTHING
            bad = _crossing(found)
        for k in bad:
            found[k] = _fit(lines[k], within_px, max(corner_deg, degrees), share, soft)
    # What goes from point to point may meet the curves of another now; at last all do so.
    direct: set[int] = set()
    while meeting := set(_crossing(found)) - direct:
        for k in meeting:
            found[k] = _fit(lines[k], within_px, 180.0, 0.0, soft)
        direct |= meeting
    return found


def _taken_in(lines: Sequence[Loop], found: Sequence[Fitted], bad: Sequence[int]) -> list[int]:
    """Specks outside of a line, but inside of its curves."""
    specks = [k for k in bad if len(lines[k]) <= _SPECK]
    taken = []
    for j in bad if specks else ():
        if j not in specks:
            x, y = np.array([lines[k].mean(axis=0) for k in specks]).T
            curves = Outline((flatten(found[j].cubics, _FLAT_PX, _CELL_PX),)).inside(x, y)
            taken += [
                k
                for k, inside in zip(
                    specks, curves & ~Outline((lines[j],)).inside(x, y), strict=True
                )
                if inside
            ]
    return taken


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
        fit_open(np.ascontiguousarray(one.cubics[:, 0]), 1.0)


def _fit(
    line: Loop, within_px: float | None, corner_deg: float, share: float, soft: float
) -> Fitted:
    """One line as curves; known while others beside it come and go."""
    line = np.ascontiguousarray(line, np.float64)
    if share == 0.0 or len(line) < 6:
        return Fitted(straight(line), np.ones(len(line), np.bool_), 0.0)
    own = line.tobytes()
    way = _once(("way", own), lambda: _way_of(line))
    way = replace(way, span=way.span * soft)
    told = "curves", own, within_px, corner_deg, share, soft
    found = _once(told, lambda: _follow(line, within_px, corner_deg, share, way))
    if area_of_curves(found.cubics) / area_of(line) < _LEFT:  # so small that little is left of it
        return Fitted(straight(line), np.ones(len(line), np.bool_), 0.0)
    return found


def _once(told: tuple[object, ...], make: Callable[[], _Found]) -> _Found:
    key = hash(told)
    found: _Found | None = _known.get(key)
    if found is None:
        found = make()
        with _knowing:
            while len(_known) >= _MOST_KNOWN:
                del _known[next(iter(_known))]
            _known[key] = found
    return found


def _way_of(line: Loop) -> _Way:
    rough = trembling(line, _ROUGH_PX)
    if rough > _ROUGH_SHARE or stepped(line) > _STEPPED_SHARE:
        return _HARD
    if rough < _SMOOTH_SHARE:
        return _SOFT
    tried = _follow(line, None, CORNER_DEG, 1.0, _SOFT)
    return _HARD if tried.count > max(_FEW, len(line) / _STEP_PX) else _SOFT


def _follow(
    line: Loop, within_px: float | None, corner_deg: float, share: float, way: _Way
) -> Fitted:
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
        way.wide,
        way.span,
    )
    along = min(way.along, len(line) / _DRAWN_IN)
    cubics, sharp, off = fit_loop(line, corners, places, gaps, along, most, within - most)
    return Fitted(cubics, sharp, float(off))


def straight(line: Loop) -> Cubics:
    """A closed line as curves that are straight."""
    after = np.roll(line, -1, axis=0)
    return np.stack([line, line + (after - line) / 3, line + (after - line) * 2 / 3, after], axis=1)


def _crossing(found: Sequence[Fitted]) -> list[int]:
    """Lines that cross themselves or others, or come so near that they touch."""
    own = [k for k, one in enumerate(found) if one.count]
    bad = np.zeros(len(own), np.bool_)
    for flat, cell in ((_FLAT_PX, _CELL_PX), (_FINE_PX, _FINE_CELL_PX)):
        bad |= crossing_loops([flatten(found[k].cubics, flat, cell) for k in own], cell)
    return [own[k] for k in np.flatnonzero(bad)]


def crossing_loops(points: Sequence[Loop], cell: float) -> NDArray[np.bool_]:
    """Which of closed lines cross or touch themselves or others.

    Parameters
    ----------
    cell : no two points that follow each other are further apart
    """
    if not points:
        return np.zeros(0, np.bool_)
    sizes = np.array([len(line) for line in points])
    starts = np.cumsum(sizes) - sizes
    after = np.arange(1, int(sizes.sum()) + 1)
    after[starts + sizes - 1] = starts
    loops = np.repeat(np.arange(len(points)), sizes)
    places = np.concatenate(points)
    cells, owner = cells_of(places, after, cell)
    order = np.argsort(cells, kind="stable")
    bad = np.zeros(len(points), np.bool_)
    crossing(places, loops, after, cells[order], owner[order], bad)
    return bad
