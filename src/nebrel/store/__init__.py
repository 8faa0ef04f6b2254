"""Where pieces are kept: SQLite for what is small, content-addressed files for what is not."""

from nebrel.store.store import Store

__all__ = ["Store"]
