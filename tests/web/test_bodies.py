"""A mesh brought to the shelf: a piece of its own, finished and exported like any other."""

import io
from pathlib import Path
from typing import Any
from zipfile import ZipFile

import numpy as np
import pytest
import trimesh
from fastapi.testclient import TestClient
from PIL import Image

from nebrel.cli import main
from nebrel.core.formats.meshes import read_mesh
from nebrel.core.mesh.measure import measure
from nebrel.store import Store
from nebrel.web.app import create_app
from tests.web.test_api import extras, finished, made, start


def ball(radius: float = 20, fine: int = 4) -> trimesh.Trimesh:
    found: trimesh.Trimesh = trimesh.creation.icosphere(subdivisions=fine, radius=radius)
    return found


def in_file(mesh: trimesh.Trimesh, ending: str = "stl") -> bytes:
    out = io.BytesIO()
    mesh.export(out, file_type=ending)
    return out.getvalue()


def bring(client: TestClient, mesh: trimesh.Trimesh, name: str = "ball.stl") -> dict[str, Any]:
    file = (name, in_file(mesh, name.rpartition(".")[2]), "application/octet-stream")
    answer = client.post("/api/pieces", files={"file": file})
    assert answer.status_code == 201, answer.text
    found: dict[str, Any] = answer.json()
    return found


def step(kind: str, **said: Any) -> dict[str, Any]:
    return {"kind": kind, "id": f"finish-{kind}", **said}


def with_steps(client: TestClient, piece: dict[str, Any], *steps: dict[str, Any]) -> dict[str, Any]:
    recipe = {**piece["recipe"], "finish": list(steps)}
    answer = client.put(
        f"/api/pieces/{piece['id']}/recipe", json={"recipe": recipe, "label": "finish"}
    )
    assert answer.status_code == 200, answer.text
    found: dict[str, Any] = answer.json()
    return found


def figures(client: TestClient, piece: dict[str, Any]) -> dict[str, Any]:
    found: dict[str, Any] = extras(made(client, piece["id"], "piece.glb").content)
    return found


def test_a_mesh_is_a_piece_of_its_own(client: TestClient) -> None:
    piece = bring(client, ball())
    assert piece["picture"] is None
    assert piece["recipe"]["begins"]["kind"] == "body"
    assert (piece["mesh"]["triangles"], piece["mesh"]["unit"]) == (5120, None)
    assert (piece["form"], piece["wide_mm"]) == ("body", pytest.approx(40))
    card = client.get("/api/pieces").json()[0]
    assert (card["name"], card["form"]) == ("ball", "body")
    found = figures(client, piece)
    assert (found["heights"], found["form"], found["picture"]) == (None, None, None)
    assert found["mesh"]["closed"]
    assert found["mesh"]["low_mm"] == pytest.approx([-20, -20, -20], abs=0.1)


def test_simplified_to_a_limit_and_exported(client: TestClient, tmp_path: Path) -> None:
    piece = with_steps(client, bring(client, ball()), step("simplify", triangles=800))
    [told] = figures(client, piece)["steps"]
    assert (told["before"]["triangles"], told["error"]) == (5120, None)
    assert 700 < told["after"]["triangles"] <= 800
    job = finished(client, start(client, piece["id"], "deviation-finish-simplify.glb").json())
    away = job["deviation"]
    assert 0 < away["rms_mm"] < away["max_mm"] < 0.5
    assert away["max_mm"] == max(away["a_to_b"]["max_mm"], away["b_to_a"]["max_mm"])
    tint = trimesh.load(io.BytesIO(client.get(f"/api/results/{job['result']}").content), "glb")
    assert next(iter(tint.geometry.values())).visual.kind == "vertex"
    path = tmp_path / "ball.3mf"
    path.write_bytes(made(client, piece["id"], "piece.3mf").content)
    report = measure(read_mesh(path))
    assert (report.triangles, report.manifold) == (told["after"]["triangles"], True)


