"""From `nebrel serve` to the page, the shelf and a first draft; medians, against loading FastAPI.

python benchmarks/serving.py [CHECKOUT]...

A checkout is a folder with a `.venv` of its own; the one that this is in, where none is named.
"""

from __future__ import annotations

import json
import statistics
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path

RUNS = 3
PORT = 8797


def bare(folder: Path) -> float:
    """Seconds that an interpreter takes for the libraries that any such server loads."""
    begun = time.perf_counter()
    code = "import fastapi, pydantic, sqlalchemy.orm, uvicorn"
    subprocess.run([folder / ".venv/bin/python", "-c", code], check=True)
    return time.perf_counter() - begun


def asked(path: str, body: bytes | None = None) -> bytes:
    """What the server answers, as soon as it does."""
    request = urllib.request.Request(
        f"http://127.0.0.1:{PORT}{path}", body, {"Content-Type": "application/json"}
    )
    while True:
        try:
            with urllib.request.urlopen(request, timeout=60) as answer:
                found: bytes = answer.read()
                return found
        except ConnectionError:
            time.sleep(0.02)
        except urllib.error.URLError as error:
            if not isinstance(error.reason, ConnectionError):
                raise
            time.sleep(0.02)


def serve(folder: Path, data: Path) -> dict[str, float]:
    """Seconds from the command to each answer."""
    command = [folder / ".venv/bin/nebrel", "serve", "--demo", "--data", data, "--port", str(PORT)]
    begun = time.perf_counter()
    server = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    try:
        found = {}
        asked("/")
        found["page"] = time.perf_counter() - begun
        pieces = json.loads(asked("/api/pieces"))
        found["shelf"] = time.perf_counter() - begun
        for piece in pieces:
            recipe = json.loads(asked(f"/api/pieces/{piece['id']}"))["recipe"]
            if recipe["begins"]["kind"] == "relief":
                asked("/api/preview", json.dumps(recipe).encode())
                break
        found["first draft"] = time.perf_counter() - begun
        return found
    finally:
        server.terminate()
        server.wait(30)


def main(folders: list[Path]) -> None:
    """Print the medians of each checkout."""
    with tempfile.TemporaryDirectory() as place:
        for number, folder in enumerate(folders):
            data = Path(place) / str(number)
            serve(folder, data)  # fills the folder, and the caches of the machine
            base = statistics.median(bare(folder) for _ in range(RUNS))
            runs = [serve(folder, data) for _ in range(RUNS)]
            print(f"{folder}: libraries alone {base:.2f} s")
            for name in runs[0]:
                took = statistics.median(run[name] for run in runs)
                print(f"  {name:12} {took:6.2f} s   {took / base:5.1f} times")


if __name__ == "__main__":
    main([Path(name) for name in sys.argv[1:]] or [Path(__file__).parents[1]])
