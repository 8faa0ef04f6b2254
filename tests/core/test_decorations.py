"""Art on bodies: unrolled by length, raised and sunk along the normals, closed."""

import re
from typing import Any

import numpy as np
import pytest
import trimesh
from scipy.spatial import cKDTree

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue, NotSolid
from nebrel.core.forms.unrolled import Unrolled, unroll
from nebrel.core.kernel import Solid, block, cylinder
from nebrel.core.mesh.closed import closed
from nebrel.core.mesh.measure import measure
from nebrel.core.mesh.nearest import Nearby
from nebrel.core.solid.decorate import LIFT_MM, Does, decorate
from nebrel.core.solid.spread import Placing, spread

UP = (0.0, 0.0, 1.0)


def of(made: trimesh.Trimesh) -> Mesh:
    return Mesh(made.vertices.astype(np.float32), made.faces.astype(np.int32), "body")


def ball() -> Mesh:
    return of(trimesh.creation.icosphere(subdivisions=5, radius=30))


def column() -> Mesh:
    return of(trimesh.creation.cylinder(25, 60, sections=160))


def doughnut() -> Mesh:
    return of(trimesh.creation.torus(40, 15, major_sections=160, minor_sections=70))


BODIES = {
    "ball": (ball, (30, 3, 4)),
    "column": (column, (25, 1, 3)),
    "doughnut": (doughnut, (55, 0, 0)),
}


def spots(reach: float, count: int = 400) -> np.ndarray:
    rng = np.random.default_rng(3)
    away, angle = reach * np.sqrt(rng.random(count)), rng.random(count) * 2 * np.pi
    return np.column_stack([away * np.cos(angle), away * np.sin(angle), np.zeros(count)])


def by(flat: np.ndarray, u: float = 0, v: float = 0, h: float = 0) -> np.ndarray:
    return flat + np.array([u, v, h])


def test_lengths_from_the_middle_are_kept_on_a_ball() -> None:
    place = unroll(ball(), (30, 3, 4), UP, 0, 10)
    flat = spots(9.5)
    on = place.place(flat)
    middle = place.place(np.zeros((1, 3)))[0]
    cosine = on @ middle / np.linalg.norm(on, axis=1) / np.linalg.norm(middle)
    turned = np.arccos(np.clip(cosine, -1, 1))
    away = np.hypot(*flat[:, :2].T)
    far = away > 1
    assert np.abs(30 * turned[far] / away[far] - 1).max() < 0.01
    # Across it a circle of a ball is shorter than flat: sin(x) / x.
    assert place.stretch[0] == pytest.approx(np.sin(1 / 3) / (1 / 3), abs=0.01)


@pytest.mark.parametrize("turn", [0, 30, -120])
def test_on_a_column_it_is_exact_and_stands_upright(turn: float) -> None:
    place = unroll(column(), (25, 1, 3), UP, turn, 10)
    flat = spots(9)
    on, middle = place.place(flat), place.place(np.zeros((1, 3)))[0]
    around = np.arctan2(on[:, 1], on[:, 0]) - np.arctan2(middle[1], middle[0])
    angle = np.radians(turn)
    u = flat[:, 0] * np.cos(angle) - flat[:, 1] * np.sin(angle)
    v = flat[:, 0] * np.sin(angle) + flat[:, 1] * np.cos(angle)
    assert np.abs(around * 25 - u).max() < 0.01
    assert np.abs(on[:, 2] - middle[2] - v).max() < 0.01


def test_heights_are_along_the_normal() -> None:
    place = unroll(doughnut(), (55, 0, 0), UP, 0, 8)
    flat = spots(7)
    for high in (-0.5, 0.4, 2.0):
        points = place.place(by(flat, h=high))
        ring = np.hypot(points[:, 0], points[:, 1]) - 40
        assert np.abs(np.hypot(ring, points[:, 2]) - 15 - high).max() < 0.03


