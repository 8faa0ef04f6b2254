"""Laying a flat solid on a form."""

from __future__ import annotations

from typing import Any

import numpy as np

from nebrel.core.errors import NotSolid
from nebrel.core.forms.maps import POLE_MM, FormMap

_SHORTENED = 0.02


def lay(
    solid: Any,
    form: FormMap,
    wide_mm: float,
    tolerance_mm: float,
    pole: tuple[float, float] | None = None,
    overlap_mm: float = 0.02,
    most_triangles: int | None = None,
) -> Any:
    """A flat solid laid on a form, where its map puts it.

    Parameters
    ----------
    solid : of the boolean kernel, over (0, wide_mm) in x; for a form that goes around, it
        reaches a little further and repeats its beginning there
    tolerance_mm : how far a straight edge may be from the bent surface
    pole : v of the upper pole and the thickness there, mm, of a form that is closed with a
        plug; None for all others
    overlap_mm : by which the two halves of a form that goes around reach into each other
    most_triangles : about how many there may be, however far straight edges then are from the
        bent surface; as many as it takes when left out

    Raises
    ------
    NotSolid : the result does not close
    """
    # Sagitta of a chord of length L on radius R: L^2 / 8R, halved for top and underside alike.
    # Edges are split to about that length; a sphere sinks between them in both directions.
    share = 0.5 if form.upright else 0.25
    longest = float(np.sqrt(8 * form.radius_mm * tolerance_mm * share))

    def bend(part: Any, share: float = 1.0) -> Any:
        # What stays straight is shortened while edges are split, and so is not split.
        short = _SHORTENED if form.upright else 1.0
        flat = part.scale((1, short, 1))
        edge = longest
        if most_triangles is not None:
            edge = _edge_for(flat, longest, share * most_triangles)
        return flat.refine_to_length(edge).scale((1, 1 / short, 1)).warp_batch(form.place)

    if form.around:
        # Two halves that overlap by a hair, so that the seam is an ordinary union.
        half, end = wide_mm / 2, wide_mm + overlap_mm
        first = solid.trim_by_plane((-1, 0, 0), -(half + overlap_mm))
        second = solid.trim_by_plane((1, 0, 0), half).trim_by_plane((-1, 0, 0), -end)
        bent = bend(first, 0.5) + bend(second, 0.5)
    else:
        bent = bend(solid)
    if pole is not None:
        bent += _plug(form, *pole)
    if bent.is_empty():
        raise NotSolid("piece", "it came out empty on this form", "Choose another form or size")
    return bent


def _edge_for(solid: Any, longest_mm: float, most: float) -> float:
    """The shortest edge, not below `longest_mm`, at which splitting stays within so many."""
    mesh = solid.to_mesh()
    corners = np.asarray(mesh.vert_properties)[:, :3][np.asarray(mesh.tri_verts)]
    sides = np.linalg.norm(corners - np.roll(corners, 1, axis=1), axis=2)

    def count(edge: float) -> float:
        parts = np.ceil(sides / edge)
        return float((parts * np.roll(parts, 1, axis=1)).sum()) / 3

    edge = longest_mm
    for _ in range(40):
        if count(edge) <= most:
            break
        edge *= 1.2
    return edge


def _plug(form: FormMap, v_mm: float, thickness_mm: float) -> Any:
    from manifold3d import Manifold

    ends = form.place(np.array([[0.0, v_mm, 0.0], [0.0, v_mm, thickness_mm]]))[:, 2]
    low, high = float(ends.min()), float(ends.max())
    return Manifold.cylinder(high - low, 3 * POLE_MM, 3 * POLE_MM, 48).translate((0, 0, low))
