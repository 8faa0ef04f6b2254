"""The practice service as it is started with the application, in a process of its own."""

from __future__ import annotations

import subprocess
import sys
import threading
from contextlib import suppress
from pathlib import Path

from nebrel.makers.adapter import Passing


class PracticeHost:
    """Started when it is asked for first; ended with the application.

    Parameters
    ----------
    folder : where it keeps what it knows
    wait_s : how long its queue takes
    """

    def __init__(self, folder: Path, wait_s: float | None = None) -> None:
        self._folder, self._wait_s = folder, wait_s
        self._lock = threading.Lock()
        self._process: subprocess.Popen[str] | None = None
        self._address = ""

    def address(self) -> str:
        """Where it listens. Raises Passing: it does not start."""
        with self._lock:
            if self._process is None or self._process.poll() is not None:
                self._start()
            return self._address

    def close(self) -> None:
        """End it."""
        with self._lock:
            if self._process is None:
                return
            with suppress(OSError, subprocess.TimeoutExpired):
                assert self._process.stdin is not None
                self._process.stdin.close()
                self._process.wait(timeout=10)
            self._process.kill()
            self._process = None

    def _start(self) -> None:
        command = [sys.executable, "-m", "nebrel.practice", "--folder", str(self._folder)]
        if self._wait_s is not None:
            command += ["--wait", str(self._wait_s)]
        try:
            process = subprocess.Popen(
                command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
            )
            assert process.stdout is not None
            port = int(process.stdout.readline())
        except (OSError, ValueError) as error:
            raise Passing("the practice service does not start", "Try again in a while") from error
        self._process, self._address = process, f"http://127.0.0.1:{port}"
