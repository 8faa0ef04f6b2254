"""Files of which a part is missing are refused."""

import io
import os

import numpy as np
import pytest
from PIL import Image

from nebrel.core.errors import UnreadableFile
from nebrel.core.picture.decode import decode
from nebrel.core.picture.heard import heard

PACKED = {"tiff_lzw": "L", "group3": "1", "group4": "1", "jpeg": "L"}


def tiff(packing: str) -> bytes:
    tones = np.random.default_rng(1).integers(0, 256, (100, 160), np.uint8)
    shown = Image.fromarray(tones).convert(PACKED[packing])
    out = io.BytesIO()
    shown.save(out, "TIFF", compression=packing)
    return out.getvalue()


@pytest.mark.parametrize("packing", PACKED)
def test_a_whole_tiff_is_read(packing: str) -> None:
    assert decode(tiff(packing), "whole.tif").rows == 100


@pytest.mark.parametrize("packing", PACKED)
def test_a_tiff_without_most_of_its_rows_is_refused(packing: str) -> None:
    data = tiff(packing)
    with Image.open(io.BytesIO(data)) as image:
        (start,), (size,) = image.tag_v2[273], image.tag_v2[279]  # type: ignore[attr-defined]
    for most in (start + size // 10, start + size // 2, start + size - 1):
        with pytest.raises(UnreadableFile, match=r"cut short|damaged"):
            decode(data[:most], "cut.tif")


def test_what_cannot_be_unpacked_is_no_picture() -> None:
    data = tiff("tiff_lzw")
    spoilt = data[:2000] + bytes(len(data) - 2000)
    with pytest.raises(UnreadableFile):
        decode(spoilt, "spoilt.tif")


@pytest.mark.parametrize(("packing", "least"), [("tiff_lzw", 3), ("group4", 1)])
def test_no_library_speaks_for_itself(
    packing: str, least: int, capfd: pytest.CaptureFixture[str]
) -> None:
    data = tiff(packing)
    with Image.open(io.BytesIO(data)) as image:
        (start,), (size,) = image.tag_v2[273], image.tag_v2[279]  # type: ignore[attr-defined]
    refused = 0
    for at in range(start, start + size, size // 12):
        spoilt = data[:at] + b"\x00" * 6 + data[at + 6 :]
        try:
            decode(spoilt, "spoilt.tif")
        except UnreadableFile:
            refused += 1
    assert refused >= least
    assert capfd.readouterr() == ("", "")


def test_what_was_meant_for_us_is_said_again() -> None:
    with heard() as lines:
        os.write(2, b"TheirDecode: a line\n")
        assert lines == []
    assert lines == ["TheirDecode: a line"]
