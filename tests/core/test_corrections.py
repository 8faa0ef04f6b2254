"""Every correction against a known answer."""

from typing import Any

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from nebrel.core.data import Picture
from nebrel.core.errors import InvalidRecipe, InvalidValue, NebrelError, UnreadableFile
from nebrel.core.picture.working import Working
from nebrel.core.questions.evaluation import Corrected
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.recipe.models import Recipe, load_recipe
from tests.pictures import ramp

SHA, SECOND = "0" * 64, "1" * 64


def recipe(*steps: dict[str, Any], wide: float = 100) -> Recipe:
    return load_recipe(
        {"picture": {"sha256": SHA, "along": "wide", "side": wide, "corrections": list(steps)}}
    )


def run(
    pixels: np.ndarray,
    *steps: dict[str, Any],
    alpha: np.ndarray | None = None,
    wide: float = 100,
    second: Picture | None = None,
    quality: str = "full",
) -> Corrected:
    alpha = None if alpha is None else alpha.astype(np.float32)
    pictures = {SHA: Picture(np.asarray(pixels, np.float32), alpha), SECOND: second}

    def load(sha256: str) -> Picture:
        found = pictures[sha256]
        if found is None:
            raise UnreadableFile("second.png", "it is not a picture", "Choose another")
        return found

    return Evaluator(load).correct(recipe(*steps, wide=wide), quality)  # type: ignore[arg-type]


def work(pixels: np.ndarray, *steps: dict[str, Any], **options: Any) -> Working:
    found = run(pixels, *steps, **options)
    assert not found.failures, found.failures
    return found.work


def disc(rows: int, cols: int, radius: float) -> np.ndarray:
    """Coverage of a disc in the middle."""
    y, x = np.mgrid[0:rows, 0:cols]
    return np.clip(radius + 0.5 - np.hypot(x - (cols - 1) / 2, y - (rows - 1) / 2), 0, 1)


def refused(pixels: np.ndarray, *steps: dict[str, Any], **options: Any) -> str:
    found = run(pixels, *steps, **options)
    assert len(found.failures) == 1
    return str(found.failures[0].error)


# Frame


def test_crop_keeps_the_pitch() -> None:
    found = work(ramp(51, 101), {"kind": "crop", "box": {"x": 20, "y": 10, "wide": 61, "tall": 31}})
    assert found.pixels.shape == (31, 61)
    assert found.size_mm == pytest.approx((60, 30))
    assert np.array_equal(found.pixels, ramp(51, 101)[10:41, 20:81])


def test_crop_outside_is_refused_and_the_rest_still_applies() -> None:
    box = {"x": 90, "y": 0, "wide": 30, "tall": 10}
    found = run(ramp(51, 101), {"kind": "crop", "box": box}, {"kind": "invert"})
    assert found.failures[0].index == 0
    assert "reaches outside" in str(found.failures[0].error)
    assert np.allclose(found.work.pixels, 1 - ramp(51, 101))


def test_crop_to_content_with_a_margin() -> None:
    page = np.ones((80, 100))
    page[30:41, 20:61] = 0
    found = work(page, {"kind": "crop", "by": "content", "margin": 5}, wide=99)
    assert found.pixels.shape == (11 + 10, 41 + 10)
    assert "nothing differs" in refused(np.ones((9, 9)), {"kind": "crop", "by": "content"})


def test_four_quarter_turns_and_two_mirrors_are_nothing() -> None:
    pixels = np.random.default_rng(0).random((20, 30))
    assert np.allclose(work(pixels, *[{"kind": "turn"}] * 0).pixels, pixels)
    turned = work(pixels, *[{"kind": "turn", "quarters": 1}] * 4)
    assert np.allclose(turned.pixels, pixels)
    assert np.allclose(turned.place, np.eye(3), atol=1e-9)
    left = work(pixels, {"kind": "turn", "quarters": 1})
    assert np.allclose(left.pixels, np.rot90(pixels))
    for axis in ("left-right", "top-bottom"):
        assert np.allclose(work(pixels, *[{"kind": "mirror", "axis": axis}] * 2).pixels, pixels)


