"""Lines on a body that decorations are set along."""

import numpy as np
import pytest

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue
from nebrel.core.forms.along import line_through, set_along
from nebrel.core.solid.ready import ready_mesh

Z = 2


def plate(corner: float = 0.0) -> Mesh:
    return ready_mesh("plate", wide=60, deep=40, tall=4, corner=corner)


@pytest.mark.parametrize(
    ("corner", "long_mm"), [(0.0, 160.0), (8.0, 2 * 44 + 2 * 24 + 2 * np.pi * 3)]
)
def test_beside_the_edge_of_a_plate(corner: float, long_mm: float) -> None:
    line = line_through(plate(corner), (3, -15, 4), "edge", Z)
    assert line.closed
    assert line.long_mm == pytest.approx(long_mm, rel=0.005)
    inset = np.max([np.abs(line.places[:, 0]) - 25, np.abs(line.places[:, 1]) - 15], axis=0)
    assert np.abs(inset).max() < (0.4 if corner == 0 else 1.6)
    assert line.places[:, 2] == pytest.approx(4, abs=1e-6)


def test_around_a_body_at_one_height() -> None:
    line = line_through(plate(8), (0, -20, 1.5), "level", Z)
    assert line.closed
    assert line.long_mm == pytest.approx(2 * 44 + 2 * 24 + 2 * np.pi * 8, rel=0.001)
    column = ready_mesh("cylinder", diameter=40, tall=30, round=0)
    ring = line_through(column, (20, 0, 12), "level", Z)
    assert ring.long_mm == pytest.approx(40 * np.pi, rel=0.001)
    assert ring.places[:, 2] == pytest.approx(12, abs=1e-3)


def test_places_are_evenly_apart_and_turn_with_the_line() -> None:
    body = plate()
    line = line_through(body, (0, -15, 4), "edge", Z)
    found = set_along(body, line, (0, -15, 4), (0, 1, 0), 4, 5.0)
    places, ups = (np.array(each) for each in zip(*found, strict=True))
    # A quarter of the way around lies in the middle of each side only of a square.
    assert places[0] == pytest.approx((0, -15, 4), abs=1e-3)
    assert places[2] == pytest.approx((0, 15, 4), abs=0.05)
    inwards = -np.sign(places) * (1, 1, 0)
    assert (np.einsum("ij,ij->i", ups, inwards) > 0.9).all()
    assert np.linalg.norm(ups, axis=1) == pytest.approx(1)


def test_along_an_open_line_they_keep_their_gap_about_the_place() -> None:
    ring = ready_mesh("ring", inside=17, wide=6, thick=1.6, face=9)
    middles = ring.vertices[ring.faces].mean(axis=1)
    x, y, z = (float(side) for side in middles[middles[:, 0].argmax()])
    at = x, y + 0.3, z + 0.4
    line = line_through(ring, at, "edge", Z)
    assert not line.closed
    found = np.array([place for place, _ in set_along(ring, line, at, (0, 0, 1), 3, 2.0)])
    assert np.linalg.norm(np.diff(found, axis=0), axis=1) == pytest.approx(2.0, rel=0.05)
    with pytest.raises(InvalidValue, match="Lay it"):
        set_along(ring, line, at, (0, 0, 1), 90, 2.0)


@pytest.mark.parametrize(
    ("at", "words"),
    [((0.0, -20.0, 4.0), "on the edge itself"), ((0.0, 0.0, 40.0), "no sharp edge")],
)
def test_a_place_without_a_line_is_refused(at: tuple[float, float, float], words: str) -> None:
    body = plate() if "itself" in words else ready_mesh("sphere", diameter=80)
    with pytest.raises(InvalidValue, match=words):
        line_through(body, at, "edge", Z)
