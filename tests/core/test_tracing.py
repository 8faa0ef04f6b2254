"""Shapes traced in pictures, against shapes that are known."""

import math

import cv2
import numpy as np
import pyclipper
import pytest

from nebrel.core.data import Picture
from nebrel.core.errors import InvalidValue, TooLarge
from nebrel.core.outline.centre_lines import centre_lines
from nebrel.core.outline.fit_curves import fit_curves
from nebrel.core.outline.fit_kernels import flatten
from nebrel.core.outline.isolines import isolines
from nebrel.core.outline.outline import area_of, area_of_curves
from nebrel.core.outline.sized import traced_wide
from nebrel.core.outline.smooth_lines import parted, with_curves
from nebrel.core.outline.tidy import Choice, Tidy
from nebrel.core.outline.tracing import Field, find_parts, shape_field, softness, trace_shape
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.recipe.models import load_recipe
from tests import shapes
from tests.shapes import cover, ellipse, furthest, polygon, rounded, star

TURNED = [(80.3 + 60 * math.cos(0.4 + k), 80.1 + 60 * math.sin(0.4 + k)) for k in (0, 1.6, 3, 4.7)]
SOFT = {
    "small circle": (ellipse((30.3, 29.6), 12, 12), 60, 60),
    "circle": (ellipse((100.3, 99.6), 80, 80), 200, 200),
    "large circle": (ellipse((500.3, 499.6), 400, 400), 1000, 1000),
    "ellipse": (ellipse((150.3, 99.6), 120, 60), 200, 300),
    "rounded star": (rounded(star((150.2, 150.4), 120, 0.5, 5), 8), 300, 300),
    "square": (polygon([(20.3, 20.7), (120.1, 20.7), (120.1, 99.2), (20.3, 99.2)]), 120, 140),
    "turned": (polygon(TURNED), 160, 160),
    "star": (polygon(star((150.2, 150.4), 120, 0.46, 5)), 300, 300),
    "sharp star": (polygon(star((150.2, 150.4), 120, 0.35, 6)), 300, 300),
    "triangle": (polygon([(30.2, 150.4), (170.1, 140.3), (90.4, 20.9)]), 180, 200),
}


def fitted(picture: np.ndarray) -> tuple[list, list]:
    found = fit_curves(isolines(picture, 0.5).lines)
    curves = [curve for one in found for curve in one.cubics]
    corners = [
        curve[0]
        for one in found
        for curve, sharp in zip(one.cubics, one.sharp, strict=True)
        if sharp
    ]
    return curves, corners


@pytest.mark.parametrize("name", SOFT)
def test_soft_edges_are_followed_to_a_seventh_of_a_pixel(name: str) -> None:
    loops, rows, cols = SOFT[name]
    own = [curve for loop in loops for curve in loop]
    curves, _ = fitted(cover(loops, rows, cols))
    assert max(furthest(curves, own), furthest(own, curves)) < 0.15
    assert len(curves) <= 1.5 * len(own)


@pytest.mark.parametrize("radius", [3, 4, 6, 12, 20])
@pytest.mark.parametrize("count", [3, 4, 5])
def test_soft_edged_rounds_are_no_corners(radius: float, count: int) -> None:
    corners = star((150.2, 150.4), 120, 0.5, 5) if count == 5 else TURNED[:count]
    loops = rounded(corners, radius)
    own = [curve for loop in loops for curve in loop]
    curves, sharp = fitted(cover(loops, 300, 300))
    assert not sharp
    assert max(furthest(curves, own), furthest(own, curves)) < 0.16


@pytest.mark.parametrize("blur", [0.0, 0.6, 0.8])
def test_corners_stay_where_edges_are_blurred(blur: float) -> None:
    loops, rows, cols = SOFT["star"]
    picture = cover(loops, rows, cols)
    if blur:
        picture = cv2.GaussianBlur(picture, (0, 0), blur)
    found = Field(picture, 0.5, 0.5)
    soft = softness(found, find_parts(found))
    assert soft == 1 if not blur else 1.05 < soft < 2
    (curves,) = trace_shape(found, (1.0, 1.0)).outline.curves
    (one,) = fit_curves(isolines(picture, 0.5).lines, soft=soft)
    assert len(curves) == one.count and one.sharp.sum() == 10


