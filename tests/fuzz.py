"""Damaged files for every reader: each must be read, or refused in our own words.

`python -m tests.fuzz --rounds 2000 --seed 7` runs longer than the test suite does.
"""

from __future__ import annotations

import argparse
import io
import json
import tempfile
from base64 import b64encode
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np
import tifffile
import trimesh
from PIL import Image

from nebrel.core.data import HeightField, Mesh
from nebrel.core.errors import NebrelError
from nebrel.core.formats.heights import encode_heights
from nebrel.core.formats.meshes import read_mesh, write_mesh
from nebrel.core.mesh.measure import measure
from nebrel.core.picture.decode import PictureLimits, decode
from nebrel.core.products.bundle import read_bundle, write_bundle
from nebrel.core.recipe.models import default_recipe

_LIMITS = PictureLimits(pixels=4_000_000, decoded_bytes=64_000_000)
_SPECIAL = (0, 1, 0x7F, 0x80, 0xFF)


def pictures() -> Iterator[tuple[str, bytes]]:
    """A small whole picture of every kind that is read."""
    rng = np.random.default_rng(5)
    gray = (rng.random((24, 31)) * 255).astype(np.uint8)
    image = Image.fromarray(gray)
    for kind in ("PNG", "JPEG", "WEBP", "BMP", "GIF"):
        buffer = io.BytesIO()
        image.convert("RGB").save(buffer, kind)
        yield kind.lower(), buffer.getvalue()
    buffer = io.BytesIO()
    image.convert("P").save(buffer, "PNG", transparency=3)
    yield "palette", buffer.getvalue()
    for compression in (None, "zlib", "lzma"):
        for kind in (np.uint8, np.uint16, np.float32):
            buffer = io.BytesIO()
            tifffile.imwrite(buffer, gray.astype(kind), compression=compression, rowsperstrip=7)
            yield f"tiff {compression} {kind.__name__}", buffer.getvalue()
    buffer = io.BytesIO()
    image.save(buffer, "TIFF", compression="tiff_lzw")
    yield "tiff lzw", buffer.getvalue()
    field = HeightField(gray.astype(np.float32) / 100, 30.0, 23.0)
    yield "heights tif", encode_heights(field, gray > 20, "tif", "backing")
    yield "heights png", encode_heights(field, gray > 20, "png", "underside")


def meshes() -> Iterator[tuple[str, bytes]]:
    """A small mesh in every format that is read."""
    ball = trimesh.creation.icosphere(subdivisions=1)
    for ending in ("stl", "obj", "ply", "off", "glb"):
        data = ball.export(file_type=ending)
        yield ending, data.encode() if isinstance(data, str) else data
    yield "stl", trimesh.exchange.stl.export_stl_ascii(ball).encode()
    with tempfile.TemporaryDirectory() as folder:
        made = Mesh(ball.vertices.astype(np.float32), ball.faces.astype(np.int32))
        for ending in ("3mf", "off"):
            tints = np.full((len(made.vertices), 4), 200, np.uint8)
            path = Path(folder) / f"a.{ending}"
            write_mesh(replace(made, colours=tints), path)
            yield ending, path.read_bytes()


def bundles() -> Iterator[tuple[str, bytes]]:
    """A piece with its picture in one file."""
    import hashlib

    data = dict(pictures())["png"]
    name = hashlib.sha256(data).hexdigest()
    recipe, out = default_recipe(name, 24, 31, "a.png"), io.BytesIO()
    write_bundle(out, recipe, {name: data})
    yield "bundle", out.getvalue()
    kept = {"recipe": recipe.model_dump(mode="json"), "pictures": {name: b64encode(data).decode()}}
    yield "bundle", json.dumps(kept).encode()
    yield "bundle", json.dumps({"recipe": {}, "pictures": {}}).encode()


def damaged(data: bytes, rng: np.random.Generator) -> bytes:
    """The same file with bytes changed, cut out, put in, repeated or cut off."""
    found = bytearray(data)
    for _ in range(int(rng.integers(1, 6))):
        if not found:
            break
        at, way = int(rng.integers(len(found))), int(rng.integers(6))
        # Headers are short and matter most.
        at = at if rng.random() < 0.5 else at % min(len(found), 200)
        length = int(rng.integers(1, 9))
        if way == 0:
            found[at] = int(rng.choice(_SPECIAL))
        elif way == 1:
            found[at] ^= 1 << int(rng.integers(8))
        elif way == 2:
            del found[at : at + length]
        elif way == 3:
            found[at:at] = rng.bytes(length)
        elif way == 4:
            found[at:at] = found[at : at + 40 * length]
        else:
            del found[max(at, len(found) // 3) :]
    return bytes(found)


def _decode(data: bytes, _: str, __: Path) -> object:
    return decode(data, "fuzzed", _LIMITS)


def _mesh(data: bytes, ending: str, folder: Path) -> object:
    path = folder / f"fuzzed.{ending}"
    path.write_bytes(data)
    return measure(read_mesh(path))


def _bundle(data: bytes, _: str, folder: Path) -> object:
    path = folder / "fuzzed.json"
    path.write_bytes(data)
    recipe, load = read_bundle(path)
    return load(recipe.relief.art.pictured.file.sha256)


Reader = Callable[[bytes, str, Path], object]
READERS: dict[str, tuple[Callable[[], Iterator[tuple[str, bytes]]], Reader]] = {
    "pictures": (pictures, _decode),
    "meshes": (meshes, _mesh),
    "bundles": (bundles, _bundle),
}


def fuzz(kind: str, rounds: int, seed: int) -> tuple[Counter[str], list[str]]:
    """How the rounds of each file ended, and those that ended in neither way, in words."""
    rng = np.random.default_rng(seed)
    ends: Counter[str] = Counter()
    wrong = []
    whole, read = READERS[kind]
    with tempfile.TemporaryDirectory() as folder:
        for name, data in whole():
            for number in range(rounds):
                try:
                    read(damaged(data, rng), name, Path(folder))
                    ends["read"] += 1
                except NebrelError as error:
                    ends[error.kind] += 1
                except Exception as error:
                    wrong.append(f"{name}, round {number}: {type(error).__name__}: {error}")
    return ends, wrong


def main() -> None:
    """Run every reader and print how it went."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rounds", type=int, default=500)
    parser.add_argument("--seed", type=int, default=7)
    options = parser.parse_args()
    for kind in READERS:
        ends, wrong = fuzz(kind, options.rounds, options.seed)
        print(f"{kind}: {dict(ends)}, {len(wrong)} wrong")
        for line in wrong[:20]:
            print(f"  {line}")


if __name__ == "__main__":
    main()
