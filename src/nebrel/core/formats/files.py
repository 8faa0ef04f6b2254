"""Writing a file whole or not at all, and where files lie that are called by their hash."""

from __future__ import annotations

import errno
import os
import re
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import BinaryIO

from nebrel.core.errors import NotFound, StorageFailed

Tell = Callable[[float], None] | None
# What others may not do with a new file; asked for once, as asking sets it.
_MASK = os.umask(0o077)
os.umask(_MASK)
_SHA256 = re.compile(r"[0-9a-f]{64}")


def in_parts(count: int, step: int, tell: Tell = None) -> Iterator[slice]:
    """Slices of so many at once; told the share done after each; may raise to call it off."""
    for start in range(0, count, step):
        yield slice(start, start + step)
        if tell is not None:
            tell(min(1.0, (start + step) / count))


@contextmanager
def writing(path: Path, called: str = "", through: bool = False) -> Iterator[BinaryIO]:
    """Write beside the target and rename at the end, so a failure leaves what was there.

    Parameters
    ----------
    path : the target
    called : what to call it in an error, its own name when left out
    through : wait until it lies on the disk, for what must outlast a power cut

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
            os.close(handle)  # opened by its name, which some libraries write to
            with Path(name).open("wb") as file:
                yield file
                file.flush()
                if through:
                    os.fsync(file.fileno())
            Path(name).chmod(0o666 & ~_MASK)
            Path(name).replace(path)
            if through:
                _sync_folder(path.parent)
        except BaseException:
            Path(name).unlink(missing_ok=True)
            raise
    except OSError as error:
        reason = (error.strerror or type(error).__name__).lower()
        full = error.errno in (errno.ENOSPC, errno.EDQUOT)
        remedy = "Free some space" if full else "Choose another place"
        if error.errno == errno.ENOENT:
            reason, remedy = f"there is no folder “{path.parent}”", "Make the folder first"
        raise StorageFailed(
            called or path.name,
            f"it cannot be written ({reason})",
            f"{remedy}; nothing that was there is changed",
        ) from error


def moved_into_place(part: Path, path: Path) -> None:
    """Give a file that lies on the disk another name, which outlasts a power cut too.

    Raises
    ------
    StorageFailed : it cannot be had there
    """
    try:
        part.replace(path)
        _sync_folder(path.parent)
    except OSError as error:
        reason = (error.strerror or type(error).__name__).lower()
        raise StorageFailed(path.name, f"it cannot be kept ({reason})", "Try again") from error


def is_sha256(name: str) -> bool:
    """Whether it is what a kept file is called by: 64 hexadecimal digits."""
    return _SHA256.fullmatch(name) is not None


def addressed(folder: Path, sha256: str) -> Path:
    """Where a file that is called by its SHA-256 lies below a folder.

    Raises
    ------
    NotFound : that is no SHA-256, so nothing is called so, in this folder or beside it
    """
    if not is_sha256(sha256):
        raise NotFound("file", f"no file is called “{sha256[:80]}”", "Bring the file again")
    return folder / sha256[:2] / sha256


def _sync_folder(folder: Path) -> None:
    """Have the name of a new file outlast a power cut too, where the system can do that."""
    if not hasattr(os, "O_DIRECTORY"):
        return
    handle = os.open(folder, os.O_RDONLY | os.O_DIRECTORY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
