"""Tasks done in a process of a lane, each by its line in the table."""

from __future__ import annotations

import os
import time
from contextlib import suppress
from dataclasses import dataclass, field
from threading import Lock
from typing import Any

from nebrel.core.links.runner import Progress
from nebrel.work.depot import Depot
from nebrel.work.table import TASKS
from nebrel.work.tasks import Task

_BEHIND = 4  # not further: on a machine that is busy besides it would hardly come up
_TELL_EVERY_S = 0.1


@dataclass
class _Process:
    kept_bytes: int = 600_000_000
    workers: dict[Depot, Any] = field(default_factory=dict)
    lock: Lock = field(default_factory=Lock)


_here = _Process()


def begin(kept_bytes: int, behind: bool) -> None:
    """First in a process of a lane.

    Parameters
    ----------
    kept_bytes : how much its results may weigh
    behind : whether what is moved under somebody's hand comes before it
    """
    _here.kept_bytes = kept_bytes
    if behind:
        with suppress(OSError, AttributeError):
            os.nice(_BEHIND)


def run(depot: Depot, task: Task) -> Any:
    """Do a task.

    Raises
    ------
    NebrelError : whatever it refuses; Cancelled when it was stopped
    """
    from nebrel.work.worker import Worker

    with _here.lock:
        worker = _here.workers.setdefault(depot, Worker(depot, _here.kept_bytes))
    given = task.given
    if "recipe" in given:
        given = given | {"recipe": worker.read(given["recipe"])}
    return TASKS[task.name].do(worker, _teller(depot, task), **given)


def _teller(depot: Depot, task: Task) -> Progress:
    if not task.id:
        return lambda _done, _words: None
    told, when = "", 0.0

    def tell(done: float, words: str) -> None:
        nonlocal told, when
        now = time.monotonic()
        news = task.watched and (words != told or now > when + _TELL_EVERY_S)
        if news:
            told, when = words, now
        depot.tell(task.id, done, words if news else "")

    return tell


def ready() -> None:
    """Load what every task needs before somebody waits for it."""
    import nebrel.work.worker  # noqa: F401

    for kind in TASKS.values():
        _ = kind.do


def warm() -> None:
    """Load, and compile where it was not yet, all that makes solids."""
    ready()
    import manifold3d  # noqa: F401
    import pydelatin  # noqa: F401

    import nebrel.core.mesh.compiled  # noqa: F401
    from nebrel.core.outline import fit_curves
    from nebrel.core.solid import triangulate

    triangulate.warm()
    fit_curves.warm()
