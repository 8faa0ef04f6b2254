"""One Nebrel at a time in a data folder."""

from __future__ import annotations

import os
from pathlib import Path
from typing import BinaryIO

from nebrel.core.errors import StorageFailed


class FolderLock:
    """Holds a data folder until it is let go of, or until this process ends, however it ends.

    Parameters
    ----------
    folder : has to be there; a file `lock` in it says which process holds it

    Raises
    ------
    StorageFailed : another process holds it, which is named, or the folder refuses
    """

    def __init__(self, folder: Path) -> None:
        path = folder / "lock"
        try:
            self._file: BinaryIO = path.open("a+b")
        except OSError as error:
            raise StorageFailed(
                str(folder),
                f"the folder cannot be written ({(error.strerror or '').lower()})",
                "Choose another with --data",
            ) from error
        try:
            _lock(self._file)
        except OSError as error:
            self._file.seek(0)
            held_by = self._file.read(100).decode("ascii", "replace").strip() or "unknown"
            self._file.close()
            raise StorageFailed(
                str(folder),
                f"another Nebrel is using it (process {held_by})",
                "Use that one, stop it first, or choose another folder with --data",
            ) from error
        self._file.truncate(0)
        self._file.write(str(os.getpid()).encode())
        self._file.flush()

    def release(self) -> None:
        """Let go of the folder."""
        self._file.close()


def _lock(file: BinaryIO) -> None:
    """Raise OSError when another process holds the file."""
    try:
        import fcntl
    except ImportError:  # Windows
        import msvcrt

        file.seek(1000)  # beyond what is written, as locked bytes cannot be read there
        msvcrt.locking(file.fileno(), msvcrt.LK_NBLCK, 1)  # type: ignore[attr-defined, unused-ignore]
        return
    fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
