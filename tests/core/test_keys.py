"""Any number of any recipe: what reads it is made again, and nothing else is."""

import copy
import json
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from nebrel.core.errors import NebrelError
from nebrel.core.links import piece
from nebrel.core.links.decoration import decorated
from nebrel.core.links.link import Link
from nebrel.core.links.picture import steps
from nebrel.core.links.relief import FULL
from nebrel.core.recipe.models import Recipe, load_recipe

FOLDER = Path(__file__).parents[1] / "recipes" / "1"
FILE, OTHER = "a" * 64, "b" * 64
PICTURE = {"picture": {"file": {"sha256": FILE, "filename": "hare.png"}}}
STROKE = {"places": [[1.0, 2.0, 3.0], [2.0, 2.0, 3.0]]}

BODY = {
    "begins": {
        "kind": "body",
        "body": {"kind": "mesh", "file": {"sha256": OTHER, "filename": "cup.stl"}},
        "decorations": [
            {"kind": "decoration", "art": PICTURE, "at": [0.0, 0.0, 9.0]},
            {"kind": "decoration", "art": PICTURE, "at": [9.0, 0.0, 4.0], "enabled": False},
            {"kind": "texture", "file": {"sha256": OTHER, "filename": "bark.png"}},
            {"kind": "decoration", "art": PICTURE, "at": [0.0, 9.0, 4.0], "repeat": 3},
        ],
    },
    "finish": [
        {"kind": "repair"},
        {"kind": "simplify"},
        {"kind": "even"},
        {"kind": "rebuild"},
        {"kind": "smooth", "strokes": [STROKE]},
        {"kind": "push", "strokes": [STROKE]},
        {"kind": "trim"},
        {"kind": "scale"},
        {"kind": "turn", "enabled": False},
        {"kind": "lay"},
        {"kind": "hollow"},
        {"kind": "soften"},
        {"kind": "thicken"},
        {"kind": "split"},
        {"kind": "colour"},
        {"kind": "join", "other": {"kind": "mesh", "file": {"sha256": FILE}}},
    ],
}
FIGURE = {
    "begins": {
        "kind": "figure",
        **PICTURE,
        "parts": [
            {"kind": "part", "spots": [[10.0, 20.0]], "joint": [12.0, 22.0]},
            {"kind": "calm", "spots": [[30.0, 20.0]]},
        ],
        "mask": {"sha256": OTHER, "filename": "mask.png"},
    },
    "finish": [{"kind": "smooth"}],
}

# How something is called, what was typed for a length, and what is no part of the shape.
WORDS = {"id", "name", "filename", "text", "lamp", "schema_version"}
ELSEWHERE = re.compile(r"^(made_with|proof|begins\.(holder|lantern|sheets))\.")
# Read only where something else is set so: the kind of an edge, a length in lines, a light panel,
# islands that are held; and a name that is written into the file.
AT_TIMES = re.compile(
    r"\.edge\.(margin|corner|gap)\.mm$|\.edge\.(sides|turn)$|\.hold\.mm$|printer\.\w+_mm$"
    r"|light\.printed$|body\.file\.filename$"
)


def kept(name: str) -> Any:
    return load_recipe(json.loads((FOLDER / f"{name}.json").read_text())).model_dump(mode="json")


def words_of(schema: Any) -> Iterator[list[Any]]:
    """Every list of words that a schema allows one of."""
    if isinstance(schema, dict):
        if "enum" in schema:
            yield schema["enum"]
        for value in schema.values():
            yield from words_of(value)
    elif isinstance(schema, list):
        for value in schema:
            yield from words_of(value)


ONE_OF = list(words_of(Recipe.model_json_schema()))


def leaves(document: Any, at: tuple[Any, ...] = ()) -> Iterator[tuple[tuple[Any, ...], Any]]:
    if isinstance(document, dict):
        for name, value in document.items():
            yield from leaves(value, (*at, name))
    elif isinstance(document, list):
        for number, value in enumerate(document):
            yield from leaves(value, (*at, number))
    elif document is not None:
        yield at, document


