"""Fine height from fine light and dark, without the body's own shading and without its paint."""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats
from nebrel.core.figure.integrate import put_together

Field = NDArray[np.float64]
_MOST_PX = 640  # along the longer side: what is finer than that is not asked for
_DARKEST = 0.02  # that tones are told apart down to
_PAINT = 0.25  # by which light changes from a pixel to the next, at least, where paint ends
_OUTSTANDING = 4.0  # times what is usual in the picture
_BESIDE = 0.06  # of that, beside its edges
_HUE = 0.02  # the same of colour, whatever the light
_BROAD = 0.035  # of the picture's longer side: what is larger is the body's own shading
_CALM = 0.01  # how much a slope costs, beside what is not explained
_DEEP = 0.015  # by how much light grows with each pixel that something stands out
_ROUNDS = 300
_LEAST_PX = 0.12  # of height: where there is less in all of it, it is noise
_RIM_PX = 6.0  # from the rim where nothing is made of it
_FULL = 98.0  # percent of it that lies within -1 to 1


def fine_heights(pixels: Floats, cover: Floats, normals: Field) -> Field:
    """What fine light and dark say of the height, -1 to 1, 0 beside the subject (rows, cols).

    Parameters
    ----------
    pixels : (rows, cols, 3) colours as displayed, 0 to 1
    cover : (rows, cols) 0 to 1
    normals : (rows, cols, 3) of the body without detail: right, up, to the eye

    Notes
    -----
    Edges of paint are left out of the picture's gradients, and the rest is put together again
    (Land and McCann, Lightness and Retinex Theory, 1971). How the broad shading follows the body
    tells from where the light comes, and so by how much, and which way, a slope lightens each
    place of it (linear shape from shading: Pentland, 1990). Besides, what lies deep is darker.
    """
    rows, cols = cover.shape
    less = max(rows, cols) / _MOST_PX
    if less > 1:
        size = round(cols / less), round(rows / less)
        small = [
            cv2.resize(a, size, interpolation=cv2.INTER_AREA) for a in (pixels, cover, normals)
        ]
        found = fine_heights(small[0], small[1], small[2].astype(np.float64))
        return np.asarray(cv2.resize(found, (cols, rows), interpolation=cv2.INTER_CUBIC))
    inside = cover > 0.98
    if inside.sum() < 64:
        return np.zeros(cover.shape)
    light = np.asarray(pixels, np.float64) ** 2.2
    tone = light @ (0.2126, 0.7152, 0.0722)
    shade, towards = _broad(tone, normals, inside)
    even = np.log((tone + _DARKEST) / (shade + _DARKEST))
    size_px = max(2.0, _BROAD * max(cover.shape))
    fine = _highpass(_without_paint(even, light, inside), inside, size_px)
    found = _highpass(_to_heights(fine, shade, towards, normals, inside), inside, size_px)
    largest = float(np.percentile(np.abs(found[inside]), _FULL))
    if largest < _LEAST_PX:
        return np.zeros(cover.shape)
    away = cv2.distanceTransform(inside.astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    share: Field = np.clip(found / largest, -1, 1) * np.clip((away - 1) / _RIM_PX, 0, 1)
    return share


def _broad(tone: Field, normals: Field, inside: NDArray[np.bool_]) -> tuple[Field, Field]:
    """The shading that follows the body, and the light's direction and strength (3,)."""
    known, wanted = normals[inside], tone[inside]
    one, lit = np.ones((len(known), 1)), np.ones(len(known), bool)
    weights = np.zeros(4)
    for _ in range(6):  # what is turned away is lit by the sky alone
        given = np.hstack([one, known * lit[:, None]])
        weights[:] = np.linalg.lstsq(given, wanted, rcond=None)[0]
        lit = known @ weights[1:] > 0
    shade: Field = np.maximum(weights[0] + np.maximum(normals @ weights[1:], 0), _DARKEST)
    return shade, np.asarray(weights[1:], np.float64)


def _without_paint(even: Field, light: Field, inside: NDArray[np.bool_]) -> Field:
    """Logarithmic tones, put together again without the edges of paint."""
    calm = cv2.GaussianBlur(light, (0, 0), 1.0)
    hue = calm / np.maximum(calm.sum(axis=2, keepdims=True), 0.15)
    ahead = []
    for axis in (0, 1):
        step = np.diff(even, axis=axis)
        both = _both(inside, axis)
        usual = float(np.percentile(np.abs(step[both]), 75)) if both.any() else 0.0
        painted = np.abs(step) > max(_PAINT, _OUTSTANDING * usual)
        turns = np.abs(np.diff(hue, axis=axis)).max(axis=2)
        common = float(np.median(turns[both])) if both.any() else 0.0
        painted |= turns > max(_HUE, 2 * _OUTSTANDING * common)
        # Its edges are soft: what changes beside them belongs to them.
        near = cv2.dilate(painted.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
        painted |= near & (np.abs(step) > _BESIDE * _PAINT)
        ahead.append(np.where(both & ~painted, step, 0.0))
    return put_together(ahead[0], ahead[1], even.shape)


def _both(inside: NDArray[np.bool_], axis: int) -> NDArray[np.bool_]:
    count = inside.shape[axis]
    return np.take(inside, range(count - 1), axis) & np.take(inside, range(1, count), axis)


def _highpass(values: Field, inside: NDArray[np.bool_], size_px: float) -> Field:
    weight = inside.astype(np.float64)
    low = cv2.GaussianBlur(values * weight, (0, 0), size_px)
    low /= np.maximum(cv2.GaussianBlur(weight, (0, 0), size_px), 1e-6)
    found: Field = np.where(inside, values - low, 0.0)
    return found


def _to_heights(
    fine: Field, shade: Field, towards: Field, normals: Field, inside: NDArray[np.bool_]
) -> Field:
    """Heights in px that look so under that light."""
    from scipy.sparse import diags, eye
    from scipy.sparse.linalg import cg

    facing = normals @ towards
    seen = np.where(facing > 0, -normals[..., 2] / shade, 0.0)
    gains = [seen * (towards[k] - facing * normals[..., k]) for k in (0, 1)]
    right, down = (_steps(inside, axis) for axis in (1, 0))
    across, upwards = (0.5 * (step - step.T) for step in (right, -down))
    count = int(inside.sum())
    seen_as = diags(gains[0][inside]) @ across + diags(gains[1][inside]) @ upwards
    seen_as = seen_as + _DEEP * eye(count)
    # Dark places tell less.
    weight = diags(np.minimum(shade[inside] / np.median(shade[inside]), 1.5))
    calm = _laplace(right) + _laplace(down)
    matrix = seen_as.T @ weight @ seen_as + _CALM * calm + 1e-4 * eye(count)
    answer, _ = cg(matrix, seen_as.T @ weight @ fine[inside], maxiter=_ROUNDS, rtol=1e-4)
    heights = np.zeros(fine.shape)
    heights[inside] = answer
    return heights


def _steps(inside: NDArray[np.bool_], axis: int) -> Any:
    """Sparse (N, N): from each pixel inside to the next along an axis, where that is inside."""
    from scipy.sparse import csr_matrix

    number = np.full(inside.shape, -1)
    number[inside] = np.arange(inside.sum())
    ahead = np.full(inside.shape, -1)
    if axis:
        ahead[:, :-1] = number[:, 1:]
    else:
        ahead[:-1] = number[1:]
    pairs = (number >= 0) & (ahead >= 0)
    count = int(inside.sum())
    given = np.ones(int(pairs.sum())), (number[pairs], ahead[pairs])
    return csr_matrix(given, (count, count))


def _laplace(step: Any) -> Any:
    from scipy.sparse import diags

    own = np.asarray(step.sum(axis=1)).ravel()
    change = step - diags(own)
    return change.T @ change
