"""Compression, draft, mirror, negative and islands against what mathematics says."""

from typing import Any

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from nebrel.core.data import Picture
from nebrel.core.errors import InvalidValue
from nebrel.core.heights.compress import compress_relief, integrate
from nebrel.core.heights.draft import fill_slopes
from nebrel.core.picture.flat_tones import recognise_tones
from nebrel.core.questions.evaluation import Evaluation
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.recipe.models import load_recipe
from nebrel.demo.pictures import craters, gallery_tag, smooth_noise


def make(tones: Any, heights: dict[str, Any], alpha: Any = None, **more: Any) -> Evaluation:
    picture = Picture(np.asarray(tones, np.float32), alpha)
    document = {"picture": {"sha256": "0" * 64, "side": 40}, "heights": heights, **more}
    return Evaluator(lambda _: picture).evaluate(load_recipe(document))


def disc(side: int, radius: float) -> Any:
    y, x = np.mgrid[0:side, 0:side] - (side - 1) / 2
    return (np.hypot(x, y) < radius).astype(np.float32)


def test_heights_come_back_from_their_differences() -> None:
    heights = smooth_noise(60, 90, 4, 4, 1)
    found = integrate(np.diff(heights, axis=1), np.diff(heights, axis=0))
    assert found == pytest.approx(heights - heights.mean(), abs=1e-4)


def test_compression_keeps_detail_that_linear_scaling_drowns() -> None:
    land = 8 * disc(256, 60) + 5 * np.linspace(0, 1, 256, dtype=np.float32)
    detail = smooth_noise(256, 256, 24, 3, 2)
    detail = 0.2 * (detail - cv2.GaussianBlur(detail, (0, 0), 5))
    squeezed = compress_relief(land + detail, 1.0, 0.3)
    assert squeezed.min() == pytest.approx((land + detail).min(), abs=1e-5)
    assert np.ptp(squeezed) < 0.1 * np.ptp(land + detail)

    def fine(heights: Any) -> Any:
        # The border is left out: there a mirrored slope looks like detail.
        return (heights - cv2.GaussianBlur(heights, (0, 0), 5))[15:-15, 15:-15].ravel()

    def likeness(heights: Any) -> float:
        return float(np.corrcoef(fine(heights), fine(detail))[0, 1])

    assert likeness(squeezed) > 0.9 > 0.5 > likeness(land + detail)


def stepped_land(soft_px: float) -> tuple[Any, Any]:
    """A step of 1.5 with fine detail of 0.03 on it, and the detail alone."""
    x = np.arange(256, dtype=np.float32) - 127.5
    step = 1.5 / (1 + np.exp(-x / max(soft_px, 1e-3)))
    detail = smooth_noise(256, 256, 24, 3, 2)
    detail = 0.2 * (detail - cv2.GaussianBlur(detail, (0, 0), 5))
    return (step[None].repeat(256, 0) + detail).astype(np.float32), detail


@pytest.mark.parametrize("strength", [0.02, 0.1, 0.25, 0.5, 0.75, 0.9, 1.0])
@pytest.mark.parametrize("soft_px", [0.0, 1.5])
@pytest.mark.filterwarnings("ignore:overflow")
def test_strength_acts_evenly_on_a_step_and_leaves_detail(strength: float, soft_px: float) -> None:
    land, detail = stepped_land(soft_px)
    found = compress_relief(land, strength, 0.3)
    step = found[:, 160:224].mean() - found[:, 32:96].mean()
    assert step == pytest.approx(1.5 * (1 - strength), abs=0.02)
    part = np.s_[20:-20, 20:100]
    kept = (found - cv2.GaussianBlur(found, (0, 0), 5))[part]
    true = (detail - cv2.GaussianBlur(detail, (0, 0), 5))[part]
    assert kept.std() == pytest.approx(true.std(), rel=0.06)
    assert found.min() == pytest.approx(land.min(), abs=1e-5)


@pytest.mark.parametrize(
    ("dial", "factor"), [(0, 0), (0.15, 0.5), (0.3, 1), (0.65, 1.25), (1, 1.5)]
)
def test_the_detail_dial_goes_from_gone_to_half_as_strong_again(dial: float, factor: float) -> None:
    land, detail = stepped_land(0)
    found = compress_relief(land, 0.5, dial)
    part = np.s_[20:-20, 20:100]
    kept = (found - cv2.GaussianBlur(found, (0, 0), 3))[part].std()
    true = (detail - cv2.GaussianBlur(detail, (0, 0), 3))[part].std()
    assert kept / true == pytest.approx(factor, abs=0.07)


def test_a_step_alone_is_a_step() -> None:
    land = (1.5 * (np.arange(200) > 99))[None].repeat(120, 0).astype(np.float32)
    assert np.ptp(compress_relief(land, 0.5, 0.3)) == pytest.approx(0.75, abs=0.01)


@given(strength=st.floats(0, 1), detail=st.floats(0, 1), level=st.floats(0, 1))
@settings(max_examples=30, deadline=None)
def test_a_flat_or_plain_relief_survives_compression(
    strength: float, detail: float, level: float
) -> None:
    flat = np.full((20, 30), level, np.float32)
    assert (compress_relief(flat, strength, detail) == flat).all()
    ramp = np.tile(np.linspace(0, 1, 30, dtype=np.float32), (20, 1))
    found = compress_relief(ramp, strength, detail)
    assert np.isfinite(found).all()
    assert (np.diff(found, axis=1) > -0.02).all()


