"""The network of right triangles: near every pixel, without a gap, over pictures of any shape."""

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from nebrel.core.data import HeightField, Picture
from nebrel.core.errors import Cancelled, TooLarge
from nebrel.core.mesh.measure import measure
from nebrel.core.recipe.evaluator import Evaluator
from nebrel.core.recipe.models import load_recipe
from nebrel.core.solid.close import close
from nebrel.core.solid.network import network
from nebrel.core.solid.thin import thin
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
    way=st.sampled_from(["quick", "auto", "fewest"]),
)
def test_it_is_near_every_pixel_and_has_no_gap(
    rows: int, cols: int, seed: int, calm: float, tolerance: float, around: bool, way: str
) -> None:
    mm = np.random.default_rng(seed).random((rows, cols)).astype(np.float32)
    if calm > 0.3:
        mm = cv2.GaussianBlur(mm, (0, 0), calm)
    if around:
        mm[:, -1] = mm[:, 0]
    places, faces = network(mm, tolerance, around)
    if way != "quick":
        many = len(faces)
        places, faces = thin(mm, places, faces, tolerance, way == "fewest", around)
        assert len(faces) <= many
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


@pytest.mark.parametrize("rough", [0, 0.02, 0.1])
def test_a_thinned_network_has_fewer_triangles_than_insertion(rough: float) -> None:
    noise = rough * np.random.default_rng(0).random((400, 400)).astype(np.float32)
    field = HeightField(3 * smooth_noise(400, 400, 3, 3, 1) + noise, 50.0, 50.0)
    ways = ("fewest", "auto", "greedy", "quick")
    fewest, few, greedy, quick = (len(triangulate(field, 0.01, method=w).faces) for w in ways)
    assert fewest <= few < 1.2 * fewest
    assert few < 0.9 * greedy
    assert few < 0.8 * quick


def test_no_triangle_of_a_thinned_network_is_a_needle() -> None:
    rng = np.random.default_rng(1)
    mm = 3 * smooth_noise(150, 210, 3, 3, 1) + 0.02 * rng.random((150, 210))
    places, faces = network(mm.astype(np.float32), 0.01)
    places, faces = thin(mm.astype(np.float32), places, faces, 0.01, thorough=True)
    corners = places[faces].astype(float)
    sides = np.roll(corners, -1, axis=1) - corners
    twice = np.abs(sides[:, 0, 0] * sides[:, 1, 1] - sides[:, 0, 1] * sides[:, 1, 0])
    assert (twice / (sides**2).sum(axis=2).max(axis=1)).min() > 0.0999


def test_what_is_thinned_by_bands_is_whole_too() -> None:
    rng = np.random.default_rng(2)
    mm = rng.random((300, 200)).astype(np.float32)
    places, faces = thin(mm, *network(mm, 0.05), 0.05)
    assert len(faces) > 60_000
    worst = distances(mm, places, faces)
    assert not np.isnan(worst).any()
    assert worst.max() <= 0.05 + 1e-6
    ends = places[open_edges(faces)]
    assert np.abs(np.diff(ends, axis=1)).sum() == 2 * (299 + 199)


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

    rough = np.random.default_rng(0).random((600, 600)).astype(np.float32)
    with pytest.raises(Cancelled):
        network(rough, 0.01, tell=tell)
    assert len(asked) == 3
    asked.clear()
    with pytest.raises(Cancelled):
        thin(rough, *network(rough, 0.01), 0.01, thorough=True, tell=tell)
    assert len(asked) == 3


def test_what_went_in_one_band_is_not_tried_again_in_the_last_pass() -> None:
    """A vertex at the right border went twice, and took a triangle with it that stood there."""
    y, x = np.mgrid[0:400, 0:500]

    def disc(across: int, down: int, radius: int) -> np.ndarray:
        return np.clip(radius - np.hypot(x - across, y - down) + 0.5, 0, 1)

    cover = np.maximum(disc(180, 200, 120) - disc(180, 200, 50), disc(390, 200, 70))
    bar = np.clip(6 - abs(y - 200) + 0.5, 0, 1) * ((x > 180) & (x < 390))
    cover = np.clip(np.maximum(cover, bar) - disc(180, 200, 50), 0, 1)
    tone = (1 - cover).astype(np.float32)
    text = {"kind": "text", "id": "t", "rule": "add", "height": "1.52 mm", "text": "O8"}
    frame = {"kind": "frame", "id": "f", "wide": "1.92 mm", "height": "2.87 mm"}
    entries = [
        {"kind": "picture", "id": "picture"},
        text | {"x": "-5.81 mm", "y": "-12.58 mm"},
        frame | {"inset": "0.66 mm"},
    ]
    file = {"sha256": "0" * 64}
    art = {"picture": {"file": file, "side": "80 mm"}, "backing": "1 mm", "draft": 5}
    found = Evaluator(lambda _: Picture(tone)).evaluate(
        load_recipe({"begins": {"art": art | {"build_up": entries}}})
    )
    assert found.report.manifold
