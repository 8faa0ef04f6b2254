"""Who deals with services: sends, asks how it stands, waits, tries again, fetches."""

from __future__ import annotations

import logging
import random
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import TypeVar

from nebrel.core.errors import InvalidValue, NebrelError, NotFound, Repeated
from nebrel.makers.adapter import Account, Adapter, Lasting, Passing, Status
from nebrel.makers.keys import Keys
from nebrel.makers.orders import Order, OrderBook
from nebrel.store.facts import Reads, here, mesh_facts

Answer = TypeVar("Answer")
SERVICES = {"practice": "Practice service"}
Reach = Callable[[str, str], Adapter]
"""The adapter of a service with a key."""
_LOST = "Try again: it is not paid twice"


@dataclass(frozen=True)
class Pace:
    """How patient one is.

    Attributes
    ----------
    look_s : from one look at a job to the next
    first_s, most_s : before something is tried again: doubled each time, up to the most
    tries : in a row, until it is said to have failed
    """

    look_s: float = 1.0
    first_s: float = 1.0
    most_s: float = 60.0
    tries: int = 8

    def wait_s(self, tries: int, after_s: float | None = None) -> float:
        """Before the next try: at random within the upper half, so that not all come at once."""
        most = min(self.most_s, self.first_s * 2.0 ** min(tries - 1, 30))
        chosen = random.uniform(0.5, 1.0) * most
        return chosen if after_s is None else max(chosen, min(after_s, self.most_s))


