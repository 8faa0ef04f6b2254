"""Pieces as the screen makes them, asked for over the API: what their numbers and files say."""

import io
from typing import Any

import numpy as np
import pytest
import trimesh
from fastapi.testclient import TestClient
from PIL import Image

from nebrel.core.recipe.defaults import fresh_steps
from tests.pictures import png, ramp
from tests.recipes import art_of, pictured, tones_of
from tests.shapes import cover, ellipse
from tests.web.test_api import bring, extras, finished, made, start

PITCH = 100 / 219


def discs() -> bytes:
    loops = [*ellipse((60, 60), 40, 40), *ellipse((160, 60), 30, 30), *ellipse((160, 60), 12, 12)]
    return png(1 - cover(loops, 120, 220))


def change(client: TestClient, piece: dict[str, Any], recipe: Any = None) -> dict[str, Any]:
    body = {"recipe": recipe or piece["recipe"], "label": "changed"}
    answer = client.put(f"/api/pieces/{piece['id']}/recipe", json=body)
    assert answer.status_code == 200, answer.text
    found: dict[str, Any] = answer.json()
    return found


def figures(client: TestClient, piece: dict[str, Any]) -> dict[str, Any]:
    found: dict[str, Any] = extras(made(client, piece["id"], "piece.glb").content)
    return found


def solid(client: TestClient, piece: dict[str, Any], product: str = "piece.stl") -> trimesh.Trimesh:
    mesh = trimesh.load(io.BytesIO(made(client, piece["id"], product).content), file_type="stl")
    assert isinstance(mesh, trimesh.Trimesh)
    assert mesh.is_watertight and mesh.is_winding_consistent
    return mesh


def test_pictures_in_other_formats_keep_what_they_say(client: TestClient) -> None:
    buffer = io.BytesIO()
    frames = [Image.new("L", (40, 30), tone) for tone in (90, 10)]
    frames[0].save(buffer, "GIF", save_all=True, append_images=frames[1:])
    told = bring(client, buffer.getvalue(), "spin.gif").json()["picture"]
    assert any("holds 2 frames; the first one is used" in note for note in told["notes"])
    buffer = io.BytesIO()
    values = np.rint(ramp(30, 61) * 255).astype(np.uint8)
    Image.fromarray(values).save(buffer, "PNG", dpi=(25.4, 25.4))
    told = bring(client, buffer.getvalue(), "scan.png").json()["picture"]
    assert told["printed_mm"] == pytest.approx(60, abs=1.1)


@pytest.mark.parametrize("kind", sorted(fresh_steps()["corrections"]))
def test_every_correction_applies_as_it_is_added(client: TestClient, kind: str) -> None:
    y, x = np.mgrid[0:80, 0:120]
    drawing = np.clip(np.hypot(x - 60, y - 40) - 20.5, 0, 1) * 0.9 + 0.05
    recipe = bring(client, png(drawing.astype(np.float32), 8), "all.png").json()["recipe"]
    sha256 = pictured(recipe)["file"]["sha256"]
    needed: dict[str, dict[str, Any]] = {
        "crop": {"box": {"x": 0, "y": 0, "wide": 120, "tall": 80}},
        "extend": dict.fromkeys(("left", "right", "top", "bottom"), 3),
        "fill": {"at": [60, 40]},
        "overlay": {"sha256": sha256, "centre": [60, 40], "wide": 60},
        "resize": {"cols": 60},
        "true_size": {"length": 100},
    }
    fresh = fresh_steps()["corrections"][kind] | needed.get(kind, {})
    pictured(recipe)["corrections"] = [{"id": "one", "kind": kind, **fresh}]
    answer = client.post("/api/corrected", json={"recipe": recipe})
    assert answer.status_code == 200, answer.text
    assert answer.json()["failures"] == []


def test_a_stroke_nobody_drew_by_hand_is_refused(client: TestClient) -> None:
    piece = bring(client).json()
    endless = {"kind": "brush", "strokes": [{"points": [[1, 1]] * 300_000, "wide": 3}]}
    recipe = piece["recipe"]
    pictured(recipe)["corrections"] = [endless]
    answer = client.put(
        f"/api/pieces/{piece['id']}/recipe", json={"recipe": recipe, "label": "brush"}
    )
    assert answer.status_code == 422
    assert "300000 points" in answer.json()["error"]["why"]
    now = client.get(f"/api/pieces/{piece['id']}").json()
    assert pictured(now["recipe"])["corrections"] == []


