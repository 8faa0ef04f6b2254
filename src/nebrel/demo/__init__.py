"""The demo world: Corvane Hill, a hilltop observatory, fits out a touch gallery and its shop."""

from __future__ import annotations

from typing import Any

from nebrel.core.formats.png import encode_png
from nebrel.core.recipe.models import load_recipe
from nebrel.demo.bodies import fill_bodies
from nebrel.demo.decorated import fill_decorated
from nebrel.demo.figures import fill_figures
from nebrel.demo.flawed import (
    captioned,
    comet_logo,
    door_sign,
    faded_print,
    moon_hare,
    star_chart,
)
from nebrel.demo.outlines import fill_outlines
from nebrel.demo.pictures import (
    as_colour_png,
    as_png,
    craters,
    dome,
    gallery_tag,
    globe_map,
    moonlit_hills,
    ringed_planet,
    star_band,
)
from nebrel.store import Store

_CRATER_ENTRIES: list[dict[str, Any]] = [
    {
        "kind": "frame",
        "id": "frame",
        "height": "7 mm",
        "wide": "6 mm",
        "section": "rounded",
    },
    {
        "kind": "outline",
        "id": "plate",
        "name": "Plate for the name",
        "outline": {"kind": "rectangle", "wide": "74 mm", "tall": "17 mm", "corner": "4 mm"},
        "height": "6.4 mm",
        "y": "-42 mm",
        "profile": {"kind": "chamfer", "reach": "0.8 mm"},
    },
    {
        "kind": "text",
        "id": "name",
        "text": "West wall",
        "face": "plain_heavy",
        "capital": "8.5 mm",
        "rule": "add",
        "height": "1.2 mm",
        "y": "-42 mm",
    },
]


def fill(store: Store) -> None:
    """Put the demo pieces on an empty shelf; one that holds anything is left alone."""
    if store.pieces():
        return
    _fill_unfinished(store)
    fill_bodies(store)
    fill_decorated(store)
    fill_figures(store)
    _add(
        store,
        "Gallery tag, three tones",
        "gallery-tag.png",
        as_png(gallery_tag(), 8),
        {
            "side": "70 mm",
            "depth": "2 mm",
            "backing": 0,
            "mapping": "plateaus",
            "pins": [
                {"tone": 0, "mm": "2.4 mm"},
                {"tone": 0.5, "mm": "1.4 mm"},
                {"tone": 1, "mm": None},
            ],
        },
    )
    fill_outlines(store)
    _add(
        store,
        "Star band for the telescope",
        "star-band.png",
        as_png(star_band(), 8),
        {
            "side": "220 mm",
            "depth": "2 mm",
            "backing": 0,
            "mapping": "plateaus",
            "pins": [
                {"tone": 0, "mm": None},
                {"tone": 0.6, "mm": "1.6 mm"},
                {"tone": 1, "mm": "2.8 mm"},
            ],
            "form": {"kind": "tube"},
        },
    )
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
        {
            "side": "140 mm",
            "raised": "dark",
            "depth": "2.4 mm",
            "backing": "0.8 mm",
            "mapping": "light",
            "entries": [
                {"kind": "frame", "id": "rim", "name": "Rim", "height": "2.4 mm", "wide": "3 mm"},
            ],
            "form": {"kind": "arc", "bend": 110},
            "fittings": [{"kind": "tabs", "id": "tabs", "wide": "4 mm", "slot": "2.6 mm"}],
            "holder": {"lettering": "Corvane Hill", "deep": "12 mm"},
        },
    )
    _add(
        store,
        "Moonlit hills, lamp shade",
        "moonlit-hills.png",
        as_png(moonlit_hills(), 8),
        {
            "side": "250 mm",
            "depth": "2.2 mm",
            "backing": "0.8 mm",
            "mapping": "light",
            "form": {"kind": "tube"},
            "fittings": [{"kind": "socket", "id": "socket", "lamp": "40 mm"}],
        },
    )
    _add(
        store,
        "Cratered globe, table lamp",
        "globe-map.png",
        as_png(globe_map(), 8),
        {
            "side": "240 mm",
            "depth": "2 mm",
            "backing": "0.9 mm",
            "mapping": "light",
            "form": {"kind": "globe", "opening": "44 mm"},
            "fittings": [{"kind": "socket", "id": "socket", "lamp": "30 mm"}],
        },
    )
    _add(
        store,
        "West wall crater tile",
        "crater-elevations.png",
        as_png(craters()),
        {"side": "160 mm", "depth": "6 mm", "backing": "2.4 mm", "entries": _CRATER_ENTRIES},
    )


def _fill_unfinished(store: Store) -> None:
    """Pieces whose pictures still need correcting, each in its own way."""
    tone, alpha = comet_logo()
    _add(
        store,
        "Comet cutter, from a tiny logo",
        "comet-logo.png",
        encode_png(tone, alpha),
        {"side": "45 mm", "raised": "dark", "depth": "4 mm", "backing": "1.2 mm"},
    )
    _add(
        store,
        "Star chart, thin lines",
        "star-chart.png",
        as_png(star_chart(), 8),
        {"side": "80 mm", "raised": "dark", "depth": "1.2 mm", "backing": "1.6 mm"},
    )
    hare, _ = moon_hare()
    _add(
        store,
        "Moon hare, off its shelf",
        "moon-hare.png",
        as_colour_png(hare),
        {"side": "90 mm", "depth": "6 mm", "backing": "1.6 mm"},
    )
    _add(
        store,
        "Plate 7, caption to remove",
        "plate-7.png",
        as_png(captioned(), 8),
        {"side": "110 mm", "depth": "4 mm", "backing": "2 mm"},
    )
    _add(
        store,
        "Old print of the planet",
        "old-print.png",
        as_png(faded_print(), 8),
        {"side": "120 mm", "raised": "dark", "depth": "2.4 mm", "backing": "0.8 mm"},
    )
    _add(
        store,
        "Door sign, as scanned",
        "door-sign-scan.png",
        as_png(door_sign(), 8),
        {"side": "180 mm", "raised": "dark", "depth": "2 mm", "backing": "3 mm"},
    )


def _add(store: Store, name: str, filename: str, data: bytes, settings: dict[str, Any]) -> None:
    picture = store.add_picture(data, filename)
    file = {"sha256": picture.sha256, "filename": filename}
    tones = {
        name: settings[name]
        for name in ("enabled", "raised", "depth", "mapping", "pins")
        if name in settings
    }
    art: dict[str, Any] = {
        "picture": {"file": file, "side": settings["side"]},
        "backing": settings["backing"],
        "build_up": [
            {"kind": "picture", "id": "picture", **tones},
            *settings.get("entries", []),
        ],
    }
    begins = {name: settings[name] for name in ("form", "fittings", "holder") if name in settings}
    recipe = load_recipe({"begins": {"art": art, **begins}})
    store.create_piece(picture, name, recipe)
