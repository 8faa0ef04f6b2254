"""Flat regions with many holes as triangles, and solids of many parts."""

import numpy as np
import pytest
import trimesh

from nebrel.core.data import Picture
from nebrel.core.kernel import block, mesh_of, non_zero, square
from nebrel.core.outline.outline import area_of
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.recipe.models import load_recipe
from nebrel.core.solid.flat import flat_triangles, swept
from nebrel.core.solid.terraced import stepped


def round_line(x: float, y: float, radius: float, sides: int = 24) -> np.ndarray:
    turn = np.linspace(0, 2 * np.pi, sides + 1)[:-1]
    return np.column_stack([x + radius * np.cos(turn), y + radius * np.sin(turn)])


def box(x: float, y: float, side: float) -> np.ndarray:
    return np.array([[x, y], [x + side, y], [x + side, y + side], [x, y + side]], float)


def holed(seed: int, count: int = 12) -> list[np.ndarray]:
    """A plate with rounds and boxes cut out, islands in some, many at equal heights."""
    rng = np.random.default_rng(seed)
    lines = [box(0, 0, 10.0 * count)]
    for k in range(count * count):
        x, y = 10.0 * (k % count) + 5, 10.0 * (k // count) + 5
        hole = box(x - 3, y - 3, 6) if rng.random() < 0.4 else round_line(x, y, 4)
        lines.append(hole[::-1])
        if rng.random() < 0.5:
            lines.append(round_line(x, y, 2, int(rng.integers(3, 9))))
    return lines


@pytest.mark.parametrize("seed", range(5))
def test_a_region_of_many_holes_is_cut_into_triangles_that_fit(seed: int) -> None:
    lines = holed(seed)
    found = swept(lines)
    assert found is not None
    points = np.concatenate(lines)
    a, b, c = (points[found[:, k]] for k in range(3))
    twice = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    assert twice.min() >= 0
    assert twice.sum() / 2 == pytest.approx(sum(area_of(line) for line in lines))
    edges = {(int(f[k]), int(f[k - 2])) for f in found for k in range(3)}
    assert len(edges) == 3 * len(found)
    own, first = set(), 0
    for line in lines:
        numbers = np.arange(len(line)) + first
        own |= set(zip(numbers.tolist(), np.roll(numbers, -1).tolist(), strict=True))
        first += len(line)
    assert {edge for edge in edges if edge[::-1] not in edges} == own


def test_lines_that_touch_are_left_to_the_kernel() -> None:
    touching = [box(0, 0, 700.0)]
    touching += [box(10.0 * k, 5, 10)[::-1] for k in range(1, 66)]
    found = flat_triangles(touching)
    points = np.concatenate(touching)
    sides = points[found[:, 1:]] - points[found[:, :1]]
    area = (sides[:, 0, 0] * sides[:, 1, 1] - sides[:, 0, 1] * sides[:, 1, 0]).sum() / 2
    assert area == pytest.approx(700**2 - 6500, rel=1e-6)


def test_steps_are_the_same_solid_as_a_union() -> None:
    section = non_zero([round_line(x, y, 3) for x in (5, 15, 25) for y in (5, 15)])
    steps = mesh_of(stepped([(square((30, 20)), 1.0), (section, 3.0)]))
    united = block((30.0, 20.0, 1.0)) + section.extrude(3.0)
    mesh = trimesh.Trimesh(steps.vertices, steps.faces)
    assert mesh.is_watertight
    assert mesh.volume == pytest.approx(united.volume(), rel=1e-6)


def test_hundreds_of_parts_stand_on_their_plate() -> None:
    picture = np.ones((340, 340), np.float32)
    y, x = np.mgrid[:340, :340] % 20
    picture[:] = np.clip(np.hypot(x - 9.6, y - 9.8) - 4.5, 0, 1)
    off = {"kind": "picture", "id": "picture", "enabled": False}
    trace = {"kind": "traced", "height": 2, "trace": {"level": 0.5}}
    art = {"picture": {"file": {"sha256": "0" * 64}, "side": 170}, "backing": 1}
    recipe = load_recipe({"begins": {"art": art | {"build_up": [off, trace]}}})
    found = Evaluator(lambda _: Picture(picture)).evaluate(recipe)
    assert found.report.manifold
    assert found.report.bodies == 1
    mesh = trimesh.Trimesh(found.mesh.vertices, found.mesh.faces)
    assert mesh.is_watertight
    rounds = 289 * np.pi * (5 * 170 / 339) ** 2
    assert mesh.volume == pytest.approx(170 * 170 + 2 * rounds, rel=0.005)
