"""What a picture that just arrived is like, and what it may be set up for."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np

from nebrel.core.choices import StartName
from nebrel.core.data import Floats, Mask
from nebrel.core.picture.flat_tones import otsu, recognise_tones
from nebrel.core.recipe.build_up import DrawingEntry
from nebrel.core.recipe.models import Recipe

_FEW_INK = 0.14  # of the picture: less is lines, not areas
_MUCH_INK = 0.35
_LIKE, _FLATLY = 0.04, 0.45  # so near to a flat tone is so much of what has them
_COLOURED = 0.06  # mean difference of the channels
_EVEN, _MOSTLY = 0.05, 0.97  # a plain ground: so alike is so much of the border
_APART, _MOST_SUBJECT = 0.08, 0.85  # what differs from it so is not ground; it leaves some free
_TOLD, _LEAST_SUBJECT = 0.15, 0.003  # and some of it differs so
_GRAIN_PX = 400  # along the longer side
_TURNS, _MOST_GRAIN = 0.06, 0.1
_MOST_FLAT = 8
_LOOKED_PX = 600_000

DARK = 0.35
"""Tone of a ground that heights stand on, as nothing."""


@dataclass(frozen=True)
class Seen:
    """What of a picture a start depends on.

    Attributes
    ----------
    of : what of it is the shape
    tones : flat ones that it consists of; none where its tones run into each other
    ink : share of the picture that the shape takes
    coloured : it has colours
    ground : tone of the plain ground that something stands on, 1 where that is cut away already;
        None where it has no such ground
    grain : share of it where the tone turns from pixel to pixel, as it does in photographs
    """

    of: Literal["dark", "light", "kept"]
    tones: tuple[float, ...]
    ink: float
    coloured: bool
    ground: float | None = None
    grain: float = 0.0


def look_at(tone: Floats, alpha: Floats | None, colours: Floats | None) -> Seen:
    """What a corrected picture is like.

    Parameters
    ----------
    tone, alpha : (rows, cols), 0 to 1
    colours : (rows, cols, 3), where it has some
    """
    step = max(1, int((tone.size / _LOOKED_PX) ** 0.5))
    cut = alpha is not None and float(alpha.min()) < 0.5 <= float(alpha.max())
    of: Literal["dark", "light", "kept"] = "kept"
    ground: float | None = 1.0
    if cut and alpha is not None:
        inside = alpha >= 0.5
        apart = inside[::step, ::step]
    else:
        seen = (tone[..., None] if colours is None else colours)[::step, ::step]
        border = np.concatenate([seen[0], seen[-1], seen[:, 0], seen[:, -1]])
        plain = np.median(border, axis=0)
        even = (np.abs(border - plain).max(axis=1) <= _EVEN).mean() >= _MOSTLY
        edge = np.concatenate([tone[0], tone[-1], tone[:, 0], tone[:, -1]])
        level, of_ground = otsu(tone), float(np.median(edge))
        of = "dark" if of_ground >= level else "light"
        inside = tone < level if of == "dark" else tone >= level
        apart = np.abs(seen - plain).max(axis=2) > _APART
        # What is hardly seen on it is no subject.
        told = float((np.abs(seen - plain).max(axis=2) > _TOLD).mean())
        alone = told > _LEAST_SUBJECT and float(apart.mean()) < _MOST_SUBJECT
        ground = of_ground if even and alone else None
    spread = 0.0
    if colours is not None:
        own = colours[::step, ::step][apart]
        spread = float((own.max(axis=1) - own.min(axis=1)).mean()) if len(own) else 0.0
    tones = recognise_tones(tone)
    if tones and not cut:
        # Of a shaded subject only its ground is flat.
        own = tone[::step, ::step][apart]
        away = np.abs(own[:, None] - np.array(tones, np.float32)).min(axis=1)
        tones = tones if not len(away) or (away < _LIKE).mean() > _FLATLY else []
    return Seen(
        of=of,
        tones=tuple(tones),
        ink=float(inside.mean()),
        coloured=spread > _COLOURED,
        ground=ground,
        grain=_grain(tone, inside if cut else np.ones(tone.shape, bool)),
    )


def _grain(tone: Floats, where: Mask) -> float:
    """Share of the pixels where the tone turns, at a size where detail of a photograph shows."""
    share = min(1.0, _GRAIN_PX / max(tone.shape))
    cols, rows = (max(1, round(side * share)) for side in tone.shape[::-1])
    small = cv2.resize(tone, (cols, rows), interpolation=cv2.INTER_AREA)
    inside = cv2.resize(
        where.astype(np.uint8), small.shape[::-1], interpolation=cv2.INTER_NEAREST
    ).astype(bool)
    inside = cv2.erode(inside.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
    turns = np.abs(cv2.Laplacian(small, cv2.CV_32F)) > _TURNS
    return float(turns[inside].mean()) if inside.any() else 0.0


Suggested = tuple[StartName, str]
"""A start, and why it suits."""


DRAWN: tuple[Suggested, ...] = (
    ("cut-out", "it is a drawing, whose outlines are exact"),
    ("cutter", "its outline can cut dough or clay"),
)
"""What suits a drawing."""


def ranked(seen: Seen) -> tuple[Suggested, Suggested]:
    """The two starts that suit a picture best, and why."""
    count = len(seen.tones)
    relief: Suggested = "relief", "its tones run smoothly into each other, as heights do"
    seems = "coloured" if seen.coloured else "a photograph"
    lit: Suggested = (
        "light panel",
        f"it is {seems}, so its tones are light and shade, not heights",
    )
    on = "cut out of its ground" if seen.of == "kept" else "on a plain ground"
    figure: Suggested = "figure", f"it is one subject {on}"
    outline: Suggested = "cut-out", "it has two flat tones, so its outline can be traced exactly"
    if count == 2 and not seen.coloured and seen.ink < _FEW_INK:
        return ("stamp", "it is line art: thin lines on a plain ground"), outline
    if count == 2:
        if seen.ink < _MUCH_INK:
            return outline, ("stamp", "it may be line art")
        return outline, ("cutter", "its outline can cut dough or clay")
    if 2 < count <= _MOST_FLAT:
        flat: Suggested = (
            "flat tones",
            f"it has {count} flat tones, and each can have a height of its own",
        )
        if seen.coloured and seen.ground is not None:
            return figure, flat
        traced: Suggested = "cut-out", "its outline on the plain ground can be traced"
        return flat, lit if seen.coloured else traced if seen.ground is not None else relief
    if seen.coloured:
        return (figure, lit) if seen.ground is not None and seen.ground > DARK else (lit, figure)
    if seen.ground is not None and seen.ground > DARK:
        return figure, relief
    return (relief, lit) if seen.grain < _MOST_GRAIN else (lit, relief)


def drawn_in(recipe: Recipe) -> DrawingEntry | None:
    """The drawing in a build-up, where there is one."""
    entries = recipe.relief.art.build_up
    return next((entry for entry in entries if isinstance(entry, DrawingEntry)), None)
