"""A figure as its picture sees it, to be laid over that."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numba import njit
from numpy.typing import NDArray

from nebrel.core.data import Floats, Mesh

_MORE, _LESS = (201, 146, 42), (150, 36, 60)  # of the figure alone, and of the picture alone
_STONE = (216, 204, 187)
_LIT = 0.35  # that is left of what light does not fall on


@dataclass(frozen=True)
class Seen:
    """What is seen of a mesh straight from the front.

    Attributes
    ----------
    inside : (rows, cols) where there is any of it
    colours : (rows, cols, 3) uint8, of what is nearest; 0 beside it, and where it has none
    near : (rows, cols) mm along y, of that; infinite beside it
    """

    inside: NDArray[np.bool_]
    colours: NDArray[np.uint8]
    near: NDArray[np.float64]

    def above(self, row: int) -> Seen:
        """The same down to a row: below lies a plate."""
        inside = self.inside.copy()
        inside[max(0, row) :] = False
        return Seen(inside, self.colours, self.near)

    def overlap(self, cover: Floats) -> float:
        """Of both silhouettes, the share that is in both."""
        other = cover >= 0.5
        either = int((self.inside | other).sum())
        return float((self.inside & other).sum()) / either if either else 0.0


def front_view(
    mesh: Mesh, shape: tuple[int, int], mm_per_px: float, low_mm: tuple[float, float]
) -> Seen:
    """What is seen of a mesh along y, from below 0.

    Parameters
    ----------
    shape : rows and columns
    low_mm : x and z of the lower left corner of the lowest, leftmost pixel
    """
    rows, cols = shape
    places = mesh.vertices.astype(np.float64)
    x = (places[:, 0] - low_mm[0]) / mm_per_px - 0.5
    y = rows - 0.5 - (places[:, 2] - low_mm[1]) / mm_per_px
    colours = mesh.colours
    if colours is None:
        colours = np.zeros((len(places), 4), np.uint8)
    near, shown = _drawn(x, y, places[:, 1], mesh.faces, colours, rows, cols)
    return Seen(np.isfinite(near), shown, near)


def plate_row(rows: int, mm_per_px: float, low_mm: float, base_mm: float) -> int:
    """The first row of a subject that a plate under it hides; `rows` where there is none.

    Parameters
    ----------
    low_mm : z of the lower side of the lowest row
    base_mm : the plate's upper side; 0 without one
    """
    if base_mm <= 0:
        return rows
    return int(np.clip(np.floor(rows - (base_mm - low_mm) / mm_per_px) - 1, 0, rows))


def difference(view: Seen, cover: Floats) -> NDArray[np.uint8]:
    """(rows, cols, 4) ochre where the figure alone is, madder where the subject alone is."""
    own = cover >= 0.5
    found = np.zeros((*cover.shape, 4), np.uint8)
    found[view.inside & ~own] = (*_MORE, 255)
    found[own & ~view.inside] = (*_LESS, 255)
    return found


def shaded(view: Seen, mm_per_px: float) -> NDArray[np.uint8]:
    """(rows, cols, 3) what is seen as stone under a lamp, where it has no colours."""
    near = np.where(view.inside, view.near, 0)
    down, right = np.gradient(near / mm_per_px)
    normal = np.dstack([right, down, np.ones_like(near)])
    normal /= np.linalg.norm(normal, axis=2, keepdims=True)
    light = np.clip(normal @ (np.array([-0.4, -0.5, 0.77])), 0, 1)
    found = np.array(_STONE) * (_LIT + (1 - _LIT) * light)[..., None]
    return np.round(np.clip(found, 0, 255)).astype(np.uint8)


@njit(cache=True, nogil=True)
def _drawn(x, y, depth, faces, colours, rows, cols):  # type: ignore[no-untyped-def]
    near = np.full((rows, cols), np.inf)
    shown = np.zeros((rows, cols, 3), np.uint8)
    for f in range(len(faces)):
        a, b, c = faces[f]
        left = max(0, int(np.ceil(min(x[a], x[b], x[c]))))
        right = min(cols - 1, int(np.floor(max(x[a], x[b], x[c]))))
        top = max(0, int(np.ceil(min(y[a], y[b], y[c]))))
        low = min(rows - 1, int(np.floor(max(y[a], y[b], y[c]))))
        whole = (x[b] - x[a]) * (y[c] - y[a]) - (x[c] - x[a]) * (y[b] - y[a])
        if whole == 0:
            continue
        for i in range(top, low + 1):
            for j in range(left, right + 1):
                v = ((j - x[a]) * (y[c] - y[a]) - (x[c] - x[a]) * (i - y[a])) / whole
                w = ((x[b] - x[a]) * (i - y[a]) - (j - x[a]) * (y[b] - y[a])) / whole
                u = 1 - v - w
                if u < -1e-9 or v < -1e-9 or w < -1e-9:
                    continue
                away = u * depth[a] + v * depth[b] + w * depth[c]
                if away < near[i, j]:
                    near[i, j] = away
                    for k in range(3):
                        mixed = u * colours[a, k] + v * colours[b, k] + w * colours[c, k]
                        shown[i, j, k] = np.uint8(min(255.0, max(0.0, mixed + 0.5)))
    return near, shown