def test_what_reaches_beyond_a_fold_is_refused_with_what_fits() -> None:
    with pytest.raises(InvalidValue, match="smaller"):
        unroll(of(trimesh.creation.box((20, 20, 20))), (10, 0, 0), UP, 0, 25)
    open_ = ball()
    half = Mesh(open_.vertices, open_.faces[(open_.vertices[open_.faces][..., 1] > -3).all(axis=1)])
    with pytest.raises(InvalidValue, match="ends"):
        unroll(half, (30, 0, 0), UP, 0, 12)


def stamp(high: float = 1.3) -> Solid:
    """A round of 6 mm radius about (8, 8) on a backing of 0.3 mm."""
    return cylinder(high, 6, 96).translate((8, 8, 0))


def laid(name: str, sink: bool, art: Solid | None = None) -> tuple[Mesh, Mesh, Unrolled]:
    make, at = BODIES[name]
    body = make()
    place = unroll(body, at, UP, 0, 11)
    does: Does = "sink" if sink else "raise"
    found, report = decorate(body, art or stamp(), 0.3, [place], (16, 16), does, 0.004)
    assert report.manifold
    assert trimesh.Trimesh(found.vertices, found.faces, process=False).is_volume
    return body, found, place


@pytest.mark.parametrize("sink", [False, True])
@pytest.mark.parametrize("name", BODIES)
def test_it_is_as_deep_everywhere_and_takes_as_much_as_it_should(name: str, sink: bool) -> None:
    body, found, place = laid(name, sink)
    asked = spots(5.2, 500)
    sign = -1 if sink else 1
    want = 1.0 - LIFT_MM
    on = place.place(by(asked, h=sign * want))
    away = Nearby.of(found).nearest(on)[0]
    assert away.max() < 0.02
    ways = place.place(by(asked, h=1)) - place.place(asked)
    deep = np.einsum("ij,ij->i", on - Nearby.of(body).nearest(place.place(asked))[2], ways)
    assert np.abs(deep - sign * want).max() < 0.02
    # The area of the round on that surface by how much it grows on its way out or in.
    grid = np.stack(np.meshgrid(*[np.linspace(-6, 6, 161)] * 2), axis=-1).reshape(-1, 2)
    grid = grid[np.hypot(*grid.T) < 6]
    flat, step, volume = np.column_stack([grid, np.zeros(len(grid))]), 0.02, 0.0
    beside = [by(flat, u=step), by(flat, u=-step), by(flat, v=step), by(flat, v=-step)]
    surface = [place.place(at) for at in beside]
    normals = [place.place(by(at, h=1)) - on for at, on in zip(beside, surface, strict=True)]
    for high in (np.arange(8) + 0.5) / 8 * want * sign:
        right, left, ahead, back = (p + high * n for p, n in zip(surface, normals, strict=True))
        spread = np.cross(right - left, ahead - back) / (2 * step) ** 2
        volume += float(np.linalg.norm(spread, axis=1).sum()) * (12 / 160) ** 2 * want / 8
    change = measure(found).volume_mm3 - measure(body).volume_mm3
    assert abs(change) == pytest.approx(volume, rel=0.012)
    assert (change < 0) == sink


