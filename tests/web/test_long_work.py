"""Long work: ended when it is called off, gone with its server, waited for without threads."""

import multiprocessing
import os
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path
from types import SimpleNamespace
from typing import Any

import numpy as np
import psutil
import pytest
from fastapi.testclient import TestClient

from nebrel.core.errors import Busy, NotFound
from nebrel.web import work
from nebrel.web.jobs import JobBoard
from nebrel.web.lane import Lane
from tests.pictures import png, ramp
from tests.web.test_api import bring, with_depth


def begin() -> None:
    """Nothing to prepare."""


def nap(seconds: float) -> int:
    time.sleep(seconds)
    return os.getpid()


def deaf(seconds: float) -> None:
    """As a kernel that computes with the interpreter held: nothing else of the process runs."""
    sys.setswitchinterval(1e9)
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        pass


def until(true: Callable[[], Any], seconds: float = 60) -> float:
    """How long it took for something to become true."""
    start = time.monotonic()
    while not true():
        assert time.monotonic() - start < seconds
        time.sleep(0.01)
    return time.monotonic() - start


@pytest.fixture(scope="module")
def lane() -> Iterator[Lane]:
    opened = Lane(2, multiprocessing.get_context("spawn"), begin, ())
    yield opened
    opened.shutdown()


def test_a_lane_runs_as_many_as_it_has_processes(lane: Lane) -> None:
    found = [lane.submit(nap, 0.05) for _ in range(8)]
    assert len({future.result(60) for future in found}) <= 2


def test_ending_work_costs_that_work_alone(lane: Lane) -> None:
    lane.submit(nap, 0).result(60)
    stuck, other = lane.submit(deaf, 300), lane.submit(nap, 1.5)
    waiting = lane.submit(nap, 0)
    until(stuck.running)
    time.sleep(0.2)
    start = time.monotonic()
    lane.end(stuck)
    with pytest.raises(BrokenProcessPool):
        stuck.result(10)
    assert time.monotonic() - start < 1
    assert other.result(60)
    assert waiting.result(60)


def test_a_process_that_dies_is_made_anew(lane: Lane) -> None:
    for _ in range(3):
        died = lane.submit(os._exit, 3)
        with pytest.raises(BrokenProcessPool):
            died.result(60)
    assert lane.submit(nap, 0).result(60)


def test_work_that_waits_can_be_cancelled(lane: Lane) -> None:
    busy = [lane.submit(nap, 1) for _ in range(2)]
    waiting = lane.submit(nap, 0)
    assert waiting.cancel()
    assert all(future.result(60) for future in busy)


@pytest.mark.skipif(sys.platform != "linux", reason="other systems wait for the interpreter")
@pytest.mark.parametrize("task", ["nap", "deaf"])
def test_processes_end_with_a_killed_server(task: str) -> None:
    code = (
        "import multiprocessing, sys, time\n"
        "from nebrel.web.lane import Lane\n"
        f"from tests.web.test_long_work import begin, nap, {task} as task\n"
        "if __name__ == '__main__':\n"
        "    lane = Lane(2, multiprocessing.get_context('spawn'), begin, ())\n"
        "    print(lane.submit(nap, 0).result(60), flush=True)\n"
        "    for _ in range(2): lane.submit(task, 300)\n"
        "    time.sleep(1); print('busy', flush=True); time.sleep(300)\n"
    )
    server = subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE, text=True)
    assert server.stdout is not None
    server.stdout.readline()
    assert server.stdout.readline() == "busy\n"
    workers = psutil.Process(server.pid).children(recursive=True)
    assert len(workers) >= 2
    os.kill(server.pid, signal.SIGKILL)
    server.wait()
    _, alive = psutil.wait_procs(workers, timeout=5)
    for process in alive:
        process.kill()
    assert alive == []


@pytest.fixture(scope="module")
def noisy(client: TestClient) -> Any:
    """A piece whose solid takes far longer than anyone waits."""
    tones = np.random.default_rng(4).random((1900, 1900), np.float32)
    return bring(client, png(tones), "noise.png").json()


def board(client: TestClient) -> JobBoard:
    found: JobBoard = client.app.state.desk.jobs  # type: ignore[attr-defined]
    return found


def test_calling_off_is_heard_within_a_second_in_the_longest_step(
    client: TestClient, noisy: Any
) -> None:
    job = client.post(f"/api/pieces/{noisy['id']}/evaluation").json()
    seen: list[tuple[float, float]] = []

    def making() -> bool:
        now = client.get(f"/api/jobs/{job['id']}").json()
        seen.append((time.monotonic(), now["done"]))
        return bool(now["step"] == "making the solid")

    until(making)
    time.sleep(2)
    making()
    assert seen[-1][1] > seen[-2][1]  # it moves though the kernel tells nothing
    assert client.delete(f"/api/jobs/{job['id']}").json()["state"] == "cancelled"
    assert until(board(client).get(job["id"]).future.done) < 1.5


