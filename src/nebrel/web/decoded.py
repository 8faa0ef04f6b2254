"""The picture that was decoded last, kept for a moment."""

from __future__ import annotations

import threading
from collections.abc import Callable
from weakref import WeakValueDictionary

from nebrel.core.data import Picture

_KEEP_S = 20.0


class _Lock:
    """A lock that can be referred to weakly."""

    def __init__(self) -> None:
        self.held = threading.Lock()


class Decoded:
    """A loader of pictures that decodes one only once when several ask for it together.

    Parameters
    ----------
    load : decodes the picture of a content hash
    keep_s : how long the last one is kept after it was asked for
    """

    def __init__(self, load: Callable[[str], Picture], keep_s: float = _KEEP_S) -> None:
        self._load, self._keep_s = load, keep_s
        self._lock = threading.Lock()
        self._under_way: WeakValueDictionary[str, _Lock] = WeakValueDictionary()
        self._last: tuple[str, Picture] | None = None
        self._timer: threading.Timer | None = None

    def __call__(self, sha256: str) -> Picture:
        """The picture. Raises whatever `load` raises."""
        with self._lock:
            mine = self._under_way.setdefault(sha256, _Lock())
        with mine.held:
            with self._lock:
                last = self._last
            picture = last[1] if last is not None and last[0] == sha256 else self._load(sha256)
            _ = picture.tone  # all who ask want it too; it is worked out once
        with self._lock:
            self._last = (sha256, picture)
            if self._timer is not None:
                self._timer.cancel()
            self._timer = threading.Timer(self._keep_s, self.forget)
            self._timer.daemon = True
            self._timer.start()
        return picture

    def has(self, sha256: str) -> bool:
        """Whether a picture is at hand already."""
        with self._lock:
            return self._last is not None and self._last[0] == sha256

    def forget(self) -> None:
        """Let go of the last one."""
        with self._lock:
            self._last = None
