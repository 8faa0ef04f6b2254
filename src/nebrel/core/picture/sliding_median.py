"""The median of a sliding window, as a compiled kernel."""

from __future__ import annotations

import numpy as np
from numba import njit, prange


@njit(cache=True, parallel=True)
def sliding_median(framed, radius):  # type: ignore[no-untyped-def]
    """Median of each window of a framed uint16 picture; one histogram slides along a row.

    Source: Huang, Yang and Tang, A Fast Two-Dimensional Median Filtering Algorithm, 1979,
    with coarser histograms of 256 and of 16 values over the fine one; the place in the
    coarsest is carried from pixel to pixel.
    """
    side = 2 * radius + 1
    rows, cols = framed.shape[0] - 2 * radius, framed.shape[1] - 2 * radius
    half = side * side // 2
    result = np.empty((rows, cols), np.uint16)
    parts = 64
    for part in prange(parts):
        coarse = np.zeros(256, np.int32)
        middle = np.zeros(4096, np.int32)
        fine = np.zeros(65536, np.int32)
        for r in range(rows * part // parts, rows * (part + 1) // parts):
            coarse[:] = 0
            middle[:] = 0
            fine[:] = 0
            for y in range(r, r + side):
                for x in range(side):
                    value = framed[y, x]
                    coarse[value >> 8] += 1
                    middle[value >> 4] += 1
                    fine[value] += 1
            high, below = 0, 0
            for c in range(cols):
                if c > 0:
                    for y in range(r, r + side):
                        gone, come = framed[y, c - 1], framed[y, c + side - 1]
                        if gone == come:
                            continue
                        coarse[gone >> 8] -= 1
                        middle[gone >> 4] -= 1
                        fine[gone] -= 1
                        coarse[come >> 8] += 1
                        middle[come >> 4] += 1
                        fine[come] += 1
                        below += ((come >> 8) < high) - ((gone >> 8) < high)
                while below > half:
                    high -= 1
                    below -= coarse[high]
                while below + coarse[high] <= half:
                    below += coarse[high]
                    high += 1
                seen, group = below, high << 4
                while seen + middle[group] <= half:
                    seen += middle[group]
                    group += 1
                value = group << 4
                while seen + fine[value] <= half:
                    seen += fine[value]
                    value += 1
                result[r, c] = value
    return result
