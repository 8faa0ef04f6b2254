"""What a small network that ships with Nebrel makes of one picture: normals, depth, thickness."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numba import njit
from numpy.typing import NDArray

from nebrel.core.data import Floats
from nebrel.core.errors import InvalidValue
from nebrel.core.figure.field import Bulge
from nebrel.core.figure.subject import continued
from nebrel.core.figure.swell import Swollen

FRAME_PX = 96  # that it was trained at
FILLS = 0.81  # of the frame, that the longer side of a subject is made as long as
WEIGHTS = Path(__file__).with_name("learned.onnx")
_ROUNDS = 110
_STEEPEST, _LEAST_NEAR = 5.0, 0.05  # slopes; of normals to the eye
_PULL = 3e-3  # to the depth that was told, beside 1 for its slopes
_CALM_PX = 4.0  # of the frame, by which its middle is smoothed
_SURE_PX = 1.5  # of the frame inside the outline, from where it is believed
_FILLED_PX = 2.5  # of the frame, by which what goes on beyond that is smoothed
_LEAST, _MOST = 0.2, 3.0  # times as thick as it would be inflated


def membrane(inside: NDArray[np.bool_]) -> NDArray[np.float32]:
    """What swells over a mask as a soap film does; its root is half the thickness of a body.

    Parameters
    ----------
    inside : (rows, cols), nothing of it along the border

    Returns
    -------
    (rows, cols) float32, of the square of half the picture's width; a disc becomes a ball

    Source: successive over-relaxation of Poisson's equation, Young (1954).
    """
    found: NDArray[np.float32] = _relaxed(inside)
    return found


@njit(cache=True, nogil=True)
def _relaxed(inside):  # type: ignore[no-untyped-def]
    rows, cols = inside.shape
    found = np.zeros((rows, cols), np.float32)
    top, left, low, right = rows, cols, 0, 0
    for r in range(1, rows - 1):
        for c in range(1, cols - 1):
            if inside[r, c]:
                top, low = min(top, r), max(low, r)
                left, right = min(left, c), max(right, c)
    least = min(low - top, right - left) + 2
    over = np.float32(2 / (1 + math.sin(3.14159 / (least * 0.9 + 2))))
    load = np.float32(4 * (2 / cols) ** 2)
    for _ in range(_ROUNDS):
        for r in range(top, low + 1):
            for c in range(left, right + 1):
                if inside[r, c]:
                    around = found[r, c - 1] + found[r, c + 1] + found[r - 1, c] + found[r + 1, c]
                    found[r, c] += over * ((around + load) / 4 - found[r, c])
    return found


def body_over(film: NDArray[np.float32], times: float = 1.0) -> tuple[Floats, Floats]:
    """Half the thickness (rows, cols) and the normals (3, rows, cols) of the body over a film.

    Parameters
    ----------
    times : how many times as thick as the film has it
    """
    pixel = 2 / film.shape[1]
    right, up = np.zeros_like(film), np.zeros_like(film)
    right[:, 1:-1] = (film[:, 2:] - film[:, :-2]) / (2 * pixel)
    up[1:-1] = -(film[2:] - film[:-2]) / (2 * pixel)
    half = np.sqrt(np.maximum(film, 0))
    normals = np.stack([-times * right, -times * up, 2 * half])
    normals /= np.sqrt((normals**2).sum(axis=0) + 1e-8)
    return (half * np.float32(times)).astype(np.float32), normals.astype(np.float32)


def features(pixels: Floats, film: NDArray[np.float32]) -> Floats:
    """(8, rows, cols) what the network reads: colours, mask, the body over it and its normals.

    Parameters
    ----------
    pixels : (rows, cols, 3) 0 to 1
    film : as from `membrane`
    """
    half, normals = body_over(film)
    inside = (film > 0).astype(np.float32)
    normals = np.where(inside > 0, normals, np.array([0, 0, 1], np.float32)[:, None, None])
    colours = (pixels - 0.4).transpose(2, 0, 1) * inside
    return np.concatenate([colours, inside[None], half[None], normals]).astype(np.float32)


@dataclass(frozen=True)
class Told:
    """What the network says of a subject, in a frame of its own; half of its width is 1.

    Attributes
    ----------
    inside : (FRAME_PX, FRAME_PX)
    normals : (FRAME_PX, FRAME_PX, 3) right, up, to the eye
    thick, depth : of each pixel, near is large; the whole of the depth means nothing
    place : (2, 3) from its pixels to those of the subject
    """

    inside: NDArray[np.bool_]
    normals: Floats
    thick: Floats
    depth: Floats
    place: NDArray[np.float64]


def ask(pixels: Floats, cover: Floats) -> Told:
    """What a subject's picture tells of its shape.

    Parameters
    ----------
    pixels, cover : (rows, cols, 3) and (rows, cols), 0 to 1; nothing along the border

    Raises
    ------
    InvalidValue : nothing of it is left at the size that the network looks at
    """
    shown, inside, place = framed(pixels, cover)
    return asked(_network(), features(shown, membrane(inside)), inside, place)


def asked(
    network: Any, given: Floats, inside: NDArray[np.bool_], place: NDArray[np.float64]
) -> Told:
    """What a network says of features: the mean of what it says of them and of their mirror image.

    Parameters
    ----------
    given : (8, rows, cols) as from `features`
    inside, place : as for `Told`
    """
    mirrored = given[:, :, ::-1].copy()
    mirrored[5] *= -1
    layers, other = (
        np.asarray(network.run(None, {"given": one[None]})[0][0], np.float32)
        for one in (given, mirrored)
    )
    other = other[:, :, ::-1]
    normals = layers[:3] + np.stack([-other[0], other[1], other[2]])
    normals /= np.maximum(np.linalg.norm(normals, axis=0), 1e-6)
    thick, depth = (layers[3:] + other[3:]) / 2
    return Told(inside, normals.transpose(1, 2, 0), thick, depth, place)


def framed(pixels: Floats, cover: Floats) -> tuple[Floats, NDArray[np.bool_], NDArray[np.float64]]:
    """Colours and mask of a subject in the frame, and from that to its pixels."""
    rows, cols = np.nonzero(cover >= 0.5)
    if not len(rows):
        raise InvalidValue("mask", "it covers nothing", "Isolate the subject")
    longer = max(int(np.ptp(rows)), int(np.ptp(cols))) + 1
    times = longer / (FILLS * FRAME_PX)  # pixels of the subject in one of the frame
    middle = (rows.min() + rows.max()) / 2, (cols.min() + cols.max()) / 2
    half = (FRAME_PX - 1) / 2
    place = np.array([[times, 0, middle[1] - half * times], [0, times, middle[0] - half * times]])
    shown, mask = (_reduced(layer, place) for layer in (pixels * cover[..., None], cover))
    inside = mask >= 0.5
    inside[[0, -1]] = inside[:, [0, -1]] = False
    if not inside.any():
        raise InvalidValue("subject", "it is too thin to be looked at", "Inflate it instead")
    colours = np.clip(shown / np.maximum(mask, 0.15)[..., None], 0, 1)
    return np.asarray(colours, np.float32), inside, place


def _reduced(layer: Floats, place: NDArray[np.float64]) -> Floats:
    """In the frame."""
    times = float(place[0, 0])
    if times > 1:  # what is made smaller is calmed first
        layer = cv2.GaussianBlur(layer, (0, 0), 0.4 * times)
    size, flags = (FRAME_PX, FRAME_PX), cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    return np.asarray(cv2.warpAffine(layer.astype(np.float32), place, size, flags=flags))


@lru_cache(maxsize=1)
def _network() -> Any:
    import onnxruntime

    options = onnxruntime.SessionOptions()
    options.log_severity_level = 3
    return onnxruntime.InferenceSession(str(WEIGHTS), options, providers=["CPUExecutionProvider"])


def front_of(told: Told) -> NDArray[np.float64]:
    """(FRAME_PX, FRAME_PX) depth that has the slopes of its normals; 0 outside.

    Its rim is free, and it is weakly drawn to the depth that was told.

    Source: the screened Poisson equation of Bhat et al., Fourier Analysis of the 2D Screened
    Poisson Equation (2008), with weights, on the mask alone.
    """
    from scipy import sparse
    from scipy.sparse.linalg import spsolve

    inside = told.inside
    count = int(inside.sum())
    number = np.full(inside.shape, -1)
    number[inside] = np.arange(count)
    near = np.maximum(told.normals[..., 2], _LEAST_NEAR)
    pixel = 2 / FRAME_PX
    right = np.clip(-told.normals[..., 0] / near, -_STEEPEST, _STEEPEST) * pixel
    down = np.clip(told.normals[..., 1] / near, -_STEEPEST, _STEEPEST) * pixel
    rows, cols, values, wanted = [], [], [], []
    total = 0
    for one, other, slope in (
        ((slice(None), slice(None, -1)), (slice(None), slice(1, None)), right),
        ((slice(None, -1), slice(None)), (slice(1, None), slice(None)), down),
    ):
        both = inside[one] & inside[other]
        weight = np.minimum(near[one], near[other])[both]
        step = (slope[one] + slope[other])[both] / 2
        at = np.arange(total, total + len(weight))
        rows += [at, at]
        cols += [number[other][both], number[one][both]]
        values += [weight, -weight]
        wanted.append(weight * step)
        total += len(weight)
    steps = sparse.csr_matrix(
        (np.concatenate(values), (np.concatenate(rows), np.concatenate(cols))), (total, count)
    )
    left = (steps.T @ steps + _PULL * sparse.eye(count)).tocsc()
    answer = spsolve(left, steps.T @ np.concatenate(wanted) + _PULL * told.depth[inside])
    found = np.zeros(inside.shape)
    found[inside] = answer
    return found


def bulge_of(told: Told, swollen: Swollen, back: float, behind: Told | None = None) -> Bulge:
    """A subject as round as it was told: how much thicker than swollen, and where its middle is.

    Parameters
    ----------
    swollen : the subject as it would be inflated
    back : as for `Bulge`
    behind : what its picture from behind tells, mirrored so that it lies on the other; left out:
        the back is as far behind the middle as the front is before it
    """
    times = float(told.place[0, 0])
    unit = times * FRAME_PX / 2  # px of the subject
    front = front_of(told) * unit
    away = cv2.distanceTransform(told.inside.astype(np.uint8), cv2.DIST_L2, 5)
    sure = away > min(_SURE_PX, float(away.max()) / 2)
    if behind is None:
        middle = _calm(front - told.thick * unit / 2, sure, _CALM_PX)
        sides = [front - middle]
    else:
        far = front_of(behind) * unit
        thick = (told.thick + behind.thick) * unit / 2
        far = far + _calm(thick - front - far, sure, _CALM_PX)
        middle = _calm((front - far) / 2, sure, _CALM_PX)
        sides = [front - middle, middle + far]
    own = _reduced(np.sqrt(np.maximum(swollen.power, 0)).astype(np.float32), told.place)

    def full(layer: NDArray[np.float64]) -> NDArray[np.float64]:
        """Of the frame in all of the subject's pixels."""
        rows, cols = swollen.power.shape
        large = cv2.warpAffine(
            _seamless(layer, sure).astype(np.float32),
            told.place,
            (cols, rows),
            flags=cv2.INTER_CUBIC,
            borderMode=cv2.BORDER_REPLICATE,
        )
        calm: NDArray[np.float64] = cv2.GaussianBlur(large, (0, 0), max(0.3, 0.5 * times))
        return calm.astype(np.float64)

    solids = []
    for side in sides:
        ratio = full(np.clip(side / np.maximum(own, times / 2), _LEAST, _MOST))
        ratio = np.clip(ratio, _LEAST, _MOST)
        solids.append(Swollen(swollen.power * ratio**2, swollen.radius * ratio))
    offset, inside = full(middle), swollen.power > 0
    offset -= offset[inside].min() if back == 0 else np.average(offset[inside])
    after = None if behind is None else solids[1]
    return Bulge(solids[0], 1.0, back, behind=after, middle=offset)


def _seamless(layer: NDArray[np.float64], sure: NDArray[np.bool_]) -> NDArray[np.float64]:
    """Beyond where it is sure it goes on without a seam."""
    smooth = cv2.GaussianBlur(continued(layer, sure), (0, 0), _FILLED_PX)
    return np.where(sure, layer, smooth)


def _calm(
    layer: NDArray[np.float64], inside: NDArray[np.bool_], size_px: float
) -> NDArray[np.float64]:
    """Smoothed by what is inside alone."""
    weight = cv2.GaussianBlur(inside.astype(np.float64), (0, 0), size_px)
    whole = cv2.GaussianBlur(np.where(inside, layer, 0), (0, 0), size_px)
    found: NDArray[np.float64] = whole / np.maximum(weight, 1e-6)
    return found
