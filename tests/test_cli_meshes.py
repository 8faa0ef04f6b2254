"""The commands that take a mesh and write one."""

import json
import struct
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import trimesh
from PIL import Image

from nebrel.cli import main
from nebrel.core.choices import MESHES_WRITTEN
from nebrel.core.formats.meshes import read_mesh, write_mesh
from nebrel.core.mesh.measure import measure
from tests.meshes import ball, box, doughnut, joined, with_doubles, with_flips, with_hole
from tests.pictures import png, ramp
from tests.test_cli import refused

Capture = pytest.CaptureFixture[str]


@pytest.fixture
def ring(tmp_path: Path) -> Path:
    write_mesh(doughnut(), tmp_path / "ring.stl")
    return tmp_path / "ring.stl"


def said(capsys: Capture, *arguments: object) -> dict[str, Any]:
    capsys.readouterr()
    assert main([str(argument) for argument in arguments]) == 0
    found = json.loads(capsys.readouterr().out)
    assert isinstance(found, dict)
    return found


def test_simplify_three_ways(ring: Path, tmp_path: Path, capsys: Capture) -> None:
    out = tmp_path / "out.3mf"
    figures = said(capsys, "simplify", ring, "-o", out, "--triangles", 1200, "--json")
    assert figures["triangles_before"] == 3600
    assert figures["triangles"] == len(read_mesh(out).faces) <= 1200
    assert figures["manifold"]
    both = said(capsys, "deviation", ring, out, "--json")
    assert both["max_mm"] == pytest.approx(figures["max_mm"], rel=1e-4)
    assert both["rms_mm"] == pytest.approx(figures["rms_mm"], rel=1e-4)
    assert both["max_mm"] == max(both["a_to_b"]["max_mm"], both["b_to_a"]["max_mm"])
    figures = said(capsys, "simplify", ring, "-o", out, "--deviation", "0.1", "--json")
    assert 0.05 < figures["max_mm"] <= 0.1
    out = tmp_path / "out.stl"
    said(capsys, "simplify", ring, "-o", out, "--bytes", 50_000, "--json")
    assert 45_000 < out.stat().st_size <= 50_000


def test_repair_says_what_it_mended(tmp_path: Path, capsys: Capture) -> None:
    broken = with_doubles(with_flips(with_hole(doughnut(), 1), 2), 3)
    write_mesh(broken, tmp_path / "broken.obj")
    faults = said(capsys, "inspect", tmp_path / "broken.obj", "--json")
    assert faults["holes"] >= 1
    assert faults["flipped"] > 0
    assert faults["duplicates"] == 25
    assert not faults["closed"]
    assert {"nonmanifold_edges", "degenerate", "self_crossings", "thinnest_mm"} <= faults.keys()
    out = tmp_path / "out.ply"
    figures = said(capsys, "repair", tmp_path / "broken.obj", "-o", out, "--json")
    assert figures["manifold"]
    assert any("turned" in line for line in figures["mended"])
    assert measure(read_mesh(out)).volume_mm3 == pytest.approx(
        measure(doughnut()).volume_mm3, rel=5e-3
    )


def test_what_cannot_be_mended_says_what_is_left(tmp_path: Path, capsys: Capture) -> None:
    (tmp_path / "sheet.obj").write_text("v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n")
    out = tmp_path / "out.stl"
    line = refused(capsys, "repair", str(tmp_path / "sheet.obj"), "-o", str(out))
    assert "3 open edges" in line
    assert not out.exists()


@pytest.mark.parametrize("ending", MESHES_WRITTEN)
def test_convert_keeps_the_size_in_every_format(
    ring: Path, tmp_path: Path, ending: str, capsys: Capture
) -> None:
    out = tmp_path / f"out{ending}"
    figures = said(capsys, "convert", ring, "-o", out, "--json")
    assert figures["size_mm"] == pytest.approx([32, 32, 8], rel=0.01)
    again = said(capsys, "inspect", out, "--json")
    assert again["size_mm"] == pytest.approx(figures["size_mm"], rel=1e-6)
    assert again["manifold"]
    inches = said(capsys, "convert", ring, "-o", out, "--unit", "in", "--scale", 0.5, "--json")
    assert inches["size_mm"] == pytest.approx([side * 12.7 for side in figures["size_mm"]])


def test_pictures_become_any_format(tmp_path: Path) -> None:
    picture = tmp_path / "ramp.png"
    picture.write_bytes(png(ramp(20, 30)))
    for ending in MESHES_WRITTEN:
        out = tmp_path / f"out{ending}"
        assert main(["relief", str(picture), "-o", str(out), "--wide", "30", "--depth", "2"]) == 0
        assert measure(read_mesh(out)).manifold
        assert measure(read_mesh(out)).size_mm[0] == pytest.approx(30, rel=1e-5)


