"""Worker processes that one can be sure of: ended when they do not stop, gone with the server."""

from __future__ import annotations

import multiprocessing
import os
import signal
import sys
import threading
from collections import deque
from collections.abc import Callable, Iterable
from concurrent.futures import Executor, Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from contextlib import suppress
from dataclasses import dataclass, field
from functools import partial
from multiprocessing import connection
from typing import Any

LOADED = ("nebrel.work.loaded",)
"""What the processes of the application need, whatever they are asked."""


def processes(*loaded: str, now: bool = False) -> Any:
    """How the processes of lanes are begun, as multiprocessing calls it: its context.

    On Linux each is forked off one that has loaded some modules, so that they are loaded once
    and not in every process; it has no threads that a fork would lose. Elsewhere, where a fork
    is not safe with what the system itself brings along, each begins anew.

    Parameters
    ----------
    loaded : names of modules that are imported before; of all lanes of a process, as the first
        of them begins
    now : whether to have them loaded at once, beside what else has to be done
    """
    if sys.platform != "linux":
        return multiprocessing.get_context("spawn")
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(list(loaded))
    if now:
        from multiprocessing.forkserver import ensure_running

        ensure_running()
    return context


def close_all(lanes: Iterable[Lane]) -> None:
    """Let go of the processes of several lanes, side by side; running work is ended."""
    found = list(lanes)
    for lane in found:
        lane.shutdown(wait=False)
    for lane in found:
        lane.shutdown()


@dataclass
class _Work:
    future: Future[Any]
    task: Callable[..., Any]
    given: tuple[Any, ...]
    rank: int = 0


@dataclass
class _Worker:
    """A pool of one process, so that ending it costs only what it was doing."""

    pool: ProcessPoolExecutor
    process: Future[int]
    work: _Work | None = field(default=None)

    def kill(self) -> None:
        """End its process, whatever it does; one that only begins, as soon as it has."""
        try:
            self.pool.submit(os.getpid)
        except (BrokenProcessPool, RuntimeError):
            return  # it ended by itself: its number may be another's by now
        self.process.add_done_callback(_kill)


def _kill(process: Future[int]) -> None:
    if not process.cancelled() and process.exception() is None:
        with suppress(ProcessLookupError):
            os.kill(process.result(), signal.SIGKILL)


