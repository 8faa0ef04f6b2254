"""The jobs of the practice service: a queue, credits, and a failure now and then."""

from __future__ import annotations

import hashlib
import json
import threading
import time
import uuid
from collections.abc import Callable
from dataclasses import asdict, dataclass, field
from pathlib import Path
from typing import Any, Literal

State = Literal["queued", "working", "done", "failed", "cancelled"]

PRICE = 5  # credits for each job
BEGIN_WITH = 50  # credits of a fresh key
_FAILS_EVERY = 3  # of the jobs: the first, the fourth, and so on
_MOST_WAITING = 20
_STEPS = 20  # in which waiting passes
FAILURES = ("The subject could not be told from what is around it", "The machine ran out of memory")


class Turned(Exception):
    """A request that is not done.

    Attributes
    ----------
    status : of HTTP
    """

    def __init__(self, status: int, why: str) -> None:
        super().__init__(why)
        self.status, self.why = status, why


@dataclass
class Job:
    """What somebody asked for.

    Attributes
    ----------
    key : whose it is
    once : what its sender calls it: asked for again, it is the same
    share : of it that is done, 0 to 1
    paid : credits
    """

    id: str
    key: str
    once: str
    number: int
    state: State = "queued"
    share: float = 0.0
    paid: int = PRICE
    failure: str = ""
    made: float = field(default_factory=time.time)


