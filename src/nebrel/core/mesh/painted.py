"""A picture as colours on some of a surface, its transparent parts left as they are."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Mesh
from nebrel.core.mesh.colour import oklab
from nebrel.core.mesh.refine import refine

STONE = (216, 204, 187, 255)
"""What has no colour yet, as displayed."""
_ALIKE = 0.02  # in Oklab, what is seen as one colour
_LATTICE = 900  # places along the longer side, at the most
_BESIDE = 1.2  # pitches that a place may lie beside the nearest
Place = Callable[[NDArray[np.float64]], NDArray[np.float64]]


def painted(
    mesh: Mesh,
    place: Place,
    size_mm: tuple[float, float],
    pixels: Floats,
    mirrored: bool,
    fine_mm: float,
    most: int,
) -> Mesh:
    """The same with a picture on it; its triangles halved where the picture changes.

    Parameters
    ----------
    place : spots (n, 3) from the middle of the picture, mm, to places in space
    pixels : (rows, cols, 4), 0 to 1 as displayed, the last its opacity
    fine_mm : edges no longer than this are not cut
    most : triangles
    """
    from scipy.spatial import cKDTree

    rows, cols = pixels.shape[:2]
    longer = max(rows, cols)
    count = [max(2, round(side * min(1.0, _LATTICE / longer))) for side in (cols, rows)]
    u, v = (np.linspace(-side / 2, side / 2, n) for side, n in zip(size_mm, count, strict=True))
    spots = np.stack(np.meshgrid(u, v), axis=-1).reshape(-1, 2)
    tree = cKDTree(place(np.column_stack([spots, np.zeros(len(spots))])))
    pitch = max(size_mm[0] / (count[0] - 1), size_mm[1] / (count[1] - 1))
    across = (spots[:, 0] / size_mm[0] + 0.5) * (cols - 1)
    if mirrored:
        across = cols - 1 - across
    down = (0.5 - spots[:, 1] / size_mm[1]) * (rows - 1)
    shown = pixels[np.rint(down).astype(np.int64), np.rint(across).astype(np.int64)]

    def seen(places: NDArray[np.floating[Any]]) -> Floats:
        """Colours and opacity (n, 4) of places; none beside the picture."""
        away, which = map(np.asarray, tree.query(places, distance_upper_bound=_BESIDE * pitch))
        found = np.zeros((len(places), 4), np.float32)
        hit = np.isfinite(away)
        found[hit] = shown[which[hit]]
        return found

    def wanted(vertices: Floats, faces: NDArray[np.int32]) -> NDArray[np.bool_]:
        corners = vertices[faces].astype(np.float64)
        ahead = np.roll(corners, -1, axis=1)
        long = np.linalg.norm(ahead - corners, axis=2).max(axis=1)
        found: NDArray[np.bool_] = long > fine_mm
        away, _ = tree.query(corners.mean(axis=1), distance_upper_bound=float(long.max()))
        found &= away <= long
        near = np.flatnonzero(found)
        small = near[long[near] <= 8 * max(pitch, fine_mm)]
        if len(small):
            at = np.concatenate(
                [corners[small], (corners[small] + ahead[small]) / 2], axis=1
            ).reshape(-1, 3)
            colours = seen(at)
            lab = np.concatenate(
                [oklab(np.round(colours[:, :3] * 255)), colours[:, 3:]], axis=1
            ).reshape(-1, 6, 4)
            found[small] = np.ptp(lab, axis=1).max(axis=1) > _ALIKE
        return found

    cut, _ = refine(mesh, wanted, most)
    base = np.tile(np.array(STONE, np.uint8), (len(cut.vertices), 1))
    colours = (base if cut.colours is None else cut.colours).astype(np.float32)
    own = seen(cut.vertices)
    share = own[:, 3:]
    colours[:, :3] = colours[:, :3] * (1 - share) + own[:, :3] * 255 * share
    return replace(cut, colours=np.round(colours).astype(np.uint8))
