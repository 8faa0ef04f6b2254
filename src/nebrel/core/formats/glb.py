"""Binary glTF out, the mesh as a browser shows it."""

from __future__ import annotations

import json
import struct
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Mesh

# Millimetres to metres, z up to y up; column by column.
_STANDING = [0.001, 0, 0, 0, 0, 0, -0.001, 0, 0, 0.001, 0, 0, 0, 0, 0, 1]


def _linear(colours: NDArray[np.uint8]) -> Floats:
    """Colours as displayed, as amounts of light: what glTF has in its vertices."""
    shown = np.arange(256) / 255
    light = np.where(shown <= 0.04045, shown / 12.92, ((shown + 0.055) / 1.055) ** 2.4)
    found = (colours / 255).astype(np.float32)
    found[:, :3] = light[colours[:, :3]]
    return found


def encode_glb(
    mesh: Mesh,
    normals: Floats | None = None,
    extras: dict[str, Any] | None = None,
    shares: Floats | None = None,
    standing: bool = False,
    picture: bytes | None = None,
) -> bytes:
    """One mesh as GLB, its vertices in mm and z up as computed.

    Parameters
    ----------
    mesh : the triangles
    normals : (V, 3) float32 unit normals, or None
    extras : figures to travel along, under `asset.extras`
    shares : (V, 2) float32 places on the picture from its upper left corner, or None
    picture : PNG that lies over it at those places
    standing : placed in metres and y up, as glTF has it, by its node; else as it is

    Returns
    -------
    bytes of the file

    Source: Khronos glTF 2.0, the binary container. Where it is not standing, lengths are mm, not
    the metres that glTF assumes; `asset.extras.unit` says so.
    """
    small = len(mesh.vertices) < 65_535
    index = mesh.faces.astype(np.uint16 if small else np.uint32).tobytes()
    index += b"\0" * (-len(index) % 4)
    blobs = [index, mesh.vertices.tobytes()]
    accessors: list[dict[str, Any]] = [
        {
            "bufferView": 0,
            "componentType": 5123 if small else 5125,
            "count": int(mesh.faces.size),
            "type": "SCALAR",
        },
        {
            "bufferView": 1,
            "componentType": 5126,
            "count": len(mesh.vertices),
            "type": "VEC3",
            "min": mesh.vertices.min(axis=0).tolist(),
            "max": mesh.vertices.max(axis=0).tolist(),
        },
    ]
    attributes = {"POSITION": 1}
    for name, kind, values in (("NORMAL", "VEC3", normals), ("TEXCOORD_0", "VEC2", shares)):
        if values is None:
            continue
        number = len(blobs)
        attributes[name] = number
        blobs.append(np.ascontiguousarray(values, np.float32).tobytes())
        accessors.append(
            {"bufferView": number, "componentType": 5126, "count": len(values), "type": kind}
        )
    if mesh.colours is not None:
        attributes["COLOR_0"] = len(blobs)
        accessors.append(
            {
                "bufferView": len(blobs),
                "componentType": 5126,
                "count": len(mesh.colours),
                "type": "VEC4",
            }
        )
        blobs.append(_linear(mesh.colours).tobytes())
    primitive: dict[str, Any] = {"attributes": attributes, "indices": 0}
    over: dict[str, Any] = {}
    if picture is not None:
        primitive["material"] = 0
        rough = {"baseColorTexture": {"index": 0}, "metallicFactor": 0, "roughnessFactor": 1}
        over = {
            "materials": [{"pbrMetallicRoughness": rough}],
            "textures": [{"source": 0, "sampler": 0}],
            "samplers": [{"wrapS": 33071, "wrapT": 33071}],
            "images": [{"bufferView": len(blobs), "mimeType": "image/png"}],
        }
        blobs.append(picture + b"\0" * (-len(picture) % 4))
    views, offset = [], 0
    for number, blob in enumerate(blobs):
        view = {"buffer": 0, "byteOffset": offset, "byteLength": len(blob)}
        if picture is None or number < len(blobs) - 1:
            view["target"] = 34963 if number == 0 else 34962
        views.append(view)
        offset += len(blob)
    document = {
        "asset": {
            "version": "2.0",
            "generator": "Nebrel",
            "extras": {**({} if standing else {"unit": "mm"}), **(extras or {})},
        },
        "scene": 0,
        "scenes": [{"nodes": [0]}],
        "nodes": [{"mesh": 0, "name": mesh.name, **({"matrix": _STANDING} if standing else {})}],
        "meshes": [{"primitives": [primitive]}],
        **over,
        "accessors": accessors,
        "bufferViews": views,
        "buffers": [{"byteLength": offset}],
    }
    text = json.dumps(document, separators=(",", ":")).encode()
    text += b" " * (-len(text) % 4)
    total = 12 + 8 + len(text) + 8 + offset
    return b"".join(
        [
            struct.pack("<4sII", b"glTF", 2, total),
            struct.pack("<I4s", len(text), b"JSON"),
            text,
            struct.pack("<I4s", offset, b"BIN\0"),
            *blobs,
        ]
    )
