"""Light through a sheet against the law that it follows."""

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from nebrel.core.data import Picture
from nebrel.core.errors import InvalidValue
from nebrel.core.links.finishing import stands
from nebrel.core.mesh.measure import measure
from nebrel.core.proof.calibrate import calibrate
from nebrel.core.proof.light import (
    as_printed,
    darkest_tone,
    exact_tone,
    lit,
    thickness_for,
    to_linear,
    to_tone,
    transmit,
)
from nebrel.core.proof.wedge import (
    STEP_TALL_MM,
    STEP_WIDE_MM,
    Camera,
    Wedge,
    make_wedge,
    photograph,
)
from nebrel.core.questions.advise import advise
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.questions.shine import lamp_of, reach, shine
from nebrel.core.recipe.models import Recipe, load_recipe
from nebrel.demo.pictures import moonlit_hills

TONES = np.linspace(0, 1, 1001, dtype=np.float32)


def test_tones_and_light_are_each_other_s_inverse() -> None:
    assert to_tone(to_linear(TONES)) == pytest.approx(TONES, abs=2e-6)
    assert float(to_linear(np.float32(0.5))) == pytest.approx(0.21404, abs=1e-5)  # IEC 61966-2-1


def test_twice_as_thick_lets_the_square_through() -> None:
    once, twice = transmit(np.array([1.3, 2.6]), 0.9)
    assert twice == pytest.approx(once**2)
    with pytest.raises(ValueError, match="positive"):
        transmit(np.ones(2), 0)


@given(thin=st.floats(0.2, 2), more=st.floats(0.2, 6), attenuation=st.floats(0.1, 6))
def test_thickness_keeps_its_bounds_and_its_order(
    thin: float, more: float, attenuation: float
) -> None:
    mm = thickness_for(TONES, thin, thin + more, attenuation)
    assert mm[-1] == pytest.approx(thin, abs=1e-4)
    assert mm[0] == pytest.approx(thin + more, abs=1e-4)
    assert (np.diff(mm) <= 1e-5).all()


def test_light_is_exact_above_the_knee_and_rolls_off_below() -> None:
    thin, thick, attenuation = 0.8, 3.0, 1.1
    light = lit(thickness_for(TONES, thin, thick, attenuation), None, attenuation, thin)
    exact = exact_tone(thin, thick, attenuation)
    kept = exact + 0.002 <= TONES
    assert light[kept] == pytest.approx(to_linear(TONES)[kept], abs=2e-4)
    assert to_tone(light)[0] == pytest.approx(darkest_tone(thin, thick, attenuation), abs=1e-3)
    # No clipping: dark tones stay apart, with no step at the knee.
    dark = to_tone(light)[(TONES > 0.02) & ~kept]
    assert (np.diff(dark) > 0).all()
    assert np.diff(to_tone(light)).max() < 0.004


def test_printing_takes_whole_layers_or_lines() -> None:
    mm = np.array([0.0, 0.1, 0.5, 1.0], np.float32)
    assert as_printed(mm, "lying", 0.42, 0.2) == pytest.approx([0, 0.2, 0.4, 1.0])
    assert as_printed(mm, "standing", 0.42, 0.2) == pytest.approx([0, 0.42, 0.42, 0.84])
    assert (as_printed(mm, "ideal", 0.42, 0.2) == mm).all()


def panel(**heights: Any) -> tuple[Recipe, Evaluator]:
    picture = Picture(moonlit_hills(200, 320))
    settings = {"mapping": "light", "backing": 0.6, "depth": 2.6, **heights}
    recipe = load_recipe({"picture": {"sha256": "0" * 64, "side": 100}, "heights": settings})
    return recipe, Evaluator(lambda _: picture)


def test_a_panel_by_light_shows_its_picture_and_a_straight_one_does_not() -> None:
    error = {}
    for mapping in ("light", "straight"):
        recipe, evaluator = panel(mapping=mapping, raised="dark")
        wanted = evaluator.correct(recipe).work.tone
        shone = shine(lamp_of(recipe), evaluator.relief(recipe), wanted)
        exact = wanted >= exact_tone(0.6, 3.2, 1.2)
        off = (shone.light - shone.wanted)[exact]
        error[mapping] = float(np.sqrt((off**2).mean()))
    assert error["light"] < 0.005
    assert error["straight"] > 5 * error["light"]


