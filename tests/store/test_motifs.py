import shutil
import sqlite3
from datetime import timedelta
from pathlib import Path

import pytest
from alembic import command
from alembic.config import Config
from sqlalchemy import create_engine

import nebrel.store
from nebrel.core.errors import InvalidValue, NotFound
from nebrel.core.recipe.models import load_recipe
from nebrel.store import Store
from nebrel.store.models import MotifRow, PieceRow, now
from tests.pictures import png, ramp


def test_motifs_are_kept_found_changed_and_brought_back(store: Store) -> None:
    info = store.add_picture(png(ramp()), "ramp.png")
    first = store.motifs.keep(info.sha256, "  Star  band ", ["Stars", "stars", " frame "], 40)
    store.motifs.keep(info.sha256, "Comet", [], 20)
    assert (first.name, first.tags) == ("Star band", ("stars", "frame"))
    assert [m.name for m in store.motifs.all()] == ["Comet", "Star band"]
    assert [m.name for m in store.motifs.all("FRAME star")] == ["Star band"]
    changed = store.motifs.change(first.id, "Band", ["sky"])
    assert (changed.name, changed.tags) == ("Band", ("sky",))
    store.motifs.delete(first.id)
    assert len(store.motifs.all()) == 1
    with pytest.raises(NotFound):
        store.motifs.get(first.id)
    assert store.motifs.restore(first.id).name == "Band"
    with pytest.raises(InvalidValue):
        store.motifs.keep(info.sha256, "   ", [], 10)


def test_pictures_that_motifs_and_corrections_use_survive_the_purge(tmp_path: Path) -> None:
    store = Store(tmp_path / "data")
    kept = {
        name: store.add_picture(png(ramp(10, 20 + index)), f"{name}.png")
        for index, name in enumerate(("motif", "overlay", "base", "gone"))
    }
    store.motifs.keep(kept["motif"].sha256, "Motif", [], 10)
    overlay = {"kind": "overlay", "sha256": kept["overlay"].sha256, "centre": [1, 1], "wide": 5}
    recipe = load_recipe({"picture": {"sha256": kept["base"].sha256, "corrections": [overlay]}})
    store.create_piece(kept["base"], "Base", recipe)
    old = store.create_piece(kept["gone"], "Gone")
    with store._sessions.begin() as session:
        session.get_one(PieceRow, old.id).deleted = now() - timedelta(days=40)
    store.close()
    again = Store(tmp_path / "data")
    for name in ("motif", "overlay", "base"):
        assert again.load_picture(kept[name].sha256).rows == 10
    with pytest.raises(NotFound):
        again.picture_info(kept["gone"].sha256)
    again.close()


def test_a_data_folder_from_before_motifs_opens(store: Store, tmp_path: Path) -> None:
    piece = store.create_piece(store.add_picture(png(ramp()), "ramp.png"), "Old piece")
    store.close()
    old = tmp_path / "old"
    shutil.copytree(store.folder, old)
    # Back to the first tables, and a recipe as it was written then.
    config = Config()
    config.set_main_option(
        "script_location", str(Path(nebrel.store.__file__).parent / "migrations")
    )
    with create_engine(f"sqlite:///{old / 'nebrel.db'}").begin() as connection:
        config.attributes["connection"] = connection
        command.downgrade(config, "0001")
    with sqlite3.connect(old / "nebrel.db") as database:
        tables = {row[0] for row in database.execute("select name from sqlite_master")}
        assert "motif" not in tables
        database.execute(
            "update revision set recipe = json_remove(recipe, '$.begins.art.picture.corrections')"
        )
    opened = Store(old)
    found = opened.piece(piece.id)
    assert (found.name, found.recipe.relief.art.pictured.corrections) == ("Old piece", [])
    assert opened.motifs.all() == []
    opened.motifs.keep(found.picture.sha256, "First", [], 5)
    opened.close()
    assert MotifRow.__tablename__ == "motif"
