"""Nebrel: from a picture to a piece you can hold, in millimetres."""

__version__ = "0.1.0"
