"""A picture as a phone takes it: soft optics, noise, and the blocks of JPEG."""

from __future__ import annotations

import cv2
import numpy as np

from nebrel.core.data import Floats
from nebrel.demo.pictures import smooth_noise


def photograph(rows: int = 3000, cols: int = 4000, seed: int = 4) -> bytes:
    """A colour JPEG of the observatory on its hill at dusk.

    Sky, moon and ridges are smooth, the hill is rough down to the pixel, the dome and its
    railing have sharp edges.
    """
    rng = np.random.default_rng(seed)
    shade = _scene(rows, cols, seed)
    warm = cv2.resize(smooth_noise(rows // 8, cols // 8, 3, 3, seed + 9), (cols, rows)) - 0.5
    colour = np.stack([shade - 0.08 * warm, shade, shade + 0.10 * warm], axis=-1)
    # Photons first, then what the sensor adds, both calmed a little as any phone does.
    noise = rng.standard_normal((rows, cols, 3)).astype(np.float32)
    noise = cv2.GaussianBlur(noise, (0, 0), 0.6) * np.float32(1.9)
    colour += noise * (0.006 + 0.012 * np.sqrt(np.clip(colour, 0, 1)))
    pixels = np.rint(np.clip(colour, 0, 1) * 255).astype(np.uint8)
    _, encoded = cv2.imencode(".jpg", pixels, [cv2.IMWRITE_JPEG_QUALITY, 88])
    return encoded.tobytes()


def _scene(rows: int, cols: int, seed: int) -> Floats:
    y, x = np.mgrid[0:rows, 0:cols].astype(np.float32) / np.float32(rows)
    wide = cols / rows
    shade = 0.82 - 0.45 * y
    shade += 0.05 * cv2.resize(smooth_noise(rows // 4, cols // 4, 3, 6, seed), (cols, rows))
    moon = np.hypot(x - 0.24 * wide, y - 0.22)
    shade = np.where(moon < 0.09, 0.95 - 0.1 * smooth_noise(rows, cols, 40, 4, seed + 1), shade)
    for number, (height, dark) in enumerate(((0.52, 0.34), (0.6, 0.27), (0.7, 0.2))):
        ridge = height - 0.12 * smooth_noise(2, cols, 5, 9, seed + 20 + number)[0]
        shade = np.where(y > ridge, dark + 0.05 * (y - ridge), shade)
    rough = smooth_noise(rows, cols, 12, 9, seed + 2)
    hill = 0.66 + 0.5 * (x / wide - 0.62) ** 2 - 0.03 * smooth_noise(2, cols, 9, 9, seed + 5)[0]
    shade = np.where(y > hill, 0.12 + 0.4 * rough * (0.5 + y - hill), shade)
    dx, dy = (x - 0.62 * wide) / 0.17, (y - 0.52) / 0.17
    dome = (np.hypot(dx, dy) < 1) & (dy < 0)
    light = np.clip(0.55 - 0.4 * dx - 0.35 * dy, 0.1, 1)
    ribs = 0.05 * (np.cos(24 * np.arctan2(dx, -dy)) > 0.9)
    shade = np.where(dome, 0.18 + 0.6 * light - ribs, shade)
    wall = (np.abs(dx) < 0.92) & (dy >= 0) & (y < hill + 0.02)
    bricks = ((y * 90 % 1) < 0.12) | (((x * 45 + np.floor(y * 90) % 2 / 2) % 1) < 0.06)
    shade = np.where(wall, 0.24 + 0.35 * light - 0.06 * bricks, shade)
    rail = (np.abs(y - 0.5) < 0.002) | ((np.abs(y - 0.51) < 0.012) & ((x * 60 % 1) < 0.08))
    shade = np.where(rail & (np.abs(dx) < 1.4) & ~dome, 0.1, shade)
    return cv2.GaussianBlur(shade.astype(np.float32), (0, 0), 0.8 * rows / 3000)
