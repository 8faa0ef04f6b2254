"""Ready shapes: closed, as large as they say, as much in them as mathematics says."""

from dataclasses import replace

import numpy as np
import pytest
import trimesh
from pydantic import ValidationError

from nebrel.core.errors import InvalidValue
from nebrel.core.mesh.measure import measure
from nebrel.core.mesh.place import middle_of, turned_about
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.recipe.models import load_recipe
from nebrel.core.recipe.ready import READY, BottleBody, footprint_mm, sizes_of
from nebrel.core.solid.ready import ready_mesh

PI, Z = np.pi, 2
MUG = {"diameter": 80, "tall": 92, "wall": 3, "floor": 4, "handle": 10, "reach": 32}


@pytest.mark.parametrize("kind", READY)
def test_each_is_closed_stands_on_the_table_and_is_as_wide_as_it_says(kind: str) -> None:
    body = READY[kind]()
    mesh = ready_mesh(kind, **sizes_of(body))
    found = trimesh.Trimesh(mesh.vertices, mesh.faces, process=False)
    assert found.is_volume and found.body_count == 1
    low, high = found.bounds
    assert low[2] == pytest.approx(0, abs=1e-4)
    assert turned_about(mesh, Z)[:2] == pytest.approx([0, 0], abs=0.01)
    assert (high - low)[:2] == pytest.approx(footprint_mm(body), abs=0.02)


@pytest.mark.parametrize(
    ("kind", "sizes", "volume"),
    [
        ("plate", {"wide": 30, "deep": 20, "tall": 4, "corner": 0}, 2400),
        ("box", {"wide": 30, "deep": 20, "tall": 10, "round": 0}, 6000),
        # Of facets within a few micrometres, which are 0.14 percent of so small a ball.
        ("box", {"wide": 10, "deep": 10, "tall": 10, "round": 5}, PI * 1000 / 6 * 0.9986),
        ("cylinder", {"diameter": 40, "tall": 50, "round": 0}, PI * 400 * 50),
        ("tube", {"diameter": 60, "tall": 20, "wall": 2}, PI * (900 - 784) * 20),
        ("cone", {"diameter": 40, "top": 0, "tall": 30}, PI * 400 * 10),
        ("cone", {"diameter": 40, "top": 20, "tall": 30}, PI * 10 * (400 + 200 + 100)),
        ("sphere", {"diameter": 50}, PI * 50**3 / 6),
        ("dome", {"diameter": 60, "tall": 30}, PI * 2 / 3 * 30**3),
        ("torus", {"diameter": 70, "thick": 18}, 2 * PI**2 * 26 * 81),
        ("medal", {"diameter": 40, "tall": 3, "rim": 2, "rim_tall": 1}, PI * (1200 + 400 - 324)),
    ],
)
def test_there_is_as_much_in_it_as_mathematics_says(
    kind: str, sizes: dict[str, float], volume: float
) -> None:
    assert measure(ready_mesh(kind, **sizes)).volume_mm3 == pytest.approx(volume, rel=6e-4)


def test_a_beaker_is_hollow_with_a_floor() -> None:
    mesh = ready_mesh("beaker", diameter=60, top=60, tall=80, wall=2, floor=3)
    assert measure(mesh).volume_mm3 == pytest.approx(PI * (900 * 80 - 784 * 77), rel=1e-3)


def test_a_mug_is_a_beaker_with_a_handle_that_ends_in_its_wall() -> None:
    mesh = ready_mesh("mug", **MUG)
    report = measure(mesh)
    assert report.manifold
    assert report.bodies == 1
    low, high = mesh.vertices.min(axis=0), mesh.vertices.max(axis=0)
    assert [*low, *high] == pytest.approx([-40, -40, 0, 72, 40, 92], abs=0.02)
    # Nothing of the handle is inside.
    beaker = {"diameter": 80, "top": 80, "tall": 92, "wall": 3, "floor": 4}
    away = np.hypot(*mesh.vertices[:, :2].T)
    inside = (away < 38.5) & (mesh.vertices[:, 2] > 5) & (mesh.vertices[:, 2] < 91)
    assert away[inside].min() == pytest.approx(37, abs=0.02)
    assert away[inside].max() == pytest.approx(37, abs=0.02)
    more = report.volume_mm3 - measure(ready_mesh("beaker", **beaker)).volume_mm3
    long = 2 * (92 * 0.29) + 2 * (72 - 5 - 40) - (4 - PI) * 92 * 0.29
    assert more == pytest.approx(PI * 25 * long, rel=0.1)


