"""Printers and materials at hand."""

from pathlib import Path

import pytest

from nebrel.core.errors import InvalidValue, NotFound
from nebrel.core.recipe.at_hand import Material, Printer
from nebrel.core.recipe.models import load_recipe
from nebrel.core.recipe.respell import respell
from nebrel.store import Store
from tests.pictures import png, ramp


def test_it_comes_with_some_and_keeps_more(tmp_path: Path) -> None:
    store = Store(tmp_path)
    ready = store.workshop.printers.all()
    assert Printer() in ready
    assert Material() in store.workshop.materials.all()
    added = store.workshop.printers.add(Printer(id="x", name="  Own one ", line_mm=0.5))
    assert added.name == "Own one"
    store.close()
    again = Store(tmp_path)
    assert [p.name for p in again.workshop.printers.all()] == [*(p.name for p in ready), "Own one"]
    changed = again.workshop.printers.change(added.model_copy(update={"line_mm": 0.6}))
    assert changed in again.workshop.printers.all()
    again.workshop.printers.delete(added.id)
    assert again.workshop.printers.all() == ready
    with pytest.raises(NotFound):
        again.workshop.printers.change(added)
    assert again.workshop.printers.restore(added.id) == changed
    again.close()


def test_the_last_one_stays(tmp_path: Path) -> None:
    store = Store(tmp_path)
    kept = store.workshop.materials.all()
    for material in kept[1:]:
        store.workshop.materials.delete(material.id)
    with pytest.raises(InvalidValue, match="last"):
        store.workshop.materials.delete(kept[0].id)
    with pytest.raises(InvalidValue, match="empty"):
        store.workshop.materials.add(Material(name=" \u200b "))
    store.close()


def test_a_new_piece_is_made_with_what_the_last_one_was(tmp_path: Path) -> None:
    store = Store(tmp_path)
    picture = store.add_picture(png(ramp(20, 30)), "a.png")
    wide = store.workshop.printers.all()[-1]
    first = store.create_piece(picture)
    assert first.recipe.made_with.printer in store.workshop.printers.all()
    document = first.recipe.model_dump(mode="json")
    document["made_with"]["printer"] = wide.model_dump(mode="json")
    store.change(first.id, load_recipe(document))
    # With the figures that the workshop has by then.
    better = store.workshop.printers.change(wide.model_copy(update={"layer_mm": 0.2}))
    assert store.create_piece(picture).recipe.made_with.printer == better
    assert store.piece(first.id).recipe.made_with.printer == wide
    store.close()


def test_lengths_in_lines_follow_the_printer() -> None:
    recipe = load_recipe(
        {
            "picture": {"sha256": "0" * 64},
            "printer": {"line_mm": 0.8, "nozzle_mm": 0.8, "layer_mm": 0.3},
            "heights": {"backing": "2 lines + 0.1", "depth": "10 layers", "smooth": "0.5 mm"},
        }
    )
    found = respell(recipe)
    assert found.relief.art.backing.mm == pytest.approx(1.7)
    assert found.relief.art.tones.depth.mm == pytest.approx(3.0)
    assert found.relief.art.tones.smooth.mm == 0.5
    assert found.relief.art.backing.text == "2 lines + 0.1"
