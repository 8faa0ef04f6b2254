import io

import cv2
import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from nebrel.core.formats.png import encode_png
from nebrel.core.picture.decode import decode


@given(st.integers(2, 40), st.integers(2, 40), st.booleans(), st.integers(0, 99))
def test_every_value_comes_back(rows: int, cols: int, clear: bool, seed: int) -> None:
    rng = np.random.default_rng(seed)
    whole = rng.integers(0, 65_536, (rows, cols)).astype(np.float32)
    alpha = rng.integers(0, 65_536, (rows, cols)).astype(np.float32) / 65_535 if clear else None
    data = encode_png(whole / 65_535, alpha)
    values = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)
    assert values.dtype == np.uint16
    assert np.array_equal(values.reshape(rows, cols, -1)[..., 0], whole)
    picture = decode(data, "again.png")
    assert picture.bit_depth == 16
    assert (picture.alpha is not None) == clear


def test_resolution_and_mode_are_what_another_reader_expects() -> None:
    image = Image.open(io.BytesIO(encode_png(np.zeros((5, 7), np.float32), None, 254.0)))
    assert image.mode.startswith("I;16")
    assert image.info["dpi"][0] == 254.0
