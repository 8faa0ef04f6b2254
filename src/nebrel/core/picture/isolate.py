"""The subject of a picture, parted from what lies behind it."""

from __future__ import annotations

from collections.abc import Callable

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Mask
from nebrel.core.errors import InvalidValue
from nebrel.core.picture.masks import flood
from nebrel.core.picture.resample import reduce_to, resample
from nebrel.core.picture.smooth import guided

_DECIDED_PX = 256  # the longer side on which the cut is decided, that of a draft
_REFINED_PX = 640  # on which its edge is found again
_GROUND_COLOURS, _KEPT_COLOURS = 12, 4
_STROKE_COVER = 0.25  # of a pixel: a thin stroke does not vanish on a small copy
_CRUMB = 0.02  # parts smaller than this share of the subject are none of it

Strokes = Callable[[int, int], Floats]


def drop_colour(
    pixels: Floats, places: NDArray[np.float64] | None, tolerance: float, contiguous: bool
) -> Floats:
    """Mask of what is not the background colour.

    Parameters
    ----------
    pixels : (rows, cols) or (rows, cols, 3) float32
    places : (n, 2) x, y of background pixels, or None for the colour along the edge
    tolerance : the most that any channel may differ
    contiguous : drop only what is connected to a place (or to the edge)

    Returns
    -------
    (rows, cols) float32, 1 is the subject; pixels between the two colours are soft

    Raises
    ------
    InvalidValue : no place lies in the picture
    """
    rows, cols = pixels.shape[:2]
    spread = max(tolerance, 1e-4)
    if places is None:
        ring = np.concatenate([pixels[0], pixels[-1], pixels[:, 0], pixels[:, -1]])
        colours = np.median(ring, axis=0, keepdims=True).astype(np.float32)
        if contiguous:
            # A frame of the colour around the picture joins all that touches the edge.
            framed = cv2.copyMakeBorder(
                pixels, 1, 1, 1, 1, cv2.BORDER_CONSTANT, value=np.ravel(colours).tolist()
            )
            like = flood(framed, [(0, 0)], spread)[1:-1, 1:-1]
    else:
        seeds = np.round(places).astype(np.int64)
        inside = (seeds >= 0).all(axis=1) & (seeds[:, 0] < cols) & (seeds[:, 1] < rows)
        seeds = seeds[inside]
        if not len(seeds):
            raise InvalidValue(
                "isolate", "its places are not in the picture any more", "Click the background"
            )
        colours = pixels[seeds[:, 1], seeds[:, 0]]
        if contiguous:
            like = flood(pixels, [(int(x), int(y)) for x, y in seeds], spread)
    apart: Floats | None = None
    for colour in colours:
        if pixels.ndim == 2:
            one = cv2.absdiff(pixels, float(colour))
        else:
            one = np.abs(pixels - colour).max(axis=2)
        apart = one if apart is None else np.minimum(apart, one, out=apart)
    assert apart is not None
    if not contiguous:
        like = apart <= spread
    # Beyond the tolerance a border pixel is dropped by how near it still is to the background.
    dropped = like.astype(np.uint8)
    near = cv2.dilate(dropped, np.ones((3, 3), np.uint8)) > dropped
    furthest = cv2.dilate(apart, np.ones((5, 5), np.uint8))
    mask = (1 - dropped).astype(np.float32)
    mask[near] = np.clip(apart[near] / np.maximum(furthest[near], 1e-6), 0, 1)
    return mask


