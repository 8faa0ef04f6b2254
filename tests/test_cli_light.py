"""The commands for light, as they are typed."""

import json
from pathlib import Path

import cv2
import numpy as np
import pytest
import trimesh

from nebrel.cli import main
from tests.pictures import png, ramp


@pytest.fixture
def picture(tmp_path: Path) -> Path:
    path = tmp_path / "photo.png"
    path.write_bytes(png(ramp(40, 61)))
    return path


BOUNDS = ["--wide", "60", "--thinnest", "0.8", "--thickest", "3"]


def test_a_lithophane_is_thick_where_dark(picture: Path, tmp_path: Path) -> None:
    out = tmp_path / "out.stl"
    assert main(["lithophane", str(picture), "-o", str(out), *BOUNDS]) == 0
    mesh = trimesh.load(out)
    assert mesh.is_watertight
    assert mesh.extents == pytest.approx([60, 39, 3], abs=0.01)
    edge = mesh.vertices[mesh.vertices[:, 0] > 59.9]
    assert edge[:, 2].max() == pytest.approx(0.8, abs=0.011)
    for form in (["--form", "arc", "--bend", "80"], ["--form", "disc"], ["--rim", "2"]):
        assert main(["lithophane", str(picture), "-o", str(out), *BOUNDS, *form]) == 0
        assert trimesh.load(out).is_watertight
    around = ["--diameter", "40", "--thinnest", "0.8", "--thickest", "2", "--by", "straight"]
    for form in (["--form", "tube"], ["--form", "globe", "--tolerance", "0.05"]):
        assert main(["lithophane", str(picture), "-o", str(out), *around, *form]) == 0
        tube = trimesh.load(out)
        assert tube.is_watertight
        if form[1] == "tube":
            reach = np.hypot(tube.vertices[:, 0], tube.vertices[:, 1])
            assert reach.min() == pytest.approx(20, abs=0.02)


def test_a_rim_is_as_thick_as_black(picture: Path, tmp_path: Path) -> None:
    out = tmp_path / "out.stl"
    assert main(["lithophane", str(picture), "-o", str(out), *BOUNDS, "--rim", "3"]) == 0
    mesh = trimesh.load(out)
    plain = tmp_path / "plain.stl"
    assert main(["lithophane", str(picture), "-o", str(plain), *BOUNDS]) == 0
    # Thin on the right before, thick there now.
    cuts = [trimesh.load(path).section([1, 0, 0], [58.5, 0, 0]) for path in (plain, out)]
    assert [cut.bounds[1][2] for cut in cuts] == pytest.approx([0.85, 3], abs=0.02)
    assert mesh.extents[0] == pytest.approx(60, abs=1e-3)


def test_the_lit_panel_shows_the_picture(picture: Path, tmp_path: Path) -> None:
    out = tmp_path / "lit.png"
    assert main(["light", str(picture), "-o", str(out), *BOUNDS, "--attenuation", "1.6"]) == 0
    shown = cv2.imread(str(out), cv2.IMREAD_UNCHANGED)
    assert shown.dtype == np.uint8
    assert shown.shape[:2] == (40, 61)
    gray = shown[20, :, 0] / 255
    tones = ramp(40, 61)[20]
    bright = tones > 0.3
    assert gray[bright] == pytest.approx(tones[bright], abs=0.01)
    straight = tmp_path / "straight.png"
    assert main(["light", str(picture), "-o", str(straight), *BOUNDS, "--by", "straight"]) == 0
    other = cv2.imread(str(straight), cv2.IMREAD_GRAYSCALE)[20] / 255
    assert np.abs(other - tones).max() > 0.1


def test_a_calibration_round(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    wedge, photo = tmp_path / "wedge.stl", tmp_path / "photo.png"
    assert main(["wedge", "-o", str(wedge), "--steps", "8", "--thickest", "3.2"]) == 0
    assert trimesh.load(wedge).is_watertight
    capsys.readouterr()
    made = ["--steps", "8", "--thickest", "3.2"]
    shot = ["photograph", "-o", str(photo), *made, "--attenuation", "0.7", "--tilt", "20"]
    assert main(shot) == 0
    corners = capsys.readouterr().out.strip()
    assert main(["calibrate", str(photo), "--corners", corners, *made, "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found["attenuation_per_mm"] == pytest.approx(0.7, rel=0.03)
    assert found["error"] < 0.05
    assert found["r2"] > 0.99


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["--wide", "60", "--thinnest", "3", "--thickest", "2"], "not below the thickest"),
        (["--wide", "60", "--thinnest", "0.05", "--thickest", "2"], "thinner than one print layer"),
        (["--thinnest", "1", "--thickest", "2"], "--wide"),
        ([*BOUNDS, "--attenuation", "-1"], "outside 0.01 to 50"),
        ([*BOUNDS, "--rim", "80"], "leaves no opening"),
    ],
)
def test_what_cannot_be_made_is_refused(
    picture: Path, tmp_path: Path, words: list[str], said: str, capsys: pytest.CaptureFixture[str]
) -> None:
    out = tmp_path / "out.stl"
    assert main(["lithophane", str(picture), "-o", str(out), *words]) == 2
    lines = capsys.readouterr().err.strip().splitlines()
    assert len(lines) == 1
    assert said in lines[0]
    assert not out.exists()


def test_corners_that_are_none_are_refused(
    picture: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    for corners in ("1,2,3", "a,b,c,d,e,f,g,h", "0,0,1,0,1,1,0,1"):
        made = ["--corners", corners, "--steps", "8", "--thickest", "3"]
        assert main(["calibrate", str(picture), *made]) == 2
        assert "corners" in capsys.readouterr().err
