"""How an entry of the build-up ends at its outline: chamfers, rounds, coves and pillows."""

from __future__ import annotations

import cv2
import numpy as np

from nebrel.core.choices import ProfileKind
from nebrel.core.data import Floats


def profile_share(
    inwards_mm: Floats, kind: ProfileKind, reach_mm: float, softness: float
) -> Floats:
    """How far an edge has risen, 0 on the outline to 1 where the profile ends.

    Parameters
    ----------
    inwards_mm : distance from the outline, below 0 outside of it
    reach_mm : how far in the profile goes; for a pillow 0 means to the middle
    softness : of a pillow, 0 a roof with straight flanks to 1 a dome

    A chamfer is straight, a round is a quarter circle that ends level, a cove one that
    ends upright, a pillow rises by distance and is softened on its ridge.
    """
    if kind == "sharp":
        return np.ones_like(inwards_mm)
    if kind == "pillow":
        return _pillow(inwards_mm, reach_mm, softness)
    share = np.clip(inwards_mm / np.float32(max(reach_mm, 1e-6)), 0, 1)
    if kind == "round":
        return np.sqrt(np.maximum(0, 1 - (1 - share) ** 2))
    if kind == "cove":
        return 1 - np.sqrt(np.maximum(0, 1 - share**2))
    return share


def _pillow(inwards_mm: Floats, reach_mm: float, softness: float) -> Floats:
    within = np.maximum(inwards_mm, 0)
    deepest = float(within.max())
    reach = min(reach_mm, deepest) if reach_mm > 0 else deepest
    if reach <= 0:
        return np.zeros_like(inwards_mm)
    share = np.minimum(within / np.float32(reach), 1)
    power = np.float32(1 + softness)
    share = (1 - (1 - share) ** power) ** (1 / power)
    if softness > 0.02:
        # The ridge only: on the outline itself the pillow must start from nothing.
        sigma = softness * min(share.shape) / 24
        calm = cv2.GaussianBlur(share, (0, 0), max(0.6, sigma), borderType=cv2.BORDER_REPLICATE)
        share = share + (calm - share) * share
    return np.asarray(share, np.float32)


def drop_mm(kind: ProfileKind, reach_mm: float, height_mm: float) -> float:
    """How far below its top an entry stands on its outline.

    A chamfer, round or cove is as steep as a quarter circle as long as the height allows.
    """
    if kind == "sharp":
        return 0.0
    return height_mm if kind == "pillow" else min(reach_mm, height_mm)
