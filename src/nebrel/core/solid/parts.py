"""Pieces that go with a panel: a holder and its cap, and the sides, base and lid of a lantern.

Holder and cap are made over the panel's own flat extent and bent with it, so that a clearance is
the same along the normal wherever it is measured.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from nebrel.core.errors import InvalidValue
from nebrel.core.kernel import Region, Solid, circle
from nebrel.core.solid.fit import FlatFit, flat_solid

_SEAT_MM = 3.0  # how far the cap reaches down over the posts
_RAISED_MM = 0.8


@dataclass(frozen=True)
class Slots:
    """What the holder takes.

    Attributes
    ----------
    wide_mm, tall_mm : of the panel without its tabs
    tab_mm, thick_mm : how far a tab stands out, and how thick it is
    clearance_mm : between tab and slot, in all
    wall_mm, base_mm, deep_mm : of the holder
    """

    wide_mm: float
    tall_mm: float
    tab_mm: float
    thick_mm: float
    clearance_mm: float
    wall_mm: float
    base_mm: float
    deep_mm: float

    @property
    def post(self) -> tuple[float, float, float, float]:
        """Left edge, right edge, back and front of the left post."""
        half = self.clearance_mm / 2
        left = -self.tab_mm - half - self.wall_mm
        return left, -half, -half - self.wall_mm, self.thick_mm + half + self.wall_mm


def holder(slots: Slots) -> Solid:
    """The stand in flat (u, v, h) mm: a plate and two posts, each with a slot open above."""
    half = slots.clearance_mm / 2
    left, right, back, front = slots.post
    tall, wide = slots.tall_mm, slots.wide_mm
    low = -half - slots.base_mm
    plate = _box((left, low, back - slots.deep_mm), (wide - left, -half, front + slots.deep_mm))
    whole = plate
    for mirrored in (False, True):
        ends = (left, right) if not mirrored else (wide - right, wide - left)
        post = _box((ends[0], -half - 0.5, back), (ends[1], tall, front))
        slot = (
            (-slots.tab_mm - half, 1.0) if not mirrored else (wide - 1, wide + slots.tab_mm + half)
        )
        # The panel itself, with its clearance, goes through between the posts.
        room = _box((slot[0], -half, -half), (slot[1], tall + 1, slots.thick_mm + half))
        whole = whole + (post - room)
    return whole


def cap(slots: Slots, tall_mm: float, letters: Region | None) -> Solid:
    """A cover over the posts, open below; lettering stands on its front.

    Parameters
    ----------
    tall_mm : of the cap
    letters : region of the lettering about the origin, or None
    """
    if tall_mm < _SEAT_MM + slots.wall_mm:
        raise InvalidValue(
            "cap",
            f"{tall_mm:g} mm is too low to sit on the posts",
            f"The nearest that works is {_SEAT_MM + slots.wall_mm:g} mm",
        )
    half, wall = slots.clearance_mm / 2, slots.wall_mm
    left, _, back, front = slots.post
    right = slots.wide_mm - left
    low, high = slots.tall_mm - _SEAT_MM, slots.tall_mm - _SEAT_MM + tall_mm
    far = half + wall
    body = _box((left - far, low, back - far), (right + far, high, front + far))
    room = _box(
        (left - half, low - 1, back - half), (right + half, slots.tall_mm + half, front + half)
    )
    found = body - room
    if letters is not None and not letters.is_empty():
        face = front + far
        middle = ((left + right) / 2, (low + high) / 2)
        raised = letters.translate(middle).extrude(_RAISED_MM + 0.2).translate((0, 0, face - 0.2))
        found = found + raised
    return found


def lantern_side(panel: Solid, wide_mm: float, thick_mm: float, sides: int) -> Solid:
    """A flat panel whose left and right edges are mitred; full width at its thickest.

    Parameters
    ----------
    panel : over (0, wide_mm), h outwards
    thick_mm : of the rim, where the outer faces of two sides meet
    """
    lean = math.tan(math.pi / sides)
    if 2 * thick_mm * lean >= wide_mm * 0.9:
        raise InvalidValue(
            "lantern",
            f"{sides} sides of {wide_mm:g} mm are too narrow for walls of {thick_mm:g} mm",
            f"The nearest that works is a width of {2.3 * thick_mm * lean:.1f} mm",
        )
    # Kept: u >= (thick - h) * lean, and the same from the right.
    length = math.hypot(1, lean)
    normal = (1 / length, 0, lean / length)
    found = panel.trim_by_plane(normal, thick_mm * lean / length)
    normal = (-1 / length, 0, lean / length)
    return found.trim_by_plane(normal, (thick_mm * lean - wide_mm) / length)


def lantern_ring(side: Solid, wide_mm: float, thick_mm: float, sides: int) -> Solid:
    """All sides around an upright axis, as they will be put together."""
    reach = wide_mm / 2 / math.tan(math.pi / sides) - thick_mm
    standing = side.translate((-wide_mm / 2, 0, 0)).rotate((90, 0, 0)).translate((0, -reach, 0))
    whole = standing
    for number in range(1, sides):
        whole = whole + standing.rotate((0, 0, 360 * number / sides))
    return whole


def lantern_end(
    wide_mm: float, wall_mm: float, sides: int, plate_mm: float, lip_mm: float, gap_mm: float,
    hole_mm: float,
) -> Solid:  # fmt: skip
    """Base or lid: a plate as large as the lantern, and a lip that fits inside its sides.

    Parameters
    ----------
    wide_mm : of a side, outside
    wall_mm : the thickest that a side is
    gap_mm : between the lip and the sides, along their normal
    hole_mm : diameter of a hole in the middle, 0 for none

    Raises
    ------
    InvalidValue : nothing of the lip is left beside the hole
    """
    outer = wide_mm / 2 / math.tan(math.pi / sides)
    inner = outer - wall_mm - gap_mm

    def polygon(apothem: float) -> Region:
        # One face looks to the front, as the first side does.
        radius = apothem / math.cos(math.pi / sides)
        return circle(radius, sides).rotate(-90 - 180 / sides)

    if inner < 3 or hole_mm / 2 > inner - 2:
        raise InvalidValue(
            "lantern",
            f"a hole of {hole_mm:g} mm leaves nothing of the lid",
            f"The nearest that works is {max(0.0, 2 * (inner - 2)):.1f} mm",
        )
    whole = polygon(outer).extrude(plate_mm)
    lip = (polygon(inner) - polygon(max(1.0, inner - 2))).extrude(lip_mm + plate_mm)
    whole = whole + lip
    if hole_mm > 0:
        hole = circle(hole_mm / 2, 128).extrude(plate_mm + lip_mm + 2)
        whole = whole - hole.translate((0, 0, -1))
    return whole


def _box(low: tuple[float, float, float], high: tuple[float, float, float]) -> Solid:
    return flat_solid(FlatFit(low, high))
