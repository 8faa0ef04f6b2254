"""Figures of subjects, parts and numbers by chance: whole by another library's judgement, or
refused in words."""

from dataclasses import replace

import cv2
import numpy as np
import pytest
import trimesh
from numpy.random import Generator

from nebrel.core.data import Floats, Picture
from nebrel.core.errors import InvalidValue
from nebrel.core.figure.figure import Beside, Figure, Wanted, make_figure
from nebrel.core.figure.pose import Part
from nebrel.core.figure.seen import front_view
from nebrel.core.figure.subject import Subject, find_subject
from nebrel.core.mesh.closed import passes_through_itself

N = 150
WAYS = ("inflate", "turn", "half", "learned")


def line(rng: Generator, thick: int, count: int = 4) -> Floats:
    """(N, N) a line through a few places."""
    found = np.zeros((N, N), np.uint8)
    places = rng.integers(N // 5, 4 * N // 5, (count, 2)).astype(np.int32)
    cv2.polylines(found, [places], False, 255, thick, cv2.LINE_AA)
    return (found / 255).astype(np.float32)


def subject(rng: Generator) -> Subject:
    """In one piece, with colours and shades that say nothing."""
    cover = np.maximum(line(rng, int(rng.integers(8, 30))), line(rng, int(rng.integers(8, 30))))
    cv2.circle(cover, (N // 2, N // 2), int(rng.integers(18, 45)), 1, -1, cv2.LINE_AA)
    _, pieces = cv2.connectedComponents((cover > 0.02).astype(np.uint8))
    cover = np.where(pieces == pieces[N // 2, N // 2], cover, 0).astype(np.float32)
    pixels = cv2.GaussianBlur(rng.random((N, N, 3)).astype(np.float32), (0, 0), 2.5)
    return find_subject(Picture(pixels, cover))


def wanted(rng: Generator, way: str) -> Wanted:
    """Numbers that are allowed, the odd ones too."""

    def perhaps(low: float, high: float) -> float:
        return float(rng.choice([0, rng.uniform(low, high)]))

    return Wanted(
        way=way,  # type: ignore[arg-type]
        tall_mm=float(rng.uniform(15, 150)),
        thick_mm=perhaps(1, 60) or None,
        back=rng.choice(["mirror", "flat", "smooth"]),
        roundness=float(rng.uniform(0.1, 1)),
        softness_mm=perhaps(0, 2),
        detail_mm=perhaps(0.1, 1.5),
        half_round=bool(rng.random() < 0.3),
        base_mm=perhaps(1, 5),
        feet_mm=perhaps(2, 5),
        resolution=int(rng.integers(64, 140)),
    )


def parts(rng: Generator) -> tuple[Part, ...]:
    """Up to three, that lie anywhere and are moved anywhere."""
    found = []
    for _ in range(int(rng.integers(0, 4))):
        one = Part(line(rng, int(rng.integers(3, 40)), 2), float(rng.normal() * 5))
        one = replace(one, times=float(rng.uniform(0.3, 2)), both=bool(rng.random() < 0.3))
        if rng.random() < 0.4:
            turn, right = float(rng.uniform(-180, 180)), float(rng.normal() * 6)
            one = replace(one, turn_deg=turn, right_mm=right, mirrored=bool(rng.random() < 0.4))
        if rng.random() < 0.2:
            one = replace(one, lean_deg=float(rng.uniform(-50, 50)))
        found.append(one)
    return tuple(found)


def whole(made: Figure) -> None:
    mesh = trimesh.Trimesh(made.mesh.vertices, made.mesh.faces, process=False)
    assert mesh.is_volume and mesh.body_count == 1
    assert not passes_through_itself(made.mesh)
    assert np.isfinite(mesh.vertices).all()
    low, high = mesh.bounds
    assert low[2] == pytest.approx(0, abs=1e-3)
    assert low[0] + high[0] == pytest.approx(0, abs=0.02 + 1e-3 * (high[0] - low[0]))
    assert made.mesh.colours is not None and len(made.mesh.colours) == len(made.mesh.vertices)


@pytest.mark.parametrize("seed", range(28))
def test_it_is_one_closed_body_or_refused_in_words(seed: int) -> None:
    rng = np.random.default_rng(100 + seed)
    found, numbers = subject(rng), wanted(rng, WAYS[seed % 4])
    beside = Beside(parts=parts(rng), depth=None if seed % 7 else line(rng, 60))
    try:
        made = make_figure(found, numbers, beside)
    except InvalidValue as error:  # never that it would not be closed
        assert error.why and error.remedy
        return
    whole(made)


@pytest.mark.parametrize("seed", range(8))
def test_the_first_picture_is_what_is_seen_from_the_front(seed: int) -> None:
    rng = np.random.default_rng(200 + seed)
    found = subject(rng)
    numbers = Wanted(way=("inflate", "half", "learned")[seed % 3], resolution=130)
    made = make_figure(found, numbers, Beside())
    whole(made)
    assert made.mesh.vertices[:, 2].max() == pytest.approx(80, abs=0.01)
    seen = front_view(made.mesh, found.cover.shape, made.mm_per_px, made.low_mm)
    assert seen.overlap(found.cover) > 0.985


@pytest.mark.parametrize("seed", [2, 3])
def test_what_fills_corners_stays_whole_and_a_flat_back_flat(seed: int) -> None:
    rng = np.random.default_rng(400 + seed)
    found = subject(rng)
    numbers = replace(wanted(rng, WAYS[seed]), resolution=100, base_mm=0.0)
    made = make_figure(found, numbers, Beside(parts=parts(rng)))
    whole(made)
    behind = made.mesh.vertices[:, 1]
    assert (behind > behind.max() - 0.02).mean() > 0.2


@pytest.mark.parametrize("seed", range(3))
def test_a_depth_of_noise_is_one_closed_body(seed: int) -> None:
    rng = np.random.default_rng(300 + seed)
    found = subject(rng)
    noise = rng.random((N, N)).astype(np.float32)
    way = ("half", "inflate", "half")[seed]
    numbers = Wanted(way=way, resolution=72, half_round=True)  # type: ignore[arg-type]
    whole(make_figure(found, numbers, Beside(depth=noise)))
