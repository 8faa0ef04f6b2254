"""Files are read apart: within limits, for as long as somebody wants them."""

import os
import time
from collections.abc import Iterator
from contextvars import copy_context
from pathlib import Path
from threading import Thread

import pytest

from nebrel.core.errors import Cancelled, InvalidValue, NebrelError, TooLarge, UnreadableFile
from nebrel.work.lane import LOADED, Lane, processes
from nebrel.work.reader import WHOSE, Call, Reader, begin
from tests.waiting import until


def twice(number: int) -> int:
    return 2 * number


def refuse(called: str) -> int:
    raise InvalidValue(called, "it is of no use", "Bring another")


def greedy(size: int) -> int:
    return len(bytearray(size))


def endless() -> int:
    while True:
        pass


def dying() -> int:
    os._exit(9)


def asleep(path: Path) -> int:
    path.write_text(str(os.getpid()))
    time.sleep(600)
    return 0


@pytest.fixture(scope="module")
def lane() -> Iterator[Lane]:
    opened = Lane(1, processes(*LOADED), begin, ())
    yield opened
    opened.shutdown()


def test_what_a_reader_gives_and_what_it_refuses(lane: Lane) -> None:
    reads = Reader(lane)
    assert reads("seven.png", twice, 7) == 14
    with pytest.raises(InvalidValue, match=r"bad\.png: it is of no use"):
        reads("bad.png", refuse, "bad.png")


def test_a_file_that_takes_too_much_costs_itself(lane: Lane) -> None:
    reads = Reader(lane, most_s=1)
    with pytest.raises(NebrelError, match=r"large\.svg: .*(memory|ended)"):
        reads("large.svg", greedy, 60_000_000_000)
    with pytest.raises((UnreadableFile, TooLarge), match=r"slow\.svg: .* 1 s"):
        reads("slow.svg", endless)
    with pytest.raises(UnreadableFile, match=r"bad\.svg: .*ended"):
        reads("bad.svg", dying)
    assert reads("seven.png", twice, 7) == 14


def test_it_is_given_up_with_who_asked(lane: Lane, tmp_path: Path) -> None:
    reads, call = Reader(lane), Call()
    told: list[Exception] = []
    begun = tmp_path / "begun"

    def ask() -> None:
        WHOSE.set(call)
        try:
            reads("long.stl", asleep, begun)
        except NebrelError as error:
            told.append(error)

    asking = Thread(target=copy_context().run, args=(ask,))
    asking.start()
    until(lambda: begun.exists() and begun.read_text())
    process = int(begun.read_text())
    call.off()
    asking.join(30)
    assert isinstance(told[0], Cancelled)

    def gone() -> bool:
        try:
            os.kill(process, 0)
        except ProcessLookupError:
            return True
        return False

    until(gone)
    assert reads("seven.png", twice, 7) == 14
