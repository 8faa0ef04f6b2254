"""Pieces that begin without a file, and what is laid on them."""

from io import BytesIO
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image

from nebrel.core.recipe.ready import READY
from tests.pictures import png, ramp
from tests.web.test_api import finished, made, start
from tests.web.test_bodies import figures


def begun(client: TestClient, kind: str, **sizes: float) -> dict[str, Any]:
    answer = client.post("/api/pieces/bodies", json={"body": {"kind": kind, **sizes}})
    assert answer.status_code == 201, answer.text
    found: dict[str, Any] = answer.json()
    return found


def changed(client: TestClient, piece: dict[str, Any], **begins: Any) -> dict[str, Any]:
    recipe = {**piece["recipe"], "begins": {**piece["recipe"]["begins"], **begins}}
    answer = client.put(f"/api/pieces/{piece['id']}/recipe", json={"recipe": recipe, "label": "x"})
    assert answer.status_code == 200, answer.text
    found: dict[str, Any] = answer.json()
    return found


@pytest.mark.parametrize("kind", READY)
def test_a_piece_begins_as_any_ready_shape(client: TestClient, kind: str) -> None:
    piece = begun(client, kind)
    assert piece["form"] == "body" and piece["picture"] is None and piece["mesh"] is None
    assert piece["wide_mm"] > 5
    found = figures(client, piece)
    assert found["mesh"]["manifold"]
    assert found["mesh"]["size_mm"][0] == pytest.approx(piece["wide_mm"], abs=0.02)
    cards = client.get("/api/pieces").json()
    assert {card["trouble"] for card in cards} == {""}


def test_sizes_stay_open_and_impossible_ones_are_said(client: TestClient) -> None:
    piece = begun(client, "tube")
    body = {"kind": "tube", "diameter": 40, "tall": 30, "wall": 25}
    piece = changed(client, piece, body=body)
    job = finished(client, start(client, piece["id"], "piece.glb").json())
    assert job["state"] == "failed" and "fills a tube" in job["error"]["why"]
    piece = changed(client, piece, body={**body, "wall": 2})
    assert figures(client, piece)["mesh"]["size_mm"] == pytest.approx([40, 40, 30], abs=0.02)


def test_a_piece_on_another_follows_it_and_never_itself(client: TestClient) -> None:
    first = begun(client, "sphere", diameter=20)
    linked = {"kind": "piece", "piece_id": first["id"]}
    second = client.post("/api/pieces/bodies", json={"body": linked}).json()
    assert second["name"] == "On Sphere"
    assert figures(client, second)["mesh"]["size_mm"][0] == pytest.approx(20, abs=0.02)
    changed(client, first, body={"kind": "sphere", "diameter": 30})
    assert figures(client, second)["mesh"]["size_mm"][0] == pytest.approx(30, abs=0.02)
    own = {**first["recipe"]["begins"], "body": {"kind": "piece", "piece_id": second["id"]}}
    recipe = {**first["recipe"], "begins": own}
    answer = client.put(f"/api/pieces/{first['id']}/recipe", json={"recipe": recipe, "label": "x"})
    assert answer.status_code == 422
    assert "made of itself" in answer.json()["error"]["why"]
    gone = client.post("/api/pieces/bodies", json={"body": {"kind": "piece", "piece_id": "no"}})
    assert gone.status_code == 404


def test_a_pattern_is_seen_and_becomes_a_piece(client: TestClient) -> None:
    seen = client.get("/api/patterns/scales.png?pixels=4096&across=3")
    assert seen.status_code == 200
    assert client.get("/api/patterns/mud.png").status_code == 422
    dials = {"pixels": 128, "seed": 4, "across": 3}
    kept = client.post("/api/patterns/waves/picture", json=dials).json()
    assert kept["cols"] == 128 and kept["bit_depth"] == 16
    piece = client.post("/api/patterns/waves/piece", json=dials).json()
    assert piece["picture"]["sha256"] == kept["sha256"]
    assert client.post("/api/patterns/waves/piece", json={"pixels": 3}).status_code == 422