def test_what_a_ring_cuts_loose_stays_is_held_or_dropped(client: TestClient) -> None:
    piece = bring(client, png(np.zeros((81, 81))), "slab.png").json()
    art = art_of(piece["recipe"])
    art["build_up"] += [
        {"kind": "frame", "id": "rim", "height": 2},
        {
            "kind": "outline",
            "id": "ring",
            "rule": "cut",
            "outline": {"kind": "ring", "wide": 40, "band": 4},
        },
    ]
    band, frame = np.pi * (20**2 - 16**2), 100**2 - 92**2
    piece = change(client, piece)
    assert figures(client, piece)["heights"]["islands"][0]["area_mm2"] > 790
    assert solid(client, piece).body_count == 2
    art_of(piece["recipe"])["islands"] = "hold"
    art_of(piece["recipe"])["hold"] = 0.8
    held = solid(client, change(client, piece))
    assert held.body_count == 1
    assert held.volume == pytest.approx(100**2 - band + 0.8 * band + 2 * frame, rel=1e-3)
    art_of(piece["recipe"])["islands"] = "drop"
    dropped = solid(client, change(client, piece))
    assert dropped.volume == pytest.approx(100**2 - np.pi * 20**2 + 2 * frame, rel=1e-3)
    # Under the picture the ring cuts nothing.
    art_of(piece["recipe"])["build_up"].insert(0, art_of(piece["recipe"])["build_up"].pop())
    assert solid(client, change(client, piece)).volume == pytest.approx(
        100**2 + 2 * frame, rel=1e-3
    )


def test_a_stamp_is_mirrored_turned_over_and_leaned(client: TestClient) -> None:
    step = np.zeros((101, 101))
    step[:, :30] = 1
    piece = bring(client, png(step), "stamp.png").json()
    art_of(piece["recipe"])["mirror"] = True
    art_of(piece["recipe"])["negative"] = True
    mesh = solid(client, change(client, piece))
    # White on the left stood high; turned over and mirrored it lies low on the right.
    right, left = mesh.vertices[:, 0] > 99.9, mesh.vertices[:, 0] < 0.1
    assert mesh.vertices[right, 2].max() == pytest.approx(1, abs=1e-3)
    assert mesh.vertices[left, 2].max() == pytest.approx(4, abs=1e-3)
    art_of(piece["recipe"])["draft"] = 20
    leaned = solid(client, change(client, piece))
    steep = np.abs(leaned.face_normals[:, 2])
    inside = (np.abs(leaned.triangles_center[:, :2] - 50) < 49).all(axis=1)
    assert steep[inside].min() > np.sin(np.radians(18))


def test_heights_are_saved_and_brought_back_in_mm(client: TestClient) -> None:
    piece = bring(client, png(ramp(60, 90)), "keep.png").json()
    tones_of(piece["recipe"])["depth"] = 4.5
    kept = made(client, change(client, piece)["id"], "heights.tif").content
    again = bring(client, kept, "heights.tif").json()
    said = figures(client, again)["heights"]
    assert (said["lowest_mm"], said["highest_mm"]) == pytest.approx((1, 5.5), abs=1e-3)
    assert np.ptp(solid(client, again).bounds, axis=0)[:2] == pytest.approx([100, 66.3], abs=0.05)


def test_what_would_fold_over_is_said_with_what_works(client: TestClient) -> None:
    piece = bring(client, png(ramp(60, 120)), "bend.png").json()
    piece["recipe"]["begins"]["form"] = {"kind": "tube", "side": "inside"}
    tones_of(piece["recipe"])["depth"] = 40
    job = finished(client, start(client, change(client, piece)["id"], "piece.glb").json())
    assert job["state"] == "failed"
    assert "fold over" in job["error"]["why"]


def test_tabs_and_a_holder_of_a_bent_panel(client: TestClient) -> None:
    piece = bring(client, png(ramp(60, 90)), "rim.png").json()
    begins = piece["recipe"]["begins"]
    tones_of(piece["recipe"])["mapping"] = "light"
    art_of(piece["recipe"])["build_up"].append({"kind": "frame", "id": "rim", "height": 3})
    begins["form"] = {"kind": "arc", "bend": 90}
    begins["fittings"] = [{"kind": "tabs", "id": "tabs"}]
    piece = change(client, piece)
    wide = solid(client, piece)
    reach = np.hypot(wide.vertices[:, 0], wide.vertices[:, 1])
    assert reach.max() == pytest.approx(100 / (np.pi / 2) + 4, abs=0.02)
    solid(client, piece, "holder.stl")
    # Thicker than the panel: refused where it stands, with what works.
    piece["recipe"]["begins"]["fittings"][0]["slot"] = 9
    told = figures(client, change(client, piece))["form"]["remarks"]
    assert told[0]["entry_id"] == "tabs"
    assert "thicker than the panel at its side" in told[0]["error"]["why"]


