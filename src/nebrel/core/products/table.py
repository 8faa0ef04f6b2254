"""What can be made of a recipe and saved as a file."""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from dataclasses import asdict, dataclass, replace
from pathlib import Path
from typing import Any, Literal, get_args
from zipfile import ZIP_DEFLATED, ZipFile

import numpy as np

from nebrel.core.choices import Part
from nebrel.core.data import Mesh, Picture
from nebrel.core.errors import Busy, Cancelled, InvalidValue, NebrelError, NotFound, NotSolid
from nebrel.core.figure.texture import textured
from nebrel.core.formats.dxf import layer_name, write_dxf
from nebrel.core.formats.files import Tell as ToldShare
from nebrel.core.formats.files import writing
from nebrel.core.formats.glb import encode_glb
from nebrel.core.formats.heights import write_heights
from nebrel.core.formats.meshes import read_mesh, write_mesh
from nebrel.core.formats.png import write_png
from nebrel.core.formats.stl import encode_stl, write_stl
from nebrel.core.formats.svg import grouped_svg, svg_of, write_svg
from nebrel.core.formats.text_stl import write_text_stl
from nebrel.core.formats.turntable import write_turntable
from nebrel.core.kernel import solid_of
from nebrel.core.links.runner import Progress
from nebrel.core.mesh.brought import MM, Unit
from nebrel.core.mesh.deviation import deviation
from nebrel.core.mesh.lighter import lighter
from nebrel.core.mesh.measure import measure
from nebrel.core.mesh.mesh_report import report_mesh
from nebrel.core.mesh.nearest import Nearby
from nebrel.core.mesh.place import laid_down, scaled
from nebrel.core.mesh.render import render, seen_from_the_front
from nebrel.core.mesh.tint import tinted
from nebrel.core.mesh.walls import wall_at_vertices
from nebrel.core.outline.outline import Outline
from nebrel.core.outline.regions import outline_of
from nebrel.core.picture.resample import display_bytes
from nebrel.core.products.bundle import write_bundle
from nebrel.core.products.companions import part_of
from nebrel.core.products.sheets import sheet, sheets_of, solid_sheet
from nebrel.core.proof.as_made import LOOKED_AT, as_made
from nebrel.core.proof.light import to_tone
from nebrel.core.questions.evaluation import Evaluation, shown_glb
from nebrel.core.questions.evaluator import (
    Evaluator,
    around_key,
    begun_key,
    hashed,
    key_of,
    recipe_key,
)
from nebrel.core.questions.shine import lamp_of, shine
from nebrel.core.recipe.files import files_of
from nebrel.core.recipe.models import Recipe, ReliefBegin, Triangles

_WALL_LINES = 4  # that are thick enough
MOST_DRAWN = 1_200_000  # triangles that a browser draws as it is turned
_STL, _PNG = "model/stl", "image/png"
_LONGEST_PX = 1_000_000  # of the lit picture: all of it
_STILL = 0.03  # of its size, by which finish steps may make a figure larger or smaller
_WRITTEN = 1e-6  # of the extent, by which a file may be off
NAMED = (".3mf", ".obj", ".obj.zip", ".model.glb")  # what holds a name
KINDS = {
    ".stl": "STL",
    ".text.stl": "text STL",
    ".3mf": "3MF",
    ".obj": "OBJ",
    ".obj.zip": "OBJ with MTL",
    ".ply": "PLY",
    ".off": "OFF",
    ".model.glb": "GLB",
}
MEDIA = {
    "stl": _STL,
    "3mf": "model/3mf",
    "obj": "model/obj",
    "zip": "application/zip",
    "ply": "model/vnd.ply",
    "off": "text/plain",
    "glb": "model/gltf-binary",
}


@dataclass
class Making:
    """What a product is made from.

    Attributes
    ----------
    file : gives a file of the recipe as it was brought, by its SHA-256
    called : the piece's name, where it has one
    tell : told the share done and the step; may raise to call it off
    """

    recipe: Recipe
    evaluator: Evaluator
    file: Callable[[str], Path | bytes]
    tell: Progress = lambda _done, _words: None
    called: str = ""

    def evaluation(self) -> Evaluation:
        """What the recipe comes to at full quality."""
        return self.evaluator.evaluate(self.recipe, "full", self.tell)

    def mesh(self) -> Mesh:
        """The mesh alone."""
        return self.evaluation().mesh


