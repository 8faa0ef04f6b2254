"""A network of one's own that tells depth or normals from a picture, run apart within limits."""

from __future__ import annotations

import json
import os
import re
import signal
import subprocess
import sys
import threading
from dataclasses import asdict, dataclass
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Literal

import cv2
import numpy as np

from nebrel.core.choices import Gives, Values
from nebrel.core.data import Floats
from nebrel.core.errors import InvalidValue, UnreadableFile
from nebrel.core.figure.integrate import from_normals
from nebrel.core.picture.resample import resample

MOST_MB = 2000
_MOST_S = 300.0
_MOST_GB = 8.0  # that it may take
_PLAIN_PX = 384  # of a network that takes any size
_TEST_PX = 64
_LONGEST_NAME = 60  # of an operator, as it is said
_MEAN, _SPREAD = (0.485, 0.456, 0.406), (0.229, 0.224, 0.225)  # of the usual photographs


@dataclass(frozen=True)
class Network:
    """What has to be known of an ONNX file to use it.

    Attributes
    ----------
    gives : depth, one value a pixel; or normals, three
    near : which of its depths are near
    values : that its input takes; of the usual photographs: their mean 0 and spread 1
    order : of the three channels of its input
    size : pixels along each side of its input; left out: as it says, or 384
    """

    gives: Gives = "depth"
    near: Literal["large", "small"] = "large"
    values: Values = "photograph"
    order: Literal["rgb", "bgr"] = "rgb"
    size: int | None = None


def depth_by(path: Path, network: Network, pixels: Floats, cover: Floats) -> Floats:
    """What a network tells of a picture as depth, 0 to 1, light is near (rows, cols).

    Parameters
    ----------
    path : of the ONNX file; nothing is fetched, and it runs in a process of its own
    pixels, cover : (rows, cols, 3) and (rows, cols), 0 to 1

    Raises
    ------
    UnreadableFile : it is no network, or needs what is not there
    InvalidValue : it takes or gives something else, too much memory, or too long
    """
    check_network(path, network)
    found = _answer(path, network, pixels)
    rows, cols = cover.shape
    layers = [cv2.resize(layer, (cols, rows), interpolation=cv2.INTER_LINEAR) for layer in found]
    if network.gives == "normals":
        depth = from_normals(np.stack(layers, axis=-1).astype(np.float64), cover > 0.5)
    else:
        depth = layers[0].astype(np.float64) * (1 if network.near == "large" else -1)
    inside = cv2.erode((cover > 0.5).astype(np.uint8), np.ones((7, 7), np.uint8)) > 0
    inside = inside if inside.any() else cover > 0.5
    low, high = np.percentile(depth[inside], (0.5, 99.5)) if inside.any() else (0.0, 1.0)
    if not high - low > 1e-3 * max(1e-6, abs(high), abs(low)):
        raise InvalidValue("network", "it tells the same depth everywhere", "Use another")
    return np.clip((depth - low) / (high - low), 0, 1).astype(np.float32)


def what_it_gives(path: Path) -> Gives:
    """Tried with a test picture: depth or normals. Raises as `depth_by`."""
    try:
        check_network(path, Network())
    except InvalidValue as error:
        if "not depth" not in error.why:
            raise
        check_network(path, Network(gives="normals"))
        return "normals"
    return "depth"


def check_network(path: Path, network: Network) -> None:
    """Try it with a test picture. Raises as `depth_by`."""
    try:
        size = path.stat().st_size
    except OSError as error:
        raise UnreadableFile(path.name, "it cannot be read", "Choose another file") from error
    if size > MOST_MB * 1e6:
        raise InvalidValue(
            path.name, f"it is {size / 1e6:.0f} MB large", f"Use one of at most {MOST_MB} MB"
        )
    ramp = np.linspace(0, 1, _TEST_PX, dtype=np.float32)
    test = np.dstack([np.tile(ramp, (_TEST_PX, 1)), np.tile(ramp[:, None], (1, _TEST_PX))])
    _answer(path, network, np.dstack([test, 1 - test[..., :1]]))


def _answer(path: Path, network: Network, pixels: Floats) -> list[Floats]:
    """What it says: one layer of depth, or three of normals."""
    with TemporaryDirectory() as folder:
        given, said = Path(folder) / "given.npy", Path(folder) / "said.npy"
        np.save(given, pixels.astype(np.float32))
        asked = json.dumps({**asdict(network), "path": str(path)})
        command = [sys.executable, "-m", "nebrel.core.figure.network", asked, str(given), str(said)]
        try:
            done = _apart(command)
        except subprocess.TimeoutExpired as error:
            raise InvalidValue(
                path.name, f"it takes longer than {_MOST_S:g} s", "Use a smaller one"
            ) from error
        if done.returncode == 0:
            layers = np.load(said)
            return [np.asarray(layer, np.float32) for layer in layers]
        if done.returncode == -signal.SIGXCPU:
            raise InvalidValue(
                path.name, f"it takes longer than {_MOST_S:g} s of processor", "Use a smaller one"
            )
        told = [line for line in done.stderr.splitlines() if line.startswith("{")]
        if not told:  # it was ended from outside, or ran out of memory
            raise InvalidValue(
                path.name, f"it needs more than {_MOST_GB:g} GB", "Use a smaller one"
            )
        what = json.loads(told[-1])
        kind = UnreadableFile if what["kind"] == "file" else InvalidValue
        raise kind(path.name, what["why"], what["remedy"])


def _apart(command: list[str]) -> subprocess.CompletedProcess[str]:
    """Run it in a process that ends with this one, however that ends: its pipe closes then."""
    ours, theirs = os.pipe()
    try:
        return subprocess.run(
            [*command, str(ours)],
            capture_output=True,
            text=True,
            timeout=_MOST_S,
            check=False,
            pass_fds=(ours,),
        )
    finally:
        os.close(ours)
        os.close(theirs)


