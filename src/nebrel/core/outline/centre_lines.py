"""The middle of the strokes of line art, as curves."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Loop
from nebrel.core.errors import InvalidValue, TooLarge
from nebrel.core.kernel import non_zero
from nebrel.core.outline.assemble import stroked
from nebrel.core.outline.fit_kernels import calm, fit_open, flatten
from nebrel.core.outline.outline import Cubics, Outline
from nebrel.core.outline.regions import outline_of
from nebrel.core.outline.tracing import Field

_STRAIGHT_ON = math.radians(40)  # two strokes that meet and turn by less are one
_CALM_PX = 5.0
_WITHIN_PX = 0.4
_MOST_MEETING = 60_000
_NEIGHBOURS = ((0, 1), (1, 0), (0, -1), (-1, 0), (1, 1), (1, -1), (-1, -1), (-1, 1))
Pixel = tuple[int, int]


@dataclass(frozen=True)
class Strokes:
    """Lines without a width.

    Attributes
    ----------
    curves : of each line, (n, 4, 2), in pixels y down or in mm y up
    closed : whether each ends where it begins
    """

    curves: tuple[Cubics, ...]
    closed: tuple[bool, ...]

    @property
    def bounds(self) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Lowest and highest x, y."""
        points = np.concatenate([line_of(one) for one in self.curves])
        return points.min(axis=0), points.max(axis=0)

    @property
    def length(self) -> float:
        """Of all of them."""
        lines = (np.diff(line_of(one), axis=0) for one in self.curves)
        return float(sum(np.hypot(step[:, 0], step[:, 1]).sum() for step in lines))

    def widened(self, wide_mm: float) -> Outline:
        """The area that they take with a width and round ends."""
        area = non_zero([])
        for curves, closed in zip(self.curves, self.closed, strict=True):
            line = line_of(curves)
            area = area + stroked(line[:-1] if closed else line, closed, wide_mm, "round", "round")
        return outline_of(area)


def line_of(curves: Cubics, within: float = 0.004) -> Loop:
    """A line of curves as points, both ends among them."""
    return np.concatenate([flatten(curves, within, np.inf), curves[-1:, 3]])


