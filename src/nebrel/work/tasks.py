"""What is asked of workers: plain data in, plain data out, so that any executor takes it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

LaneName = Literal["draft", "view", "sight", "work"]


@dataclass(frozen=True)
class Task:
    """Something to be done.

    Attributes
    ----------
    name : a line of TASKS
    given : what its function takes by name; `recipe` is a document
    id : of the job or question, by which it may be stopped; empty: it cannot be
    watched : whether somebody looks how far it is
    """

    name: str
    given: dict[str, Any]
    id: str = ""
    watched: bool = False
