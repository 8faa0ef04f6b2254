"""Waiting for what becomes true."""

import time
from collections.abc import Callable
from typing import Any


def until(true: Callable[[], Any], seconds: float = 60) -> float:
    """How long it took for something to become true."""
    start = time.monotonic()
    while not true():
        assert time.monotonic() - start < seconds
        time.sleep(0.01)
    return time.monotonic() - start