def test_what_is_mostly_turned_says_about_which_axis() -> None:
    mesh = ready_mesh("mug", **MUG)
    moved = replace(mesh, vertices=mesh.vertices + np.array([5, -3, 8], np.float32))
    assert turned_about(moved, Z) == pytest.approx((5, -3, 54), abs=1e-3)
    assert turned_about(moved, 0) == middle_of(moved)
    cup = ready_mesh("beaker", diameter=60, top=70, tall=80, wall=2, floor=3)
    assert turned_about(cup, Z) == middle_of(cup)


def test_a_bottle_follows_its_profile_solid_and_hollow() -> None:
    straight = [(20.0, 0.0), (20.0, 40.0)]
    solid = measure(ready_mesh("bottle", profile=straight, wall=0, smooth=True))
    assert solid.volume_mm3 == pytest.approx(PI * 400 * 40, rel=1e-3)
    hollow = measure(ready_mesh("bottle", profile=straight, wall=2, smooth=True))
    assert hollow.volume_mm3 == pytest.approx(PI * (400 * 40 - 324 * 38), rel=2e-3)
    assert hollow.manifold and hollow.bodies == 1


@pytest.mark.parametrize(
    ("kind", "sizes"),
    [
        ("tube", {"diameter": 60, "tall": 20, "wall": 30}),
        ("beaker", {"diameter": 10, "top": 10, "tall": 80, "wall": 5, "floor": 3}),
        ("beaker", {"diameter": 60, "top": 60, "tall": 8, "wall": 2, "floor": 8}),
        ("mug", MUG | {"handle": 33}),
        ("mug", MUG | {"reach": 19}),
        ("mug", MUG | {"wall": 0.2}),
        ("torus", {"diameter": 30, "thick": 15}),
        ("medal", {"diameter": 20, "tall": 3, "rim": 10, "rim_tall": 1}),
    ],
)
def test_sizes_that_leave_nothing_are_refused_in_words(kind: str, sizes: dict[str, float]) -> None:
    with pytest.raises(InvalidValue, match="body"):
        ready_mesh(kind, **sizes)


def test_a_profile_goes_upwards() -> None:
    with pytest.raises(ValidationError, match="above the one before"):
        BottleBody(profile=[(10, 0), (12, 5), (11, 5)])
    with pytest.raises(ValidationError, match="some width"):
        BottleBody(profile=[(0, 0), (0.1, 5)])


def made(body: dict[str, object], **begins: object) -> trimesh.Trimesh:
    recipe = load_recipe({"begins": {"kind": "body", "body": body, **begins}})
    mesh = Evaluator(lambda _: None).evaluate(recipe).mesh  # type: ignore[arg-type, return-value]
    return trimesh.Trimesh(mesh.vertices, mesh.faces, process=False)


def test_a_body_is_turned_sized_and_set_down() -> None:
    box = {"kind": "box", "wide": 30, "deep": 20, "tall": 10, "round": 0}
    turned = made(box, turn_y=90, times=2, set_down=True)
    assert turned.bounds == pytest.approx(np.array([[-10, -20, 0], [10, 20, 60]]), abs=1e-3)


def test_a_piece_is_a_body_as_it_is_finished() -> None:
    first = {"begins": {"kind": "body", "body": {"kind": "sphere", "diameter": 20}}}
    first["finish"] = [{"kind": "scale", "x": 2, "y": 2, "z": 2}]  # type: ignore[assignment]
    linked = made({"kind": "piece", "piece_id": "1", "recipe": first})
    assert linked.extents == pytest.approx([40, 40, 40], abs=0.02)
