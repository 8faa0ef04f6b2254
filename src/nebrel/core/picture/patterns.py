"""Patterns of heights made from a few numbers and a seed, as pictures."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import InvalidValue

PatternKind = Literal[
    "craters", "waves", "weave", "scales", "bark", "gears", "rosettes", "stars", "knots"
]
PATTERNS: tuple[PatternKind, ...] = get_args(PatternKind)
LEAST_PX, MOST_PX = 16, 4096
_FINEST_PX = 6  # of what is repeated, across
Grid = NDArray[np.float64]


@dataclass(frozen=True)
class Dials:
    """What a pattern is made from.

    Attributes
    ----------
    across : how many of what is repeated lie side by side, about
    uneven : 0 is as regular as it can be, 1 as irregular
    soft : 0 has hard edges, 1 the softest
    tile : its right edge goes on at its left one, and its upper one at its lower
    """

    pixels: int = 1024
    seed: int = 1
    across: int = 6
    uneven: float = 0.4
    soft: float = 0.5
    tile: bool = True


def pattern(kind: PatternKind, dials: Dials) -> NDArray[np.float32]:
    """A square of heights, 0 to 1, (pixels, pixels), its upper row first.

    The same numbers give the same picture. Where it tiles, a pixel more to the right would be
    the first one again.

    Raises
    ------
    InvalidValue : a number that cannot be, or what is repeated would be too small to be seen
    """
    if kind not in _MAKE:
        raise InvalidValue("kind", f"“{kind}” is none", f"Use {', '.join(PATTERNS)}")
    n = dials.pixels
    if not LEAST_PX <= n <= MOST_PX:
        raise InvalidValue("pixels", f"{n} is not possible", f"Use {LEAST_PX} to {MOST_PX}")
    if not 1 <= dials.across <= n // _FINEST_PX:
        raise InvalidValue(
            "across",
            f"{dials.across} in {n} pixels is not possible",
            f"Use 1 to {n // _FINEST_PX}, or more pixels",
        )
    for name in ("uneven", "soft"):
        if not 0 <= getattr(dials, name) <= 1:
            raise InvalidValue(name, f"{getattr(dials, name):g} is not possible", "Use 0 to 1")
    made = _MAKE[kind](dials, np.random.default_rng(dials.seed))
    low, high = float(made.min()), float(made.max())
    return ((made - low) / max(high - low, 1e-12)).astype(np.float32)


def _plane(dials: Dials) -> tuple[Grid, Grid]:
    """Places to the right and up, 0 to 1."""
    n = dials.pixels
    side = np.arange(n) / (n if dials.tile else n - 1)
    x, y = np.meshgrid(side, side[::-1] if not dials.tile else 1 - side)
    return x, y


def _noise(n: int, rng: np.random.Generator, scale: tuple[float, float]) -> Grid:
    """Soft heights without a seam, of deviation 1, with so many hills across and up."""
    fx, fy = np.fft.rfftfreq(n, 1 / n), np.fft.fftfreq(n, 1 / n)[:, None]
    far = np.hypot(fx / scale[0], fy / scale[1])
    weight = np.exp(-((far - 0.6) ** 2) / 0.18)
    weight[0, 0] = 0
    made = np.fft.irfft2(np.fft.rfft2(rng.standard_normal((n, n))) * weight, s=(n, n))
    return np.asarray(made / max(float(made.std()), 1e-12))


def _step(value: Grid, soft: float, width: float = 0.25) -> Grid:
    """0 below 0 and 1 above it, softly over a width."""
    half = max(1e-3, width * soft)
    share = np.clip(value / half / 2 + 0.5, 0, 1)
    return share * share * (3 - 2 * share)


def _scattered(
    dials: Dials, places: Grid, radii: NDArray[np.float64]
) -> Iterator[tuple[NDArray[np.intp], NDArray[np.intp], Grid, Grid, float]]:
    """For each of some places and radii: rows, columns, and where they lie around it.

    Those are in radii, up to two of them away.
    """
    n = dials.pixels
    for (x, y), radius in zip(places * n, radii, strict=True):
        reach = min(int(np.ceil(2 * radius * n)) + 1, n // 2 if dials.tile else 4 * n)
        cols, rows = (np.arange(int(c) - reach, int(c) + reach) for c in (x, y))
        if not dials.tile:
            cols, rows = (which[(which >= 0) & (which < n)] for which in (cols, rows))
        across, up = (cols - x) / (radius * n), (rows - y) / (radius * n)
        yield rows % n, cols % n, across[None, :], -up[:, None], float(radius)


def _craters(dials: Dials, rng: np.random.Generator) -> Grid:
    n = dials.pixels
    count = 2 * dials.across**2
    even = 0.36 / dials.across
    radii = even * (rng.pareto(2.2, count) * 0.55 + 0.35) ** dials.uneven
    ground = 0.05 * dials.uneven * _noise(n, rng, (dials.across, dials.across)) * even
    places, radii = rng.random((count, 2)), np.sort(np.minimum(radii, 0.24))[::-1]
    for rows, cols, x, y, radius in _scattered(dials, places, radii):
        away = np.hypot(x, y)
        bowl = np.where(away < 1, away**2 - 1, 0.0)
        rim = 0.35 * np.exp(-(((away - 1) / (0.12 + 0.25 * dials.soft)) ** 2))
        fresh = np.clip((2 - away) / 0.6, 0, 1)
        at = np.ix_(rows, cols)
        before = ground[at]
        # What was in it is gone: it is as deep everywhere as it lay before on the whole.
        near = away < 1
        whole = float(before[near].mean()) if near.any() else 0.0
        level = np.where(near, whole + (before - whole) * away**2, before)
        ground[at] = level + radius * 0.5 * (bowl + rim) * fresh
    return ground


def _stars(dials: Dials, rng: np.random.Generator) -> Grid:
    n = dials.pixels
    made = np.zeros((n, n))
    even = 0.42 / dials.across
    radii = even * (1 - 0.75 * dials.uneven * rng.random(dials.across**2))
    cells = np.stack(np.meshgrid(*[np.arange(dials.across)] * 2), axis=-1).reshape(-1, 2)
    jitter = (rng.random(cells.shape) - 0.5) * (0.2 + 0.7 * dials.uneven)
    for rows, cols, x, y, radius in _scattered(dials, (cells + 0.5 + jitter) / dials.across, radii):
        points = 5 if dials.uneven < 0.5 else int(rng.integers(4, 8))
        angle = np.arctan2(x, y) + rng.random() * 2 * np.pi * dials.uneven
        slice_ = np.abs((angle * points / (2 * np.pi)) % 1 - 0.5) * 2  # 1 along its points
        edge = 0.42 / np.maximum(1 - 0.58 * slice_, 0.05)
        inside = 1 - np.hypot(x, y) / edge
        star = _step(inside, dials.soft, 0.3) * (0.35 + 0.65 * radius / even)
        at = np.ix_(rows, cols)
        made[at] = np.maximum(made[at], star + 0.25 * dials.soft * np.clip(inside, 0, 1))
    return made


def _waves(dials: Dials, rng: np.random.Generator) -> Grid:
    x, y = _plane(dials)
    n, k = dials.pixels, dials.across
    bent = 0.5 * dials.uneven * _noise(n, rng, (max(1.0, k / 3), max(1.0, k / 3)))
    lean = int(rng.integers(-1, 2)) if dials.uneven > 0 else 0
    wave = np.sin(2 * np.pi * (k * y + lean * x) + 2 * bent)
    crest = 1 - np.abs(np.sin(np.pi * (k * y + lean * x) + bent))  # sharp above, round below
    return dials.soft * wave / 2 + (1 - dials.soft) * crest


def _weave(dials: Dials, rng: np.random.Generator) -> Grid:
    x, y = _plane(dials)
    k = max(2, 2 * round(dials.across / 2))  # over and under must come out even
    n = dials.pixels
    jitter = 0.12 * dials.uneven
    u = k * x + jitter * _noise(n, rng, (k / 2, k / 2))
    v = k * y + jitter * _noise(n, rng, (k / 2, k / 2))
    i, j = np.floor(u).astype(int), np.floor(v).astype(int)
    over = (i + j) % 2 == 0
    wide = 0.42 + 0.06 * dials.soft

    def thread(across: Grid, along: Grid, above: NDArray[np.bool_]) -> Grid:
        away = np.abs(across % 1 - 0.5) / wide
        body = np.sqrt(np.maximum(0, 1 - np.minimum(away, 1) ** 2))
        rise = 0.5 * np.sin(np.pi * (along % 1)) * np.where(above, 1, -1)
        return np.where(away < 1, body * (0.5 + 0.5 * dials.soft) + rise, -0.3)

    return np.maximum(thread(u, v, over), thread(v, u, ~over))


def _scales(dials: Dials, rng: np.random.Generator) -> Grid:
    x, y = _plane(dials)
    k = dials.across
    rows = max(2, 2 * round(k * 0.8))
    highs = 1 + 0.5 * dials.uneven * (rng.random((rows, k)) - 0.5)
    shift = 0.2 * dials.uneven * (rng.random((rows, k)) - 0.5)
    made = np.full_like(x, 0.25)
    # Each lies on those of the row below it: what is higher up is laid on last.
    for back in range(3, -1, -1):
        row = np.floor(y * rows + 0.5).astype(int) - 1 + back
        up = y * rows + 0.5 - row  # from the tip of a scale of that row
        own = row % rows
        across = k * x + 0.5 * (own % 2)
        col = np.floor(across).astype(int) % k
        side = across % 1 - 0.5 - shift[own, col]
        tip = 1.15 - np.sqrt(np.maximum(0, 1 - (2 * np.minimum(np.abs(side), 0.5)) ** 2)) * 1.15
        inside = (up >= tip) & (up < 3)
        round_ = 1 - (0.25 + 0.35 * dials.soft) * (2 * np.abs(side)) ** 2
        lean = 1 - up / 3
        keel = 0.12 * (1 - dials.soft) * np.exp(-((side / 0.05) ** 2))
        scale = (lean * round_ + keel) * highs[own, col]
        made = np.where(inside & (scale > made), scale, made)
    return made


def _bark(dials: Dials, rng: np.random.Generator) -> Grid:
    n, k = dials.pixels, dials.across
    bent = _noise(n, rng, (max(1.0, k / 3), max(1.0, k / 4)))
    ridges = _noise(n, rng, (k, max(1.0, k / 5)))
    fine = _noise(n, rng, (3 * k, k))
    furrow = 1 - np.abs(ridges + 0.5 * dials.uneven * bent)
    cracked = _step(furrow - 0.1, 0.4 + dials.soft, 0.8)
    return cracked + 0.1 * (1 - 0.7 * dials.soft) * fine + 0.15 * dials.uneven * bent


def _gears(dials: Dials, rng: np.random.Generator) -> Grid:
    x, y = _plane(dials)
    k = dials.across if dials.across == 1 or not dials.tile else 2 * max(1, round(dials.across / 2))
    i, j = (np.clip(np.floor(k * side).astype(int), 0, k - 1) for side in (x, y))
    u, v = k * x - i - 0.5, k * y - j - 0.5
    spokes = 3 + (rng.random((k, k)) * 4 * dials.uneven).astype(int)[j, i]
    teeth = 12
    away = np.hypot(u, v)
    # Neighbours turn the other way, a tooth against a gap.
    angle = np.arctan2(v, u) * teeth / (2 * np.pi) + 0.5 * ((i + j) % 2)
    tooth = np.cos(2 * np.pi * angle)
    rim = 0.435 + 0.045 * np.tanh(2.2 * tooth) - away
    hole = away - 0.09
    turn = np.arctan2(v, u) * spokes / (2 * np.pi)
    spoke = np.abs(turn % 1 - 0.5) * 2 * np.pi / spokes * away
    window = np.minimum(np.minimum(away - 0.17, 0.31 - away), 0.35 * spoke * 2 - 0.03)
    made = _step(rim, dials.soft, 0.05) * _step(hole, dials.soft, 0.05)
    hub = 0.35 * _step(0.15 - away, dials.soft, 0.05) * _step(hole, dials.soft, 0.05)
    return made * (1 - 0.8 * _step(window, dials.soft, 0.03)) + hub


def _rosettes(dials: Dials, rng: np.random.Generator) -> Grid:
    x, y = _plane(dials)
    k = dials.across
    i, j = (np.clip(np.floor(k * side).astype(int), 0, k - 1) for side in (x, y))
    u, v = k * x - i - 0.5, k * y - j - 0.5
    away, angle = np.hypot(u, v) * 2, np.arctan2(v, u)
    petals = 6 + (rng.random((k, k)) * 7 * dials.uneven).astype(int)[j, i]
    made = np.zeros_like(x)
    for ring, (reach, high) in enumerate(((0.95, 0.45), (0.66, 0.7), (0.38, 0.95))):
        shape = np.abs(np.cos(petals * angle / 2 + ring * np.pi / 2))
        edge = reach * (0.72 + 0.28 * shape**0.7)
        inside = edge - away
        vein = 0.1 * shape
        leaf = _step(inside, 0.2 + dials.soft, 0.06) * (high * (0.75 + 0.25 * away / reach) + vein)
        made = np.maximum(made, leaf)
    button = np.sqrt(np.maximum(0, 1 - (away / 0.16) ** 2))
    return np.maximum(made, np.where(away < 0.16, 0.75 + 0.35 * button, 0))


def _knots(dials: Dials, rng: np.random.Generator) -> Grid:
    """Bands that cross over and under, or bend away from each other, cell by cell."""
    x, y = _plane(dials)
    k = dials.across
    i, j = (np.clip(np.floor(k * side).astype(int), 0, k - 1) for side in (x, y))
    u, v = k * x - i, k * y - j
    kinds = np.where(rng.random((k, k)) < 0.35 + 0.4 * dials.uneven, rng.integers(1, 3, (k, k)), 0)
    kind, over = kinds[j, i], (i + j) % 2 == 0
    wide = 0.19

    def band(away: Grid) -> Grid:
        share = np.abs(away) / wide
        flat = _step(1 - share, 0.3 + dials.soft, 0.5)
        return np.where(share < 1.2, flat * (0.8 + 0.2 * np.maximum(0, 1 - share**2)), 0.0)

    level, upright = band(v - 0.5), band(u - 0.5)
    # Under the other one a band is lower, and clear of it at its sides.
    dip = 0.45 * np.exp(-(((u - 0.5) / 0.22) ** 2)), 0.45 * np.exp(-(((v - 0.5) / 0.22) ** 2))
    clear = [np.where(np.abs(side - 0.5) < wide * 1.25, 0.0, 1.0) for side in (u, v)]
    first = np.maximum(level, upright * (1 - dip[1]) * clear[1])
    second = np.maximum(upright, level * (1 - dip[0]) * clear[0])
    crossing = np.where(over, first, second)
    corner = [band(np.hypot(u - a, v - b) - 0.5) for a, b in ((0, 0), (1, 1), (0, 1), (1, 0))]
    one, other = np.maximum(corner[0], corner[1]), np.maximum(corner[2], corner[3])
    return np.where(kind == 0, crossing, np.where(kind == 1, one, other))


_MAKE: dict[PatternKind, Callable[[Dials, np.random.Generator], Grid]] = {
    "craters": _craters,
    "waves": _waves,
    "weave": _weave,
    "scales": _scales,
    "bark": _bark,
    "gears": _gears,
    "rosettes": _rosettes,
    "stars": _stars,
    "knots": _knots,
}
