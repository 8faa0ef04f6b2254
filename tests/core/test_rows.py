"""Equal rows against numpy's own answer."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from nebrel.core.mesh.rows import unique_rows


@given(arrays(np.int64, st.tuples(st.integers(1, 60), st.just(3)), elements=st.integers(-3, 3)))
def test_the_same_rows_are_found(rows: np.ndarray) -> None:
    first, kind = unique_rows(rows)
    assert (rows[first][kind] == rows).all()
    assert len(first) == len(np.unique(rows, axis=0))


def test_reals_are_compared_bit_by_bit() -> None:
    rows = np.array([[0.1, 2, 3], [0.1, 2, 3], [np.float32(0.1) + 1e-8, 2, 3.0000005]], np.float32)
    first, kind = unique_rows(rows)
    assert kind[0] == kind[1] != kind[2]
    assert len(first) == 2
