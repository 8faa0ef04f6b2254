"""Long work in a worker process: progress, calling off, and results that outlive a tab."""

from __future__ import annotations

import multiprocessing
import uuid
from collections import OrderedDict
from collections.abc import Callable
from concurrent.futures import Executor, Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass
from pathlib import Path
from threading import Lock
from typing import Any, Literal

from nebrel.core.errors import NebrelError, NotFound, TooLarge
from nebrel.web import work

State = Literal["waiting", "working", "done", "failed", "cancelled"]
_KEPT = 50
_WORKERS = 2


@dataclass
class Job:
    """One piece of long work."""

    id: str
    name: str
    piece_id: str
    slot: int
    future: Future[dict[str, Any]]
    called_off: bool = False

    def state(self) -> State:
        """How it stands, as the screen says it."""
        if self.called_off or self.future.cancelled():
            return "cancelled"
        if self.future.done():
            return "failed" if self.future.exception() else "done"
        return "working" if self.future.running() else "waiting"

    def error(self) -> NebrelError | None:
        """Why it failed, if it did."""
        if not self.future.done() or self.future.cancelled():
            return None
        error = self.future.exception()
        if error is None or isinstance(error, NebrelError):
            return error
        if isinstance(error, BrokenProcessPool | MemoryError):
            return TooLarge(
                "piece",
                "the work ran out of memory",
                "Allow a larger tolerance or bring a smaller picture",
            )
        return NebrelError(
            "piece",
            f"the work stopped unexpectedly ({type(error).__name__})",
            "Try again; the piece is kept as it was",
        )


class JobBoard:
    """Starts, watches and calls off jobs.

    Any `concurrent.futures.Executor` whose workers ran `work.start` can stand in for the
    process pool that is made by default.
    """

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._context = multiprocessing.get_context("spawn")
        self._slots = work.Slots(self._context)
        self._free = list(range(self._slots.count))
        self._jobs: OrderedDict[str, Job] = OrderedDict()
        self._lock = Lock()
        self._pool = self._open_pool()

    def _open_pool(self) -> Executor:
        pool = ProcessPoolExecutor(_WORKERS, self._context, work.start, (self._folder, self._slots))
        for _ in range(_WORKERS):
            pool.submit(work.warm)
        return pool

    def start(
        self,
        name: str,
        piece_id: str,
        task: Callable[..., dict[str, Any]],
        document: dict[str, Any],
    ) -> Job:
        """Start a job, or join the one of that name that is under way.

        Parameters
        ----------
        name : says what will come of it, so equal names are the same work
        piece_id : waiting or running work of the same kind on this piece is called off
        task : a function of `nebrel.web.work`
        """
        with self._lock:
            for job in self._jobs.values():
                if job.piece_id == piece_id and job.state() in ("waiting", "working"):
                    if job.name == name:
                        return job
                    if job.name.split(":")[0] == name.split(":", maxsplit=1)[0]:
                        self._call_off(job)
            if not self._free:
                raise TooLarge("work", "too much is waiting already", "Wait a moment and try again")
            slot = self._free.pop(0)
            self._slots.clear(slot)
            try:
                future = self._pool.submit(task, document, slot)
            except BrokenProcessPool:
                self._pool = self._open_pool()
                future = self._pool.submit(task, document, slot)
            job = Job(uuid.uuid4().hex, name, piece_id, slot, future)
            self._jobs[job.id] = job
            while len(self._jobs) > _KEPT:
                self._jobs.popitem(last=False)
        future.add_done_callback(lambda _: self._release(slot))
        return job

    def _release(self, slot: int) -> None:
        with self._lock:
            self._free.append(slot)

    def get(self, job_id: str) -> Job:
        """A job by its id. Raises NotFound."""
        job = self._jobs.get(job_id)
        if job is None:
            raise NotFound("job", "it is not known (any more)", "Load the piece again")
        return job

    def progress(self, job: Job) -> tuple[float, str]:
        """Share done, 0 to 1, and the step in words."""
        if job.future.done():
            return 1.0, ""
        if job.state() == "waiting":
            return 0.0, "waiting"
        return float(self._slots.done[job.slot]), self._slots.words(job.slot)

    def cancel(self, job_id: str) -> Job:
        """Call a job off; a step under way ends first, its result is dropped."""
        job = self.get(job_id)
        if not job.future.done():
            self._call_off(job)
        return job

    def _call_off(self, job: Job) -> None:
        job.called_off = True
        self._slots.stop[job.slot] = 1.0
        # Never future.cancel(): its callback would want the lock that is held here.

    def close(self) -> None:
        """End the workers."""
        for job in self._jobs.values():
            if not job.future.done():
                self._call_off(job)
        self._pool.shutdown(wait=True, cancel_futures=True)