class Jobs:
    """All jobs of one folder; those that were not done go on when it is opened again.

    Parameters
    ----------
    folder : where pictures, models and what is known of them are kept
    make : a picture file to a model file; raises what it refuses, in words
    wait_s : how long each job waits in the queue, and again while it is worked on
    """

    def __init__(self, folder: Path, make: Callable[[bytes], bytes], wait_s: float = 3.0) -> None:
        folder.mkdir(parents=True, exist_ok=True)
        self._folder, self._make, self._wait_s = folder, make, wait_s
        self._lock = threading.RLock()
        self._more = threading.Condition(self._lock)
        self._stopped = False
        self._jobs: dict[str, Job] = {}
        self._credits: dict[str, int] = {}
        self._read()
        self._worker = threading.Thread(target=self._work, daemon=True)
        self._worker.start()

    def close(self) -> None:
        """Let go of what is under way; it is begun anew when it is opened again."""
        with self._more:
            self._stopped = True
            self._more.notify_all()
        self._worker.join(timeout=5)

    # Asked by its users

    def fresh_key(self) -> str:
        """A key with some credits."""
        with self._lock:
            key = f"practice-{uuid.uuid4().hex[:20]}"
            self._credits[key] = BEGIN_WITH
            self._keep()
            return key

    def credits(self, key: str) -> int:
        """What is left. Raises Turned."""
        with self._lock:
            if key not in self._credits:
                raise Turned(401, "This key is not known here")
            return self._credits[key]

    def add(self, key: str, once: str, picture: bytes) -> tuple[Job, bool]:
        """A job, and whether it is new: asked for twice under one name it is paid once."""
        with self._more:
            left = self.credits(key)
            same = [job for job in self._jobs.values() if (job.key, job.once) == (key, once)]
            if same:
                return same[0], False
            if left < PRICE:
                raise Turned(402, f"{left} credits are left, and a model takes {PRICE}")
            waiting = sum(job.state == "queued" for job in self._jobs.values())
            if waiting >= _MOST_WAITING:
                raise Turned(429, f"{waiting} jobs wait already")
            job = Job(uuid.uuid4().hex, key, once, len(self._jobs))
            self._path(job, "picture").write_bytes(picture)
            self._credits[key] -= PRICE
            self._jobs[job.id] = job
            self._keep()
            self._more.notify_all()
            return job, True

    def look(self, key: str, job_id: str) -> dict[str, Any]:
        """How a job stands. Raises Turned."""
        with self._lock:
            job = self._of(key, job_id)
            ahead = [one for one in self._jobs.values() if one.state == "queued"]
            place = sum(one.number < job.number for one in ahead) + 1
            return {
                "id": job.id,
                "state": job.state,
                "place": place if job.state == "queued" else None,
                "share": round(job.share, 3),
                "paid": job.paid,
                "failure": job.failure,
            }

    def model(self, key: str, job_id: str) -> bytes:
        """What came of it. Raises Turned."""
        with self._lock:
            job = self._of(key, job_id)
            if job.state != "done":
                raise Turned(409, f"It is {job.state}")
            return self._path(job, "model").read_bytes()

    def cancel(self, key: str, job_id: str) -> None:
        """Give a job up; what was not begun is paid back. Raises Turned."""
        with self._lock:
            job = self._of(key, job_id)
            if job.state == "queued":
                self._end(job, "cancelled", back=True)
            elif job.state == "working":
                self._end(job, "cancelled", back=False)

    # What it does by itself

    def _of(self, key: str, job_id: str) -> Job:
        self.credits(key)
        job = self._jobs.get(job_id)
        if job is None or job.key != key:
            raise Turned(404, "There is no such job")
        return job

    def _end(self, job: Job, state: State, back: bool = False, failure: str = "") -> None:
        if back and job.paid:
            self._credits[job.key] += job.paid
            job.paid = 0
        job.state, job.failure = state, failure
        self._path(job, "picture").unlink(missing_ok=True)
        self._keep()

    def _work(self) -> None:
        while True:
            with self._more:
                waiting = [job for job in self._jobs.values() if job.state == "queued"]
                if self._stopped:
                    return
                if not waiting:
                    self._more.wait()
                    continue
            job = waiting[0]
            if not self._passes(job, "queued"):
                continue
            with self._lock:
                job.state = "working"
                self._keep()
            fails = job.number % _FAILS_EVERY == 0
            if not self._passes(job, "working", until=0.5 if fails else 1.0):
                continue
            if fails:
                with self._lock:
                    why = FAILURES[job.number // _FAILS_EVERY % len(FAILURES)]
                    self._end(job, "failed", back=True, failure=why)
                continue
            self._finish(job)

    def _passes(self, job: Job, state: State, until: float = 1.0) -> bool:
        """Let some time pass; whether the job is still as it was."""
        for step in range(round(_STEPS * until)):
            with self._more:
                if self._stopped or job.state != state:
                    return False
                if state == "working":
                    job.share = 0.8 * step / _STEPS
                self._more.wait(self._wait_s / _STEPS)
        return job.state == state and not self._stopped

    def _finish(self, job: Job) -> None:
        try:
            made = self._make(self._path(job, "picture").read_bytes())
        except Exception as error:
            with self._lock:
                if job.state == "working":
                    self._end(
                        job, "failed", back=True, failure=str(error) or "It could not be made"
                    )
            return
        with self._lock:
            if job.state == "working":
                self._path(job, "model").write_bytes(made)
                job.share = 1.0
                self._end(job, "done")

    def _path(self, job: Job, what: str) -> Path:
        return self._folder / f"{job.id}.{what}"

    def _keep(self) -> None:
        kept = {
            "jobs": [asdict(job) for job in self._jobs.values()],
            "credits": self._credits,
        }
        part = self._folder / "jobs.part"
        part.write_text(json.dumps(kept))
        part.replace(self._folder / "jobs.json")

    def _read(self) -> None:
        try:
            kept = json.loads((self._folder / "jobs.json").read_text())
            self._jobs = {one["id"]: Job(**one) for one in kept["jobs"]}
            self._credits = dict(kept["credits"])
        except (OSError, ValueError, KeyError, TypeError):
            return  # a fresh folder, or a damaged one: it is practice
        for job in self._jobs.values():
            if job.state == "working":
                job.state, job.share = "queued", 0.0


def checksum(model: bytes) -> str:
    """SHA-256, as it is told beside a model."""
    return hashlib.sha256(model).hexdigest()
