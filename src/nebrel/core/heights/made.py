"""Heights as fine as a machine can make them: what its line would not show is averaged away."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np

from nebrel.core.data import Floats, HeightField
from nebrel.core.heights.relief import Relief
from nebrel.core.picture.resample import resample

_SOFT = 1.5  # pitches: the standard deviation that detail is averaged with
_SHOWS = 0.1  # of a layer: what the averaging may change of what a line leaves behind
_WORTH_PX = 0.4  # a narrower average changes nothing
_LEAST_PX = 0.01
_ALIAS = 0.33  # of a step: calms what would fall between the steps


@dataclass(frozen=True)
class Machine:
    """How fine a machine works, mm.

    Attributes
    ----------
    pitch : across and up, how far apart heights are kept
    shows : across and up, what becomes one: the width of its line, or the height of its layer
    layer : the height of one layer
    """

    pitch: tuple[float, float]
    shows: tuple[float, float]
    layer: float


def as_made(relief: Relief, machine: Machine, around: bool = False) -> Relief:
    """The same relief without the detail that the machine cannot make.

    Parameters
    ----------
    around : the first column is the last one too

    Where averaging would change what a line of the machine leaves behind by more than a tenth
    of a layer, as at a steep edge, the heights stay as they are at the machine's pitch.
    """
    if relief.plateaus:
        return relief  # outlines and flat tops are exact as they are
    field = relief.field
    rows, cols = field.mm.shape
    shape = (
        _count(rows, field.tall_mm, machine.pitch[1]),
        _count(cols, field.wide_mm, machine.pitch[0]),
    )
    pitch = field.wide_mm / (shape[1] - 1), field.tall_mm / (shape[0] - 1)
    fine = field.pitch_mm
    # Across and up, in pixels of the field: what is wanted, and no more than half of a line.
    soft = tuple(
        min(_SOFT * wanted, shown / 2) / own
        for wanted, own, shown in zip(machine.pitch, fine, machine.shows, strict=True)
    )
    step = pitch[0] / fine[0], pitch[1] / fine[1]
    if max(step) == 1 and max(soft) < _WORTH_PX:
        return relief
    most = int(np.ceil(4 * max(*soft, *step)))
    reach = min(most, cols - 1) if around else 0
    wide = np.concatenate([field.mm[:, -1 - reach : -1], field.mm, field.mm[:, 1 : 1 + reach]], 1)
    sharp = _sampled(_calmed(wide, [_ALIAS * s if s > 1 else 0 for s in step]), shape, step, reach)
    mm = sharp
    if max(soft) >= _WORTH_PX:
        calm = _sampled(_calmed(wide, soft), shape, step, reach)
        shows = [shown / own for shown, own in zip(machine.shows, pitch, strict=True)]
        mm = _where_it_shows(sharp, calm, shows, _SHOWS * machine.layer)
    kept = None if relief.cover is None else resample(relief.cover, *shape)
    return replace(relief, field=HeightField(mm, field.wide_mm, field.tall_mm), cover=kept)


def _count(now: int, length_mm: float, pitch_mm: float) -> int:
    return max(2, min(now, int(np.ceil(length_mm / pitch_mm)) + 1))


def _calmed(mm: Floats, sigma: Sequence[float]) -> Floats:
    """A Gaussian average, its standard deviation across and up in pixels."""
    if max(sigma) < _LEAST_PX:
        return mm
    across, up = (max(px, _LEAST_PX) for px in sigma)
    found = cv2.GaussianBlur(mm, (0, 0), across, sigmaY=up, borderType=cv2.BORDER_REFLECT_101)
    return np.asarray(found, np.float32)


def _sampled(mm: Floats, shape: tuple[int, int], step: tuple[float, float], left: int) -> Floats:
    """Heights at every step, across and up, from a column on; corners stay the corners."""
    matrix = np.array([[step[0], 0, left], [0, step[1], 0]], np.float64)
    found = cv2.warpAffine(
        mm,
        matrix,
        shape[::-1],
        flags=cv2.INTER_CUBIC | cv2.WARP_INVERSE_MAP,
        borderMode=cv2.BORDER_REPLICATE,
    )
    # Bicubic swings over at edges.
    return np.clip(found, mm.min(), mm.max(), dtype=np.float32)


def _where_it_shows(sharp: Floats, calm: Floats, shows: Sequence[float], most_mm: float) -> Floats:
    """The calm heights wherever a line of the machine would show no difference.

    Parameters
    ----------
    shows : what becomes one, across and up, pixels
    """
    line = tuple(max(1, round(px)) | 1 for px in shows)
    seen = np.abs(cv2.blur(sharp - calm, line, borderType=cv2.BORDER_REFLECT))
    weight = np.clip(2 - seen / np.float32(most_mm), 0, 1)
    if float(weight.min()) < 1:
        weight = cv2.erode(weight, np.ones((line[1], line[0]), np.uint8))
        calm = sharp + (calm - sharp) * weight
    return np.ascontiguousarray(calm, np.float32)
