"""Which way to the round a picture asks for."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from nebrel.core.choices import Way
from nebrel.core.data import Floats
from nebrel.core.errors import InvalidValue
from nebrel.core.figure.learned import body_over, framed, membrane
from nebrel.core.figure.turn import find_axis, upright

_FEW, _LEVELS, _NEARLY = 12, 32, 0.88  # so few colours of so many steps are nearly all of a drawing
_MOST_PX = 640  # along the longer side: what is finer is not looked at
_LIT = 0.15  # of what differs in tone, that the body's normals tell
_ALIKE = 0.012  # of the width, by which both sides of what is turned differ at most
_BANDED = 0.012  # of hues along a row
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
    less = max(cover.shape) / _MOST_PX
    if less > 1:
        size = round(cover.shape[1] / less), round(cover.shape[0] / less)
        pixels, cover = (
            np.asarray(cv2.resize(a, size, interpolation=cv2.INTER_AREA), np.float32)
            for a in (np.asarray(pixels, np.float32), np.asarray(cover, np.float32))
        )
    if _is_turned(cover) and _hues_by_row(pixels, cover) < _BANDED:
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
    some = slice(None, None, max(1, len(rows) // 40_000))
    calm = cv2.GaussianBlur(np.ascontiguousarray(pixels, np.float32), (0, 0), 1.0)
    kept = np.round(calm[rows[some], cols[some]] * _LEVELS).astype(np.int64)
    _, counts = np.unique(kept @ np.array([1, 64, 4096]), return_counts=True)
    return bool(np.sort(counts)[-_FEW:].sum() > _NEARLY * counts.sum())


def _is_turned(cover: Floats) -> bool:
    try:
        stands = upright(cover, find_axis(cover)) >= 0.5
    except InvalidValue:
        return False
    on = stands[stands.any(axis=1)]
    runs = (np.diff(on.astype(np.int8), axis=1, prepend=0) == 1).sum(axis=1)
    apart = float((on ^ on[:, ::-1]).sum()) / 2 / max(1, len(on))
    return bool((runs == 1).mean() > _ONE and apart < _ALIKE * on.sum(axis=1).max())


def _hues_by_row(pixels: Floats, cover: Floats) -> float:
    """How much hues differ along rows: bands around a vessel do not, a face or a coat does."""
    inside = cv2.erode((cover >= 0.5).astype(np.uint8), np.ones((9, 9), np.uint8)) > 0
    if not inside.any():
        return 0.0
    calm = cv2.GaussianBlur(np.ascontiguousarray(pixels, np.float32), (0, 0), 1.5)
    hue = calm / np.maximum(calm.sum(axis=2, keepdims=True), 0.1)
    count = np.maximum(inside.sum(axis=1), 1)[:, None]
    mean = (hue * inside[..., None]).sum(axis=1) / count
    off = np.abs(hue - mean[:, None]).max(axis=2)
    return float(off[inside].mean())


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
