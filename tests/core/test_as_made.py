"""What is said of a piece before it is printed."""

import numpy as np
import pytest

from nebrel.core.data import Mesh
from nebrel.core.proof.as_made import as_made
from nebrel.core.solid.ready import ready_mesh
from tests.meshes import box, joined


def test_a_box_is_closed_stands_and_lies_with_all_its_underside() -> None:
    said = as_made(box(30, 20, 60), 0.42)
    assert (said.closed, said.bodies, said.line_mm) == (True, 1, 0.42)
    assert said.thinnest_mm == pytest.approx(20, abs=1e-3)
    assert said.touching_mm2 == pytest.approx(600, rel=1e-6)
    assert said.tips_deg == pytest.approx(np.degrees(np.arctan2(10, 30)), abs=0.02)


def test_a_ball_does_not_stand_and_a_cup_has_walls() -> None:
    ball = as_made(ready_mesh("sphere", diameter=40), 0.42)
    assert ball.tips_deg < 2
    assert ball.touching_mm2 < 5
    cup = as_made(ready_mesh("beaker", diameter=60, top=60, tall=80, wall=1.5, floor=3), 0.42)
    assert cup.thinnest_mm == pytest.approx(1.5, abs=0.01)
    assert cup.touching_mm2 == pytest.approx(np.pi * 900, rel=2e-3)


def test_two_bodies_and_an_open_one_are_told_so() -> None:
    one, other = box(10, 10, 10), box(10, 10, 10)
    moved = Mesh(other.vertices + np.float32(40), other.faces)
    assert as_made(joined(one, moved), 0.42).bodies == 2
    assert not as_made(Mesh(one.vertices, one.faces[:-1]), 0.42).closed
