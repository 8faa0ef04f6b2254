"""The demo pictures of Corvane Hill, each made by code. Arrays are tones, 0 to 1."""

from __future__ import annotations

import cv2
import numpy as np

from nebrel.core.data import Floats


def smooth_noise(rows: int, cols: int, coarsest: int, octaves: int, seed: int) -> Floats:
    """Fractal value noise, (rows, cols) float32, 0 to 1.

    Parameters
    ----------
    coarsest : cells across at the coarsest octave; each further one doubles it at half strength
    """
    rng = np.random.default_rng(seed)
    total = np.zeros((rows, cols), np.float32)
    for octave in range(octaves):
        across = coarsest * 2**octave
        cells = (max(2, round(across * rows / cols)) + 1, across + 1)
        values = rng.random(cells).astype(np.float32)
        total += cv2.resize(values, (cols, rows), interpolation=cv2.INTER_CUBIC) / 2**octave
    return _stretch(total)


def craters(rows: int = 1152, cols: int = 1536, seed: int = 11) -> Floats:
    """Elevations of a cratered plain, (rows, cols) float32, 0 to 1.

    Each crater is a parabolic bowl with a raised rim that falls off outside, larger ones first,
    as younger craters lie on older ones.
    """
    rng = np.random.default_rng(seed)
    land = 0.55 * smooth_noise(rows, cols, 4, 6, seed)
    y, x = np.mgrid[0:rows, 0:cols].astype(np.float32)
    radii = np.sort(np.minimum(9 / np.maximum(rng.random(150), 0.035) ** 0.92, 210))[::-1]
    for radius in radii:
        cx, cy = rng.uniform(0, cols), rng.uniform(0, rows)
        reach = int(radius * 2.2) + 2
        top, left = max(0, int(cy) - reach), max(0, int(cx) - reach)
        part = np.s_[top : int(cy) + reach, left : int(cx) + reach]
        if land[part].size == 0:
            continue
        r = np.hypot(x[part] - cx, y[part] - cy) / radius
        bearing = np.arctan2(y[part] - cy, x[part] - cx)
        wobble = 1 + 0.02 * np.sin(3 * bearing + radius) + 0.012 * np.sin(7 * bearing - radius)
        r = r * wobble
        floor = float(land[part].mean())
        depth = 0.42 * (radius / 210) ** 0.75
        bowl = floor + depth * (1.25 * np.minimum(r, 1) ** 2 - 1)
        rim = 0.25 * depth * np.exp(-(((r - 1) / 0.28) ** 2)) * (r >= 1)
        inside = np.clip((1.08 - r) / 0.16, 0, 1)
        land[part] = land[part] * (1 - inside) + bowl * inside + rim
        if radius > 120:
            land[part] += depth * 0.35 * np.exp(-((r / 0.16) ** 2))
    return _stretch(cv2.GaussianBlur(land, (0, 0), 1.2))


def ringed_planet(rows: int = 1056, cols: int = 1536, seed: int = 5) -> Floats:
    """A ringed planet over mountain ridges at dusk, (rows, cols) float32, 0 to 1."""
    y, x = np.mgrid[0:rows, 0:cols].astype(np.float32)
    x, y = (x + 0.5) / cols, (y + 0.5) / cols
    sky = 0.62 + 0.34 * np.clip(y / (rows / cols), 0, 1)
    cx, cy, radius = 0.52, 0.25, 0.135
    dx, dy = x - cx, y - cy
    r = np.hypot(dx, dy)
    sphere = np.sqrt(np.clip(1 - (r / radius) ** 2, 0, 1))
    lit = np.clip((-0.55 * dx - 0.5 * dy) / radius + 0.67 * sphere, 0, 1)
    bands = 0.06 * np.sin(46 * (dy + 0.25 * dx) / radius / 2.2)
    planet = np.clip(0.12 + 0.72 * lit + bands * sphere, 0, 1)
    turned_x, turned_y = dx * 0.95 - dy * 0.31, dx * 0.31 + dy * 0.95
    ring_r = np.hypot(turned_x, turned_y / 0.27) / radius
    ring_tone = 0.34 + 0.2 * np.sin(ring_r * 27)
    soft = 1.2 / cols / radius
    ring = np.clip((ring_r - 1.32) / soft, 0, 1) * np.clip((2.05 - ring_r) / soft, 0, 1)
    ring *= 1 - np.clip(1 - np.abs(ring_r - 1.72) / 0.035, 0, 1)
    cover = np.clip((radius - r) * cols / 1.2 + 0.5, 0, 1)
    scene = sky * (1 - cover) + planet * cover
    front = ring * np.where(turned_y > 0, 1, 1 - cover)
    scene = scene * (1 - front) + ring_tone * front
    noise = smooth_noise(64, cols, 5, 6, seed)
    for layer, (base, swing, tone) in enumerate(
        [(0.47, 0.16, 0.56), (0.54, 0.14, 0.36), (0.62, 0.10, 0.16)]
    ):
        crest = base - swing * (noise[8 + 20 * layer] - 0.35)
        mountain = np.clip((y - crest[None, :]) * cols / 1.5 + 0.5, 0, 1)
        veil = tone + 0.10 * np.clip((y - crest[None, :]) / 0.15, 0, 1)
        scene = scene * (1 - mountain) + veil * mountain
    return np.clip(scene, 0, 1).astype(np.float32)


