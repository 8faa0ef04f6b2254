"""Links: keys that hold all that matters and nothing else, and what is kept of them."""

import threading
from concurrent.futures import ThreadPoolExecutor
from copy import deepcopy
from dataclasses import dataclass
from typing import Any

import numpy as np
import pytest

from nebrel.core.data import Picture
from nebrel.core.errors import Cancelled, InvalidValue, NotFound
from nebrel.core.links import picture
from nebrel.core.links.link import RUN, TELL, Family, Link, Noted, file, plain
from nebrel.core.links.relief import FULL, heights, shape
from nebrel.core.links.runner import Runner
from nebrel.core.links.weigh import Ledger
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.recipe.length import Length
from nebrel.core.recipe.models import load_recipe
from tests.pictures import ramp


def runner(most_bytes: int = 10**9, **files: Any) -> Runner:
    return Runner(lambda _, name: files[name], most_bytes)


def add(*numbers: float) -> float:
    return sum(numbers)


def grow(count: int) -> np.ndarray:
    return np.zeros(count, np.uint8)


def halved(array: np.ndarray) -> np.ndarray:
    return array[::2]


def refuse(*_: Any) -> float:
    raise InvalidValue("number", "it is odd", "Take another")


def doubted(number: float) -> Noted[float]:
    return Noted(number, (InvalidValue("number", "it is small", "Take more"),))


def link(make: Any, *given: Any, **more: Any) -> Link[Any]:
    return Link(make, given, getattr(make, "__name__", "work"), **more)


def test_what_is_given_is_the_key_and_the_words_of_a_length_are_not() -> None:
    assert link(add, 1, 2).key == link(add, 1, 2).key
    keys = {link(add, 1, 2).key, link(add, 2, 1).key, link(refuse, 1, 2).key, link(add, 1).key}
    assert len(keys) == 4
    assert link(add, Length(mm=2)).key == link(add, Length(mm=2, text="2 mm")).key
    assert link(add, link(add, 1)).key != link(add, link(add, 2)).key
    assert link(add, (link(add, 1),)).key != link(add, link(add, 1)).key
    assert link(add, 1).key != link(add, 1, refused="nothing").key


@pytest.mark.parametrize("odd", [np.zeros(2), object(), {1, 2}, b"x", 1j])
def test_what_is_no_setting_cannot_slip_into_a_key(odd: object) -> None:
    with pytest.raises(TypeError):
        plain(odd)


def test_only_what_is_missing_is_made() -> None:
    makes = runner()
    first = link(add, 1, 2)
    assert makes.run(link(add, first, first))[0].value == 6
    assert makes.run(link(add, first, 10))[0].value == 13
    assert makes.computed["add"] == 3


def test_files_come_by_their_content_and_are_asked_for_again_when_they_were_missing() -> None:
    files: dict[str, float] = {}

    def load(_: str, name: str) -> float:
        if name not in files:
            raise NotFound("picture", "it is gone", "Bring it again")
        return files[name]

    makes = Runner(load)
    wanted = link(add, file("picture", "a"), 1)
    with pytest.raises(NotFound):
        makes.run(wanted)
    files["a"] = 4
    assert makes.run(wanted)[0].value == 5


def test_a_refusal_is_kept_and_refused_again() -> None:
    makes, asked = runner(), []

    def odd() -> float:
        asked.append(1)
        raise InvalidValue("number", "it is odd", "Take another")

    for _ in range(3):
        with pytest.raises(InvalidValue, match="odd") as caught:
            makes.run(link(add, link(odd), 1))
        assert caught.value.__traceback__ is not None
    assert len(asked) == 1


def test_a_refused_step_is_noted_and_what_was_before_it_goes_on() -> None:
    makes = runner()
    one = link(doubted, 5)
    two = link(refuse, one, refused="as before")
    three = link(refuse, 3, refused="nothing")
    found = makes.run(link(lambda a, b: (a, b), two, three))[0]
    assert found.value == (5, None)
    assert [(note.key, note.refused) for note in found.notes] == [
        (one.key, False),
        (two.key, True),
        (three.key, True),
    ]
    # What is kept says the same.
    assert makes.run(two)[0].notes == found.notes[:2]


def test_what_many_ask_for_at_once_is_made_once() -> None:
    makes, asked, go = runner(), [], threading.Event()

    def slow() -> float:
        asked.append(1)
        go.wait(10)
        return 7

    with ThreadPoolExecutor(4) as threads:
        found = [threads.submit(makes.run, link(add, link(slow), n)) for n in range(4)]
        go.set()
        assert sorted(one.result()[0].value for one in found) == [7, 8, 9, 10]
    assert len(asked) == 1