FRAMES: list[dict[str, Any]] = [
    {"kind": "turn", "quarters": 1},
    {"kind": "turn", "degrees": 9, "corners": "fill", "tone": 0},
    {"kind": "mirror"},
    {"kind": "extend", "left": 4, "top": 7, "tone": 0},
    {"kind": "resize", "cols": 301},
    {"kind": "enlarge", "factor": 2},
    {"kind": "crop", "box": {"x": 12, "y": 9, "wide": 60, "tall": 50}},
]


@given(st.lists(st.sampled_from(FRAMES), max_size=4), st.sampled_from([5, 40]))
def test_a_place_stays_on_what_it_marks(steps: list[dict[str, Any]], wide: float) -> None:
    """A dot of the picture brought in is found where the frame says it went."""
    pixels = np.zeros((81, 121), np.float32)
    pixels[36:41, 46:51] = 1
    found = run(pixels, *steps, wide=wide).work
    x, y = found.spots([(48, 38)])[0]
    rows, cols = found.pixels.shape
    if not (2 <= x < cols - 2 and 2 <= y < rows - 2):
        return
    assert found.pixels[round(y), round(x)] > 0.7
    # The middle of the light is there too, to a pixel of the result.
    weight = np.where(found.pixels > 0.5, found.pixels, 0)
    part = np.s_[max(0, round(y) - 14) : round(y) + 15, max(0, round(x) - 14) : round(x) + 15]
    yy, xx = np.mgrid[0:rows, 0:cols]
    mass = weight[part].sum()
    assert (xx[part] * weight[part]).sum() / mass == pytest.approx(x, abs=1.2)
    assert (yy[part] * weight[part]).sum() / mass == pytest.approx(y, abs=1.2)


def test_trimmed_corners_hold_picture_only() -> None:
    found = work(np.ones((90, 160)), {"kind": "turn", "degrees": 20})
    assert found.pixels.min() > 0.999
    filled = work(np.ones((90, 160)), {"kind": "turn", "degrees": 20, "corners": "fill", "tone": 0})
    assert filled.cols > 160
    assert filled.pixels[0, 0] == 0


def test_resize_and_enlarge_keep_the_size_in_mm() -> None:
    small = work(ramp(41, 81), {"kind": "resize", "cols": 41})
    assert small.pixels.shape == (21, 41)
    assert small.size_mm == pytest.approx((100, 50))
    assert np.allclose(small.pixels, ramp(21, 41), atol=5e-3)
    large = work(ramp(41, 81), {"kind": "enlarge", "factor": 3})
    assert large.pixels.shape == (121, 241)
    assert large.size_mm == pytest.approx((100, 50))
    stretched = work(ramp(41, 81), {"kind": "resize", "cols": 81, "rows": 81})
    assert stretched.size_mm == pytest.approx((100, 100))


@pytest.mark.parametrize("soft", [True, False])
def test_enlarged_lines_stay_sharp_and_round(soft: bool) -> None:
    cover = disc(41, 41, 14.0)
    source = cover if soft else np.round(cover)
    found = work(source, {"kind": "enlarge", "factor": 8, "method": "lines"}).pixels
    true = disc(321, 321, 14.0 * 8)
    plain = work(source, {"kind": "enlarge", "factor": 8}).pixels
    between = lambda a: np.mean((a > 0.05) & (a < 0.95))  # noqa: E731
    assert between(found) < 0.35 * between(plain)
    # In pixels of the source: a hundredth when its border is soft, less than a half when not.
    assert np.abs((found > 0.5) ^ (true > 0.5)).mean() < (0.004 if soft else 0.02)
    assert found.sum() == pytest.approx(true.sum(), rel=0.01 if soft else 0.03)


def test_extend_by_mm_and_percent() -> None:
    found = work(np.ones((51, 101)), {"kind": "extend", "left": 5, "bottom": "1 cm", "tone": 0.25})
    assert found.pixels.shape == (61, 106)
    assert found.size_mm == pytest.approx((105, 60))
    assert found.pixels[-1, 0] == 0.25
    assert work(np.ones((50, 100)), {"kind": "extend", "percent": 10}).pixels.shape == (60, 120)
    around = work(np.ones((50, 100)), {"kind": "extend", "percent": 10}, alpha=np.zeros((50, 100)))
    assert around.alpha is not None
    assert (around.alpha[0, 0], around.alpha[20, 50]) == (1, 0)


