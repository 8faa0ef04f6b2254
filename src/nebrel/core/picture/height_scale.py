"""What a file says of the heights that it holds."""

from __future__ import annotations

import json
from dataclasses import dataclass, replace
from typing import Any

from nebrel.core.data import Above, HeightScale, Picture


@dataclass(frozen=True)
class HeightsScale:
    """What a file says of the heights it holds.

    Attributes
    ----------
    wide_mm, tall_mm : of the whole field
    white_mm : the height of white, in a file of whole numbers
    above : what the heights are measured from; older files do not say
    """

    wide_mm: float
    tall_mm: float
    white_mm: float | None = None
    above: Above | None = None


def read_scale(description: str) -> HeightsScale | None:
    """The scale that `encode_heights` wrote into a file, or None when there is none."""
    if not description.lstrip().startswith("{"):
        return None
    try:
        found: Any = json.loads(description)
        if found.get("unit") != "mm":
            return None
        wide, tall = float(found["wide_mm"]), float(found["tall_mm"])
        white = float(found["white_mm"]) if "white_mm" in found else None
        above = found.get("above")
    except (ValueError, KeyError, TypeError, AttributeError, RecursionError):
        return None
    if not all(0 < value < 1e5 for value in (wide, tall, 1.0 if white is None else white)):
        return None
    return HeightsScale(wide, tall, white, above if above in ("backing", "underside") else None)


def as_heights(picture: Picture, white_mm: float, scale: HeightsScale) -> Picture:
    """A picture whose tones are shares of a height, with their scale and a word about it."""
    kept = picture.pixels if picture.alpha is None else picture.pixels[picture.alpha > 0.5]
    lowest = float(kept.min()) * white_mm if kept.size else 0.0
    # Files that do not say: heights that reach down to nothing are those above a backing.
    above = scale.above or ("backing" if lowest < 0.05 else "underside")
    note = (
        f"The file holds heights in mm above the {above}, up to {white_mm:.4g} mm; they are "
        "kept as they are."
    )
    return replace(
        picture,
        heights=HeightScale(scale.wide_mm, white_mm, above),
        notes=(*picture.notes, note),
    )
