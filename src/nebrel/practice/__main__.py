"""`python -m nebrel.practice`: the practice service in a process of its own."""

from __future__ import annotations

import argparse
import socket
import sys
import threading
from pathlib import Path

import uvicorn

from nebrel.practice.service import create_service


def main() -> None:
    """Serve until its starter is gone; the port that it found is the first line that it says."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--folder", type=Path, required=True)
    parser.add_argument("--port", type=int, default=0)
    parser.add_argument("--wait", type=float, default=3.0, help="seconds in the queue")
    parser.add_argument("--alone", action="store_true", help="nobody's death ends it")
    options = parser.parse_args()
    listening = socket.create_server(("127.0.0.1", options.port))
    print(listening.getsockname()[1], flush=True)
    config = uvicorn.Config(create_service(options.folder, options.wait), log_level="warning")
    server = uvicorn.Server(config)

    def watch() -> None:
        sys.stdin.buffer.read()
        server.should_exit = True

    if not options.alone:
        threading.Thread(target=watch, daemon=True).start()
    server.run(sockets=[listening])


if __name__ == "__main__":
    main()
