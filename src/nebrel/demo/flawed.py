"""Demo pictures that are flawed on purpose, each with its clean twin. Arrays are tones, 0 to 1."""

from __future__ import annotations

from itertools import pairwise

import cv2
import numpy as np

from nebrel.core.data import Floats
from nebrel.demo.pictures import craters, ringed_planet, smooth_noise


def door_sign(flawed: bool = True, rows: int = 900, cols: int = 1400) -> Floats:
    """A carved door sign as a scan: off-white paper under falling light, dark but not black ink.

    (rows, cols) float32; the clean twin is pure black on pure white.
    """
    scale = cols / 1400
    ink = np.zeros((rows, cols), np.uint8)

    def at(x: float, y: float) -> tuple[int, int]:
        return round(x * scale), round(y * scale)

    cv2.rectangle(ink, at(90, 90), at(1310, 810), 255, round(16 * scale), cv2.LINE_AA)
    cv2.rectangle(ink, at(130, 130), at(1270, 770), 255, round(8 * scale), cv2.LINE_AA)
    for text, y, size, weight in (
        ("CORVANE HILL", 360, 4.2, 16),
        ("touch gallery", 510, 3.0, 11),
    ):
        font = cv2.FONT_HERSHEY_DUPLEX
        (wide, _), _ = cv2.getTextSize(text, font, size * scale, round(weight * scale))
        place = ((cols - wide) // 2, round(y * scale))
        cv2.putText(
            ink, text, place, font, size * scale, 255, max(1, round(weight * scale)), cv2.LINE_AA
        )
    cv2.ellipse(ink, at(700, 700), at(120, 105), 0, 180, 360, 255, -1, cv2.LINE_AA)
    cv2.rectangle(ink, at(560, 700), at(840, 722), 255, -1, cv2.LINE_AA)
    cover = ink.astype(np.float32) / 255
    if not flawed:
        return (1 - cover).astype(np.float32)
    y, x = np.mgrid[0:rows, 0:cols].astype(np.float32)
    paper = 0.97 - 0.10 * np.hypot(x / cols - 0.35, y / rows - 0.3)
    page = paper * (1 - cover) + 0.16 * cover
    grain = np.random.default_rng(21).normal(0, 2.2 / 255, page.shape)
    return np.clip(page + grain, 0, 1).astype(np.float32)


def faded_print(flawed: bool = True) -> Floats:
    """The ringed planet from an old print: black has gone gray, white has gone dull."""
    clean = ringed_planet(704, 1024)
    clean = (clean - clean.min()) / (clean.max() - clean.min())
    return (0.31 + 0.36 * clean).astype(np.float32) if flawed else clean


def captioned(flawed: bool = True) -> Floats:
    """Craters with a caption burnt into the lower left."""
    clean = 0.12 + 0.76 * craters(720, 960, seed=17)
    if not flawed:
        return clean.astype(np.float32)
    label = np.zeros(clean.shape, np.uint8)
    font = cv2.FONT_HERSHEY_DUPLEX
    cv2.putText(label, "plate 7, west wall", (48, 660), font, 1.3, 255, 3, cv2.LINE_AA)
    cover = label.astype(np.float32) / 255
    return (clean * (1 - cover) + cover).astype(np.float32)


CAPTION_BOX = (40, 612, 440, 68)
"""Where the caption stands: left, top, wide, tall in pixels."""


def moon_hare(cluttered: bool = True, rows: int = 900, cols: int = 800) -> tuple[Floats, Floats]:
    """The mascot over a cluttered shelf, and its true mask.

    Returns
    -------
    (rows, cols, 3) float32 sRGB, and (rows, cols) float32, 1 inside the hare
    """
    big = np.zeros((rows * 2, cols * 2), np.uint8)

    def blob(x: float, y: float, a: float, b: float, turn: float, value: int = 255) -> None:
        centre = (round(x * cols * 2), round(y * cols * 2))
        axes = (round(a * cols * 2), round(b * cols * 2))
        cv2.ellipse(big, centre, axes, turn, 0, 360, value, -1, cv2.LINE_AA)

    blob(0.50, 0.80, 0.21, 0.235, 0)  # body
    blob(0.50, 0.485, 0.145, 0.13, 0)  # head
    blob(0.425, 0.265, 0.05, 0.17, -8)  # ears
    blob(0.585, 0.265, 0.05, 0.17, 10)
    blob(0.40, 1.00, 0.12, 0.055, 0)  # feet
    blob(0.60, 1.00, 0.12, 0.055, 0)
    blob(0.715, 0.90, 0.06, 0.06, 0)  # tail
    shape = cv2.resize(big, (cols, rows), interpolation=cv2.INTER_AREA).astype(np.float32) / 255
    depth = cv2.distanceTransform((shape > 0.5).astype(np.uint8), cv2.DIST_L2, 5)
    light = 0.58 + 0.24 * np.clip(depth / (0.11 * cols), 0, 1) ** 0.6
    fur = light + 0.05 * (smooth_noise(rows, cols, 60, 3, 4) - 0.5)
    hare = np.dstack([fur * 1.0, fur * 0.97, fur * 0.90]).astype(np.float32)
    for x, y, size in ((0.445, 0.465, 0.016), (0.555, 0.465, 0.016), (0.50, 0.53, 0.012)):
        cv2.circle(
            hare,
            (round(x * cols), round(y * cols)),
            round(size * cols),
            (0.2, 0.16, 0.2),
            -1,
            cv2.LINE_AA,
        )
    behind = np.ones_like(hare)
    if cluttered:
        behind = _clutter(rows, cols)
    cover = shape[..., None]
    return np.clip(behind * (1 - cover) + hare * cover, 0, 1).astype(np.float32), shape


def _clutter(rows: int, cols: int) -> Floats:
    rng = np.random.default_rng(9)
    scene = np.empty((rows, cols, 3), np.float32)
    scene[:] = (0.30, 0.36, 0.42)
    for _ in range(90):
        colour = tuple(float(v) for v in rng.uniform([0.05, 0.12, 0.15], [0.45, 0.5, 0.62]))
        x, y = int(rng.integers(0, cols)), int(rng.integers(0, rows))
        w, h = (int(v) for v in rng.integers(20, 190, 2))
        if rng.random() < 0.6:
            cv2.rectangle(scene, (x, y), (x + w, y + h), colour, -1, cv2.LINE_AA)
        else:
            cv2.circle(scene, (x, y), w // 2, colour, -1, cv2.LINE_AA)
    grain = smooth_noise(rows, cols, 40, 4, 8)[..., None] - 0.5
    return (scene + 0.12 * grain).astype(np.float32)


def star_chart(thin: bool = True, size: int = 1000) -> Floats:
    """A chart of made-up stars with lines between them, dark on white; thin lines or bold."""
    fine = 2
    side = size * fine
    sheet = np.full((side, side), 255, np.uint8)
    rng = np.random.default_rng(33)
    line = (2 if thin else 16) * fine
    for radius in (0.44, 0.31, 0.17):
        cv2.circle(sheet, (side // 2, side // 2), round(radius * side), 0, line, cv2.LINE_AA)
    stars = [
        (0.5 + r * np.cos(a), 0.5 + r * np.sin(a))
        for r, a in zip(rng.uniform(0.06, 0.40, 11), np.linspace(0, 5.8, 11), strict=True)
    ]
    spots = [(round(float(x) * side), round(float(y) * side)) for x, y in stars]
    for first, second in pairwise(spots):
        cv2.line(sheet, first, second, 0, line, cv2.LINE_AA)
    for spot in spots:
        cv2.circle(sheet, spot, 15 * fine, 0, -1, cv2.LINE_AA)
    return cv2.resize(sheet, (size, size), interpolation=cv2.INTER_AREA).astype(np.float32) / 255


def comet_logo(size: int = 72) -> tuple[Floats, Floats]:
    """A tiny comet for a cutter: its tone, and its transparency; clear pixels are white."""
    y, x = np.mgrid[0:size, 0:size].astype(np.float32)
    x, y = (x + 0.5) / size, (y + 0.5) / size
    head = 0.17 - np.hypot(x - 0.68, y - 0.66)
    along = ((0.68 - x) + (0.66 - y)) / np.sqrt(2)
    across = np.abs((x - 0.68) - (y - 0.66)) / np.sqrt(2)
    tail = np.where((along > 0) & (along < 0.72), 0.16 * (1 - along / 0.72) - across, -1)
    inside = np.maximum(head, tail) * size + 0.5
    alpha = np.clip(inside, 0, 1).astype(np.float32)
    tone = np.where(alpha > 0, 0.15, 1.0).astype(np.float32)
    return tone, alpha


def grainy_photo(flawed: bool = True, sigma: float = 6 / 255) -> Floats:
    """Ridges under an evening sky, with the grain of a fast film."""
    clean = 0.08 + 0.84 * ringed_planet(704, 1024, seed=12)
    if not flawed:
        return clean.astype(np.float32)
    grain = np.random.default_rng(2).normal(0, sigma, clean.shape)
    return np.clip(clean + grain, 0, 1).astype(np.float32)
