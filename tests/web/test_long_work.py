"""Long work of the server: called off at once, joined, and waited for by nobody."""

import os
import time
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient

from nebrel.core.choices import PRODUCT_NAMES
from nebrel.web.jobs import JobBoard
from tests.pictures import png, ramp
from tests.waiting import until
from tests.web.test_api import bring, finished, made, start, with_depth


@pytest.fixture(scope="module")
def noisy(client: TestClient) -> Any:
    """A piece whose solid takes far longer than anyone waits."""
    tones = np.random.default_rng(4).random((1900, 1900), np.float32)
    return bring(client, png(tones), "noise.png").json()


def board(client: TestClient) -> JobBoard:
    found: JobBoard = client.app.state.desk.jobs  # type: ignore[attr-defined]
    return found


def test_calling_off_is_heard_in_the_longest_step(client: TestClient, noisy: Any) -> None:
    job = start(client, noisy["id"], "piece.glb").json()
    seen: set[float] = set()

    def moves() -> bool:
        now = client.get(f"/api/jobs/{job['id']}").json()
        if now["step"] == "making the solid":
            seen.add(now["done"])
        return len(seen) > 3  # though the kernel tells nothing

    until(moves)
    assert client.delete(f"/api/jobs/{job['id']}").json()["state"] == "cancelled"
    # Far sooner than it would have been done, however busy the machine is.
    until(board(client).get(job["id"]).future.done, 15)


def test_after_ten_quick_changes_the_wanted_one_is_made(client: TestClient, noisy: Any) -> None:
    url = f"/api/pieces/{noisy['id']}"
    recipe = noisy["recipe"]
    for depth in range(2, 12):
        changed = with_depth({"recipe": recipe}, {"mm": depth})
        client.put(f"{url}/recipe", json={"recipe": changed})
        job = start(client, noisy["id"], "piece.glb").json()
        if depth % 3 == 0:
            until(lambda job=job: client.get(f"/api/jobs/{job['id']}").json()["step"])
    last = {
        **with_depth(noisy, {"mm": 0.5}),
        "triangles": {"tolerance": {"mm": 1}, "detail": "picture", "method": "greedy"},
    }
    job = finished(client, start(client, noisy["id"], "piece.glb", last).json(), 60)
    assert job["state"] == "done"


def test_much_work_that_waits_holds_nobody_up(client: TestClient, noisy: Any) -> None:
    jobs = [
        start(client, noisy["id"], "piece.stl", with_depth(noisy, {"mm": 3 + n / 100})).json()
        for n in range(12)
    ]
    # The newest of a piece is the one that is wanted.
    states = [client.get(f"/api/jobs/{job['id']}").json()["state"] for job in jobs]
    assert set(states[:11]) == {"cancelled"}
    copies = [client.post(f"/api/pieces/{noisy['id']}/duplicate").json() for _ in range(60)]
    for depth, copy in enumerate(copies):
        changed = with_depth(copy, {"mm": 5 + depth / 100})
        jobs.append(start(client, copy["id"], "piece.stl", changed).json())
    begun = time.monotonic()
    assert client.get("/api/version").status_code == 200
    assert client.get(f"/api/pieces/{noisy['id']}").status_code == 200
    assert time.monotonic() - begun < 30  # and not the hours that they would take
    # None of those that wait was forgotten.
    for job in jobs[11:]:
        assert client.get(f"/api/jobs/{job['id']}").json()["state"] in ("waiting", "working")
    for job in jobs[11:]:
        assert client.delete(f"/api/jobs/{job['id']}").json()["state"] == "cancelled"
    until(lambda: all(job.future.done() for job in board(client)._jobs.values()))


def test_equal_work_of_two_pieces_is_done_once(client: TestClient, noisy: Any) -> None:
    copy = client.post(f"/api/pieces/{noisy['id']}/duplicate").json()
    first = start(client, noisy["id"], "heights.tif").json()
    joined = start(client, copy["id"], "heights.tif").json()
    assert joined["id"] in (first["id"], "")
    # One of them wants something else now: the other still gets it.
    start(client, copy["id"], "heights.tif", with_depth(copy, {"mm": 1}))
    assert finished(client, first)["state"] == "done"


