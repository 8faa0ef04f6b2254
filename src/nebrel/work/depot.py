"""All that a worker knows of the world: files come from here, results and progress go there."""

from __future__ import annotations

import json
import os
import re
from collections.abc import Iterator
from contextlib import AbstractContextManager, contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Literal, Protocol

from nebrel.core.errors import Cancelled, NotFound
from nebrel.core.formats.files import addressed, is_sha256

Kind = Literal["picture", "result"]
RESULT = r"^(view-)?[0-9a-f]{64}(\.[a-z0-9]{1,12}){0,3}$"
"""What a result may be called: its key, and its ending."""


def named(kind: Kind, name: str) -> str:
    """A name that lies in its folder, and nowhere else. Raises NotFound: it is none."""
    if is_sha256(name) if kind == "picture" else re.fullmatch(RESULT, name):
        return name
    raise NotFound(kind, f"nothing is kept as “{name[:80]}”", "Have it made or bring it again")


class Depot(Protocol):
    """The side of the workers. It can be hashed and pickled, so any executor takes it along."""

    def load(self, kind: Kind, name: str) -> Path:
        """Where a file lies that may be read here.

        Parameters
        ----------
        name : the SHA-256 of a picture; the key and ending of a result

        Raises
        ------
        NotFound : there is none
        """

    def put(self, name: str) -> AbstractContextManager[Path]:
        """Where a result is to be written, whole or not at all.

        Raises
        ------
        StorageFailed : it cannot be kept
        """

    def tell(self, job: str, done: float, words: str) -> None:
        """Say how far a job is; without words only the wish to stop is looked for.

        Raises
        ------
        Cancelled : it was called off
        """


@dataclass(frozen=True)
class FolderDepot:
    """A data folder that server and workers both see."""

    folder: Path

    def load(self, kind: Kind, name: str) -> Path:
        """As Depot."""
        cache = self.folder / "cache" / named(kind, name)
        path = addressed(self.folder / "pictures", name) if kind == "picture" else cache
        if not path.is_file():
            raise NotFound(kind, "it is not kept (any more)", "Have it made or bring it again")
        return path

    @contextmanager
    def put(self, name: str) -> Iterator[Path]:
        """As Depot."""
        yield self.folder / "cache" / named("result", name)

    def tell(self, job: str, done: float, words: str) -> None:
        """As Depot."""
        if self._file(job, "stop").exists():
            raise Cancelled("work", "it was called off", "Start it again")
        if words:
            beside = self._file(job, "part")
            with suppress(OSError):  # a full disk ends no work that needs no room
                beside.write_text(json.dumps([done, words]), "utf-8")
                beside.replace(self._file(job, "json"))

    def heard(self, job: str) -> tuple[float, str]:
        """Server: share done and step of a job, as told last."""
        try:
            done, words = json.loads(self._file(job, "json").read_text("utf-8"))
            return float(done), str(words)
        except (OSError, ValueError):
            return 0.0, ""

    def stop(self, job: str) -> None:
        """Server: have a job end where it next tells something."""
        with suppress(OSError):
            self._file(job, "stop").touch()

    def forget(self, job: str) -> None:
        """Server: drop what was said of a job that is over."""
        for ending in ("json", "stop", "part"):
            self._file(job, ending).unlink(missing_ok=True)

    def open(self) -> None:
        """Server: make it ready; what an earlier server left of its jobs goes."""
        jobs = self.folder / "jobs"
        for folder in (jobs, self.folder / "cache"):
            folder.mkdir(parents=True, exist_ok=True)
        for entry in os.scandir(jobs):
            if entry.is_file():
                Path(entry.path).unlink(missing_ok=True)

    def _file(self, job: str, ending: str) -> Path:
        return self.folder / "jobs" / f"{job}.{ending}"
