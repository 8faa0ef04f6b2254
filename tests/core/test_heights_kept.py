"""Heights written to a file and read back."""

import io
import json
from pathlib import Path

import cv2
import numpy as np
import pytest
import tifffile

from nebrel.cli import main
from nebrel.core.data import HeightField
from nebrel.core.formats.heights import encode_heights
from nebrel.core.picture.decode import decode
from nebrel.core.picture.height_scale import read_scale
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.recipe.models import default_recipe
from tests.pictures import png, ramp


def field() -> HeightField:
    rng = np.random.default_rng(3)
    return HeightField((1.2 + 2.5 * rng.random((40, 60))).astype(np.float32), 118.0, 78.0)


@pytest.mark.parametrize(("ending", "off"), [("tif", 1e-5), ("png", 4e-5)])
def test_a_round_trip_keeps_the_millimetres(ending: str, off: float) -> None:
    there = np.ones((40, 60), bool)
    there[10:20, 5:15] = False
    picture = decode(encode_heights(field(), there, ending, "underside"), "kept")  # type: ignore[arg-type]
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
    picture = decode(encode_heights(flat, None, "tif", "backing"), "bare")
    recipe = default_recipe("0" * 64, 20, 30, heights=picture.heights)
    assert recipe.relief.art.backing.mm == 1
    result = Evaluator(lambda _: picture).evaluate(recipe)
    assert result.range_mm == pytest.approx((1, 3))


@pytest.mark.parametrize("ending", ["tif", "png"])
def test_heights_whose_lowest_is_high_above_their_backing_get_it_too(ending: str) -> None:
    high = HeightField(np.linspace(0.06, 2, 600, dtype=np.float32).reshape(20, 30), 50.0, 32.76)
    picture = decode(encode_heights(high, None, ending, "backing"), "high")  # type: ignore[arg-type]
    recipe = default_recipe("0" * 64, 20, 30, heights=picture.heights)
    result = Evaluator(lambda _: picture).evaluate(recipe)
    assert result.range_mm == pytest.approx((1.06, 3), abs=1e-4)


@pytest.mark.parametrize(("low", "backing"), [(0.0, 1.0), (0.06, 0.0)])
def test_an_older_file_is_judged_by_its_lowest_height(low: float, backing: float) -> None:
    mm = np.linspace(low, 2, 600, dtype=np.float32).reshape(20, 30)
    data = io.BytesIO()
    words = json.dumps({"unit": "mm", "wide_mm": 50.0, "tall_mm": 32.76})
    tifffile.imwrite(data, mm, description=words, metadata=None)
    picture = decode(data.getvalue(), "older")
    recipe = default_recipe("0" * 64, 20, 30, heights=picture.heights)
    assert recipe.relief.art.backing.mm == backing


@pytest.mark.parametrize("tones", ["0=0.06,1=2", "0=cut,0.5=1,1=3"])
def test_backings_are_the_same_by_way_of_a_file(tmp_path: Path, tones: str) -> None:
    paths = [tmp_path / name for name in ("a.png", "a.tif", "direct.stl", "kept.stl")]
    picture, heights, direct, kept = map(str, paths)
    paths[0].write_bytes(png(np.repeat(np.float32([[0, 0.5, 1]]), 30, 0).repeat(10, 1)))
    assert main(["relief", picture, "-o", direct, "--tones", tones]) == 0
    assert main(["heights", picture, "-o", heights, "--tones", tones]) == 0
    assert main(["relief", heights, "-o", kept]) == 0
    import trimesh

    wanted = trimesh.load(direct).extents[2]
    assert wanted == pytest.approx(4 if "cut" in tones else 3, abs=1e-4)
    assert trimesh.load(kept).extents[2] == pytest.approx(wanted, abs=1e-4)


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
