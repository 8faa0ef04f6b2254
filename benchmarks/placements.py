"""Random decorations on ten bodies: closed for an independent library, or refused with a reason.

Usage: python benchmarks/placements.py [COUNT] [SEED]
"""

from __future__ import annotations

import sys
import time
from collections import Counter
from hashlib import sha256
from typing import Any

import numpy as np
import trimesh

from nebrel.core.data import Mesh
from nebrel.core.errors import NebrelError
from nebrel.core.mesh.measure import measure
from nebrel.core.picture.patterns import PATTERNS, Dials, pattern
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.recipe.models import load_recipe
from nebrel.core.solid.ready import ready_mesh

UP = [(0, 0, 1), (0, 1, 0), (1, 0, 0), (0.3, -0.2, 1)]


def lumpy() -> Mesh:
    """A stone: a ball whose radius goes up and down."""
    made = trimesh.creation.icosphere(subdivisions=5, radius=30)
    way = made.vertices / 30
    more = 3 * np.sin(4 * way[:, 0]) + 2 * np.cos(5 * way[:, 1] + 1) + np.sin(9 * way[:, 2])
    return Mesh((way * (30 + more)[:, None]).astype(np.float32), made.faces.astype(np.int32))


def bodies() -> dict[str, Mesh]:
    """Smooth, sharp-edged and thin-walled ones."""
    return {
        "stone": lumpy(),
        "ball": ready_mesh("sphere", diameter=50),
        "doughnut": ready_mesh("torus", diameter=80, thick=24),
        "box": ready_mesh("box", wide=60, deep=40, tall=30, round=0),
        "rounded box": ready_mesh("box", wide=60, deep=40, tall=30, round=6),
        "cone": ready_mesh("cone", diameter=50, top=10, tall=60),
        "beaker": ready_mesh("beaker", diameter=60, top=70, tall=80, wall=2, floor=3),
        "band": ready_mesh("tube", diameter=60, tall=25, wall=1.2),
        "ring": ready_mesh("ring", inside=18, wide=6, thick=2, face=11),
        "plate": ready_mesh("plate", wide=80, deep=60, tall=2, corner=4),
    }


def sha_of(kind: str) -> str:
    """What a file of that name is called."""
    return sha256(kind.encode()).hexdigest()


def decoration(rng: np.random.Generator, body: Mesh) -> dict[str, Any]:
    """One somewhere on a body."""
    face = body.vertices[body.faces[rng.integers(len(body.faces))]].astype(np.float64)
    share = rng.dirichlet([1, 1, 1])
    kind = str(rng.choice(PATTERNS))
    tones: dict[str, Any] = {"kind": "picture", "id": "picture", "depth": rng.uniform(0.2, 2)}
    if rng.random() < 0.3:
        pins = [{"tone": 0.3, "mm": tones["depth"]}, {"tone": 0.6, "mm": None}]
        tones |= {"mapping": "plateaus", "pins": pins}
    picture = {"file": {"sha256": sha_of(kind)}, "side": rng.uniform(3, 30)}
    return {
        "art": {"picture": picture, "backing": 0.4, "build_up": [tones]},
        "at": list(share @ face),
        "up": UP[rng.integers(len(UP))],
        "turn": rng.uniform(-180, 180),
        "lie": str(rng.choice(["surface", "surface", "axis", "straight"])),
        "does": str(rng.choice(["raise", "sink", "through", "both"])),
        "lift": float(rng.choice([0.0, 0.0, 0.5, -0.3])),
        "repeat": int(rng.choice([1, 1, 1, 3])),
        "layout": str(rng.choice(["around", "mirror", "rows"])),
        "gap": rng.uniform(5, 40),
    }


def main() -> None:
    """Try them, and say what came of it."""
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 200
    rng = np.random.default_rng(int(sys.argv[2]) if len(sys.argv) > 2 else 1)
    known = bodies()
    made: Counter[str] = Counter()
    pictures = {sha_of(kind): kind for kind in PATTERNS}

    from nebrel.core.formats.png import encode_png
    from nebrel.core.picture.decode import decode

    drawn = {
        sha: decode(encode_png(pattern(kind, Dials(pixels=160, across=3))), f"{kind}.png")
        for sha, kind in pictures.items()
    }
    names = list(known)
    for number in range(count):
        name = names[number % len(names)]
        body = known[name]
        one = decoration(rng, body)
        file = {"sha256": "1" * 64, "filename": "body.stl"}
        begins = {
            "kind": "body",
            "body": {"kind": "mesh", "file": file, "unit": "mm"},
            "decorations": [one],
        }
        start = time.perf_counter()
        found = None
        try:
            evaluator = Evaluator(lambda sha: drawn[sha], meshes=lambda _, b=body: stl(b))
            found = evaluator.evaluate(load_recipe({"begins": begins}))
            error = found.decorations[0].error
        except NebrelError as refused:
            error = refused
        took = time.perf_counter() - start
        if error is not None or found is None:
            made["refused"] += 1
            print(f"{number:4} {name:12} refused  {took:5.1f} s  {error}")
            continue
        mesh = trimesh.Trimesh(found.mesh.vertices, found.mesh.faces, process=False)
        before = measure(body).volume_mm3
        change = float(mesh.volume) - before
        wrong = []
        if not mesh.is_watertight or not mesh.is_winding_consistent or not mesh.is_volume:
            wrong.append("open")
        if one["does"] == "raise" and change < -0.01 * before:
            wrong.append(f"less by {-change:.1f}")
        if one["does"] in ("sink", "through") and change > 0.01 * before:
            wrong.append(f"more by {change:.1f}")
        made["wrong" if wrong else "closed"] += 1
        print(
            f"{number:4} {name:12} {'WRONG' if wrong else 'closed'} {took:5.1f} s "
            f"{one['lie']} {one['does']} {one['layout']} {change:+.1f} mm3 {', '.join(wrong)}"
        )
    print(dict(made))


def stl(body: Mesh) -> bytes:
    """A body as a file."""
    from nebrel.core.formats.stl import encode_stl

    return encode_stl(body)


if __name__ == "__main__":
    main()
