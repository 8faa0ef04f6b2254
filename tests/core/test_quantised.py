"""glTF with places in whole numbers is as large as it says; what cannot be read is refused."""

import json
import struct
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from nebrel.core.errors import UnreadableFile
from nebrel.core.formats.meshes import read_mesh
from nebrel.core.mesh.measure import measure
from tests.meshes import ball

QUANTISED = ["KHR_mesh_quantization"]


def packed(
    kind: Any = np.int16, normalised: bool = True, required: list[str] = QUANTISED, **more: Any
) -> bytes:
    """A ball of 30 mm: its node scales whole numbers to metres, four numbers a place."""
    mesh = ball(15)
    most = float(np.iinfo(kind).max)
    unsigned = np.iinfo(kind).min == 0
    shares = mesh.vertices / 15
    whole = np.round((shares + 1) / 2 * most if unsigned else shares * most).astype(kind)
    rows = np.zeros((len(whole), 4), kind)
    rows[:, :3] = whole
    times = 0.015 * (2 if unsigned else 1) / (1 if normalised else most)
    node = {"mesh": 0, "scale": [times] * 3}
    if unsigned:
        node["translation"] = [-0.015] * 3
    faces = mesh.faces.astype("<u4").tobytes()
    binary = rows.astype(rows.dtype.newbyteorder("<")).tobytes()
    binary += b"\0" * (-len(binary) % 4)
    code = {np.int8: 5120, np.uint8: 5121, np.int16: 5122, np.uint16: 5123}[kind]
    step = 4 * np.dtype(kind).itemsize
    document = {
        "asset": {"version": "2.0"},
        "extensionsRequired": required,
        "extensionsUsed": required,
        "scene": 0,
        "scenes": [{"nodes": [0]}],
        "nodes": [node],
        "meshes": [{"primitives": [{"attributes": {"POSITION": 0}, "indices": 1}]}],
        "accessors": [
            {
                **{"bufferView": 0, "componentType": code, "count": len(rows), "type": "VEC3"},
                **{"normalized": normalised, "min": [0] * 3, "max": [1] * 3, **more},
            },
            {"bufferView": 1, "componentType": 5125, "count": mesh.faces.size, "type": "SCALAR"},
        ],
        "bufferViews": [
            {"buffer": 0, "byteLength": len(binary), "byteStride": step},
            {"buffer": 0, "byteOffset": len(binary), "byteLength": len(faces)},
        ],
        "buffers": [{"byteLength": len(binary) + len(faces)}],
    }
    head = json.dumps(document).encode()
    head += b" " * (-len(head) % 4)
    body = struct.pack("<II", len(head), 0x4E4F534A) + head
    body += struct.pack("<II", len(binary + faces), 0x004E4942) + binary + faces
    return struct.pack("<4sII", b"glTF", 2, 12 + len(body)) + body


@pytest.mark.parametrize("normalised", [True, False])
@pytest.mark.parametrize("kind", [np.int16, np.uint16, np.int8, np.uint8])
def test_whole_numbers_are_as_large_as_they_say(
    tmp_path: Path, kind: Any, normalised: bool
) -> None:
    path = tmp_path / "ball.glb"
    path.write_bytes(packed(kind, normalised))
    mesh = read_mesh(path)
    near = 30 / np.iinfo(kind).max
    assert np.ptp(mesh.vertices, axis=0) == pytest.approx(30, abs=near + 1e-4)
    if np.dtype(kind).itemsize == 2:
        assert measure(mesh).manifold
        assert measure(mesh).volume_mm3 == pytest.approx(measure(ball(15)).volume_mm3, rel=1e-3)


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (packed(required=["KHR_draco_mesh_compression"]), "KHR_draco_mesh_compression"),
        (packed(required=["EXT_meshopt_compression", *QUANTISED]), "EXT_meshopt_compression"),
        (packed(required=["MADE_UP" * 30]), "MADE_UP"),
        (packed(sparse={"count": 1}), "changes of others"),
        (packed(count=10**9), "ends before"),
        (packed(bufferView=99), "."),
        (packed(count=-3), "."),
    ],
)
def test_what_would_be_read_wrong_is_refused(tmp_path: Path, data: bytes, words: str) -> None:
    path = tmp_path / "ball.glb"
    path.write_bytes(data)
    with pytest.raises(UnreadableFile, match=words):
        read_mesh(path)


def test_what_only_looks_otherwise_is_read(tmp_path: Path) -> None:
    path = tmp_path / "ball.glb"
    path.write_bytes(packed(required=["KHR_materials_unlit", *QUANTISED]))
    assert np.ptp(read_mesh(path).vertices, axis=0) == pytest.approx(30, abs=0.01)
