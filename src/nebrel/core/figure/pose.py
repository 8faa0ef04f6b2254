"""Parts of a subject turned and moved about their joints, and mirrored to its other side."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats
from nebrel.core.errors import InvalidValue
from nebrel.core.figure.subject import Subject, continued
from nebrel.core.figure.turn import find_axis

_NEAR_PX = 3  # from the rest, where a part is joined to it
_EDGE_PX = 2  # around what is taken away, where colours are of both
_ROOM_PX = 4


@dataclass(frozen=True)
class Part:
    """What of a subject is round by itself.

    Attributes
    ----------
    region : (rows, cols) 0 to 1, of the picture's size: what of the subject it is
    ahead_mm : by how much its middle lies before that of the figure
    times : how many times as thick as it would be
    both : it is there a second time, as far behind
    joint : (col, row) of the picture, what it is turned about; left out: where it meets the rest
    turn_deg : counter-clockwise as the picture shows it
    lean_deg : by how much its free end comes forward
    right_mm, up_mm : by how much it is moved
    mirrored : it is there once more, on the other side of the subject's middle
    number : of all parts of a figure, from 0 on
    """

    region: Floats
    ahead_mm: float = 0.0
    times: float = 1.0
    both: bool = False
    joint: tuple[float, float] | None = None
    turn_deg: float = 0.0
    lean_deg: float = 0.0
    right_mm: float = 0.0
    up_mm: float = 0.0
    mirrored: bool = False
    number: int = 0

    @property
    def moved(self) -> bool:
        """Whether it is elsewhere than in the picture."""
        return bool(self.turn_deg or self.right_mm or self.up_mm)


@dataclass(frozen=True)
class Posed:
    """A subject whose parts were moved.

    Attributes
    ----------
    subject : with room for all of it, at (0, 0) of a picture of its own
    parts : of that picture's size, all where they are now
    body : (rows, cols) 0 to 1, what is left of it without its parts
    room : pixels that were added above and on the left
    """

    subject: Subject
    parts: tuple[Part, ...]
    body: Floats
    room: tuple[int, int]


def is_posed(parts: Sequence[Part]) -> bool:
    """Whether anything is elsewhere than in the picture."""
    return any(part.moved or part.mirrored for part in parts)


def joint_of(part: Part, rest: Floats) -> tuple[float, float]:
    """(col, row) what a part is turned about.

    Parameters
    ----------
    rest : (rows, cols) 0 to 1, of the subject without it
    """
    if part.joint is not None:
        return part.joint
    own = part.region >= 0.5
    near = cv2.dilate((rest >= 0.5).astype(np.uint8), np.ones((2 * _NEAR_PX + 1,) * 2, np.uint8))
    rows, cols = np.nonzero(own & (near > 0))
    if not len(rows):
        rows, cols = np.nonzero(own)
    if not len(rows):
        raise InvalidValue("parts", "one covers nothing of the subject", "Draw it over the subject")
    return float(cols.mean()), float(rows.mean())


def pose(subject: Subject, parts: Sequence[Part], body: Floats, mm_per_px: float) -> Posed:
    """A subject with its parts where they are wanted; what was behind them goes on.

    Parameters
    ----------
    parts : of the subject's own size
    body : (rows, cols) 0 to 1, the subject without its parts
    """
    whole = np.max([part.region for part in parts], axis=0)
    rest = np.clip(subject.cover - whole, 0, 1)
    middle = find_axis(subject.cover).at
    laid: list[tuple[Part, NDArray[np.float64]]] = []
    for part in parts:
        joint = joint_of(part, rest)
        matrix = _about(joint, part, mm_per_px)
        laid.append((replace(part, joint=joint), matrix))
        if part.mirrored:
            flip = np.array([[-1, 0, 2 * middle], [0, 1, 0], [0, 0, 1.0]])
            laid.append((replace(part, joint=joint, mirrored=False), flip @ matrix))
    shape = subject.cover.shape
    low, size = _room([matrix for _, matrix in laid], [part for part, _ in laid], shape)
    left = np.array([[1, 0, low[0]], [0, 1, low[1]], [0, 0, 1.0]])

    def warped(layer: Floats, matrix: NDArray[np.float64]) -> Floats:
        around = cv2.BORDER_REPLICATE if layer.ndim == 3 else cv2.BORDER_CONSTANT
        found = cv2.warpAffine(
            layer.astype(np.float32), (left @ matrix)[:2], size, borderMode=around
        )
        return np.asarray(found, np.float32)

    gone = np.max([part.region * part.moved for part in parts], axis=0)
    pixels = _without(subject.pixels, subject.cover, gone)
    shown, still = warped(pixels, np.eye(3)), warped(body, np.eye(3))
    cover, found = still.copy(), []
    for part, matrix in laid:
        own = warped(part.region * subject.cover, matrix)
        # Its edge is the background's too: the colours within go on.
        colours = warped(_without(subject.pixels, part.region * subject.cover, None), matrix)
        shown += (colours - shown) * own[..., None]
        cover = np.maximum(cover, own)
        x, y, _ = left @ matrix @ (*part.joint, 1.0)  # type: ignore[misc]
        found.append(replace(part, region=own, joint=(float(x), float(y)), turn_deg=0.0))
    posed = Subject(cover, np.clip(shown, 0, 1), (0, 0), subject.notes)
    return Posed(posed, tuple(found), still, (low[1], low[0]))


def leaning(part: Part) -> NDArray[np.float64] | None:
    """(rows, cols) px by how much a part lies further ahead; None where there is none of it.

    Parameters
    ----------
    part : where it lies, its joint known
    """
    assert part.joint is not None
    rows, cols = np.nonzero(part.region >= 0.5)
    if not len(rows):
        return None
    x, y = part.joint
    to = np.array([cols.mean() - x, rows.mean() - y])
    to /= max(1e-6, float(np.hypot(*to)))
    down, right = np.mgrid[0 : part.region.shape[0], 0 : part.region.shape[1]]
    away = (right - x) * to[0] + (down - y) * to[1]
    found: NDArray[np.float64] = np.tan(np.radians(part.lean_deg)) * away
    return found


def _about(joint: tuple[float, float], part: Part, mm_per_px: float) -> NDArray[np.float64]:
    """(3, 3) from where it was drawn to where it is."""
    turn = cv2.getRotationMatrix2D(joint, part.turn_deg, 1.0)
    turn[:, 2] += part.right_mm / mm_per_px, -part.up_mm / mm_per_px
    return np.vstack([turn, [0, 0, 1.0]])


def _room(
    matrices: Sequence[NDArray[np.float64]], parts: Sequence[Part], shape: tuple[int, ...]
) -> tuple[tuple[int, int], tuple[int, int]]:
    """Columns and rows to be added on the left and above, and the size of all."""
    low, high = np.zeros(2), np.array([shape[1] - 1, shape[0] - 1], np.float64)
    for part, matrix in zip(parts, matrices, strict=True):
        rows, cols = np.nonzero(part.region > 0.01)
        ends = np.array(
            [(x, y, 1) for x in (cols.min(), cols.max()) for y in (rows.min(), rows.max())]
        )
        at = ends @ matrix[:2].T
        low, high = np.minimum(low, at.min(axis=0)), np.maximum(high, at.max(axis=0))
    before = np.where(low < 0, np.ceil(-low) + _ROOM_PX, 0).astype(int)
    after = np.ceil(high).astype(int) + before + 1
    after += np.where(high > np.array([shape[1], shape[0]]) - 1, _ROOM_PX, 0)
    return (int(before[0]), int(before[1])), (int(after[0]), int(after[1]))


def _without(pixels: Floats, cover: Floats, gone: Floats | None) -> Floats:
    """The colours of what is covered go on beyond it, and where something is taken away."""
    sure = cover > 0.98
    if gone is not None:
        away = (gone > 0.02).astype(np.uint8)
        sure &= cv2.dilate(away, np.ones((2 * _EDGE_PX + 1,) * 2, np.uint8)) == 0
    return continued(pixels, sure)
