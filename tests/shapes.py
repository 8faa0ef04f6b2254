"""Shapes that are known exactly, drawn as soft-edged or hard-edged pictures, and distances."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from scipy.spatial import cKDTree

from nebrel.core.outline.raster import fill

Curve = np.ndarray
Loops = list[list[Curve]]


def straight(start: Sequence[float], end: Sequence[float]) -> Curve:
    a, b = np.array(start, float), np.array(end, float)
    return np.array([a, a + (b - a) / 3, a + (b - a) * 2 / 3, b])


def arc(middle: Sequence[float], wide: float, tall: float, start: float, end: float) -> Curve:
    reach = 4 / 3 * math.tan((end - start) / 4)
    a, b = np.array([[math.cos(t), math.sin(t)] for t in (start, end)])
    along_a, along_b = np.array([[-a[1], a[0]], [-b[1], b[0]]])
    points = np.array([a, a + reach * along_a, b - reach * along_b, b])
    return points * (wide, tall) + middle


def ellipse(middle: Sequence[float], wide: float, tall: float) -> Loops:
    quarter = math.pi / 2
    return [[arc(middle, wide, tall, k * quarter, (k + 1) * quarter) for k in range(4)]]


def polygon(points: Sequence[Sequence[float]]) -> Loops:
    return [[straight(points[k - 1], points[k]) for k in range(len(points))]]


def star(middle: Sequence[float], reach: float, inner: float, count: int) -> list[list[float]]:
    found = []
    for k in range(2 * count):
        radius = reach if k % 2 == 0 else reach * inner
        angle = math.pi * k / count + 0.3
        found.append([middle[0] + radius * math.cos(angle), middle[1] + radius * math.sin(angle)])
    return found


def rounded(points: Sequence[Sequence[float]], radius: float) -> Loops:
    """A polygon whose corners are rounded."""
    pieces, ends = [], []
    corners = np.array(points, float)
    for k, corner in enumerate(corners):
        a = corners[k - 1] - corner
        b = corners[(k + 1) % len(corners)] - corner
        a, b = a / np.hypot(*a), b / np.hypot(*b)
        half = math.acos(float(np.clip(a @ b, -1, 1))) / 2
        away = radius / math.tan(half)
        reach = 4 / 3 * math.tan((math.pi - 2 * half) / 4) * radius
        start, end = corner + a * away, corner + b * away
        ends.append((start, end))
        pieces.append(np.array([start, start - a * reach, end - b * reach, end]))
    loop = []
    for k, piece in enumerate(pieces):
        loop += [piece, straight(ends[k][1], ends[(k + 1) % len(ends)][0])]
    return [loop]


def points_of(curve: Curve, count: int) -> np.ndarray:
    u = np.linspace(0, 1, count)[:, None]
    v = 1 - u
    a, b, c, d = curve
    return v**3 * a + 3 * u * v * v * b + 3 * u * u * v * c + u**3 * d


def cover(loops: Loops, rows: int, cols: int, fine: int = 16) -> np.ndarray:
    """How much of every pixel lies inside, in 255 steps, as good programs draw it."""
    lines = [
        (np.concatenate([points_of(curve, 120)[:-1] for curve in loop]) + 0.5) * fine - 0.5
        for loop in loops
    ]
    inside = fill(lines, rows * fine, cols * fine)
    share = inside.reshape(rows, fine, cols, fine).mean(axis=(1, 3))
    return (np.round(share * 255) / 255).astype(np.float32)


def furthest(curves: Sequence[Curve], others: Sequence[Curve]) -> float:
    """The largest distance of any place on some curves from others."""
    places = np.concatenate([points_of(curve, 60) for curve in curves])
    lines = [points_of(curve, 300) for curve in others]
    start = np.concatenate([line[:-1] for line in lines])
    end = np.concatenate([line[1:] for line in lines])
    near = cKDTree((start + end) / 2).query(places, k=min(8, len(start)))[1]
    a, along = start[near], end[near] - start[near]
    length = np.maximum((along**2).sum(-1), 1e-15)
    share = np.clip(((places[:, None] - a) * along).sum(-1) / length, 0, 1)
    off = a + share[..., None] * along - places[:, None]
    return float(np.hypot(off[..., 0], off[..., 1]).min(axis=1).max())
