"""Orders with model makers: the practice service over HTTP, and services that behave as told."""

import hashlib
import random
import socket
import stat
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx
import numpy as np
import pytest
import trimesh
import uvicorn
from PIL import Image

from nebrel.core.errors import Conflict, InvalidValue, NotFound
from nebrel.core.formats.meshes import read_mesh, write_mesh
from nebrel.makers.adapter import Account, Lasting, Passing, Status
from nebrel.makers.clerk import Clerk, Pace, patiently
from nebrel.makers.keys import Keys
from nebrel.makers.orders import OrderBook
from nebrel.makers.practice import PracticeAdapter
from nebrel.practice.jobs import BEGIN_WITH, PRICE
from nebrel.practice.service import create_service, make_model
from nebrel.store import Store
from tests.meshes import ball
from tests.waiting import until

QUICK = Pace(look_s=0.02, first_s=0.02, most_s=0.1, tries=6)


@pytest.fixture(scope="module")
def model(tmp_path_factory: pytest.TempPathFactory) -> bytes:
    path = tmp_path_factory.mktemp("model") / "ball.glb"
    write_mesh(ball(10), path)
    return path.read_bytes()


@contextmanager
def served(folder: Path, model: bytes, wait_s: float = 0.05, shaky: bool = True) -> Iterator[str]:
    """The practice service at an address of its own, quick."""
    listening = socket.create_server(("127.0.0.1", 0))
    app = create_service(folder, wait_s, lambda _: model, shaky)
    server = uvicorn.Server(uvicorn.Config(app, log_level="error"))
    thread = threading.Thread(target=server.run, kwargs={"sockets": [listening]}, daemon=True)
    thread.start()
    try:
        yield f"http://127.0.0.1:{listening.getsockname()[1]}"
    finally:
        server.should_exit = True
        thread.join(timeout=10)


@contextmanager
def clerk_at(store: Store, address: str) -> Iterator[Clerk]:
    keys = Keys(store.folder)
    if keys.get("practice") is None:
        keys.put("practice", patiently(PracticeAdapter(address, "").fresh_key))
    book = OrderBook(store.sessions, store.folder)
    clerk = Clerk(book, keys, lambda _, key: PracticeAdapter(address, key), QUICK)
    try:
        yield clerk
    finally:
        clerk.close()


@contextmanager
def idle(store: Store, folder: Path, model: bytes) -> Iterator[Clerk]:
    """With a service whose queue does not move."""
    far = folder / "far"
    with served(far, model, 30, shaky=False) as address, clerk_at(store, address) as clerk:
        yield clerk


def over(clerk: Clerk, order_id: str) -> str:
    until(lambda: not clerk.book.get(order_id).open)
    return clerk.book.get(order_id).state


def test_an_order_fails_is_tried_again_and_is_fetched(
    store: Store, tmp_path: Path, model: bytes
) -> None:
    with served(tmp_path / "far", model) as address, clerk_at(store, address) as clerk:
        order = clerk.order("practice", b"a picture", "hare.png")
        assert over(clerk, order.id) == "failed"  # the first one of the service always does
        told = clerk.book.get(order.id)
        assert "could not be told" in told.said and "came back" in told.remedy and told.paid == 0
        clerk.again(order.id)
        assert over(clerk, order.id) == "done"
        assert clerk.book.model(order.id).read_bytes() == model
        assert clerk.account("practice").credits == BEGIN_WITH - PRICE
        with pytest.raises(Conflict):
            clerk.again(order.id)
        clerk.book.remove(order.id)
        assert clerk.book.all() == [] and not clerk.book.model(order.id).exists()


def test_an_answer_that_gets_lost_is_not_paid_twice(
    store: Store, tmp_path: Path, model: bytes
) -> None:
    with served(tmp_path / "far", model) as address, clerk_at(store, address) as clerk:
        orders = [clerk.order("practice", b"x", f"{n}.png") for n in range(5)]
        ends = [over(clerk, order.id) for order in orders]
        assert sorted(ends) == ["done"] * 3 + ["failed"] * 2
        # The second job's answer was lost, after it was begun.
        assert clerk.account("practice").credits == BEGIN_WITH - 3 * PRICE


