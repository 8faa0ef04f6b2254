"""At the door: foreign hosts and origins stay out, and no request is endless."""

from __future__ import annotations

from typing import Any
from urllib.parse import urlsplit

from starlette.datastructures import Headers
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from nebrel.core.errors import NebrelError, TooLarge
from nebrel.web.errors import respond

_LOOPBACK = {"localhost", "127.0.0.1", "::1"}


class Guard:
    """Refuses requests that name a foreign Host or come from a foreign Origin.

    Parameters
    ----------
    app : what lies behind
    host : the address the server was told to listen on; any Host is let in when that
        is not the loopback address, but an Origin must still be the server itself
    most_bytes : the largest body
    """

    def __init__(self, app: ASGIApp, host: str, most_bytes: int) -> None:
        self._app = app
        self._hosts = _LOOPBACK if host in _LOOPBACK else None
        self._most = most_bytes

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Let a request in or refuse it."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        host, origin = headers.get("host", ""), headers.get("origin")
        refusal: tuple[NebrelError, int] | None = None
        if self._hosts is not None and _name(host) not in self._hosts:
            refusal = _refused("host", f"“{host[:60]}” is not this machine"), 403
        elif origin is not None and urlsplit(origin).netloc != host:
            refusal = _refused("origin", f"“{origin[:60]}” is another site"), 403
        elif _declared(headers) > self._most:
            refusal = (
                TooLarge(
                    "upload",
                    f"it is over {self._most / 1e6:.0f} MB",
                    "Save it smaller or compressed",
                ),
                413,
            )
        if refusal:
            await respond(*refusal)(scope, receive, send)
            return
        seen = 0

        async def counted() -> Message:
            nonlocal seen
            message = await receive()
            seen += len(message.get("body", b""))
            if seen > self._most:
                raise TooLarge(
                    "upload",
                    f"it is over {self._most / 1e6:.0f} MB",
                    "Save it smaller or compressed",
                )
            return message

        await self._app(scope, counted, send)


def _name(host: str) -> str:
    return (urlsplit(f"//{host}").hostname or "") if host else ""


def _declared(headers: Headers) -> int:
    value: Any = headers.get("content-length", "0")
    return int(value) if value.isdigit() else 0


def _refused(what: str, why: str) -> NebrelError:
    error = NebrelError(what, why, "Open Nebrel at its own address")
    error.kind = "refused"
    return error
