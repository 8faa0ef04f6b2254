"""The corrections of a picture: typed steps, applied in order.

Places and strokes are in pixels of the picture that was brought in (x to the right, y down,
the first pixel's centre at 0), so they stay on what they mark when a crop or a turn before
them changes. A crop box is in pixels of the picture as it stands before the crop.
"""

from __future__ import annotations

from itertools import pairwise
from typing import Annotated, Any, Literal

from pydantic import Field, WrapValidator, model_validator

from nebrel.core.recipe.length import Length, between
from nebrel.core.recipe.step import Listed, Sha256, Step

MOST_POINTS = 20_000
MOST_STROKES = 2_000
MOST_CORRECTIONS = 200

Tone = Annotated[float, Field(ge=0, le=1, description="0 black to 1 white")]
Share = Annotated[float, Field(ge=0, le=1)]
Coordinate = Annotated[float, Field(ge=-1e6, le=1e6)]
Place = tuple[Coordinate, Coordinate]
Colour = tuple[Tone, Tone, Tone]
Radius = Annotated[Length, between(0, 500, "a radius")]
Margin = Annotated[Length, between(0, 1000, "a margin")]
Offset = Annotated[Length, between(-100, 100, "a change of the outline")]
Area = Annotated[float, Field(ge=0, le=1e6, description="mm²")]
_NONE = Length(mm=0.0)


class Box(Step):
    """A box in pixels: the first column and row, and how many of them."""

    x: Coordinate
    y: Coordinate
    wide: float = Field(gt=0, le=1e6)
    tall: float = Field(gt=0, le=1e6)


def _few_points(value: Any, handler: Any) -> Any:
    if isinstance(value, list | tuple) and len(value) > MOST_POINTS:
        raise ValueError(
            f"a stroke of {len(value)} points is too long to keep; "
            f"draw it in strokes of at most {MOST_POINTS} points"
        )
    return handler(value)


class Stroke(Step):
    """A brush stroke as a line through places, and its width in the same pixels."""

    points: Annotated[list[Place], WrapValidator(_few_points)] = Field(min_length=1)
    wide: float = Field(gt=0, le=1e5)


Strokes = Annotated[list[Stroke], Field(max_length=MOST_STROKES)]


# Frame


class Crop(Listed):
    """Keep a box, or what differs from the background."""

    kind: Literal["crop"] = "crop"
    by: Literal["box", "content"] = "box"
    box: Box | None = None
    ratio: float | None = Field(None, gt=0.01, le=100, description="width : height kept on screen")
    tolerance: Tone = Field(0.08, description="content: how far from the background")
    margin: Margin = _NONE

    @model_validator(mode="after")
    def _whole(self) -> Crop:
        if self.by == "box" and self.box is None:
            raise ValueError("a crop by box needs its box; draw one in the picture")
        return self


class Turn(Listed):
    """Quarter turns, and straightening by a few degrees; both to the left."""

    kind: Literal["turn"] = "turn"
    quarters: int = Field(0, ge=0, le=3)
    degrees: float = Field(0.0, ge=-45, le=45)
    corners: Literal["trim", "fill"] = "trim"
    tone: Tone = 1.0


class Mirror(Listed):
    """Left for right, or top for bottom."""

    kind: Literal["mirror"] = "mirror"
    axis: Literal["left-right", "top-bottom"] = "left-right"


class Resize(Listed):
    """Another number of pixels; the width in mm stays."""

    kind: Literal["resize"] = "resize"
    cols: int = Field(ge=2, le=30_000)
    rows: int | None = Field(None, ge=2, le=30_000, description="left out: the proportions stay")


class Enlarge(Listed):
    """More pixels for a small source; the size in mm stays."""

    kind: Literal["enlarge"] = "enlarge"
    factor: float = Field(2.0, ge=1, le=16)
    method: Literal["photograph", "lines"] = "photograph"


class Extend(Listed):
    """More canvas around the picture, in a tone of choice."""

    kind: Literal["extend"] = "extend"
    left: Margin = _NONE
    right: Margin = _NONE
    top: Margin = _NONE
    bottom: Margin = _NONE
    percent: float | None = Field(None, ge=0, le=200, description="of each side, all around")
    tone: Tone = 0.0


