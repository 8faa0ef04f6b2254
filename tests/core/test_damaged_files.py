"""A short run of the fuzzing in tests/fuzz.py."""

import pytest

from tests.fuzz import READERS, fuzz


@pytest.mark.parametrize("kind", READERS)
def test_damaged_files_are_read_or_refused_in_our_own_words(kind: str) -> None:
    ends, wrong = fuzz(kind, 40, seed=11)
    assert wrong == []
    assert sum(ends.values()) >= 80
