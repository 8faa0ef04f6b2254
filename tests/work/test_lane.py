"""Processes that one can be sure of: ended when they do not stop, gone with their server."""

import multiprocessing
import os
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from concurrent.futures.process import BrokenProcessPool

import psutil
import pytest

from nebrel.work.lane import Lane
from tests.waiting import until


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
        "from nebrel.work.lane import Lane\n"
        f"from tests.work.test_lane import begin, nap, {task} as task\n"
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
