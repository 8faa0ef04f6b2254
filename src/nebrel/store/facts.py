"""What is known of kept files, and how it is found out: by functions of a path.

What reads a file is loaded where one is read: that is another process than the one that asks.
"""

from __future__ import annotations

import shutil
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import TYPE_CHECKING, Any, Literal, ParamSpec, Protocol, TypeVar

import numpy as np
from pydantic import BaseModel, ConfigDict

from nebrel.core.choices import Gives
from nebrel.core.data import HeightScale
from nebrel.core.errors import NebrelError
from nebrel.core.formats.drawing import Drawing, guess_unit
from nebrel.core.formats.meshes import ending_of, guess_unit_of_mesh, read_brought
from nebrel.core.formats.stl import is_binary_stl, stl_box
from nebrel.core.mesh.brought import Brought, Unit

if TYPE_CHECKING:
    from nebrel.core.picture.decode import PictureLimits

VIEW_PX = 640
_LEAST_MM, _MOST_MM = 0.2, 4500.0  # of a drawing, so that a piece can be as large
_UNSAID_MM = 100.0  # of the longer side of a drawing whose own size cannot be made

Given = ParamSpec("Given")
Found = TypeVar("Found")


class Reads(Protocol):
    """Has a file read, wherever that is done."""

    def __call__(
        self,
        called: str,
        read: Callable[Given, Found],
        /,
        *given: Given.args,
        **named: Given.kwargs,
    ) -> Found:
        """What `read` says of it. Raises what that raises, and where it takes too much."""


def here(
    _called: str, read: Callable[Given, Found], /, *given: Given.args, **named: Given.kwargs
) -> Found:
    """In this process, as it comes."""
    return read(*given, **named)


class PictureFacts(BaseModel):
    """What is known of a picture file without decoding it again."""

    model_config = ConfigDict(frozen=True)

    file_format: str
    cols: int
    rows: int
    bit_depth: int
    coloured: bool
    transparent: bool
    dpi: float | None
    notes: list[str]


class DrawingFacts(BaseModel):
    """What is known of a drawing without reading it again.

    Attributes
    ----------
    wide_mm, tall_mm : of its own box, as the file says, or by what its unit was guessed to be
    unit : of the file; None where it does not say
    guess : what one unit is taken for then
    layers : groups or layers, with the number of lines in each
    page_mm : of the page that it lies on, where the file has one
    """

    model_config = ConfigDict(frozen=True)

    wide_mm: float
    tall_mm: float
    unit: str | None
    guess: Literal["mm", "cm", "m", "in"]
    layers: dict[str, int]
    notes: list[str]
    page_mm: tuple[float, float] | None = None


class MeshFacts(BaseModel):
    """What is known of a mesh file without reading it again.

    Attributes
    ----------
    size : of its box, x, y and z, in its own unit
    unit : of the file; None where it does not say
    guess, why : what one unit is taken for then, and the reason in words
    """

    model_config = ConfigDict(frozen=True)

    file_format: str
    triangles: int
    objects: int
    coloured: bool
    size: tuple[float, float, float]
    unit: Unit | None
    guess: Literal["mm", "cm", "m", "in"]
    why: str
    notes: list[str]


@dataclass(frozen=True)
class Drawn:
    """A drawing as a picture, to look at.

    Attributes
    ----------
    png : black on white
    wide_mm : of that picture
    along : the longer side of a drawing whose own size cannot be meant, made `side_mm` long;
        its true size is typed
    """

    png: bytes
    wide_mm: float
    along: Literal["wide", "tall"] | None = None
    side_mm: float = _UNSAID_MM


def picture_facts(
    path: Path, filename: str, limits: PictureLimits | None = None
) -> tuple[PictureFacts, HeightScale | None, bytes]:
    """What is known of a picture, what its tones are worth, and a small PNG of it.

    Raises
    ------
    UnreadableFile, TooLarge, InvalidValue : as `decode`
    """
    from nebrel.core.picture.decode import decode
    from nebrel.core.picture.resample import display_bytes

    picture = decode(path, filename, limits)
    facts = PictureFacts(
        file_format=picture.file_format,
        cols=picture.cols,
        rows=picture.rows,
        bit_depth=picture.bit_depth,
        coloured=picture.pixels.ndim == 3,
        transparent=picture.alpha is not None,
        dpi=picture.dpi,
        notes=list(picture.notes),
    )
    return facts, picture.heights, display_bytes(picture, VIEW_PX)


