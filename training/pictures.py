"""Pictures of made-up solids, with what is true of them.

`python -m training.pictures FOLDER --count N --seed S [--kinds trained|left-out]`
"""

from __future__ import annotations

import argparse
import time
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.random import Generator
from numpy.typing import NDArray

from nebrel.core.figure.learned import FRAME_PX, membrane
from training.kernels import open_sky, seen, shaded
from training.shapes import LEFT_OUT, TRAINED, Kind

A_SHAPE = 4  # pictures of each shape
UNLIT = 0.27  # of all pictures: colours and strong patterns alone
_DRAWN = 0.1  # of the rest: flat tones, mostly with lines of ink
_CHUNK = 1000
Array = NDArray[np.float32]


@dataclass(frozen=True)
class Truth:
    """What is true of a shape, from the front; half the picture's width is 1.

    Attributes
    ----------
    front, thick : (size, size) of what is inside
    normals : (size, size, 3) right, up, to the eye
    inside, parts : (size, size) uint8
    """

    front: Array
    thick: Array
    normals: Array
    inside: NDArray[np.uint8]
    parts: NDArray[np.uint8]


def truth(kind: Kind, rng: Generator, size: int = FRAME_PX) -> Truth:
    """A shape of a kind that fills the picture."""
    while True:
        fitted = kind(rng).fitted(float(rng.uniform(0.72, 0.9)))
        front, back, normals, inside, parts = seen(*fitted, size)
        border = inside[[0, -1]].any() or inside[:, [0, -1]].any()
        if inside.mean() > 0.06 and not border:
            middle = float(front[inside > 0].mean())
            front = np.where(inside > 0, front - middle, 0)
            thick = np.where(inside > 0, front + middle - back, 0)
            return Truth(front.astype("f4"), thick.astype("f4"), normals, inside, parts)


def _noise(rng: Generator, size: int, often: float) -> Array:
    n = min(size, max(2, int(often)) + 3)
    rough = rng.normal(size=(n, n)).astype(np.float32)
    return cv2.resize(rough, (size, size), interpolation=cv2.INTER_LINEAR)


def colours(of: Truth, rng: Generator, strong: bool = False, plain: bool = False) -> Array:
    """(size, size, 3) what it is painted with: a colour for each part, and patterns over them."""
    size = len(of.inside)
    if plain:
        return np.full((size, size, 3), 0.6, np.float32)
    base = rng.uniform(0.1, 0.95, 3)
    palette = base + rng.normal(size=(16, 3)) * rng.choice([0.03, 0.15, 0.35])
    palette = np.clip(palette, 0.04, 0.98)
    if rng.random() < 0.2:
        palette = np.repeat(palette.mean(axis=1, keepdims=True), 3, axis=1)
    paint = palette[of.parts.astype(int) % 16].astype(np.float32)
    rows, cols = (np.mgrid[0:size, 0:size] / size * 2 - 1).astype(np.float32)
    layers = int(rng.integers(1, 4)) if strong else int(rng.choice(4, p=[0.3, 0.4, 0.2, 0.1]))
    for _ in range(layers):
        fresh = rng.uniform(0, 1, 3) if rng.random() < 0.5 else base * rng.uniform(0.3, 1.6)
        share = _pattern(of, rng, rows, cols) * rng.uniform(0.5 if strong else 0.3, 1)
        if rng.random() < 0.2:
            share = share * (of.parts == rng.integers(0, 5))
        paint = paint + (np.clip(fresh, 0.03, 0.98) - paint) * share[..., None]
    return paint.astype(np.float32)


def _pattern(of: Truth, rng: Generator, rows: Array, cols: Array) -> Array:
    """Stripes, patches, a fade, checks, clouds or spots: how much of it each pixel has."""
    size, which = len(rows), int(rng.integers(0, 6))
    to = rng.normal(size=(2, 3))
    to /= np.linalg.norm(to, axis=1, keepdims=True)
    if rng.random() < 0.35:
        to[:, 2] = 0  # as on the paper, not on the body
    along, across = (a * cols + b * rows + c * of.front for a, b, c in to)
    often = float(np.exp(rng.uniform(np.log(4), np.log(40))))
    if which == 0:
        waver = _noise(rng, size, 4) * rng.uniform(0, 1.5)
        found = np.sin(along * often + rng.uniform(0, 6) + waver) > rng.uniform(-0.5, 0.7)
    elif which == 1:
        found = _noise(rng, size, rng.uniform(3, 25)) > rng.uniform(0, 1)
    elif which == 2:
        found = np.clip(along * rng.uniform(0.4, 1.5) + 0.5, 0, 1)
    elif which == 3:
        found = np.sin(along * often) * np.sin(across * often) > 0
    elif which == 4:
        found = np.clip(0.5 + 0.4 * _noise(rng, size, rng.uniform(2, 30)), 0, 1)
    else:
        found = np.zeros((size, size), np.float32)
        for _ in range(int(rng.integers(1, 7))):
            x, y, r = rng.uniform(-0.7, 0.7), rng.uniform(-0.7, 0.7), rng.uniform(0.05, 0.35)
            away = ((cols - x) ** 2 + (rows - y) ** 2) / r**2
            found = np.maximum(found, np.exp(-away) if rng.random() < 0.5 else away < 1)
    return np.asarray(found, np.float32)


