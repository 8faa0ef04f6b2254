"""What is said to suit a picture, of 60 whose purpose is known.

29 are made here, 12 are of the demo world, 19 are those that scikit-image brings.

    python benchmarks/suits.py
"""

from __future__ import annotations

import sys
from collections.abc import Iterator
from typing import Any

import cv2
import numpy as np
from skimage import data

from nebrel.core.data import Picture
from nebrel.core.picture.working import begin
from nebrel.core.questions.suits import look_at, ranked
from nebrel.demo import figures, flawed, pictures

Pixels = Any
ROWS, COLS = 600, 800
Y, X = (np.mgrid[0:ROWS, 0:COLS] + 0.5) / ROWS
RNG = np.random.default_rng(5)


def rounds(*each: tuple[float, float, float]) -> Pixels:
    """Half balls of heights on nothing."""
    found = np.zeros((ROWS, COLS))
    for x, y, radius in each:
        found = np.maximum(
            found, np.sqrt(np.clip(radius**2 - (X - x) ** 2 - (Y - y) ** 2, 0, None))
        )
    return found / found.max()


def drawn(*lines: Any, wide: int = 5, ink: float = 0.0, ground: float = 1.0) -> Pixels:
    """Lines on a plain ground."""
    found = np.full((ROWS, COLS), ground)
    for line in lines:
        cv2.polylines(found, [np.round(line).astype(np.int32)], False, ink, wide, cv2.LINE_AA)
    return found


def shape(radius: Any, ink: float = 0.0, ground: float = 1.0) -> Pixels:
    """What lies within a radius that hangs on the angle."""
    angle = np.arctan2(Y - 0.5, X - 0.667)
    inside = np.hypot(Y - 0.5, X - 0.667) < radius(angle)
    return cv2.GaussianBlur(np.where(inside, ink, ground), (0, 0), 0.7)


def lit(heights: Pixels, colour: tuple[float, float, float] | None, ground: Any) -> Pixels:
    """A body seen in light from above on the left, on a ground."""
    dy, dx = np.gradient(cv2.GaussianBlur(heights, (0, 0), 3) * 200)
    light = np.clip((0.5 * dx + 0.5 * dy + 1) / np.sqrt(dx**2 + dy**2 + 1) * 0.75 + 0.15, 0, 1)
    light = light + RNG.normal(0, 0.012, light.shape)
    inside = cv2.GaussianBlur((heights > 0).astype(np.float64), (0, 0), 1.0)
    if colour is None:
        return light * inside + ground * (1 - inside)
    seen = light[..., None] * np.array(colour)
    return seen * inside[..., None] + np.array(ground) * (1 - inside[..., None])


def flat(levels: int, seed: int) -> Pixels:
    """Plateaus of some tones."""
    noise = pictures.smooth_noise(ROWS, COLS, 3, 2, seed)
    noise = (noise - noise.min()) / np.ptp(noise)
    return np.minimum((noise * levels).astype(int), levels - 1) / (levels - 1)


def doll(shaded: bool) -> Pixels:
    """A doll drawn in colours, with a dark outline, on white."""
    found = np.ones((ROWS, COLS, 3))
    middle = COLS // 2
    for place, axes, colour in (
        ((middle, 400), (90, 150), (0.75, 0.2, 0.3)),
        ((middle, 180), (80, 90), (0.95, 0.8, 0.7)),
        ((middle - 120, 380), (30, 100), (0.95, 0.8, 0.7)),
        ((middle + 120, 380), (30, 100), (0.95, 0.8, 0.7)),
        ((middle - 30, 165), (9, 12), (0.1, 0.1, 0.15)),
        ((middle + 30, 165), (9, 12), (0.1, 0.1, 0.15)),
    ):
        cv2.ellipse(found, place, axes, 0, 0, 360, colour, -1, cv2.LINE_AA)
        cv2.ellipse(found, place, axes, 0, 0, 360, (0.12, 0.1, 0.12), 4, cv2.LINE_AA)
    if shaded:
        shade = np.clip(1.15 - 0.5 * np.abs(X - 0.6), 0, 1)[..., None]
        found = np.where((found < 0.999).any(axis=2, keepdims=True), found * shade, found)
    return np.clip(found, 0, 1)


