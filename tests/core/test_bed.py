"""Whether a piece fits on the bed."""

import pytest

from nebrel.core.proof.bed import beyond_bed
from nebrel.core.questions.evaluator import Evaluator, key_of
from nebrel.core.recipe.models import load_recipe


@pytest.mark.parametrize(
    ("size", "over"),
    [
        ((180, 180, 180), None),
        ((200, 10, 10), (20, 0, 0)),
        ((10, 200, 10), (0, 20, 0)),
        ((150, 220, 10), None),
        ((150, 240, 190), (0, 20, 10)),
    ],
)
def test_a_piece_may_be_turned_by_a_quarter_to_fit(
    size: tuple[float, float, float], over: tuple[float, float, float] | None
) -> None:
    bed = (180.0, 180.0, 180.0) if 220 not in size and 240 not in size else (220.0, 160.0, 180.0)
    found = beyond_bed(size, bed)
    assert (found is None) == (over is None)
    assert over is None or sum(found or ()) == pytest.approx(sum(over))


def test_what_is_said_of_a_piece_follows_its_printer() -> None:
    plate = {"kind": "body", "body": {"kind": "plate", "wide": "300 mm"}}
    small = load_recipe({"begins": plate})
    large = load_recipe({"begins": plate, "made_with": {"printer": {"bed_wide_mm": 400}}})
    said = [
        Evaluator(lambda _: None).evaluate(one).figures()["beyond_bed_mm"] for one in (small, large)
    ]  # type: ignore[arg-type, return-value]
    assert said[0][0] == pytest.approx(120, abs=0.01)
    assert said[1] is None
    assert key_of(small, "full") != key_of(large, "full")
