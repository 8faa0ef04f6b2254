"""The commands that make and read outlines."""

import json
from pathlib import Path

import cv2
import ezdxf
import numpy as np
import pytest
import svgpathtools
import trimesh

from nebrel.cli import main
from tests.pictures import png
from tests.shapes import cover, ellipse
from tests.test_cli import refused


@pytest.fixture
def ring(tmp_path: Path) -> Path:
    """A dark ring on white with a speck beside it."""
    tones = 1 - cover([*ellipse((100, 100), 80, 80), *ellipse((100, 100), 40, 40)], 200, 220)
    tones[4:7, 205:208] = 0
    path = tmp_path / "ring.png"
    path.write_bytes(png(tones))
    return path


def test_trace_as_svg_with_figures(
    ring: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    out = tmp_path / "out.svg"
    arguments = ["--wide", "40", "--drop-below", "1", "--json"]
    assert main(["trace", str(ring), "-o", str(out), *arguments]) == 0
    figures = json.loads(capsys.readouterr().out)
    assert (figures["parts"], figures["holes"]) == (1, 1)
    assert figures["wide_mm"] == pytest.approx(40, abs=1e-3)
    assert figures["area_mm2"] == pytest.approx(np.pi * (400 - 100), rel=2e-3)
    assert figures["length_mm"] == pytest.approx(2 * np.pi * 30, rel=2e-3)
    assert figures["curves"] <= 12
    assert 0 < figures["largest_distance_mm"] < 0.04
    paths, _ = svgpathtools.svg2paths(str(out))
    assert len(paths) == 1
    assert paths[0].bbox() == pytest.approx((0, 40, 0, 40), abs=0.02)


def test_trace_as_dxf_either_way(ring: Path, tmp_path: Path) -> None:
    for lines, kind in (("polylines", "LWPOLYLINE"), ("splines", "SPLINE")):
        out = tmp_path / f"{lines}.dxf"
        assert main(["trace", str(ring), "-o", str(out), "--wide", "2in", "--as", lines]) == 0
        entities = list(ezdxf.readfile(out).modelspace())
        assert [entity.dxftype() for entity in entities] == [kind] * 3
        assert all(entity.closed for entity in entities)


def test_invert_and_threshold(
    ring: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    arguments = ["--wide", "22", "--threshold", "0.5", "--invert", "--json"]
    assert main(["trace", str(ring), "-o", str(tmp_path / "a.svg"), *arguments]) == 0
    figures = json.loads(capsys.readouterr().out)
    assert figures["parts"] == 2
    assert figures["wide_mm"] == pytest.approx(22, abs=1e-3)


def test_centre_lines(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    picture = np.full((1200, 1600), 255, np.uint8)
    cv2.line(picture, (200, 200), (1400, 1000), 0, 36)
    cv2.line(picture, (200, 1000), (1400, 200), 0, 36)
    cv2.circle(picture, (800, 600), 500, 0, 36)
    path = tmp_path / "lines.png"
    path.write_bytes(png(cv2.resize(picture, (800, 600), interpolation=cv2.INTER_AREA) / 255.0))
    out = tmp_path / "lines.svg"
    assert (
        main(["trace", str(path), "-o", str(out), "--wide", "100", "--centre-line", "--json"]) == 0
    )
    figures = json.loads(capsys.readouterr().out)
    assert figures["parts"] == 3
    assert figures["wide_mm"] == pytest.approx(100, abs=1e-3)
    paths, _ = svgpathtools.svg2paths(str(out))
    assert sorted(path.isclosed() for path in paths) == [False, False, True]


def test_cutouts_from_a_picture_and_from_a_drawing(ring: Path, tmp_path: Path) -> None:
    drawing, out = tmp_path / "ring.svg", tmp_path / "out.stl"
    assert main(["trace", str(ring), "-o", str(drawing), "--wide", "40", "--drop-below", "1"]) == 0
    for source in (ring, drawing):
        arguments = ["--wide", "40", "--thick", "3", "--edge", "chamfer", "--edge-size", "0.5"]
        arguments += ["--backing", "along", "--margin", "2", "--backing-thick", "1.5"]
        arguments += ["--drop-below", "1"]
        assert main(["cutout", str(source), "-o", str(out), *arguments]) == 0
        mesh = trimesh.load(out)
        assert mesh.is_watertight
        assert mesh.extents == pytest.approx([44, 44, 4.5], abs=0.03)
        assert mesh.bounds[0][2] == 0


def test_what_a_cutter_cuts_looks_like_the_picture(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    """An L, whose long side is on the left: blade upwards, it is on the right."""
    drawn = tmp_path / "l.svg"
    path = "M0 0h10v30h20v10h-30z"
    drawn.write_text(f'<svg xmlns="http://www.w3.org/2000/svg"><path d="{path}"/></svg>')
    tops = []
    for more in ([], ["--as-seen"]):
        out = tmp_path / "l.stl"
        assert main(["cutter", str(drawn), "-o", str(out), "--wide", "30", *more]) == 0
        assert ("in a mirror" in capsys.readouterr().out) == bool(more)
        mesh = trimesh.load(out)
        upper = mesh.vertices[mesh.vertices[:, 2] > 13.9]
        low, high = upper.min(axis=0), upper.max(axis=0)
        tall = upper[upper[:, 1] > high[1] - 2]
        tops.append(float(tall[:, 0].mean() - (low[0] + high[0]) / 2))
    assert tops[0] > 5 > -5 > tops[1]


def test_a_cutter_has_the_width_of_its_opening(ring: Path, tmp_path: Path) -> None:
    out = tmp_path / "out.stl"
    arguments = ["--wide", "40", "--wall", "1", "--rim", "5", "--high", "12", "--details", "3"]
    assert main(["cutter", str(ring), "-o", str(out), *arguments, "--drop-below", "1"]) == 0
    mesh = trimesh.load(out)
    assert mesh.is_watertight
    assert mesh.extents == pytest.approx([50, 50, 12], abs=0.03)


def test_drawings_are_sized_and_said(
    ring: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    dxf, out = tmp_path / "a.dxf", tmp_path / "out.svg"
    assert main(["trace", str(ring), "-o", str(dxf), "--wide", "40"]) == 0
    capsys.readouterr()
    assert main(["drawing", str(dxf), "-o", str(out), "--json"]) == 0
    figures = json.loads(capsys.readouterr().out)
    assert figures["unit"] == "mm"
    assert figures["wide_mm"] == pytest.approx(40, abs=3e-3)
    assert main(["drawing", str(dxf), "-o", str(out), "--unit", "in", "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["wide_mm"] == pytest.approx(1016, abs=0.1)
    assert main(["drawing", str(dxf), "-o", str(out), "--wide", "25"]) == 0
    assert "25.000" in capsys.readouterr().out


def test_what_cannot_be_is_refused_in_a_line(
    ring: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    out = str(tmp_path / "out.svg")
    stl = str(tmp_path / "out.stl")
    flat = tmp_path / "flat.png"
    flat.write_bytes(png(np.ones((20, 20), np.float32)))
    wide = ["--wide", "40"]
    assert "flat tone" in refused(capsys, "trace", str(flat), "-o", out, *wide)
    assert "otsu" in refused(capsys, "trace", str(ring), "-o", out, *wide, "--threshold", "7")
    assert "180" in refused(capsys, "trace", str(ring), "-o", out, *wide, "--corner", "200")
    assert "ending" in refused(capsys, "trace", str(ring), "-o", stl, *wide)
    assert "width" in refused(capsys, "trace", str(ring), "-o", out, "--wide", "0")
    assert "leaves nothing" in refused(
        capsys, "trace", str(ring), "-o", out, *wide, "--drop-below", "1e6"
    )
    assert "thickness" in refused(capsys, "cutout", str(ring), "-o", stl, *wide, "--thick", "0")
    thick = [*wide, "--thick", "1", "--edge", "round", "--edge-size", "2"]
    assert "edge" in refused(capsys, "cutout", str(ring), "-o", stl, *thick)
    assert "one line" in refused(capsys, "cutter", str(ring), "-o", stl, *wide, "--wall", "0.1")
    assert "blade" in refused(capsys, "cutter", str(ring), "-o", stl, *wide, "--blade", "2")
    assert "neither" in refused(capsys, "drawing", str(ring), "-o", out)
    assert "svg" in refused(capsys, "drawing", str(tmp_path / "none.svg"), "-o", out)
    assert not Path(out).exists()
    assert not Path(stl).exists()