def _lamp(rng: Generator) -> Array:
    """Where a light is: mostly above and in front."""
    if rng.random() < 0.7:
        turn, lift = rng.uniform(-1.2, 1.2), rng.uniform(0.1, 1.2)
        ahead = np.cos(turn) * np.cos(lift) + 0.15
        at = np.array([np.sin(turn) * np.cos(lift), np.sin(lift), ahead])
    else:
        at = rng.normal(size=3)
        at[2] = abs(at[2]) + 0.2
    found: Array = (at / np.linalg.norm(at)).astype(np.float32)
    return found


def picture(of: Truth, rng: Generator, lit: bool | None = None, plain: bool = False) -> Array:
    """(size, size, 3) 0 to 1 of a shape, black around it.

    Parameters
    ----------
    lit : left out: mostly
    plain : gray all over instead of painted
    """
    fate = rng.random()
    unlit = fate < UNLIT if lit is None else not lit
    shown: NDArray[Any]
    paint = colours(of, rng, strong=unlit, plain=plain)
    if unlit:
        shown = paint
    elif lit is None and fate < UNLIT + _DRAWN * (1 - UNLIT):
        shown = _drawn(of, rng, paint)
    else:
        shown = _lit(of, rng, paint)
    if rng.random() < 0.6:
        shown = np.maximum(shown, 0) ** (1 / rng.uniform(1, 2.2))
    mask = of.inside.astype(np.float32)
    blur = float(rng.uniform(0.3, 0.9))
    around = np.maximum(cv2.GaussianBlur(mask, (0, 0), blur), 0.15)
    shown = cv2.GaussianBlur(shown * mask[..., None], (0, 0), blur) / around[..., None]
    if not unlit:
        bright = np.percentile(shown[of.inside > 0], 97)
        shown = shown * rng.uniform(0.7, 1.1) / max(0.1, float(bright))
    shown = shown + rng.normal(size=shown.shape) * rng.uniform(0, 0.025)
    return (np.clip(shown, 0, 1) * (soft(of) > 0.02)[..., None]).astype(np.float32)


def soft(of: Truth) -> Array:
    """(size, size) its mask with a soft edge, 0 to 1."""
    return np.asarray(cv2.GaussianBlur(of.inside.astype(np.float32), (0, 0), 0.5), np.float32)


def _drawn(of: Truth, rng: Generator, paint: Array) -> Array:
    edge = np.zeros(of.inside.shape, bool)
    for axis in (0, 1):
        steps = np.abs(np.diff(of.front, axis=axis)) > 0.12
        other = np.diff(of.parts.astype(int), axis=axis) != 0
        if axis == 0:
            edge[1:] |= steps | other
        else:
            edge[:, 1:] |= steps | other
    shown = paint * (1 - 0.9 * edge[..., None]) if rng.random() < 0.7 else paint
    if rng.random() < 0.5:
        bright = of.normals @ _lamp(rng) > rng.uniform(0, 0.5)
        shown = shown * np.where(bright, 1, rng.uniform(0.5, 0.85))[..., None]
    return np.asarray(shown, np.float32)


