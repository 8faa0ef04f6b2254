"""`nebrel figure`, from a file to a file."""

import json
from pathlib import Path

import cv2
import numpy as np
import pytest
import trimesh

from nebrel.cli import main
from tests.core.test_network import brightness

Capture = pytest.CaptureFixture[str]
N = 200


def picture(path: Path, radius: int = 70, alpha: bool = True) -> Path:
    cover = np.zeros((N, N), np.uint8)
    cv2.circle(cover, (N // 2, N // 2), radius, 255, -1, cv2.LINE_AA)
    shown = np.full((N, N, 3), (40, 90, 200), np.uint8)
    if alpha:
        cv2.imwrite(str(path), np.dstack([shown, cover]))
    else:
        share = cover[..., None] / 255
        cv2.imwrite(str(path), (shown * share + 250 * (1 - share)).astype(np.uint8))
    return path


def made(capsys: Capture, *arguments: object) -> dict[str, object]:
    words = [str(one) for one in arguments]
    assert main(["figure", *words, "--resolution", "128", "--json"]) == 0
    return dict(json.loads(capsys.readouterr().out))


@pytest.mark.parametrize("way", ["inflate", "half", "turn", "learned"])
def test_a_subject_becomes_round_upright_and_closed(
    tmp_path: Path, capsys: Capture, way: str
) -> None:
    out = tmp_path / "out.glb"
    source = picture(tmp_path / "in.png", alpha=way != "turn")
    said = made(capsys, source, "-o", out, "--way", way, "--tall", "50 mm", "--detail", "0.3")
    assert said["closed"] and said["manifold"] and said["bodies"] == 1
    scene = trimesh.load(out)
    mesh = scene.to_geometry() if isinstance(scene, trimesh.Scene) else scene
    assert isinstance(mesh, trimesh.Trimesh) and mesh.is_volume
    # GLB is in metres, and has y up.
    sides = sorted(float(side) for side in mesh.extents * 1000)
    assert sides == pytest.approx(sorted(said["size_mm"]), abs=0.05)  # type: ignore[call-overload]
    assert mesh.visual.kind == "vertex"


def test_it_stands_on_its_plate_in_few_colours(tmp_path: Path, capsys: Capture) -> None:
    out = tmp_path / "out.ply"
    said = made(capsys, picture(tmp_path / "in.png"), "-o", out, "--base", 3, "--colours", 2)
    mesh = trimesh.load(out)
    assert isinstance(mesh, trimesh.Trimesh)
    assert mesh.bounds[0][2] == pytest.approx(0, abs=1e-4)
    assert mesh.bounds[:, 0].sum() == pytest.approx(0, abs=0.02)
    assert len(np.unique(mesh.visual.vertex_colors, axis=0)) <= 2
    assert float(str(said["tips_at_degrees"])) > 8


def test_it_stands_on_feet_upright_and_in_the_middle(tmp_path: Path, capsys: Capture) -> None:
    out = tmp_path / "out.stl"
    source = picture(tmp_path / "in.png")
    options = "--way", "learned", "--tall", "40", "--feet", "4"
    said = made(capsys, source, "-o", out, *options)
    mesh = trimesh.load(out)
    assert mesh.is_volume and said["bodies"] == 1
    low, high = mesh.bounds
    assert low[2] == pytest.approx(0, abs=1e-4) and high[2] == pytest.approx(44, abs=0.2)
    assert abs(low[0] + high[0]) < 0.1
    assert float(said["tips_at_degrees"]) > 3  # type: ignore[arg-type]


def test_a_mask_a_depth_picture_and_a_back_may_be_brought(tmp_path: Path, capsys: Capture) -> None:
    source = tmp_path / "in.png"
    rng = np.random.default_rng(0)
    cv2.imwrite(str(source), rng.integers(0, 255, (N, N, 3), dtype=np.uint8))
    mask, depth = tmp_path / "mask.png", tmp_path / "depth.png"
    cover = np.zeros((N, N), np.uint8)
    cv2.circle(cover, (100, 100), 60, 255, -1)
    cv2.imwrite(str(mask), cover)
    cv2.imwrite(str(depth), np.tile(np.arange(N, dtype=np.uint8), (N, 1)))
    more = "--mask", mask, "--depth-picture", depth, "--way", "half", "--thick", 10
    said = made(capsys, source, "-o", tmp_path / "out.stl", *more)
    assert said["closed"]
    back = picture(tmp_path / "back.png")
    assert made(capsys, source, "-o", tmp_path / "o.glb", "--mask", mask, "--back-picture", back)


def test_a_network_of_ones_own_tells_the_depth(tmp_path: Path, capsys: Capture) -> None:
    source, out = picture(tmp_path / "in.png"), tmp_path / "out.stl"
    network = brightness(tmp_path / "own.onnx")
    pixels = cv2.imread(str(source), cv2.IMREAD_UNCHANGED)
    pixels[..., :3] = np.linspace(30, 250, N)[None, :, None]
    cv2.imwrite(str(source), pixels)
    more = "--way", "half", "--thick", 12, "--network", network, "--network-values", "0 to 1"
    assert made(capsys, source, "-o", out, *more)["closed"]
    mesh = trimesh.load(out)
    assert isinstance(mesh, trimesh.Trimesh)
    deep = [-mesh.vertices[np.abs(mesh.vertices[:, 0] - x) < 2, 1].min() for x in (-20, 20)]
    assert deep[1] > 2 * deep[0]


@pytest.mark.parametrize(
    ("name", "more", "words"),
    [
        ("noise", [], "not isolated"),
        ("disc", ["--mask", "small.png"], "mask: it is 10 × 10 pixels"),
        ("disc", ["--mask", "empty.png"], "covers nothing"),
        ("disc", ["--depth-picture", "small.png"], "depth picture: it is 10 × 10"),
        ("disc", ["--resolution", "9"], "resolution: 9 is below 64"),
        ("disc", ["--resolution", "99999"], "resolution: 99999 is above 1400"),
        ("disc", ["--tall", "0"], "tall: a side of 0 mm is outside"),
        ("disc", ["--detail", "-1"], "detail: a detail of -1 mm is outside 0 to 20 mm"),
        ("disc", ["--way", "turn", "--wall", "60"], "no room inside"),
        ("spike", ["--way", "turn", "--wall", "3"], "its upper end is too narrow"),
        ("disc", ["-o", "out.docx"], "out.docx"),
        ("disc", ["--network", "disc.png"], "disc.png: it is no network"),
        ("gone", [], "gone.png"),
        ("clear", [], "picture: it is transparent all over"),
        ("plain", [], "picture: nothing is apart from its background"),
    ],
)
def test_what_cannot_be_made_is_refused_in_one_line(
    tmp_path: Path,
    capsys: Capture,
    monkeypatch: pytest.MonkeyPatch,
    name: str,
    more: list[str],
    words: str,
) -> None:
    monkeypatch.chdir(tmp_path)
    picture(tmp_path / "disc.png")
    rng = np.random.default_rng(0)
    cv2.imwrite("noise.png", rng.integers(0, 255, (N, N, 3), dtype=np.uint8))
    cv2.imwrite("clear.png", np.full((N, N, 4), (90, 90, 90, 0), np.uint8))
    cv2.imwrite("plain.png", np.full((N, N, 3), 90, np.uint8))
    spike = np.full((N, N, 3), 255, np.uint8)
    cv2.fillPoly(spike, [np.array([(100, 20), (160, 180), (40, 180)])], (40, 90, 200))
    cv2.imwrite("spike.png", spike)
    cv2.imwrite("small.png", np.full((10, 10), 255, np.uint8))
    cv2.imwrite("empty.png", np.zeros((N, N), np.uint8))
    command = ["figure", f"{name}.png", "-o", "out.stl", "--resolution", "96", *more]
    try:
        assert main(command) == 2
    except SystemExit as ended:
        assert ended.code == 2
    said = capsys.readouterr().err.strip()
    assert words in said and len(said.splitlines()) == 1
    assert not (tmp_path / "out.stl").exists()


@pytest.mark.parametrize("way", ["inflate", "learned"])
@pytest.mark.parametrize("back", ["mirror", "smooth", "flat"])
def test_a_picture_from_behind_goes_with_every_back(
    tmp_path: Path, capsys: Capture, way: str, back: str
) -> None:
    front = picture(tmp_path / "in.png")
    shown = cv2.imread(str(front), cv2.IMREAD_UNCHANGED)
    x, y = np.meshgrid(np.arange(N) - N / 2, np.arange(N) - N / 2)
    lit = np.sqrt(np.clip(1 - (x**2 + y**2) / 70**2, 0, 1)) * (0.9 + 0.1 * np.sin(x / 3))
    shown[..., :3] = np.clip(40 + 200 * lit, 0, 255)[..., None]
    behind = tmp_path / "behind.png"
    cv2.imwrite(str(behind), shown)
    more = "--way", way, "--back", back, "--back-picture", behind, "--detail", 0.5
    said = made(capsys, front, "-o", tmp_path / "out.ply", *more)
    assert said["closed"] and said["manifold"] and said["bodies"] == 1
    mesh = trimesh.load(tmp_path / "out.ply")
    assert isinstance(mesh, trimesh.Trimesh) and mesh.is_volume
    colours = np.asarray(mesh.visual.vertex_colors)[:, :3].astype(int)
    gray = np.ptp(colours, axis=1) < 12
    # Within a cell of where they meet, one colour runs into the other.
    assert gray[mesh.vertices[:, 1] > 0.8].all() and not gray[mesh.vertices[:, 1] < -0.8].any()