Write = Callable[[Making, Path], dict[str, Any] | None]


@dataclass(frozen=True)
class Product:
    """Something that can be made of a recipe and saved.

    Attributes
    ----------
    called : in the words of the progress
    saved_as : the name of its file, with `{}` for the piece's
    ending : of what is kept of it
    write : makes it at full quality, whole or not at all; figures, where it has some; raises
        NebrelError
    meshed : it depends on the mesh alone, so that equal meshes share it
    of : what of the recipe it is, where there are several with the same ending
    named : the piece's name is in it
    keyed : how its key is found, where that is another way
    """

    called: str
    saved_as: str
    ending: str
    media_type: str
    write: Write
    meshed: bool = False
    of: str = ""
    named: bool = False
    keyed: Callable[[Recipe], str] | None = None

    def key(self, recipe: Recipe, called: str = "") -> str:
        """Tells what is made of one recipe from what is made of another.

        Parameters
        ----------
        called : the piece's name
        """
        if self.keyed is not None:
            return self.keyed(recipe)
        if not self.meshed:
            return recipe_key(recipe, self.of + self.ending)
        whole = key_of(recipe, "full")
        more = self.of + (called if self.named else "")
        return hashed([whole, more]) if more else whole


def _shown(making: Making, path: Path) -> dict[str, Any]:
    """The mesh as a browser shows it, lighter where that could not draw it all."""
    recipe, evaluate, tell = making.recipe, making.evaluator.evaluate, making.tell
    result = making.evaluation()
    tell(0.88, "preparing the view")
    figures, drawn = result.figures(), result
    if result.report.triangles > MOST_DRAWN:
        if result.raised is None or result.steps:
            drawn = replace(result, mesh=lighter(result.mesh, MOST_DRAWN))
            figures["view"] = {"triangles": len(drawn.mesh.faces), "finish": None}
        else:
            fewer = Triangles(detail="made", method="auto", most_triangles=MOST_DRAWN)
            shown = recipe.model_copy(update={"triangles": fewer})
            try:
                drawn = evaluate(shown, "full", tell)
            except InvalidValue:  # so rough that no tolerance keeps the limit
                drawn = evaluate(recipe, "draft", tell)
            view = drawn.figures()
            figures["view"] = {"triangles": drawn.report.triangles, "finish": view["finish"]}
    with writing(path, "full-quality mesh") as file:
        file.write(shown_glb(recipe, drawn, figures))
    return figures


def _faults(making: Making, path: Path) -> dict[str, Any]:
    """What of the mesh that a body begins with will not print; figures alone."""
    begun = making.evaluator.begun(making.recipe, making.tell)
    making.tell(0.4, "looking for faults")
    found = report_mesh(begun.mesh, begun.report, making.recipe.made_with.printer.line_mm)
    figures = {"report": [asdict(one) for one in found], "mesh": begun.report.as_dict()}
    with writing(path, "mesh report") as file:
        file.write(json.dumps(figures, indent=1).encode())
    return {"faults": figures}


def _proof(making: Making, path: Path) -> dict[str, Any]:
    """How the piece comes off the bed; figures alone."""
    mesh = replace(making.mesh(), colours=None)
    making.tell(0.8, "measuring its walls")
    figures = asdict(as_made(mesh, making.recipe.made_with.printer.line_mm))
    with writing(path, "proof") as file:
        file.write(json.dumps(figures, indent=1).encode())
    return {"proof": figures}


def _walls(making: Making, path: Path) -> dict[str, Any]:
    """How thick the walls are, as a tint: madder where they are thinnest."""
    mesh = replace(making.mesh(), colours=None)
    making.tell(0.8, "measuring its walls")
    seen = lighter(mesh, LOOKED_AT)
    thick = wall_at_vertices(seen)
    most = _WALL_LINES * making.recipe.made_with.printer.line_mm
    coloured = replace(seen, colours=tinted(most - np.minimum(thick, most), most))
    figures = {"thinnest_mm": float(thick.min()) if np.isfinite(thick.min()) else None}
    figures["most_mm"] = most
    with writing(path, "wall thickness") as file:
        file.write(encode_glb(coloured, extras=figures))
    return {"walls": figures}


