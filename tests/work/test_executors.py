"""The same jobs on threads, on processes, on a lane, and on workers that share nothing."""

import json
import socket
import subprocess
import sys
from collections.abc import Iterator
from concurrent.futures import Executor, ProcessPoolExecutor, ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from urllib.error import HTTPError
from urllib.request import Request, urlopen

import numpy as np
import pytest
import trimesh
from fastapi.testclient import TestClient

from nebrel.cli import main
from nebrel.core.errors import Cancelled, NebrelError, NotFound, StorageFailed
from nebrel.core.products.bundle import read_bundle
from nebrel.core.products.table import PRODUCTS, Making
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.recipe.models import Recipe, default_recipe, load_recipe
from nebrel.store import Store
from nebrel.web.door import create_door, open_door
from nebrel.web.jobs import Job, JobBoard
from nebrel.work.depot import Depot, FolderDepot
from nebrel.work.elsewhere import HttpDepot
from nebrel.work.lane import LOADED, Lane, processes
from nebrel.work.run import begin
from nebrel.work.tasks import Task
from tests.pictures import png, ramp
from tests.waiting import until
from tests.work.elsewhere import Elsewhere


def free_port() -> int:
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        return int(free.getsockname()[1])


@dataclass
class House:
    """A store, and a board of jobs for it."""

    store: Store
    depot: FolderDepot
    board: JobBoard

    def bring(self, tones: np.ndarray, name: str = "ramp.png") -> Recipe:
        info = self.store.add_picture(png(tones), name)
        return default_recipe(info.sha256, info.rows, info.cols, info.filename)

    def start(self, recipe: Recipe, name: str, piece: str = "piece") -> Job:
        made, document = PRODUCTS[name], recipe.model_dump(mode="json")
        key = made.key(recipe)
        task = Task("product", {"recipe": document, "name": name, "key": key})
        return self.board.start(f"{name}:{key}", piece, task, f"{key}{made.ending}")


@pytest.fixture(scope="module", params=["threads", "processes", "lane", "elsewhere"])
def house(
    request: pytest.FixtureRequest, tmp_path_factory: pytest.TempPathFactory
) -> Iterator[House]:
    store = Store(tmp_path_factory.mktemp("house"))
    depot = FolderDepot(store.folder)
    depot.open()
    seen: Depot = depot
    executor: Executor
    if request.param == "threads":
        executor = ThreadPoolExecutor(2)
    elif request.param == "processes":
        executor = ProcessPoolExecutor(2, processes(*LOADED))
    elif request.param == "lane":
        executor = Lane(2, processes(*LOADED), begin, (200_000_000, True))
    else:
        executor = Elsewhere()
        seen = open_door(depot, "127.0.0.1", free_port())
        until(lambda: answers(seen))
    board = JobBoard(depot, executor, seen)
    yield House(store, depot, board)
    board.close()
    store.close()


def answers(depot: Depot) -> bool:
    try:
        depot.load("picture", "0" * 64)
    except StorageFailed:
        return False
    except NotFound:
        return True
    return True


def test_a_product_is_what_is_made_here(house: House, tmp_path: Path) -> None:
    recipe = house.bring(ramp(40, 60))
    found = {name: house.start(recipe, name) for name in ("piece.glb", "piece.stl", "piece.zip")}
    for name, job in found.items():
        figures = job.future.result(120)
        assert (figures is not None) == (name == "piece.glb")
        assert job.state() == "done"
        assert house.board.progress(job) == (1.0, "")
    assert found["piece.glb"].future.result()["mesh"]["closed"]  # type: ignore[index]
    kept = house.depot.load("result", found["piece.stl"].result)
    assert trimesh.load(kept).is_watertight
    here = tmp_path / "here.stl"
    making = Making(recipe, Evaluator(house.store.load_picture), house.store.picture_file)
    PRODUCTS["piece.stl"].write(making, here)
    assert here.read_bytes() == kept.read_bytes()
    again, pictures = read_bundle(house.depot.load("result", found["piece.zip"].result))
    assert again == recipe
    assert pictures(again.relief.art.pictured.file.sha256).cols == 60


def test_progress_is_heard_and_a_wish_to_stop(house: House) -> None:
    noise = np.random.default_rng(5).random((700, 700), np.float32)
    job = house.start(house.bring(noise, "noise.png"), "piece.glb")
    first = house.board.progress(job)
    until(lambda: house.depot.heard(job.id)[1])
    until(lambda: house.board.progress(job)[0] > first[0])
    done, words = house.board.progress(job)
    assert first[0] < done < 1
    assert words not in ("", "waiting")
    house.board.cancel(job.id)
    until(job.future.done)
    assert job.state() == "cancelled"
    assert isinstance(job.error(), Cancelled)
    # Nothing that was said of it is left.
    until(lambda: not list((house.store.folder / "jobs").glob(f"{job.id}*")))


def test_what_a_worker_refuses_is_said_in_its_words(house: House) -> None:
    recipe = house.bring(ramp(30, 31))
    job = house.start(recipe, "holder.stl")
    until(job.future.done)
    error = job.error()
    assert isinstance(error, NebrelError)
    assert error.kind == "invalid_value"
    assert error.remedy
    lost = house.bring(ramp(33, 34), "lost moon.png")
    house.store.picture_file(lost.relief.art.pictured.file.sha256).unlink()
    job = house.start(lost, "picture.png")
    until(job.future.done)
    assert isinstance(job.error(), NotFound)
    assert "lost moon.png" in str(job.error())


