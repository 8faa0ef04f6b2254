"""The adapter of the practice service. That of a true service would be one file like this."""

from __future__ import annotations

import hashlib
from typing import Any

import httpx

from nebrel.makers.adapter import Account, Lasting, Passing, Status

_TIMEOUT_S = 20.0
_LATER = "It is tried again by itself"
_PASSING = {408, 425, 429, 500, 502, 503, 504}
_LASTING = {
    401: "Put in another key",
    402: "Get more credits, or another key",
    404: "Order it anew",
    413: "Send a smaller picture",
    415: "Send a PNG or JPEG",
    422: "Isolate the subject first, or send another picture",
}


class PracticeAdapter:
    """The practice service at an address.

    Parameters
    ----------
    address : with scheme and port
    key : whose credits pay
    """

    def __init__(
        self, address: str, key: str, transport: httpx.BaseTransport | None = None
    ) -> None:
        self._client = httpx.Client(
            base_url=address,
            headers={"Authorization": f"Bearer {key}"} if key else {},
            timeout=_TIMEOUT_S,
            transport=transport,
            trust_env=False,
        )

    def fresh_key(self) -> str:
        """A key with some credits; a true service sells them elsewhere."""
        return str(self._asked("POST", "/keys").json()["key"])

    def account(self) -> Account:
        """See `Adapter`."""
        return Account(int(self._asked("GET", "/account").json()["credits"]))

    def submit(self, picture: bytes, filename: str, once: str) -> Status:
        """See `Adapter`."""
        found = self._asked(
            "POST",
            "/jobs",
            files={"picture": (filename, picture)},
            headers={"Idempotency-Key": once},
        )
        return _status(found)

    def look(self, remote_id: str) -> Status:
        """See `Adapter`."""
        return _status(self._asked("GET", f"/jobs/{remote_id}"))

    def fetch(self, remote_id: str) -> bytes:
        """See `Adapter`."""
        found = self._asked("GET", f"/jobs/{remote_id}/model")
        told = found.headers.get("X-Checksum-SHA256")
        if told is not None and told != hashlib.sha256(found.content).hexdigest():
            raise Passing("the model came incomplete", _LATER)
        return found.content

    def cancel(self, remote_id: str) -> Status:
        """See `Adapter`."""
        return _status(self._asked("DELETE", f"/jobs/{remote_id}"))

    def _asked(self, method: str, path: str, **more: Any) -> httpx.Response:
        try:
            found = self._client.request(method, path, **more)
        except httpx.TimeoutException as error:
            raise Passing("it does not answer in time", _LATER) from error
        except httpx.HTTPError as error:
            raise Passing("it cannot be reached", _LATER) from error
        if found.is_success:
            return found
        try:
            why = str(found.json()["error"])
        except (ValueError, KeyError, TypeError):
            why = f"it answers with {found.status_code}"
        why = why[:1].lower() + why[1:]
        if found.status_code in _PASSING:
            raise Passing(why, _LATER, _seconds(found.headers.get("Retry-After")))
        raise Lasting(why, _LASTING.get(found.status_code, "Order it anew"))


def _seconds(text: str | None) -> float | None:
    try:
        return max(0.0, float(text)) if text else None
    except ValueError:
        return None


def _status(found: httpx.Response) -> Status:
    try:
        told = found.json()
        return Status(
            remote_id=str(told["id"]),
            state=told["state"],
            place=told.get("place"),
            share=told.get("share"),
            paid=told.get("paid"),
            failure=str(told.get("failure") or ""),
        )
    except (ValueError, KeyError, TypeError) as error:
        raise Passing("its answer cannot be understood", _LATER) from error
