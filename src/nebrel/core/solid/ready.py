"""Ready shapes in mm: standing on z = 0, their middle or axis over the origin, closed."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue
from nebrel.core.kernel import Region, cylinder, grown, hull_of, mesh_of, non_zero, solid_of
from nebrel.core.mesh.closed import closed
from nebrel.core.mesh.measure import merge
from nebrel.core.outline.regions import region_of
from nebrel.core.outline.shapes import rectangle

_FLAT_MM = 0.002  # how far facets may lie within their circle
_FLAT_SHARE = 3e-5  # and of its radius, where that is more
_LEAST_SIDES, _MOST_SIDES = 64, 1440
_ON_AXIS = 1e-9
_LONG_MM = 3.0  # of a straight, before it is cut in parts: long triangles are ill to work on
# Of a mug's height: where the middle of its handle is, and how far that goes up and down.
_HANDLE_MIDDLE, _HANDLE_HALF = 0.52, 0.29
_WIDEST_HANDLE = 0.4  # of its smaller side
_PLACES = 10  # of a smooth profile between two that were drawn
Loop = NDArray[np.float64]


def ready_mesh(kind: str, **sizes: Any) -> Mesh:
    """The mesh of a ready shape.

    Parameters
    ----------
    sizes : mm, as the recipe calls them

    Raises
    ------
    InvalidValue : its sizes leave nothing of it
    """
    return _MAKE[kind](**sizes)


def _sides(radius_mm: float) -> int:
    """Of a polygon within a few micrometres of its circle, a multiple of four."""
    if radius_mm <= _FLAT_MM:
        return _LEAST_SIDES
    flat = max(_FLAT_MM, _FLAT_SHARE * radius_mm)
    wanted = 4 * math.ceil(math.pi / math.acos(1 - flat / radius_mm) / 4)
    return min(max(wanted, _LEAST_SIDES), _MOST_SIDES)


def turned_about_z(loops: Sequence[Loop]) -> Mesh:
    """Closed loops of (radius, height) turned about z: around what is solid to the left.

    Parameters
    ----------
    loops : (n, 2) mm each, no radius below 0
    """
    sides = _sides(max(float(loop[:, 0].max()) for loop in loops))
    angle = np.arange(sides) * 2 * np.pi / sides
    ring = np.column_stack([np.cos(angle), np.sin(angle)])
    vertices: list[NDArray[np.float64]] = []
    faces: list[NDArray[np.int64]] = []
    start = 0
    longest = max(_LONG_MM, float(max(loop[:, 0].max() for loop in loops)) / 8)
    for loop in loops:
        rows = []
        for radius, height in _cut(loop, longest):
            around = 1 if radius <= _ON_AXIS else sides
            flat = np.zeros((1, 2)) if around == 1 else ring * radius
            vertices.append(np.column_stack([flat, np.full(around, height)]))
            rows.append(start + np.arange(around))
            start += around
        for here, there in zip(rows, [*rows[1:], rows[0]], strict=True):
            faces.append(_band(here, there))
    return Mesh(np.concatenate(vertices).astype(np.float32), np.concatenate(faces).astype(np.int32))


def _cut(loop: Loop, longest: float) -> Loop:
    """The same loop, its straights in parts that are no longer."""
    ahead = np.roll(loop, -1, axis=0)
    found = []
    for here, there in zip(loop, ahead, strict=True):
        along = max(here[0], there[0]) <= _ON_AXIS  # nothing is made of that
        count = 1 if along else max(1, math.ceil(float(np.linalg.norm(there - here)) / longest))
        found.append(here + (there - here) * (np.arange(count) / count)[:, None])
    return np.concatenate(found)


def _band(below: NDArray[np.int64], above: NDArray[np.int64]) -> NDArray[np.int64]:
    """Triangles between two rings, either of which may be a point on the axis."""
    a, b = below, np.roll(below, -1)
    c, d = above, np.roll(above, -1)
    if len(a) == 1 and len(c) == 1:
        return np.empty((0, 3), np.int64)
    if len(a) == 1:
        return np.column_stack([np.repeat(a, len(c)), d, c])
    if len(c) == 1:
        return np.column_stack([a, b, np.repeat(c, len(a))])
    return np.concatenate([np.column_stack([a, b, d]), np.column_stack([a, d, c])])


def _arc(middle: tuple[float, float], radius: float, start: float, end: float) -> Loop:
    """Places along an arc, degrees to the left, both ends among them."""
    count = max(2, math.ceil(abs(end - start) / 360 * _sides(radius)) + 1)
    angle = np.radians(np.linspace(start, end, count))
    return np.column_stack([middle[0] + radius * np.cos(angle), middle[1] + radius * np.sin(angle)])


def _refuse(why: str, remedy: str) -> InvalidValue:
    return InvalidValue("body", why, remedy)


def _plate(wide: float, tall: float, deep: float, corner: float) -> Mesh:
    corner = min(corner, wide / 2, deep / 2)
    flat = region_of(rectangle(wide, deep, corner))
    return mesh_of(flat.extrude(tall))


def _box(wide: float, deep: float, tall: float, round: float) -> Mesh:
    size = np.array([wide, deep, tall])
    radius = min(round, float(size.min()) / 2)
    radius = 0.0 if radius <= _FLAT_MM else radius
    core = size / 2 - radius
    # Lines along each axis, as they lie on a block; in its roundings by equal angles.
    bent = radius * np.tan(np.radians(np.linspace(0, 45, max(2, _sides(radius) // 8 + 1))))
    lines = []
    for half in core:
        straight = np.linspace(-half, half, max(2, math.ceil(2 * half / _LONG_MM) + 1))
        beyond = half + bent[1:]
        each = [-beyond[::-1], straight if half > 1e-9 else [0.0], beyond]
        lines.append(np.concatenate(each) if radius > _FLAT_MM else straight)
    vertices, faces, start = [], [], 0
    for axis in range(3):
        u, v = lines[(axis + 1) % 3], lines[(axis + 2) % 3]
        for side in (-1, 1):
            flat = np.empty((len(u), len(v), 3))
            flat[..., axis] = side * size[axis] / 2
            flat[..., (axis + 1) % 3], flat[..., (axis + 2) % 3] = np.meshgrid(u, v, indexing="ij")
            number = start + np.arange(len(u) * len(v)).reshape(len(u), len(v))
            a, b, c, d = number[:-1, :-1], number[1:, :-1], number[1:, 1:], number[:-1, 1:]
            both = [np.stack([a, b, c], axis=-1), np.stack([a, c, d], axis=-1)]
            found = np.concatenate([one.reshape(-1, 3) for one in both])
            faces.append(found if side > 0 else found[:, ::-1])
            vertices.append(flat.reshape(-1, 3))
            start += number.size
    places = np.concatenate(vertices)
    if radius > _FLAT_MM:
        inner = np.clip(places, -core, core)
        out = places - inner
        places = inner + radius * out / np.linalg.norm(out, axis=1, keepdims=True)
    places[:, 2] += tall / 2
    # What meets along an edge was worked out twice, by other sums.
    places = np.round(places, 6)
    return merge(Mesh(places.astype(np.float32), np.concatenate(faces).astype(np.int32)))


def _cylinder(diameter: float, tall: float, round: float) -> Mesh:
    radius = diameter / 2
    rim = min(round, radius, tall / 2)
    if rim <= _FLAT_MM:
        return turned_about_z([np.array([[0, 0], [radius, 0], [radius, tall], [0, tall]])])
    below = _arc((radius - rim, rim), rim, -90, 0)
    above = _arc((radius - rim, tall - rim), rim, 0, 90)
    return turned_about_z([_tidy(np.vstack([[[0, 0]], below, above, [[0, tall]]]))])


def _tidy(loop: Loop) -> Loop:
    """A loop without places that are the same as the next."""
    away = np.linalg.norm(loop - np.roll(loop, -1, axis=0), axis=1)
    return loop[away > 1e-7]


def _tube(diameter: float, tall: float, wall: float) -> Mesh:
    radius = diameter / 2
    inner = radius - wall
    if inner < 0.05:
        raise _refuse(
            f"a wall of {wall:g} mm fills a tube of {2 * radius:g} mm",
            f"Make the wall thinner than {radius:g} mm",
        )
    return turned_about_z([np.array([[inner, 0], [radius, 0], [radius, tall], [inner, tall]])])


def _cone(diameter: float, top: float, tall: float) -> Mesh:
    radius, top = diameter / 2, top / 2
    loop = [[0, 0], [radius, 0], [top, tall], [0, tall]]
    return turned_about_z([np.array(loop if top > 0.005 else loop[:2] + loop[3:], np.float64)])


def _beaker(diameter: float, top: float, tall: float, wall: float, floor: float) -> Mesh:
    low, high = diameter / 2, top / 2
    across = wall * math.hypot(1, (high - low) / tall)  # of a wall that leans
    within = low + (high - low) * min(1.0, floor / tall) - across, high - across
    if floor >= tall - 0.05 or min(within) < 0.05:
        raise _refuse(
            "its wall and floor leave no room in it", "Make them thinner, or the beaker larger"
        )
    loop = [[0, 0], [low, 0], [high, tall], [within[1], tall], [within[0], floor], [0, floor]]
    return turned_about_z([np.array(loop, np.float64)])


def _mug(
    diameter: float, tall: float, wall: float, floor: float, handle: float, reach: float
) -> Mesh:
    radius, half = diameter / 2, handle / 2
    if handle > _WIDEST_HANDLE * min(diameter, tall):
        widest = _WIDEST_HANDLE * min(diameter, tall)
        raise _refuse(
            f"its handle of {handle:g} mm is too thick for it", f"Make it at most {widest:g} mm"
        )
    if reach < 2 * handle:
        raise _refuse(
            f"its handle leaves no room at {reach:g} mm", f"Let it reach {2 * handle:g} mm or more"
        )
    # Its ends lie within the wall, so that nothing of it is seen inside.
    deepest, shallowest = radius - wall, math.sqrt(radius**2 - half**2)
    if shallowest - deepest < 0.1:
        raise _refuse(
            f"its wall of {wall:g} mm is too thin for a handle of {handle:g} mm",
            "Make the wall thicker, or the handle thinner",
        )
    cup = solid_of(_beaker(diameter, diameter, tall, wall, floor))
    start, end, high = (deepest + shallowest) / 2, radius + reach - half, tall * _HANDLE_HALF
    bend = min(high, end - radius)
    bow = _bow(start, end, high, bend) + np.array([0, tall * _HANDLE_MIDDLE])
    bar = _bar_along(bow, half)
    return closed(cup + solid_of(bar), "mug", "Use another size")[0]


def _bow(start: float, end: float, high: float, bend: float) -> Loop:
    """From `start` out to `end` above and back below, bent by a radius at both corners."""
    corners = [
        np.array([[start, high]]),
        _arc((end - bend, high - bend), bend, 90, 0),
        _arc((end - bend, bend - high), bend, 0, -90),
        np.array([[start, -high]]),
    ]
    found = []
    for before, after in pairwise(corners):
        reach = after[0] - before[-1]
        count = max(1, math.ceil(float(np.linalg.norm(reach)) / _LONG_MM))
        between = before[-1] + reach * (np.arange(1, count) / count)[:, None]
        found += [before, between]
    line = np.vstack([*found, corners[-1]])
    apart = np.linalg.norm(np.diff(line, axis=0), axis=1) > 1e-7
    return line[np.append(apart, True)]


def _bar_along(line: Loop, radius: float) -> Mesh:
    """A round bar along places (x, z) of the plane of the axis, its ends flat."""
    sides = max(32, _sides(radius) // 2)
    ahead = np.gradient(line, axis=0)
    ahead /= np.linalg.norm(ahead, axis=1, keepdims=True)
    across = np.column_stack([ahead[:, 1], -ahead[:, 0]])
    angle = np.arange(sides) * 2 * np.pi / sides
    # Around its way: across that in the plane, and beside the plane.
    x, z = (line[:, k, None] + radius * np.cos(angle) * across[:, k, None] for k in (0, 1))
    y = np.broadcast_to(radius * np.sin(angle), x.shape)
    number = np.arange(x.size).reshape(x.shape)
    faces = [_band(here, there) for here, there in pairwise(number)]
    faces.append(_band(np.array([x.size]), number[0]))
    faces.append(_band(number[-1], np.array([x.size + 1])))
    ends = [[line[k, 0], 0, line[k, 1]] for k in (0, -1)]
    vertices = np.vstack([np.stack([x, y, z], axis=-1).reshape(-1, 3), ends])
    return Mesh(vertices.astype(np.float32), np.concatenate(faces).astype(np.int32))


def _sphere(diameter: float) -> Mesh:
    radius = diameter / 2
    return turned_about_z([_on_axis(_arc((0, radius), radius, -90, 90))])


def _on_axis(loop: Loop) -> Loop:
    """A loop whose ends lie on the axis exactly."""
    loop[[0, -1], 0] = 0
    return loop


def _dome(diameter: float, tall: float) -> Mesh:
    foot = diameter / 2
    radius = (foot**2 + tall**2) / (2 * tall)
    start = math.degrees(math.asin(max(-1.0, min(1.0, (radius - tall) / radius))))
    arc = _arc((0, tall - radius), radius, start, 90)
    arc[-1, 0] = 0
    return turned_about_z([np.vstack([[[0, 0]], arc])])


def _torus(diameter: float, thick: float) -> Mesh:
    radius = diameter / 2
    middle = radius - thick / 2
    if middle - thick / 2 < 0.02:
        raise _refuse(
            f"{thick:g} mm thick it has no hole at {2 * radius:g} mm",
            f"Make it thinner than {radius:g} mm",
        )
    return turned_about_z([_arc((middle, thick / 2), thick / 2, -90, 270)[:-1]])


def _medal(diameter: float, tall: float, rim: float, rim_tall: float) -> Mesh:
    radius = diameter / 2
    above = tall + rim_tall
    if rim >= radius - 0.05:
        raise _refuse(
            f"its rim of {rim:g} mm leaves no middle", f"Make it narrower than {radius:g} mm"
        )
    within = radius - rim
    loop = [[0, 0], [radius, 0], [radius, above], [within, above], [within, tall], [0, tall]]
    if rim_tall < 0.005:
        loop = [[0, 0], [radius, 0], [radius, tall], [0, tall]]
    return turned_about_z([np.array(loop, np.float64)])


def _ring(inside: float, wide: float, thick: float, face: float) -> Mesh:
    inner = inside / 2
    outer = inner + thick
    sides = _sides(outer)
    band = cylinder(wide, outer, sides).translate((0, 0, -wide / 2)).rotate((90, 0, 0))
    angle = np.arange(sides) * 2 * np.pi / sides
    high = outer + thick * 0.4
    face /= 2
    disc = np.column_stack([face * np.cos(angle), face * np.sin(angle), np.full(sides, high)])
    under = disc - [0, 0, min(0.8, thick / 2)]
    level = inner * 0.35
    reach = math.sqrt(outer**2 - level**2) * 0.995
    feet = [[x, y, level] for x in (-reach, reach) for y in (-wide / 2, wide / 2)]
    head = hull_of(np.vstack([disc, under, feet]))
    long = 2 * max(wide, 2 * face) + 4
    bore = cylinder(long, inner, sides).translate((0, 0, -long / 2)).rotate((90, 0, 0))
    whole = (band + head) - bore
    return closed(whole.translate((0.0, 0.0, outer)), "ring", "Use another size")[0]


def _bottle(profile: Sequence[tuple[float, float]], wall: float, smooth: bool) -> Mesh:
    drawn = np.asarray(profile, np.float64)
    drawn = drawn - [0, drawn[0, 1]]
    line = drawn
    if smooth and len(drawn) > 2:
        from scipy.interpolate import PchipInterpolator

        share = np.linspace(0, 1, _PLACES, endpoint=False)
        steps = np.diff(drawn[:, 1])[:, None] * share
        height = np.append((drawn[:-1, 1:] + steps).ravel(), drawn[-1, 1])
        line = np.column_stack([PchipInterpolator(drawn[:, 1], drawn[:, 0])(height), height])
    line[:, 0] = np.maximum(line[:, 0], 0)
    top = float(line[-1, 1])
    if wall <= 0.005:
        loop = np.vstack([[[0, 0]], line, [[0, top]]])
        return merge(turned_about_z([_tidy(loop)]))
    outer = _mirrored(line)
    # Above its mouth it goes on, so that it is open there.
    inner = grown(_mirrored(np.vstack([line, line[-1:] + np.array([0, 3 * wall])])), -wall)
    left = (outer - inner) ^ _right_of_axis(2 * float(line[:, 0].max()), top)
    loops = [_snapped(np.asarray(loop, np.float64)) for loop in left.to_polygons()]
    if inner.is_empty() or not loops:
        raise _refuse("its wall leaves no room in it", "Make the wall thinner")
    return merge(turned_about_z([loop for loop in loops if len(loop) > 2]))


def _mirrored(line: Loop) -> Region:
    return non_zero([np.vstack([line, (line * [-1, 1])[::-1]])])


def _right_of_axis(wide: float, tall: float) -> Region:
    return non_zero([np.array([[0, 0], [wide, 0], [wide, tall], [0, tall]], np.float64)])


def _snapped(loop: Loop) -> Loop:
    """A loop whose places next to the axis lie on it."""
    near = loop[:, 0] < 1e-4
    loop[near, 0] = 0
    return _tidy(loop)


_MAKE: dict[str, Callable[..., Mesh]] = {
    "plate": _plate,
    "box": _box,
    "cylinder": _cylinder,
    "tube": _tube,
    "cone": _cone,
    "beaker": _beaker,
    "mug": _mug,
    "sphere": _sphere,
    "dome": _dome,
    "ring": _ring,
    "torus": _torus,
    "medal": _medal,
    "bottle": _bottle,
}
