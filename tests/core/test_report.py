"""The picture report finds what was planted and is silent on the clean twin."""

from typing import Any

import cv2
import numpy as np
import pytest

from nebrel.core.data import Picture
from nebrel.core.picture.levels import find_levels
from nebrel.core.picture.noise import estimate_noise
from nebrel.core.picture.report import Finding, Printing, findings, report
from nebrel.core.picture.working import begin
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.questions.judge import judge
from nebrel.core.recipe.models import load_recipe
from nebrel.demo.flawed import (
    captioned,
    comet_logo,
    door_sign,
    faded_print,
    grainy_photo,
    moon_hare,
    star_chart,
)
from nebrel.demo.pictures import craters, dome
from tests.pictures import ramp


def stepped(tones: np.ndarray, bits: int = 8) -> np.ndarray:
    """As a file of so many bits holds it."""
    whole = 2**bits - 1
    return (np.rint(np.clip(tones, 0, 1) * whole) / whole).astype(np.float32)


def look(
    tones: np.ndarray,
    alpha: np.ndarray | None = None,
    wide: float = 100,
    bits: int = 8,
    **more: Any,
) -> dict[str, Finding]:
    work = begin(Picture(stepped(tones, bits), alpha), None, wide)
    return {finding.kind: finding for finding in report(work, Printing(**more))}


def disc_page(paper: float, ink: float, rows: int = 400, cols: int = 520) -> np.ndarray:
    y, x = np.mgrid[0:rows, 0:cols]
    cover = np.clip(120.5 - np.hypot(x - cols / 2, y - rows / 2), 0, 1)
    return paper * (1 - cover) + ink * cover


def vignette(strength: float) -> np.ndarray:
    y, x = np.mgrid[0:400, 0:520]
    shade = 1 - strength * ((x / 520 - 0.5) ** 2 + (y / 400 - 0.5) ** 2) * 2
    return disc_page(1.0, 0.0) * shade


def glow(peak: float) -> np.ndarray:
    y, x = np.mgrid[0:400, 0:520]
    return np.clip(0.1 + peak * np.exp(-((x - 260) ** 2 + (y - 200) ** 2) / 2 / 90**2), 0, 1)


FLAWS: list[tuple[str, np.ndarray, np.ndarray, dict[str, Any]]] = [
    ("off_white", disc_page(0.965, 0), disc_page(1, 0), {}),
    ("off_white", disc_page(0.9, 0), disc_page(1, 0), {}),
    ("off_black", disc_page(1, 0.06), disc_page(1, 0), {}),
    ("off_black", disc_page(0.03, 1), disc_page(0, 1), {}),
    ("uneven_background", vignette(0.25), vignette(0), {}),
    ("low_contrast", faded_print(), faded_print(flawed=False), {}),
    ("clipped", glow(1.3), glow(0.85), {}),
    ("terracing", ramp(300, 700), ramp(300, 700), {"depth_mm": 40}),
    ("noise", grainy_photo(), grainy_photo(flawed=False), {}),
    ("low_resolution", ramp(60, 90), ramp(600, 900), {}),
    ("fine_detail", star_chart(), star_chart(thin=False), {}),
]


@pytest.mark.parametrize(("kind", "flawed", "clean", "printing"), FLAWS)
def test_a_planted_flaw_is_found_and_its_twin_is_clean(
    kind: str, flawed: np.ndarray, clean: np.ndarray, printing: dict[str, Any]
) -> None:
    found = look(flawed, **printing)[kind]
    assert found.severity in ("caution", "wrong")
    assert 0 < found.share <= 1
    assert any(character.isdigit() for character in found.text)
    bits = 16 if kind == "terracing" else 8
    assert kind not in look(clean, bits=bits, **printing)


@pytest.mark.parametrize(
    "clean",
    [disc_page(1, 0), disc_page(0, 1), door_sign(flawed=False), captioned(flawed=False),
     star_chart(thin=False), ramp(300, 700), craters(400, 520), dome(600, 600), glow(0.85)],
)  # fmt: skip
def test_nothing_is_said_of_a_clean_picture(clean: np.ndarray) -> None:
    # A gentle light on dark gray is off-black, and rightly so; everything else is silent.
    assert set(look(clean, bits=16)) <= {"off_black", "uneven_background", "touches_edge"}
    if clean.min() == 0:
        assert look(clean, bits=16) == {}


@pytest.mark.parametrize(("kind", "flawed", "_", "printing"), FLAWS)
def test_the_remedy_mends_what_it_was_offered_for(
    kind: str, flawed: np.ndarray, _: np.ndarray, printing: dict[str, Any]
) -> None:
    picture = Picture(stepped(flawed))
    finding = next(
        f for f in judge(begin(picture, None, 100), Printing(**printing)) if f.kind == kind
    )
    if kind == "clipped":
        assert finding.remedy is None  # what was cut off is lost
        return
    recipe = load_recipe(
        {"picture": {"sha256": "0" * 64, "along": "wide", "corrections": [finding.remedy]}}
    )
    mended = Evaluator(lambda _: picture).correct(recipe)
    assert not mended.failures
    after = {f.kind: f for f in report(mended.work, Printing(**printing))}
    if kind == "noise":
        left = after[kind].numbers["sigma"] if kind in after else 0
        assert left < 0.3 * finding.numbers["sigma"]
    else:
        assert kind not in after or after[kind].share < 0.5 * finding.share


