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
from typing import Any


class Elsewhere(Executor):
    """Each task in a process of its own, which gets pickled bytes and answers with some."""

    def __init__(self) -> None:
        self._threads = ThreadPoolExecutor(2)
        self._room = tempfile.TemporaryDirectory()

    def submit(self, task: Callable[..., Any], /, *given: Any, **named: Any) -> Future[Any]:
        """As any executor."""
        return self._threads.submit(self._run, pickle.dumps((task, given, named)))

    def _run(self, sent: bytes) -> Any:
        room = self._room.name
        # Other folders for all that a system has one for, and a place of its own to stand in.
        names = ("HOME", "XDG_CACHE_HOME", "XDG_DATA_HOME", "TMPDIR")
        paths = {"PYTHONPATH": os.pathsep.join([str(Path.cwd()), *sys.path])}
        env = os.environ | dict.fromkeys(names, room) | paths
        command = [sys.executable, "-m", "tests.work.elsewhere"]
        done = subprocess.run(
            command, check=True, input=sent, stdout=subprocess.PIPE, env=env, cwd=room
        )
        answer, error = pickle.loads(done.stdout)
        if error is not None:
            raise error
        return answer

    def shutdown(self, wait: bool = True, *, cancel_futures: bool = False) -> None:
        """As any executor."""
        self._threads.shutdown(wait=wait, cancel_futures=cancel_futures)
        if wait:
            self._room.cleanup()


def make() -> Elsewhere:
    """For `nebrel serve --executor`."""
    return Elsewhere()


def main() -> None:
    """One task: from standard input to standard output."""
    task, given, named = pickle.load(sys.stdin.buffer)
    try:
        answer = task(*given, **named), None
    except Exception as error:
        answer = None, error
    sys.stdout.buffer.write(pickle.dumps(answer))


if __name__ == "__main__":
    main()
