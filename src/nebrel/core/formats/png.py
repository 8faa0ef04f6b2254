"""Gray 16-bit PNG files."""

from __future__ import annotations

import struct
import zlib
from pathlib import Path

import numpy as np

from nebrel.core.data import Floats
from nebrel.core.formats.files import writing


def encode_png(
    tone: Floats, alpha: Floats | None = None, dpi: float | None = None, comment: str = ""
) -> bytes:
    """A 16-bit gray PNG, with alpha when there is one.

    Parameters
    ----------
    tone, alpha : (rows, cols) float32, 0 to 1
    dpi : pixels per inch, written into the file
    comment : written into the file, Latin-1

    OpenCV writes no gray with alpha, so the chunks are put together here; they are few.
    Source: W3C, Portable Network Graphics Specification, third edition.
    """
    planes = [tone] if alpha is None else [tone, alpha]
    stacked = np.clip(np.stack(planes, axis=-1), 0, 1) * np.float32(65_535) + np.float32(0.5)
    rows, cols = tone.shape
    lines = stacked.astype(">u2").reshape(rows, -1).view(np.uint8)
    # Each line differs little from the one above it: filter 2, which says so.
    differences = lines.copy()
    differences[1:] -= lines[:-1]
    framed = np.empty((rows, lines.shape[1] + 1), np.uint8)
    framed[:, 0], framed[:, 1:] = 2, differences

    def chunk(kind: bytes, body: bytes) -> bytes:
        check = zlib.crc32(kind + body)
        return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", check)

    head = struct.pack(">IIBBBBB", cols, rows, 16, 0 if alpha is None else 4, 0, 0, 0)
    size = b""
    if dpi:
        per_metre = round(dpi / 0.0254)
        size = chunk(b"pHYs", struct.pack(">IIB", per_metre, per_metre, 1))
    if comment:
        size += chunk(b"tEXt", b"Comment\0" + comment.encode("latin-1", "replace"))
    body = zlib.compress(framed.tobytes(), 6)
    return (
        b"\x89PNG\r\n\x1a\n"
        + chunk(b"IHDR", head)
        + size
        + chunk(b"IDAT", body)
        + chunk(b"IEND", b"")
    )


def write_png(path: Path, tone: Floats, alpha: Floats | None, dpi: float | None = None) -> None:
    """Write a 16-bit gray PNG, whole or not at all. Raises StorageFailed."""
    data = encode_png(tone, alpha, dpi)
    with writing(path, path.name) as file:
        file.write(data)
