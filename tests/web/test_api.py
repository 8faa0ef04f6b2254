import json
import struct
import time
from copy import deepcopy
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import pytest
import trimesh
from fastapi.testclient import TestClient
from httpx import Response

from nebrel.core.formats.meshes import read_mesh
from nebrel.core.mesh.measure import measure
from tests.pictures import declared, png, ramp
from tests.recipes import art_of, pictured, tones_of


def bring(client: TestClient, data: bytes | None = None, name: str = "ramp.png") -> Any:
    return client.post("/api/pieces", files={"file": (name, data or png(ramp()), "image/png")})


def start(client: TestClient, piece_id: str, name: str, recipe: Any = None) -> Any:
    """The answer when a product is asked for."""
    return client.post(f"/api/pieces/{piece_id}/products/{name}", json=recipe)


def finished(client: TestClient, job: Any, seconds: float = 120) -> Any:
    """A job when it is over."""
    deadline = time.monotonic() + seconds
    while job["state"] in ("waiting", "working"):
        assert time.monotonic() < deadline, job
        time.sleep(0.02)
        job = client.get(f"/api/jobs/{job['id']}").json()
    return job


def made(client: TestClient, piece_id: str, name: str, called: str = "piece") -> Response:
    """A product of a piece, made first."""
    job = finished(client, start(client, piece_id, name).json())
    assert job["state"] == "done", job
    return client.get(f"/api/results/{job['result']}", params={"piece": called})


def with_depth(piece: dict[str, Any], depth: Any) -> dict[str, Any]:
    recipe = deepcopy(piece["recipe"])
    tones_of(recipe)["depth"] = depth
    return recipe


def extras(glb: bytes) -> dict[str, Any]:
    (length,) = struct.unpack("<I", glb[12:16])
    return json.loads(glb[20 : 20 + length])["asset"]["extras"]


def test_from_a_picture_to_an_stl(client: TestClient, tmp_path: Path) -> None:
    piece = bring(client).json()
    assert pictured(piece["recipe"])["side"]["mm"] == 100
    recipe = with_depth(piece, "0.25 in")
    pictured(recipe)["side"] = {"mm": 80}
    kept = client.put(
        f"/api/pieces/{piece['id']}/recipe", json={"recipe": recipe, "label": "size", "base": 1}
    )
    assert kept.status_code == 200
    assert kept.json()["wide_mm"] == 80
    response = made(client, piece["id"], "piece.stl", "ramp")
    assert "ramp.stl" in response.headers["content-disposition"]
    path = tmp_path / "out.stl"
    path.write_bytes(response.content)
    mesh = trimesh.load(path)
    assert mesh.is_watertight
    assert mesh.extents == pytest.approx([80, 80 / 59 * 39, 1 + 6.35], abs=1e-4)


@pytest.mark.parametrize(
    ("product", "ending"),
    [
        ("piece.3mf", ".3mf"),
        ("piece.obj", ".obj"),
        ("piece.ply", ".ply"),
        ("piece.off", ".off"),
        ("model.glb", ".glb"),
        ("piece-text.stl", ".stl"),
    ],
)
def test_a_piece_in_every_mesh_format(
    client: TestClient, tmp_path: Path, product: str, ending: str
) -> None:
    piece = bring(client).json()
    response = made(client, piece["id"], product, "ramp")
    assert f"ramp{ending}" in response.headers["content-disposition"]
    path = tmp_path / f"out{ending}"
    path.write_bytes(response.content)
    report = measure(read_mesh(path))
    assert report.manifold
    assert report.size_mm == pytest.approx((100, 100 / 59 * 39, 4), rel=1e-4)


def test_meshes_carry_their_figures_and_a_key(client: TestClient) -> None:
    piece = bring(client).json()
    draft = client.post("/api/preview", json=piece["recipe"])
    whole = made(client, piece["id"], "piece.glb")
    for quality, response in (("draft", draft), ("full", whole)):
        figures = extras(response.content)
        assert figures["quality"] == quality
        assert figures["unit"] == "mm"
        assert figures["mesh"]["manifold"] is True
    assert draft.headers["etag"] == f'"{extras(draft.content)["key"]}"'
    key = extras(whole.content)["key"]
    assert str(whole.url).split("?")[0].endswith(f"/api/results/{key}.glb")
    deeper = start(client, piece["id"], "piece.glb", with_depth(piece, 5)).json()
    assert finished(client, deeper)["result"] != f"{key}.glb"


def test_a_preview_is_kept_nowhere(client: TestClient) -> None:
    piece = bring(client).json()
    response = client.post("/api/preview", json=with_depth(piece, 9))
    assert extras(response.content)["heights"]["highest_mm"] == pytest.approx(10)
    assert "evaluate" in response.headers["server-timing"]
    assert client.get(f"/api/pieces/{piece['id']}").json() == piece


