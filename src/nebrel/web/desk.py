"""What the routes share: the store, the drafts, the jobs and the cache of finished files."""

from __future__ import annotations

import asyncio
import json
import os
import threading
import time
import uuid
from collections.abc import AsyncIterator, Awaitable, Callable
from concurrent.futures import CancelledError, Executor, Future
from concurrent.futures.process import BrokenProcessPool
from contextlib import suppress
from contextvars import ContextVar
from dataclasses import dataclass, replace
from functools import partial, wraps
from pathlib import Path
from typing import Annotated, Any, Literal, ParamSpec, TypeVar
from urllib.parse import quote

import anyio
import anyio.to_thread
from fastapi import Depends, Header, Request

from nebrel.core.errors import Cancelled, InvalidValue, NebrelError, NotFound
from nebrel.core.recipe.models import Recipe
from nebrel.makers.adapter import Adapter, Lasting, Passing
from nebrel.makers.clerk import Clerk, Pace, patiently
from nebrel.makers.keys import Keys
from nebrel.makers.orders import OrderBook
from nebrel.makers.practice import PracticeAdapter
from nebrel.makers.practice_host import PracticeHost
from nebrel.store import Store
from nebrel.store.store import Card, CardFacts
from nebrel.web.cards import Cards
from nebrel.web.channels import Channels
from nebrel.web.jobs import Job, JobBoard, explained
from nebrel.work.depot import Depot, FolderDepot
from nebrel.work.lane import LOADED, Lane, close_all, processes
from nebrel.work.reader import WHOSE, Call, Reader
from nebrel.work.reader import begin as begin_reading
from nebrel.work.run import begin, ready, run, warm
from nebrel.work.table import TASKS
from nebrel.work.tasks import LaneName, Task

_CACHE_BYTES = 4_000_000_000
_PRUNE_EVERY_S = 60
_UNFINISHED_S = 3600
_COMPUTING = 6  # threads that read and decode; the interpreter lets few of them run at once anyway
_READING = 2  # files at once
_BRINGING = 32  # that may wait to be read; those that wait take a thread, and nothing else
_TRYING = 8  # networks that may wait, of which one is tried
_TRIED_S = 700  # of processor for each
_HEARD_EVERY_S = 0.5
_PATIENCE_S = 1.0  # until what does not hear that nobody waits for it is ended
_GLANCED_PX = 8_000_000  # a smaller picture is read as soon as its view
# How many processes, and what each keeps, bytes.
_LANES: dict[LaneName, tuple[int, int]] = {
    "draft": (1, 300_000_000),
    "view": (1, 300_000_000),
    "sight": (1, 1_000_000_000),
    "work": (2, 600_000_000),
}

_asking: ContextVar[Request | None] = ContextVar("asking", default=None)
"""The request that is being answered: what it asks is given up when its sender leaves."""

_READY: tuple[LaneName, ...] = ("view", "sight")

Called = ParamSpec("Called")
Answer = TypeVar("Answer")


@dataclass(frozen=True)
class Elsewhere:
    """Long work is done by an executor of somebody's own.

    Attributes
    ----------
    executor : any of `concurrent.futures`
    depot : as its workers reach it
    """

    executor: Executor
    depot: Depot