@pytest.mark.parametrize("seed", [1, 2])
def test_curves_cross_neither_themselves_nor_each_other(seed: int) -> None:
    rng = np.random.default_rng(seed)
    grain = cv2.GaussianBlur(rng.random((260, 260)).astype(np.float32), (0, 0), 1.1)
    picture = np.clip((grain - grain.min()) / np.ptp(grain), 0, 1)
    outline = trace_shape(shape_field(picture, None, "dark"), (0.1, 0.1)).outline
    assert len(outline.loops) > 100
    for loops in (outline.loops, tuple(flatten(c, 1e-4, np.inf) for c in outline.curves)):
        steps = [np.round(loop * 1e8).astype(np.int64).tolist() for loop in loops]
        # Where lines cross, it makes more of them, or fewer.
        assert all(len(pyclipper.SimplifyPolygon(line)) == 1 for line in steps)
        assert len(pyclipper.SimplifyPolygons(steps, pyclipper.PFT_EVENODD)) == len(loops)


@pytest.mark.parametrize("name", ["square", "turned", "star", "triangle"])
def test_straight_sides_and_corners_are_told_from_hard_edges(name: str) -> None:
    loops, rows, cols = SOFT[name]
    own = [curve for loop in loops for curve in loop]
    curves, _ = fitted((cover(loops, rows, cols) >= 0.5).astype(np.float32))
    assert max(furthest(curves, own), furthest(own, curves)) < 0.6
    assert len(curves) <= 1.5 * len(own)


@pytest.mark.parametrize("name", ["small circle", "circle", "large circle", "ellipse"])
def test_hard_edges_are_followed_within_a_pixel(name: str) -> None:
    loops, rows, cols = SOFT[name]
    own = [curve for loop in loops for curve in loop]
    curves, corners = fitted((cover(loops, rows, cols) >= 0.5).astype(np.float32))
    assert max(furthest(curves, own), furthest(own, curves)) < 0.6
    assert len(curves) <= 1.5 * len(own)
    assert not corners


@pytest.mark.parametrize("name", ["square", "turned", "star", "sharp star", "triangle"])
def test_corners_are_where_they_were_meant(name: str) -> None:
    loops, rows, cols = SOFT[name]
    meant = np.array([curve[0] for curve in loops[0]])
    _, corners = fitted(cover(loops, rows, cols))
    assert len(corners) == len(meant)
    away = np.hypot(*(np.array(corners)[:, None] - meant).transpose(2, 0, 1)).min(axis=0)
    assert away.max() < 0.3


def test_a_tip_that_hard_edges_part_from_its_star_costs_no_other_corner() -> None:
    loops, rows, cols = SOFT["sharp star"]
    hard = (cover(loops, rows, cols) >= 0.5).astype(np.float32)
    assert min(len(line) for line in isolines(hard, 0.5).lines) <= 6
    _, corners = fitted(hard)
    assert 12 <= len(corners) <= 16


@pytest.mark.parametrize(("radius", "hard", "share"), [(4, 0, 0.97), (5, 0, 0.98), (8, 1, 0.95)])
def test_small_rounds_keep_their_area(radius: float, hard: int, share: float) -> None:
    picture = cover(ellipse((30.4, 29.8), radius, radius), 60, 60)
    if hard:
        picture = (picture >= 0.5).astype(np.float32)
    (found,) = fit_curves(isolines(picture, 0.5).lines)
    assert abs(area_of_curves(found.cubics)) > share * math.pi * radius**2


def test_isolines_lie_where_the_edge_was() -> None:
    loops, rows, cols = SOFT["circle"]
    (line,) = isolines(cover(loops, rows, cols), 0.5).lines
    assert np.abs(np.hypot(*(line - (100.3, 99.6)).T) - 80).max() < 0.04


