"""Long work in a worker process: progress, calling off, and results that outlive a tab."""

from __future__ import annotations

import asyncio
import math
import multiprocessing
import time
import uuid
from collections import OrderedDict
from collections.abc import Callable
from concurrent.futures import Future
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass, field
from pathlib import Path
from threading import RLock, Timer
from typing import Any, Literal

from nebrel.core.errors import Busy, Cancelled, NebrelError, NotFound, TooLarge
from nebrel.web import work
from nebrel.web.lane import Lane

State = Literal["waiting", "working", "done", "failed", "cancelled"]
_KEPT = 50
_WORKERS = 2
_PATIENCE_S = 0.7  # for work to stop by itself
_WITHIN_STEP = 0.12  # the most that a step whose end is not known moves the progress
_STEP_S = 12.0


@dataclass
class Job:
    """One piece of long work."""

    id: str
    name: str
    piece_id: str
    slot: int
    future: Future[dict[str, Any]]
    called_off: bool = False
    told: tuple[float, float] = field(default=(-1.0, 0.0))  # share done, and since when

    def state(self) -> State:
        """How it stands, as the screen says it."""
        if self.called_off or self.future.cancelled():
            return "cancelled"
        if self.future.done():
            return "failed" if self.future.exception() else "done"
        return "working" if self.future.running() else "waiting"

    def error(self) -> NebrelError | None:
        """Why it failed, if it did."""
        if self.called_off or self.future.cancelled():
            return Cancelled("work", "it was called off", "Start it again")
        if not self.future.done():
            return None
        error = self.future.exception()
        return None if error is None else explained(error)


def explained(error: BaseException) -> NebrelError:
    """Why work ended, in our words."""
    if isinstance(error, NebrelError):
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
    """Starts, watches and calls off jobs."""

    def __init__(self, folder: Path) -> None:
        self._context = multiprocessing.get_context("spawn")
        self._slots = work.Slots(self._context)
        self._free = list(range(self._slots.count))
        self._jobs: OrderedDict[str, Job] = OrderedDict()
        self._lock = RLock()
        self.lane = Lane(_WORKERS, self._context, work.start, (folder, self._slots))
        for _ in range(_WORKERS):
            self.lane.submit(work.warm)

    def start(
        self,
        name: str,
        piece_id: str,
        task: Callable[..., dict[str, Any]],
        *given: Any,
    ) -> Job:
        """Start a job, or join the one of that name that is under way.

        Parameters
        ----------
        name : says what will come of it, so equal names are the same work
        piece_id : waiting or running work of the same kind on this piece is called off
        task : a function of `nebrel.web.work`; it gets `given` and its slot

        Raises
        ------
        Busy : too much is waiting
        """
        with self._lock:
            for job in list(self._jobs.values()):
                if job.piece_id == piece_id and job.state() in ("waiting", "working"):
                    if job.name == name:
                        return job
                    if job.name.split(":")[0] == name.split(":", maxsplit=1)[0]:
                        self._call_off(job)
            if not self._free:
                raise Busy("work", "too much is waiting already", "Wait a moment and try again")
            slot = self._free.pop(0)
            self._slots.clear(slot)
            future = self.lane.submit(task, *given, slot)
            job = Job(uuid.uuid4().hex, name, piece_id, slot, future)
            self._jobs[job.id] = job
            self._forget()
        future.add_done_callback(lambda _: self._release(slot))
        return job

    def _forget(self) -> None:
        """Drop the oldest jobs that are over; those that wait are still asked for."""
        over = [job.id for job in self._jobs.values() if job.future.done()]
        for job_id in over[: max(0, len(self._jobs) - _KEPT)]:
            del self._jobs[job_id]

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
        """Share done, 0 to 1, and the step in words.

        Within a step whose end is not known the share creeps on, ever slower.
        """
        if job.future.done():
            return 1.0, ""
        if job.state() == "waiting":
            return 0.0, "waiting"
        told, now = float(self._slots.done[job.slot]), time.monotonic()
        if told != job.told[0]:
            job.told = told, now
        crept = 1 - math.exp(-(now - job.told[1]) / _STEP_S)
        return min(0.99, told + _WITHIN_STEP * crept), self._slots.words(job.slot)

    def cancel(self, job_id: str) -> Job:
        """Call a job off; it has stopped within a second."""
        job = self.get(job_id)
        with self._lock:
            if not job.future.done():
                self._call_off(job)
        return job

    def _call_off(self, job: Job) -> None:
        job.called_off = True
        self._slots.stop[job.slot] = 1.0
        if job.future.cancel():
            return
        # A kernel hears nothing while it computes: then its process goes.
        timer = Timer(_PATIENCE_S, self.lane.end, (job.future,))
        timer.daemon = True
        timer.start()

    def close(self) -> None:
        """End the workers."""
        with self._lock:
            for job in self._jobs.values():
                if not job.future.done():
                    self._call_off(job)
        self.lane.shutdown()


async def finished(job: Job) -> dict[str, Any]:
    """What a job came to, waited for without a thread.

    Raises
    ------
    NebrelError : why it failed, or that it was called off
    """
    try:
        # Whoever else waits for the same job still does when this one goes.
        return await asyncio.shield(asyncio.wrap_future(job.future))
    except NebrelError:
        raise
    except asyncio.CancelledError:
        if job.future.cancelled():
            raise Cancelled("work", "it was called off", "Start it again") from None
        raise
    except Exception as error:
        raise job.error() or error from error