def test_a_job_from_start_to_figures(client: TestClient) -> None:
    piece = bring(client, png(ramp(300, 400))).json()
    job = finished(client, start(client, piece["id"], "piece.glb").json())
    assert job["state"] == "done"
    assert job["figures"]["mesh"]["size_mm"] == [100, pytest.approx(100 / 399 * 299), 4]
    again = start(client, piece["id"], "piece.glb").json()
    assert (again["state"], again["figures"]) == ("done", job["figures"])
    assert start(client, piece["id"], "piece.gold").status_code == 404
    assert start(client, "nobody", "piece.glb").status_code == 404


def test_a_job_can_be_called_off(client: TestClient) -> None:
    piece = bring(client, png(ramp(900, 901))).json()
    job = start(client, piece["id"], "piece.glb").json()
    called = client.delete(f"/api/jobs/{job['id']}").json()
    assert called["state"] in ("cancelled", "done")
    assert client.get(f"/api/pieces/{piece['id']}").status_code == 200


def test_several_steps_are_undone_and_redone_at_once(client: TestClient) -> None:
    piece = bring(client).json()
    url = f"/api/pieces/{piece['id']}"
    for depth in (5, 6, 7):
        change = {"recipe": with_depth(piece, depth), "label": f"depth {depth}"}
        now = client.put(f"{url}/recipe", json=change).json()
    told = client.get(f"{url}/history").json()
    assert told["here"] == 4
    assert [one["label"] for one in told["revisions"]][1:] == ["depth 5", "depth 6", "depth 7"]
    assert told["revisions"][0]["made"].endswith(("Z", "+00:00"))
    back = client.post(f"{url}/undo?steps=2&state={now['state']}").json()
    assert (back["undo"], back["redo"]) == ("depth 5", "depth 6")
    assert client.get(f"{url}/history").json() == told | {"here": 2}
    # Further than there is: to the end. From another state: not at all.
    assert client.post(f"{url}/redo?steps=99").json()["recipe"] == now["recipe"]
    assert client.post(f"{url}/undo?steps=3&state={back['state']}").status_code == 409
    assert client.post(f"{url}/undo?steps=0").status_code == 422
    assert client.get("/api/pieces/nobody/history").status_code == 404


def test_a_file_of_no_known_kind_is_answered_with_all_that_can_be_brought(
    client: TestClient,
) -> None:
    error = bring(client, b"a letter", "Letter.DOCX").json()["error"]
    assert error["what"] == "Letter.DOCX"
    assert all(kind in error["remedy"] for kind in ("PNG", "SVG", "DXF", "STL", "3MF", "ZIP"))


def test_undo_rename_duplicate_delete_restore(client: TestClient) -> None:
    piece = bring(client).json()
    url = f"/api/pieces/{piece['id']}"
    client.put(f"{url}/recipe", json={"recipe": with_depth(piece, 5), "label": "relief depth"})
    assert client.post(f"{url}/undo").json()["redo"] == "relief depth"
    assert (
        client.post(f"{url}/redo").json()["recipe"]["begins"]["art"]["build_up"][0]["depth"]["mm"]
        == 5
    )
    assert client.patch(url, json={"name": "Tile"}).json()["name"] == "Tile"
    assert client.post(f"{url}/duplicate").json()["name"] == "Tile, copy"
    assert client.delete(url).status_code == 204
    assert client.get(url).status_code == 404
    assert client.post(f"{url}/restore").json()["name"] == "Tile"
    assert "Tile" in [p["name"] for p in client.get("/api/pieces?query=tile").json()]


def shelf_when_made(client: TestClient) -> list[dict[str, Any]]:
    """The shelf once no card is pending any more."""
    while True:
        shelf: list[dict[str, Any]] = client.get("/api/pieces").json()
        if not any(card["pending"] for card in shelf):
            return shelf
        time.sleep(0.05)


def test_a_card_shows_the_picture_until_it_is_made(client: TestClient) -> None:
    piece = bring(client, png(ramp(37, 53)), "seen by no test before.png").json()
    url = f"/api/pieces/{piece['id']}/thumbnail.png"
    until = client.get(url)
    assert until.headers["cache-control"] == "no-store"
    sent = cv2.imdecode(np.frombuffer(until.content, np.uint8), cv2.IMREAD_UNCHANGED)
    assert sent.shape[:2] == (piece["picture"]["rows"], piece["picture"]["cols"])
    shelf_when_made(client)
    made = client.get(url)
    assert made.content[:4] == b"\x89PNG"
    assert made.content != until.content
    assert client.get(url, headers={"If-None-Match": made.headers["etag"]}).status_code == 304


