"""Compile what is compiled, once: kept for every later checkout with the same sources.

What numba leaves beside a source says when that source was last changed. It is packed together
with that time, under a hash of all that is compiled and of what compiles it; a later checkout
gets both back. Without a place to keep it, it is compiled all the same.
"""

from __future__ import annotations

import hashlib
import os
import platform
import subprocess
import sys
import tarfile
from pathlib import Path

import llvmlite
import llvmlite.binding
import numba
import numpy

SOURCES = Path(__file__).resolve().parents[1] / "src"
# Side by side: on two cores it is done sooner.
WARM = (
    "from nebrel.work.run import warm; warm()",
    "from nebrel.core.mesh.warm import warm_tools; warm_tools()",
)
MOST_KEPT = 5


def compiled() -> list[Path]:
    """The sources that hold kernels."""
    return sorted(p for p in SOURCES.rglob("*.py") if "njit" in p.read_text("utf-8"))


def key(sources: list[Path]) -> str:
    """Of all that decides what is compiled."""
    found = hashlib.sha256()
    binding = llvmlite.binding
    made_by = (platform.python_version(), numba.__version__, llvmlite.__version__)
    machine = (numpy.__version__, binding.get_host_cpu_name(), binding.get_host_cpu_features())
    found.update(repr((made_by, machine)).encode())
    for source in sources:
        found.update(str(source.relative_to(SOURCES)).encode() + source.read_bytes())
    return found.hexdigest()[:32]


def leave(sources: list[Path], pack: Path) -> None:
    """Pack what was compiled."""
    pack.parent.mkdir(parents=True, exist_ok=True)
    part = pack.with_suffix(f".{os.getpid()}")
    with tarfile.open(part, "w") as tar:
        for source in sources:
            tar.add(source, str(source.relative_to(SOURCES)))
            for file in sorted((source.parent / "__pycache__").glob(f"{source.stem}.*.nb[ic]")):
                tar.add(file, str(file.relative_to(SOURCES)))
    part.replace(pack)
    kept = sorted(pack.parent.glob("*.tar"), key=lambda p: p.stat().st_mtime)
    for old in kept[:-MOST_KEPT]:
        old.unlink()


def take(sources: list[Path], pack: Path) -> bool:
    """Put back what was compiled of the same sources; whether it was there."""
    if not pack.is_file():
        return False
    at = {str(source.relative_to(SOURCES)): source for source in sources}
    with tarfile.open(pack) as tar:
        for member in tar.getmembers():
            if member.name in at:
                os.utime(at[member.name], (member.mtime, member.mtime))
            else:
                tar.extract(member, SOURCES, filter="data")
    pack.touch()
    return True


def settle(sources: list[Path]) -> None:
    """Let each have been changed at a whole second, which can be said exactly."""
    for source in sources:
        changed = int(source.stat().st_mtime)
        os.utime(source, (changed, changed))


def main() -> None:
    """Put back or compile."""
    sources = compiled()
    caches = Path(os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache")
    pack = caches / "nebrel" / "kernels" / f"{key(sources)}.tar"
    there = take(sources, pack)
    if not there:
        settle(sources)
    begun = [subprocess.Popen([sys.executable, "-c", code]) for code in WARM]
    if sum(one.wait() != 0 for one in begun):
        sys.exit("the kernels were not compiled")
    if not there:
        try:
            leave(sources, pack)
        except OSError as error:
            print(f"the kernels are not kept for later: {error}")


if __name__ == "__main__":
    main()
