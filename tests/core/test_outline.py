"""Outlines: those around what is filled run to the left, those around holes to the right."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from nebrel.core.kernel import non_zero
from nebrel.core.outline import shapes
from nebrel.core.outline.lettering import letter
from nebrel.core.outline.outline import Outline, all_of, runs_left
from nebrel.core.outline.regions import outline_of, region_of, united
from nebrel.core.outline.trace import trace_mm


def area(outline: Outline) -> float:
    """Holes taken off, when every loop runs as it should."""
    total = 0.0
    for loop in outline.loops:
        x, y = loop.T
        total += float((x * np.roll(y, -1) - np.roll(x, -1) * y).sum()) / 2
    return total


def target(side: int = 60) -> np.ndarray:
    y, x = np.mgrid[0:side, 0:side]
    away = np.hypot(x - side / 2, y - side / 2)
    return ((away < 25) & (away > 12) | (away < 5)).astype(np.float32)


EVERY = {
    "ellipse": shapes.ellipse(30, 20),
    "rectangle": shapes.rectangle(30, 20, 3),
    "polygon": shapes.polygon(20, 7),
    "star": shapes.star(20, 5, 0.4),
    "ring": shapes.ring(20, 4),
    "traced": trace_mm(target(), 0.5, 0.5),
    "lettering": united(letter("OB8&", "plain", 9)),
    "overlapping": united(all_of([shapes.ellipse(9, 9), shapes.ring(12, 2).moved(3, 1)])),
}


@pytest.mark.parametrize("name", EVERY)
def test_every_rule_fills_the_same(name: str) -> None:
    outline = EVERY[name]
    even_odd, around = region_of(outline), non_zero(outline.loops)
    assert even_odd.area() == pytest.approx(around.area(), rel=1e-9)
    assert area(outline) == pytest.approx(even_odd.area(), rel=1e-6)
    turned = outline.mirrored(40).moved(3, -2, 77)
    assert area(turned) == pytest.approx(area(outline), rel=1e-9)
    assert area(outline_of(even_odd)) == pytest.approx(area(outline), rel=1e-6)


def test_a_hole_runs_the_other_way() -> None:
    assert [runs_left(loop) for loop in shapes.ring(20, 4).loops] == [True, False]
    assert sorted(runs_left(loop) for loop in EVERY["traced"].loops) == [False, True, True]
    assert not Outline()
    assert shapes.ring(20, 10).loops[0].shape == shapes.ellipse(20, 20).loops[0].shape


@settings(max_examples=40)
@given(x=st.floats(-20, 20), y=st.floats(-20, 20), name=st.sampled_from(list(EVERY)))
def test_what_is_inside_is_what_is_filled(x: float, y: float, name: str) -> None:
    outline = EVERY[name]
    spot = shapes.rectangle(0.02, 0.02).moved(x, y)
    share = (region_of(outline) ^ region_of(spot)).area() / 0.0004
    found = outline.inside(np.array([x]), np.array([y]))[0]
    if not 0.001 < share < 0.999:  # nearer to the line than the spot is wide
        assert found == (share > 0.5)
