"""What was missed, what cried wolf, and remedies that are offered only where they work."""

import io
from itertools import product
from typing import Any

import cv2
import numpy as np
import pytest
from PIL import Image

from nebrel.core.data import Picture
from nebrel.core.picture.noise import estimate_blocks, estimate_noise, is_texture
from nebrel.core.picture.report import Finding, Printing
from nebrel.core.picture.working import begin
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.questions.judge import judge
from nebrel.core.recipe.models import load_recipe
from nebrel.demo.flawed import captioned, door_sign, faded_print, grainy_photo, star_chart
from nebrel.demo.pictures import craters


def stepped(tones: np.ndarray) -> np.ndarray:
    return (np.rint(np.clip(tones, 0, 1) * 255) / 255).astype(np.float32)


def look(tones: np.ndarray, **more: Any) -> dict[str, Finding]:
    work = begin(Picture(stepped(tones)), None, 100)
    return {finding.kind: finding for finding in judge(work, Printing(**more))}


def grain(seed: int, size: tuple[int, int], coarse: float) -> np.ndarray:
    """Smooth chance, 0 to 1."""
    rng = np.random.default_rng(seed)
    few = max(1, int(coarse / 5))  # coarse chance is made small and drawn large
    found = rng.random((size[0] // few + 2, size[1] // few + 2), np.float32)
    found = cv2.GaussianBlur(found, (0, 0), coarse / few)
    found = cv2.resize(found, size[::-1], interpolation=cv2.INTER_CUBIC) if few > 1 else found
    found = found[: size[0], : size[1]]
    return (found - found.min()) / np.ptp(found)


def photograph(seed: int, size: tuple[int, int] = (480, 640)) -> np.ndarray:
    """Shapes of every tone with shading and fine structure, and a camera's noise."""
    rng = np.random.default_rng(seed)
    scene = 0.25 + 0.5 * grain(seed, size, 60)
    for _ in range(14):
        mask = np.zeros(size, np.uint8)
        centre = (int(rng.integers(size[1])), int(rng.integers(size[0])))
        axes = (int(rng.integers(30, 140)), int(rng.integers(30, 140)))
        cv2.ellipse(mask, centre, axes, float(rng.integers(180)), 0, 360, 255, -1)
        soft = cv2.GaussianBlur(mask, (0, 0), 1.2)[..., None][..., 0] / 255
        shade = rng.uniform(0.08, 0.9) + 0.25 * (grain(seed + 1, size, 40) - 0.5)
        scene = scene * (1 - soft) + shade * soft
    scene = scene + 0.06 * (grain(seed + 2, size, 2) - 0.5)
    return np.clip(scene + rng.normal(0, 1.0 / 255, size), 0.01, 0.99)


def coins(fall: float = 0.3) -> np.ndarray:
    """Light discs, some over the edge, on dark cloth under falling light."""
    rows, cols = 400, 520
    y, x = np.mgrid[0:rows, 0:cols]
    cloth = 0.18 + fall * (1 - y / rows) ** 2 + 0.02 * grain(3, (rows, cols), 1.5)
    page = cloth
    for k, (cy, cx) in enumerate(product((60, 170, 280), (70, 190, 320, 440))):
        cover = np.clip(36.5 - np.hypot(x - cx, y - cy), 0, 1)
        page = page * (1 - cover) + (0.75 + 0.02 * (k % 3)) * cover
    return page


def jpeg(tones: np.ndarray, quality: int) -> np.ndarray:
    buffer = io.BytesIO()
    Image.fromarray((stepped(tones) * 255).round().astype(np.uint8)).save(
        buffer, "JPEG", quality=quality
    )
    return np.asarray(Image.open(buffer), np.float32) / 255


@pytest.mark.parametrize("fall", [0.2, 0.35, 0.5])
@pytest.mark.parametrize("way", ["side", "corner", "middle"])
def test_falling_light_is_seen_where_it_is_worst_and_its_remedy_works(
    fall: float, way: str
) -> None:
    y, x = np.mgrid[0:400, 0:520]
    cover = np.clip(120.5 - np.hypot(x - 260, y - 200), 0, 1)
    light = {"side": x / 520, "corner": (x / 520 + y / 400) / 2,
             "middle": np.hypot(x / 520 - 0.5, y / 400 - 0.5) ** 2 * 2}[way]  # fmt: skip
    found = look((1 - cover) * (1 - fall * light))["uneven_background"]
    assert found.severity == "wrong"
    assert 0.5 * fall < found.numbers["spread"] <= 1.05 * fall
    assert found.remedy is not None


def test_light_falls_on_scanned_pages_and_on_coins() -> None:
    page = door_sign(flawed=False) * 0.95
    fall = (1 - np.linspace(0, 1, page.shape[1])) ** 2
    for tones in (page * (1 - 0.45 * fall), coins()):
        found = look(tones)["uneven_background"]
        assert found.remedy is not None


@pytest.mark.parametrize("share", [0.05, 0.13, 0.2])
def test_a_subject_that_runs_over_the_edge_is_told(share: float) -> None:
    page = np.ones((500, 500))
    page[300:, 100 : 100 + int(share * 2000)] = 0
    found = look(page)["touches_edge"]
    assert found.share == pytest.approx(share, abs=0.11)


@pytest.mark.parametrize("quality", [10, 20, 30])
@pytest.mark.parametrize("seed", [1, 5])
def test_jpeg_speckle_is_found_and_about_as_large_as_it_is(seed: int, quality: int) -> None:
    clean = stepped(photograph(seed))
    spoilt = jpeg(clean, quality)
    error = float(np.sqrt(np.mean((spoilt - clean) ** 2)))
    assert estimate_blocks(spoilt) == pytest.approx(error, rel=0.5)
    found = look(spoilt)["noise"]
    assert "JPEG" in found.text
    assert found.severity in ("caution", "wrong")


def test_grids_are_not_seen_where_there_are_none() -> None:
    boxes = np.ones((320, 320))
    boxes[80:240, 88:240] = 0
    for tones in (photograph(1), craters(400, 520), boxes, grainy_photo(), door_sign()):
        assert estimate_blocks(stepped(tones)) == 0


@pytest.mark.parametrize("count", [8, 16])
def test_a_smooth_picture_of_few_tones_has_terraces(count: int) -> None:
    smooth = grain(7, (600, 800), 60)
    found = look(np.round(smooth * (count - 1)) / (count - 1), depth_mm=3)["terracing"]
    assert found.numbers["step_mm"] == pytest.approx(3 / (count - 1), rel=0.05)
    assert found.remedy is not None
    assert "terracing" not in look(smooth, depth_mm=3)


def test_flat_art_of_many_tones_is_meant_to_have_steps() -> None:
    rng = np.random.default_rng(2)
    art = np.ones((400, 400), np.float32)
    for tone in np.linspace(0, 0.9, 10):
        x, y = (int(v) for v in rng.integers(0, 300, 2))
        cv2.rectangle(art, (x, y), (x + 90, y + 90), float(tone), -1)
    assert "terracing" not in look(art, depth_mm=10)


def test_noise_is_weighed_in_millimetres() -> None:
    smooth = 0.1 + 0.8 * grain(7, (600, 800), 60)
    rng = np.random.default_rng(1)

    def severity(steps: float, **printing: Any) -> str | None:
        noisy = smooth + rng.normal(0, steps / 255, smooth.shape)
        found = look(noisy, **printing).get("noise")
        return None if found is None else found.severity

    assert severity(1.2) is None  # 0.014 mm, an eighth of a layer
    assert severity(2.2) == "note"
    assert severity(5) == "caution"
    assert severity(5, depth_mm=0.3) is None
    assert severity(5, depth_mm=12) == "wrong"


@pytest.mark.parametrize("coarse", [0.8, 1.2, 2.5])
def test_texture_is_no_noise(coarse: float) -> None:
    grass = 0.2 + 0.6 * grain(4, (512, 512), coarse)
    assert "noise" not in look(grass)
    noisy = 0.5 + np.random.default_rng(1).normal(0, 6 / 255, (512, 512))
    assert not is_texture(stepped(noisy), estimate_noise(stepped(noisy)))


@pytest.mark.parametrize("thick", [1, 2])
def test_thin_lines_on_white_have_all_the_contrast_there_is(thick: int) -> None:
    page = np.ones((600, 800), np.float32)
    for start in range(40, 760, 90):
        cv2.line(page, (start, 40), (start + 60, 560), 0.0, thick, cv2.LINE_AA)
    assert "low_contrast" not in look(page)


def test_a_dark_coat_is_not_nearly_black() -> None:
    scene = photograph(3)
    y, x = np.mgrid[0 : scene.shape[0], 0 : scene.shape[1]]
    coat = np.hypot((x - 320) / 150, (y - 300) / 170) < 1
    scene[coat] = (0.05 + 0.05 * grain(9, scene.shape, 6))[coat]
    found = look(scene).get("off_black")
    assert found is None or found.severity == "note"


@pytest.mark.parametrize("seed", range(1, 9))
def test_little_is_said_of_a_good_photograph(seed: int) -> None:
    assert len(look(photograph(seed))) <= 2


@pytest.mark.parametrize(
    "tones",
    [door_sign(), faded_print(), grainy_photo(), captioned(), star_chart(),
     coins(), jpeg(photograph(2), 15), np.round(grain(7, (300, 400), 30) * 9) / 9],
)  # fmt: skip
def test_no_remedy_brings_a_finding_that_was_not_there(tones: np.ndarray) -> None:
    picture = Picture(stepped(tones))
    work = begin(picture, None, 100)
    before = judge(work, Printing())
    known = {finding.kind for finding in before}
    for finding in before:
        if finding.remedy is None:
            continue
        recipe = load_recipe({"picture": {"sha256": "0" * 64, "corrections": [finding.remedy]}})
        mended = Evaluator(lambda _: picture).correct(recipe)
        assert mended.failures == ()
        after = {f.kind: f for f in judge(mended.work, Printing())}
        new = [f for f in after.values() if f.kind not in known and f.severity != "note"]
        assert new == [], f"{finding.kind} brought {[f.kind for f in new]}"
        again = after.get(finding.kind)
        if again and again.numbers.get("dark") != finding.numbers.get("dark"):
            continue  # dark lines are mended by themselves, light ones too
        assert again is None or again.severity == "note" or again.share <= finding.share
