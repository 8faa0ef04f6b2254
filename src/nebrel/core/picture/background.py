"""The background of a picture: the light or dark tone that its edge lies in."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Mask
from nebrel.core.picture.resample import reduce_to, resample

_WORK_PX = 400
_LEAST_EDGE = 0.65  # of the edge lies in the background
_MOST_FALL = 0.7


@dataclass(frozen=True)
class Background:
    """What lies behind the subject.

    Attributes
    ----------
    tone : its middle tone
    low, high : its 2nd and 98th percentile, noise calmed
    share : of the area of the picture
    surface : reduced, float32, its tone everywhere, smooth, also below the subject
    where : (rows, cols) bool
    """

    tone: float
    low: float
    high: float
    share: float
    surface: Floats
    where: Mask

    @property
    def unevenness(self) -> float:
        """How far its tones reach apart."""
        return self.high - self.low


def border_tone(tone: Floats) -> float:
    """Median tone along the edge."""
    return float(np.median(_ring(tone)))


def _ring(tone: Floats) -> Floats:
    return np.concatenate([tone[0], tone[-1], tone[1:-1, 0], tone[1:-1, -1]])


def find_background(tone: Floats, reach: float = 0.05) -> Background | None:
    """The background, if the edge of the picture lies in one.

    A smooth surface (a quadratic in x and y) is fitted to most of the tones along the edge, then
    to what is connected to the edge and lies near it, then to everything that lies near it.

    Parameters
    ----------
    tone : (rows, cols) float32
    reach : tones this far from the surface still belong to it

    Returns
    -------
    Background, or None when the edge is a drawing, a ramp or a photograph
    """
    small = reduce_to(tone, _WORK_PX)
    if min(small.shape) < 8:
        return None
    calm = cv2.medianBlur(np.ascontiguousarray(small), 3)
    calm = cv2.GaussianBlur(calm, (0, 0), 1.0)
    terms = _terms(*calm.shape)
    inside = _along_edge(calm, terms)
    if inside is None:
        return None
    for round_ in range(6):
        surface = _fit(terms, calm, inside)
        limit = 0.1 if round_ == 0 else max(reach, 0.03)
        like = np.abs(calm - surface) < limit
        # Once its light is known, the background is also found inside a drawn frame.
        inside = _touching_edge(like) if round_ < 3 else like
        if inside.mean() < 0.05:
            return None
    if not _lies_behind(calm, surface, inside):
        return None
    core = cv2.erode(inside.astype(np.uint8), np.ones((3, 3), np.uint8)).astype(bool)
    values = calm[core if core.any() else inside]
    low, high = (float(q) for q in np.quantile(values, (0.02, 0.98)))
    rows, cols = tone.shape
    where = cv2.resize(inside.astype(np.uint8), (cols, rows), interpolation=cv2.INTER_NEAREST)
    return Background(
        float(np.median(values)), low, high, float(inside.mean()),
        np.clip(surface, 0, 1).astype(np.float32), where.astype(bool),
    )  # fmt: skip


def even_out(values: Floats, background: Background, tone: float) -> Floats:
    """Take the falling light of the background out of the whole picture.

    Paper reflects a share of the light on it, so a light background is divided out; a dark
    one is taken away.

    Parameters
    ----------
    values : (rows, cols) or (rows, cols, 3) float32
    tone : what the background becomes
    """
    rows, cols = values.shape[:2]
    surface = resample(background.surface, rows, cols)
    if values.ndim == 3:
        surface = np.dstack([surface] * 3)
    if background.tone > 0.5:
        gain = np.float32(tone) / np.maximum(surface, np.float32(0.05))
        return np.clip(values * gain.astype(np.float32, copy=False), 0, 1).astype(np.float32)
    room = (1 - np.float32(tone)) / np.maximum(1 - surface, np.float32(0.05))
    return np.clip(np.float32(tone) + (values - surface) * room, 0, 1).astype(np.float32)


def _terms(rows: int, cols: int) -> NDArray[np.float64]:
    y, x = np.mgrid[-1 : 1 : rows * 1j, -1 : 1 : cols * 1j]
    return np.stack([np.ones_like(x), x, y, x * x, x * y, y * y], axis=-1)


def _fit(terms: NDArray[np.float64], tone: Floats, inside: Mask) -> NDArray[np.float64]:
    step = max(1, int(inside.sum() / 20_000))
    factors, *_ = np.linalg.lstsq(terms[inside][::step], tone[inside][::step], rcond=None)
    return terms @ factors


def _along_edge(calm: Floats, terms: NDArray[np.float64]) -> Mask | None:
    """The pixels along the edge that lie on one smooth surface, or None when too few do.

    A subject may run over a third of the edge; a scene changes all the way round.
    """
    ring = _ring(calm)
    if float(np.mean(np.abs(np.diff(ring)) > 0.02)) > 0.025:
        return None
    edge = np.zeros(calm.shape, bool)
    edge[:2], edge[-2:], edge[:, :2], edge[:, -2:] = True, True, True, True
    inside = edge & (np.abs(calm - np.median(ring)) < 0.35)
    for limit in (0.2, 0.12, 0.08, 0.06, 0.05, 0.05):
        surface = _fit(terms, calm, inside)
        inside = edge & (np.abs(calm - surface) < limit)
        if inside.sum() < _LEAST_EDGE * edge.sum():
            return None
    return inside if float(np.ptp(surface[edge])) < _MOST_FALL else None


def _lies_behind(calm: Floats, surface: NDArray[np.float64], inside: Mask) -> bool:
    """Whether a surface is what a subject lies on, and not a slope of the picture itself."""
    off = (calm - surface)[~inside]
    off = off[np.abs(off) > 0.08]
    spread = calm[inside]
    fall = float(np.quantile(spread, 0.98) - np.quantile(spread, 0.02))
    middle = float(np.median(spread))
    plain = fall < 0.17 and not 0.35 < middle < 0.62
    if off.size < 0.02 * calm.size:
        return plain  # an empty sheet, if it is nearly white or black
    one_side = max(float(np.mean(off < 0)), float(np.mean(off > 0)))
    if plain:
        return one_side > 0.6
    # What falls far, or is gray, has to look like paper: nearly all of the rest on one side of
    # it, and apart from it by more than it is rough.
    rough = float(np.std((calm - surface)[inside]))
    return one_side > 0.88 and float(np.median(np.abs(off))) > 8 * rough


def _touching_edge(mask: Mask) -> Mask:
    _, labels = cv2.connectedComponents(mask.astype(np.uint8), connectivity=4)
    touching = np.zeros(int(labels.max()) + 1, bool)
    touching[_ring(labels)] = True
    touching[0] = False
    return touching[labels]
