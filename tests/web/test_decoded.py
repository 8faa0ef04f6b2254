"""The picture decoded last is decoded once, however many ask."""

import threading
import time
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest

from nebrel.core.data import Picture
from nebrel.core.errors import UnreadableFile
from nebrel.web.decoded import Decoded


def test_all_who_ask_together_get_the_same() -> None:
    asked: list[str] = []
    together = threading.Event()

    def load(sha256: str) -> Picture:
        asked.append(sha256)
        together.wait(5)
        return Picture(np.zeros((2, 3), np.float32))

    decoded = Decoded(load)
    with ThreadPoolExecutor(4) as threads:
        found = [threads.submit(decoded, "a") for _ in range(4)]
        together.set()
        pictures = {id(one.result()) for one in found}
    assert (len(pictures), asked) == (1, ["a"])
    decoded("b")
    decoded("a")
    assert asked == ["a", "b", "a"]


def test_it_is_let_go_after_a_while() -> None:
    asked: list[str] = []

    def load(sha256: str) -> Picture:
        asked.append(sha256)
        return Picture(np.zeros((2, 3), np.float32))

    decoded = Decoded(load, keep_s=0.01)
    deadline = time.monotonic() + 5
    while len(asked) < 2:
        decoded("a")
        assert time.monotonic() < deadline
        time.sleep(0.05)


def test_what_cannot_be_read_is_refused_each_time() -> None:
    def load(_: str) -> Picture:
        raise UnreadableFile("a.png", "it is damaged", "Bring another")

    decoded = Decoded(load)
    for _ in range(2):
        with pytest.raises(UnreadableFile):
            decoded("a")
