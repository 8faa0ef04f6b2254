"""The tone of a picture: brightness as displayed, one number a pixel."""

from __future__ import annotations

from nebrel.core.data import Floats, Picture
from nebrel.core.tone import tone_of


def read_tone(picture: Picture) -> Floats:
    """Brightness as displayed of every pixel.

    Returns
    -------
    (rows, cols) float32, 0 (black) to 1 (white). A gray picture is its own tone; a coloured
    one is weighed in linear light and brought back to displayed values, so that a gray
    and a colour of the same brightness stand equally high.
    """
    return tone_of(picture.pixels)
