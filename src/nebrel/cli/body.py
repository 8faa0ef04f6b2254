"""`nebrel body`: a ready shape by its sizes."""

from __future__ import annotations

import argparse
from typing import Any

from nebrel.cli.options import mesh_output

_ALSO = {
    "width": "wide", "depth": "deep", "height": "tall", "thickness": "thick", "radius": "diameter",
    "outer": "diameter", "inner": "inside", "base": "diameter", "bottom": "diameter",
    "rounding": "round", "fillet": "round",
}  # fmt: skip
_HALF = {"radius"}
_STRAIGHT = {"bottle": ["profile", "smooth"]}


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    from nebrel.core.recipe.ready import READY

    kinds = [kind for kind in READY if kind != "bottle"]
    parser.add_argument("kind", choices=[*kinds, "bottle"], metavar="KIND", help=", ".join(READY))
    parser.add_argument("-o", "--output", type=mesh_output, required=True, metavar="OUT")
    parser.add_argument(
        "--size",
        action="append",
        default=[],
        metavar="NAME=MM",
        help="; ".join(f"{kind}: {', '.join(_names(kind))}" for kind in kinds)
        + "; bottle: wall. May be given again",
    )
    parser.add_argument(
        "--profile",
        metavar="R,Z ...",
        help="of a bottle: radius and height of each place from its foot up, mm",
    )
    parser.add_argument("--json", action="store_true", help="say it as one line of JSON")


def _names(kind: str) -> list[str]:
    from nebrel.core.recipe.ready import READY

    left_out = {"kind", *_STRAIGHT.get(kind, [])}
    return [name for name in READY[kind].model_fields if name not in left_out]


def run(options: argparse.Namespace) -> None:
    """Make it."""
    from dataclasses import replace

    from pydantic import ValidationError

    from nebrel.cli.bodies import keep_mesh
    from nebrel.core.recipe.explain import explain
    from nebrel.core.recipe.ready import READY, sizes_of
    from nebrel.core.solid.ready import ready_mesh

    given: dict[str, Any] = dict(_size(options.kind, text) for text in options.size)
    if options.profile is not None:
        given["profile"] = _profile(options.kind, options.profile)
    try:
        body = READY[options.kind].model_validate(given)
    except ValidationError as error:
        raise explain(error.errors(), exact=True) from error
    mesh = ready_mesh(options.kind, **sizes_of(body))
    keep_mesh(options, replace(mesh, name=options.kind))


def _size(kind: str, text: str) -> tuple[str, float]:
    from nebrel.core.errors import InvalidValue
    from nebrel.core.lengths import parse_length

    name, equals, value = text.partition("=")
    name, names = name.strip().lower().replace("-", "_"), _names(kind)
    own = name if name in names else _ALSO.get(name, name)
    if own == "tall" and own not in names and "thick" in names:
        own = "thick"
    if own == "thick" and own not in names and "tall" in names:
        own = "tall"
    if not equals or own not in names:
        raise InvalidValue(
            "size", f"a {kind} has no “{text[:40]}”", f"Use NAME=MM with {', '.join(names)}"
        )
    mm = parse_length(value)
    return own, 2 * mm if name in _HALF else mm


def _profile(kind: str, text: str) -> list[tuple[float, float]]:
    from nebrel.core.errors import InvalidValue

    if kind != "bottle":
        raise InvalidValue("profile", f"a {kind} has none", "Leave it out")
    try:
        places = [tuple(float(part) for part in one.split(",")) for one in text.split()]
        return [(r, z) for r, z in places]
    except ValueError as error:
        raise InvalidValue(
            "profile", f"“{text[:40]}” is none", 'Write it as in "20,0 25,10 12,60"'
        ) from error