def test_the_report_names_each_fault_with_its_remedy(client: TestClient) -> None:
    whole = ball()
    faces = whole.faces.copy()
    faces[100] = faces[100][::-1]
    broken = trimesh.Trimesh(whole.vertices, np.delete(faces, [7, 8, 9], axis=0), process=False)
    piece = bring(client, broken)
    job = finished(client, start(client, piece["id"], "faults.json").json())
    found = {one["kind"]: one for one in job["faults"]["report"]}
    assert found["flipped"]["count"] == 1
    assert found["holes"]["count"] >= 1
    assert {one["remedy"] for one in found.values()} == {"repair"}
    assert len(found["flipped"]["spots_mm"]) == 1
    # What was said is there again when it is asked for a second time.
    assert start(client, piece["id"], "faults.json").json()["faults"] == job["faults"]

    piece = with_steps(client, piece, step("repair"))
    told = figures(client, piece)
    assert told["mesh"]["manifold"]
    assert any("hole" in words for words in told["steps"][0]["said"])


def test_what_is_refused_is_told_and_the_rest_goes_on(client: TestClient) -> None:
    steps = step("trim", at={"mm": 300}), step("scale", by="size", axis="x", size={"mm": 10})
    found = figures(client, with_steps(client, bring(client, ball()), *steps))
    assert found["steps"][0]["error"]["why"] == "nothing is left of it"
    assert found["mesh"]["size_mm"] == pytest.approx([10, 10, 10], rel=1e-3)


def test_a_small_mesh_is_taken_for_inches_and_can_be_said_otherwise(client: TestClient) -> None:
    piece = bring(client, ball(1.5))
    assert piece["recipe"]["begins"]["body"]["unit"] == "in"
    assert "inches" in piece["mesh"]["why"]
    assert piece["wide_mm"] == pytest.approx(76.2, rel=1e-3)
    recipe = piece["recipe"]
    recipe["begins"]["body"]["unit"] = "cm"
    piece = client.put(
        f"/api/pieces/{piece['id']}/recipe", json={"recipe": recipe, "label": "unit"}
    ).json()
    assert figures(client, piece)["mesh"]["size_mm"][0] == pytest.approx(30, rel=1e-3)


def test_a_unit_that_makes_it_kilometres_wide_is_refused(client: TestClient) -> None:
    piece = bring(client, ball(2000))
    recipe = piece["recipe"]
    recipe["begins"]["body"]["unit"] = "m"
    client.put(f"/api/pieces/{piece['id']}/recipe", json={"recipe": recipe, "label": "unit"})
    job = finished(client, start(client, piece["id"], "piece.glb").json())
    assert job["state"] == "failed"
    assert "m wide" in job["error"]["why"]


@pytest.mark.parametrize(
    ("name", "content"),
    [
        ("torn.stl", b"solid x\nfacet normal 0 0 1\nouter loop\nvertex 0 0 hello"),
        ("bare.obj", b"v 0 0 0\nv 1 0 0\n"),
        ("off.off", b"OFF\n3 1 0\n0 0 0\n1 0 0\n0 1 0\n3 0 1 7\n"),
        ("no.3mf", b"PK\x03\x04 nothing"),
        ("no.glb", b"glTF\x02\x00\x00\x00"),
        ("empty.ply", b""),
    ],
)
def test_a_broken_file_is_refused_under_its_own_name(
    client: TestClient, name: str, content: bytes
) -> None:
    before = client.get("/api/pieces").json()
    answer = client.post("/api/pieces", files={"file": (name, content, "model/stl")})
    assert answer.status_code in (415, 422), answer.text
    assert answer.json()["error"]["what"] == name
    assert len(client.get("/api/pieces").json()) == len(before)


def test_a_relief_is_simplified_from_its_heights(client: TestClient) -> None:
    from tests.pictures import png
    from tests.web.test_api import bring as bring_picture

    waves = (
        0.5 + 0.25 * np.sin(np.linspace(0, 20, 161))[None] * np.cos(np.linspace(0, 9, 121))[:, None]
    )
    piece = bring_picture(client, png((waves * 65535).astype(np.uint16))).json()
    plain = figures(client, piece)
    piece = with_steps(client, piece, step("simplify", triangles=2000))
    found = figures(client, piece)
    assert found["mesh"]["triangles"] <= 2000 < plain["mesh"]["triangles"]
    assert found["mesh"]["manifold"]
    assert found["steps"][0]["before"]["triangles"] == plain["mesh"]["triangles"]
    job = finished(client, start(client, piece["id"], "deviation-finish-simplify.glb").json())
    assert job["deviation"]["max_mm"] < 0.2


