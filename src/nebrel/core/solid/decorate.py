"""A flat solid carried to the surface of a body, and joined with it or cut out of it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue
from nebrel.core.forms.unrolled import Unrolled
from nebrel.core.kernel import Solid, mesh_of, solid_of
from nebrel.core.mesh.combine import body_of
from nebrel.core.mesh.crossing_kernels import first_hits
from nebrel.core.mesh.measure import MeshReport, measure
from nebrel.core.mesh.tint import with_colours_of
from nebrel.core.solid.cut import for_a_file
from nebrel.core.solid.lay import lay

LIFT_MM = 0.008  # by which what is level with the surface keeps away from it
_ASKED = 21  # places along a side whose wall is measured
_LEFT_MM = 0.1  # of a wall, under what is sunk or under the underside of what is raised


def decorate(
    body: Mesh,
    art: Solid,
    backing_mm: float,
    place: Unrolled,
    size_mm: tuple[float, float],
    sink: bool,
    tolerance_mm: float,
    draft: bool = False,
) -> tuple[Mesh, MeshReport]:
    """A body with art raised from its surface, or sunk into it, along the normals.

    Parameters
    ----------
    body : closed
    art : over its flat extent, its underside on z = 0
    backing_mm : the height of the art that comes to lie on the surface; what is below that lies
        in the body, or above it where the art is sunk
    place : the surface around the middle of the art
    size_mm : width and height of the flat extent
    tolerance_mm : how far straight edges may be from the bent surface
    draft : to be looked at, not for a file

    Raises
    ------
    NotSolid : the body is not closed, or the result would not be
    InvalidValue : the wall is too thin there
    """
    whole = body_of(body)
    flat = mesh_of(art)
    low, high = (float(f(flat.vertices[:, 2])) for f in (np.min, np.max))
    deep = (high - backing_mm if sink else backing_mm - low) + LIFT_MM
    wall = _thinnest(place, flat)
    if wall < deep + _LEFT_MM:
        what = f"sunk {deep:.3g} mm deep" if sink else f"held {deep:.3g} mm below the surface"
        raise InvalidValue(
            "depth",
            f"the wall is {wall:.3g} mm thick there, and it is {what}",
            f"Allow no more than {max(0.0, wall - _LEFT_MM - LIFT_MM):.2g} mm",
        )
    reach = (LIFT_MM + backing_mm, -deep) if sink else (high - backing_mm, -deep)
    for h in reach:
        if _runs_into_itself(place, flat, h):
            raise InvalidValue(
                "depth",
                f"the surface bends so much there that {abs(h):.3g} mm "
                f"{'above' if h > 0 else 'below'} it runs into itself",
                "Make it less deep, or choose another place",
            )
    form = place.map_at((size_mm[0] / 2, size_mm[1] / 2))
    points = flat.vertices.copy()
    if sink:
        points[:, 2] = np.float32(backing_mm + LIFT_MM) - points[:, 2]
        turned = replace(flat, vertices=points, faces=np.ascontiguousarray(flat.faces[:, ::-1]))
        found = whole - solid_of(lay(turned, form, tolerance_mm))
    else:
        points[:, 2] -= np.float32(backing_mm + LIFT_MM)
        found = whole + solid_of(lay(replace(flat, vertices=points), form, tolerance_mm))
    if found.is_empty():
        raise InvalidValue("decoration", "nothing of the body would be left", "Make it less deep")
    made = mesh_of(found)
    mesh, report = (made, measure(made)) if draft else for_a_file(made)
    return with_colours_of(replace(mesh, name=body.name), body), report


def _grid(flat: Mesh) -> NDArray[np.float64]:
    """Spots all over what the art covers, from its middle, (n, n, 2)."""
    low, high = flat.vertices[:, :2].min(axis=0), flat.vertices[:, :2].max(axis=0)
    half = (high - low).astype(np.float64) / 2 * 0.99
    u, v = (np.linspace(-side, side, _ASKED) for side in half)
    return np.stack(np.meshgrid(u, v), axis=-1)


def _runs_into_itself(place: Unrolled, flat: Mesh, high_mm: float) -> bool:
    """Whether the surface at a height above or below is turned over somewhere."""
    spots = _grid(flat)
    flat_spots = spots.reshape(-1, 2)
    levels = [
        place.place(np.column_stack([flat_spots, np.full(len(flat_spots), h)])).reshape(
            _ASKED, _ASKED, 3
        )
        for h in (0.0, high_mm)
    ]
    ways = [
        np.cross(np.diff(level, axis=1)[:-1], np.diff(level, axis=0)[:, :-1]) for level in levels
    ]
    return bool((np.einsum("ijk,ijk->ij", *ways) <= 0).any())


def _thinnest(place: Unrolled, flat: Mesh) -> float:
    """How thick the wall is under the art at least, mm; infinite where nothing is opposite."""
    spots = _grid(flat).reshape(-1, 2)
    on = place.place(np.column_stack([spots, np.zeros(len(spots))]))
    inner = place.place(np.column_stack([spots, np.full(len(spots), -1.0)]))
    ways = np.ascontiguousarray(inner - on)
    near = place.body
    hair = 1e-6 * float(np.ptp(near.corners.reshape(-1, 3), axis=0).max()) + 1e-4
    starts = np.ascontiguousarray(on + ways * hair)
    away, face = first_hits(near.corners, near.boxes, starts, ways, hair, np.inf)
    return float(away[face >= 0].min(initial=np.inf))
