"""`nebrel figure`: one picture of a subject to a closed, coloured mesh in the round."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from nebrel.cli.options import length, mesh_output


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("picture", type=Path, metavar="PICTURE")
    parser.add_argument("-o", "--output", type=mesh_output, required=True, metavar="OUT")
    parser.add_argument(
        "--way",
        choices=["inflate", "turn", "half", "learned"],
        default="inflate",
        help="inflated, turned about its axis, half round for a wall, or as the network that ships "
        "with Nebrel has learned it (inflate)",
    )
    parser.add_argument("--mask", type=Path, metavar="MASK", help="light is the subject")
    parser.add_argument("--tall", type=length, default=80.0, metavar="MM", help="(80)")
    parser.add_argument("--thick", type=length, metavar="MM", help="where it is thickest")
    parser.add_argument(
        "--detail", type=length, default=0.0, metavar="MM", help="of fine light and dark (0)"
    )
    parser.add_argument("--dark-stands", action="store_true", help="dark stands out, not light")
    parser.add_argument(
        "--back",
        choices=["mirror", "flat", "smooth"],
        default="mirror",
        help="as the front, flat, or shallower (mirror; flat where it is half)",
    )
    parser.add_argument("--back-picture", type=Path, metavar="FILE", help="seen from behind")
    parser.add_argument(
        "--wall", type=length, default=0.0, metavar="MM", help="turn: hollow, open above"
    )
    parser.add_argument("--half-round", action="store_true", help="turn: flat behind its axis")
    parser.add_argument("--base", type=length, default=0.0, metavar="MM", help="a plate under it")
    parser.add_argument("--feet", type=length, default=0.0, metavar="MM", help="four, under all")
    parser.add_argument("--resolution", type=int, default=512, metavar="N", help="(512)")
    parser.add_argument(
        "--depth-picture", type=Path, metavar="FILE", help="of the picture's size, light is near"
    )
    parser.add_argument(
        "--network", type=Path, metavar="FILE.onnx", help="of your own: its depth or normals"
    )
    parser.add_argument(
        "--network-gives", choices=["depth", "normals"], default="depth", help="(depth)"
    )
    parser.add_argument(
        "--network-near", choices=["large", "small"], default="large", help="its depth (large)"
    )
    parser.add_argument(
        "--network-values",
        choices=["0 to 1", "-1 to 1", "0 to 255", "photograph"],
        default="photograph",
        help="that it takes; photograph: less their mean, by their spread (photograph)",
    )
    parser.add_argument("--network-order", choices=["rgb", "bgr"], default="rgb", help="(rgb)")
    parser.add_argument("--network-size", type=int, metavar="N", help="where it takes any (384)")
    parser.add_argument("--colours", type=int, metavar="N", help="no more than so many")
    parser.add_argument("--json", action="store_true", help="say it as one line of JSON")


def run(options: argparse.Namespace) -> None:
    """Do it."""
    import time

    from nebrel.cli.bodies import keep_mesh
    from nebrel.core.figure.cost import check_memory, cost_of
    from nebrel.core.figure.figure import Beside, Wanted, check_wanted, make_figure
    from nebrel.core.figure.subject import find_subject, of_its_size
    from nebrel.core.mesh.colour import reduced
    from nebrel.core.picture.decode import decode

    start = time.perf_counter()
    picture = decode(options.picture)

    def beside(path: Path | None, what: str) -> Any:
        return None if path is None else of_its_size(picture, decode(path).tone, what)

    subject = find_subject(picture, beside(options.mask, "mask"))
    behind = None if options.back_picture is None else find_subject(decode(options.back_picture))
    wanted = Wanted(
        way=options.way,
        tall_mm=options.tall,
        thick_mm=options.thick,
        back=options.back,
        detail_mm=options.detail,
        dark_stands=options.dark_stands,
        half_round=options.half_round,
        wall_mm=options.wall,
        base_mm=options.base,
        feet_mm=options.feet,
        resolution=options.resolution,
    )
    depth = beside(options.depth_picture, "depth picture")
    check_wanted(wanted)
    if options.network is not None:
        depth = _by_network(options, picture, subject)
    check_memory(cost_of(subject.cover, wanted.resolution), wanted.resolution)
    found = make_figure(subject, wanted, Beside(depth, behind))
    mesh = found.mesh if options.colours is None else reduced(found.mesh, options.colours)
    keep_mesh(
        options,
        mesh,
        notes=list(found.notes),
        tips_at_degrees=round(found.tips_deg, 2),
        seconds=round(time.perf_counter() - start, 3),
    )


def _by_network(options: argparse.Namespace, picture: Any, subject: Any) -> Any:
    """Depth of the whole picture as a network tells it."""
    from nebrel.core.errors import InvalidValue
    from nebrel.core.figure.network import Network, depth_by
    from nebrel.core.figure.subject import on_its_picture

    if options.depth_picture is not None:
        raise InvalidValue("network", "there is a depth picture, too", "Use one of the two")
    size = options.network_size
    if size is not None and not 16 <= size <= 4096:
        raise InvalidValue("network-size", f"{size} is outside 16 to 4096", "Use 384")
    network = Network(
        gives=options.network_gives,
        near=options.network_near,
        values=options.network_values,
        order=options.network_order,
        size=size,
    )
    own = depth_by(options.network, network, subject.pixels, subject.cover)
    return on_its_picture(subject, own, (picture.rows, picture.cols))
