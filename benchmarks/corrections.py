"""Every correction on 12 megapixels, against the plain call that does its core work.

Prints a table: milliseconds of the plain call, of the correction at full quality, their
ratio, and milliseconds at the two draft sizes (256 and 1024 px). Then shows which steps are
computed again when the third of ten corrections changes.

    python benchmarks/corrections.py [--rows 3000] [--cols 4000]
"""

from __future__ import annotations

import argparse
import statistics
import time
from collections.abc import Callable
from typing import Any

import cv2
import numpy as np

from nebrel.core.data import Picture
from nebrel.core.links.correct import correct
from nebrel.core.picture.working import Working, begin
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.recipe.models import load_recipe
from nebrel.demo.flawed import door_sign, moon_hare
from nebrel.demo.pictures import craters

SLOW = ("isolate by strokes", "remove")
MOST_RATIO, MOST_DRAFT_MS = 5.0, 100.0


def steps(cols: int, rows: int) -> list[tuple[str, dict[str, Any], Callable[[np.ndarray], Any]]]:
    half = {"x": cols // 4, "y": rows // 4, "wide": cols // 2, "tall": rows // 2}
    diagonal = [[cols * t, rows * t] for t in np.linspace(0.2, 0.8, 60)]
    stroke = {"points": diagonal, "wide": cols / 40}
    small = {"points": [[cols * 0.4, rows * 0.5], [cols * 0.44, rows * 0.5]], "wide": cols / 60}
    around = {"x": cols * 0.15, "y": rows * 0.06, "wide": cols * 0.67, "tall": rows * 0.92}
    keep = {"points": [[cols * 0.5, rows * 0.66], [cols * 0.5, rows * 0.45]], "wide": cols / 40}
    turn = cv2.getRotationMatrix2D((cols / 2, rows / 2), 7, 1)
    twice = np.array([[2.0, 0, 0], [0, 2.0, 0]])
    lut = np.linspace(0, 1, 65_536, dtype=np.float32)

    def bytes_of(a: np.ndarray) -> np.ndarray:
        return (a * 255).astype(np.uint8)

    def index(a: np.ndarray) -> np.ndarray:
        return (a * 65_535).astype(np.uint16)

    def mask(a: np.ndarray) -> np.ndarray:
        canvas = np.zeros(a.shape, np.uint8)
        points = np.int32(stroke["points"])[:, None]
        cv2.polylines(canvas, [points], False, 255, int(stroke["wide"]))
        return cv2.distanceTransform(canvas, cv2.DIST_L2, 5)

    def grab(a: np.ndarray) -> None:
        tall, wide = (640 * a.shape[0] // max(a.shape), 640 * a.shape[1] // max(a.shape))
        reduced = cv2.resize(bytes_of(a), (wide, tall), interpolation=cv2.INTER_AREA)
        box = [round(v * wide / cols) for v in (around["x"], around["y"], around["wide"])]
        box.append(round(around["tall"] * tall / rows))
        guess = np.zeros((tall, wide), np.uint8)
        models = np.zeros((1, 65)), np.zeros((1, 65))
        three = cv2.merge([reduced] * 3)
        cv2.grabCut(three, guess, box, *models, 5, cv2.GC_INIT_WITH_RECT)
        for _ in range(4):
            cv2.boxFilter(a, -1, (33, 33))

    def inpaint(a: np.ndarray) -> None:
        hole = np.zeros(a.shape, np.uint8)
        cv2.polylines(hole, [np.int32(small["points"])[:, None]], False, 255, int(small["wide"]))
        cv2.inpaint(index(a), hole, 5, cv2.INPAINT_TELEA)

    side = 0.2 * (cols - 1) / 160  # px of a line that is widened by 0.2 mm at 160 mm
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * max(1, round(side)) + 1,) * 2)
    speck = 2 * int(np.ceil(np.sqrt(0.5) * (cols - 1) / 160)) + 1
    radius = lambda mm: 2 * round(mm * (cols - 1) / 160) + 1  # noqa: E731
    return [
        ("crop", {"kind": "crop", "box": half}, lambda a: a[: rows // 2, : cols // 2].copy()),
        ("crop to content", {"kind": "crop", "by": "content"}, lambda a: np.abs(a - 0.5) > 0.1),
        ("quarter turn", {"kind": "turn", "quarters": 1}, lambda a: cv2.rotate(a, 2)),
        (
            "straighten",
            {"kind": "turn", "degrees": 7},
            lambda a: cv2.warpAffine(a, turn, (cols, rows), flags=cv2.INTER_CUBIC),
        ),
        ("mirror", {"kind": "mirror"}, lambda a: cv2.flip(a, 1)),
        (
            "resize",
            {"kind": "resize", "cols": cols * 4 // 9},
            lambda a: cv2.resize(a, (cols * 4 // 9, rows * 4 // 9), interpolation=cv2.INTER_AREA),
        ),
        (
            "enlarge",
            {"kind": "enlarge", "factor": 2},
            # With the corner pixels on the corners, which cv2.resize cannot do.
            lambda a: cv2.warpAffine(a, twice, (2 * cols, 2 * rows), flags=cv2.INTER_CUBIC),
        ),
        (
            "extend",
            {"kind": "extend", "percent": 5},
            lambda a: cv2.copyMakeBorder(a, 150, 150, 200, 200, cv2.BORDER_CONSTANT, value=0),
        ),
        ("levels", {"kind": "levels", "black": 0.1, "white": 0.9},
         lambda a: np.clip((a - 0.1) / 0.8, 0, 1)),
        ("levels, automatic", {"kind": "levels", "auto": True},
         lambda a: np.clip((a - np.percentile(a, 0.1)) / np.percentile(a, 99.9), 0, 1)),
        ("levels, mid-tone", {"kind": "levels", "middle": 1.4}, lambda a: a ** (1 / 1.4)),
        ("curve", {"kind": "curve", "points": [[0, 0], [0.4, 0.6], [1, 1]]},
         lambda a: np.interp(a, lut[::4096], lut[::4096])),
        ("invert", {"kind": "invert"}, lambda a: 1 - a),
        ("contrast", {"kind": "contrast"}, lambda a: np.clip((a - 0.5) * 1.6 + 0.5, 0, 1)),
        ("local contrast", {"kind": "local_contrast"},
         lambda a: a + 0.5 * (a - cv2.GaussianBlur(a, (0, 0), radius(3) / 4))),
        ("exposure", {"kind": "exposure"}, lambda a: np.power(a, 2.4)),
        ("read from", {"kind": "read_from", "channel": "lightness"}, np.cbrt),
        ("tone steps", {"kind": "tone_steps", "count": 4},
         lambda a: np.digitize(a, [0.2, 0.5, 0.8])),
        ("threshold", {"kind": "threshold"},
         lambda a: cv2.threshold(bytes_of(a), 0, 255, cv2.THRESH_OTSU)),
        ("threshold, local", {"kind": "threshold", "method": "local"},
         lambda a: cv2.adaptiveThreshold(bytes_of(a), 255, 0, 0, radius(4), 5)),
        ("smooth, Gaussian", {"kind": "smooth", "method": "gaussian", "radius": 0.3},
         lambda a: cv2.GaussianBlur(a, (0, 0), radius(0.3) / 4)),
        ("smooth, median", {"kind": "smooth", "method": "median", "radius": 0.3},
         lambda a: cv2.medianBlur(bytes_of(a), radius(0.3))),
        ("smooth, keeping edges", {"kind": "smooth", "method": "edge_keeping", "radius": 0.3},
         lambda a: cv2.bilateralFilter(a, radius(0.3), 0.1, 3)),
        ("despeckle", {"kind": "despeckle", "area": 0.5},
         lambda a: [cv2.morphologyEx(a, op, np.ones((speck, speck))) for op in (2, 3)]
         + [cv2.connectedComponentsWithStats((a > t).astype(np.uint8)) for t in (0.4, 0.6)]),
        ("thicken", {"kind": "thicken", "by": 0.2}, lambda a: cv2.erode(a, disc)),
        ("isolate by colour", {"kind": "isolate", "tolerance": 0.1},
         lambda a: cv2.connectedComponents((np.abs(a - 0.5) < 0.1).astype(np.uint8))),
        ("isolate by strokes", {"kind": "isolate", "method": "strokes", "box": around,
                                "keep": [keep]}, grab),
        ("remove", {"kind": "remove", "strokes": [small]}, inpaint),
        ("remove, copied", {"kind": "remove", "strokes": [small], "fill": "copy",
                            "source": [cols * 0.4, rows * 0.3]}, lambda a: a + mask(a)),
        ("fill", {"kind": "fill", "at": [10, 10], "tolerance": 0.2},
         lambda a: cv2.floodFill(a.copy(), None, (10, 10), 1, 0.2, 0.2, cv2.FLOODFILL_FIXED_RANGE)),
        ("brush", {"kind": "brush", "strokes": [stroke]}, lambda a: a * 0.5 + mask(a)),
        ("second picture", {"kind": "overlay", "sha256": "1" * 64,
                            "centre": [cols / 2, rows / 2], "wide": cols / 2},
         lambda a: cv2.warpAffine(a, turn, (cols, rows)) * 0.5 + a),
        ("make it tile", {"kind": "tile"}, lambda a: a[:, ::-1] * 0.5 + a * 0.5),
        ("even light", {"kind": "even_light"}, lambda a: a / cv2.blur(a, (301, 301))),
    ]  # fmt: skip


def milliseconds(run: Callable[[], Any], times: int = 3) -> float:
    run()
    spent = []
    for _ in range(times):
        start = time.perf_counter()
        run()
        spent.append((time.perf_counter() - start) * 1000)
    return statistics.median(spent)


def main() -> None:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--rows", type=int, default=3000)
    options.add_argument("--cols", type=int, default=4000)
    options.add_argument("--only", default="")
    chosen = options.parse_args()
    rows, cols = chosen.rows, chosen.cols
    hare, _ = moon_hare()
    gray = np.ascontiguousarray(hare.mean(axis=2))
    sources = {
        "isolate by strokes": cv2.resize(gray, (cols, rows), interpolation=cv2.INTER_CUBIC),
        "even light": door_sign(rows=rows, cols=cols),
    }
    land = cv2.resize(craters(), (cols, rows), interpolation=cv2.INTER_CUBIC)
    second = Picture(craters(600, 800))
    print(f"{cols} x {rows} pixels, gray, 160 mm wide")
    print(f"{'correction':24}{'plain':>9}{'full':>9}{'ratio':>8}{'256 px':>9}{'1024 px':>9}  ms")
    missed = []
    for name, correction, plain in steps(cols, rows):
        if chosen.only not in name:
            continue
        picture = Picture(np.clip(sources.get(name, land), 0, 1).astype(np.float32))
        document = {"sha256": "0" * 64, "side": 160, "corrections": [correction]}
        step = load_recipe({"picture": document}).begins.art.pictured.corrections[0]

        def at(longest: int | None, of: Picture = picture) -> Working:
            return begin(of, longest, 160)

        def timed(work: Working, what: Any = step) -> float:
            return milliseconds(lambda: correct(work, what, lambda _: second))

        core = milliseconds(lambda: plain(picture.pixels))  # noqa: B023
        full, small, screen = (timed(at(size)) for size in (None, 256, 1024))
        ratio = full / core
        flag = " ".join(
            word
            for word, wrong in (
                ("slower than 5 x", ratio > MOST_RATIO),
                ("draft over 100 ms", small > MOST_DRAFT_MS and name not in SLOW),
            )
            if wrong
        )
        missed += [name] if flag else []
        print(f"{name:24}{core:9.0f}{full:9.0f}{ratio:8.1f}{small:9.1f}{screen:9.1f}  {flag}")
    print("missed:", ", ".join(missed) or "none")
    show_reuse(Picture(land))


def show_reuse(picture: Picture) -> None:
    """Ten corrections; the third is changed."""
    kinds = ["invert", "levels", "contrast", "exposure", "curve", "local_contrast"]
    kinds += ["smooth", "threshold", "mirror", "tile"]
    documents: list[dict[str, Any]] = [{"kind": kind} for kind in kinds]
    evaluator = Evaluator(lambda _: picture, cache_bytes=4_000_000_000)

    def run() -> None:
        evaluator.correct(
            load_recipe({"picture": {"sha256": "0" * 64, "corrections": documents}}), "screen"
        )

    run()
    before = evaluator.computed.copy()
    documents[2] = {"kind": "contrast", "amount": -0.3}
    run()
    again = [kind for kind in kinds if evaluator.computed[kind] > before[kind]]
    kept = [kind for kind in ("picture", *kinds) if evaluator.computed[kind] == before[kind]]
    print(f"the third of ten changed: computed again {', '.join(again)}; kept {', '.join(kept)}")


if __name__ == "__main__":
    main()