def test_art_of_each_source_is_laid_on_and_used_again(client: TestClient) -> None:
    kept = client.post("/api/pictures", files={"file": ("ramp.png", png(ramp(30, 60)))}).json()
    svg = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><path d="M0 0h9v9H0Z"/></svg>'
    drawing = client.post("/api/drawings", files={"file": ("square.svg", svg.encode())}).json()
    named = {"sha256": kept["sha256"], "filename": "ramp.png"}
    sources: list[dict[str, Any]] = [
        {"picture": named},
        {"entry": "text"},
        {"entry": "outline"},
        {"entry": "drawing", "drawing": {"sha256": drawing["sha256"], "filename": "square.svg"}},
    ]
    arts = []
    for source in sources:
        answer = client.post("/api/decorations/art", json={"wide_mm": 12, **source})
        assert answer.status_code == 200, answer.text
        arts.append(answer.json())
    assert client.post("/api/decorations/art", json={"entry": "drawing"}).status_code == 404
    piece = begun(client, "plate")
    decorations = [
        {"kind": "decoration", "art": art, "at": [x, 0, 4], "up": [0, 1, 0]}
        for art, x in zip(arts, (-30, -10, 10, 30), strict=True)
    ]
    piece = changed(client, piece, decorations=decorations)
    found = figures(client, piece)
    assert [done["error"] for done in found["decorations"]] == [None] * 4
    assert found["mesh"]["manifold"] and found["mesh"]["volume_mm3"] > 19_200
    used = client.get("/api/decorations", params={"besides": "another"}).json()
    assert [one["piece"] for one in used][:4] == ["Plate"] * 4
    others = client.get("/api/decorations", params={"besides": piece["id"]}).json()
    assert len(others) == len(used) - 4


def test_a_proof_says_how_any_piece_comes_off_the_bed(client: TestClient) -> None:
    piece = begun(client, "mug")
    job = finished(client, start(client, piece["id"], "proof.json").json())
    said = job["proof"]
    assert (said["closed"], said["bodies"]) == (True, 1)
    assert said["thinnest_mm"] == pytest.approx(3, abs=0.05)
    assert said["tips_deg"] > 30
    assert client.get(f"/api/results/{job['result']}").json() == said


def test_a_strength_trial_is_a_piece_of_its_own(client: TestClient) -> None:
    piece = begun(client, "sphere")
    art = client.post("/api/decorations/art", json={"entry": "outline", "wide_mm": 8}).json()
    one = {"kind": "decoration", "id": "round", "art": art, "at": [0, -25, 25]}
    piece = changed(client, piece, decorations=[one])
    asked = {"recipe": piece["recipe"], "decoration_id": "round", "count": 3}
    trial = client.post("/api/trials", json={**asked, "over": "size", "first": 4, "last": 8})
    assert trial.status_code == 201, trial.text
    found = figures(client, trial.json())
    assert [done["error"] for done in found["decorations"]] == [None] * 6
    assert found["mesh"]["manifold"]
    other = client.post("/api/trials", json={**asked, "decoration_id": "none"})
    assert other.status_code == 404


def test_a_trial_is_seen_side_by_side(client: TestClient) -> None:
    piece = begun(client, "plate")
    art = client.post("/api/decorations/art", json={"entry": "outline", "wide_mm": 8}).json()
    one = {"kind": "decoration", "id": "round", "art": art, "at": [0, 0, 4], "up": [0, 1, 0]}
    piece = changed(client, piece, decorations=[one])
    asked = {"recipe": piece["recipe"], "decoration_id": "round", "count": 3}
    deep = client.post("/api/decorations/variants", json={**asked, "first": 0.5, "last": 1.5})
    assert [variant["value"] for variant in deep.json()] == [0.5, 1, 1.5]
    heights = []
    for variant in deep.json():
        again = changed(client, piece, decorations=[variant["decoration"]])
        heights.append(figures(client, again)["mesh"]["size_mm"][2])
        piece = again
    assert heights == pytest.approx([4.5, 5, 5.5], abs=0.01)
    wide = client.post(
        "/api/decorations/variants", json={**asked, "over": "size", "first": 4, "last": 8}
    )
    assert [variant["decoration"]["times"] for variant in wide.json()] == pytest.approx(
        [0.5, 0.75, 1], rel=0.01
    )


