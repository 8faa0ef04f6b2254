"""glTF that says more than the plain one: what is required of a reader, and whole numbers."""

from __future__ import annotations

import json
import struct
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import UnreadableFile

QUANTISED = "KHR_mesh_quantization"
# What tells of a surface's look alone, which costs nothing of its shape where it is not read.
_LOOKS = ("KHR_materials_", "KHR_texture_", "EXT_texture_", "KHR_lights_", "KHR_xmp", "KHR_anim")
_WHOLE: dict[int, Any] = {5120: np.int8, 5121: np.uint8, 5122: np.int16, 5123: np.uint16}
_WIDTH = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4}
_FLOAT, _JSON, _BIN = 5126, 0x4E4F534A, 0x004E4942


def check_required(document: dict[str, Any], name: str) -> None:
    """Refuse what says that it cannot be read without an extension that is not known here.

    Raises
    ------
    UnreadableFile : its places are packed, sparse, or otherwise not where they seem to be
    """
    required = document.get("extensionsRequired", [])
    for one in required if isinstance(required, list) else [required]:
        if one != QUANTISED and not str(one).startswith(_LOOKS):
            raise UnreadableFile(
                name,
                f"it cannot be read without the extension {str(one)[:60]}",
                "Export it without compression",
            )
    for accessor in _of_places(document):
        if "sparse" in accessor:
            remedy = "Export it without sparse accessors"
            raise UnreadableFile(name, "its places are given as changes of others", remedy)


def _of_places(document: dict[str, Any]) -> list[dict[str, Any]]:
    """The accessors of places, and of places on pictures, each once."""
    found: dict[int, dict[str, Any]] = {}
    for mesh in document.get("meshes", []):
        for primitive in mesh.get("primitives", []):
            for name, index in primitive.get("attributes", {}).items():
                if name == "POSITION" or name.startswith("TEXCOORD"):
                    found[index] = document["accessors"][index]
    return list(found.values())


def in_floats(data: bytes, name: str) -> bytes:
    """A GLB whose places are whole numbers, with floats instead; any other glTF as it is.

    Raises
    ------
    UnreadableFile : they lie outside of it, or in a glTF that is text

    Source: Khronos, KHR_mesh_quantization, and glTF 2.0, 3.6.2.2 for what normalised means.
    """
    packed = data[:4] == b"glTF"
    length = struct.unpack_from("<I", data, 12)[0] if packed else 0
    document = json.loads(data[20 : 20 + length] if packed else data)
    whole = [one for one in _of_places(document) if one.get("componentType") in _WHOLE]
    if not whole:
        return data
    if not packed or "uri" in document["buffers"][0]:
        raise UnreadableFile(name, "its places are whole numbers written as text", "Export a GLB")
    chunk = data[20 + length + 8 :]
    size = struct.unpack_from("<I", data, 20 + length)[0]
    binary = bytearray(chunk[:size])
    for accessor in whole:
        values = _read(document, accessor, bytes(chunk), name)
        binary += b"\0" * (-len(binary) % 4)
        view = {"buffer": 0, "byteOffset": len(binary), "byteLength": values.nbytes}
        document["bufferViews"].append(view)
        binary += values.tobytes()
        for left in ("normalized", "byteOffset", "min", "max"):
            accessor.pop(left, None)
        accessor |= {"bufferView": len(document["bufferViews"]) - 1, "componentType": _FLOAT}
    binary += b"\0" * (-len(binary) % 4)
    document["buffers"][0]["byteLength"] = len(binary)
    head = json.dumps(document).encode()
    head += b" " * (-len(head) % 4)
    parts = struct.pack("<II", len(head), _JSON) + head
    parts += struct.pack("<II", len(binary), _BIN) + bytes(binary)
    return struct.pack("<4sII", b"glTF", 2, 12 + len(parts)) + parts


def _read(
    document: dict[str, Any], accessor: dict[str, Any], binary: bytes, name: str
) -> NDArray[np.float32]:
    kind = np.dtype(_WHOLE[accessor["componentType"]]).newbyteorder("<")
    width, count = _WIDTH[accessor["type"]], int(accessor["count"])
    view = document["bufferViews"][accessor["bufferView"]]
    start = int(view.get("byteOffset", 0)) + int(accessor.get("byteOffset", 0))
    step = int(view.get("byteStride", 0)) or width * kind.itemsize
    if count < 1 or start < 0 or step < width * kind.itemsize or view.get("buffer", 0) != 0:
        raise UnreadableFile(name, "its places are not where it says", "Export it again")
    if start + step * (count - 1) + width * kind.itemsize > len(binary):
        raise UnreadableFile(name, "it ends before its places do", "Export it again")
    raw = np.ndarray((count, width), kind, binary, start, (step, kind.itemsize))
    values = raw.astype(np.float64)
    if accessor.get("normalized"):
        values = np.maximum(values / np.iinfo(kind).max, -1)
    return values.astype("<f4")
