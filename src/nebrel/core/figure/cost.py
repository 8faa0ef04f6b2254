"""What a figure takes, told before it is begun."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from nebrel.core.data import Floats
from nebrel.core.errors import InvalidValue

_FACES = 8.0  # for each pixel of the subject, front, back and rims
_SECONDS, _GB = 5e-6, 2.4e-7  # for each of them, as measured
_LEAST_S, _LEAST_GB = 0.5, 0.25
_SPARE = 0.8  # of the memory that is free, which it may take
_KNOWN = Path("/proc/meminfo")


@dataclass(frozen=True)
class Cost:
    """Seconds and gigabytes, about."""

    seconds: float
    gb: float


def cost_of(cover: Floats, resolution: int) -> Cost:
    """What a subject takes with so many cells along its longer side.

    Parameters
    ----------
    cover : (rows, cols) 0 to 1
    """
    times = resolution / max(cover.shape)
    faces = _FACES * float((cover >= 0.5).sum()) * times**2
    return Cost(_LEAST_S + _SECONDS * faces, _LEAST_GB + _GB * faces)


def check_memory(cost: Cost, resolution: int, free_gb: float | None = None) -> None:
    """Raise InvalidValue where there is not enough memory, with a resolution that does.

    Parameters
    ----------
    free_gb : left out: what the machine says; where it says nothing, all is let through
    """
    free = memory_gb() if free_gb is None else free_gb
    if free is None or cost.gb <= _SPARE * free or cost.gb < 2 * _LEAST_GB:
        return
    share = max(0.0, _SPARE * free - _LEAST_GB) / (cost.gb - _LEAST_GB)
    fits = max(64, int(resolution * share**0.5) // 32 * 32)
    raise InvalidValue(
        "resolution",
        f"{resolution} needs about {cost.gb:.1f} GB, and {free:.1f} are free",
        f"Use {fits} or less",
    )


def memory_gb() -> float | None:
    """How much is free, where the machine says so."""
    try:
        lines = _KNOWN.read_text().splitlines()
    except OSError:
        return None
    found = [line.split()[1] for line in lines if line.startswith("MemAvailable:")]
    return int(found[0]) / 1e6 if found else None
