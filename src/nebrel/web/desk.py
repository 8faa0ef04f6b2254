"""What the routes share: the store, the drafts, the jobs and the cache of finished files."""

from __future__ import annotations

import asyncio
import multiprocessing
import os
import time
from collections import OrderedDict
from collections.abc import Awaitable, Callable, Iterator
from contextlib import suppress
from dataclasses import replace
from functools import partial, wraps
from pathlib import Path
from threading import Thread
from typing import Annotated, Any, Literal, ParamSpec, TypeVar
from urllib.parse import quote

import anyio
import anyio.to_thread
from fastapi import Depends, Header, Request
from starlette.concurrency import run_in_threadpool

from nebrel.core.errors import NebrelError, NotFound
from nebrel.core.formats.png import encode_png
from nebrel.core.heights.relief import Relief
from nebrel.core.picture.decode import decode
from nebrel.core.picture.report import Finding
from nebrel.core.products import PRODUCTS
from nebrel.core.recipe.evaluation import Corrected
from nebrel.core.recipe.evaluator import Evaluator, recipe_key
from nebrel.core.recipe.judge import glance, judge_each, printing_of
from nebrel.core.recipe.models import Recipe
from nebrel.store import Store
from nebrel.store.store import Card, CardFacts
from nebrel.web import work
from nebrel.web.cards import Cards
from nebrel.web.channels import Channels
from nebrel.web.jobs import Job, JobBoard, explained, finished
from nebrel.web.lane import Lane
from nebrel.web.schemas import Figures

_CACHE_BYTES = 4_000_000_000
_KEPT_BYTES = 1_300_000_000
_PRUNE_EVERY_S = 60
_UNFINISHED_S = 3600
_COMPUTING = 6  # threads that compute; the interpreter lets few of them run at once anyway
_KEPT_REPORTS = 6
_GLANCED_PX = 8_000_000  # a smaller picture is read as soon as its view

Called = ParamSpec("Called")
Answer = TypeVar("Answer")


