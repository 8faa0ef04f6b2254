"""Line art as a shape: the middle of its strokes, drawn with a width."""

from __future__ import annotations

from nebrel.core.errors import InvalidValue
from nebrel.core.outline.centre_lines import Strokes, centre_lines
from nebrel.core.outline.outline import Outline, area_of
from nebrel.core.outline.regions import outline_of, region_of
from nebrel.core.outline.smooth_lines import with_curves
from nebrel.core.outline.tidy import Tidy
from nebrel.core.outline.tracing import Field, Traced, tidy_parts


def stroked_shape(
    found: Field, pitch_mm: tuple[float, float], wide_mm: float, tidy: Tidy
) -> Traced:
    """The strokes inside, each as wide as asked whatever it was.

    Parameters
    ----------
    pitch_mm : between pixel centres, across and up

    Raises
    ------
    InvalidValue : there are no strokes, or nothing is left of them
    """
    rows, cols = found.values.shape
    across, up = pitch_mm
    lines = centre_lines(found)
    foot = (0.0, (rows - 1) * up)
    curves = tuple(one * (across, -up) + foot for one in lines.curves)
    whole = Strokes(curves, lines.closed).widened(wide_mm)
    parts = []
    for region in region_of(whole).decompose():
        loops = sorted(outline_of(region).loops, key=lambda loop: -area_of(loop))
        # In pixels y down, as what is traced is kept.
        parts.append(tuple(((loop - foot) / (across, -up))[::-1] for loop in loops))
    tidied = tidy_parts(parts, (rows, cols), pitch_mm, tidy)
    kept = [line for part in tidied if not part.why for line in part.lines]
    if not kept:
        raise InvalidValue("trace", f"all of its {len(parts)} parts are left out", "Leave out less")
    mm = tuple((line * (across, -up) + foot)[::-1] for line in kept)
    outline = with_curves(Outline(mm))
    count = sum(len(one) for one in outline.curves)
    return Traced(outline, tidied, count, 0.0, (rows, cols), pitch_mm, found.tone)
