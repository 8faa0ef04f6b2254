"""A picture of a drawing, so that it is looked at and worked on as pictures are."""

from __future__ import annotations

import cv2
import numpy as np

from nebrel.core.data import Floats
from nebrel.core.outline.outline import Outline
from nebrel.core.outline.raster import fill

_LONGEST_PX = 1600
_FINER = 4  # pixels to each, both ways
_ROOM = 0.02  # of the longer side, around the drawing


def picture_of(outline: Outline) -> tuple[Floats, float]:
    """A drawing in black on white, (rows, cols), and the width of that picture in mm.

    The middle of the picture is the middle of the drawing's own box.
    """
    low, high = outline.bounds
    size = high - low
    room = _ROOM * float(size.max())
    wide, tall = (float(side) + 2 * room for side in size)
    pitch = max(wide, tall) / (_LONGEST_PX - 1)
    cols, rows = max(2, round(wide / pitch) + 1), max(2, round(tall / pitch) + 1)
    # The middle of the picture stays that of the drawing, whatever is rounded.
    left = (low[0] + high[0]) / 2 - (cols - 1) * pitch / 2
    below = (low[1] + high[1]) / 2 - (rows - 1) * pitch / 2
    fine = pitch / _FINER
    first = (_FINER - 1) / 2 * fine
    loops = outline.in_pixels(left - first, below - first, (fine, fine), rows * _FINER)
    cover = fill(loops, rows * _FINER, cols * _FINER).astype(np.float32)
    small = cv2.resize(cover, (cols, rows), interpolation=cv2.INTER_AREA)
    return np.asarray(1 - small, np.float32), (cols - 1) * pitch
