"""What is asked of a figure and the picture that it is of."""

from __future__ import annotations

from io import BytesIO
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from nebrel.core.data import Floats
from nebrel.core.errors import InvalidValue, NotFound
from nebrel.core.figure.seen import Seen, front_view, plate_row
from nebrel.core.links.figure import hidden_mm
from nebrel.core.links.runner import Progress
from nebrel.core.mesh.place import turned as turned_by
from nebrel.core.mesh.render import render
from nebrel.core.recipe.figure import FigureBegin
from nebrel.core.recipe.models import Recipe
from nebrel.work.tasks import Worker

_MARGIN = 0.05  # of the subject's longer side, around it
_MORE, _LESS = (201, 146, 42), (150, 36, 60)  # of the figure alone, and of the picture alone
_LOOK_PX = 240
_STONE = (216, 204, 187)
_LIT = 0.35  # that is left of what light does not fall on
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
        last = plate_row(len(subject.cover), mm_per_px, z, hidden_mm(begins))
        cover = subject.cover.copy()
        cover[last:] = 0
        own = difference(view.above(last), cover)
    else:
        colours = view.colours if made.mesh.colours is not None else _shaded(view, mm_per_px)
        own = np.dstack([colours, np.where(view.inside, 255, 0).astype(np.uint8)])
    work = worker.evaluator.correct(recipe, "full").work
    left, top = subject.low
    rows, cols = own.shape[:2]
    whole = np.zeros((work.rows + 4, work.cols + 4, 4), np.uint8)
    whole[top + 2 : top + 2 + rows, left + 2 : left + 2 + cols] = own
    whole = whole[2:-2, 2:-2]
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


def difference(view: Seen, cover: Floats) -> Pixels:
    """(rows, cols, 4) ochre where the figure alone is, madder where the subject alone is."""
    own = cover >= 0.5
    found = np.zeros((*cover.shape, 4), np.uint8)
    found[view.inside & ~own] = (*_MORE, 255)
    found[own & ~view.inside] = (*_LESS, 255)
    return found


def _shaded(view: Seen, mm_per_px: float) -> Pixels:
    near = np.where(view.inside, view.near, 0)
    down, right = np.gradient(near / mm_per_px)
    normal = np.dstack([right, down, np.ones_like(near)])
    normal /= np.linalg.norm(normal, axis=2, keepdims=True)
    light = np.clip(normal @ (np.array([-0.4, -0.5, 0.77])), 0, 1)
    found = np.array(_STONE) * (_LIT + (1 - _LIT) * light)[..., None]
    return np.round(np.clip(found, 0, 255)).astype(np.uint8)


def _figure(recipe: Recipe) -> FigureBegin:
    if recipe.figure is None:
        raise NotFound("figure", "this piece does not begin as one", "Begin a figure")
    return recipe.figure


def _png(pixels: Pixels) -> bytes:
    out = BytesIO()
    Image.fromarray(pixels, "RGBA").save(out, "PNG", compress_level=1)
    return out.getvalue()
