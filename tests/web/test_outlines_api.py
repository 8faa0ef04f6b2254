"""Traced shapes over the API: their parts, and outlines as files."""

import io
from typing import Any

import ezdxf
import numpy as np
import pytest
from fastapi.testclient import TestClient

from tests.pictures import png
from tests.recipes import art_of
from tests.shapes import cover, ellipse
from tests.web.test_api import bring, made


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
