"""Colours by height and by part, fewer of them, and matched to those at hand."""

import numpy as np
import pytest
import trimesh

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue
from nebrel.core.mesh.colour import (
    by_height,
    by_part,
    cut_along,
    in_one,
    matched,
    oklab,
    reduced,
    rgba,
)
from nebrel.core.mesh.measure import measure

RED, GREEN, BLUE = (rgba(text) for text in ("#c81e1e", "#1ea01e", "#1e1ec8"))


def ball(radius: float = 20) -> Mesh:
    made = trimesh.creation.icosphere(subdivisions=4, radius=radius)
    return Mesh(made.vertices.astype(np.float32), made.faces.astype(np.int32))


@pytest.mark.parametrize("z", [0.0, 3.3, -19.99, 7.123456])
def test_cut_along_a_height_it_is_the_same_closed_surface(z: float) -> None:
    found = cut_along(ball(), z)
    side = found.vertices[:, 2][found.faces] - np.float32(z)
    assert not ((side.min(axis=1) < -1e-5) & (side.max(axis=1) > 1e-5)).any()
    before, after = measure(ball()), measure(found)
    assert after.manifold
    assert after.volume_mm3 == pytest.approx(before.volume_mm3, rel=1e-6)
    assert after.area_mm2 == pytest.approx(before.area_mm2, rel=1e-6)
    assert cut_along(ball(), 21.0) is not None


def test_a_flat_face_on_the_height_is_left_alone() -> None:
    box = trimesh.creation.box((4, 4, 4))
    mesh = Mesh(box.vertices.astype(np.float32), box.faces.astype(np.int32))
    assert cut_along(mesh, 2.0) is mesh
    twice = cut_along(cut_along(mesh, 1.0), 1.0)
    assert measure(twice).volume_mm3 == pytest.approx(64)
    assert len(twice.faces) == len(cut_along(mesh, 1.0).faces)


def test_from_each_height_on_it_has_another_colour() -> None:
    found = by_height(ball(), [10.0, 25.0], [RED, GREEN, BLUE])
    assert found.colours is not None
    above = found.vertices[:, 2] + 20
    assert (found.colours[above <= 10.001] == RED).all()
    assert (found.colours[(above > 10.015) & (above < 25)] == GREEN).all()
    assert (found.colours[above > 25.019] == BLUE).all()
    assert measure(found).manifold
    with pytest.raises(InvalidValue, match="one more is needed"):
        by_height(ball(), [1.0, 2.0], [RED])
    with pytest.raises(InvalidValue, match="upwards"):
        by_height(ball(), [2.0, 1.0], [RED, GREEN, BLUE])


def test_each_body_has_its_own_the_largest_the_first() -> None:
    both = ball(), ball(5)
    mesh = Mesh(
        np.concatenate([both[1].vertices + 50, both[0].vertices]),
        np.concatenate([both[1].faces[:900], both[0].faces + len(both[1].vertices)]),
    )
    found = by_part(mesh, [RED, GREEN])
    assert found.colours is not None
    assert (found.colours[len(both[1].vertices) :] == RED).all()
    assert (found.colours[both[1].faces[:900]] == GREEN).all()


def test_fewer_colours_are_those_most_like_them() -> None:
    rng = np.random.default_rng(4)
    mesh = ball()
    groups = np.stack([RED, GREEN, BLUE])[rng.integers(0, 3, len(mesh.vertices))]
    shaken = np.clip(groups[:, :3].astype(int) + rng.integers(-9, 10, (len(groups), 3)), 0, 255)
    noisy = Mesh(
        mesh.vertices,
        mesh.faces,
        colours=np.column_stack([shaken, np.full(len(groups), 255)]).astype(np.uint8),
    )
    found = reduced(noisy, 3).colours
    assert found is not None
    assert len(np.unique(found, axis=0)) == 3
    assert np.abs(found.astype(int) - groups).max() <= 12
    assert reduced(in_one(mesh, RED), 3).colours is not None
    with pytest.raises(InvalidValue, match="has none"):
        reduced(mesh, 3)


def test_colours_are_matched_by_eye_not_by_number() -> None:
    # In numbers a dark blue is nearer to black; to the eye it is a blue.
    mesh = in_one(ball(), rgba("#00008b"))
    found = matched(mesh, [rgba("#3c1400"), rgba("#2020c0")]).colours
    assert found is not None
    assert (found == rgba("#2020c0")).all()
    with pytest.raises(InvalidValue, match="no colour"):
        matched(mesh, [])


def test_the_colour_space_is_the_published_one() -> None:
    # White, and the red of the paper's own table.
    white, red = oklab(np.array([[255, 255, 255], [255, 0, 0]]))
    assert white == pytest.approx((1, 0, 0), abs=1e-4)
    assert red == pytest.approx((0.6280, 0.2249, 0.1258), abs=1e-3)
    with pytest.raises(InvalidValue, match="is none"):
        rgba("madder")
