"""The attenuation of a material from a photograph of its step wedge."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats
from nebrel.core.errors import InvalidValue
from nebrel.core.proof.light import to_linear
from nebrel.core.proof.wedge import Wedge

_COLUMNS, _ROWS = 48, 40  # samples over one step
_INSIDE_X = (0.22, 0.78)  # of a step: away from its neighbours
_INSIDE_Y = (0.18, 0.72)  # of the wedge: away from the engraved numbers and the name
_CLIPPED = 0.985
_DARK = 0.0035  # linear light that 8 bits hardly tell from none
_LEAST_STEPS = 4
_OBLIQUE = 1.45  # one side of the wedge against the opposite one, as the camera sees them


@dataclass(frozen=True)
class Calibration:
    """What a wedge says of its material.

    Attributes
    ----------
    attenuation_per_mm : Beer-Lambert coefficient
    error : its standard error, per mm
    r2 : share of the differences between the steps that the law explains
    lamp : light of the bare lamp as the photograph has it, 1 is full scale
    thickness_mm, light, fitted : of the steps that were used, light evened out for the lens
    left_out : steps that are clipped or too dark
    """

    attenuation_per_mm: float
    error: float
    r2: float
    lamp: float
    thickness_mm: tuple[float, ...]
    light: tuple[float, ...]
    fitted: tuple[float, ...]
    left_out: int

    def as_dict(self) -> dict[str, Any]:
        """Plain values."""
        return asdict(self)


def calibrate(tone: Floats, corners: NDArray[np.float64], wedge: Wedge) -> Calibration:
    """Fit the attenuation and the lamp's level.

    Parameters
    ----------
    tone : (rows, cols) float32 as displayed
    corners : (4, 2) pixels, the wedge's corners around it, beginning at the upper left

    Raises
    ------
    InvalidValue : the corners are no wedge, or the photograph is too oblique, clipped, dark,
        unevenly lit, or shows no steps

    The logarithm of light is fitted by weighted least squares with thickness, and with the
    second and fourth power of the distance from the middle of the picture, which is how a lens
    darkens its corners.
    """
    corners = _checked(corners, tone.shape)
    thickness = wedge.thickness_mm
    light, spread, away = _sample(to_linear(tone), corners, wedge.steps)
    clipped = (light.max(axis=1) > _CLIPPED) | (light.mean(axis=1) > 0.97)
    dark = light.mean(axis=1) < _DARK
    used = ~(clipped | dark)
    if used.sum() < min(_LEAST_STEPS, wedge.steps):
        why = "clipped" if clipped.sum() >= dark.sum() else "too dark"
        remedy = (
            "Expose it less" if why == "clipped" else "Expose it longer, or print a thinner wedge"
        )
        raise InvalidValue(
            "photograph",
            f"only {int(used.sum())} of {wedge.steps} steps can be read; the others are {why}",
            remedy,
        )
    # Means of blocks first: the logarithm of noisy samples is too low on average.
    logs = np.log(np.maximum(_coarse(light[used]), 1e-6))
    away = _coarse(away)
    rise = np.ptp(logs.mean(axis=1))
    if rise < 0.15:
        raise InvalidValue(
            "photograph",
            f"it shows no steps: their light differs by {np.expm1(rise) * 100:.0f} % in all",
            "Mark the corners of the wedge itself, and photograph it against the light",
        )
    if np.polyfit(thickness[used], logs.mean(axis=1), 1)[0] > 0:
        turned = np.roll(corners, 2, axis=0)
        return calibrate(tone, turned, wedge)
    fit = _fit(thickness[used], logs, away[used], light[used], spread[used])
    _check_evenness(fit.left, fit.explained)
    evened = np.exp((logs - fit.lens).mean(axis=1))
    fitted = np.exp(fit.lamp - fit.slope * thickness[used])
    return Calibration(
        attenuation_per_mm=round(float(fit.slope), 6),
        error=round(float(fit.error), 6),
        r2=round(float(fit.explained), 6),
        lamp=round(float(np.exp(fit.lamp)), 5),
        thickness_mm=tuple(round(float(mm), 5) for mm in thickness[used]),
        light=tuple(round(float(value), 6) for value in evened),
        fitted=tuple(round(float(value), 6) for value in fitted),
        left_out=int((~used).sum()),
    )


@dataclass(frozen=True)
class _Fit:
    slope: float
    lamp: float
    error: float
    explained: float
    left: float  # what no smooth lens explains, RMS of the logarithm between parts of one step
    lens: NDArray[np.float64]


def _fit(
    thickness: NDArray[np.float64],
    logs: NDArray[np.float64],
    away: NDArray[np.float64],
    light: NDArray[np.float64],
    spread: NDArray[np.float64],
) -> _Fit:
    steps, places = logs.shape
    thick = np.repeat(thickness, places)
    r2 = away.ravel() ** 2
    table = np.column_stack([np.ones_like(thick), thick, r2, r2 * r2])
    values = logs.ravel()
    # The noise of a logarithm is that of the light over the light; 8 bits have a floor.
    sigma = (spread + 0.002) / np.maximum(light.mean(axis=1), 1e-4)
    weight = np.repeat(1 / sigma, places)
    weight /= weight.max()
    solved, *_ = np.linalg.lstsq(table * weight[:, None], values * weight, rcond=None)
    left = values - table @ solved
    lens = (table[:, 2:] @ solved[2:]).reshape(steps, places)
    # Between steps the errors of one step's many samples go together: count steps, not samples.
    means = left.reshape(steps, places).mean(axis=1)
    freedom = max(1, steps - 2)
    scatter = float((means**2).sum() / freedom)
    error = (scatter / max(((thickness - thickness.mean()) ** 2).sum(), 1e-12)) ** 0.5
    evened = (logs - lens).mean(axis=1)
    explained = 1 - float((means**2).sum() / max(((evened - evened.mean()) ** 2).sum(), 1e-12))
    parts = left.reshape(steps, places)
    # Of the steps but the worst: noise is strongest in the darkest ones.
    spreads = np.sqrt(((parts - means[:, None]) ** 2).mean(axis=1))
    within = float(np.quantile(spreads, 0.7))
    return _Fit(-float(solved[1]), float(solved[0]), error, explained, within, lens)


def _coarse(parts: NDArray[np.float64]) -> NDArray[np.float64]:
    """Means of four by four blocks of each step, where noise has gone and shading stays."""
    steps = len(parts)
    blocks = parts.reshape(steps, 4, _ROWS // 4, 4, _COLUMNS // 4)
    found: NDArray[np.float64] = blocks.mean(axis=(2, 4)).reshape(steps, -1)
    return found


def _check_evenness(left: float, explained: float) -> None:
    if left > 0.035:
        raise InvalidValue(
            "photograph",
            f"within one step its light differs by {np.expm1(left) * 100:.0f} %: it is unevenly "
            "lit, or the corners are not those of the wedge",
            "Mark the corners closely; use an even light, and keep reflections away",
        )
    if explained < 0.9:
        raise InvalidValue(
            "photograph",
            f"its steps do not follow one material: the fit explains {explained * 100:.0f} %",
            "Check the number of steps, the thickest one and the corners",
        )


def _sample(
    light: Floats, corners: NDArray[np.float64], steps: int
) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
    """Light of every step at many places, its noise, and how far each place is from the middle."""
    rows, cols = light.shape
    unit = np.array([[0, 0], [1, 0], [1, 1], [0, 1]], np.float32)
    matrix = cv2.getPerspectiveTransform(unit, corners.astype(np.float32))
    inner = np.linspace(*_INSIDE_X, _COLUMNS)
    v = np.linspace(*_INSIDE_Y, _ROWS)
    places = []
    for step in range(steps):
        across, down = np.meshgrid((step + inner) / steps, v)
        places.append(np.column_stack([across.ravel(), down.ravel()]))
    flat = np.concatenate(places).astype(np.float32)[None]
    seen = cv2.perspectiveTransform(flat, matrix)[0]
    x, y = seen[:, 0].astype(np.float32), seen[:, 1].astype(np.float32)
    values = cv2.remap(light, x[None], y[None], cv2.INTER_LINEAR)[0].astype(np.float64)
    values = values.reshape(steps, -1)
    grid = values.reshape(steps, _ROWS, _COLUMNS)
    spread = np.abs(np.diff(grid, axis=2)).mean(axis=(1, 2)) * 0.886
    away = np.hypot(x - (cols - 1) / 2, y - (rows - 1) / 2) / np.hypot(cols / 2, rows / 2)
    return values, spread, away.astype(np.float64).reshape(steps, -1)


def _checked(corners: NDArray[np.float64], shape: tuple[int, ...]) -> NDArray[np.float64]:
    corners = np.asarray(corners, np.float64).reshape(4, 2)
    rows, cols = shape[:2]
    inside = (
        (corners >= -1).all() and (corners[:, 0] <= cols).all() and (corners[:, 1] <= rows).all()
    )
    if not np.isfinite(corners).all() or not inside:
        raise InvalidValue(
            "corners",
            f"they lie outside the photograph of {cols} × {rows} pixels",
            "Mark the four corners of the wedge inside it",
        )
    ahead, before = np.roll(corners, -1, axis=0), np.roll(corners, 1, axis=0)
    one, other = ahead - corners, before - corners
    turns = one[:, 0] * other[:, 1] - one[:, 1] * other[:, 0]
    if (turns < 0).all():
        corners = corners[[0, 3, 2, 1]]  # the other way round
        turns = -turns
    if not (turns > 0).all() or turns.min() < 100:
        raise InvalidValue(
            "corners",
            "they do not go around a wedge",
            "Give them in order: upper left, upper right, lower right, lower left",
        )
    sides = np.hypot(*(np.roll(corners, -1, axis=0) - corners).T)
    skew = max(sides[0] / sides[2], sides[2] / sides[0], sides[1] / sides[3], sides[3] / sides[1])
    if skew > _OBLIQUE:
        raise InvalidValue(
            "photograph",
            f"it was taken too obliquely: one side of the wedge looks {skew:.1f} times the other",
            "Hold the camera square to the wedge, within 25 degrees or so",
        )
    return corners
