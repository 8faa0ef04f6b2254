"""A data folder that an older Nebrel made opens, says the same, and undoes into its past."""

import sqlite3
from pathlib import Path

import pytest
from alembic import command
from alembic.config import Config
from sqlalchemy import create_engine, event

import nebrel.store
from nebrel.core.recipe.files import files_of
from nebrel.store import Store
from nebrel.store.store import CardFacts
from tests.pictures import png, ramp

FOLDERS = Path(__file__).parent / "folders"


@pytest.fixture
def old(tmp_path: Path) -> Path:
    """A folder of tables 0004 and recipes of schema 1, with its pictures."""
    folder = tmp_path / "data"
    folder.mkdir()
    with sqlite3.connect(folder / "nebrel.db") as database:
        database.executescript((FOLDERS / "0004.sql").read_text())
    store = Store(tmp_path / "other")
    for data in (png(ramp(8, 9)), png(ramp(5, 7), 8), png(ramp(6, 6))):
        store.add_picture(data, "a.png")
    store.close()
    (tmp_path / "other" / "pictures").rename(folder / "pictures")
    return folder


def test_it_opens_and_undoes_into_its_older_revisions(old: Path) -> None:
    store = Store(old)
    (card,) = store.pieces()
    assert (card.name, card.trouble) == ("Crater tile", "")
    piece = store.piece(card.id)
    assert piece.recipe.form_kind == "disc"
    assert (piece.picture.rows, piece.picture.cols, piece.picture.bit_depth) == (8, 9, 16)
    assert piece.picture.notes == []
    art = store.undo(piece.id).recipe.relief.art
    assert [step.kind for step in art.pictured.corrections] == ["overlay"]
    assert store.undo(piece.id).recipe.relief.art.depth_mm == 4
    assert store.undo(piece.id).recipe.relief.art.depth_mm == 3
    again = store.redo(piece.id)
    assert again.recipe.relief.art.tones is not None
    assert again.recipe.relief.art.tones.depth.text == "4 mm"
    # The same recipe again is no change, though it was kept in another schema.
    assert store.change(piece.id, again.recipe).revision == again.revision
    assert [motif.name for motif in store.motifs.all()] == ["Star"]
    store.close()


def test_what_only_an_older_revision_or_a_motif_names_is_kept(
    old: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    from datetime import timedelta

    from nebrel.store import store as store_module
    from nebrel.store.models import now

    monkeypatch.setattr(store_module, "now", lambda: now() + timedelta(days=300))
    store = Store(old)
    (card,) = store.pieces()
    store.undo(card.id)
    piece = store.undo(card.id)
    assert all(store.picture_file(name).exists() for name in files_of(store.piece(piece.id).recipe))
    assert store.redo(piece.id).recipe.relief.art.pictured.corrections
    assert all(store.picture_file(name).exists() for name in files_of(store.piece(piece.id).recipe))
    assert store.picture_file(store.motifs.all()[0].sha256).exists()
    store.close()


def test_the_tables_go_back_and_forth(old: Path) -> None:
    Store(old).close()
    config = Config()
    config.set_main_option(
        "script_location", str(Path(nebrel.store.__file__).parent / "migrations")
    )
    with create_engine(f"sqlite:///{old / 'nebrel.db'}").begin() as connection:
        config.attributes["connection"] = connection
        command.downgrade(config, "0004")
    with sqlite3.connect(old / "nebrel.db") as database:
        rows = database.execute("select cols, rows, bit_depth, notes from picture order by rows")
        assert rows.fetchall() == [(7, 5, 8, "[]"), (6, 6, 16, "[]"), (9, 8, 16, "[]")]
    store = Store(old)
    (card,) = store.pieces()
    assert store.piece(card.id).picture.cols == 9
    store.close()


def test_the_shelf_asks_for_rows_and_files_and_nothing_else(tmp_path: Path) -> None:
    store = Store(tmp_path)
    picture = store.add_picture(png(ramp(8, 9)), "ramp.png")
    for _ in range(30):
        store.create_piece(picture)
    facts = {
        card.id: CardFacts(
            of=card.of, key="k", form="panel", wide_mm=9, tall_mm=8, sized=False, files=[]
        )
        for card in store.pieces()
    }
    store.keep_cards(facts)
    asked: list[str] = []
    event.listen(store._engine, "before_cursor_execute", lambda *a: asked.append(a[2]))
    cards = store.pieces()
    assert len([text for text in asked if text.startswith("SELECT")]) == 2
    assert all(card.facts is not None and card.facts.wide_mm == 9 for card in cards)
    store.keep_size("k", 5, 4)
    assert {card.facts.wide_mm for card in store.pieces() if card.facts} == {5}
    # A changed recipe makes what was kept of it void; the others stay.
    document = store.piece(cards[0].id).recipe.model_dump(mode="json")
    document["begins"]["art"]["backing"] = 2
    from nebrel.core.recipe.models import load_recipe

    store.change(cards[0].id, load_recipe(document))
    void = [card.id for card in store.pieces() if card.facts is None]
    assert void == [cards[0].id]
    store.close()
