"""Subjects found in pictures, and inflated."""

import math
import re
from collections.abc import Callable
from dataclasses import replace
from typing import Any

import cv2
import numpy as np
import pytest
import trimesh
from scipy.ndimage import map_coordinates
from scipy.spatial import cKDTree
from trimesh.remesh import subdivide

from nebrel.core.choices import Back
from nebrel.core.data import Floats, Mesh, Picture
from nebrel.core.errors import InvalidValue
from nebrel.core.figure.cost import check_memory, cost_of
from nebrel.core.figure.field import Bulge, surface
from nebrel.core.figure.figure import Beside, Part, Wanted, make_figure
from nebrel.core.figure.judge import judge
from nebrel.core.figure.seen import front_view
from nebrel.core.figure.shading import fine_heights
from nebrel.core.figure.stand import middle_of_mass
from nebrel.core.figure.subject import find_subject
from nebrel.core.figure.swell import distances, evened, outline_of, swell
from nebrel.core.picture.working import begin
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.recipe.models import load_recipe

Shape = Callable[[np.ndarray, np.ndarray], np.ndarray]
PX, MIDDLE = 220, 109.5
SMALL = 120  # resolution


def drawn(shape: Shape, pixels: int = PX) -> Floats:
    """A soft mask of a shape, x and y from the middle, px."""
    times = 4
    at = (np.arange(pixels * times) + 0.5) / times - 0.5 - (pixels - 1) / 2
    x, y = np.meshgrid(at, at)
    inside = shape(x, y).reshape(pixels, times, pixels, times)
    return inside.mean(axis=(1, 3)).astype(np.float32)


def disc(radius: float) -> Shape:
    return lambda x, y: np.hypot(x, y) < radius


def cut_out(cover: Floats, colour: tuple[float, float, float] = (0.8, 0.4, 0.2)) -> Picture:
    return Picture(np.broadcast_to(np.float32(colour), (*cover.shape, 3)).copy(), cover)


def figure(cover: Floats, **wanted: object) -> Mesh:
    return make_figure(find_subject(cut_out(cover)), Wanted(resolution=SMALL, **wanted)).mesh  # type: ignore[arg-type]


def solid(mesh: Mesh) -> trimesh.Trimesh:
    found = trimesh.Trimesh(mesh.vertices, mesh.faces, process=False)
    assert found.is_volume and found.body_count == 1
    return found


def test_distances_are_told_between_pixels() -> None:
    away = distances(drawn(disc(80)))
    at = np.arange(PX) - MIDDLE
    wanted = 80 - np.hypot(*np.meshgrid(at, at))
    assert np.abs(away - wanted)[wanted > -2].max() < 0.2


@pytest.mark.parametrize(
    ("shape", "sizes", "volume"),
    [
        (disc(90), (80, 80, 80), 4 / 3 * np.pi * 40**3),
        (lambda x, y: (x / 50) ** 2 + (y / 90) ** 2 < 1, (44.44, 44.44, 80), None),
        (lambda x, y: (np.abs(x) < 20) & (np.abs(y) < 90), (17.78, 17.78, 80), None),
    ],
)
def test_a_disc_becomes_a_ball_an_ellipse_its_ellipsoid_a_bar_its_cylinder(
    shape: Shape, sizes: tuple[float, float, float], volume: float | None
) -> None:
    made = solid(figure(drawn(shape)))
    assert made.extents == pytest.approx(sizes, rel=0.016)
    if volume is not None:
        assert made.volume == pytest.approx(volume, rel=0.01)


def test_it_stands_upright_on_the_table_and_faces_the_front() -> None:
    pear = drawn(lambda x, y: (np.hypot(x, y - 40) < 50) | (np.hypot(x, y + 30) < 30))
    made = solid(figure(pear, tall_mm=60))
    assert made.bounds[0][2] == pytest.approx(0, abs=1e-5)
    assert made.bounds[1][2] == pytest.approx(60, abs=1e-3)
    assert made.bounds[:, 0].sum() == pytest.approx(0, abs=0.01)
    # The picture's lower half is the larger one.
    assert made.center_mass[2] < 30


