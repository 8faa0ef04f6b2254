"""Subjects found in pictures, and inflated."""

from collections.abc import Callable

import numpy as np
import pytest
import trimesh

from nebrel.core.data import Floats, Mesh, Picture
from nebrel.core.errors import InvalidValue
from nebrel.core.figure.field import Bulge, surface
from nebrel.core.figure.figure import Back, Wanted, make_figure
from nebrel.core.figure.stand import middle_of_mass
from nebrel.core.figure.subject import find_subject
from nebrel.core.figure.swell import distances, swell

Shape = Callable[[np.ndarray, np.ndarray], np.ndarray]
PX, MIDDLE = 220, 109.5
SMALL = 160  # resolution


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


def two(x: np.ndarray, y: np.ndarray) -> np.ndarray:
    found: np.ndarray = (np.hypot(x - 50, y) < 30) | (np.hypot(x + 50, y) < 30)
    return found


@pytest.mark.parametrize(
    ("picture", "words"),
    [
        (cut_out(drawn(disc(30)) * 0), "covers nothing|not isolated"),
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
    sharp, soft = solid(figure(cover)), solid(figure(cover, softness_mm=5.0))
    assert soft.volume < sharp.volume
