"""At the door: foreign hosts and origins stay out, and no request is endless."""

from __future__ import annotations

import asyncio
import re
from typing import Any

from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from nebrel.core.errors import NebrelError, Refused, TimedOut, TooLarge
from nebrel.web.errors import respond

LOOPBACK = {"localhost", "127.0.0.1", "::1"}
# A name or an address, and perhaps a port: nothing of whom, and nothing of where on it.
_HOST = re.compile(r"(?P<name>[\w.-]+|\[[0-9a-fA-F:.]+\])(:\d{1,5})?", re.ASCII)
_MOST_OTHER = 8_000_000  # of a body that brings no file
_STALL_S = 30.0
# Of what is refused, so much is taken in and thrown away: who is cut off while sending sees a
# broken connection instead of the answer.
_DRAINED = 64_000_000
_DRAIN_S = 3.0

# Scripts, styles and pictures come from here alone. Styles of single elements are allowed, as
# parts of the front end place things with them; blobs are pictures and meshes on the screen.
_POLICY = "; ".join(
    (
        "default-src 'self'",
        "script-src 'self'",
        "style-src 'self' 'unsafe-inline'",
        "img-src 'self' data: blob:",
        "font-src 'self' data:",
        "connect-src 'self' data: blob:",
        "worker-src 'self' blob:",
        "object-src 'none'",
        "base-uri 'none'",
        "form-action 'self'",
        "frame-ancestors 'none'",
    )
)
_HEADERS = {
    "Content-Security-Policy": _POLICY,
    "X-Content-Type-Options": "nosniff",
    "X-Frame-Options": "DENY",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Referrer-Policy": "same-origin",
}


class _Refused(Exception):
    """A body that is refused while it streams."""

    def __init__(self, error: NebrelError) -> None:
        super().__init__(str(error))
        self.error = error


class Guard:
    """Refuses requests from elsewhere and bodies that are too large or never end.

    Parameters
    ----------
    app : what lies behind
    host : the address the server was told to listen on; any Host is let in when that
        is not the loopback address, but an Origin must still be the server itself
    most_bytes : the largest body that brings a file; others may have 8 MB
    stall_s : a body of which nothing comes for so long is dropped
    """

    def __init__(self, app: ASGIApp, host: str, most_bytes: int, stall_s: float = _STALL_S) -> None:
        self._app = app
        self._hosts = LOOPBACK if host in LOOPBACK else None
        self._most = most_bytes
        self._stall = stall_s

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Let a request in or refuse it."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        file = headers.get("content-type", "").startswith("multipart/form-data")
        most = self._most if file else min(self._most, _MOST_OTHER)
        refusal = self._foreign(headers, scope["path"])
        if refusal is None and _declared(headers) > most:
            refusal = _too_large(most)
        refused: list[NebrelError] = []
        begun = False

        async def shielded(message: Message) -> None:
            nonlocal begun
            if message["type"] == "http.response.start":
                if refused and not begun:
                    return  # whatever was made of half a body: the refusal says why
                begun = True
                found = MutableHeaders(scope=message)
                for name, value in _HEADERS.items():
                    found.setdefault(name, value)
            if begun:
                await send(message)

        if refusal is not None:
            await _drain(receive)
            await respond(refusal)(scope, receive, shielded)
            return
        seen, over = 0, False

        async def counted() -> Message:
            nonlocal seen, over
            if over:
                return await receive()  # waits for the other side to leave
            try:
                message = await asyncio.wait_for(receive(), self._stall)
            except TimeoutError:
                refused.append(_stalled(self._stall))
                raise _Refused(refused[0]) from None
            seen += len(message.get("body", b""))
            over = not message.get("more_body", False)  # or its sender left
            if seen > most:
                refused.append(_too_large(most))
                raise _Refused(refused[0])
            return message

        try:
            await self._app(scope, counted, shielded)
        except Exception:
            if not refused:
                raise
        if refused and not begun:
            answer = respond(refused[0])
            answer.headers["Connection"] = "close"
            refused = []
            if not over:
                await _drain(receive)
            await answer(scope, receive, shielded)

    def _foreign(self, headers: Headers, path: str) -> NebrelError | None:
        host, origin = headers.get("host", ""), headers.get("origin")
        name = _name(host)
        if not name or (self._hosts is not None and name not in self._hosts):
            return _refused("host", f"“{host[:60]}” is not this machine")
        if origin is not None and origin not in (f"http://{host}", f"https://{host}"):
            return _refused("origin", f"“{origin[:60]}” is another site")
        site = headers.get("sec-fetch-site", "none")
        if path.startswith("/api/") and site not in ("same-origin", "none"):
            return _refused("request", "another site asks for it")
        return None


async def _drain(receive: Receive) -> None:
    left = _DRAINED
    try:
        async with asyncio.timeout(_DRAIN_S):
            while left > 0:
                message = await receive()
                if not message.get("more_body", False):
                    return
                left -= len(message.get("body", b""))
    except TimeoutError:
        return


def _name(host: str) -> str:
    found = _HOST.fullmatch(host)
    return found["name"].strip("[]").lower() if found else ""


def _declared(headers: Headers) -> int:
    value: Any = headers.get("content-length", "0")
    return int(value) if value.isascii() and value.isdigit() and len(value) < 20 else 0


def _too_large(most: int) -> TooLarge:
    return TooLarge("upload", f"it is over {most / 1e6:.0f} MB", "Save it smaller or compressed")


def _stalled(seconds: float) -> NebrelError:
    why = f"nothing of it came for {seconds:g} s"
    return TimedOut("upload", why, "Send it again; nothing was kept")


def _refused(what: str, why: str) -> NebrelError:
    return Refused(what, why, "Open Nebrel at its own address")
