"""Recipes as they were kept: they open, say the same, and make what they made."""

import json
from collections import Counter
from pathlib import Path
from typing import Any

import pytest

from nebrel.core.errors import InvalidRecipe, InvalidValue, NebrelError
from nebrel.core.picture.decode import decode
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.recipe.files import files_of
from nebrel.core.recipe.models import SCHEMA_VERSION, Recipe, load_recipe
from nebrel.core.recipe.older import upgrade
from nebrel.demo import dome, gallery_tag, star_chart
from nebrel.demo.pictures import as_png

FOLDER = Path(__file__).parents[1] / "recipes" / "1"
KEPT = sorted(path.stem for path in FOLDER.glob("*.json"))


def kept(name: str) -> Any:
    return json.loads((FOLDER / f"{name}.json").read_text())


def said(document: Any, recipe: Any, where: str = "") -> list[str]:
    """What a document says that the recipe does not; defaults that came since are no loss."""
    if isinstance(document, dict):
        lost = [f"{where}.{key}" for key in document if key not in recipe]
        shared = [(value, recipe[key], f"{where}.{key}") for key, value in document.items()
                  if key in recipe]  # fmt: skip
        return lost + [word for part in shared for word in said(*part)]
    if isinstance(document, list):
        if len(document) != len(recipe):
            return [where]
        pairs = zip(document, recipe, strict=True)
        return [word for n, (a, b) in enumerate(pairs) for word in said(a, b, f"{where}[{n}]")]
    return [] if document == recipe else [f"{where}: {document} is {recipe} now"]


def leaves(document: Any, key: str = "") -> Counter[tuple[str, str]]:
    """Every plain value with the name it stands under."""
    if isinstance(document, dict):
        return sum((leaves(value, name) for name, value in document.items()), Counter())
    if isinstance(document, list):
        return sum((leaves(value, key) for value in document), Counter())
    return Counter([(key, json.dumps(document))])


def files_in(document: Any) -> set[str]:
    """Every value called sha256, wherever it is."""
    if isinstance(document, dict):
        own = {document["sha256"]} if isinstance(document.get("sha256"), str) else set()
        return own.union(*(files_in(value) for value in document.values()))
    return set().union(*map(files_in, document)) if isinstance(document, list) else set()


def test_all_demo_pieces_and_every_kind_are_kept() -> None:
    assert len(KEPT) == 14
    every = kept("every-kind")
    assert len({step["kind"] for step in every["picture"]["corrections"]}) == 26
    assert len({step["kind"] for step in every["fittings"]}) == 4


@pytest.mark.parametrize("name", KEPT)
def test_a_kept_recipe_opens_and_says_the_same(name: str) -> None:
    document = kept(name)
    recipe = load_recipe(document)
    assert said(upgrade(document, SCHEMA_VERSION), recipe.model_dump(mode="json")) == []
    # Nothing of it was lost on the way.
    lost = leaves(document) - leaves(recipe.model_dump(mode="json"))
    assert set(lost) <= {("schema_version", "1"), ("kind", '"shape"'), ("kind", '"disc"')}
    again = load_recipe(json.loads(recipe.model_dump_json()))
    assert again == recipe
    assert Recipe.model_validate_json(recipe.model_dump_json()) == recipe
    assert set(files_of(recipe)) == files_in(document)


@pytest.mark.parametrize(
    ("name", "picture", "triangles", "vertices", "volume_mm3"),
    [
        ("gallery-tag-three-tones", as_png(gallery_tag(), 8), 6892, 3444, 3184.2105),
        ("dome-medal-for-the-shop", as_png(dome()), 42722, 21363, 10967.581137),
        ("star-chart-thin-lines", as_png(star_chart(), 8), 61188, 30596, 10446.970953),
    ],
)
def test_a_kept_recipe_makes_the_mesh_that_it_made(
    name: str, picture: bytes, triangles: int, vertices: int, volume_mm3: float
) -> None:
    decoded = decode(picture, name)
    report = Evaluator(lambda _: decoded).evaluate(load_recipe(kept(name))).report
    assert (report.triangles, report.vertices) == (triangles, vertices)
    assert report.volume_mm3 == pytest.approx(volume_mm3, rel=1e-7)


PLACES = [
    (),
    ("picture",),
    ("heights",),
    ("heights", "build_up", 0),
    ("heights", "build_up", 1),
    ("picture", "corrections", 0),
    ("fittings", 0),
    ("form",),
    ("finish",),
    ("light",),
    ("printer",),
]


@pytest.mark.parametrize("place", PLACES)
def test_what_an_older_recipe_holds_beside_is_refused_by_its_name(place: tuple[Any, ...]) -> None:
    document = kept("every-kind")
    inner = document
    for part in place:
        inner = inner[part]
    inner["glaze"] = 3
    with pytest.raises(InvalidRecipe, match="glaze"):
        load_recipe(document)


def test_a_disc_is_a_panel_with_a_round_edge() -> None:
    picture = {"sha256": "0" * 64}
    disc = load_recipe({"picture": picture, "form": {"kind": "disc"}})
    assert (disc.relief.form.kind, disc.relief.art.edge.kind) == ("panel", "round")
    assert disc.relief.form_kind == "disc"
    with pytest.raises(InvalidValue, match="does not go with a tube"):
        art = {"picture": {"file": picture}, "edge": {"kind": "round"}}
        load_recipe({"begins": {"art": art, "form": {"kind": "tube"}}})


def test_a_shape_is_an_outline_and_the_tones_are_the_pictures_own() -> None:
    heights = {"depth": 4, "raised": "dark", "build_up": [{"kind": "picture"}, {"kind": "shape"}]}
    art = load_recipe({"picture": {"sha256": "0" * 64}, "heights": heights}).relief.art
    assert [entry.kind for entry in art.build_up] == ["picture", "outline"]
    assert art.tones is not None
    assert (art.tones.depth.mm, art.tones.raised) == (4, "dark")


@pytest.mark.parametrize("damage", [3, None, [7], "x", {"kind": 7}])
@pytest.mark.parametrize("place", ["picture", "heights", "form", "fittings", "finish", "light"])
def test_a_damaged_older_recipe_is_refused(place: str, damage: Any) -> None:
    with pytest.raises(NebrelError):
        load_recipe({**kept("every-kind"), place: damage})
