"""Makes links, and keeps what they came to."""

from __future__ import annotations

from collections import Counter, OrderedDict
from collections.abc import Callable
from dataclasses import dataclass
from threading import Event, Lock
from typing import Any, Generic, TypeVar

from nebrel.core.errors import Busy, Cancelled, NebrelError
from nebrel.core.links.link import RUN, TELL, Family, Link, Noted, read_file
from nebrel.core.links.weigh import Ledger

T = TypeVar("T")
Progress = Callable[[float, str], None]
Files = Callable[[str, str], Any]


@dataclass(frozen=True)
class Note:
    """What is wrong with what a link makes; one that is refused contributes nothing."""

    key: str
    refused: bool
    error: NebrelError


@dataclass(frozen=True)
class Made(Generic[T]):
    """What a link came to, with the notes of all before it.

    Attributes
    ----------
    passing : a file was missing on the way, which may be brought again: it is not kept
    """

    value: T
    notes: tuple[Note, ...]
    passing: bool = False


class Runner:
    """Makes links that are not kept, upstream first; several threads may ask at once.

    Parameters
    ----------
    files : gives a kept file by its kind and the SHA-256 of its content
    most_bytes : how much the kept results may weigh
    """

    def __init__(self, files: Files, most_bytes: int = 600_000_000) -> None:
        self._files = files
        self._most = most_bytes
        self._kept: OrderedDict[str, Made[Any] | NebrelError] = OrderedDict()
        self._under_way: dict[str, Event] = {}
        self._ledger = Ledger()
        self._lock = Lock()
        self.computed: Counter[str] = Counter()
        self.reused: Counter[str] = Counter()

    @property
    def weight(self) -> int:
        """Bytes that are kept."""
        return self._ledger.weight

    def has(self, link: Link[Any]) -> bool:
        """Whether a result is kept."""
        with self._lock:
            return link.key in self._kept

    def run(self, *goals: Link[Any], tell: Progress | None = None) -> list[Made[Any]]:
        """What links came to; whatever lies before them and is not kept is made first.

        Parameters
        ----------
        tell : told the share done (0 to 1) and the step; may raise to call it off

        Raises
        ------
        NebrelError : what a link refused; it is kept and refused again
        """
        hear = tell or (lambda _done, _words: None)
        held: dict[str, Made[Any]] = {}
        todo = self._missing(goals, held)
        waiting = Counter(before.key for link in todo for before in {*link.before})
        wanted = {goal.key for goal in goals}
        whole, done = sum(link.cost for link in todo) or 1.0, 0.0
        for link in todo:
            share = done / whole
            hear(share, link.words)

            def still(share: float = share, words: str = link.words) -> None:
                hear(share, words)

            held[link.key] = self._make(link, held, still)
            done += link.cost
            # What nothing here asks for any more is left to the cache.
            for before in {*link.before}:
                waiting[before.key] -= 1
                if not waiting[before.key] and before.key not in wanted:
                    held.pop(before.key, None)
        found = [held[goal.key] for goal in goals]
        with self._lock:
            for goal, made in zip(goals, found, strict=True):
                if goal.key in self._kept:  # it may hold more by now
                    self._ledger.enter(goal.key, made.value)
            self._shed()
        return found

    def _missing(self, goals: tuple[Link[Any], ...], held: dict[str, Made[Any]]) -> list[Link[Any]]:
        """What is still to be made, in order; what is kept of it goes into `held`."""
        order: dict[str, Link[Any]] = {}

        def visit(link: Link[Any]) -> None:
            if link.key in order or link.key in held:
                return
            kept = self._look(link)
            if kept is not None:
                held[link.key] = kept
                return
            for before in link.before:
                visit(before)
            order[link.key] = link

        for goal in goals:
            visit(goal)
        return list(order.values())

    def _make(
        self, link: Link[Any], held: dict[str, Made[Any]], tell: Callable[[], None]
    ) -> Made[Any]:
        while True:
            with self._lock:
                flight = self._under_way.get(link.key)
                if flight is None:
                    mine = self._under_way[link.key] = Event()
                    break
            # Another question is at it; should that be called off, it falls to this one.
            flight.wait()
            kept = self._look(link)
            if kept is not None:
                return kept
        try:
            kept = self._look(link)
            return self._compute(link, held, tell) if kept is None else kept
        finally:
            with self._lock:
                del self._under_way[link.key]
            mine.set()

    def _compute(
        self, link: Link[Any], held: dict[str, Made[Any]], tell: Callable[[], None]
    ) -> Made[Any]:
        before = [held[one.key] for one in link.before]
        notes = [note for made in before for note in made.notes]
        found: list[Made[Any]] = []
        passing = any(made.passing for made in before)

        def settled(part: Any) -> Any:
            if isinstance(part, Link):
                return held[part.key].value
            if isinstance(part, Family):
                return part.of
            if isinstance(part, tuple) and any(isinstance(p, Link) for p in part):
                return tuple(settled(p) for p in part)
            if part is TELL:
                return tell
            return run if part is RUN else part

        def run(other: Link[Any]) -> Any:
            found.extend(self.run(other, tell=lambda _done, _words: tell()))
            return found[-1].value

        try:
            if link.make is read_file:
                value = self._files(*link.given)
            else:
                value = link.make(*[settled(part) for part in link.given])
        except (Cancelled, Busy):
            raise
        except NebrelError as error:
            if link.refused == "raised":
                if link.make is not read_file:  # a file may be brought again
                    self._keep(link.key, _bare(error))
                raise
            if link.refused == "told":
                value, passing = _bare(error), True
            else:
                value = settled(link.given[0]) if link.refused == "as before" else None
                notes.append(Note(link.key, True, _bare(error)))
        if isinstance(value, Noted):
            notes += [Note(link.key, False, doubt) for doubt in value.doubts]
            value = value.value
        notes += [note for made in found for note in made.notes]
        made = Made(value, tuple(dict.fromkeys(notes)), passing)
        self.computed[link.words] += 1
        if not passing:
            self._keep(link.key, made)
        return made

    def _look(self, link: Link[Any]) -> Made[Any] | None:
        with self._lock:
            kept = self._kept.get(link.key)
            if kept is None:
                return None
            self._kept.move_to_end(link.key)
            self.reused[link.words] += 1
        if isinstance(kept, NebrelError):
            raise _bare(kept)
        return kept

    def _keep(self, key: str, made: Made[Any] | NebrelError) -> None:
        with self._lock:
            self._kept[key] = made
            self._ledger.enter(key, made.value if isinstance(made, Made) else None)
            self._shed()

    def _shed(self) -> None:
        """Drop what was used least lately, until the rest is light enough."""
        while self._ledger.weight > self._most and len(self._kept) > 1:
            key, _ = self._kept.popitem(last=False)
            self._ledger.strike(key)


def _bare(error: NebrelError) -> NebrelError:
    """The same error without the frames it came through, which hold all they worked on."""
    return type(error)(error.what, error.why, error.remedy)
