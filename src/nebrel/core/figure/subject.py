"""The one subject of a picture, from its transparency, an even background or a mask."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TypeVar

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import distance_transform_edt

from nebrel.core.data import Floats, Picture
from nebrel.core.errors import InvalidValue
from nebrel.core.picture.isolate import decontaminate, drop_colour

_EVEN = 0.05  # that the colours along the edge of the picture may differ, for it to be background
_MOSTLY = 0.97  # of the edge lies in that
_TOLERANCE = 0.12  # of colours that are background
_CRUMB = 0.02  # of the largest, that another part is as large as, to be a subject of its own
_LEAST_PX, _SMALL_PX = 40, 256  # along the longer side of the subject
_SHARE = 0.01  # of the edge of the picture, that the subject may lie along
_HALF, _WHOLLY = 0.5, 0.98


@dataclass(frozen=True)
class Subject:
    """What is made into a figure, cut out of its picture, upright.

    Attributes
    ----------
    cover : (rows, cols) 0 to 1, nothing along the edge
    pixels : (rows, cols, 3) its colours, 0 to 1, without the background's in its soft edge
    low : (col, row) of the picture, where its upper left corner was
    notes : what is worth knowing, in plain words
    """

    cover: Floats
    pixels: Floats
    low: tuple[int, int]
    notes: tuple[str, ...] = ()


def find_subject(picture: Picture, mask: Floats | None = None) -> Subject:
    """The subject of a picture.

    Parameters
    ----------
    mask : (rows, cols) 0 to 1; left out: its transparency, or an even background

    Raises
    ------
    InvalidValue : it is not isolated, or is none, several, cut off or too small; says what helps
    """
    rgb = _colours(picture)
    cover = _one(find_cover(picture, mask), "mask" if mask is not None else "picture")
    notes = []
    edge = np.concatenate([cover[0], cover[-1], cover[:, 0], cover[:, -1]])
    if float((edge > _HALF).mean()) > _SHARE:
        raise InvalidValue(
            "subject",
            "it touches the border of the picture",
            "Take a picture with the whole subject, or leave some room around it",
        )
    rows, cols = np.nonzero(cover > 0.01)
    high, wide = int(np.ptp(rows)) + 1, int(np.ptp(cols)) + 1
    if max(high, wide) < _LEAST_PX:
        raise InvalidValue(
            "subject",
            f"it is {max(high, wide)} pixels large",
            f"Enlarge the picture, or take one with at least {_SMALL_PX} pixels on the subject",
        )
    if max(high, wide) < _SMALL_PX:
        notes.append(f"the subject is {max(high, wide)} pixels large: {_SMALL_PX} show more")
    clean = decontaminate(np.ascontiguousarray(rgb, np.float32), cover, 2.0)
    top, left = int(rows.min()), int(cols.min())
    box = slice(top, top + high), slice(left, left + wide)
    room = ((2, 2), (2, 2))
    return Subject(
        np.pad(cover[box], room),
        np.pad(clean[box], (*room, (0, 0)), mode="edge"),
        (left - 2, top - 2),
        tuple(notes),
    )


def find_cover(picture: Picture, mask: Floats | None = None) -> Floats:
    """What of a picture is kept, (rows, cols) 0 to 1, however many subjects that is.

    Raises
    ------
    InvalidValue : it is not isolated, or the mask is of another size
    """
    if mask is not None:
        return np.asarray(of_its_size(picture, mask, "mask"), np.float32)
    return np.asarray(_found(picture, _colours(picture)), np.float32)


def _colours(picture: Picture) -> Floats:
    pixels = picture.pixels
    return pixels if pixels.ndim == 3 else np.repeat(pixels[..., None], 3, axis=2)


def apart(cover: Floats) -> tuple[int, NDArray[np.int32], NDArray[np.int64]]:
    """How many subjects there are, which part each pixel belongs to, and how large the parts are.

    Returns
    -------
    count, (rows, cols) 0 for none, (parts,) pixels; what is much smaller than the largest is crumbs
    """
    inside = (cover > _HALF).astype(np.uint8)
    _, labels, figures, _ = cv2.connectedComponentsWithStats(inside, connectivity=8)
    areas = figures[1:, cv2.CC_STAT_AREA].astype(np.int64)
    count = int((areas > _CRUMB * areas.max()).sum()) if len(areas) else 0
    return count, labels, areas


Layer = TypeVar("Layer", bound=np.generic)


def on_its_picture(subject: Subject, own: NDArray[Layer], size: tuple[int, int]) -> NDArray[Layer]:
    """What is known of each pixel of a subject, in a picture of so many rows and columns.

    Parameters
    ----------
    own : (rows, cols, ...) of the subject's size; 0 around it
    """
    left, top = subject.low
    rows, cols = own.shape[:2]
    whole = np.zeros((size[0] + 4, size[1] + 4, *own.shape[2:]), own.dtype)
    whole[top + 2 : top + 2 + rows, left + 2 : left + 2 + cols] = own
    return whole[2:-2, 2:-2]


def continued(values: NDArray[Layer], sure: NDArray[np.bool_]) -> NDArray[Layer]:
    """Beyond where it is sure what is nearest goes on; all of it as it is where nothing is.

    Parameters
    ----------
    values, sure : (rows, cols, ...) and (rows, cols)
    """
    if not sure.any():
        return values
    _, (y, x) = distance_transform_edt(~sure, return_indices=True)
    found: NDArray[Layer] = values[y, x]
    return found


def with_own_colours(pixels: Floats, cover: Floats) -> Floats:
    """Beyond a subject its own colours go on, so that its rim is not the background's.

    Parameters
    ----------
    pixels, cover : (rows, cols, 3) and (rows, cols), 0 to 1
    """
    return continued(pixels, cover > _WHOLLY)


def of_its_size(picture: Picture, beside: Floats, what: str) -> Floats:
    """Tones (rows, cols) of what is brought beside a picture. Raises InvalidValue of another size.

    Parameters
    ----------
    what : it is, in plain words
    """
    return of_size((picture.rows, picture.cols), beside, what)


def of_size(size: tuple[int, int], beside: Floats, what: str) -> Floats:
    """The same for a picture of so many rows and columns."""
    if beside.shape == size:
        return beside
    rows, cols = beside.shape
    raise InvalidValue(
        what,
        f"it is {cols} × {rows} pixels, and the picture {size[1]} × {size[0]}",
        "Bring one of the picture's own size",
    )


def _found(picture: Picture, rgb: Floats) -> Floats:
    alpha = picture.alpha
    if alpha is not None and float(alpha.max()) < _HALF:
        raise InvalidValue(
            "picture", "it is transparent all over", "Isolate the subject anew, or give a mask"
        )
    if alpha is not None and float(alpha.min()) < 0.1 and float(alpha.max()) > 0.9:
        return alpha
    ring = np.concatenate([rgb[0], rgb[-1], rgb[:, 0], rgb[:, -1]])
    colour = np.median(ring, axis=0)
    like = np.abs(ring - colour).max(axis=1) <= _EVEN
    if float(like.mean()) < _MOSTLY:
        raise InvalidValue(
            "picture",
            "the subject is not isolated: its background is neither transparent nor even",
            "Isolate the subject first, or give a mask",
        )
    return drop_colour(np.ascontiguousarray(rgb, np.float32), None, _TOLERANCE, True)


def _one(cover: Floats, by: str) -> Floats:
    """The subject without crumbs. Raises InvalidValue.

    Parameters
    ----------
    by : what told it: "mask" or "picture"
    """
    large, labels, areas = apart(cover)
    if large == 0:
        none = "it covers nothing" if by == "mask" else "nothing is apart from its background"
        raise InvalidValue(by, none, "Isolate the subject")
    if large > 1:
        raise InvalidValue(
            "subject",
            f"there are {large} apart from each other",
            "Keep one of them: isolate it, or cut the picture",
        )
    if len(areas) == 1:
        return cover
    own = (labels == 1 + int(areas.argmax())).astype(np.uint8)
    near = cv2.dilate(own, np.ones((3, 3), np.uint8))
    found: Floats = np.where(near > 0, cover, 0).astype(np.float32)
    return found
