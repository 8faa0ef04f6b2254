"""What is drawn of a piece that has more triangles than a browser draws."""

import multiprocessing
from pathlib import Path

import numpy as np
import pytest

from nebrel.core.recipe.models import default_recipe
from nebrel.demo.pictures import as_png
from nebrel.store import Store
from nebrel.web import work


@pytest.mark.parametrize(("most", "kept"), [(2_000, True), (150, False)])
def test_what_is_too_much_to_draw_is_drawn_lighter_whatever_it_is(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, most: int, kept: bool
) -> None:
    store = Store(tmp_path)
    noise = np.random.default_rng(1).random((60, 60)).astype(np.float32)
    info = store.add_picture(as_png(noise, 8), "noise.png")
    recipe = default_recipe(info.sha256, info.rows, info.cols)
    slots = work.Slots(multiprocessing.get_context("spawn"))
    monkeypatch.setattr(work, "_worker", work._Worker(tmp_path, slots))
    monkeypatch.setattr(work, "MOST_DRAWN", most)
    (tmp_path / "cache").mkdir(exist_ok=True)
    figures = work.make_full(recipe.model_dump(mode="json"), 0)
    assert figures["mesh"]["triangles"] > 2_000
    assert figures["view"]["triangles"] < figures["mesh"]["triangles"]
    assert (figures["view"]["triangles"] <= most) == kept
    assert (tmp_path / "cache" / f"{figures['key']}.glb").exists()
    store.close()
