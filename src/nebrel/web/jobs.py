"""Long work by workers: progress, calling off, and results that outlive a tab."""

from __future__ import annotations

import math
import time
import uuid
from collections import OrderedDict
from concurrent.futures import BrokenExecutor, Executor, Future
from dataclasses import dataclass, field, replace
from threading import RLock, Timer
from typing import Any, Literal

from nebrel.core.errors import Busy, Cancelled, NebrelError, NotFound, TooLarge
from nebrel.work.depot import Depot, FolderDepot
from nebrel.work.lane import Lane
from nebrel.work.run import run
from nebrel.work.tasks import Task

State = Literal["waiting", "working", "done", "failed", "cancelled"]
_KEPT = 50
_MOST_WAITING = 500
_PATIENCE_S = 0.7  # for work to stop by itself
_WITHIN_STEP = 0.12  # the most that a step whose end is not known moves the progress
_STEP_S = 12.0


@dataclass
class Job:
    """One piece of long work."""

    id: str
    name: str
    result: str
    askers: set[str]
    future: Future[dict[str, Any] | None]
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
    if isinstance(error, BrokenExecutor | MemoryError):
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

    Parameters
    ----------
    depot : the server's side of it
    lane : any executor
    seen : the depot as the workers of the lane reach it; the same when left out
    """

    def __init__(self, depot: FolderDepot, lane: Executor, seen: Depot | None = None) -> None:
        self._depot, self._seen, self.lane = depot, seen or depot, lane
        self._jobs: OrderedDict[str, Job] = OrderedDict()
        self._lock = RLock()

    def start(self, name: str, asker: str, task: Task, result: str = "") -> Job:
        """Start a job, or join the one of that name that is under way, whoever asked for it.

        Parameters
        ----------
        name : says what will come of it, so equal names are the same work
        asker : a piece, or one of several views of it: waiting or running work of the same kind
            (before the colon of its name) that nobody else wants is called off
        result : what it leaves behind

        Raises
        ------
        Busy : too much is waiting
        """
        kind = name.split(":", maxsplit=1)[0]
        with self._lock:
            joined = None
            for job in list(self._jobs.values()):
                if job.state() not in ("waiting", "working"):
                    continue
                if job.name == name:
                    joined = job
                    job.askers.add(asker)
                elif asker in job.askers and job.name.split(":")[0] == kind:
                    job.askers.discard(asker)
                    if not job.askers:
                        self._call_off(job)
            if joined is not None:
                return joined
            if sum(not job.future.done() for job in self._jobs.values()) >= _MOST_WAITING:
                raise Busy("work", "too much is waiting already", "Wait a moment and try again")
            job_id = uuid.uuid4().hex
            known = replace(task, id=job_id, watched=True)
            future = self.lane.submit(run, self._seen, known)
            job = Job(job_id, name, result, {asker}, future)
            self._jobs[job_id] = job
            self._forget()
        future.add_done_callback(lambda _: self._depot.forget(job_id))
        return job

    def _forget(self) -> None:
        """Drop the oldest jobs that are over; those that wait are still asked for."""
        over = [job.id for job in self._jobs.values() if job.future.done()]
        for job_id in over[: max(0, len(self._jobs) - _KEPT)]:
            del self._jobs[job_id]

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
        (told, words), now = self._depot.heard(job.id), time.monotonic()
        if told != job.told[0]:
            job.told = told, now
        crept = 1 - math.exp(-(now - job.told[1]) / _STEP_S)
        return min(0.99, told + _WITHIN_STEP * crept), words

    def cancel(self, job_id: str) -> Job:
        """Call a job off; it has stopped within a second."""
        job = self.get(job_id)
        with self._lock:
            if not job.future.done():
                self._call_off(job)
        return job

    def _call_off(self, job: Job) -> None:
        job.called_off = True
        if job.future.cancel():
            return
        self._depot.stop(job.id)
        if isinstance(self.lane, Lane):
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