class Desk:
    """One per application."""

    def __init__(self, store: Store) -> None:
        self.store = store
        self.computing = anyio.CapacityLimiter(_COMPUTING)
        self._pruned = time.monotonic()
        self.jobs = JobBoard(store.folder)
        # Solids are made in processes: their kernel would hold up all that is asked here.
        context = multiprocessing.get_context("spawn")
        self.moving = Lane(1, context, work.start, (store.folder, None))
        self.originals = Evaluator(store.load_picture, cache_bytes=_KEPT_BYTES)
        # Asked apart, so that the picture follows while all of it is worked on; what they keep is
        # shared, and a picture is decoded once.
        self.screens = Evaluator(store.load_picture, runner=self.originals.runner)
        self.cards = Cards(store, self.jobs.lane)
        self._channels = Channels()
        self._reports: OrderedDict[str, list[Finding]] = OrderedDict()
        self.prune()
        Thread(target=work.warm, daemon=True).start()
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
        self.cards.close()
        self.jobs.close()
        self.moving.shutdown()
        self.store.close()

    def warm(self) -> None:
        """Have what answers while something is moved ready before somebody waits for it."""
        self.moving.submit(work.warm)

    async def ask(self, task: Callable[..., Answer], *given: Any) -> Answer:
        """What a task of `nebrel.web.work` answers, from the process for what is moved.

        Raises
        ------
        NebrelError : what it refuses, or why the process ended
        """
        try:
            answer: Answer = await asyncio.wrap_future(self.moving.submit(task, *given))
        except asyncio.CancelledError:
            raise
        except Exception as error:
            raise explained(error) from error
        return answer

    async def draft_glb(self, recipe: Recipe) -> tuple[str, bytes]:
        """Key and GLB of a recipe at draft quality."""
        return await self.ask(work.preview, recipe.model_dump(mode="json"))

    def start_full(self, piece_id: str, recipe: Recipe) -> Job:
        """Have a recipe made at full quality."""
        key = self.originals.key_of(recipe, "full")
        return self.jobs.start(
            f"full:{key}", piece_id, work.make_full, recipe.model_dump(mode="json")
        )

    def full_path(self, recipe: Recipe) -> Path:
        """Where the full-quality GLB of a recipe lies once it is made."""
        return self.store.cache / f"{self.originals.key_of(recipe, 'full')}.glb"

    def mesh_path(self, key: str) -> Path:
        """Where the full-quality GLB of a key lies. Raises NotFound."""
        path = self.store.cache / f"{key}.glb"
        if not _use(path):
            raise NotFound("mesh", "it is not kept (any more)", "Have it made again")
        return path

    async def full_glb(self, piece_id: str, recipe: Recipe) -> Path:
        """The same, made first when it is not there."""
        path = self.full_path(recipe)
        if not _use(path):
            await finished(self.start_full(piece_id, recipe))
            await self.prune_soon()
        return path

    def full_figures(self, recipe: Recipe) -> Figures | None:
        """Figures at full quality, when they are known."""
        path = self.full_path(recipe).with_suffix(".json")
        return Figures.model_validate_json(path.read_bytes()) if path.exists() else None

    async def product(self, piece_id: str, recipe: Recipe, name: str) -> Path:
        """A product of a recipe as a file, made first when it is not there.

        Parameters
        ----------
        name : of PRODUCTS
        """
        whole = name == "piece.stl"
        key = self.originals.key_of(recipe, "full") if whole else recipe_key(recipe, name)
        path = self.store.cache / f"{key}{PRODUCTS[name].ending}"
        if not _use(path):
            document = recipe.model_dump(mode="json")
            job = self.jobs.start(f"{name}:{key}", piece_id, work.export, document, name, key)
            await finished(job)
            await self.prune_soon()
        return path

    def corrected(
        self, recipe: Recipe, quality: Literal["screen", "full"], upto: int | None = None
    ) -> Corrected:
        """The picture of a recipe after its corrections."""
        evaluator = self.screens if quality == "screen" else self.originals
        return evaluator.correct(recipe, quality, upto)

    def relief(self, recipe: Recipe, question: str | None) -> Relief:
        """Heights at full resolution; given up when a newer question of that name comes.

        Raises
        ------
        NebrelError : whatever a step refuses; Superseded
        """
        return self._channels.ask(question, lambda tell: self.originals.relief(recipe, tell))

    def glance(self, recipe: Recipe) -> list[Finding]:
        """What a small view of the picture shows of it, where the picture itself takes a while."""
        step = recipe.begins.art.pictured
        info = self.store.picture_info(step.file.sha256)
        known = self._report_key(recipe) in self._reports
        if known or info.rows * info.cols < _GLANCED_PX or self.originals.has_original(recipe):
            return []
        view = decode(self.store.picture_view(info.sha256), info.filename)
        load = self.store.load_picture
        return list(glance(view, info.rows, info.cols, step, printing_of(recipe), load))

    def report_each(self, recipe: Recipe) -> Iterator[Finding]:
        """What of the corrected picture will not print as meant; the whole is kept for a while."""
        key = self._report_key(recipe)
        known = self._reports.get(key)
        if known is not None:
            yield from known
            return
        found = []
        work = self.originals.correct(recipe, "full").work
        picture = self.originals.original(recipe)
        tone = picture.tone if picture.pixels is work.pixels else None
        for finding in judge_each(work, printing_of(recipe), tone):
            found.append(finding)
            yield finding
        self._reports[key] = found
        while len(self._reports) > _KEPT_REPORTS:
            self._reports.popitem(last=False)

    def _report_key(self, recipe: Recipe) -> str:
        picture = recipe.begins.art.pictured
        corrected = self.originals.picture_key(recipe)
        return f"{corrected}:{picture.along}:{picture.side.mm}:{printing_of(recipe)}"

    def corrected_png(self, recipe: Recipe) -> bytes:
        """The corrected picture as a 16-bit PNG with its resolution."""
        work = self.originals.correct(recipe, "full").work
        return encode_png(work.tone, work.alpha, 25.4 / work.pitch_mm)

    async def prune_soon(self) -> None:
        """Look after the weight of the cache, at most once a minute."""
        if time.monotonic() - self._pruned > _PRUNE_EVERY_S:
            self._pruned = time.monotonic()
            await run_in_threadpool(self.prune)

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


def _use(path: Path) -> bool:
    """Whether a finished file is there; it counts as used now."""
    try:
        os.utime(path)
    except OSError:
        return False
    return True


def file_name(name: str) -> str:
    """A name that any file system takes."""
    return "".join("-" if c in '<>:"/\\|?*' else c for c in name).strip(". ") or "piece"


def attachment(name: str) -> dict[str, str]:
    """The header that has a browser save an answer under a name."""
    whole = file_name(name)
    plain = whole.encode("ascii", "replace").decode().replace("?", "-")
    header = f'attachment; filename="{plain}"'
    if plain != whole:  # RFC 6266: all of its letters, for browsers that know this form
        header += f"; filename*=UTF-8''{quote(whole, safe='')}"
    return {"Content-Disposition": header}


def heavy(route: Callable[Called, Answer]) -> Callable[Called, Awaitable[Answer]]:
    """Run a route that computes in one of a few threads of its own.

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


def _desk(request: Request) -> Desk:
    desk: Desk = request.app.state.desk
    return desk


OnDesk = Annotated[Desk, Depends(_desk)]
Question = Annotated[str | None, Header(alias="X-Nebrel-Question", max_length=80)]
"""The window and the kind of question, where only the newest one counts."""