def _stretch(making: Making, path: Path) -> dict[str, Any]:
    """How decorations are stretched, as a tint: madder where they are the most."""
    mesh, found = making.evaluator.stretch(making.recipe, making.tell)
    making.tell(0.9, "preparing the view")
    coloured = replace(mesh, colours=tinted(found.share, max(found.most, 0.01)))
    with writing(path, "stretch") as file:
        file.write(encode_glb(coloured, extras=found.as_dict()))
    return {"stretch": found.as_dict()}


def _deviation(step_id: str) -> Product:
    """By how much a finish step changed the mesh, as a tint of the finer of the two."""

    def write(making: Making, path: Path) -> dict[str, Any]:
        before, after = making.evaluator.around(making.recipe, step_id, making.tell)
        making.tell(0.5, "measuring how far they are apart")
        said = deviation(before, after)
        making.tell(0.9, "preparing the view")
        finer, other = (before, after) if len(before.faces) >= len(after.faces) else (after, before)
        seen = lighter(replace(finer, colours=None), MOST_DRAWN)
        away, _, _ = Nearby.of(other).nearest(seen.vertices)
        coloured = replace(seen, colours=tinted(away, said.max_mm))
        figures = {**said.as_dict(), "step_id": step_id}
        with writing(path, "deviation") as file:
            file.write(encode_glb(coloured, extras=figures))
        return {"deviation": figures}

    def key(recipe: Recipe) -> str:
        return around_key(recipe, step_id)

    kept = ".deviation.glb"
    media_type, saved_as = KEPT[kept]
    return Product("the deviation", saved_as, kept, media_type, write, keyed=key)


def _piece(
    ending: str,
    write: Callable[[Mesh, Path, str, ToldShare], Any] = write_mesh,
    unit: Unit = "mm",
    up: Literal["z", "y"] = "z",
) -> Product:
    """The finished mesh in an open format; what was written is read back before it is offered.

    Parameters
    ----------
    unit : what one of its numbers is; only of formats that say none
    up : which of its axes points up
    """
    called = KINDS[ending]

    def made(making: Making, path: Path) -> None:
        mesh = making.mesh()
        if making.called:
            mesh = replace(mesh, name=making.called)
        if up == "y":
            mesh = laid_down(mesh)
        if unit != "mm":
            mesh = scaled(mesh, 1 / MM[unit])

        def written(done: float) -> None:
            making.tell(0.9 + 0.07 * done, "writing the file")

        written(0.0)
        write(mesh, path, called, written)
        making.tell(0.97, "reading it back")
        _check_written(mesh, path, called)

    last = ending.rpartition(".")[2]
    saved_as = f"{{}}, OBJ.{last}" if last == "zip" else f"{{}}.{last}"
    of = "" if (unit, up) == ("mm", "z") else f" {unit} {up}"
    return Product(
        f"the {called}",
        saved_as,
        ending,
        MEDIA[last],
        made,
        meshed=True,
        of=of,
        named=ending in NAMED,
    )


def _check_written(mesh: Mesh, path: Path, called: str) -> None:
    """Refuse to offer a file that does not hold what was written.

    Raises
    ------
    NotSolid
    """
    found, report = read_mesh(path), measure(mesh)
    again = measure(found)
    low, high = (abs(f(found.vertices, 0) - f(mesh.vertices, 0)).max() for f in (np.min, np.max))
    near = max(low, high) <= _WRITTEN * max(1.0, float(np.abs(mesh.vertices).max()))
    if again.triangles != report.triangles or again.manifold != report.manifold or not near:
        path.unlink(missing_ok=True)
        raise NotSolid(
            called,
            f"read back it holds {again.triangles} triangles of {report.triangles} and is "
            f"{'closed' if again.closed else 'open'}",
            "Try another format",
        )


def seen_standing(recipe: Recipe, mesh: Mesh) -> bool:
    """Whether a piece is drawn as seen from the front."""
    begins = recipe.begins
    return begins.form.standing if isinstance(begins, ReliefBegin) else seen_from_the_front(mesh)