def test_true_size_by_width_and_by_two_points() -> None:
    wide = work(ramp(51, 101), {"kind": "true_size", "length": "2 in"})
    assert wide.size_mm == pytest.approx((50.8, 25.4))
    points = {"measure": "between", "first": [10, 20], "second": [40, 60], "length": 50}
    found = work(ramp(51, 101), {"kind": "true_size", **points})
    assert found.pitch_mm == pytest.approx(1.0)
    # The two places mean the same spots after a turn.
    turned = work(ramp(51, 101), {"kind": "turn", "quarters": 1}, {"kind": "true_size", **points})
    assert turned.pitch_mm == pytest.approx(1.0)


# Tones


def test_levels_curve_contrast_invert_exposure() -> None:
    tones = ramp(9, 1001)
    assert np.allclose(
        work(tones, {"kind": "levels", "black": 0.2, "white": 0.7}).pixels,
        np.clip((tones - 0.2) / 0.5, 0, 1),
        atol=1e-6,
    )
    lighter = work(tones, {"kind": "levels", "middle": 2}).pixels
    assert np.allclose(lighter, np.sqrt(tones), atol=1e-5)
    points = [[0, 0.1], [0.3, 0.2], [0.6, 0.9], [1, 1]]
    curve = work(tones, {"kind": "curve", "points": points}).pixels[0]
    assert np.all(np.diff(curve) >= -1e-6)
    for x, y in points:
        assert curve[round(x * 1000)] == pytest.approx(y, abs=1e-3)
    assert np.allclose(work(tones, {"kind": "invert"}, {"kind": "invert"}).pixels, tones, atol=1e-6)
    gray = work(tones, {"kind": "contrast", "amount": -1}).pixels
    assert np.allclose(gray, 0.5)
    up = work(0.5 * tones, {"kind": "exposure", "stops": 1}, {"kind": "exposure", "stops": -1})
    assert np.allclose(up.pixels, 0.5 * tones, atol=1e-3)


@pytest.mark.parametrize(("black", "white"), [(0.2, 0.8), (0.05, 0.62), (0.31, 0.93)])
@pytest.mark.parametrize("sigma", [0, 2, 4])
def test_automatic_levels_find_black_and_white(black: float, white: float, sigma: float) -> None:
    drawing = np.maximum(disc(300, 400, 90), 0.5 * (ramp(300, 400) > 0.8))
    tones = black + (white - black) * drawing
    tones = tones + np.random.default_rng(1).normal(0, sigma / 255, tones.shape)
    steps = np.rint(np.clip(tones, 0, 1) * 255) / 255
    found = work(steps, {"kind": "levels", "auto": True}).pixels
    middle = {name: np.median(found[where]) for name, where in
              (("white", drawing == 1), ("black", drawing == 0))}  # fmt: skip
    one = 1 / 255 / (white - black)
    assert middle["black"] <= one
    assert middle["white"] >= 1 - one


def test_local_contrast_raises_detail_and_keeps_large_areas() -> None:
    x = np.tile(np.arange(300), (200, 1))
    detail = 0.02 * np.sin(x / 2)
    base = 0.3 + 0.3 * (x > 150)
    found = work(base + detail, {"kind": "local_contrast", "amount": 2, "radius": 4}).pixels
    assert found[:, 60:120].std() == pytest.approx(3 * detail[:, 60:120].std(), rel=0.15)
    assert found[:, 60:120].mean() == pytest.approx(0.3, abs=0.01)


def test_read_from_channels_and_transparency() -> None:
    pixels = np.zeros((4, 6, 3))
    pixels[..., 0], pixels[..., 2] = 1, 0.25
    for channel, tone in (("red", 1), ("green", 0), ("blue", 0.25)):
        assert work(pixels, {"kind": "read_from", "channel": channel}).pixels[0, 0] == tone
    red = {"kind": "read_from", "channel": "hue", "colour": [1, 0, 0.25]}
    assert work(pixels, red).pixels.max() < 0.01
    assert work(pixels, red | {"colour": [0, 1, 0.75]}).pixels.min() > 0.95
    light = work(np.full((3, 3), 0.4663), {"kind": "read_from", "channel": "lightness"}).pixels
    assert light[0, 0] == pytest.approx(0.5, abs=0.002)  # sRGB 119 is L* 50
    alpha = np.tile(np.linspace(0, 1, 6), (4, 1))
    assert np.allclose(
        work(pixels, {"kind": "read_from", "channel": "alpha"}, alpha=alpha).pixels, alpha
    )
    over = work(
        np.zeros((4, 6)), {"kind": "read_from", "transparent": "tone", "tone": 1}, alpha=alpha
    )
    assert over.alpha is None
    assert np.allclose(over.pixels, 1 - alpha, atol=1e-6)


