"""What has to be known of a service that makes models."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, Protocol

RemoteState = Literal["queued", "working", "done", "failed", "cancelled"]


@dataclass(frozen=True)
class Account:
    """What a key stands for.

    Attributes
    ----------
    credits : that are left; None where the service does not tell
    """

    credits: int | None


@dataclass(frozen=True)
class Status:
    """How a job stands over there.

    Attributes
    ----------
    place : in the queue, from 1
    share : of it that is done, 0 to 1
    paid : credits; 0 once they were paid back
    failure : why it failed, in the words of the service
    """

    remote_id: str
    state: RemoteState
    place: int | None = None
    share: float | None = None
    paid: int | None = None
    failure: str = ""


class Trouble(Exception):
    """Why a request was not done: `why` and the `remedy`, in plain words."""

    def __init__(self, why: str, remedy: str) -> None:
        super().__init__(why)
        self.why, self.remedy = why, remedy


class Passing(Trouble):
    """It may be better in a while.

    Attributes
    ----------
    after_s : the service says when to ask again; None where it does not
    """

    def __init__(self, why: str, remedy: str, after_s: float | None = None) -> None:
        super().__init__(why, remedy)
        self.after_s = after_s


class Lasting(Trouble):
    """It will not be better by itself: the key, the credits, the picture."""


class Adapter(Protocol):
    """A service. Each call is one request; none of them waits for a job or tries again.

    All of them raise Passing or Lasting.
    """

    def account(self) -> Account:
        """What the key stands for."""
        ...

    def submit(self, picture: bytes, filename: str, once: str) -> Status:
        """Begin a job.

        Parameters
        ----------
        once : the same for the same job: however often it is sent, it is begun and paid once
        """
        ...

    def look(self, remote_id: str) -> Status:
        """How a job stands."""
        ...

    def fetch(self, remote_id: str) -> bytes:
        """The model that came of it, whole."""
        ...

    def cancel(self, remote_id: str) -> Status:
        """Give a job up, if that is still possible."""
        ...
