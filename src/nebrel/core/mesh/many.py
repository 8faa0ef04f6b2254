"""Where compiled loops pay."""

import sys

MANY = 100_000
"""Faces. Below, whole arrays at a time are nearly as quick, and loading compiled code is not."""

_COMPILED = "nebrel.core.mesh.compiled"


def many(count: int) -> bool:
    """Whether so many faces are worth compiled loops; any number is, once these are loaded."""
    return count > MANY or _COMPILED in sys.modules