def test_tone_steps_are_flat_and_leave_no_seam() -> None:
    # Light and dark beside each other, their soft border passing through the middle tone.
    cover = disc(120, 160, 40)
    tones = 0.9 * cover + 0.1 * (1 - cover)
    tones[:, :30] = 0.5
    found = work(tones, {"kind": "tone_steps", "count": 3}).pixels
    assert len(np.unique(found)) == 3
    around = found[:, 34:]
    assert np.mean(np.abs(around - 0.5) < 0.1) == 0
    rough = work(tones, {"kind": "tone_steps", "count": 3, "clean": False}).pixels
    assert np.mean(np.abs(rough[:, 34:] - 0.5) < 0.1) > 0
    picked = work(tones, {"kind": "tone_steps", "tones": [0.0, 0.5, 1.0]}).pixels
    assert set(np.unique(picked)) == {0.0, 0.5, 1.0}


def test_threshold_manual_otsu_local() -> None:
    tones = np.where(disc(90, 120, 30) > 0.5, 0.7, 0.3)
    for step in ({"method": "otsu"}, {"method": "manual", "level": 0.4}):
        found = work(tones, {"kind": "threshold", **step}).pixels
        assert set(np.unique(found)) == {0, 1}
        assert np.array_equal(found == 1, tones == 0.7)
    # Ink on paper that falls into shadow: no single level fits, a local one does.
    paper = np.tile(np.linspace(1.0, 0.35, 400), (200, 1))
    ink = np.zeros((200, 400), bool)
    ink[:, ::20] = ink[:, 1::20] = True
    page = np.where(ink, paper - 0.25, paper)
    local = work(page, {"kind": "threshold", "method": "local", "radius": 3}).pixels
    assert np.mean((local == 0) == ink) > 0.99
    plain = work(page, {"kind": "threshold"}).pixels
    assert np.mean((plain == 0) == ink) < 0.8
    high = {"kind": "threshold", "method": "manual", "level": 0.9}
    assert "everything becomes black" in refused(tones, high)


def test_even_light_flattens_the_paper_only() -> None:
    y, x = np.mgrid[0:240, 0:320]
    paper = 0.96 - 0.16 * ((x / 320 - 0.3) ** 2 + (y / 240 - 0.4) ** 2)
    page = np.where(disc(240, 320, 50) > 0.5, 0.2 * paper, paper)
    found = work(page, {"kind": "even_light"}).pixels
    outside = disc(240, 320, 54) == 0
    assert found[outside].min() > 0.985
    assert found[disc(240, 320, 46) == 1].max() < 0.23
    noise = np.random.default_rng(0).random((60, 80))
    assert "no background" in refused(noise, {"kind": "even_light"})


# Cleaning


@pytest.mark.parametrize("method", ["gaussian", "median", "edge_keeping"])
@pytest.mark.parametrize("radius", [0.4, 2.0])
def test_smoothing_calms_noise(method: str, radius: float) -> None:
    clean = np.where(np.arange(300) < 150, 0.25, 0.75) * np.ones((200, 1))
    noisy = clean + np.random.default_rng(3).normal(0, 0.02, clean.shape)
    found = work(noisy, {"kind": "smooth", "method": method, "radius": radius}).pixels
    assert found[:, 20:100].std() < 0.6 * 0.02
    if method != "gaussian":
        across = found[:, 150].mean() - found[:, 149].mean()
        assert across > 0.4


@pytest.mark.parametrize("radius", [1, 2, 5, 11])
def test_the_median_is_the_median(radius: int) -> None:
    from scipy.ndimage import median_filter

    from nebrel.core.picture.smooth import median

    tones = (np.random.default_rng(radius).integers(0, 65_536, (40, 53)) / 65_535).astype(
        np.float32
    )
    true = median_filter(tones, 2 * radius + 1, mode="nearest")
    assert np.abs(median(tones, radius) - true).max() < 1e-6


