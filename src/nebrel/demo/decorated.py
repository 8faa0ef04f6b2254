"""Demo pieces with art on bodies: a beaker, a medal, a dome of scales, a stone."""

from __future__ import annotations

import io
from typing import Any

import numpy as np

from nebrel.core.data import Mesh
from nebrel.core.formats.png import encode_png
from nebrel.core.formats.stl import encode_stl
from nebrel.core.picture.patterns import Dials, pattern
from nebrel.core.questions.fresh_art import of_entry
from nebrel.core.recipe.art import Art, Edge
from nebrel.core.recipe.build_up import DrawingEntry, Ellipse, OutlineEntry, Star, TextEntry
from nebrel.core.recipe.length import Length
from nebrel.core.recipe.models import Recipe
from nebrel.core.recipe.ready import BeakerBody, DomeBody, MedalBody
from nebrel.core.recipe.step import DrawingFile, PictureFile
from nebrel.store import Store
from nebrel.store.store import Piece

_BLANK = np.ones((128, 256), np.float32)


def fill_decorated(store: Store) -> None:
    """Put them on the shelf."""
    blank = store.add_picture(encode_png(_BLANK), "blank.png")
    on = PictureFile(sha256=blank.sha256, filename="lettering.png")
    _beaker(store, on)
    _medal(store, on)
    _scales(store)
    _stone(store, on)


def _mm(value: float) -> Length:
    return Length(mm=value)


def _beaker(store: Store, on: PictureFile) -> None:
    """Lettering half around it, and a band of stars above that."""
    words = TextEntry(
        id="words",
        text="UNDER THE STARS OF CORVANE HILL",
        face="plain_heavy",
        capital=_mm(7),
        rule="highest",
        height=_mm(1.2),
    )
    star = OutlineEntry(
        id="star",
        outline=Star(wide=_mm(9)),
        rule="highest",
        height=_mm(1.2),
    )
    around = {"at": (0, -34, 42), "lie": "axis", "level": True}
    high = {"at": (0, -36, 66), "lie": "axis", "repeat": 14}
    piece = store.create_from_body(BeakerBody(), "Star beaker for the café")
    _decorate(
        store,
        piece,
        [_art(of_entry(on, 140, 1.2, words), around), _art(of_entry(on, 20, 1.2, star), high)],
    )


def _medal(store: Store, on: PictureFile) -> None:
    """A sun that stands out and a moon that is sunk, side by side on one art."""
    sun = OutlineEntry(
        id="sun",
        name="Sun",
        outline=Star(wide=_mm(15), points=12),
        x=_mm(-8.5),
        rule="add",
        height=_mm(1),
    )
    moon = OutlineEntry(
        id="moon",
        name="Moon",
        outline=Ellipse(wide=_mm(13), tall=_mm(13)),
        x=_mm(8.5),
        rule="add",
        height=_mm(-0.8),
    )
    # On a ground of its own, level with the medal, that both reach down into.
    art = of_entry(on, 34, 1, sun)
    ground = {"edge": Edge(), "backing": _mm(1.2), "build_up": [*art.build_up, moon]}
    art = art.model_copy(update=ground)
    piece = store.create_from_body(MedalBody(tall=_mm(3.4)), "Sun and moon medal")
    lying = {"at": (0, 0, 3.4), "up": (0, 1, 0), "does": "both"}
    _decorate(store, piece, [_art(art, lying)])


def _scales(store: Store) -> None:
    """Scales all over a dome but its underside."""
    made = pattern("scales", Dials(pixels=768, seed=3, across=5, uneven=0.3, soft=0.4))
    kept = store.add_picture(encode_png(made), "scales-3.png")
    texture = {
        "kind": "texture",
        "file": {"sha256": kept.sha256, "filename": "scales-3.png"},
        "tile": 28,
        "depth": 0.9,
        "lie": "axis",
        "where": "beyond",
        "beyond": 0.6,
    }
    piece = store.create_from_body(DomeBody(), "Scaled dome, a door stop")
    _decorate(store, piece, [texture])


def lumpy_stone() -> Mesh:
    """A stone as it was picked up, about 66 × 57 × 49 mm, standing on z = 0; closed."""
    import trimesh

    found = trimesh.creation.icosphere(subdivisions=5, radius=1)
    x, y, z = found.vertices.T
    swell = 1 + 0.05 * np.sin(3.1 * x + 1) * np.cos(2.3 * y) + 0.03 * np.sin(5 * z + 2 * x)
    places = found.vertices * swell[:, None] * (32, 28, 23)
    places[:, 2] -= places[:, 2].min()
    return Mesh(places.astype(np.float32), found.faces.astype(np.int32), "stone")


def planet_drawing() -> str:
    """A ringed planet as a drawing, 40 mm wide."""
    return (
        '<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="24mm" viewBox="0 0 40 24">'
        '<path fill-rule="evenodd" d="M20 4a8 8 0 0 1 0 16a8 8 0 0 1 0-16Z"/>'
        '<path fill-rule="evenodd" d="M1 17C1 13 14 8 23 6S39 4 39 8 27 15 18 18 1 21 1 17Z'
        'M4 17c0 1 6 0 13-2.4S36 9 36 8s-6-.6-13 1.4S4 15 4 17Z"/>'
        "</svg>"
    )


def _stone(store: Store, on: PictureFile) -> None:
    """A ringed planet sunk into it, its rim rounded."""
    piece = store.create_from_mesh(
        io.BytesIO(encode_stl(lumpy_stone())), "stone.stl", "Planet stone, from the path"
    )
    info = store.add_drawing(planet_drawing().encode(), "planet.svg")
    drawing = DrawingEntry(
        id="planet",
        file=DrawingFile(sha256=info.sha256, filename="planet.svg"),
        along="wide",
        side=_mm(30),
        rule="highest",
        height=_mm(0.9),
    )
    lying = {"at": (0, -28, 25), "does": "sink", "fillet": 0.3, "turn": 8}
    _decorate(store, piece, [_art(of_entry(on, 30, 0.9, drawing), lying)])


def _art(art: Art, lying: dict[str, Any]) -> dict[str, Any]:
    return {"kind": "decoration", "art": art.model_dump(mode="json"), **lying}


def _decorate(store: Store, piece: Piece, decorations: list[dict[str, Any]]) -> None:
    document = piece.recipe.model_dump(mode="json")
    document["begins"]["decorations"] = decorations
    store.change(piece.id, Recipe.model_validate(document), "decorations")