def cut_out(pixels: Pixels, inside: Pixels) -> Pixels:
    """The same with all else transparent."""
    return np.dstack([pixels, np.asarray(inside, np.float64)])


def cases() -> Iterator[tuple[str, str, Pixels]]:
    """Name, purpose and pixels, 0 to 1."""
    t = np.linspace(0, 1, 400)
    round_ = rounds((0.66, 0.5, 0.35))
    bear = rounds((0.66, 0.62, 0.28), (0.66, 0.3, 0.2), (0.5, 0.15, 0.08), (0.82, 0.15, 0.08))
    vase = np.where(np.abs(X - 0.667) < 0.16 + 0.1 * np.sin(Y * 6), 1.0, 0) * (
        np.abs(Y - 0.5) < 0.4
    )
    vase = vase * np.sqrt(np.clip(1 - ((X - 0.667) / (0.16 + 0.1 * np.sin(Y * 6))) ** 2, 0, 1))
    yield "craters", "relief", pictures.craters(ROWS, COLS)
    yield "ringed planet", "relief", pictures.ringed_planet(ROWS, COLS)
    yield "dome", "relief", pictures.dome(600, 600)
    yield "moonlit hills", "relief", pictures.moonlit_hills(500, 1000)
    yield "rolling land", "relief", pictures.smooth_noise(ROWS, COLS, 4, 5, 1)
    yield "ball of heights", "relief", round_
    yield "bear of heights", "relief", bear
    yield "waves", "relief", 0.5 + 0.25 * np.sin(X * 40) + 0.2 * np.sin(Y * 23 + X * 5)
    yield "bear of heights, dim", "relief", bear * 0.6 + 0.1
    yield "disparity", "relief", np.nan_to_num(data.stereo_motorcycle()[2], posinf=0) / 64
    yield "brick", "relief", data.brick()
    yield "gravel", "relief", data.gravel()
    for name in ("astronaut", "chelsea", "coffee", "rocket", "hubble_deep_field", "retina"):
        yield name, "light panel", getattr(data, name)()
    yield "motorcycle", "light panel", data.stereo_motorcycle()[0]
    yield "tissue", "light panel", data.immunohistochemistry()
    yield "camera", "light panel", data.camera()
    yield "astronaut, gray", "light panel", cv2.cvtColor(data.astronaut(), cv2.COLOR_RGB2GRAY)
    yield "cat, gray", "light panel", cv2.cvtColor(data.chelsea(), cv2.COLOR_RGB2GRAY)
    yield "coins", "light panel", data.coins()
    yield "clock", "light panel", data.clock()
    yield "grainy", "light panel", flawed.grainy_photo()
    sky = np.dstack([0.9 - 0.3 * Y, 0.5 + 0.2 * Y, 0.3 + 0.5 * Y]) + RNG.normal(
        0, 0.02, (*X.shape, 3)
    )
    yield "evening sky", "light panel", sky
    yield "phantom", "flat tones", data.shepp_logan_phantom()
    for levels, seed in ((3, 2), (4, 3), (5, 4), (7, 5)):
        yield f"{levels} plateaus", "flat tones", flat(levels, seed)
    yield "camera in four", "flat tones", (cv2.GaussianBlur(data.camera(), (0, 0), 4) // 64) / 3
    yield "steps", "flat tones", np.floor(X * 4) / 5
    yield "star chart", "stamp", flawed.star_chart(thin=False)
    yield "orbit mark", "stamp", pictures.orbit_mark(600)
    spiral = np.column_stack([400 + 250 * t * np.cos(20 * t), 300 + 250 * t * np.sin(20 * t)])
    yield "spiral", "stamp", drawn(spiral)
    yield "hatching", "stamp", drawn(*([[80 * k, 60], [80 * k + 90, 540]] for k in range(1, 9)))
    yield "light lines", "stamp", drawn(spiral, ink=1.0, ground=0.0)
    face = [[400 + 200 * np.cos(7 * a), 300 + 200 * np.sin(7 * a)] for a in t]
    yield "line face", "stamp", drawn(np.array(face), spiral * 0.3 + 200, wide=7)
    yield "disc", "cut-out", shape(lambda _: 0.4)
    yield "star", "cut-out", shape(lambda a: 0.28 + 0.13 * np.cos(5 * a))
    yield "wheel", "cut-out", shape(lambda a: 0.38 + 0.03 * np.sign(np.cos(24 * a)))
    yield "light flower", "cut-out", shape(lambda a: 0.3 + 0.1 * np.cos(6 * a), 1.0, 0.0)
    yield "comet", "cut-out", pictures.comet_shape(400, 600)
    yield "horse", "cut-out", data.horse().astype(float)
    yield "chess board", "cut-out", np.kron(np.indices((8, 8)).sum(axis=0) % 2, np.ones((60, 60)))
    yield (
        "blue heart",
        "cut-out",
        np.dstack([shape(lambda a: 0.3 + 0.06 * np.sin(3 * a), tone) for tone in (0.1, 0.2, 0.7)]),
    )
    yield "oil lamp", "figure", figures.oil_lamp(450, 320)
    yield "star keeper", "figure", figures.star_keeper(500, 340)
    yield "doll", "figure", doll(False)
    yield "doll, shaded", "figure", doll(True)
    yield "red bear", "figure", lit(bear, (0.8, 0.35, 0.25), (1.0, 1, 1))
    yield "gray bear", "figure", lit(bear, None, 1.0)
    yield "green vase", "figure", lit(vase, (0.3, 0.7, 0.4), (0.9, 0.9, 0.88))
    yield "gray vase", "figure", lit(vase, None, 0.93)
    yield "ball cut out", "figure", cut_out(lit(round_, (0.7, 0.6, 0.2), (0.0, 0, 0)), round_ > 0)
    yield "doll cut out", "figure", cut_out(doll(True), (doll(False) < 0.99).any(axis=2))
    hare, cover = flawed.moon_hare(cluttered=False, rows=450, cols=400)
    yield "hare", "figure", cut_out(hare, cover) if hare.ndim == 3 else hare
    yield (
        "hare of heights",
        "relief",
        np.where(cover > 0.5, rounds((0.66, 0.5, 0.6))[:450, :400], 0),
    )


def main() -> None:
    """Print how many are right first and among the first two, and what is not."""
    first = second = count = 0
    for name, purpose, given in cases():
        pixels = np.asarray(given, np.float32) / (255 if given.dtype == np.uint8 else 1)
        alpha = None
        if pixels.ndim == 3 and pixels.shape[2] == 4:
            pixels, alpha = pixels[..., :3], np.ascontiguousarray(pixels[..., 3])
        # As a picture of eight bits, as most are.
        pixels = np.round(np.clip(pixels, 0, 1) * 255).astype(np.float32) / 255
        work = begin(Picture(np.ascontiguousarray(pixels), alpha), None, 100.0)
        seen = look_at(work.tone, work.alpha, work.pixels if work.pixels.ndim == 3 else None)
        said = [one for one, _ in ranked(seen)]
        count += 1
        first += said[0] == purpose
        second += purpose in said
        if said[0] != purpose or "-v" in sys.argv:
            print(f"{name}: {' or '.join(said)}, meant as {purpose}  {seen}")
    print(f"{count} pictures: {first} right first, {second} among the first two")


if __name__ == "__main__":
    main()