def test_a_scan_has_all_its_flaws_told_at_once() -> None:
    found = look(door_sign())
    assert {"off_white", "off_black", "uneven_background", "noise"} <= set(found)
    assert found["off_white"].where is not None
    assert found["off_white"].where.mean() == pytest.approx(found["off_white"].share)
    order = [finding.severity for finding in found.values()]
    assert order == sorted(order, key=["wrong", "caution", "note"].index)


def test_transparency_and_resolution_of_a_tiny_logo() -> None:
    tone, alpha = comet_logo()
    found = look(tone, alpha, wide=40)
    assert found["transparency"].share == pytest.approx(float((alpha < 0.5).mean()))
    assert found["transparency"].severity == "note"
    assert found["low_resolution"].numbers["pitch_mm"] == pytest.approx(40 / 71, rel=1e-3)
    assert "low_resolution" not in look(tone, alpha, wide=20)


def test_fine_detail_depends_on_the_size_and_says_how_wide() -> None:
    page = np.ones((300, 400))
    page[:, 200:203] = 0
    found = look(page, wide=40)["fine_detail"]
    assert found.numbers["width_mm"] == pytest.approx(0.3, abs=0.06)
    assert found.where is not None
    assert found.where[:, 198:205].mean() > 0.4
    assert not found.where[:, :150].any()
    assert "fine_detail" not in look(page, wide=120)
    assert "fine_detail" not in look(page, wide=40, line_mm=0.25)


def test_terraces_follow_depth_and_layer() -> None:
    tones = ramp(200, 600)
    assert "terracing" not in look(tones, depth_mm=3)
    step = look(tones, depth_mm=60)["terracing"].numbers["step_mm"]
    assert step == pytest.approx(60 / 255, rel=0.01)
    # A drawing in a few flat tones is meant to have steps.
    assert "terracing" not in look(
        np.repeat(np.linspace(0, 1, 6), 50)[None].repeat(200, 0), depth_mm=60
    )


@pytest.mark.parametrize("steps", [1.5, 3, 6, 12])
@pytest.mark.parametrize(
    "base",
    [
        captioned(flawed=False),
        grainy_photo(flawed=False),
        0.1 + 0.8 * door_sign(flawed=False),
        0.1 + 0.8 * ramp(300, 400),
    ],
)
def test_noise_is_told_within_a_fifth(base: np.ndarray, steps: float) -> None:
    noisy = base + np.random.default_rng(8).normal(0, steps / 255, base.shape)
    assert estimate_noise(stepped(noisy)) * 255 == pytest.approx(steps, rel=0.2)


@pytest.mark.parametrize("sigma", [0, 2, 4])
def test_levels_of_a_drawing_are_found_within_one_step(sigma: float) -> None:
    for black, white in ((0.2, 0.8), (0.05, 0.9)):
        drawing = black + (white - black) * door_sign(flawed=False)
        noisy = drawing + np.random.default_rng(4).normal(0, sigma / 255, drawing.shape)
        low, high = find_levels(stepped(noisy))
        assert abs(low - black) * 255 <= 1
        assert abs(high - white) * 255 <= 1


def test_a_scene_has_no_background() -> None:
    scene, _ = moon_hare()
    work = begin(Picture(scene), None, 90)
    assert not {"uneven_background", "off_white"} & {f.kind for f in report(work)}


def test_tiny_and_flat_pictures_are_read_without_harm() -> None:
    for tones in (np.zeros((2, 2)), np.ones((3, 40)), np.full((30, 30), 0.5)):
        look(tones)
    look(np.ones((40, 40)), np.zeros((40, 40), np.float32))


def test_findings_come_as_they_are_found_and_are_sorted_in_the_end() -> None:
    rng = np.random.default_rng(4)
    noisy = np.clip(ramp(300, 400) * 0.5 + 0.2 + rng.normal(0, 0.02, (300, 400)), 0, 1)
    work = begin(Picture(noisy.astype(np.float32)), None, 400.0)
    each = [finding.kind for finding in findings(work, Printing())]
    assert set(each) >= {"low_resolution", "noise", "low_contrast"}
    assert each[0] == "low_resolution"  # told by the size alone
    graves = [finding.severity for finding in report(work)]
    assert graves == sorted(graves, key=["wrong", "caution", "note"].index)


def test_fine_lines_of_a_large_picture_are_found_in_a_copy() -> None:
    rows, cols, wide_mm = 2000, 3000, 50.0
    pitch = wide_mm / (cols - 1)
    tone = np.ones((rows, cols), np.float32)
    thin, bold = round(0.2 / pitch), round(1.0 / pitch)
    for x in range(200, cols - 200, 300):
        tone[200:-200, x : x + thin] = 0
        tone[200:-200, x + 120 : x + 120 + bold] = 0
    work = begin(Picture(tone), None, wide_mm)
    (found,) = (f for f in report(work) if f.kind == "fine_detail")
    assert "in a copy of" in found.text
    assert found.numbers["width_mm"] == pytest.approx(0.2, abs=0.06)
    assert found.where is not None
    assert found.where.shape == tone.shape
    lines = np.zeros(tone.shape, bool)
    for x in range(200, cols - 200, 300):
        lines[200:-200, x : x + thin] = True
    assert (found.where & lines).sum() > 0.8 * lines.sum()
    assert (
        found.where & ~cv2.dilate(lines.astype(np.uint8), np.ones((9, 9))).astype(bool)
    ).sum() == 0