def test_an_unknown_ending_is_refused_before_anything_is_read(
    tmp_path: Path, capsys: Capture
) -> None:
    for command in (["repair", "missing.stl"], ["relief", "missing.png"]):
        with pytest.raises(SystemExit) as stopped:
            main([*command, "-o", str(tmp_path / "out.docx")])
        assert stopped.value.code == 2
        assert "no ending of a mesh format" in capsys.readouterr().err


def test_remesh_rebuild_smooth_and_hollow(ring: Path, tmp_path: Path, capsys: Capture) -> None:
    out, whole = tmp_path / "out.stl", measure(doughnut()).volume_mm3
    figures = said(capsys, "remesh", ring, "-o", out, "--edge", 1.2, "--json")
    assert figures["manifold"]
    assert figures["volume_mm3"] == pytest.approx(whole, rel=0.02)
    assert figures["max_mm"] < 0.2
    figures = said(capsys, "rebuild", ring, "-o", out, "--voxel", 0.4, "--offset=-0.5mm", "--json")
    assert figures["size_mm"][2] == pytest.approx(7, abs=0.1)
    figures = said(capsys, "smooth", ring, "-o", out, "--rounds", 5, "--json")
    assert figures["volume_mm3"] == pytest.approx(whole, rel=1e-4)
    figures = said(capsys, "hollow", ring, "-o", out, "--wall", "1mm", "--json")
    assert figures["bodies"] == 2
    assert figures["volume_mm3"] == pytest.approx(2 * np.pi**2 * 12 * (16 - 9), rel=0.03)


def test_trim_and_join(ring: Path, tmp_path: Path, capsys: Capture) -> None:
    out = tmp_path / "out.glb"
    figures = said(capsys, "trim", ring, "-o", out, "--plane", "x=2", "--keep", "above", "--json")
    assert figures["size_mm"][0] == pytest.approx(14, abs=1e-3)
    assert figures["manifold"]
    write_mesh(box(10, 40, 40), tmp_path / "box.off")
    common = {}
    for by in ("add", "subtract", "common"):
        figures = said(capsys, "join", ring, tmp_path / "box.off", "-o", out, "--by", by, "--json")
        common[by] = figures["volume_mm3"]
        assert figures["manifold"]
    assert common["add"] == pytest.approx(common["subtract"] + 10 * 40 * 40, rel=1e-5)
    assert common["subtract"] + common["common"] == pytest.approx(
        measure(doughnut()).volume_mm3, rel=1e-5
    )


BAD = [
    (["simplify", "--triangles", "0"], "too few for a body"),
    (["simplify", "--deviation", "0"], "not above 0"),
    (["simplify", "--bytes", "10"], "as small as 10 bytes"),
    (["convert", "--scale", "0"], "not above 0"),
    (["convert", "--scale", "nan"], "not above 0"),
    (["convert", "--unit", "m", "--scale", "100"], "m wide"),
    (["remesh", "--edge", "0.0001"], "million triangles"),
    (["rebuild", "--voxel", "0"], "not above 0"),
    (["rebuild", "--voxel", "0.001"], "voxels"),
    (["smooth", "--rounds", "-1"], "not possible"),
    (["trim", "--plane", "z=50", "--keep", "above"], "nothing is left"),
    (["hollow", "--wall", "30"], "leaves no hollow"),
]


@pytest.mark.parametrize(("arguments", "words"), BAD, ids=[" ".join(a) for a, _ in BAD])
def test_what_cannot_be_done_is_refused_in_one_line(
    ring: Path, tmp_path: Path, capsys: Capture, arguments: list[str], words: str
) -> None:
    command, *more = arguments
    out = tmp_path / "out.stl"
    assert words in refused(capsys, command, str(ring), "-o", str(out), *more)
    assert not out.exists()


def test_taking_everything_away_is_refused(ring: Path, tmp_path: Path, capsys: Capture) -> None:
    out = tmp_path / "out.stl"
    write_mesh(box(50, 50, 50), tmp_path / "all.stl")
    arguments = ["join", str(ring), str(tmp_path / "all.stl"), "-o", str(out), "--by", "subtract"]
    assert "nothing is left" in refused(capsys, *arguments)
    write_mesh(with_hole(ball()), tmp_path / "open.stl")
    arguments = ["join", str(ring), str(tmp_path / "open.stl"), "-o", str(out), "--by", "add"]
    assert "open: it is not closed" in refused(capsys, *arguments)


