"""What the bench asks for while a piece is worked on, through the API, against known answers."""

import json
import math
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import pytest
import tifffile
import trimesh
from fastapi.testclient import TestClient
from PIL import Image

from tests.pictures import pillow, png, ramp
from tests.recipes import art_of, tones_of
from tests.web.test_api import bring, extras, finished, made, start


@pytest.fixture
def piece(client: TestClient) -> dict[str, Any]:
    """A ramp of 100 by 50 mm, 1 mm on the left to 4 mm on the right."""
    recipe = bring(client, png(ramp(101, 201))).json()
    art_of(recipe["recipe"])["backing"] = 1
    tones_of(recipe["recipe"])["depth"] = 3
    found = client.put(f"/api/pieces/{recipe['id']}/recipe", json={"recipe": recipe["recipe"]})
    return found.json()  # type: ignore[no-any-return]


def post(client: TestClient, path: str, piece: dict[str, Any], **more: Any) -> Any:
    answer = client.post(f"/api/{path}", json={"recipe": piece["recipe"], **more})
    assert answer.status_code == 200, answer.text
    return answer.json()


def test_a_section_of_a_ramp(client: TestClient, piece: dict[str, Any]) -> None:
    found = post(client, "section", piece, start=[0.1, 0.5], end=[0.9, 0.5], parts=80)
    assert found["length_mm"] == pytest.approx(80)
    assert found["high_mm"][0] == pytest.approx(1.3, abs=0.05)
    assert found["high_mm"][-1] == pytest.approx(3.7, abs=0.05)
    assert found["slope_deg"][40] == pytest.approx(math.degrees(math.atan(3 / 100)), abs=0.2)
    assert found["highest_mm"] == pytest.approx(4, abs=1e-3)
    # Its line in space runs from one end to the other, on top.
    assert found["path_mm"][0] == pytest.approx([10, 25, 1.3], abs=0.05)
    assert found["path_mm"][-1] == pytest.approx([90, 25, 3.7], abs=0.05)
    assert (found["line_mm"], found["layer_mm"]) == (0.42, 0.12)
    # By Beer and Lambert, 1 through the backing.
    attenuation = piece["recipe"]["made_with"]["material"]["attenuation_per_mm"]
    assert found["light"][40] == pytest.approx(
        math.exp(-attenuation * (found["high_mm"][40] - 1)), abs=0.01
    )


def test_a_spot_with_and_without_an_entry_above(client: TestClient, piece: dict[str, Any]) -> None:
    assert post(client, "spot", piece, at=[0.5, 0.5]) == {"height_mm": 2.5, "there": True}
    assert not post(client, "spot", piece, at=[1.5, 0.5])["there"]
    disc = {"kind": "ellipse", "wide": 20, "tall": 20}
    above = {"kind": "outline", "id": "disc", "outline": disc, "height": 2, "rule": "add"}
    art_of(piece["recipe"])["build_up"].append(above)
    assert post(client, "spot", piece, at=[0.5, 0.5])["height_mm"] == pytest.approx(4.5)
    assert post(client, "spot", piece, at=[0.5, 0.1])["height_mm"] == pytest.approx(2.5)
    (outline,) = post(client, "outlines", piece)
    assert outline["entry_id"] == "disc"
    away = np.array(outline["loops"][0]) - 0.5
    assert np.hypot(away[:, 0] * 100, away[:, 1] * 50) == pytest.approx(
        np.full(len(away), 10.0), abs=0.1
    )


def test_an_entry_that_is_refused_has_no_outline(client: TestClient, piece: dict[str, Any]) -> None:
    low = {"kind": "text", "text": "A", "height": -9}
    art_of(piece["recipe"])["build_up"].append(low)
    assert post(client, "outlines", piece) == []


@pytest.mark.parametrize("where", [[math.nan, 0], [math.inf, 0], [1e9, 0], ["x", 0], [0]])
@pytest.mark.parametrize("path", ["section", "spot"])
def test_places_that_are_none_are_refused(
    client: TestClient, piece: dict[str, Any], path: str, where: list[Any]
) -> None:
    asked = {"start": where, "end": [1, 1]} if path == "section" else {"at": where}
    words = repr({"recipe": 0} | asked).replace("'", '"').replace("nan", "NaN")
    body = words.replace("inf", "Infinity").replace('"recipe": 0', '"recipe": RECIPE')
    body = body.replace("RECIPE", json.dumps(piece["recipe"]))
    answer = client.post(f"/api/{path}", content=body, headers={"Content-Type": "application/json"})
    assert answer.status_code == 422
    assert answer.json()["error"]["why"]


