"""The whole `nebrel relief` process on a 4097 x 4097 16-bit picture against a plain baseline.

The baseline decodes the same picture, lays a dense grid, and reduces it by quadric collapse
(`fast-simplification`) to the same triangle count. Run by hand: it takes some minutes and,
for the baseline, some 14 GB of memory.

    python benchmarks/relief.py [--size 4097]
"""

from __future__ import annotations

import argparse
import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import cv2
import numpy as np
from numba import njit

BASELINE = """
import sys, cv2, numpy as np, fast_simplification
tones = cv2.imread(sys.argv[1], cv2.IMREAD_UNCHANGED).astype(np.float32) / 65535
rows, cols = tones.shape
z = tones * np.float32(3) + np.float32(1)
x = np.arange(cols, dtype=np.float32) * np.float32(100 / (cols - 1))
y = np.arange(rows, dtype=np.float32)[::-1] * np.float32(100 / (cols - 1))
gx, gy = np.meshgrid(x, y)
points = np.column_stack([gx.ravel(), gy.ravel(), z.ravel()])
a = (np.arange(rows - 1)[:, None] * cols + np.arange(cols - 1)[None, :]).ravel().astype(np.int32)
faces = np.concatenate([np.column_stack([a, a + cols, a + 1]),
                        np.column_stack([a + 1, a + cols, a + cols + 1])])
points, faces = fast_simplification.simplify(points, faces, target_count=int(sys.argv[3]))
records = np.zeros(len(faces), np.dtype([("n", "<f4", 3), ("v", "<f4", (3, 3)), ("s", "<u2")]))
records["v"] = points[faces]
with open(sys.argv[2], "wb") as out:
    out.write(b" " * 80 + np.uint32(len(faces)).tobytes() + records.tobytes())
"""


def run(command: list[str]) -> tuple[float, float]:
    """Wall seconds and peak memory in GB of a whole process."""
    start = time.perf_counter()
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL)
    _, status, usage = os.wait4(process.pid, 0)
    if status:
        raise SystemExit(f"{command[0]} failed")
    return time.perf_counter() - start, usage.ru_maxrss / 1e6


def corners_of(path: Path) -> np.ndarray:
    """(F, 3, 3) triangle corners of a binary STL."""
    kind = np.dtype([("n", "<f4", 3), ("v", "<f4", (3, 3)), ("s", "<u2")])
    return np.fromfile(path, kind, offset=84)["v"]


@njit(cache=True)
def worst_error(corners: np.ndarray, heights: np.ndarray, pitch: float) -> tuple[float, int]:
    """Largest distance at any pixel, and how many pixels were reached."""
    rows, cols = heights.shape
    seen = np.zeros((rows, cols), np.bool_)
    worst = 0.0
    for f in range(corners.shape[0]):
        ax, ay, az = corners[f, 0, 0] / pitch, corners[f, 0, 1] / pitch, corners[f, 0, 2]
        bx, by, bz = corners[f, 1, 0] / pitch, corners[f, 1, 1] / pitch, corners[f, 1, 2]
        cx, cy, cz = corners[f, 2, 0] / pitch, corners[f, 2, 1] / pitch, corners[f, 2, 2]
        area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
        if area < 1e-3 or (az == 0 and bz == 0 and cz == 0):
            continue
        for y in range(int(np.floor(min(ay, by, cy))), int(np.ceil(max(ay, by, cy))) + 1):
            for x in range(int(np.floor(min(ax, bx, cx))), int(np.ceil(max(ax, bx, cx))) + 1):
                u = ((bx - x) * (cy - y) - (by - y) * (cx - x)) / area
                v = ((cx - x) * (ay - y) - (cy - y) * (ax - x)) / area
                w = 1 - u - v
                if min(u, v, w) < -1e-4 or x < 0 or y < 0 or x >= cols or y >= rows:
                    continue
                error = abs(u * az + v * bz + w * cz - heights[rows - 1 - y, x])
                seen[rows - 1 - y, x] = True
                worst = max(worst, error)
    return worst, int(seen.sum())


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--size", type=int, default=4097)
    size = parser.parse_args().size
    from nebrel.demo.pictures import smooth_noise

    with tempfile.TemporaryDirectory() as folder:
        picture, out = Path(folder) / "land.png", Path(folder) / "out.stl"
        tones = np.rint(smooth_noise(size, size, 4, 7, 1) * 65535).astype(np.uint16)
        cv2.imwrite(str(picture), tones)
        relief = [sys.executable, "-m", "nebrel", "relief", str(picture), "-o", str(out)]
        times = [run(relief) for _ in range(4)][1:]
        seconds, memory = sorted(times)[1]
        corners = corners_of(out)
        heights = tones.astype(np.float64) / 65535 * 3 + 1
        worst, reached = worst_error(corners, heights, 100 / (size - 1))
        plain = Path(folder) / "plain.stl"
        base_seconds, base_memory = run(
            [sys.executable, "-c", BASELINE, str(picture), str(plain), str(len(corners))]
        )
        base_corners = corners_of(plain)
        base_worst, base_reached = worst_error(base_corners, heights, 100 / (size - 1))
    print(f"picture                  {size} x {size}, 16-bit, 100 mm, depth 3 mm")
    print(f"nebrel relief            {seconds:6.2f} s  {memory:5.2f} GB  {len(corners)} triangles")
    print(f"  worst error            {worst:.5f} mm at {reached} of {size * size} pixels")
    print(
        f"dense grid + collapse    {base_seconds:6.2f} s  {base_memory:5.2f} GB  "
        f"{len(base_corners)} triangles"
    )
    print(f"  worst error            {base_worst:.5f} mm at {base_reached} pixels")
    print(f"times faster             {base_seconds / seconds:.1f}   (aim 15)")
    print(f"share of the memory      1/{base_memory / memory:.1f}   (aim 1/6)")


if __name__ == "__main__":
    main()
