"""The profile of heights along a line."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats
from nebrel.core.forms.maps import FormMap
from nebrel.core.heights.relief import Relief

Place = tuple[float, float]


@dataclass(frozen=True)
class Section:
    """Heights along a straight line over the flat extent of a piece.

    Attributes
    ----------
    length_mm : of the line
    low_mm, high_mm : (n,) lowest and highest height in each of n equal parts of the line;
        0 where nothing is
    slope_deg : (n,) how steeply the highest line climbs (above 0) or falls there
    """

    length_mm: float
    low_mm: Floats
    high_mm: Floats
    slope_deg: Floats


def section_path(
    form: FormMap | None, start_mm: Place, end_mm: Place, section: Section, points: int = 200
) -> NDArray[np.float64]:
    """The section's upper line in space, before the piece is raised to stand on z = 0.

    Parameters
    ----------
    form : None for a flat one
    start_mm, end_mm : as the section was cut
    points : at most so many

    Returns
    -------
    (n, 3) mm
    """
    parts = len(section.high_mm)
    at = np.unique(np.linspace(0, parts - 1, min(points, parts)).round().astype(int))
    share = (at + 0.5) / parts
    share[0], share[-1] = 0.0, 1.0
    x = start_mm[0] + share * (end_mm[0] - start_mm[0])
    y = start_mm[1] + share * (end_mm[1] - start_mm[1])
    flat = np.column_stack([x, y, section.high_mm[at]]).astype(np.float64)
    return flat if form is None else form.place(flat)


def cut_section(relief: Relief, start_mm: Place, end_mm: Place, parts: int = 800) -> Section:
    """Cut along a line.

    Parameters
    ----------
    start_mm, end_mm : x to the right and y up from the lower left corner; beyond the piece
        there is nothing
    parts : of the line; each tells the lowest and highest of all pixels that it crosses,
        sampled four times a pixel, so that no spike is lost however coarse the parts
    """
    length = float(np.hypot(end_mm[0] - start_mm[0], end_mm[1] - start_mm[1]))
    each = max(2, int(np.ceil(length / min(relief.field.pitch_mm) / parts * 4)) + 1)
    share = np.linspace(0, 1, parts * each)
    x = start_mm[0] + share * (end_mm[0] - start_mm[0])
    y = start_mm[1] + share * (end_mm[1] - start_mm[1])
    mm, there = relief.at(x, y)
    heights = np.where(there, mm, 0).astype(np.float32).reshape(parts, each)
    high = heights.max(axis=1)
    climb = np.gradient(high, max(length, 1e-9) / parts)
    slope = np.degrees(np.arctan(climb)).astype(np.float32)
    return Section(length, heights.min(axis=1), high, slope)
