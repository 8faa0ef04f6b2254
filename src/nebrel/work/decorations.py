"""What is asked of the decorations of a piece."""

from __future__ import annotations

import numpy as np

from nebrel.core.choices import Catch
from nebrel.core.formats.png import encode_png
from nebrel.core.forms.catch import caught
from nebrel.core.links.decoration import as_relief
from nebrel.core.links.runner import Progress
from nebrel.core.recipe.decoration import Decoration
from nebrel.core.recipe.models import Recipe
from nebrel.work.worker import Worker

Place = tuple[float, float, float]
_BESIDE_MM = 3.0  # from the surface, that a place pointed at may stand off besides the depth


def art_size(worker: Worker, _: Progress, *, recipe: Recipe, decoration_id: str) -> list[float]:
    """Width and height of the art of a decoration as it is laid on its body, mm."""
    one = recipe.decoration(decoration_id)
    return [side * one.times for side in worker.evaluator.extent(as_relief(recipe, one))]


def spots(
    worker: Worker, _: Progress, *, recipe: Recipe, decoration_id: str, places: list[Place]
) -> tuple[list[tuple[float, float] | None], tuple[float, float]]:
    """Which spots of its art lie at places, in shares of its size from its middle; its size."""
    one = recipe.decoration(decoration_id)
    lain, size_mm = worker.evaluator.lying(recipe, one)
    far = _BESIDE_MM + one.art.depth_mm * one.deep_times + abs(one.lift.mm)
    far += max((abs(part.depth.mm) for part in one.parts), default=0.0)
    best = np.full(len(places), np.inf)
    found = np.zeros((len(places), 2))
    for lying, mirrored in lain:
        middle = lying.place(np.zeros((1, 3)))[0]
        off = np.linalg.norm(np.array(places) - middle, axis=1).min()
        if off > far + 0.75 * float(np.hypot(*size_mm)):
            continue
        own, away = lying.spots_of(np.array(places, np.float64), size_mm)
        nearer = away < best
        best[nearer] = away[nearer]
        found[nearer] = own[nearer] * (-1 if mirrored else 1, 1)
    shares = np.clip(found / size_mm, -0.5, 0.5).round(5)
    return [
        (float(u), float(v)) if away <= far else None
        for (u, v), away in zip(shares, best, strict=True)
    ], size_mm


def catch(worker: Worker, _: Progress, *, recipe: Recipe, decoration_id: str, by: Catch) -> Place:
    """The place that a decoration is caught by."""
    one = recipe.decoration(decoration_id)
    body = worker.evaluator.begun(recipe).mesh
    return caught(body, one.at, by, "xyz".index(one.axis))


def art_picture(
    worker: Worker, tell: Progress, *, recipe: Recipe, decoration: Decoration
) -> tuple[bytes, float]:
    """The heights of its art as a 16-bit PNG, and its width, mm."""
    art = as_relief(recipe, decoration)
    relief = worker.evaluator.relief(art, tell)
    field, there = relief.joined()
    low, high = float(field.mm.min()), float(field.mm.max())
    tones = (field.mm - low) / max(high - low, 1e-9)
    alpha = None if there is None else there.astype(np.float32)
    data = encode_png(tones.astype(np.float32), alpha)
    return data, worker.evaluator.extent(art)[0] * decoration.times
