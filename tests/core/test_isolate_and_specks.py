"""Subjects of several colours, specks that are none, and colours that stay colours."""

from pathlib import Path

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import ndimage

from nebrel.cli import main
from nebrel.core.data import Picture
from nebrel.core.picture.decode import decode
from nebrel.core.picture.resample import resample
from nebrel.core.picture.smooth import despeckle
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.recipe.models import load_recipe
from tests.pictures import png
from tests.scenes import Scene, overlap, plain_cut, scenes


def isolated(scene: Scene, quality: str) -> np.ndarray:
    x, y, wide, tall = scene.box
    step = {
        "kind": "isolate", "method": "strokes", "keep": scene.keep, "drop": scene.drop,
        "box": {"x": x, "y": y, "wide": wide, "tall": tall},
    }  # fmt: skip
    recipe = load_recipe({"picture": {"sha256": "0" * 64, "corrections": [step]}})
    found = Evaluator(lambda _: Picture(scene.pixels)).correct(recipe, quality)  # type: ignore[arg-type]
    assert found.failures == ()
    return found.work.alpha > 0.5  # type: ignore[operator, no-any-return]


@pytest.mark.parametrize("scene", scenes(), ids=lambda scene: scene.name)
def test_a_subject_of_several_colours_is_kept_whole(scene: Scene) -> None:
    full, draft = isolated(scene, "full"), isolated(scene, "draft")
    assert overlap(full, scene.truth) >= max(0.96, overlap(plain_cut(scene), scene.truth))
    larger = cv2.resize(draft.astype(np.float32), scene.truth.shape[::-1]) > 0.5
    assert overlap(larger, full) > 0.95


def test_a_subject_is_isolated_from_the_command_line(tmp_path: Path) -> None:
    scene = scenes()[0]
    picture, out = tmp_path / "scene.png", tmp_path / "out.png"
    picture.write_bytes(png(scene.pixels, 8))
    marks = ["--box", ",".join(f"{value:g}" for value in scene.box)]
    for stroke in scene.keep:
        places = [f"{value:g}" for point in stroke["points"] for value in point]  # type: ignore[attr-defined]
        marks += ["--keep", ",".join([*places, f"{stroke['wide']:g}"])]
    marks += ["--drop", "20,20,460,20,8", "--drop", "20,340,460,340,8"]
    assert main(["correct", str(picture), "-o", str(out), *marks]) == 0
    alpha = decode(out).alpha
    assert alpha is not None
    assert overlap(alpha > 0.5, scene.truth) > 0.96


@pytest.mark.parametrize(
    "typed",
    [
        ["--keep", "1,2,3,4"],
        ["--keep", "1,2"],
        ["--drop", "1,2,-3"],
        ["--box", "1,2,3"],
        ["--box", "nan,2,3,4"],
        ["--keep", "inf,2,3,4,5"],
        ["--enlarge", "0.5"],
        ["--enlarge", "nan"],
        ["--enlarge", "17"],
        ["--drop", "5,5,9"],
    ],
)
def test_marks_that_are_none_are_refused_in_one_line(
    tmp_path: Path, typed: list[str], capsys: pytest.CaptureFixture[str]
) -> None:
    picture = tmp_path / "scene.png"
    picture.write_bytes(png(scenes()[0].pixels, 8))
    try:
        code = main(["correct", str(picture), "-o", str(tmp_path / "out.png"), *typed])
    except SystemExit as left:
        code = int(left.code or 0)
    assert code == 2
    assert len(capsys.readouterr().err.strip().splitlines()) == 1


@pytest.mark.parametrize("factor", ["2", "3.5"])
def test_enlarging_keeps_every_colour(tmp_path: Path, factor: str) -> None:
    tones = np.zeros((40, 60, 3), np.float32)
    tones[:20, :30], tones[:20, 30:], tones[20:, :30] = (
        (0.9, 0.1, 0.1),
        (0.1, 0.8, 0.1),
        (0, 0.2, 1),
    )
    picture, out = tmp_path / "colours.png", tmp_path / "out.png"
    picture.write_bytes(png(tones, 8))
    plain = tmp_path / "plain.png"
    assert main(["correct", str(picture), "-o", str(plain)]) == 0
    assert main(["correct", str(picture), "-o", str(out), "--enlarge", factor]) == 0
    small, large = decode(plain).pixels, decode(out).pixels
    assert large.shape == tuple(round((side - 1) * float(factor)) + 1 for side in small.shape)
    middle = [(0.25, 0.25), (0.25, 0.75), (0.75, 0.25), (0.75, 0.75)]
    for y, x in middle:
        there = large[int(y * large.shape[0]), int(x * large.shape[1])]
        assert there == pytest.approx(small[int(y * 40), int(x * 60)], abs=0.004)


def test_growing_never_leaves_the_range_in_any_channel() -> None:
    tones = np.random.default_rng(1).random((9, 11, 3), np.float32) * 0.5 + 0.25
    grown = resample(tones, 50, 70)
    assert grown.min() >= tones.min()
    assert grown.max() <= tones.max()
    for channel in range(3):
        assert grown[..., channel].mean() == pytest.approx(tones[..., channel].mean(), abs=0.05)
        assert np.ptp(grown[..., channel]) > 0.3


def connected_parts_gone(ink: np.ndarray, area: int) -> np.ndarray:
    """What despeckling of black and white means: small parts of ink, then of ground, are gone."""
    for value in (True, False):
        labels, count = ndimage.label(ink == value, structure=np.ones((3, 3)))
        sizes = ndimage.sum_labels(ink == value, labels, np.arange(count + 1))
        small = (sizes <= area) & (np.arange(count + 1) > 0)
        ink = np.where(small[labels], not value, ink)
    return ink


@given(st.integers(0, 10_000), st.integers(1, 60), st.sampled_from([0.5, 0.7, 0.9]))
def test_a_speck_is_a_connected_part_below_the_area_and_nothing_else(
    seed: int, area: int, share: float
) -> None:
    rng = np.random.default_rng(seed)
    rough = cv2.GaussianBlur(rng.random((60, 70), np.float32), (0, 0), rng.uniform(0.1, 2))
    ink = rough > np.quantile(rough, share)
    page = np.where(ink, 0, 1).astype(np.float32)
    found = despeckle(page, area, "both", 0.1)
    # At the border a part may go on outside the picture: there it counts as what is seen of it.
    inner = np.s_[12:-12, 12:-12]
    assert np.array_equal(found[inner] < 0.5, connected_parts_gone(ink, area)[inner] > 0)


def test_counters_and_notches_of_letters_stay() -> None:
    page = np.full((160, 700), 255, np.uint8)
    cv2.putText(page, "eaBRg&%8 nmw", (10, 110), cv2.FONT_HERSHEY_TRIPLEX, 2.6, 0, 5)
    rng = np.random.default_rng(4)
    clean = (page > 127).astype(np.float32)
    ground = clean > 0.5
    counters, _ = ndimage.label(ground)
    smallest = min(np.bincount(counters.ravel())[1:])
    spots = rng.integers(0, clean.size, 200)
    dirty = clean.copy()
    dirty.ravel()[spots] = 0
    found = despeckle(dirty, min(12, smallest - 1), "dark", 0.1)
    assert (found[ground] > 0.5).mean() > 0.9999
    kept, _ = ndimage.label(found > 0.5)
    assert kept.max() == counters.max()
    assert np.array_equal(found[~ground], clean[~ground])
