"""The network, thinned or not, against greedy insertion: seconds, triangles, worst distance.

The first table is what the choice in `solid/triangulate.py` was made by. Then pictures of every
shape and cover are triangulated, and every pixel of each is checked.

    python benchmarks/triangulation.py [--side 1025] [--pictures 200]
"""

from __future__ import annotations

import argparse
import time

import cv2
import numpy as np
from photograph import surface

from nebrel.core.data import HeightField, Picture
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.recipe.models import load_recipe
from nebrel.core.solid.triangulate import triangulate
from nebrel.demo.pictures import smooth_noise

METHODS = ("quick", "auto", "fewest", "greedy")


def kinds(side: int) -> dict[str, np.ndarray]:
    """Heights of 3 mm: smooth, and as an 8-bit photograph with noise."""
    rng = np.random.default_rng(0)
    smooth = smooth_noise(side, side, 4, 7, 1)
    noisy = np.clip(0.1 + 0.8 * smooth + rng.normal(0, 0.008, smooth.shape), 0, 1)
    return {
        "smooth": (3 * smooth).astype(np.float32),
        "photograph": (np.rint(noisy * 255) / 255 * 3).astype(np.float32),
    }


def ways(side: int) -> None:
    """Every way against the insertion."""
    for name, mm in kinds(side).items():
        field = HeightField(mm, 100.0, 100.0)
        for tolerance in (0.01, 0.03, 0.06):
            found = {}
            for method in METHODS:
                triangulate(field, tolerance * 4, method=method)
                start = time.perf_counter()
                count = len(triangulate(field, tolerance, method=method).faces)
                found[method] = time.perf_counter() - start, count
            slow, many = found["greedy"]
            words = "; ".join(
                f"{method} {slow / s:4.1f} times as fast, {n / many:.2f} times as many"
                for method, (s, n) in found.items()
                if method != "greedy"
            )
            print(f"{name:10} {side} x {side} within {tolerance}: {slow:5.2f} s, {many}; {words}")


def every_shape(count: int) -> None:
    """The worst distance at any pixel, as a share of the tolerance."""
    rng = np.random.default_rng(1)
    worst, closed = 0.0, 0
    for number in range(count):
        rows, cols = (int(n) for n in rng.integers(2, 320, 2))
        tones = rng.random((rows, cols)).astype(np.float32)
        if number % 3:
            tones = cv2.GaussianBlur(tones, (0, 0), float(rng.uniform(0.5, 6)))
            tones = (tones - tones.min()) / max(float(np.ptp(tones)), 1e-6)
        alpha = None
        if number % 2 and min(rows, cols) > 20:
            y, x = np.mgrid[0:rows, 0:cols]
            away = np.hypot(x - cols / 2, y - rows / 2) / min(rows, cols)
            alpha = np.clip((0.45 - away) * 40, 0, 1).astype(np.float32)
        tolerance = float(rng.choice([0.005, 0.01, 0.05]))
        picture = Picture(tones, alpha)
        recipe = load_recipe(
            {
                "picture": {"sha256": "0" * 64, "side": 60},
                "heights": {"cut_dropped": alpha is not None},
                "finish": {
                    "detail": "picture",
                    "tolerance": tolerance,
                    "method": METHODS[number % 4],
                },
            }
        )
        result = Evaluator(lambda _, picture=picture: picture).evaluate(recipe)
        closed += result.report.manifold
        pitch = 60 / (cols - 1)
        corners = result.mesh.vertices[result.mesh.faces]
        found = surface(corners.astype(np.float32), rows, cols, pitch)
        kept = np.ones((rows, cols), bool) if alpha is None else alpha > 0.999
        kept = cv2.erode(kept.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
        off = np.abs(found - result.heights.mm)[kept]
        worst = max(worst, float(off.max() if off.size else 0) / tolerance)
    print(f"{count} pictures of every shape and cover: {closed} closed, worst {worst:.4f} of it")


def main() -> None:
    """Print both."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--side", type=int, default=1025)
    parser.add_argument("--pictures", type=int, default=200)
    chosen = parser.parse_args()
    ways(chosen.side)
    every_shape(chosen.pictures)


if __name__ == "__main__":
    main()
