"""A silhouette turned about its axis: bottles, columns, lamps."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d

from nebrel.core.data import Floats, Mesh
from nebrel.core.errors import InvalidValue

Field = NDArray[np.float64]
_MOST_TILT = 40.0  # degrees from upright
_LEAST_TILT = 0.3  # less is what pixels make
_LOOKS = 3
_ROUNDS = 12
_ONE_SIDED = 0.08  # of the radius: what reaches further on one side only is a handle
_LEAST_SIDES, _MOST_SIDES = 64, 2048
_CALM_PX, _STEP_PX = 2.0, 0.35  # how far radii are smoothed; more is no step of pixels
_LEAST_PX = 0.05  # of a radius that is a ring


@dataclass(frozen=True)
class Axis:
    """What a silhouette is turned about.

    Attributes
    ----------
    at : where it crosses the middle row, px from the left
    tilt : degrees that its upper end leans to the right
    """

    at: float
    tilt: float


def find_axis(cover: Floats) -> Axis:
    """The line that a silhouette is the same on both sides of, as nearly as may be.

    Raises
    ------
    InvalidValue : it covers nothing
    """
    found = _fitted(cover)
    for _ in range(_LOOKS):  # rows across what leans are not square to it: once more, upright
        again = upright(cover, found)
        off = _fitted(again)
        beside = off.at - (again.shape[1] - 1) / 2
        found = Axis(
            found.at + beside / np.cos(np.radians(found.tilt)),
            float(np.clip(found.tilt + off.tilt, -_MOST_TILT, _MOST_TILT)),
        )
    # A short and wide one hardly tells its tilt.
    return found if abs(found.tilt) > _LEAST_TILT else Axis(_fitted(cover, False).at, 0.0)


def _fitted(cover: Floats, leaning: bool = True) -> Axis:
    spans = [_span(row) for row in cover]
    known = np.array([(y, *span) for y, span in enumerate(spans) if span is not None], np.float64)
    if len(known) < 4:
        raise InvalidValue("mask", "it covers nothing", "Isolate the subject")
    y = known[:, 0] - (len(cover) - 1) / 2
    middle, wide = known[:, 1:].mean(axis=1), np.diff(known[:, 1:], axis=1)[:, 0]
    given = np.column_stack([np.ones(len(y)), y * leaning])
    weight = wide.copy()
    # A handle is on one side of few rows: the least sum of distances passes over it.
    for _ in range(_ROUNDS):
        root = np.sqrt(weight)[:, None]
        answer = np.linalg.lstsq(given * root, middle * root[:, 0], rcond=None)[0]
        weight = wide / np.maximum(np.abs(middle - given @ answer), 0.25)
    return Axis(float(answer[0]), float(np.degrees(np.arctan(-answer[1]))))


def _span(row: Floats) -> tuple[float, float] | None:
    """From where to where a row is covered, to parts of a pixel; its widest run."""
    on = row >= 0.5
    if not on.any():
        return None
    edges = np.flatnonzero(np.diff(np.concatenate([[0], on.astype(np.int8), [0]])))
    starts, ends = edges[::2], edges[1::2] - 1
    widest = int((ends - starts).argmax())
    first, last = int(starts[widest]), int(ends[widest])
    return first - _beyond(row, first, -1), last + _beyond(row, last, 1)


def _beyond(row: Floats, at: int, way: int) -> float:
    """How far from a pixel that is on, towards one that is off, the half lies."""
    other = at + way
    if not 0 <= other < len(row):
        return 0.5
    a, b = float(row[at]), float(row[other])
    return (a - 0.5) / max(1e-6, a - b)


def upright(layer: Floats, axis: Axis) -> Floats:
    """A picture or mask turned so that an axis is upright in the middle of it."""
    rows, cols = layer.shape[:2]
    half = max(axis.at, cols - 1 - axis.at)
    lean = abs(np.tan(np.radians(axis.tilt))) * rows / 2
    size = int(np.ceil(half + lean)) * 2 + 3, rows + 2 * int(np.ceil(lean))
    turn = cv2.getRotationMatrix2D((axis.at, (rows - 1) / 2), axis.tilt, 1.0)
    turn[:, 2] += (size[0] - 1) / 2 - axis.at, (size[1] - rows) / 2
    border = cv2.BORDER_CONSTANT if layer.ndim == 2 else cv2.BORDER_REPLICATE
    found: Floats = cv2.warpAffine(layer, turn, size, flags=cv2.INTER_LINEAR, borderMode=border)
    return found


def radii(cover: Floats) -> Field:
    """How far from an upright axis in its middle each row reaches, px (rows,); 0 beside it."""
    middle = (cover.shape[1] - 1) / 2
    found = np.zeros(len(cover))
    for y, row in enumerate(cover):
        right, left = (_reach(half) for half in (row[int(middle) :], row[int(middle) :: -1]))
        if right <= 0 or left <= 0:
            continue
        mean = (right + left) / 2
        one_sided = abs(right - left) > 2 * _ONE_SIDED * mean + 1
        found[y] = min(right, left) if one_sided else mean
    return _calm(found)


def _calm(radius: Field) -> Field:
    """Without the steps that pixels leave; what turns sharply stays."""
    on = radius > 0
    if not on.any():
        return radius
    rows = np.flatnonzero(on)
    own = radius[rows[0] : rows[-1] + 1]
    smooth = gaussian_filter1d(own, _CALM_PX, mode="nearest")
    found = radius.copy()
    found[rows[0] : rows[-1] + 1] = np.where(np.abs(smooth - own) < _STEP_PX, smooth, own)
    return found


def _reach(half: Floats) -> float:
    off = np.flatnonzero(half < 0.5)
    if len(off) == 0:
        return float(len(half))
    last = int(off[0]) - 1
    return 0.0 if last < 0 else last + _beyond(half, last, 1)


def turned(radius: Field, lift: Field | None, wall_px: float) -> Mesh:
    """The solid of radii about an upright axis, px: x to the right, y to the back, z up.

    Parameters
    ----------
    radius : (rows,) from the top down
    lift : (rows, cols) px, by how much the front stands out further, the axis in the middle
    wall_px : thickness of its wall and floor, open above; 0 is solid

    Raises
    ------
    InvalidValue : there is nothing of it, or no room inside
    """
    on = np.flatnonzero(radius > _LEAST_PX)
    if len(on) < 3:
        raise InvalidValue("figure", "nothing is left of it", "Isolate the subject")
    top, low = int(on[0]), int(on[-1])
    own = np.maximum(radius[top : low + 1], _LEAST_PX)
    heights = np.arange(low - top, -1, -1, dtype=np.float64)
    heights[[0, -1]] += 0.5, -0.5  # a row is as high as a pixel
    sides = int(np.clip(2 * np.pi * own.max(), _LEAST_SIDES, _MOST_SIDES))
    sides += sides % 2
    turn = 2 * np.pi * np.arange(sides) / sides
    rings = [_ring(own[k], heights[k], turn, lift, top + k) for k in range(len(own))]
    if wall_px <= 0:
        return _closed(rings[::-1], sides)
    inner = _inner(own, wall_px)
    open_from = np.flatnonzero(inner <= _LEAST_PX)
    deep = int(open_from[0]) if len(open_from) else len(own)
    deep = min(deep, len(own) - int(np.floor(wall_px)))
    if deep < 2:
        narrow = bool((inner > _LEAST_PX).any())
        why = "there is no room inside" if not narrow else "its upper end is too narrow to be open"
        raise InvalidValue("wall", why, "Make it thinner, or the figure solid")
    floors = np.maximum(heights, heights[-1] + wall_px)
    inside = [_ring(inner[k], floors[k], turn, None, 0) for k in range(deep)]
    return _closed([*rings[::-1], *inside], sides)


def _inner(radius: Field, wall_px: float) -> Field:
    """The radii that are a wall further in, measured square to it."""
    reach = int(np.floor(wall_px))
    found = radius - wall_px
    for step in range(1, reach + 1):
        less = np.sqrt(wall_px**2 - step**2)
        found[step:] = np.minimum(found[step:], radius[:-step] - less)
        found[:-step] = np.minimum(found[:-step], radius[step:] - less)
    return found


def _ring(radius: float, z: float, turn: Field, lift: Field | None, row: int) -> Field:
    """(sides, 3) from the right over the back, the left and the front."""
    right, back = np.cos(turn), np.sin(turn)
    reach = np.full(len(turn), radius)
    if lift is not None:
        at = (lift.shape[1] - 1) / 2 + radius * right
        facing = np.clip(-back / 0.3, 0, 1)
        reach = reach + facing * np.interp(at, np.arange(lift.shape[1]), lift[row])
    return np.column_stack([reach * right, reach * back, np.full(len(turn), z)])


def _closed(rings: list[Field], sides: int) -> Mesh:
    """Rings joined one to the next, the first and the last to a point in their middle."""
    count = len(rings)
    places = np.concatenate([*rings, rings[0].mean(axis=0)[None], rings[-1].mean(axis=0)[None]])
    k, j = np.meshgrid(np.arange(count - 1), np.arange(sides), indexing="ij")
    ahead = (j + 1) % sides
    a, b, c, d = k * sides + j, k * sides + ahead, (k + 1) * sides + ahead, (k + 1) * sides + j
    walls = np.concatenate([np.stack(f, axis=-1).reshape(-1, 3) for f in ((a, b, c), (a, c, d))])
    first, last = count * sides, count * sides + 1
    round_ = np.arange(sides)
    after = (round_ + 1) % sides
    below = np.column_stack([np.full(sides, first), after, round_])
    end = (count - 1) * sides
    above = np.column_stack([np.full(sides, last), end + round_, end + after])
    faces = np.concatenate([walls, below, above]).astype(np.int32)
    return Mesh(places.astype(np.float32), faces, "figure")
