"""Questions that follow each other: one is under way, and of those that wait only the newest."""

from __future__ import annotations

import asyncio
import uuid
from collections import OrderedDict
from collections.abc import Awaitable, Callable
from dataclasses import dataclass, field
from typing import TypeVar

from nebrel.core.errors import Cancelled

Answer = TypeVar("Answer")
_MOST = 500


class Superseded(Cancelled):
    """A newer question of the same kind came."""

    kind = "superseded"


@dataclass
class _Channel:
    turn: asyncio.Lock = field(default_factory=asyncio.Lock)
    newest: int = 0
    running: str = ""


class Channels:
    """A channel for each kind of question of each window.

    Parameters
    ----------
    stop : has work of an id end where it next tells something
    """

    def __init__(self, stop: Callable[[str], None]) -> None:
        self._stop = stop
        self._channels: OrderedDict[str, _Channel] = OrderedDict()

    async def ask(self, name: str | None, work: Callable[[str], Awaitable[Answer]]) -> Answer:
        """What `work` answers, which gets an id that it can be stopped by.

        Parameters
        ----------
        name : of the window and the kind of question; without one nothing is superseded

        Raises
        ------
        Superseded : a newer one came
        """
        if name is None:
            return await work("")
        channel = self._channels.setdefault(name, _Channel())
        self._channels.move_to_end(name)
        while len(self._channels) > _MOST:
            self._channels.popitem(last=False)
        channel.newest += 1
        mine = channel.newest
        if channel.running:
            self._stop(channel.running)
        async with channel.turn:
            if mine != channel.newest:
                raise _superseded()
            channel.running = uuid.uuid4().hex
            try:
                return await work(channel.running)
            except Cancelled:
                if mine != channel.newest:
                    raise _superseded() from None
                raise
            finally:
                channel.running = ""


def _superseded() -> Superseded:
    return Superseded("question", "a newer one came", "Wait for its answer")
