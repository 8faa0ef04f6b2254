"""The network of right triangles: near every pixel, without a gap, over pictures of any shape."""

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from nebrel.core.data import HeightField
from nebrel.core.errors import Cancelled, TooLarge
from nebrel.core.mesh.measure import measure
from nebrel.core.solid.close import close
from nebrel.core.solid.network import network
from nebrel.core.solid.triangulate import triangulate
from nebrel.demo.pictures import smooth_noise


def distances(mm: np.ndarray, places: np.ndarray, faces: np.ndarray) -> np.ndarray:
    """How far every pixel is from the triangles over it; NaN where there is none."""
    worst = np.full(mm.shape, np.nan)
    for face in faces:
        (ax, ay), (bx, by), (cx, cy) = places[face].astype(float)
        x, y = np.meshgrid(
            np.arange(min(ax, bx, cx), max(ax, bx, cx) + 1),
            np.arange(min(ay, by, cy), max(ay, by, cy) + 1),
        )
        area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
        assert area < 0  # rows run downwards, and it looks up
        u = ((x - ax) * (cy - ay) - (y - ay) * (cx - ax)) / area
        v = ((bx - ax) * (y - ay) - (by - ay) * (x - ax)) / area
        inside = (u >= -1e-9) & (v >= -1e-9) & (u + v <= 1 + 1e-9)
        a, b, c = (float(mm[row, col]) for col, row in places[face])
        rows, cols = y[inside].astype(int), x[inside].astype(int)
        off = np.abs(a + u[inside] * (b - a) + v[inside] * (c - a) - mm[rows, cols])
        worst[rows, cols] = np.fmax(worst[rows, cols], off)
    return worst


def open_edges(faces: np.ndarray) -> np.ndarray:
    """Edges that are walked one way only, (n, 2) vertices."""
    edges = np.concatenate([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]])
    walked = {(int(a), int(b)) for a, b in edges}
    assert len(walked) == len(edges)
    return np.array([(a, b) for a, b in walked if (b, a) not in walked])


@settings(max_examples=60)
@given(
    rows=st.integers(2, 45),
    cols=st.integers(2, 45),
    seed=st.integers(0, 999),
    calm=st.floats(0, 4),
    tolerance=st.sampled_from([0.004, 0.05, 0.3]),
    around=st.booleans(),
)
def test_it_is_near_every_pixel_and_has_no_gap(
    rows: int, cols: int, seed: int, calm: float, tolerance: float, around: bool
) -> None:
    mm = np.random.default_rng(seed).random((rows, cols)).astype(np.float32)
    if calm > 0.3:
        mm = cv2.GaussianBlur(mm, (0, 0), calm)
    if around:
        mm[:, -1] = mm[:, 0]
    places, faces = network(mm, tolerance, around)
    worst = distances(mm, places, faces)
    assert not np.isnan(worst).any()
    assert worst.max() <= tolerance + 1e-6
    # All that is open lies on the edge of the picture, and all of the edge is there.
    ends = places[open_edges(faces)]
    on_side = (ends[:, 0, 0] == ends[:, 1, 0]) & np.isin(ends[:, 0, 0], [0, cols - 1])
    on_end = (ends[:, 0, 1] == ends[:, 1, 1]) & np.isin(ends[:, 0, 1], [0, rows - 1])
    assert (on_side | on_end).all()
    assert np.abs(np.diff(ends, axis=1)).sum() == 2 * (rows - 1 + cols - 1)
    assert len(np.unique(faces)) == len(places)
    if around:
        first, last = (set(places[places[:, 0] == col, 1]) for col in (0, cols - 1))
        assert first == last


@pytest.mark.parametrize("shape", [(2, 2), (3, 900), (257, 257), (300, 401), (512, 130)])
def test_a_solid_over_any_shape_is_closed(shape: tuple[int, int]) -> None:
    mm = 1 + 2 * smooth_noise(*shape, 5, 4, 3)
    field = HeightField(mm, 50.0, 50.0 * (shape[0] - 1) / (shape[1] - 1))
    report = measure(close(triangulate(field, 0.01, method="quick")))
    assert report.manifold
    assert report.size_mm[:2] == pytest.approx((field.wide_mm, field.tall_mm), rel=1e-5)


def test_a_plane_is_as_few_triangles_as_there_are_squares() -> None:
    for shape, squares in (((129, 129), 1), ((100, 150), 2), ((100, 199), 2), ((100, 400), 4)):
        _, faces = network(np.full(shape, 2.0, np.float32), 0.01)
        assert len(faces) == 2 * squares


def test_the_fewest_triangles_are_taken_where_that_takes_a_moment() -> None:
    smooth = HeightField(3 * smooth_noise(200, 200, 3, 3, 1), 50.0, 50.0)
    count = {way: len(triangulate(smooth, 0.01, method=way).faces) for way in ("auto", "quick")}
    fewest = len(triangulate(smooth, 0.01, method="fewest").faces)
    assert count["auto"] == fewest < count["quick"] < 2.2 * fewest
    rough = np.random.default_rng(0).random((900, 900)).astype(np.float32)
    field = HeightField(rough, 50.0, 50.0)
    quick = triangulate(field, 0.01, method="auto")
    assert len(quick.faces) == len(triangulate(field, 0.01, method="quick").faces)


def test_it_gives_up_beyond_a_number_or_settles_for_it() -> None:
    noise = np.random.default_rng(0).random((200, 300)).astype(np.float32)
    field = HeightField(noise, 40.0, 40.0)
    with pytest.raises(TooLarge, match=r"more than 0\.02 million triangles"):
        triangulate(field, 0.01, 20_000, method="quick")
    assert len(triangulate(field, 0.01, 20_000, settle=True, method="quick").faces) <= 20_000


def test_it_can_be_called_off_on_the_way() -> None:
    asked = []

    def tell() -> None:
        asked.append(1)
        if len(asked) == 3:
            raise Cancelled("work", "it was called off", "Start it again")

    with pytest.raises(Cancelled):
        network(np.random.default_rng(0).random((600, 600)).astype(np.float32), 0.01, tell=tell)
    assert len(asked) == 3