def test_what_was_called_off_falls_to_the_next_who_waits() -> None:
    makes, begun, stop = runner(), threading.Event(), threading.Event()

    def slow(tell: Any) -> float:
        begun.set()
        stop.wait(10)
        tell()
        return 7

    def off(_done: float, _words: str) -> None:
        if stop.is_set():
            raise Cancelled("work", "it was called off", "Start it again")

    with ThreadPoolExecutor(2) as threads:
        first = threads.submit(makes.run, link(slow, TELL), tell=off)
        assert begun.wait(10)
        second = threads.submit(makes.run, link(slow, TELL))
        stop.set()
        with pytest.raises(Cancelled):
            first.result()
        assert second.result()[0].value == 7


def test_progress_is_the_share_of_what_is_really_missing() -> None:
    makes, told = runner(), []
    half = Link(add, (1, 1), "half", 5)
    whole = Link(add, (half, 1), "whole", 15)
    makes.run(half)
    makes.run(whole, tell=lambda done, words: told.append((done, words)))
    assert told == [(0, "whole")]
    fresh = runner()
    fresh.run(whole, tell=lambda done, words: told.append((done, words)))
    assert told[1:] == [(0, "half"), (0.25, "whole")]


def test_links_found_on_the_way_are_made_and_kept_like_others() -> None:
    makes = runner()

    def of(number: float) -> Link[float]:
        return link(add, number, 1)

    def search(family: Any, run: Any) -> float:
        return max(run(family(n)) for n in range(3))

    assert makes.run(link(search, Family(of, 0.0), RUN))[0].value == 3
    assert makes.computed["add"] == 3
    assert link(search, Family(of, 0.0), RUN).key != link(search, Family(of, 1.0), RUN).key


@dataclass(frozen=True)
class Two:
    one: np.ndarray
    other: np.ndarray


def test_a_shared_array_is_counted_once_and_let_go_with_its_last_holder() -> None:
    ledger, array = Ledger(), np.zeros(1000, np.uint8)
    ledger.enter("a", array)
    alone = ledger.weight
    ledger.enter("b", Two(array[::2], array))
    assert ledger.weight - alone < 1000
    ledger.strike("a")
    assert ledger.weight >= 1000
    ledger.strike("b")
    assert ledger.weight == 0


def test_what_is_kept_is_bounded_by_its_true_weight() -> None:
    makes = runner(100_000)
    for count in range(20_000, 20_100):
        makes.run(link(halved, link(grow, count)))
        assert makes.weight <= 100_000
    makes.run(link(grow, 500_000))  # larger than all that may be kept: alone it stays
    assert makes.weight > 100_000
    makes.run(link(add, 1))
    assert makes.weight < 100_000


def test_a_key_of_long_strokes_is_worked_out_once_and_still_tells_them_apart() -> None:
    def kept(x: float) -> Any:
        stroke = {"points": [[float(n), x] for n in range(3000)], "wide": 4}
        document = deepcopy(CRATERS)
        brush = {"kind": "brush", "strokes": [stroke], "tone": 0.5}
        document["begins"]["art"]["picture"]["corrections"] = [brush]
        step = load_recipe(document).relief.art.picture
        assert step is not None
        return step

    one, other = kept(1.0), kept(2.0)
    assert picture.steps(one, None)[-1] is picture.steps(one, None)[-1]
    assert picture.steps(one, None)[-1].key == picture.steps(kept(1.0), None)[-1].key
    assert picture.steps(one, None)[-1].key != picture.steps(other, None)[-1].key


CRATERS: dict[str, Any] = {
    "begins": {
        "art": {
            "picture": {
                "file": {"sha256": "0" * 64},
                "side": 40,
                "corrections": [{"kind": "levels", "id": "l"}, {"kind": "smooth", "id": "s"}],
            },
            "build_up": [
                {"kind": "picture", "id": "p"},
                {"kind": "frame", "id": "f"},
                {"kind": "outline", "id": "o"},
                {"kind": "text", "id": "t", "text": "Hill", "height": 5},
            ],
        },
        "form": {"kind": "arc"},
        "fittings": [{"kind": "eyelet", "id": "e"}],
    },
}

# What is changed, and which of tones, plain heights, build-up and solid that concerns.
CHANGES: list[tuple[tuple[Any, ...], Any, str]] = [
    (("picture", "file", "sha256"), "1" * 64, "tones plain built solid"),
    (("picture", "file", "filename"), "other.png", ""),
    (("picture", "side"), 41, "tones plain built solid"),
    (("picture", "corrections", 0, "black"), 0.2, "tones plain built solid"),
    (("picture", "corrections", 0, "id"), "other", ""),
    (("picture", "corrections", 0, "name"), "other", ""),
    (("picture", "corrections", 0, "enabled"), False, "tones plain built solid"),
    (("build_up", 0, "depth"), 4, "plain built solid"),
    (("build_up", 0, "depth"), "3 mm", ""),
    (("build_up", 0, "mapping"), "light", "plain built solid"),
    (("build_up", 0, "rule"), "highest", "built solid"),
    (("build_up", 2, "x"), 3, "built solid"),
    (("build_up", 2, "name"), "Plate", ""),
    (("build_up", 2, "id"), "plate", ""),
    (("backing",), 2, "plain built solid"),
    (("islands",), "drop", "solid"),
    (("mirror",), True, "solid"),
    (("negative",), True, "solid"),
]