class TrueSize(Listed):
    """What a width, a height or the distance between two places really measures."""

    kind: Literal["true_size"] = "true_size"
    measure: Literal["wide", "tall", "between"] = "wide"
    length: Annotated[Length, between(0.1, 5000, "a length")]
    first: Place | None = None
    second: Place | None = None

    @model_validator(mode="after")
    def _whole(self) -> TrueSize:
        if self.measure == "between" and (
            self.first is None or self.second is None or self.first == self.second
        ):
            raise ValueError("two places are needed; mark two points in the picture")
        return self


# Tones


class Levels(Listed):
    """Black point, white point and mid-tone; found from the picture when automatic."""

    kind: Literal["levels"] = "levels"
    auto: bool = False
    black: Tone = 0.0
    white: Tone = 1.0
    middle: float = Field(1.0, ge=0.1, le=10, description="gamma: above 1 lightens the mid-tones")

    @model_validator(mode="after")
    def _ordered(self) -> Levels:
        if not self.auto and self.white - self.black < 0.002:
            raise ValueError(
                f"the white point {self.white:g} is not above the black point {self.black:g}; "
                f"the nearest that works is {min(1.0, self.black + 0.01):g}"
            )
        return self


class Curve(Listed):
    """Tones through a smooth curve that runs through the given points."""

    kind: Literal["curve"] = "curve"
    points: list[tuple[Tone, Tone]] = Field(
        [(0.0, 0.0), (0.5, 0.5), (1.0, 1.0)], min_length=2, max_length=16
    )

    @model_validator(mode="after")
    def _ordered(self) -> Curve:
        tones = [x for x, _ in self.points]
        if any(b - a < 0.001 for a, b in pairwise(tones)):
            raise ValueError("two points of the curve share a tone; move one aside")
        return self


class Invert(Listed):
    """Dark for light."""

    kind: Literal["invert"] = "invert"


class Contrast(Listed):
    """Tones away from, or towards, middle gray."""

    kind: Literal["contrast"] = "contrast"
    amount: float = Field(0.2, ge=-1, le=1)


class LocalContrast(Listed):
    """Details stand out more, large areas keep their tone."""

    kind: Literal["local_contrast"] = "local_contrast"
    amount: float = Field(0.5, ge=-1, le=4)
    radius: Radius = Length(mm=3.0)


class Exposure(Listed):
    """More or less light, for faded or dark prints."""

    kind: Literal["exposure"] = "exposure"
    stops: float = Field(0.5, ge=-6, le=6)


class EvenLight(Listed):
    """Take an uneven background out: shadows and falling light of a scan."""

    kind: Literal["even_light"] = "even_light"
    tone: Tone = Field(1.0, description="what the background becomes")


class ReadFrom(Listed):
    """Which part of the colour is the tone, and what transparent means."""

    kind: Literal["read_from"] = "read_from"
    channel: Literal["luminance", "red", "green", "blue", "alpha", "hue", "lightness"] = "luminance"
    colour: Colour = Field((1.0, 0.0, 0.0), description="hue: distance to this colour")
    transparent: Literal["cut", "tone"] = "cut"
    tone: Tone = Field(1.0, description="what transparent becomes, when a tone")


class ToneSteps(Listed):
    """A few flat tones with clean borders."""

    kind: Literal["tone_steps"] = "tone_steps"
    count: int = Field(4, ge=2, le=32)
    tones: list[Tone] = Field([], max_length=32, description="picked tones; empty: found")
    clean: bool = Field(True, description="no third tone along a soft border")


class Threshold(Listed):
    """Black and white only."""

    kind: Literal["threshold"] = "threshold"
    method: Literal["manual", "otsu", "local"] = "otsu"
    level: Tone = 0.5
    radius: Radius = Length(mm=4.0)
    offset: float = Field(0.04, ge=-0.5, le=0.5, description="local: darker by this is black")


# Cleaning