# What runs in the process of its own.


class _Refused(Exception):
    """Why, what helps, and whether the file itself is wrong."""

    def __init__(self, why: str, remedy: str, kind: str = "value") -> None:
        super().__init__(why)
        self.said = {"why": why, "remedy": remedy, "kind": kind}


def _run(network: Network, path: str, pixels: Floats) -> Floats:
    import onnxruntime

    options = onnxruntime.SessionOptions()
    options.log_severity_level = 4
    try:
        session = onnxruntime.InferenceSession(path, options, providers=["CPUExecutionProvider"])
    except Exception as error:
        raise _Refused(*_why_not(str(error))) from error
    taken = session.get_inputs()
    if len(taken) != 1 or len(taken[0].shape) != 4 or taken[0].type != "tensor(float)":
        shapes = ", ".join(f"{one.type} {one.shape}" for one in taken)
        raise _Refused(
            f"it takes {shapes}, not one picture of floats", "Use one that takes (1, 3, rows, cols)"
        )
    shape = taken[0].shape
    last = shape[3] == 3 and shape[1] != 3
    if (shape[3] if last else shape[1]) not in (3, None) and not isinstance(
        shape[3] if last else shape[1], str
    ):
        raise _Refused(f"it takes {shape}, not three channels", "Use one that takes colours")
    sides = shape[1:3] if last else shape[2:4]
    size = [
        side if isinstance(side, int) and side > 0 else network.size or _PLAIN_PX for side in sides
    ]
    if max(size) > 4096 or min(size) < 8:
        raise _Refused(f"it takes {size[1]} × {size[0]} pixels", "Use one of 8 to 4096 pixels")
    shown = np.clip(resample(pixels, size[0], size[1]), 0, 1)
    if network.order == "bgr":
        shown = shown[..., ::-1]
    if network.values == "-1 to 1":
        shown = shown * 2 - 1
    elif network.values == "0 to 255":
        shown = shown * 255
    elif network.values == "photograph":
        shown = (shown - np.array(_MEAN)) / np.array(_SPREAD)
    given = shown[None] if last else shown.transpose(2, 0, 1)[None]
    try:
        found = session.run(None, {taken[0].name: given.astype(np.float32)})[0]
    except Exception as error:
        raise _Refused(*_why_not(str(error))) from error
    return _layers(np.asarray(found), network)


# How the library names an operator that it does not have.
_MISSING = re.compile(
    r"No Op registered for (\S+)|Fatal error: (\S+?)\(-?\d+\) is not a registered"
    r"|find an implementation for (\S+?)\("
)
_NEWER = re.compile(r"(Opset|Unsupported model IR version:) (\d+)")


def _why_not(told: str) -> tuple[str, str, str]:
    plain = " ".join(told.split())
    low = plain.lower()
    if found := _MISSING.search(plain):
        name = next(group for group in found.groups() if group)[:_LONGEST_NAME]
        remedy = "Export it with operators of the ONNX standard"
        return f"it needs the operator {name}, which is missing", remedy, "file"
    if found := _NEWER.search(plain):
        what = "operators" if found[1] == "Opset" else "ONNX"
        why = f"it is written for version {found[2]} of {what}, which is too new"
        return why, "Export it for an older one", "file"
    if "alloc" in low or "memory" in low:
        return f"it needs more than {_MOST_GB:g} GB", "Use a smaller one", "value"
    return "it is no network that can be used", "Choose an ONNX file", "file"


def _layers(found: Floats, network: Network) -> Floats:
    """(1 or 3, rows, cols)."""
    wanted = 1 if network.gives == "depth" else 3
    values = np.squeeze(found)
    if wanted == 1 and values.ndim == 2:
        values = values[None]
    elif wanted == 3 and values.ndim == 3 and values.shape[2] == 3 and values.shape[0] != 3:
        values = values.transpose(2, 0, 1)
    if values.ndim != 3 or values.shape[0] != wanted or min(values.shape[1:]) < 2:
        raise _Refused(
            f"it gives {tuple(found.shape)}, not {network.gives}",
            f"Say what it gives, or use one that gives {network.gives}",
        )
    if not np.isfinite(values).all():
        raise _Refused("it gives numbers that are none", "Use another one")
    return values.astype(np.float32)


def _end_with(pipe: int) -> None:
    """End this process when whoever holds the other end of a pipe has ended."""
    os.read(pipe, 1)
    os._exit(3)


def main(arguments: list[str]) -> int:
    """What one process does: a network's answer to one picture."""
    asked, given, said, pipe = arguments
    threading.Thread(target=_end_with, args=(int(pipe),), daemon=True).start()
    described = json.loads(asked)
    path = described.pop("path")
    try:
        import resource

        most = int((_MOST_GB + 2) * 1e9)
        resource.setrlimit(resource.RLIMIT_AS, (most, most))
        for limit, own in ((resource.RLIMIT_CPU, int(_MOST_S)), (resource.RLIMIT_DATA, most)):
            _, hard = resource.getrlimit(limit)
            resource.setrlimit(limit, (own, hard))
    except (ImportError, ValueError, OSError):  # a system without such limits
        pass
    try:
        np.save(said, _run(Network(**described), path, np.load(given)))
    except _Refused as refused:
        print(json.dumps(refused.said), file=sys.stderr)
        return 2
    except MemoryError:
        told = {"why": f"it needs more than {_MOST_GB:g} GB", "remedy": "Use a smaller one"}
        print(json.dumps({**told, "kind": "value"}), file=sys.stderr)
        return 2
    return 0


if __name__ == "__main__":
    raise SystemExit(main(sys.argv[1:]))
