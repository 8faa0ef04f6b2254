"""What a library of compiled code writes where errors go, which is for us to say."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from threading import Lock

_ERRORS = 2  # the file descriptor
_one_at_a_time = Lock()


@contextmanager
def heard() -> Iterator[list[str]]:
    """Keep what is written there meanwhile; its lines are in the list afterwards.

    It holds for the whole process: pictures are read in one of their own.
    """
    lines: list[str] = []
    with _one_at_a_time, tempfile.TemporaryFile() as kept:
        try:
            before = os.dup(_ERRORS)
        except OSError:  # there is none
            yield lines
            return
        os.dup2(kept.fileno(), _ERRORS)
        try:
            yield lines
        finally:
            os.dup2(before, _ERRORS)
            os.close(before)
            kept.seek(0)
            lines += kept.read().decode(errors="replace").splitlines()
