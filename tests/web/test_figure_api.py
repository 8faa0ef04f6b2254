"""The API of figures: begun, a network kept, what is refused."""

from pathlib import Path
from typing import Any

import cv2
import numpy as np
import pytest
import trimesh
from fastapi.testclient import TestClient

from tests.core.test_network import brightness
from tests.pictures import png
from tests.waiting import until
from tests.web.test_api import extras, made


def doll() -> bytes:
    tones = np.full((160, 160, 3), 0.95, np.float32)
    across = np.linspace(0.1, 0.7, 160, dtype=np.float32)
    disc = np.zeros((160, 160), np.uint8)
    cv2.circle(disc, (80, 80), 60, 1, -1)
    tones[disc > 0] = np.tile(across[None, :, None], (160, 1, 3))[disc > 0]
    return png(tones, 8)


def begun(client: TestClient, **figure: Any) -> dict[str, Any]:
    piece = client.post("/api/pieces", files={"file": ("doll.png", doll())}).json()
    recipe = client.post("/api/starts/figure", json={"recipe": piece["recipe"]}).json()
    assert recipe["begins"]["kind"] == "figure"
    recipe["begins"] |= {"resolution": 96, **figure}
    body = {"recipe": recipe, "label": "figure", "base": piece["revision"]}
    found = client.put(f"/api/pieces/{piece['id']}/recipe", json=body)
    assert found.status_code == 200, found.text
    return dict(found.json())


def test_a_picture_becomes_a_figure_and_says_what_came_of_it(client: TestClient) -> None:
    piece = begun(client, base="3 mm", colours=3)
    assert piece["form"] == "figure" and piece["picture"]["filename"] == "doll.png"
    figures = extras(made(client, piece["id"], "piece.glb").content)
    assert figures["mesh"]["manifold"] and figures["mesh"]["coloured"]
    assert figures["figure"]["tips_deg"] > 5 and figures["figure"]["seconds"] > 0
    bare = extras(made(client, begun(client)["id"], "piece.glb").content)
    assert bare["figure"]["outline"] > 0.98
    assert figures["heights"] is None and figures["suits"] is None
    card = client.get(f"/api/pieces/{piece['id']}/thumbnail.png")
    assert card.status_code == 200


def test_a_network_is_tried_kept_and_asked(client: TestClient, tmp_path: Path) -> None:
    data = brightness(tmp_path / "own.onnx").read_bytes()
    kept = client.post("/api/networks", files={"file": ("own.onnx", data)})
    assert kept.status_code == 201 and kept.json()["gives"] == "depth"
    file = {"sha256": kept.json()["sha256"], "filename": "own.onnx"}
    network = {"file": file, "values": "0 to 1"}
    piece = begun(client, way="half", thick="10 mm", network=network)
    plain = begun(client, way="half", thick="10 mm")
    wedge, round_ = (
        extras(made(client, one["id"], "piece.glb").content)["mesh"]["volume_mm3"]
        for one in (piece, plain)
    )
    assert abs(wedge / round_ - 1) > 0.05
    refused = client.post("/api/networks", files={"file": ("own.onnx", b"nothing")})
    assert refused.status_code == 415 and "no network" in refused.text


def picture_of(answer: Any) -> np.ndarray:
    assert answer.status_code == 200, answer.text
    return cv2.imdecode(np.frombuffer(answer.content, np.uint8), cv2.IMREAD_UNCHANGED)


def test_a_figure_is_seen_as_its_picture_sees_it(client: TestClient) -> None:
    recipe = begun(client)["recipe"]
    seen = picture_of(client.post("/api/figures/seen.png", json={"recipe": recipe}))
    assert seen.shape == (160, 160, 4)
    inside = seen[..., 3] > 128
    y, x = np.mgrid[:160, :160]
    disc = np.hypot(x - 80, y - 80) < 60
    assert (inside & disc).sum() / (inside | disc).sum() > 0.97
    source = cv2.imdecode(np.frombuffer(doll(), np.uint8), 1)
    well_in = np.hypot(x - 80, y - 80) < 52
    assert np.abs(seen[..., :3].astype(int) - source)[well_in].mean() < 4
    body = {"recipe": recipe, "part": "difference"}
    apart = picture_of(client.post("/api/figures/seen.png", json=body))
    assert (apart[..., 3] > 128).sum() < 0.03 * disc.sum()
    plain = begun(client, coloured=False, base="3 mm")["recipe"]
    gray = picture_of(client.post("/api/figures/seen.png", json={"recipe": plain}))
    assert np.ptp(gray[..., 0][gray[..., 3] > 128]) > 60  # lit, as it has no colours


