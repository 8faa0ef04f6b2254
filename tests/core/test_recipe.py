import json

import numpy as np
import pytest

from nebrel.core.data import Picture
from nebrel.core.errors import Cancelled, InvalidRecipe, InvalidValue, NebrelError
from nebrel.core.mesh.render import draw_triangles, render
from nebrel.core.picture.resample import reduce_to
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.recipe.models import Recipe, Triangles, default_recipe, load_recipe
from nebrel.demo.pictures import craters
from tests.pictures import ramp
from tests.recipes import pictured

SHA = "a" * 64


def recipe(**heights: object) -> Recipe:
    return load_recipe(
        {"schema_version": 1, "picture": {"sha256": SHA, "side": 80}, "heights": heights}
    )


def evaluator(picture: Picture | None = None, **options: int) -> Evaluator:
    return Evaluator(lambda _: picture or Picture(ramp(60, 81)), **options)


def test_a_recipe_round_trips_through_json() -> None:
    made = recipe(depth="0.5 in", raised="dark")
    again = load_recipe(made.model_dump_json())
    assert again == made
    assert again.relief.art.tones.depth.mm == pytest.approx(12.7)
    assert again.relief.art.tones.depth.text == "0.5 in"


@pytest.mark.parametrize(
    "document",
    [
        "{",
        "[]",
        {"schema_version": 99, "picture": {"sha256": SHA}},
        {"schema_version": 1},
        {"schema_version": 1, "picture": {"sha256": "../etc/passwd"}},
        {"schema_version": 1, "picture": {"sha256": SHA}, "glaze": 3},
    ],
)
def test_wrong_recipes_are_refused(document: object) -> None:
    with pytest.raises(InvalidRecipe):
        load_recipe(document)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    "heights", [{"depth": 0}, {"depth": -1}, {"backing": -0.1}, {"depth": 1e9}]
)
def test_wrong_numbers_name_the_nearest_that_works(heights: dict[str, float]) -> None:
    with pytest.raises(InvalidValue, match="nearest that works"):
        recipe(**heights)


def test_size_and_heights_of_the_result() -> None:
    result = evaluator().evaluate(recipe(depth=2, backing=1.5))
    assert result.report.size_mm == (80.0, 59.0, 3.5)
    assert result.report.volume_mm3 == pytest.approx(80 * 59 * 2.5, rel=1e-5)
    dark = evaluator().evaluate(recipe(depth=2, backing=1.5, raised="dark"))
    assert dark.mesh.vertices[dark.mesh.vertices[:, 0] == 0, 2].max() == 3.5


def test_what_is_transparent_stays_at_the_backing() -> None:
    alpha = np.ones((60, 81), np.float32)
    alpha[:, 40:] = 0
    for raised in ("light", "dark"):
        result = evaluator(Picture(ramp(60, 81), alpha)).evaluate(recipe(raised=raised, backing=1))
        assert result.heights.mm[:, 40:] == pytest.approx(np.ones((60, 41)))


def test_no_backing_needs_no_black() -> None:
    with pytest.raises(InvalidValue, match="thickness"):
        evaluator().evaluate(recipe(backing=0))
    gray = evaluator(Picture(ramp(60, 81) * 0.5 + 0.4)).evaluate(recipe(backing=0, depth=5))
    assert gray.report.manifold
    assert gray.heights.mm.min() == pytest.approx(2.0)


def test_a_draft_refuses_what_full_quality_refuses() -> None:
    tones = np.full((700, 700), 0.5, np.float32)
    tones[300, 300] = 0
    for quality in ("draft", "full"):
        with pytest.raises(InvalidValue, match="thickness"):
            evaluator(Picture(tones)).evaluate(recipe(backing=0), quality)


def test_only_what_lies_after_a_change_is_computed() -> None:
    steps = evaluator()
    steps.evaluate(recipe(depth=2))
    steps.evaluate(recipe(depth=3))
    times = {"reading the picture": 1, "reading the tones": 1, "raising the tones": 2}
    assert {name: steps.computed[name] for name in times} == times
    before = steps.computed.copy()
    steps.evaluate(recipe(depth=3).model_copy(update={"triangles": Triangles()}))
    assert steps.computed == before


def test_the_cache_is_bounded() -> None:
    steps = evaluator(cache_bytes=50_000)
    for depth in range(1, 30):
        steps.evaluate(recipe(depth=depth))
    assert steps.runner.weight < 200_000


def test_a_name_of_a_correction_makes_nothing_anew() -> None:
    plain = recipe(depth=2).model_dump(mode="json")
    pictured(plain)["corrections"] = [{"kind": "invert", "id": "a"}]
    named = json.loads(json.dumps(plain))
    pictured(named)["corrections"][0]["name"] = "Dark for light"
    assert len({evaluator().key_of(load_recipe(r), "full") for r in (plain, named)}) == 1


def test_keys_tell_recipes_and_qualities_apart() -> None:
    steps = evaluator()
    keys = {steps.key_of(recipe(depth=d), q) for d in (2, 3) for q in ("draft", "full")}
    assert len(keys) == 4
    assert steps.evaluate(recipe(depth=2), "draft").key in keys


