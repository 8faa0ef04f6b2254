import json
from copy import deepcopy

import cv2
import numpy as np
import pytest
from fastapi.testclient import TestClient

from nebrel.demo.flawed import door_sign
from nebrel.demo.pictures import as_png
from tests.pictures import png, ramp
from tests.recipes import pictured
from tests.web.test_api import made, shelf_when_made


def bring(client: TestClient, data: bytes, name: str = "a.png") -> dict:
    return client.post("/api/pieces", files={"file": (name, data)}).json()


def image(data: bytes) -> np.ndarray:
    return cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)


@pytest.fixture(scope="module")
def sign(client: TestClient) -> dict:
    return bring(client, as_png(door_sign(rows=450, cols=700), 8), "sign.png")


def with_steps(piece: dict, *steps: dict) -> dict:
    recipe = deepcopy(piece["recipe"])
    pictured(recipe)["corrections"] = list(steps)
    return recipe


def test_a_corrected_picture_and_its_states(client: TestClient, sign: dict) -> None:
    box = {"x": 100, "y": 50, "wide": 300, "tall": 200}
    recipe = with_steps(sign, {"kind": "crop", "box": box}, {"kind": "invert"})
    found = client.post("/api/corrected", json={"recipe": recipe}).json()
    assert (found["cols"], found["rows"], found["failures"]) == (300, 200, [])
    assert found["wide_mm"] == pytest.approx(100 / 699 * 299)
    assert sum(found["histogram"]) == pytest.approx(1, abs=1e-4)
    place = np.reshape(found["place"], (3, 3))
    assert place @ [100, 50, 1] == pytest.approx([0, 0, 1])
    assert place @ [399, 249, 1] == pytest.approx([1, 1, 1])
    first = client.post("/api/corrected", json={"recipe": recipe, "upto": 0}).json()
    assert (first["cols"], first["rows"]) == (700, 450)
    view = lambda **more: image(  # noqa: E731
        client.post("/api/corrected.png", json={"recipe": recipe} | more).content
    )
    assert view().shape[:2] == (200, 300)
    assert view(upto=0).shape[:2] == (450, 700)
    # Before and after lie on each other.
    assert np.abs(255 - view(part="before").astype(int) - view()).max() <= 1


def test_failures_are_told_and_do_not_stop_the_others(client: TestClient, sign: dict) -> None:
    steps = [
        {"kind": "crop", "box": {"x": 600, "y": 0, "wide": 300, "tall": 20}},
        {"kind": "overlay", "sha256": "f" * 64, "centre": [9, 9], "wide": 20},
        {"kind": "levels", "auto": True},
    ]
    found = client.post("/api/corrected", json={"recipe": with_steps(sign, *steps)}).json()
    assert [failure["index"] for failure in found["failures"]] == [0, 1]
    assert "reaches outside" in found["failures"][0]["error"]["why"]
    assert found["failures"][1]["error"]["kind"] == "not_found"
    response = client.post("/api/preview", json=with_steps(sign, *steps))
    assert response.status_code == 200
    refused = client.post("/api/corrected", json={"recipe": with_steps(sign, {"kind": "glow"})})
    assert refused.status_code == 422
    assert set(refused.json()["error"]) == {"kind", "what", "why", "remedy"}


def report(client: TestClient, recipe: dict) -> list[dict]:
    """The findings of a report, read line by line."""
    response = client.post("/api/report", json={"recipe": recipe})
    lines = [json.loads(line) for line in response.text.splitlines()]
    assert [line["done"] for line in lines] == [False] * (len(lines) - 1) + [True]
    return [line["finding"] for line in lines[:-1]]


def test_the_report_its_marks_and_its_remedies(client: TestClient, sign: dict) -> None:
    findings = report(client, sign["recipe"])
    kinds = [finding["kind"] for finding in findings]
    assert {"off_white", "uneven_background"} <= set(kinds)
    body = {"recipe": sign["recipe"], "key": "off_white"}
    marked = image(client.post("/api/report/mark.png", json=body).content)
    share = (marked[..., -1] > 127).mean()
    assert share == pytest.approx(findings[kinds.index("off_white")]["share"], abs=0.05)
    noise = {"recipe": sign["recipe"], "key": "noise"}
    assert client.post("/api/report/mark.png", json=noise).status_code == 404
    mended = with_steps(sign, findings[kinds.index("uneven_background")]["remedy"])
    after = report(client, mended)
    assert "uneven_background" not in [finding["kind"] for finding in after]


