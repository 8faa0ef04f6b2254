"""Whether a piece fits on the bed that it is printed on."""

from __future__ import annotations

Sides = tuple[float, float, float]
_HAIR_MM = 1e-3


def beyond_bed(size_mm: Sides, bed_mm: Sides) -> Sides | None:
    """By how much a piece is larger than a bed, across, deep and high, mm; None where it fits.

    It lies as it does, and is turned by a quarter where that helps.
    """
    wide, deep, high = size_mm
    ways = []
    for sides in ((wide, deep, high), (deep, wide, high)):
        over = tuple(max(0.0, side - room) for side, room in zip(sides, bed_mm, strict=True))
        ways.append(over)
    least = min(ways, key=sum)
    if max(least) <= _HAIR_MM:
        return None
    across, back, up = (round(side, 3) for side in least)
    return across, back, up
