"""Light through a sheet: how thick it must be for a tone, and what tone a thickness shows."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Mask

Printed = Literal["ideal", "lying", "standing"]

_KNEE = 0.8  # of the range in stops that is carried exactly; the rest rolls off
_FINE = 4096


def to_linear(tone: Floats) -> Floats:
    """Light of tones as displayed, 0 to 1. Source: IEC 61966-2-1, the sRGB transfer function."""
    tone = np.asarray(tone, np.float32)
    low = tone / np.float32(12.92)
    return np.where(tone <= 0.04045, low, ((tone + 0.055) / 1.055) ** np.float32(2.4)).astype(
        np.float32
    )


def to_tone(light: Floats) -> Floats:
    """Tones as displayed of light, 0 to 1; the inverse of `to_linear`."""
    light = np.clip(np.asarray(light, np.float32), 0, 1)
    low = light * np.float32(12.92)
    return np.where(light <= 0.0031308, low, 1.055 * light ** np.float32(1 / 2.4) - 0.055).astype(
        np.float32
    )


def transmit(thickness_mm: Floats, attenuation_per_mm: float) -> Floats:
    """Fraction of light that passes a sheet of the given thickness.

    Parameters
    ----------
    thickness_mm : (rows, cols) float, mm, >= 0
    attenuation_per_mm : > 0, the material's Beer-Lambert coefficient

    Returns
    -------
    (rows, cols) float in (0, 1]

    Raises
    ------
    ValueError : attenuation is not positive

    Source: Beer-Lambert law, I = I0 * exp(-mu * d).
    """
    if attenuation_per_mm <= 0:
        raise ValueError("the attenuation must be positive")
    return np.exp(np.asarray(thickness_mm, np.float32) * np.float32(-attenuation_per_mm))


def thickness_for(
    tone: Floats, thinnest_mm: float, thickest_mm: float, attenuation_per_mm: float
) -> Floats:
    """Thickness whose light, against that of the thinnest, is that of the tone.

    Parameters
    ----------
    tone : (rows, cols) float32 as displayed, 0 to 1
    thinnest_mm, thickest_mm : the bounds; white is the thinnest, black the thickest

    Returns
    -------
    (rows, cols) float32, mm. Light is exact down to the knee; what is darker than the material
    can show between the bounds rolls off gently, so that no two tones become one.
    """
    # A table: a logarithm and a power for every pixel would take longer than all else.
    tones = np.linspace(0, 1, _FINE)
    stops = -np.log(np.maximum(to_linear(tones.astype(np.float32)).astype(np.float64), 1e-12))
    depth = attenuation_per_mm * (thickest_mm - thinnest_mm)
    knee = _KNEE * depth
    rest = depth - knee
    rolled = depth - rest * np.exp(-(np.maximum(stops, knee) - knee) / rest)
    carried = np.where(stops <= knee, stops, rolled)
    carried[0] = depth
    table = (thinnest_mm + carried / attenuation_per_mm).astype(np.float32)
    index = np.clip(tone, 0, 1) * np.float32(_FINE - 1)
    below = index.astype(np.int32)
    share = index - below
    after = np.minimum(below + 1, _FINE - 1)
    return (table[below] * (1 - share) + table[after] * share).astype(np.float32)


def darkest_tone(thinnest_mm: float, thickest_mm: float, attenuation_per_mm: float) -> float:
    """The darkest tone as displayed that the bounds can show beside white."""
    light = math.exp(-attenuation_per_mm * (thickest_mm - thinnest_mm))
    return float(to_tone(np.array([light], np.float32))[0])


def exact_tone(thinnest_mm: float, thickest_mm: float, attenuation_per_mm: float) -> float:
    """The darkest tone whose light is exact; darker ones roll off."""
    light = math.exp(-_KNEE * attenuation_per_mm * (thickest_mm - thinnest_mm))
    return float(to_tone(np.array([light], np.float32))[0])


def as_printed(
    thickness_mm: Floats, printed: Printed, line_mm: float, layer_mm: float
) -> NDArray[np.float32]:
    """Thickness as a printer lays it down.

    Parameters
    ----------
    printed : lying, thickness grows in whole layers; standing, in whole nozzle lines across;
        one at least; ideal, as computed
    """
    if printed == "ideal":
        return thickness_mm
    step = layer_mm if printed == "lying" else line_mm
    whole = np.round(thickness_mm / np.float32(step))
    laid = np.maximum(whole, 1) * np.float32(step)
    return np.where(thickness_mm > 0, laid, 0).astype(np.float32)


def lit(
    thickness_mm: Floats,
    there: Mask | None,
    attenuation_per_mm: float,
    thinnest_mm: float,
    lamp: float = 1.0,
) -> Floats:
    """Light of a panel before a lamp, 0 to 1; what is cut through shows the lamp itself.

    Parameters
    ----------
    thinnest_mm : the thickness that a lamp of strength 1 shows as white
    lamp : strength, > 0
    """
    white = math.exp(-attenuation_per_mm * thinnest_mm)
    light = transmit(thickness_mm, attenuation_per_mm) * np.float32(lamp / white)
    if there is not None:
        light = np.where(there, light, np.float32(1))
    return np.clip(light, 0, 1).astype(np.float32)
