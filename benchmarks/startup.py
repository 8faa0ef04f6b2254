"""How soon quick commands answer, against a bare interpreter; medians of whole processes.

python benchmarks/startup.py
"""

from __future__ import annotations

import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import trimesh


def seconds(command: list[str], runs: int = 15) -> float:
    """Median wall time after one warm-up."""
    times = []
    for _ in range(runs + 1):
        start = time.perf_counter()
        subprocess.run(command, check=True, stdout=subprocess.DEVNULL)
        times.append(time.perf_counter() - start)
    return statistics.median(times[1:])


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        mesh = Path(folder) / "box.stl"
        trimesh.creation.box((1, 2, 3)).export(mesh)
        bare = seconds([sys.executable, "-c", "pass"])
        print(f"python -c pass       {bare * 1000:6.0f} ms")
        for name, rest in (
            ("nebrel --help", ["--help"]),
            ("nebrel inspect", ["inspect", str(mesh)]),
        ):
            taken = seconds([sys.executable, "-m", "nebrel", *rest])
            print(f"{name:20} {taken * 1000:6.0f} ms   {taken / bare:.1f} times bare")


if __name__ == "__main__":
    main()