def test_equal_work_is_joined_and_changed_work_called_off(house: House) -> None:
    noise = np.random.default_rng(6).random((500, 500), np.float32)
    recipe = house.bring(noise, "noise.png")
    first = house.start(recipe, "piece.glb", "one")
    assert house.start(recipe, "piece.glb", "two") is first
    document = recipe.model_dump(mode="json")
    document["begins"]["art"]["backing"] = 2.5
    other = load_recipe(document)
    second = house.start(other, "piece.glb", "one")
    assert not first.called_off  # the other piece wants it still
    third = house.start(other, "piece.glb", "two")
    assert third is second
    assert first.called_off
    house.board.cancel(second.id)
    until(lambda: first.future.done() and second.future.done())


def test_the_door_takes_no_nonsense(tmp_path: Path) -> None:
    depot = FolderDepot(tmp_path)
    depot.open()
    job, key = "1" * 32, "2" * 64
    shown = {"Authorization": "Bearer shown"}
    with TestClient(create_door(depot, "shown", most_bytes=1000), headers=shown) as door:
        for said in (
            '{"done": NaN, "words": ""}',
            '{"done": 0}',
            "[",
            '{"done": 1e999, "words": ""}',
        ):
            assert door.post(f"/jobs/{job}", content=said).status_code == 422
        long = json.dumps({"done": 0.5, "words": "a" * 201})
        assert door.post(f"/jobs/{job}", content=long).status_code == 422
        assert door.post(f"/jobs/{job}", content=iter([b" " * 6000] * 2)).status_code == 413
        assert door.post(f"/jobs/{job}", json={"done": 7, "words": "far"}).status_code == 200
        assert depot.heard(job) == (1.0, "far")
        assert door.put(f"/results/{key}.stl", content=iter([b"a" * 600] * 2)).status_code == 413
        for name in ("..%2f..%2fa", f"{key}.{'a' * 200}", f"{key}.a.b.c.d", f"{key}%0a"):
            assert door.put(f"/results/{name}", content=b"a").status_code in (404, 422)
        assert door.put(f"/results/{key}.stl", content=b"a").status_code == 204
    assert [path.name for path in (tmp_path / "cache").iterdir()] == [f"{key}.stl"]


def test_the_door_lets_in_only_who_shows_the_token(tmp_path: Path) -> None:
    depot = FolderDepot(tmp_path)
    depot.open()
    seen = open_door(depot, "127.0.0.1", free_port())
    until(lambda: answers(seen))
    assert seen.token not in repr(seen)
    with pytest.raises(StorageFailed, match="403"):
        HttpDepot(seen.url, "guessed").load("picture", "0" * 64)
    for path in ("files/picture/..%2f..%2fnebrel.db", "files/secret/x", "jobs/../x"):
        request = Request(f"{seen.url}/{path}", headers={"Authorization": f"Bearer {seen.token}"})
        with pytest.raises(HTTPError) as caught:
            urlopen(request)
        assert caught.value.code in (404, 405, 422)
    with seen.put(f"{'a' * 64}.stl") as path:
        path.write_bytes(b"solid")
    assert depot.load("result", f"{'a' * 64}.stl").read_bytes() == b"solid"
    with pytest.raises(NotFound), seen.put("nebrel.db") as path:
        path.write_bytes(b"not a result")
    sent = {"Authorization": f"Bearer {seen.token}"}
    with pytest.raises(HTTPError) as caught:
        urlopen(Request(f"{seen.url}/results/nebrel.db", b"no result", sent, method="PUT"))
    assert caught.value.code == 422
    with pytest.raises(StorageFailed, match="does not reach"):
        HttpDepot(f"http://127.0.0.1:{free_port()}", "x").tell("0" * 32, 0.5, "half")


def test_a_server_has_its_long_work_done_by_any_executor(tmp_path: Path) -> None:
    port, door = free_port(), free_port()
    command = [sys.executable, "-m", "nebrel", "serve", "--data", str(tmp_path / "data")]
    command += ["--port", str(port), "--executor", "tests.work.elsewhere:make"]
    server = subprocess.Popen([*command, "--workers", f"127.0.0.1:{door}"])
    url = f"http://127.0.0.1:{port}/api"

    def ask(path: str, data: bytes | None = None, **headers: str) -> Any:
        with urlopen(Request(f"{url}/{path}", data, headers)) as answer:
            return answer.read()

    def up() -> bool:
        try:
            return bool(ask("version"))
        except OSError:
            return False

    try:
        until(up)
        body = (
            b'--e\r\nContent-Disposition: form-data; name="file"; filename="a.png"\r\n\r\n'
            + png(ramp(30, 40))
            + b"\r\n--e--\r\n"
        )
        sent = {"Content-Type": "multipart/form-data; boundary=e"}
        piece = json.loads(ask("pieces", body, **sent))
        job = json.loads(ask(f"pieces/{piece['id']}/products/piece.stl", b""))
        state = lambda: json.loads(ask(f"jobs/{job['id']}"))  # noqa: E731
        until(lambda: state()["state"] not in ("waiting", "working"))
        assert state()["state"] == "done", state()["error"]
        assert len(ask(f"results/{state()['result']}")) > 600
    finally:
        server.terminate()
        server.wait()


@pytest.mark.parametrize(
    ("options", "said"),
    [
        (["--workers", "127.0.0.1:9"], "there are none"),
        (["--executor", "nothing.here:make"], "cannot be used"),
        (["--executor", "json:dumps"], "cannot be used"),
        (["--executor", "builtins:dict"], "makes no concurrent"),
        (["--executor", "tests.work.elsewhere:make", "--workers", "here"], "is no address"),
    ],
)
def test_wrong_executors_are_refused_in_a_line(
    options: list[str], said: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    command = ["serve", "--data", str(tmp_path), "--port", str(free_port()), *options]
    assert main(command) == 2
    told = capsys.readouterr().err
    assert said in told
    assert len(told.splitlines()) == 1
