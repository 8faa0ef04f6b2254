"""Heights as a float TIFF or a 16-bit PNG, the scale in the file."""

from __future__ import annotations

import io
import json
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import HeightField
from nebrel.core.formats.files import writing


def write_heights(path: Path, field: HeightField, there: NDArray[np.bool_] | None) -> None:
    """Write heights in mm.

    Parameters
    ----------
    path : `.tif` keeps millimetres as float32, not-a-number where nothing is; `.png` keeps
        16 bits from 0 to the highest, transparent where nothing is
    there : (rows, cols) bool, or None when all of it is

    The description of a TIFF, and the comment of a PNG, is JSON: `wide_mm`, `tall_mm` and
    for a PNG `white_mm`, the height of white. Raises StorageFailed.
    """
    scale = {"unit": "mm", "wide_mm": field.wide_mm, "tall_mm": field.tall_mm}
    buffer = io.BytesIO()
    dpi = 25.4 / field.pitch_mm[0]
    if path.suffix.lower() == ".png":
        from nebrel.core.formats.png import encode_png

        white = max(float(field.mm.max()), 1e-6)
        alpha = None if there is None else there.astype(np.float32)
        tone = field.mm / np.float32(white)
        buffer.write(encode_png(tone, alpha, dpi, json.dumps(scale | {"white_mm": white})))
    else:
        import tifffile

        mm = field.mm if there is None else np.where(there, field.mm, np.float32(np.nan))
        tifffile.imwrite(
            buffer,
            mm.astype(np.float32),
            description=json.dumps(scale),
            resolution=(dpi, dpi),
            resolutionunit="INCH",
            compression="zlib",
            metadata=None,
        )
    with writing(path) as file:
        file.write(buffer.getvalue())
