"""What is drawn of a piece that has more triangles than a browser draws."""

from pathlib import Path

import numpy as np
import pytest

from nebrel.core.products import table
from nebrel.core.recipe.models import default_recipe
from nebrel.demo.pictures import as_png
from nebrel.store import Store
from nebrel.work.depot import FolderDepot
from nebrel.work.run import run
from nebrel.work.tasks import Task


@pytest.mark.parametrize(("most", "kept"), [(2_000, True), (150, False)])
def test_what_is_too_much_to_draw_is_drawn_lighter_whatever_it_is(
    store: Store, monkeypatch: pytest.MonkeyPatch, most: int, kept: bool
) -> None:
    noise = np.random.default_rng(1).random((60, 60)).astype(np.float32)
    info = store.add_picture(as_png(noise, 8), "noise.png")
    recipe = default_recipe(info.sha256, info.rows, info.cols)
    depot = FolderDepot(store.folder)
    depot.open()
    monkeypatch.setattr(table, "MOST_DRAWN", most)
    given = {"recipe": recipe.model_dump(mode="json"), "name": "piece.glb", "key": "ab" * 32}
    figures = run(depot, Task("product", given))
    assert figures["mesh"]["triangles"] > 2_000
    assert figures["view"]["triangles"] < figures["mesh"]["triangles"]
    assert (figures["view"]["triangles"] <= most) == kept
    assert Path(store.cache / f"{'ab' * 32}.glb").exists()