def _rendered(making: Making, path: Path) -> None:
    mesh = making.mesh()
    making.tell(0.9, "drawing it")
    with writing(path, "picture") as file:
        file.write(render(mesh, 1600, 1200, standing=seen_standing(making.recipe, mesh)))


def _turntable(making: Making, path: Path) -> None:
    mesh = making.mesh()
    making.tell(0.5, "turning it around")

    def tell(done: float) -> None:
        making.tell(0.5 + done / 2, "turning it around")

    write_turntable(mesh, path, seen_standing(making.recipe, mesh), tell)


def _textured(making: Making, path: Path) -> None:
    """A figure with its picture over it, as a texture with its own map."""
    begins = making.recipe.figure
    if begins is None:
        raise NotFound("figure", "this piece does not begin as one", "Export a GLB")
    begun = making.evaluator.begun(making.recipe, making.tell)
    if begun.figure is None or begun.figure.place is None:
        raise InvalidValue(
            "texture",
            "what leant, or was moved, is elsewhere than in the picture",
            "Export a GLB, with the colours on its vertices",
        )
    mesh = making.mesh()
    ends = [f(m.vertices, 0) for m in (mesh, begun.mesh) for f in (np.min, np.max)]
    off = max(np.abs(ends[0] - ends[2]).max(), np.abs(ends[1] - ends[3]).max())
    if off > _STILL * float(np.max(ends[3] - ends[2])):
        raise InvalidValue(
            "texture",
            "its finish steps move the figure away from its picture",
            "Switch those off, or export a GLB, with the colours on its vertices",
        )
    making.tell(0.9, "laying the picture over it")
    back = making.evaluator.back_subject(begins)
    found = textured(mesh, making.evaluator.subject(begins), begun.figure.place, back)
    if making.called:
        found = replace(found, mesh=replace(found.mesh, name=making.called))
    data = encode_glb(found.mesh, shares=found.shares, standing=True, picture=found.picture)
    with writing(path, "textured GLB") as file:
        file.write(data)


def _part(part: Part) -> Product:
    def write(making: Making, path: Path) -> None:
        write_stl(part_of(making.evaluator, making.recipe, part, making.tell), path, "STL")

    return Product(f"the {part}", f"{{}}, {part}.stl", f".{part}.stl", _STL, write)


def _heights(making: Making, path: Path) -> None:
    relief = making.evaluator.relief(making.recipe, making.tell)
    write_heights(path, *relief.joined(), "underside")


def _picture(making: Making, path: Path) -> None:
    found = making.evaluator.correct(making.recipe, "full", progress=making.tell).work
    write_png(path, found.tone, found.alpha, 25.4 / found.pitch_mm)


def _lit(making: Making, path: Path) -> None:
    relief = making.evaluator.relief(making.recipe, making.tell)
    tone = making.evaluator.correct(making.recipe, "full", progress=making.tell).work.tone
    light = shine(lamp_of(making.recipe), relief, tone).light
    with writing(path, "lit picture") as file:
        file.write(display_bytes(Picture(to_tone(light)), _LONGEST_PX))


def _bundle(making: Making, path: Path) -> None:
    files = {name: making.file(name) for name in files_of(making.recipe)}
    preview = None
    try:
        mesh = making.evaluator.evaluate(making.recipe, "draft", making.tell).mesh
        preview = render(mesh, standing=seen_standing(making.recipe, mesh))
    except (Cancelled, Busy):
        raise
    except NebrelError:  # what cannot be made is saved none the less
        pass
    with writing(path, "piece file") as out:
        write_bundle(out, making.recipe, files, preview)


def _outline_file(name: str, outline: Callable[[Making], Outline]) -> Product:
    """An outline as SVG or DXF; `-splines` before the ending keeps curves in a DXF."""
    ending = name[name.rindex(".") :]
    splines = name[: -len(ending)].endswith("-splines")

    def write(making: Making, path: Path) -> None:
        found = outline(making)
        making.tell(0.9, "writing the outline")
        if ending == ".svg":
            write_svg(found, path)
        else:
            write_dxf([found], path, "splines" if splines else "polylines")

    kept = f".outline{ending}"
    media_type, saved_as = KEPT[kept]
    return Product("the outline", saved_as, kept, media_type, write, of=name)


