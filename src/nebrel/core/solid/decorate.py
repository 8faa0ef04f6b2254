"""A flat solid carried to the surface of a body, and joined with it or cut out of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal
from weakref import ref

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Mesh
from nebrel.core.errors import InvalidValue, NotSolid
from nebrel.core.forms.lying import Lying
from nebrel.core.kernel import Solid, grown, mesh_of, nothing, solid_of
from nebrel.core.mesh.closed import closed
from nebrel.core.mesh.combine import body_of
from nebrel.core.mesh.crossing_kernels import first_hits
from nebrel.core.mesh.measure import MeshReport, measure
from nebrel.core.mesh.tint import with_colours_of
from nebrel.core.solid.lay import lay, lay_halves

Spots = NDArray[np.float64]
Does = Literal["raise", "sink", "through", "both", "inlay"]
_LEVEL_MM = 1e-3  # less below the surface is level with it
LIFT_MM = 0.008  # by which what is level with the surface keeps away from it
_EASED_MM = 0.1  # above the surface, from where on all is as high as it was
_ASKED, _DRAWN = 21, 11  # places along a side whose wall is measured
_LIGHT = 600_000  # triangles of a body that is kept at hand
_BEHIND_MM = 0.3  # by which what is cut through reaches further than the wall
_EXACT = 1e-4  # of once around
_COMMON = 1e-5  # of the smaller of two, that may lie in the other by rounding
_LEFT_MM = 0.1  # of a wall, under what is sunk or under the underside of what is raised


@dataclass(frozen=True)
class _How:
    """How art is kept from what it would meet by a hair.

    Attributes
    ----------
    apart_mm : by which what is level with the surface keeps away from it
    calm_mm : within which a needle of a triangle, turned over as soon as it is bent, is no art
    begin_mm : of what goes once around, where its first half begins
    fine : how far straight edges may be from the bent surface, of what they may elsewhere
    """

    apart_mm: float = LIFT_MM
    calm_mm: float = 0.0
    begin_mm: float = 0.0
    fine: float = 1.0


_TRIED = (
    _How(),
    _How(0.013, begin_mm=0.01),
    _How(0.005, begin_mm=0.005),
    _How(LIFT_MM, 0.004, 0.01, 0.3),
    _How(0.018, 0.006, 0.01, 0.15),
)


def decorate(
    body: Mesh,
    art: Solid,
    backing_mm: float,
    places: Sequence[Lying | Mirrored],
    size_mm: tuple[float, float],
    does: Does,
    tolerance_mm: float,
    draft: bool = False,
    clearance_mm: float = 0.0,
    besides: Sequence[tuple[Solid, Does]] = (),
) -> tuple[Mesh, MeshReport]:
    """A body with art raised from its surface, sunk into it, or cut through, along the normals.

    What is `inlay` is a part of its own, in a pocket of the body as deep as its backing.

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
    clearance_mm : between a part of its own and its pocket
    besides : parts of the art that are laid in another way

    Raises
    ------
    NotSolid : the body is not closed, or the result would not be
    InvalidValue : the wall is too thin there, or the surface bends too much
    """
    whole = _whole(body)
    middle = size_mm[0] / 2, size_mm[1] / 2
    asked = _DRAWN if draft else _ASKED

    def laid_on(how: _How) -> Solid:
        added, taken = _Apart(), _Apart()
        for place in places:
            own = _parts(art, place, backing_mm, does, middle, clearance_mm)
            # Parts of one may reach into each other, but none into another.
            stands, sunk = nothing(), nothing()
            for flat, does_it in (*own, *besides):
                laid = _laid(flat, place, backing_mm, size_mm, does_it, tolerance_mm, asked, how)
                if does_it == "raise":
                    stands += laid
                else:
                    sunk += laid
            added.add(stands)
            taken.add(sunk)
        found = (whole - taken.all()) + added.all()
        if found.is_empty():
            raise InvalidValue(
                "decoration", "nothing of the body would be left", "Make it less deep"
            )
        return found

    if draft:
        made = replace(mesh_of(laid_on(_TRIED[0])), name=body.name)
        return with_colours_of(made, body), measure(made)
    refused: NotSolid | None = None
    for how in _TRIED:
        try:
            mesh, report = closed(
                laid_on(how),
                body.name,
                "Set it a little beside, or make it less deep",
                [body],
            )
            return with_colours_of(mesh, body), report
        except NotSolid as error:
            refused = refused or error
    assert refused is not None
    round_mm = next((one.round_mm for one in map(lying_of, places) if one.around), None)
    if round_mm and abs(size_mm[0] / round_mm - 1) > _EXACT:
        remedy = f"Make it {round_mm:.6g} mm wide, which is once around"
        raise NotSolid(refused.what, refused.why, remedy)
    raise refused


_KNOWN: list[tuple[ref[Floats], Solid]] = []
"""The light body that art was laid on last, which is mostly the one that it is laid on next."""


def _whole(body: Mesh) -> Solid:
    """The body for the boolean kernel. Raises NotSolid."""
    for vertices, solid in list(_KNOWN):
        if vertices() is body.vertices:
            return solid
    found = body_of(body)
    if len(body.faces) <= _LIGHT:
        _KNOWN[:] = [(ref(body.vertices), found)]
    return found


@dataclass(frozen=True)
class Mirrored:
    """A place that art is laid on left for right."""

    lying: Lying


def lying_of(place: Lying | Mirrored) -> Lying:
    """How art lies there, left for right or not."""
    return place.lying if isinstance(place, Mirrored) else place


class _Apart:
    """Solids that must not reach into each other."""

    def __init__(self) -> None:
        self._solids: list[Solid] = []

    def add(self, solid: Solid) -> None:
        """One more. Raises InvalidValue."""
        if solid.is_empty():
            return
        box = np.array(solid.bounding_box())
        for other in self._solids:
            beside = np.array(other.bounding_box())
            if (box[:3] < beside[3:]).all() and (beside[:3] < box[3:]).all():
                common = (solid ^ other).volume()
                if common > _COMMON * min(solid.volume(), other.volume()):
                    raise InvalidValue(
                        "repeat",
                        "one of it reaches into the next",
                        "Repeat it less often, make it smaller, or set them further apart",
                    )
        self._solids.append(solid)

    def all(self) -> Solid:
        """All of them as one."""
        found = nothing()
        for solid in self._solids:
            found = found + solid
        return found


def _parts(
    art: Solid,
    place: Lying | Mirrored,
    backing_mm: float,
    does: Does,
    middle: tuple[float, float],
    clearance_mm: float,
) -> list[tuple[Solid, Does]]:
    """What of the art is added, and what is taken away."""
    lying = lying_of(place)
    if art.is_empty():
        return []
    if does == "through":
        return [(_through(art, lying, backing_mm, middle), does)]
    if does == "inlay":
        # From the surface down by its backing, and the clearance all around it.
        wider = grown(art.project(), clearance_mm) if clearance_mm > 0 else art.project()
        pocket = wider.extrude(backing_mm + clearance_mm + 2 * LIFT_MM)
        return [(art, "raise"), (pocket.translate((0.0, 0.0, -clearance_mm - LIFT_MM)), "both")]
    if does != "both":
        return [(art, does)]
    # Where the art ends below the surface the body is taken away down to it.
    under = backing_mm - _LEVEL_MM
    left = art.project().extrude(max(under, _LEVEL_MM)) - art
    if under <= _LEVEL_MM or left.is_empty():
        return [(art, "raise")]
    open_ = left.project()
    left = left + open_.extrude(2 * LIFT_MM).translate((0.0, 0.0, backing_mm - LIFT_MM))
    high = art.bounding_box()[5] + 1.0
    stands = art - open_.extrude(high).translate((0.0, 0.0, -0.5))
    parts: list[tuple[Solid, Does]] = [(stands, "raise"), (left, "both")]
    return [(part, how) for part, how in parts if not part.is_empty()]


def _laid(
    flat: Solid,
    place: Lying | Mirrored,
    backing_mm: float,
    size_mm: tuple[float, float],
    does: Does,
    tolerance_mm: float,
    asked: int,
    how: _How,
) -> Solid:
    """A flat solid where it comes to lie on the body."""
    flat = flat.simplify(how.calm_mm) if how.calm_mm else flat
    tolerance_mm *= how.fine
    mirrored = isinstance(place, Mirrored)
    lying = lying_of(place)
    if does == "both":
        solid = flat.translate((0.0, 0.0, -backing_mm))
    elif does == "raise":
        solid = _apart(flat.translate((0.0, 0.0, -backing_mm)), how.apart_mm)
    elif does == "sink":
        solid = _apart(flat.translate((0.0, 0.0, -backing_mm)), how.apart_mm).mirror(
            (0.0, 0.0, 1.0)
        )
    else:
        solid = flat
    if mirrored:
        solid = solid.mirror((1.0, 0.0, 0.0)).translate((size_mm[0], 0.0, 0.0))
    mesh = mesh_of(solid)
    low, high = (float(f(mesh.vertices[:, 2])) for f in (np.min, np.max))
    middle = size_mm[0] / 2, size_mm[1] / 2
    spots = _grid(mesh, middle, asked)
    if does != "through":
        _check_wall(lying, spots, -low, does)
    for h in (low, high):
        if _runs_into_itself(lying, spots, h):
            raise InvalidValue(
                "depth",
                f"the surface bends so much there that {abs(h):.3g} mm "
                f"{'above' if h > 0 else 'below'} it runs into itself",
                "Make it less deep, or choose another place",
            )
    form = lying.map_at(middle)
    if not lying.around:
        return solid_of(lay(solid, form, tolerance_mm))
    again = solid + solid.translate((size_mm[0], 0.0, 0.0))
    return lay_halves(again, form, size_mm[0], tolerance_mm, begin_mm=how.begin_mm)


def _apart(solid: Solid, by_mm: float) -> Solid:
    """With what is level with the surface a little below it; what stands high as high as before."""

    def lowered(points: Spots) -> Spots:
        moved = np.array(points)
        moved[:, 2] -= by_mm * np.clip(1 - moved[:, 2] / _EASED_MM, 0, 1)
        return moved

    return solid.warp_batch(lowered)


def _check_wall(place: Lying, spots: Spots, deep_mm: float, does: Does) -> None:
    wall = float(_walls(place, spots).min(initial=np.inf))
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


def _through(art: Solid, place: Lying, backing_mm: float, middle: tuple[float, float]) -> Solid:
    """What the art covers, from above the surface to behind the wall."""
    walls = _walls(place, _grid(mesh_of(art), middle))
    if not len(walls):
        raise InvalidValue("wall", "there is none to cut through", "Choose another place")
    deep = float(walls.max()) + _BEHIND_MM
    over = art.project().extrude(deep + backing_mm + LIFT_MM)
    return over.translate((0.0, 0.0, -deep))


def _grid(flat: Mesh, middle: tuple[float, float], asked: int = _ASKED) -> Spots:
    """Spots all over what the art covers, from its middle, (n, n, 2)."""
    low, high = (f(flat.vertices[:, :2], axis=0).astype(np.float64) for f in (np.min, np.max))
    hair = (high - low) * 0.005
    u, v = (np.linspace(low[k] + hair[k], high[k] - hair[k], asked) - middle[k] for k in (0, 1))
    return np.stack(np.meshgrid(u, v), axis=-1)


def _runs_into_itself(place: Lying, spots: Spots, high_mm: float) -> bool:
    """Whether the surface at a height above or below is turned over somewhere."""
    flat_spots = spots.reshape(-1, 2)
    levels = [
        place.place(np.column_stack([flat_spots, np.full(len(flat_spots), h)])).reshape(
            (*spots.shape[:2], 3)
        )
        for h in (0.0, high_mm)
    ]
    ways = [
        np.cross(np.diff(level, axis=1)[:-1], np.diff(level, axis=0)[:, :-1]) for level in levels
    ]
    over = np.einsum("ijk,ijk->ij", *ways) <= 0
    known = place.covers(flat_spots).reshape(spots.shape[:2])
    whole = known[1:, 1:] & known[:-1, :-1] & known[1:, :-1] & known[:-1, 1:]
    return bool((over & whole).any())


def _walls(place: Lying, spots: Spots) -> NDArray[np.float64]:
    """How thick the wall is at places under the art, mm, where something is opposite."""
    spots = spots.reshape(-1, 2)
    spots = spots[place.covers(spots)]
    on = place.place(np.column_stack([spots, np.zeros(len(spots))]))
    inner = place.place(np.column_stack([spots, np.full(len(spots), -1.0)]))
    ways = np.ascontiguousarray(inner - on)
    near = place.body
    hair = 1e-6 * float((near.boxes[1, 3:] - near.boxes[1, :3]).max()) + 1e-4
    starts = np.ascontiguousarray(on + ways * hair)
    away, face = first_hits(near.corners, near.boxes, starts, ways, hair, np.inf)
    found: NDArray[np.float64] = away[face >= 0]
    return found
