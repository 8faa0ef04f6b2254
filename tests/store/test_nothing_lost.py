"""Several at once, long histories, damaged recipes and files, and two servers on one folder."""

import json
import os
import sqlite3
import subprocess
import sys
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta
from pathlib import Path
from threading import Barrier

import pytest
from sqlalchemy import event

from nebrel.core.errors import Conflict, InvalidRecipe, NotFound, StorageFailed
from nebrel.core.formats.files import addressed
from nebrel.core.recipe.models import Recipe, load_recipe
from nebrel.store import Store
from nebrel.store import database as database_module
from nebrel.store import store as store_module
from nebrel.store.models import now
from nebrel.store.store import Piece
from tests.pictures import png, ramp
from tests.recipes import tones_of


def a_piece(store: Store) -> Piece:
    return store.create_piece(store.add_picture(png(ramp()), "ramp.png"))


def with_depth(piece: Piece, mm: float) -> Recipe:
    document = piece.recipe.model_dump(mode="json")
    tones_of(document)["depth"] = mm
    return load_recipe(document)


def at_once(count: int, work: Callable[[int], object]) -> list[object]:
    """What `count` threads that begin together come to; errors are given, not raised."""
    gate = Barrier(count)

    def run(number: int) -> object:
        gate.wait()
        try:
            return work(number)
        except Exception as error:
            return error

    with ThreadPoolExecutor(count) as pool:
        return list(pool.map(run, range(count)))


def damage(store: Store, piece_id: str, recipe: str) -> None:
    with sqlite3.connect(store.folder / "nebrel.db") as connection:
        connection.execute("UPDATE revision SET recipe = ? WHERE piece_id = ?", (recipe, piece_id))


def test_of_changes_on_one_base_at_once_one_is_kept_and_the_others_are_told(store: Store) -> None:
    piece = a_piece(store)
    for _ in range(25):
        base = store.piece(piece.id).revision
        found = at_once(
            4,
            lambda n, base=base: store.change(piece.id, with_depth(piece, base + n / 10), "", base),
        )
        kept = [result for result in found if isinstance(result, Piece)]
        told = [result for result in found if isinstance(result, Conflict)]
        assert (len(kept), len(told)) == (1, 3)
        assert store.piece(piece.id).recipe == kept[0].recipe
        assert kept[0].revision == base + 1


def test_undos_at_once_are_as_many_steps(store: Store) -> None:
    piece = a_piece(store)
    for depth in range(2, 42):
        store.change(piece.id, with_depth(piece, depth))
    for round_ in range(1, 6):
        revisions = [p.revision for p in at_once(4, lambda _: store.undo(piece.id))]  # type: ignore[attr-defined]
        assert len(set(revisions)) == 4
        assert store.piece(piece.id).revision == 41 - 4 * round_


def test_the_same_new_picture_brought_by_several_at_once(store: Store) -> None:
    for side in range(20, 26):
        data = png(ramp(side, side))
        found = at_once(4, lambda _, data=data: store.add_picture(data, "same.png"))
        assert len({info.sha256 for info in found}) == 1  # type: ignore[attr-defined]
        assert store.load_picture(found[0].sha256).rows == side  # type: ignore[attr-defined]


