import hashlib
import json
import socket
import subprocess
import sys
from base64 import b64encode
from pathlib import Path
from typing import get_args
from zipfile import ZipFile

import cv2
import numpy as np
import pytest
import tifffile
import trimesh
from PIL import Image

from nebrel.cli import COMMANDS, main
from nebrel.core.choices import FORMS, PRODUCT_NAMES
from nebrel.core.products.bundle import write_bundle
from nebrel.core.recipe.forms import FORM, Form
from nebrel.core.recipe.models import load_recipe
from nebrel.demo.flawed import door_sign
from nebrel.demo.pictures import as_png
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
        "holes",
        "flipped",
        "nonmanifold_edges",
        "degenerate",
        "needles",
        "duplicates",
        "self_crossings",
        "floaters",
        "thinnest_mm",
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
    usual = ["cv2", "PIL", "fastapi", "sqlalchemy", "trimesh", "pydantic", "pydelatin"]
    for arguments, heavy in ((["--help"], [*usual, "numba"]), (["inspect", str(path)], usual)):
        code = (
            f"import sys; from nebrel.cli import main\ntry: main({arguments!r})\n"
            f"except SystemExit: pass\nprint([m for m in {heavy!r} if m in sys.modules])"
        )
        run = subprocess.run(
            [sys.executable, "-c", code], capture_output=True, text=True, check=True
        )
        assert run.stdout.splitlines()[-1] == "[]"


def test_the_models_of_a_recipe_load_nothing_that_computes() -> None:
    code = (
        "import sys, nebrel.core.recipe.models\n"
        "print([m for m in ('numpy', 'cv2', 'numba', 'manifold3d') if m in sys.modules])"
    )
    run = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert run.stdout.splitlines() == ["[]"]


@pytest.mark.parametrize("command", COMMANDS)
def test_every_command_has_its_help_and_loads_no_other(command: str) -> None:
    code = (
        f"import sys; from nebrel.cli import main, COMMANDS\ntry: main([{command!r}, '--help'])\n"
        "except SystemExit: pass\n"
        "print([name for name in COMMANDS if f'nebrel.cli.{name}' in sys.modules])"
    )
    run = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    lines = run.stdout.splitlines()
    assert lines[0].startswith(f"usage: nebrel {command} ")
    # Photographs and calibrations are of a wedge, and share its options.
    with_wedge = ["wedge", command] if command in ("photograph", "calibrate") else [command]
    assert lines[-1] == str(with_wedge)