def test_where_two_surfaces_come_too_near_it_is_laid_on_a_hair_apart(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    _, at_once, place = laid("ball", False)
    asked: list[int] = []

    def at_last(*given: Any) -> Any:
        asked.append(1)
        if len(asked) < 4:
            raise NotSolid("piece", "faces of it would pass through each other", "Move it")
        return closed(*given)

    monkeypatch.setattr("nebrel.core.solid.decorate.closed", at_last)
    _, found, _ = laid("ball", False)
    assert len(asked) == 4
    away = Nearby.of(found).nearest(place.place(by(spots(5.2), h=1.0 - LIFT_MM)))[0]
    assert away.max() < 0.02
    assert measure(found).volume_mm3 == pytest.approx(measure(at_once).volume_mm3, rel=1e-4)


def test_away_from_it_the_body_is_untouched() -> None:
    body, found, _ = laid("ball", False)
    behind = body.vertices[body.vertices[:, 0] < 0]
    away, _ = cKDTree(found.vertices).query(behind)
    assert away.max() < 1e-4
    left = (found.vertices[found.faces][..., 0] < 0).all(axis=1).sum()
    assert left == (body.vertices[body.faces][..., 0] < 0).all(axis=1).sum()


def test_a_wall_that_is_too_thin_is_refused_with_its_thickness() -> None:
    shell = of(trimesh.creation.annulus(24.2, 25, 60, sections=160))
    place = unroll(shell, (25, 0, 0), UP, 0, 11)
    with pytest.raises(InvalidValue, match=r"the wall is 0\.[78]\d* mm thick"):
        decorate(shell, stamp(), 0.3, [place], (16, 16), "sink", 0.004)
    _, report = decorate(shell, stamp(), 0.3, [place], (16, 16), "raise", 0.004)
    assert report.manifold
    assert report.volume_mm3 > measure(shell).volume_mm3


def test_an_open_body_is_refused() -> None:
    whole = ball()
    torn = Mesh(whole.vertices, whole.faces[:-40], "torn")
    place = unroll(whole, (30, 0, 0), UP, 0, 11)
    with pytest.raises(NotSolid, match="not closed"):
        decorate(torn, block((16, 16, 1)), 0.3, [place], (16, 16), "raise", 0.01)


def test_in_a_hollow_narrower_than_it_is_high_it_is_refused() -> None:
    groove = trimesh.creation.annulus(3, 20, 40, sections=80)  # a hole of 3 mm radius
    body = of(groove)
    place = unroll(body, (3, 0, 0), UP, 0, 5)
    art = block((6, 6, 4.3))
    with pytest.raises(InvalidValue, match="runs into itself"):
        decorate(body, art, 0.3, [place], (6, 6), "raise", 0.04)
    _, report = decorate(body, block((6, 6, 1.3)), 0.3, [place], (6, 6), "raise", 0.04)
    assert report.manifold


def test_through_a_wall_it_is_an_opening() -> None:
    shell = of(trimesh.creation.annulus(22, 25, 60, sections=200))
    place = unroll(shell, (25, 0, 0), UP, 0, 11)
    found, report = decorate(shell, stamp(), 0.3, [place], (16, 16), "through", 0.004)
    assert report.manifold
    gone = measure(shell).volume_mm3 - report.volume_mm3
    assert gone == pytest.approx(np.pi * 36 * 3 * 23.5 / 25, rel=0.02)
    made = trimesh.Trimesh(found.vertices, found.faces, process=False)
    assert made.euler_number == trimesh.Trimesh(shell.vertices, shell.faces).euler_number - 2


def test_what_is_too_large_is_told_how_large_it_may_be() -> None:
    body = of(trimesh.creation.icosphere(subdivisions=4, radius=30))
    names: dict[str, Any] = {"lie": "surface", "level": False, "layout": "around", "line": "edge"}
    once: dict[str, Any] = {"turn": 0.0, "repeat": 1, "rows": 1, "gap_mm": 1.0, "row_gap_mm": 1.0}
    how = Placing(at=(0, -30, 0), up=UP, axis=2, **once, **names)
    with pytest.raises(InvalidValue, match="no larger than") as refused:
        spread(body, how, (200.0, 30.0))
    wide, tall = map(float, re.findall(r"([\d.]+) × ([\d.]+) mm", refused.value.remedy)[0])
    assert wide / tall == pytest.approx(200 / 30, rel=0.02)
    assert np.hypot(wide, tall) > 90  # of the 188 mm around it
    spread(body, how, (wide, tall))
    with pytest.raises(InvalidValue):
        spread(body, how, (wide * 1.5, tall * 1.5), draft=True)