class Lane(Executor):
    """An executor of a few processes, whose running work can be ended at once.

    Parameters
    ----------
    count : how many processes
    context : of multiprocessing
    start, given : what a process runs first, and with what
    """

    def __init__(
        self, count: int, context: Any, start: Callable[..., None], given: tuple[Any, ...]
    ) -> None:
        self._context, self._start, self._given = context, start, given
        self._waiting: deque[_Work] = deque()
        self._lock = threading.RLock()
        self._closed = False
        # A process is begun when there is something for it to do.
        self._workers: list[_Worker | None] = [None] * count

    def _open(self) -> _Worker:
        pool = ProcessPoolExecutor(1, self._context, _begin, (self._start, self._given))
        return _Worker(pool, pool.submit(os.getpid))

    def submit(self, task: Callable[..., Any], /, *given: Any, **named: Any) -> Future[Any]:
        """Have `task(*given)` run in a process; `named` is not taken."""
        if named:
            raise TypeError("a lane takes positional arguments only")
        return self._wait(_Work(Future(), task, given))

    def behind(self, rank: int) -> Executor:
        """The same lane, for what waits until nothing of a lower rank does; all else has 0."""
        return _Behind(self, rank)

    def _wait(self, work: _Work) -> Future[Any]:
        with self._lock:
            if self._closed:
                raise RuntimeError("the lane is closed")
            before = sum(one.rank <= work.rank for one in self._waiting)
            self._waiting.insert(before, work)
        self._hand_out()
        return work.future

    def _hand_out(self) -> None:
        """Give waiting work to processes that have none."""
        begun = []
        with self._lock:
            for number in range(len(self._workers)):
                while self._idle(number) and self._waiting and not self._closed:
                    work = self._waiting.popleft()
                    if work.future.set_running_or_notify_cancel():
                        begun.append(self._give(number, work))
        # Not under the lock: a callback may come at once, and those it calls have their own.
        for worker, inner in begun:
            inner.add_done_callback(partial(self._finish, worker))

    def _idle(self, number: int) -> bool:
        worker = self._workers[number]
        return worker is None or worker.work is None

    def _give(self, number: int, work: _Work) -> tuple[_Worker, Future[Any]]:
        worker = self._workers[number] or self._open()
        try:
            inner = worker.pool.submit(work.task, *work.given)
        except BrokenProcessPool:  # it ended while it had nothing to do
            worker = self._open()
            inner = worker.pool.submit(work.task, *work.given)
        worker.work = work
        self._workers[number] = worker
        return worker, inner

    def _finish(self, worker: _Worker, done: Future[Any]) -> None:
        error = done.exception() if not done.cancelled() else BrokenProcessPool("it was closed")
        with self._lock:
            work, worker.work = worker.work, None
            if isinstance(error, BrokenProcessPool) and not self._closed:
                worker.pool.shutdown(wait=False)
                self._workers[self._workers.index(worker)] = None
        if work is not None:
            if error is not None:
                work.future.set_exception(error)
            else:
                work.future.set_result(done.result())
        self._hand_out()

    @property
    def _begun(self) -> list[_Worker]:
        return [worker for worker in self._workers if worker is not None]

    def end(self, future: Future[Any]) -> None:
        """End running work, with its process; the future fails with BrokenProcessPool."""
        with self._lock:
            for worker in self._begun:
                if worker.work is not None and worker.work.future is future:
                    worker.kill()
                    return

    def shutdown(self, wait: bool = True, *, cancel_futures: bool = False) -> None:
        """Let go of the processes; running work is ended."""
        with self._lock:
            self._closed = True
            waiting = list(self._waiting)
            self._waiting.clear()
            begun = self._begun
        for work in waiting:
            work.future.cancel()
        for worker in begun:
            # None has anything to put away: results are written whole or not at all.
            worker.kill()
            worker.pool.shutdown(wait=wait, cancel_futures=cancel_futures)


class _Behind(Executor):
    """A lane as those see it whose work can wait."""

    def __init__(self, lane: Lane, rank: int) -> None:
        self._lane, self._rank = lane, rank

    def submit(self, task: Callable[..., Any], /, *given: Any, **_: Any) -> Future[Any]:
        """As `Lane.submit`."""
        return self._lane._wait(_Work(Future(), task, given, self._rank))


def _begin(start: Callable[..., None], given: tuple[Any, ...]) -> None:
    """First of all in a process: see to it that it ends when its server does."""
    end_with_parent()
    start(*given)


def end_with_parent() -> None:
    """Have this process end within a moment of the one that started it, however that ended.

    A thread waits for the pipe that both share to close. A computation that holds the
    interpreter keeps that thread from running, so where the system can (Linux) the pipe also
    sends a signal, whose default is to end the process.
    """
    parent = multiprocessing.parent_process()
    if parent is None:
        return
    handle: int = parent.sentinel
    try:
        import fcntl

        signal.signal(signal.SIGIO, signal.SIG_DFL)
        fcntl.fcntl(handle, fcntl.F_SETOWN, os.getpid())
        flags = fcntl.fcntl(handle, fcntl.F_GETFL)
        fcntl.fcntl(handle, fcntl.F_SETFL, flags | os.O_ASYNC)
    except (ImportError, AttributeError, OSError):
        pass  # the thread is left
    if connection.wait([handle], 0):
        os._exit(1)  # it ended before anything was set to hear of it

    def wait() -> None:
        connection.wait([handle])
        os._exit(1)

    threading.Thread(target=wait, daemon=True, name="ends with the server").start()