def _of_entry(entry_id: str) -> Callable[[Making], Outline]:
    def find(making: Making) -> Outline:
        return making.evaluator.outline(making.recipe, entry_id, making.tell)

    return find


def _at_height(height_mm: float) -> Callable[[Making], Outline]:
    def find(making: Making) -> Outline:
        found = outline_of(solid_of(making.mesh()).slice(height_mm))
        if not found:
            raise InvalidValue(
                "height", f"at {height_mm:g} mm there is nothing of the piece", "Go lower"
            )
        return found

    return find


def _sheets(making: Making, path: Path, ending: str) -> None:
    """All sheets in one file: groups of an SVG, layers of a DXF, or a ZIP with a solid of each."""
    found = sheets_of(making.evaluator, making.recipe, making.tell)
    making.tell(0.9, "writing the sheets")
    if ending == ".dxf":
        layers = [layer_name(name) for name, _ in found]
        write_dxf([outline for _, outline in found], path, layers=layers)
        return
    if ending == ".svg":
        with writing(path, "SVG") as file:
            file.write(grouped_svg(found).encode())
        return
    thick = making.recipe.relief.sheets.thick.mm
    with writing(path, "ZIP") as file, ZipFile(file, "w", ZIP_DEFLATED) as packed:
        packed.writestr("sheets.svg", grouped_svg(found))
        for name, outline in found:
            called = layer_name(name)
            packed.writestr(f"{called}.svg", svg_of(outline))
            packed.writestr(f"{called}.stl", encode_stl(solid_sheet(outline, thick)))


def _all_sheets(ending: str) -> Product:
    kept = f".sheets{ending}"
    media = {".svg": "image/svg+xml", ".dxf": "image/vnd.dxf", ".zip": "application/zip"}[ending]

    def write(making: Making, path: Path) -> None:
        _sheets(making, path, ending)

    return Product("the sheets", f"{{}}, sheets{ending}", kept, media, write)


def _one_sheet(name: str, number: int, ending: str) -> Product:
    def write(making: Making, path: Path) -> None:
        outline = sheet(sheets_of(making.evaluator, making.recipe, making.tell), number)
        if ending == ".stl":
            write_stl(solid_sheet(outline, making.recipe.relief.sheets.thick.mm), path, "STL")
        elif ending == ".svg":
            write_svg(outline, path)
        else:
            write_dxf([outline], path)

    kept = f".sheet{ending}"
    media_type, saved_as = KEPT[kept]
    return Product("the sheet", saved_as, kept, media_type, write, of=name)


_IN_UNITS = re.compile(
    r"piece(?P<text>-text)?(?:-(?P<unit>mm|cm|m|in))?(?P<up>-y)?(?P<ending>\.stl|\.obj\.zip|\.obj|\.ply|\.off)"
)
_DEVIATION = re.compile(r"deviation-(?P<step>.{1,80}?)\.glb")
_SHEETS = re.compile(r"sheet-(?P<number>\d{1,3})(?P<ending>\.svg|\.dxf|\.stl)")
_OUTLINES = re.compile(
    r"(?:entry-(?P<entry>.{1,80}?)|height-(?P<height>\d{1,4}(?:\.\d{1,4})?))"
    r"(?:-splines)?\.(?:svg|dxf)"
)


