"""Orders with services, kept so that none is lost or paid twice."""

from __future__ import annotations

import uuid
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any, Literal

from sqlalchemy import select
from sqlalchemy.orm import Session, sessionmaker

from nebrel.core.errors import Conflict, NotFound, StorageFailed
from nebrel.core.formats.files import writing
from nebrel.store.database import reading, transaction
from nebrel.store.models import OrderRow, now
from nebrel.store.names import clean_name

OrderState = Literal["sending", "queued", "working", "fetching", "done", "failed", "cancelled"]
OPEN: tuple[OrderState, ...] = ("sending", "queued", "working", "fetching")
_MOST = 500


@dataclass(frozen=True)
class Order:
    """A picture that is made into a model elsewhere.

    Attributes
    ----------
    once : what it is called at the service, so that it is begun and paid once
    remote_id : its name over there, once that is known
    cancelled : it is to be given up
    tries : in a row that came to nothing
    said : what stands in the way, in plain words; and what helps
    place, share, paid : as `Status`
    """

    id: str
    service: str
    filename: str
    state: OrderState
    once: str
    remote_id: str | None
    cancelled: bool
    tries: int
    said: str
    remedy: str
    place: int | None
    share: float | None
    paid: int | None
    piece_id: str | None
    created: datetime
    changed: datetime

    @property
    def open(self) -> bool:
        """Whether there is still something to do."""
        return self.state in OPEN

    @property
    def done(self) -> bool:
        """Whether its model is here."""
        return self.state == "done"


class OrderBook:
    """The orders of one data folder, with their pictures and models."""

    def __init__(self, sessions: sessionmaker[Session], folder: Path) -> None:
        self._sessions, self._folder = sessions, folder / "orders"

    def all(self) -> list[Order]:
        """Newest first."""
        statement = select(OrderRow).order_by(OrderRow.created.desc(), OrderRow.id).limit(_MOST)
        with reading(self._sessions) as session:
            return [_read(row) for row in session.scalars(statement)]

    def open(self) -> list[Order]:
        """Those with something left to do, oldest first."""
        statement = select(OrderRow).where(OrderRow.state.in_(OPEN)).order_by(OrderRow.created)
        with reading(self._sessions) as session:
            return [_read(row) for row in session.scalars(statement)]

    def get(self, order_id: str) -> Order:
        """One. Raises NotFound."""
        with reading(self._sessions) as session:
            return _read(_get(session, order_id))

    def like(self, service: str, picture: bytes) -> Order | None:
        """The newest order of the same picture that is under way, or done."""
        for order in self.all():
            if order.service != service or order.cancelled or not (order.open or order.done):
                continue
            with suppress(OSError):
                path = self.picture(order.id)
                if path.stat().st_size == len(picture) and path.read_bytes() == picture:
                    return order
        return None

    def add(self, service: str, picture: bytes, filename: str) -> Order:
        """Keep a new one; it is written down before anything is sent."""
        order_id = uuid.uuid4().hex
        self._write(self._folder / f"{order_id}.picture", picture)
        with transaction(self._sessions) as session:
            row = OrderRow(
                id=order_id,
                service=service,
                filename=clean_name(filename) or "picture",
                state="sending",
                once=uuid.uuid4().hex,
            )
            session.add(row)
            session.flush()
            return _read(row)

    def change(self, order_id: str, **values: Any) -> Order:
        """Write down what became of one. Raises NotFound."""
        with transaction(self._sessions) as session:
            row = _get(session, order_id)
            for name, value in values.items():
                setattr(row, name, value)
            row.changed = now()
            return _read(row)

    def again(self, order_id: str) -> Order:
        """Order it once more after it failed, or was given up.

        Where the service says that it failed or is cancelled, it is a new job. Where it is not
        known what became of it, it is the same one: it is not paid twice.

        Raises
        ------
        NotFound, Conflict : it is under way, or done
        """
        with transaction(self._sessions) as session:
            row = _get(session, order_id)
            if row.state not in ("failed", "cancelled"):
                raise Conflict("order", "it is under way, or done", "Look at it again")
            ended = row.ended
            if ended:
                row.once, row.remote_id, row.ended = uuid.uuid4().hex, None, False
            row.state = "sending" if row.remote_id is None else "working"
            row.cancelled, row.tries, row.said, row.remedy = False, 0, "", ""
            row.place = row.share = None
            if ended:
                row.paid = None
            row.changed = now()
            session.flush()
            return _read(row)

    def cancel(self, order_id: str) -> Order:
        """Have one given up; the clerk tells the service. Raises NotFound, Conflict."""
        with transaction(self._sessions) as session:
            row = _get(session, order_id)
            if row.state not in OPEN:
                raise Conflict("order", "it is over already", "Look at it again")
            row.cancelled, row.changed = True, now()
            return _read(row)

    def remove(self, order_id: str) -> None:
        """Forget one that is over, with its files. Raises NotFound, Conflict."""
        with transaction(self._sessions) as session:
            row = _get(session, order_id)
            if row.state in OPEN:
                raise Conflict("order", "it is under way", "Cancel it first")
            session.delete(row)
        for path in (self.picture(order_id), self.model(order_id)):
            path.unlink(missing_ok=True)

    def picture(self, order_id: str) -> Path:
        """What was sent."""
        return self._folder / f"{order_id}.picture"

    def model(self, order_id: str) -> Path:
        """What came back, once it is done."""
        return self._folder / f"{order_id}.glb"

    def keep_model(self, order_id: str, data: bytes) -> None:
        """Whole, or not at all. Raises StorageFailed."""
        self._write(self.model(order_id), data)

    def _write(self, path: Path, data: bytes) -> None:
        try:
            self._folder.mkdir(exist_ok=True)
            # The database names it next, and outlasts a power cut.
            with writing(path, "order", through=True) as file:
                file.write(data)
        except OSError as error:
            raise StorageFailed(
                "order", f"it cannot be kept ({error.strerror})", "Free some space, and try again"
            ) from error


def _get(session: Session, order_id: str) -> OrderRow:
    row = session.get(OrderRow, order_id)
    if row is None:
        raise NotFound("order", "there is none like it", "Look at the orders again")
    return row


def _read(row: OrderRow) -> Order:
    return Order(**{name: getattr(row, name) for name in Order.__dataclass_fields__})
