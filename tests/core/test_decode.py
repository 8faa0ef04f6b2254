import io

import cv2
import numpy as np
import pytest
import tifffile
from PIL import Image

from nebrel.core.errors import InvalidValue, TooLarge, UnreadableFile
from nebrel.core.picture.decode import PictureLimits, decode
from nebrel.core.picture.tone import read_tone
from tests.pictures import declared, pillow, png, ramp


def test_sixteen_bits_are_all_kept() -> None:
    values = np.arange(65536, dtype=np.uint16).reshape(256, 256)
    _, data = cv2.imencode(".png", values)
    picture = decode(data.tobytes(), "steps.png")
    assert picture.bit_depth == 16
    assert np.array_equal(np.rint(picture.pixels.astype(np.float64) * 65535).astype(int), values)
    assert len(np.unique(picture.pixels)) == 65536


@pytest.mark.parametrize("bits", [8, 16])
def test_colours_arrive_in_order(bits: int) -> None:
    tones = np.zeros((4, 5, 3))
    tones[:, :, 0], tones[:, :, 2] = 1.0, 0.2
    picture = decode(png(tones, bits), "colour.png")
    assert picture.bit_depth == bits
    assert picture.pixels[0, 0] == pytest.approx([1.0, 0.0, 0.2], abs=1e-4)


@pytest.mark.parametrize("bits", [8, 16])
def test_gray_with_alpha(bits: int) -> None:
    rgba = np.repeat(ramp(8, 9)[..., None], 4, axis=2)
    rgba[..., 3] = 0.5
    picture = decode(png(rgba, bits), "soft.png")
    assert picture.pixels.ndim == 2
    assert picture.alpha == pytest.approx(np.full((8, 9), 0.5), abs=0.003)


def test_palette_gray_and_one_bit() -> None:
    palette = Image.new("P", (4, 3))
    palette.putpalette([0, 0, 0, 255, 255, 255, 128, 128, 128])
    palette.putpixel((1, 1), 2)
    read = decode(pillow(palette, "PNG"), "palette.png")
    assert read.pixels[1, 1] == pytest.approx(128 / 255)
    clear = decode(pillow(palette, "PNG", transparency=0), "clear.png")
    assert clear.alpha is not None
    assert clear.alpha[0, 0] == 0
    assert clear.alpha[1, 1] == 1
    one = Image.new("1", (5, 4), 1)
    assert decode(pillow(one, "PNG"), "one.png").pixels.min() == 1


@pytest.mark.parametrize("file_format", ["JPEG", "WEBP", "BMP", "TIFF", "PNG", "GIF"])
def test_every_format_reads_the_same_flat_gray(file_format: str) -> None:
    options = {"quality": 100} if file_format in ("JPEG", "WEBP") else {}
    data = pillow(Image.new("L", (16, 12), 100), file_format, **options)
    picture = decode(data, "flat")
    assert (picture.rows, picture.cols) == (12, 16)
    assert read_tone(picture) == pytest.approx(np.full((12, 16), 100 / 255), abs=0.012)


@pytest.mark.parametrize("compression", [None, "zlib", "lzw", "packbits"])
def test_tiff_of_sixteen_bits(compression: str | None) -> None:
    values = np.rint(ramp() * 65535).astype(np.uint16)
    if compression in ("lzw", "packbits"):
        code = {"lzw": 5, "packbits": 32773}[compression]
        ok, encoded = cv2.imencode(".tif", values, [cv2.IMWRITE_TIFF_COMPRESSION, code])
        assert ok
        data = encoded.tobytes()
    else:
        buffer = io.BytesIO()
        tifffile.imwrite(buffer, values, compression=compression)
        data = buffer.getvalue()
    picture = decode(data, "ramp.tif")
    assert picture.bit_depth == 16
    assert np.array_equal(np.rint(picture.pixels * 65535), values)


