"""TIFF files, in every type of number that tifffile or OpenCV reads."""

from __future__ import annotations

import io
import logging
import re
import zlib
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Picture
from nebrel.core.errors import TooLarge, UnreadableFile
from nebrel.core.picture.heard import heard
from nebrel.core.picture.height_scale import HeightsScale, as_heights
from nebrel.core.picture.unpack import Band, from_integers, from_reals, turned

MAGIC = (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+")
_SAVE_AGAIN = "Save or download the picture again"
_DECODING = re.compile(r"(\w+Decode|JPEGLib|\S+\.tif): ")  # how the library says so
_SLACK = 1 << 20
_PIECE = 1 << 20
_MOST_RATIO = {8: 1100, 32946: 1100, 32773: 64}  # deflate, packed bits: out for each byte in


@dataclass(frozen=True)
class TiffHead:
    """What a TIFF says of its first page."""

    cols: int
    rows: int
    channels: int
    raw_bytes: int
    frames: int
    dpi: float | None
    orientation: int
    description: str


def _tifffile() -> Any:
    import tifffile

    logging.getLogger("tifffile").setLevel(logging.CRITICAL)  # what is wrong is said by us, once
    return tifffile


def _first_page(tiff: Any, name: str) -> Any:
    page = tiff.pages[0]
    if page.imagedepth > 1 or page.dtype is None:
        raise UnreadableFile(name, "it is not a flat picture of numbers", "Save it as 8 or 16 bits")
    return page


def read_head(data: bytes, name: str) -> TiffHead:
    """What the first page says; anything may be raised by a damaged file."""
    tifffile = _tifffile()
    with tifffile.TiffFile(io.BytesIO(data)) as tiff:
        page = _first_page(tiff, name)
        samples = 3 if page.photometric == tifffile.PHOTOMETRIC.PALETTE else page.samplesperpixel
        pixels = int(page.imagewidth) * int(page.imagelength)
        return TiffHead(
            cols=int(page.imagewidth),
            rows=int(page.imagelength),
            channels=min(int(samples), 4),
            raw_bytes=pixels * int(page.samplesperpixel) * page.dtype.itemsize,
            frames=len(tiff.pages),
            dpi=_dpi(page),
            orientation=int(_tag(page, 274, 1)),
            description=str(_tag(page, 270, "")),
        )


def _tag(page: Any, code: int, otherwise: Any) -> Any:
    tag = page.tags.get(code)
    return otherwise if tag is None or tag.value is None else tag.value


def _dpi(page: Any) -> float | None:
    try:
        over, under = _tag(page, 282, (0, 1))
        per_unit = float(over) / float(under)
    except (TypeError, ValueError, ZeroDivisionError):
        return None
    unit = _tag(page, 296, 2)
    return per_unit * 2.54 if unit == 3 else per_unit if unit == 2 else None


def read_tiff(data: bytes, name: str, orientation: int, scale: HeightsScale | None) -> Picture:
    """The first page.

    Parameters
    ----------
    orientation : applied on the way
    scale : of a file whose real numbers are heights in mm, or None

    Raises
    ------
    UnreadableFile, TooLarge; a damaged file may raise anything
    """
    tifffile = _tifffile()
    with tifffile.TiffFile(io.BytesIO(data)) as tiff:
        page = _first_page(tiff, name)
        ours = page.compression in tifffile.TIFF.DECOMPRESSORS
        if not ours or page.predictor not in tifffile.TIFF.UNPREDICTORS:
            _check_within(page, data, name)
            _check_decodes(data, name)
            return _by_opencv(data, name, orientation)
        _check_segments(page, data, name)
        values = np.asarray(page.asarray())
        palette = page.photometric == tifffile.PHOTOMETRIC.PALETTE
        if palette and page.colormap is not None:
            return _from_palette(turned(values, orientation), np.asarray(page.colormap))
        if page.samplesperpixel > 1 and page.planarconfig == tifffile.PLANARCONFIG.SEPARATE:
            values = np.moveaxis(values, 0, -1)
        values = turned(values, orientation)
        if values.dtype == bool:
            values = values.astype(np.uint8) * 255
        if page.photometric == tifffile.PHOTOMETRIC.SEPARATED and page.samplesperpixel >= 4:
            return _from_inks(values)
        inverted = page.photometric == tifffile.PHOTOMETRIC.MINISWHITE
        bits = int(page.bitspersample) if values.dtype.kind == "u" else None
        if scale is not None and values.dtype.kind == "f" and values.ndim == 2:
            return _from_millimetres(values, scale, name)
        return _finish(values, name, inverted, bits)


def _check_within(page: Any, data: bytes, name: str) -> None:
    """No strip or tile lies outside the file. Raises UnreadableFile."""
    for offset, size in zip(page.dataoffsets, page.databytecounts, strict=True):
        if offset + size > len(data):
            raise UnreadableFile(name, "the picture is damaged or cut short", _SAVE_AGAIN)


def _check_decodes(data: bytes, name: str) -> None:
    """All of it is there: what OpenCV cannot decode it leaves black, without a word.

    Raises
    ------
    UnreadableFile
    """
    from PIL import Image, UnidentifiedImageError

    damaged = UnreadableFile(name, "the picture is damaged or cut short", _SAVE_AGAIN)
    with heard() as said:
        try:
            with Image.open(io.BytesIO(data), formats=["TIFF"]) as image:
                image.load()
        except UnidentifiedImageError:
            return  # of a kind that only OpenCV knows
        except Exception as error:  # whatever a reader raises on a damaged file
            if "not available" in str(error):
                return
            raise damaged from error
    # Where it goes on after a code that is none, it only says so.
    if any(_DECODING.match(line) for line in said):
        raise damaged


def _by_opencv(data: bytes, name: str, orientation: int) -> Picture:
    """A compression that tifffile leaves to a codec library; OpenCV brings its own."""
    with heard():
        values = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)
    if values is None:
        raise UnreadableFile(
            name, "its TIFF compression cannot be read here", "Save it uncompressed, or as PNG"
        )
    if values.ndim == 3 and values.shape[2] >= 3:
        values = values[..., [2, 1, 0, 3][: values.shape[2]]]
    return _finish(turned(values, orientation), name, inverted=False)


