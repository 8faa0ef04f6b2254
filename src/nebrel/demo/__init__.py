"""The demo world: Corvane Hill, a hilltop observatory, fits out a touch gallery and its shop."""

from __future__ import annotations

from typing import Any

from nebrel.core.recipe.models import load_recipe
from nebrel.demo.pictures import as_png, craters, dome, ringed_planet
from nebrel.store import Store


def fill(store: Store) -> None:
    """Put the demo pieces on an empty shelf; one that holds anything is left alone."""
    if store.pieces():
        return
    _add(
        store,
        "Dome medal for the shop",
        "dome-medal.png",
        as_png(dome()),
        {"side": "60 mm", "depth": "3.6 mm", "backing": "1.8 mm"},
    )
    _add(
        store,
        "Ringed planet, night lamp",
        "ringed-planet.png",
        as_png(ringed_planet(), 8),
        {"side": "140 mm", "raised": "dark", "depth": "2.4 mm", "backing": "0.8 mm"},
    )
    _add(
        store,
        "West wall crater tile",
        "crater-elevations.png",
        as_png(craters()),
        {"side": "160 mm", "depth": "8 mm", "backing": "3 mm"},
    )


def _add(store: Store, name: str, filename: str, data: bytes, settings: dict[str, Any]) -> None:
    picture = store.add_picture(data, filename)
    recipe = load_recipe(
        {
            "schema_version": 1,
            "picture": {
                "sha256": picture.sha256,
                "filename": filename,
                "along": "wide",
                "side": settings["side"],
            },
            "heights": {
                "raised": settings.get("raised", "light"),
                "depth": settings["depth"],
                "backing": settings["backing"],
            },
        }
    )
    store.create_piece(picture, name, recipe)