def dome(rows: int = 1200, cols: int = 1200) -> Floats:
    """The observatory dome as a shaded medal, (rows, cols) float32, 0 to 1: light is near."""
    y, x = np.mgrid[0:rows, 0:cols].astype(np.float32)
    x, y = (x + 0.5) / cols * 2 - 1, 1 - (y + 0.5) / rows * 2
    edge = 2.5 / cols

    def inside(distance: Floats) -> Floats:
        return np.clip(0.5 - distance / edge, 0, 1).astype(np.float32)

    def raise_to(land: Floats, where: Floats, tone: Floats | float) -> Floats:
        return np.asarray(land * (1 - where) + tone * where, np.float32)

    r = np.hypot(x, y)
    land = np.full((rows, cols), 0.0, np.float32)
    land = raise_to(land, inside(r - 0.96), 0.55)
    land = raise_to(land, inside(r - 0.89), 0.2)
    rng = np.random.default_rng(3)
    land = np.maximum(land, np.float32(0.2))
    for angle, reach, size in zip(
        rng.uniform(0.25, 2.9, 26),
        rng.uniform(0.58, 0.84, 26),
        rng.uniform(0.008, 0.02, 26),
        strict=True,
    ):
        at_x, at_y = reach * np.cos(angle), reach * np.sin(angle)
        left, top = int((at_x + 1 - 5 * size) * cols / 2), int((1 - at_y - 5 * size) * rows / 2)
        wide, tall = int(5 * size * cols) + 2, int(5 * size * rows) + 2
        near = np.s_[max(0, top) : top + tall, max(0, left) : left + wide]
        star = np.hypot(x[near] - at_x, y[near] - at_y)
        land[near] = np.maximum(land[near], 0.2 + 0.35 * np.exp(-((star / size) ** 2)))
    hill = 0.2 + 0.26 * np.clip(np.exp(-((x / 0.62) ** 2)) * 1.0 - (y + 0.62) * 1.1, 0, 1)
    land = np.where((r < 0.89) & (hill > land), hill, land).astype(np.float32)
    drum = np.maximum(np.abs(x) - 0.42, np.abs(y + 0.30) - 0.16)
    drum_round = 0.5 + 0.3 * np.sqrt(np.clip(1 - (x / 0.44) ** 2, 0, 1))
    land = raise_to(land, inside(drum), drum_round)
    for window in (-0.28, -0.14, 0.0, 0.14, 0.28):
        pane = np.maximum(np.abs(x - window) - 0.03, np.abs(y + 0.31) - 0.07)
        land = raise_to(land, inside(pane), 0.42)
    ball = np.hypot(x, y + 0.12)
    cap = np.maximum(ball - 0.46, -(y + 0.12))
    land = raise_to(land, inside(cap), 0.5 + 0.5 * np.sqrt(np.clip(1 - (ball / 0.47) ** 2, 0, 1)))
    cornice = np.maximum(np.abs(x) - 0.49, np.abs(y + 0.13) - 0.025)
    land = raise_to(land, inside(cornice), 0.88)
    slit = np.maximum(np.abs(x - 0.09) - 0.055, np.maximum(-0.08 - y, ball - 0.46))
    return np.clip(raise_to(land, inside(slit), 0.4), 0, 1)