def test_reach_tells_what_lying_and_standing_cost() -> None:
    recipe, evaluator = panel()
    relief, tone = evaluator.relief(recipe), evaluator.correct(recipe).work.tone
    found = reach(lamp_of(recipe), recipe.relief.art.depth_mm, relief, tone)
    assert found.error["ideal"] < found.error["lying"] < found.error["standing"]
    assert found.steps == {"lying": 27 - 5 + 1, "standing": 8 - 1 + 1}
    assert 0.5 < found.carried < 1
    words = " ".join(advise(recipe.made_with.printer, stands(recipe), 0.6, 3.2))
    assert "27 layers of 0.12 mm" in words
    assert "100 %" in words


def test_what_is_cut_through_shows_the_lamp() -> None:
    cut = [{"kind": "picture"}, {"kind": "shape", "rule": "cut"}]
    recipe, evaluator = panel(build_up=cut)
    shone = shine(lamp_of(recipe), evaluator.relief(recipe), evaluator.correct(recipe).work.tone)
    assert shone.light[100, 160] == 1
    assert not shone.shows[100, 160]


def test_the_wedge_has_its_steps() -> None:
    mesh = make_wedge(Wedge(6, 3.0, "White"))
    found = measure(mesh)
    assert found.manifold
    assert found.size_mm == pytest.approx((6 * STEP_WIDE_MM, STEP_TALL_MM, 3.0), abs=1e-4)
    levels = np.unique(np.round(mesh.vertices[:, 2], 3))
    assert set(np.round(np.arange(1, 7) * 0.5, 3)) <= set(levels.tolist())
    full = STEP_WIDE_MM * STEP_TALL_MM * 0.5 * (1 + 2 + 3 + 4 + 5 + 6)
    assert full * 0.98 < found.volume_mm3 < full


@pytest.mark.parametrize("attenuation", [0.4, 1.2, 2.0])
@pytest.mark.parametrize("tilt", [(0.0, 0.0), (25.0, 0.0), (-18.0, 17.0)])
def test_attenuation_is_found_through_tilt_vignetting_and_noise(
    attenuation: float, tilt: tuple[float, float]
) -> None:
    wedge = Wedge(10, 4.0)
    camera = Camera(tilt_deg=tilt, vignetting=0.4, noise=0.02, exposure=0.95, seed=5)
    picture, corners = photograph(wedge, attenuation, camera)
    found = calibrate(picture.astype(np.float32) / 255, corners, wedge)
    assert found.attenuation_per_mm == pytest.approx(attenuation, rel=0.03)
    assert abs(found.attenuation_per_mm - attenuation) < 6 * found.error + 0.01 * attenuation
    assert found.r2 > 0.99
    assert found.lamp == pytest.approx(0.95, rel=0.06)
    # Marked from another corner, or the other way round, it is the same wedge.
    for order in ([2, 3, 0, 1], [0, 3, 2, 1]):
        again = calibrate(picture.astype(np.float32) / 255, corners[order], wedge)
        if order == [2, 3, 0, 1]:
            assert again.attenuation_per_mm == pytest.approx(attenuation, rel=0.03)


def refused(picture: Any, corners: Any, wedge: Wedge, words: str) -> None:
    with pytest.raises(InvalidValue, match=words):
        calibrate(np.asarray(picture, np.float32) / 255, corners, wedge)


def test_poor_photographs_are_told_so() -> None:
    wedge = Wedge(10, 4.0)
    clipped, corners = photograph(wedge, 0.5, Camera(exposure=12))
    refused(clipped, corners, wedge, "clipped")
    dark, corners = photograph(wedge, 3.0, Camera(exposure=0.1))
    refused(dark, corners, wedge, "too dark")
    good, corners = photograph(wedge, 1.0, Camera(exposure=0.9))
    refused(np.full_like(good, 120), corners, wedge, "no steps")
    refused(good, corners + np.array([40, 0]), wedge, "corners are not those")
    refused(good, corners * 3, wedge, "outside")
    refused(good, corners[[0, 2, 1, 3]], wedge, "do not go around")
    oblique, corners = photograph(wedge, 1.0, Camera(tilt_deg=(60, 0), exposure=0.9))
    refused(oblique, corners, wedge, "obliquely")
    uneven = good * np.linspace(1, 0.3, good.shape[0])[:, None] ** 2
    good_corners = photograph(wedge, 1.0, Camera(exposure=0.9))[1]
    refused(uneven, good_corners, wedge, "unevenly lit")
    for steps, thickest in ((2, 4.0), (10, 0.2)):
        with pytest.raises(InvalidValue, match="cannot be"):
            Wedge(steps, thickest)
