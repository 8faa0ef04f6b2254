"""Cut-through, pinned tones, bent thickness, the section, and a tube against a dense grid.

python benchmarks/forms.py [--side 2048] [--no-grid]
"""

from __future__ import annotations

import argparse
import math
import statistics
import time
from typing import Any

import cv2
import numpy as np
from dense_grid import time_grid

from nebrel.core.data import Picture
from nebrel.core.heights.compress import compress_relief
from nebrel.core.heights.section import cut_section
from nebrel.core.outline.trace import trace
from nebrel.core.questions.evaluation import Evaluation
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.recipe.models import load_recipe
from nebrel.demo.pictures import smooth_noise


def disc(side: int, radius: float, soft: bool) -> np.ndarray:
    y, x = np.mgrid[0:side, 0:side] - (side - 1) / 2
    if not soft:
        return (np.hypot(x, y) < radius).astype(np.float32)
    steps = (np.arange(8) - 3.5) / 8
    cover = np.mean([np.hypot(x + a, y + b) < radius for a in steps for b in steps], axis=0)
    return (np.rint(cover * 255) / 255).astype(np.float32)


def outlines() -> None:
    for soft in (True, False):
        (loop,) = trace(disc(1001, 400, soft))
        off = np.hypot(*(loop - 500).T) - 400
        step = np.roll(loop, -1, axis=0) - loop
        bearing = np.degrees(np.arctan2(step[:, 1], step[:, 0]))
        turn = np.abs((np.diff(bearing, append=bearing[0]) + 180) % 360 - 180).max()
        print(
            f"disc of 400 px, {'soft' if soft else 'hard'} edge: {np.sqrt((off**2).mean()):.3f} px "
            f"RMS, {np.abs(off).max():.3f} worst, largest turn {turn:.1f} degrees"
        )


def make(tones: np.ndarray, wide: float, **steps: Any) -> Evaluation:
    picture = Picture(np.asarray(tones, np.float32))
    document = {"picture": {"sha256": "0" * 64, "side": wide}, **steps}
    return Evaluator(lambda _: picture).evaluate(load_recipe(document))


def plateaus() -> None:
    tones = 0.5 - 0.5 * disc(601, 200, True)
    pins = [{"tone": 0, "mm": 2.345}, {"tone": 0.5, "mm": 1.234}, {"tone": 1, "mm": None}]
    heights = {"mapping": "plateaus", "pins": pins, "backing": 0}
    found = np.unique(make(tones, 60, heights=heights).mesh.vertices[:, 2])
    wanted = np.array([0, 1.234, 2.345])
    worst = max(np.abs(wanted - z).min() for z in found)
    print(f"pinned tones: worst height off by {worst:.6f} mm")


def thickness(places: int = 500) -> None:
    tones = smooth_noise(240, 480, 5, 4, 3)
    tones[:, -1] = tones[:, 0]
    for kind, bend in (("arc", 100.0), ("tube", 360.0), ("globe", 360.0)):
        form: dict[str, Any] = {"kind": kind}
        form |= {"bend": bend} if kind == "arc" else {"opening": 14} if kind == "globe" else {}
        result = make(tones, 150, form=form, heights={"depth": 3, "backing": 1.5})
        worst = worst_thickness(result, kind, math.radians(bend), 150, places)
        print(
            f"{kind}: thickness along the normal off by {worst:.4f} mm at worst of {places} places,"
            f" {result.report.triangles} triangles"
        )