def gallery_tag(rows: int = 620, cols: int = 1000) -> Floats:
    """A tag in three flat tones: white around it and in its window, gray body, black lettering."""
    body = np.zeros((rows, cols), np.uint8)
    cv2.rectangle(body, (90, 40), (cols - 91, rows - 41), 255, -1, cv2.LINE_AA)
    for x in (90, cols - 91):
        cv2.circle(body, (x, rows // 2), 62, 255, -1, cv2.LINE_AA)
    cv2.circle(body, (92, rows // 2), 26, 0, -1, cv2.LINE_AA)
    cv2.ellipse(body, (cols // 2, 470), (150, 130), 0, 180, 360, 0, -1, cv2.LINE_AA)
    ink = np.zeros((rows, cols), np.uint8)
    cv2.rectangle(ink, (124, 74), (cols - 125, rows - 75), 255, 12, cv2.LINE_AA)
    for text, y, size, weight in (("CORVANE", 190, 3.2, 14), ("hill gallery", 290, 2.0, 9)):
        font = cv2.FONT_HERSHEY_DUPLEX
        (wide, _), _ = cv2.getTextSize(text, font, size, weight)
        cv2.putText(ink, text, ((cols - wide) // 2, y), font, size, 255, weight, cv2.LINE_AA)
    cover, letters = body.astype(np.float32) / 255, ink.astype(np.float32) / 255
    tones = 1 - 0.5 * cover
    return (tones * (1 - letters * cover)).astype(np.float32)


def star_band(rows: int = 460, cols: int = 1600) -> Floats:
    """A band of stars to be cut out of a tube: black stars on gray, white rims; it repeats."""
    band = np.full((rows, cols), 0.6, np.float32)
    band[:46], band[-46:] = 1.0, 1.0
    rng = np.random.default_rng(12)
    canvas = np.zeros((rows, cols), np.uint8)
    for column in range(10):
        x = (column + 0.5) * cols / 10
        for y, size in ((150 + 26 * (column % 3), 46), (300 - 22 * (column % 2), 30)):
            turn = rng.uniform(0, 2 * np.pi)
            reach = np.where(np.arange(10) % 2 == 0, size, size * 0.45)
            angles = turn + np.arange(10) * np.pi / 5
            shape = np.column_stack([x + reach * np.cos(angles), y + reach * np.sin(angles)])
            cv2.fillPoly(canvas, [np.round(shape * 16).astype(np.int32)], 255, cv2.LINE_AA, 4)
    cover = canvas.astype(np.float32) / 255
    return (band * (1 - cover)).astype(np.float32)


def moonlit_hills(rows: int = 700, cols: int = 1500) -> Floats:
    """Hills under a moon and stars; the right edge meets the left one, for a lamp shade."""
    x = np.linspace(0, 2 * np.pi, cols, endpoint=False, dtype=np.float32)
    y = np.linspace(1, 0, rows, dtype=np.float32)[:, None]
    sky = (0.42 + 0.3 * (1 - y) + 0 * x).astype(np.float64)
    rng = np.random.default_rng(8)
    column, row = np.meshgrid(np.arange(cols), np.arange(rows))
    for cx, cy, size in zip(
        rng.uniform(0, cols, 90), rng.uniform(0, 0.55 * rows, 90), rng.uniform(1.2, 3, 90),
        strict=True,
    ):  # fmt: skip
        reach = int(2 * size) + 1  # further away it is darker than the sky
        near_y = np.arange(max(0, int(cy) - reach), min(rows, int(cy) + reach + 2))[:, None]
        near_x = np.arange(int(cx) - reach, int(cx) + reach + 2) % cols
        around = np.abs(near_x - cx)
        away = np.hypot(np.minimum(around, cols - around), near_y - cy)
        light = 0.95 * np.exp(-((away / size) ** 2))
        sky[near_y, near_x] = np.maximum(sky[near_y, near_x], light)
    moon = np.hypot(column - cols * 0.5, row - rows * 0.26)
    bite = np.hypot(column - cols * 0.524, row - rows * 0.235)
    crescent = np.clip(80 - moon, 0, 1) * np.clip(bite - 66, 0, 1)
    glow = 0.25 * np.exp(-np.maximum(moon - 80, 0) / 90)
    land = np.maximum(sky + glow, crescent)
    for level, tone, waves in (
        (0.44, 0.46, ((2, 0.05, 0.3), (5, 0.03, 1.1), (11, 0.012, 2.0))),
        (0.30, 0.3, ((1, 0.06, 2.2), (4, 0.03, 0.4), (9, 0.014, 1.0))),
        (0.15, 0.14, ((3, 0.04, 1.7), (7, 0.02, 0.2), (16, 0.006, 0.9))),
    ):
        ridge = level + sum(high * np.sin(count * x + phase) for count, high, phase in waves)
        cover = np.clip((ridge - y) * rows + 0.5, 0, 1)
        shade = tone + 0.12 * np.clip((ridge - y) * 4, 0, 1)
        land = land * (1 - cover) + shade * cover
    return np.clip(land, 0, 1).astype(np.float32)


def globe_map(rows: int = 600, cols: int = 1200) -> Floats:
    """A cratered moon, unrolled; the right edge meets the left one."""
    land = craters(rows, cols, seed=29)
    # The last columns fade into the first ones.
    fade = np.clip((np.arange(cols) - (cols - 120)) / 119, 0, 1).astype(np.float32)
    joined = land * (1 - fade) + np.roll(land[:, ::-1], 1, axis=1) * fade
    return np.clip(0.22 + 0.78 * joined, 0, 1).astype(np.float32)


def _stretch(values: Floats) -> Floats:
    low, high = float(values.min()), float(values.max())
    return ((values - low) / (high - low)).astype(np.float32)


def dome_badge(size: int = 900) -> Floats:
    """The dome as a badge: a silhouette, dark on white, and a printer's mark beside it."""
    y, x = np.mgrid[0:size, 0:size].astype(np.float32)
    x, y = (x + 0.5) / size * 2 - 1, 1 - (y + 0.5) / size * 2
    below = np.maximum(np.abs(x) - 0.62, np.abs(y + 0.42) - 0.16)
    dome = np.maximum(np.hypot(x, y + 0.26) - 0.56, -0.2 - y)
    slit = np.maximum(np.abs(x - 0.02 - 0.3 * (y - 0.1)) - 0.065, np.abs(y - 0.1) - 0.34)
    door = np.minimum(np.hypot(x, y + 0.42) - 0.08, np.maximum(np.abs(x) - 0.08, y + 0.42))
    shape = np.maximum(np.minimum(below, dome), -np.minimum(slit, door)).astype(np.float32)
    for across, up, reach in ((-0.62, 0.52, 0.1), (0.66, 0.3, 0.07), (0.5, 0.68, 0.05)):
        shape = np.minimum(shape, _star(x - across, y - up, reach))
    mark = np.hypot(x + 0.9, y + 0.9) - 0.02
    inside = 0.5 - np.minimum(shape, mark) * size / 2
    return (1 - np.clip(inside, 0, 1)).astype(np.float32)


def _star(x: Floats, y: Floats, reach: float) -> Floats:
    """How far places are outside a five-pointed star about the origin, about."""
    angle = np.arctan2(y, x)
    fold = (angle + np.pi / 5) % (2 * np.pi / 5) - np.pi / 5
    found = np.hypot(x, y) * np.cos(np.abs(fold) - 2 * np.pi / 5) - reach * 0.38
    return found.astype(np.float32)


def comet_shape(rows: int = 800, cols: int = 1200) -> Floats:
    """A comet for a cutter, dark on white: a head with a star in it, and streaks in its tail."""
    y, x = np.mgrid[0:rows, 0:cols].astype(np.float32)
    x, y = (x + 0.5 - cols / 2) / rows * 2, 1 - (y + 0.5) / rows * 2
    head = np.hypot(x - 0.78, y + 0.28) - 0.46
    # The tail narrows towards its end and bends upwards.
    along = np.clip((0.78 - x) / 1.95, 0, 1)
    middle = -0.28 + 0.55 * along**1.6
    tail = np.maximum(
        np.abs(y - middle) - 0.44 * (1 - along) ** 0.9, np.maximum(x - 0.78, -1.1 - x)
    )
    shape = np.minimum(head, tail)
    star = _star(x - 0.78, y + 0.28, 0.24)
    for low, first, last, wide in ((0.13, 0.2, 0.5, 0.035), (-0.11, 0.24, 0.62, 0.04)):
        reach = np.clip((0.78 - x) / 1.95, first, last)
        line = -0.28 + 0.55 * reach**1.6 + low * (1 - reach)
        star = np.minimum(star, np.hypot(x - (0.78 - 1.95 * reach), y - line) - wide)
    inside = 0.5 - np.maximum(shape, -star) * rows / 2
    return (1 - np.clip(inside, 0, 1)).astype(np.float32)


def orbit_mark(size: int = 900) -> Floats:
    """A ring with a planet and a star in it, dark on white: what is within would fall out."""
    y, x = np.mgrid[0:size, 0:size].astype(np.float32)
    x, y = (x + 0.5) / size * 2 - 1, 1 - (y + 0.5) / size * 2
    ring = np.abs(np.hypot(x, y) - 0.7) - 0.09
    band = np.abs(np.hypot(x / 1.9, y * 1.5 + 0.25 * x) - 0.3) - 0.03
    planet = np.maximum(np.hypot(x, y) - 0.27, -(band - 0.05))
    shape = np.minimum(ring, np.minimum(planet, np.maximum(band, np.hypot(x, y) - 0.57)))
    shape = np.minimum(shape, _star(x - 0.3, y - 0.4, 0.1))
    return (1 - np.clip(0.5 - shape * size / 2, 0, 1)).astype(np.float32)


def as_png(tones: Floats, bits: int = 16) -> bytes:
    """Tones as a gray PNG of 8 or 16 bits."""
    whole = np.float32(2**bits - 1)
    kind = np.uint16 if bits == 16 else np.uint8
    _, encoded = cv2.imencode(".png", np.clip(tones * whole + 0.5, 0, whole).astype(kind))
    return encoded.tobytes()


def as_colour_png(pixels: Floats) -> bytes:
    """(rows, cols, 3) sRGB as an 8-bit PNG."""
    whole = np.clip(pixels * 255 + 0.5, 0, 255).astype(np.uint8)
    _, encoded = cv2.imencode(".png", whole[..., ::-1])
    return encoded.tobytes()
