import sqlite3
from datetime import timedelta
from pathlib import Path

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import create_engine

from nebrel.core.errors import Conflict, InvalidValue, NotFound, StorageFailed, UnreadableFile
from nebrel.core.recipe.models import Recipe, load_recipe
from nebrel.demo import fill
from nebrel.store import Store
from nebrel.store import store as store_module
from nebrel.store.models import Base, now
from nebrel.store.store import Piece
from tests.pictures import png, ramp
from tests.recipes import tones_of


def a_piece(store: Store, name: str = "") -> Piece:
    return store.create_piece(store.add_picture(png(ramp()), "ramp.png"), name)


def with_depth(piece: Piece, mm: float) -> Recipe:
    document = piece.recipe.model_dump(mode="json")
    tones_of(document)["depth"] = mm
    return load_recipe(document)


def test_the_migrations_make_the_tables_of_the_models(tmp_path: Path) -> None:
    Store(tmp_path).close()
    with create_engine(f"sqlite:///{tmp_path / 'nebrel.db'}").connect() as connection:
        assert compare_metadata(MigrationContext.configure(connection), Base.metadata) == []
        assert connection.exec_driver_sql("PRAGMA journal_mode").scalar() == "wal"


def test_a_newer_data_folder_is_left_alone(tmp_path: Path) -> None:
    Store(tmp_path).close()
    with sqlite3.connect(tmp_path / "nebrel.db") as connection:
        connection.execute("UPDATE alembic_version SET version_num = '9999'")
    with pytest.raises(StorageFailed, match="newer"):
        Store(tmp_path)


def test_pictures_are_kept_once_and_unchanged(store: Store) -> None:
    data = png(ramp())
    first, second = store.add_picture(data, "a.png"), store.add_picture(data, "b.png")
    assert first.sha256 == second.sha256
    names = [store.create_piece(picture).picture.filename for picture in (first, second)]
    assert names == ["a.png", "b.png"]
    kept = [path for path in store.pictures.rglob("*") if path.is_file()]
    assert [path.name for path in kept] == [first.sha256]
    assert kept[0].read_bytes() == data


def test_a_refused_picture_leaves_nothing(store: Store) -> None:
    with pytest.raises(UnreadableFile):
        store.add_picture(b"no picture", "x.png")
    assert not any(path.is_file() for path in store.pictures.rglob("*"))


def test_undo_and_redo_survive_a_restart(tmp_path: Path) -> None:
    opened = Store(tmp_path)
    piece = a_piece(opened)
    for depth in (4, 5, 6):
        opened.change(piece.id, with_depth(piece, depth), "relief depth")
    opened.undo(piece.id)
    opened.close()
    again = Store(tmp_path)
    assert again.piece(piece.id).recipe.relief.art.depth_mm == 5
    assert again.undo(piece.id).recipe.relief.art.depth_mm == 4
    assert again.redo(piece.id).recipe.relief.art.depth_mm == 5
    assert again.redo(piece.id).recipe.relief.art.depth_mm == 6
    last = again.redo(piece.id)
    assert last.recipe.relief.art.depth_mm == 6
    assert (last.undo, last.redo) == ("relief depth", None)
    again.close()


def test_a_change_after_undo_gives_up_what_could_be_redone(store: Store) -> None:
    piece = a_piece(store)
    store.change(piece.id, with_depth(piece, 4))
    store.change(piece.id, with_depth(piece, 5))
    store.undo(piece.id)
    changed = store.change(piece.id, with_depth(piece, 9))
    assert changed.redo is None
    assert store.undo(piece.id).recipe.relief.art.depth_mm == 4


def test_the_same_recipe_again_is_no_change(store: Store) -> None:
    piece = a_piece(store)
    assert store.change(piece.id, piece.recipe).revision == piece.revision


def test_a_change_on_an_old_revision_is_refused(store: Store) -> None:
    piece = a_piece(store)
    store.change(piece.id, with_depth(piece, 4), base=1)
    with pytest.raises(Conflict):
        store.change(piece.id, with_depth(piece, 5), base=1)
    assert store.piece(piece.id).recipe.relief.art.depth_mm == 4


def test_long_histories_are_cut_at_the_far_end(
    store: Store, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(store_module, "_MOST_REVISIONS", 5)
    piece = a_piece(store)
    for depth in range(2, 12):
        store.change(piece.id, with_depth(piece, depth))
    for _ in range(20):
        oldest = store.undo(piece.id)
    assert oldest.recipe.relief.art.depth_mm == 7
    assert oldest.undo is None


def test_names(store: Store) -> None:
    piece = a_piece(store)
    assert piece.name == "ramp"
    assert store.rename(piece.id, "  Dome \n badge\0 ").name == "Dome badge"
    with pytest.raises(InvalidValue):
        store.rename(piece.id, " \t ")
    assert [store.duplicate(piece.id).name for _ in range(3)] == [
        "Dome badge, copy",
        "Dome badge, copy 2",
        "Dome badge, copy 3",
    ]


def test_a_copy_has_a_history_of_its_own(store: Store) -> None:
    piece = a_piece(store)
    store.change(piece.id, with_depth(piece, 7))
    copy = store.duplicate(piece.id)
    assert copy.undo is None
    store.change(copy.id, with_depth(piece, 8))
    assert store.piece(piece.id).recipe.relief.art.depth_mm == 7


def test_search_finds_every_word_and_no_wildcards(store: Store) -> None:
    for name in ("West wall tile", "East wall", "100% dome"):
        a_piece(store, name)
    assert {p.name for p in store.pieces("wall")} == {"West wall tile", "East wall"}
    assert [p.name for p in store.pieces("tile WEST")] == ["West wall tile"]
    assert [p.name for p in store.pieces("%")] == ["100% dome"]


def test_delete_and_restore(store: Store) -> None:
    piece = a_piece(store)
    store.delete(piece.id)
    assert store.pieces() == []
    with pytest.raises(NotFound):
        store.piece(piece.id)
    assert store.restore(piece.id).trouble == ""
    assert store.piece(piece.id).recipe == piece.recipe
    assert len(store.pieces()) == 1


def test_what_was_deleted_long_ago_is_forgotten_with_its_picture(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    opened = Store(tmp_path)
    gone = a_piece(opened)
    kept = opened.create_piece(opened.add_picture(png(ramp(9, 9)), "small.png"))
    opened.delete(gone.id)
    opened.close()
    monkeypatch.setattr(store_module, "now", lambda: now() + timedelta(days=31))
    again = Store(tmp_path)
    with pytest.raises(NotFound):
        again.restore(gone.id)
    names = [path.name for path in again.pictures.rglob("*") if path.is_file()]
    assert names == [kept.picture.sha256]
    again.close()


def test_a_database_that_refuses_leaves_the_piece_as_it_was(store: Store) -> None:
    piece = a_piece(store)
    with sqlite3.connect(store.folder / "nebrel.db") as connection:
        connection.execute(
            "CREATE TRIGGER full BEFORE INSERT ON revision BEGIN "
            "SELECT RAISE(ABORT, 'database or disk is full'); END"
        )
    with pytest.raises(StorageFailed, match="full"):
        store.change(piece.id, with_depth(piece, 5))
    assert store.piece(piece.id).recipe == piece.recipe


def test_the_demo_shelf(store: Store) -> None:
    fill(store)
    fill(store)
    pieces = store.pieces()
    assert len(pieces) == 28
    crater = store.piece(next(p.id for p in pieces if "crater" in p.name))
    assert crater.picture.bit_depth == 16
    assert crater.recipe.relief.art.pictured.side.mm == 160
