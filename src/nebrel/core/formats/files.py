"""Writing a file whole or not at all."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import BinaryIO

from nebrel.core.errors import StorageFailed


@contextmanager
def writing(path: Path, called: str = "") -> Iterator[BinaryIO]:
    """Write beside the target and rename at the end, so a failure leaves what was there.

    Parameters
    ----------
    path : the target
    called : what to call it in an error, its own name when left out

    Raises
    ------
    StorageFailed : the disk is full, the folder is missing or refuses
    """
    try:
        if path.exists() and not path.is_file():
            with path.open("wb") as file:  # a device or a pipe cannot be renamed onto
                yield file
            return
        handle, name = tempfile.mkstemp(
            dir=path.parent, prefix=f".{path.name[:40]}-", suffix=".part"
        )
        try:
            with os.fdopen(handle, "wb") as file:
                yield file
                file.flush()
            Path(name).chmod(0o644)
            Path(name).replace(path)
        except BaseException:
            Path(name).unlink(missing_ok=True)
            raise
    except OSError as error:
        reason = error.strerror or type(error).__name__
        raise StorageFailed(
            called or path.name,
            f"it cannot be written ({reason.lower()})",
            "Free some space or choose another place; nothing that was there is changed",
        ) from error
