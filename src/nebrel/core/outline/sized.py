"""A traced shape of a given width."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from nebrel.core.errors import InvalidValue
from nebrel.core.outline.outline import Outline
from nebrel.core.outline.tidy import Tidy
from nebrel.core.outline.tracing import (
    Field,
    Part,
    Traced,
    find_parts,
    fit_parts,
    softness,
    tidy_parts,
)


def traced_wide(
    found: Field,
    wide_mm: float,
    below_mm2: float,
    within_mm: float | None,
    corner_deg: float,
) -> Traced:
    """A shape whose own box has a width and its lower left at 0, 0.

    Parameters
    ----------
    below_mm2 : parts and holes that are smaller are left out, measured at that width
    within_mm, corner_deg : as `trace_shape`

    Raises
    ------
    InvalidValue, TooLarge : as `trace_shape`; or it has no width
    """
    lines = find_parts(found)
    shape = found.values.shape
    parts = tidy_parts(lines, shape, (1.0, 1.0), Tidy())
    # Without the small ones it may be narrower, and then all of it larger: as many as stay.
    low, high = np.inf, -np.inf
    pitch, count = 0.0, 0
    for number, part in enumerate(parts, 1):
        outer = part.lines[0]
        low, high = min(low, outer[:, 0].min()), max(high, outer[:, 0].max())
        if high <= low:
            continue
        if number > 1 and part.area_mm2 * (wide_mm / (high - low)) ** 2 < below_mm2:
            break
        pitch, count = wide_mm / float(high - low), number
    if count == 0:
        raise InvalidValue("trace", "what is inside has no width", "Choose another level")
    left_out = [replace(part, why="small") for part in parts[count:]]
    kept = tidy_parts(
        [part.lines for part in parts[:count]], shape, (pitch, pitch), Tidy(below_mm2)
    )
    if all(part.why for part in kept):
        raise InvalidValue(
            "--drop-below",
            f"{below_mm2:g} mm² leaves nothing; the largest part has {kept[0].area_mm2:.3g} mm²",
            "Leave out less",
        )
    traced = fit_parts(
        (*kept, *(Part(p.lines, p.area_mm2 * pitch**2, p.why) for p in left_out)),
        shape,
        found.tone,
        (pitch, pitch),
        within_mm,
        corner_deg,
        softness(found, [part.lines for part in parts]),
    )
    left, right = (float(corner[0]) for corner in traced.outline.exact_bounds)
    scale = wide_mm / (right - left)
    return replace(traced, outline=at_origin(traced.outline, scale), off_mm=traced.off_mm * scale)


def at_origin(outline: Outline, scale: float = 1.0) -> Outline:
    """The same, scaled, the lower left of its box at 0, 0."""
    low = outline.exact_bounds[0]
    return Outline(
        tuple((loop - low) * scale for loop in outline.loops),
        tuple((curves - low) * scale for curves in outline.curves),
    )


def lines_wide(outline: Outline, wide_mm: float) -> Outline:
    """The straight lines of an outline alone, exactly that wide: what a solid is made of."""
    low, high = outline.bounds
    return at_origin(Outline(outline.loops), wide_mm / float(high[0] - low[0]))
