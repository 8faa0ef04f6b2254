"""What can be made of a recipe and saved as a file, apart from looking at it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import get_args

from nebrel.core.choices import Part
from nebrel.core.data import Picture
from nebrel.core.formats.files import writing
from nebrel.core.formats.heights import write_heights
from nebrel.core.formats.png import write_png
from nebrel.core.formats.stl import write_stl
from nebrel.core.links.runner import Progress
from nebrel.core.picture.resample import display_bytes
from nebrel.core.proof.light import to_tone
from nebrel.core.recipe.companions import companion, company_of
from nebrel.core.recipe.evaluator import Evaluator
from nebrel.core.recipe.models import Recipe
from nebrel.core.recipe.shine import lamp_of, shine

_LONGEST_PX = 1_000_000  # of the lit picture: all of it
Write = Callable[[Evaluator, Recipe, Path, Progress | None], None]


@dataclass(frozen=True)
class Product:
    """Something that can be made of a recipe and saved.

    Attributes
    ----------
    called : in the words of the progress
    ending : of its file
    write : makes it at full quality; raises NebrelError
    """

    called: str
    ending: str
    media_type: str
    write: Write


def _piece(evaluator: Evaluator, recipe: Recipe, path: Path, tell: Progress | None) -> None:
    write_stl(evaluator.evaluate(recipe, "full", tell).mesh, path, "STL")


def _part(part: Part) -> Write:
    def write(evaluator: Evaluator, recipe: Recipe, path: Path, tell: Progress | None) -> None:
        relief = evaluator.relief(recipe, tell)
        write_stl(companion(company_of(recipe), relief, part), path, "STL")

    return write


def _heights(evaluator: Evaluator, recipe: Recipe, path: Path, tell: Progress | None) -> None:
    write_heights(path, *evaluator.relief(recipe, tell).joined(), "underside")


def _picture(evaluator: Evaluator, recipe: Recipe, path: Path, tell: Progress | None) -> None:
    found = evaluator.correct(recipe, "full", progress=tell).work
    write_png(path, found.tone, found.alpha, 25.4 / found.pitch_mm)


def _lit(evaluator: Evaluator, recipe: Recipe, path: Path, tell: Progress | None) -> None:
    relief = evaluator.relief(recipe, tell)
    tone = evaluator.correct(recipe, "full", progress=tell).work.tone
    light = shine(lamp_of(recipe), relief, tone).light
    with writing(path, "lit picture") as file:
        file.write(display_bytes(Picture(to_tone(light)), _LONGEST_PX))


# A new product is a function here, a line in this table, and its name in `core/choices.py`.
PRODUCTS: dict[str, Product] = {
    "piece.stl": Product("the STL", ".stl", "model/stl", _piece),
    **{
        f"{part}.stl": Product(f"the {part}", f".{part}.stl", "model/stl", _part(part))
        for part in get_args(Part)
        if part != "piece"
    },
    "heights.tif": Product("the heights", ".tif", "image/tiff", _heights),
    "heights.png": Product("the heights", ".heights.png", "image/png", _heights),
    "picture.png": Product("the picture", ".picture.png", "image/png", _picture),
    "lit.png": Product("the lit picture", ".lit.png", "image/png", _lit),
}