def test_lines_are_closed_nested_and_never_touch() -> None:
    rng = np.random.default_rng(3)
    noise = rng.integers(0, 2, (60, 60)).astype(np.float32)
    found = isolines(noise, 0.5)
    assert len(found.lines) == len(found.part)
    total = sum(area_of(line) for line in found.lines)
    assert total == pytest.approx(noise.sum(), rel=0.35)
    curves = fit_curves(found.lines)
    left = [(one, line) for one, line in zip(curves, found.lines, strict=True) if one.count]
    assert len(left) > 0.9 * len(curves)
    for one, line in left:
        assert area_of(flatten(one.cubics, 0.01, np.inf)) * area_of(line) > 0


def spotted() -> np.ndarray:
    """A ring around an island, a square at the border, and a speck."""
    picture = np.ones((200, 240), np.float32)
    y, x = np.mgrid[:200, :240]
    away = np.hypot(x - 100, y - 100)
    picture[(away < 70) & (away > 40)] = 0
    picture[away < 20] = 0
    picture[0:30, 200:240] = 0
    picture[180:182, 20:22] = 0
    return picture


def test_parts_are_told_apart_with_their_holes() -> None:
    traced = trace_shape(shape_field(spotted(), None, "dark"), (0.1, 0.1))
    assert [len(part.lines) for part in traced.parts] == [2, 1, 1, 1]
    assert traced.parts[0].area_mm2 == pytest.approx(math.pi * (49 - 16), rel=0.01)
    assert traced.outline.area_mm2 == pytest.approx(sum(p.area_mm2 for p in traced.parts), rel=0.01)
    assert len(parted(traced.outline)) == 4
    for part in traced.parts:
        x, y = part.place
        assert spotted()[round(y), round(x)] == 0


def test_what_is_left_out_says_why() -> None:
    field = shape_field(spotted(), None, "dark")
    tidy = Tidy(0.2, border=True, choices=(Choice(10.0, 9.9),))
    traced = trace_shape(field, (0.1, 0.1), tidy)
    assert [part.why for part in traced.parts] == ["", "dropped", "border", "small"]
    alone = trace_shape(field, (0.1, 0.1), Tidy(choices=(Choice(10.0, 9.9, alone=True),)))
    assert [part.why for part in alone.kept] == [""]
    assert alone.outline.area_mm2 == pytest.approx(math.pi * 4, rel=0.02)


def test_choices_survive_another_level() -> None:
    loops = [*ellipse((50, 50), 30, 30), *ellipse((130, 50), 25, 25)]
    picture = 1 - cover(loops, 100, 180)
    choice = Tidy(choices=(Choice(13.0, 4.9),))
    for level in (0.3, 0.5, 0.7):
        traced = trace_shape(shape_field(picture, None, "dark", level), (0.1, 0.1), choice)
        assert [part.why for part in traced.parts] == ["", "dropped"]


def test_gaps_are_closed_up_to_a_width() -> None:
    picture = np.ones((100, 200), np.float32)
    picture[20:80, 20:98] = 0
    picture[20:80, 102:180] = 0
    field = shape_field(picture, None, "dark")
    assert len(trace_shape(field, (0.1, 0.1), Tidy(gap_mm=0.3)).parts) == 2
    closed = trace_shape(field, (0.1, 0.1), Tidy(gap_mm=0.6))
    assert len(closed.parts) == 1
    assert closed.outline.area_mm2 == pytest.approx(6.0 * 16.0, rel=0.01)


def test_a_band_between_two_tones_and_what_is_kept() -> None:
    tones = np.tile(np.linspace(0, 1, 101, dtype=np.float32), (40, 1))
    band = trace_shape(shape_field(tones, None, "band", 0.3, 0.6), (1, 1))
    low, high = band.outline.bounds
    assert (low[0], high[0]) == pytest.approx((30, 60), abs=0.05)
    alpha = np.zeros_like(tones)
    alpha[10:30, 20:50] = 1
    kept = trace_shape(shape_field(tones, alpha, "kept"), (1, 1))
    assert kept.outline.area_mm2 == pytest.approx(600, rel=0.01)