def test_the_back_is_as_it_is_asked_for() -> None:
    cover, depth = drawn(disc(90)), {}
    ways: tuple[Back, ...] = ("mirror", "flat", "smooth")
    for back in ways:
        made = solid(figure(cover, back=back))
        depth[back] = (-made.bounds[0][1], made.bounds[1][1])
    assert depth["mirror"] == pytest.approx((40, 40), rel=0.012)
    assert depth["flat"] == pytest.approx((40, 0), abs=0.5)
    assert 10 < depth["smooth"][1] < 30
    thin = solid(figure(cover, thick_mm=12))
    assert thin.extents[1] == pytest.approx(12, rel=0.02)
    long = solid(figure(cover, thick_mm=400))
    assert long.extents == pytest.approx((80, 400, 80), rel=0.02)
    flat = solid(figure(cover, roundness=0.3))
    assert flat.extents[1] == pytest.approx(0.3 * 80, rel=0.03)


def test_its_colours_are_those_of_the_picture_to_the_rim() -> None:
    cover = drawn(disc(90))
    pixels = np.zeros((PX, PX, 3), np.float32)
    pixels[..., 1] = 1  # the background
    own = cover[..., None]
    pixels = pixels * (1 - own) + own * np.array([0.6, 0.2, 0.1], np.float32)
    mesh = make_figure(find_subject(Picture(pixels, cover)), Wanted(resolution=SMALL)).mesh
    assert mesh.colours is not None
    off = np.abs(mesh.colours[:, :3].astype(int) - np.round(255 * np.array([0.6, 0.2, 0.1])))
    assert np.percentile(off.max(axis=1), 99) <= 12


@pytest.mark.parametrize(("degrees", "narrow"), [(17, 40), (17, 25), (3, 40)])
def test_what_is_long_has_no_rings(degrees: float, narrow: float) -> None:
    """A bar that narrows, its height along its middle against a line."""
    angle, y, x = math.radians(degrees), *(np.mgrid[0:400, 0:400] - 200.0)
    along = x * math.cos(angle) + y * math.sin(angle)
    half = 40 + (narrow - 40) * np.clip((along + 150) / 300, 0, 1)
    across = np.abs(y * math.cos(angle) - x * math.sin(angle))
    cover = np.clip(half - across + 0.5, 0, 1) * (np.abs(along) < 150)
    cover = cover.astype(np.float32)
    away = distances(cover)
    power = evened(swell(away, 1.0, outline_of(cover)), away, 1.5).power
    at = np.arange(-90, 90, 0.5)
    spots = [200 + at * math.sin(angle), 200 + at * math.cos(angle)]
    line = map_coordinates(np.sqrt(np.maximum(power, 0)), spots, order=3)
    straight = np.polyval(np.polyfit(at, line, 1), at)
    assert np.abs(line - straight).max() < 0.02


def test_an_even_background_is_left_out() -> None:
    cover = drawn(disc(70))
    tones = 0.9 * (1 - cover) + 0.3 * cover
    subject = find_subject(Picture(tones.astype(np.float32)))
    assert subject.cover.sum() == pytest.approx(np.pi * 70**2, rel=0.02)


def test_a_plate_keeps_it_from_tipping() -> None:
    tall = drawn(lambda x, y: (np.abs(x - y / 6) < 12) & (np.abs(y) < 100))
    alone = make_figure(find_subject(cut_out(tall)), Wanted(resolution=SMALL))
    held = make_figure(find_subject(cut_out(tall)), Wanted(resolution=SMALL, base_mm=3))
    solid(held.mesh)
    assert alone.tips_deg < 5 < 10 < held.tips_deg
    middle = middle_of_mass(held.mesh)
    assert np.abs(middle[:2]).max() < 4
    assert held.mesh.vertices[:, 2].min() == pytest.approx(0, abs=1e-5)


def test_what_tips_over_is_said_to_with_what_was_tried() -> None:
    ball = find_subject(cut_out(drawn(disc(70))))
    made = make_figure(ball, Wanted(resolution=SMALL))
    (said,) = [note for note in made.notes if "tips over" in note or "does not stand" in note]
    found = re.search(r"with a plate of ([\d.]+) mm only at (\d+) degrees", said)
    assert found is not None and "on feet of" in said
    # That is so of the figure itself, too.
    held = make_figure(ball, Wanted(resolution=SMALL, base_mm=float(found[1])))
    assert held.tips_deg == pytest.approx(float(found[2]), abs=1.5)
    assert not [note for note in held.notes if "tips" in note]
    for lies in (Wanted(way="half"), Wanted(way="turn", half_round=True)):
        notes = make_figure(ball, replace(lies, resolution=SMALL)).notes
        assert not [note for note in notes if "tips" in note or "stand" in note]


