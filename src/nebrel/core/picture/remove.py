"""Removing something from a picture: filled from its surroundings, or copied from elsewhere."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Mask

_MOST_PX = 360  # the longest side of the part that patches are searched in


def blend_in(values: Floats, known: Floats) -> Floats:
    """Fill unknown pixels with a smooth sheet that meets what is around them.

    Parameters
    ----------
    values : (rows, cols) or (rows, cols, 3) float32
    known : (rows, cols) float32, 1 where values count, 0 where they are to be found

    Source: the pull-push method of Gortler et al., The Lumigraph, 1996.
    """
    return _pull_push(values if values.ndim == 3 else values[..., None], known).reshape(
        values.shape
    )


def _pull_push(values: Floats, known: Floats) -> Floats:
    rows, cols = known.shape
    if known.min() > 0 or max(rows, cols) <= 2:
        total = max(float(known.sum()), 1e-6)
        mean = (values * known[..., None]).sum(axis=(0, 1)) / total
        return np.where(known[..., None] > 0, values, mean).astype(np.float32)
    size = ((cols + 1) // 2, (rows + 1) // 2)
    weight = cv2.resize(known, size, interpolation=cv2.INTER_AREA)
    carried = values * known[..., None]
    coarse = cv2.resize(carried, size, interpolation=cv2.INTER_AREA)
    coarse = coarse.reshape(size[1], size[0], -1) / np.maximum(weight, 1e-6)[..., None]
    below = _pull_push(coarse, np.minimum(weight * 4, 1))
    grown = cv2.resize(below, (cols, rows), interpolation=cv2.INTER_LINEAR)
    grown = grown.reshape(rows, cols, -1)
    share = known[..., None]
    return (values * share + grown * (1 - share)).astype(np.float32)


def copy_from(
    values: Floats, cover: Floats, offset: tuple[float, float], match_light: bool
) -> Floats:
    """Lay a shifted copy of the picture where a mask covers it.

    Parameters
    ----------
    cover : (rows, cols) float32, soft
    offset : x, y in pixels from a covered place to the place it is copied from
    match_light : raise or lower the copy by a smooth sheet so that it meets its surroundings

    Source: for the sheet, the membrane of Perez, Gangnet and Blake, Poisson Image Editing, 2003.
    """
    ys, xs = np.flatnonzero((cover > 0).any(axis=1)), np.flatnonzero((cover > 0).any(axis=0))
    if ys.size == 0:
        return values
    # The sheet needs some of the surroundings; the rest of a large picture is left alone.
    reach = 16 + int(max(np.ptp(ys), np.ptp(xs)) // 2)
    top, left = max(0, int(ys[0]) - reach), max(0, int(xs[0]) - reach)
    part = np.s_[top : int(ys[-1]) + reach + 1, left : int(xs[-1]) + reach + 1]
    own, share = values[part], cover[part]
    rows, cols = share.shape
    matrix = np.array([[1, 0, left + offset[0]], [0, 1, top + offset[1]]], np.float64)
    copied = cv2.warpAffine(
        values,
        matrix,
        (cols, rows),
        flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
        borderMode=cv2.BORDER_REFLECT,
    )
    if match_light:
        copied = copied + blend_in(own - copied, (share < 0.02).astype(np.float32))
    weight = share if values.ndim == 2 else share[..., None]
    result = values.copy()
    result[part] = np.clip(own * (1 - weight) + copied * weight, 0, 1)
    return result


def fill_from_surroundings(values: Floats, cover: Floats) -> Floats:
    """Fill what a mask covers so that the picture carries on across it.

    A smooth sheet carries the light; on it, the texture is put together from patches of the
    surroundings that fit, from coarse to fine.

    Parameters
    ----------
    values : (rows, cols) or (rows, cols, 3) float32
    cover : (rows, cols) float32; 0.02 and more is filled

    Source: Wexler, Shechtman and Irani, Space-Time Completion of Video, 2007, with the search
    of Barnes et al., PatchMatch, 2009.
    """
    hole = cover > 0.02
    if not hole.any():
        return values
    result = values.copy()
    _, labels = cv2.connectedComponents(
        cv2.dilate(hole.astype(np.uint8), np.ones((9, 9), np.uint8))
    )
    for label in range(1, int(labels.max()) + 1):
        own = hole & (labels == label)
        ys, xs = np.flatnonzero(own.any(axis=1)), np.flatnonzero(own.any(axis=0))
        reach = int(0.75 * max(np.ptp(ys), np.ptp(xs))) + 24
        part = np.s_[
            max(0, ys[0] - reach) : ys[-1] + reach + 1, max(0, xs[0] - reach) : xs[-1] + reach + 1
        ]
        others = hole[part] & ~own[part]
        result[part] = _fill_part(result[part], own[part], others)
    return result


def _fill_part(values: Floats, hole: Mask, barred: Mask) -> Floats:
    known = (~(hole | barred)).astype(np.float32)
    smooth = blend_in(values, known)
    filled = smooth
    if known.mean() >= 0.02:
        size = hole.shape[::-1]
        scale = min(1.0, _MOST_PX / max(size))
        if scale < 1:
            size = (max(16, round(size[0] * scale)), max(16, round(size[1] * scale)))

        def fit(what: Floats) -> Floats:
            return what if scale == 1 else cv2.resize(what, size, interpolation=cv2.INTER_AREA)

        filled = _from_patches(
            fit(smooth).reshape(size[1], size[0], -1),
            fit(hole.astype(np.float32)) > 0,
            fit(barred.astype(np.float32)) > 0,
        )
        if scale < 1:
            filled = cv2.resize(filled, hole.shape[::-1], interpolation=cv2.INTER_CUBIC)
    inside = hole if values.ndim == 2 else hole[..., None]
    return np.where(inside, np.clip(filled.reshape(values.shape), 0, 1), values)


def _from_patches(picture: Floats, hole: Mask, barred: Mask) -> Floats:
    """Fill a hole from patches, coarse to fine; (rows, cols, n) float32."""
    # The kernels are compiled code, loaded by who removes something only.
    from nebrel.core.picture.patches import REACH, search, vote

    levels = [(picture, hole, barred)]
    while min(levels[-1][1].shape) > 40 and _widest(levels[-1][1]) > 2 * REACH:
        coarse, gap, closed = levels[-1]
        size = ((gap.shape[1] + 1) // 2, (gap.shape[0] + 1) // 2)
        levels.append(
            (
                cv2.resize(coarse, size, interpolation=cv2.INTER_AREA).reshape(*size[::-1], -1),
                cv2.resize(gap.astype(np.float32), size, interpolation=cv2.INTER_AREA) > 0,
                cv2.resize(closed.astype(np.float32), size, interpolation=cv2.INTER_AREA) > 0,
            )
        )
    found: Floats | None = None
    field: NDArray[np.int32] | None = None
    for index, (level, gap, closed) in enumerate(reversed(levels)):
        rows, cols = gap.shape
        current = np.ascontiguousarray(level, np.float32)
        if found is not None:
            grown = cv2.resize(found, (cols, rows), interpolation=cv2.INTER_LINEAR)
            current = np.where(gap[..., None], grown.reshape(rows, cols, -1), current)
            current = np.ascontiguousarray(current, np.float32)
        usable = _usable(gap | closed, REACH)
        if not usable.any():
            found = current
            continue
        if field is None:
            field = _chance(usable, rows, cols)
        else:
            doubled = np.kron(field, np.ones((2, 2, 1), np.int32))[:rows, :cols] * 2
            field = np.ascontiguousarray(doubled.astype(np.int32))
        for turn in range(6 if index == 0 else 4):
            search(current, gap, usable, field, 3, 11 + turn)
            current = vote(current, gap, field)
        found = current
    return picture if found is None else found


def _widest(mask: Mask) -> float:
    return float(cv2.distanceTransform(mask.astype(np.uint8), cv2.DIST_L2, 3).max())


def _usable(barred: Mask, reach: int) -> Mask:
    """Middles of patches that hold known pixels only."""
    side = 2 * reach + 1
    free = cv2.erode((~barred).astype(np.uint8), np.ones((side, side), np.uint8)) > 0
    free[:reach], free[-reach:] = False, False
    free[:, :reach], free[:, -reach:] = False, False
    return free


def _chance(usable: Mask, rows: int, cols: int) -> NDArray[np.int32]:
    spots = np.argwhere(usable)
    picked = np.random.default_rng(5).integers(0, len(spots), rows * cols)
    return np.ascontiguousarray(spots[picked].reshape(rows, cols, 2).astype(np.int32))