def test_results_are_kept_and_looked_at(client: TestClient) -> None:
    piece = begun(client, kept=[{"way": "turn", "id": "a"}, {"way": "learned", "id": "b"}])
    assert [one["way"] for one in piece["recipe"]["begins"]["kept"]] == ["turn", "learned"]
    looks = []
    for way in ("inflate", "turn", "half", "learned"):
        recipe = piece["recipe"] | {"begins": piece["recipe"]["begins"] | {"way": way}}
        body = {"recipe": recipe, "turned": 60}
        looks.append(picture_of(client.post("/api/figures/look.png", json=body)))
    assert all(look.shape == (240, 240, 3) for look in looks)
    assert np.abs(looks[0].astype(int) - looks[2]).max() > 40  # from the side half of it is missing


def test_a_part_without_its_kind_is_one_and_a_region_may_be_left_alone(client: TestClient) -> None:
    stroke = {"points": [[60, 80], [100, 80]], "wide": 20}
    parts = [
        {"strokes": [stroke], "turn": 20, "lean": 10},
        {"kind": "calm", "spots": [[80, 80]], "tolerance": 0.3},
    ]
    piece = begun(client, parts=parts, detail="0.5 mm")
    assert [one["kind"] for one in piece["recipe"]["begins"]["parts"]] == ["part", "calm"]
    figures = extras(made(client, piece["id"], "piece.glb").content)
    assert figures["mesh"]["manifold"] and figures["figure"]["outline"] is None
    refused = client.post("/api/figures/seen.png", json={"recipe": piece["recipe"]})
    assert refused.status_code == 422 and "0 degrees" in refused.text


def test_its_picture_is_a_texture_with_its_own_map(client: TestClient, tmp_path: Path) -> None:
    path = tmp_path / "textured.glb"
    piece = begun(client)
    path.write_bytes(made(client, piece["id"], "textured.glb").content)
    found = trimesh.load(path, force="mesh")
    picture = np.asarray(found.visual.material.baseColorTexture)[..., :3]
    assert picture.shape[0] > 110  # the subject alone, in its own pixels
    u, v = found.visual.uv.T
    rows, cols = picture.shape[:2]
    at = (
        np.clip(((1 - v) * rows).astype(int), 0, rows - 1),
        np.clip((u * cols).astype(int), 0, cols - 1),
    )
    low, high = found.vertices.min(axis=0), found.vertices.max(axis=0)
    right = (found.vertices[:, 0] - low[0]) / (high[0] - low[0])
    wanted = 255 * (0.1 + 0.6 * (20 + 120 * right) / 160)  # as the doll gets lighter to the right
    well_in = (right > 0.1) & (right < 0.9)
    assert np.abs(picture[at][well_in, 0] - wanted[well_in]).mean() < 5
    assert high[1] - low[1] == pytest.approx(0.08, rel=0.01)  # 80 mm in metres, standing
    behind = client.post("/api/pictures", files={"file": ("back.png", doll())}).json()
    file = {"sha256": behind["sha256"], "filename": "back.png"}
    other = begun(client, back_picture=file)
    path.write_bytes(made(client, other["id"], "textured.glb").content)
    both = trimesh.load(path, force="mesh")
    wide = np.asarray(both.visual.material.baseColorTexture).shape[1]
    assert wide == 2 * cols and len(both.vertices) > len(found.vertices)
    relief = client.post("/api/pieces", files={"file": ("doll.png", doll())}).json()
    job = client.post(f"/api/pieces/{relief['id']}/products/textured.glb").json()
    until(lambda: client.get(f"/api/jobs/{job['id']}").json()["state"] == "failed")