def test_what_is_written_is_read_by_another_library(ring: Path, tmp_path: Path) -> None:
    out = tmp_path / "out.stl"
    assert main(["simplify", str(ring), "-o", str(out), "--triangles", "900"]) == 0
    found = trimesh.load(out)
    assert found.is_watertight
    assert len(found.faces) <= 900


def test_notes_of_reading_are_said(tmp_path: Path, capsys: Capture) -> None:
    write_mesh(joined(ball(), box(2, 2, 2, at=(20, 0, 0))), tmp_path / "a.stl")
    data = bytearray((tmp_path / "a.stl").read_bytes())
    data[80:84] = struct.pack("<I", 5)
    (tmp_path / "a.stl").write_bytes(data)
    assert main(["inspect", str(tmp_path / "a.stl")]) == 0
    printed = capsys.readouterr()
    assert "claims 5 triangles" in printed.err
    assert "bodies: 2" in printed.out


def test_art_is_laid_on_a_body(tmp_path: Path, capsys: Capture) -> None:
    write_mesh(ball(20), tmp_path / "ball.stl")
    disc = np.full((200, 200), 255, np.uint8)
    y, x = np.mgrid[:200, :200]
    disc[np.hypot(x - 99.5, y - 99.5) < 80] = 0
    Image.fromarray(disc).save(tmp_path / "disc.png")
    (tmp_path / "disc.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 20 20">'
        '<circle cx="10" cy="10" r="8"/></svg>'
    )
    common = ["--at", "20,1,2", "--depth", "1", "--json"]
    changes = {}
    for art, wide, more in (
        ("disc.png", "10", ["--flat"]),
        ("disc.png", "10", ["--flat", "--sink", "--turn", "20"]),
        ("disc.svg", "8", ["--mirror"]),
        ("disc.png", "10", ["--flat", "--repeat", "5"]),
    ):
        command = ["decorate", str(tmp_path / "ball.stl"), str(tmp_path / art)]
        command += ["-o", str(tmp_path / "out.3mf"), "--wide", wide, *common, *more]
        assert main(command) == 0
        said = json.loads(capsys.readouterr().out)
        assert said["manifold"]
        assert 0.9 < said["stretch"][0] <= said["stretch"][1] < 1.1
        changes[art, *more] = said["volume_mm3"] - said["volume_before_mm3"]
    round_mm3 = np.pi * 4**2
    raised, sunk, drawn, five = changes.values()
    assert five == pytest.approx(5 * raised, rel=0.01)
    assert raised == pytest.approx(round_mm3, rel=0.06)
    assert sunk == pytest.approx(-round_mm3, rel=0.06)
    assert drawn == pytest.approx(round_mm3, rel=0.06)


@pytest.mark.parametrize(
    ("more", "words"),
    [
        (["--wide", "200"], "no larger than"),
        (["--depth", "60", "--sink"], "thick there"),
        (["--at", "1,2"], "is no place"),
        (["--wide", "10", "--flat", "--threshold", "7"], "not possible"),
    ],
)
def test_what_does_not_lie_on_a_body_is_refused(
    tmp_path: Path, capsys: Capture, more: list[str], words: str
) -> None:
    write_mesh(ball(20), tmp_path / "ball.stl")
    Image.fromarray(np.zeros((50, 50), np.uint8)).save(tmp_path / "art.png")
    command = ["decorate", str(tmp_path / "ball.stl"), str(tmp_path / "art.png")]
    command += ["-o", str(tmp_path / "out.stl"), "--at", "20,0,0", "--wide", "10", "--depth", "1"]
    command += ["--raise", "dark"]
    assert words in refused(capsys, *command, *more)
    assert not (tmp_path / "out.stl").exists()


def test_ready_shapes_by_their_sizes(tmp_path: Path, capsys: Capture) -> None:
    out = tmp_path / "out.stl"
    assert main(["body", "sphere", "-o", str(out), "--size", "radius=20", "--json"]) == 0
    said = json.loads(capsys.readouterr().out)
    assert said["manifold"] and said["size_mm"] == pytest.approx([40, 40, 40], abs=0.01)
    command = ["body", "cylinder", "-o", str(out), "--size", "diameter=1 in"]
    assert main([*command, "--size", "height=30"]) == 0
    assert measure(read_mesh(out)).size_mm == pytest.approx((25.4, 25.4, 30), abs=0.01)
    assert main(["body", "bottle", "-o", str(out), "--profile", "20,0 25,10 12,60"]) == 0
    assert measure(read_mesh(out)).size_mm[2] == pytest.approx(60, abs=0.01)


