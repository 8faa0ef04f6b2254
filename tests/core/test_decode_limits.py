"""What a picture file may ask for, the kinds of TIFF that are valid, and rows that are missing."""

import io
import lzma
import struct
import subprocess
import sys
import zlib
from pathlib import Path

import cv2
import numpy as np
import pytest
import tifffile
from PIL import Image

from nebrel.core.data import HeightField
from nebrel.core.errors import TooLarge, UnreadableFile
from nebrel.core.formats.heights import encode_heights
from nebrel.core.picture.decode import PictureLimits, decode
from tests.pictures import pillow, png, ramp


def chunk(kind: bytes, body: bytes) -> bytes:
    return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))


def packed_png(
    cols: int, rows: int, kind: int, bits: int, data: bytes, extra: bytes = b"", interlaced: int = 0
) -> bytes:
    head = struct.pack(">IIBBBBB", cols, rows, bits, kind, 0, 0, interlaced)
    body = chunk(b"IHDR", head) + extra + chunk(b"IDAT", zlib.compress(data, 9))
    return b"\x89PNG\r\n\x1a\n" + body + chunk(b"IEND", b"")


def tiff(values: np.ndarray, **options: object) -> bytes:
    buffer = io.BytesIO()
    tifffile.imwrite(buffer, values, **options)
    return buffer.getvalue()


def test_decoded_bytes_are_limited_and_the_refusal_has_a_figure() -> None:
    side = 10_900
    rows = zlib.compress(b"")  # never reached
    palette = chunk(b"PLTE", bytes([200, 30, 40, 0, 90, 0]))
    with pytest.raises(TooLarge, match=r"1\.43 GB decoded, the limit is 1\.30 GB"):
        decode(packed_png(side, side, 3, 1, rows, palette), "bomb.png")


@pytest.mark.parametrize("kind", ["JPEG", "WEBP", "GIF", "BMP", "PNG", "TIFF"])
def test_the_limit_holds_for_every_format(kind: str) -> None:
    mode = "CMYK" if kind in ("JPEG", "TIFF") else "P" if kind == "GIF" else "RGB"
    image = Image.new("RGB", (400, 300), (200, 90, 20)).convert(mode)
    data = pillow(image, kind)
    assert decode(data, "small").pixels.shape == (300, 400, 3)
    with pytest.raises(TooLarge, match="decoded"):
        decode(data, "small", PictureLimits(decoded_bytes=400 * 300 * 12 - 1))


def test_a_palette_of_grays_is_one_channel() -> None:
    palette = chunk(b"PLTE", bytes([0, 0, 0, 90, 90, 90]))
    data = packed_png(64, 50, 3, 1, b"\0\xaa\xaa\xaa\xaa\xaa\xaa\xaa\xaa" * 50, palette)
    limits = PictureLimits(decoded_bytes=64 * 50 * 4)
    assert np.unique(decode(data, "two.png", limits).pixels) == pytest.approx([0, 90 / 255])