def test_draft_has_the_same_size_and_is_lighter() -> None:
    steps = evaluator(Picture(craters(800, 1000)))
    draft, full = (steps.evaluate(recipe(), quality) for quality in ("draft", "full"))
    assert draft.report.size_mm[:2] == full.report.size_mm[:2]
    assert draft.report.triangles < full.report.triangles / 2
    assert draft.report.manifold
    assert draft.figures()["picture"]["cols"] == 1000
    # The figures of a draft are true: fine peaks count although the draft does not show them.
    assert draft.heights.mm.max() < full.heights.mm.max()
    assert draft.figures()["heights"] == full.figures()["heights"]


def test_progress_is_told_and_can_call_it_off() -> None:
    told: list[tuple[float, str]] = []
    evaluator().evaluate(recipe(), "full", lambda done, words: told.append((done, words)))
    assert [done for done, _ in told] == sorted(done for done, _ in told)
    assert "reading the picture" in told[0]

    def stop(done: float, _: str) -> None:
        if done > 0.1:
            raise Cancelled("work", "called off", "start again")

    with pytest.raises(NebrelError):
        evaluator().evaluate(recipe(), "full", stop)


def test_reducing_keeps_a_ramp_a_ramp_with_its_ends() -> None:
    small = reduce_to(ramp(1000, 2000), 200)
    assert small.shape == (100, 200)
    assert small[50] == pytest.approx(np.linspace(0, 1, 200), abs=0.006)


def test_default_is_a_hundred_millimetres_on_the_longer_side() -> None:
    assert default_recipe(SHA, 10, 20).relief.art.pictured.along == "wide"
    assert default_recipe(SHA, 20, 10).relief.art.pictured.along == "tall"
    assert pictured(json.loads(default_recipe(SHA, 20, 10).model_dump_json()))["side"]["mm"] == 100


def test_triangles_are_drawn_as_the_plain_loop_draws_them() -> None:
    rng = np.random.default_rng(8)
    screen = np.column_stack([rng.uniform(-3, 33, (40, 2)), rng.random(40)]).astype(np.float32)
    faces = rng.integers(0, 40, (30, 3)).astype(np.int32)
    shade = rng.random(40).astype(np.float32)
    pictures = []
    for draw in (draw_triangles, draw_triangles.py_func):
        depth = np.full((24, 30), -np.inf, np.float32)
        image = np.zeros((24, 30), np.float32)
        draw(screen, faces, shade, depth, image)
        pictures.append(image)
    assert pictures[0] == pytest.approx(pictures[1], abs=1e-5)
    assert (pictures[0] > 0).any()


def test_a_rendered_card_shows_the_piece() -> None:
    import cv2

    data = render(evaluator().evaluate(recipe(), "draft").mesh, 200, 100)
    image = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)
    assert image.shape == (100, 200, 3)
    assert len(np.unique(image.reshape(-1, 3), axis=0)) > 50


def test_every_correction_of_a_bare_recipe_can_be_told_apart() -> None:
    values = default_recipe("0" * 64, 4, 4).model_dump(mode="json")
    pictured(values)["corrections"] = [{"kind": "invert"}, {"kind": "invert", "id": "step-1"}] * 2
    found = load_recipe(values).relief.art.pictured.corrections
    assert len({step.id for step in found}) == 4 and all(step.id for step in found)
    assert (
        load_recipe(load_recipe(values).model_dump(mode="json")).relief.art.pictured.corrections
        == found
    )


def test_no_two_steps_of_a_recipe_share_an_id() -> None:
    recipe = load_recipe(
        {
            "picture": {"sha256": "0" * 64, "corrections": [{"kind": "invert", "id": "a"}]},
            "heights": {"build_up": [{"kind": "picture", "id": "a"}, {"kind": "frame", "id": "a"}]},
            "fittings": [{"kind": "eyelet", "id": "a"}, {"kind": "socket"}],
        }
    )
    steps = (
        *recipe.relief.art.pictured.corrections,
        *recipe.relief.art.build_up,
        *recipe.relief.fittings,
    )
    ids = [step.id for step in steps]
    assert len(set(ids)) == len(ids) == 5
    assert "" not in ids
    # What was told apart once stays so: a recipe that is read again is the same.
    assert load_recipe(recipe.model_dump(mode="json")) == recipe


def test_a_move_of_the_line_computes_nothing_when_the_cache_cannot_hold_all_steps() -> None:
    picture = Picture(np.random.default_rng(1).random((300, 400, 3), np.float32))
    steps = [{"kind": "levels", "black": 0.1}, {"kind": "smooth", "radius": 1}, {"kind": "invert"}]
    asked = load_recipe({"picture": {"sha256": SHA, "corrections": steps}})
    # Room for the last two colour pictures and the heights, not for every step on the way.
    evaluator = Evaluator(lambda _: picture, cache_bytes=int(2.5 * picture.pixels.nbytes))
    evaluator.relief(asked)
    evaluator.correct(asked)
    before = evaluator.computed.total()
    for _ in range(3):
        evaluator.relief(asked)
        evaluator.correct(asked)
    assert evaluator.computed.total() == before
