"""Connected components of an undirected graph."""

from __future__ import annotations

import numpy as np
from numba import njit
from numpy.typing import NDArray


def label_components(
    count: int, one: NDArray[np.integer], other: NDArray[np.integer]
) -> tuple[int, NDArray[np.int64]]:
    """Number the components of a graph.

    Parameters
    ----------
    count : how many nodes
    one, other : (E,) node at either end of each edge

    Returns
    -------
    number of components, and for each node the number of its own, from 0

    Source: Tarjan (1975), union-find, here by the smaller label and with paths halved.
    """
    label = np.arange(count, dtype=np.int64)
    found = _join(label, np.ascontiguousarray(one), np.ascontiguousarray(other))
    return int(found), label


@njit(cache=True, nogil=True)
def _join(label, one, other):  # type: ignore[no-untyped-def]
    for e in range(len(one)):
        a, b = np.int64(one[e]), np.int64(other[e])
        while label[a] != a:
            label[a] = label[label[a]]
            a = label[a]
        while label[b] != b:
            label[b] = label[label[b]]
            b = label[b]
        if a < b:
            label[b] = a
        elif b < a:
            label[a] = b
    # A root comes before all that it holds.
    count = 0
    for n in range(len(label)):
        if label[n] == n:
            label[n] = -1 - count
            count += 1
        else:
            root = label[n]
            while label[root] >= 0:
                root = label[root]
            label[n] = label[root]
    for n in range(len(label)):
        label[n] = -1 - label[n]
    return count
