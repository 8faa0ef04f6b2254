"""Pure computation: arrays in, arrays out. Nothing here knows a database, a request or a screen.

The names below are the public face. They are loaded on first use, so that a command
that measures a small mesh does not wait for the picture decoders.
"""

from __future__ import annotations

from importlib import import_module
from typing import Any

_HOME = {
    "HeightField": "data",
    "Mesh": "data",
    "Picture": "data",
    "NebrelError": "errors",
    "parse_length": "lengths",
    "decode": "picture.decode",
    "read_tone": "picture.tone",
    "raise_tones": "heights.raise_tones",
    "triangulate": "solid.triangulate",
    "close": "solid.close",
    "measure": "mesh.measure",
    "read_mesh": "formats.meshes",
    "write_stl": "formats.stl",
    "encode_glb": "formats.glb",
    "Recipe": "recipe.models",
    "Evaluator": "recipe.evaluator",
}

__all__ = sorted(_HOME)  # noqa: PLE0605


def __getattr__(name: str) -> Any:
    if name not in _HOME:
        raise AttributeError(name)
    return getattr(import_module(f"{__name__}.{_HOME[name]}"), name)
