"""The family of errors. Each says what was refused, why, and what to do about it."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Self


class NebrelError(Exception):
    """Root of the family: `what` was refused, `why`, and the `remedy`."""

    kind = "error"
    places: tuple[tuple[float, float], ...] = ()
    """Where it is, mm from the middle of the piece, right and up; where that is known."""

    def __init__(self, what: str, why: str, remedy: str) -> None:
        super().__init__(what, why, remedy)
        self.what = what
        self.why = why
        self.remedy = remedy

    def __str__(self) -> str:
        return f"{self.what}: {self.why}. {self.remedy}."

    def at(self, places: Iterable[tuple[float, float]]) -> Self:
        """The same, said of some places."""
        self.places = tuple(places)
        return self

    def as_dict(self) -> dict[str, str]:
        """Kind, what, why and remedy, as they are sent."""
        return {"kind": self.kind, "what": self.what, "why": self.why, "remedy": self.remedy}


class UnreadableFile(NebrelError):
    """A file cannot be read as what it claims to be."""

    kind = "unreadable_file"


class UnknownFile(UnreadableFile):
    """A file is of no kind that is known where it was brought."""


class TooLarge(NebrelError):
    """Reading or computing it would pass a limit on pixels, triangles or bytes."""

    kind = "too_large"


class InvalidValue(NebrelError):
    """A number or a text is outside what can be made."""

    kind = "invalid_value"


class InvalidRecipe(NebrelError):
    """A recipe does not have the shape that this version understands."""

    kind = "invalid_recipe"


class NotSolid(NebrelError):
    """The result would not be a closed, oriented manifold."""

    kind = "not_solid"


class NotFound(NebrelError):
    """A piece, a picture or a job that does not exist (any more)."""

    kind = "not_found"


class Conflict(NebrelError):
    """The piece was changed elsewhere since it was loaded."""

    kind = "conflict"


class Repeated(NebrelError):
    """It was done already; whoever means it asks for it again."""

    kind = "repeated"


class Busy(NebrelError):
    """More is asked for than can be taken on at the moment."""

    kind = "busy"


class Refused(NebrelError):
    """Somebody asks who is not let in."""

    kind = "refused"


class TimedOut(NebrelError):
    """What was to come did not come in time."""

    kind = "timed_out"


class StorageFailed(NebrelError):
    """The disk is full or refuses to be written."""

    kind = "storage_failed"


class Cancelled(NebrelError):
    """The work was called off before it was done."""

    kind = "cancelled"
