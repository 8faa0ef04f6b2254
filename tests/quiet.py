"""How much else a machine does, so that what is slow by itself is told from what had to wait."""

from __future__ import annotations

import os
import time
from pathlib import Path

BUSY = 0.5  # cores that others keep busy


class Watch:
    """From its making on: what this process and all that it began took, and what others did.

    Others are other processes, and other machines where this one is simulated; where the
    system does not tell, nobody else is busy.
    """

    def __init__(self) -> None:
        self._since, self._all, self._own = time.monotonic(), busy_s(), _own()

    def own_s(self) -> float:
        """Seconds of processor that this process and its children took."""
        return _own() - self._own

    def others(self) -> float:
        """How many cores others kept busy."""
        spent = time.monotonic() - self._since
        return max(0.0, (busy_s() - self._all - self.own_s()) / max(spent, 0.01))

    def quiet(self) -> bool:
        """Whether others left this machine to itself."""
        return self.others() < BUSY


def busy_s() -> float:
    """Seconds that processors were busy since the machine began, with what others took of them."""
    try:
        words = Path("/proc/stat").read_text("ascii").split("\n", 1)[0].split()
    except OSError:
        return _own()
    user, nice, system, _idle, _waiting, irq, softirq, steal = map(int, words[1:9])
    return (user + nice + system + irq + softirq + steal) / os.sysconf("SC_CLK_TCK")


def _own() -> float:
    import psutil

    found = sum(os.times()[:4])
    for child in psutil.Process().children(recursive=True):
        try:
            found += sum(child.cpu_times()[:4])
        except psutil.Error:
            continue
    return found