class Desk:
    """One per application."""

    def __init__(self, store: Store, elsewhere: Elsewhere | None = None) -> None:
        self.store = store
        self.computing = anyio.CapacityLimiter(_COMPUTING)
        self.bringing = anyio.CapacityLimiter(_BRINGING)
        self.trying = anyio.CapacityLimiter(_TRYING)
        self._pruned = time.monotonic()
        self._depot = FolderDepot(store.folder)
        self._depot.open()
        # All that computes does so in processes: it would hold up all that is asked here.
        context = processes(*LOADED)
        self._lanes = {
            name: Lane(count, context, begin, (kept, name == "work"))
            for name, (count, kept) in _LANES.items()
        }
        # And what is brought is read in others, within limits.
        self._reading = Lane(_READING, context, begin_reading, ())
        self._trying = Lane(1, context, begin_reading, ())
        store.reads, store.tries = Reader(self._reading), Reader(self._trying, _TRIED_S)
        if elsewhere is None:
            self.jobs = JobBoard(self._depot, self._lanes["work"])
        else:
            self.jobs = JobBoard(self._depot, elsewhere.executor, elsewhere.depot)
        self.cards = Cards(store, self._lanes["work"].behind(1), self._depot)
        self._channels = Channels(self._depot.stop)
        self._practice = PracticeHost(store.folder / "practice")
        book = OrderBook(store.sessions, store.folder)
        self.makers = Clerk(book, Keys(store.folder), self._reach, Pace(), store.reads)
        self.prune()
        for card in self.shelf():
            self.card_pending(card)

    def shelf(self, query: str = "") -> list[Card]:
        """All pieces as the shelf shows them; only what changed since is looked at."""
        found = self.store.pieces(query)
        fresh: dict[str, CardFacts] = {}
        for number, card in enumerate(found):
            if card.facts is None and not card.trouble:
                with suppress(NebrelError):  # deleted, or changed for the worse, meanwhile
                    piece = self.store.piece(card.id)
                    fresh[card.id] = self.cards.facts(card.of, piece)
                    found[number] = replace(card, facts=fresh[card.id])
        if fresh:
            self.store.keep_cards(fresh)
        return found

    def card_pending(self, card: Card) -> bool:
        """Whether the card of a piece is still being made; has it made when it is not there."""
        return card.facts is not None and not card.trouble and self.cards.want(card.id, card.facts)

    def close(self) -> None:
        """End the workers and let go of the database."""
        self.makers.close()
        self._practice.close()
        self.cards.close()
        self.jobs.close()
        close_all([*self._lanes.values(), self._reading, self._trying])
        self.store.close()

    def _reach(self, service: str, key: str) -> Adapter:
        # A true service has an adapter of its own here.
        assert service == "practice"
        return PracticeAdapter(self._practice.address(), key)

    def practice_key(self) -> str:
        """A key that the practice service gives away. Raises InvalidValue."""
        try:
            return patiently(PracticeAdapter(self._practice.address(), "").fresh_key)
        except (Passing, Lasting) as error:
            raise InvalidValue("practice service", error.why, "Try again in a while") from error

    def warm(self) -> None:
        """Have what answers while somebody works ready before it is waited for."""

        def begin() -> None:
            with suppress(RuntimeError, CancelledError, BrokenProcessPool):  # closed meanwhile
                self._lanes["draft"].submit(warm)
                begun = [self._reading.submit(ready)]
                # These need nothing that is compiled, which takes a while the first time.
                begun += [self._lanes[name].submit(ready) for name in _READY]
                for one in begun:
                    one.result()
                # What tells results apart is here too, once nobody waits for the first picture.
                import nebrel.core.products.table  # noqa: F401

        # Processes begin when what they need is loaded: nobody waits for that here.
        threading.Thread(target=begin, daemon=True, name="makes ready").start()

    def lane(self, name: LaneName) -> Lane:
        """Where tasks are done."""
        return self._lanes[name]

    async def ask(self, name: str, question: str | None = None, **given: Any) -> Any:
        """What a task answers.

        Parameters
        ----------
        name : a line of TASKS
        question : given up when a newer one of that name comes
        given : what the task takes

        Raises
        ------
        NebrelError : what it refuses, or why its process ended; Superseded; Cancelled when
            whoever asked has left
        """
        plain = {
            key: value.model_dump(mode="json") if isinstance(value, Recipe) else value
            for key, value in given.items()
        }
        lane = self._lanes[TASKS[name].lane]

        async def work(task_id: str) -> Any:
            task_id = task_id or uuid.uuid4().hex
            future = lane.submit(run, self._depot, Task(name, plain, task_id))
            future.add_done_callback(lambda _: self._depot.forget(task_id))
            try:
                return await _while_wanted(future)
            except Cancelled:
                raise
            except Exception as error:
                raise explained(error) from error
            finally:
                if not future.done():
                    self._give_up(lane, future, task_id)

        return await self._channels.ask(question, work)

    def _give_up(self, lane: Lane, future: Future[Any], task_id: str) -> None:
        if future.cancel():
            return
        self._depot.stop(task_id)
        timer = threading.Timer(_PATIENCE_S, lane.end, (future,))
        timer.daemon = True
        timer.start()

    def start(
        self, piece_id: str, recipe: Recipe, name: str, asker: str | None = None
    ) -> tuple[str, Job | None]:
        """Have a product made: its file among the results, and the work, if it takes any.

        Parameters
        ----------
        name : as `product_of`
        asker : one of several that look at the piece; each has one of a kind made at a time

        Raises
        ------
        NotFound : nothing is called so
        """
        from nebrel.core.products.table import product_of

        made = product_of(name)
        called = self.store.state(piece_id)[1] if made.named else ""
        key = made.key(recipe, called)
        result = f"{key}{made.ending}"
        if _use(self.store.cache / result):
            return result, None
        given = {"recipe": recipe.model_dump(mode="json"), "name": name, "key": key}
        if called:
            given["called"] = called
        task = Task("product", given)
        return result, self.jobs.start(f"{name}:{key}", asker or piece_id, task, result)

    def result(self, name: str) -> Path:
        """Where a result lies. Raises NotFound."""
        path = self.store.cache / name
        if not _use(path):
            raise NotFound("result", "it is not kept (any more)", "Have it made again")
        return path

    def figures(self, result: str) -> dict[str, Any] | None:
        """What was said of a result when it was made."""
        try:
            found: dict[str, Any] = json.loads(
                (self.store.cache / f"{result.partition('.')[0]}.json").read_bytes()
            )
        except (OSError, ValueError):
            return None
        return found

    async def report(self, recipe: Recipe) -> AsyncIterator[tuple[dict[str, Any], bool]]:
        """What of the corrected picture will not print as meant, and whether it was seen early."""
        for finding in await self._glance(recipe):
            yield finding, True
        number = 0
        while (found := await self.ask("finding", recipe=recipe, number=number)) is not None:
            yield found, False
            number += 1

    async def _glance(self, recipe: Recipe) -> list[dict[str, Any]]:
        info = self.store.picture_info(recipe.pictured.file.sha256)
        if recipe.figure is not None or info.rows * info.cols < _GLANCED_PX:
            return []
        view = await anyio.to_thread.run_sync(self.store.picture_view, info.sha256)
        found: list[dict[str, Any]] = await self.ask(
            "glance", recipe=recipe, view=view.name, rows=info.rows, cols=info.cols
        )
        return found

    async def prune_soon(self) -> None:
        """Look after the weight of the cache, at most once a minute."""
        if time.monotonic() - self._pruned > _PRUNE_EVERY_S:
            self._pruned = time.monotonic()
            await anyio.to_thread.run_sync(self.prune)

    def prune(self) -> None:
        """Drop the finished files used least lately when the cache has grown too heavy."""
        found = []
        for file in self.store.cache.iterdir():
            try:
                found.append((file, file.stat()))
            except OSError:
                continue  # gone, or renamed, since it was listed
        weight = 0
        for file, known in sorted(found, key=lambda f: f[1].st_mtime, reverse=True):
            if file.suffix == ".part":  # of work that was ended, or of work under way
                stale = time.time() - known.st_mtime > _UNFINISHED_S
            else:
                weight += known.st_size
                stale = weight > _CACHE_BYTES
            if stale and not file.is_dir():
                file.unlink(missing_ok=True)


