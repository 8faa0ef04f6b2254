"""A depot over HTTP, for workers that do not see the data folder."""

from __future__ import annotations

import json
import shutil
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from http.client import HTTPException, HTTPResponse
from pathlib import Path
from urllib.error import HTTPError, URLError
from urllib.parse import quote
from urllib.request import Request, urlopen

import platformdirs

from nebrel.core.errors import Cancelled, NotFound, StorageFailed
from nebrel.core.formats.files import writing
from nebrel.work.depot import Kind, named

_PATIENCE_S = 60.0
_ASK_EVERY_S = 0.3  # whether to stop


@dataclass(frozen=True)
class HttpDepot:
    """The depot of a server at `url`.

    Attributes
    ----------
    url : of its door for workers
    token : what lets them in
    """

    url: str
    token: str = field(repr=False)
    _asked: dict[str, float] = field(default_factory=dict, compare=False, repr=False)

    def load(self, kind: Kind, name: str) -> Path:
        """As Depot; a picture is fetched once, a result whenever it is asked for."""
        path = self._room() / f"{kind}-{named(kind, name)}"
        if kind == "picture" and path.is_file():
            return path
        with self._ask("GET", f"files/{kind}/{name}") as answer, writing(path, kind) as file:
            shutil.copyfileobj(answer, file, 1 << 20)
        return path

    @contextmanager
    def put(self, name: str) -> Iterator[Path]:
        """As Depot."""
        path = self._room() / f"made-{named('result', name)}"
        try:
            yield path
            with path.open("rb") as file:
                size = str(path.stat().st_size)
                self._ask("PUT", f"results/{name}", file, {"Content-Length": size}).close()
        finally:
            path.unlink(missing_ok=True)

    def tell(self, job: str, done: float, words: str) -> None:
        """As Depot."""
        now = time.monotonic()
        if not words and now < self._asked.get(job, 0) + _ASK_EVERY_S:
            return
        self._asked.clear()
        self._asked[job] = now
        said = json.dumps({"done": done, "words": words}).encode()
        json_sent = {"Content-Type": "application/json"}
        with self._ask("POST", f"jobs/{job}", said, json_sent) as answer:
            if json.load(answer)["stop"]:
                raise Cancelled("work", "it was called off", "Start it again")

    def _room(self) -> Path:
        """A folder of this machine for the files of that server."""
        kept = "".join(c if c.isalnum() else "-" for c in self.url)
        room = Path(platformdirs.user_cache_dir("nebrel", appauthor=False)) / "workers" / kept
        room.mkdir(mode=0o700, parents=True, exist_ok=True)
        return room

    def _ask(
        self, method: str, path: str, body: object = None, headers: dict[str, str] | None = None
    ) -> HTTPResponse:
        request = Request(f"{self.url}/{quote(path)}", method=method, data=body)  # type: ignore[arg-type]
        for key, value in {"Authorization": f"Bearer {self.token}", **(headers or {})}.items():
            request.add_header(key, value)
        why = ""
        try:
            answer: HTTPResponse = urlopen(request, timeout=_PATIENCE_S)
        except HTTPError as error:
            with suppress(OSError, ValueError, KeyError), error:
                why = json.load(error)["error"]["why"]
            if error.code == 404:
                raise NotFound("file", "the server does not have it", "Bring it again") from error
            raise self._failed(f"it answers {error.code}: {why}") from error
        except (URLError, HTTPException, OSError) as error:
            raise self._failed(str(getattr(error, "reason", error)).lower()) from error
        return answer

    def _failed(self, why: str) -> StorageFailed:
        return StorageFailed("server", f"the worker does not reach it ({why})", "Start it again")