def cut_out(
    pixels: Floats,
    box: tuple[float, float, float, float] | None,
    keep: Strokes,
    drop: Strokes,
) -> Floats:
    """Mask of the subject from a box around it and strokes over it and beside it.

    What is subject and what is not is decided on a copy that is as small as a draft, so that
    a draft and the full picture agree; its edge is then found again on a larger copy.

    Parameters
    ----------
    pixels : (rows, cols) or (rows, cols, 3) float32
    box : left, top, wide, tall in pixels, or None
    keep, drop : draw the strokes at a size, as (rows, cols) float32 coverage

    Returns
    -------
    (rows, cols) float32, 1 is the subject, without crumbs that no keep stroke touches and
    with holes below half a percent of it closed unless a drop stroke marks them

    Raises
    ------
    InvalidValue : neither a box nor a stroke to keep, or nothing was found

    Source: Rother, Kolmogorov and Blake, GrabCut, 2004, run on reduced copies.
    """
    rows, cols = pixels.shape[:2]
    small = reduce_to(pixels, _DECIDED_PX)
    tall, wide = small.shape[:2]
    kept, dropped = (strokes(tall, wide) > _STROKE_COVER for strokes in (keep, drop))
    if box is None and not kept.any():
        raise InvalidValue(
            "isolate", "nothing marks the subject", "Draw a box around it, or a stroke on it"
        )
    guess = np.full((tall, wide), cv2.GC_BGD, np.uint8)
    if box is None:
        guess[1:-1, 1:-1] = cv2.GC_PR_FGD
    else:
        scale_x, scale_y = (wide - 1) / (cols - 1), (tall - 1) / (rows - 1)
        left, top = max(0, round(box[0] * scale_x)), max(0, round(box[1] * scale_y))
        right, bottom = round((box[0] + box[2]) * scale_x), round((box[1] + box[3]) * scale_y)
        guess[top : bottom + 1, left : right + 1] = cv2.GC_PR_FGD
    guess[kept], guess[dropped] = cv2.GC_FGD, cv2.GC_BGD
    if not ((guess == cv2.GC_BGD) | (guess == cv2.GC_PR_BGD)).any():
        raise InvalidValue(
            "isolate", "the box leaves no background", "Leave some background around the box"
        )
    if not ((guess == cv2.GC_FGD) | (guess == cv2.GC_PR_FGD)).any():
        raise InvalidValue("isolate", "the box holds no picture", "Draw the box again")
    cv2.setRNGSeed(7)  # the mixture models start from chance; the same cut every time
    if kept.any():
        open_ = guess == cv2.GC_PR_FGD
        guess[open_ & _like_ground(small, kept, guess == cv2.GC_BGD)] = cv2.GC_PR_BGD
    models = np.zeros((1, 65)), np.zeros((1, 65))
    cv2.grabCut(_bytes(small), guess, None, *models, 5, cv2.GC_INIT_WITH_MASK)
    found = (guess == cv2.GC_FGD) | (guess == cv2.GC_PR_FGD)
    if not found.any():
        raise InvalidValue("isolate", "no subject was found", "Draw a stroke over it to keep it")
    mask = _whole(found.astype(np.float32), kept, dropped)
    larger = reduce_to(pixels, _REFINED_PX)
    if larger.shape[:2] != mask.shape:
        mask = _refine(larger, mask, keep, drop)
    return resample(mask, rows, cols)


def _like_ground(pixels: Floats, kept: Mask, ground: Mask) -> Mask:
    """Where a colour is one of the known ground's and none of those under the keep strokes.

    A colour of the subject that no stroke touches is far from both, and stays open.
    """
    coloured = pixels if pixels.ndim == 3 else np.dstack([pixels] * 3)
    lab = cv2.cvtColor(np.ascontiguousarray(coloured), cv2.COLOR_RGB2Lab)

    def off(where: Mask, groups: int) -> tuple[Floats, float]:
        """Distance to the nearest of a few colours there, and how far most there are off."""
        sample = lab[where]
        sample = sample[:: max(1, len(sample) // 4000)]
        rules = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 20, 0.5)
        groups = min(groups, len(sample))
        _, _, middles = cv2.kmeans(sample, groups, None, rules, 2, cv2.KMEANS_PP_CENTERS)
        apart = np.min([np.linalg.norm(lab - middle, axis=2) for middle in middles], axis=0)
        return apart, float(np.quantile(apart[where], 0.9))

    behind, behind_off = off(ground, _GROUND_COLOURS)
    own, own_off = off(kept, _KEPT_COLOURS)
    return (behind <= 1.5 * behind_off) & (behind < own) & (own > own_off)


def _bytes(pixels: Floats) -> NDArray[np.uint8]:
    coloured = pixels if pixels.ndim == 3 else np.dstack([pixels] * 3)
    return np.clip(coloured * 255 + 0.5, 0, 255).astype(np.uint8)


def _refine(pixels: Floats, mask: Floats, keep: Strokes, drop: Strokes) -> Floats:
    """The edge of a mask found again on a larger copy; beside a band along it nothing changes."""
    tall, wide = pixels.shape[:2]
    before = resample(mask, tall, wide)
    reach = int(np.ceil(1.5 * max(tall, wide) / max(mask.shape))) | 1
    kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1, 2 * reach + 1))
    inside = (before > 0.5).astype(np.uint8)
    guess = np.where(inside > 0, cv2.GC_PR_FGD, cv2.GC_PR_BGD).astype(np.uint8)
    guess[cv2.erode(inside, kernel) > 0] = cv2.GC_FGD
    guess[cv2.dilate(inside, kernel) == 0] = cv2.GC_BGD
    guess[keep(tall, wide) > _STROKE_COVER] = cv2.GC_FGD
    guess[drop(tall, wide) > _STROKE_COVER] = cv2.GC_BGD
    sure = (guess == cv2.GC_FGD).any() and (guess == cv2.GC_BGD).any()
    if not sure:
        return before
    models = np.zeros((1, 65)), np.zeros((1, 65))
    cv2.setRNGSeed(7)
    cv2.grabCut(_bytes(pixels), guess, None, *models, 2, cv2.GC_INIT_WITH_MASK)
    return ((guess == cv2.GC_FGD) | (guess == cv2.GC_PR_FGD)).astype(np.float32)


