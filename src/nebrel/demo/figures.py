"""Demo pieces in the round: the moon hare, an oil lamp, a star keeper for the wall."""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats
from nebrel.core.recipe.models import Recipe
from nebrel.demo.flawed import moon_hare
from nebrel.demo.pictures import as_colour_png, smooth_noise
from nebrel.store import Store

_FINE = 3  # drawn as many times as large
Mask = NDArray[np.uint8]


def fill_figures(store: Store) -> None:
    """Put them on the shelf."""
    hare, _ = moon_hare(cluttered=False)
    ears = [
        {
            "name": "Left ear",
            "ahead": "3 mm",
            "strokes": [{"points": [[322, 85], [336, 190], [345, 240]], "wide": 104}],
        },
        {
            "name": "Right ear",
            "ahead": "-3 mm",
            "strokes": [{"points": [[491, 85], [474, 190], [463, 240]], "wide": 108}],
        },
    ]
    _add(
        store,
        "Moon hare in the round",
        "moon-hare-cut.png",
        hare,
        {
            "tall": "70 mm",
            "thick": "34 mm",
            "parts": ears,
            "base": "3 mm",
            "resolution": 320,
        },
    )
    _add(
        store,
        "Oil lamp, turned",
        "oil-lamp.png",
        oil_lamp(),
        {"way": "turn", "tall": "96 mm", "wall": "1.6 mm", "resolution": 320},
    )
    _add(
        store,
        "Star keeper for the wall",
        "star-keeper.png",
        star_keeper(),
        {"way": "half", "tall": "120 mm", "thick": "22 mm", "detail": "0.8 mm", "resolution": 384},
    )


def _add(store: Store, name: str, filename: str, pixels: Floats, figure: dict[str, Any]) -> None:
    info = store.add_picture(as_colour_png(pixels), filename)
    picture = {"file": {"sha256": info.sha256, "filename": filename}}
    begins = {"kind": "figure", "picture": picture, **figure}
    recipe = Recipe.model_validate({"begins": begins})
    store.create_from_recipe(recipe, name, "figure begun")


def oil_lamp(rows: int = 900, cols: int = 640) -> Floats:
    """A drawing of an oil lamp in flat colours with ink lines, on white paper."""
    from scipy.interpolate import PchipInterpolator

    profile = [
        (0.285, 0.95),
        (0.285, 0.925),
        (0.235, 0.905),
        (0.120, 0.865),
        (0.085, 0.82),
        (0.105, 0.775),
        (0.200, 0.72),
        (0.270, 0.645),
        (0.285, 0.565),
        (0.250, 0.49),
        (0.165, 0.435),
        (0.110, 0.40),
        (0.095, 0.36),
        (0.120, 0.30),
        (0.150, 0.22),
        (0.160, 0.15),
        (0.150, 0.085),
        (0.140, 0.05),
    ]
    reach, height = np.array(profile[::-1]).T
    line = np.linspace(height[0], height[-1], 400)
    right = PchipInterpolator(height, reach)(line)
    sides = [np.stack([0.5 + way * right, line], axis=1) for way in (1, -1)]
    outline = np.concatenate([sides[0], sides[1][::-1]])
    size = np.array([cols, rows])
    big = np.ones((rows * _FINE, cols * _FINE, 3), np.float32)
    inside = np.zeros(big.shape[:2], np.uint8)
    # Widths are shares of the width, heights of the height.
    cv2.fillPoly(inside, [np.round(outline * size * _FINE).astype(np.int32)], 1)
    bands = [
        (0.0, (0.84, 0.80, 0.70)),
        (0.36, (0.72, 0.52, 0.22)),
        (0.44, (0.56, 0.36, 0.16)),
        (0.56, (0.74, 0.55, 0.24)),
        (0.60, (0.30, 0.36, 0.44)),
        (0.64, (0.74, 0.55, 0.24)),
        (0.74, (0.56, 0.36, 0.16)),
        (0.90, (0.40, 0.26, 0.14)),
    ]
    for top, colour in bands:
        below = np.arange(len(big))[:, None] >= top * len(big)
        big[below & (inside > 0)] = colour
    for top, _ in bands[1:]:
        at = round(top * len(big))
        line = np.zeros_like(inside)
        line[at - 3 : at + 3] = 1
        big[(line > 0) & (inside > 0)] = (0.16, 0.12, 0.12)
    return cv2.resize(big, (cols, rows), interpolation=cv2.INTER_AREA)


