"""Depth whose slopes are those of normals."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

_STEEPEST = 5.0


def put_together(
    down: NDArray[np.float64], right: NDArray[np.float64], shape: tuple[int, ...]
) -> NDArray[np.float64]:
    """What has these steps from pixel to pixel, as nearly as may be; 0 on the whole.

    Parameters
    ----------
    down, right : (rows - 1, cols) and (rows, cols - 1)

    Source: Frankot and Chellappa, A Method for Enforcing Integrability (1988), by cosines.
    """
    from scipy.fft import dctn, idctn

    rows, cols = shape
    sums = np.zeros((rows, cols))
    sums[:-1] -= down
    sums[1:] += down
    sums[:, :-1] -= right
    sums[:, 1:] += right
    waves = [2 - 2 * np.cos(np.pi * np.arange(count) / count) for count in (rows, cols)]
    answer = waves[0][:, None] + waves[1][None]
    answer[0, 0] = 1
    found = dctn(sums, norm="ortho") / answer
    found[0, 0] = 0
    whole: NDArray[np.float64] = idctn(found, norm="ortho")
    return whole


def from_normals(normals: NDArray[np.float64], inside: NDArray[np.bool_]) -> NDArray[np.float64]:
    """Depth in px, near is large (rows, cols), its rim free.

    Parameters
    ----------
    normals : (rows, cols, 3) right, up, to the eye; of any length
    """
    long = np.maximum(np.linalg.norm(normals, axis=2), 1e-9)
    ahead = np.maximum(normals[..., 2] / long, 0.05)
    rising = np.clip(-normals[..., 0] / long / ahead, -_STEEPEST, _STEEPEST)
    falling = np.clip(normals[..., 1] / long / ahead, -_STEEPEST, _STEEPEST)
    down = np.where(inside[1:] & inside[:-1], (falling[1:] + falling[:-1]) / 2, 0)
    right = np.where(inside[:, 1:] & inside[:, :-1], (rising[:, 1:] + rising[:, :-1]) / 2, 0)
    return put_together(down, right, inside.shape)
