"""Picture files to `Picture`, under limits, keeping every bit the file holds."""

from __future__ import annotations

import io
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image, UnidentifiedImageError

from nebrel.core.data import Floats, Picture
from nebrel.core.errors import InvalidValue, NebrelError, TooLarge, UnreadableFile
from nebrel.core.formats.heights import as_heights, read_scale

_FORMATS = ("PNG", "JPEG", "TIFF", "WEBP", "BMP", "GIF")
_READS = "Bring a PNG, JPEG, TIFF, WebP, BMP or GIF picture"
_SAVE_AGAIN = "Save or download the picture again"
_ORIENTATION_TAG = 274
_DESCRIPTION_TAG = 270


@dataclass(frozen=True)
class PictureLimits:
    """What a picture file may ask for before any of it is decoded."""

    pixels: int = 120_000_000
    bytes: int = 512 * 1024 * 1024


@dataclass(frozen=True)
class _Header:
    """What a file says of itself before any pixel is decoded."""

    file_format: str
    cols: int
    rows: int
    frames: int
    dpi: float | None
    orientation: int
    transparent: Any
    scale: dict[str, float] | None = None


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
    try:
        header = _read_header(source, name, limits)
        picture = _read_pixels(source, name, header)
    except NebrelError:
        raise
    except (OSError, SyntaxError, ValueError, EOFError, KeyError, IndexError, TypeError) as error:
        raise UnreadableFile(
            name, f"the picture is damaged or cut short ({_short(error)})", _SAVE_AGAIN
        ) from error
    except (MemoryError, cv2.error) as error:
        raise UnreadableFile(name, "its pixels cannot be decoded", _SAVE_AGAIN) from error
    notes = list(picture.notes)
    if header.frames > 1:
        notes.append(f"The file holds {header.frames} frames; the first one is used.")
    picture = replace(
        _orient(picture, header.orientation),
        dpi=header.dpi,
        file_format=header.file_format,
        notes=tuple(notes),
    )
    picture = _collapse_gray(picture)
    scale = header.scale or {}
    if "white_mm" in scale and picture.bit_depth == 16 and picture.pixels.ndim == 2:
        return as_heights(picture, scale["white_mm"], scale["wide_mm"])
    return picture


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


def _read_header(data: bytes, name: str, limits: PictureLimits) -> _Header:
    # Our own limit below replaces Pillow's, which only warns between one and two times its value.
    Image.MAX_IMAGE_PIXELS = None
    try:
        with Image.open(io.BytesIO(data), formats=_FORMATS) as image:
            cols, rows = image.size
            if cols * rows > limits.pixels:
                raise TooLarge(
                    name,
                    f"it declares {cols} × {rows} pixels, the limit is "
                    f"{limits.pixels / 1e6:.0f} million",
                    "Save it smaller: 8000 pixels a side is finer than any nozzle",
                )
            if cols < 2 or rows < 2:
                raise InvalidValue(
                    name,
                    f"a picture of {cols} × {rows} pixels has no surface",
                    "Bring one of at least 2 × 2 pixels",
                )
            header = _Header(
                file_format=image.format or "",
                cols=cols,
                rows=rows,
                frames=getattr(image, "n_frames", 1),
                dpi=_dpi(image),
                orientation=_orientation(image),
                transparent=image.info.get("transparency"),
                scale=_scale(image),
            )
            if image.format == "PNG":
                image.verify()
            return header
    except UnidentifiedImageError as error:
        raise UnreadableFile(name, "it is not a picture that can be read here", _READS) from error


def _scale(image: Image.Image) -> dict[str, float] | None:
    if image.format == "PNG":
        return read_scale(str(image.info.get("Comment", "")))
    if image.format == "TIFF":
        return read_scale(str(getattr(image, "tag_v2", {}).get(_DESCRIPTION_TAG, "")))
    return None


def _orientation(image: Image.Image) -> int:
    exif = Image.Exif()
    if image.format == "PNG":
        exif.load(image.info.get("exif", b""))  # getexif() would decode every pixel first
    else:
        exif = image.getexif()
    return int(exif.get(_ORIENTATION_TAG, 1) or 1)