def test_despeckle_takes_specks_and_leaves_lines() -> None:
    page = np.ones((200, 200))
    page[20:23, 20:23] = 0  # 9 px
    page[100:112, 50:62] = 0  # 144 px
    page[:, 150:152] = 0  # a line
    found = work(page, {"kind": "despeckle", "area": 20 * 0.25}, wide=99.5).pixels
    assert found[21, 21] == 1
    assert np.array_equal(found[90:], page[90:])
    assert np.array_equal(found[:, 150:], page[:, 150:])
    dark = work(1 - page, {"kind": "despeckle", "area": 5, "specks": "dark"}, wide=99.5).pixels
    assert np.array_equal(dark, 1 - page)


def test_thicken_by_a_width_and_up_to_one() -> None:
    page = np.ones((101, 201))
    page[:, 100:103] = 0
    width = lambda found: (1 - found.pixels[50]).sum() * found.pitch_mm  # noqa: E731
    assert width(work(page, {"kind": "thicken", "by": 2}, wide=100)) == pytest.approx(3.5)
    assert width(work(page, {"kind": "thicken", "by": 1.3}, wide=100)) == pytest.approx(
        2.8, abs=1e-5
    )
    assert width(work(page, {"kind": "thicken", "by": -1}, wide=100)) == pytest.approx(0.5)
    enough = work(page, {"kind": "thicken", "at_least": "8 lines"}, wide=100)
    assert width(enough) == pytest.approx(8 * 0.42, abs=0.05)
    light = work(1 - page, {"kind": "thicken", "tones": "light", "by": 2}, wide=100)
    assert light.pixels[50].sum() * light.pitch_mm == pytest.approx(3.5)
    blank = {"kind": "thicken", "at_least": 1}
    assert "no dark lines" in refused(np.ones((50, 50)), blank)


@pytest.mark.parametrize("angle", [0, 17, 45, 90])
@pytest.mark.parametrize("wide", [1.5, 3, 4.4, 7])
def test_just_enough_is_what_the_line_then_measures(angle: float, wide: float) -> None:
    turn = np.radians(angle)
    y, x = np.mgrid[0:1600, 0:1600] / 8 - 100 + 1 / 16
    away = np.abs(x * np.sin(turn) - y * np.cos(turn) - 0.3)
    page = 1 - cv2.resize((away < wide / 2).astype(np.float32), (200, 200), interpolation=3)
    wanted = wide + 2.4
    found = work(page, {"kind": "thicken", "at_least": f"{wanted} mm"}, wide=199).pixels
    along = 100 / max(abs(np.sin(turn)), abs(np.cos(turn)))
    assert (1 - found[50:150, 50:150]).sum() / along == pytest.approx(wanted, abs=0.4)
    more = work(page, {"kind": "thicken", "by": 2.4}, wide=199).pixels
    grown = (1 - more[50:150, 50:150]).sum() - (1 - page[50:150, 50:150]).sum()
    assert grown / along == pytest.approx(2.4, abs=0.15)


def test_a_crop_to_one_column_is_refused() -> None:
    box = {"kind": "crop", "box": {"x": 3, "y": 2, "wide": 1, "tall": 20}}
    assert "fewer than 2" in refused(np.ones((50, 50)), box)
    two = {"kind": "crop", "box": {"x": 3, "y": 2, "wide": 2, "tall": 20}}
    assert work(np.ones((50, 50)), two).pixels.shape == (20, 2)


def test_a_median_wider_than_the_picture_is_that_of_all_of_it() -> None:
    tones = ramp(700, 900)
    found = work(tones, {"kind": "smooth", "method": "median", "radius": 500}, wide=10).pixels
    assert found.shape == tones.shape
    # Half of the picture lies within half of it: the middle stays, the ends come nearer.
    assert found[350, 450] == pytest.approx(tones[350, 450], abs=0.02)
    assert tones[0, 0] < found[0, 0] < found[350, 450] < found[-1, -1] < tones[-1, -1]


def test_clear_pixels_leave_no_halo_where_a_picture_grows() -> None:
    y, x = np.mgrid[0:40, 0:40] - 19.5
    alpha = np.clip(15.5 - np.hypot(x, y), 0, 1).astype(np.float32)
    tone = np.where(alpha > 0, 0.2, 1.0).astype(np.float32)
    for step in (
        {"kind": "enlarge", "factor": 4},
        {"kind": "enlarge", "factor": 4, "method": "lines"},
        {"kind": "resize", "cols": 157},
    ):
        for pixels in (tone, np.dstack([tone] * 3)):
            found = work(pixels, step, alpha=alpha)
            assert found.alpha is not None
            seen = found.tone[found.alpha > 0.05]
            assert seen == pytest.approx(np.full_like(seen, 0.2), abs=2e-3)


