"""An executor whose workers share nothing with the server: no memory, no folder, no environment."""

from __future__ import annotations

import os
import pickle
import subprocess
import sys
import tempfile
from collections.abc import Callable
from concurrent.futures import Executor, Future, ThreadPoolExecutor
from pathlib import Path
from queue import SimpleQueue
from typing import Any


class Elsewhere(Executor):
    """Tasks in processes of its own, which get pickled bytes and answer with some."""

    def __init__(self) -> None:
        self._threads = ThreadPoolExecutor(2)
        self._room = tempfile.TemporaryDirectory()
        self._idle: SimpleQueue[subprocess.Popen[bytes]] = SimpleQueue()
        self._all = [self._begun() for _ in range(2)]
        for process in self._all:
            self._idle.put(process)

    def submit(self, task: Callable[..., Any], /, *given: Any, **named: Any) -> Future[Any]:
        """As any executor."""
        return self._threads.submit(self._run, pickle.dumps((task, given, named)))

    def _begun(self) -> subprocess.Popen[bytes]:
        room = self._room.name
        # Other folders for all that a system has one for, and a place of its own to stand in.
        names = ("HOME", "XDG_CACHE_HOME", "XDG_DATA_HOME", "TMPDIR")
        paths = {"PYTHONPATH": os.pathsep.join([str(Path.cwd()), *sys.path])}
        env = os.environ | dict.fromkeys(names, room) | paths
        command = [sys.executable, "-m", "tests.work.elsewhere"]
        return subprocess.Popen(
            command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, env=env, cwd=room
        )

    def _run(self, sent: bytes) -> Any:
        process = self._idle.get()
        assert process.stdin is not None and process.stdout is not None
        try:
            process.stdin.write(sent)
            process.stdin.flush()
            answer, error = pickle.load(process.stdout)
        finally:
            self._idle.put(process)
        if error is not None:
            raise error
        return answer

    def shutdown(self, wait: bool = True, *, cancel_futures: bool = False) -> None:
        """As any executor."""
        self._threads.shutdown(wait=wait, cancel_futures=cancel_futures)
        for process in self._all:
            process.terminate()
        if wait:
            for process in self._all:
                process.wait()
            self._room.cleanup()


def make() -> Elsewhere:
    """For `nebrel serve --executor`."""
    return Elsewhere()


def main() -> None:
    """One task after the other: from standard input to standard output."""
    while True:
        try:
            task, given, named = pickle.load(sys.stdin.buffer)
        except EOFError:
            return
        try:
            answer = task(*given, **named), None
        except Exception as error:
            answer = None, error
        sys.stdout.buffer.write(pickle.dumps(answer))
        sys.stdout.buffer.flush()


if __name__ == "__main__":
    main()