async def _while_wanted(future: Future[Answer]) -> Answer:
    """What comes of work, for as long as whoever asks for it is there. Raises Cancelled."""
    request = _asking.get()
    answer = asyncio.wrap_future(future)
    if request is None:
        return await answer
    gone = asyncio.ensure_future(_gone(request))
    try:
        waited: set[asyncio.Future[Any]] = {answer, gone}
        await asyncio.wait(waited, return_when=asyncio.FIRST_COMPLETED)
    finally:
        gone.cancel()
    if not answer.done():
        # What it comes to by then, or fails with, is nobody's any more.
        answer.add_done_callback(lambda done: done.cancelled() or done.exception())
        raise Cancelled("question", "nobody waits for its answer any more", "Ask again")
    return await answer


async def _gone(request: Request) -> None:
    while (await request.receive())["type"] != "http.disconnect":
        pass


def _use(path: Path) -> bool:
    """Whether a finished file is there; it counts as used now."""
    try:
        os.utime(path)
    except OSError:
        return False
    return True


def file_name(name: str) -> str:
    """A name that any file system takes."""
    kept = (c if c.isprintable() and c not in '<>:"/\\|?*' else "-" for c in name)
    return "".join(kept).strip(". ") or "piece"


def attachment(name: str) -> dict[str, str]:
    """The header that has a browser save an answer under a name."""
    whole = file_name(name)
    plain = whole.encode("ascii", "replace").decode().replace("?", "-")
    header = f'attachment; filename="{plain}"'
    if plain != whole:  # RFC 6266: all of its letters, for browsers that know this form
        header += f"; filename*=UTF-8''{quote(whole, safe='')}"
    return {"Content-Disposition": header}


