"""Files that were changed at random, read as those that are brought are: what is wrong is refused.

Small sound files of every kind are changed by a seed each: two of three so that they are still of
their kind (other numbers, elements, lines, chunks with right sums), one of three by bits turned and
parts cut away, doubled, swapped or zeroed. A process reads them one after the other within limits.
Whatever ends the process, takes over 5 s of processor, over 1 GB more than a sound file does, or
raises anything but a refusal is told with its seed, so that it can be made again:

    python benchmarks/mutated.py --count 2000 --state mutated.json
    python benchmarks/mutated.py --only svg --seed 1234

Begun again with the same state, it goes on where it was.
"""

from __future__ import annotations

import argparse
import io
import json
import multiprocessing
import os
import re
import resource
import tempfile
import time
import traceback
import zipfile
import zlib
from collections.abc import Callable
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import tifffile
from PIL import Image

from nebrel.core.data import Mesh
from nebrel.core.errors import NebrelError
from nebrel.core.formats.dxf import write_dxf
from nebrel.core.formats.meshes import write_mesh
from nebrel.core.formats.read_drawing import drawing_of
from nebrel.core.products.bundle import unpacked_bundle, write_bundle
from nebrel.core.recipe.models import default_recipe
from nebrel.core.solid.ready import ready_mesh
from nebrel.store.facts import drawing_facts, mesh_facts, picture_facts

MOST_S, MOST_BYTES, LONGEST_S = 5.0, 1_000_000_000, 60.0
_NUMBER = re.compile(rb"-?\d+\.?\d*(?:[eE]-?\d+)?")
# An element, a line of a group code with its value, or a line.
_PART = re.compile(rb"<[^<>]+/>|<(\w+)[^<>]*>[^<>]*</\1>|[^\n]+\n")
HOSTILE = (b"1e999", b"-1", b"nan", b"2147483648", b"0", b"1e12", b"99999999999", b"-0.0", b"")
RNG = np.random.default_rng(7)
PIXELS = (RNG.random((24, 31)) * 255).astype(np.uint8)
SVG = (
    b'<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="30mm" viewBox="0 0 40 30">'
    b"<style>.a{fill:#222;stroke-width:2}</style><defs><clipPath id='c'><circle cx='9' cy='9'"
    b" r='8'/></clipPath></defs><g id='g' clip-path='url(#c)' transform='rotate(10)'>"
    b"<path class='a' d='M2 2h20v12q-4 6-9 2zM5 5a3 3 0 1 0 6 0z' fill-rule='evenodd'/></g>"
    b"<use href='#g' x='12'/><rect x='20' y='20' width='9' height='6' rx='2' stroke='red'/></svg>"
)


def picture(ending: str, **how: Any) -> bytes:
    """A small picture as a file."""
    out = io.BytesIO()
    Image.fromarray(PIXELS).save(out, ending, **how)
    return out.getvalue()


def tiff(**how: Any) -> bytes:
    """A small TIFF."""
    out = io.BytesIO()
    tifffile.imwrite(out, PIXELS.astype(np.uint16) * 200, **how)
    return out.getvalue()


def mesh(ending: str) -> bytes:
    """A small mesh as a file."""
    body = ready_mesh("box", wide=8, deep=6, tall=4, round=1)
    body = Mesh(body.vertices, body.faces, colours=np.full((len(body.vertices), 4), 90, np.uint8))
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"box{ending}"
        write_mesh(body, path)
        return path.read_bytes()


def dxf() -> bytes:
    """A small DXF."""
    outline = drawing_of(SVG, "a.svg").outline
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "a.dxf"
        write_dxf([outline], path)
        return path.read_bytes()


def bundle() -> bytes:
    """A piece in one file."""
    import hashlib

    data = picture("PNG")
    sha256 = hashlib.sha256(data).hexdigest()
    out = io.BytesIO()
    write_bundle(out, default_recipe(sha256, *PIXELS.shape, "a.png"), {sha256: data})
    return out.getvalue()