def _whole(mask: Floats, kept: Mask, dropped: Mask) -> Floats:
    """No crumbs beside the parts that a keep stroke touches (or the largest), no small holes."""
    _, labels, figures, _ = cv2.connectedComponentsWithStats((mask > 0.5).astype(np.uint8))
    areas = figures[:, cv2.CC_STAT_AREA].copy()
    areas[0] = 0
    held = np.unique(labels[kept])
    held = held[held > 0]
    if not held.size:
        held = np.array([int(areas.argmax())])
    own = areas >= _CRUMB * areas[held].sum()
    own[held], own[0] = True, False
    inside = own[labels]
    smallest = 0.005 * inside.sum()
    _, gaps, sizes, _ = cv2.connectedComponentsWithStats((~inside).astype(np.uint8), connectivity=4)
    fill = sizes[:, cv2.CC_STAT_AREA] < smallest
    fill[0] = False
    fill[np.unique(gaps[dropped])] = False
    return (inside | fill[gaps]).astype(np.float32)


def soften(pixels: Floats, mask: Floats, radius_px: float) -> Floats:
    """Fit the edge of a mask to the picture below it, within a radius.

    Parameters
    ----------
    pixels : (rows, cols) or (rows, cols, 3) float32
    mask : (rows, cols) float32
    """
    guide = pixels if pixels.ndim == 2 else _telling(pixels, mask)
    fitted = guided(mask, radius_px, 0.05, guide)
    # A guided mask is too soft by nature: stretch its middle.
    return np.clip((fitted - np.float32(0.5)) * np.float32(1.6) + np.float32(0.5), 0, 1)


def _telling(pixels: Floats, mask: Floats) -> Floats:
    """The channel in which subject and background differ most."""
    step = max(1, int(np.sqrt(mask.size / 200_000)))
    sample, inside = pixels[::step, ::step], mask[::step, ::step] > 0.5
    if not inside.any() or inside.all():
        return np.ascontiguousarray(pixels[..., 1])
    gap = np.abs(sample[inside].mean(axis=0) - sample[~inside].mean(axis=0))
    return np.ascontiguousarray(pixels[..., int(gap.argmax())])


def decontaminate(pixels: Floats, mask: Floats, radius_px: float) -> Floats:
    """Replace the background's colour in the soft edge of a mask by the subject's own."""
    y, x = np.nonzero((mask > 0.001) & (mask < 0.98))
    if not len(y):
        return pixels
    # Only the edge is touched: each of its pixels gets the mean of the solid ones around it.
    reach = max(2, round(1.3 * radius_px))
    step = max(1, reach // 3)
    rows, cols = mask.shape
    flat = pixels.reshape(rows * cols, -1)
    solid = mask.ravel() >= 0.98
    total, weight = np.zeros((len(y), flat.shape[1]), np.float32), np.zeros(len(y), np.float32)
    for dy in range(-reach, reach + 1, step):
        for dx in range(-reach, reach + 1, step):
            at = np.clip(y + dy, 0, rows - 1) * cols + np.clip(x + dx, 0, cols - 1)
            share = solid[at] / np.float32(1 + dy * dy + dx * dx)
            total += flat[at] * share[:, None]
            weight += share
    found = weight > 0
    clean = pixels.copy()
    colour = total[found] / weight[found, None]
    clean[y[found], x[found]] = colour if pixels.ndim == 3 else colour[:, 0]
    return clean
