"""What kept results weigh: every array once, however many results share it."""

from __future__ import annotations

from collections import Counter
from dataclasses import is_dataclass
from typing import Any

import numpy as np

_OF_A_TRIANGLE = 215  # bytes, in a solid of the boolean kernel, as measured
_OF_ANYTHING = 500


class Ledger:
    """The weight of all results that are kept, in bytes."""

    def __init__(self) -> None:
        self.weight = 0
        self._held: dict[str, dict[int, int]] = {}
        self._count: Counter[int] = Counter()

    def enter(self, key: str, result: Any) -> None:
        """Count a result, or count it again: what it holds may have grown since."""
        parts = {id(part): weight for part, weight in heavy(result)}
        if self._held.get(key) == parts:
            return
        self.strike(key)
        self._held[key] = parts
        self.weight += _OF_ANYTHING
        for part, weight in parts.items():
            if not self._count[part]:
                self.weight += weight
            self._count[part] += 1

    def strike(self, key: str) -> None:
        """Count a result no more."""
        parts = self._held.pop(key, None)
        if parts is None:
            return
        self.weight -= _OF_ANYTHING
        for part, weight in parts.items():
            self._count[part] -= 1
            if not self._count[part]:
                del self._count[part]
                self.weight -= weight


def heavy(value: Any) -> list[tuple[Any, int]]:
    """Arrays and solids that a result holds, each with its bytes."""
    found, left = [], [value]
    while left:
        one = left.pop()
        if isinstance(one, np.ndarray):
            while isinstance(one.base, np.ndarray):
                one = one.base
            found.append((one, one.nbytes))
        elif isinstance(one, list | tuple):
            left += one
        elif isinstance(one, dict):
            left += one.values()
        elif hasattr(one, "num_tri"):
            found.append((one, _OF_A_TRIANGLE * one.num_tri()))
        elif is_dataclass(one) and not isinstance(one, type):
            left += vars(one).values()
    return found