def centre_lines(found: Field) -> Strokes:
    """The middle of all strokes inside, in pixels, y down.

    Branches no longer than their stroke is wide are its ends' corners, and left out. Strokes that
    cross go straight on.

    Raises
    ------
    InvalidValue : nothing is left but dots
    TooLarge : so many lines meet that it is noise
    """
    import cv2

    from nebrel.core.outline.thin_kernel import thinned

    inside = np.pad((found.values >= found.level).astype(np.uint8), 1)
    depth: Floats = cv2.distanceTransform(inside, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    skeleton = thinned(inside)
    around = cv2.filter2D(skeleton, -1, np.ones((3, 3), np.uint8), borderType=cv2.BORDER_CONSTANT)
    meeting = int(((skeleton > 0) & (around > 3)).sum())
    if meeting > _MOST_MEETING:
        raise TooLarge(
            "trace",
            f"its lines meet at {meeting} places, more than {_MOST_MEETING}: noise, not strokes",
            "Take noise out of the picture first, or choose another level",
        )
    for _ in range(3):
        paths = _paths(skeleton)
        spurs = [path for path in paths if _is_spur(path, skeleton, depth)]
        if not spurs:
            break
        for path in spurs:
            for row, col in path[:-1]:
                skeleton[row, col] = 0
        skeleton = thinned(skeleton)
    lines = _joined([path for path in _paths(skeleton) if len(path) > 1], depth)
    curves, closed = [], []
    for line in lines:
        ring = len(line) > 3 and bool(np.hypot(*(line[0] - line[-1])) < 1.5)
        points = _centred(line - 1.0, ring)
        if len(points) >= 2:
            curves.append(fit_open(points, _WITHIN_PX))
            closed.append(ring)
    if not curves:
        raise InvalidValue(
            "trace", "there are no strokes, only dots", "Trace the shape instead of its middle"
        )
    return Strokes(tuple(curves), tuple(closed))


def _centred(line: Loop, ring: bool) -> Loop:
    """A line of pixel steps made calm, its ends kept."""
    if ring:
        points = calm(np.ascontiguousarray(line[:-1]), True, _CALM_PX, 0.9)
        return np.concatenate([points, points[:1]])
    return calm(np.ascontiguousarray(line), False, _CALM_PX, 0.9)


def _neighbours(skeleton: NDArray[np.uint8], pixel: Pixel) -> list[Pixel]:
    """Pixels of the lines beside one; across a corner only where no side leads there."""
    row, col = pixel
    found = [
        (row + down, col + right)
        for down, right in _NEIGHBOURS[:4]
        if skeleton[row + down, col + right]
    ]
    for down, right in _NEIGHBOURS[4:]:
        if not skeleton[row + down, col + right]:
            continue
        if skeleton[row + down, col] or skeleton[row, col + right]:
            continue
        found.append((row + down, col + right))
    return found


def _paths(skeleton: NDArray[np.uint8]) -> list[list[Pixel]]:
    """Lines from end or junction to end or junction, and rings; a free end comes first."""
    pixels = [(int(row), int(col)) for row, col in np.argwhere(skeleton)]
    beside = {pixel: _neighbours(skeleton, pixel) for pixel in pixels}
    nodes = [pixel for pixel in pixels if len(beside[pixel]) != 2]
    found, walked = [], set()
    for node in sorted(nodes, key=lambda pixel: len(beside[pixel])):
        for first in beside[node]:
            if (node, first) in walked:
                continue
            path = [node, first]
            while len(beside[path[-1]]) == 2:
                ways = [pixel for pixel in beside[path[-1]] if pixel != path[-2]]
                if not ways:
                    break
                path.append(ways[0])
            walked.add((node, first))
            walked.add((path[-1], path[-2]))
            found.append(path)
    on_paths = {pixel for path in found for pixel in path}
    for pixel in pixels:
        if pixel in on_paths or len(beside[pixel]) != 2:
            continue
        path = [pixel, beside[pixel][0]]
        while path[-1] != pixel:
            ways = [one for one in beside[path[-1]] if one != path[-2]]
            if not ways:
                break
            path.append(ways[0])
        on_paths.update(path)
        found.append(path)
    return found


def _is_spur(path: list[Pixel], skeleton: NDArray[np.uint8], depth: Floats) -> bool:
    free = len(_neighbours(skeleton, path[0])) == 1
    joined = len(_neighbours(skeleton, path[-1])) > 2
    return free and joined and len(path) <= 1.3 * float(depth[path[-1]]) + 2


def _clusters(paths: list[list[Pixel]], depth: Floats) -> tuple[dict[Pixel, Pixel], set[int]]:
    """For each end of a path the first of those that are one junction; and paths within one.

    Where two thick strokes cross, thinning leaves two junctions and a bridge between.
    """
    joined: dict[Pixel, Pixel] = {}

    def first(pixel: Pixel) -> Pixel:
        while joined.setdefault(pixel, pixel) != pixel:
            pixel = joined[pixel]
        return pixel

    often: dict[Pixel, int] = {}
    for path in paths:
        for pixel in (path[0], path[-1]):
            often[pixel] = often.get(pixel, 0) + 1
    bridges = set()
    for number, path in enumerate(paths):
        a, b = path[0], path[-1]
        most = 1.2 * float(max(depth[a], depth[b])) + 2
        if a != b and often[a] > 1 and often[b] > 1 and len(path) <= most:
            bridges.add(number)
            joined[first(a)] = first(b)
    return {pixel: first(pixel) for pixel in often}, bridges


def _joined(paths: list[list[Pixel]], depth: Floats) -> list[Loop]:
    """Lines as x, y, those that go straight on at a junction put together."""
    cluster, bridges = _clusters(paths, depth)
    within: dict[Pixel, list[Pixel]] = {}
    for pixel, name in cluster.items():
        within.setdefault(name, []).append(pixel)
    lines: list[Loop | None] = []
    ends: dict[Pixel, list[tuple[int, int]]] = {}
    for number, path in enumerate(paths):
        line = np.array(path, np.float64)[:, ::-1]
        if number in bridges:
            lines.append(None)
            continue
        if path[0] != path[-1]:
            for end in (0, -1):
                name = cluster[path[end]]
                ends.setdefault(name, []).append((number, end))
                line[end] = np.mean(within[name], axis=0)[::-1]
        lines.append(line)
    where = list(range(len(lines)))  # what each line became part of
    for name, own in ends.items():
        skip = round(float(depth[name])) if len(own) > 1 else 0
        away = {one: _away(paths[one[0]], one[1], skip) for one in own}
        turns = []
        for i, one in enumerate(own):
            for other in own[i + 1 :]:
                cosine = float(np.clip(away[one] @ away[other], -1, 1))
                turns.append((math.pi - math.acos(cosine), one, other))
        used: set[tuple[int, int]] = set()
        joint = np.mean(within[name], axis=0)[::-1]
        for turn, one, other in sorted(turns):
            if (turn > _STRAIGHT_ON and len(own) > 2) or one in used or other in used:
                continue
            used |= {one, other}
            _put_together(lines, where, one[0], other[0], joint, skip)
    return [line for line in lines if line is not None]


def _put_together(
    lines: list[Loop | None],
    where: list[int],
    one: int,
    other: int,
    joint: NDArray[np.float64],
    skip: int,
) -> None:
    """Two lines that meet as one, in the place of the first.

    Next to where strokes cross thinned lines bend: so many of their pixels are left out.
    """

    def owner(number: int) -> int:
        while where[number] != number:
            number = where[number]
        return number

    a, b = owner(one), owner(other)
    first, second = lines[a], lines[b]
    if a == b or first is None or second is None:
        return
    first = first if np.allclose(first[-1], joint) else first[::-1]
    second = second if np.allclose(second[0], joint) else second[::-1]
    skip = 1 + min(skip, len(first) - 2, len(second) - 2)
    across = np.linspace(first[-skip], second[skip - 1], 2 * skip)
    lines[a] = np.concatenate([first[:-skip], across, second[skip:]])
    lines[b] = None
    where[b] = a


def _away(path: list[Pixel], end: int, skip: int) -> NDArray[np.float64]:
    """The direction in which a path leaves one of its ends, beyond so many pixels."""
    own = path if end == 0 else path[::-1]
    first = min(skip, max(0, len(own) - 4))
    points = np.array(own[first : first + 14], np.float64)[:, ::-1]
    way = points[-1] - points[0]
    found: NDArray[np.float64] = way / max(float(np.hypot(*way)), 1e-9)
    return found


def strokes_wide(found: Field, wide_mm: float) -> Strokes:
    """The middle of all strokes in mm, y up, together so wide, their lower left at 0, 0.

    Raises
    ------
    InvalidValue : as `centre_lines`; or they have no width
    """
    lines = centre_lines(found)
    low, high = lines.bounds
    if high[0] - low[0] <= 0:
        raise InvalidValue("trace", "the strokes have no width", "Turn the picture")
    scale = wide_mm / float(high[0] - low[0])
    return Strokes(
        tuple((one - (low[0], high[1])) * (scale, -scale) for one in lines.curves), lines.closed
    )
