"""Outlines as regions of the boolean kernel, and back."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from nebrel.core.data import Loop
from nebrel.core.kernel import Region, even_odd, non_zero
from nebrel.core.outline.outline import Outline


def region_of(outline: Outline) -> Region:
    """An outline as a region."""
    return even_odd(outline.loops)


def outline_of(region: Region) -> Outline:
    """A region as an outline."""
    return Outline(tuple(np.asarray(loop, np.float64) for loop in region.to_polygons()))


def united(loops: Sequence[Loop]) -> Outline:
    """Loops that may overlap, as an outline of all that they go around."""
    return outline_of(non_zero(loops))
