"""Colours by height and by part, fewer of them, and matched to those at hand."""

import numpy as np
import pytest
import trimesh

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue
from nebrel.core.mesh.colour import (
    by_height,
    by_part,
    by_picture,
    cut_along,
    in_one,
    matched,
    merged,
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


def disc(side: int = 400) -> np.ndarray:
    """Red, a quarter of it across, on white."""
    y, x = np.mgrid[:side, :side]
    found = np.ones((side, side, 3), np.float32)
    found[np.hypot(x - side / 2, y - side / 2) < side / 4] = (1, 0, 0)
    return found


def plate(wide: float = 80) -> Mesh:
    made = trimesh.creation.box((wide, wide, 3))
    return Mesh(made.vertices.astype(np.float32), made.faces.astype(np.int32))


def test_a_plate_is_as_the_picture() -> None:
    def shares(at: np.ndarray) -> np.ndarray:
        return np.column_stack([(at[:, 0] + 40) / 80, (40 - at[:, 1]) / 80])

    found, done = by_picture(plate(), disc(), shares, False, 0.3, 1_000_000)
    report = measure(found)
    assert (done, report.manifold) == (True, True)
    assert report.volume_mm3 == pytest.approx(80 * 80 * 3, rel=1e-6)
    assert found.colours is not None
    corners = found.vertices[found.faces]
    sides = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    area = np.linalg.norm(sides, axis=1) / 2 * (corners[..., 2] > 1.4).all(axis=1)
    red = (found.colours[found.faces][..., 1] == 0).mean(axis=1)
    assert (area * red).sum() == pytest.approx(np.pi * 20**2, rel=0.01)
    # Only along the border are there small ones.
    assert report.triangles < 40_000  # 160 000 of that size would cover it
    few, done = by_picture(plate(), disc(), shares, False, 0.3, 2_000)
    assert (done, len(few.faces) <= 2_000, measure(few).manifold) == (False, True, True)


def test_around_a_tube_no_triangle_crosses_the_whole_picture() -> None:
    made = trimesh.creation.cylinder(20, 30, sections=64)
    tube = Mesh(made.vertices.astype(np.float32), made.faces.astype(np.int32))

    def shares(at: np.ndarray) -> np.ndarray:
        return np.column_stack(
            [np.arctan2(at[:, 1], at[:, 0]) / (2 * np.pi) % 1, at[:, 2] / 30 + 0.5]
        )

    found, done = by_picture(tube, disc(), shares, True, 0.5, 1_000_000)
    assert (done, measure(found).manifold) == (True, True)
    seam = (np.abs(found.vertices[:, 1]) < 1) & (found.vertices[:, 0] > 19)
    assert seam.sum() < 60  # white all along: nothing is to be cut there


def test_a_colour_is_merged_and_another_dropped() -> None:
    striped = by_height(ball(), [10, 20, 30], [RED, GREEN, BLUE, RED])
    found, hit = merged(striped, [(GREEN, BLUE)], 0.0)
    assert hit == 1
    assert found.colours is not None
    assert {tuple(row) for row in found.colours.tolist()} == {tuple(RED), tuple(BLUE)}
    dropped, hit = merged(striped, [(GREEN, None), (rgba("#123456"), None)], 0.0)
    assert hit == 1
    assert dropped.colours is not None
    # What is lower goes with what is below, the rest with what is above.
    z = dropped.vertices[:, 2] + 20
    assert (dropped.colours[(z > 10.1) & (z < 14.5)] == RED).all()
    assert (dropped.colours[(z > 15.5) & (z < 19.9)] == BLUE).all()
    with pytest.raises(InvalidValue, match="none would be left"):
        merged(in_one(ball(), RED), [(RED, None)], 0.0)
    near, _ = merged(in_one(ball(), rgba("#c91e1e")), [(RED, BLUE)], 0.05)
    assert near.colours is not None and (near.colours[:, :3] == BLUE[:3]).all()
