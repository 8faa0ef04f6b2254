"""Heights as a float TIFF or a 16-bit PNG, the scale in the file; written, and recognised."""

from __future__ import annotations

import io
import json
from pathlib import Path
from typing import Any, Literal

import numpy as np

from nebrel.core.data import Above, HeightField, Mask
from nebrel.core.formats.files import writing

Ending = Literal["tif", "png"]


def write_heights(path: Path, field: HeightField, there: Mask | None, above: Above) -> None:
    """Write heights in mm, as `encode_heights`, by the ending of the path. Raises StorageFailed."""
    ending: Ending = "png" if path.suffix.lower() == ".png" else "tif"
    data = encode_heights(field, there, ending, above)
    with writing(path) as file:
        file.write(data)


def encode_heights(field: HeightField, there: Mask | None, ending: Ending, above: Above) -> bytes:
    """Heights in mm as the bytes of a file.

    Parameters
    ----------
    ending : `tif` keeps millimetres as float32, not-a-number where nothing is; `png` keeps
        16 bits from 0 to the highest, transparent where nothing is
    there : (rows, cols) bool, or None when all of it is
    above : what the heights are measured from

    The description of a TIFF, and the comment of a PNG, is JSON: `wide_mm`, `tall_mm`,
    `above`, and for a PNG `white_mm`, the height of white. Raises StorageFailed.
    """
    scale: dict[str, Any] = {
        "unit": "mm",
        "wide_mm": field.wide_mm,
        "tall_mm": field.tall_mm,
        "above": above,
    }
    buffer = io.BytesIO()
    dpi = 25.4 / field.pitch_mm[0]
    if ending == "png":
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
    return buffer.getvalue()
