"""What is asked of the heights and the solid of a recipe."""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats
from nebrel.core.errors import NotFound
from nebrel.core.heights.relief import Relief
from nebrel.core.heights.section import cut_section, section_path
from nebrel.core.links.lay_map import lay_map
from nebrel.core.links.runner import Progress
from nebrel.core.outline.nodes import nodes_of
from nebrel.core.outline.tracing import Traced
from nebrel.core.proof.light import lit
from nebrel.core.questions.evaluation import shown_glb
from nebrel.core.questions.shine import thinnest_mm
from nebrel.core.recipe.build_up import TracedEntry
from nebrel.core.recipe.models import Recipe
from nebrel.work.worker import Worker

_COARSE = 0.25  # of a screen pixel, as outlines are drawn about 1000 px wide
_MOST_PARTS = 3000
_MOST_NODES = 4000
Share = tuple[float, float]


def preview(worker: Worker, tell: Progress, *, recipe: Recipe) -> tuple[str, bytes]:
    """Key and GLB at draft quality."""
    result = worker.evaluator.evaluate(recipe, "draft", tell)
    return result.key, shown_glb(recipe, result)


def outlines(worker: Worker, _: Progress, *, recipe: Recipe) -> list[dict[str, Any]]:
    """Where the entries of a build-up lie, by their ids, in shares of the piece."""
    size, laid = worker.evaluator.outlines(recipe)
    found = []
    for entry_id, entry in laid.items():
        loops = []
        for loop in entry.outline.loops:
            loops.append(_simple(loop / np.array(size) * (1, -1) + (0, 1)))
        found.append({"entry_id": entry_id, "loops": loops})
    return found


def parts(worker: Worker, _: Progress, *, recipe: Recipe, entry_id: str) -> dict[str, Any]:
    """The parts that a trace finds in the picture, in shares of it, and figures of its outline."""
    entry = next((one for one in recipe.relief.art.build_up if one.id == entry_id), None)
    if not isinstance(entry, TracedEntry):
        raise NotFound("entry", f"“{entry_id[:40]}” is traced nowhere", "Choose another")
    found = worker.evaluator.traced(recipe, entry.trace, "screen")
    rows, cols = found.shape
    low, high = found.outline.bounds
    last = np.array([cols - 1, rows - 1])
    return {
        "parts": [
            {
                "place": tuple(np.round(part.place / last, 6).tolist()),
                "area_mm2": round(part.area_mm2, 4),
                "left_out": part.why,
                "loops": [_simple(line / last) for line in part.lines],
            }
            for part in found.parts[:_MOST_PARTS]
        ],
        "found": len(found.parts),
        "kept": len(found.kept),
        "curves": found.curves,
        "off_mm": round(found.off_mm, 5),
        "size_mm": [round(float(side), 4) for side in high - low],
        "picture_mm": [round(float(side), 4) for side in last * found.pitch_mm],
        "level": round(found.level, 4),
        "nodes": _nodes(found),
        "notes": list(found.notes),
    }


def _nodes(found: Traced) -> list[dict[str, Any]]:
    """The nodes of an outline, in shares of the picture; none where there are very many."""
    nodes = nodes_of(found.outline.curves)
    if len(nodes) > _MOST_NODES:
        return []
    (rows, cols), (across, up) = found.shape, found.pitch_mm
    wide, tall = (cols - 1) * across, (rows - 1) * up
    return [
        {
            "place": (round(node.place[0] / wide, 7), round(1 - node.place[1] / tall, 7)),
            "smooth": node.smooth,
        }
        for node in nodes
    ]


def _simple(shares: NDArray[np.float64]) -> list[tuple[float, float]]:
    """A loop in shares without the points that a screen does not show."""
    simple = cv2.approxPolyDP(shares.astype(np.float32)[:, None] * 1000, _COARSE, True)[:, 0] / 1000
    return [(float(x), float(y)) for x, y in np.round(simple, 5)]


def section(
    worker: Worker, tell: Progress, *, recipe: Recipe, start: Share, end: Share, parts: int
) -> dict[str, Any]:
    """The profile along a line, from the heights at full resolution."""
    relief = worker.evaluator.relief(recipe, tell)
    printer = recipe.made_with.printer
    first, last = _place(recipe, relief, start), _place(recipe, relief, end)
    found = cut_section(relief, first, last, parts)
    path = section_path(lay_map(recipe.relief.form, relief), first, last, found)
    return {
        "length_mm": found.length_mm,
        "low_mm": np.round(found.low_mm, 4).tolist(),
        "high_mm": np.round(found.high_mm, 4).tolist(),
        "slope_deg": np.round(found.slope_deg, 1).tolist(),
        "path_mm": [tuple(place) for place in np.round(path, 3).tolist()],
        "light": np.round(_light(recipe, relief, found.high_mm), 4).tolist(),
        "highest_mm": relief.top_mm,
        "line_mm": printer.line_mm,
        "layer_mm": printer.layer_mm,
    }


def spot(worker: Worker, tell: Progress, *, recipe: Recipe, at: Share) -> dict[str, Any]:
    """The height of one spot with the whole build-up, at full resolution."""
    relief = worker.evaluator.relief(recipe, tell)
    x, y = _place(recipe, relief, at)
    height, there = relief.at(np.array([x]), np.array([y]))
    return {"height_mm": round(float(height[0]), 4), "there": bool(there[0])}


def _light(recipe: Recipe, relief: Relief, mm: Floats) -> Floats:
    backing = recipe.relief.art.backing.mm
    thinnest = thinnest_mm(backing, relief.field.mm, relief.picture_there)
    attenuation = recipe.made_with.material.attenuation_per_mm
    return lit(mm, mm > 0, attenuation, thinnest, recipe.proof.light.lamp)


def _place(recipe: Recipe, relief: Relief, share: Share) -> tuple[float, float]:
    """A spot of the picture in mm from the lower left corner of the heights."""
    u = 1 - share[0] if recipe.relief.art.mirror else share[0]
    (wide, tall), (across, up) = relief.picture_mm, relief.room_mm
    return across + u * wide, up + (1 - share[1]) * tall
