"""Heights written to a file and read back."""

from pathlib import Path

import cv2
import numpy as np
import pytest

from nebrel.cli import main
from nebrel.core.data import HeightField
from nebrel.core.formats.heights import encode_heights, read_scale
from nebrel.core.picture.decode import decode
from nebrel.core.recipe.evaluator import Evaluator
from nebrel.core.recipe.models import default_recipe
from tests.pictures import png, ramp


def field() -> HeightField:
    rng = np.random.default_rng(3)
    return HeightField((1.2 + 2.5 * rng.random((40, 60))).astype(np.float32), 118.0, 78.0)


@pytest.mark.parametrize(("ending", "off"), [("tif", 1e-5), ("png", 4e-5)])
def test_a_round_trip_keeps_the_millimetres(ending: str, off: float) -> None:
    there = np.ones((40, 60), bool)
    there[10:20, 5:15] = False
    picture = decode(encode_heights(field(), there, ending), "kept")  # type: ignore[arg-type]
    assert picture.heights is not None
    assert picture.heights.wide_mm == 118
    recipe = default_recipe("0" * 64, 40, 60, heights=picture.heights)
    back, kept = Evaluator(lambda _: picture).heights(recipe)
    assert kept is not None
    assert (kept == there).all()
    assert back.mm[there] == pytest.approx(field().mm[there], abs=off)
    assert (back.wide_mm, back.tall_mm) == pytest.approx((118, 118 / 59 * 39))


def test_heights_above_a_backing_get_one() -> None:
    flat = HeightField(np.linspace(0, 2, 600, dtype=np.float32).reshape(20, 30), 50.0, 32.76)
    picture = decode(encode_heights(flat, None, "tif"), "bare")
    recipe = default_recipe("0" * 64, 20, 30, heights=picture.heights)
    assert recipe.heights.backing.mm == 1
    result = Evaluator(lambda _: picture).evaluate(recipe)
    assert result.range_mm == pytest.approx((1, 3))


@pytest.mark.parametrize(
    "text",
    ["", "a scan", "{", '{"unit": "m", "wide_mm": 1}', '{"unit": "mm", "wide_mm": "x"}', "[1]",
     '{"unit": "mm", "wide_mm": -4, "tall_mm": 2}',
     '{"unit": "mm", "wide_mm": 1e999, "tall_mm": 2}'],
)  # fmt: skip
def test_other_descriptions_are_no_scale(text: str) -> None:
    assert read_scale(text) is None


def test_the_command_line_takes_a_heights_file_at_its_word(tmp_path: Path) -> None:
    picture, heights, mesh = (tmp_path / name for name in ("a.png", "a.tif", "a.stl"))
    picture.write_bytes(png(ramp(30, 40)))
    assert main(["heights", str(picture), "-o", str(heights), "--wide", "78", "--depth", "2"]) == 0
    assert cv2.imread(str(heights), cv2.IMREAD_UNCHANGED).max() == pytest.approx(2)
    assert main(["relief", str(heights), "-o", str(mesh)]) == 0
    import trimesh

    assert trimesh.load(mesh).extents == pytest.approx([78, 58, 3], abs=1e-3)
