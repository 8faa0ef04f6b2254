"""A height field as few triangles, never further from it than a tolerance."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, HeightField, Mesh
from nebrel.core.errors import TooLarge

MOST_TRIANGLES = 16_000_000


def triangulate(
    heights: HeightField,
    tolerance_mm: float,
    most_triangles: int = MOST_TRIANGLES,
    settle: bool = False,
) -> Mesh:
    """The open upper surface of a height field.

    Parameters
    ----------
    heights : the field
    tolerance_mm : > 0, the largest vertical distance at any pixel
    most_triangles : give up beyond
    settle : at that number take the best so far, which has no bound on its error

    Returns
    -------
    Mesh in (x, y, z) mm, x to the right, y up as seen in the picture, corner at the origin;
    faces look upwards. Every pixel lies within tolerance_mm of it.

    Raises
    ------
    TooLarge : the tolerance asks for more triangles

    Source: Garland and Heckbert, Fast polygonal approximation of terrains and height
    fields (1995), the greedy insertion with Delaunay flips.
    """
    from pydelatin import Delatin

    rows, cols = heights.mm.shape
    # Relative to the lowest point, so that single precision is spent on the relief alone;
    # the small margin covers rounding when the result is read back from a float32 file.
    low = float(heights.mm.min())
    relief = np.ascontiguousarray(heights.mm - np.float32(low))
    tin = Delatin(
        relief,
        height=rows,
        width=cols,
        max_error=tolerance_mm * 0.998,
        max_triangles=most_triangles,
    )
    if tin.error > tolerance_mm and not settle:
        raise TooLarge(
            "mesh",
            f"keeping this picture within {tolerance_mm:g} mm takes more than "
            f"{most_triangles / 1e6:g} million triangles",
            f"Allow {max(tolerance_mm * 4, float(tin.error)):.2g} mm, smooth the picture, "
            "or bring a smaller one",
        )
    flat = np.asarray(tin.vertices)
    return Mesh(_place(flat, heights, low), np.asarray(tin.triangles).astype(np.int32))


def _place(flat: NDArray[np.float32], heights: HeightField, low: float) -> Floats:
    """Pixel coordinates to mm, exact at all four edges."""
    rows, cols = heights.mm.shape
    vertices = np.empty(flat.shape, dtype=np.float32)
    vertices[:, 0] = flat[:, 0].astype(np.float64) * (heights.wide_mm / (cols - 1))
    vertices[:, 1] = flat[:, 1].astype(np.float64) * (heights.tall_mm / (rows - 1))
    vertices[:, 2] = flat[:, 2] + np.float32(low)
    return vertices
