"""A piece of a recipe before a lamp."""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np

from nebrel.core.data import Floats, Mask
from nebrel.core.heights.relief import Relief
from nebrel.core.proof.light import (
    Printed,
    as_printed,
    darkest_tone,
    exact_tone,
    lit,
    to_linear,
    to_tone,
)
from nebrel.core.recipe.models import Recipe


@dataclass(frozen=True)
class Shone:
    """Light through a piece beside the light that its picture wants.

    Attributes
    ----------
    light, wanted : (rows, cols) float32, linear, 1 is the lamp through the thinnest spot
    shows : where the piece shows the picture: not cut through, and nothing laid over it
    """

    light: Floats
    wanted: Floats
    shows: Mask

    @property
    def difference(self) -> Floats:
        """How far the tones as displayed are apart, -1 to 1."""
        found: Floats = to_tone(self.light) - to_tone(self.wanted)
        return found

    def error(self) -> float:
        """RMS of the difference in linear light, share of full scale."""
        kept = (self.light[self.shows] - self.wanted[self.shows]) ** 2
        return float(np.sqrt(kept.mean())) if kept.size else 0.0


@dataclass(frozen=True)
class Lamp:
    """What stands behind a piece, and what the light goes through.

    Attributes
    ----------
    bright : 1 shows the thinnest as white
    backing_mm : the least thickness; 0 where there is none
    line_mm, layer_mm : of the printer, whose steps it shows where it is `printed`
    mirror : the heights were turned left for right
    """

    bright: float
    attenuation_per_mm: float
    backing_mm: float
    printed: Printed
    line_mm: float
    layer_mm: float
    mirror: bool = False


def lamp_of(recipe: Recipe) -> Lamp:
    """What a recipe says of it."""
    art, light, made_with = recipe.relief.art, recipe.proof.light, recipe.made_with
    return Lamp(
        light.lamp,
        made_with.material.attenuation_per_mm,
        art.backing.mm,
        light.printed,
        made_with.printer.line_mm,
        made_with.printer.layer_mm,
        art.mirror,
    )


def shine(lamp: Lamp, relief: Relief, wanted_tone: Floats) -> Shone:
    """What is seen with a lamp behind it.

    Parameters
    ----------
    relief : at any resolution
    wanted_tone : the corrected picture; brought to the size of the relief
    """
    field, there = relief.joined()
    rows, cols = relief.picture_px
    mm, shown = field.mm[rows, cols], wanted_tone
    shows = np.abs(mm - relief.field.mm[rows, cols]) < 1e-4
    there = None if there is None else there[rows, cols]
    if there is not None:
        shows &= there
    if lamp.mirror:
        mm, shows = mm[:, ::-1], shows[:, ::-1]
        there = None if there is None else there[:, ::-1]
    if shown.shape != mm.shape:
        shown = cv2.resize(shown, mm.shape[::-1], interpolation=cv2.INTER_AREA)
    thickness = as_printed(mm, lamp.printed, lamp.line_mm, lamp.layer_mm)
    thinnest = thinnest_mm(lamp.backing_mm, mm, there)
    light = lit(thickness, there, lamp.attenuation_per_mm, thinnest, lamp.bright)
    return Shone(light, to_linear(shown), shows)


def thinnest_mm(backing_mm: float, mm: Floats, there: Mask | None) -> float:
    """The thickness that shows white: the backing, or what is thinnest without one."""
    if backing_mm > 0:
        return backing_mm
    kept = mm if there is None else mm[there]
    return float(kept.min()) if kept.size else 0.1


@dataclass(frozen=True)
class LightReach:
    """What part of the picture's tones a material can carry between its bounds.

    Attributes
    ----------
    darkest_tone, exact_tone : the darkest that can be shown, and down to which light is exact
    carried : share of the picture's pixels whose light is exact
    error : of the picture as it would be lit: ideal, printed lying, printed standing; RMS of
        linear light, share of full scale
    steps : how many different thicknesses lying and standing leave between the bounds
    """

    darkest_tone: float
    exact_tone: float
    carried: float
    error: dict[Printed, float]
    steps: dict[Printed, int]


def reach(lamp: Lamp, depth_mm: float, relief: Relief, wanted_tone: Floats) -> LightReach:
    """How well the light comes through, and what lying and standing would make of it."""
    thin, thick = lamp.backing_mm, lamp.backing_mm + depth_mm
    attenuation = lamp.attenuation_per_mm
    exact = exact_tone(thin, thick, attenuation)
    ways: tuple[Printed, ...] = ("ideal", "lying", "standing")
    error = {way: shine(replace(lamp, printed=way), relief, wanted_tone).error() for way in ways}
    return LightReach(
        darkest_tone(thin, thick, attenuation),
        exact,
        float((wanted_tone >= exact).mean()),
        error,
        {
            "lying": int(thick / lamp.layer_mm + 0.5) - int(thin / lamp.layer_mm + 0.5) + 1,
            "standing": max(1, int(thick / lamp.line_mm + 0.5))
            - max(1, int(thin / lamp.line_mm + 0.5))
            + 1,
        },
    )
