"""A body cut in two that fit together again by pins."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh, box_of
from nebrel.core.errors import InvalidValue, NotSolid
from nebrel.core.kernel import Solid, cylinder, round_sides
from nebrel.core.mesh.brought import join_parts
from nebrel.core.mesh.closed import closed
from nebrel.core.mesh.combine import Axis, body_of
from nebrel.core.mesh.measure import MeshReport, measure
from nebrel.core.mesh.tint import with_colours_of
from nebrel.core.outline.regions import outline_of

_SINK_MM = 0.5  # by which a pin goes into the part that it stands on
_TRIED = 4000  # places on the cut
_LEVELS = (0.34, 0.67, 1.0)
_SPARE = 1.15  # radii that stay around a socket
_WHOLE = 0.995  # of a socket must lie in the material


@dataclass(frozen=True)
class Pins:
    """What holds two parts together.

    Attributes
    ----------
    wide_mm, long_mm : of a pin; half of its length is in either part
    clearance_mm : on the diameter of its socket, and at its end
    """

    count: int
    wide_mm: float
    long_mm: float
    clearance_mm: float


def split(
    mesh: Mesh, axis: Axis, at_mm: float, pins: Pins, gap_mm: float
) -> tuple[Mesh, MeshReport]:
    """Two parts of a body, on either side of a plane across an axis, laid apart.

    Pins stand on the lower part. Cut across z the upper part is put down beside the lower,
    on its cut; across x and y it is drawn away along that axis.

    Parameters
    ----------
    gap_mm : between the parts as they are laid

    Raises
    ------
    NotSolid : it is not closed, or a part would not be
    InvalidValue : nothing is on one side, or there is no room for the pins
    """
    number = "xyz".index(axis)
    order = [(number + 1) % 3, (number + 2) % 3, number]  # a turn: z becomes the axis
    stood = replace(mesh, vertices=np.ascontiguousarray(mesh.vertices[:, order]), colours=None)
    body = body_of(stood)
    lower = body.trim_by_plane((0.0, 0.0, -1.0), -at_mm)
    upper = body.trim_by_plane((0.0, 0.0, 1.0), at_mm)
    if lower.is_empty() or upper.is_empty():
        low, high = (float(side[number]) for side in box_of(mesh.vertices))
        raise InvalidValue(
            "plane", "nothing is on one side of it", f"It reaches from {low:g} to {high:g} mm"
        )
    for place in _places(body, at_mm, pins):
        lower, upper = _pinned(lower, upper, place, at_mm, pins)
    back = np.argsort(order)
    parts = []
    for solid in (lower, upper):
        part, _ = closed(solid, mesh.name, "Move the plane a little", (stood,))
        turned = replace(part, vertices=np.ascontiguousarray(part.vertices[:, back]))
        parts.append(with_colours_of(turned, mesh))
    one, other = parts
    moved = other.vertices.astype(np.float64) + _apart(one, other, number, at_mm, gap_mm)
    found = join_parts((one, replace(other, vertices=moved.astype(np.float32))))
    report = measure(found)
    if not report.manifold:
        raise NotSolid(mesh.name, "apart it would not be closed", "Move the plane a little")
    return replace(found, name=mesh.name), report


def _apart(one: Mesh, other: Mesh, number: int, at_mm: float, gap_mm: float) -> NDArray[np.float64]:
    by = np.zeros(3)
    (low, high), (own, _) = box_of(one.vertices), box_of(other.vertices)
    if number == 2:
        by[0] = high[0] - own[0] + gap_mm
        by[2] = low[2] - at_mm
    else:
        by[number] = gap_mm + max(0.0, float(high[number]) - at_mm)
    return by


def _places(body: Solid, at_mm: float, pins: Pins) -> list[tuple[float, float]]:
    """Where the pins stand: as far from each other as there is room."""
    if pins.count == 0:
        return []
    radius = (pins.wide_mm + pins.clearance_mm) / 2
    room = body.slice(at_mm).offset(-1.5 * radius)
    if room.is_empty():
        raise InvalidValue(
            "pins", f"the cut has no room for one of {pins.wide_mm:g} mm", "Use thinner pins, or 0"
        )
    deep = pins.long_mm / 2 + pins.clearance_mm
    for share in _LEVELS:  # a socket stays in its part all the way up
        room = room ^ body.slice(at_mm + share * deep).offset(-_SPARE * radius)
    if room.is_empty():
        raise InvalidValue(
            "pins", f"one of {pins.long_mm:g} mm would come out of its part", "Use shorter pins"
        )
    low_x, low_y, high_x, high_y = room.bounds()
    pitch = math.sqrt(max((high_x - low_x) * (high_y - low_y), 1e-6) / _TRIED)
    x, y = np.meshgrid(
        np.arange(low_x, high_x + pitch, pitch), np.arange(low_y, high_y + pitch, pitch)
    )
    outline = outline_of(room)
    inside = outline.inside(x.ravel(), y.ravel()).reshape(x.shape)
    found = np.column_stack([x[inside], y[inside]])
    if not len(found):
        found = outline.loops[0][:1]
    middle = found.mean(axis=0)
    if pins.count == 1:
        first = int(np.argmin(np.linalg.norm(found - middle, axis=1)))
    else:
        first = int(np.argmax(np.linalg.norm(found - middle, axis=1)))
    chosen = [first]
    away = np.linalg.norm(found - found[first], axis=1)
    while len(chosen) < pins.count:
        farthest = int(np.argmax(away))
        if away[farthest] < 3 * radius:
            raise InvalidValue(
                "pins", f"the cut has room for {len(chosen)} of them", f"Use {len(chosen)}"
            )
        chosen.append(farthest)
        away = np.minimum(away, np.linalg.norm(found - found[farthest], axis=1))
    return [(float(found[n, 0]), float(found[n, 1])) for n in chosen]


def _pinned(
    lower: Solid, upper: Solid, place: tuple[float, float], at_mm: float, pins: Pins
) -> tuple[Solid, Solid]:
    half = pins.long_mm / 2
    radius = pins.wide_mm / 2
    sides = round_sides(radius)
    pin = cylinder(half + _SINK_MM, radius, sides).translate((*place, at_mm - _SINK_MM))
    wider, deeper = radius + pins.clearance_mm / 2, half + pins.clearance_mm
    socket = cylinder(deeper, wider, sides).translate((*place, at_mm))
    if (socket ^ upper).volume() < _WHOLE * socket.volume():
        raise InvalidValue(
            "pins", f"one of {pins.long_mm:g} mm would come out of its part", "Use shorter pins"
        )
    cutting = cylinder(deeper + _SINK_MM, wider, sides).translate((*place, at_mm - _SINK_MM))
    return lower + pin, upper - cutting