def _dpi(image: Image.Image) -> float | None:
    try:
        across = float(image.info["dpi"][0])
    except (KeyError, TypeError, ValueError, IndexError, ZeroDivisionError):
        return None
    return round(across, 3) if 1 < across < 100_000 else None


def _read_pixels(data: bytes, name: str, header: _Header) -> Picture:
    if header.file_format == "TIFF":
        return _read_tiff(data, name, header.scale)
    if header.file_format == "PNG" and data[24] == 16:
        return _read_png16(data, name, header.transparent)
    return _read_common(data)


def _read_common(data: bytes) -> Picture:
    """Whatever has at most 8 bits a channel."""
    depth = data[24] if data[:4] == b"\x89PNG" else 8
    with Image.open(io.BytesIO(data), formats=_FORMATS) as image:
        seen: Image.Image = image
        if seen.mode in ("P", "PA") or "transparency" in seen.info:
            seen = seen.convert("RGBA" if _has_alpha(seen) else "RGB")
            depth = 8 if depth < 8 and image.mode == "P" else depth
        elif seen.mode == "1":
            seen = seen.convert("L")
        elif seen.mode not in ("L", "LA", "RGB", "RGBA"):
            seen = seen.convert("RGB")
        values = np.asarray(seen)
    return _from_integers(values, depth)


def _has_alpha(image: Image.Image) -> bool:
    return "transparency" in image.info or image.mode == "PA"


def _from_integers(values: NDArray[Any], depth: int) -> Picture:
    """Split (rows, cols[, channels]) integers into colour and alpha, scaled to 0..1."""
    scaled = values.astype(np.float32)
    scaled *= np.float32(1.0 / np.iinfo(values.dtype).max)
    if scaled.ndim == 2:
        return Picture(scaled, bit_depth=depth)
    channels = scaled.shape[2]
    alpha = np.ascontiguousarray(scaled[..., -1]) if channels in (2, 4) else None
    colour = scaled[..., 0] if channels <= 2 else scaled[..., :3]
    if alpha is not None and bool((alpha == 1).all()):
        alpha = None
    return Picture(np.ascontiguousarray(colour), alpha, depth)


def _read_png16(data: bytes, name: str, transparent: Any) -> Picture:
    values = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)
    if values is None:
        raise UnreadableFile(name, "the picture is damaged or cut short", _SAVE_AGAIN)
    if values.dtype != np.uint16:
        raise UnreadableFile(name, "its 16 bits cannot be decoded", _SAVE_AGAIN)
    if values.ndim == 3 and values.shape[2] >= 3:
        order = [2, 1, 0, 3][: values.shape[2]]
        values = values[..., order]
    picture = _from_integers(values, 16)
    if picture.alpha is None and transparent is not None and not isinstance(transparent, bytes):
        key = np.asarray(transparent, dtype=np.uint16)
        same = values[..., : key.size] == key if values.ndim == 3 else values == key
        opaque = ~(same.all(axis=-1) if values.ndim == 3 else same)
        picture = replace(picture, alpha=opaque.astype(np.float32))
    return picture


def _read_tiff(data: bytes, name: str, scale: dict[str, float] | None = None) -> Picture:
    import tifffile

    with tifffile.TiffFile(io.BytesIO(data)) as tiff:
        page: Any = tiff.pages[0]
        samples = int(page.samplesperpixel)
        try:
            values = page.asarray()
        except (ValueError, ImportError):
            # A compression that tifffile leaves to a codec library; OpenCV brings its own.
            values = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)
            if values is None:
                raise UnreadableFile(
                    name,
                    "its TIFF compression cannot be read here",
                    "Save it uncompressed, or as PNG",
                ) from None
            if values.ndim == 3 and values.shape[2] >= 3:
                values = values[..., [2, 1, 0, 3][: values.shape[2]]]
            return _finish_tiff(values, inverted=False)
        if page.photometric == tifffile.PHOTOMETRIC.PALETTE and page.colormap is not None:
            values = np.moveaxis(np.asarray(page.colormap)[:, values], 0, -1)
            return _finish_tiff(np.ascontiguousarray(values), inverted=False)
        if samples > 1 and page.planarconfig == tifffile.PLANARCONFIG.SEPARATE:
            values = np.moveaxis(values, 0, -1)
        if values.dtype == bool:
            values = values.astype(np.uint8) * 255
        if scale and values.dtype.kind == "f" and values.ndim == 2:
            return _from_millimetres(values.astype(np.float32), scale["wide_mm"])
        inverted = page.photometric == tifffile.PHOTOMETRIC.MINISWHITE
        bits = int(page.bitspersample) if values.dtype.kind == "u" else None
        return _finish_tiff(np.asarray(values), inverted, bits)


