"""Pieces within pieces: each looked at once, and not without end."""

from collections import Counter
from typing import Any

import pytest

from nebrel.core.errors import InvalidValue
from nebrel.core.recipe.models import Recipe, load_recipe
from nebrel.store.linked import looked_at


def joining(piece_id: str, times: int) -> Recipe:
    steps: list[dict[str, Any]] = [
        {"kind": "join", "id": f"step-{n}", "other": {"kind": "piece", "piece_id": piece_id}}
        for n in range(times)
    ]
    begins = {"kind": "body", "body": {"kind": "box"}}
    return load_recipe({"begins": begins, "finish": steps if piece_id else []})


def test_each_piece_is_looked_at_once_and_all_of_them_are_bounded() -> None:
    asked: Counter[str] = Counter()

    def look(piece_id: str) -> tuple[str, str]:
        asked[piece_id] += 1
        below = str(int(piece_id) - 1) if piece_id != "0" else ""
        return f"piece {piece_id}", joining(below, 12).model_dump_json()

    found = looked_at(joining("1", 12), "own", look)
    inner = found.finish[11].other.recipe  # type: ignore[union-attr]
    assert inner is not None and len(inner["finish"]) == 12
    assert inner["finish"][0]["other"]["recipe"]["begins"]["kind"] == "body"
    assert asked == {"1": 1, "0": 1}
    with pytest.raises(InvalidValue, match=r"comes to .* MB"):
        looked_at(joining("4", 12), "own", look)
    assert max(asked.values()) == 2


def test_a_piece_within_itself_is_refused_on_any_way() -> None:
    def look(piece_id: str) -> tuple[str, str]:
        return piece_id, joining({"a": "b", "b": "c", "c": "a"}[piece_id], 2).model_dump_json()

    with pytest.raises(InvalidValue, match="of itself"):
        looked_at(joining("a", 1), "own", look)
