"""A piece's state tells windows whether it has become another."""

import pytest

from nebrel.core.errors import Conflict, NotFound
from nebrel.store import Store
from tests.store.test_store import a_piece, with_depth


def test_the_state_is_another_after_each_change_and_the_same_otherwise(store: Store) -> None:
    piece = a_piece(store)
    states = [piece.state]
    assert store.state(piece.id) == (piece.state, piece.name)
    changed = store.change(piece.id, with_depth(piece, 4), state=piece.state)
    states.append(changed.state)
    assert store.state(piece.id)[0] == store.piece(piece.id).state == changed.state
    assert store.undo(piece.id).state == states[0]
    # The same number of revisions, another recipe.
    other = store.change(piece.id, with_depth(piece, 5))
    assert (other.revision, other.state in states) == (changed.revision, False)
    store.delete(piece.id)
    with pytest.raises(NotFound):
        store.state(piece.id)


def test_a_change_undo_or_redo_of_another_state_is_a_conflict(store: Store) -> None:
    piece = a_piece(store)
    store.change(piece.id, with_depth(piece, 4))
    store.undo(piece.id)
    there = store.change(piece.id, with_depth(piece, 5))
    for step in (store.undo, store.redo):
        with pytest.raises(Conflict):
            step(piece.id, piece.state)
    with pytest.raises(Conflict):
        store.change(piece.id, with_depth(piece, 6), state=piece.state)
    assert store.piece(piece.id) == there
    # What is there already is no conflict: an answer may have been lost on its way.
    assert store.change(piece.id, with_depth(piece, 5), state=piece.state) == there


def test_an_amended_revision_stays_one_step(store: Store) -> None:
    piece = a_piece(store)
    for depth in (4, 5, 6):
        piece = store.change(
            piece.id, with_depth(piece, depth), "text", state=piece.state, amend=depth > 4
        )
    assert (piece.revision, piece.undo, piece.redo) == (2, "text", None)
    assert store.undo(piece.id).recipe.relief.art.depth_mm == 3
    # The first revision is what was brought, and stays.
    first = store.change(piece.id, with_depth(piece, 9), amend=True)
    assert first.revision == 2