class Clerk:
    """Deals with all open orders of a data folder, one request after another.

    What is open when it begins goes on where it was.

    Parameters
    ----------
    reach : the adapter of a service with a key
    """

    def __init__(
        self,
        book: OrderBook,
        keys: Keys,
        reach: Reach,
        pace: Pace = Pace(),
        reads: Reads = here,
    ) -> None:
        self.book, self.keys = book, keys
        self._reach, self._pace, self._reads = reach, pace, reads
        self._poked: set[str] = set()
        self._news = threading.Condition()
        self._ordering = threading.Lock()
        self._stopped = False
        self._thread: threading.Thread | None = None
        if book.open():
            self._begin()

    def close(self) -> None:
        """Stop after the request that is under way."""
        with self._news:
            self._stopped = True
            self._news.notify_all()
        if self._thread is not None:
            self._thread.join(timeout=30)

    def order(self, service: str, picture: bytes, filename: str, *, once: bool = False) -> Order:
        """Have a model made.

        Parameters
        ----------
        once : not where the same picture is ordered already

        Raises
        ------
        InvalidValue, StorageFailed
        Repeated : it is
        """
        self.key_of(service)
        with self._ordering:
            before = self.book.like(service, picture) if once else None
            if before is not None:
                stands = "its model is here" if before.done else "it is under way"
                raise Repeated(
                    "order",
                    f"the same picture is ordered already, as {before.filename}; {stands}",
                    "Order it again if you mean it: it is paid once more",
                )
            order = self.book.add(service, picture, filename)
        self._wake()
        return order

    def again(self, order_id: str) -> Order:
        """See `OrderBook.again`."""
        self.key_of(self.book.get(order_id).service)
        order = self.book.again(order_id)
        self._wake(order_id)
        return order

    def cancel(self, order_id: str) -> Order:
        """See `OrderBook.cancel`."""
        order = self.book.cancel(order_id)
        self._wake(order_id)
        return order

    def account(self, service: str) -> Account:
        """What is left of a key. Raises InvalidValue: no key, or the service refuses."""
        adapter = self._reach(service, self.key_of(service))
        try:
            return patiently(adapter.account)
        except (Passing, Lasting) as error:
            raise InvalidValue("service", error.why, error.remedy) from error

    def key_of(self, service: str) -> str:
        """Raises NotFound: no such service; InvalidValue: no key is kept."""
        if service not in SERVICES:
            raise NotFound("service", f"“{service[:40]}” is not known", "Choose one of the list")
        key = self.keys.get(service)
        if key is None:
            called = SERVICES[service].lower()
            raise InvalidValue("key", f"there is none for the {called}", "Put one in first")
        return key

    def _wake(self, order_id: str = "") -> None:
        with self._news:
            self._poked.add(order_id)
            self._begin()
            self._news.notify_all()

    def _begin(self) -> None:
        if self._thread is None and not self._stopped:
            self._thread = threading.Thread(target=self._work, name="clerk", daemon=True)
            self._thread.start()

    def _work(self) -> None:
        due: dict[str, float] = {}
        while True:
            with self._news:
                if self._stopped:
                    return
                for order_id in self._poked:
                    due.pop(order_id, None)
                self._poked.clear()
            wait: float | None = None
            try:
                left = self.book.open()
                due = {order.id: due.get(order.id, 0.0) for order in left}
                order = min(left, key=lambda one: due[one.id], default=None)
                if order is not None and due[order.id] <= time.monotonic():
                    due[order.id] = time.monotonic() + self._deal(order)
                    continue
                if order is not None:
                    wait = due[order.id] - time.monotonic()
            except NebrelError as error:  # the database is busy, or the disk full: later
                logging.getLogger("nebrel").warning("orders wait: %s", error)
                wait = self._pace.first_s
            with self._news:
                if not self._poked and not self._stopped:
                    self._news.wait(wait)

    def _deal(self, order: Order) -> float:
        """One request for an order; how long until the next, s."""
        try:
            adapter = self._reach(order.service, self.key_of(order.service))
            if order.cancelled:
                return self._give_up(order, adapter)
            if order.state == "fetching":
                return self._fetch(order, adapter)
            if order.remote_id is None:
                picture = self.book.picture(order.id).read_bytes()
                return self._take_in(order, adapter.submit(picture, order.filename, order.once))
            return self._take_in(order, adapter.look(order.remote_id))
        except Passing as error:
            return self._later(order, error)
        except Lasting as error:
            self._fail(order, error.why, error.remedy)
        except OSError as error:
            self._fail(order, f"its picture is gone ({error.strerror})", "Order it anew")
        except NebrelError as error:
            if isinstance(error, NotFound):
                return 0.0  # it was removed meanwhile
            self._fail(order, error.why, error.remedy)
        except Exception as error:
            logging.getLogger("nebrel").exception("order %s", order.id, exc_info=error)
            why = f"something unforeseen went wrong ({type(error).__name__})"
            return self._later(order, Passing(why, _LOST))
        return 0.0

    def _take_in(self, order: Order, status: Status) -> float:
        """Write down how it stands; a name over there before all else."""
        told = {
            "remote_id": status.remote_id,
            "tries": 0,
            "said": "",
            "remedy": "",
            "place": status.place,
            "share": status.share,
            "paid": status.paid,
        }
        if status.state == "failed":
            why = status.failure or "it could not be made"
            self._over(order, "failed", told, why[:1].lower() + why[1:], _remedy(status))
            return 0.0
        if status.state == "cancelled":
            self._over(order, "cancelled", told, "", "")
            return 0.0
        state = "fetching" if status.state == "done" else status.state
        self.book.change(order.id, state=state, **told)
        return 0.0 if state == "fetching" else self._pace.look_s

    def _fetch(self, order: Order, adapter: Adapter) -> float:
        assert order.remote_id is not None
        data = adapter.fetch(order.remote_id)
        with TemporaryDirectory() as folder:
            path = Path(folder) / "model.glb"
            path.write_bytes(data)
            try:
                self._reads("model", mesh_facts, path, path.name)
            except NebrelError as error:
                raise Passing(f"the model cannot be read ({error.why})", _LOST) from error
        self.book.keep_model(order.id, data)
        self.book.change(order.id, state="done", share=1.0, tries=0, said="", remedy="")
        return 0.0

    def _give_up(self, order: Order, adapter: Adapter) -> float:
        told: dict[str, object] = {"place": None, "share": None}
        remote_id = order.remote_id
        if remote_id is None and order.tries == 0 and order.state == "sending":
            # Nothing was sent yet: there is nothing to pay.
            self.book.change(order.id, state="cancelled", ended=True, paid=0, **told)
            return 0.0
        if remote_id is None:
            # It may have come through: sent once more it is the same job, and has a name.
            picture = self.book.picture(order.id).read_bytes()
            remote_id = adapter.submit(picture, order.filename, order.once).remote_id
            self.book.change(order.id, remote_id=remote_id)
        status = adapter.cancel(remote_id)
        if status.state == "done":  # it was faster, and is paid: so it is fetched
            self.book.change(order.id, state="fetching", cancelled=False, paid=status.paid)
            return 0.0
        self.book.change(order.id, state="cancelled", ended=True, paid=status.paid, **told)
        return 0.0

    def _later(self, order: Order, error: Passing) -> float:
        tries = order.tries + 1
        if tries >= self._pace.tries:
            self._fail(order, f"{error.why}, {tries} times in a row", _LOST)
            return 0.0
        with suppress(NotFound):
            self.book.change(order.id, tries=tries, said=error.why[:400], remedy=error.remedy)
        return self._pace.wait_s(tries, error.after_s)

    def _over(
        self, order: Order, state: str, told: dict[str, object], why: str, remedy: str
    ) -> None:
        values = {**told, "said": why[:400], "remedy": remedy, "place": None, "share": None}
        self.book.change(order.id, state=state, ended=True, **values)

    def _fail(self, order: Order, why: str, remedy: str) -> None:
        with suppress(NotFound):
            self.book.change(order.id, state="failed", said=why[:400], remedy=remedy[:200])


def _remedy(status: Status) -> str:
    return "Try again" if status.paid else "Try again: what was paid came back"


def patiently(asked: Callable[[], Answer], tries: int = 4, wait_s: float = 0.2) -> Answer:
    """What is asked while somebody waits for it: a few tries. Raises Passing, Lasting."""
    for left in range(tries, 1, -1):
        try:
            return asked()
        except Passing:
            time.sleep(wait_s * (tries - left + 1))
    return asked()