def _finish(values: NDArray[Any], name: str, inverted: bool, bits: int | None = None) -> Picture:
    if values.ndim not in (2, 3) or values.dtype.kind not in "uif":
        raise UnreadableFile(
            name, f"its numbers ({values.dtype}) are no tones", "Save it as 8 or 16 bits"
        )
    if values.ndim == 3 and values.shape[2] > 4:
        values = values[..., :3]
    if values.ndim == 3 and values.shape[2] == 1:
        values = values[..., 0]
    depth = values.dtype.itemsize * 8
    if values.dtype.kind != "u":
        return from_reals(values, depth, name, inverted)
    top = float(np.iinfo(values.dtype).max)
    if bits == 1:
        depth = 1
    elif bits and 1 < bits < depth:
        depth, top = bits, float(2**bits - 1)
    shape = (*values.shape[:2], 1 if values.ndim == 2 else values.shape[2])
    return from_integers(shape, lambda part: values[part], top, depth, inverted)


def _from_palette(values: NDArray[Any], colours: NDArray[Any]) -> Picture:
    table = np.ascontiguousarray(colours.T)
    band: Band = lambda part: table[np.minimum(values[part], len(table) - 1)]  # noqa: E731
    return from_integers((*values.shape[:2], 3), band, 65_535.0, 16)


def _from_inks(values: NDArray[Any]) -> Picture:
    """Cyan, magenta, yellow and black, without a colour profile."""
    top = float(np.iinfo(values.dtype).max) if values.dtype.kind == "u" else 1.0

    def band(part: slice) -> NDArray[Any]:
        light = 1 - values[part][..., :4].astype(np.float32) / np.float32(top)
        return light[..., :3] * light[..., 3:]

    return from_integers((*values.shape[:2], 3), band, 1.0, 8 * values.dtype.itemsize)


def _from_millimetres(values: NDArray[Any], scale: HeightsScale, name: str) -> Picture:
    """Heights in mm as shares of the highest; what is not a number is not there."""
    values = values.astype(np.float32)
    known = np.isfinite(values)
    high = float(values[known].max()) if known.any() else 0.0
    if high <= 0 or float(values[known].min()) < 0:
        return from_reals(values, 32, name)
    share = np.where(known, values, 0) / np.float32(high)
    alpha = None if known.all() else known.astype(np.float32)
    return as_heights(Picture(share.astype(np.float32), alpha, 32), high, scale)


def _check_segments(page: Any, data: bytes, name: str) -> None:
    """No strip or tile lies outside the file, or inflates to more than it declares."""
    declared = int(np.prod([max(1, int(side)) for side in page.chunks], dtype=np.float64))
    declared *= page.dtype.itemsize
    whole = int(page.imagewidth) * int(page.imagelength) * page.samplesperpixel
    most = max(2 * whole * page.dtype.itemsize, 64 * _SLACK)
    if declared > most:
        raise TooLarge(
            name,
            f"one of its strips declares {declared / 1e9:.2f} GB",
            "Save it again as a plain TIFF, or as PNG",
        )
    _check_within(page, data, name)
    for offset, size in zip(page.dataoffsets, page.databytecounts, strict=True):
        ratio = _MOST_RATIO.get(int(page.compression), 0 if page.compression == 1 else 1_000_000)
        if size * ratio <= 4 * declared + _SLACK:
            continue
        if _inflates_beyond(data[offset : offset + size], int(page.compression), declared):
            raise TooLarge(
                name,
                "one of its strips inflates to far more than the picture holds",
                "Save it again as a plain TIFF, or as PNG",
            )


def _inflates_beyond(segment: bytes, compression: int, declared: int) -> bool:
    """Whether a packed segment is over four times what it should be, found without keeping it."""
    most = 4 * declared + _SLACK
    if compression in (8, 32946):
        pump: Any = zlib.decompressobj()
        rest = pump.decompress(segment, _PIECE)
        seen = len(rest)
        while pump.unconsumed_tail and seen <= most:
            seen += len(pump.decompress(pump.unconsumed_tail, _PIECE))
        return seen > most
    if compression == 34925:
        import lzma

        pump, seen = lzma.LZMADecompressor(memlimit=256 * _PIECE), 0
        while not pump.eof and seen <= most:
            found = pump.decompress(segment if pump.needs_input else b"", _PIECE)
            if not found and pump.needs_input:
                break
            segment = b""
            seen += len(found)
        return seen > most
    return compression == 32773 and len(segment) * 64 > 128 * declared + 64 * _SLACK