def test_a_cut_out_and_a_cutter_have_the_size_of_the_shape(client: TestClient) -> None:
    piece = bring(client, discs(), "discs.png").json()

    def begun(purpose: str) -> dict[str, Any]:
        answer = client.post(f"/api/starts/{purpose}", json={"recipe": piece["recipe"]})
        return change(client, piece, answer.json())

    cut = solid(client, begun("cut-out"))
    assert cut.body_count == 2
    assert cut.extents == pytest.approx([170 * PITCH, 80 * PITCH, 3], abs=0.15)
    cutter = begun("cutter")
    assert art_of(cutter["recipe"])["mirror"]  # blade upwards it is seen in a mirror
    art_of(cutter["recipe"])["build_up"][1]["wall"]["thick"] = "3 lines"
    cutter = change(client, cutter)
    thick = art_of(cutter["recipe"])["build_up"][1]["wall"]["thick"]
    assert thick == {"mm": pytest.approx(1.26), "text": "3 lines"}
    # Its rim reaches 4 mm outside the shape.
    assert solid(client, cutter).extents == pytest.approx(
        [170 * PITCH + 8, 80 * PITCH + 8, 14], abs=0.2
    )
    stamp = solid(client, cutter, "stamp.stl")
    assert stamp.extents[:2] == pytest.approx([170 * PITCH - 0.8, 80 * PITCH - 0.8], abs=0.2)


@pytest.mark.parametrize(("axis", "side"), [("x", 60.0), ("z", 8.0)])
def test_a_relief_is_scaled_to_a_size_along_any_axis(
    client: TestClient, axis: str, side: float
) -> None:
    piece = bring(client).json()
    piece["recipe"]["finish"] = [
        {"kind": "scale", "id": "one", "by": "size", "axis": axis, "size": side}
    ]
    found = figures(client, change(client, piece))
    assert found["mesh"]["size_mm"]["xyz".index(axis)] == pytest.approx(side, abs=1e-3)


def test_a_block_is_split_to_fit_and_a_pin_without_room_is_refused(client: TestClient) -> None:
    file = io.BytesIO()
    trimesh.creation.box((40, 30, 80)).export(file, file_type="stl")
    answer = client.post("/api/pieces", files={"file": ("tall block.stl", file.getvalue())})
    piece = answer.json()
    split: dict[str, Any] = {"kind": "split", "id": "one", "axis": "z"}
    piece["recipe"]["finish"] = [split]
    piece = change(client, piece)
    found = figures(client, piece)
    assert found["mesh"]["bodies"] == 2
    assert found["mesh"]["size_mm"] == pytest.approx([85, 30, 44], abs=0.5)
    piece["recipe"]["finish"][0]["wide"] = 60
    found = figures(client, change(client, piece))
    assert "no room for one of 60 mm" in str(found["steps"][0]["error"])


def test_a_texture_covers_a_dome(client: TestClient) -> None:
    picture = client.post("/api/patterns/scales/picture", json={"pixels": 256}).json()
    body = {"body": {"kind": "dome"}, "name": "dome"}
    piece = client.post("/api/pieces/bodies", json=body).json()
    file = {"sha256": picture["sha256"], "filename": "scales.png"}
    texture = {"kind": "texture", "id": "t", "file": file, "tile": 40, "depth": 1, "lie": "axis"}
    piece["recipe"]["begins"]["decorations"] = [texture]
    bare, mesh = solid(client, piece), solid(client, change(client, piece))
    # Its underside too.
    assert bare.bounds[1][2] + 0.4 < mesh.bounds[1][2] < bare.bounds[1][2] + 1.01
    assert bare.bounds[0][2] - 1.01 < mesh.bounds[0][2] < bare.bounds[0][2] - 0.4


def test_a_picture_without_a_subject_makes_no_figure(client: TestClient) -> None:
    noise = np.random.default_rng(0).random((120, 160, 3)).astype(np.float32)
    piece = bring(client, png(noise, 8), "noise.png").json()
    begun = client.post("/api/starts/figure", json={"recipe": piece["recipe"]}).json()
    piece = change(client, piece, begun)
    job = finished(client, start(client, piece["id"], "piece.glb").json())
    assert job["state"] == "failed"
    assert "subject is not isolated" in job["error"]["why"]
    assert client.post(f"/api/pieces/{piece['id']}/undo").json()["recipe"]["begins"]["art"]
