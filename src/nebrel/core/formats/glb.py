"""Binary glTF out, the mesh as a browser shows it."""

from __future__ import annotations

import json
import struct
from typing import Any

import numpy as np

from nebrel.core.data import Floats, Mesh


def encode_glb(
    mesh: Mesh,
    normals: Floats | None = None,
    extras: dict[str, Any] | None = None,
    shares: Floats | None = None,
) -> bytes:
    """One mesh as GLB, in mm and z up as computed, with no change of axes.

    Parameters
    ----------
    mesh : the triangles
    normals : (V, 3) float32 unit normals, or None
    extras : figures to travel along, under `asset.extras`
    shares : (V, 2) float32 places on the picture from its upper left corner, or None

    Returns
    -------
    bytes of the file

    Source: Khronos glTF 2.0, the binary container. Lengths are mm, not the metres that glTF
    assumes; `asset.extras.unit` says so.
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
    views, offset = [], 0
    for number, blob in enumerate(blobs):
        views.append(
            {
                "buffer": 0,
                "byteOffset": offset,
                "byteLength": len(blob),
                "target": 34963 if number == 0 else 34962,
            }
        )
        offset += len(blob)
    document = {
        "asset": {
            "version": "2.0",
            "generator": "Nebrel",
            "extras": {"unit": "mm", **(extras or {})},
        },
        "scene": 0,
        "scenes": [{"nodes": [0]}],
        "nodes": [{"mesh": 0, "name": mesh.name}],
        "meshes": [{"primitives": [{"attributes": attributes, "indices": 0}]}],
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