# Parts


def test_isolate_by_colour_is_soft_at_the_edge_and_clean_of_the_background() -> None:
    cover = disc(120, 160, 40)
    page = 0.2 * cover + 0.95 * (1 - cover)
    found = work(page, {"kind": "isolate", "tolerance": 0.1})
    assert found.alpha is not None
    assert np.abs(found.alpha - cover).mean() < 0.003
    assert found.pixels[(found.alpha > 0.3) & (found.alpha < 0.9)].max() < 0.3
    ring = {"kind": "isolate", "tolerance": 0.1, "contiguous": False}
    hollow = np.where(disc(120, 160, 15) > 0.5, 0.95, page)
    assert work(hollow, ring).alpha[60, 80] == 0  # type: ignore[index]
    assert work(hollow, ring | {"contiguous": True}).alpha[60, 80] == 1  # type: ignore[index]
    clicked = ring | {"contiguous": True, "places": [[80, 60]]}
    found = work(hollow, clicked)
    assert (found.alpha[60, 80], found.alpha[0, 0]) == (0, 1)  # type: ignore[index]
    assert "mask is empty" in refused(page, {"kind": "isolate", "tolerance": 1})


def test_mask_grows_feathers_fills_and_drops_in_mm() -> None:
    page = np.ones((201, 201))
    page[50:151, 50:151] = 0
    page[95:106, 95:106] = 1  # a hole of 121 px
    page[5:10, 5:10] = 0  # an island of 25 px
    base = {"kind": "isolate", "tolerance": 0.1, "contiguous": False, "soften": False}
    area = lambda **more: float(work(page, base | more, wide=100).alpha.sum()) / 4  # type: ignore[union-attr]  # noqa: E731
    assert area() == pytest.approx((101**2 - 121 + 25) / 4)
    assert area(fill_holes=40) == pytest.approx((101**2 + 25) / 4)
    assert area(fill_holes=40, drop_islands=10) == pytest.approx(101**2 / 4)
    grown = area(fill_holes=40, drop_islands=10, grow=5)
    assert grown == pytest.approx((50.5**2 + 4 * 50.5 * 5 + np.pi * 25), rel=0.005)
    shrunk = area(fill_holes=40, drop_islands=10, grow=-5)
    assert shrunk == pytest.approx(40.5**2, rel=0.01)
    feathered = work(page, base | {"feather": 6}, wide=100).alpha
    assert 0.2 < feathered[100, 50] < 0.8  # type: ignore[index]


def test_isolate_to_a_tone_keeps_no_transparency() -> None:
    cover = disc(80, 80, 20)
    found = work(0.2 + 0.7 * (1 - cover), {"kind": "isolate", "dropped": "tone", "tone": 0.0})
    assert found.alpha is None
    assert found.pixels[0, 0] == 0
    assert found.pixels[40, 40] == pytest.approx(0.2, abs=0.01)


def test_isolate_by_strokes_over_clutter() -> None:
    from nebrel.demo.flawed import moon_hare

    hare, mask = moon_hare()
    box = {"x": 120, "y": 60, "wide": 530, "tall": 820}
    keep = {"points": [[400, 600], [400, 400], [345, 200]], "wide": 20}
    drop = {"points": [[215, 690], [190, 790], [215, 862], [400, 872], [600, 850]], "wide": 20}
    step = {"kind": "isolate", "method": "strokes", "box": box, "keep": [keep], "drop": [drop]}
    found = work(hare, step)
    kept, true = found.alpha > 0.5, mask > 0.5  # type: ignore[operator]
    assert (kept & true).sum() / (kept | true).sum() > 0.97
    # A draft means the same places.
    draft = work(hare, step, quality="draft")
    assert draft.alpha.mean() == pytest.approx(mask.mean(), rel=0.05)  # type: ignore[union-attr]
    outside = step | {"box": None, "keep": [], "drop": [drop]}
    assert "nothing marks the subject" in refused(hare, outside)
    assert np.array_equal(work(hare, step | {"box": None, "keep": [], "drop": []}).pixels, hare)


