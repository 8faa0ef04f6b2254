"""Link of where a piece lies on its picture."""

from __future__ import annotations

from typing import NoReturn

import numpy as np

from nebrel.core.data import Floats, Picture
from nebrel.core.errors import InvalidValue
from nebrel.core.forms.maps import FormMap
from nebrel.core.forms.on_picture import OnPicture
from nebrel.core.heights.relief import Relief
from nebrel.core.links import picture
from nebrel.core.links.lay_map import lay_map
from nebrel.core.links.link import Link
from nebrel.core.links.picture import Corrected
from nebrel.core.links.relief import Quality, heights
from nebrel.core.links.shape import Shape
from nebrel.core.recipe.models import Recipe, ReliefBegin


def on_picture(recipe: Recipe, quality: Quality, begun: Link[Shape]) -> Link[OnPicture]:
    """Where a piece lies on its picture; refused where it has none.

    Parameters
    ----------
    begun : the mesh before any finish step
    """
    begins = recipe.begins
    step = begins.art.picture if isinstance(begins, ReliefBegin) else None
    if step is None:
        return Link(_no_picture, (), "finding its picture", 0.01)
    turned = heights(recipe, quality).turned
    bent: Link[FormMap | None] = Link(
        lay_map, (recipe.relief.form, turned), "laying it on its form", 0.05
    )
    shown = picture.corrected(step, quality.longest_px)
    mirrored = recipe.relief.art.mirror
    given = shown, picture.original(step), turned, bent, begun, mirrored
    return Link(_on_picture, given, "finding it on its picture", 0.1)


def moved() -> Link[OnPicture]:
    """Refused: it no longer lies where its form laid it."""
    return Link(_moved, (), "finding it on its picture", 0.01)


def _no_picture() -> NoReturn:
    raise InvalidValue("picture", "the piece has none", "Choose another way")


def _moved() -> NoReturn:
    raise InvalidValue(
        "picture",
        "it was moved before, and no longer lies on its picture",
        "Put this step before those that scale, turn or split it",
    )


def _on_picture(
    shown: Corrected,
    original: Picture,
    relief: Relief,
    bent: FormMap | None,
    begun: Shape,
    mirrored: bool,
) -> OnPicture:
    return OnPicture(
        coloured(shown, original),
        shown.work.tone,
        bent,
        begun.built.lift_mm,
        relief.field,
        mirrored,
        relief.room_mm,
    )


def coloured(shown: Corrected, original: Picture) -> Floats:
    """The corrected picture; where it was made gray, in the colours that it was brought in."""
    work = shown.work
    if work.pixels.ndim == 3:
        return work.pixels
    if original.pixels.ndim == 2:
        return np.repeat(work.pixels[..., None], 3, axis=2)
    import cv2

    # As displayed; where the frame reaches beyond it, as at its edge.
    return np.asarray(
        cv2.warpPerspective(
            original.pixels,
            work.place,
            (work.cols, work.rows),
            flags=cv2.INTER_AREA if work.zoom < 1 else cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_REPLICATE,
        )
    )