def test_what_is_open_goes_on_when_both_begin_anew(
    store: Store, tmp_path: Path, model: bytes
) -> None:
    far = tmp_path / "far"
    with served(far, model, wait_s=0.02, shaky=False) as address, clerk_at(store, address) as clerk:
        first = clerk.order("practice", b"x", "one.png")
        assert over(clerk, first.id) == "failed"
    with served(far, model, wait_s=30, shaky=False) as address, clerk_at(store, address) as clerk:
        order = clerk.order("practice", b"x", "two.png")
        until(lambda: clerk.book.get(order.id).remote_id)
        name = clerk.book.get(order.id).remote_id
    assert clerk.book.get(order.id).open
    with served(far, model, wait_s=0.05, shaky=False) as address, clerk_at(store, address) as clerk:
        assert over(clerk, order.id) == "done"  # nobody asked for it anew
        assert clerk.book.get(order.id).remote_id == name
        assert clerk.account("practice").credits == BEGIN_WITH - PRICE


def test_what_waits_is_cancelled_and_paid_back(store: Store, tmp_path: Path, model: bytes) -> None:
    with (
        served(tmp_path / "far", model, 30, shaky=False) as address,
        clerk_at(store, address) as clerk,
    ):
        order = clerk.order("practice", b"x", "one.png")
        until(lambda: clerk.book.get(order.id).state == "queued")
        with pytest.raises(Conflict):
            clerk.book.remove(order.id)
        clerk.cancel(order.id)
        assert over(clerk, order.id) == "cancelled"
        assert clerk.book.get(order.id).paid == 0
        assert clerk.account("practice").credits == BEGIN_WITH
        with pytest.raises(Conflict):
            clerk.cancel(order.id)