def others(value: Any, at: tuple[Any, ...]) -> list[Any]:
    """What could stand there instead."""
    if at[-1] in ("kind", "schema_version"):
        return []
    if isinstance(value, bool):
        return [not value]
    if isinstance(value, int | float):
        return [value + 1, value * 1.1 + 0.01, value * 0.9, value - 1, value + 0.1, value - 0.01]
    if len(value) == 64:
        return ["c" * 64]
    return [word for words in ONE_OF if value in words for word in words] + [f"{value}s"]


def changed(document: Any, at: tuple[Any, ...], value: Any) -> Recipe | None:
    """The recipe with another value there; None where it may be none of those tried."""
    for other in others(value, at):
        if other == value:
            continue
        found = copy.deepcopy(document)
        here = found
        for name in at[:-1]:
            here = here[name]
        here[at[-1]] = other
        try:
            return load_recipe(found)
        except NebrelError:
            continue
    return None


def lists(recipe: Recipe) -> dict[str, list[Link[Any]]]:
    """What each ordered list of a recipe comes to: before it, and after each that is on."""
    found = {"finish": piece.stages(recipe, FULL)}
    begins: Any = recipe.begins
    if begins.kind == "body":
        bare = piece.begun(recipe, FULL)
        found["begins.decorations"] = [bare, *decorated(bare, recipe, FULL)]
    else:
        where = "begins.art.picture" if begins.kind == "relief" else "begins.picture"
        pictured = begins.art.picture if begins.kind == "relief" else begins.picture
        found[f"{where}.corrections"] = steps(pictured, None)
    return found


def on_before(document: Any, at: tuple[Any, ...], deep: int) -> int:
    """How many of a list that are on come before one."""
    for name in at[:deep]:
        document = document[name]
    return sum(one["enabled"] for one in document[: at[deep]])


@pytest.mark.parametrize(
    "document",
    [kept("every-kind"), kept("star-chart-thin-lines"), BODY, FIGURE],
    ids=["every kind", "thin lines", "body", "figure"],
)
def test_what_reads_a_number_is_made_again_and_nothing_else(document: Any) -> None:
    before = load_recipe(document)
    document = before.model_dump(mode="json")
    keys = {name: [link.key for link in links] for name, links in lists(before).items()}
    tried, wrong = 0, []
    for at, value in leaves(document):
        recipe = changed(document, at, value)
        if recipe is None:
            continue
        tried += 1
        where = ".".join(map(str, at))
        if AT_TIMES.search(where):
            continue
        # Of what is off, all but that it is.
        around = at[:-2] if at[-1] == "enabled" else at[:-1]
        off = any(_is_off(document, around[: n + 1]) for n in range(len(around)))
        told = at[-1] == "text" and "mm" not in _within(document, at[:-1])
        silent = (at[-1] in WORDS and not told) or bool(ELSEWHERE.match(where))
        silent |= before.begins.kind == "figure" and at[0] == "triangles"
        for name, links in lists(recipe).items():
            now = [link.key for link in links]
            if silent or off:
                right = now == keys[name]
            elif where.startswith(f"{name}."):
                count = 1 + on_before(document, at, name.count(".") + 1)
                right = now[:count] == keys[name][:count]
                right = right and not set(now[count:]) & set(keys[name][count:])
            elif name == "finish":
                right = not set(now) & set(keys[name])
            elif at[0] == "finish" or (
                name.endswith("corrections") and not where.startswith(name.rsplit(".", 1)[0])
            ):
                right = now == keys[name]
            else:
                continue
            if not right:
                wrong.append(f"{name}: {where}")
    assert wrong == []
    assert tried > 60


def _is_off(document: Any, at: tuple[Any, ...]) -> bool:
    found = _within(document, at)
    return isinstance(found, dict) and not found.get("enabled", True)


def _within(document: Any, at: tuple[Any, ...]) -> Any:
    for name in at:
        document = document[name]
    return document