def test_a_leaned_step_is_a_straight_flank() -> None:
    step = np.zeros((41, 81), np.float32)
    step[:, 60:] = 3
    found = fill_slopes(step, 2.0, 0.1, 0.1)
    x = np.arange(81)
    wanted = np.where(x >= 60, 3, np.maximum(0, 3 - 2 * 0.1 * (60 - x)))
    assert found == pytest.approx(np.tile(wanted, (41, 1)), abs=1e-5)


def test_a_leaned_spike_is_a_cone() -> None:
    spike = np.zeros((81, 81), np.float32)
    spike[40, 40] = 2
    found = fill_slopes(spike, 1.0, 0.1, 0.1)
    y, x = (np.mgrid[0:81, 0:81] - 40) * 0.1
    cone = np.maximum(0, 2 - np.hypot(x, y))
    assert (found >= spike).all()
    assert found == pytest.approx(cone, abs=0.09)  # first order, worst beside the tip


def test_draft_adds_the_flank_of_a_drum() -> None:
    radius, high, lean = 12.0, 2.0, 20.0
    leaned = make(disc(801, 240), {"backing": 1, "depth": high, "draft": lean})
    foot = high * np.tan(np.radians(lean))
    drum = np.pi * high / 3 * (radius**2 + (radius + foot) ** 2 + radius * (radius + foot))
    assert leaned.report.volume_mm3 == pytest.approx(40 * 40 + drum, rel=3e-3)
    assert leaned.report.manifold


def test_a_negative_fills_what_was_left() -> None:
    for heights in (
        {"backing": 1.5, "depth": 2},
        {
            "backing": 1.5,
            "mapping": "plateaus",
            "pins": [{"tone": 0, "mm": 0.5}, {"tone": 1, "mm": 2}],
        },
    ):
        plain = make(disc(201, 60), heights)
        turned = make(disc(201, 60), {**heights, "negative": True})
        low, high = plain.range_mm
        assert turned.report.manifold
        assert turned.range_mm == pytest.approx((1.5, 1.5 + high - low if low > 1.5 else high))
        whole = 40 * 40 * (1.5 + high)
        assert (
            turned.report.volume_mm3 == pytest.approx(whole - plain.report.volume_mm3, rel=1e-4)
            or low > 1.5
        )


def test_a_negative_needs_a_backing() -> None:
    with pytest.raises(InvalidValue, match="backing"):
        make(disc(60, 20) * 0.5 + 0.4, {"backing": 0, "depth": 3, "negative": True})


def test_mirroring_twice_is_nothing_and_once_is_left_for_right() -> None:
    tones = smooth_noise(60, 80, 4, 3, 5)
    text = {"kind": "text", "text": "R", "height": 1, "x": 8, "rule": "add"}
    build_up = [{"kind": "picture"}, text]
    heights = {"depth": 2, "build_up": build_up}
    plain, mirrored = make(tones, heights), make(tones, {**heights, "mirror": True})
    assert mirrored.report.volume_mm3 == pytest.approx(plain.report.volume_mm3, rel=1e-4)
    assert plain.relief is not None and mirrored.relief is not None
    mm, _ = plain.relief.joined()
    other, _ = mirrored.relief.joined()
    assert np.abs(other.mm[:, ::-1] - mm.mm).mean() < 2e-3
    assert mirrored.relief.mirrored().joined()[0].mm == pytest.approx(mm.mm)


def test_islands_are_found_dropped_and_held() -> None:
    two = disc(201, 60)
    two[5:20, 5:25] = 1
    heights = {"backing": 1, "depth": 2, "cut_dropped": True}
    kept = make(two, heights, two)
    assert kept.report.bodies == 2
    (island,) = kept.islands
    assert island.area_mm2 == pytest.approx(15 * 20 * 0.2**2)
    assert island.box_mm == pytest.approx((1.0, 36.2, 4.8, 39.0))
    dropped = make(two, {**heights, "islands": "drop"}, two)
    alone = make(disc(201, 60), heights, disc(201, 60))
    assert dropped.report.bodies == 1
    assert dropped.report.volume_mm3 == pytest.approx(alone.report.volume_mm3, rel=1e-5)
    held = make(two, {**heights, "islands": "hold", "hold": 0.5}, two)
    assert held.report.bodies == 1
    assert held.report.volume_mm3 > kept.report.volume_mm3
    # Parts that the seam of a tube joins are one.
    band = np.zeros((60, 200), np.float32)
    band[20:40, :60] = band[20:40, -60:] = 1
    around = make(band, heights, band, form={"kind": "tube"})
    assert around.islands == ()
    assert around.report.bodies == 1


def test_what_is_too_thin_to_print_is_said() -> None:
    thin = make(disc(60, 20), {"backing": 0.05, "depth": 2})
    assert "less than one print layer" in thin.remarks[0].error.why
    assert "0.12 mm" in thin.remarks[0].error.remedy
    assert make(disc(60, 20), {"backing": 0.3, "depth": 2}).remarks == ()


def test_flat_tones_are_recognised_and_photographs_are_not() -> None:
    assert recognise_tones(gallery_tag()) == pytest.approx([0, 0.502, 1], abs=0.003)
    assert recognise_tones(craters(300, 400)) == []
    assert recognise_tones(smooth_noise(200, 300, 4, 4, 3)) == []


def test_the_words_of_a_text_are_part_of_the_key() -> None:
    picture = Picture(np.full((40, 60), 0.5, np.float32))
    evaluator = Evaluator(lambda _: picture)

    def written(text: str) -> Evaluation:
        entry = {"kind": "text", "text": text, "height": "2 layers"}
        heights = {"build_up": [{"kind": "picture"}, entry]}
        document = {"picture": {"sha256": "0" * 64}, "heights": heights}
        return evaluator.evaluate(load_recipe(document))

    assert written("one").report.volume_mm3 != written("another").report.volume_mm3
