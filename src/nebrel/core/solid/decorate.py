"""A flat solid carried to the surface of a body, and joined with it or cut out of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue
from nebrel.core.forms.unrolled import Unrolled
from nebrel.core.kernel import Solid, mesh_of, nothing, solid_of
from nebrel.core.mesh.combine import body_of
from nebrel.core.mesh.crossing_kernels import first_hits
from nebrel.core.mesh.measure import MeshReport, measure
from nebrel.core.mesh.tint import with_colours_of
from nebrel.core.solid.cut import for_a_file
from nebrel.core.solid.lay import lay

Does = Literal["raise", "sink", "through"]
LIFT_MM = 0.008  # by which what is level with the surface keeps away from it
_ASKED = 21  # places along a side whose wall is measured
_BEHIND_MM = 0.3  # by which what is cut through reaches further than the wall
_LEFT_MM = 0.1  # of a wall, under what is sunk or under the underside of what is raised


def decorate(
    body: Mesh,
    art: Solid,
    backing_mm: float,
    places: Sequence[Unrolled],
    size_mm: tuple[float, float],
    does: Does,
    tolerance_mm: float,
    draft: bool = False,
) -> tuple[Mesh, MeshReport]:
    """A body with art raised from its surface, sunk into it, or cut through, along the normals.

    Parameters
    ----------
    body : closed
    art : over its flat extent, its underside on z = 0
    backing_mm : the height of the art that comes to lie on the surface; what is below that lies
        in the body, or above it where the art is sunk
    places : the surface around the middle of the art, once for each time it is laid
    size_mm : width and height of the flat extent
    tolerance_mm : how far straight edges may be from the bent surface
    draft : to be looked at, not for a file

    Raises
    ------
    NotSolid : the body is not closed, or the result would not be
    InvalidValue : the wall is too thin there, or the surface bends too much
    """
    whole = body_of(body)
    middle = size_mm[0] / 2, size_mm[1] / 2
    laid = nothing()
    for place in places:
        flat = _through(art, place, backing_mm) if does == "through" else mesh_of(art)
        low, high = (float(f(flat.vertices[:, 2])) for f in (np.min, np.max))
        points = flat.vertices.copy()
        faces = flat.faces
        if does == "raise":
            points[:, 2] -= np.float32(backing_mm + LIFT_MM)
        elif does == "sink":
            points[:, 2] = np.float32(backing_mm + LIFT_MM) - points[:, 2]
            faces = np.ascontiguousarray(faces[:, ::-1])
        if does != "through":
            deep = (high - backing_mm if does == "sink" else backing_mm - low) + LIFT_MM
            _check_wall(place, flat, deep, does)
        for h in (float(points[:, 2].min()), float(points[:, 2].max())):
            if _runs_into_itself(place, flat, h):
                raise InvalidValue(
                    "depth",
                    f"the surface bends so much there that {abs(h):.3g} mm "
                    f"{'above' if h > 0 else 'below'} it runs into itself",
                    "Make it less deep, or choose another place",
                )
        moved = replace(flat, vertices=points, faces=faces)
        laid = laid + solid_of(lay(moved, place.map_at(middle), tolerance_mm))
    found = whole + laid if does == "raise" else whole - laid
    if found.is_empty():
        raise InvalidValue("decoration", "nothing of the body would be left", "Make it less deep")
    made = mesh_of(found)
    mesh, report = (made, measure(made)) if draft else for_a_file(made)
    return with_colours_of(replace(mesh, name=body.name), body), report


def _check_wall(place: Unrolled, flat: Mesh, deep_mm: float, does: Does) -> None:
    wall = float(_walls(place, flat).min(initial=np.inf))
    if wall >= deep_mm + _LEFT_MM:
        return
    what = f"sunk {deep_mm:.3g} mm deep"
    if does == "raise":
        what = f"held {deep_mm:.3g} mm below the surface"
    raise InvalidValue(
        "depth",
        f"the wall is {wall:.3g} mm thick there, and it is {what}",
        f"Allow no more than {max(0.0, wall - _LEFT_MM - LIFT_MM):.2g} mm",
    )


def _through(art: Solid, place: Unrolled, backing_mm: float) -> Mesh:
    """What the art covers, from above the surface to behind the wall."""
    walls = _walls(place, mesh_of(art))
    if not len(walls):
        raise InvalidValue("wall", "there is none to cut through", "Choose another place")
    deep = float(walls.max()) + _BEHIND_MM
    over = art.project().extrude(deep + backing_mm + LIFT_MM)
    return mesh_of(over.translate((0.0, 0.0, -deep)))


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


def _walls(place: Unrolled, flat: Mesh) -> NDArray[np.float64]:
    """How thick the wall is at places under the art, mm, where something is opposite."""
    spots = _grid(flat).reshape(-1, 2)
    on = place.place(np.column_stack([spots, np.zeros(len(spots))]))
    inner = place.place(np.column_stack([spots, np.full(len(spots), -1.0)]))
    ways = np.ascontiguousarray(inner - on)
    near = place.body
    hair = 1e-6 * float(np.ptp(near.corners.reshape(-1, 3), axis=0).max()) + 1e-4
    starts = np.ascontiguousarray(on + ways * hair)
    away, face = first_hits(near.corners, near.boxes, starts, ways, hair, np.inf)
    found: NDArray[np.float64] = away[face >= 0]
    return found
