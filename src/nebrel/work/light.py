"""What is asked of light: the lit piece, its reach, wedges and calibration."""

from __future__ import annotations

from typing import Any, Literal

import cv2
import numpy as np

from nebrel.core.data import Picture
from nebrel.core.formats.stl import encode_stl
from nebrel.core.links.finishing import stands
from nebrel.core.links.runner import Progress
from nebrel.core.picture.decode import decode
from nebrel.core.picture.resample import display_bytes
from nebrel.core.picture.tone import read_tone
from nebrel.core.proof.calibrate import calibrate
from nebrel.core.proof.light import to_tone
from nebrel.core.proof.wedge import Camera, Wedge, make_wedge, photograph
from nebrel.core.questions.advise import advise
from nebrel.core.questions.shine import lamp_of, reach, shine
from nebrel.core.recipe.models import Recipe
from nebrel.work.worker import Worker

_GROUND = (244, 240, 232)
_LESS = (154, 43, 69)  # madder: too little comes through
_MORE = (181, 122, 18)  # ochre: too much


def light_view(
    worker: Worker,
    tell: Progress,
    *,
    recipe: Recipe,
    part: Literal["lit", "difference"],
    longest: int,
) -> bytes:
    """The piece before its lamp, in the frame of the picture, or how far that is from it: PNG."""
    relief = worker.evaluator.relief(recipe, tell)
    wanted = worker.evaluator.correct(recipe, "full").work.tone
    shone = shine(lamp_of(recipe), relief, wanted)
    if part == "lit":
        return display_bytes(Picture(to_tone(shone.light)), longest)
    strength = np.clip(np.abs(shone.difference) * 4, 0, 1)[..., None]
    less, more, ground = (np.array(colour) / 255 for colour in (_LESS, _MORE, _GROUND))
    ink = np.where(shone.difference[..., None] < 0, less, more)
    shown = ground * (1 - strength) + ink * strength
    return display_bytes(Picture(shown.astype(np.float32)), longest)


def light(worker: Worker, tell: Progress, *, recipe: Recipe) -> dict[str, Any]:
    """What of the picture's light the material carries, and what printing makes of it."""
    relief = worker.evaluator.relief(recipe, tell)
    art, tone = recipe.relief.art, worker.evaluator.correct(recipe, "full").work.tone
    found = reach(lamp_of(recipe), art.depth_mm, relief, tone)
    advice = advise(recipe.made_with.printer, stands(recipe), art.backing.mm, relief.top_mm)
    return {**found.__dict__, "advice": advice}


def wedge(_: Worker, __: Progress, *, steps: int, thickest: float, material: str) -> bytes:
    """A step wedge to print, as STL."""
    return encode_stl(make_wedge(Wedge(steps, thickest, material)))


def practice_photograph(
    _: Worker, __: Progress, *, steps: int, thickest: float, attenuation: float, tilt: float
) -> tuple[bytes, list[float]]:
    """A simulated photograph of a wedge against a lamp, as PNG, and its corners by rows."""
    camera = Camera(tilt_deg=(tilt, 6.0), vignetting=0.25, noise=0.01, exposure=0.92)
    picture, corners = photograph(Wedge(steps, thickest), attenuation, camera)
    return cv2.imencode(".png", picture)[1].tobytes(), corners.ravel().tolist()


def calibration(
    _: Worker,
    __: Progress,
    *,
    data: bytes,
    filename: str,
    corners: list[float],
    steps: int,
    thickest: float,
) -> dict[str, Any]:
    """The attenuation that a photograph of a wedge shows; `corners` are x, y of four places."""
    tone = read_tone(decode(data, filename))
    return calibrate(tone, np.array(corners).reshape(4, 2), Wedge(steps, thickest)).as_dict()
