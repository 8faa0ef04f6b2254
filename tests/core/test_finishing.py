"""As fine as it can be made, exactly as in the picture, and within a limit."""

import json
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import pytest
import trimesh

from nebrel.cli import main
from nebrel.core.data import HeightField, Picture
from nebrel.core.errors import InvalidValue
from nebrel.core.heights.made import Machine, as_made
from nebrel.core.heights.relief import Relief
from nebrel.core.links.finishing import finishing, within
from nebrel.core.picture.decode import decode
from nebrel.core.questions.evaluation import Evaluation
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.recipe.models import load_recipe
from nebrel.demo.photograph import photograph
from tests.pictures import png, ramp
from tests.rays import highest_hits

LYING = Machine((0.05, 0.05), (0.4, 0.4), 0.12)


def recipe(finish: dict[str, Any] | None = None, **more: Any) -> Any:
    given = {} if finish is None else {"finish": finish}
    return load_recipe({"picture": {"sha256": "0" * 64, "side": 40}, **given, **more})


def made(tones: np.ndarray, finish: dict[str, Any] | None = None, **more: Any) -> Evaluation:
    picture = Picture(np.asarray(tones, np.float32))
    return Evaluator(lambda _: picture).evaluate(recipe(finish, **more))


@pytest.fixture(scope="module")
def photo() -> np.ndarray:
    """A small one; on 40 mm its pixels are 0.033 mm."""
    return decode(photograph(900, 1200), "photo.jpg").tone


def test_the_machine_says_how_fine() -> None:
    found = finishing(recipe())
    assert (found.tolerance_mm, found.method) == (pytest.approx(0.01), "auto")
    assert found.machine == Machine(
        (pytest.approx(0.0525), pytest.approx(0.0525)), (0.42, 0.42), 0.12
    )
    coarse = {"line_mm": 0.8, "layer_mm": 0.3, "nozzle_mm": 0.6}
    found = finishing(recipe(printer=coarse))
    assert (found.tolerance_mm, found.machine and found.machine.pitch[0]) == (
        pytest.approx(0.025),
        0.1,
    )
    assert finishing(recipe(printer={"layer_mm": 0.04})).tolerance_mm == 0.005
    # What stands is printed in layers: its rows are these.
    for more in ({"form": {"kind": "tube"}}, {"light": {"printed": "standing"}}):
        machine = finishing(recipe(**more)).machine
        assert machine is not None
        assert (machine.pitch[1], machine.shows[1]) == (0.06, 0.12)
    found = finishing(recipe({"detail": "made", "pitch": 0.2, "tolerance": 0.03}))
    assert (found.tolerance_mm, found.machine and found.machine.pitch) == (0.03, (0.2, 0.2))
    found = finishing(recipe({"detail": "picture"}))
    assert (found.tolerance_mm, found.machine) == (0.01, None)


def test_a_recipe_of_before_keeps_its_numbers_and_its_mesh(photo: np.ndarray) -> None:
    old = recipe({"tolerance": {"mm": 0.03, "text": None}})
    assert (old.triangles.detail, old.triangles.method) == ("picture", "greedy")
    assert finishing(old).tolerance_mm == 0.03
    # And so it is kept from now on.
    assert load_recipe(json.loads(old.model_dump_json())) == old
    small = photo[::3, ::3]
    result = made(small, {"tolerance": 0.03})
    assert (
        result.report.triangles
        == made(
            small, {"detail": "picture", "tolerance": 0.03, "method": "greedy"}
        ).report.triangles
    )


def test_what_a_line_would_show_stays_and_the_rest_goes(photo: np.ndarray) -> None:
    field = HeightField(3 * photo, 40.0, 40.0 * 899 / 1199)
    fine = as_made(Relief(field), LYING).field
    assert fine.mm.shape == (601, 801)
    # As the line would print it: both averaged over the width of a line.
    exact = cv2.blur(field.mm, (13, 13), borderType=cv2.BORDER_REFLECT)
    left = cv2.blur(fine.mm, (9, 9), borderType=cv2.BORDER_REFLECT)
    there = cv2.resize(left, exact.shape[::-1], interpolation=cv2.INTER_LINEAR)
    off = np.abs(there - exact)[20:-20, 20:-20]
    assert np.quantile(off, 0.999) < 0.3 * LYING.layer
    # Noise is gone where nothing else is.
    sky = np.s_[30:110, 380:520]
    rough = field.mm[45:165, 570:780]
    assert np.std(np.diff(fine.mm[sky])) < 0.25 * np.std(np.diff(rough))


