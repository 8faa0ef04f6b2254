"""Links of a traced shape: what hangs together in the picture, and the curves around it."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import cv2
import numpy as np

from nebrel.core.data import Floats, Loop
from nebrel.core.errors import InvalidValue, NebrelError
from nebrel.core.links.link import Link, at_hand
from nebrel.core.links.picture import Corrected
from nebrel.core.links.raise_relief import Tones
from nebrel.core.outline.nodes import edit_nodes
from nebrel.core.outline.stroked_shape import stroked_shape
from nebrel.core.outline.tracing import (
    Field,
    Traced,
    close_gaps,
    find_parts,
    fit_parts,
    outlined,
    shape_field,
    softness,
    tidy_parts,
)
from nebrel.core.recipe.traced import Trace

Lines = tuple[tuple[int, int], float, list[tuple[Loop, ...]], float]
"""Rows and cols of the picture, the tone traced, the parts in pixels, how soft edges are."""

_NEAR_PX, _FAR_PX = 3.0, 40.0  # of a node that was edited by hand


def traced(
    trace: Trace,
    tones: Link[Tones],
    size: Link[tuple[float, float]],
    corrected: Link[Corrected],
) -> Link[Traced | NebrelError]:
    """What a trace finds in a picture; whoever is given it is handed a refusal."""
    level: tuple[Any, ...] = trace.of, trace.level, trace.upto
    if trace.of == "colour":
        near: Link[Tones] = Link(_near, (corrected, trace.colour, trace.near), "comparing colours")
        tones, level = near, ("light", 0.5, 1.0)
    field: Link[Field] = Link(_field, (tones, *level), "looking for the shape", 0.1, "told")
    # What the lines depend on alone changes nothing of what is done to them.
    kept = {"within", "corner", "below_mm2", "border", "gap", "choices", "stroke"}
    own = Trace(**{name: getattr(trace, name) for name in kept})
    if trace.stroke is not None:
        found: Link[Any] = Link(_stroked, (field, size, own), "finding middle lines", 0.8, "told")
    else:
        lines: Link[Lines] = Link(_lines, (field,), "tracing the shape", 0.3, "told")
        found = Link(_traced, (lines, size, own), "fitting curves", 0.5, "told")
    if trace.nodes:
        edited = Trace(nodes=trace.nodes)
        found = Link(_by_hand, (found, size, edited), "placing nodes", 0.1, "told")
    return found


def _near(corrected: Corrected, colour: tuple[float, float, float], near: float) -> Tones:
    """How like a colour every pixel is: a half at the largest distance that counts as near.

    Source: distances in CIE L*a*b*, CIE 15:2018.
    """
    pixels = np.asarray(corrected.work.pixels, np.float32)
    if pixels.ndim == 2:
        pixels = np.repeat(pixels[..., None], 3, axis=2)
    lab = cv2.cvtColor(np.ascontiguousarray(pixels[..., :3]), cv2.COLOR_RGB2LAB)
    wanted = cv2.cvtColor(np.array([[colour]], np.float32), cv2.COLOR_RGB2LAB)[0, 0]
    away = np.sqrt(((lab - wanted) ** 2).sum(axis=2))
    like: Floats = np.clip(1 - away / np.float32(2 * near), 0, 1).astype(np.float32)
    return Tones(like, corrected.work.alpha, {})


def _field(tones: Tones, of: Any, level: float | None, upto: float) -> Field:
    return shape_field(tones.tone, tones.alpha, of, level, upto)


def _lines(told: Field | NebrelError) -> Lines:
    found = at_hand(told)
    rows, cols = found.values.shape
    lines = find_parts(found)
    return (rows, cols), found.tone, lines, softness(found, lines)


def _pitch(shape: tuple[int, int], size: tuple[float, float]) -> tuple[float, float]:
    rows, cols = shape
    return size[0] / (cols - 1), size[1] / (rows - 1)


def _traced(found: Lines | NebrelError, size: tuple[float, float], trace: Trace) -> Traced:
    shape, tone, lines, soft = at_hand(found)
    pitch = _pitch(shape, size)
    if trace.gap.mm > 0:
        lines = close_gaps(lines, trace.gap.mm / pitch[0], shape)
    parts = tidy_parts(lines, shape, pitch, trace.tidy(size))
    within = None if trace.within is None else trace.within.mm
    return fit_parts(parts, shape, tone, pitch, within, trace.corner, soft)


def _stroked(told: Field | NebrelError, size: tuple[float, float], trace: Trace) -> Traced:
    found = at_hand(told)
    rows, cols = found.values.shape
    assert trace.stroke is not None
    pitch = _pitch((rows, cols), size)
    return stroked_shape(found, pitch, trace.stroke.mm, trace.tidy(size))


def _by_hand(told: Traced | NebrelError, size: tuple[float, float], trace: Trace) -> Traced:
    found = at_hand(told)
    pitch = max(found.pitch_mm)
    lines, lost = edit_nodes(
        found.outline.curves, trace.edits(size), _NEAR_PX * pitch, _FAR_PX * pitch
    )
    outline, crossed = outlined(lines)
    if not outline:
        raise InvalidValue("nodes", "moved so, they leave nothing of the shape", "Undo the last")
    count = sum(len(curves) for curves in outline.curves) or found.curves
    which = "one node" if lost == 1 else f"{lost} nodes"
    notes = [f"{which} placed by hand: nothing is traced there now"] if lost else []
    notes += ["where lines cross by hand they were united"] if crossed else []
    return replace(found, outline=outline, curves=count, notes=tuple(notes))