def two(x: np.ndarray, y: np.ndarray) -> np.ndarray:
    found: np.ndarray = (np.hypot(x - 50, y) < 30) | (np.hypot(x + 50, y) < 30)
    return found


@pytest.mark.parametrize(
    ("picture", "words"),
    [
        (cut_out(drawn(disc(30)) * 0), "transparent all over"),
        (cut_out(drawn(two)), "2 apart"),
        (cut_out(drawn(lambda x, y: np.hypot(x, y - 60) < 70)), "touches the border"),
        (cut_out(drawn(disc(10))), "pixels large"),
        (Picture(np.random.default_rng(0).random((80, 80, 3)).astype(np.float32)), "not isolated"),
    ],
)
def test_what_is_no_subject_is_refused_in_words(picture: Picture, words: str) -> None:
    with pytest.raises(InvalidValue, match=words):
        find_subject(picture)


def test_a_mask_of_another_size_is_refused() -> None:
    with pytest.raises(InvalidValue, match="10 × 12 pixels"):
        find_subject(cut_out(drawn(disc(50))), np.ones((12, 10), np.float32))


def test_numbers_out_of_range_are_refused() -> None:
    subject = find_subject(cut_out(drawn(disc(50))))
    for wanted in (Wanted(resolution=5000), Wanted(tall_mm=0.0), Wanted(thick_mm=-1)):
        with pytest.raises(InvalidValue):
            make_figure(subject, wanted)


def test_no_ball_is_larger_than_the_roundness_allows() -> None:
    away = distances(drawn(disc(80)))
    assert swell(away, 0.5).half_px == pytest.approx(40, abs=0.6)
    assert swell(away).half_px == pytest.approx(80, abs=0.8)


def test_bulges_are_joined_smoothly_and_one_may_lie_before_another() -> None:
    body, ear = (swell(distances(drawn(disc(radius)))) for radius in (60, 25))
    ahead = [Bulge(body), Bulge(ear, ahead_px=55)]
    sharp, soft = solid(surface(ahead)), solid(surface(ahead, blend_px=12))
    # x to the right, y to the back: the ear stands out of the front.
    assert -sharp.bounds[0][1] == pytest.approx(80, abs=1)
    assert sharp.bounds[1][1] == pytest.approx(60, abs=1)
    assert 1.001 < soft.volume / sharp.volume < 1.05


def test_a_softer_outline_loses_its_corners() -> None:
    cover = drawn(lambda x, y: (np.abs(x) < 70) & (np.abs(y) < 70))
    sharp, soft = solid(figure(cover)), solid(figure(cover, softness_mm=12.0))
    assert soft.volume < 0.99 * sharp.volume


def test_an_outline_is_turned_about_the_axis_that_is_found() -> None:
    """A lamp that leans, with a handle on one side, and as a drawing has it."""
    line = np.arange(300)
    radius = np.interp(line, [0, 60, 110, 220, 299], [20, 24, 60, 70, 44])
    cover = np.zeros((400, 300), np.float32)
    for k, r in enumerate(radius):
        cover[50 + k, round(150 - r) : round(150 + r)] = 1
    cover[150:230, 225:240] = 1
    cover[150:160, 200:240] = cover[220:230, 200:240] = 1
    turn = cv2.getRotationMatrix2D((150, 200), -6, 1)
    leaning = cv2.warpAffine(cover, turn, (300, 400))
    made = make_figure(
        find_subject(cut_out(leaning)), Wanted(way="turn", resolution=400, tall_mm=100)
    )
    assert made.axis is not None and made.axis[1] == pytest.approx(6, abs=0.7)
    scale = 100 / 300
    wanted = np.pi * np.trapezoid((radius * scale) ** 2) * scale
    assert solid(made.mesh).volume == pytest.approx(wanted, rel=0.02)


