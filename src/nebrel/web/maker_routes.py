"""The API of model makers: services elsewhere, and the orders with them."""

from __future__ import annotations

from datetime import datetime
from functools import partial
from typing import Annotated

from fastapi import APIRouter, File, Request, Response, UploadFile
from fastapi.concurrency import run_in_threadpool
from pydantic import BaseModel, Field

from nebrel.core.errors import Conflict, InvalidValue, NebrelError, NotFound
from nebrel.core.recipe.models import Recipe
from nebrel.makers.clerk import SERVICES
from nebrel.makers.orders import Order, OrderState
from nebrel.web.desk import OnDesk, bringing, heavy
from nebrel.web.errors import refusals
from nebrel.web.schemas import PieceOut

_MOST_MB = 60

router = APIRouter(prefix="/api", responses=refusals(403, 404, 409, 413, 415, 422, 507))


class ServiceOut(BaseModel):
    """A service.

    Attributes
    ----------
    keyed : whether a key is kept; it is never told
    practice : whether it is the one that ships, and gives keys away
    """

    id: str
    name: str
    keyed: bool
    practice: bool


class AccountOut(BaseModel):
    """What the key of a service stands for."""

    credits: int | None


class KeyIn(BaseModel):
    """A key, as the service gave it."""

    key: str = Field(max_length=1000)


class OrderOut(BaseModel):
    """How an order stands.

    Attributes
    ----------
    said, remedy : what stands in the way, in plain words; and what helps
    place : in the queue over there
    share : of it that is done, 0 to 1
    paid : credits; 0 once they came back
    """

    id: str
    service: str
    filename: str
    state: OrderState
    cancelled: bool
    tries: int
    said: str
    remedy: str
    place: int | None
    share: float | None
    paid: int | None
    piece_id: str | None
    created: datetime

    @classmethod
    def of(cls, order: Order) -> OrderOut:
        """As it is sent."""
        return cls(**{name: getattr(order, name) for name in cls.model_fields})


class FigureOrder(BaseModel):
    """The subject of a figure, as it is on the bench, to be made elsewhere."""

    recipe: Recipe
    name: str = Field("", max_length=200)
    service: str = Field("practice", max_length=40)
    again: bool = Field(False, description="although the same picture is ordered already")


@router.get("/makers")
def makers(desk: OnDesk) -> list[ServiceOut]:
    """The services that are known."""
    keys = desk.makers.keys
    return [
        ServiceOut(id=one, name=name, keyed=keys.get(one) is not None, practice=one == "practice")
        for one, name in SERVICES.items()
    ]


@router.get("/makers/{service}/account")
@heavy
def account(desk: OnDesk, service: str) -> AccountOut:
    """What is left with a service."""
    return AccountOut(credits=desk.makers.account(service).credits)


@router.put("/makers/{service}/key", status_code=204)
@heavy
def put_key(desk: OnDesk, service: str, body: KeyIn) -> None:
    """Keep a key, once the service knows it."""
    before = _known(desk, service)
    desk.makers.keys.put(service, body.key)
    try:
        desk.makers.account(service)
    except NebrelError:
        desk.makers.keys.put(service, before)
        raise


@router.delete("/makers/{service}/key", status_code=204)
def forget_key(desk: OnDesk, service: str) -> None:
    """Forget a key. Orders that are under way fail."""
    _known(desk, service)
    desk.makers.keys.put(service, None)


@router.post("/makers/practice/key", status_code=204)
@heavy
def practice_key(desk: OnDesk) -> None:
    """Have the practice service give a key away."""
    desk.makers.keys.put("practice", desk.practice_key())


@router.get("/orders")
def orders(desk: OnDesk) -> list[OrderOut]:
    """All orders, newest first."""
    return [OrderOut.of(order) for order in desk.makers.book.all()]


@router.post("/orders", status_code=201)
@bringing
def order_picture(
    desk: OnDesk,
    request: Request,
    file: Annotated[UploadFile, File()],
    service: str = "practice",
    again: bool = False,
) -> OrderOut:
    """Have a model made of a picture file; again, if the same is ordered already."""
    filename = file.filename or "picture"
    data = file.file.read(_MOST_MB * 1_000_000 + 1)
    if len(data) > _MOST_MB * 1_000_000:
        raise InvalidValue(filename, f"it is over {_MOST_MB} MB", "Send a smaller picture")
    desk.store.check_picture(data, filename)
    return OrderOut.of(desk.makers.order(service, data, filename, once=not again))


@router.post("/orders/figure", status_code=201)
async def order_figure(desk: OnDesk, body: FigureOrder) -> OrderOut:
    """Have a model made of the subject of a figure, cut out of its picture."""
    data: bytes = await desk.ask("subject_picture", recipe=body.recipe)
    called = f"{body.name or 'figure'}.png"
    order = partial(desk.makers.order, body.service, data, called, once=not body.again)
    return OrderOut.of(await run_in_threadpool(order))


@router.post("/orders/{order_id}/again")
def order_again(desk: OnDesk, order_id: str) -> OrderOut:
    """Try one once more. What is not known to have ended is not paid twice."""
    return OrderOut.of(desk.makers.again(order_id))


@router.post("/orders/{order_id}/cancel")
def cancel_order(desk: OnDesk, order_id: str) -> OrderOut:
    """Give one up."""
    return OrderOut.of(desk.makers.cancel(order_id))


@router.delete("/orders/{order_id}", status_code=204)
def remove_order(desk: OnDesk, order_id: str) -> None:
    """Forget one that is over."""
    desk.makers.book.remove(order_id)


@router.get(
    "/orders/{order_id}/picture",
    response_class=Response,
    responses={200: {"content": {"image/*": {}}}},
)
def order_view(desk: OnDesk, order_id: str) -> Response:
    """What was sent."""
    order = desk.makers.book.get(order_id)
    try:
        data = desk.makers.book.picture(order.id).read_bytes()
    except OSError as error:
        raise NotFound("picture", "it is not kept any more", "Order it anew") from error
    return Response(data, media_type=_media_type(data))


@router.post("/orders/{order_id}/piece", status_code=201)
@bringing
def piece_of_order(desk: OnDesk, request: Request, order_id: str) -> PieceOut:
    """A new piece that begins as the model that came back."""
    order = desk.makers.book.get(order_id)
    if order.state != "done":
        raise Conflict("order", "there is no model yet", "Wait until it is done")
    stem = order.filename.rpartition(".")[0] or order.filename
    try:
        piece = desk.store.create_from_mesh(desk.makers.book.model(order.id), f"{stem}.glb", stem)
    except OSError as error:
        raise NotFound("model", "it is not kept any more", "Order it anew") from error
    desk.makers.book.change(order.id, piece_id=piece.id)
    return PieceOut.made_of(piece)


def _known(desk: OnDesk, service: str) -> str | None:
    if service not in SERVICES:
        raise NotFound("service", f"“{service[:40]}” is not known", "Choose one of the list")
    return desk.makers.keys.get(service)


def _media_type(data: bytes) -> str:
    if data.startswith(b"\x89PNG"):
        return "image/png"
    if data.startswith(b"\xff\xd8"):
        return "image/jpeg"
    if data[:4] == b"RIFF" and data[8:12] == b"WEBP":
        return "image/webp"
    return "application/octet-stream"
