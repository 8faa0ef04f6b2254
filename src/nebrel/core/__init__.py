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
    "trace_mm": "outline.trace",
    "letter": "outline.lettering",
    "Outline": "outline.outline",
    "Relief": "heights.relief",
    "triangulate": "solid.triangulate",
    "close": "solid.close",
    "measure": "mesh.measure",
    "read_mesh": "formats.meshes",
    "write_stl": "formats.stl",
    "write_heights": "formats.heights",
    "write_png": "formats.png",
    "encode_glb": "formats.glb",
    "Recipe": "recipe.models",
    "default_recipe": "recipe.models",
    "load_recipe": "recipe.models",
    "read_bundle": "products.bundle",
    "lay_map": "links.lay_map",
    "Evaluator": "questions.evaluator",
}

__all__ = sorted(_HOME)  # noqa: PLE0605


def __getattr__(name: str) -> Any:
    if name not in _HOME:
        raise AttributeError(name)
    return getattr(import_module(f"{__name__}.{_HOME[name]}"), name)
