"""Outlines moved outwards or inwards, made bands of, or thickened where they are thin."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from nebrel.core.choices import Corners
from nebrel.core.errors import InvalidValue
from nebrel.core.kernel import Region, grown
from nebrel.core.outline.assemble import stroked
from nebrel.core.outline.centre_lines import centre_lines, line_of
from nebrel.core.outline.outline import Outline
from nebrel.core.outline.raster import fill
from nebrel.core.outline.regions import outline_of, region_of
from nebrel.core.outline.tracing import Field

_JUST = 0.985  # of a width: what is as wide as asked is not thin
_TIP = 0.8  # of the width: what is thin no further than this from what is wide is a corner
_PX = 10.0  # of the width, of what is thin
_MOST_PX = 30_000_000


def moved_out(outline: Outline, by_mm: float, corners: Corners, band: bool = False) -> Outline:
    """An outline moved outwards, or inwards below 0.

    Parameters
    ----------
    band : moved both ways; what lies between is the new shape

    Raises
    ------
    InvalidValue : nothing is left
    """
    if by_mm == 0 and not band:
        return outline
    own = region_of(outline)
    region = grown(own, by_mm, corners)
    if band:
        away = abs(by_mm)
        region = grown(own, away, corners) - grown(own, -away, corners)
    if region.is_empty():
        raise InvalidValue(
            "move outwards",
            f"{by_mm:g} mm leaves nothing of the shape",
            "Move it inwards less" if by_mm else "Give the band a width",
        )
    return outline_of(region)


def thickened(outline: Outline, least_mm: float) -> tuple[Outline, list[tuple[float, float]]]:
    """An outline nowhere thinner than a width, and where it was: the middles of those places.

    What is thin gets its own middle line drawn that wide; the corners of what is wide stay.

    Raises
    ------
    InvalidValue : it is far too large for a width as fine
    """
    if least_mm <= 0 or not outline:
        return outline, []
    region = region_of(outline)
    half = least_mm / 2 * _JUST
    wide = grown(grown(region, -half), half)
    narrow = region - wide
    deep = narrow - grown(wide, least_mm * _TIP)
    if deep.is_empty():
        return outline, []
    thin = _those_with(narrow.decompose(), deep.decompose())
    places = []
    for part in thin:
        low_x, low_y, high_x, high_y = part.bounds()
        places.append(((low_x + high_x) / 2, (low_y + high_y) / 2))
    return outline_of(_all([region, *(_drawn_wide(part, least_mm) for part in thin)])), places


def _those_with(parts: Sequence[Region], inner: Sequence[Region]) -> list[Region]:
    """Which parts hold any of the inner ones."""
    boxes = np.array([part.bounds() for part in parts])
    found = set()
    for one in inner:
        low_x, low_y, high_x, high_y = one.bounds()
        near = (boxes[:, 0] <= low_x + 1e-6) & (boxes[:, 2] >= high_x - 1e-6)
        near &= (boxes[:, 1] <= low_y + 1e-6) & (boxes[:, 3] >= high_y - 1e-6)
        at = [int(k) for k in np.flatnonzero(near)]
        found |= {k for k in at if len(at) == 1 or not (parts[k] ^ one).is_empty()}
    return [parts[k] for k in sorted(found)]


def _all(regions: list[Region]) -> Region:
    """Many regions as one, in pairs, so that few large ones are joined."""
    while len(regions) > 1:
        pairs = [regions[k : k + 2] for k in range(0, len(regions), 2)]
        regions = [pair[0] + pair[1] if len(pair) == 2 else pair[0] for pair in pairs]
    return regions[0]


def _drawn_wide(part: Region, wide_mm: float) -> Region:
    """The middle line of something thin, drawn with a width."""
    low_x, low_y, high_x, high_y = part.bounds()
    pitch = wide_mm / _PX
    cols = math.ceil((high_x - low_x) / pitch) + 5
    rows = math.ceil((high_y - low_y) / pitch) + 5
    if rows * cols > _MOST_PX:
        raise InvalidValue(
            "thinnest", f"{wide_mm:g} mm is too fine for a shape as large", "Choose a wider one"
        )
    loops = [
        np.column_stack([(loop[:, 0] - low_x) / pitch + 2, rows - 3 - (loop[:, 1] - low_y) / pitch])
        for loop in part.to_polygons()
    ]
    cover = fill(loops, rows, cols).astype(np.float32)
    found = []
    try:
        lines = centre_lines(Field(cover, 0.5, 0.5))
    except InvalidValue:  # a dot
        middle = np.array([[(low_x + high_x) / 2, (low_y + high_y) / 2]])
        return stroked(middle, False, wide_mm, "round", "round")
    for curves, closed in zip(lines.curves, lines.closed, strict=True):
        points = line_of(curves, 0.1)
        mm = np.column_stack(
            [low_x + (points[:, 0] - 2) * pitch, low_y + (rows - 3 - points[:, 1]) * pitch]
        )
        found.append(stroked(mm[:-1] if closed else mm, closed, wide_mm, "round", "round"))
    return _all(found)
