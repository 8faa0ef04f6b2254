"""What is brought is read behind bars: in a process of its own, within limits."""

from __future__ import annotations

import os
import threading
from collections.abc import Callable
from concurrent.futures import CancelledError
from concurrent.futures import TimeoutError as TookTooLong
from concurrent.futures.process import BrokenProcessPool
from contextlib import suppress
from contextvars import ContextVar
from typing import ParamSpec, TypeVar

from nebrel.core.errors import Busy, Cancelled, NebrelError, TooLarge, UnreadableFile
from nebrel.work.lane import Lane, end_with_parent

_LISTENED_S = 0.25
MOST_BYTES = 6_000_000_000
"""Of memory, that reading one file may take besides what a process takes by itself."""
MOST_S = 120
"""Of processor, that reading one file may take; as long again on a busy machine."""

Given = ParamSpec("Given")
Read = TypeVar("Read")


class Call:
    """Somebody who asked for something to be read, and may go away before it is."""

    def __init__(self) -> None:
        self._off = threading.Event()

    def off(self) -> None:
        """They went away."""
        self._off.set()

    @property
    def is_off(self) -> bool:
        """Whether they went away."""
        return self._off.is_set()


WHOSE: ContextVar[Call | None] = ContextVar("whose", default=None)
"""For whom a thread has something read, where that can go away."""


class Reader:
    """Has files read in the processes of a lane.

    Parameters
    ----------
    lane : of its own, so that a file that takes long holds up nothing but other files
    most_s : seconds of processor for each
    """

    def __init__(self, lane: Lane, most_s: int = MOST_S) -> None:
        self._lane, self._most_s = lane, most_s

    def __call__(
        self, called: str, read: Callable[Given, Read], /, *given: Given.args, **named: Given.kwargs
    ) -> Read:
        """What reading comes to.

        Parameters
        ----------
        called : what the file is called in errors
        read : a function of a module, which is given paths and plain values

        Raises
        ------
        NebrelError : as `read` does
        TooLarge : it takes longer, or more memory, than a file may
        UnreadableFile : it ended the process that read it
        Cancelled : whoever asked went away
        Busy : the application ends
        """
        try:
            future = self._lane.submit(_read, self._most_s, read, given, named)
        except RuntimeError as error:
            raise Busy(called, "the application ends", "Start it again") from error
        call, begun = WHOSE.get(), 0.0
        try:
            while True:
                try:
                    found: Read = future.result(_LISTENED_S)
                    break
                except TookTooLong as error:
                    # While others are read before it, it only waits.
                    begun += _LISTENED_S * future.running()
                    gone = call is not None and call.is_off
                    if gone or begun > 4 * self._most_s:
                        future.cancel()
                        self._lane.end(future)
                        raise (
                            Cancelled(called, "it was called off", "Bring it again")
                            if gone
                            else self._too_long(called)
                        ) from error
        except NebrelError:
            raise
        except (BrokenProcessPool, CancelledError) as error:
            raise self._ended(called) from error
        except MemoryError as error:
            raise TooLarge(
                called,
                f"reading it takes more than {MOST_BYTES / 1e9:.0f} GB of memory",
                "Bring a smaller or simpler one",
            ) from error
        return found

    def _too_long(self, called: str) -> TooLarge:
        return TooLarge(
            called,
            f"reading it takes longer than {self._most_s} s",
            "Bring a smaller or simpler one",
        )

    def _ended(self, called: str) -> UnreadableFile:
        return UnreadableFile(
            called,
            f"reading it ended the process that read it, or took it more than {self._most_s} s",
            "Export it again, smaller or simpler",
        )


def begin() -> None:
    """First of all in a process that reads: bound its memory."""
    end_with_parent()
    with suppress(ImportError, OSError, ValueError):
        import resource

        _, most = resource.getrlimit(resource.RLIMIT_DATA)
        resource.setrlimit(resource.RLIMIT_DATA, (MOST_BYTES, most))
        # A file that ends it leaves no picture of its memory behind.
        resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def _read(most_s: int, read: Callable[..., Read], given: tuple[object, ...], named: object) -> Read:
    with suppress(ImportError, OSError, ValueError):
        import resource

        spent = sum(os.times()[:2])
        _, most = resource.getrlimit(resource.RLIMIT_CPU)
        resource.setrlimit(resource.RLIMIT_CPU, (int(spent) + most_s + 1, most))
    assert isinstance(named, dict)
    return read(*given, **named)