def test_within_is_kept() -> None:
    loops, rows, cols = SOFT["rounded star"]
    field = shape_field(1 - cover(loops, rows, cols), None, "dark")
    for within in (0.05, 0.3, 1.0):
        traced = trace_shape(field, (0.5, 0.5), within_mm=within)
        assert traced.off_mm <= within * 1.001
    counts = [trace_shape(field, (0.5, 0.5), within_mm=w).curves for w in (0.02, 0.1, 0.5)]
    assert counts == sorted(counts, reverse=True)


def test_a_width_is_that_of_the_shape_and_specks_do_not_count() -> None:
    traced = traced_wide(shape_field(spotted(), None, "dark"), 50.0, 0.5, None, 35.0)
    low, high = traced.outline.exact_bounds
    assert low.tolist() == pytest.approx([0, 0], abs=1e-9)
    assert high[0] == pytest.approx(50, abs=1e-6)
    # With the speck the box would reach further down.
    assert high[1] == pytest.approx(50 * 169.5 / 209, abs=0.3)


@pytest.mark.parametrize(
    ("picture", "level", "words"),
    [
        (np.ones((20, 20), np.float32), None, "flat tone"),
        (np.tile(np.linspace(0.4, 0.6, 20, dtype=np.float32), (20, 1)), 0.1, "nothing is inside"),
        (np.tile(np.linspace(0.4, 0.6, 20, dtype=np.float32), (20, 1)), 0.9, "everything"),
    ],
)
def test_nothing_to_trace_is_refused(picture: np.ndarray, level: float, words: str) -> None:
    with pytest.raises(InvalidValue, match=words):
        shape_field(picture, None, "dark", level)


def test_noise_is_refused_and_not_traced_for_ever() -> None:
    noise = np.random.default_rng(1).random((700, 700)).astype(np.float32)
    with pytest.raises(TooLarge, match="noise"):
        trace_shape(Field(noise, 0.8, 0.8), (0.1, 0.1))


def test_curves_of_exact_lines() -> None:
    from nebrel.core.outline import shapes as plain

    circle = with_curves(plain.ellipse(40, 40))
    assert len(circle.curves[0]) <= 12
    assert furthest(list(circle.curves[0]), ellipse((0, 0), 20, 20)[0]) < 0.01
    corners = with_curves(plain.rectangle(30, 20, 4))
    assert len(corners.curves[0]) <= 12
    assert (
        shapes.furthest(
            list(with_curves(plain.star(30, 5, 0.4)).curves[0]),
            polygon([p.tolist() for p in plain.star(30, 5, 0.4).loops[0]])[0],
        )
        < 1e-6
    )


def test_a_tip_thinner_than_a_pixel_is_no_loose_part() -> None:
    points = [(20, 20), (280, 90.3), (90, 60), (280, 250.7), (60, 110)]
    picture = Picture(1 - cover(polygon(points), 300, 300))
    entry = {"kind": "traced", "height": 2, "trace": {"within": 0.02}}
    off = {"kind": "picture", "id": "picture", "enabled": False}
    art = {"picture": {"file": {"sha256": "0" * 64}}, "backing": 0, "build_up": [off, entry]}
    found = Evaluator(lambda _: picture).evaluate(load_recipe({"begins": {"art": art}}))
    assert found.report.bodies == 1
    assert found.islands == ()


@pytest.mark.parametrize(("tone", "of"), [(0.25, "dark"), (0.0, "dark"), (0.8, "light")])
def test_one_tone_on_nothing_is_a_shape(tone: float, of: str) -> None:
    alpha = np.zeros((60, 60), np.float32)
    alpha[15:45, 15:45] = 1
    traced = trace_shape(shape_field(tone * alpha, alpha, of), (1.0, 1.0))
    assert traced.outline.area_mm2 == pytest.approx(900, rel=0.03)


def test_noise_has_no_middle_lines() -> None:
    noise = np.random.default_rng(2).integers(0, 2, (900, 900)).astype(np.float32)
    with pytest.raises(TooLarge, match="noise, not strokes"):
        centre_lines(shape_field(noise, None, "dark"))
