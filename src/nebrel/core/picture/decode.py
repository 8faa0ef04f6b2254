"""Picture files to `Picture`, under limits, keeping every bit the file holds."""

from __future__ import annotations

import io
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path
from threading import Lock
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image, UnidentifiedImageError

from nebrel.core.data import Picture
from nebrel.core.errors import InvalidValue, NebrelError, TooLarge, UnknownFile, UnreadableFile
from nebrel.core.picture import read_tiff
from nebrel.core.picture.height_scale import HeightsScale, as_heights, read_scale
from nebrel.core.picture.read_png import SIGNATURE, check_rows, read_png16
from nebrel.core.picture.unpack import collapse_gray, from_integers

_FORMATS = ("PNG", "JPEG", "WEBP", "BMP", "GIF")
_READS = "Bring a PNG, JPEG, TIFF, WebP, BMP or GIF picture"
_SAVE_AGAIN = "Save or download the picture again"
_SMALLER = "8000 pixels a side is finer than any nozzle"
_ORIENTATION_TAG = 274
_LARGE_BYTES = 200_000_000
_one_large = Lock()  # two at once would need twice the memory

_TURNS = {
    2: Image.Transpose.FLIP_LEFT_RIGHT,
    3: Image.Transpose.ROTATE_180,
    4: Image.Transpose.FLIP_TOP_BOTTOM,
    5: Image.Transpose.TRANSPOSE,
    6: Image.Transpose.ROTATE_270,
    7: Image.Transpose.TRANSVERSE,
    8: Image.Transpose.ROTATE_90,
}


@dataclass(frozen=True)
class PictureLimits:
    """What a picture file may ask for before any of it is decoded.

    Attributes
    ----------
    pixels : columns times rows
    bytes : of the file
    decoded_bytes : of its tones as they are worked on: four bytes for every channel of a pixel
    """

    pixels: int = 120_000_000
    bytes: int = 512 * 1024 * 1024
    decoded_bytes: int = 1_300_000_000


@dataclass(frozen=True)
class _Header:
    """What a file says of itself before any pixel is decoded."""

    file_format: str
    cols: int
    rows: int
    channels: int
    raw_bytes: int
    frames: int
    dpi: float | None
    orientation: int
    transparent: Any = None
    scale: HeightsScale | None = None


def decode(source: Path | bytes, name: str = "", limits: PictureLimits | None = None) -> Picture:
    """Read a picture file.

    Parameters
    ----------
    source : a path, or the bytes of the file
    name : what to call the file in errors (the path's own name when left out)
    limits : the most pixels and bytes

    Returns
    -------
    Picture, orientation applied, gray when all channels agree

    Raises
    ------
    UnreadableFile : not a picture, cut short, or damaged
    TooLarge : more pixels or bytes than the limits
    InvalidValue : fewer than 2 by 2 pixels
    """
    limits = limits or PictureLimits()
    if isinstance(source, Path):
        name = name or source.name
        source = _load(source, name, limits)
    if len(source) > limits.bytes:
        raise _too_heavy(name, len(source), limits)
    tiff = source[:4] in read_tiff.MAGIC
    try:
        header = _tiff_header(source, name) if tiff else _read_header(source, name)
        _check(header, name, limits)
        with _alone(header):
            picture = _read_pixels(source, name, header)
            picture = replace(picture, pixels=collapse_gray(picture.pixels))
    except NebrelError:
        raise
    except UnidentifiedImageError as error:
        raise UnknownFile(name, "it is not a picture that can be read here", _READS) from error
    except (MemoryError, cv2.error) as error:
        raise UnreadableFile(name, "its pixels cannot be decoded", _SAVE_AGAIN) from error
    except Exception as error:  # readers raise whatever they please on a damaged file
        raise UnreadableFile(
            name, f"the picture is damaged or cut short ({_short(error)})", _SAVE_AGAIN
        ) from error
    notes = list(picture.notes)
    if header.frames > 1:
        notes.append(f"The file holds {header.frames} frames; the first one is used.")
    picture = replace(
        picture, dpi=_sensible(header.dpi), file_format=header.file_format, notes=tuple(notes)
    )
    scale = header.scale
    if scale and scale.white_mm and picture.bit_depth == 16 and picture.pixels.ndim == 2:
        return as_heights(picture, scale.white_mm, scale)
    return picture


