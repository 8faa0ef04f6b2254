"""Only the newest question counts; and a process that dies costs one question."""

import asyncio
import json
import os
import signal
from concurrent.futures import ThreadPoolExecutor

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from starlette.types import Message

from nebrel.core.errors import Cancelled
from nebrel.web.channels import Channels, Superseded
from nebrel.web.desk import Desk
from nebrel.work.run import ready
from tests.pictures import png, ramp
from tests.recipes import art_of
from tests.waiting import until
from tests.web.test_api import bring


def test_of_many_questions_the_last_is_answered_and_the_others_end() -> None:
    stopped: set[str] = set()
    worked: list[int] = []

    async def ask() -> list[object]:
        channels, begun = Channels(stopped.add), asyncio.Event()

        async def work(task_id: str, number: int) -> int:
            begun.set()
            for _ in range(1000):  # a link after the other
                await asyncio.sleep(0.001)
                if task_id in stopped:
                    raise Cancelled("work", "it was called off", "Start it again")
                if number == 7:
                    break
            worked.append(number)
            return number

        def asking(number: int) -> asyncio.Task[int]:
            return asyncio.create_task(
                channels.ask("window section", lambda task_id: work(task_id, number))
            )

        asked = [asking(0)]
        await begun.wait()
        asked += [asking(number) for number in range(1, 8)]
        return await asyncio.gather(*asked, return_exceptions=True)

    *superseded, last = asyncio.run(ask())
    assert last == 7
    assert all(isinstance(error, Superseded) for error in superseded)
    assert worked == [7]


def test_questions_of_other_names_do_not_wait() -> None:
    async def ask() -> None:
        channels, go = Channels(lambda _: None), asyncio.Event()

        async def slow(_: str) -> str:
            await go.wait()
            return "slow"

        async def quick(_: str) -> str:
            return "quick"

        first = asyncio.create_task(channels.ask("a section", slow))
        assert await channels.ask("b section", quick) == "quick"
        assert await channels.ask(None, quick) == "quick"
        go.set()
        assert await first == "slow"

    asyncio.run(ask())


def test_a_question_that_is_called_off_by_somebody_else_says_so() -> None:
    async def refused(_: str) -> None:
        raise Cancelled("work", "it was called off", "Start it again")

    with pytest.raises(Cancelled) as caught:
        asyncio.run(Channels(lambda _: None).ask("a section", refused))
    assert not isinstance(caught.value, Superseded)


def test_a_section_that_is_named_answers_as_one_that_is_not(client: TestClient) -> None:
    piece = bring(client, png(ramp(40, 60))).json()
    body = {"recipe": piece["recipe"], "start": [0, 0.5], "end": [1, 0.5], "parts": 40}
    named = {"X-Nebrel-Question": "w section"}
    found = client.post("/api/section", json=body, headers=named)
    assert found.status_code == 200
    assert found.json() == client.post("/api/section", json=body).json()


@pytest.mark.parametrize("lane", ["draft", "sight"])
def test_a_process_that_dies_costs_one_question(client: TestClient, lane: str) -> None:
    desk: Desk = client.app.state.desk  # type: ignore[attr-defined]
    piece = bring(client, png(ramp(40, 60))).json()
    section = {"recipe": piece["recipe"], "start": [0, 0.5], "end": [1, 0.5]}

    def ask() -> int:
        if lane == "draft":
            return client.post("/api/preview", json=piece["recipe"]).status_code
        return client.post("/api/section", json=section).status_code

    assert ask() == 200
    process = desk.lane(lane).submit(os.getpid).result()  # type: ignore[arg-type]
    # It dies at work: that question is refused in words, the next is answered.
    art_of(piece["recipe"])["backing"] = 3
    with ThreadPoolExecutor(1) as threads:
        os.kill(process, signal.SIGSTOP)
        asked = threads.submit(ask)
        workers = desk.lane(lane)._workers  # type: ignore[arg-type]
        until(lambda: any(worker and worker.work for worker in workers))
        os.kill(process, signal.SIGKILL)
        assert asked.result() == 413
    assert ask() == 200
    # It dies while it does nothing: nobody notices, or one does.
    os.kill(desk.lane(lane).submit(os.getpid).result(), signal.SIGKILL)  # type: ignore[arg-type]
    ask()
    assert ask() == 200


def test_what_answers_can_be_made_ready(client: TestClient) -> None:
    client.app.state.desk.warm()  # type: ignore[attr-defined]
    assert client.app.state.desk.lane("sight").submit(ready).result() is None  # type: ignore[attr-defined]


def test_what_nobody_waits_for_is_given_up(client: TestClient) -> None:
    """Who asked has left: the draft ends, and the lane is free for the next."""
    app = client.app
    assert isinstance(app, FastAPI)
    recipe = bring(client, png(ramp(900, 1200)), "wide.png").json()["recipe"]
    lane = app.state.desk.lane("draft")
    lane.submit(ready).result()

    async def ask(leaves: bool) -> int:
        body = json.dumps(recipe).encode()
        sent: list[Message] = [{"type": "http.request", "body": body}]
        status: list[int] = []

        async def receive() -> Message:
            if sent:
                return sent.pop()
            if not leaves:
                await asyncio.sleep(600)
            return {"type": "http.disconnect"}

        async def send(message: Message) -> None:
            status.extend([message["status"]] if "status" in message else [])

        headers = [(b"host", b"127.0.0.1"), (b"content-type", b"application/json")]
        scope = {"type": "http", "method": "POST", "path": "/api/preview", "headers": headers}
        await app(scope | {"query_string": b"", "http_version": "1.1"}, receive, send)
        return status[0]

    recipe["triangles"]["tolerance"] = 0.02
    assert asyncio.run(ask(leaves=True)) == 409
    until(lambda: all(worker.work is None for worker in lane._begun))
    assert asyncio.run(ask(leaves=False)) == 200