def test_two_views_of_a_piece_each_get_what_they_ask_for(client: TestClient) -> None:
    piece = bring(client, png(ramp(60, 80)), "twice.png").json()
    jobs = []
    for view, depth in (("a left", 1), ("a right", 2), ("a right", 3)):
        answer = client.post(
            f"/api/pieces/{piece['id']}/products/heights.tif",
            json=with_depth(piece, {"mm": depth}),
            headers={"X-Nebrel-Question": view},
        )
        jobs.append(answer.json())
    left, _, right = (job if job["state"] == "done" else finished(client, job) for job in jobs)
    assert left["state"] == right["state"] == "done"
    assert left["result"] != right["result"]


def test_a_mesh_is_that_of_the_recipe_that_was_asked_for(client: TestClient) -> None:
    piece = bring(client).json()
    url = f"/api/pieces/{piece['id']}"
    mine = with_depth(piece, {"mm": 7})
    client.put(f"{url}/recipe", json={"recipe": with_depth(piece, {"mm": 5})})  # in another window
    job = finished(client, start(client, piece["id"], "piece.glb", mine).json())
    assert job["figures"]["heights"]["highest_mm"] == pytest.approx(8)
    mesh = client.get(f"/api/results/{job['result']}")
    assert mesh.content[:4] == b"glTF"
    assert "immutable" in mesh.headers["cache-control"]
    assert "content-disposition" not in mesh.headers
    assert client.get(f"/api/results/{'0' * 64}.glb").status_code == 404
    assert client.get(f"/api/results/{'0' * 64}.exe").status_code == 422
    assert client.get("/api/results/..%2fnebrel.glb").status_code in (404, 422)


@pytest.fixture(scope="module")
def small(client: TestClient) -> Any:
    return bring(client).json()


OF_OTHERS = "holder.stl", "cap.stl", "side.stl", "lid.stl", "stamp.stl", "textured.glb"
ELSEWHERE = ("turntable.webp",)  # `test_it_is_drawn_and_turned_around`


@pytest.mark.parametrize(
    "product", [name for name in PRODUCT_NAMES if name not in (*OF_OTHERS, *ELSEWHERE)]
)
def test_products_keep_the_letters_of_their_names(
    client: TestClient, small: Any, product: str
) -> None:
    answer = made(client, small["id"], product, "Größe 望遠鏡")
    assert answer.status_code == 200
    disposition = answer.headers["content-disposition"]
    assert "filename*=UTF-8''Gr%C3%B6%C3%9Fe%20%E6%9C%9B" in disposition
    assert 'filename="Gr' in disposition


def test_letters_that_no_file_system_takes_are_others(client: TestClient) -> None:
    piece = bring(client).json()
    torn = made(client, piece["id"], "heights.tif", 'a"\nb/\0')
    assert 'filename="a--b--, heights.tif"' in torn.headers["content-disposition"]
    braces = made(client, piece["id"], "heights.tif", "{0} {x}")
    assert "{0} {x}, heights.tif" in braces.headers["content-disposition"]


def test_the_cache_is_pruned_while_the_server_runs(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    desk = client.app.state.desk  # type: ignore[attr-defined]
    old, half = desk.store.cache / "old.stl", desk.store.cache / "half.part"
    old.write_bytes(b"x" * 9000)
    half.write_bytes(b"x")
    os.utime(old, (1, 1))
    desk._pruned = -1e9
    monkeypatch.setattr("nebrel.web.desk._CACHE_BYTES", 1000)
    piece = bring(client, png(ramp(21, 22))).json()
    assert made(client, piece["id"], "heights.tif").status_code == 200
    assert not old.exists()
    assert half.exists()  # it may be under way
