"""Traced shapes over the API: their parts, and outlines as files."""

import io
from typing import Any
from zipfile import ZipFile

import ezdxf
import numpy as np
import pytest
from fastapi.testclient import TestClient

from tests.pictures import png
from tests.recipes import art_of
from tests.shapes import cover, ellipse
from tests.web.test_api import bring, finished, made, start


@pytest.fixture(scope="module")
def piece(client: TestClient) -> dict[str, Any]:
    loops = [*ellipse((60, 60), 40, 40), *ellipse((160, 60), 30, 30), *ellipse((160, 60), 12, 12)]
    found = bring(client, png(1 - cover(loops, 120, 220))).json()
    recipe = found["recipe"]
    art = art_of(recipe)
    art["build_up"].append({"kind": "traced", "id": "shape", "height": "2 mm", "rule": "highest"})
    art["build_up"][0]["enabled"] = False
    art["backing"] = {"mm": 0}
    url = f"/api/pieces/{found['id']}"
    answer = client.put(f"{url}/recipe", json={"recipe": recipe, "label": "trace"})
    assert answer.status_code == 200, answer.text
    kept: dict[str, Any] = client.get(url).json()
    return kept


def parts(client: TestClient, recipe: dict[str, Any], entry_id: str = "shape") -> Any:
    return client.post("/api/parts", json={"recipe": recipe, "entry_id": entry_id})


def test_parts_are_told_with_their_figures(client: TestClient, piece: dict[str, Any]) -> None:
    found = parts(client, piece["recipe"]).json()
    pitch = 100 / 219
    assert [len(part["loops"]) for part in found["parts"]] == [1, 2]
    assert found["parts"][0]["area_mm2"] == pytest.approx(np.pi * (40 * pitch) ** 2, rel=0.01)
    assert found["size_mm"][0] == pytest.approx(170 * pitch, abs=0.1)
    assert found["picture_mm"] == pytest.approx([100, 119 * pitch], abs=1e-3)
    assert (found["found"], found["kept"]) == (2, 2)
    assert parts(client, piece["recipe"], "picture").status_code == 404


def test_a_part_left_out_by_its_place(client: TestClient, piece: dict[str, Any]) -> None:
    recipe = piece["recipe"]
    u, v = parts(client, recipe).json()["parts"][1]["place"]
    wide, tall = 100, 119 * 100 / 219
    place = {"x": {"mm": (u - 0.5) * wide}, "y": {"mm": (0.5 - v) * tall}, "keep": "drop"}
    entry = next(one for one in art_of(recipe)["build_up"] if one["kind"] == "traced")
    for level in (None, 0.3, 0.7):
        entry["trace"] |= {"choices": [place], "level": level}
        found = parts(client, recipe).json()
        assert [part["left_out"] for part in found["parts"]] == ["", "dropped"]
    entry["trace"] |= {"choices": [], "level": None}


def test_outlines_are_saved(client: TestClient, piece: dict[str, Any]) -> None:
    svg = made(client, piece["id"], "entry-shape.svg")
    assert svg.headers["content-type"].startswith("image/svg+xml")
    assert svg.text.count("<path") == 2
    dxf = made(client, piece["id"], "height-1.5-splines.dxf")
    document = ezdxf.read(io.StringIO(dxf.text))
    assert len(document.modelspace()) == 3
    assert client.post(f"/api/pieces/{piece['id']}/products/entry.svg").status_code == 404


PLATE = (
    b'<svg xmlns="http://www.w3.org/2000/svg" width="80mm" height="40mm" viewBox="0 0 80 40">'
    b'<g id="plate"><rect width="80" height="40"/></g><text x="2" y="2">no</text></svg>'
)


def drawn(client: TestClient, data: bytes, name: str) -> Any:
    return client.post("/api/pieces", files={"file": (name, data, "image/svg+xml")})


def test_a_piece_begins_from_a_drawing_in_its_true_size(client: TestClient) -> None:
    found = drawn(client, PLATE, "door plate.svg").json()
    assert found["name"] == "door plate"
    art = art_of(found["recipe"])
    [picture, entry] = art["build_up"]
    assert (picture["enabled"], entry["kind"], art["backing"]["mm"]) == (False, "drawing", 0)
    figures = finished(client, start(client, found["id"], "piece.glb").json())["figures"]
    assert figures["mesh"]["size_mm"] == pytest.approx([80, 40, 3], abs=1e-3)
    info = client.get(f"/api/drawings/{entry['file']['sha256']}").json()
    assert (info["wide_mm"], info["tall_mm"], info["unit"]) == (80, 40, "mm")
    assert info["layers"] == {"plate": 1}
    assert "text" in " ".join(info["notes"])
    # It goes along in the piece's own file, and opens from there.
    packed = ZipFile(io.BytesIO(made(client, found["id"], "piece.zip").content))
    assert packed.read(f"files/{entry['file']['sha256']}") == PLATE
    copy = client.post(f"/api/pieces/{found['id']}/duplicate").json()
    assert art_of(copy["recipe"]) == art


