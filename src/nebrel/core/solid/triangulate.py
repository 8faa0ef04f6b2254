"""A height field as few triangles, never further from it than a tolerance."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from nebrel.core.choices import MOST_TRIANGLES, Method
from nebrel.core.data import Floats, HeightField, Mesh
from nebrel.core.errors import TooLarge

# Of the tolerance; the rest covers rounding when the result is read back from a float32 file.
_SAFE = 0.998
_COARSER = 1.2
_THINNER = 3  # a network never loses more than all but a third of its triangles


def triangulate(
    heights: HeightField,
    tolerance_mm: float,
    most_triangles: int = MOST_TRIANGLES,
    settle: bool = False,
    method: Method = "auto",
    around: bool = False,
    tell: Callable[[], None] | None = None,
) -> Mesh:
    """The open upper surface of a height field.

    Parameters
    ----------
    heights : the field
    tolerance_mm : > 0, the largest vertical distance at any pixel
    most_triangles : give up beyond
    settle : keep that number by a coarser tolerance instead
    method : the network of `network` as it is, quickly; thinned; thinned until nothing more can
        go; or by greedy insertion, as recipes had it that were made before there was a choice
    around : the first column is the last one too: their vertices match, and nothing is inserted
    tell : called now and then where it takes long, but for the insertion; may raise to call it
        off

    Returns
    -------
    Mesh in (x, y, z) mm, x to the right, y up as seen in the picture, corner at the origin;
    faces look upwards. Every pixel lies within tolerance_mm of it.

    Raises
    ------
    TooLarge : the tolerance asks for more triangles
    """
    if method == "greedy" and not around and not settle:
        return _greedy(heights, tolerance_mm, most_triangles)
    from nebrel.core.solid.network import network

    tolerance = tolerance_mm
    places, faces = network(heights.mm, tolerance * _SAFE, around, tell)
    while settle and len(faces) > most_triangles:
        tolerance *= max(_COARSER, (len(faces) / most_triangles) ** 0.75)
        places, faces = network(heights.mm, tolerance * _SAFE, around, tell)
    if method in ("auto", "fewest") and len(faces) < _THINNER * most_triangles:
        from nebrel.core.solid.thin import thin

        how = tolerance * _SAFE, method == "fewest", around, tell
        places, faces = thin(heights.mm, places, faces, *how)
    if len(faces) > most_triangles:
        raise _too_many(tolerance_mm, most_triangles, tolerance_mm * 4)
    rows = heights.mm.shape[0]
    flat = np.empty((len(places), 3), np.float32)
    flat[:, 0], flat[:, 1] = places[:, 0], rows - 1 - places[:, 1]
    flat[:, 2] = heights.mm[places[:, 1], places[:, 0]]
    return Mesh(_place(flat, heights, 0.0), faces)


def warm() -> None:
    """Load what is compiled, which takes a moment, before somebody waits for it."""
    triangulate(HeightField(np.eye(5, dtype=np.float32), 4.0, 4.0), 0.01)


def _greedy(heights: HeightField, tolerance_mm: float, most_triangles: int) -> Mesh:
    """One vertex after another, always where the surface is furthest off.

    Source: Garland and Heckbert, Fast polygonal approximation of terrains and height
    fields (1995), the greedy insertion with Delaunay flips.
    """
    from pydelatin import Delatin

    rows, cols = heights.mm.shape
    # Relative to the lowest point, so that single precision is spent on the relief alone.
    low = float(heights.mm.min())
    relief = np.ascontiguousarray(heights.mm - np.float32(low))
    tin = Delatin(
        relief,
        height=rows,
        width=cols,
        max_error=tolerance_mm * _SAFE,
        max_triangles=most_triangles,
    )
    if tin.error > tolerance_mm:
        raise _too_many(tolerance_mm, most_triangles, float(tin.error))
    flat = np.asarray(tin.vertices)
    return Mesh(_place(flat, heights, low), np.asarray(tin.triangles).astype(np.int32))


def _too_many(tolerance_mm: float, most_triangles: int, reached_mm: float) -> TooLarge:
    return TooLarge(
        "mesh",
        f"keeping this picture within {tolerance_mm:g} mm takes more than "
        f"{most_triangles / 1e6:g} million triangles",
        f"Allow {max(tolerance_mm * 4, reached_mm):.2g} mm, smooth the picture, "
        "or bring a smaller one",
    )


def _place(flat: NDArray[np.float32], heights: HeightField, low: float) -> Floats:
    """Pixel coordinates to mm, exact at all four edges."""
    rows, cols = heights.mm.shape
    vertices = np.empty(flat.shape, dtype=np.float32)
    vertices[:, 0] = flat[:, 0].astype(np.float64) * (heights.wide_mm / (cols - 1))
    vertices[:, 1] = flat[:, 1].astype(np.float64) * (heights.tall_mm / (rows - 1))
    vertices[:, 2] = flat[:, 2] + np.float32(low)
    return vertices