@pytest.mark.parametrize(
    ("command", "words"),
    [
        (["body", "tube", "--size", "wall=40"], "fills a tube"),
        (["body", "tube", "--size", "mouth=4"], "has no"),
        (["body", "box", "--size", "wide=-4"], "outside"),
        (["body", "blob"], "invalid choice"),
        (["body", "bottle", "--profile", "20 30"], "is none"),
        (["texture", "scales", "--pixels", "3"], "not possible"),
        (["texture", "scales", "--uneven", "7"], "Use 0 to 1"),
        (["texture", "mud"], "invalid choice"),
    ],
)
def test_shapes_and_textures_that_cannot_be_are_refused(
    tmp_path: Path, capsys: Capture, command: list[str], words: str
) -> None:
    ending = ".png" if command[0] == "texture" else ".stl"
    assert words in refused(capsys, *command, "-o", str(tmp_path / f"out{ending}"))
    assert not list(tmp_path.iterdir())


def test_a_texture_is_a_picture_of_16_bits(tmp_path: Path, capsys: Capture) -> None:
    out = tmp_path / "out.png"
    command = ["texture", "weave", "-o", str(out), "--seed", "5", "--pixels", "96", "--tile"]
    assert main(command) == 0
    assert "96 × 96 pixels, 16-bit" in capsys.readouterr().out
    first = out.read_bytes()
    with Image.open(out) as made:
        assert made.size == (96, 96) and made.mode.startswith("I")
    assert main(command) == 0
    assert out.read_bytes() == first


def test_art_around_an_axis_straight_and_a_piece_as_art(tmp_path: Path, capsys: Capture) -> None:
    body, art, out = tmp_path / "body.stl", tmp_path / "art.png", tmp_path / "out.stl"
    assert main(["body", "cylinder", "-o", str(body), "--size", "diameter=40"]) == 0
    Image.fromarray(np.zeros((40, 80), np.uint8)).save(art)
    capsys.readouterr()
    common = ["--at", "0,-20,25", "--wide", "16", "--depth", "1", "--flat", "--json"]
    added = []
    for lie in ("axis", "surface", "straight"):
        command = ["decorate", str(body), str(art), "-o", str(out), *common, "--lie", lie]
        assert main(command) == 0
        said = json.loads(capsys.readouterr().out)
        assert said["manifold"]
        added.append(said["volume_mm3"] - said["volume_before_mm3"])
    flat = 16 * 16 * 39 / 79
    assert added[0] == pytest.approx(flat * 20.5 / 20, rel=0.01)
    assert added[1] == pytest.approx(added[0], rel=0.01)
    around = ["--wide", "125.6", "--lie", "axis", "--at", "0,-20,25", "--depth", "1", "--flat"]
    Image.fromarray(np.zeros((20, 400), np.uint8)).save(art)
    assert main(["decorate", str(body), str(art), "-o", str(out), *around, "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["bodies"] == 1

    disc = {"kind": "ellipse", "wide": 30, "tall": 30}
    entry = {"kind": "outline", "id": "disc", "outline": disc, "height": 4}
    own = {"extent": {"wide": 40, "tall": 40}, "backing": 2, "build_up": [entry]}
    own["edge"] = {"kind": "along", "margin": 0}
    recipe = tmp_path / "piece.json"
    recipe.write_text(json.dumps({"recipe": {"begins": {"kind": "relief", "art": own}}}))
    command = ["decorate", str(body), str(recipe), "-o", str(out), "--lie", "axis", "--json"]
    assert main([*command, "--at", "0,-20,25", "--wide", "10", "--depth", "1"]) == 0
    said = json.loads(capsys.readouterr().out)
    assert said["manifold"]
    change = said["volume_mm3"] - said["volume_before_mm3"]
    assert change == pytest.approx(np.pi * (30 / 40 * 5) ** 2 * 20.5 / 20, rel=0.03)


def test_a_place_may_begin_with_a_minus(tmp_path: Path) -> None:
    ball, art, out = tmp_path / "ball.stl", tmp_path / "art.png", tmp_path / "out.stl"
    assert main(["body", "sphere", "-o", str(ball), "--size", "diameter=40"]) == 0
    art.write_bytes(png(ramp()))
    command = ["decorate", str(ball), str(art), "-o", str(out), "--wide", "8", "--depth", "1"]
    assert main([*command, "--at", "-3,-19,24", "--up", "-.5,0,1", "--turn", "-1e1"]) == 0
    away = np.linalg.norm(read_mesh(out).vertices - (0, 0, 20), axis=1)
    (highest,) = np.flatnonzero(away == away.max())[:1]
    assert away.max() > 20.5 and read_mesh(out).vertices[highest, 1] < -15
