"""The network that ships: what it reads, what it says, and what becomes of that."""

from dataclasses import replace

import numpy as np
import pytest
from training import shapes
from training.judge import measured
from training.kernels import seen
from training.pictures import Truth, make, picture, soft, truth

from nebrel.core.data import Picture
from nebrel.core.errors import InvalidValue
from nebrel.core.figure.choose import choose_way
from nebrel.core.figure.figure import Wanted, _swollen, make_figure
from nebrel.core.figure.learned import (
    FRAME_PX,
    WEIGHTS,
    Told,
    _network,
    ask,
    asked,
    body_over,
    bulge_of,
    features,
    framed,
    front_of,
    membrane,
)
from nebrel.core.figure.subject import find_subject
from tests.core.test_figure import PX, SMALL, cut_out, disc, drawn, solid

UNIT = 2 / FRAME_PX  # of a pixel of the frame, where half of it is 1


def grid() -> tuple[np.ndarray, np.ndarray]:
    at = (np.arange(FRAME_PX) + 0.5) * UNIT - 1
    x, down = np.meshgrid(at, at)
    return x, -down


def ball_of(radius: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Inside, depth and normals of a ball."""
    x, y = grid()
    inside = np.hypot(x, y) < radius
    depth = np.sqrt(np.maximum(radius**2 - x**2 - y**2, 0))
    normals = np.dstack([x, y, depth]) / radius
    return inside, depth, np.where(inside[..., None], normals, (0, 0, 1))


def test_a_film_over_a_disc_is_a_ball() -> None:
    inside, depth, normals = ball_of(0.7)
    half, swollen = body_over(membrane(inside))
    well_in = np.hypot(*grid()) < 0.6
    assert np.abs(half - depth)[well_in].max() < 0.02
    angle = np.degrees(
        np.arccos(np.clip((swollen.transpose(1, 2, 0) * normals).sum(axis=2), -1, 1))
    )
    assert angle[well_in].mean() < 1.5
    assert body_over(membrane(inside), 0.5)[0].max() == pytest.approx(0.35, abs=0.01)
    read = features(np.full((FRAME_PX, FRAME_PX, 3), 0.6, np.float32), membrane(inside))
    assert read.shape == (8, FRAME_PX, FRAME_PX) and read.dtype == np.float32
    assert read[0][inside] == pytest.approx(0.2) and not read[0][~inside].any()


def test_normals_are_put_together_to_the_depth_that_has_them() -> None:
    inside, depth, normals = ball_of(0.7)
    tilt = 0.1 * grid()[0]  # the depth that is told beside them is wrong, and weak
    told = Told(inside, normals.astype(np.float32), depth, tilt.astype(np.float32), np.eye(3)[:2])
    found = front_of(told)
    well_in = np.hypot(*grid()) < 0.6
    off = (found - depth)[well_in]
    assert np.abs(off - off.mean()).max() < 0.1
    assert not found[~inside].any()


def test_a_subject_of_any_size_is_framed_and_found_again() -> None:
    cover = np.zeros((300, 500), np.float32)
    cover[40:280, 100:160] = 1
    _, inside, place = framed(np.ones((300, 500, 3), np.float32), cover)
    rows, cols = np.nonzero(inside)
    corners = np.array([(cols.min(), rows.min(), 1), (cols.max(), rows.max(), 1)]) @ place.T
    assert corners == pytest.approx(np.array([(100, 40), (159, 279)]), abs=3)
    with pytest.raises(InvalidValue, match="covers nothing"):
        framed(np.ones((9, 9, 3), np.float32), np.zeros((9, 9), np.float32))
    thin = np.zeros((900, 900), np.float32)
    thin[10:890, 450] = 1
    with pytest.raises(InvalidValue, match="too thin"):
        framed(np.ones((900, 900, 3), np.float32), thin)


def test_it_ships_small_and_comes_nearer_than_inflation() -> None:
    assert WEIGHTS.stat().st_size < 4e6
    of = make(20, seed=77_001, kinds=shapes.TRAINED, a_shape=1)
    found = measured(of, (0.75, 0.75))
    assert found["angle"].mean() < 0.9 * found["angle inflated"].mean()
    assert found["depth"].mean() < 0.98 * found["depth inflated"].mean()
    assert found["thick"].mean() < 0.9 * found["thick inflated"].mean()


def test_pictures_are_the_same_from_the_same_seed() -> None:
    one, other = (make(6, 5, shapes.TRAINED[:3], a_shape=2) for _ in range(2))
    assert all(np.array_equal(getattr(one, name), getattr(other, name)) for name in vars(one))
    assert len(one.kind) == 3 and len(one.shape) == 6
    inside = one.inside > 0
    assert (one.thick[inside] >= 0).all() and one.thick[inside].mean() > 0.05
    assert (one.normals[..., 2][inside] > 0).all()


def test_a_lit_subject_is_made_as_it_was_told() -> None:
    kind = shapes.cloth
    of = truth(kind, np.random.default_rng(12), 200)
    shown = picture(of, np.random.default_rng(3), lit=True)
    subject = find_subject(Picture(shown, of.inside.astype(np.float32)))
    wanted = Wanted(way="learned", resolution=SMALL, tall_mm=80.0)
    found = make_figure(subject, wanted).mesh
    solid(found)
    thick = float(np.ptp(found.vertices[:, 1]))
    scale = 80.0 / (np.ptp(np.nonzero(of.inside)[0]) + 1) / (2 / 200)
    assert thick == pytest.approx(float(of.thick.max()) * scale, rel=0.35)
    flat = make_figure(subject, replace(wanted, back="flat")).mesh
    solid(flat)
    assert (flat.vertices[:, 1] > float(flat.vertices[:, 1].max()) - 1e-3).sum() > 1000
    thin = make_figure(subject, replace(wanted, thick_mm=9.0)).mesh
    assert float(np.ptp(thin.vertices[:, 1])) == pytest.approx(9.0, rel=0.3)


def test_what_it_is_told_of_a_subject_lies_within_its_mask() -> None:
    subject = find_subject(cut_out(drawn(disc(80))))
    told = ask(subject.pixels, subject.cover)
    assert told.normals.shape == (FRAME_PX, FRAME_PX, 3)
    assert np.linalg.norm(told.normals, axis=2) == pytest.approx(1, abs=0.01)
    assert (told.thick[told.inside] > 0).all()


def test_the_way_is_chosen_by_what_the_picture_tells() -> None:
    rng = np.random.default_rng(8)
    x = np.linspace(-1, 1, PX, dtype=np.float32)
    lit = np.repeat((0.5 - 0.4 * np.tile(x, (PX, 1)))[..., None], 3, axis=2)
    blob = drawn(lambda x, y: np.hypot(x - 20, y) + 12 * np.sin(3 * np.arctan2(y, x)) < 70)
    assert choose_way(lit, blob).way == "learned"
    flat = np.full((PX, PX, 3), 0.5, np.float32)
    assert choose_way(flat, blob).way == "inflate"
    spots = rng.random((PX // 4, PX // 4, 3)).repeat(4, axis=0).repeat(4, axis=1)
    painted = choose_way(spots.astype(np.float32), blob)
    assert painted.way == "inflate" and "paint" in painted.why
    bottle = drawn(lambda x, y: (np.abs(x) < 30 + 10 * np.sin(y / 20)) & (np.abs(y) < 90))
    assert choose_way(lit, bottle).way == "turn"


def test_a_picture_from_behind_tells_of_the_back() -> None:
    rng = np.random.default_rng(11)
    alone, seen_too = [], []
    for k in range(16):
        shape = (shapes.cloth, shapes.blob, shapes.vessel, shapes.boxes)[k % 4](rng)
        views = []
        for _ in range(2):
            front, back, normals, inside, parts = seen(*shape.fitted(0.8), FRAME_PX)
            middle = front[inside > 0].mean()
            views.append(Truth(front - middle, front + middle - back, normals, inside, parts))
            shape.turn(shapes.about(1, np.pi))
        inside = views[0].inside > 0
        both = inside & (views[1].inside[:, ::-1] > 0)
        if inside[[0, -1]].any() or inside[:, [0, -1]].any():
            continue
        shown = [picture(view, rng, lit=True) for view in views]
        shown[1] = np.ascontiguousarray(shown[1][:, ::-1])
        room = np.eye(3)[:2]
        told = [asked(_network(), features(one, membrane(inside)), inside, room) for one in shown]
        swollen = _swollen(soft(views[0]), 1.0)
        for behind, off in ((None, alone), (told[1], seen_too)):
            found = bulge_of(told[0], swollen, 1.0, behind)
            assert found.middle is not None
            power = np.maximum((found.behind or found.swollen).power, 0)
            back = (found.middle - np.sqrt(power)) * UNIT + views[1].front[:, ::-1]
            off.append(np.abs(back - np.median(back[both]))[both].mean())
    assert len(alone) > 10 and np.mean(seen_too) < 0.95 * np.mean(alone)