def test_the_tone_chart_and_flat_tones(client: TestClient, piece: dict[str, Any]) -> None:
    chart = client.post(
        "/api/chart", json={"entry": tones_of(piece["recipe"]), "backing": 1}
    ).json()
    assert chart == pytest.approx([1 + 3 * tone / 255 for tone in range(256)], abs=2e-3)
    flat = np.repeat([0.0, 0.4, 1.0], 60)[None].repeat(90, 0)
    flat_piece = bring(client, png(flat.astype(np.float32), 8)).json()
    found = post(client, "tones", flat_piece)
    assert found["flat"]
    assert found["tones"] == pytest.approx([0, 0.4, 1], abs=0.01)
    four = client.post("/api/tones?count=4", json={"recipe": piece["recipe"]}).json()
    assert not four["flat"]
    assert len(four["tones"]) == 4
    assert four["tones"] == sorted(four["tones"])


def test_heights_are_saved_in_mm(client: TestClient, piece: dict[str, Any], tmp_path: Path) -> None:
    answer = made(client, piece["id"], "heights.tif")
    path = tmp_path / "heights.tif"
    path.write_bytes(answer.content)
    mm = tifffile.imread(path)
    assert mm[50, [0, 100, 200]] == pytest.approx([1, 2.5, 4], abs=1e-3)
    image = made(client, piece["id"], "heights.png").content
    tones = cv2.imdecode(np.frombuffer(image, np.uint8), cv2.IMREAD_UNCHANGED)
    assert tones.dtype == np.uint16
    assert (np.diff(tones[50].astype(int)) >= 0).all()


