"""Keys of services, kept in the data folder for its owner alone."""

from __future__ import annotations

import json
import os
import threading
from pathlib import Path

from nebrel.core.errors import InvalidValue, StorageFailed

_MOST = 400


class Keys:
    """What is kept in `keys.json`; nobody else on the machine may read it."""

    def __init__(self, folder: Path) -> None:
        self._path = folder / "keys.json"
        self._lock = threading.Lock()

    def get(self, service: str) -> str | None:
        """The key of a service."""
        return self._all().get(service)

    def put(self, service: str, key: str | None) -> None:
        """Keep a key, or forget it. Raises InvalidValue, StorageFailed."""
        kept = None if key is None else key.strip()
        if kept is not None and not (kept and kept.isascii() and kept.isprintable()):
            raise InvalidValue("key", "it is no key", "Copy it from the service once more")
        if kept is not None and len(kept) > _MOST:
            raise InvalidValue("key", f"it has over {_MOST} letters", "Copy it once more")
        with self._lock:
            keys = self._all()
            if kept is None:
                keys.pop(service, None)
            else:
                keys[service] = kept
            part = self._path.with_suffix(".part")
            try:
                part.unlink(missing_ok=True)
                with os.fdopen(os.open(part, os.O_WRONLY | os.O_CREAT, 0o600), "w") as stream:
                    json.dump(keys, stream)
                part.replace(self._path)
            except OSError as error:
                raise StorageFailed(
                    "key", f"it cannot be kept ({error.strerror})", "Free some space"
                ) from error

    def _all(self) -> dict[str, str]:
        try:
            kept = json.loads(self._path.read_text())
        except (OSError, ValueError):
            return {}
        return {str(k): str(v) for k, v in kept.items()} if isinstance(kept, dict) else {}
