"""The API of figures: begun, a network kept, what is refused."""

from pathlib import Path
from typing import Any

import cv2
import numpy as np
from fastapi.testclient import TestClient

from tests.core.test_network import brightness
from tests.pictures import png
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
