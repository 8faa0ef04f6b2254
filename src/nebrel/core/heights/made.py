"""Heights as fine as a machine can make them: what its line would not show is averaged away."""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np

from nebrel.core.data import Floats, HeightField
from nebrel.core.heights.relief import Relief
from nebrel.core.picture.resample import resample

_SOFT = 1.5  # pitches: the standard deviation that detail is averaged with
_SHOWS = 0.1  # of a layer: what the averaging may change of what a line leaves behind
_WORTH_PX = 0.4  # a narrower average changes nothing


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
    mm = resample(field.mm, *shape)
    sigma = tuple(
        min(_SOFT * wanted / own, shown / own / 2)
        for wanted, own, shown in zip(machine.pitch, pitch, machine.shows, strict=True)
    )
    if max(sigma) >= _WORTH_PX:
        shows = tuple(shown / own for shown, own in zip(machine.shows, pitch, strict=True))
        mm = _averaged(mm, sigma, shows, _SHOWS * machine.layer, around)
    kept = None if relief.cover is None else resample(relief.cover, *shape)
    return replace(relief, field=HeightField(mm, field.wide_mm, field.tall_mm), cover=kept)


def _count(now: int, length_mm: float, pitch_mm: float) -> int:
    return max(2, min(now, int(np.ceil(length_mm / pitch_mm)) + 1))


def _averaged(
    mm: Floats, sigma: tuple[float, ...], shows: tuple[float, ...], most_mm: float, around: bool
) -> Floats:
    """Heights averaged wherever a line of the machine would show no difference.

    Parameters
    ----------
    sigma, shows : across and up, pixels
    """
    reach = min(int(np.ceil(max(4 * sigma[0], 2 * shows[0]))), mm.shape[1] - 1) if around else 0
    wide = np.concatenate([mm[:, -1 - reach : -1], mm, mm[:, 1 : 1 + reach]], 1) if reach else mm
    calm = cv2.GaussianBlur(
        wide, (0, 0), max(sigma[0], 0.01), sigmaY=max(sigma[1], 0.01), borderType=cv2.BORDER_REFLECT
    )
    line = tuple(max(1, round(px)) | 1 for px in shows)
    seen = np.abs(cv2.blur(wide - calm, line, borderType=cv2.BORDER_REFLECT))
    weight = np.clip(2 - seen / np.float32(most_mm), 0, 1)
    if float(weight.min()) < 1:
        weight = cv2.erode(weight, np.ones((line[1], line[0]), np.uint8))
        calm = wide + (calm - wide) * weight
    found = calm[:, reach : reach + mm.shape[1]] if reach else calm
    return np.ascontiguousarray(found, np.float32)
