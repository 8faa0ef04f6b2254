import json
import socket
import subprocess
import sys
from pathlib import Path

import pytest
import trimesh

from nebrel.cli import main
from tests.pictures import declared, png, ramp


@pytest.fixture
def picture(tmp_path: Path) -> Path:
    path = tmp_path / "ramp.png"
    path.write_bytes(png(ramp(50, 81)))
    return path


def refused(capsys: pytest.CaptureFixture[str], *arguments: str) -> str:
    try:
        code = main(list(arguments))
    except SystemExit as stop:
        code = stop.code if isinstance(stop.code, int) else -1
    captured = capsys.readouterr()
    assert code == 2
    assert captured.err.count("\n") == 1
    return captured.err


def test_relief_and_inspect(
    picture: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    out = tmp_path / "out.stl"
    assert main(["relief", str(picture), "-o", str(out), "--wide", "80", "--depth", "2"]) == 0
    mesh = trimesh.load(out)
    assert mesh.is_watertight
    assert mesh.bounds.tolist() == [[0, 0, 0], [80, 49, 3]]
    capsys.readouterr()
    assert main(["inspect", str(out), "--json"]) == 0
    report = json.loads(capsys.readouterr().out)
    assert list(report) == [
        "triangles",
        "vertices",
        "size_mm",
        "volume_mm3",
        "area_mm2",
        "closed",
        "manifold",
        "bodies",
    ]
    assert report["size_mm"] == [80, 49, 3]
    assert report["volume_mm3"] == pytest.approx(80 * 49 * 2, rel=1e-4)
    assert (report["closed"], report["manifold"], report["bodies"]) == (True, True, 1)


def test_relief_defaults_and_tall(picture: Path, tmp_path: Path) -> None:
    out = tmp_path / "out.stl"
    assert main(["relief", str(picture), "-o", str(out)]) == 0
    assert trimesh.load(out).extents == pytest.approx([100, 61.25, 4])
    assert main(["relief", str(picture), "-o", str(out), "--tall", "24.5", "--raise", "dark"]) == 0
    mesh = trimesh.load(out)
    assert mesh.extents == pytest.approx([40, 24.5, 4])
    assert mesh.vertices[mesh.vertices[:, 0] == 0, 2].max() == 4


@pytest.mark.parametrize(
    "options",
    [
        ("--wide", "0"),
        ("--wide", "-5"),
        ("--tall", "0"),
        ("--depth", "0"),
        ("--depth", "-1"),
        ("--backing", "-1"),
        ("--backing", "0"),
        ("--tolerance", "0"),
        ("--wide", "ten"),
        ("--wide", "nan"),
        ("--raise", "grey"),
        ("--wide", "10", "--tall", "10"),
        ("--glaze", "3"),
    ],
)
def test_refused_numbers(
    picture: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str], options: tuple[str, ...]
) -> None:
    out = tmp_path / "kept.stl"
    out.write_bytes(b"before")
    refused(capsys, "relief", str(picture), "-o", str(out), *options)
    assert out.read_bytes() == b"before"


@pytest.mark.parametrize(
    ("name", "data"),
    [
        ("cut.png", png(ramp(200, 300))[:800]),
        ("text.png", b"just words"),
        ("dot.png", declared(1, 1)),
        ("vast.png", declared(40_000, 40_000)),
    ],
)
def test_refused_files(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], name: str, data: bytes
) -> None:
    (tmp_path / name).write_bytes(data)
    assert name in refused(capsys, "relief", str(tmp_path / name), "-o", str(tmp_path / "o.stl"))
    assert not (tmp_path / "o.stl").exists()


def test_refused_outputs_and_meshes(
    picture: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    refused(capsys, "relief", str(picture), "-o", str(tmp_path / "missing" / "o.stl"))
    assert "space" in refused(capsys, "relief", str(picture), "-o", "/dev/full")
    assert "gone.stl" in refused(capsys, "inspect", str(tmp_path / "gone.stl"))
    assert "ramp.png" in refused(capsys, "inspect", str(picture))


def test_a_taken_port_and_an_unusable_folder_are_refused(
    picture: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    with socket.create_server(("127.0.0.1", 0)) as taken:
        port = str(taken.getsockname()[1])
        assert port in refused(capsys, "serve", "--port", port, "--data", str(tmp_path / "d"))
    assert "--data" in refused(capsys, "serve", "--port", port, "--data", str(picture / "inside"))


def test_quick_commands_load_only_what_they_use(tmp_path: Path) -> None:
    path = tmp_path / "box.stl"
    trimesh.creation.box((1, 2, 3)).export(path)
    heavy = ["cv2", "PIL", "numba", "fastapi", "sqlalchemy", "trimesh", "pydantic", "pydelatin"]
    for arguments in (["--help"], ["inspect", str(path)]):
        code = (
            f"import sys; from nebrel.cli import main\ntry: main({arguments!r})\n"
            f"except SystemExit: pass\nprint([m for m in {heavy!r} if m in sys.modules])"
        )
        run = subprocess.run(
            [sys.executable, "-c", code], capture_output=True, text=True, check=True
        )
        assert run.stdout.splitlines()[-1] == "[]"