def test_without_credits_or_a_key_it_says_so(store: Store, tmp_path: Path, model: bytes) -> None:
    with (
        served(tmp_path / "far", model, 30, shaky=False) as address,
        clerk_at(store, address) as clerk,
    ):
        orders = [clerk.order("practice", b"x", "x.png") for _ in range(BEGIN_WITH // PRICE + 1)]
        assert over(clerk, orders[-1].id) == "failed"
        told = clerk.book.get(orders[-1].id)
        assert "0 credits are left" in told.said and "more credits" in told.remedy
        clerk.keys.put("practice", "practice-nonsense")
        with pytest.raises(InvalidValue, match="not known"):
            clerk.account("practice")
        clerk.keys.put("practice", None)
        with pytest.raises(InvalidValue, match="none for the practice"):
            clerk.order("practice", b"x", "x.png")
        with pytest.raises(NotFound):
            clerk.order("another", b"x", "x.png")


class Scripted:
    """A service that does what it is told, and remembers what it was asked."""

    def __init__(self, *answers: Status | Exception | bytes) -> None:
        self.answers, self.asked = list(answers), []  # type: ignore[var-annotated]

    def _next(self, *asked: str) -> Status | bytes:
        self.asked.append(asked)
        answer = self.answers.pop(0) if self.answers else Passing("it sleeps", "Wait")
        if isinstance(answer, Exception):
            raise answer
        return answer

    def account(self) -> Account:
        return Account(None)

    def submit(self, picture: bytes, filename: str, once: str) -> Status:
        return self._next("submit", once)  # type: ignore[return-value]

    def look(self, remote_id: str) -> Status:
        return self._next("look", remote_id)  # type: ignore[return-value]

    def fetch(self, remote_id: str) -> bytes:
        return self._next("fetch", remote_id)  # type: ignore[return-value]

    def cancel(self, remote_id: str) -> Status:
        return self._next("cancel", remote_id)  # type: ignore[return-value]


@contextmanager
def scripted(
    store: Store, *answers: Status | Exception | bytes
) -> Iterator[tuple[Clerk, Scripted]]:
    service, keys = Scripted(*answers), Keys(store.folder)
    keys.put("practice", "k")
    book = OrderBook(store.sessions, store.folder)
    clerk = Clerk(book, keys, lambda *_: service, QUICK)
    yield clerk, service
    clerk.close()


LOST = Passing("the answer got lost", "Wait")
BEGUN, MADE = Status("r", "queued", place=2, paid=5), Status("r", "done", paid=5)


def test_it_gives_up_in_the_end_and_asks_for_the_same_job_again(store: Store, model: bytes) -> None:
    with scripted(store, *[LOST] * QUICK.tries) as (clerk, service):
        order = clerk.order("practice", b"x", "x.png")
        assert over(clerk, order.id) == "failed"
        told = clerk.book.get(order.id)
        assert f"{QUICK.tries} times" in told.said and "not paid twice" in told.remedy
        service.answers = [MADE, model]
        clerk.again(order.id)
        assert over(clerk, order.id) == "done"
        assert len({asked for asked in service.asked if asked[0] == "submit"}) == 1


def test_a_model_that_comes_broken_is_fetched_again(store: Store, model: bytes) -> None:
    with scripted(store, BEGUN, MADE, model[: len(model) // 2], LOST, model) as (clerk, service):
        order = clerk.order("practice", b"x", "x.png")
        assert over(clerk, order.id) == "done"
        assert [asked[0] for asked in service.asked] == ["submit", "look"] + ["fetch"] * 3


def test_what_was_perhaps_sent_is_found_and_cancelled(store: Store) -> None:
    gone = Status("r", "cancelled", paid=0)
    with scripted(store, LOST) as (clerk, service):
        order = clerk.order("practice", b"x", "x.png")
        until(lambda: clerk.book.get(order.id).tries)
        clerk.book.cancel(order.id)
        service.answers = [BEGUN, gone]
        clerk._wake(order.id)
        assert over(clerk, order.id) == "cancelled"
        assert [asked[0] for asked in service.asked][-2:] == ["submit", "cancel"]


def test_what_was_done_before_it_was_cancelled_is_fetched(store: Store, model: bytes) -> None:
    with scripted(store, BEGUN) as (clerk, service):
        order = clerk.order("practice", b"x", "x.png")
        until(lambda: clerk.book.get(order.id).remote_id)
        clerk.book.cancel(order.id)
        service.answers = [MADE, model]
        clerk._wake(order.id)
        assert over(clerk, order.id) == "done"


def test_a_lasting_no_is_not_asked_again(store: Store) -> None:
    with scripted(store, Lasting("the picture is too large", "Send a smaller one")) as (
        clerk,
        service,
    ):
        order = clerk.order("practice", b"x", "x.png")
        assert over(clerk, order.id) == "failed"
        assert clerk.book.get(order.id).said == "the picture is too large"
        assert len(service.asked) == 1


def test_waiting_grows_and_differs() -> None:
    random.seed(1)
    pace = Pace(first_s=1, most_s=20)
    for tries, most in ((1, 1), (2, 2), (3, 4), (4, 8), (9, 20)):
        waits = [pace.wait_s(tries) for _ in range(50)]
        assert most / 2 <= min(waits) < max(waits) <= most
    assert pace.wait_s(1, after_s=7) == 7 and pace.wait_s(1, after_s=900) == 20


def test_keys_are_for_their_owner_alone(tmp_path: Path) -> None:
    keys = Keys(tmp_path)
    keys.put("practice", " a-key\n")
    assert Keys(tmp_path).get("practice") == "a-key"
    assert stat.S_IMODE((tmp_path / "keys.json").stat().st_mode) == 0o600
    for wrong in ("", "  ", "two\nlines", "ключ", "x" * 401):
        with pytest.raises(InvalidValue):
            keys.put("practice", wrong)
    assert keys.get("practice") == "a-key"
    keys.put("practice", None)
    assert keys.get("practice") is None


def test_answers_that_make_no_sense_are_passing_troubles() -> None:
    def answers(request: httpx.Request) -> httpx.Response:
        if request.url.path.endswith("/model"):
            wrong = {"X-Checksum-SHA256": hashlib.sha256(b"other").hexdigest()}
            return httpx.Response(200, content=b"half", headers=wrong)
        if request.url.path == "/account":
            return httpx.Response(503, text="<html>", headers={"Retry-After": "4"})
        return httpx.Response(200, text="<html>")

    adapter = PracticeAdapter("http://far", "k", httpx.MockTransport(answers))
    with pytest.raises(Passing, match="incomplete"):
        adapter.fetch("r")
    with pytest.raises(Passing, match="understood"):
        adapter.look("r")
    with pytest.raises(Passing, match="503") as found:
        adapter.account()
    assert found.value.after_s == 4


def test_the_practice_service_makes_what_the_core_makes(tmp_path: Path) -> None:
    y, x = np.mgrid[-60:60, -60:60]
    shown = np.zeros((120, 120, 4), np.uint8)
    shown[..., 0] = 200
    shown[..., 3] = 255 * (np.hypot(x, y) < 45)
    path = tmp_path / "disc.png"
    Image.fromarray(shown).save(path)
    (tmp_path / "made.glb").write_bytes(make_model(path.read_bytes()))
    mesh = read_mesh(tmp_path / "made.glb")
    found = trimesh.Trimesh(mesh.vertices, mesh.faces)
    assert found.is_volume and mesh.colours is not None