def test_a_card_that_cannot_be_made_is_not_tried_for_ever(client: TestClient) -> None:
    piece = bring(client).json()
    recipe = piece["recipe"]
    art_of(recipe).update({"backing": 0, "negative": True})
    tones_of(recipe)["depth"] = 0.1
    url = f"/api/pieces/{piece['id']}"
    assert client.put(f"{url}/recipe", json={"recipe": recipe}).status_code == 200
    shelf_when_made(client)
    assert client.get(f"{url}/thumbnail.png").headers["cache-control"] == "no-store"


def test_thumbnails_and_pictures(client: TestClient) -> None:
    piece = bring(client).json()
    view = client.get(f"/api/pictures/{piece['picture']['sha256']}/view.png")
    assert view.content[:4] == b"\x89PNG"


def test_lengths(client: TestClient) -> None:
    assert client.post("/api/length", json={"text": "1 in + 2 lines"}).json()["mm"] == 26.24
    refused = client.post("/api/length", json={"text": "wide"})
    assert refused.status_code == 422
    assert refused.json()["error"]["remedy"]


@pytest.mark.parametrize(
    ("data", "status", "kind"),
    [
        (b"a text file", 415, "unreadable_file"),
        (png(ramp(200, 300))[:700], 415, "unreadable_file"),
        (declared(40_000, 40_000), 413, "too_large"),
        (declared(1, 1), 422, "invalid_value"),
    ],
)
def test_bad_pictures_leave_the_shelf_as_it_was(
    client: TestClient, data: bytes, status: int, kind: str
) -> None:
    before = client.get("/api/pieces").json()
    response = bring(client, data, "scan.png")
    assert response.status_code == status
    error = response.json()["error"]
    assert (error["kind"], error["what"]) == (kind, "scan.png")
    assert error["why"]
    assert error["remedy"]
    assert client.get("/api/pieces").json() == before


@pytest.mark.parametrize("depth", [0, -3, "plenty", None, {"mm": "NaN"}])
def test_bad_numbers_leave_the_piece_as_it_was(client: TestClient, depth: Any) -> None:
    piece = bring(client).json()
    for call in (
        client.put(f"/api/pieces/{piece['id']}/recipe", json={"recipe": with_depth(piece, depth)}),
        client.post("/api/preview", json=with_depth(piece, depth)),
    ):
        assert call.status_code == 422
        assert set(call.json()["error"]) == {"kind", "what", "why", "remedy"}
    assert client.get(f"/api/pieces/{piece['id']}").json() == piece


def test_a_full_disk_is_said_and_nothing_is_lost(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    before = client.get("/api/pieces").json()

    def full(*_: object, **__: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("nebrel.core.formats.files.tempfile.mkstemp", full)
    response = bring(client, png(ramp(31, 17)))
    assert response.status_code == 507
    assert response.json()["error"]["what"] == "ramp.png"
    assert "space" in response.json()["error"]["why"]
    assert client.get("/api/pieces").json() == before


def test_unknown_things_have_the_same_error_shape(client: TestClient) -> None:
    for url in (
        "/api/pieces/nothing",
        "/api/jobs/nothing",
        "/api/nothing",
        "/api/pictures/" + "0" * 64,
    ):
        response = client.get(url)
        assert response.status_code == 404
        assert response.json()["error"]["kind"] == "not_found"


def test_foreign_hosts_and_origins_are_refused(client: TestClient) -> None:
    assert client.get("/api/pieces", headers={"Host": "evil.example"}).status_code == 403
    for origin in ("http://evil.example", "null", "http://127.0.0.1:9"):
        refused = client.post("/api/length", json={"text": "1"}, headers={"Origin": origin})
        assert refused.status_code == 403
        assert refused.json()["error"]["kind"] == "refused"
    own = client.post("/api/length", json={"text": "1"}, headers={"Origin": "http://127.0.0.1"})
    assert own.status_code == 200


def test_an_endless_upload_is_refused(client: TestClient) -> None:
    response = client.post("/api/pieces", headers={"Content-Length": "99999999999"}, content=b"x")
    assert response.status_code == 413


def test_a_page_of_before_the_update_is_told_to_load_again(client: TestClient) -> None:
    piece = bring(client).json()
    old = {"schema_version": 1, "picture": {"sha256": "0" * 64}}
    for answer in (
        client.put(f"/api/pieces/{piece['id']}/recipe", json={"recipe": old}),
        client.post("/api/preview", json=old),
    ):
        assert answer.status_code == 422
        assert "older" in answer.json()["error"]["why"]
        assert "Load it again" in answer.json()["error"]["remedy"]