@pytest.mark.parametrize("packing", ["zlib", "lzma", "packbits"])
def test_a_strip_that_inflates_without_end_is_refused(packing: str) -> None:
    code = {"zlib": 8, "lzma": 34925, "packbits": 32773}[packing]
    zeros = bytes(240_000_000)
    packed = {
        "zlib": lambda: zlib.compress(zeros, 9),
        "lzma": lambda: lzma.compress(zeros, preset=0),
        "packbits": lambda: b"\x81\0" * (len(zeros) // 128),
    }[packing]()
    tags = [(256, 3, 20), (257, 3, 20), (258, 3, 8), (259, 3, code), (262, 3, 1), (273, 4, 0)]
    tags += [(277, 3, 1), (278, 3, 20), (279, 4, len(packed))]
    start = 8 + 2 + 12 * len(tags) + 4
    body = b"".join(
        struct.pack("<HHII", tag, kind, 1, start if tag == 273 else value)
        for tag, kind, value in tags
    )
    data = b"II*\0" + struct.pack("<IH", 8, len(tags)) + body + struct.pack("<I", 0) + packed
    code = (
        "import resource, sys\n"
        "from nebrel.core.picture.decode import decode\n"
        "from nebrel.core.errors import NebrelError\n"
        "import tifffile\n"
        "before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss\n"
        "try: decode(sys.stdin.buffer.read(), 'bomb.tif')\n"
        "except NebrelError as error: print(error)\n"
        "print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before)\n"
    )
    ran = subprocess.run([sys.executable, "-c", code], input=data, capture_output=True, check=True)
    words, grown = ran.stdout.decode().strip().splitlines()
    assert "inflates" in words
    assert int(grown) < 120_000  # kB; the strip would be 240 000


def test_memory_stays_near_what_the_tones_take() -> None:
    """36 MB of tones; whole copies of the integers and reals on the way would be seen."""
    side = 3000
    data = png(np.tile(np.linspace(0, 1, side, dtype=np.float32), (side, 1)))
    code = (
        "import resource, sys, numpy\n"
        "from nebrel.core.picture.decode import decode\n"
        "data = sys.stdin.buffer.read()\n"
        "decode(open(sys.argv[1], 'rb').read(), 'warm')\n"
        "before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss\n"
        "kept = decode(data, 'large.png')\n"
        "print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before)\n"
    )
    import tempfile

    with tempfile.NamedTemporaryFile(suffix=".png") as small:
        Path(small.name).write_bytes(png(ramp()))
        ran = subprocess.run(
            [sys.executable, "-c", code, small.name], input=data, capture_output=True, check=True
        )
    tones = side * side * 4 / 1024
    assert int(ran.stdout) < 2.2 * tones  # the tones, 16-bit integers, one band


TYPES = ["float64", "float32", "float16", ">u2", "<u2", "uint32", "int16", "uint8"]


@pytest.mark.parametrize("kind", TYPES)
@pytest.mark.parametrize("photometric", ["minisblack", "miniswhite", "rgb"])
@pytest.mark.parametrize("compression", [None, "zlib"])
def test_every_type_of_tiff_is_read(kind: str, photometric: str, compression: str | None) -> None:
    tones = ramp(20, 30)
    if photometric == "rgb":
        tones = np.dstack([tones, tones[:, ::-1], tones * 0.5])
    whole = np.dtype(kind).kind != "f"
    top = np.iinfo(kind).max if whole else 1
    values = (tones.astype(np.float64) * top).round(0 if whole else 9).astype(kind)
    order = ">" if kind.startswith(">") else "<"
    data = tiff(values, photometric=photometric, compression=compression, byteorder=order)
    found = decode(data, "kind.tif").pixels
    wanted = 1 - tones if photometric == "miniswhite" else tones
    assert found == pytest.approx(wanted, abs=0.003)


@pytest.mark.parametrize("kind", ["uint8", "uint16", "float32"])
def test_gray_tiff_with_alpha(kind: str) -> None:
    top = 1 if kind == "float32" else np.iinfo(kind).max
    values = (np.dstack([ramp(20, 30), np.full((20, 30), 0.5)]) * top).astype(kind)
    picture = decode(tiff(values, extrasamples=["unassalpha"], photometric="minisblack"), "a.tif")
    assert picture.pixels == pytest.approx(ramp(20, 30), abs=0.005)
    assert picture.alpha == pytest.approx(np.full((20, 30), 0.5), abs=0.005)


def test_planar_and_tiled_and_inked_tiffs() -> None:
    tones = np.dstack([ramp(40, 48), ramp(40, 48)[:, ::-1], ramp(40, 48) * 0.5])
    values = (tones * 255).round().astype(np.uint8)
    planar = tiff(np.moveaxis(values, -1, 0), photometric="rgb", planarconfig="separate")
    assert decode(planar, "planar.tif").pixels == pytest.approx(tones, abs=0.003)
    tiled = tiff(values, photometric="rgb", tile=(16, 16), compression="zlib")
    assert decode(tiled, "tiled.tif").pixels == pytest.approx(tones, abs=0.003)
    inks = np.dstack([255 - values, np.zeros((40, 48), np.uint8)])
    assert decode(tiff(inks, photometric="separated"), "inks.tif").pixels == pytest.approx(
        tones, abs=0.003
    )


@pytest.mark.parametrize("orientation", range(1, 9))
@pytest.mark.parametrize("kind", ["TIFF", "JPEG", "PNG16"])
def test_every_reader_turns_a_picture(orientation: int, kind: str) -> None:
    tones = (np.arange(24 * 32).reshape(24, 32) % 200).astype(np.uint8) // 40 * 40
    turned = {
        1: lambda t: t, 2: np.fliplr, 3: lambda t: np.rot90(t, 2), 4: np.flipud,
        5: lambda t: t.T, 6: lambda t: np.rot90(t, -1), 7: lambda t: np.rot90(t, 2).T,
        8: np.rot90,
    }[orientation](tones)  # fmt: skip
    exif = Image.Exif()
    exif[274] = orientation
    if kind == "JPEG":
        smooth = cv2.resize(tones, (320, 240), interpolation=cv2.INTER_NEAREST)
        data = pillow(Image.fromarray(smooth), "JPEG", exif=exif, quality=98)
        found = decode(data, "turned").pixels[5::10, 5::10]
        assert found * 255 == pytest.approx(turned, abs=12)
        return
    if kind == "TIFF":
        data = tiff(tones, extratags=[(274, "H", 1, orientation, True)])
    else:
        whole = png(tones / 255, 16)
        body = exif.tobytes().removeprefix(b"Exif\0\0")
        data = whole[:33] + chunk(b"eXIf", body) + whole[33:]
    assert np.rint(decode(data, "turned").pixels * 255) == pytest.approx(turned)


@pytest.mark.parametrize("bits", [8, 16])
@pytest.mark.parametrize("interlaced", [0, 1])
def test_a_png_whose_rows_are_missing_is_refused(bits: int, interlaced: int) -> None:
    width = 60 * bits // 8
    row = b"\0" + b"\x80" * width
    with pytest.raises(UnreadableFile, match="of its 100 rows"):
        decode(packed_png(60, 100, 0, bits, row * 10, interlaced=interlaced), "cut.png")
    if not interlaced:
        assert decode(packed_png(60, 100, 0, bits, row * 100), "whole.png").rows == 100


@pytest.mark.parametrize("bits", [1, 2, 4, 8, 16])
@pytest.mark.parametrize("size", [(2, 2), (5, 3), (8, 8), (9, 17), (33, 6)])
def test_interlaced_pictures_are_whole(bits: int, size: tuple[int, int]) -> None:
    cols, rows = size
    passes = [(0, 0, 8, 8), (4, 0, 8, 8), (0, 4, 4, 8), (2, 0, 4, 4), (0, 2, 2, 4), (1, 0, 2, 2),
              (0, 1, 1, 2)]  # fmt: skip
    body = b""
    for left, top, across, down in passes:
        wide, tall = len(range(left, cols, across)), len(range(top, rows, down))
        if wide:
            body += (b"\0" + b"\xff" * ((wide * bits + 7) // 8)) * tall
    picture = decode(packed_png(cols, rows, 0, bits, body, interlaced=1), "laced.png")
    assert picture.pixels.min() == 1
    with pytest.raises(UnreadableFile):
        decode(packed_png(cols, rows, 0, bits, body[:-1], interlaced=1), "laced.png")


@pytest.mark.parametrize("less", [1, 40, 400])
@pytest.mark.parametrize("ending", ["tif", "png"])
def test_a_heights_file_that_was_cut_is_refused(less: int, ending: str) -> None:
    field = HeightField(np.random.default_rng(2).random((60, 80), np.float32), 40.0, 30.0)
    data = encode_heights(field, None, ending, "backing")  # type: ignore[arg-type]
    with pytest.raises(UnreadableFile):
        decode(data[:-less], "cut")


def test_deep_json_in_a_description_is_no_scale() -> None:
    deep = "{" + '"a":[' * 90_000
    picture = decode(tiff(np.full((4, 5), 90, np.uint8), description=deep, metadata=None), "deep")
    assert picture.heights is None