@pytest.mark.parametrize("more", [{"wall_mm": 3.0}, {"half_round": True}, {"detail_mm": 0.5}])
def test_what_is_turned_may_be_hollow_half_round_and_have_detail(more: dict[str, Any]) -> None:
    bar = drawn(lambda x, y: (np.abs(x) < 40) & (np.abs(y) < 80))
    whole = solid(figure(bar, way="turn"))
    assert whole.volume == pytest.approx(np.pi * 20**2 * 80, rel=0.015)
    other = solid(figure(bar, way="turn", **more))
    if "wall_mm" in more:
        hollow = np.pi * (20**2 * 80 - 17**2 * 77)
        assert other.volume == pytest.approx(hollow, rel=0.02)
    if "half_round" in more:
        assert other.volume == pytest.approx(whole.volume / 2, rel=0.01)
        assert other.bounds[1][1] == pytest.approx(0, abs=0.01)


def test_a_part_lies_before_the_rest_which_goes_on_behind_it() -> None:
    """A disc with a bar across its middle, which is a part in front."""
    cover = drawn(disc(90))
    region = drawn(lambda x, y: (np.abs(x) < 60) & (np.abs(y) < 18))
    subject = find_subject(cut_out(cover))
    plain = make_figure(subject, Wanted(resolution=SMALL)).mesh
    ahead = Beside(parts=(Part(region, ahead_mm=38.0),))
    found = solid(make_figure(subject, Wanted(resolution=SMALL), ahead).mesh)
    assert -found.bounds[0][1] == pytest.approx(38 + 8, abs=1.5)
    # Nothing of the ball is lost behind it.
    assert found.bounds[1][1] == pytest.approx(40, abs=1)
    assert found.volume > 0.97 * solid(plain).volume
    both = Beside(parts=(Part(region, ahead_mm=38.0, both=True),))
    twice = solid(make_figure(subject, Wanted(resolution=SMALL), both).mesh)
    assert twice.bounds[1][1] == pytest.approx(38 + 8, abs=1.5)
    far = Beside(parts=(Part(region, ahead_mm=90.0),))
    with pytest.raises(InvalidValue, match="falls into 2 pieces"):
        make_figure(subject, Wanted(resolution=SMALL), far)


def test_a_depth_picture_is_taken_as_it_is() -> None:
    cover = drawn(disc(90))
    _, x = np.mgrid[0:PX, 0:PX]
    wedge = ((x - MIDDLE) / 180 + 0.5).clip(0, 1).astype(np.float32)
    subject = find_subject(cut_out(cover))
    wanted = Wanted(way="half", thick_mm=20, resolution=SMALL)
    made = make_figure(subject, wanted, Beside(depth=wedge)).mesh
    solid(made)
    places = made.vertices[np.abs(made.vertices[:, 2] - 40) < 3]
    for side, deep in ((-20, 5), (0, 10), (20, 15)):
        near = places[np.abs(places[:, 0] - side) < 1]
        assert -near[:, 1].min() == pytest.approx(deep, abs=1.6)


def test_the_back_has_the_colours_of_a_picture_from_behind() -> None:
    cover = drawn(disc(90))
    front = find_subject(cut_out(cover, (1.0, 0.0, 0.0)))
    behind = find_subject(cut_out(drawn(disc(70)), (0.0, 0.0, 1.0)))
    mesh = make_figure(front, Wanted(resolution=SMALL), Beside(back=behind)).mesh
    assert mesh.colours is not None
    red = mesh.colours[mesh.vertices[:, 1] < -2]
    blue = mesh.colours[mesh.vertices[:, 1] > 2]
    assert (red[:, 0] > 240).all() and (blue[:, 2] > 240).all()


def test_it_is_seen_as_its_picture_has_it() -> None:
    cover = drawn(lambda x, y: (np.hypot(x, y - 40) < 50) | (np.hypot(x - 10, y + 30) < 35))
    subject = find_subject(cut_out(cover))
    for way in ("inflate", "half"):
        made = make_figure(subject, Wanted(way=way, resolution=300, base_mm=0))  # type: ignore[arg-type]
        shape = subject.cover.shape
        seen = front_view(made.mesh, shape, made.mm_per_px, made.low_mm)
        assert seen.overlap(subject.cover) > 0.995
        off = np.abs(seen.colours[seen.inside].astype(int) - (204, 102, 51))
        assert off.mean() < 2