def test_after_ten_quick_changes_the_wanted_one_is_made(client: TestClient, noisy: Any) -> None:
    url = f"/api/pieces/{noisy['id']}"
    recipe = noisy["recipe"]
    for depth in range(2, 12):
        changed = with_depth({"recipe": recipe}, {"mm": depth})
        client.put(f"{url}/recipe", json={"recipe": changed})
        client.post(f"{url}/evaluation")
        time.sleep(0.3)
    last = {
        **with_depth(noisy, {"mm": 0.5}),
        "triangles": {"tolerance": {"mm": 1}, "detail": "picture", "method": "greedy"},
    }
    job = client.post(f"{url}/evaluation", json=last).json()
    until(lambda: client.get(f"/api/jobs/{job['id']}").json()["state"] == "done", 60)


def test_waiting_downloads_hold_nobody_up(client: TestClient, noisy: Any) -> None:
    copies = [client.post(f"/api/pieces/{noisy['id']}/duplicate").json() for _ in range(86)]
    for depth, copy in enumerate(copies):
        changed = with_depth(copy, {"mm": 3 + depth / 100})
        client.put(f"/api/pieces/{copy['id']}/recipe", json={"recipe": changed})
    with ThreadPoolExecutor(86) as pool:
        downloads = [
            pool.submit(client.get, f"/api/pieces/{copy['id']}/export.stl") for copy in copies
        ]
        until(lambda: len([j for j in board(client)._jobs.values() if not j.future.done()]) >= 86)
        start = time.monotonic()
        assert client.get("/api/version").status_code == 200
        assert client.get(f"/api/pieces/{noisy['id']}").status_code == 200
        assert time.monotonic() - start < 5
        # None of those that wait was forgotten; each is told that it was called off.
        for job in list(board(client)._jobs.values()):
            assert client.delete(f"/api/jobs/{job.id}").status_code == 200
        answers = [download.result(120) for download in downloads]
    assert {answer.status_code for answer in answers} == {409}
    assert answers[0].json()["error"]["why"] == "it was called off"


def test_a_mesh_is_that_of_the_recipe_that_was_asked_for(client: TestClient) -> None:
    piece = bring(client).json()
    url = f"/api/pieces/{piece['id']}"
    mine = with_depth(piece, {"mm": 7})
    client.put(f"{url}/recipe", json={"recipe": with_depth(piece, {"mm": 5})})  # in another window
    job = client.post(f"{url}/evaluation", json=mine).json()

    def done() -> bool:
        nonlocal job
        job = client.get(f"/api/jobs/{job['id']}").json() if job["id"] else job
        return bool(job["state"] == "done")

    until(done)
    assert job["figures"]["heights"]["highest_mm"] == pytest.approx(8)
    mesh = client.get(f"/api/meshes/{job['figures']['key']}.glb")
    assert mesh.content[:4] == b"glTF"
    assert "immutable" in mesh.headers["cache-control"]
    assert client.get(f"/api/meshes/{'0' * 64}.glb").status_code == 404
    assert client.get("/api/meshes/..%2fnebrel.glb").status_code in (404, 422)


def test_words_of_the_progress_are_never_cut_inside_a_letter() -> None:
    slots = work.Slots(multiprocessing.get_context("spawn"), 3)
    for length in range(60, 200):
        slots.tell(1, 0.5, "×" * length)
        assert set(slots.words(1)) == {"×"}
        slots.tell(1, 0.5, "short")
        assert slots.words(1) == "short"
    assert slots.words(0) == slots.words(2) == ""


def test_only_jobs_that_are_over_are_forgotten(tmp_path: Path) -> None:
    (tmp_path / "cache").mkdir()
    jobs = JobBoard(tmp_path)
    gate = threading.Event()
    jobs.lane.shutdown()
    pool = ThreadPoolExecutor(1)
    jobs.lane = SimpleNamespace(  # type: ignore[assignment]
        submit=pool.submit, end=lambda _: None, shutdown=pool.shutdown
    )
    first = jobs.start("first:0", "a", lambda slot: {"waited": gate.wait(30)})
    found = [jobs.start(f"kind{n}:0", f"p{n}", lambda slot: {}) for n in range(90)]
    assert all(jobs.get(job.id) for job in found)
    assert jobs.start("kind5:0", "p5", lambda slot: {}) is found[5]
    gate.set()
    until(lambda: all(job.future.done() for job in found))
    jobs.start("last:0", "z", lambda slot: {})
    with pytest.raises(NotFound):
        jobs.get(first.id)
    jobs._free.clear()
    with pytest.raises(Busy):
        jobs.start("more:0", "y", lambda slot: {})
    jobs.close()


def test_products_keep_the_letters_of_their_names(client: TestClient) -> None:
    piece = bring(client).json()
    url = f"/api/pieces/{piece['id']}"
    client.patch(url, json={"name": "Größe 望遠鏡"})
    for product in ("export.stl", "export.zip", "heights.tif", "heights.png", "picture.png",
                    "lit.png", "part.stl?part=base"):  # fmt: skip
        answer = client.get(f"{url}/{product}")
        assert answer.status_code == 200, product
        disposition = answer.headers["content-disposition"]
        assert "filename*=UTF-8''Gr%C3%B6%C3%9Fe%20%E6%9C%9B" in disposition, product
        assert 'filename="Gr' in disposition


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
    assert client.get(f"/api/pieces/{piece['id']}/heights.tif").status_code == 200
    assert not old.exists()
    assert half.exists()  # it may be under way
