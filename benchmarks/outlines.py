"""Outlines: seconds to trace, distances from shapes that are known, and walls of cutters.

python benchmarks/outlines.py [--silhouettes 100]
"""

from __future__ import annotations

import argparse
import statistics
import time
from collections.abc import Callable
from typing import Any

import numpy as np
from tests.core.test_cutters import as_trimesh, silhouette
from tests.core.test_tracing import SOFT, fitted
from tests.shapes import cover, furthest

from nebrel.core.data import Floats, Picture
from nebrel.core.outline.fit_curves import fit_curves, forget, warm
from nebrel.core.outline.isolines import isolines
from nebrel.core.outline.tidy import Tidy
from nebrel.core.outline.tracing import shape_field, trace_shape
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.recipe.build_up import TracedEntry
from nebrel.core.recipe.models import load_recipe
from nebrel.core.solid.cutter import Cutter, cutter

ROWS, COLS = 1200, 1700


def logo() -> Floats:
    """Two megapixels of discs, rings and bars, soft-edged, dark on white."""
    rng = np.random.default_rng(4)
    y, x = np.mgrid[:ROWS, :COLS].astype(np.float32)
    picture = np.ones((ROWS, COLS), np.float32)
    for k in range(40):
        cx, cy, r = rng.uniform(0, COLS), rng.uniform(0, ROWS), rng.uniform(15, 170)
        away = np.hypot(x - cx, y - cy)
        if k % 3 == 2:
            turn = rng.uniform(0, 3)
            along = (x - cx) * np.cos(turn) + (y - cy) * np.sin(turn)
            across = (y - cy) * np.cos(turn) - (x - cx) * np.sin(turn)
            away = np.maximum(np.abs(along), 4 * np.abs(across))
        own = np.clip(away - r + 0.5, 0, 1)
        if k % 3 == 1:
            own = np.maximum(own, np.clip(0.6 * r - away + 0.5, 0, 1))
        picture = np.minimum(picture, own)
    return picture


def specks() -> Floats:
    """Two thousand discs on four megapixels, dark on white."""
    picture = np.ones((2000, 2000), np.float32)
    y, x = np.mgrid[:40, :40].astype(np.float32)
    for k in range(2000):
        row, col = divmod(k, 45)
        away = np.hypot(x - 20.3, y - 19.6) - 5 - k % 9
        picture[row * 44 : row * 44 + 40, col * 44 : col * 44 + 40] = np.clip(away + 0.5, 0, 1)
    return picture


def seconds(work: Callable[[], Any], times: int = 5) -> float:
    spent = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        spent.append(time.perf_counter() - start)
    return statistics.median(spent)


def speed() -> None:
    picture = logo()
    field = shape_field(picture, None, "dark")
    lines = isolines(field.values, field.level).lines
    pitch = 100 / (COLS - 1)

    def trace() -> None:
        forget()  # lines that were fitted before are known again
        trace_shape(shape_field(picture, None, "dark"), (pitch, pitch), Tidy(0.2))

    whole = seconds(trace)
    alone = seconds(lambda: isolines(field.values, field.level))

    def fit() -> None:
        forget()
        fit_curves(lines)

    fitting = seconds(fit)
    print(f"2 megapixels traced, tidied and fitted: {whole:.2f} s")
    print(f"  isolines alone {alone:.2f} s, fitting alone {fitting:.2f} s, {len(lines)} lines")


def exactness() -> None:
    for hard in (False, True):
        worst, most = {}, {}
        for name, (loops, rows, cols) in SOFT.items():
            own = [curve for loop in loops for curve in loop]
            picture = cover(loops, rows, cols)
            curves, _ = fitted((picture >= 0.5).astype(np.float32) if hard else picture)
            worst[name] = max(furthest(curves, own), furthest(own, curves))
            most[name] = len(curves) / len(own)
        edges = "hard" if hard else "soft"
        print(
            f"{edges}-edged: " + ", ".join(f"{n} {worst[n]:.2f} px {most[n]:.2f} x" for n in worst)
        )


def parts() -> None:
    picture = Picture(specks())
    evaluator = Evaluator(lambda _: picture)
    spent = []
    for below in (0.1, 0.11, 0.12, 0.13):
        trace = {"kind": "traced", "height": 2, "trace": {"below_mm2": below, "level": 0.5}}
        off = {"kind": "picture", "id": "picture", "enabled": False}
        art = {"picture": {"file": {"sha256": "0" * 64}, "side": 200}, "backing": 1}
        recipe = load_recipe({"begins": {"art": art | {"build_up": [off, trace]}}})
        start = time.perf_counter()
        found = evaluator.evaluate(recipe)
        spent.append(time.perf_counter() - start)
    triangles = found.report.triangles
    print(f"2000 parts, a dial to the solid: {statistics.median(spent[1:]):.2f} s, {triangles}")


def dial() -> None:
    """The outline on the screen while the closeness of its curves is dragged, at 2 megapixels."""
    picture = Picture(logo())
    evaluator = Evaluator(lambda _: picture)
    spent = []
    for step in range(12):
        trace = {"kind": "traced", "id": "shape", "trace": {"within": 0.05 + 0.01 * step}}
        art = {"picture": {"file": {"sha256": "0" * 64}, "side": 100}}
        whole = art | {"build_up": [{"kind": "picture", "id": "picture"}, trace]}
        recipe = load_recipe({"begins": {"art": whole}})
        own = recipe.begins.art.build_up[1]
        assert isinstance(own, TracedEntry)
        start = time.perf_counter()
        evaluator.traced(recipe, own.trace, "screen")
        spent.append(1000 * (time.perf_counter() - start))
    print(f"closeness dragged at 2 megapixels: median {statistics.median(spent[1:]):.0f} ms")


def cutters(count: int) -> None:
    start = time.perf_counter()
    for seed in range(count):
        as_trimesh(cutter(silhouette(seed), Cutter(details=4 if seed % 2 else None))[0])
    each = (time.perf_counter() - start) / max(count, 1)
    print(f"{count} cutters closed for another library, {each:.2f} s each")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--silhouettes", type=int, default=100)
    options = parser.parse_args()
    warm()
    speed()
    exactness()
    parts()
    dial()
    cutters(options.silhouettes)


if __name__ == "__main__":
    main()
