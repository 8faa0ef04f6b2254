"""Heights as a float TIFF or a 16-bit PNG, the scale in the file; written, and recognised."""

from __future__ import annotations

import io
import json
from dataclasses import replace
from pathlib import Path
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import HeightField, HeightScale, Picture
from nebrel.core.formats.files import writing


def write_heights(path: Path, field: HeightField, there: NDArray[np.bool_] | None) -> None:
    """Write heights in mm, as `encode_heights`, by the ending of the path. Raises StorageFailed."""
    data = encode_heights(field, there, "png" if path.suffix.lower() == ".png" else "tif")
    with writing(path) as file:
        file.write(data)


def encode_heights(
    field: HeightField, there: NDArray[np.bool_] | None, ending: Literal["tif", "png"]
) -> bytes:
    """Heights in mm as the bytes of a file.

    Parameters
    ----------
    ending : `tif` keeps millimetres as float32, not-a-number where nothing is; `png` keeps
        16 bits from 0 to the highest, transparent where nothing is
    there : (rows, cols) bool, or None when all of it is

    The description of a TIFF, and the comment of a PNG, is JSON: `wide_mm`, `tall_mm` and
    for a PNG `white_mm`, the height of white. Raises StorageFailed.
    """
    scale = {"unit": "mm", "wide_mm": field.wide_mm, "tall_mm": field.tall_mm}
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


def read_scale(description: str) -> dict[str, float] | None:
    """The scale that `encode_heights` wrote into a file, or None when there is none."""
    if not description.lstrip().startswith("{"):
        return None
    try:
        found: Any = json.loads(description)
        if found.get("unit") != "mm":
            return None
        scale = {name: float(found[name]) for name in ("wide_mm", "tall_mm")}
        scale |= {"white_mm": float(found["white_mm"])} if "white_mm" in found else {}
    except (ValueError, KeyError, TypeError, AttributeError, RecursionError):
        return None
    return scale if all(0 < value < 1e5 for value in scale.values()) else None


def as_heights(picture: Picture, white_mm: float, wide_mm: float) -> Picture:
    """A picture whose tones are shares of a height, with their scale and a word about it."""
    kept = picture.pixels if picture.alpha is None else picture.pixels[picture.alpha > 0.5]
    lowest = float(kept.min()) * white_mm if kept.size else 0.0
    note = f"The file holds heights in mm, up to {white_mm:.4g} mm; they are kept as they are."
    return replace(
        picture,
        heights=HeightScale(wide_mm, white_mm, lowest),
        notes=(*picture.notes, note),
    )
