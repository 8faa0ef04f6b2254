"""What is refused is said in the words of those who type."""

import pytest
from pydantic import ValidationError

from nebrel.core.errors import NebrelError
from nebrel.core.recipe.explain import explain
from nebrel.core.recipe.models import Recipe, load_recipe

PICTURE = {"file": {"sha256": "0" * 64}}


def refusal(document: dict) -> NebrelError:
    with pytest.raises(ValidationError) as caught:
        Recipe.model_validate(document)
    return explain([{**e, "loc": ("body", "recipe", *e["loc"])} for e in caught.value.errors()])


@pytest.mark.parametrize(
    ("document", "words"),
    [
        (
            {"corrections": [{"kind": "crop", "box": {"x": 0, "y": 0, "wide": 0, "tall": 5}}]},
            "crop, box width: 0 is not above 0. Type more than 0.",
        ),
        (
            {"corrections": [{"kind": "levels", "black": 1.5}]},
            "levels, black: 1.5 is above 1. The nearest that works is 1.",
        ),
        (
            {"corrections": [{"kind": "resize", "cols": 3.5}]},
            "resize, cols: 3.5 is not a whole number. The nearest that works is 4.",
        ),
        (
            {"side": {"mm": 9000}},
            "side: a side of 9000 mm is outside 0.1 to 5000 mm. The nearest that works is 5000 mm.",
        ),
        (
            {"along": "deep"},
            "along: it is not 'wide' or 'tall'. Choose one of these.",
        ),
        (
            {"corrections": [{"kind": "crop", "glow": 1}]},
            "crop, glow: it is not known here. Take it out, or update Nebrel.",
        ),
    ],
)
def test_a_field_is_called_as_a_person_calls_it(document: dict, words: str) -> None:
    assert str(refusal({"begins": {"art": {"picture": {**PICTURE, **document}}}})) == words


def test_units_are_not_part_of_a_name() -> None:
    error = refusal(
        {"begins": {"art": {"picture": PICTURE}}, "made_with": {"printer": {"nozzle_mm": 99}}}
    )
    assert str(error) == "printer, nozzle: 99 is above 5. The nearest that works is 5."


def test_in_a_file_the_place_is_exact() -> None:
    with pytest.raises(NebrelError) as caught:
        load_recipe({"begins": {"art": {"picture": PICTURE, "draft": 60}}})
    assert caught.value.what == "begins.art.draft"