def test_the_script_of_the_readme_runs(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    readme = (Path(__file__).parents[1] / "README.md").read_text()
    script = readme.split("```python\n")[1].split("```")[0]
    assert len(script.splitlines()) <= 10
    monkeypatch.chdir(tmp_path)
    Path("north crater.png").write_bytes(png(ramp(40, 60)))
    exec(compile(script, "README.md", "exec"), {})
    assert "triangles, within 0.01 mm" in capsys.readouterr().out
    assert trimesh.load(tmp_path / "north crater.stl").is_watertight


def test_names_of_forms_and_parts_are_those_of_the_models() -> None:
    models = get_args(get_args(Form)[0])
    assert {*FORM, "disc"} == set(FORMS)  # a panel with a round edge
    assert {m().kind: m for m in models} == FORM


def test_names_of_products_are_those_that_can_be_made() -> None:
    from nebrel.core.products.table import PRODUCTS

    assert tuple(PRODUCTS) == PRODUCT_NAMES


def test_build_makes_any_product(
    picture: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    tabs = {"kind": "tabs"}
    heights = {"backing": 3}
    source = bundled(tmp_path / "piece.zip", picture.read_bytes(),
                     {"heights": heights, "fittings": [tabs]})  # fmt: skip
    # One of each kind; all of them are made over the API.
    for name in ("piece.stl", "piece.zip", "holder.stl", "heights.tif", "picture.png"):
        assert name in PRODUCT_NAMES
        out = tmp_path / name
        assert main(["build", source, "-o", str(out), "--product", name]) == 0, name
        assert out.stat().st_size > 200
    plain = tmp_path / "plain.stl"
    assert main(["build", source, "-o", str(plain)]) == 0
    assert plain.read_bytes() == (tmp_path / "piece.stl").read_bytes()
    capsys.readouterr()
    wrong = ["build", source, "-o", str(tmp_path / "x.stl"), "--product", "lit.png"]
    assert main(wrong) == 2
    assert "ending .png" in capsys.readouterr().err
    assert main([*wrong[:-1], "piece.stl", "--part", "holder"]) == 2
    assert not (tmp_path / "x.stl").exists()


def read16(path: Path) -> np.ndarray:
    values = cv2.imread(str(path), cv2.IMREAD_UNCHANGED)
    assert values.dtype == np.uint16
    return values


def test_correct_applies_its_options_in_the_order_given(picture: Path, tmp_path: Path) -> None:
    out = tmp_path / "out.png"
    run = lambda *options: main(["correct", str(picture), "-o", str(out), *options])  # noqa: E731
    assert run() == 0
    assert np.array_equal(read16(out), np.rint(ramp(50, 81) * 65_535))
    assert run("--crop", "10,5,40,30") == 0
    assert read16(out).shape == (30, 40)
    assert run("--threshold", "0.25", "--invert") == 0
    first = read16(out)
    assert run("--invert", "--threshold", "0.25") == 0
    assert set(np.unique(first)) == set(np.unique(read16(out))) == {0, 65_535}
    assert first.mean() < read16(out).mean()
    assert run("--steps", "4") == 0
    assert len(np.unique(read16(out))) == 4
    assert run("--levels", "64,191") == 0
    assert read16(out)[0, 20] == 0
    assert read16(out)[0, 60] == 65_535
    assert run("--wide", "40", "--extend", "5,1", "--smooth", "0") == 0
    assert read16(out).shape == (70, 101)
    assert read16(out)[0, 0] == 65_535
    assert run("--wide", "8", "--despeckle", "0.1", "--read", "luminance") == 0
    assert round(Image.open(out).info["dpi"][0], 1) == 254


def test_correct_drops_a_background(tmp_path: Path) -> None:
    page = np.ones((60, 90, 3), np.float32)
    page[20:40, 30:60] = (0.8, 0.2, 0.1)
    path, out = tmp_path / "page.png", tmp_path / "out.png"
    path.write_bytes(png(page, 8))
    options = ["--drop-background", "0.1", "--read", "red"]
    assert main(["correct", str(path), "-o", str(out), *options]) == 0
    found = Image.open(out)
    assert found.mode in ("LA", "LA;16B", "RGBA", "I;16")
    values = read16(out)
    assert values[..., -1][30, 45] == 65_535
    assert values[..., -1][0, 0] == 0
    assert values[30, 45, 0] == pytest.approx(0.8 * 65_535, rel=0.01)


@pytest.mark.parametrize(
    ("options", "words"),
    [
        (["--crop", "0,0,999,10"], "reaches outside"),
        (["--crop", "1,2,3"], "X,Y,W,H"),
        (["--threshold", "1.0", "--crop", "0,0,40,40", "--threshold", "0.9"], "leaves nothing"),
        (["--threshold", "blue"], "otsu"),
        (["--levels", "0.8,0.2"], "below the white point"),
        (["--steps", "1"], "2 to 32"),
        (["--smooth", "-1"], "smooth"),
        (["--read", "purple"], "luminance"),
        (["--drop-background", "1"], "mask is empty"),
        (["--extend", "5"], "MM,TONE"),
        (["--wide", "0"], "0.1 to 5000"),
    ],
)
def test_wrong_corrections_are_refused_in_one_line(
    picture: Path,
    tmp_path: Path,
    capsys: pytest.CaptureFixture[str],
    options: list[str],
    words: str,
) -> None:
    out = tmp_path / "out.png"
    assert words in refused(capsys, "correct", str(picture), "-o", str(out), *options)
    assert not out.exists()
    assert ".png" in refused(capsys, "correct", str(picture), "-o", str(tmp_path / "out.stl"))


def test_report_as_json_and_in_words(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "sign.png"
    path.write_bytes(as_png(door_sign(rows=450, cols=700), 8))
    assert main(["report", str(path), "--wide", "150", "--depth", "2", "--json"]) == 0
    findings = json.loads(capsys.readouterr().out)
    kinds = {finding["kind"] for finding in findings}
    assert {"off_white", "uneven_background", "noise"} <= kinds
    for finding in findings:
        assert {"kind", "severity", "share", "text", "remedy", "numbers"} <= set(finding)
        load_recipe({"picture": {"sha256": "0" * 64, "corrections": [finding["remedy"]]}})
    assert main(["report", str(path)]) == 0
    assert "nearly white" in capsys.readouterr().out
    assert "outside" in refused(capsys, "report", str(path), "--nozzle", "0")
    options = ["--nozzle", "5", "--layer", "0.001", "--json"]
    assert main(["report", str(path), *options]) == 0
    finer = {finding["kind"] for finding in json.loads(capsys.readouterr().out)}
    assert {"fine_detail", "terracing"} <= finer


def test_relief_on_every_form_and_with_tones(picture: Path, tmp_path: Path) -> None:
    out = tmp_path / "out.stl"

    def run(*options: str) -> trimesh.Trimesh:
        assert main(["relief", str(picture), "-o", str(out), "--tolerance", "0.05", *options]) == 0
        mesh = trimesh.load(out)
        assert mesh.is_watertight
        return mesh

    assert run("--form", "arc", "--bend", "90", "--wide", "90").bounds[0, 2] == 0
    tube = run("--form", "tube", "--diameter", "40", "--depth", "1", "--backing", "2")
    reach = np.hypot(tube.vertices[:, 0], tube.vertices[:, 1])
    assert reach.min() == pytest.approx(20, abs=0.03)
    assert 22.9 < reach.max() <= 23
    assert tube.euler_number == 0
    assert run("--form", "globe", "--diameter", "40").euler_number == 2
    assert run("--form", "disc", "--wide", "50").extents[0] < 50
    steps = run("--tones", "0=2,0.5=1,1=cut", "--backing", "0", "--wide", "80")
    assert np.unique(np.round(steps.vertices[:, 2], 3)).tolist() == [0, 1, 2]
    assert steps.extents[0] == pytest.approx(60, abs=0.02)


@pytest.mark.parametrize(
    ("options", "words"),
    [
        (["--bend", "90"], "no bend"),
        (["--form", "arc", "--bend", "500"], "350"),
        (["--diameter", "40"], "Use --form tube"),
        (["--form", "tube", "--diameter", "40", "--wide", "30"], "given twice"),
        (["--tones", "0.5"], "not a tone and its height"),
        (["--tones", "0=cut,1=cut"], "no tone has a height"),
        (["--tones", "0=1,0=2"], "pinned to two heights"),
        (["--tones", "0=1,1=2", "--form", "cone"], "invalid choice"),
    ],
)
def test_wrong_forms_and_tones_are_refused(
    picture: Path,
    tmp_path: Path,
    capsys: pytest.CaptureFixture[str],
    options: list[str],
    words: str,
) -> None:
    out = tmp_path / "out.stl"
    assert words in refused(capsys, "relief", str(picture), "-o", str(out), *options)


def test_heights_as_tiff_and_png(picture: Path, tmp_path: Path) -> None:
    out = tmp_path / "out.tif"
    command = ["heights", str(picture), "-o", str(out), "--wide", "80", "--depth", "4"]
    assert main(command) == 0
    with tifffile.TiffFile(out) as file:
        mm = file.asarray()
        scale = json.loads(file.pages[0].description)
    assert mm.dtype == np.float32
    assert np.allclose(mm, ramp(50, 81) * 4, atol=1e-4)
    assert (scale["wide_mm"], scale["unit"]) == (80, "mm")
    assert main([*command, "--tones", "0=2,1=cut"]) == 0
    mm = tifffile.imread(out)
    assert np.isnan(mm[:, 60:]).all()
    assert (mm[:, :39] == 2).all()
    as_png_ = tmp_path / "out.png"
    assert main(["heights", str(picture), "-o", str(as_png_), "--depth", "4"]) == 0
    comment = json.loads(Image.open(as_png_).info["Comment"])
    assert np.allclose(read16(as_png_) / 65_535 * comment["white_mm"], ramp(50, 81) * 4, atol=1e-3)


def test_build_makes_a_piece_from_its_file(
    picture: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    data = picture.read_bytes()
    sha256 = hashlib.sha256(data).hexdigest()
    recipe = load_recipe({"picture": {"sha256": sha256, "corrections": [{"kind": "invert"}]}})
    path, out, report = (tmp_path / name for name in ("piece.json", "out.stl", "report.json"))
    written = {"recipe": recipe.model_dump(mode="json"), "pictures": {sha256: b64encode(data)}}
    path.write_text(json.dumps(written, default=bytes.decode))
    assert main(["build", str(path), "-o", str(out), "--report", str(report)]) == 0
    assert trimesh.load(out).is_watertight
    assert json.loads(report.read_text())["mesh"]["manifold"] is True
    path.write_text(json.dumps({"recipe": recipe.model_dump(mode="json")}))
    assert "file of the recipe is missing" in refused(capsys, "build", str(path), "-o", str(out))
    path.write_text("{")
    assert "neither a ZIP nor JSON" in refused(capsys, "build", str(path), "-o", str(out))
    assert "cannot be read" in refused(capsys, "build", str(tmp_path / "no.json"), "-o", str(out))


def bundled(path: Path, data: bytes, document: dict[str, object]) -> str:
    """A piece file with its picture inside."""
    sha256 = hashlib.sha256(data).hexdigest()
    document = {**document, "picture": {"sha256": sha256, **document.get("picture", {})}}  # type: ignore[dict-item]
    with path.open("wb") as out:
        write_bundle(out, load_recipe(document), {sha256: data})
    return str(path)


def test_a_piece_file_is_a_zip_whatever_it_is_called(
    picture: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    data, out = picture.read_bytes(), str(tmp_path / "out.stl")
    first, second = tmp_path / "a.zip", tmp_path / "b.json"
    bundled(first, data, {})
    sha256 = hashlib.sha256(data).hexdigest()
    with ZipFile(first) as packed:
        names = packed.namelist()
        assert names == ["manifest.json", "recipe.json", f"files/{sha256}"]
        assert packed.read(names[2]) == data
        assert json.loads(packed.read(names[0]))["files"] == [sha256]
        recipe = load_recipe(json.loads(packed.read(names[1])))
    with second.open("wb") as into:
        write_bundle(into, recipe, {sha256: picture})
    assert first.read_bytes() == second.read_bytes()
    assert main(["build", str(second), "-o", out]) == 0
    assert main(["light", str(first), "-o", str(tmp_path / "lit.png")]) == 0
    whole = first.read_bytes()
    for cut, words in (
        (whole.replace(data[40:60], bytes(20)), "a file in it is damaged"),
        (whole.replace(b"files/", b"filed/"), "a file of the recipe is missing"),
        (whole.replace(b"recipe.json", b"resipe.json"), "holds no recipe"),
        (whole[: len(whole) // 2], "neither a ZIP nor JSON"),
    ):
        second.write_bytes(cut)
        assert words in refused(capsys, "build", str(second), "-o", out)


def test_build_says_what_was_not_made_and_strict_refuses(
    picture: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    out, report = tmp_path / "out.stl", tmp_path / "report.json"
    letters = {"kind": "text", "id": "name", "text": "A", "height": -9, "name": "Sign"}
    path = bundled(
        tmp_path / "piece.json",
        picture.read_bytes(),
        {
            "picture": {
                "corrections": [{"kind": "invert"}, {"kind": "thicken", "tones": "light"},
                                {"kind": "crop", "box": {"x": 900, "y": 0, "wide": 9, "tall": 9}}]
            },
            "heights": {"backing": 0.05, "build_up": [{"kind": "picture"}, letters]},
            "fittings": [{"kind": "socket"}],
        },
    )  # fmt: skip
    for flags, code in (([], 0), (["--strict"], 2)):
        out.unlink(missing_ok=True)
        try:
            assert main(["build", path, "-o", str(out), "--report", str(report), *flags]) == code
        except SystemExit as stop:
            assert stop.code == code
        assert out.exists() == (code == 0)
        lines = capsys.readouterr().err.splitlines()
        assert len(lines) == 4
        assert lines[0].startswith("nebrel: correction 3 (crop) was not applied: ")
        assert "Sign was not made: height: -9 mm on a backing of 0.05 mm" in lines[1]
        assert "less than one print layer of 0.12 mm" in lines[2]
        assert lines[3].startswith("nebrel: socket was not made: ")
        named = json.loads(report.read_text())
        assert named["picture"]["failures"][0]["index"] == 2
        assert [r["entry_id"] for r in named["heights"]["remarks"]] == ["name", ""]
        assert len(named["form"]["remarks"]) == 1
    sound = bundled(tmp_path / "sound.json", picture.read_bytes(), {})
    assert main(["build", sound, "-o", str(out), "--strict"]) == 0
    assert capsys.readouterr().err == ""


def test_relief_and_lithophane_say_their_cautions(
    picture: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    out = str(tmp_path / "out.stl")
    assert main(["relief", str(picture), "-o", out, "--backing", "0.05", "--depth", "0.1"]) == 0
    lines = capsys.readouterr().err.splitlines()
    assert ["print layer" in line for line in lines] == [True, True]
    assert main(["relief", str(picture), "-o", out]) == 0
    assert capsys.readouterr().err == ""


def test_a_piece_sized_by_two_marks_is_as_large_as_the_marks_say(
    picture: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    marks = {"kind": "true_size", "measure": "between", "first": [0, 0], "second": [40, 0]}
    path = bundled(
        tmp_path / "piece.json",
        picture.read_bytes(),
        {"picture": {"side": 0.5, "corrections": [{**marks, "length": 30}]}},
    )
    assert main(["build", path, "-o", str(tmp_path / "out.stl")]) == 0
    captured = capsys.readouterr()
    assert captured.err == ""
    assert "60.000 ×" in captured.out


def test_a_reader_that_leaves_early_ends_no_command_in_a_traceback(picture: Path) -> None:
    command = [sys.executable, "-m", "nebrel", "report", str(picture), "--json"]
    reading = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE)
    assert reading.stdout is not None and reading.stderr is not None
    reading.stdout.close()
    assert "Traceback" not in reading.stderr.read().decode()
    reading.wait(60)


def test_a_missing_folder_is_not_called_a_full_disk(
    picture: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    line = refused(capsys, "relief", str(picture), "-o", str(tmp_path / "no" / "out.stl"))
    assert "Free some space" not in line
    assert "no folder" in line or "does not exist" in line


def test_a_damaged_tiff_is_refused_in_one_line(tmp_path: Path) -> None:
    path = tmp_path / "bad.tif"
    tifffile.imwrite(path, np.zeros((60, 80), np.uint16), compression="zlib")
    data = bytearray(path.read_bytes())
    at = data.index(b"\x00\x01\x04\x00\x01\x00")  # the width is one number: now 400 of them
    data[at + 4 : at + 6] = b"\x90\x01"
    path.write_bytes(data)
    command = [sys.executable, "-m", "nebrel", "report", str(path)]
    ended = subprocess.run(command, capture_output=True, text=True, check=False)
    assert ended.returncode == 2
    assert ended.stderr.count("\n") == 1, ended.stderr