def picture_view(path: Path, filename: str) -> bytes:
    """A small PNG of a picture. Raises as `decode`."""
    from nebrel.core.picture.decode import decode
    from nebrel.core.picture.resample import display_bytes

    return display_bytes(decode(path, filename), VIEW_PX)


def drawing_facts(
    path: Path, filename: str, drawn: bool = False
) -> tuple[DrawingFacts, Drawn | None]:
    """What is known of a drawing; drawn as well, where that is asked for.

    Raises
    ------
    UnreadableFile, TooLarge : as `read_drawing`
    """
    from nebrel.core.formats.read_drawing import drawing_of

    data = path.read_bytes()
    drawing = drawing_of(data, filename)
    said, guess = drawing.unit, guess_unit(drawing.size_mm)
    if said is None and guess != "mm":
        drawing = drawing_of(data, filename, guess)
    wide, tall = drawing.size_mm
    notes = list(drawing.notes)
    makeable = _LEAST_MM <= max(wide, tall) <= _MOST_MM
    if not makeable:
        notes.append(f"at {wide:.4g} × {tall:.4g} mm it could not be made; type its true size")
    facts = DrawingFacts(
        wide_mm=round(wide, 4),
        tall_mm=round(tall, 4),
        unit=said,
        guess=guess if said is None else "mm",
        layers=drawing.layers,
        notes=notes,
        page_mm=drawing.page_mm,
    )
    return facts, _drawn(drawing, makeable) if drawn else None


def _drawn(drawing: Drawing, makeable: bool) -> Drawn:
    from nebrel.core.formats.draw_picture import picture_of
    from nebrel.core.formats.png import encode_png

    along: Literal["wide", "tall"] | None = None
    if not makeable:
        wide, tall = drawing.size_mm
        along = "wide" if wide >= tall else "tall"
        drawing = drawing.scaled(_UNSAID_MM, along)
    tone, wide_mm = picture_of(drawing.outline)
    pixels_per_inch = 25.4 * (tone.shape[1] - 1) / wide_mm
    return Drawn(encode_png(tone, None, pixels_per_inch), wide_mm, along)


def mesh_facts(path: Path, filename: str) -> MeshFacts:
    """What is known of a mesh. Raises UnreadableFile, TooLarge as `read_brought`."""
    ending = Path(filename).suffix.lower() or ending_of(path)
    brought = Brought(())
    try:
        if ending == ".stl" and is_binary_stl(path):  # not read whole: it may be large
            triangles, low, high = stl_box(path)
        else:
            brought = read_brought(path, ending)
            triangles = sum(len(part.faces) for part in brought.parts)
            low = np.min([part.vertices.min(axis=0) for part in brought.parts], axis=0)
            high = np.max([part.vertices.max(axis=0) for part in brought.parts], axis=0)
    except NebrelError as error:  # it is called as the person calls it
        raise type(error)(filename, error.why, error.remedy) from error
    x, y, z = (float(side) for side in high.astype(np.float64) - low)
    guess, why = guess_unit_of_mesh((x, y, z))
    return MeshFacts(
        file_format=ending[1:],
        triangles=triangles,
        objects=max(1, len(brought.parts)),
        coloured=any(part.colours is not None for part in brought.parts),
        size=(x, y, z),
        unit=brought.unit,
        guess=guess,
        why=why,
        notes=list(brought.notes),
    )


def network_gives(path: Path, filename: str) -> Gives:
    """What a network gives, tried with a test picture. Raises as `what_it_gives`."""
    from nebrel.core.figure.network import what_it_gives

    try:
        # In a folder of its own, where no other file lies beside it.
        with TemporaryDirectory() as folder:
            alone = Path(folder) / "network.onnx"
            shutil.copyfile(path, alone)
            return what_it_gives(alone)
    except NebrelError as error:
        raise type(error)(filename, error.why, error.remedy) from error


def plain(facts: BaseModel) -> dict[str, Any]:
    """As it is kept."""
    return facts.model_dump(mode="json")
