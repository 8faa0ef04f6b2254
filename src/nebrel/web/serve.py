"""Starting the server."""

from __future__ import annotations

import signal
import socket
import sys
from concurrent.futures import Executor
from importlib import import_module
from pathlib import Path

import platformdirs
import uvicorn

from nebrel.core.errors import InvalidValue
from nebrel.store import Store
from nebrel.web.app import create_app
from nebrel.web.desk import Elsewhere
from nebrel.web.door import open_door
from nebrel.web.entry import token_of
from nebrel.web.guard import LOOPBACK
from nebrel.work.depot import FolderDepot

_EVERYWHERE = {"", "0.0.0.0", "::"}


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


def serve(
    host: str,
    port: int,
    data: Path | None,
    demo: bool,
    executor: str = "",
    workers: str = "",
) -> None:
    """Serve until interrupted.

    Parameters
    ----------
    host, port : where to listen; beyond the loopback address, a token is asked for
    data : the data folder; the platform's usual place when left out
    demo : use a folder of its own and fill it with the demo pieces when it is empty
    executor : `MODULE:FUNCTION` that makes the executor for long work; this machine when empty
    workers : `HOST:PORT` at which its workers find their files, when they do not see the folder

    Raises
    ------
    InvalidValue : it cannot listen there; there is no such executor
    StorageFailed : the data folder cannot be used
    """
    _check_port(host, port)
    own = executor_of(executor) if executor else None
    if workers and own is None:
        raise InvalidValue("--workers", "there are none", "Name them with --executor")
    door = place_of(workers) if workers else None
    if door is not None:
        _check_port(*door)
    usual = Path(platformdirs.user_data_dir("nebrel", appauthor=False))
    store = Store(data or (usual.with_name("nebrel-demo") if demo else usual))
    if demo and not store.pieces():
        from nebrel.demo import fill

        fill(store)
    token = "" if host in LOOPBACK else token_of(store.folder)
    found = socket.gethostname() if host in _EVERYWHERE else host
    shown = f"[{found}]" if ":" in found else found
    link = f"http://{shown}:{port}" + (f"/?token={token}" if token else "")
    print(f"Nebrel is at {link}  (data in {store.folder})", flush=True)
    # When it is told to stop, uvicorn ends its work and then raises the signal again; leaving by
    # way of SystemExit lets the worker processes be tidied up.
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    elsewhere = None
    if own is not None:
        depot = FolderDepot(store.folder)
        elsewhere = Elsewhere(own, depot if door is None else open_door(depot, *door))
    app = create_app(store, host, warm=True, elsewhere=elsewhere, token=token)
    uvicorn.run(app, host=host, port=port, log_level="warning")


def executor_of(name: str) -> Executor:
    """What a function makes, by its name. Raises InvalidValue."""
    module, _, function = name.partition(":")
    try:
        made = getattr(import_module(module), function)()
    except (ImportError, AttributeError, ValueError, TypeError) as error:
        raise InvalidValue(
            "--executor", f"{name} cannot be used ({error})", "Give MODULE:FUNCTION"
        ) from error
    if not isinstance(made, Executor):
        raise InvalidValue(
            "--executor",
            f"{name} makes no concurrent.futures.Executor",
            "Give a function that makes one",
        )
    return made


def place_of(text: str) -> tuple[str, int]:
    """Host and port. Raises InvalidValue."""
    host, _, port = text.rpartition(":")
    if not host or not port.isascii() or not port.isdigit():
        raise InvalidValue("--workers", f"“{text}” is no address", "Give HOST:PORT")
    return host.strip("[]"), int(port)
