"""Which way to the round a picture asks for."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from nebrel.core.choices import Way
from nebrel.core.data import Floats
from nebrel.core.errors import InvalidValue
from nebrel.core.figure.learned import body_over, framed, membrane
from nebrel.core.figure.turn import find_axis, upright

_FEW = 24  # colours: so few are a drawing's
_LIT = 0.15  # of what differs in tone, that the body's normals tell
_ALIKE = 0.012  # of the width, by which both sides of what is turned differ at most
_ONE = 0.97  # of the rows have one run


@dataclass(frozen=True)
class Choice:
    """A way, and why."""

    way: Way
    why: str


def choose_way(pixels: Floats, cover: Floats) -> Choice:
    """What a practised eye would begin with.

    Parameters
    ----------
    pixels, cover : (rows, cols, 3) and (rows, cols), 0 to 1; nothing along the border
    """
    if _is_turned(cover):
        return Choice("turn", "its outline is the same on both sides of an axis")
    if has_flat_colours(pixels, cover):
        return Choice("inflate", "flat colours tell nothing of its shape but the outline")
    if _lit(pixels, cover) < _LIT:
        return Choice("inflate", "its light and dark are paint more than shade")
    return Choice("learned", "its light and shade tell more than the outline does")


def has_flat_colours(pixels: Floats, cover: Floats) -> bool:
    """Whether a subject has as few colours as a drawing."""
    rows, cols = np.nonzero(cover >= 0.5)
    if not len(rows):
        return False
    some = slice(None, None, max(1, len(rows) // 20_000))
    kept = np.round(pixels[rows[some], cols[some]] * 16)
    return len(np.unique(kept, axis=0)) < _FEW


def _is_turned(cover: Floats) -> bool:
    try:
        stands = upright(cover, find_axis(cover)) >= 0.5
    except InvalidValue:
        return False
    on = stands[stands.any(axis=1)]
    runs = (np.diff(on.astype(np.int8), axis=1, prepend=0) == 1).sum(axis=1)
    apart = float((on ^ on[:, ::-1]).sum()) / 2 / max(1, len(on))
    return bool((runs == 1).mean() > _ONE and apart < _ALIKE * on.sum(axis=1).max())


def _lit(pixels: Floats, cover: Floats) -> float:
    """How much of its tones a light on its swollen body would tell, 0 to 1."""
    try:
        shown, inside, _ = framed(pixels, cover)
    except InvalidValue:
        return 0.0
    _, normals = body_over(membrane(inside))
    tone = shown.mean(axis=2)[inside].astype(np.float64)
    given = np.column_stack([np.ones(len(tone)), *(layer[inside] for layer in normals)])
    left = tone - given @ np.linalg.lstsq(given, tone, rcond=None)[0]
    return 1 - float(left.var()) / max(1e-9, float(tone.var()))