def _check(header: _Header, name: str, limits: PictureLimits) -> None:
    pixels = header.cols * header.rows
    if pixels > limits.pixels:
        raise TooLarge(
            name,
            f"it declares {header.cols} × {header.rows} pixels, the limit is "
            f"{limits.pixels / 1e6:.0f} million",
            f"Save it smaller: {_SMALLER}",
        )
    if header.cols < 2 or header.rows < 2:
        raise InvalidValue(
            name,
            f"a picture of {header.cols} × {header.rows} pixels has no surface",
            "Bring one of at least 2 × 2 pixels",
        )
    needed = max(4 * pixels * header.channels, header.raw_bytes // 2)
    if needed > limits.decoded_bytes:
        raise TooLarge(
            name,
            f"its {header.cols} × {header.rows} pixels of {header.channels} channels take "
            f"{needed / 1e9:.2f} GB decoded, the limit is {limits.decoded_bytes / 1e9:.2f} GB",
            f"Save it in gray, or smaller: {_SMALLER}",
        )


@contextmanager
def _alone(header: _Header) -> Iterator[None]:
    """One large picture is decoded at a time."""
    if 4 * header.cols * header.rows * header.channels < _LARGE_BYTES:
        yield
        return
    with _one_large:
        yield


def _load(path: Path, name: str, limits: PictureLimits) -> bytes:
    try:
        size = path.stat().st_size
        if path.is_dir():
            raise UnreadableFile(name, "it is a folder", _READS)
        if size > limits.bytes:
            raise _too_heavy(name, size, limits)
        return path.read_bytes()
    except FileNotFoundError as error:
        raise UnreadableFile(name, "there is no such file", "Check the path") from error
    except OSError as error:
        raise UnreadableFile(
            name, f"it cannot be opened ({_short(error)})", "Check the path and its permissions"
        ) from error


def _too_heavy(name: str, size: int, limits: PictureLimits) -> TooLarge:
    return TooLarge(
        name,
        f"the file is {size / 1e6:.0f} MB, the limit is {limits.bytes / 1e6:.0f} MB",
        "Save it smaller or compressed",
    )


def _short(error: Exception) -> str:
    return (str(error).splitlines() or [type(error).__name__])[0][:80]


def _tiff_header(data: bytes, name: str) -> _Header:
    head = read_tiff.read_head(data, name)
    return _Header(
        file_format="TIFF",
        cols=head.cols,
        rows=head.rows,
        channels=head.channels,
        raw_bytes=head.raw_bytes,
        frames=head.frames,
        dpi=head.dpi,
        orientation=head.orientation,
        scale=read_scale(head.description),
    )


def _read_header(data: bytes, name: str) -> _Header:
    # Our own limit replaces Pillow's, which only warns between one and two times its value.
    Image.MAX_IMAGE_PIXELS = None
    with Image.open(io.BytesIO(data), formats=_FORMATS) as image:
        cols, rows = image.size
        header = _Header(
            file_format=image.format or "",
            cols=cols,
            rows=rows,
            channels=len(_wanted(image)[1]),
            raw_bytes=0,
            frames=getattr(image, "n_frames", 1),
            dpi=_dpi(image),
            orientation=_orientation(image),
            transparent=image.info.get("transparency"),
            scale=read_scale(str(image.info.get("Comment", ""))) if image.format == "PNG" else None,
        )
        if image.format == "PNG":
            image.verify()
        return header


def _orientation(image: Image.Image) -> int:
    exif = Image.Exif()
    if image.format == "PNG":
        exif.load(image.info.get("exif", b""))  # getexif() would decode every pixel first
    else:
        exif = image.getexif()
    return int(exif.get(_ORIENTATION_TAG, 1) or 1)


def _dpi(image: Image.Image) -> float | None:
    try:
        return float(image.info["dpi"][0])
    except (KeyError, TypeError, ValueError, IndexError, ZeroDivisionError):
        return None


def _sensible(dpi: float | None) -> float | None:
    return round(dpi, 3) if dpi is not None and 1 < dpi < 100_000 else None


def _read_pixels(data: bytes, name: str, header: _Header) -> Picture:
    if header.file_format == "TIFF":
        scale = header.scale
        return read_tiff.read_tiff(data, name, header.orientation, scale)
    if data.startswith(SIGNATURE):
        check_rows(data, header.cols, header.rows, name)
        if data[24] == 16:
            return read_png16(data, name, header.transparent, header.orientation)
    return _read_common(data, header.orientation)


def _wanted(image: Image.Image) -> tuple[str, list[int]]:
    """The mode that an image of at most 8 bits is read in, and which of its channels."""
    transparent = "transparency" in image.info or image.mode in ("LA", "RGBA", "PA", "La", "RGBa")
    gray = image.mode in ("1", "L", "LA", "La", "I", "I;16", "F") or _gray_palette(image)
    if image.mode == "L" and not transparent:
        return "L", [0]
    if gray:
        return ("RGBA", [0, 3]) if transparent else ("RGB" if image.mode == "P" else "L", [0])
    return ("RGBA", [0, 1, 2, 3]) if transparent else ("RGB", [0, 1, 2])


def _gray_palette(image: Image.Image) -> bool:
    """Whether every colour of a palette is gray."""
    if image.mode not in ("P", "PA") or image.palette is None:
        return False
    colours = np.frombuffer(bytes(image.palette.palette), np.uint8)
    mode = image.palette.rawmode or image.palette.mode
    width = len(mode.split(";")[0])
    if width < 3:
        return False
    colours = colours[: len(colours) // width * width].reshape(-1, width)[:, :3]
    return bool((colours == colours[:, :1]).all())


def _read_common(data: bytes, orientation: int) -> Picture:
    """Whatever has at most 8 bits a channel."""
    depth = data[24] if data.startswith(SIGNATURE) else 8
    with Image.open(io.BytesIO(data), formats=_FORMATS) as image:
        if image.mode in ("P", "PA"):
            depth = 8
        image.load()
        mode, channels = _wanted(image)
        seen: Image.Image = image
        if orientation in _TURNS:
            seen = image.transpose(_TURNS[orientation])
        cols, rows = seen.size

        def band(part: slice) -> NDArray[Any]:
            some = seen.crop((0, part.start, cols, part.stop))
            values = np.asarray(some if some.mode == mode else some.convert(mode))
            return values if values.ndim == 2 else values[..., channels]

        return from_integers((rows, cols, len(channels)), band, 255.0, depth)