@pytest.mark.parametrize(("place", "value", "concerns"), CHANGES)
def test_a_changed_setting_changes_the_keys_of_what_it_concerns_and_no_other(
    place: tuple[Any, ...], value: Any, concerns: str
) -> None:
    changed = deepcopy(CRATERS)
    inner = changed["begins"]["art"]
    for part in place[:-1]:
        inner = inner[part]
    inner[place[-1]] = value

    def keys(document: dict[str, Any]) -> dict[str, str]:
        recipe = load_recipe(deepcopy(document))
        raised = heights(recipe, FULL)
        assert raised.tones is not None
        return {
            "tones": raised.tones.key,
            "plain": raised.plain.key,
            "built": raised.built.key,
            "solid": shape(recipe, FULL).key,
        }

    before, after = keys(CRATERS), keys(changed)
    assert " ".join(name for name in before if before[name] != after[name]) == concerns


def test_moving_the_last_entry_joins_no_other_anew() -> None:
    evaluator = Evaluator(lambda _: Picture(ramp(60, 81)))
    moved = deepcopy(CRATERS)
    moved["begins"]["art"]["build_up"][3]["x"] = 2
    evaluator.evaluate(load_recipe(deepcopy(CRATERS)))
    before = evaluator.computed.copy()
    found = evaluator.evaluate(load_recipe(moved))
    again = evaluator.computed - before
    assert again["joining the build-up"] == 1
    assert "raising the picture" not in again
    fresh = Evaluator(lambda _: Picture(ramp(60, 81))).evaluate(load_recipe(moved))
    assert np.array_equal(found.mesh.vertices, fresh.mesh.vertices)
    assert np.array_equal(found.mesh.faces, fresh.mesh.faces)


@pytest.mark.parametrize("turned", ["mirror", "negative"])
@pytest.mark.parametrize("form", ["panel", "arc", "tube", "globe", "dome"])
@pytest.mark.parametrize("entries", [0, 2])
def test_what_is_turned_keeps_what_was_raised(turned: str, form: str, entries: int) -> None:
    document = deepcopy(CRATERS)
    begins = document["begins"]
    begins["form"] = {"kind": form} | ({"opening": 3} if form == "globe" else {})
    begins["fittings"] = []
    begins["art"]["build_up"] = begins["art"]["build_up"][: 1 + entries]
    evaluator = Evaluator(lambda _: Picture(ramp(60, 81)))
    plain_one = evaluator.evaluate(load_recipe(deepcopy(document)))
    before = evaluator.computed.copy()
    begins["art"][turned] = True
    found = evaluator.evaluate(load_recipe(document))
    assert "raising the picture" not in evaluator.computed - before
    assert found.report.manifold
    if turned == "mirror":
        assert found.report.volume_mm3 == pytest.approx(plain_one.report.volume_mm3, rel=1e-3)


def test_an_art_without_a_picture_is_made_of_its_entries() -> None:
    disc = {"kind": "outline", "outline": {"kind": "ellipse", "wide": 20, "tall": 20}, "height": 3}
    art = {"extent": {"wide": 60, "tall": 40}, "backing": 2, "build_up": [disc]}
    recipe = load_recipe({"begins": {"art": art}})
    evaluator = Evaluator(lambda _: pytest.fail("there is no picture to read"))
    for quality in ("draft", "full"):
        found = evaluator.evaluate(recipe, quality)  # type: ignore[arg-type]
        assert found.report.size_mm == pytest.approx((60, 40, 5), abs=0.01)
        flat = 60 * 40 * 2 + np.pi * 100 * 3
        assert found.report.volume_mm3 == pytest.approx(flat, rel=2e-3)
        assert found.range_mm == pytest.approx((2, 5))
    with pytest.raises(NotFound, match="without one"):
        evaluator.correct(recipe)


def test_a_second_picture_that_was_missing_counts_as_soon_as_it_is_there() -> None:
    shelf = {"0" * 64: Picture(ramp(60, 81))}

    def load(sha256: str) -> Picture:
        if sha256 not in shelf:
            raise NotFound("picture", "it is gone", "Bring it again")
        return shelf[sha256]

    document = deepcopy(CRATERS)
    over = {"kind": "overlay", "sha256": "2" * 64, "centre": [40, 30], "wide": 40}
    document["begins"]["art"]["picture"]["corrections"].append(over)
    recipe, evaluator = load_recipe(document), Evaluator(load)
    without = evaluator.correct(recipe)
    assert [failure.index for failure in without.failures] == [2]
    shelf["2" * 64] = Picture(np.ones((9, 9), np.float32), np.ones((9, 9), np.float32))
    found = evaluator.correct(recipe)
    assert found.failures == ()
    assert not np.array_equal(found.work.pixels, without.work.pixels)
