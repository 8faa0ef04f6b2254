"""Moved vertices that go no further than lets faces pass by each other."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh.crossings import crossings, extent_of
from nebrel.core.mesh.fans import with_neighbours

_PASSES = 12
_STILL = 8  # passes after which what still crosses is not moved at all
_AROUND = 3  # faces further from what crossed are not looked at again until the end
Places = NDArray[np.float64]


def held_back(
    before: Places, moved: Places, faces: NDArray[np.integer[Any]]
) -> tuple[Places, bool]:
    """Vertices (V, 3) on their way from `before` to `moved`, short of where faces would cross.

    Across a sharp edge what stands out of both sides, or goes in, meets: there the way is halved
    again and again, with what lies around it.

    Parameters
    ----------
    faces : (F, 3)

    Returns
    -------
    The places, those of `moved` wherever nothing crosses; and whether nothing crosses at last.
    """
    named = faces.astype(np.int64)
    extent = extent_of(moved)
    share = np.ones(len(moved))
    places = moved
    looked = np.arange(len(named))
    whole = True
    for k in range(_PASSES + 1):
        found = crossings(places[named[looked]], named[looked], extent)
        rows = looked[found > 0]
        if not len(rows) and whole:
            return places, True
        if k == _PASSES:
            break
        if not len(rows):
            looked, whole = np.arange(len(named)), True
            continue
        at = np.zeros(len(moved), bool)
        at[named[rows]] = True
        share[at] *= 0.5 if k < _STILL else 0.0
        beside = with_neighbours(at, named) & ~at
        share[beside] *= 0.75
        places = before + share[:, None] * (moved - before)
        for _ in range(_AROUND):
            at = with_neighbours(at, named)
        looked, whole = np.flatnonzero(at[named].any(axis=1)), False
    return places, False
