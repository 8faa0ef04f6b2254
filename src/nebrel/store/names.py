"""Names as people type them."""

from __future__ import annotations


def clean_name(text: str) -> str:
    """A name on one line, without control characters, at most 200 characters."""
    return " ".join("".join(c if c.isprintable() else " " for c in text).split())[:200]
