"""What is asked of the corrected picture of a recipe."""

from __future__ import annotations

from typing import Any, Literal

import cv2
import numpy as np

from nebrel.core.data import Picture
from nebrel.core.errors import NotFound
from nebrel.core.formats.png import encode_png
from nebrel.core.links.runner import Progress
from nebrel.core.picture.decode import decode
from nebrel.core.picture.flat_tones import find_tones, recognise_tones
from nebrel.core.picture.levels import find_levels, histogram
from nebrel.core.picture.report import Finding
from nebrel.core.picture.resample import display_bytes
from nebrel.core.questions.judge import glance, printing_of
from nebrel.core.recipe.build_up import PictureEntry
from nebrel.core.recipe.models import Recipe
from nebrel.work.worker import Worker

_MARK_PX = 1024
Quality = Literal["screen", "full"]


def corrected(
    worker: Worker, tell: Progress, *, recipe: Recipe, quality: Quality, upto: int | None
) -> dict[str, Any]:
    """What a picture is after its corrections."""
    found = worker.evaluator.correct(recipe, quality, upto, tell)
    work = found.work
    tone = work.tone
    shares = np.diag([1 / (work.cols - 1), 1 / (work.rows - 1), 1.0]) @ work.place
    return {
        "key": found.key,
        "cols": found.cols,
        "rows": found.rows,
        "wide_mm": found.size_mm[0],
        "tall_mm": found.size_mm[1],
        "place": shares.ravel().tolist(),
        "transparent": work.alpha is not None,
        "kept": 1.0 if work.alpha is None else float(work.alpha.mean()),
        "failures": [{"index": f.index, "error": f.error.as_dict()} for f in found.failures],
        "histogram": histogram(tone).tolist(),
        "levels": find_levels(tone),
    }


def corrected_view(
    worker: Worker,
    tell: Progress,
    *,
    recipe: Recipe,
    quality: Quality,
    upto: int | None,
    part: Literal["pixels", "dropped", "before"],
    longest: int,
) -> bytes:
    """The same picture for the screen, as PNG, 8 bits a channel."""
    work = worker.evaluator.correct(recipe, quality, upto, tell).work
    shown = Picture(work.pixels)
    if part == "before":
        original = worker.evaluator.correct(recipe, quality, 0).work
        matrix = (work.place @ np.linalg.inv(original.place))[:2]
        size = (work.cols, work.rows)
        moved = cv2.warpAffine(original.pixels, matrix, size, borderMode=cv2.BORDER_REPLICATE)
        shown = Picture(moved)
    elif part == "dropped":
        white = np.ones((work.rows, work.cols), np.float32)
        shown = Picture(white, white * 0 if work.alpha is None else 1 - work.alpha)
    return display_bytes(shown, longest)


def glance_at(
    worker: Worker, _: Progress, *, recipe: Recipe, view: str, rows: int, cols: int
) -> list[dict[str, Any]]:
    """What a small view of the picture shows of it, where the picture itself takes a while.

    Parameters
    ----------
    view : the result that holds it
    rows, cols : of the picture itself
    """
    if worker.begun(recipe) or worker.evaluator.has_original(recipe):
        return []
    step = recipe.pictured
    small = decode(worker.depot.load("result", view), "view")
    found = glance(small, rows, cols, step, printing_of(recipe), worker.picture)
    return [_plain(finding) for finding in found]


def finding(worker: Worker, _: Progress, *, recipe: Recipe, number: int) -> dict[str, Any] | None:
    """The finding of that number of the corrected picture's report; None behind the last."""
    found = worker.report(recipe).at(number)
    return None if found is None else _plain(found)


def mark(worker: Worker, _: Progress, *, recipe: Recipe, key: str) -> bytes:
    """Where a finding is: a white picture, opaque where it applies, as PNG."""
    where = next((f.where for f in worker.report(recipe) if f.key == key), None)
    if where is None:
        raise NotFound("finding", "it has no place in the picture", "Look at the report again")
    shown = where.astype(np.uint8)
    # Thin lines must still be seen when many pixels become one.
    side = max(1, max(shown.shape) // _MARK_PX)
    grown = cv2.dilate(shown, np.ones((side, side), np.uint8)).astype(np.float32)
    return display_bytes(Picture(np.ones_like(grown), grown), _MARK_PX)


def tones(worker: Worker, tell: Progress, *, recipe: Recipe, count: int | None) -> dict[str, Any]:
    """The flat tones of the corrected picture; with a count, the best so many."""
    tone = worker.evaluator.correct(recipe, "full", progress=tell).work.tone
    found = [] if count else recognise_tones(tone)
    chosen = found or find_tones(tone, count or 3)
    chart = recipe.relief.art.tones or PictureEntry()
    top = chart.depth.mm
    shares = [value if chart.raised == "light" else 1 - value for value in chosen]
    return {
        "tones": [round(value, 4) for value in chosen],
        "heights_mm": [round(share * top, 2) for share in shares],
        "flat": bool(found),
    }


def motif(worker: Worker, tell: Progress, *, recipe: Recipe) -> tuple[bytes, float]:
    """The corrected picture as a 16-bit PNG with its resolution, and its width, mm."""
    found = worker.evaluator.correct(recipe, "full", progress=tell)
    work = found.work
    return encode_png(work.tone, work.alpha, 25.4 / work.pitch_mm), found.size_mm[0]


def _plain(found: Finding) -> dict[str, Any]:
    return {"key": found.key, **found.as_dict()}
