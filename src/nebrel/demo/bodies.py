"""Demo pieces that begin as meshes: the moon hare, as a scanner left it, and its stand."""

from __future__ import annotations

import io
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh
from nebrel.core.formats.stl import encode_stl
from nebrel.core.mesh.combine import trim
from nebrel.core.recipe.models import Recipe
from nebrel.demo.pictures import as_png, comet_shape, orbit_mark
from nebrel.store import Store

_CELLS = 110
_MM = 30.0  # of one unit of the model below
_WIDE = 1.3
Places = NDArray[np.float64]


def moon_hare() -> Mesh:
    """The mascot in the round, about 37 × 36 × 69 mm, standing on z = 0; closed."""
    from skimage.measure import marching_cubes

    line = np.linspace(-_WIDE, _WIDE, _CELLS)
    at = np.stack(np.meshgrid(line, line, line, indexing="ij"), axis=-1)
    blobs = [
        ((0, 0, -0.45), 0.62, (1, 0.9, 1.05)),  # body
        ((0, -0.1, 0.32), 0.36, (1, 1, 1)),  # head
        ((-0.16, 0, 0.85), 0.12, (1, 0.8, 3)),  # ears
        ((0.16, 0, 0.85), 0.12, (1, 0.8, 3)),
        ((-0.35, -0.45, -0.85), 0.2, (1, 1, 1)),  # paws
        ((0.35, -0.45, -0.85), 0.2, (1, 1, 1)),
        ((0, 0.6, -0.75), 0.17, (1, 1, 1)),  # tail
    ]
    away = _ball(at, *blobs[0])
    for blob in blobs[1:]:
        away = _blended(away, _ball(at, *blob))
    # What a scanner adds.
    shaking = np.sin(41 * at[..., 0]) * np.sin(37 * at[..., 1]) * np.sin(43 * at[..., 2])
    away = away + 0.004 * shaking
    places, faces, _, _ = marching_cubes(away, 0.0, gradient_direction="descent")
    places = places * (2 * _WIDE / (_CELLS - 1) * _MM)
    places -= [*places.mean(axis=0)[:2], places[:, 2].min()]
    return Mesh(places.astype(np.float32), faces.astype(np.int32), "moon hare")


def _ball(at: Places, middle: Any, radius: float, sides: Any) -> Places:
    found: Places = np.linalg.norm((at - np.array(middle)) / np.array(sides), axis=-1) - radius
    return found


def _blended(one: Places, other: Places, by: float = 0.14) -> Places:
    """Both, melted into each other where they meet. Source: Quilez, polynomial smooth minimum."""
    share = np.clip(0.5 + 0.5 * (other - one) / by, 0, 1)
    found: Places = other * (1 - share) + one * share - by * share * (1 - share)
    return found


def torn(mesh: Mesh) -> Mesh:
    """The same as a scanner leaves it: three holes, a few faces turned, a crumb inside."""
    faces = mesh.faces.copy()
    count = len(faces)
    turned = np.arange(count // 5, count // 5 + 4)
    faces[turned] = faces[turned, ::-1]
    middle = mesh.vertices[faces].mean(axis=1)
    gone = np.zeros(count, bool)
    for place in (count // 3, count // 2, 4 * count // 5):
        gone |= np.linalg.norm(middle - middle[place], axis=1) < 1.2
    crumb = mesh.vertices * 0.06 + (0, 0, 25)
    places = np.concatenate([mesh.vertices, crumb]).astype(np.float32)
    both = np.concatenate([faces[~gone], mesh.faces + len(mesh.vertices)])
    return Mesh(places, both.astype(np.int32), mesh.name)


def stand() -> Mesh:
    """A round stand of two steps, 56 mm wide and 9 mm high, in inches as its maker drew it."""
    import trimesh

    outline = [(0, 0), (28, 0), (28, 4), (24, 5), (24, 9), (0, 9)]
    found = trimesh.creation.revolve(np.array(outline) / 25.4, sections=96)
    return Mesh(found.vertices.astype(np.float32), found.faces.astype(np.int32), "stand")


def fill_bodies(store: Store) -> None:
    """Put them on the shelf."""
    hare = store.create_from_mesh(
        io.BytesIO(encode_stl(torn(moon_hare()))), "moon-hare-scan.stl", "Moon hare, from a scan"
    )
    steps: list[dict[str, Any]] = [
        {"kind": "repair", "id": "finish-1"},
        {"kind": "smooth", "id": "finish-2", "rounds": 6},
        {"kind": "simplify", "id": "finish-3", "triangles": 12_000},
    ]
    _finish(store, hare.id, hare.recipe, steps)
    base = store.create_from_mesh(
        io.BytesIO(encode_stl(stand())), "stand.stl", "Moon hare on its stand"
    )
    with_hare = {
        "kind": "join",
        "id": "finish-1",
        "name": "The hare",
        "by": "add",
        "other": {"kind": "piece", "piece_id": hare.id},
        "z": "8.5 mm",
    }
    _finish(store, base.id, base.recipe, [with_hare])
    _paperweight(store)


def pebble() -> Mesh:
    """A paperweight: a ball of 60 mm, cut flat below."""
    import trimesh

    found = trimesh.creation.icosphere(subdivisions=6, radius=30)
    ball = Mesh(found.vertices.astype(np.float32), found.faces.astype(np.int32), "paperweight")
    return trim(ball, "z", -18.0, "above")[0]


def _paperweight(store: Store) -> None:
    """With a comet sunk into its front, and the mark of the house raised above it."""
    piece = store.create_from_mesh(
        io.BytesIO(encode_stl(pebble())), "paperweight.stl", "Comet paperweight"
    )
    comet = store.add_picture(as_png(comet_shape(), 8), "comet.png")
    mark = store.add_picture(as_png(orbit_mark(), 8), "orbit-mark.png")
    flat = {
        "mapping": "plateaus",
        "pins": [{"tone": 0.02, "mm": 0.8}, {"tone": 0.98, "mm": None}],
        "depth": 0.8,
    }
    decorations = [
        _laid(comet.sha256, "comet.png", 26, flat, (0, -30, 0), "sink"),
        _laid(mark.sha256, "orbit-mark.png", 15, flat, (0, -19, 23), "raise"),
    ]
    document = piece.recipe.model_dump(mode="json")
    document["begins"]["decorations"] = decorations
    store.change(piece.id, Recipe.model_validate(document), "decorations")


def _laid(
    sha256: str, filename: str, wide: float, tones: dict[str, Any], at: Any, does: str
) -> dict[str, Any]:
    art = {
        "picture": {"file": {"sha256": sha256, "filename": filename}, "side": wide},
        "backing": 0.4,
        "build_up": [{"kind": "picture", **tones}],
    }
    return {"art": art, "at": at, "does": does}


def _finish(store: Store, piece_id: str, recipe: Recipe, steps: list[dict[str, Any]]) -> None:
    document = recipe.model_dump(mode="json") | {"finish": steps}
    store.change(piece_id, Recipe.model_validate(document), "finish")
