"""A picture or a drawing set up as a coin."""

import numpy as np
import pytest

from nebrel.core.data import Floats, Picture
from nebrel.core.mesh.measure import measure
from nebrel.core.questions.coin import coin
from nebrel.core.questions.evaluation import Evaluation
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.questions.suits import look_at
from nebrel.core.recipe.build_up import DrawingEntry, TextEntry
from nebrel.core.recipe.models import Recipe, default_recipe, drawn_recipe
from nebrel.core.recipe.step import DrawingFile, PictureFile

Y, X = np.mgrid[0:120, 0:160].astype(np.float32)
BALL = np.sqrt(np.clip(1 - ((X - 50) / 30) ** 2 - ((Y - 70) / 40) ** 2, 0, 1))
PICTURES = {
    "a shape": np.where(BALL > 0, 0.0, 1.0),
    "on a plain ground": np.where(BALL > 0, 0.2 + 0.6 * BALL, 1.0),
    "whole": 0.5 + 0.3 * np.sin(X / 9) * np.cos(Y / 7),
}
SVG = (
    b'<svg xmlns="http://www.w3.org/2000/svg" width="30mm" height="60mm">'
    b'<path d="M0 0h60v200h-60z"/></svg>'
)


def minted(given: Recipe, tone: Floats) -> tuple[Recipe, Evaluation]:
    made = Evaluator(lambda _: Picture(tone), files=lambda _: SVG)
    seen = look_at(tone, None, None)
    recipe = coin(given, seen, lambda one: made.correct(one, "screen").work.size_mm)
    done = made.evaluate(recipe)
    assert [remark.error for remark in done.remarks if remark.refused] == []
    report = measure(done.mesh)
    assert report.manifold
    assert report.bodies == 1
    assert np.ptp(done.mesh.vertices, axis=0)[:2] == pytest.approx([50, 50], abs=0.03)
    return recipe, done


@pytest.mark.parametrize("kind", PICTURES)
def test_it_is_round_and_closed_whatever_the_picture(kind: str) -> None:
    tone = PICTURES[kind].astype(np.float32)
    recipe, done = minted(default_recipe("0" * 64, *tone.shape, "old oak.png"), tone)
    (words,) = [one for one in recipe.relief.art.build_up if isinstance(one, TextEntry)]
    assert words.text == "OLD OAK"
    up = done.mesh.vertices[:, 2]
    corrected = recipe.relief.art.pictured.corrections
    assert [one.kind for one in corrected] == ([] if kind == "whole" else ["isolate", "crop"])
    if kind != "whole":
        # The subject is in the middle, though it is not in that of its picture.
        middle = (
            done.mesh.vertices[:, :2].max(axis=0) / 2 + done.mesh.vertices[:, :2].min(axis=0) / 2
        )
        away = np.hypot(*(done.mesh.vertices[:, :2] - middle).T)
        inner = (away < 15) & (up > 2.1)
        found = done.mesh.vertices[inner, :2]
        assert (found.min(axis=0) + found.max(axis=0)) / 2 == pytest.approx(middle, abs=0.4)


def test_a_drawing_keeps_its_outline_within_the_words() -> None:
    shape = DrawingEntry(file=DrawingFile(sha256="0" * 64, filename="bar.svg"))
    tone = np.zeros((200, 60), np.float32)
    recipe, _ = minted(
        drawn_recipe(PictureFile(sha256="0" * 64, filename="bar.svg"), 15.0, shape), tone
    )
    (drawn,) = [one for one in recipe.relief.art.build_up if isinstance(one, DrawingEntry)]
    assert drawn.side is not None
    assert drawn.side.mm * np.hypot(1, 199 / 59) < 34


@pytest.mark.parametrize(
    ("filename", "words"),
    [("\u6c34.png", None), (".png", None), ("a_very-long.name of  a picture.tiff", 20)],
)
def test_words_are_those_that_can_be_set(filename: str, words: int | None) -> None:
    tone = PICTURES["a shape"].astype(np.float32)
    recipe, _ = minted(default_recipe("0" * 64, *tone.shape, filename), tone)
    found = [one.text for one in recipe.relief.art.build_up if isinstance(one, TextEntry)]
    assert len(found) == (words is not None)
    assert not found or len(found[0]) <= 20