def lit_ellipsoid(
    high: np.ndarray, paint: np.ndarray, light: tuple[float, float, float]
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Colours, mask and normals of a ball with fine heights, px, under a light."""
    n = len(high)
    y, x = (np.mgrid[0:n, 0:n] - (n - 1) / 2) / (0.44 * n)
    away = x * x + y * y
    normals = np.dstack([x, -y, np.sqrt(np.clip(1 - away, 1e-4, None))])
    down, right = np.gradient(high)
    steep = [-normals[..., k] / np.maximum(normals[..., 2], 0.05) for k in (0, 1)]
    way = np.dstack([-(steep[0] + right), -(steep[1] - down), np.ones_like(right)])
    way /= np.linalg.norm(way, axis=2, keepdims=True)
    tone = 0.25 + 0.7 * np.clip(way @ (np.array(light) / np.linalg.norm(light)), 0, None)
    shown = np.clip(tone[..., None] * paint, 0, 1) ** (1 / 2.2)
    cover = np.clip((1 - np.sqrt(away)) * 0.44 * n + 0.5, 0, 1)
    return shown.astype(np.float32), cover.astype(np.float32), normals


@pytest.mark.parametrize("light", [(-0.5, 0.6, 0.7), (0.0, 0.15, 1.0)])
def test_fine_shading_becomes_height_and_paint_does_not(light: tuple[float, float, float]) -> None:
    n = 256
    y, x = np.mgrid[0:n, 0:n]
    inner = np.hypot(x - n / 2, y - n / 2) < 0.36 * n
    high = np.sin(x / 3.0) * np.sin(y / 3.0)
    found = fine_heights(*lit_ellipsoid(high, np.array([0.8, 0.7, 0.6]), light))
    assert np.corrcoef(found[inner], high[inner])[0, 1] > 0.75
    checks = ((x // 16 + y // 16) % 2)[..., None]
    for one, other in (((0.8, 0.4, 0.3), (0.3, 0.5, 0.7)), ((0.9,) * 3, (0.4,) * 3)):
        paint = cv2.GaussianBlur(np.where(checks, one, other).astype(np.float64), (0, 0), 0.6)
        painted = fine_heights(*lit_ellipsoid(0.0 * high, paint, light))
        assert np.abs(painted[inner]).max() == 0


def test_more_memory_than_there_is_is_refused_with_what_fits() -> None:
    cost = cost_of(drawn(disc(90)), 1400)
    assert cost.gb > 1.5
    check_memory(cost, 1400, free_gb=8.0)
    with pytest.raises(InvalidValue, match="1400 needs about"):
        check_memory(cost, 1400, free_gb=1.0)


def kinds(picture: Picture) -> dict[str, Any]:
    work = begin(picture, None, 100.0)
    return {found.kind: found for found in judge(work)}


def test_a_picture_is_judged_for_a_figure() -> None:
    rng = np.random.default_rng(1)
    shaded = cut_out(drawn(disc(90), 512))
    assert set(kinds(Picture(shaded.pixels * 1.0, shaded.alpha))) <= {"small", "flat", "way"}
    assert kinds(Picture(rng.random((80, 80, 3)).astype(np.float32)))["background"].remedy
    several = kinds(
        cut_out(drawn(lambda x, y: (np.hypot(x - 40, y) < 40) | (np.hypot(x + 70, y) < 20)))
    )
    assert "drop_islands" in several["several"].remedy
    cut_off = kinds(cut_out(drawn(lambda x, y: np.hypot(x, y - 60) < 70)))
    assert cut_off["border"].severity == "wrong" and cut_off["border"].where is not None
    assert kinds(cut_out(drawn(disc(60))))["small"].remedy == {"kind": "enlarge", "factor": 4.3}
    glossy = np.full((300, 300, 3), 0.4, np.float32) * np.array([1.0, 0.6, 0.4], np.float32)
    cv2.circle(glossy, (120, 120), 14, (1.0, 1.0, 1.0), -1)
    assert "gloss" in kinds(Picture(glossy, drawn(disc(120), 300)))


def test_a_subject_too_thin_for_its_cells_is_refused_in_words() -> None:
    hair = drawn(lambda x, y: (np.abs(x) < 1.0) & (np.abs(y) < 100))
    with pytest.raises(InvalidValue, match="too thin for so few cells"):
        make_figure(find_subject(cut_out(hair)), Wanted(resolution=64))


def test_fine_light_of_a_picture_from_behind_stands_out_of_the_back() -> None:
    cover = drawn(disc(90))
    x, y = np.meshgrid(np.arange(PX) - MIDDLE, np.arange(PX) - MIDDLE)
    near = np.sqrt(np.clip(1 - (x**2 + y**2) / 90**2, 0, 1))
    waves = 0.25 + 0.5 * near * (1 + 0.25 * np.sin(x / 3))
    plain = find_subject(cut_out(cover))
    behind = find_subject(Picture(np.repeat(waves[..., None], 3, 2).astype(np.float32), cover))
    rough = {}
    for detail in (0.0, 1.5):
        wanted = Wanted(resolution=240, detail_mm=detail)
        mesh = make_figure(plain, wanted, Beside(back=behind)).mesh
        solid(mesh)
        # A ball of 80 mm: how far its places are from that, in the middle of each side.
        away = np.linalg.norm(mesh.vertices - (0, 0, 40), axis=1) - 40
        inner = np.hypot(mesh.vertices[:, 0], mesh.vertices[:, 2] - 40) < 20
        for name, side in (("front", mesh.vertices[:, 1] < -5), ("back", mesh.vertices[:, 1] > 5)):
            rough[name, detail] = float(away[inner & side].std())
    assert rough["back", 1.5] > 0.2 and rough["back", 0.0] < 0.05
    assert rough["front", 1.5] == pytest.approx(rough["front", 0.0], abs=0.01)


def test_what_no_line_shows_is_not_meshed() -> None:
    of_one, of_many = (cut_out(drawn(disc(80))) for _ in range(2))
    across = np.arange(of_many.pixels.shape[1])[None, :, None]
    of_many.pixels[:] = 0.5 + 0.3 * np.sin(across / 40) * np.array([1, -1, 0.5])
    of_many.pixels[:, 110:113] = (0.9, 0.1, 0.1)
    begins = {"kind": "figure", "picture": {"file": {"sha256": "0" * 64}}, "resolution": 128}
    lean, many = (
        Evaluator({"0" * 64: one}.__getitem__).evaluate(load_recipe({"begins": begins})).mesh
        for one in (of_one, of_many)
    )
    fine = make_figure(find_subject(of_many), Wanted(resolution=128)).mesh
    assert len(lean.faces) < len(many.faces) < 0.6 * len(fine.faces)  # colours need theirs
    assert many.colours is not None and fine.colours is not None
    there = solid(many)
    assert there.volume == pytest.approx(solid(lean).volume, rel=1e-6)
    shown = np.concatenate([there.vertices, many.colours.astype(np.float64)], axis=1)
    shown, _ = subdivide(*subdivide(shown, there.faces))
    _, nearest = cKDTree(shown[:, :3]).query(fine.vertices)
    off = np.abs(shown[nearest, 3:] - fine.colours).max(axis=1)
    assert np.quantile(off, 0.95) <= 13 and np.quantile(off, 0.999) <= 60  # a line is steep
    ball = solid(lean)
    away = np.linalg.norm(ball.vertices - np.array([0, 0, 40]), axis=1)
    assert away == pytest.approx(40, abs=0.15)
    assert ball.volume == pytest.approx(solid(fine).volume, rel=1e-3)
    assert lean.colours is not None and np.ptp(lean.colours, axis=0).max() <= 3


@pytest.mark.parametrize("more", [{}, {"turn_deg": 30.0}, {"lean_deg": 20.0}])
def test_a_part_too_thin_for_the_cells_is_left_out_and_named(more: dict[str, float]) -> None:
    cover = drawn(disc(80))
    stroke, arm = np.zeros_like(cover), drawn(lambda x, y: np.hypot(x - 50, y) < 22)
    stroke[60:160, 109:113] = 1
    parts = (Part(arm, 4.0), Part(stroke, 3.0, **more), Part(arm * 0, 1.0))  # type: ignore[arg-type]
    made = make_figure(find_subject(cut_out(cover)), Wanted(resolution=64), Beside(parts=parts))
    solid(made.mesh)
    assert 2 in made.thin and 0 not in made.thin
    if not more:
        assert made.thin == (1, 2)
