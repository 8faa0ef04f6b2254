"""Entries of the build-up joined to the solid below them, with crisp walls."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np

from nebrel.core.choices import ProfileKind
from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue, NotSolid
from nebrel.core.heights.laid import Laid, Patch
from nebrel.core.heights.relief import Relief
from nebrel.core.kernel import (
    Points,
    Region,
    Solid,
    Warp,
    block,
    grown,
    mesh_of,
    nothing,
    solid_of,
    square,
)
from nebrel.core.outline.regions import region_of
from nebrel.core.solid.close import close
from nebrel.core.solid.cutout import edged
from nebrel.core.solid.follow import follow
from nebrel.core.solid.terraced import standing, stepped
from nebrel.core.solid.triangulate import triangulate

_MOST_PATCH_TRIANGLES = 400_000
_BESIDE_MM = 5e-4
_BEYOND_MM = 0.02
_MANY_LOOPS = 200
_OF_A_BLOCK = 12  # triangles
_FLOOR_MM = 1e-9  # what is no higher stands on the underside and stays there
_SHARE_ADDED = 0.25  # of the tolerance, which what lies below has a share of too
_THINNEST_MM = 0.005  # an edge that runs out to nothing ends here


def plate(size_mm: tuple[float, float], mm: float) -> Solid:
    """A block of an extent; nothing when it has no thickness."""
    if mm <= 0:
        return nothing()
    # In the precision of the surfaces that will be joined, so that walls are flush.
    wide, tall = (float(np.float32(side)) for side in size_mm)
    return block((wide, tall, float(np.float32(mm))))


def join(
    solid: Solid,
    entries: Sequence[Laid],
    size_mm: tuple[float, float],
    tolerance_mm: float,
    settle: bool,
) -> Solid:
    """A solid with the entries joined to it in order.

    Parameters
    ----------
    solid : of the boolean kernel, flat underside at z = 0, every height above 0
    size_mm : the extent, at which entries end
    settle : a coarser patch is taken where the tolerance would need too many triangles

    Flat entries keep exact heights and walls. What is added to a relief moves with its
    triangles, so no sharp edge below is lost.

    Raises
    ------
    InvalidValue : nothing is left after cutting
    """
    for entry in entries:
        section = _section(entry)
        if section.is_empty():
            continue
        high = max(2.0, float(solid.bounding_box()[5]) if not solid.is_empty() else 0.0)
        high += max(2.0, abs(entry.mm)) + 2
        if entry.rule == "cut":
            solid = solid - section.extrude(high).translate((0, 0, -1))
        elif (found := _on_plate(solid, entry, section)) is not None:
            solid = found
        elif entry.rule == "add":
            solid = _lift(solid, entry, section, high, tolerance_mm)
        else:
            block, above = _block(entry, section, size_mm, high, tolerance_mm, settle)
            if entry.below is not None:
                block = block ^ _standing_on(section, high, *entry.below)
            # What is flat and higher than everything has nothing above it.
            topmost = entry.patch is None and not solid.is_empty()
            topmost = topmost and float(solid.bounding_box()[5]) <= float(np.float32(entry.mm))
            if entry.rule != "lowest":
                solid = solid + block
            if entry.rule != "highest" and not topmost:
                solid = solid - above()
        if solid.is_empty():
            raise InvalidValue(
                "build-up", "nothing is left after cutting through", "Cut less, or keep more"
            )
    return solid


def _on_plate(solid: Solid, entry: Laid, section: Region) -> Solid | None:
    """Very many flat parts on a plate, made at once: the same without joining them one by one."""
    shaped = entry.patch is not None or entry.stacks or entry.below is not None
    if shaped or entry.rule not in ("replace", "highest"):
        return None
    if len(entry.outline.loops) < _MANY_LOOPS or solid.num_tri() != _OF_A_BLOCK:
        return None
    left, front, _, right, back, top = solid.bounding_box()
    low_x, low_y, high_x, high_y = section.bounds()
    within = min(low_x - left, low_y - front, right - high_x, back - high_y) > _BEYOND_MM
    block = abs(solid.volume() - (right - left) * (back - front) * top) < 1e-6
    if not within or not block or entry.mm <= top + _THINNEST_MM:
        return None
    under = square((right - left, back - front)).translate((left, front))
    try:
        return stepped([(under, top), (section, float(np.float32(entry.mm)))])
    except NotSolid:  # lines that touch: the kernel tells them apart
        return None


def add_over_flat(under: Solid, picture: Solid, relief: Relief) -> Solid:
    """The picture raised by the level of the flat entries that lie under it.

    Raises
    ------
    InvalidValue : an entry under it is not flat, or so low that nothing would be left
    """
    if any(entry.patch is not None for entry in relief.below):
        raise InvalidValue(
            "picture",
            "it cannot be added to an entry whose edge or surface is shaped",
            "Move the picture below that entry, or make the entry's edge sharp",
        )
    tops = np.unique(np.round(np.asarray(under.to_mesh().vert_properties)[:, 2], 4))
    found = nothing()
    for level in tops[tops > 0]:
        # All that reaches the level: what lies higher is laid over it, so no walls touch.
        region = under.slice(level - _BESIDE_MM)
        if region.is_empty():
            continue
        lift = float(level) - relief.backing_mm
        if float(relief.field.mm.min()) + lift <= 0:
            raise InvalidValue(
                "picture",
                f"added to an entry of {lift:g} mm its lowest spot has no thickness",
                "Raise that entry, or the backing",
            )
        lifted = picture.warp_batch(_lifting(lift))
        high = lifted.bounding_box()[5] + 2
        found = found + (lifted ^ region.extrude(high).translate((0, 0, -1)))
    return found


def turn_over(solid: Solid, relief: Relief) -> Solid:
    """The negative of a flat solid: what its heights leave of a block, as `Relief.negative_mm`."""
    size = relief.field.wide_mm, relief.field.tall_mm
    whole = plate(size, relief.negative_mm)
    upside_down = solid.mirror((0, 0, 1)).translate((0, 0, float(np.float32(relief.negative_mm))))
    return (whole - upside_down) ^ plate(size, relief.negative_mm - relief.backing_mm)


def _lifting(mm: float) -> Warp:
    def lift(points: Points) -> Points:
        z = np.where(points[:, 2] > _FLOOR_MM, points[:, 2] + mm, 0.0)
        return np.column_stack([points[:, :2], z])

    return lift


def _following(part: Solid, entry: Laid, patch: Patch, tolerance_mm: float) -> Solid:
    """The same with vertices enough to be raised by a patch."""
    # Small enough that nothing lies hidden inside a triangle, then cut where an edge misses.
    small = part.refine_to_length(max(2 * patch.pitch_mm, (8 * tolerance_mm) ** 0.5 * 0.8))
    mesh = mesh_of(small)
    vertices, faces = mesh.vertices.astype(np.float64), mesh.faces.astype(np.int64)
    standing = vertices[:, 2] > _FLOOR_MM
    found = follow(
        vertices, faces, entry.over, standing, tolerance_mm * _SHARE_ADDED, 2 * patch.pitch_mm
    )
    return solid_of(Mesh(found[0].astype(np.float32), found[1].astype(np.int32)))


def _section(entry: Laid) -> Region:
    return region_of(entry.outline)


def _standing_on(section: Region, high: float, kind: ProfileKind, reach_mm: float) -> Solid:
    """A column whose lower edge is shaped: an upper one, upside down."""
    column = edged(section, 0.0, high, kind, reach_mm)
    return column.mirror((0, 0, 1)).translate((0, 0, high))


def _block(
    entry: Laid,
    section: Region,
    size_mm: tuple[float, float],
    high: float,
    tolerance_mm: float,
    settle: bool,
) -> tuple[Solid, Callable[[], Solid]]:
    """The entry itself, and what makes all that lies above it."""
    if entry.stacks:
        exact = standing(entry.stacks)
        return exact ^ plate(size_mm, high), lambda: section.extrude(high) - exact
    if entry.patch is None:
        top = float(np.float32(entry.mm))
        block = section.extrude(top)
        low, far = entry.outline.bounds
        if min(low) < 0 or far[0] > size_mm[0] or far[1] > size_mm[1]:
            block = block ^ plate(size_mm, top)
        return block, lambda: section.extrude(high - top).translate((0, 0, top))
    column = section.extrude(high)
    over = _over(entry.patch, tolerance_mm, settle)
    # Its underside sunk, so that what is taken off above it leaves no film at the bottom.
    sunk = over.warp_batch(
        lambda p: np.column_stack([p[:, :2], np.where(p[:, 2] > 0, p[:, 2], -1)])
    )
    block = (over ^ column) ^ plate(size_mm, high)
    return block, lambda: column - sunk


def _over(patch: Patch, tolerance_mm: float, settle: bool) -> Solid:
    """The patch as a solid over its whole box."""
    standing = replace(patch, mm=np.maximum(patch.mm, np.float32(_THINNEST_MM)))
    surface = triangulate(standing.field, tolerance_mm, _MOST_PATCH_TRIANGLES, settle, "greedy")
    closed = close(surface)
    moved = closed.vertices + np.array([patch.x_mm, patch.y_mm, 0], np.float32)
    return solid_of(Mesh(moved, closed.faces))


def _lift(solid: Solid, entry: Laid, section: Region, high: float, tolerance_mm: float) -> Solid:
    """What lies inside the outline raised, or lowered below 0, point by point."""
    rises = entry.mm >= 0
    # What is lowered reaches a little beyond the outline, so that no two walls coincide.
    around = section if rises else grown(section, _BEYOND_MM, "mitred")
    part = solid ^ around.extrude(high + 1).translate((0, 0, -1))
    if part.is_empty():
        return solid
    if entry.patch is not None:
        part = _following(part, entry, entry.patch, tolerance_mm)

    def move(points: Points, floor: float) -> Points:
        rise = entry.over(points[:, 0], points[:, 1])
        z = np.where(points[:, 2] > _FLOOR_MM, points[:, 2] + rise, floor)
        return np.column_stack([points[:, :2], z])

    if rises:
        return solid + part.warp_batch(lambda points: move(points, 0.0))
    lowered = part.warp_batch(lambda points: move(points, -1.0))
    return solid - (section.extrude(high) - lowered)
