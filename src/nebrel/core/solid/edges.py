"""Whether art that lies on a body is bent around an edge of it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nebrel.core.forms.lying import Lying
from nebrel.core.kernel import Solid
from nebrel.core.outline.raster import fill

_CELLS = 64  # along each side of the art, where the surface is looked at
_WITHIN = 2  # cells: what turns over no more is an edge
_STEP = 1e-3  # of the art's longer side: how far out an end of a normal is


def edge_under(
    art: Solid, level_mm: float, size_mm: tuple[float, float], lying: Lying, mirrored: bool
) -> float:
    """By how many degrees the surface turns at once under art, where that is the most.

    Parameters
    ----------
    level_mm : the height of the art that comes to lie on the surface
    mirrored : it lies left for right
    """
    covered = _covered(art, level_mm, size_mm)
    if mirrored:
        covered = covered[:, ::-1]
    if not covered.any():
        return 0.0
    wide, tall = size_mm
    share = (np.arange(_CELLS) + 0.5) / _CELLS - 0.5
    u, v = np.meshgrid(share * wide, share * tall)
    flat = np.column_stack([u.ravel(), v.ravel(), np.zeros(u.size)])
    out = flat + np.array([0, 0, _STEP * max(size_mm)])
    ways = lying.place(out) - lying.place(flat)
    ways /= np.maximum(np.linalg.norm(ways, axis=1, keepdims=True), 1e-12)
    normals = ways.reshape(_CELLS, _CELLS, 3)
    least = 1.0
    for turned, own in ((normals, covered), (normals.swapaxes(0, 1), covered.T)):
        cosine = (turned[:-_WITHIN] * turned[_WITHIN:]).sum(axis=2)
        both = own[:-_WITHIN] & own[_WITHIN:]
        least = min(least, float(cosine[both].min(initial=1.0)))
    return float(np.degrees(np.arccos(np.clip(least, -1, 1))))


def _covered(art: Solid, level_mm: float, size_mm: tuple[float, float]) -> NDArray[np.bool_]:
    """Where there is art, of cells from the lower left."""
    _, _, low, _, _, high = art.bounding_box()
    hair = 1e-3 * (high - low)
    at = level_mm + hair if low < level_mm + hair < high else (low + high) / 2
    loops = [np.asarray(loop) / size_mm * _CELLS - 0.5 for loop in art.slice(at).to_polygons()]
    return fill(loops, _CELLS, _CELLS)
