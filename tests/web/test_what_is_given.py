"""Nothing is read, or written, but what was given: names of files are hashes, and lie inside."""

import io
import json
from pathlib import Path
from typing import Any
from zipfile import ZipFile

import pytest
from fastapi.testclient import TestClient

from nebrel.core.errors import InvalidRecipe, NebrelError, NotFound
from nebrel.core.formats.files import addressed
from nebrel.core.recipe.files import files_of
from nebrel.core.recipe.models import load_recipe
from nebrel.store import Store
from nebrel.work.depot import FolderDepot
from nebrel.work.elsewhere import HttpDepot
from tests.pictures import png, ramp
from tests.web.test_api import bring, made

BESIDE = ["../../nebrel.db", "/etc/passwd", "..", "", "a" * 63, "A" * 64, "a" * 64 + "/../x"]


def linking(name: str) -> dict[str, Any]:
    """A recipe that is a piece, whose own recipe names a file."""
    within = {"begins": {"kind": "body", "body": {"kind": "mesh", "file": {"sha256": name}}}}
    return {"begins": {"kind": "body", "body": {"kind": "piece", "piece_id": "", "recipe": within}}}


@pytest.mark.parametrize("name", BESIDE)
def test_a_linked_recipe_names_files_by_their_hash_only(client: TestClient, name: str) -> None:
    with pytest.raises(NebrelError, match="SHA-256"):
        load_recipe(linking(name))
    with pytest.raises(InvalidRecipe, match="SHA-256"):
        files_of(linking(name))
    piece = bring(client).json()
    for product in ("piece.zip", "piece.stl"):
        url = f"/api/pieces/{piece['id']}/products/{product}"
        assert client.post(url, json=linking(name)).status_code == 422
    found = client.put(f"/api/pieces/{piece['id']}/recipe", json={"recipe": linking(name)})
    assert found.status_code == 422


@pytest.mark.parametrize("name", BESIDE)
def test_no_folder_gives_what_lies_beside_it(tmp_path: Path, name: str) -> None:
    depot = FolderDepot(tmp_path)
    depot.open()
    (tmp_path / "nebrel.db").write_bytes(b"secret")
    with pytest.raises(NotFound):
        addressed(tmp_path / "pictures", name)
    for kind in ("picture", "result"):
        with pytest.raises(NotFound):
            depot.load(kind, name)  # type: ignore[arg-type]
        with pytest.raises(NotFound):
            HttpDepot("http://127.0.0.1:9", "x").load(kind, name)  # type: ignore[arg-type]
    with pytest.raises(NotFound), depot.put(name):
        pass


def test_what_a_recipe_names_is_kept_before_anything_is_made_of_it(client: TestClient) -> None:
    piece = bring(client).json()
    answer = client.post(f"/api/pieces/{piece['id']}/products/piece.zip", json=linking("b" * 64))
    assert answer.status_code == 404
    assert "not in this data folder" in answer.text


def test_a_search_of_a_thousand_words_has_an_answer(client: TestClient) -> None:
    bring(client, name="crater.png")
    for query in ("word " * 1000, "crater " * 1000, "x" * 20_000):
        answer = client.get("/api/pieces", params={"query": query})
        assert answer.status_code == 200
        assert bool(answer.json()) == query.startswith("crater")


def test_what_is_kept_is_for_its_owner_alone(tmp_path: Path) -> None:
    tmp_path.chmod(0o755)
    store = Store(tmp_path)
    try:
        assert tmp_path.stat().st_mode & 0o777 == 0o700
    finally:
        store.close()
    store = Store(tmp_path)  # opened once more: the database is there
    store.close()
    assert (tmp_path / "nebrel.db").stat().st_mode & 0o777 == 0o600


def test_what_was_about_to_be_written_is_swept_at_the_start(tmp_path: Path) -> None:
    store = Store(tmp_path)
    kept = store.add_picture(png(ramp(9, 8)), "kept.png")
    store.create_piece(kept)
    store.close()
    left = [tmp_path / "pictures" / "abc.part", tmp_path / "cache" / ".view-x.png-y.part"]
    left.append(tmp_path / "pictures" / "cd" / ("cd" * 32))  # no row names it
    for path in left:
        path.parent.mkdir(exist_ok=True)
        path.write_bytes(b"half a file")
    (tmp_path / "pictures" / "tmp1.part").mkdir()
    store = Store(tmp_path)
    try:
        assert not any(path.exists() for path in left)
        assert not list((tmp_path / "pictures").glob("*.part"))
        assert store.load_picture(kept.sha256).cols == 8
    finally:
        store.close()


@pytest.mark.parametrize("called", ["../../up", "..\\..\\up", "/up", "C:\\up", "a/b"])
def test_members_of_a_zip_lie_inside_of_it(client: TestClient, called: str) -> None:
    piece = bring(client).json()
    for product in ("piece.obj.zip", "piece.zip"):
        answer = made(client, piece["id"], product, called)
        with ZipFile(io.BytesIO(answer.content)) as packed:
            for name in packed.namelist():
                assert not name.startswith("/") and "\\" not in name and ":" not in name
                assert ".." not in name.split("/")


@pytest.mark.parametrize("where", ["motif", "length", "name"])
def test_half_a_letter_is_refused_wherever_it_stands(client: TestClient, where: str) -> None:
    piece = bring(client).json()
    recipe, piece_id = piece["recipe"], piece["id"]
    entry = recipe["begins"]["art"]["build_up"][0]
    if where == "motif":
        answer = half(client, "POST", "motifs", {"piece_id": "\ud800", "name": "x", "tags": []})
    else:
        place = entry["depth"] if where == "length" else entry
        place["text" if where == "length" else "name"] = "\udfff"
        changed = {"recipe": recipe, "label": "depth"}
        answer = half(client, "PUT", f"pieces/{piece_id}/recipe", changed)
    assert answer.status_code == 422, answer.text
    assert client.get(f"/api/pieces/{piece_id}").json()["state"] == piece["state"]


def half(client: TestClient, method: str, path: str, body: Any) -> Any:
    """Sent with letters as JSON writes them by number."""
    kind = {"Content-Type": "application/json"}
    return client.request(method, f"/api/{path}", content=json.dumps(body), headers=kind)
