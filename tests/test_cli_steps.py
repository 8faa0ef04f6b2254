"""Every finish step is a command: it does the same, and refuses the same."""

import json
from pathlib import Path
from typing import Any, get_args

import numpy as np
import pytest

from nebrel.cli import COMMANDS, main
from nebrel.core.data import Mesh
from nebrel.core.formats.meshes import read_mesh, write_mesh
from nebrel.core.mesh.measure import measure
from nebrel.core.recipe.finish import FinishStep
from tests.meshes import ball, box, joined
from tests.test_cli import refused

Capture = pytest.CaptureFixture[str]
OTHERWISE = {"even": "remesh"}
STROKES = [{"places": [[0, 0, 10], [2, 0, 9.8]], "size": 6, "strength": 0.8}]


def test_there_is_a_command_for_every_step() -> None:
    union, _ = get_args(FinishStep)
    kinds = {step.model_fields["kind"].default for step in get_args(union)}
    assert {OTHERWISE.get(kind, kind) for kind in kinds} <= set(COMMANDS)


def done(tmp_path: Path, mesh: Mesh, command: str, *options: str) -> Mesh:
    write_mesh(mesh, tmp_path / "in.ply")
    strokes = tmp_path / "strokes.json"
    strokes.write_text(json.dumps(STROKES))
    out = tmp_path / "out.ply"
    given = [str(strokes) if option == "STROKES" else option for option in options]
    assert main([command, str(tmp_path / "in.ply"), "-o", str(out), *given]) == 0
    return read_mesh(out)


def open_box() -> Mesh:
    whole = box(20, 10, 6)
    up = (whole.vertices[whole.faces][..., 2] > 2.9).all(axis=1)
    return Mesh(whole.vertices, whole.faces[~up])


def sizes(mesh: Mesh) -> Any:
    return np.ptp(mesh.vertices, axis=0)


def test_they_do_what_the_steps_do(tmp_path: Path) -> None:
    brick = box(20, 10, 6)
    cup = measure(done(tmp_path, open_box(), "thicken", "--thick", "1"))
    assert cup.manifold
    assert cup.volume_mm3 == pytest.approx(20 * 10 * 6 - 18 * 8 * 5, rel=0.03)
    soft = measure(done(tmp_path, brick, "soften", "--radius", "1"))
    assert soft.manifold and 0.93 * 1200 < soft.volume_mm3 < 0.995 * 1200
    assert sizes(done(tmp_path, brick, "scale", "--times", "1,2,0.5")) == pytest.approx((20, 20, 3))
    assert sizes(done(tmp_path, brick, "scale", "--size", "z=1in"))[2] == pytest.approx(25.4)
    large = measure(done(tmp_path, brick, "scale", "--volume", "9.6"))
    assert large.volume_mm3 == pytest.approx(9600, rel=1e-4)
    halves = measure(done(tmp_path, brick, "split", "--plane", "x=0", "--pins", "0"))
    assert (halves.manifold, halves.bodies) == (True, 2)
    assert halves.volume_mm3 == pytest.approx(1200, rel=1e-3)
    apart = done(tmp_path, joined(brick, box(5, 5, 5, at=(0, 0, 30))), "split", "--bodies")
    assert sizes(apart)[2] == pytest.approx(6)
    turned = done(tmp_path, brick, "turn", "--about-y", "90", "--mirror", "x")
    assert sizes(turned) == pytest.approx((6, 10, 20), abs=1e-4)
    laid = done(tmp_path, brick, "lay", "--towards", "1,0,0")
    assert sizes(laid)[2] == pytest.approx(20, abs=1e-4)
    red = done(tmp_path, brick, "colour", "--by", "one", "--colours", "#ff0000")
    assert red.colours is not None and (red.colours[:, :3] == (255, 0, 0)).all()
    out = done(tmp_path, ball(10), "push", "--strokes", "STROKES")
    assert out.vertices[:, 2].max() == pytest.approx(10.8, abs=0.1)
    calmed = done(tmp_path, out, "smooth", "--rounds", "40", "--strokes", "STROKES")
    assert calmed.vertices[:, 2].max() < out.vertices[:, 2].max() - 0.02
    drained = measure(done(tmp_path, ball(10), "hollow", "--wall", "2", "--drains", "1"))
    assert drained.manifold and drained.bodies == 1


@pytest.mark.parametrize(
    ("command", "words"),
    [
        (["thicken", "--thick", "2"], "closed already"),
        (["soften", "--radius", "nan"], "nan"),
        (["scale", "--times", "0"], "below 0.0001"),
        (["scale", "--times", "1,2"], "no factor"),
        (["scale", "--size", "z=-3"], "outside 0.01"),
        (["scale", "--volume", "inf"], "finite"),
        (["split", "--plane", "z=99"], "one side"),
        (["split", "--bodies"], "one alone"),
        (["turn", "--about-x", "nan"], "finite"),
        (["lay", "--towards", "0,0,0"], "somewhere"),
        (["colour", "--by", "one", "--colours", "red"], "no colour"),
        (["push", "--strokes", "NONE"], "no such file"),
        (["push", "--strokes", "HALF"], "no JSON"),
        (["push", "--strokes", "OTHER"], "strokes"),
    ],
)
def test_they_refuse_in_one_line(
    command: list[str], words: str, tmp_path: Path, capsys: Capture
) -> None:
    write_mesh(box(20, 10, 6), tmp_path / "in.stl")
    (tmp_path / "HALF").write_text('[{"places": [[0')
    (tmp_path / "OTHER").write_text('{"places": 3}')
    given = [str(tmp_path / one) if one.isupper() else one for one in command]
    out = tmp_path / "out.stl"
    line = refused(capsys, given[0], str(tmp_path / "in.stl"), "-o", str(out), *given[1:])
    assert words.lower() in line.lower()
    assert not out.exists()
