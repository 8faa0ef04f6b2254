"""Bent forms and drafts: seconds and triangles.

Run it against another checkout by putting that one's `src` on PYTHONPATH.

    python benchmarks/bent.py
"""

from __future__ import annotations

import math
import statistics
import time
from collections.abc import Callable
from typing import Any

import numpy as np

import nebrel
from nebrel.core.data import Picture
from nebrel.core.errors import InvalidRecipe
from nebrel.core.questions.evaluation import Evaluation, shown_glb
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.recipe.models import Recipe, load_recipe
from nebrel.demo.pictures import craters

SHAPES: list[dict[str, Any]] = [
    {
        "kind": "shape",
        "shape": {"kind": kind, "wide": 20},
        "x": 40 * math.cos(number),
        "y": 25 * math.sin(2 * number),
        "rule": "highest",
        "height": 2.0,
        "profile": {"kind": "round" if number % 2 else "sharp", "reach": 1.5},
    }
    for number, kind in enumerate(["star", "ellipse", "polygon"] * 3)
]
LETTERING = {
    "kind": "text",
    "text": "Corvane",
    "height": 2.0,
    "capital": 12,
    "y": -40,
    "profile": {"kind": "chamfer", "reach": 0.5},
}
FLAT = ({"kind": "tube"}, {"kind": "arc", "bend": 90}, {"kind": "dome", "bend": 90})


def recipe(form: dict[str, Any], wide: float, **more: Any) -> Recipe:
    """A picture on a form."""
    picture = {"sha256": "0" * 64, "along": "wide", "side": wide}
    return load_recipe({"picture": picture, "form": form, **more})


def once(tones: np.ndarray, made: Recipe) -> tuple[float, Evaluation]:
    """Seconds of a whole evaluation; what is loaded and compiled only once is so before."""
    picture = Picture(tones.astype(np.float32))
    spent = []
    for _ in range(2):
        start = time.perf_counter()
        result = Evaluator(lambda _: picture).evaluate(made)
        spent.append(time.perf_counter() - start)
    return spent[-1], result


def solids() -> None:
    """A flat globe of 60 mm, the moon, and flat tubes, arcs and domes."""
    globe = {"kind": "globe", "opening": 10}
    exact: dict[str, Any] = {"finish": {"detail": "picture", "tolerance": 0.01}}
    try:
        recipe(globe, 60 * math.pi, **exact)
    except InvalidRecipe:  # an older checkout, which knew no other detail
        exact = {"finish": {"tolerance": 0.01}}
    flat = np.zeros((512, 1024), np.float32)
    for form in (
        globe,
        {"kind": "tube"},
        {"kind": "arc", "bend": 90},
        {"kind": "dome", "bend": 90},
    ):
        spent, found = once(flat, recipe(form, 60 * math.pi, **exact))
        print(f"flat {form['kind']:6} {spent:6.2f} s {found.report.triangles:8d} triangles")
    spent, found = once(craters(512, 512), recipe(globe, 60 * math.pi, **exact))
    print(f"moon of 512 x 512 on a globe {spent:6.2f} s {found.report.triangles:8d} triangles")


def drafts() -> None:
    """A depth or a shape that is moved, to the GLB of its draft; the middle of eleven."""
    picture = Picture(craters(512, 512))

    def middle(change: Callable[[int], Recipe]) -> float:
        evaluator = Evaluator(lambda _: picture)
        spent = []
        for step in range(12):
            made = change(step)
            start = time.perf_counter()
            shown_glb(made, evaluator.evaluate(made, "draft"))
            spent.append(time.perf_counter() - start)
        return 1000 * statistics.median(spent[1:])

    def depth(form: dict[str, Any]) -> Callable[[int], Recipe]:
        return lambda step: recipe(form, 180, heights={"depth": 3 + step / 10})

    def moved(step: int) -> Recipe:
        first = {**SHAPES[0], "x": step * 1.5}
        entries = [{"kind": "picture", "id": "picture"}, first, *SHAPES[1:], LETTERING]
        return recipe({"kind": "panel"}, 180, heights={"build_up": entries})

    print(f"draft of a globe, depth changed           {middle(depth({'kind': 'globe'})):6.0f} ms")
    print(f"draft of a panel, depth changed           {middle(depth({'kind': 'panel'})):6.0f} ms")
    print(f"draft of ten entries, one of them moved   {middle(moved):6.0f} ms")


if __name__ == "__main__":
    print(nebrel.__file__)
    drafts()
    solids()
