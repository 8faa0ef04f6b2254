"""A link: one computation, and a key that is a hash of all that goes into it."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable
from dataclasses import dataclass, fields, is_dataclass
from functools import cached_property, partial
from typing import Any, Generic, Literal, TypeVar

from pydantic import BaseModel

from nebrel.core.errors import NebrelError
from nebrel.core.recipe.length import Length

T = TypeVar("T")
VERSION = 24  # part of every key: raise it when a link computes something else than before

# What changes nothing but how a step is called.
_WORDS = {"id", "name", "enabled", "filename"}


@dataclass(frozen=True)
class _Given:
    """Something that only the runner has, and that changes no result."""

    word: str


TELL = _Given("tell")
"""Among what is given: a function to be called now and then; it may raise to call the work off."""

RUN = _Given("run")
"""Among what is given: a function from a link to its result, for links found on the way."""


@dataclass(frozen=True, eq=False)
class Link(Generic[T]):
    """A computation that was not made yet.

    Attributes
    ----------
    make : called with `given`, each link of it replaced by its result; pure
    given : links, and settings: whatever the result depends on, and nothing else
    words : what the progress says meanwhile
    cost : seconds it takes about, at full quality: its share of the progress
    refused : where it refuses, that is raised; or only noted, and what is first among `given`
        goes on, or nothing does; or the refusal itself is handed on
    """

    make: Callable[..., Any]
    given: tuple[Any, ...]
    words: str
    cost: float = 0.1
    refused: Literal["raised", "as before", "nothing", "told"] = "raised"

    @cached_property
    def key(self) -> str:
        """Hexadecimal; the same settings on the same files have the same."""
        text = json.dumps([VERSION, plain(self.make), self.refused, plain(self.given)])
        return hashlib.sha256(text.encode()).hexdigest()

    @cached_property
    def before(self) -> tuple[Link[Any], ...]:
        """All links among what is given."""
        found: list[Link[Any]] = []
        for part in self.given:
            found += [part] if isinstance(part, Link) else []
            found += [p for p in part if isinstance(p, Link)] if isinstance(part, tuple) else []
        return tuple(found)


@dataclass(frozen=True)
class Family:
    """Links that differ by one number, handed on to be made as they are needed.

    Attributes
    ----------
    of : the link for a number; one of them tells all the family apart
    at : that one
    """

    of: Callable[[float], Link[Any]]
    at: float


@dataclass(frozen=True)
class Noted(Generic[T]):
    """A result, and what is doubtful about it."""

    value: T
    doubts: tuple[NebrelError, ...]


def read_file(kind: str, sha256: str) -> Any:
    """Stands for reading a kept file; whoever runs links was told how."""
    raise AssertionError(kind, sha256)


def later(link: Link[Any]) -> Family:
    """A link that is run where it is asked for, so that what it refuses is refused there."""
    return Family(partial(_regardless, link), 0.0)


def _regardless(link: Link[Any], _: float) -> Link[Any]:
    return link


def file(kind: str, sha256: str, told: bool = False) -> Link[Any]:
    """A kept file, by its content.

    Parameters
    ----------
    told : whoever is given it takes an error instead, and is refused itself: see `at_hand`
    """
    refused: Literal["raised", "told"] = "told" if told else "raised"
    return Link(read_file, (kind, sha256), f"reading the {kind}", 0.3, refused)


def at_hand(read: T | NebrelError) -> T:
    """What was read of a file. Raises why it could not be."""
    if isinstance(read, NebrelError):
        raise read
    return read


def _is_place(value: Any) -> bool:
    return isinstance(value, tuple) and all(type(part) is float for part in value)


def plain(value: Any) -> Any:
    """Settings as JSON, without the words that change nothing.

    Raises
    ------
    TypeError : it is no setting, and could make two results look the same
    """
    if isinstance(value, Link):
        return ["made by", value.key]
    if isinstance(value, Family):
        return ["one of", value.of(value.at).key]
    if isinstance(value, Length):
        return value.mm
    if isinstance(value, BaseModel):
        own = {
            name: plain(getattr(value, name))
            for name in sorted(type(value).model_fields)
            if name not in _WORDS
        }
        return [type(value).__name__, own]
    if is_dataclass(value) and not isinstance(value, type):
        own = {f.name: plain(getattr(value, f.name)) for f in fields(value)}
        return [type(value).__name__, own]
    if isinstance(value, list) and value and _is_place(value[0]):
        return value  # of a stroke: many, and all alike
    if isinstance(value, list | tuple):
        return [plain(part) for part in value]
    if isinstance(value, dict):
        return [[plain(name), plain(part)] for name, part in value.items()]
    if isinstance(value, float) and value.is_integer():
        return int(value)  # a default may be written without a point
    if value is None or isinstance(value, bool | int | float | str):
        return value
    if callable(value) and hasattr(value, "__qualname__"):
        return f"{value.__module__}.{value.__qualname__}"
    raise TypeError(f"{type(value).__name__} is no setting")
