"""Only the newest question counts; and a process that dies costs one question."""

import os
import signal
import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import pytest
from fastapi.testclient import TestClient

from nebrel.web.channels import Channels, Superseded
from tests.pictures import png, ramp
from tests.recipes import art_of
from tests.web.test_api import bring
from tests.web.test_long_work import until


def test_of_many_questions_the_last_is_answered_and_the_others_end() -> None:
    channels, begun, go = Channels(), threading.Event(), threading.Event()
    worked: list[int] = []

    def work(number: int) -> Callable[[Any], int]:
        def answer(tell: Any) -> int:
            begun.set()
            if number == 0:
                assert go.wait(10)
            tell(0.5, "half")
            worked.append(number)
            return number

        return answer

    with ThreadPoolExecutor(8) as threads:
        asked = [threads.submit(channels.ask, "window section", work(0))]
        assert begun.wait(10)
        for number in range(1, 8):
            asked.append(threads.submit(channels.ask, "window section", work(number)))
            until(lambda n=number: channels._channels["window section"].newest == n + 1)
        go.set()
        assert asked[-1].result() == 7
        for one in asked[:-1]:
            with pytest.raises(Superseded):
                one.result()
    assert worked == [7]


def test_questions_of_other_names_do_not_wait() -> None:
    channels, go = Channels(), threading.Event()

    def slow(_: Any) -> str:
        assert go.wait(10)
        return "slow"

    with ThreadPoolExecutor(2) as threads:
        first = threads.submit(channels.ask, "a section", slow)
        assert channels.ask("b section", lambda _: "quick") == "quick"
        assert channels.ask(None, lambda _: "nameless") == "nameless"
        go.set()
        assert first.result() == "slow"


def test_a_section_that_is_named_answers_as_one_that_is_not(client: TestClient) -> None:
    piece = bring(client, png(ramp(40, 60))).json()
    body = {"recipe": piece["recipe"], "start": [0, 0.5], "end": [1, 0.5], "parts": 40}
    named = {"X-Nebrel-Question": "w section"}
    found = client.post("/api/section", json=body, headers=named)
    assert found.status_code == 200
    assert found.json() == client.post("/api/section", json=body).json()


def test_a_process_that_dies_while_it_draws_costs_one_question(client: TestClient) -> None:
    piece = bring(client, png(ramp(40, 60))).json()
    assert client.post("/api/preview", json=piece["recipe"]).status_code == 200
    lane = client.app.state.desk.moving  # type: ignore[attr-defined]
    # It dies while it does nothing: nobody notices.
    os.kill(lane.submit(os.getpid).result(), signal.SIGKILL)
    answers = [client.post("/api/preview", json=piece["recipe"]) for _ in range(2)]
    assert answers[-1].status_code == 200
    # It dies at work: that question is refused in words, the next is answered.
    lane.submit(os.getpid).result()
    with ThreadPoolExecutor(1) as threads:
        art_of(piece["recipe"])["backing"] = 3
        lane.submit(os.kill, lane.submit(os.getpid).result(), signal.SIGKILL)
        refused = threads.submit(client.post, "/api/preview", json=piece["recipe"]).result()
    assert refused.status_code in (200, 413)
    assert client.post("/api/preview", json=piece["recipe"]).status_code == 200
