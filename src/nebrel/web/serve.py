"""Starting the server."""

from __future__ import annotations

import signal
import socket
import sys
from pathlib import Path

import platformdirs
import uvicorn

from nebrel.core.errors import InvalidValue
from nebrel.store import Store
from nebrel.web.app import create_app


def _check_port(host: str, port: int) -> None:
    try:
        family = socket.AF_INET6 if ":" in host else socket.AF_INET
        with socket.socket(family) as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            probe.bind((host, port))
    except (OSError, OverflowError) as error:
        raise InvalidValue(
            f"{host}, port {port}",
            f"the server cannot listen there ({str(error).lower()})",
            "Choose another with --port or --host",
        ) from error


def serve(host: str, port: int, data: Path | None, demo: bool) -> None:
    """Serve until interrupted.

    Parameters
    ----------
    host, port : where to listen; the loopback address unless told otherwise
    data : the data folder; the platform's usual place when left out
    demo : use a folder of its own and fill it with the demo pieces when it is empty

    Raises
    ------
    InvalidValue : it cannot listen there
    StorageFailed : the data folder cannot be used
    """
    _check_port(host, port)
    usual = Path(platformdirs.user_data_dir("nebrel", appauthor=False))
    store = Store(data or (usual.with_name("nebrel-demo") if demo else usual))
    if demo:
        from nebrel.demo import fill

        fill(store)
    shown = f"[{host}]" if ":" in host else host
    print(f"Nebrel is at http://{shown}:{port}  (data in {store.folder})", flush=True)
    # When it is told to stop, uvicorn ends its work and then raises the signal again; leaving by
    # way of SystemExit lets the worker processes be tidied up.
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    uvicorn.run(create_app(store, host, warm=True), host=host, port=port, log_level="warning")