def worst_thickness(result: Evaluation, kind: str, bend: float, wide: float, places: int) -> float:
    mm = result.heights.mm
    rows, cols = mm.shape
    rng = np.random.default_rng(0)
    row = rng.integers(rows // 3, rows - 10, places)
    col = rng.integers(5, cols - 5, places)
    radius = wide / bend
    angle = col / (cols - 1) * bend - bend / 2
    up = 1 - row / (rows - 1)
    if kind == "globe":
        low, high = -np.arccos(14 / 2 / radius), math.pi / 2 - 0.4 / radius
        latitude = low + (high - low) * up
        way = np.column_stack(
            [np.sin(angle) * np.cos(latitude), -np.cos(angle) * np.cos(latitude), np.sin(latitude)]
        )
        start = np.tile([0, 0, -(radius + float(mm[-1].max())) * np.sin(low)], (places, 1))
    else:
        way = np.column_stack([np.sin(angle), -np.cos(angle), np.zeros(places)])
        start = np.column_stack([np.zeros((places, 2)), up * result.heights.tall_mm])
    corners = result.mesh.vertices[result.mesh.faces].astype(np.float64)
    a, ab, ac = corners[:, 0], corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    worst = 0.0
    for origin, along, r, c in zip(start, way, row, col, strict=True):
        p = np.cross(along, ac)
        scale = np.einsum("ij,ij->i", ab, p)
        inverse = np.divide(1, scale, out=np.zeros_like(scale), where=np.abs(scale) > 1e-14)
        u = np.einsum("ij,ij->i", origin - a, p) * inverse
        q = np.cross(origin - a, ab)
        v, t = q @ along * inverse, np.einsum("ij,ij->i", ac, q) * inverse
        hit = (inverse != 0) & (u >= -1e-9) & (v >= -1e-9) & (u + v <= 1 + 1e-9) & (t > 0)
        reach = np.sort(t[hit])
        worst = max(worst, abs(float(reach[-1] - reach[0]) - float(mm[r, c])))
    return worst


def section(side: int = 2000) -> None:
    tones = smooth_noise(side, side, 5, 5, 3)
    picture = Picture(tones)
    evaluator = Evaluator(lambda _: picture)
    recipe = load_recipe({"picture": {"sha256": "0" * 64}})
    evaluator.relief(recipe)
    spent = []
    for v in np.linspace(0.1, 0.9, 40):
        start = time.perf_counter()
        relief = evaluator.relief(recipe)
        field = relief.field
        cut_section(relief, (0, v * field.tall_mm), (field.wide_mm, 0.5 * field.tall_mm))
        spent.append((time.perf_counter() - start) * 1000)
    print(f"section at {side * side / 1e6:g} megapixels: median {statistics.median(spent):.1f} ms")


def compression(side: int = 1024) -> None:
    rng = np.random.default_rng(0)
    y, x = np.mgrid[0:side, 0:side] / side
    land = 12 * x + 6 * np.sin(3 * y)
    for _ in range(14):
        cx, cy, radius = rng.random(3) * (1, 1, 0.2) + (0, 0, 0.06)
        land += (np.hypot(x - cx, y - cy) < radius) * rng.uniform(3, 9)
    detail = smooth_noise(side, side, 60, 3, 3)
    detail = 0.15 * (detail - cv2.GaussianBlur(detail, (0, 0), 6)) / detail.std()
    true = (land + detail).astype(np.float32)

    def likeness(heights: np.ndarray) -> float:
        fine = heights - cv2.GaussianBlur(heights, (0, 0), 6)
        wanted = detail - cv2.GaussianBlur(detail, (0, 0), 6)
        return float(np.corrcoef(fine.ravel(), wanted.ravel())[0, 1])

    start = time.perf_counter()
    squeezed = compress_relief(true, 1.0, 0.3)
    spent = time.perf_counter() - start
    print(
        f"compression of {side} x {side} from {np.ptp(true):.1f} to {np.ptp(squeezed):.1f} mm, "
        f"{spent:.1f} s: "
        f"fine detail correlates {likeness(squeezed):.3f}; linear scaling {likeness(true / 10):.3f}"
    )


def tube_against_grid(side: int, with_grid: bool) -> None:
    y, x = np.mgrid[0:side, 0:side]
    cell = side / 8
    away = np.hypot((x % cell) - cell / 2, (y % cell) - cell / 2)
    tones = 0.2 + 0.8 * smooth_noise(side, side, 6, 4, 9)
    alpha = np.clip(away - cell / 5 + 0.5, 0, 1).astype(np.float32)
    picture = Picture(tones.astype(np.float32), alpha)
    recipe = load_recipe(
        {
            "picture": {"sha256": "0" * 64, "side": 250},
            "heights": {"depth": 2, "backing": 1.5, "cut_dropped": True},
            "form": {"kind": "tube"},
            "finish": {"detail": "picture", "tolerance": 0.02},
        }
    )
    Evaluator(lambda _: picture).evaluate(recipe, "draft")  # loads what is compiled
    start = time.perf_counter()
    result = Evaluator(lambda _: picture).evaluate(recipe)
    ours = time.perf_counter() - start
    count = result.report.triangles
    print(f"{side} x {side} cut through, as a tube at 0.02 mm: {ours:.1f} s, {count} triangles")
    if not with_grid:
        return
    grid = time_grid(result.tones.tone * 2 + 1.5, 250, 2 * np.pi, alpha > 0.5, count)
    print(f"the dense grid, mapped and reduced to as many: {grid:.1f} s, {grid / ours:.1f} times")


if __name__ == "__main__":
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--side", type=int, default=2048)
    options.add_argument("--no-grid", action="store_true")
    chosen = options.parse_args()
    outlines()
    plateaus()
    section()
    compression()
    thickness()
    tube_against_grid(chosen.side, not chosen.no_grid)
