"""Questions that follow each other: one is under way, and of those that wait only the newest."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from threading import Lock
from typing import TypeVar

from nebrel.core.errors import Cancelled

Answer = TypeVar("Answer")
Tell = Callable[[float, str], None]
_MOST = 500


class Superseded(Cancelled):
    """A newer question of the same kind came."""

    kind = "superseded"


class _Channel:
    def __init__(self) -> None:
        self.turn = Lock()
        self.newest = 0


class Channels:
    """A channel for each kind of question of each window."""

    def __init__(self) -> None:
        self._channels: OrderedDict[str, _Channel] = OrderedDict()
        self._lock = Lock()

    def ask(self, name: str | None, work: Callable[[Tell], Answer]) -> Answer:
        """What `work` answers; it is told now and then, and ends when a newer question came.

        Parameters
        ----------
        name : of the window and the kind of question; without one nothing is superseded

        Raises
        ------
        Superseded : a newer one came
        """
        if name is None:
            return work(lambda _done, _words: None)
        with self._lock:
            channel = self._channels.setdefault(name, _Channel())
            self._channels.move_to_end(name)
            while len(self._channels) > _MOST:
                self._channels.popitem(last=False)
            channel.newest += 1
            mine = channel.newest

        def tell(_done: float, _words: str) -> None:
            if mine != channel.newest:
                raise Superseded("question", "a newer one came", "Wait for its answer")

        with channel.turn:
            tell(0.0, "")
            return work(tell)