def test_places_of_a_piece_are_spots_of_its_art(client: TestClient) -> None:
    piece = begun(client, "plate")
    art = client.post("/api/decorations/art", json={"entry": "outline", "wide_mm": 8}).json()
    one = {"kind": "decoration", "id": "round", "art": art, "at": [10, 5, 4], "up": [0, 1, 0]}
    piece = changed(client, piece, decorations=[one])
    asked = {"recipe": piece["recipe"], "decoration_id": "round"}
    places = [[12, 5, 5], [10, 3, 4], [-30, 0, 4]]
    answer = client.post("/api/decorations/spots", json={**asked, "places": places})
    assert answer.status_code == 200, answer.text
    found = answer.json()
    wide, tall = found["size_mm"]
    assert found["spots"][0] == pytest.approx([2 / wide, 0], abs=0.01)
    assert found["spots"][1] == pytest.approx([0, -2 / tall], abs=0.01)
    assert found["spots"][2] is None
    middle = client.post("/api/decorations/caught", json={**asked, "by": "face"})
    assert middle.json() == pytest.approx([0, 0, 4], abs=0.01)
    square = client.post("/api/decorations/caught", json={**asked, "by": "axis"})
    assert square.json()[1] == pytest.approx(0, abs=0.01)
    nothing = client.post("/api/decorations/spots", json={**asked, "places": []})
    assert nothing.status_code == 422


def test_a_decoration_is_kept_as_a_motif_with_its_numbers(client: TestClient) -> None:
    piece = begun(client, "plate")
    art = client.post("/api/decorations/art", json={"entry": "text", "wide_mm": 20}).json()
    one = {"kind": "decoration", "id": "name", "art": art, "does": "sink", "fillet": 0.2}
    piece = changed(client, piece, decorations=[{**one, "at": [0, 0, 4], "up": [0, 1, 0]}])
    asked = {"recipe": piece["recipe"], "decoration_id": "name", "name": "Corvane, sunk"}
    answer = client.post("/api/motifs/decorations", json=asked)
    assert answer.status_code == 201, answer.text
    (kept,) = (m for m in client.get("/api/motifs").json() if m["name"] == "Corvane, sunk")
    assert kept["decoration"]["does"] == "sink"
    assert kept["decoration"]["art"] == piece["recipe"]["begins"]["decorations"][0]["art"]
    # Its picture is its heights: letters on nothing.
    assert kept["picture"]["cols"] > kept["picture"]["rows"] > 20
    gone = client.post("/api/motifs/decorations", json={**asked, "decoration_id": "none"})
    assert gone.status_code == 404


def test_the_stretch_is_a_tint(client: TestClient) -> None:
    piece = begun(client, "sphere")
    art = client.post("/api/decorations/art", json={"entry": "outline", "wide_mm": 20}).json()
    laid = {"kind": "decoration", "art": art, "at": [0, -25, 25]}
    piece = changed(client, piece, decorations=[laid])
    answer = made(client, piece["id"], "stretch.glb")
    assert answer.content[:4] == b"glTF"


def test_the_pattern_shown_is_the_one_that_is_made(client: TestClient) -> None:
    dials = {"pixels": 200, "seed": 4, "across": 3, "tile": True}
    seen = client.get("/api/patterns/knots.png", params=dials).content
    kept = client.post("/api/patterns/knots/picture", json=dials).json()
    whole = client.get(f"/api/pictures/{kept['sha256']}/view.png?longest=200").content
    one, other = (np.asarray(Image.open(BytesIO(data)), np.float64) for data in (seen, whole))
    assert np.abs(one / one.max() - other.reshape(one.shape) / other.max()).max() < 0.01
