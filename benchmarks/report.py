"""How soon the picture report says something, and all of it, on a large picture.

As ratios to decoding the same file. Run it against another checkout by putting that one's
`src` on PYTHONPATH; one that knows no `judge_each` is timed as a whole.
"""

from __future__ import annotations

import argparse
import tempfile
import time
from pathlib import Path

import cv2
import numpy as np

import nebrel
from nebrel.core.picture.decode import decode
from nebrel.core.picture.report import Printing
from nebrel.core.picture.working import begin
from nebrel.core.questions import judge


def photograph(megapixels: float, coloured: bool) -> np.ndarray:
    """A noisy picture with an off-white rim."""
    rows, cols = (round((megapixels * 1e6 * share) ** 0.5) for share in (0.741, 1.35))
    y, x = np.mgrid[0:rows, 0:cols].astype(np.float32)
    tone = 0.5 + 0.25 * np.sin(x / 700) * np.cos(y / 500) + 0.15 * np.sin(x / 37 + y / 51)
    tone += np.random.default_rng(0).normal(0, 0.015, tone.shape).astype(np.float32)
    rim = round(0.02 * cols)
    for side in (np.s_[:rim], np.s_[-rim:], np.s_[:, :rim], np.s_[:, -rim:]):
        tone[side] = 0.94
    pixels = (np.clip(tone, 0, 1) * 255).round().astype(np.uint8)
    return np.stack([pixels, pixels, 255 - (255 - pixels) // 2], -1) if coloured else pixels


def main() -> None:
    """Print the ratios."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--megapixels", type=float, default=60)
    megapixels = parser.parse_args().megapixels
    print(nebrel.__file__)
    with tempfile.TemporaryDirectory() as folder:
        for coloured in (False, True):
            path = Path(folder) / "photograph.jpg"
            cv2.imwrite(str(path), photograph(megapixels, coloured))
            start = time.perf_counter()
            work = begin(decode(path, path.name), None, 100.0)
            decoding = time.perf_counter() - start
            start = time.perf_counter()
            each = getattr(judge, "judge_each", judge.judge)(work, Printing())
            said = [(f.kind, (time.perf_counter() - start) / decoding) for f in each]
            whole = (time.perf_counter() - start) / decoding
            print(
                f"{'colour' if coloured else 'gray'}: decoding {decoding:.2f} s, "
                f"first said after {said[0][1]:.1f} times that ({said[0][0]}), all {whole:.1f}"
            )


if __name__ == "__main__":
    main()