def _lit(of: Truth, rng: Generator, paint: Array) -> Array:
    lamp = _lamp(rng)
    direct = np.clip(of.normals @ lamp, 0, None)
    if rng.random() < 0.4:
        direct = direct * (1 - (1 - shaded(of.front, of.inside, lamp)) * rng.uniform(0.4, 1))
    sky = 1 - rng.uniform(0.3, 1) * (1 - open_sky(of.front, of.inside))
    sky = rng.uniform(0.1, 0.6) * sky * (1 + rng.uniform(0, 0.35) * of.normals[..., 1])
    light = sky[..., None] * (1 + 0.08 * rng.normal(size=3))
    light = light + (direct * rng.uniform(0.5, 1.1))[..., None] * (1 + 0.08 * rng.normal(size=3))
    if rng.random() < 0.35:
        other = np.clip(of.normals @ _lamp(rng), 0, None) * rng.uniform(0.1, 0.5)
        light = light + other[..., None] * (1 + 0.12 * rng.normal(size=3))
    shown = paint * light
    if rng.random() < 0.45:
        half = lamp + np.array([0, 0, 1], np.float32)
        gleam = np.clip(of.normals @ (half / np.linalg.norm(half)), 0, 1)
        sharp = np.exp(rng.uniform(1.5, 4.5))
        shown = shown + (rng.uniform(0.1, 0.7) * gleam**sharp)[..., None]
    return np.asarray(shown, np.float32)


@dataclass
class Pictures:
    """Many pictures: `colours` (n, size, size, 3) uint8, and which shape each is of.

    The rest is of shapes: `inside` uint8, `film`, `front`, `thick` float16, `normals` int8, `kind`.
    """

    colours: NDArray[np.uint8]
    shape: NDArray[np.int32]
    inside: NDArray[np.uint8]
    film: NDArray[np.float16]
    front: NDArray[np.float16]
    thick: NDArray[np.float16]
    normals: NDArray[np.int8]
    kind: NDArray[np.uint8]

    def save(self, path: Path) -> None:
        """As one file; complete, or not there."""
        part = path.with_suffix(".part")
        with part.open("wb") as stream:
            np.savez(stream, **vars(self))
        part.replace(path)

    @classmethod
    def load(cls, paths: Sequence[Path]) -> Pictures:
        """Of several files in one."""
        read = [dict(np.load(path)) for path in paths]
        so_far = 0
        for one in read:
            one["shape"] = one["shape"] + so_far
            so_far += len(one["kind"])
        return cls(**{name: np.concatenate([one[name] for one in read]) for name in read[0]})


def make(
    count: int,
    seed: int,
    kinds: Sequence[Kind],
    a_shape: int = A_SHAPE,
    lit: bool | None = None,
) -> Pictures:
    """So many pictures, a few of each shape, the kinds in turn.

    Parameters
    ----------
    lit : all of them, or none; left out: mostly
    """
    rng = np.random.default_rng(seed)
    shown: list[NDArray[np.uint8]] = []
    shape: list[int] = []
    truths: list[Truth] = []
    kind: list[int] = []
    for at in range(count):
        if at % a_shape == 0:
            kind.append(len(kind) % len(kinds))
            truths.append(truth(kinds[kind[-1]], rng))
        shape.append(len(kind) - 1)
        shown.append(np.round(255 * picture(truths[-1], rng, lit)).astype(np.uint8))
    return Pictures(
        np.stack(shown),
        np.array(shape, np.int32),
        np.stack([one.inside for one in truths]),
        np.stack([membrane(one.inside > 0) for one in truths]).astype(np.float16),
        np.stack([one.front for one in truths]).astype(np.float16),
        np.stack([one.thick for one in truths]).astype(np.float16),
        np.stack([np.round(127 * one.normals) for one in truths]).astype(np.int8),
        np.array(kind, np.uint8),
    )


def main() -> None:
    """Make files of a thousand pictures each; those that are there are kept."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--count", type=int, default=50_000)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--each", type=int, default=A_SHAPE, help="pictures of a shape")
    parser.add_argument("--kinds", choices=["trained", "left-out"], default="trained")
    parser.add_argument("--only", nargs="+", metavar="KIND", help="of these kinds alone")
    options = parser.parse_args()
    cv2.setNumThreads(1)
    options.folder.mkdir(parents=True, exist_ok=True)
    kinds = [
        kind
        for kind in (TRAINED if options.kinds == "trained" else LEFT_OUT)
        if options.only is None or kind.__name__ in options.only
    ]
    for at in range(-(-options.count // _CHUNK)):
        path = options.folder / f"{options.seed:03}-{at:04}.npz"
        if path.exists():
            continue
        start = time.perf_counter()
        amount = min(_CHUNK, options.count - at * _CHUNK)
        make(amount, 10_000 * options.seed + at, kinds, options.each).save(path)
        print(f"{path.name} {amount / (time.perf_counter() - start):.0f} a second", flush=True)


if __name__ == "__main__":
    main()