def sound() -> dict[str, tuple[bytes, str]]:
    """A sound file of each kind, and which reader takes it."""
    found = {
        "png": (picture("PNG"), "picture"),
        "jpg": (picture("JPEG"), "picture"),
        "gif": (picture("GIF"), "picture"),
        "bmp": (picture("BMP"), "picture"),
        "webp": (picture("WEBP"), "picture"),
        "16 bit.png": (
            cv2.imencode(".png", PIXELS.astype(np.uint16) * 257)[1].tobytes(),
            "picture",
        ),
        "plain.tif": (tiff(), "picture"),
        "deflated.tif": (tiff(compression="zlib", tile=(16, 16)), "picture"),
        "lzw.tif": (picture("TIFF", compression="tiff_lzw"), "picture"),
        "jpeg.tif": (picture("TIFF", compression="jpeg"), "picture"),
        "svg": (SVG, "drawing"),
        "dxf": (dxf(), "drawing"),
        "piece.zip": (bundle(), "bundle"),
    }
    for ending in (".stl", ".obj", ".ply", ".off", ".glb", ".3mf", ".zip"):
        found["mesh" + ending] = mesh(ending), "mesh"
    return found


def gentle(data: bytes, seed: int) -> bytes | None:
    """A file that is still one of its kind: other numbers, elements or lines; None of others."""
    rng = np.random.default_rng(seed)
    if data[:8] == b"\x89PNG\r\n\x1a\n":
        return other_png(data, rng)
    if b"\0" in data:
        return None
    found = data
    for _ in range(int(rng.integers(1, 4))):
        places = [one.span() for one in _NUMBER.finditer(found)]
        parts = [one.span() for one in _PART.finditer(found)]
        if rng.random() < 0.7 and places:
            start, end = places[int(rng.integers(len(places)))]
            new = HOSTILE[int(rng.integers(len(HOSTILE)))]
        elif parts:
            start, end = parts[int(rng.integers(len(parts)))]
            again = found[slice(*parts[int(rng.integers(len(parts)))])]
            new = (b"", found[start:end] * 9, again)[int(rng.integers(3))]
        else:
            return None
        found = found[:start] + new + found[end:]
    return found


def other_png(data: bytes, rng: np.random.Generator) -> bytes:
    """A PNG whose chunks say something else, with sums that are right."""
    at, out = 8, bytearray(data[:8])
    while at + 12 <= len(data):
        size = int.from_bytes(data[at : at + 4], "big")
        kind, held = data[at + 4 : at + 8], bytearray(data[at + 8 : at + 8 + size])
        if held and rng.random() < 0.4:
            held[int(rng.integers(len(held)))] ^= 1 << int(rng.integers(8))
        for _ in range(int(rng.choice([0, 1, 1, 1, 1, 2]))):
            out += len(held).to_bytes(4, "big") + kind + held
            out += zlib.crc32(kind + held).to_bytes(4, "big")
        at += 12 + size
    return bytes(out)


def mutated(data: bytes, seed: int) -> bytes:
    """A file changed in some of its places."""
    if seed % 3:
        found = gentle(data, seed)
        if found is not None:
            return found
    return torn(data, seed)


def torn(data: bytes, seed: int) -> bytes:
    """The same, whatever it is then."""
    rng = np.random.default_rng(seed)
    found = bytearray(data)
    for _ in range(int(rng.integers(1, 5))):
        size = max(1, len(found))
        at, long = int(rng.integers(size)), int(rng.integers(1, max(2, min(200, size))))
        match int(rng.integers(7)):
            case 0:
                found[at % size] ^= 1 << int(rng.integers(8))
            case 1:
                found[at : at + 4] = rng.integers(0, 256, 4, np.uint8).tobytes()
            case 2:
                del found[at:]
            case 3:
                del found[at : at + long]
            case 4:
                found[at:at] = found[at : at + long] * int(rng.integers(1, 40))
            case 5:
                found[at : at + long] = bytes(len(found[at : at + long]))
            case _:
                other = int(rng.integers(size))
                found[at : at + long] = found[other : other + long]
        if not found:
            found = bytearray(b"\0")
    if data[:2] == b"PK" and seed % 2:
        return repacked(data, seed)
    return bytes(found)


def repacked(data: bytes, seed: int) -> bytes:
    """A ZIP whose members are changed, not itself."""
    rng, out = np.random.default_rng(seed), io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as packed, zipfile.ZipFile(out, "w") as again:
        names = packed.namelist()
        changed = names[int(rng.integers(len(names)))]
        for name in names:
            held = packed.read(name)
            again.writestr(name, mutated(held, seed * 4) if name == changed and held else held)
    return out.getvalue()


