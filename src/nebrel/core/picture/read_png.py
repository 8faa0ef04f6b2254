"""PNG files: whether all of their rows are there, and those of 16 bits."""

from __future__ import annotations

import zlib
from collections.abc import Iterator
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Picture
from nebrel.core.errors import UnreadableFile
from nebrel.core.picture.unpack import bands, from_integers, turned

SIGNATURE = b"\x89PNG\r\n\x1a\n"
_SAVE_AGAIN = "Save or download the picture again"
_PIECE = 1 << 20
_CHANNELS = {0: 1, 2: 3, 3: 1, 4: 2, 6: 4}
_PASSES = ((0, 0, 8, 8), (4, 0, 8, 8), (0, 4, 4, 8), (2, 0, 4, 4), (0, 2, 2, 4), (1, 0, 2, 2))


def check_rows(data: bytes, cols: int, rows: int, name: str) -> None:
    """Every row of the picture is in the file, which no reader of PNG says by itself.

    Raises
    ------
    UnreadableFile : rows are missing, or the packed data is damaged

    Source: PNG specification (ISO/IEC 15948), 7 and 8: filter bytes, and the seven passes of
    an interlaced picture.
    """
    bits = data[24] * _CHANNELS.get(data[25], 4)

    def size(wide: int, tall: int) -> int:
        return tall * (1 + (wide * bits + 7) // 8) if wide > 0 else 0

    wanted = size(cols, rows)
    if data[28]:
        wanted = size(cols, rows // 2)  # the last pass: every other row, all of its pixels
        for left, top, across, down in _PASSES:
            wanted += size(-(-(cols - left) // across), max(0, -(-(rows - top) // down)))
    pump, seen = zlib.decompressobj(), 0
    try:
        for chunk in _packed(data):
            seen += len(pump.decompress(chunk, _PIECE))
            while pump.unconsumed_tail and seen < wanted:
                seen += len(pump.decompress(pump.unconsumed_tail, _PIECE))
            if seen >= wanted or pump.eof:
                break
    except zlib.error as error:
        raise UnreadableFile(name, "the picture is damaged or cut short", _SAVE_AGAIN) from error
    if seen < wanted:
        there = int(rows * seen / wanted)
        raise UnreadableFile(
            name, f"the picture is cut short: {there} of its {rows} rows are there", _SAVE_AGAIN
        )


def _packed(data: bytes) -> Iterator[memoryview]:
    """The bodies of the IDAT chunks."""
    at, view = len(SIGNATURE), memoryview(data)
    while at + 8 <= len(data):
        length = int.from_bytes(view[at : at + 4], "big")
        if data[at + 4 : at + 8] == b"IDAT":
            yield view[at + 8 : at + 8 + length]
        at += length + 12


def read_png16(data: bytes, name: str, transparent: Any, orientation: int) -> Picture:
    """A PNG of 16 bits a channel.

    Parameters
    ----------
    transparent : the gray or the colour that is taken as transparent, or None
    """
    values = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)
    if values is None or values.dtype != np.uint16:
        raise UnreadableFile(name, "its 16 bits cannot be decoded", _SAVE_AGAIN)
    values = turned(values, orientation)
    if values.ndim == 3 and values.shape[2] < 3:
        values = values[..., 0]
    channels = 1 if values.ndim == 2 else values.shape[2]
    order = [2, 1, 0, 3][:channels]
    keyed = transparent is not None and not isinstance(transparent, bytes) and channels in (1, 3)
    key = np.asarray(transparent if keyed else 0, np.uint16)

    def band(part: slice) -> NDArray[np.uint16]:
        some: NDArray[np.uint16] = values[part] if channels == 1 else values[part][..., order]
        return some

    picture = from_integers((*values.shape[:2], channels), band, 65_535.0, 16)
    if not keyed:
        return picture
    alpha = np.ones((picture.rows, picture.cols), np.float32)
    for part in bands(picture.rows, picture.cols):
        same = band(part) == key
        alpha[part][same if same.ndim == 2 else same.all(axis=-1)] = 0
    return Picture(picture.pixels, alpha, 16)