def test_a_bundle_of_a_body_opens_in_another_folder(client: TestClient, tmp_path: Path) -> None:
    from nebrel.core.products.bundle import read_bundle
    from nebrel.core.questions.evaluator import Evaluator

    piece = with_steps(client, bring(client, ball()), step("trim", at={"mm": 3}))
    path = tmp_path / "ball.zip"
    path.write_bytes(made(client, piece["id"], "piece.zip").content)
    out = tmp_path / "built.stl"
    assert main(["build", str(path), "-o", str(out)]) == 0
    assert measure(read_mesh(out)).size_mm[2] == pytest.approx(17, abs=0.01)
    assert main(["build", str(path), "-o", str(out), "--part", "stamp"]) == 2
    with ZipFile(path) as packed:
        assert Image.open(packed.open("preview.png")).size == (592, 296)
    recipe, files = read_bundle(path)
    result = Evaluator(files, files=files.file).evaluate(recipe)
    assert result.report.size_mm[2] == pytest.approx(17, abs=0.01)
    with TestClient(
        create_app(Store(tmp_path / "elsewhere")), base_url="http://127.0.0.1"
    ) as other:
        answer = other.post("/api/pieces", files={"file": ("a ball.zip", path.read_bytes())})
        assert answer.status_code == 201, answer.text
        assert answer.json()["name"] == "a ball"
        assert answer.json()["recipe"]["finish"] == piece["recipe"]["finish"]
        assert figures(other, answer.json())["mesh"]["size_mm"][2] == pytest.approx(17, abs=0.01)
        torn = other.post("/api/pieces", files={"file": ("torn.zip", path.read_bytes()[:-300])})
        assert torn.status_code in (415, 422)
        assert len(other.get("/api/pieces").json()) == 1


def joined(by: str, other: dict[str, Any], **said: Any) -> dict[str, Any]:
    return step("join", by=by, other=other, pivot="middle", **said)


@pytest.mark.parametrize(("by", "volume"), [("add", 1.5), ("subtract", 0.5), ("common", 0.5)])
def test_two_pieces_are_joined_and_stay_linked(client: TestClient, by: str, volume: float) -> None:
    box = trimesh.creation.box((20, 20, 20))
    one, two = bring(client, box, "one.stl"), bring(client, box, "two.stl")
    other = {"kind": "piece", "piece_id": two["id"], "name": "two"}
    one = with_steps(client, one, joined(by, other, x={"mm": 10}))
    [told] = one["recipe"]["finish"]
    assert told["other"]["recipe"]["begins"]["kind"] == "body"
    assert figures(client, one)["mesh"]["volume_mm3"] == pytest.approx(8000 * volume, rel=1e-3)

    # What it is joined with changes: it has become another, without a change of its own.
    with_steps(client, two, step("scale", x=0.5, y=0.5, z=0.5))
    now = client.get(f"/api/pieces/{one['id']}").json()
    assert now["revision"] == one["revision"]
    assert now["state"] != one["state"]
    assert client.get(f"/api/pieces/{one['id']}/state").json()["state"] == now["state"]
    small = {"add": 8000 + 500, "subtract": 8000 - 500, "common": 500}[by]
    assert figures(client, now)["mesh"]["volume_mm3"] == pytest.approx(small, rel=1e-3)
    # What was changed meanwhile is kept none the less.
    kept = client.put(
        f"/api/pieces/{one['id']}/recipe",
        json={"recipe": {**one["recipe"], "finish": []}, "label": "x", "state": one["state"]},
    )
    assert kept.status_code == 200
    # The other one is gone: the last that was seen of it stays.
    again = with_steps(client, kept.json(), joined(by, other, x={"mm": 10}))
    client.delete(f"/api/pieces/{two['id']}")
    now = client.get(f"/api/pieces/{one['id']}").json()
    assert now["recipe"]["finish"] == again["recipe"]["finish"]


def test_no_piece_is_joined_with_itself(client: TestClient) -> None:
    one, two = bring(client, ball(), "one.stl"), bring(client, ball(), "two.stl")
    first = {"kind": "piece", "piece_id": one["id"]}
    two = with_steps(client, two, joined("add", first))
    for other in (one, two):
        recipe = {
            **one["recipe"],
            "finish": [joined("add", {"kind": "piece", "piece_id": other["id"]})],
        }
        answer = client.put(f"/api/pieces/{one['id']}/recipe", json={"recipe": recipe})
        assert answer.status_code == 422, answer.text
        assert "itself" in answer.json()["error"]["why"]


