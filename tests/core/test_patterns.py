"""Made pictures: the same from the same numbers, without a seam where that is asked for."""

from dataclasses import replace

import numpy as np
import pytest

from nebrel.core.errors import InvalidValue
from nebrel.core.picture.patterns import PATTERNS, Dials, PatternKind, pattern

SMALL = Dials(pixels=200, across=4)


@pytest.mark.parametrize("kind", PATTERNS)
def test_the_same_numbers_give_the_same_and_another_seed_another(kind: PatternKind) -> None:
    made = pattern(kind, SMALL)
    assert made.shape == (200, 200) and made.dtype == np.float32
    assert made.min() == 0 and made.max() == 1 and made.std() > 0.05
    assert (made == pattern(kind, SMALL)).all()
    lively = replace(SMALL, uneven=1.0)
    assert (pattern(kind, lively) != pattern(kind, replace(lively, seed=9))).any()


@pytest.mark.parametrize("kind", PATTERNS)
def test_a_tile_goes_on_at_its_other_side(kind: PatternKind) -> None:
    made = pattern(kind, replace(SMALL, pixels=320, uneven=0.7)).astype(np.float64)
    for axis in (0, 1):
        inner = np.abs(np.diff(made, axis=axis)).mean(axis=1 - axis)
        seam = np.abs(np.take(made, 0, axis) - np.take(made, -1, axis)).mean()
        assert seam <= inner.max() * 1.05


@pytest.mark.parametrize(
    "wrong",
    [{"pixels": 4}, {"pixels": 9000}, {"across": 0}, {"across": 100}, {"uneven": 2}, {"soft": -1}],
)
def test_numbers_that_cannot_be_are_refused(wrong: dict[str, float]) -> None:
    with pytest.raises(InvalidValue):
        pattern("stars", replace(SMALL, **wrong))  # type: ignore[arg-type]


def test_edges_are_as_soft_as_asked() -> None:
    hard, soft = (pattern("knots", replace(SMALL, soft=share)) for share in (0.0, 1.0))
    steepest = [np.abs(np.diff(one, axis=1)).max() for one in (hard, soft)]
    assert steepest[0] > steepest[1]