def test_removal_carries_a_texture_on() -> None:
    y, x = np.mgrid[0:160, 0:220]
    clean = 0.5 + 0.3 * np.sin(x / 3.0) * (0.7 + 0.3 * np.cos(y / 30)) + 0.001 * y
    spoilt = clean.copy()
    spoilt[70:85, 90:130] = 1
    stroke = {"points": [[92, 77], [128, 77]], "wide": 18}
    found = work(spoilt, {"kind": "remove", "strokes": [stroke]}).pixels
    part = np.s_[70:85, 90:130]
    assert np.abs(found[part] - clean[part]).mean() < 0.08
    assert np.array_equal(found[:60], spoilt[:60].astype(np.float32))
    assert np.corrcoef(found[part].ravel(), clean[part].ravel())[0, 1] > 0.9


def test_copying_matches_the_light() -> None:
    clean = 0.2 + 0.5 * ramp(100, 200)
    spoilt = clean.copy()
    spoilt[40:60, 120:140] = 1
    stroke = {"points": [[130, 50]], "wide": 40}
    step = {"kind": "remove", "fill": "copy", "strokes": [stroke], "source": [50, 50]}
    matched = work(spoilt, step).pixels
    assert np.abs(matched - clean).max() < 0.03
    plain = work(spoilt, step | {"match_light": False}).pixels
    assert np.abs(plain - clean).max() > 0.15
    assert "where to copy from" in refused(spoilt, step | {"source": None})


def test_fill_takes_the_soft_border_along() -> None:
    cover = disc(100, 140, 30)
    page = 0.9 - 0.7 * cover
    found = work(page, {"kind": "fill", "at": [70, 50], "tone": 0.5}).pixels
    assert np.abs(found - (0.9 - 0.4 * cover)).max() < 0.06
    everywhere = page.copy()
    everywhere[5:15, 5:15] = 0.2
    one = work(everywhere, {"kind": "fill", "at": [70, 50], "tone": 0.5}).pixels
    both = work(everywhere, {"kind": "fill", "at": [70, 50], "tone": 0.5, "contiguous": False})
    assert one[10, 10] == pytest.approx(0.2)
    assert both.pixels[10, 10] == pytest.approx(0.5)
    assert "not in the picture" in refused(page, {"kind": "fill", "at": [900, 5]})


@given(st.floats(8, 30), st.floats(0, 1))
def test_a_brush_is_as_wide_as_it_says(width: float, hardness: float) -> None:
    stroke = {"points": [[30, 50], [170, 50]], "wide": width}
    page = np.zeros((101, 201))
    found = work(
        page, {"kind": "brush", "strokes": [stroke], "tone": 1, "hardness": hardness}
    ).pixels
    column = found[:, 100]
    assert column.max() == pytest.approx(1, abs=0.08)
    assert np.count_nonzero(column) == pytest.approx(width, abs=2)
    if hardness > 0.95:
        assert column.sum() == pytest.approx(width, abs=1)


def test_mirrored_strokes_and_strokes_half_outside() -> None:
    stroke = {"points": [[-5, 20], [30, 20]], "wide": 9}
    step = {"kind": "brush", "strokes": [stroke], "tone": 1, "mirror_x": 100}
    found = work(np.zeros((60, 201)), step).pixels
    assert np.allclose(found, found[:, ::-1], atol=1e-6)
    assert found[20, 10] == 1


def test_second_picture_lies_where_it_was_put() -> None:
    second = Picture(np.full((11, 21), 0.5, np.float32), np.ones((11, 21), np.float32))
    step = {"kind": "overlay", "sha256": SECOND, "centre": [60, 40], "wide": 40}
    found = work(np.zeros((81, 121)), step, second=second).pixels
    assert found.sum() * 2 == pytest.approx(42 * 22, rel=0.01)  # its pixels are squares of 2
    assert found[40, 60] == 0.5
    y, x = np.nonzero(found)
    assert (x.mean(), y.mean()) == pytest.approx((60, 40), abs=0.5)
    turned = work(np.zeros((81, 121)), step | {"degrees": 90}, second=second).pixels
    assert np.ptp(np.nonzero(turned)[0]) > np.ptp(np.nonzero(turned)[1])
    white = np.ones((81, 121))
    assert work(white, step | {"blend": "lighten"}, second=second).pixels.min() == 1
    assert work(white, step | {"blend": "multiply"}, second=second).pixels[40, 60] == 0.5
    assert "not a picture" in refused(white, step)