def test_a_piece_that_was_never_here_is_refused_alone(client: TestClient) -> None:
    other = {"kind": "piece", "piece_id": "0" * 32, "name": "Comet"}
    piece = with_steps(client, bring(client, ball()), joined("add", other), step("smooth"))
    found = figures(client, piece)
    assert found["steps"][0]["error"]["what"] == "Comet"
    assert found["steps"][1]["error"] is None


def test_subtracting_everything_is_refused(client: TestClient) -> None:
    small, large = bring(client, ball(5), "small.stl"), bring(client, ball(9), "large.stl")
    other = {"kind": "piece", "piece_id": large["id"]}
    found = figures(client, with_steps(client, small, joined("subtract", other)))
    assert "nothing is left" in found["steps"][0]["error"]["why"]


@pytest.mark.parametrize("across", ["x", "y"])
def test_a_plane_cuts_the_mesh_as_it_is_finished(client: TestClient, across: str) -> None:
    piece = with_steps(client, bring(client, ball()), step("trim", at={"mm": 0}))
    body = {"recipe": piece["recipe"], "across": across, "at_mm": 5.0, "before": "finish-trim"}
    found = client.post("/api/cut", json=body).json()
    wide, high = np.ptp(np.array(found["lines"][0]), axis=0)
    assert (wide, high) == pytest.approx((2 * np.sqrt(375), np.sqrt(375)), rel=0.01)
    assert np.ptp(np.array(found["before"][0])[:, 1]) == pytest.approx(2 * high, rel=0.02)
    assert found["low_mm"][2] == pytest.approx(-20, abs=0.1)


@pytest.mark.parametrize(
    ("product", "size"),
    [
        ("piece-in.stl", (1, 2, 3)),
        ("piece-y.obj", (25.4, 76.2, 50.8)),
        ("piece-m-y.ply", (0.0254, 0.0762, 0.0508)),
        ("piece-text-cm.stl", (2.54, 5.08, 7.62)),
        ("piece-cm.off", (2.54, 5.08, 7.62)),
    ],
)
def test_written_in_another_unit_and_with_another_axis_up(
    client: TestClient, tmp_path: Path, product: str, size: tuple[float, float, float]
) -> None:
    piece = bring(client, trimesh.creation.box((25.4, 50.8, 76.2)), "block.stl")
    answer = made(client, piece["id"], product, "block")
    path = tmp_path / f"out.{product.rpartition('.')[2]}"
    path.write_bytes(answer.content)
    loaded = trimesh.load(path, force="mesh")
    assert loaded.extents == pytest.approx(size, rel=1e-5)
    assert loaded.volume == pytest.approx(np.prod(size), rel=1e-4)


def test_colours_live_on_in_the_steps_and_in_the_files(client: TestClient, tmp_path: Path) -> None:
    by_height = step("colour", colours=["#204080", "#e0e0e0"], changes=[{"mm": 20}])
    steps = by_height, step("simplify", triangles=900)
    piece = with_steps(client, bring(client, ball()), *steps)
    found = figures(client, piece)
    assert found["mesh"]["coloured"]
    path = tmp_path / "ball.ply"
    path.write_bytes(made(client, piece["id"], "piece.ply").content)
    loaded = trimesh.load(path)
    below = loaded.vertices[:, 2] < -2
    assert np.abs(loaded.visual.vertex_colors[below, :3].astype(int) - (32, 64, 128)).max() <= 2
    match = {**by_height, "id": "b", "by": "match", "colours": ["#000000", "#ffffff"]}
    piece = with_steps(client, piece, by_height, match)
    assert figures(client, piece)["steps"][1]["said"] == ["2 colours left"]
    wrong = {**by_height, "changes": []}
    told = figures(client, with_steps(client, piece, wrong))["steps"][0]
    assert "one more is needed" in told["error"]["why"]


def test_a_3mf_is_called_as_the_piece(client: TestClient) -> None:
    piece = bring(client, ball(), "a.stl")
    client.patch(f"/api/pieces/{piece['id']}", json={"name": "Comet & tail"})
    data = made(client, piece["id"], "piece.3mf").content
    with ZipFile(io.BytesIO(data)) as packed:
        model = packed.read("3D/3dmodel.model").decode()
    assert "Comet &amp; tail" in model


