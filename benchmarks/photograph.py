"""A 12-megapixel photograph: the whole `nebrel relief`, by default and exactly, against the greedy.

The photograph is made by code, with noise and the blocks of JPEG. Beside each run stands the
greedy insertion over the same heights in the same process, which takes minutes; `--no-greedy`
leaves it out. Also says how far what a nozzle's line would print is from the exact surface.

    python benchmarks/photograph.py [--rows 3000 --cols 4000] [--no-greedy]
"""

from __future__ import annotations

import argparse
import sys
import tempfile
import time
from pathlib import Path

import cv2
import numpy as np
from numba import njit
from relief import corners_of, run, worst_error

LINE_MM, LAYER_MM = 0.42, 0.12


@njit(cache=True)
def surface(corners: np.ndarray, rows: int, cols: int, pitch: float) -> np.ndarray:
    """Heights of the upper surface at every pixel."""
    found = np.zeros((rows, cols), np.float32)
    for f in range(corners.shape[0]):
        ax, ay, az = corners[f, 0, 0] / pitch, corners[f, 0, 1] / pitch, corners[f, 0, 2]
        bx, by, bz = corners[f, 1, 0] / pitch, corners[f, 1, 1] / pitch, corners[f, 1, 2]
        cx, cy, cz = corners[f, 2, 0] / pitch, corners[f, 2, 1] / pitch, corners[f, 2, 2]
        area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
        if area < 1e-6 or (az == 0 and bz == 0 and cz == 0):
            continue
        for y in range(int(np.ceil(min(ay, by, cy) - 1e-4)), int(max(ay, by, cy) + 1e-4) + 1):
            for x in range(int(np.ceil(min(ax, bx, cx) - 1e-4)), int(max(ax, bx, cx) + 1e-4) + 1):
                u = ((bx - x) * (cy - y) - (by - y) * (cx - x)) / area
                v = ((cx - x) * (ay - y) - (cy - y) * (ax - x)) / area
                w = 1 - u - v
                if min(u, v, w) > -1e-4 and 0 <= x < cols and 0 <= y < rows:
                    found[rows - 1 - y, x] = u * az + v * bz + w * cz
    return found


def printed(heights: np.ndarray, pitch: float) -> np.ndarray:
    """As a round line would leave them: averaged over its width."""
    side = round(LINE_MM / pitch) | 1
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (side, side)).astype(np.float32)
    return cv2.filter2D(heights, -1, disc / disc.sum(), borderType=cv2.BORDER_REFLECT)


def greedy(heights: np.ndarray, tolerance: float) -> tuple[float, int]:
    """Seconds and triangles of the greedy insertion alone."""
    from pydelatin import Delatin

    rows, cols = heights.shape
    start = time.perf_counter()
    tin = Delatin(
        np.ascontiguousarray(heights, np.float32),
        height=rows, width=cols, max_error=tolerance, max_triangles=40_000_000,
    )  # fmt: skip
    return time.perf_counter() - start, len(tin.triangles)


def main() -> None:
    """Print the figures."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rows", type=int, default=3000)
    parser.add_argument("--cols", type=int, default=4000)
    parser.add_argument("--no-greedy", action="store_true")
    chosen = parser.parse_args()
    from nebrel.core.picture.decode import decode
    from nebrel.demo.photograph import photograph

    with tempfile.TemporaryDirectory() as folder:
        picture, out = Path(folder) / "dusk.jpg", Path(folder) / "out.stl"
        picture.write_bytes(photograph(chosen.rows, chosen.cols))
        exact = 1 + 3 * decode(picture).tone.astype(np.float32)
        pitch = 100 / (chosen.cols - 1)
        relief = [sys.executable, "-m", "nebrel", "relief", str(picture), "-o", str(out)]
        run(relief)  # loads and compiles what is not yet
        print(f"photograph {chosen.cols} x {chosen.rows}, 8-bit JPEG, 100 mm, depth 3 mm")
        for name, options in (
            ("by default", []),
            ("exactly", ["--tolerance", "0.01", "--detail", "picture"]),
        ):
            seconds, memory = sorted(run([*relief, *options]) for _ in range(3))[1]
            corners = corners_of(out)
            size = out.stat().st_size / 1e6
            print(
                f"{name:12} {seconds:6.1f} s {memory:5.2f} GB {len(corners):9d} triangles "
                f"{size:6.1f} MB"
            )
            if options:
                worst, _ = worst_error(corners, exact.astype(np.float64), pitch)
                print(f"{'':12} worst distance at a pixel {worst:.5f} mm (aim 0.01)")
            else:
                left = surface(corners, *exact.shape, pitch)
                off = np.abs(printed(left, pitch) - printed(exact, pitch))
                layers = off.max() / LAYER_MM
                print(f"{'':12} printed, nowhere further than {layers:.2f} of a layer (aim 0.3)")
        if not chosen.no_greedy:
            seconds, count = greedy(exact, 0.01 * 0.998)
            print(f"the greedy alone {seconds:.1f} s, {count} triangles")


if __name__ == "__main__":
    main()
