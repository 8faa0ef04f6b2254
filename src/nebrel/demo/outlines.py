"""Demo pieces that begin from a silhouette or a drawing: badge, stamp, cutter, stencil, plate."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from typing import Any

from nebrel.core.choices import StartName
from nebrel.core.data import Floats
from nebrel.core.questions.starts import start
from nebrel.core.questions.suits import Seen
from nebrel.core.recipe.length import Length
from nebrel.core.recipe.models import default_recipe, load_recipe
from nebrel.demo.pictures import as_png, comet_shape, dome_badge, orbit_mark
from nebrel.store import Store

# The printer's mark in the lower left corner of the badge is left out.
_NO_MARK = {"choices": [{"x": "-27 mm", "y": "-27 mm", "keep": "drop"}]}


def fill_outlines(store: Store) -> None:
    """Put them on a shelf."""
    _badge(store)
    stamp = {"edge": {"kind": "circle", "margin": "2.5 mm"}}
    dome = _Silhouette("dome-badge.png", dome_badge(), 60, _NO_MARK)
    _begin(store, "Dome badge, its stamp", dome, "stamp", stamp)
    _begin(store, "Comet cutter", _Silhouette("comet.png", comet_shape(), 85), "cutter")
    _begin(store, "Orbit stencil", _Silhouette("orbit-mark.png", orbit_mark(), 90), "stencil")
    plate = door_plate().encode()
    piece = store.create_from_drawing(plate, "door-plate.svg", "Door plate, from a drawing")
    document = piece.recipe.model_dump(mode="json")
    entry = document["begins"]["art"]["build_up"][1]
    entry |= {"height": "3 mm", "profile": {"kind": "chamfer", "reach": "0.6 mm"}}
    store.change(piece.id, load_recipe(document), "set up")


def _badge(store: Store) -> None:
    """The dome on a backing that follows it, with an eyelet."""
    picture = store.add_picture(as_png(dome_badge(), 8), "dome-badge.png")
    art: dict[str, Any] = {
        "picture": {
            "file": {"sha256": picture.sha256, "filename": "dome-badge.png"},
            "side": "60 mm",
        },
        "backing": "2 mm",
        "edge": {"kind": "along", "margin": "2.4 mm", "gap": "9 mm"},
        "build_up": [
            {"kind": "picture", "id": "picture", "enabled": False},
            {
                "kind": "traced",
                "id": "dome",
                "name": "Dome and stars",
                "rule": "highest",
                "height": "1.6 mm",
                "profile": {"kind": "round", "reach": "0.4 mm"},
                "trace": _NO_MARK,
            },
        ],
    }
    fittings = [
        {"kind": "eyelet", "id": "eyelet", "hole": "3.5 mm", "band": "2 mm", "thick": "2 mm"}
    ]
    recipe = load_recipe({"begins": {"art": art, "fittings": fittings}})
    store.create_piece(picture, "Dome badge, on its backing", recipe)


@dataclass(frozen=True)
class _Silhouette:
    """A dark shape on white, how wide its picture is, and what of it is left out."""

    filename: str
    tone: Floats
    wide_mm: float
    trace: dict[str, Any] = field(default_factory=dict)


def _begin(
    store: Store,
    name: str,
    shape: _Silhouette,
    purpose: StartName,
    art: dict[str, Any] | None = None,
) -> None:
    """A piece from a silhouette, set up as a person would, by its start."""
    info = store.add_picture(as_png(shape.tone, 8), shape.filename)
    fresh = default_recipe(info.sha256, info.rows, info.cols, shape.filename)
    seen = Seen("dark", (0.0, 1.0), 0.3, False)
    size = shape.wide_mm, shape.wide_mm * shape.tone.shape[0] / shape.tone.shape[1]
    begun = start(fresh, purpose, seen, lambda: shape.tone, lambda _: size)
    document = begun.model_dump(mode="json")
    own = document["begins"]["art"]
    own["picture"] |= {"along": "wide", "side": Length(mm=shape.wide_mm).model_dump()}
    own |= art or {}
    own["build_up"][1]["trace"] |= shape.trace
    store.create_piece(info, name, load_recipe(document))


def door_plate() -> str:
    """A door plate as SVG, 140 mm wide: its edge, two screw holes, a dome, and stars cut out."""
    holes = [(10, 25, 2.2), (130, 25, 2.2)]
    stars = "".join(_star_path(x, y, r) for x, y, r in ((34, 20, 5), (52, 13, 3.5), (106, 17, 5)))
    dome = "M58 38 a14 14 0 0 1 28 0 z M55 40 h34 v3 h-34 z M80 22 l6 -8 2.4 2 -6 8 z"
    return (
        '<svg xmlns="http://www.w3.org/2000/svg" width="140mm" height="50mm" viewBox="0 0 140 50">'
        '<g id="plate"><path fill-rule="evenodd" d="M6 0 h128 a6 6 0 0 1 6 6 v38 '
        "a6 6 0 0 1 -6 6 h-128 a6 6 0 0 1 -6 -6 v-38 a6 6 0 0 1 6 -6 z "
        f'{_holes(holes)} {stars} {dome}"/></g></svg>'
    )


def _holes(holes: list[tuple[int, int, float]]) -> str:
    return " ".join(
        f"M{x - r} {y} a{r} {r} 0 1 0 {2 * r} 0 a{r} {r} 0 1 0 {-2 * r} 0 z" for x, y, r in holes
    )


def _star_path(x: float, y: float, reach: float) -> str:
    points = []
    for k in range(10):
        away = reach if k % 2 == 0 else reach * 0.42
        turn = math.pi * k / 5 - math.pi / 2
        points.append(f"{x + away * math.cos(turn):.3f} {y + away * math.sin(turn):.3f}")
    return f"M{' L'.join(points)} z"
