"""How near the network that ships comes to what is true, beside inflation, on unseen figures.

`PYTHONPATH=. python benchmarks/learned.py [--count 500]`: made-up figures of the kinds it was
trained on and of three kinds it has never seen, from seeds of their own; then only lit ones, and
only unlit ones with strong patterns. Ratios to inflation, whose thickness is chosen on pictures it
was trained on; below 1 is nearer. And how long an answer takes.
"""

from __future__ import annotations

import argparse
import time
from collections.abc import Sequence

import numpy as np
from training.judge import best_scale, measured, table
from training.pictures import make
from training.shapes import LEFT_OUT, TRAINED, Kind

from nebrel.core.figure.learned import ask

SEED = 900_000


def row(name: str, count: int, kinds: Sequence[Kind], seed: int, **more: bool) -> None:
    of = make(count, SEED + seed, kinds, a_shape=1, **more)
    found = table(of, measured(of, scales), [kind.__name__ for kind in kinds])
    shown = found if not more else {"all": found["all"]}
    for kind, figures in shown.items():
        angles = f"{figures['angle']:5.1f} of {figures['angle inflated']:5.1f} degrees"
        ratios = f"{figures['angle ratio']:.3f}  depth {figures['depth ratio']:.3f}"
        rest = f"thickness {figures['thick ratio']:.3f}  farther {100 * figures['worse']:.0f} %"
        print(f"{name:18} {kind:8} normals {angles}: {ratios}  {rest}")


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=500)
    options = parser.parse_args()
    scales = best_scale(make(400, 10_000, TRAINED, a_shape=1))
    print(f"inflation times {scales[0]:.2f} for normals, {scales[1]:.2f} for thickness")
    row("trained kinds", options.count, TRAINED, 1)
    row("kinds left out", options.count, LEFT_OUT, 2)
    row("trained, lit", options.count // 2, TRAINED, 3, lit=True)
    row("left out, lit", options.count // 2, LEFT_OUT, 4, lit=True)
    row("trained, painted", options.count // 2, TRAINED, 5, lit=False)
    row("left out, painted", options.count // 2, LEFT_OUT, 6, lit=False)
    cover = np.zeros((512, 512), np.float32)
    cover[60:450, 100:400] = 1
    pixels = np.full((512, 512, 3), 0.5, np.float32)
    ask(pixels, cover)
    start = time.perf_counter()
    for _ in range(20):
        ask(pixels, cover)
    print(f"an answer: {(time.perf_counter() - start) / 20 * 1000:.0f} ms")