def heavy(route: Callable[Called, Answer]) -> Callable[Called, Awaitable[Answer]]:
    """Run a route that reads and decodes in one of a few threads of its own.

    However many wait there, the threads that answer quick questions stay free. The route
    has to take its desk as `desk`.
    """

    @wraps(route)
    async def run(*given: Called.args, **named: Called.kwargs) -> Answer:
        desk = named["desk"]
        assert isinstance(desk, Desk)
        work = partial(route, *given, **named)
        return await anyio.to_thread.run_sync(work, limiter=desk.computing)

    return run


def bringing(route: Callable[Called, Answer]) -> Callable[Called, Awaitable[Answer]]:
    """The same for a route that has a file read elsewhere, and is given up with who asked.

    The route has to take its desk as `desk`, and the request as `request`.
    """
    return _waiting(route, "bringing")


def trying(route: Callable[Called, Answer]) -> Callable[Called, Awaitable[Answer]]:
    """The same for what takes minutes, of which one is done at a time."""
    return _waiting(route, "trying")


def _waiting(
    route: Callable[Called, Answer], where: Literal["bringing", "trying"]
) -> Callable[Called, Awaitable[Answer]]:
    @wraps(route)
    async def run(*given: Called.args, **named: Called.kwargs) -> Answer:
        desk, request = named["desk"], named["request"]
        assert isinstance(desk, Desk) and isinstance(request, Request)
        call = Call()

        async def listen() -> None:
            while not await request.is_disconnected():
                await anyio.sleep(_HEARD_EVERY_S)
            call.off()

        def work() -> Answer:
            WHOSE.set(call)  # of a copy of the context, for this thread alone
            return route(*given, **named)

        heard = asyncio.ensure_future(listen())
        try:
            limiter: anyio.CapacityLimiter = getattr(desk, where)
            return await anyio.to_thread.run_sync(work, limiter=limiter)
        finally:
            heard.cancel()

    return run


async def _desk(request: Request) -> Desk:
    _asking.set(request)
    desk: Desk = request.app.state.desk
    return desk


OnDesk = Annotated[Desk, Depends(_desk)]
Question = Annotated[str | None, Header(alias="X-Nebrel-Question", max_length=80)]
"""The window and the kind of question, where only the newest one counts."""