def _finish_tiff(values: NDArray[Any], inverted: bool, bits: int | None = None) -> Picture:
    if values.ndim == 3 and values.shape[2] > 4:
        values = values[..., :3]
    if values.ndim == 3 and values.shape[2] == 1:
        values = values[..., 0]
    if values.dtype.kind == "u":
        depth = values.dtype.itemsize * 8
        if bits and bits < depth and bits > 1:
            values = (
                (values.astype(np.float64) * (np.iinfo(values.dtype).max / (2**bits - 1)))
                .round()
                .astype(values.dtype)
            )
            depth = bits
        picture = _from_integers(values, bits if bits == 1 else depth)
    else:
        picture = _from_reals(values.astype(np.float32), 8 * values.dtype.itemsize)
    if inverted:
        picture = replace(picture, pixels=(1 - picture.pixels).astype(np.float32))
    return picture


def _from_millimetres(values: Floats, wide_mm: float) -> Picture:
    """Heights in mm as shares of the highest; what is not a number is not there."""
    known = np.isfinite(values)
    high = float(values[known].max()) if known.any() else 0.0
    if high <= 0 or float(values[known].min()) < 0:
        return _from_reals(values, 32)
    share = np.where(known, values, 0) / np.float32(high)
    alpha = None if known.all() else known.astype(np.float32)
    return as_heights(Picture(share.astype(np.float32), alpha, 32), high, wide_mm)


def _from_reals(values: Floats, depth: int) -> Picture:
    notes: list[str] = []
    colour = values[..., :3] if values.ndim == 3 and values.shape[2] >= 3 else values
    if colour.ndim == 3 and colour.shape[2] == 2:
        colour = colour[..., 0]
    alpha: Floats | None = (
        values[..., -1] if values.ndim == 3 and values.shape[2] in (2, 4) else None
    )
    known = np.isfinite(colour)
    if not known.all():
        notes.append("Places without a number are taken as transparent.")
        gaps = known if known.ndim == 2 else known.all(axis=-1)
        seen: Any = gaps.astype(np.float32)
        alpha = seen if alpha is None else seen * alpha
        if not gaps.any():
            raise UnreadableFile("picture", "it holds no finite number", _SAVE_AGAIN)
        colour = np.where(known, colour, colour[known].min()).astype(np.float32)
    low, high = float(colour.min()), float(colour.max())
    if low < 0 or high > 1:
        notes.append(
            f"Its numbers run from {low:.6g} to {high:.6g}; lowest is taken as black, "
            "highest as white."
        )
        span = high - low or 1.0
        colour = ((colour.astype(np.float64) - low) / span).astype(np.float32)
    return Picture(
        np.ascontiguousarray(colour),
        None if alpha is None else np.clip(np.ascontiguousarray(alpha), 0, 1).astype(np.float32),
        depth,
        notes=tuple(notes),
    )


def _orient(picture: Picture, orientation: int) -> Picture:
    """Apply the EXIF orientation, 1 to 8. Source: CIPA DC-008 (Exif), tag 0x0112."""
    if orientation not in range(2, 9):
        return picture

    def turn(values: Floats) -> Floats:
        if orientation >= 5:
            values = np.swapaxes(values, 0, 1)
        if orientation in (2, 3, 6, 7):
            values = values[:, ::-1]
        if orientation in (3, 4, 7, 8):
            values = values[::-1]
        return np.ascontiguousarray(values)

    alpha = None if picture.alpha is None else turn(picture.alpha)
    return replace(picture, pixels=turn(picture.pixels), alpha=alpha)


def _collapse_gray(picture: Picture) -> Picture:
    pixels = picture.pixels
    if pixels.ndim == 3 and all(np.array_equal(pixels[..., 0], pixels[..., i]) for i in (1, 2)):
        return replace(picture, pixels=np.ascontiguousarray(pixels[..., 0]))
    return picture
