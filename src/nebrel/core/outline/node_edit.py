"""What is done to a node of an outline by hand, in a module that loads nothing heavy."""

from __future__ import annotations

from dataclasses import dataclass

from nebrel.core.choices import Does


@dataclass(frozen=True)
class NodeEdit:
    """One thing done to a node.

    Attributes
    ----------
    at : where the node is, or where on the line one is added, mm
    to : where it is put; None where it stays
    """

    does: Does
    at: tuple[float, float]
    to: tuple[float, float] | None = None