def test_a_report_that_cannot_be_read_is_refused(client: TestClient, sign: dict) -> None:
    recipe = deepcopy(sign["recipe"])
    pictured(recipe)["file"]["sha256"] = "0" * 64
    refused = client.post("/api/report", json={"recipe": recipe})
    assert (refused.status_code, refused.json()["error"]["kind"]) == (404, "not_found")


def test_a_curve_is_drawn_as_it_is_applied(client: TestClient) -> None:
    curve = {"kind": "curve", "points": [[0, 0], [0.5, 0.8], [1, 1]]}
    tones = client.post("/api/curve", json={"curve": curve}).json()
    assert (tones[0], tones[32], tones[64]) == pytest.approx((0, 0.8, 1), abs=1e-3)


def test_motifs_through_the_api(client: TestClient) -> None:
    piece = bring(client, png(ramp(40, 60), 8), "ramp.png")
    crop = {"kind": "crop", "box": {"x": 0, "y": 0, "wide": 30, "tall": 40}}
    body = {"recipe": with_steps(piece, crop), "label": "crop"}
    changed = client.put(f"/api/pieces/{piece['id']}/recipe", json=body).json()
    assert changed["undo"] == "crop"
    card = next(p for p in shelf_when_made(client) if p["id"] == piece["id"])
    assert card["wide_mm"] == pytest.approx(100 / 59 * 29)
    saved = made(client, piece["id"], "picture.png", "ramp")
    assert "ramp, corrected.png" in saved.headers["content-disposition"]
    assert (image(saved.content).shape, image(saved.content).dtype) == ((40, 30), np.uint16)
    motif = client.post(
        "/api/motifs", json={"piece_id": piece["id"], "name": "Half", "tags": ["ramp"]}
    ).json()
    assert motif["picture"]["bit_depth"] == 16
    assert motif["wide_mm"] == pytest.approx(100 / 59 * 29)
    assert [m["name"] for m in client.get("/api/motifs?query=ramp").json()] == ["Half"]
    again = client.post(f"/api/motifs/{motif['id']}/piece").json()
    assert pictured(again["recipe"])["side"]["mm"] == pytest.approx(100 / 59 * 29)
    renamed = client.patch(f"/api/motifs/{motif['id']}", json={"name": "Part", "tags": []}).json()
    assert renamed["name"] == "Part"
    assert client.delete(f"/api/motifs/{motif['id']}").status_code == 204
    assert client.get("/api/motifs").json() == []
    assert client.post(f"/api/motifs/{motif['id']}/restore").json()["name"] == "Part"


def test_a_second_picture_is_kept_or_refused(client: TestClient) -> None:
    kept = client.post("/api/pictures", files={"file": ("b.png", png(ramp(9, 9)))})
    assert kept.status_code == 201
    refused = client.post("/api/pictures", files={"file": ("b.png", b"no picture")})
    assert refused.status_code == 415
    assert "b.png" in refused.json()["error"]["what"]


def test_a_large_picture_is_judged_at_a_glance_first(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("nebrel.web.desk._GLANCED_PX", 1000)
    sign = bring(client, as_png(door_sign(rows=460, cols=710), 8), "unread.png")
    response = client.post("/api/report", json={"recipe": sign["recipe"]})
    lines = [json.loads(line) for line in response.text.splitlines()]
    early = {line["finding"]["key"]: line["finding"] for line in lines if line["early"]}
    found = {line["finding"]["key"]: line["finding"] for line in lines[:-1] if not line["early"]}
    assert {"off_white", "uneven_background"} <= set(early) <= set(found)
    for key, finding in early.items():
        assert finding["share"] == pytest.approx(found[key]["share"], abs=0.05)
    # Once it is read, nothing is glanced at.
    again = client.post("/api/report", json={"recipe": sign["recipe"]}).text.splitlines()
    assert not any(json.loads(line)["early"] for line in again)