class Smooth(Listed):
    """Calm the picture within a radius."""

    kind: Literal["smooth"] = "smooth"
    method: Literal["gaussian", "median", "edge_keeping"] = "gaussian"
    radius: Radius = Length(mm=0.3)
    keep: Tone = Field(0.1, description="edge keeping: steps in tone above this stay")


class Despeckle(Listed):
    """Take out specks up to an area."""

    kind: Literal["despeckle"] = "despeckle"
    area: Area = 0.5
    specks: Literal["both", "dark", "light"] = "both"
    contrast: Tone = Field(0.1, description="how far from its surroundings a speck is")


class Thicken(Listed):
    """Make dark or light lines wider, or thinner with a negative length."""

    kind: Literal["thicken"] = "thicken"
    tones: Literal["dark", "light"] = "dark"
    by: Annotated[Length, between(-20, 20, "a change of width")] = Length(mm=0.2)
    at_least: Annotated[Length, between(0.01, 50, "a width")] | None = Field(
        None, description="instead of `by`: just enough for the thinnest line to measure this"
    )


# Parts


class Isolate(Listed):
    """Keep the subject; the rest becomes transparent or a tone."""

    kind: Literal["isolate"] = "isolate"
    method: Literal["colour", "strokes"] = "colour"
    places: list[Place] = Field(
        [], max_length=100, description="colour: background; empty: the edge of the picture"
    )
    tolerance: Tone = 0.1
    contiguous: bool = True
    box: Box | None = Field(None, description="strokes: around the subject, in brought-in pixels")
    keep: Strokes = []
    drop: Strokes = []
    soften: bool = Field(True, description="a soft edge without the background's colour")
    grow: Offset = _NONE
    feather: Radius = _NONE
    fill_holes: Area = 0.0
    drop_islands: Area = 0.0
    dropped: Literal["transparent", "tone"] = "transparent"
    tone: Tone = 1.0


class Remove(Listed):
    """Paint over something; it is filled from its surroundings or copied from elsewhere."""

    kind: Literal["remove"] = "remove"
    strokes: Strokes = []
    fill: Literal["surroundings", "copy"] = "surroundings"
    source: Place | None = Field(None, description="copy: the place that lands on the stroke start")
    feather: Radius = Length(mm=0.4)
    match_light: bool = True


class Fill(Listed):
    """Give an area of like tone another tone."""

    kind: Literal["fill"] = "fill"
    at: Place
    tolerance: Tone = 0.08
    contiguous: bool = True
    tone: Tone = 1.0


class Brush(Listed):
    """Paint a tone."""

    kind: Literal["brush"] = "brush"
    strokes: Strokes = []
    tone: Tone = 0.0
    hardness: Share = 0.8
    mirror_x: Coordinate | None = Field(None, description="strokes are repeated about this column")


class Overlay(Listed):
    """A second picture laid on top."""

    kind: Literal["overlay"] = "overlay"
    sha256: Sha256
    filename: str = Field("", max_length=255)
    centre: Place
    wide: float = Field(gt=0, le=1e6, description="its width in brought-in pixels")
    degrees: float = Field(0.0, ge=-360, le=360)
    mirrored: bool = False
    opacity: Share = 1.0
    blend: Literal["replace", "lighten", "darken", "multiply"] = "replace"
    mask: Literal["alpha", "dark", "light"] = Field(
        "alpha", description="which part of it shows: by its transparency or by its tone"
    )


class Tile(Listed):
    """Blend opposite edges so that the picture repeats without a seam."""

    kind: Literal["tile"] = "tile"
    overlap: float = Field(0.15, ge=0.01, le=0.45, description="share of each side that is blended")


Correction = Annotated[
    Crop
    | Turn
    | Mirror
    | Resize
    | Enlarge
    | Extend
    | TrueSize
    | Levels
    | Curve
    | Invert
    | Contrast
    | LocalContrast
    | Exposure
    | EvenLight
    | ReadFrom
    | ToneSteps
    | Threshold
    | Smooth
    | Despeckle
    | Thicken
    | Isolate
    | Remove
    | Fill
    | Brush
    | Overlay
    | Tile,
    Field(discriminator="kind"),
]
