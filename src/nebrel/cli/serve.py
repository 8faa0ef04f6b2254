"""`nebrel serve`: the application, for the browser."""

from __future__ import annotations

import argparse
import os
from pathlib import Path


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument(
        "--host",
        default="127.0.0.1",
        help="where to listen; beyond this machine, a token is asked for (127.0.0.1)",
    )
    parser.add_argument("--port", type=int, default=8765)
    parser.add_argument("--data", type=Path, metavar="DIR", help="where pieces are kept")
    parser.add_argument(
        "--demo", action="store_true", help="with the demo pieces, in their own folder"
    )
    parser.add_argument(
        "--executor",
        default="",
        metavar="MODULE:FUNCTION",
        help="makes the concurrent.futures executor that does long work (this machine)",
    )
    parser.add_argument(
        "--workers",
        default="",
        metavar="HOST:PORT",
        help="where its workers fetch and leave files, if they do not see the data folder",
    )


def run(options: argparse.Namespace) -> None:
    """Serve until it is stopped."""
    os.umask(0o077)  # what is kept is nobody else's, whoever of its processes writes it
    from nebrel.work.lane import LOADED, processes

    processes(*LOADED, now=True)
    from nebrel.web.serve import serve

    serve(options.host, options.port, options.data, options.demo, options.executor, options.workers)
