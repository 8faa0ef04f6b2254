"""Nearest patches and what they say of unknown pixels, as compiled kernels."""

from __future__ import annotations

import numpy as np
from numba import njit

REACH = 3  # patches of 7 by 7


@njit(cache=True)
def _distance(picture, y, x, sy, sx, best):  # type: ignore[no-untyped-def]
    """Summed squared difference of two patches, given up once it passes `best`."""
    rows, cols, channels = picture.shape
    total = 0.0
    for dy in range(-REACH, REACH + 1):
        ty = min(max(y + dy, 0), rows - 1)
        for dx in range(-REACH, REACH + 1):
            tx = min(max(x + dx, 0), cols - 1)
            for c in range(channels):
                gap = picture[ty, tx, c] - picture[sy + dy, sx + dx, c]
                total += gap * gap
        if total >= best:
            return total
    return total


@njit(cache=True)
def search(picture, hole, usable, field, turns, seed):  # type: ignore[no-untyped-def]
    """Improve the nearest-patch field of every pixel whose patch touches the hole."""
    np.random.seed(seed)
    rows, cols = hole.shape
    near = np.zeros((rows, cols), np.bool_)
    for y in range(rows):
        for x in range(cols):
            if hole[y, x]:
                for ty in range(max(0, y - REACH), min(rows, y + REACH + 1)):
                    for tx in range(max(0, x - REACH), min(cols, x + REACH + 1)):
                        near[ty, tx] = True
    cost = np.full((rows, cols), np.inf)
    for y in range(rows):
        for x in range(cols):
            if near[y, x]:
                sy, sx = field[y, x]
                if sy >= rows or sx >= cols or not usable[sy, sx]:
                    for _ in range(200):
                        sy, sx = np.random.randint(0, rows), np.random.randint(0, cols)
                        if usable[sy, sx]:
                            break
                if usable[sy, sx]:
                    field[y, x, 0], field[y, x, 1] = sy, sx
                    cost[y, x] = _distance(picture, y, x, sy, sx, np.inf)
    for turn in range(turns):
        step = 1 if turn % 2 == 0 else -1
        first_y, last_y = (0, rows) if step == 1 else (rows - 1, -1)
        first_x, last_x = (0, cols) if step == 1 else (cols - 1, -1)
        for y in range(first_y, last_y, step):
            for x in range(first_x, last_x, step):
                if not near[y, x]:
                    continue
                for way in range(2):
                    ny = y - step if way == 0 else y
                    nx = x if way == 0 else x - step
                    if 0 <= ny < rows and 0 <= nx < cols and near[ny, nx]:
                        sy = field[ny, nx, 0] + (step if way == 0 else 0)
                        sx = field[ny, nx, 1] + (0 if way == 0 else step)
                        if 0 <= sy < rows and 0 <= sx < cols and usable[sy, sx]:
                            value = _distance(picture, y, x, sy, sx, cost[y, x])
                            if value < cost[y, x]:
                                cost[y, x] = value
                                field[y, x, 0], field[y, x, 1] = sy, sx
                reach = max(rows, cols)
                while reach >= 1:
                    sy = field[y, x, 0] + np.random.randint(-reach, reach + 1)
                    sx = field[y, x, 1] + np.random.randint(-reach, reach + 1)
                    if 0 <= sy < rows and 0 <= sx < cols and usable[sy, sx]:
                        value = _distance(picture, y, x, sy, sx, cost[y, x])
                        if value < cost[y, x]:
                            cost[y, x] = value
                            field[y, x, 0], field[y, x, 1] = sy, sx
                    reach //= 2


@njit(cache=True)
def vote(picture, hole, field):  # type: ignore[no-untyped-def]
    """Every unknown pixel becomes the mean of what the patches over it say."""
    rows, cols, channels = picture.shape
    result = picture.copy()
    for y in range(rows):
        for x in range(cols):
            if not hole[y, x]:
                continue
            total = np.zeros(channels)
            weight = 0.0
            for dy in range(-REACH, REACH + 1):
                for dx in range(-REACH, REACH + 1):
                    py, px = y + dy, x + dx
                    if not (0 <= py < rows and 0 <= px < cols):
                        continue
                    sy, sx = field[py, px, 0] - dy, field[py, px, 1] - dx
                    if not (0 <= sy < rows and 0 <= sx < cols) or hole[sy, sx]:
                        continue
                    share = 1.0 / (1.0 + dy * dy + dx * dx)
                    weight += share
                    for c in range(channels):
                        total[c] += share * picture[sy, sx, c]
            if weight > 0:
                for c in range(channels):
                    result[y, x, c] = total[c] / weight
    return result