def test_float_tiff_beyond_one_is_stretched_and_says_so() -> None:
    buffer = io.BytesIO()
    tifffile.imwrite(buffer, (ramp() * 1500 - 300).astype(np.float32))
    picture = decode(buffer.getvalue(), "metres.tif")
    assert picture.bit_depth == 32
    assert (picture.pixels.min(), picture.pixels.max()) == (0, 1)
    assert "-300" in picture.notes[0]


def test_float_tiff_gaps_become_transparent() -> None:
    values = ramp()
    values[3, 4] = np.nan
    buffer = io.BytesIO()
    tifffile.imwrite(buffer, values)
    picture = decode(buffer.getvalue(), "gap.tif")
    assert picture.alpha is not None
    assert picture.alpha[3, 4] == 0
    assert picture.alpha.sum() == values.size - 1
    assert np.isfinite(picture.pixels).all()


def test_white_is_zero_tiff_is_turned_round() -> None:
    buffer = io.BytesIO()
    values = np.rint(ramp() * 255).astype(np.uint8)
    tifffile.imwrite(buffer, values, photometric="miniswhite")
    assert decode(buffer.getvalue(), "fax.tif").pixels[0, 0] == 1


@pytest.mark.parametrize("orientation", range(1, 9))
def test_orientation_matches_another_reader(orientation: int) -> None:
    image = Image.fromarray(np.arange(12, dtype=np.uint8).reshape(3, 4) * 20)
    exif = Image.Exif()
    exif[274] = orientation
    data = pillow(image, "PNG", exif=exif)
    from PIL import ImageOps

    wanted = np.asarray(ImageOps.exif_transpose(Image.open(io.BytesIO(data))))
    assert np.array_equal(np.rint(decode(data, "turned.png").pixels * 255), wanted)


def test_resolution_of_the_file() -> None:
    data = pillow(Image.new("L", (30, 20), 9), "PNG", dpi=(300, 300))
    assert decode(data, "scan.png").dpi == pytest.approx(300, abs=0.1)
    assert decode(png(ramp()), "plain.png").dpi is None


def test_animation_gives_its_first_frame_and_says_so() -> None:
    frames = [Image.new("L", (6, 6), tone) for tone in (50, 200, 250)]
    data = pillow(frames[0], "GIF", save_all=True, append_images=frames[1:])
    picture = decode(data, "spin.gif")
    assert picture.pixels == pytest.approx(np.full((6, 6), 50 / 255))
    assert "3 frames" in picture.notes[0]


@pytest.mark.parametrize(
    ("data", "error"),
    [
        (png(ramp(200, 300))[:900], UnreadableFile),
        (b"this is a text, not a picture", UnreadableFile),
        (b"", UnreadableFile),
        (pillow(Image.new("L", (1, 1)), "PNG"), InvalidValue),
        (pillow(Image.new("L", (9, 1)), "PNG"), InvalidValue),
        (declared(40_000, 40_000), TooLarge),
        (declared(300, 300), UnreadableFile),
        (pillow(Image.new("RGB", (90, 90)), "JPEG")[:300], UnreadableFile),
        (pillow(Image.new("L", (90, 90)), "TIFF")[:200], UnreadableFile),
    ],
)
def test_bad_files_are_refused_by_name(data: bytes, error: type[Exception]) -> None:
    with pytest.raises(error) as caught:
        decode(data, "suspect.png")
    assert "suspect.png" in str(caught.value)


def test_limits_hold_before_decoding() -> None:
    with pytest.raises(TooLarge):
        decode(png(ramp(50, 50)), "fine.png", PictureLimits(pixels=2499))
    with pytest.raises(TooLarge):
        decode(png(ramp(50, 50)), "fine.png", PictureLimits(bytes=20))


def test_tone_weighs_linear_light() -> None:
    green = np.zeros((2, 2, 3))
    green[..., 1] = 1
    tone = read_tone(decode(png(green, 8), "green.png"))
    # The gray that emits 71.52 % of white's light, by the sRGB curve.
    assert tone[0, 0] == pytest.approx(1.055 * 0.7152 ** (1 / 2.4) - 0.055, abs=1e-4)