def test_a_locked_database_is_a_conflict_in_its_own_words(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(database_module, "_WAIT_S", 0.2)
    store = Store(tmp_path)
    piece = a_piece(store)
    other = sqlite3.connect(tmp_path / "nebrel.db", isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    with pytest.raises(Conflict, match="under way"):
        store.change(piece.id, with_depth(piece, 7))
    assert store.piece(piece.id).recipe == piece.recipe  # reading waits for nobody
    other.execute("ROLLBACK")
    other.close()
    assert store.change(piece.id, with_depth(piece, 7)).recipe.relief.art.depth_mm == 7
    store.close()


def test_a_change_loads_no_more_of_a_long_history_than_of_a_short_one(store: Store) -> None:
    piece = a_piece(store)
    loaded: list[int] = []

    def count(_c: object, cursor: sqlite3.Cursor, statement: str, *_: object) -> None:
        loaded.append(
            "recipe" in statement.split("FROM", maxsplit=1)[0] and statement.startswith("SELECT")
        )

    event.listen(store._engine, "before_cursor_execute", count)
    reads = []
    for number in range(150):
        loaded.clear()
        store.change(piece.id, with_depth(piece, 1 + number / 100))
        reads.append((len(loaded), sum(loaded)))
    assert set(reads) == {reads[0]}
    assert reads[0][1] == 1  # the state that it is compared with
    event.remove(store._engine, "before_cursor_execute", count)
    for _ in range(150):
        store.undo(piece.id)
    assert store.piece(piece.id).recipe == piece.recipe


@pytest.mark.parametrize(
    "recipe",
    ["{", "[1]", json.dumps({"schema_version": 99}), json.dumps({"picture": 3}), "[" * 9999],
)
def test_a_recipe_that_cannot_be_read_costs_one_card(store: Store, recipe: str) -> None:
    piece, good = a_piece(store), a_piece(store)
    damage(store, piece.id, recipe)
    cards = {card.id: card for card in store.pieces()}
    assert cards[good.id].trouble == ""
    assert "recipe" in cards[piece.id].trouble or "schema" in cards[piece.id].trouble
    with pytest.raises(InvalidRecipe):
        store.piece(piece.id)
    assert store.create_piece(store.add_picture(png(ramp(8, 9)), "next.png"))
    store.delete(piece.id)
    assert store.restore(piece.id).trouble
    store.delete(piece.id)


def test_a_folder_with_a_damaged_recipe_opens_when_a_piece_is_long_deleted(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    store = Store(tmp_path)
    broken, gone = a_piece(store), a_piece(store)
    damage(store, broken.id, '{"not": "a recipe", "sha256": "' + broken.picture.sha256 + '"}')
    store.delete(gone.id)
    store.close()
    monkeypatch.setattr(store_module, "now", lambda: now() + timedelta(days=31))
    again = Store(tmp_path)
    assert [card.id for card in again.pieces()] == [broken.id]
    assert addressed(again.pictures, broken.picture.sha256).exists()
    again.close()


def test_an_old_motif_goes_though_no_piece_is_old(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    store = Store(tmp_path)
    kept = a_piece(store)
    info = store.add_picture(png(ramp(9, 11)), "motif.png")
    motif = store.motifs.keep(info.sha256, "Old", [], 10)
    store.motifs.delete(motif.id)
    store.close()
    monkeypatch.setattr(store_module, "now", lambda: now() + timedelta(days=31))
    again = Store(tmp_path)
    with pytest.raises(NotFound):
        again.motifs.restore(motif.id)
    names = [path.name for path in again.pictures.rglob("*") if path.is_file()]
    assert names == [kept.picture.sha256]
    again.close()


@pytest.mark.parametrize("harm", ["cut", "flip", "remove"])
def test_bringing_a_picture_again_mends_its_kept_file(store: Store, harm: str) -> None:
    data = png(ramp())
    piece = store.create_piece(store.add_picture(data, "ramp.png"))
    path = addressed(store.pictures, piece.picture.sha256)
    if harm == "remove":
        path.unlink()
    else:
        path.write_bytes(data[:40] if harm == "cut" else bytes([data[0] ^ 1]) + data[1:])
    if harm != "flip":  # looking at every byte of every picture at every start is not cheap
        assert "ramp.png" in store.pieces()[0].trouble
    store.add_picture(data, "again.png")
    assert path.read_bytes() == data
    assert store.pieces()[0].trouble == ""


def test_a_missing_picture_is_named_when_it_is_asked_for(store: Store) -> None:
    piece = a_piece(store)
    addressed(store.pictures, piece.picture.sha256).unlink()
    for ask in (store.picture_file, store.load_picture):
        with pytest.raises(NotFound, match=r"ramp\.png"):
            ask(piece.picture.sha256)


def test_a_picture_lies_on_the_disk_before_the_database_names_it(
    store: Store, monkeypatch: pytest.MonkeyPatch
) -> None:
    order: list[str] = []
    sync = os.fsync

    def told(handle: int) -> None:
        order.append("disk")
        sync(handle)

    def begun(*_: object) -> None:
        order.append("database")

    monkeypatch.setattr("nebrel.core.formats.files.os.fsync", told)
    event.listen(store._engine, "begin", begun)
    store.add_picture(png(ramp(12, 13)), "new.png")
    event.remove(store._engine, "begin", begun)
    # The file, its folder, and the folder that it comes to lie in.
    assert order == ["disk"] * 3 + ["database"]


def test_a_second_server_on_a_folder_is_told_by_whom_it_is_used(tmp_path: Path) -> None:
    store = Store(tmp_path)
    unfinished = store.cache / ".export.part"
    unfinished.write_bytes(b"half")
    code = (
        f"from nebrel.store import Store; from pathlib import Path; Store(Path({str(tmp_path)!r}))"
    )
    second = subprocess.run(
        [sys.executable, "-c", code], capture_output=True, text=True, check=False
    )
    assert f"process {os.getpid()}" in second.stderr
    with pytest.raises(StorageFailed, match="another Nebrel"):
        Store(tmp_path)
    assert unfinished.exists()
    store.close()
    Store(tmp_path).close()
