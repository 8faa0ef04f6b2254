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


DOLL_COLS, DOLL_ROWS = 240, 300


def doll(grain: float, shade: float = 0.0) -> bytes:
    """A round body, a head and two arms that stand off, on paper with a grain.

    It gets darker to the right by a share.
    """
    rows, cols = DOLL_ROWS, DOLL_COLS
    mask = np.zeros((rows, cols), np.uint8)
    cv2.ellipse(mask, (120, 200), (52, 70), 0, 0, 360, 255, -1, cv2.LINE_AA)
    cv2.circle(mask, (120, 95), 40, 255, -1, cv2.LINE_AA)
    cv2.line(mask, (120, 160), (45, 130), 255, 22, cv2.LINE_AA)
    cv2.line(mask, (120, 160), (195, 130), 255, 22, cv2.LINE_AA)
    cover = (mask / 255.0)[..., None]
    paper = 0.92 + grain * np.random.default_rng(0).uniform(-1, 1, (rows, cols, 1))
    lit = 1 - shade * np.linspace(0, 1, cols)[None, :, None]
    found = cover * np.array([0.7, 0.3, 0.2]) * lit + (1 - cover) * paper
    return png(found.astype(np.float32), 8)