def test_light_through_a_piece(client: TestClient, piece: dict[str, Any]) -> None:
    tones_of(piece["recipe"]).update({"mapping": "light", "raised": "dark"})
    found = post(client, "light", piece)
    attenuation = piece["recipe"]["made_with"]["material"]["attenuation_per_mm"]
    assert 0 < found["exact_tone"] < 1
    assert 0 < found["carried"] <= 1
    assert max(found["error"].values()) < 0.12  # the darkest third is beyond the material
    assert found["darkest_tone"] == pytest.approx(
        1.055 * math.exp(-attenuation * 3) ** (1 / 2.4) - 0.055, abs=0.02
    )
    for part in ("lit", "difference"):
        answer = client.post(
            "/api/light.png", json={"recipe": piece["recipe"], "part": part, "longest": 200}
        )
        shown = cv2.imdecode(np.frombuffer(answer.content, np.uint8), cv2.IMREAD_UNCHANGED)
        assert max(shown.shape[:2]) <= 201
    assert client.put(
        f"/api/pieces/{piece['id']}/recipe", json={"recipe": piece["recipe"]}
    ).is_success
    saved = made(client, piece["id"], "lit.png").content
    lit = cv2.imdecode(np.frombuffer(saved, np.uint8), cv2.IMREAD_UNCHANGED)
    row = lit[lit.shape[0] // 2].reshape(lit.shape[1], -1)[:, 0].astype(int)
    assert row[-1] > row[len(row) // 2] > row[0]


def test_parts_that_go_with_a_piece(
    client: TestClient, piece: dict[str, Any], tmp_path: Path
) -> None:
    url = f"/api/pieces/{piece['id']}"
    refused = finished(client, start(client, piece["id"], "holder.stl").json())
    assert refused["state"] == "failed"  # nothing that it could hold yet
    assert refused["error"]["remedy"]
    art_of(piece["recipe"])["backing"] = 2.5
    piece["recipe"]["begins"]["fittings"] = [{"kind": "tabs"}]
    assert client.put(f"{url}/recipe", json={"recipe": piece["recipe"]}).is_success
    answer = made(client, piece["id"], "holder.stl")
    path = tmp_path / "holder.stl"
    path.write_bytes(answer.content)
    assert trimesh.load(path).is_watertight


def test_what_the_screen_would_have_to_work_out_is_said(client: TestClient) -> None:
    gray = Image.fromarray(np.rint(ramp(50, 101) * 255).astype(np.uint8))
    piece = bring(client, pillow(gray, "PNG", dpi=(254, 254))).json()
    assert piece["picture"]["dpi"] == pytest.approx(254, abs=0.1)
    assert piece["picture"]["printed_mm"] == pytest.approx(10, abs=0.01)
    recipe = piece["recipe"]
    recipe["begins"]["form"] = {"kind": "arc", "bend": 120}
    recipe["made_with"]["material"]["density_g_cm3"] = 2.0
    preview = client.post("/api/preview", json=recipe)
    figures = extras(preview.content)
    form, mesh = figures["form"], figures["mesh"]
    assert form["bare_radius_mm"] == pytest.approx(100 / math.radians(120), abs=1e-3)
    assert (form["standing"], form["around"], form["round"]) == (True, False, False)
    assert (form["slides"], form["flat"]) == (True, False)
    assert mesh["weight_g"] == pytest.approx(mesh["volume_mm3"] / 1000 * 2, rel=1e-3)
    bend = client.post("/api/bend", json={"wide_mm": 100, "radius_mm": form["bare_radius_mm"]})
    assert bend.json() == pytest.approx(120, abs=1e-2)
    assert client.post("/api/bend", json={"wide_mm": 100, "radius_mm": 1}).json() == 350
    assert client.post("/api/bend", json={"wide_mm": 100, "radius_mm": 0}).status_code == 422
    recipe["begins"] |= {"form": {"kind": "panel"}}
    art_of(recipe)["edge"] = {"kind": "round"}
    disc = extras(client.post("/api/preview", json=recipe).content)["form"]
    assert (disc["kind"], disc["round"], disc["slides"], disc["flat"]) == (
        "disc",
        True,
        False,
        False,
    )
    assert disc["bare_radius_mm"] is None


def test_recognised_tones_come_with_heights(client: TestClient) -> None:
    flat = np.repeat([0.0, 0.4, 1.0], 60)[None].repeat(90, 0)
    piece = bring(client, png(flat.astype(np.float32), 8)).json()
    tones_of(piece["recipe"]).update({"depth": 5, "raised": "dark"})
    found = post(client, "tones", piece)
    assert found["heights_mm"] == pytest.approx([5, 3, 0], abs=0.05)


def test_a_wedge_its_photograph_and_what_it_says(client: TestClient, tmp_path: Path) -> None:
    path = tmp_path / "wedge.stl"
    path.write_bytes(client.get("/api/wedge.stl?steps=8&thickest=3.2").content)
    wedge = trimesh.load(path)
    assert wedge.is_watertight
    assert wedge.bounds[1][2] == pytest.approx(3.2, abs=1.5)  # and perhaps a frame
    shot = client.get("/api/practice-photograph.png?steps=8&thickest=3.2&attenuation=1.3")
    form = {"corners": shot.headers["x-wedge-corners"], "steps": "8", "thickest": "3.2"}
    file = {"file": ("wedge.png", shot.content, "image/png")}
    found = client.post("/api/calibrate", files=file, data=form).json()
    assert found["attenuation_per_mm"] == pytest.approx(1.3, rel=0.05)
    assert found["r2"] > 0.98
    bad = client.post("/api/calibrate", files=file, data={**form, "corners": "1,2,3"})
    assert bad.status_code == 422
    assert "four" in bad.json()["error"]["why"]


@pytest.mark.parametrize("kind", ["printers", "materials"])
def test_the_workshop_through_the_api(client: TestClient, kind: str) -> None:
    url = f"/api/workshop/{kind}"
    before = client.get("/api/workshop").json()[kind]
    assert before
    added = client.post(url, json={"name": "The other one"})
    assert added.status_code == 201
    own = f"{url}/{added.json()['id']}"
    changed = client.put(own, json={**added.json(), "name": "Renamed"})
    assert changed.json()["name"] == "Renamed"
    assert [k["name"] for k in client.get("/api/workshop").json()[kind]].count("Renamed") == 1
    assert client.delete(own).status_code == 204
    assert len(client.get("/api/workshop").json()[kind]) == len(before)
    assert client.delete(own).status_code == 404
    assert client.post(f"{own}/restore").json()["name"] == "Renamed"
    assert client.put(f"{url}/nothing", json=added.json()).status_code == 404


def test_a_piece_is_made_with_another_printer(client: TestClient, piece: dict[str, Any]) -> None:
    tones_of(piece["recipe"])["depth"] = {"mm": 0.84, "text": "2 lines"}
    printer = {"name": "Wide", "nozzle_mm": 0.8, "line_mm": 0.9, "layer_mm": 0.3}
    found = post(client, "recipe/at-hand", piece, printer=printer)
    assert found["made_with"]["printer"]["line_mm"] == 0.9
    assert tones_of(found)["depth"]["mm"] == pytest.approx(1.8)
    high = {**printer, "layer_mm": 2}
    refused = client.post("/api/recipe/at-hand", json={"recipe": piece["recipe"], "printer": high})
    assert refused.status_code == 422
    assert "0.8 mm" in refused.text
