"""How long the server is silent while it makes solids, and how soon the newest section comes.

A server of its own on the demo pieces. Every 5 ms it is asked for its version, while a globe is
drawn, its companion made and two pieces exported; then a section is asked for five times with
another depth, as a slider that rests five times does.

    python benchmarks/silence.py
"""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from typing import Any
from urllib.error import HTTPError
from urllib.request import Request, urlopen

import cv2
import numpy as np

PORT = 8799
URL = f"http://127.0.0.1:{PORT}/api"


def ask(path: str, body: Any = None, **headers: str) -> bytes:
    """The answer to a question."""
    data = None if body is None else json.dumps(body).encode()
    headers = {"Content-Type": "application/json"} | headers
    with urlopen(Request(f"{URL}/{path}", data, headers), timeout=300) as answer:
        found: bytes = answer.read()
        return found


def make(piece: str, product: str) -> bytes:
    """Something made of a piece."""
    recipe = json.loads(ask(f"pieces/{piece}"))["recipe"]
    job = json.loads(ask(f"pieces/{piece}/products/{product}", recipe))
    while job["state"] in ("waiting", "working"):
        time.sleep(0.1)
        job = json.loads(ask(f"jobs/{job['id']}"))
    return ask(f"results/{job['result']}")


def silence() -> None:
    """Print the longest time without an answer."""
    pieces = {card["name"]: card["id"] for card in json.loads(ask("pieces"))}
    globe = pieces["Cratered globe, table lamp"]
    recipe = json.loads(ask(f"pieces/{globe}"))["recipe"]
    ask("preview", recipe)
    stop, gaps = threading.Event(), [0.0]

    def listen() -> None:
        while not stop.is_set():
            start = time.perf_counter()
            ask("version")
            gaps.append(time.perf_counter() - start)
            time.sleep(0.005)

    listening = threading.Thread(target=listen)
    listening.start()
    medal, arc = pieces["Dome medal for the shop"], pieces["Ringed planet, night lamp"]
    with ThreadPoolExecutor(4) as threads:
        work = [
            threads.submit(ask, "preview", recipe),
            threads.submit(make, arc, "holder.stl"),
            threads.submit(make, medal, "piece.stl"),
            threads.submit(make, globe, "piece.stl"),
        ]
        for one in work:
            one.result()
    stop.set()
    listening.join()
    print(f"longest silence {max(gaps):.3f} s of {len(gaps)} answers")


def newest() -> None:
    """Print how long the last of five sections takes."""
    picture = np.random.default_rng(2).integers(0, 255, (1500, 2000), np.uint8)
    data = cv2.imencode(".png", cv2.GaussianBlur(picture, (0, 0), 3))[1].tobytes()
    edge = "nebrel-benchmark"
    form = (
        f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="a.png"\r\n'
        "Content-Type: image/png\r\n\r\n"
    ).encode() + data
    request = Request(f"{URL}/pieces", form + f"\r\n--{edge}--\r\n".encode())
    request.add_header("Content-Type", f"multipart/form-data; boundary={edge}")
    with urlopen(request) as answer:
        recipe = json.loads(answer.read())["recipe"]
    body = {"recipe": recipe, "start": [0, 0.5], "end": [1, 0.5]}
    holder = recipe["begins"]["art"]["build_up"][0] if "begins" in recipe else recipe["heights"]
    ask("section", body)

    def section(depth: float) -> float:
        holder["depth"] = {"mm": depth}
        sent = json.dumps(body)
        start = time.perf_counter()
        with suppress(HTTPError):
            ask("section", json.loads(sent), **{"X-Nebrel-Question": "bench section"})
        return time.perf_counter() - start

    print(f"a section alone {section(2.5):.2f} s")
    with ThreadPoolExecutor(5) as threads:
        asked = []
        for number in range(5):
            asked.append(threads.submit(section, 3 + number / 10))
            time.sleep(0.02)
        print(f"the newest of five {asked[-1].result():.2f} s")


def main() -> None:
    """Measure on a server of its own."""
    with tempfile.TemporaryDirectory() as folder:
        command = [sys.executable, "-m", "nebrel", "serve", "--demo", "--port", str(PORT)]
        server = subprocess.Popen([*command, "--data", folder])
        try:
            for _ in range(200):
                with suppress(OSError):
                    ask("version")
                    break
                time.sleep(0.1)
            while any(card["pending"] for card in json.loads(ask("pieces"))):
                time.sleep(0.2)
            silence()
            newest()
        finally:
            server.terminate()
            server.wait()


if __name__ == "__main__":
    main()
