"""Laying a flat solid on a form."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh
from nebrel.core.errors import NotSolid
from nebrel.core.forms.maps import POLE_MM, FormMap
from nebrel.core.kernel import Solid, cylinder, mesh_of, solid_of
from nebrel.core.mesh.bendable import bendable
from nebrel.core.solid.weld import close_pole, weld


def lay(
    solid: Solid | Mesh, form: FormMap, tolerance_mm: float, most_triangles: float | None = None
) -> Mesh:
    """A flat solid laid on a form, where its map puts it.

    Parameters
    ----------
    solid : of the boolean kernel, or a closed mesh, over its flat extent
    tolerance_mm : how far a straight edge may be from the bent surface
    most_triangles : about how many there may be, however far straight edges then are from the
        bent surface; as many as it takes when left out
    """
    vertices, faces = refined(solid, form, tolerance_mm, most_triangles)
    return Mesh(form.place(vertices).astype(np.float32), faces.astype(np.int32))


def lay_halves(
    solid: Solid,
    form: FormMap,
    wide_mm: float,
    tolerance_mm: float,
    pole: tuple[float, float] | None = None,
    overlap_mm: float = 0.02,
    most_triangles: int | None = None,
    begin_mm: float = 0.0,
) -> Solid:
    """A flat solid laid once around in two halves that reach into each other.

    Parameters
    ----------
    solid : of the boolean kernel, over (0, wide_mm) in x and a little further, where it repeats
        its beginning
    tolerance_mm, most_triangles : as `lay`
    pole : v of the upper pole and the thickness there, mm, of a form that is closed with a
        plug; None for all others
    overlap_mm : by which the halves reach into each other
    begin_mm : where the first of them begins, so that its end does not fall on a step between
        the ends of what goes around

    Returns
    -------
    A solid of the boolean kernel

    Raises
    ------
    NotSolid : the result does not close
    """
    most = None if most_triangles is None else most_triangles / 2
    half, end = wide_mm / 2, wide_mm + overlap_mm
    first = solid.trim_by_plane((-1, 0, 0), -(half + overlap_mm))
    first = first.trim_by_plane((1, 0, 0), begin_mm) if begin_mm else first
    second = solid.trim_by_plane((1, 0, 0), half).trim_by_plane((-1, 0, 0), -end)
    one, other = (solid_of(lay(part, form, tolerance_mm, most)) for part in (first, second))
    bent = one + other
    if pole is not None:
        bent += _plug(form, *pole)
    if bent.is_empty():
        raise NotSolid("piece", "it came out empty on this form", "Choose another form or size")
    return bent


def lay_around(
    solid: Solid | Mesh,
    form: FormMap,
    size_mm: tuple[float, float],
    tolerance_mm: float,
    pole: bool,
    most_triangles: int | None = None,
) -> Mesh | None:
    """A flat solid laid once around, both of its ends sharing their vertices.

    Parameters
    ----------
    solid : of the boolean kernel, or a closed mesh, over (0, width) in x, alike at both ends
    size_mm : width and height of the extent
    tolerance_mm, most_triangles : as `lay`
    pole : whether its upper end comes to a point, which is closed

    Returns
    -------
    The mesh where the map puts it; None when its ends do not fit
    """
    vertices, faces = refined(solid, form, tolerance_mm, most_triangles)
    ring = weld(vertices, faces, size_mm[0])
    rims: list[NDArray[np.int64]] = []
    if ring is not None and pole:
        closed = close_pole(vertices, ring, size_mm[1])
        ring, rims = (None, []) if closed is None else closed
    if ring is None:
        return None
    placed = form.place(vertices)
    whole, tips = [ring], []
    for rim in rims:
        # The tip lies on the axis, as far from the middle as its rim.
        edge = placed[rim[0, 0]]
        tips.append([0.0, 0.0, float(np.copysign(np.linalg.norm(edge), edge[2]))])
        tip = np.full(len(rim), len(placed) + len(tips) - 1)
        whole.append(np.column_stack([rim[:, ::-1], tip]))
    corners = np.concatenate([placed, np.reshape(tips, (-1, 3))]).astype(np.float32)
    return Mesh(corners, np.concatenate(whole).astype(np.int32))


def refined(
    solid: Solid | Mesh, form: FormMap, tolerance_mm: float, most_triangles: float | None
) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
    """A flat solid in triangles that are small enough to be bent, and no smaller.

    Parameters
    ----------
    tolerance_mm, most_triangles : as `lay`
    """
    flat = solid if isinstance(solid, Mesh) else mesh_of(solid)
    low, high = float(flat.vertices[:, 2].min()), float(flat.vertices[:, 2].max())
    reach = max(form.radius_mm + form.out * low, form.radius_mm + form.out * high)
    # A chord of length L sinks L^2 / 8R below its arc. Lengths are measured at the surface that
    # the size is given for, and over a sphere a triangle sinks in both directions.
    longest = form.radius_mm * float(np.sqrt(8 * tolerance_mm / reach))
    sides: tuple[float, float | None] = longest, None
    if form.upright:
        scale = np.array([1.0, 0.0])
    else:
        longest /= 2**0.5
        sides = longest, longest / form.stretch
        scale = np.array([1.0, form.stretch])
    if most_triangles is not None:
        times = _edge_for(flat, scale, longest, most_triangles) / longest
        sides = sides[0] * times, None if sides[1] is None else sides[1] * times
    return bendable(flat, sides)


def _edge_for(flat: Mesh, scale: NDArray[np.float64], longest_mm: float, most: float) -> float:
    """The shortest piece, not below `longest_mm`, at which cutting stays within so many."""
    corners = flat.vertices[flat.faces][..., :2] * scale
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


def _plug(form: FormMap, v_mm: float, thickness_mm: float) -> Solid:
    ends = form.place(np.array([[0.0, v_mm, 0.0], [0.0, v_mm, thickness_mm]]))[:, 2]
    low, high = float(ends.min()), float(ends.max())
    return cylinder(high - low, 3 * POLE_MM, 48).translate((0, 0, low))
