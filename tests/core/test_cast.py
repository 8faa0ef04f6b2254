"""Art around an axis and straight: lengths, seams, what does not fit."""

import numpy as np
import pytest

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue
from nebrel.core.forms.cast import Cast, around_axis, straight_on
from nebrel.core.forms.unrolled import unroll
from nebrel.core.recipe.ready import READY, sizes_of
from nebrel.core.solid.ready import ready_mesh

UP = (0.0, 0.0, 1.0)


def spots(size: tuple[float, float]) -> np.ndarray:
    rng = np.random.default_rng(5)
    flat = (rng.random((400, 2)) - 0.5) * size
    return np.column_stack([flat, np.zeros(len(flat))])


def column() -> Mesh:
    return ready_mesh("cylinder", diameter=50, tall=60, round=0)


@pytest.mark.parametrize("turn", [0, 30, 90])
def test_lengths_on_a_column_are_exact(turn: float) -> None:
    cast = around_axis(column(), (25, 1, 30), UP, turn, (30, 20), 2)
    flat = spots((30, 20))
    on, middle = cast.place(flat), cast.place(np.zeros((1, 3)))[0]
    angle = np.arctan2(on[:, 1], on[:, 0]) - np.arctan2(middle[1], middle[0])
    away = np.hypot(*flat[:, :2].T)
    far = away > 2
    assert (np.hypot(25 * angle, on[:, 2] - middle[2]) / away)[far] == pytest.approx(1, abs=5e-4)
    high = cast.place(flat + np.array([0, 0, 1.5]))
    assert np.hypot(*high[:, :2].T) == pytest.approx(26.5, abs=0.005)
    assert cast.round_mm == pytest.approx(50 * np.pi, rel=1e-4)


@pytest.mark.parametrize(("below", "above"), [(50, 24), (30, 60)])
def test_lengths_on_a_cone_are_exact_in_every_direction(below: float, above: float) -> None:
    cone = ready_mesh("cone", diameter=below, top=above, tall=60)
    cast = around_axis(cone, ((below + above) / 4, 1, 30), UP, 25, (24, 16), 2)
    flat = spots((24, 16))
    lean = (below - above) / 2 / np.hypot(60, (below - above) / 2)

    def unrolled(places: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        radius = below / 2 + (above - below) / 2 * places[:, 2] / 60
        return radius / abs(lean), np.arctan2(places[:, 1], places[:, 0]) * abs(lean)

    slant, angle = unrolled(cast.place(flat))
    own, at = unrolled(cast.place(np.zeros((1, 3))))
    found = np.sqrt(slant**2 + own**2 - 2 * slant * own * np.cos(angle - at))
    away = np.hypot(*flat[:, :2].T)
    far = away > 3
    assert (found / away)[far] == pytest.approx(1, abs=5e-4)


def test_level_lines_stay_level_on_a_cone() -> None:
    cone = ready_mesh("cone", diameter=50, top=24, tall=60)
    cast = around_axis(cone, (0, -18.5, 30), UP, 0, (40, 8), 2, level=True)
    line = np.column_stack([np.linspace(-20, 20, 41), np.full(41, 3.0), np.zeros(41)])
    assert np.ptp(cast.place(line)[:, 2]) < 1e-6
    bent = around_axis(cone, (0, -18.5, 30), UP, 0, (40, 8), 2)
    assert np.ptp(bent.place(line)[:, 2]) > 1


def test_once_around_both_ends_meet() -> None:
    cast = around_axis(column(), (25, 0, 30), UP, 0, (157, 20), 2)
    assert cast.around
    ends = np.array([[-78.5, 4, 0.5], [78.5, 4, 0.5]])
    one, other = cast.place(ends)
    assert one == pytest.approx(other, abs=1e-3)


def test_it_lies_within_a_hollow_body_and_the_right_way_round() -> None:
    tube = ready_mesh("tube", diameter=60, tall=40, wall=3)
    cast = around_axis(tube, (0, 27, 20), UP, 0, (20, 10), 2)
    on = cast.place(np.array([[0, 0, 0], [5, 0, 0], [0, 3, 0], [0, 0, 1.0]]))
    assert np.hypot(*on[:3, :2].T) == pytest.approx(27, abs=0.01)
    assert np.hypot(*on[3, :2]) == pytest.approx(26, abs=0.01)
    # Seen from the axis, towards +y, right is +x.
    assert on[1, 0] > 4 and on[2, 2] == pytest.approx(23, abs=0.01)


def test_straight_it_is_not_stretched_on_a_flat_face() -> None:
    box = ready_mesh("box", wide=60, deep=40, tall=30, round=3)
    cast = straight_on(box, (5, -20, 15), UP, 0, (20, 12))
    assert cast.stretch == pytest.approx((1, 1), abs=1e-6)
    on = cast.place(np.array([[4, 3, 1.0]]))
    assert on[0] == pytest.approx([9, -21, 18], abs=1e-4)


def lie(way: str, at: tuple[float, float, float], size: tuple[float, float]) -> Cast:
    if way == "axis":
        return around_axis(column(), at, UP, 0, size, 2)
    return straight_on(ready_mesh("box", wide=60, deep=40, tall=30, round=3), at, UP, 0, size)


@pytest.mark.parametrize(
    ("way", "at", "size", "words"),
    [
        ("axis", (0, 0, 60), (10, 10), "faces along the axis"),
        ("axis", (25, 0, 30), (200, 10), "overlap itself"),
        ("axis", (25, 0, 55), (20, 20), "no larger than"),
        ("straight", (25, -20, 15), (20, 12), "no larger than"),
    ],
)
def test_what_does_not_fit_is_refused_with_what_does(
    way: str, at: tuple[float, float, float], size: tuple[float, float], words: str
) -> None:
    with pytest.raises(InvalidValue, match=words):
        lie(way, at, size)


@pytest.mark.parametrize("kind", ["plate", "box", "cylinder", "medal"])
def test_flat_faces_unroll_wherever_one_points(kind: str) -> None:
    """In the middle of a triangle, on an edge and on a corner of one; lengths stay as they are."""
    sizes = {"plate": {"wide": 80, "deep": 60, "tall": 4, "corner": 4}}
    body = ready_mesh(kind, **sizes.get(kind, sizes_of(READY[kind]())))
    top = float(body.vertices[:, 2].max())
    rng = np.random.default_rng(2)
    corners = body.vertices[body.faces].astype(np.float64)
    corners = corners[(corners[:, :, 2] > top - 1e-3).all(axis=1)]
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    area = np.linalg.norm(across, axis=1)
    half = np.abs(corners[..., :2]).max() / 3
    asked = 0
    while asked < 6:
        share = [rng.dirichlet([1, 1, 1]), np.array([0.5, 0.5, 0]), np.array([1.0, 0, 0])][
            asked % 3
        ]
        at = share @ corners[rng.choice(len(area), p=area / area.sum())]
        if np.abs(at[:2]).max() > half:
            at[:2] *= half / np.abs(at[:2]).max()
        x, y, z = (float(side) for side in at)
        found = unroll(body, (x, y, z), (0, 1, 0), 0, 3)
        assert found.stretch == pytest.approx((1, 1), abs=1e-4)
        asked += 1
