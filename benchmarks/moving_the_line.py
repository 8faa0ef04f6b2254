"""How long a section and a read-out take while the line moves over a large corrected picture.

A colour picture of 12 megapixels with three corrections: the first move has to make the heights,
every later one only reads them. The ratio of later moves to the first is what counts.

    python benchmarks/moving_the_line.py [MEGAPIXELS]
"""

from __future__ import annotations

import sys
import time

import numpy as np

from nebrel.core.data import Picture
from nebrel.core.heights.section import cut_section
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.recipe.models import load_recipe


def main() -> None:
    """Print seconds of the first move, and the median of later ones."""
    megapixels = float(sys.argv[1]) if len(sys.argv) > 1 else 12.0
    rows, cols = (round((megapixels * 1e6 * share) ** 0.5) for share in (3 / 4, 4 / 3))
    rng = np.random.default_rng(1)
    picture = Picture(rng.random((rows, cols, 3), np.float32))
    corrections = [
        {"kind": "levels", "black": 0.02, "white": 0.98},
        {"kind": "smooth", "radius": 0.2},
        {"kind": "invert"},
    ]
    recipe = load_recipe({"picture": {"sha256": "0" * 64, "corrections": corrections}})
    evaluator = Evaluator(lambda _: picture, cache_bytes=700_000_000)
    times = []
    for move in range(6):
        began = time.perf_counter()
        relief = evaluator.relief(recipe)
        y = 20.0 + move
        cut_section(relief, (5, y), (90, y + 3))
        times.append(time.perf_counter() - began)
        began = time.perf_counter()
        evaluator.correct(recipe)
        times[-1] += time.perf_counter() - began
    later = float(np.median(times[1:]))
    print(f"first {times[0]:.2f} s, later {later:.3f} s, ratio {later / times[0]:.4f}")


if __name__ == "__main__":
    main()