def test_a_drawing_without_a_unit_is_guessed_by_its_size(client: TestClient) -> None:
    document = ezdxf.new()
    document.header["$INSUNITS"] = 0
    document.modelspace().add_lwpolyline([(0, 0), (4, 0), (4, 2), (0, 2)], close=True)
    text = io.StringIO()
    document.write(text)
    data = text.getvalue().encode()
    info = client.post("/api/drawings", files={"file": ("plate.dxf", data, "")}).json()
    assert (info["unit"], info["guess"]) == (None, "in")
    assert info["wide_mm"] == pytest.approx(101.6) and info["page_mm"] is None
    entry = art_of(drawn(client, data, "plate.dxf").json()["recipe"])["build_up"][1]
    assert entry["unit"] == "in"


def test_a_page_is_known_beside_what_is_drawn_on_it(client: TestClient) -> None:
    page = b'width="210mm" height="297mm" viewBox="0 0 21 29.7"'
    data = b'<svg xmlns="http://www.w3.org/2000/svg" %b><path d="M5 5h4v2h-4z"/></svg>' % page
    info = client.post("/api/drawings", files={"file": ("tag.svg", data, "")}).json()
    assert (info["wide_mm"], info["tall_mm"]) == pytest.approx((40, 20))
    assert info["page_mm"] == pytest.approx([210, 297])


@pytest.mark.parametrize("size", ["8000", "0.02"])
def test_a_drawing_of_a_size_that_cannot_be_made_waits_for_its_true_one(
    client: TestClient, size: str
) -> None:
    data = PLATE.replace(b'80mm" height="40mm', f'{size}mm" height="{float(size) / 2}mm'.encode())
    entry = art_of(drawn(client, data, "hall.svg").json()["recipe"])["build_up"][1]
    assert (entry["along"], entry["side"]["mm"]) == ("wide", 100)
    info = client.get(f"/api/drawings/{entry['file']['sha256']}").json()
    assert "could not be made" in " ".join(info["notes"])


@pytest.mark.parametrize(
    ("data", "name", "why"),
    [
        (b"<svg xmlns='http://www.w3.org/2000/svg'><path d='M0 0'/></svg>", "a.svg", "goes around"),
        (b"<!DOCTYPE s [<!ENTITY a '&b;'>]><svg>&a;</svg>", "bomb.svg", "entit"),
        (b"<svg", "cut.svg", ""),
        (b"0\nSECTION\n", "cut.dxf", ""),
    ],
)
def test_a_broken_drawing_is_refused_and_keeps_nothing(
    client: TestClient, data: bytes, name: str, why: str
) -> None:
    before = len(client.get("/api/pieces").json())
    answer = drawn(client, data, name)
    assert answer.status_code in (413, 415, 422), answer.text
    error = answer.json()["error"]
    assert error["what"] == name
    assert why in error["why"]
    assert error["remedy"]
    assert len(client.get("/api/pieces").json()) == before


def test_a_fresh_piece_is_told_what_suits_it_and_set_up_so(client: TestClient) -> None:
    loops = [*ellipse((60, 60), 40, 40), *ellipse((60, 60), 20, 20)]
    found = bring(client, png(1 - cover(loops, 120, 220))).json()
    told = client.post("/api/starts", json={"recipe": found["recipe"]}).json()
    assert told["untouched"]
    assert told["suited"][0]["start"] == "cut-out"
    assert "two flat tones" in told["suited"][0]["why"]
    assert len({one["start"] for one in told["suited"]}) == 2
    answer = client.post("/api/starts/stencil", json={"recipe": found["recipe"]})
    begun = answer.json()
    assert art_of(begun)["build_up"][1]["bridges"]["count"] == 2
    assert not client.post("/api/starts", json={"recipe": begun}).json()["untouched"]
    assert client.post("/api/starts/rocket", json={"recipe": begun}).status_code == 422
    traced = client.post("/api/recipe/traced-tones", json={"recipe": found["recipe"]}).json()
    assert [entry["kind"] for entry in art_of(traced)["build_up"]] == ["picture", "traced"]


def test_nodes_are_told_and_placed(client: TestClient, piece: dict[str, Any]) -> None:
    found = parts(client, piece["recipe"]).json()
    assert found["curves"] == len(found["nodes"])
    recipe = piece["recipe"]
    art = art_of(recipe)
    node = {"does": "add", "x": "-22.7 mm", "y": "18.3 mm", "to_x": "-22 mm", "to_y": "26 mm"}
    edited = {**recipe, "begins": {**recipe["begins"], "art": {**art}}}
    entry = {**art["build_up"][1], "trace": {**art["build_up"][1]["trace"], "nodes": [node]}}
    art_of(edited)["build_up"] = [art["build_up"][0], entry]
    after = parts(client, edited).json()
    assert len(after["nodes"]) == len(found["nodes"]) + 1
    wide, tall = after["picture_mm"]
    places = np.array([one["place"] for one in after["nodes"]])
    mm = (places - 0.5) * (wide, -tall)
    assert np.hypot(*(mm - (-22, 26)).T).min() < 1e-3
