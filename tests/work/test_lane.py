"""Processes that one can be sure of: ended when they do not stop, gone with their server."""

import multiprocessing
import os
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path
from typing import Any

import psutil
import pytest

from nebrel.work.lane import Lane, close_all, processes
from tests.waiting import until

_LONG_S = 300


def begin() -> None:
    """Nothing to prepare."""


def process() -> int:
    return os.getpid()


def nap(begun: Path, until_there: Path | None = None) -> int:
    """Sleep, until a file is there or for longer than any test."""
    begun.touch()
    end = time.monotonic() + _LONG_S
    while time.monotonic() < end and not (until_there and until_there.exists()):
        time.sleep(0.01)
    return os.getpid()


def tell(told: Path, word: str) -> None:
    with told.open("a") as file:
        file.write(word)


def deaf(begun: Path) -> None:
    """As a kernel that computes with the interpreter held: nothing else of the process runs."""
    sys.setswitchinterval(1e9)
    begun.touch()
    end = time.monotonic() + _LONG_S
    while time.monotonic() < end:
        pass


@pytest.fixture(scope="module", params=["as the system has it", "anew"])
def lane(request: pytest.FixtureRequest) -> Iterator[Lane]:
    spawn: Any = multiprocessing.get_context("spawn")
    context = spawn if request.param == "anew" else processes("tests.work.test_lane")
    opened = Lane(2, context, begin, ())
    yield opened
    opened.shutdown()


def test_a_lane_runs_as_many_as_it_has_processes(lane: Lane) -> None:
    found = [lane.submit(process) for _ in range(8)]
    assert len({future.result(60) for future in found}) <= 2


def test_ending_work_costs_that_work_alone(lane: Lane, tmp_path: Path) -> None:
    end = tmp_path / "end"
    stuck, other = lane.submit(deaf, tmp_path / "a"), lane.submit(nap, tmp_path / "b", end)
    waiting = lane.submit(process)
    until(lambda: (tmp_path / "a").exists() and (tmp_path / "b").exists())
    lane.end(stuck)
    with pytest.raises(BrokenProcessPool):
        stuck.result(60)
    assert waiting.result(60)
    assert not other.done()
    end.touch()
    assert other.result(60)


def test_a_process_that_dies_is_made_anew(lane: Lane) -> None:
    for _ in range(3):
        died = lane.submit(os._exit, 3)
        with pytest.raises(BrokenProcessPool):
            died.result(60)
    assert lane.submit(process).result(60)


def test_one_that_dies_with_nothing_to_do_is_made_anew(lane: Lane) -> None:
    idle = lane.submit(process).result(60)
    os.kill(idle, signal.SIGKILL)
    found = [lane.submit(process) for _ in range(4)]
    for future in found:
        try:
            assert future.result(60) != idle
        except BrokenProcessPool:  # handed to it before its end was noticed
            assert lane.submit(process).result(60) != idle


def test_what_can_wait_waits_for_all_else(tmp_path: Path) -> None:
    lane = Lane(1, processes("tests.work.test_lane"), begin, ())
    end, told = tmp_path / "end", tmp_path / "told"
    busy = lane.submit(nap, tmp_path / "begun", end)
    last = [lane.behind(2).submit(tell, told, "c") for _ in range(2)]
    second = [lane.behind(1).submit(tell, told, "b") for _ in range(2)]
    first = [lane.submit(tell, told, "a") for _ in range(2)]
    end.touch()
    for future in (busy, *last, *second, *first):
        future.result(60)
    lane.shutdown()
    assert told.read_text() == "aabbcc"


def test_work_that_waits_can_be_cancelled(lane: Lane, tmp_path: Path) -> None:
    end = tmp_path / "end"
    busy = [lane.submit(nap, tmp_path / str(n), end) for n in range(2)]
    waiting = lane.submit(process)
    assert waiting.cancel()
    end.touch()
    assert all(future.result(60) for future in busy)


@pytest.mark.parametrize("begun", [True, False])
def test_lanes_are_closed_whatever_their_processes_do(tmp_path: Path, begun: bool) -> None:
    lanes = [Lane(1, processes("tests.work.test_lane"), begin, ()) for _ in range(3)]
    work = [lane.submit(deaf, tmp_path / str(n)) for n, lane in enumerate(lanes)]
    if begun:
        until(lambda: all((tmp_path / str(n)).exists() for n in range(3)))
    close_all(lanes)
    for future in work:
        with pytest.raises(BrokenProcessPool):
            future.result(60)
    with pytest.raises(RuntimeError):
        lanes[0].submit(process)


@pytest.mark.skipif(sys.platform != "linux", reason="other systems wait for the interpreter")
@pytest.mark.parametrize("task", ["nap", "deaf"])
@pytest.mark.parametrize("context", ["processes()", "multiprocessing.get_context('spawn')"])
def test_processes_end_with_a_killed_server(task: str, context: str, tmp_path: Path) -> None:
    code = (
        "import multiprocessing, sys, time\n"
        "from pathlib import Path\n"
        "from nebrel.work.lane import Lane, processes\n"
        f"from tests.work.test_lane import begin, {task}\n"
        "if __name__ == '__main__':\n"
        f"    lane = Lane(2, {context}, begin, ())\n"
        f"    for n in range(2): lane.submit({task}, Path(sys.argv[1]) / str(n))\n"
        "    time.sleep(300)\n"
    )
    server = subprocess.Popen([sys.executable, "-c", code, str(tmp_path)])
    until(lambda: (tmp_path / "0").exists() and (tmp_path / "1").exists())
    workers = psutil.Process(server.pid).children(recursive=True)
    assert len(workers) >= 2
    os.kill(server.pid, signal.SIGKILL)
    server.wait()
    _, alive = psutil.wait_procs(workers, timeout=60)
    for one in alive:
        one.kill()
    assert alive == []