def product_of(name: str) -> Product:
    """What is called so: of PRODUCTS, or an outline.

    An entry's own is `entry-ID.svg`, that of the piece at a height `height-MM.svg`; or `.dxf`,
    with curves as `-splines.dxf`; the mesh in another unit, or with y up, `piece-in.stl`,
    `piece-y.obj`, `piece-cm-y.ply`; one of its flat sheets is `sheet-N.svg`, `.dxf` or `.stl`.

    Raises
    ------
    NotFound : nothing is called so
    """
    if name in PRODUCTS:
        return PRODUCTS[name]
    one = _SHEETS.fullmatch(name)
    if one is not None:
        return _one_sheet(name, int(one["number"]), one["ending"])
    step = _DEVIATION.fullmatch(name)
    if step is not None:
        return _deviation(step["step"])
    other = _IN_UNITS.fullmatch(name)
    if other is not None:
        ending = ".text.stl" if other["text"] else other["ending"]
        write = write_text_stl if other["text"] else write_mesh
        unit: Unit = other["unit"] or "mm"  # type: ignore[assignment]
        return _piece(ending, write, unit, "y" if other["up"] else "z")
    found = _OUTLINES.fullmatch(name)
    if found is None:
        known = ", ".join(
            [*PRODUCTS, "entry-ID.svg", "height-MM.dxf", "sheet-N.stl", "deviation-ID.glb"]
        )
        raise NotFound("product", f"nothing is called “{name[:40]}”", f"There are {known}")
    if found["entry"] is not None:
        return _outline_file(name, _of_entry(found["entry"]))
    return _outline_file(name, _at_height(float(found["height"])))


# A new product is a function here, a line in this table, and its name in `core/choices.py`.
PRODUCTS: dict[str, Product] = {
    "piece.glb": Product("the mesh", "{}.glb", ".glb", "model/gltf-binary", _shown, meshed=True),
    "piece.stl": _piece(".stl"),
    "piece-text.stl": _piece(".text.stl", write_text_stl),
    "piece.3mf": _piece(".3mf"),
    "piece.obj": _piece(".obj"),
    "piece.obj.zip": _piece(".obj.zip"),
    "piece.ply": _piece(".ply"),
    "piece.off": _piece(".off"),
    "model.glb": _piece(".model.glb"),
    "textured.glb": Product(
        "the textured GLB", "{}, textured.glb", ".textured.glb", MEDIA["glb"], _textured
    ),
    **{f"{part}.stl": _part(part) for part in get_args(Part) if part != "piece"},
    "heights.tif": Product("the heights", "{}, heights.tif", ".tif", "image/tiff", _heights),
    "heights.png": Product("the heights", "{}, heights.png", ".heights.png", _PNG, _heights),
    "picture.png": Product("the picture", "{}, corrected.png", ".picture.png", _PNG, _picture),
    "lit.png": Product("the lit picture", "{}, lit.png", ".lit.png", _PNG, _lit),
    "walls.glb": Product("the wall thickness", "{}, walls.glb", ".walls.glb", MEDIA["glb"], _walls),
    "stretch.glb": Product(
        "the stretch", "{}, stretch.glb", ".stretch.glb", MEDIA["glb"], _stretch
    ),
    "rendered.png": Product(
        "the picture of the piece", "{}, drawn.png", ".rendered.png", _PNG, _rendered, meshed=True
    ),
    "turntable.webp": Product(
        "the turntable", "{}, turned.webp", ".webp", "image/webp", _turntable, meshed=True
    ),
    "turntable.gif": Product(
        "the turntable", "{}, turned.gif", ".gif", "image/gif", _turntable, meshed=True
    ),
    "faults.json": Product(
        "the mesh report",
        "{}, report.json",
        ".faults.json",
        "application/json",
        _faults,
        keyed=begun_key,
    ),
    "proof.json": Product("the proof", "{}, proof.json", ".proof.json", "application/json", _proof),
    "piece.zip": Product("the recipe", "{}.zip", ".zip", "application/zip", _bundle),
    **{f"sheets{ending}": _all_sheets(ending) for ending in (".svg", ".dxf", ".zip")},
}

KEPT: dict[str, tuple[str, str]] = {
    **{made.ending: (made.media_type, made.saved_as) for made in PRODUCTS.values()},
    ".deviation.glb": (MEDIA["glb"], "{}, deviation.glb"),
    ".outline.svg": ("image/svg+xml", "{}, outline.svg"),
    ".outline.dxf": ("image/vnd.dxf", "{}, outline.dxf"),
    ".sheet.svg": ("image/svg+xml", "{}, sheet.svg"),
    ".sheet.dxf": ("image/vnd.dxf", "{}, sheet.dxf"),
    ".sheet.stl": (_STL, "{}, sheet.stl"),
}
"""What is kept, by its ending: media type, and name with `{}` for the piece's."""
