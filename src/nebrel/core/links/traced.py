"""Links of a traced shape: what hangs together in the picture, and the curves around it."""

from __future__ import annotations

from typing import Any

from nebrel.core.errors import NebrelError
from nebrel.core.links.link import Link, at_hand
from nebrel.core.outline.outline import Loop
from nebrel.core.outline.tracing import (
    Field,
    Traced,
    close_gaps,
    find_parts,
    fit_parts,
    shape_field,
    tidy_parts,
)
from nebrel.core.recipe.raise_relief import Tones
from nebrel.core.recipe.traced import Trace

Lines = tuple[tuple[int, int], float, list[tuple[Loop, ...]]]
"""Rows and cols of the picture, the tone that was traced, and the parts, in pixels."""


def traced(
    trace: Trace, tones: Link[Tones], size: Link[tuple[float, float]]
) -> Link[Traced | NebrelError]:
    """What a trace finds in the tones of a picture; whoever is given it is handed a refusal."""
    level = trace.of, trace.level, trace.upto
    lines: Link[Lines] = Link(_lines, (tones, *level), "tracing the shape", 0.3, "told")
    own = trace.model_copy(update={"of": "dark", "level": None, "upto": 1.0})
    return Link(_traced, (lines, size, own), "fitting curves", 0.5, "told")


def _lines(tones: Tones, of: Any, level: float | None, upto: float) -> Lines:
    found: Field = shape_field(tones.tone, tones.alpha, of, level, upto)
    rows, cols = found.values.shape
    return (rows, cols), found.tone, find_parts(found)


def _traced(found: Lines | NebrelError, size: tuple[float, float], trace: Trace) -> Traced:
    shape, tone, lines = at_hand(found)
    rows, cols = shape
    pitch = size[0] / (cols - 1), size[1] / (rows - 1)
    if trace.gap.mm > 0:
        lines = close_gaps(lines, trace.gap.mm / pitch[0], shape)
    parts = tidy_parts(lines, shape, pitch, trace.tidy(size))
    within = None if trace.within is None else trace.within.mm
    return fit_parts(parts, shape, tone, pitch, within, trace.corner)
