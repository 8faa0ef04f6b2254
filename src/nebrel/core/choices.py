"""Words that both a recipe and the computation choose by, in a module that loads nothing heavy."""

from __future__ import annotations

from typing import Literal, get_args

ProfileKind = Literal["sharp", "chamfer", "round", "cove", "pillow"]
"""How a raised thing ends at its outline."""

Face = Literal["plain", "plain_heavy", "slab", "stencil"]
"""What letters are drawn by."""

Align = Literal["left", "centre", "right"]
"""Where lines of letters meet."""

Corners = Literal["round", "mitred", "square"]
"""What corners become when an outline is moved outwards."""

SheetWay = Literal["inlaid", "stacked"]
"""How flat sheets lie: in openings of those below them, or on them."""

Does = Literal["move", "add", "drop", "smooth", "sharp"]
"""What is done to a node of an outline by hand."""

Around = Literal["plate", "circle", "polygon", "along"]
"""What a backing that is made for a shape is."""

Method = Literal["auto", "quick", "fewest", "greedy"]
"""How heights become triangles: see `triangulate`."""

Fault = Literal["doubles", "gaps", "fins", "flipped", "holes", "crossings", "inside"]
"""What is mended of a mesh, in that order."""

MESHES_WRITTEN = (".stl", ".3mf", ".obj", ".ply", ".glb", ".off", ".zip")
"""Endings of the mesh formats that are written; a ZIP holds an OBJ with its MTL."""

MOST_TRIANGLES = 20_000_000
"""Of a mesh."""

FormKind = Literal["panel", "arc", "tube", "globe", "disc", "dome"]
FORMS: tuple[FormKind, ...] = get_args(FormKind)
"""What heights are laid on."""

StartName = Literal[
    "relief", "light panel", "flat tones", "cut-out", "cutter", "stamp", "stencil", "coin", "figure"
]
STARTS: tuple[StartName, ...] = get_args(StartName)
"""What a piece that just arrived may be set up for."""

Part = Literal["piece", "holder", "cap", "side", "base", "lid", "stamp"]
PARTS: tuple[Part, ...] = get_args(Part)
"""A piece, and the pieces that go with it."""

PRODUCT_NAMES = (
    "piece.glb",
    "piece.stl",
    "piece-text.stl",
    "piece.3mf",
    "piece.obj",
    "piece.obj.zip",
    "piece.ply",
    "piece.off",
    "model.glb",
    "textured.glb",
    *(f"{part}.stl" for part in PARTS if part != "piece"),
    "heights.tif",
    "heights.png",
    "picture.png",
    "lit.png",
    "walls.glb",
    "stretch.glb",
    "rendered.png",
    "turntable.webp",
    "turntable.gif",
    "faults.json",
    "proof.json",
    "piece.zip",
    "sheets.svg",
    "sheets.dxf",
    "sheets.zip",
)
"""What can be made of a recipe and saved."""

Way = Literal["inflate", "half", "turn", "learned"]
"""How one picture becomes round."""

Back = Literal["mirror", "flat", "smooth"]
"""What is behind it."""

Gives = Literal["depth", "normals"]
"""What a network tells of a picture."""

Values = Literal["0 to 1", "-1 to 1", "0 to 255", "photograph"]
"""What its input takes."""

LEAST_RESOLUTION, MOST_RESOLUTION = 64, 1400
"""Cells along the longer side of a figure."""

EntryName = Literal["text", "outline", "drawing"]
"""What art without a picture is begun with."""

Catch = Literal["face", "axis"]
"""What art that is let go of on a body is caught by: the middle of a face, or of the body."""