def test_it_is_drawn_and_turned_around(client: TestClient) -> None:
    piece = bring(client, ball())
    drawn = Image.open(io.BytesIO(made(client, piece["id"], "rendered.png").content))
    assert drawn.size == (1600, 1200)
    pixels = np.asarray(drawn.convert("L"), float)
    assert np.ptp(pixels) > 60
    moving = Image.open(io.BytesIO(made(client, piece["id"], "turntable.webp").content))
    assert (moving.n_frames, moving.info["loop"]) == (48, 0)


def two_tones() -> bytes:
    """Red on the left, white on the right; rough all over."""
    rng = np.random.default_rng(2)
    pixels = np.full((80, 120, 3), 255, np.uint8)
    pixels[:, :60] = (200, 30, 30)
    pixels = np.clip(pixels - rng.integers(0, 12, (80, 120, 1)), 0, 255).astype(np.uint8)
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG")
    return out.getvalue()


def test_a_relief_is_coloured_and_smoothed_as_its_picture(client: TestClient) -> None:
    from tests.web.test_api import bring as bring_picture

    piece = bring_picture(client, two_tones()).json()
    colour = step("colour", by="picture", fine={"mm": 1.0})
    with_steps(client, piece, colour)
    glb = made(client, piece["id"], "model.glb").content
    loaded = trimesh.load(io.BytesIO(glb), file_type="glb", force="mesh")
    seen = loaded.visual.vertex_colors
    left = loaded.vertices[:, 0] < loaded.bounds[:, 0].mean() - 0.002
    assert (seen[left, 1] < 60).all()
    assert (
        seen[~left & (loaded.vertices[:, 0] > loaded.bounds[:, 0].mean() + 0.002), 1] > 150
    ).all()

    piece = with_steps(
        client, piece, step("smooth", where="mask", rounds=5), step("turn", z=30), colour
    )
    found = figures(client, piece)
    assert [one["error"] is None for one in found["steps"]] == [True, True, False]
    assert "moved before" in found["steps"][2]["error"]["why"]
    assert found["mesh"]["manifold"]

    body = with_steps(client, bring(client, ball()), colour, step("smooth", where="mask"))
    found = figures(client, body)
    assert ["has none" in one["error"]["why"] for one in found["steps"]] == [True, True]


def test_faults_are_mended_one_by_one(client: TestClient) -> None:
    whole = ball()
    faces = np.delete(whole.faces, [7, 8], axis=0)
    faces[100] = faces[100][::-1]
    torn = trimesh.Trimesh(whole.vertices, faces, process=False)
    piece = bring(client, torn, "torn.stl")
    job = finished(client, start(client, piece["id"], "faults.json").json())
    told = {one["kind"]: (one["remedy"], one["fault"]) for one in job["faults"]["report"]}
    assert told["holes"] == ("repair", "holes")
    assert told["flipped"] == ("repair", "flipped")
    found = figures(client, with_steps(client, piece, step("repair", only=["flipped"])))
    assert found["steps"][0]["said"] == ["1 face turned"]
    assert not found["mesh"]["closed"]
    found = figures(client, with_steps(client, piece, step("repair", only=["flipped", "holes"])))
    assert found["mesh"]["manifold"]


def test_an_obj_in_a_zip_comes_with_its_colours_and_goes_out_with_them(client: TestClient) -> None:
    out = io.BytesIO()
    with ZipFile(out, "w") as packed:
        text = in_file(ball(20, 2), "obj").decode().split("\n")
        text = [line for line in text if not line.startswith(("mtllib", "usemtl"))]
        packed.writestr("ball.obj", "mtllib ball.mtl\nusemtl red\n" + "\n".join(text))
        packed.writestr("ball.mtl", "newmtl red\nKd 1 0 0\n")
    answer = client.post("/api/pieces", files={"file": ("ball.zip", out.getvalue())})
    assert answer.status_code == 201, answer.text
    piece = answer.json()
    assert piece["mesh"]["coloured"]
    found = figures(client, with_steps(client, piece, step("split", into="bodies")))
    assert found["mesh"]["coloured"]
    assert "one alone" in found["steps"][0]["error"]["why"]
    with ZipFile(io.BytesIO(made(client, piece["id"], "piece-in.obj.zip").content)) as packed:
        names = packed.namelist()
        assert "Kd 1 0 0" in packed.read(next(n for n in names if n.endswith(".mtl"))).decode()
    junk = client.post("/api/pieces", files={"file": ("junk.zip", b"PK\x03\x04junk")})
    assert junk.status_code in (415, 422)
    assert junk.json()["error"]["what"] == "junk.zip"