def star_keeper(rows: int = 1000, cols: int = 680) -> Floats:
    """Somebody in a wide robe who holds a star, lit from the upper left, before a light wall."""
    y, x = np.mgrid[0:rows, 0:cols].astype(np.float32)
    u, v = (x - cols / 2) / rows, y / rows
    wide = 0.085 + 0.17 * np.clip((v - 0.27) / 0.66, 0, 1) ** 0.8
    within = (v > 0.27) & (v < 0.95)
    robe = np.where(within, 0.6 * np.sqrt(np.maximum(wide**2 - u**2, 0)), 0)
    hood = _ball(u, v - 0.19, 0.115, 0.135)
    folds = 0.006 * np.sin(u / wide * 9) * np.clip((v - 0.3) * 4, 0, 1)
    weave = 0.0012 * np.sin(x / 3.4) * np.sin(y / 3.4)
    parts: list[tuple[Floats, tuple[float, float, float]]] = [
        (np.where(robe > 0.02, robe + folds + weave, robe), (0.24, 0.33, 0.52)),
        (hood, (0.20, 0.27, 0.45)),
    ]
    held = [
        (_ball(np.abs(u) - 0.10, v - 0.42, 0.055, 0.11), 0.02, (0.30, 0.40, 0.60)),
        (_ball(u, v - 0.20, 0.066, 0.080), 0.04, (0.80, 0.62, 0.48)),
        (_ball(np.abs(u) - 0.058, v - 0.51, 0.036, 0.032), 0.05, (0.80, 0.62, 0.48)),
        (_star(u, v - 0.46, 0.10), 0.08, (0.90, 0.72, 0.28)),
    ]
    ground = np.maximum(robe, hood)
    for part, by, colour in held:
        parts.append((np.where(part > 0, part + ground + by, 0), colour))
    heights = np.stack([part for part, _ in parts]).astype(np.float32)
    top = heights.argmax(axis=0)
    high = heights.max(axis=0)
    inside = high > 0
    shape = cv2.GaussianBlur(high, (0, 0), 1.2) * np.float32(rows)
    gy, gx = np.gradient(shape)
    normals = np.dstack([-gx, gy, np.ones_like(gx)])
    normals = normals / np.linalg.norm(normals, axis=2, keepdims=True)
    light = np.array([-0.45, 0.55, 0.70])
    facing = np.clip(normals @ (light / np.linalg.norm(light)), 0, None)
    shade = 0.34 + 0.72 * facing
    shade = shade + 0.02 * (smooth_noise(rows, cols, 40, 3, 3) - 0.5)
    colours = np.array([colour for _, colour in parts], np.float32)[top]
    for side in (-0.026, 0.026):  # eyes
        colours[np.hypot(u - side, (v - 0.195) * 1.3) < 0.009] = (0.2, 0.16, 0.2)
    lit = np.clip(colours * shade[..., None], 0, 1)
    cover = cv2.GaussianBlur(inside.astype(np.float32), (0, 0), 0.8)[..., None]
    wall = np.full_like(lit, 0.9)
    found: Floats = (lit * cover + wall * (1 - cover)).astype(np.float32)
    return found


def _ball(u: Floats, v: Floats, wide: float, tall: float) -> Floats:
    share = 1 - (u / wide) ** 2 - (v / tall) ** 2
    return (np.sqrt(np.maximum(share, 0)) * min(wide, tall)).astype(np.float32)


def _star(u: Floats, v: Floats, reach: float) -> Floats:
    """Five points, highest in the middle."""
    angle = np.arctan2(u, -v)
    wedge = np.abs((angle + np.pi / 5) % (2 * np.pi / 5) - np.pi / 5)
    limit = reach * (0.40 + 0.60 * (1 - wedge / (np.pi / 5)) ** 1.6)
    found: Floats = (0.03 * np.clip(1 - np.hypot(u, v) / limit, 0, 1)).astype(np.float32)
    return found