def read(kind: str, path: Path, folder: Path) -> None:
    """As the server has it read."""
    if kind == "picture":
        picture_facts(path, path.name)
    elif kind == "drawing":
        drawing_facts(path, path.name)
    elif kind == "mesh":
        mesh_facts(path, path.name)
    else:
        unpacked_bundle(path, folder, path.name)


def worker(line: Connection) -> None:
    """Read files as they are asked for; say what each took and raised."""
    _, hard = resource.getrlimit(resource.RLIMIT_CORE)
    resource.setrlimit(resource.RLIMIT_CORE, (0, hard))
    # What libraries say of their own is no answer.
    quiet = os.open(os.devnull, os.O_WRONLY)
    os.dup2(quiet, 2)
    files = sound()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for called, (data, kind) in files.items():
            path = folder / f"sound {called}"
            path.write_bytes(data)
            read(kind, path, folder)
        line.send("ready")
        while True:
            called, seed = line.recv()
            data, kind = files[called]
            path = folder / f"a.{called.rsplit('.', 1)[-1]}"
            path.write_bytes(mutated(data, seed))
            start, held = time.process_time(), resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
            raised, refused = "", False
            try:
                read(kind, path, folder)
            except NebrelError as error:
                refused = True
                if isinstance(error.__cause__, MemoryError):
                    raised = "MemoryError"
            except BaseException:
                raised = traceback.format_exc(limit=-3)
            took = time.process_time() - start
            grown = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - held) * 1024
            line.send((refused, raised, took, grown))


class Readers:
    """A process that reads, begun again where a file ended it."""

    def __init__(self) -> None:
        self._process: Any = None
        self._line: Any = None

    def __call__(self, called: str, seed: int) -> tuple[bool, str]:
        """Whether it was refused, and what is wrong with that; empty: nothing."""
        if self._process is None:
            own, theirs = multiprocessing.Pipe()
            self._process = multiprocessing.Process(target=worker, args=(theirs,), daemon=True)
            self._process.start()
            theirs.close()
            self._line = own
            assert own.recv() == "ready"
        try:
            self._line.send((called, seed))
            if not self._line.poll(LONGEST_S):
                self._end()
                return False, f"it hangs for {LONGEST_S:.0f} s"
            refused, raised, took, grown = self._line.recv()
        except (EOFError, ConnectionError):
            self._process.join(5)
            ended = self._process.exitcode
            self._end()
            return False, f"it ended the process with {ended}"
        if raised:
            return refused, raised
        if took > MOST_S:
            return refused, f"it takes {took:.1f} s of processor"
        return refused, f"it takes {grown / 1e9:.1f} GB" if grown > MOST_BYTES else ""

    def _end(self) -> None:
        self._process.kill()
        self._process.join()
        self._process = None


def main() -> int:
    """Go on until so many of each kind were read."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=200, help="of each kind")
    parser.add_argument("--state", type=Path, help="where it is kept how far it is")
    parser.add_argument("--only", help="this kind")
    parser.add_argument("--seed", type=int, help="this file of it")
    asked = parser.parse_args()
    kinds = [asked.only] if asked.only else list(sound())
    readers: Callable[[str, int], tuple[bool, str]] = Readers()
    if asked.seed is not None:
        print(readers(kinds[0], asked.seed))
        return 0
    kept = asked.state is not None and asked.state.exists()
    state: dict[str, Any] = json.loads(asked.state.read_text()) if kept else {}
    for called in kinds:
        own = state.setdefault(called, {"next": 0, "refused": 0, "wrong": {}})
        while own["next"] < asked.count:
            seed = own["next"]
            refused, wrong = readers(called, seed)
            own["refused"] += refused
            if wrong:
                own["wrong"][str(seed)] = wrong
                print(f"{called} {seed}: {wrong.strip().splitlines()[-1]}", flush=True)
            own["next"] += 1
            if asked.state is not None and seed % 100 == 99:
                asked.state.write_text(json.dumps(state))
        if asked.state is not None:
            asked.state.write_text(json.dumps(state))
        print(
            f"{called}: {own['next']} read, {own['refused']} refused, {len(own['wrong'])} wrong",
            flush=True,
        )
    return int(any(own["wrong"] for own in state.values()))


if __name__ == "__main__":
    raise SystemExit(main())
