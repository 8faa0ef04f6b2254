"""What is asked of a figure and the picture that it is of."""

from __future__ import annotations

from io import BytesIO
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from nebrel.core.errors import InvalidValue, NotFound
from nebrel.core.figure.seen import difference, front_view, plate_row, shaded
from nebrel.core.figure.stand import hidden_mm
from nebrel.core.figure.subject import on_its_picture
from nebrel.core.links.runner import Progress
from nebrel.core.mesh.place import turned as turned_by
from nebrel.core.mesh.render import render
from nebrel.core.recipe.figure import FigureBegin
from nebrel.core.recipe.models import Recipe
from nebrel.work.worker import Worker

_MARGIN = 0.05  # of the subject's longer side, around it
_LOOK_PX = 240
Pixels = NDArray[np.uint8]


def subject_picture(worker: Worker, tell: Progress, *, recipe: Recipe) -> bytes:
    """The subject of a figure cut out of its picture, as a PNG in its colours."""
    found = worker.evaluator.subject(_figure(recipe), tell)
    layers = np.dstack([found.pixels, found.cover])
    room = max(2, round(_MARGIN * max(found.cover.shape)))
    whole = np.pad(layers, ((room, room), (room, room), (0, 0)))
    return _png(np.round(255 * np.clip(whole, 0, 1)).astype(np.uint8))


def seen(
    worker: Worker,
    tell: Progress,
    *,
    recipe: Recipe,
    part: Literal["figure", "difference"],
    longest: int,
) -> bytes:
    """The figure as its picture sees it, to be laid over that; or where their outlines differ."""
    begins = _figure(recipe)
    subject = worker.evaluator.subject(begins)
    made = worker.evaluator.begun(recipe, tell)
    if made.figure is None or made.figure.place is None:
        raise InvalidValue(
            "axis", "what leant in the picture stands upright now", "Let it lean by 0 degrees"
        )
    mm_per_px, x, z = made.figure.place
    view = front_view(made.mesh, subject.cover.shape, mm_per_px, (x, z))
    if part == "difference":
        hidden = hidden_mm(begins.tall.mm, begins.base.mm, begins.feet.mm)
        last = plate_row(len(subject.cover), mm_per_px, z, hidden)
        cover = subject.cover.copy()
        cover[last:] = 0
        own = difference(view.above(last), cover)
    else:
        colours = view.colours if made.mesh.colours is not None else shaded(view, mm_per_px)
        own = np.dstack([colours, np.where(view.inside, 255, 0).astype(np.uint8)])
    work = worker.evaluator.correct(recipe, "full").work
    whole = on_its_picture(subject, own, (work.rows, work.cols))
    smaller = min(1.0, longest / max(work.rows, work.cols))
    if smaller < 1:
        size = round(work.cols * smaller), round(work.rows * smaller)
        whole = np.asarray(cv2.resize(whole, size, interpolation=cv2.INTER_AREA), np.uint8)
    return _png(whole)


def look(worker: Worker, tell: Progress, *, recipe: Recipe, turned: float) -> bytes:
    """A small picture of how it would come out, as a draft."""
    found = worker.evaluator.evaluate(recipe, "draft", tell)
    size = _LOOK_PX, _LOOK_PX
    return render(turned_by(found.mesh, (0.0, 0.0, turned)), *size, standing=True)


def _figure(recipe: Recipe) -> FigureBegin:
    if recipe.figure is None:
        raise NotFound("figure", "this piece does not begin as one", "Begin a figure")
    return recipe.figure


def _png(pixels: Pixels) -> bytes:
    out = BytesIO()
    Image.fromarray(pixels, "RGBA").save(out, "PNG", compress_level=1)
    return out.getvalue()
