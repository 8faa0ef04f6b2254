"""The whole test run, part by part: how long each took, and what is slow in it.

`make test` calls it. With names of parts, only those are run.
"""

from __future__ import annotations

import os
import subprocess
import sys
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))
from tests.quiet import busy_s

MAKE = ["make", "--no-print-directory", "--output-sync=target", "-j3"]
PYTEST = [".venv/bin/python", "-m", "pytest", "-n", "2", "--dist", "worksteal"]
PARTS = {
    # What is installed, and what is made of it: side by side, as far as it depends on nothing.
    "set-up": [*MAKE, "packages"],
    "checks": [*MAKE, "checks"],
    "unit": [*PYTEST, "--ignore=tests/e2e"],
    "browser": [*PYTEST, "tests/e2e"],
}


def main(names: list[str]) -> int:
    """Run the parts one after the other, until one fails."""
    os.chdir(Path(__file__).parents[1])
    told, failed = [], 0
    for name in names or PARTS:
        before, others = time.monotonic(), busy_s()
        print(f"\n== {name}", flush=True)
        failed = subprocess.run(PARTS[name], check=False).returncode
        spent, taken = time.monotonic() - before, busy_s() - others
        told.append(f"{name:10} {spent:6.0f} s   {taken:6.0f} s of processor, all that ran here")
        if failed:
            told.append(f"{name} failed")
            break
    print("\n== how long it took\n" + "\n".join(told), flush=True)
    return failed


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
