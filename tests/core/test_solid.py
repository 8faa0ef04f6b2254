import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from scipy.interpolate import LinearNDInterpolator

from nebrel.core.data import HeightField, Mesh
from nebrel.core.errors import NotSolid, TooLarge
from nebrel.core.mesh.measure import measure
from nebrel.core.solid.close import close
from nebrel.core.solid.triangulate import triangulate


def heights_at_pixels(surface: Mesh, field: HeightField) -> np.ndarray:
    """The surface's height at every pixel, computed triangle by triangle."""
    rows, cols = field.mm.shape
    found = np.full((rows, cols), np.nan)
    pitch_x, pitch_y = field.pitch_mm
    corners = surface.vertices[surface.faces].astype(np.float64)
    for triangle in corners:
        x0, x1 = triangle[:, 0].min() / pitch_x, triangle[:, 0].max() / pitch_x
        y0, y1 = triangle[:, 1].min() / pitch_y, triangle[:, 1].max() / pitch_y
        xs = np.arange(round(x0), round(x1) + 1)
        ys = np.arange(round(y0), round(y1) + 1)
        gx, gy = np.meshgrid(xs, ys)
        matrix = np.column_stack(
            [triangle[1, :2] - triangle[0, :2], triangle[2, :2] - triangle[0, :2]]
        )
        offset = np.stack([gx * pitch_x - triangle[0, 0], gy * pitch_y - triangle[0, 1]], axis=-1)
        weights = offset @ np.linalg.inv(matrix).T
        u, v = weights[..., 0], weights[..., 1]
        inside = (u >= -1e-6) & (v >= -1e-6) & (u + v <= 1 + 1e-6)
        z = (
            triangle[0, 2]
            + u * (triangle[1, 2] - triangle[0, 2])
            + v * (triangle[2, 2] - triangle[0, 2])
        )
        found[rows - 1 - gy[inside], gx[inside]] = z[inside]
    return found


def solid_of(
    mm: np.ndarray, tolerance: float = 0.01, wide: float = 30.0
) -> tuple[HeightField, Mesh]:
    rows, cols = mm.shape
    field = HeightField(mm.astype(np.float32), wide, wide / (cols - 1) * (rows - 1))
    return field, close(triangulate(field, tolerance))


def integral(field: HeightField) -> float:
    """Volume under the bilinear surface through the pixels."""
    z = field.mm.astype(np.float64)
    cells = (z[:-1, :-1] + z[1:, :-1] + z[:-1, 1:] + z[1:, 1:]) / 4
    return float(cells.sum() * field.pitch_mm[0] * field.pitch_mm[1])


def test_a_plane_needs_twelve_triangles_and_is_exact() -> None:
    _, mesh = solid_of(np.full((50, 80), 2.5))
    report = measure(mesh)
    assert report.triangles == 12
    assert report.manifold
    assert report.volume_mm3 == pytest.approx(30 * (30 / 79 * 49) * 2.5, rel=1e-6)


def test_a_ramp_is_exact() -> None:
    field, mesh = solid_of(np.tile(np.linspace(1, 4, 61), (41, 1)))
    report = measure(mesh)
    assert report.triangles <= 30
    assert report.volume_mm3 == pytest.approx(30 * 20 * 2.5, rel=1e-5)
    assert report.size_mm == (30.0, 20.0, 4.0)
    # Raised towards larger x.
    assert mesh.vertices[mesh.vertices[:, 0] == 30.0, 2].max() == 4.0
    assert field.pitch_mm == (0.5, 0.5)


def test_up_in_the_picture_is_up_in_y() -> None:
    mm = np.ones((30, 30))
    mm[:5] = 3
    _, mesh = solid_of(mm)
    high = mesh.vertices[mesh.vertices[:, 2] > 2.9]
    assert high[:, 1].min() > 24


def test_a_paraboloid_keeps_tolerance_and_volume() -> None:
    y, x = np.mgrid[-1:1:201j, -1:1:201j]
    field, mesh = solid_of(2 + 3 * (1 - x**2 / 2 - y**2 / 2), tolerance=0.02)
    report = measure(mesh)
    assert report.manifold
    assert report.triangles < 2 * 200 * 200 / 8
    assert report.volume_mm3 == pytest.approx(integral(field), abs=0.02 * 900)


def test_one_white_pixel_stands_up() -> None:
    mm = np.ones((21, 21))
    mm[10, 10] = 4
    field, mesh = solid_of(mm, wide=20.0)
    assert measure(mesh).manifold
    assert [10.0, 10.0, 4.0] in mesh.vertices.tolist()
    # A pyramid on the three to eight triangles round the pixel, however the cells are halved.
    assert integral(field) == pytest.approx(403)
    assert 401.5 <= measure(mesh).volume_mm3 <= 404


@settings(max_examples=60, deadline=None)
@given(
    arrays(
        np.float32,
        st.tuples(st.integers(2, 24), st.integers(2, 24)),
        elements=st.floats(0.25, 6, width=32),
    ),
    st.sampled_from([0.004, 0.05, 0.6]),
)
def test_any_heights_become_a_closed_solid_within_tolerance(
    mm: np.ndarray, tolerance: float
) -> None:
    field = HeightField(mm, 30.0, 30.0 / (mm.shape[1] - 1) * (mm.shape[0] - 1))
    surface = triangulate(field, tolerance)
    error = np.abs(heights_at_pixels(surface, field) - mm)
    assert error.max() <= tolerance * (1 + 1e-4)
    report = measure(close(surface))
    assert report.closed
    assert report.manifold
    assert report.bodies == 1
    assert report.volume_mm3 > 0
    assert report.size_mm[0] == 30.0


def test_error_on_a_large_relief_by_an_independent_interpolation() -> None:
    rng = np.random.default_rng(4)
    mm = 1 + 3 * np.cumsum(np.cumsum(rng.normal(size=(120, 150)), 0), 1) / 4000
    mm = mm - mm.min() + 0.5
    field = HeightField(mm.astype(np.float32), 75.0, 75.0 / 149 * 119)
    surface = triangulate(field, 0.01)
    found = heights_at_pixels(surface, field)
    assert np.nanmax(np.abs(found - field.mm)) <= 0.01
    rebuilt = LinearNDInterpolator(surface.vertices[:, :2], surface.vertices[:, 2])
    assert abs(float(rebuilt(37.0, 30.0)) - field.mm[59, 74]) < 0.3


def test_no_thickness_is_refused() -> None:
    mm = np.ones((9, 9))
    mm[4, 4] = 0
    with pytest.raises(NotSolid):
        solid_of(mm)


def test_too_many_triangles_are_refused_with_a_remedy() -> None:
    noise = np.random.default_rng(1).random((80, 80)).astype(np.float32) + 1
    with pytest.raises(TooLarge, match="Allow"):
        triangulate(HeightField(noise, 40, 40), 0.001, most_triangles=500)


def test_a_limit_can_be_settled_for() -> None:
    noise = np.random.default_rng(1).random((80, 80)).astype(np.float32) + 1
    mesh = close(triangulate(HeightField(noise, 40, 40), 0.001, most_triangles=500, settle=True))
    assert measure(mesh).manifold
    assert measure(mesh).triangles < 700
