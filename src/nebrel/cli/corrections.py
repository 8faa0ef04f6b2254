"""Corrections as they are typed on the command line, turned into steps of a recipe."""

from __future__ import annotations

import argparse
from collections.abc import Callable
from typing import Any

from nebrel.core.errors import NebrelError
from nebrel.core.lengths import parse_length

Step = dict[str, Any]


def _named(words: str) -> Callable[[Callable[[str], Step]], Callable[[str], Step]]:
    """Any trouble with a typed correction becomes one sentence on what was expected."""

    def wrap(parse: Callable[[str], Step]) -> Callable[[str], Step]:
        def parsed(text: str) -> Step:
            try:
                return parse(text)
            except (ValueError, NebrelError) as error:
                raise argparse.ArgumentTypeError(f"“{text[:60]}” is not {words}") from error

        return parsed

    return wrap


def _tone(text: str) -> float:
    value = float(text.strip().removesuffix("%")) / (100 if text.strip().endswith("%") else 1)
    if 1 < value <= 255:
        value /= 255  # typed as people know it from 8-bit pictures
    if not 0 <= value <= 1:
        raise ValueError(text)
    return value


@_named("a box X,Y,W,H in pixels")
def crop(text: str) -> Step:
    """`X,Y,W,H` in pixels."""
    x, y, wide, tall = (_within(float(part), -1e6, 1e6) for part in text.split(","))
    if wide <= 0 or tall <= 0:
        raise ValueError(text)
    return {"kind": "crop", "box": {"x": x, "y": y, "wide": wide, "tall": tall}}


@_named("a box X,Y,W,H in pixels")
def box(text: str) -> Step:
    """`X,Y,W,H` in pixels, around what is isolated."""
    return {"box": crop(text)["box"]}


def stroke(which: str) -> Callable[[str], Step]:
    """`X1,Y1,X2,Y2,…,WIDTH` in pixels: a line to keep or to drop, as `which` says."""

    @_named("a stroke X1,Y1,X2,Y2,…,WIDTH in pixels")
    def parse(text: str) -> Step:
        *places, wide = (_within(float(part), -1e6, 1e6) for part in text.split(","))
        if len(places) < 2 or len(places) % 2 or not 0 < wide <= 1e5:
            raise ValueError(text)
        points = [list(pair) for pair in zip(places[::2], places[1::2], strict=True)]
        return {which: {"points": points, "wide": wide}}

    return parse


@_named("a factor from 1 to 16")
def enlarge(text: str) -> Step:
    """A factor."""
    return {"kind": "enlarge", "factor": _within(float(text), 1, 16), "method": "photograph"}


@_named("auto, nor B,W or B,W,GAMMA with the black point below the white point")
def levels(text: str) -> Step:
    """`auto`, or black point, white point and gamma."""
    if text == "auto":
        return {"kind": "levels", "auto": True}
    black, white, *rest = text.split(",")
    middle = float(rest[0]) if rest else 1.0
    step = {"kind": "levels", "black": _tone(black), "white": _tone(white), "middle": middle}
    if len(rest) > 1 or not 0.1 <= middle <= 10 or step["white"] <= step["black"]:  # type: ignore[operator]
        raise ValueError(text)
    return step


@_named("otsu, local or a tone")
def threshold(text: str) -> Step:
    """`otsu`, `local` or a tone."""
    if text in ("otsu", "local"):
        return {"kind": "threshold", "method": text}
    return {"kind": "threshold", "method": "manual", "level": _tone(text)}


@_named("a number of tones from 2 to 32")
def steps(text: str) -> Step:
    """A number of tones."""
    count = int(text)
    if not 2 <= count <= 32:
        raise ValueError(text)
    return {"kind": "tone_steps", "count": count}


@_named("a radius of 0 to 500 mm")
def smooth(text: str) -> Step:
    """A radius."""
    return {"kind": "smooth", "radius": _within(parse_length(text), 0, 500)}


@_named("an area in mm²")
def despeckle(text: str) -> Step:
    """An area in mm²."""
    return {"kind": "despeckle", "area": _within(float(text), 0, 1e6)}


@_named("a width of 0.1 to 5000 mm")
def wide(text: str) -> Step:
    """A width."""
    return {"kind": "true_size", "measure": "wide", "length": _within(parse_length(text), 0.1, 5e3)}


@_named("luminance, red, green, blue, alpha or lightness")
def read(text: str) -> Step:
    """A channel."""
    if text not in ("luminance", "red", "green", "blue", "alpha", "lightness"):
        raise ValueError(text)
    return {"kind": "read_from", "channel": text}


@_named("a tolerance from 0 to 1")
def drop_background(text: str) -> Step:
    """A tolerance."""
    return {"kind": "isolate", "method": "colour", "tolerance": _tone(text)}


@_named("a length and a tone, MM,TONE")
def extend(text: str) -> Step:
    """`MM,TONE`."""
    length, tone = text.rsplit(",", 1)
    side = _within(parse_length(length), 0, 1000)
    sides = dict.fromkeys(("left", "right", "top", "bottom"), side)
    return {"kind": "extend", **sides, "tone": _tone(tone)}


def pins(text: str) -> list[Step]:
    """`0.0=2,0.5=1,1.0=cut`: tones and their heights."""
    found = []
    for part in text.split(","):
        tone, separator, height = part.partition("=")
        try:
            if not separator:
                raise ValueError(part)
            mm = None if height.strip().lower() == "cut" else parse_length(height)
            if mm is not None and not 0 <= mm <= 500:
                raise ValueError(part)
            found.append({"tone": _tone(tone), "mm": mm})
        except (ValueError, NebrelError) as error:
            raise argparse.ArgumentTypeError(
                f"“{part.strip()[:40]}” is not a tone and its height, as in 0.5=1 or 1.0=cut"
            ) from error
    return found


def _within(value: float, low: float, high: float) -> float:
    if not low <= value <= high:
        raise ValueError(value)
    return value
