"""A compiled kernel that thins a mask to lines one pixel wide."""

from __future__ import annotations

import numpy as np
from numba import njit


@njit(cache=True)
def thinned(mask):  # type: ignore[no-untyped-def]
    """What is left when a mask is peeled from all sides, (rows, cols) uint8, 1 on the lines.

    Parameters
    ----------
    mask : (rows, cols) uint8, 0 or 1; nothing on its border

    Source: Guo and Hall, Parallel Thinning with Two-Subiteration Algorithms, 1989.
    """
    found = mask.copy()
    cols = found.shape[1]
    row_of, col_of = np.nonzero(found)
    at = np.empty(len(row_of), np.int64)
    for k in range(len(at)):
        at[k] = row_of[k] * cols + col_of[k]
    count = len(at)
    gone = np.empty(count, np.int64)
    turn, still = 0, 0
    while still < 2:
        dropped = 0
        for k in range(count):
            y, x = at[k] // cols, at[k] % cols
            p2, p3 = found[y - 1, x], found[y - 1, x + 1]
            p4, p5 = found[y, x + 1], found[y + 1, x + 1]
            p6, p7 = found[y + 1, x], found[y + 1, x - 1]
            p8, p9 = found[y, x - 1], found[y - 1, x - 1]
            parts = (
                ((1 - p2) & (p3 | p4))
                + ((1 - p4) & (p5 | p6))
                + ((1 - p6) & (p7 | p8))
                + ((1 - p8) & (p9 | p2))
            )
            if parts != 1:
                continue
            one = (p9 | p2) + (p3 | p4) + (p5 | p6) + (p7 | p8)
            two = (p2 | p3) + (p4 | p5) + (p6 | p7) + (p8 | p9)
            near = min(one, two)
            if near < 2 or near > 3:
                continue
            if turn == 0:
                last = (p2 | p3 | (1 - p5)) & p4
            else:
                last = (p6 | p7 | (1 - p9)) & p8
            if last == 0:
                gone[dropped] = k
                dropped += 1
        for k in range(dropped):
            found[at[gone[k]] // cols, at[gone[k]] % cols] = 0
        kept = 0
        for k in range(count):
            if found[at[k] // cols, at[k] % cols] == 1:
                at[kept] = at[k]
                kept += 1
        count = kept
        still = still + 1 if dropped == 0 else 0
        turn = 1 - turn
    return found
