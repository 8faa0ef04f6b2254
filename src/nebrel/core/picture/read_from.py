"""Which part of a coloured picture is its tone."""

from __future__ import annotations

from typing import Literal

import cv2
import numpy as np

from nebrel.core.data import Floats, Picture
from nebrel.core.picture.levels import look_up
from nebrel.core.picture.tone import read_tone
from nebrel.core.tone import to_linear

Channel = Literal["luminance", "red", "green", "blue", "alpha", "hue", "lightness"]


def read_from(
    pixels: Floats, alpha: Floats | None, channel: Channel, colour: tuple[float, float, float]
) -> Floats:
    """One channel of a picture as its tone.

    Parameters
    ----------
    pixels : (rows, cols) or (rows, cols, 3) float32
    alpha : (rows, cols) float32 or None; opaque everywhere then
    channel : `hue` is the distance to the hue of `colour`: 0 at that hue, 1 opposite to it
        and where there is no colour; `lightness` is L* of CIE Lab over 100

    Returns
    -------
    (rows, cols) float32, 0 to 1

    Source: CIE 15:2004 for L*.
    """
    if channel == "alpha":
        return np.ones(pixels.shape[:2], np.float32) if alpha is None else alpha
    if channel in ("luminance", "lightness"):
        tone = read_tone(Picture(pixels))
        if channel == "luminance":
            return tone
        return look_up(tone, _lightness_table())
    if pixels.ndim == 2:
        return np.ones_like(pixels) if channel == "hue" else pixels
    if channel == "hue":
        return _hue_distance(pixels, colour)
    return np.ascontiguousarray(pixels[..., ("red", "green", "blue").index(channel)])


def _lightness_table() -> Floats:
    light = to_linear(np.linspace(0, 1, 65_536, dtype=np.float32))
    above = np.float32(1.16) * np.cbrt(light) - np.float32(0.16)
    below = light * np.float32(243.89 / 27)
    return np.where(light > 216 / 24389, above, below).astype(np.float32)


def _hue_distance(pixels: Floats, colour: tuple[float, float, float]) -> Floats:
    hsv = cv2.cvtColor(pixels, cv2.COLOR_RGB2HSV)
    picked = cv2.cvtColor(np.array([[colour]], np.float32), cv2.COLOR_RGB2HSV)[0, 0]
    turn = np.abs(hsv[..., 0] - picked[0])
    distance = np.minimum(turn, 360 - turn) / np.float32(180)
    saturation = hsv[..., 1]
    # Below a tenth of full saturation a hue says nothing.
    said = np.clip(saturation * 10, 0, 1) if picked[1] > 0.02 else np.zeros_like(saturation)
    return (distance * said + (1 - said)).astype(np.float32)


def over_tone(pixels: Floats, alpha: Floats, tone: float) -> Floats:
    """A picture laid over one tone where it is transparent."""
    cover = alpha if pixels.ndim == 2 else alpha[..., None]
    return pixels * cover + np.float32(tone) * (1 - cover)