def test_a_tile_repeats_without_a_seam() -> None:
    from nebrel.demo.pictures import smooth_noise

    texture = smooth_noise(160, 200, 9, 5, 3)
    found = work(texture, {"kind": "tile", "overlap": 0.2}).pixels
    assert found.shape == (128, 160)
    inside = np.abs(np.diff(found, axis=1)).mean()
    assert np.abs(found[:, 0] - found[:, -1]).mean() < 2 * inside
    assert np.abs(found[0] - found[-1]).mean() < 2 * inside
    assert np.abs(texture[:, 0] - texture[:, -1]).mean() > 4 * inside


# The list


def test_changing_the_third_of_ten_computes_only_from_there() -> None:
    kinds = ["invert", "levels", "contrast", "exposure", "curve"]
    kinds += ["local_contrast", "smooth", "threshold", "mirror", "tile"]
    steps = [{"kind": kind, "id": kind} for kind in kinds]
    evaluator = Evaluator(lambda _: Picture(ramp(60, 90)))
    evaluator.correct(recipe(*steps))
    before = evaluator.computed.copy()
    steps[2]["amount"] = -0.5  # type: ignore[assignment]
    evaluator.correct(recipe(*steps))
    words = [kind.replace("_", " ") for kind in kinds]
    again = {kind for kind in words if evaluator.computed[kind] > before[kind]}
    assert again == set(words[2:])
    assert evaluator.computed["reading the picture"] == 1
    # Switching one off and on again costs nothing; nor does another name for it.
    count = evaluator.computed.total()
    evaluator.correct(recipe(*[step | {"id": "other"} for step in steps]))
    assert evaluator.computed.total() == count


def test_only_what_is_measured_in_mm_depends_on_the_size() -> None:
    steps = [{"kind": "invert"}, {"kind": "smooth", "radius": 1}]
    evaluator = Evaluator(lambda _: Picture(ramp(60, 90)))
    small = evaluator.correct(recipe(*steps, wide=50))
    large = evaluator.correct(recipe(*steps, wide=100))
    made = [evaluator.computed[name] for name in ("reading the picture", "invert", "smooth")]
    assert made == [1, 1, 2]
    assert (small.size_mm[0], large.size_mm[0]) == (50, 100)


def test_the_solid_follows_the_corrections() -> None:
    evaluator = Evaluator(lambda _: Picture(ramp(51, 101)))
    box = {"x": 0, "y": 0, "wide": 51, "tall": 51}
    steps = recipe({"kind": "crop", "box": box}, {"kind": "extend", "percent": 10, "tone": 1})
    for quality in ("draft", "full"):
        result = evaluator.evaluate(steps, quality)  # type: ignore[arg-type]
        assert result.report.size_mm == pytest.approx((60, 60, 4))
        assert result.figures()["picture"]["cols"] == 61
        assert result.report.manifold
        assert result.key == evaluator.key_of(steps, quality)  # type: ignore[arg-type]


def test_an_older_recipe_without_corrections_is_read() -> None:
    old = load_recipe({"schema_version": 1, "picture": {"sha256": SHA, "side": {"mm": 80}}})
    assert old.relief.art.pictured.corrections == []
    assert load_recipe(old.model_dump_json()) == old


@pytest.mark.parametrize(
    ("step", "words"),
    [
        ({"kind": "levels", "black": 0.6, "white": 0.4}, "not above the black point"),
        ({"kind": "crop"}, "draw one in the picture"),
        ({"kind": "curve", "points": [[0.5, 0], [0.5, 1]]}, "share a tone"),
        ({"kind": "true_size", "measure": "between", "length": 5}, "mark two points"),
        ({"kind": "brush", "strokes": [{"points": [[1, 1]] * 1_000_000, "wide": 2}]}, "1000000"),
        ({"kind": "sharpen"}, "corrections"),
        ({"kind": "smooth", "radius": -1}, "radius"),
    ],
)
def test_wrong_corrections_are_refused_in_words(step: dict[str, Any], words: str) -> None:
    with pytest.raises((InvalidValue, InvalidRecipe)) as refusal:
        recipe(step)
    assert words in f"{refusal.value}".lower()
    assert isinstance(refusal.value, NebrelError)