def test_art_on_a_body_stays_open_to_the_end(client: TestClient) -> None:
    from tests.pictures import png, ramp

    piece = bring(client, ball(20, 4))
    answer = client.post("/api/pictures", files={"file": ("ramp.png", png(ramp(40, 40)))})
    kept = answer.json()
    art = {
        "picture": {"file": {"sha256": kept["sha256"], "filename": "ramp.png"}, "side": 12},
        "backing": 0.4,
        "build_up": [{"kind": "picture", "depth": 1.0}],
    }

    def laid(**more: Any) -> dict[str, Any]:
        recipe = dict(client.get(f"/api/pieces/{piece['id']}").json()["recipe"])
        one = {"id": "decoration-1", "art": art, "at": [0, -20, 0], **more}
        recipe["begins"] = {**recipe["begins"], "decorations": [one]}
        answer = client.put(
            f"/api/pieces/{piece['id']}/recipe", json={"recipe": recipe, "label": "decoration"}
        )
        assert answer.status_code == 200, answer.text
        assert client.post("/api/preview", json=recipe).status_code == 200
        return figures(client, piece)

    whole = figures(client, piece)["mesh"]["volume_mm3"]
    found = laid()
    assert found["decorations"][0]["error"] is None
    assert found["mesh"]["manifold"]
    raised = found["mesh"]["volume_mm3"] - whole
    assert raised == pytest.approx(12 * 12 * 0.5, rel=0.1)
    often = laid(repeat=4)
    assert often["mesh"]["volume_mm3"] - whole == pytest.approx(4 * raised, rel=0.02)
    assert often["mesh"]["bodies"] == 1
    deeper = laid(does="sink", art={**art, "build_up": [{"kind": "picture", "depth": 2.0}]})
    assert deeper["mesh"]["volume_mm3"] - whole == pytest.approx(-12 * 12, rel=0.15)
    off = laid(enabled=False)
    assert off["decorations"] == []
    assert off["mesh"]["volume_mm3"] == pytest.approx(whole)
    large = laid(art={**art, "picture": {**art["picture"], "side": 90}})  # type: ignore[dict-item]
    assert "folds" in large["decorations"][0]["error"]["why"]
    assert large["mesh"]["manifold"]
    laid()  # and another over it
    recipe = client.get(f"/api/pieces/{piece['id']}").json()["recipe"]
    first = recipe["begins"]["decorations"][0]
    recipe["begins"]["decorations"].append({**first, "id": "decoration-2", "at": [0, -18, 8]})
    answer = client.post("/api/preview", json=recipe)
    assert answer.status_code == 200, answer.text
    assert [one["error"] for one in extras(answer.content)["decorations"]] == [None, None]
    other = bring(client, trimesh.creation.box((10, 10, 10)), "box.stl")
    with ZipFile(io.BytesIO(made(client, piece["id"], "piece.zip").content)) as packed:
        assert f"files/{kept['sha256']}" in packed.namelist()
    assert other["recipe"]["begins"]["decorations"] == []


def test_a_torn_body_is_repaired_before_it_is_decorated(client: TestClient) -> None:
    whole = ball(20, 4)
    torn = trimesh.Trimesh(whole.vertices, np.delete(whole.faces, [5, 6], axis=0), process=False)
    piece = bring(client, torn, "torn.stl")
    kept = client.post("/api/pictures", files={"file": ("two.png", two_tones())}).json()
    recipe = piece["recipe"]
    art = {"picture": {"file": {"sha256": kept["sha256"]}, "side": 8}, "backing": 0.4}
    recipe["begins"]["decorations"] = [{"art": art, "at": [0, -20, 0]}]
    client.put(f"/api/pieces/{piece['id']}/recipe", json={"recipe": recipe, "label": "art"})
    found = figures(client, piece)
    assert found["decorations"][0]["error"] is None
    assert found["mesh"]["manifold"]
