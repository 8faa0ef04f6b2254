"""Small pictures with known content, and the files they are kept in."""

from __future__ import annotations

import io
import struct
import zlib

import cv2
import numpy as np
from PIL import Image


def ramp(rows: int = 40, cols: int = 60) -> np.ndarray:
    """Tones from 0 at the left to 1 at the right."""
    return np.tile(np.linspace(0, 1, cols, dtype=np.float32), (rows, 1))


def png(tones: np.ndarray, bits: int = 16) -> bytes:
    """Gray or RGB tones, 0 to 1, as a PNG."""
    kind = np.uint16 if bits == 16 else np.uint8
    values = np.rint(tones * (2**bits - 1)).astype(kind)
    if values.ndim == 3:
        values = values[..., [2, 1, 0, 3][: values.shape[2]]]
    _, data = cv2.imencode(".png", values)
    return data.tobytes()


def pillow(image: Image.Image, file_format: str, **options: object) -> bytes:
    """A Pillow image as a file."""
    buffer = io.BytesIO()
    image.save(buffer, file_format, **options)
    return buffer.getvalue()


def declared(cols: int, rows: int) -> bytes:
    """A well-formed gray PNG whose header declares a size, with hardly any data behind it."""

    def chunk(kind: bytes, body: bytes) -> bytes:
        return (
            struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))
        )

    head = struct.pack(">IIBBBBB", cols, rows, 8, 0, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n"
        + chunk(b"IHDR", head)
        + chunk(b"IDAT", zlib.compress(b"\0" * 100))
        + chunk(b"IEND", b"")
    )
