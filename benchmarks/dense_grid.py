"""The plain baseline: a dense grid of two bent sheets, reduced by quadric collapse."""

from __future__ import annotations

import time

import fast_simplification
import numpy as np


def time_grid(
    mm: np.ndarray, wide: float, bend: float, there: np.ndarray | None, count: int
) -> float:
    """Seconds to map two sheets over an arc of `bend` radians and to reduce them to a count."""
    start = time.perf_counter()
    rows, cols = mm.shape
    angle = np.linspace(-bend / 2, bend / 2, cols)
    z = np.linspace(wide / (cols - 1) * (rows - 1), 0, rows)[:, None] * np.ones((1, cols))
    radius = wide / bend
    sheets = []
    for reach in (radius + mm, np.full_like(mm, radius)):
        sheets.append(np.stack([reach * np.sin(angle), -reach * np.cos(angle), z], axis=-1))
    vertices = np.concatenate([sheet.reshape(-1, 3) for sheet in sheets]).astype(np.float32)
    index = np.arange(rows * cols).reshape(rows, cols)
    a, b, c, d = index[:-1, :-1], index[:-1, 1:], index[1:, :-1], index[1:, 1:]
    kept = np.ones((rows - 1, cols - 1), bool) if there is None else there[:-1, :-1]
    top = np.concatenate([np.stack([a, c, b], -1)[kept], np.stack([b, c, d], -1)[kept]])
    faces = np.concatenate([top, top[:, ::-1] + rows * cols]).astype(np.int32)
    fast_simplification.simplify(vertices, faces, target_count=count)
    return time.perf_counter() - start