def test_a_steep_edge_is_left_as_it_is_and_fine_noise_is_not() -> None:
    mm = np.full((400, 400), 1.0, np.float32)
    mm[:, 200:] = 4.0
    fine = as_made(Relief(HeightField(mm, 20.0, 20.0)), LYING).field.mm
    assert np.abs(fine - mm).max() < 1e-4
    board = 2 + (np.indices((400, 400)).sum(axis=0) % 2).astype(np.float32)
    fine = as_made(Relief(HeightField(board, 8.0, 8.0)), LYING).field.mm
    assert np.ptp(fine[5:-5, 5:-5]) < 0.02


def test_the_default_is_light_and_the_picture_is_exact(photo: np.ndarray) -> None:
    photo = photo[::2, ::2]
    light, exact = made(photo), made(photo, {"detail": "picture"})
    assert light.report.triangles < 0.2 * exact.report.triangles
    for result in (light, exact):
        mesh = trimesh.Trimesh(result.mesh.vertices, result.mesh.faces, process=False)
        assert mesh.is_watertight
        assert mesh.is_winding_consistent
    rng = np.random.default_rng(0)
    rows, cols = photo.shape
    row, col = rng.integers(0, rows, 200), rng.integers(0, cols, 200)
    pitch = 40 / (cols - 1)
    hits = highest_hits(exact.mesh, col * pitch, (rows - 1 - row) * pitch)
    assert np.abs(hits - (1 + 3 * photo[row, col])).max() <= 0.0101
    assert light.finish is not None
    assert (light.finish.within_mm, light.finish.pitch_mm) == (0.01, 0.0525)


@pytest.mark.parametrize("form", [{"kind": "panel"}, {"kind": "tube"}])
def test_a_limit_is_kept_and_its_cost_is_said(photo: np.ndarray, form: dict[str, Any]) -> None:
    small = photo[::2, ::2]
    result = made(small, {"most_triangles": 20_000}, form=form)
    assert 14_000 < result.report.triangles <= 20_000
    assert result.finish is not None
    assert result.finish.within_mm > result.finish.wanted_mm == 0.01
    by_size = made(small, {"most_mb": 1.0}, form=form)
    assert 84 + 50 * by_size.report.triangles <= 1e6
    free = made(small, {"most_triangles": 5_000_000}, form=form)
    assert free.finish is not None
    assert free.finish.within_mm == 0.01


def test_a_limit_that_nothing_keeps_is_refused() -> None:
    with pytest.raises(InvalidValue, match="Allow at least 900"):
        within(100, 0.01, lambda tolerance: tolerance, lambda _: 900)
    # Nor is a relief flattened to keep one.
    with pytest.raises(InvalidValue, match="even within 1 mm"):
        within(2, 0.01, lambda t: t, lambda t: int(5 / t), 1.0)
    tolerance, found = within(100, 0.01, lambda t: t, lambda t: int(5 / t))
    assert 88 <= int(5 / found) <= 100
    assert tolerance == found


def test_the_command_line_says_how_fine(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], photo: np.ndarray
) -> None:
    picture, out = tmp_path / "a.png", tmp_path / "a.stl"
    picture.write_bytes(png(photo[::4, ::4]))

    def run(*options: str) -> tuple[int, str]:
        code = main(["relief", str(picture), "-o", str(out), "--wide", "20", *options])
        said = capsys.readouterr()
        return code, said.out if code == 0 else said.err

    assert "detail from 0.0525 mm, within 0.01 mm" in run()[1]
    assert "all that is in the picture, within 0.03 mm" in run("--tolerance", "0.03")[1]
    assert "detail from 0.0525 mm, within 0.03" in run("--tolerance", "0.03", "--detail", "made")[1]
    assert "all that is in the picture, within 0.01" in run("--detail", "picture")[1]
    said = run("--most", "3000")[1]
    assert "instead of 0.01 mm to keep the limit" in said
    assert len(trimesh.load(out).faces) <= 3000
    code, said = run("--most", "5")
    assert (code, said.count("\n")) == (2, 1)
    assert "The nearest that works is 100" in said
    # A file that holds heights keeps them exactly.
    heights = tmp_path / "h.tif"
    picture.write_bytes(png(ramp()))
    assert main(["heights", str(picture), "-o", str(heights)]) == 0
    assert main(["relief", str(heights), "-o", str(out)]) == 0
    assert "all that is in the picture" in capsys.readouterr().out


@pytest.mark.parametrize("stubborn", [0.02, 0.3, 0.9])
def test_a_limit_is_found_where_triangles_hardly_become_fewer_at_first(stubborn: float) -> None:
    asked = []

    def make(tolerance: float) -> int:
        asked.append(tolerance)
        return 2_000_000 if tolerance < stubborn else int(2_000_000 * (stubborn / tolerance) ** 2)

    tolerance, found = within(1_000_000, 0.01, make, lambda count: count, 1.5)
    assert 900_000 < found <= 1_000_000
    assert tolerance == asked[-1] or tolerance in asked
    assert len(asked) <= 10
